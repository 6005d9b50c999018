"""Whole jobs: what explains the complaint, what is done next, and that following it ends."""

from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from plumb.bench.engines.follow import follow, job_of
from plumb.bench.engines.gauges import Bench
from plumb.bench.engines.hidden import FAULTS, IMITATORS, SYSTEMS, draw
from plumb.core.causes.table import FAULTS as TABLE
from plumb.core.causes.table import faults_on
from plumb.core.diagnose.case import Case
from plumb.core.diagnose.moved import moved_by
from plumb.core.diagnose.sets import as_told
from plumb.core.measure.readings import Value
from plumb.core.measure.spoken import words_in
from plumb.core.measure.step import REPAIR
from plumb.core.procedures import KINDS, Sheet, route
from plumb.core.procedures.correction.analysis import CorrectionSheet
from plumb.core.procedures.hold.analysis import HoldSheet, Limits
from plumb.core.procedures.opening.analysis import OpeningSheet, Stroke
from plumb.core.procedures.rail.analysis import RailSheet
from plumb.core.procedures.returns.analysis import ReturnSheet
from plumb.core.weigh.job import Job, JobResult, analyse_job
from plumb.core.weigh.words_diagnosis import explanation, lines, remains
from tests.core.jobs import PSI, coils, command, drop, hold, labels, scan, supply, tips, walk
from tests.core.test_diesel import rail_trace


def job(
    *sheets: Sheet, words: Sequence[str] = (), system: str = "port", count: int = 4, **more: Any
) -> JobResult:
    """A job with these sheets, oldest first."""
    keyed = tuple((f"s{n}", s) for n, s in enumerate(sheets))
    return analyse_job(
        Job(
            injectors=labels(count), sheets=keyed, fuel_system=system, said=tuple(words),
            cylinders={x: int(x) for x in labels(count)}, **more,
        )
    )  # fmt: skip


def kind_of_next(result: JobResult) -> str:
    """The kind of sheet that comes next, empty at the end."""
    return result.next_step.kind if result.next_step else ""


def found(result: JobResult) -> set[tuple[str, str]]:
    """What was found, and where."""
    return {(c.fault.code, c.place) for c in result.diagnosis.found}


def share(result: JobResult, code: str, place: str = "") -> float:
    """The share of a fault, 0 where it is not worth a line."""
    return sum(c.share for c in result.diagnosis.causes if (c.fault.code, c.place) == (code, place))


EVEN = drop([26, 26.5, 26, 26])


def test_a_misfire_with_even_drops() -> None:
    """The command first: a tester of its own pulses past it.  Then the scan, and what remains outside."""
    before = job(walk("misfire"), supply(), EVEN, set_aside=frozenset({"scan"}))
    assert kind_of_next(before) == "command"
    assert before.diagnosis.explained == "open"
    dark = job(walk("misfire"), supply(), EVEN, command("blinks blinks dark blinks"))
    assert ("command", "3") in found(dark)
    assert dark.diagnosis.explained == "yes"
    quiet = [walk("misfire"), supply(), EVEN, command("blinks " * 4)]
    assert kind_of_next(job(*quiet)) == "scan"
    all_done = job(
        *quiet, scan("0 0 41 0"), coils([12.4] * 4), drop([26, 26.5, 26, 26], passes=3), tips("dry " * 4),
        hold([(0, 50), (60, 50), (300, 50), (600, 50), (1200, 50)]),
    )  # fmt: skip
    assert all_done.next_step is None
    assert all_done.diagnosis.explained == "no"
    assert all_done.diagnosis.outside[0] == "ignition"
    assert "compression" in all_done.diagnosis.outside
    text = "".join(s.text for s in explanation(all_done.diagnosis))
    assert text.startswith("Nothing that Plumb can measure explains the misfire")
    assert next(told for words, told in remains(all_done.diagnosis) if words == "ignition")
    # The count points at a cylinder, never at its injector.
    assert share(all_done, "ignition", "3") > 10 * share(all_done, "ignition", "1")
    assert {v.condition for _, v in all_done.verdicts} == {"sound"}


