"""The command line of Percorso."""

import os

# Before NumPy comes: for networks this small a second thread in linear algebra costs more than it brings.
for _library in ("OPENBLAS_NUM_THREADS", "OMP_NUM_THREADS", "MKL_NUM_THREADS"):
    os.environ.setdefault(_library, "1")
