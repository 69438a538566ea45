"""Outlines made of others: joined, offset, resized, carried to another slope."""
