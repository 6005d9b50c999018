"""What went on over time as a drawing: a rail that was followed, a pressure that was held; all in millimetres.

>>> drawn = curves([Curve(name="actual", points=((0.0, 300.0), (10.0, 340.0)))], "bar")
>>> drawn.low, drawn.high, drawn.end, drawn.lines[0].path
('300', '340', '10 s', 'M14 38L112 2')
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import groupby
from typing import Final

from plumb.core.measure.quantities import rounded
from plumb.report.charts import LEFT, WIDE

HIGH: Final = 40.0
_EDGE: Final = 2.0
_MOST: Final = 240
"""So many pieces of time are told apart on paper; of each the lowest and the highest are drawn."""
_A_MINUTE: Final = 180.0
"""From so many seconds on time is told in minutes."""

Points = Sequence[tuple[float, float]]


@dataclass(frozen=True, slots=True, kw_only=True)
class Curve:
    """One line over time: what it is, its moments (s, figure); ``back`` stays in the background."""

    name: str
    points: Points
    back: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Recorded:
    """A channel of a trace as it was kept: the lowest and the highest of equal runs of time, s."""

    name: str
    unit: str
    from_s: float
    to_s: float
    low: Sequence[float]
    high: Sequence[float]

    def curve(self, factor: float = 1.0) -> Curve:
        """Its line from where it begins, as wide as it swung, each figure ``factor`` times as large."""
        runs = list(zip(self.low, self.high, strict=True))
        each = (self.to_s - self.from_s) / max(1, len(runs))
        points = [
            (each * n, factor * v) for n, pair in enumerate(runs) for v in dict.fromkeys(pair)
        ]
        return Curve(name=self.name, points=points)


@dataclass(frozen=True, slots=True, kw_only=True)
class DrawnCurve:
    """A line on the paper."""

    name: str
    path: str
    back: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Curves:
    """All lines of a sheet on common axes, which are told by their ends."""

    width: float
    height: float
    left: float
    low: str
    high: str
    end: str
    unit: str
    lines: tuple[DrawnCurve, ...]


def curves(lines: Sequence[Curve], unit: str) -> Curves | None:
    """The drawing; None where nothing went on."""
    lines = [line for line in lines if len(line.points) > 1]
    if not lines:
        return None
    times = [t for line in lines for t, _ in line.points]
    figures = [v for line in lines for _, v in line.points]
    low, high, end = min(figures), max(figures), max(times)
    span = high - low or 1.0

    def place(t: float, v: float) -> str:
        x = LEFT + (WIDE - LEFT) * t / (end or 1.0)
        y = HIGH - _EDGE - (HIGH - 2.0 * _EDGE) * (v - low) / span
        return f"{x:.4g} {y:.4g}"

    return Curves(
        width=WIDE, height=HIGH, left=LEFT, low=rounded(low, 0), high=rounded(high, 0), unit=unit,
        end=f"{rounded(end / 60.0, 1)} min" if end >= _A_MINUTE else f"{rounded(end, 0)} s",
        lines=tuple(
            DrawnCurve(
                name=line.name, back=line.back,
                path="M" + "L".join(place(t, v) for t, v in _fewer(line.points, end)),
            )
            for line in lines
        ),
    )  # fmt: skip


def _fewer(points: Points, end: float) -> Iterator[tuple[float, float]]:
    """No more moments than paper shows; a swing stays as wide as it was."""
    if len(points) <= 2 * _MOST:
        yield from points
        return
    for _, some in groupby(points, key=lambda p: int(_MOST * p[0] / (end or 1.0))):
        mine = list(some)
        yield from sorted({min(mine, key=lambda p: p[1]), max(mine, key=lambda p: p[1])})
