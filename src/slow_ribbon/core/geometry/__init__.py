"""Curves, frames along them, edges and their joining: plane and space, without any document."""
