"""A job as it is written: its things, their kinds, names and versions."""
