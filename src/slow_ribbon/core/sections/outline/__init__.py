"""Outlines: edges, what is worked out of them, and whether they enclose anything."""
