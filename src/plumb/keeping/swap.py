"""Data that was brought back is put in its place, also where a power cut came between; apart, for every start looks here."""

import shutil
from datetime import UTC, datetime
from pathlib import Path
from typing import Final

from plumb.store.server import Place

MAKING: Final = "restoring"
WHOLE: Final = "restoring.whole"
"""Stands there while restored data is moved into its place, so that a power cut loses nothing."""


def aside(place: Place) -> Path | None:
    """Put what is in a place aside; where it lies now, None where there was nothing."""
    if not place.data.exists():
        return None
    stamp = datetime.now(UTC).strftime("%Y%m%dT%H%M%S.%fZ")
    before = place.home / f"data.before-{stamp}"
    place.data.rename(before)
    return before


def settle(place: Place) -> None:
    """Go on with a restore that was cut off after all of it was there."""
    if not (place.home / WHOLE).exists():
        return
    ready = place.home / MAKING / "data"
    if ready.exists():
        if place.data.exists():
            aside(place)
        ready.rename(place.data)
    (place.home / WHOLE).unlink()
    shutil.rmtree(place.home / MAKING, ignore_errors=True)
