"""Jobs and their revisions in PostgreSQL."""
