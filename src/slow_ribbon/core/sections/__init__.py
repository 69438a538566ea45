"""Sections: outlines, their sizes and measures, and the starting library."""
