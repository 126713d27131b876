"""Keen Coil: prove the path to a failed fan motor, match its replacement, prove the run."""

import os

from .own_tables import take_own_tables

__version__ = "0.1.0"

# The matrices of the core are small: a second thread of the linear algebra library never pays, and spins between them,
# at the cost of whoever waits for a page. It is read when numpy is first imported.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

take_own_tables()
