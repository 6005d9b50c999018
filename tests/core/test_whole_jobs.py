"""Whole jobs as people do them, from the complaint on: what a good technician would say first, next and after the repair.

Figures are of the trade, common practice, no source.
"""

import json
import math
from collections.abc import Callable, Mapping, Sequence
from typing import Any

import pytest

from plumb.core.mend.finish import Finished
from plumb.core.mend.words import pair_words
from plumb.core.procedures import kind_of
from plumb.core.weigh.job import JobResult
from plumb.core.weigh.words_diagnosis import explanation
from plumb.core.weigh.words_verdict import sentence
from plumb.jobfile.reading import parse
from plumb.jobfile.to_core import finished

Sheet = dict[str, Any]
Figures = Sequence[float] | Mapping[int, float]


def numbered(figures: Figures) -> list[tuple[int, float]]:
    """(injector, figure)."""
    return list(figures.items()) if isinstance(figures, Mapping) else list(enumerate(figures, 1))


def values(kind: str, unit: str, step: float, figures: Figures, **more: Any) -> Sheet:
    """A sheet of one figure an injector."""
    rows = [{"injector": str(n), "value": v} for n, v in numbered(figures)]
    return {"kind": kind, "unit": unit, "gauge": {"step": step}, "readings": rows, **more}


def drops(ends: Mapping[int, float | None] | Sequence[float | None], **more: Any) -> Sheet:
    """Bursts from 50 psi to these ends; None is a silent one."""
    pairs = ends.items() if isinstance(ends, Mapping) else enumerate(ends, 1)
    rows: list[dict[str, Any]] = [
        {
            "injector": str(n),
            "first": 50,
            "second": end,
            **({"note": "none"} if end is None else {}),
        }
        for n, end in pairs
    ]
    rows = [{k: v for k, v in r.items() if k != "first" or r["second"] is not None} for r in rows]
    burst = {"on_ms": 10, "pulses": 50}
    return {
        "kind": "pressure_drop",
        "unit": "psi",
        "gauge": {"step": 0.5},
        "burst": burst,
        "readings": rows,
        **more,
    }


def rail(
    pressure: Callable[[float], float], wanted: float, *, engine: str, seconds: float = 8.0
) -> Sheet:
    """A rail's trace, ten moments a second."""
    moments = [k / 10 for k in range(int(10 * seconds) + 1)]
    series = [{"t_s": t, "wanted": wanted, "actual": round(pressure(t), 1)} for t in moments]
    return {"kind": "rail_pressure", "unit": "bar", "engine": {"state": engine}, "series": series}


def hold(
    series: Mapping[float, float],
    *,
    unit: str = "psi",
    step: float = 1.0,
    side: str = "low",
    **window: Any,
) -> Sheet:
    """A hold with its limits."""
    points = [{"t_s": t, "value": p} for t, p in series.items()]
    return {
        "kind": "hold",
        "unit": unit,
        "gauge": {"step": step},
        "rail": side,
        "window": window,
        "series": points,
    }


def job(fuel: str, count: int, complaint: str, *sheets: Sheet, **more: Any) -> Finished:
    """A job from its file."""
    injectors = [{"id": str(n), "cylinder": n} for n in range(1, count + 1)]
    told = {k: more.pop(k) for k in ("codes", "set_aside") if k in more}
    file = {
        "plumb": 1, "vehicle": {"name": "Torvik Lundy", "fuel_system": fuel, "injectors": injectors},
        "job": {"complaint": complaint, **told},
        "sheets": [{**s, "id": f"s{n}"} for n, s in enumerate(sheets, 1)],
        **more,
    }  # fmt: skip
    return finished(parse(json.dumps(file)))


def done(what: str, *labels: str) -> list[dict[str, str]]:
    """The same done to each of these."""
    return [{"injector": x, "done": what} for x in labels]


def words(of: Finished) -> dict[str, str]:
    """By injector the word of its last change."""
    return {p.injector: p.word for p in of.pairs}


