"""Runs: a section along a line, cut into pieces."""
