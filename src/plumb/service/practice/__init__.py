"""Practice: engines with hidden faults, worked on real sheets in a world of their own, and marked."""
