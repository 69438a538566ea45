"""What the window is told of a job."""