def conditions(of: JobResult) -> dict[str, str]:
    """By injector."""
    return {label: v.condition for label, v in of.verdicts}


def headline(of: JobResult, key: str) -> str:
    """What a sheet says."""
    result = dict(of.sheets)[key]
    return "".join(s.text for s in kind_of(result).headline(result, "bar"))


def notes(of: JobResult, key: str) -> str:
    """What is written beneath."""
    result = dict(of.sheets)[key]
    return " ".join(kind_of(result).notes(result, "bar"))


CORRECTED = [15.0, -4.0, -7.0, -7.0, -7.0, -7.0, 15.0, -4.0]
UNRENEWED = [
    ("correction", "mm3", 0.1, CORRECTED, {1: 12.0, 7: 12.0}, "replaced"),
    ("correction", "ms", 0.01, [1.11, 0.55, 1.10, 0.56], {1: 1.11, 3: 1.10}, "replaced"),
    ("return_volume", "ml", 1.0, [38.0, 34.0, 9.0, 3.0], {1: 38.0, 2: 35.0}, "rebuilt"),
]


@pytest.mark.parametrize(("kind", "unit", "step", "before", "after", "work"), UNRENEWED)
def test_new_ones_are_no_measure_of_each_other(
    kind: str, unit: str, step: float, before: list[float], after: dict[int, float], work: str
) -> None:
    """Two new ones that are as far off as the old ones agree with each other, and with nobody that is good."""
    found = job(
        "common_rail", len(before), "rough idle", values(kind, unit, step, before),
        values(kind, unit, step, after, after="s1"), repairs=done(work, *map(str, after)),
        asked_after={"rough_idle": "gone"},
    )  # fmt: skip
    assert set(words(found).values()) == {"not_settled"}
    assert not found.over
    assert found.next_step is not None
    rest = tuple(str(n) for n in range(1, len(before) + 1) if n not in after)
    assert (found.next_step.kind, found.next_step.injectors) == (kind, rest)
    assert "held against those that stayed as they were" in notes(found.now, "s2")


def test_all_corrections_are_asked_for_again_and_judged_by_the_good_ones() -> None:
    """They share one engine: what two take less of, the others get; then they stand even, or are as they were."""
    first = values("correction", "mm3", 0.1, CORRECTED)
    repaired = done("replaced", "1", "7")
    due = job("common_rail", 8, "rough idle", first, repairs=repaired).due
    assert [(d.kind, d.injectors) for d in due] == [("correction", tuple("12345678"))]
    even = values("correction", "mm3", 0.1, [0.4, -0.2, 0.1, 0.3, -0.4, 0.0, -0.3, 0.1], after="s1")
    right = job("common_rail", 8, "rough idle", first, even, repairs=repaired)
    assert {words(right)[x] for x in "17"} == {"put_right"}
    same = values("correction", "mm3", 0.1, CORRECTED, after="s1")
    assert {words(job("common_rail", 8, "", first, same, repairs=repaired))[x] for x in "17"} == {
        "unchanged"
    }


def test_half_of_a_set_renewed_does_not_outvote_the_old_half() -> None:
    """Three of six new and weak together: a set that is split, but for the three that stayed as they were."""
    ends = [26, 31, 31.5, 26.5, 31, 26]
    found = job(
        "port", 6, "rough idle", drops(ends), drops(ends, after="s1"),
        repairs=done("replaced", "2", "3", "5"),
    )  # fmt: skip
    after = {f.injector: f.state.value for f in dict(found.now.sheets)["s2"].findings}
    assert [after[x] for x in "123456"] == ["in_plumb", "low", "low", "in_plumb", "low", "in_plumb"]


def test_opening_pressures_before_and_after_are_told_in_their_unit() -> None:
    """1900 and 2000 psi against a window, not a deviation from themselves."""
    window = {"low": 1950, "high": 2050}
    found = job(
        "mechanical_diesel", 4, "black smoke",
        values("opening_pressure", "psi", 10.0, [1900, 1900, 2000, 2010], window=window),
        values("opening_pressure", "psi", 10.0, {1: 2000, 2: 2005}, window=window, after="s1"),
        repairs=done("reshimmed", "1", "2"),
    )  # fmt: skip
    told = {p.injector: pair_words(p, "psi", "", "") for p in found.pairs}
    assert told["1"] == "1900 psi before, 2000 psi now: put right"


