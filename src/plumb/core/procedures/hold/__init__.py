"""The hold: pump off, pressure against time, and where it goes."""
