"""Readers and writers of open formats, one module each."""
