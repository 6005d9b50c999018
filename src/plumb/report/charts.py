"""Plumb charts as drawings: a line that hangs true, a band, a bob for each row; all in millimetres.

>>> chart = plumb_chart([Hung(row="4", before=-2.6, after=0.1, words="put right")], half=3.0)
>>> chart.rows[0].after_x > chart.rows[0].before_x
True
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Final

from plumb.core.measure.uncertainty import reach

WIDE: Final = 112.0
ROW: Final = 7.5
LEFT: Final = 14.0
HALF: Final = 3.5
"""So many half-widths of the band a chart is wide to each side."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Hung:
    """A row: where its bob hung before and hangs after, in half-widths of its band; words beside it."""

    row: str
    before: float | None
    after: float | None
    words: str
    u: float | None = None
    settled: bool = True


@dataclass(frozen=True, slots=True, kw_only=True)
class DrawnRow:
    """A row with its places on the paper; ``off`` says that a bob hangs beyond the edge."""

    row: str
    words: str
    y: float
    before_x: float | None
    after_x: float | None
    known_from: float
    known_to: float
    settled: bool
    off: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Chart:
    """A whole chart: its size, the line, the band, the rows."""

    width: float
    height: float
    middle: float
    band_from: float
    band_wide: float
    rows: tuple[DrawnRow, ...]


def plumb_chart(rows: Sequence[Hung], half: float = HALF) -> Chart:
    """The chart of some rows; ``half`` is how many half-widths of the band there are on each side."""
    middle = LEFT + (WIDE - LEFT) / 2.0
    scale = (WIDE - LEFT) / 2.0 / half

    def x(at: float) -> float:
        return round(middle + scale * min(half, max(-half, at)), 2)

    drawn = []
    for n, one in enumerate(rows):
        u = reach(one.u or 0.0)
        at = one.after if one.after is not None else one.before
        drawn.append(
            DrawnRow(
                row=one.row, words=one.words, y=round(ROW * (n + 0.5), 2),
                before_x=None if one.before is None else x(one.before),
                after_x=None if one.after is None else x(one.after),
                known_from=x((at or 0.0) - u), known_to=x((at or 0.0) + u), settled=one.settled,
                off=any(v is not None and abs(v) > half for v in (one.before, one.after)),
            )
        )  # fmt: skip
    return Chart(
        width=WIDE, height=ROW * len(rows), middle=round(middle, 2),
        band_from=x(-1.0), band_wide=round(2.0 * scale, 2), rows=tuple(drawn),
    )  # fmt: skip
