"""What follows from other things of a job, made anew after an edit."""
