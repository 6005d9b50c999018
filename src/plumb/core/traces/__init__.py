"""From samples against time to figures: an even grid, humps of current, bursts of a log."""
