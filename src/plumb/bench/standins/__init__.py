"""Stand-ins: the instruments of a virtual engine, each speaking SCPI on a port of its own."""
