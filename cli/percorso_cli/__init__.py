"""Percorso on the command line: thin, over the core only."""
