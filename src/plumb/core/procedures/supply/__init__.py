"""Supply pressure: static, running, hose off."""
