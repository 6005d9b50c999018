"""The files that a server shows on the network."""

from dataclasses import dataclass
from pathlib import Path


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