@pytest.mark.parametrize("more", [{}, {"when": "after_cleaning"}])
def test_cleaned_and_as_weak_as_before_is_replaced(more: dict[str, str]) -> None:
    """Once is enough, whether the cleaning was noted as a repair or said of the sheet too."""
    found = job(
        "port", 4, "rough idle", drops([26, 26.5, 26, 31.5]), drops({4: 31.5}, after="s1", **more),
        repairs=done("cleaned", "4"),
    )  # fmt: skip
    assert words(found)["4"] == "unchanged"
    assert dict(found.now.verdicts)["4"].action == "replace"
    # Its fault is still there: nobody asks for the complaint again before that is dealt with.
    assert found.next_step is None or found.next_step.kind != "ask_after"


def test_another_part_that_gives_as_little_sends_the_search_elsewhere() -> None:
    """A second injector is not bought for what drives or feeds the first."""
    found = job(
        "port", 4, "rough idle", drops([26, 26.5, 26, 31.5]), drops({4: 31.5}, after="s1"),
        repairs=done("replaced", "4"),
    )  # fmt: skip
    verdict = dict(found.now.verdicts)["4"]
    assert (verdict.condition, verdict.action) == ("not_settled", "check_first")
    assert {"coil", "command"} <= set(verdict.not_ruled_out)


def test_what_is_gone_is_open_no_more() -> None:
    """Nothing found explained it, something was done, and the complaint is gone."""
    found = job(
        "port", 4, "misfire", drops([26, 26.5, 26, 26]), repairs=done("cleaned", "3"),
        asked_after={"misfire": "gone"},
    )  # fmt: skip
    told = "".join(s.text for s in explanation(found.still_open.diagnosis))
    assert told == "The misfire is gone. "


def builds_up(to: float) -> Callable[[float], float]:
    """A rail that fills while the starter turns."""
    return lambda t: to * (1.0 - math.exp(-t / 1.2))


def test_a_rail_that_builds_up_a_third_is_low_and_leads_to_what_returns() -> None:
    """0 to 90 bar of 280 while cranking: not surging, no control to be put right, and two injectors that return."""
    trace = rail(builds_up(90.0), 280.0, engine="cranking")
    alone = job("common_rail", 4, "no start", trace).now
    assert headline(alone, "s1") == (
        "The rail stays 191 bar below what is wanted while cranking: 89 bar of 280 bar."
    )
    assert not [c for c in alone.diagnosis.found if c.fault.code == "rail_control"]
    assert alone.next_step is not None
    assert not alone.next_step.repairs
    tubes = values("return_volume", "ml", 1.0, [52, 12, 49, 10], state="cranking", duration_s=20)
    both = job("common_rail", 4, "no start", trace, tubes, codes=["P0087"]).now
    assert conditions(both) == {
        "1": "returns_too_much",
        "2": "sound",
        "3": "returns_too_much",
        "4": "sound",
    }
    assert both.diagnosis.explained == "yes"


def test_next_to_nothing_in_the_rail_is_the_pump_or_its_feed() -> None:
    """8 of 280 bar: no injector can be behind that before there is fuel at the pump."""
    found = job("common_rail", 4, "no start", rail(builds_up(8.0), 280.0, engine="cranking")).now
    assert headline(found, "s1") == "Next to nothing builds up in the rail while cranking."
    assert found.diagnosis.causes[0].fault.code == "pump"


