"""Drawings in SVG."""
