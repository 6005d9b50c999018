"""Practice: engines with hidden faults, what may be said of them, and how that is marked."""
