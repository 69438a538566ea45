"""Slow Ribbon: sections run along lines, with their corners, pieces, items and cutting list."""

__version__ = "0.1.0"
