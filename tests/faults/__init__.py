"""What goes wrong: kills, a full disk, a clock set back, servers that are cut off, nonsense that is sent."""
