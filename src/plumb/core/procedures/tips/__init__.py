"""Tips under pressure."""
