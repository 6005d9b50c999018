"""Coils: by resistance, and under load."""
