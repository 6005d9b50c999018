"""The scan: patterns of trims, and whose cylinder misfires."""

import pytest

from plumb.core.measure.decision import State
from plumb.core.procedures import BY_CODE
from plumb.core.procedures.scan.analysis import ScanSheet, Trim, analyse_scan
from plumb.core.weigh.words_diagnosis import lines
from tests.core.jobs import scan, supply, walk
from tests.core.test_diagnosis import job, share


@pytest.mark.parametrize(
    ("idle", "raised", "pattern"),
    [
        (9.9, -9.9, "good"),
        (10.0, 0.0, "good"),
        (10.1, 5.0, "lean_at_idle"),
        (14.0, 7.1, "lean"),
        (4.0, 16.0, "lean_with_load"),
        (8.5, 16.0, "lean"),
        (-14.0, -3.0, "rich_at_idle"),
        (-14.0, -7.1, "rich"),
        (-2.0, -12.0, "rich"),
        (12.0, None, "lean"),
        (None, -12.0, "rich"),
        (None, None, ""),
    ],
)
def test_what_trims_say(idle: float | None, raised: float | None, pattern: str) -> None:
    """Common practice, no source: beyond a tenth; better at speed is half of it or less."""
    found = analyse_scan(scan("", idle, raised))
    assert found.pattern == pattern
    assert found.passed == (pattern == "good")


def test_the_long_trim_counts_and_the_short_one_only_where_there_is_none() -> None:
    """A short trim swings; it is told, and judged only in place of a missing long one."""
    both = ScanSheet(
        trims=(Trim(state="idle", short=18.0, long=2.0),),
        rows=(("idle, short", ("", "idle", "short")),),
    )
    assert analyse_scan(both).pattern == "good"
    assert analyse_scan(both).findings[0].state is State.IN_PLUMB
    alone = ScanSheet(trims=(Trim(state="idle", short=18.0),))
    assert analyse_scan(alone).pattern == "lean"


def test_one_bank_only() -> None:
    """What is off on one bank alone is what that bank shares; off on both it is not."""

    def of(b: float) -> ScanSheet:
        return ScanSheet(
            trims=(Trim(bank="A", state="idle", long=14.0), Trim(bank="B", state="idle", long=b))
        )

    assert analyse_scan(of(1.0)).one_bank == "A"
    assert analyse_scan(of(13.0)).one_bank == ""
    assert {f.code for f in BY_CODE["scan"].facts("q", analyse_scan(of(1.0)))} == {
        "trims_lean",
        "one_bank_off",
    }


@pytest.mark.parametrize(
    ("counts", "bad", "many"),
    [
        ("0 41 0 0", ["misfires 2"], False),
        ("0 4 0 0", [], False),
        # P(5 or more | 1) = 0.0037, P(6 or more | 1) = 0.0006: Poisson, by its series.
        ("0 5 0 0", [], False),
        ("0 6 0 0", ["misfires 2"], False),
        ("20 60 0 0", ["misfires 1", "misfires 2"], False),
        ("9 60 9 9", ["misfires 2"], False),
        ("30 38 44 29", [], True),
        ("30", ["misfires 1"], False),
    ],
)  # fmt: skip
def test_whose_cylinder_misfires(counts: str, bad: list[str], many: bool) -> None:  # noqa: FBT001
    """More than the others' middle count leaves to chance; where most do, it is none of them."""
    found = analyse_scan(scan(counts))
    assert list(found.counted) == bad
    assert found.many == many


def test_a_count_is_no_injectors() -> None:
    """It moves the cylinder's faults, and the verdict says nothing of the injector."""
    counted = job(walk("misfire"), supply(), scan("0 41 0 0"))
    assert share(counted, "ignition", "2") > 5 * share(counted, "ignition", "1")
    assert counted.verdicts[1][1].condition == counted.verdicts[0][1].condition
    assert any(x.code == "ignition" and x.labels == ("2",) for x in lines(counted))


def test_trims_tell_air_from_fuel() -> None:
    """Lean at idle and better at speed: air; lean and worse with load: the supply."""
    words = walk("rough_idle", "bogs")
    air = job(words, scan("", 15.0, 3.0))
    fuel = job(words, scan("", 4.0, 16.0))
    assert share(air, "air") > 5 * share(air, "supply")
    assert share(fuel, "supply") > 5 * share(fuel, "air")


def test_a_trim_at_the_limit_is_none_beyond_it() -> None:
    """Ten points to either side are still good; each trim says how far it lies from none."""
    found = analyse_scan(scan("", -10.0, 10.0))
    assert found.pattern == "good"
    assert [(f.state, f.deviation, f.passes) for f in found.findings] == [
        (State.IN_PLUMB, -10.0, 1), (State.IN_PLUMB, 10.0, 1),
    ]  # fmt: skip
    beyond = analyse_scan(scan("", -10.5, 10.5)).findings
    assert [f.state for f in beyond] == [State.LOW, State.HIGH]


def test_half_of_all_is_not_most() -> None:
    """Two of four that misfire often are those two; three of four are the engine."""
    assert not analyse_scan(scan("30 30 0 0")).many
    assert analyse_scan(scan("30 30 30 0")).many
    assert analyse_scan(scan("10 10 10 0")).many
    assert not analyse_scan(scan("9 9 9 0")).many
