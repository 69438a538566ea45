"""Outlines: edges, their properties, and whether they enclose anything."""
