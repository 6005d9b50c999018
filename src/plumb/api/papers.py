"""The files that a server shows on the network."""

from dataclasses import dataclass
from pathlib import Path
from typing import Final

THIS_MACHINE: Final = frozenset({"localhost", "127.0.0.1", "[::1]"})
"""Names that lead every machine to itself."""


@dataclass(frozen=True, slots=True)
class Papers:
    """Where certificate and key of the server lie, and the names that they are for.

    ``authority`` is the shop's own that vouches for them, None for a certificate that was given.
    """

    certificate: Path
    key: Path
    authority: Path | None = None
    fingerprint: str = ""
    names: tuple[str, ...] = ()

    def reach(self) -> str:
        """The name that a tablet finds the server by: an address on any network, else a name."""
        away = [n for n in self.names if n not in THIS_MACHINE]
        return next((n for n in away if n[0].isdigit()), (away or list(self.names) or [""])[0])
