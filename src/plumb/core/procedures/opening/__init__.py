"""Opening pressure of mechanical nozzles, and their shims."""
