"""What follows from other things of a job, made again after an edit."""
