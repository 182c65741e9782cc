"""The rules of the job and all computation of Percorso, free of any interface."""