def returns(volumes: Sequence[float], state: str) -> ReturnSheet:
    """What came back while cranking or at idle, ml."""
    return ReturnSheet(
        injectors=labels(len(volumes)), step=1.0, state=state,
        duration_s=20.0 if state == "cranking" else 120.0,
        readings=tuple(
            Value(injector=x, number=1, value=v) for x, v in zip(labels(len(volumes)), volumes, strict=True)
        ),
    )  # fmt: skip


LOW_RAIL = RailSheet(read=(("cranking", 25_000.0, 14_000.0),), engine="cranking")
HIGH_HOLDS = HoldSheet(
    series=((0.0, 25_000.0), (10.0, 24_900.0), (60.0, 24_500.0)), step=100.0, rail="high",
    limits=Limits(left_at_least=10_000.0, after_s=60.0),
)  # fmt: skip


def test_a_common_rail_that_does_not_start() -> None:
    """Rail pressure while cranking, the hold, the returns while cranking; never the corrections."""
    sheets: list[Sheet] = [walk("no_start"), supply()]
    brought: dict[str, Sheet] = {
        "rail_pressure": LOW_RAIL, "hold": HIGH_HOLDS,
        "return_volume": returns([50.0, 8.0, 9.0, 8.0], "cranking"),
        "scan": scan("0 0 0 0", None, None),
        "cranking_balance": _even_humps(),
    }  # fmt: skip
    asked = []
    while kind_of_next(result := job(*sheets, system="common_rail")):
        asked.append(kind_of_next(result))
        assert all(s.kind != "correction" for s in result.alternatives)
        sheets.append(brought.pop(asked[-1]))
    assert asked[0] == "rail_pressure"
    assert {"return_volume"} <= set(asked)
    assert "correction" not in asked
    assert ("returns_too_much", "1") in found(result)
    # Explaining away: what the returns explain, the rail's own control need not.
    alone = job(walk("no_start"), supply(), LOW_RAIL, system="common_rail")
    assert share(result, "rail_control") < share(alone, "rail_control")


def _even_humps() -> Sheet:
    from plumb.core.procedures.cranking.analysis import CrankingSheet  # noqa: PLC0415

    return CrankingSheet(cylinders=tuple((x, 100.0) for x in labels(4)), step=1.0)


def corrections(values: Sequence[float]) -> CorrectionSheet:
    """Corrections in mm3."""
    return CorrectionSheet(
        injectors=labels(len(values)), step=0.1, unit="mm3",
        readings=tuple(
            Value(injector=x, number=1, value=v) for x, v in zip(labels(len(values)), values, strict=True)
        ),
    )  # fmt: skip


def test_a_long_crank_with_even_corrections() -> None:
    """All injectors sound is not the end: nobody has measured what they return."""
    sheets: list[Sheet] = [
        walk("long_crank"), supply(), corrections([0.1, -0.2, 0.1, 0.0]), rail_trace(),
    ]  # fmt: skip
    asked = []
    brought: dict[str, Sheet] = {
        "hold": HIGH_HOLDS, "return_volume": returns([12.0, 55.0, 12.0, 13.0], "idle"),
        "scan": scan("0 0 0 0", None, None), "cranking_balance": _even_humps(),
        "coil_resistance": coils([0.5] * 4),
    }  # fmt: skip
    while kind_of_next(result := job(*sheets, system="common_rail")):
        asked.append(kind_of_next(result))
        sheets.append(brought.pop(asked[-1]))
    assert "return_volume" in asked
    assert ("returns_too_much", "2") in found(result)
    assert result.diagnosis.explained == "yes"


def test_a_slow_tip_leak_inside_the_limit_of_the_hold() -> None:
    """The hold passes, and yet it loses a little: the tips are looked at, and the leak is found."""
    slow = hold([(0, 50), (10, 50), (60, 49), (300, 46), (600, 42.5), (1200, 37)],
                limits=Limits(lost_at_most=15 * PSI, within_s=1200.0))  # fmt: skip
    sheets: list[Sheet] = [walk("hard_start_hot", "long_crank"), supply(), EVEN, slow]
    assert "hold_small_leak" in {f.code for f in job(*sheets).facts}
    brought: dict[str, Sheet] = {
        "tip_leak": tips("dry weeps dry dry"), "scan": scan("0 0 0 0"), "command": command("blinks " * 4),
        "coil_resistance": coils([12.4] * 4),
    }  # fmt: skip
    while kind_of_next(result := job(*sheets)):
        sheets.append(brought.pop(kind_of_next(result)))
    assert dict(result.verdicts)["2"].condition == "leaks_at_tip"
    assert ("leaks_at_tip", "2") in found(result)
    assert result.diagnosis.explained == "yes"


