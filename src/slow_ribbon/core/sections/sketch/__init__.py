"""Outlines drawn by hand, and the constraints that hold in them."""
