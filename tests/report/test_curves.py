"""Traces on paper: where a line lies, what of many samples stays, and a hold over the one before."""

import re

import pytest
from tests.core.job_files import file_of, hold

from plumb.jobfile.to_core import finished
from plumb.report.charts import WIDE
from plumb.report.curves import HIGH, Curve, Recorded, curves
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
    pages = {p.key: p for p in sheet_pages(file, finished(file).now, {})}
    drawn = pages["s2"].curves
    assert drawn is not None
    assert [(line.name, line.back) for line in drawn.lines] == [("before", True), ("read", False)]
    other = file_of(
        "port", 4, "long crank", before, hold({0: 3.4, 60: 3.3}, unit="bar") | {"after": "s1"}
    )
    (_, page) = sheet_pages(other, finished(other).now, {})
    assert page.curves is not None
    assert [line.name for line in page.curves.lines] == ["read"]


def test_a_trace_that_was_kept_is_drawn_as_wide_as_it_swung() -> None:
    """Runs of five seconds from its own beginning: 3 to 5 A, then still at 4 A; channels of another unit are left out."""
    current = Recorded(
        name="current", unit="A", from_s=100.0, to_s=110.0, low=(3.0, 4.0), high=(5.0, 4.0)
    )
    assert current.curve().points == [(0.0, 3.0), (0.0, 5.0), (5.0, 4.0)]
    file = file_of(
        "mechanical_diesel", 4, "rough idle",
        {"kind": "cranking_balance", "unit": "percent", "gauge": {"step": 1},
         "readings": [{"cylinder": n, "value": 100} for n in range(1, 5)]},
    )  # fmt: skip
    sync = Recorded(name="sync", unit="V", from_s=0.0, to_s=9.0, low=(0.0, 0.0), high=(5.0, 5.0))
    (page,) = sheet_pages(file, finished(file).now, {"s1": (current, sync)})
    assert page.curves is not None
    assert [(line.name, page.curves.unit) for line in page.curves.lines] == [("current", "A")]
    assert (page.curves.low, page.curves.high) == ("3", "5")
    (bare,) = sheet_pages(file, finished(file).now, {})
    assert bare.curves is None