def nozzles(opens: Sequence[float]) -> OpeningSheet:
    """Nozzles that open at these bar, seat, sound and spray good."""
    return OpeningSheet(
        injectors=labels(len(opens)), step=50.0,
        strokes=tuple(
            Stroke(injector=x, number=n, value=100.0 * bar, seat="dry", sound="chatters", spray="even")
            for x, bar in zip(labels(len(opens)), opens, strict=True)
            for n in (1, 2, 3)
        ),
    )  # fmt: skip


def test_black_smoke_with_sound_nozzles_and_good_compression() -> None:
    """Nothing measured explains it: air and valve gear are named, with how they are told."""
    result = job(
        walk("smoke_black", "bogs"), nozzles([175.0, 175.5, 174.5, 175.0]), _even_humps(),
        returns([12.0, 13.0, 12.0, 12.0], "idle"), system="mechanical_diesel",
    )  # fmt: skip
    assert result.next_step is None
    assert {v.condition for _, v in result.verdicts} == {"sound"}
    assert result.diagnosis.explained == "no"
    assert result.diagnosis.outside[:2] == ("air", "timing")


def test_two_faults_at_once() -> None:
    """A dead feed, and a clogged injector elsewhere: both are found, and each where it is."""
    result = job(
        walk("misfire", "bogs"), supply(), drop([None, 26, 26.5, None, 33.5, 26]),
        command("dark blinks blinks dark blinks blinks"),
        count=6, feeds={"1": "A", "4": "A", "2": "B", "5": "B", "3": "C", "6": "C"},
    )  # fmt: skip
    assert {("shared_feed", "A"), ("gives_less", "5")} <= found(result)
    assert not any(code == "command" for code, _ in found(result))
    assert dict(result.verdicts)["1"].condition == "not_the_injector"


def test_a_surging_rail_is_put_right_first_and_old_corrections_do_not_count() -> None:
    """The step is the repair; corrections that were read while it surged are read again."""
    wild = corrections([6.0, -5.0, 4.5, -5.5])
    surging = rail_trace(swing=6000.0)
    before = job(walk("surges"), supply(), wild, surging, system="common_rail")
    assert before.next_step is not None
    assert (before.next_step.kind, before.next_step.cause) == (REPAIR, "rail_control")
    assert ("rail_control", "") in found(before)
    after = job(walk("surges"), supply(), wild, surging, rail_trace(), system="common_rail")
    assert all(v.condition != "gives_less" for _, v in after.verdicts)
    assert kind_of_next(after) == "correction"
    again = job(
        walk("surges"), supply(), wild, surging, rail_trace(), corrections([0.1, 0.0, -0.1, 0.0]),
        system="common_rail",
    )  # fmt: skip
    assert {v.condition for _, v in again.verdicts} == {"sound"}


def test_no_complaint_and_nothing_found() -> None:
    """An engine that was only looked at has nothing to explain."""
    result = job(walk("none"), supply(), EVEN)
    assert result.diagnosis.explained == "none"
    assert result.next_step is None
    assert explanation(result.diagnosis) == ()


def test_partly_is_said_where_it_is_only_partly() -> None:
    """A weak hump explains the misfire; nothing found explains the smell of fuel."""
    result = job(
        walk("misfire", "fuel_smell"), nozzles([175.0, 175.5, 174.5, 175.0]),
        _weak_hump(), returns([12.0, 13.0, 12.0, 12.0], "idle"), system="mechanical_diesel",
    )  # fmt: skip
    assert ("compression", "3") in found(result)
    assert result.diagnosis.explained == "partly"
    assert "smell of fuel is not" in "".join(s.text for s in explanation(result.diagnosis))


