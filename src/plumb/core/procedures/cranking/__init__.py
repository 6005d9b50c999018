"""Cranking balance: humps of starter current."""
