"""Slow Ribbon: sections run along lines, with their corners, pieces, items and cutting list."""

import os

__version__ = "0.1.0"

# Read by numpy where it is loaded first: its matrices here are small, and threads that wait for one another over each cost more
# than they give, the more so while several people are served at once.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
