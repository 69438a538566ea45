"""The pieces of a run: cut, measured, filled, and compared."""
