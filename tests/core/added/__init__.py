"""Kinds that are added to a copy of the program in ``test_what_is_added``: each its own file, and its name in a registry."""
