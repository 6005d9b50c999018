"""What the service hands to the API: plain data, every figure ready to be drawn."""
