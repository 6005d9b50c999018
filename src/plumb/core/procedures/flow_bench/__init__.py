"""Volumes on the flow bench."""
