"""From a job to its pieces, items and checks."""
