"""Edits: the only way a job changes."""
