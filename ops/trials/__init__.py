"""A Percorso that tests and measurements start, and somebody who asks it."""
