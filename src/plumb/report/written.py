"""One way of writing dates and distances on paper.

>>> day("2026-05-12T09:05:00+02:00"), moment("2026-05-12T09:05:00+02:00")
('12 May 2026', '12 May 2026, 09:05')
>>> distance(Decimal("16093.44"), "mi")
'10\u2009000 mi'
"""

from datetime import datetime
from decimal import Decimal

from plumb.core.measure.quantities import KM_PER_MILE


def day(text: str) -> str:
    """A day, or the day of a moment, from its ISO 8601 form; empty for none."""
    return f"{datetime.fromisoformat(text):%-d %b %Y}" if text else ""


def moment(text: str) -> str:
    """A moment to the minute, from its ISO 8601 form; empty for none."""
    return f"{datetime.fromisoformat(text):%-d %b %Y, %H:%M}" if text else ""


def distance(km: Decimal, unit: str) -> str:
    """A distance in the vehicle's unit, km or mi, or the engine's hours."""
    shown = float(km) if unit != "mi" else float(km) / float(KM_PER_MILE)
    return f"{shown:,.0f} {unit}".replace(",", "\u2009")
