"""Gwiazda: see a scale model lit before anything is glued."""

__version__ = "0.1.0"

import os as _os

# Sections are solved side by side, on threads of our own: a second set of threads within each product of matrices only
# gets into their way (twice as slow on two cores). It has to be said before NumPy is there.
_os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
