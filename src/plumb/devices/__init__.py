"""Instruments on the network or a serial line: addresses, what is asked of them, what they answer."""
