"""Figures, printed from data that is made here. As in a worker, matrices are worked on by one thread."""

import os

os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