def _weak_hump() -> Sheet:
    from plumb.core.procedures.cranking.analysis import CrankingSheet  # noqa: PLC0415

    humps = {"3": 60.0}
    return CrankingSheet(cylinders=tuple((x, humps.get(x, 100.0)) for x in labels(4)), step=1.0)


def test_codes_move_shares() -> None:
    """P0302 speaks for cylinder 2, P0171 for lean causes; one that nobody knows for nothing."""
    plain = job(walk("misfire"), supply())
    coded = job(walk("misfire"), supply(), codes=("P0302",))
    assert share(coded, "ignition", "2") > 3 * share(plain, "ignition", "2")
    assert share(coded, "ignition", "1") < share(plain, "ignition", "1")
    strange = job(walk("misfire"), supply(), codes=("P1999", "157-18"))
    assert share(strange, "ignition", "2") == share(plain, "ignition", "2")
    lean = job(walk("rough_idle"), codes=("P0171",))
    assert share(lean, "air") > share(job(walk("rough_idle")), "air")


def test_what_is_told_of_several_is_told_once() -> None:
    """Four cylinders that may all have it: one line with their share together."""
    result = job(walk("misfire"), supply(), EVEN)
    of_ignition = [x for x in lines(result) if x.code == "ignition"]
    assert len(of_ignition) == 1
    assert of_ignition[0].labels == ("1", "2", "3", "4")
    assert of_ignition[0].share == pytest.approx(4 * share(result, "ignition", "1"), rel=0.01)


def test_what_a_sheet_moved() -> None:
    """The drops moved injector 2 up, and the others down; a sheet that tells nothing moved nothing."""
    result = job(walk("misfire"), supply(), drop([26, 33.5, 26, 26]))
    moved = {(m.fault.code, m.places): m for m in moved_by(result.weighed, "s2")}
    weak = moved["gives_less", ("2",)]
    assert weak.before < 0.2
    assert weak.after > 0.5
    assert weak.after == pytest.approx(as_told(result.weighed).share_at("2", "gives_less"))
    assert moved_by(result.weighed, "nowhere") == ()


PROOFS: Mapping[str, tuple[tuple[str, str], Sheet]] = {
    "command": (("command", "3"), command("blinks blinks dark blinks")),
    "drop": (("gives_less", "2"), drop([26, 33.5, 26, 26])),
    "coils": (("coil_open", "4"), coils([12.4, 12.5, 12.4, None])),
    "tips": (("leaks_at_tip", "1"), tips("drips dry dry dry")),
    "supply": (("supply", ""), supply(key_on=40.0)),
    "hose": (("regulator_diaphragm", ""), walk("rough_idle", hose="wet")),
}
OTHERS: Mapping[str, Sheet] = {
    "drop": EVEN, "command": command("blinks " * 4), "coils": coils([12.4] * 4),
    "tips": tips("dry " * 4), "scan": scan("0 12 0 0"), "supply": supply(),
    "hold": hold([(0, 50), (10, 48), (60, 40), (300, 20)]),
}  # fmt: skip


@settings(max_examples=60, deadline=None)
@given(
    proof=st.sampled_from(sorted(PROOFS)),
    before=st.sets(st.sampled_from(sorted(OTHERS)), max_size=4),
    words=st.sets(
        st.sampled_from(["misfire", "rough_idle", "long_crank", "smoke_black"]), max_size=2
    ),
)
def test_a_sheet_that_proves_a_fault_never_lowers_its_share(
    proof: str, before: set[str], words: set[str]
) -> None:
    """Whatever was measured before, and whatever is complained of."""
    (code, place), sheet = PROOFS[proof]
    sheets = [OTHERS[x] for x in sorted(before) if OTHERS[x].kind != sheet.kind]
    without = job(*sheets, words=sorted(words)).weighed
    with_it = job(*sheets, sheet, words=sorted(words)).weighed

    def of(weighed: Any) -> float:
        if place:
            return float(weighed.share_at(place, code))
        return float(weighed.share_of(next(s for s in weighed.shared if s.fault.code == code)))

    assert of(with_it) >= of(without) - 1e-9


