"""From a run of a job to its pieces and checks."""
