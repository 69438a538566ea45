"""Lines drawn once that stand in several places."""
