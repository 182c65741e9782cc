"""The server: what browsers ask over HTTP, of jobs that live in the database."""
