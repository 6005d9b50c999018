"""Rail pressure, wanted against actual."""
