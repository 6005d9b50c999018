"""The walk-round: what can be seen before any gauge is fitted."""
