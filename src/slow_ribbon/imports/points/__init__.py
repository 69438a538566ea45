"""Points of surveys: lists of coordinates."""
