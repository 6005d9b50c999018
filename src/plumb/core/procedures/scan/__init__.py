"""What the engine's own controller knows: fuel trims by bank, and misfires counted by cylinder."""
