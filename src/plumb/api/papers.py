"""The files that a server shows on the network."""

from dataclasses import dataclass
from pathlib import Path


@dataclass(frozen=True, slots=True)
class Papers:
    """Where certificate and key of the server lie, and what vouches for them; empty for a given one."""

    certificate: Path
    key: Path
    authority: Path | None = None
    fingerprint: str = ""
