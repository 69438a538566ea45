"""A run in a job: its section as it is placed on its line, and the side that it faces."""
