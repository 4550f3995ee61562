"""Ychronos: the chart is the recording, folded."""

import os

__version__ = "0.1.0"

# Before NumPy comes in: its products of matrices are small here. A second thread makes nothing sooner, and takes a quarter more of the
# processor, which the window, the sound and the process beside it want. Who knows better sets the variable.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
