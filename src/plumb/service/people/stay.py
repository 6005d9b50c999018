"""How long somebody stays signed in; apart, so that what only reads settings loads nothing of the people."""

from dataclasses import dataclass
from datetime import timedelta


@dataclass(frozen=True, slots=True, kw_only=True)
class Stay:
    """How long somebody stays signed in: idle, and in all."""

    idle: timedelta
    longest: timedelta
