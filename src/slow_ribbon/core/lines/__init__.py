"""Setting-out lines: their legs, the line resolved, and what can be done with them."""
