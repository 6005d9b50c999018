"""What this machine is called on its network."""

import socket

import psutil


def own_names() -> list[str]:
    """Its name, as it is and as a workshop's network finds it, and its addresses; the name first."""
    name = socket.gethostname().lower()
    names = [name, name if "." in name else f"{name}.local"]
    for cards in psutil.net_if_addrs().values():
        names += [
            card.address
            for card in cards
            if card.family == socket.AF_INET and not card.address.startswith("127.")
        ]
    return list(dict.fromkeys(names))
