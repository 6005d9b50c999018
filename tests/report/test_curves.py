"""Traces on paper: where a line lies, what of many samples stays, and a hold over the one before."""

import re

import pytest
from tests.core.job_files import file_of, hold

from plumb.jobfile.to_core import finished
from plumb.report.charts import WIDE
from plumb.report.curves import HIGH, Curve, curves
from plumb.report.sheets import sheet_pages


def places(path: str) -> list[tuple[float, float]]:
    """The places of a path, in mm."""
    return [(float(x), float(y)) for x, y in re.findall(r"[ML]([\d.]+) ([\d.]+)", path)]


def test_the_ends_of_the_axes_are_the_ends_of_the_figures() -> None:
    """Lowest at the foot, highest at the top, the last moment at the right edge; long times in minutes."""
    drawn = curves([Curve(name="read", points=((0.0, 50.0), (600.0, 45.0), (1200.0, 40.0)))], "psi")
    assert drawn is not None
    assert (drawn.low, drawn.high, drawn.end) == ("40", "50", "20.0 min")
    first, middle, last = places(drawn.lines[0].path)
    assert first[1] < middle[1] < last[1]
    assert middle[1] == pytest.approx(HIGH / 2)
    assert last[0] == WIDE


def test_a_swing_stays_as_wide_with_a_hundred_thousand_samples() -> None:
    """Of each piece the lowest and the highest; the paper stays small."""
    points = [(k / 1000.0, 300.0 + (50.0 if k % 2 else -50.0)) for k in range(100_000)]
    drawn = curves([Curve(name="actual", points=points)], "bar")
    assert drawn is not None
    made = places(drawn.lines[0].path)
    assert len(made) < 500
    assert max(y for _, y in made) - min(y for _, y in made) == pytest.approx(HIGH - 4.0)


def test_nothing_is_drawn_of_a_single_moment() -> None:
    """One point is no line, and a level line is one."""
    assert curves([Curve(name="read", points=((0.0, 50.0),))], "psi") is None
    assert curves([Curve(name="read", points=((0.0, 50.0), (5.0, 50.0)))], "psi") is not None


def test_a_hold_lies_over_the_one_before_the_repair() -> None:
    """The old one behind, in a broken line; only where both are in one unit."""
    before = hold({0: 50, 30: 30, 60: 12})
    after = hold({0: 50, 60: 49}) | {"after": "s1"}
    file = file_of("port", 4, "long crank", before, after)
    pages = {p.key: p for p in sheet_pages(file, finished(file).now)}
    drawn = pages["s2"].curves
    assert drawn is not None
    assert [(line.name, line.back) for line in drawn.lines] == [("before", True), ("read", False)]
    other = file_of(
        "port", 4, "long crank", before, hold({0: 3.4, 60: 3.3}, unit="bar") | {"after": "s1"}
    )
    (_, page) = sheet_pages(other, finished(other).now)
    assert page.curves is not None
    assert [line.name for line in page.curves.lines] == ["read"]