@pytest.mark.parametrize(
    ("pressure", "engine", "state"),
    [
        (builds_up(290.0), "cranking", "good"),
        (lambda t: 300.0 + 45.0 * math.sin(math.tau * 1.5 * t), "idle", "surges"),
        (lambda t: 240.0 + 45.0 * math.sin(math.tau * 1.5 * t), "idle", "surges"),
        # One dip, one step: neither goes to and fro.
        (lambda t: 210.0 if 4.0 < t < 5.5 else 300.0, "idle", "unsettled"),
        (lambda t: 300.0 if t < 17.0 else max(0.0, 300.0 - 150.0 * (t - 17.0)), "idle", "good"),
        (lambda t: min(300.0, 200.0 * t), "idle", "good"),
        (lambda _t: 240.0, "idle", "low"),
    ],
)  # fmt: skip
def test_a_rail_is_judged_where_it_rests(
    pressure: Callable[[float], float], engine: str, state: str
) -> None:
    """The way up and down are left out; it surges only where it goes to and fro three times."""
    wanted = 280.0 if engine == "cranking" else 300.0
    found = job(
        "common_rail", 4, "rough idle", rail(pressure, wanted, engine=engine, seconds=20.0)
    ).now
    assert dict(found.sheets)["s1"].state == state  # type: ignore[attr-defined]


def test_the_high_side_says_nothing_of_the_low_side() -> None:
    """Passed or failed: the check valve of the supply is as likely as it was."""

    def share(*sheets: Sheet) -> float:
        weighed = job("direct", 4, "long crank", *sheets).now.weighed
        return next(
            weighed.share_of(s) for s in weighed.shared if s.fault.code == "supply_check_valve"
        )

    odds = {
        name: hold({0: 50, 10: 46, 30: 40, 60: end}, side="high", lost_at_most=10, within_s=60)
        for name, end in (("failed", 20), ("passed", 46))
    }
    passed = share(odds["passed"])
    assert passed >= share()
    low = hold({0: 50, 10: 46, 30: 40, 60: 20}, lost_at_most=10, within_s=60)
    assert share(odds["failed"]) < share() < share(low)


def test_a_hold_that_passed_makes_nothing_likelier_and_nobody_is_repeated() -> None:
    """After twenty minutes twice what is asked for: fuel is there, and no injector was read."""
    passed = hold({0: 40, 60: 39, 300: 37, 600: 35, 1200: 32}, left_at_least=15, after_s=1200)
    before, after = (job("port", 4, "hard start hot", *sheets).now for sheets in ((), (passed,)))
    for code in ("leaks_at_tip", "stuck_open"):
        assert after.weighed.share_at("1", code) < before.weighed.share_at("1", code)
    assert set(conditions(after).values()) == {"not_measured"}
    assert "".join(s.text for s in sentence(after)) == "Not measured yet: 1, 2, 3 and 4. "


def test_one_step_lost_is_no_leak_and_two_readings_foretell_nothing() -> None:
    """300 to 290 on a dial of ten; at ten seconds nobody knows, at sixty the reading counts."""
    one = hold(
        {0: 300, 10: 300, 30: 300, 60: 290},
        unit="bar",
        step=10,
        side="high",
        lost_at_most=50,
        within_s=60,
    )
    found = job("common_rail", 4, "long crank", one).now
    assert headline(found, "s1").startswith("Holds")
    assert "small leak" not in notes(found, "s1")
    limits = {"lost_at_most": 150, "within_s": 60}
    early = job(
        "common_rail", 4, "long crank", hold({0: 1100, 10: 1060}, step=10, side="high", **limits)
    ).now
    assert headline(early, "s1").startswith("Too early to tell")
    read = job(
        "common_rail",
        4,
        "long crank",
        hold({0: 1100, 10: 1060, 60: 1018}, step=10, side="high", **limits),
    ).now
    assert headline(read, "s1").startswith("Holds")


def test_one_that_opens_weakly_spoils_no_others_certainty() -> None:
    """Two passes a step apart are much of next to nothing, and nothing of a burst's scatter."""
    rows = [
        {"injector": str(n), "first": 50, "second": e} for n, e in ((1, 26), (3, 26.5), (4, 26))
    ]
    weak = [
        {"injector": "2", "pass": p, "first": 50, "second": e, "fires_at": 26}
        for p, e in ((1, 49), (2, 48))
    ]
    found = job("port", 4, "rough idle", drops([]) | {"readings": [*rows, *weak]}).now
    assert conditions(found) == {"1": "sound", "2": "opens_weakly", "3": "sound", "4": "sound"}


