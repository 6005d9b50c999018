"""Plumb: which injector leans, what to do with it, and what could still imitate it."""

__version__ = "0.3.0"
