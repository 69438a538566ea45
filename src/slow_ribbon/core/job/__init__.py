"""The job document, its edits, and what follows from what in it."""
