"""Moments as loggers write them: a time of day, a date with a time, or a date alone, in seconds.

>>> moment("12:30:05,5"), moment("2026-05-12 00:00:01") - moment("11.05.2026 23:59:59")
(45005.5, 2.0)
"""

import re
from contextlib import suppress
from datetime import UTC, datetime
from typing import Final

DAY_S: Final = 86_400.0
_TIME: Final = re.compile(r"(\d{1,2}):(\d{2})(?::(\d{2}(?:[.,]\d+)?))?\s*([AaPp][Mm])?")
_DATE: Final = re.compile(r"(\d{4})-(\d{1,2})-(\d{1,2})|(\d{1,2})[./-](\d{1,2})[./-](\d{4})")
_BETWEEN: Final = re.compile(r"[T\s]+")


def _of_day(text: str) -> float | None:
    """Seconds since midnight; None for what is no time of day."""
    match = _TIME.fullmatch(text)
    if match is None:
        return None
    hours, minutes = int(match[1]), int(match[2])
    seconds = float((match[3] or "0").replace(",", "."))
    if match[4]:
        hours = hours % 12 + 12 * (match[4].lower() == "pm")
    if hours > 24 or minutes > 59 or seconds >= 61.0:
        return None
    return 3600.0 * hours + 60.0 * minutes + seconds


def _dates(text: str) -> list[float]:
    """Seconds from 1970 to the day's beginning; the day stands before the month, or behind it."""
    match = _DATE.fullmatch(text)
    if match is None:
        return []
    if match[1]:
        year, orders = int(match[1]), [(int(match[2]), int(match[3]))]
    else:
        one, two = int(match[4]), int(match[5])
        year, orders = int(match[6]), [(two, one), (one, two)]
    made = []
    for month, day in orders:
        with suppress(ValueError):
            made.append(datetime(year, month, day, tzinfo=UTC).timestamp())
    return made


def moment(text: str, near: float | None = None) -> float | None:
    """Seconds of a moment: since midnight, or since 1970 where there is a date; None for none.

    Of a date that can be read in two ways the one nearer to ``near`` is taken.
    """
    cell = text.strip()
    if (time := _of_day(cell)) is not None:
        return time
    day, *rest = _BETWEEN.split(cell.removesuffix("Z"), maxsplit=1)
    since = _dates(day)
    time = _of_day(rest[0]) if rest else 0.0
    if not since or time is None:
        return None
    best = since[0] if near is None else min(since, key=lambda s: abs(s - near))
    return best + time


class Clock:
    """One column of moments, told in seconds since its first; past midnight it goes on."""

    def __init__(self) -> None:
        """Nothing read yet."""
        self._first: float | None = None
        self._last = 0.0
        self._days = 0.0

    def seconds(self, text: str) -> float | None:
        """Seconds since the first moment; None for what is none."""
        told = moment(text, None if self._first is None else self._last)
        if told is None:
            return None
        if self._first is None:
            self._first = told
        elif told < self._last - DAY_S / 2.0:
            self._days += DAY_S
        self._last = told
        return told + self._days - self._first
