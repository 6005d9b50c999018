"""The controller's fuel corrections."""
