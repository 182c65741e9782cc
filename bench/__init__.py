"""What Percorso is measured by: how quick it is, what it stands, and how far a trace may be believed."""
