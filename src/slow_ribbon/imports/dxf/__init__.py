"""Drawings in DXF."""