def test_the_dead_ones_own_coil_and_command_come_next() -> None:
    """A minute each, with one neighbour for the coil; the others are not read for it, and nothing is explained yet."""
    aside = [{"kind": k, "reason": "seen"} for k in ("walk_round", "supply_pressure")]
    rows = drops([26, 26.5, 26, None, 26, 26.5, 26, 26])
    rows["readings"].append({"injector": "4", "pass": 2, "second": None, "note": "none"})
    found = job("port", 8, "misfire", rows, set_aside=aside, codes=["P0304"]).now
    steps = {s.kind: s.injectors for s in (found.next_step, *found.alternatives) if s}
    assert steps["coil_resistance"] == ("3", "4")
    assert steps["command"] == ("4",)
    assert found.diagnosis.explained == "open"


def test_the_supply_is_no_doubt_of_one_weak_among_fourteen() -> None:
    """All began from one pressure."""
    found = job("port", 14, "misfire", drops([32.0 if n == 5 else 26.0 for n in range(14)])).now
    assert dict(found.verdicts)["6"].not_ruled_out == ("coil", "command")


def test_a_coil_out_of_line_counts_without_a_pump() -> None:
    """Both are found, and the coil's injector is not "not the injector"."""
    pump = {
        "kind": "supply_pressure", "unit": "psi", "gauge": {"step": 0.5}, "pump": "clicks_only",
        "readings": [{"state": "key_on", "value": 0}],
    }  # fmt: skip
    ohms = values(
        "coil_resistance", "ohm", 0.1, [12.1, 12.0, 5.0, 12.2], window={"low": 11, "high": 14}
    )
    found = job("port", 4, "no start", pump, ohms).now
    assert (conditions(found)["3"], conditions(found)["1"]) == ("coil_shorted", "not_the_injector")
    assert {c.fault.code for c in found.diagnosis.found} == {"pump", "coil_shorted"}


def test_fine_above_idle_describes_and_is_not_asked_for() -> None:
    """It is weighed, for it speaks for a leak, and nobody answers whether it is gone."""
    found = job("port", 4, "rough idle, fine above idle", drops([26, 26.5, 26, 26]))
    assert found.now.diagnosis.words == ("rough_idle",)
    plain = job("port", 4, "rough idle", drops([26, 26.5, 26, 26]))
    leaks = [f.now.weighed.share_at("1", "leaks_at_tip") for f in (found, plain)]
    assert leaks[0] > leaks[1]


def test_a_pump_that_runs_is_no_supply_pressure() -> None:
    """A figure is asked for before anything is measured behind it."""
    heard = {
        "kind": "supply_pressure",
        "unit": "psi",
        "gauge": {"step": 0.5},
        "pump": "runs",
        "readings": [],
    }
    aside = [{"kind": "walk_round", "reason": "seen"}]
    step = job("port", 4, "bogs", heard, set_aside=aside).now.next_step
    assert step is not None
    assert (step.kind, step.reason) == ("supply_pressure", "pump_first")


def test_balance_at_idle_is_held_to_what_a_running_engine_allows() -> None:
    """25 % apart is sound yet, and one pass is known to 12 %, not to a gauge's step."""

    def balance(figures: list[float]) -> JobResult:
        conditions = {"low_side": 60, "lost_in_60_s": 0, "rail": 500}
        return job(
            "direct",
            4,
            "rough idle",
            values("injector_balance_running", "psi", 0.1, figures, conditions=conditions),
        ).now

    even = dict(balance([30.0, 26.0, 28.0, 27.0]).sheets)["s1"].findings
    assert all((f.u or 0.0) > 0.03 for f in even)
    assert not [f for f in even if f.state.value in {"low", "high"}]
    assert conditions(balance([30.0, 30.0, 15.0, 30.0]))["3"] == "gives_less"
