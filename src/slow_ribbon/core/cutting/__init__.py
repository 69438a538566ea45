"""All that is made of a solved job for the workshop."""