@settings(max_examples=40, deadline=None)
@given(seed=st.integers(0, 10_000), taken=st.sets(st.integers(0, 9), max_size=6))
def test_following_next_ends_from_any_mixture_of_sheets(seed: int, taken: set[int]) -> None:
    """Sheets that were taken out of order, of an engine with up to two faults and an imitator."""
    rng = np.random.default_rng(seed)
    system = SYSTEMS[seed % len(SYSTEMS)]
    faults = [f for f, (on, _) in FAULTS.items() if system in on]
    imitators = [f for f, (on, _) in IMITATORS.items() if system in on]
    names = (*rng.choice(faults, 2, replace=False), str(rng.choice(imitators)))[
        : int(rng.integers(4))
    ]
    engine = draw(rng, system, tuple(map(str, names)))
    bench = Bench(engine, rng)
    kinds = [k for k in route(system) if k.can_be_done(analyse_job(job_of(bench)).setting)]
    for n in sorted(taken):
        if n < len(kinds):
            bench.take(kinds[n].code, ())
    outcome = follow(engine, seed, bench=bench)
    assert outcome.ended
    assert len(outcome.steps) < 40


def test_sixteen_injectors_and_twenty_sheets_are_still_weighed_together() -> None:
    """Every kind of the petrol route, some twice: shares are shares, and there is a next step or an end."""
    many = [walk("misfire", "rough_idle", "bogs"), supply(), scan("0 " * 16)]
    many += [drop([26.0] * 15 + [33.0]), command("blinks " * 16), coils([12.4] * 16)] * 3
    many += [hold([(0, 50), (10, 50), (60, 50)]), tips("dry " * 16)] * 4
    result = job(*many, count=16, feeds={x: str(int(x) % 8) for x in labels(16)})
    assert len(many) == 20
    assert ((result.weighed.places >= 0.0) & (result.weighed.places <= 1.0)).all()
    assert result.weighed.places.sum(axis=1) == pytest.approx(np.ones(16), abs=1e-6)
    assert ("gives_less", "16") in found(result)


def test_every_kind_can_be_worth_its_minutes() -> None:
    """Of each fault that lies inside, some sheet of its route can be asked for to tell it."""
    for system in SYSTEMS:
        shown = {code for k in route(system) for t in k.shows for code in t.rows}
        inside = {f.code for f in TABLE.values() if system in f.common and system not in f.outside}
        assert inside <= shown
    assert all(k.effort.minutes(4) > 0 for k in KINDS)


def test_words_that_nobody_is_asked_for_weigh_only_when_said() -> None:
    """Runs rich speaks for a drip and a torn diaphragm; not said, it says nothing against them."""
    quiet, rich = job(walk("smoke_black")), job(walk("smoke_black", "rich"))

    assert rich.weighed.share_at("1", "leaks_at_tip") > 1.5 * quiet.weighed.share_at(
        "1", "leaks_at_tip"
    )
    case = Case(fuel_system="port", injectors=("1",), words=("smoke_black",))
    assert {"rich", "smoke_blue"}.isdisjoint(s.table.name for s in case.seen())
    blue = Case(fuel_system="port", injectors=("1",), words=("smoke_blue",))
    assert "smoke_blue" in {s.table.name for s in blue.seen()}


@pytest.mark.parametrize(
    ("text", "word"),
    [
        ("runs rich at idle", "rich"),
        ("blue smoke when cold", "smoke_blue"),
        ("burns oil", "smoke_blue"),
    ],
)
def test_rich_and_blue_are_heard(text: str, word: str) -> None:
    """As owners and technicians say it."""
    assert word in words_in(text)


def test_deposits_lie_outside_and_are_named_on_direct_injection_only() -> None:
    """Rough and hard to start cold: a borescope is named on a direct engine, and on no other."""
    for fuel, there in (("direct", True), ("port", False)):
        faults = {f.code for f in faults_on(fuel)}
        assert ("intake_deposits" in faults) is there
    assert TABLE["intake_deposits"].outside == {"direct"}
    assert "borescope" in TABLE["intake_deposits"].told
