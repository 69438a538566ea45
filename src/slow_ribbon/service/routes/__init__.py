"""Routes: what can be asked of the service."""
