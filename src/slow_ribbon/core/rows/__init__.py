"""Rows: items set out along a line."""
