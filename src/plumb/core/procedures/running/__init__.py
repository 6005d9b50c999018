"""Balance while idling, on direct injection."""
