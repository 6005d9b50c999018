"""The drop sheet: rules, marks, splits, what is expected, what it says, the next step."""

import pytest

from plumb.core.compare.bursts import Limits
from plumb.core.compare.drops import words
from plumb.core.compare.drops.sheet import DropResult, DropSheet, analyse_drop
from plumb.core.compare.drops.working import working as explain
from plumb.core.compare.rules import RULES, RuleChoice
from plumb.core.measure.decision import State, Thresholds
from plumb.core.measure.readings import Mark, Noted
from plumb.core.measure.step import NextStep
from plumb.core.procedures import DROP
from plumb.core.weigh.job import Job, analyse_job
from tests.core.sets import CHECK, PSI, result, states


def next_step(found: DropResult) -> NextStep | None:
    """What the sheet asks for."""
    return DROP.asks(DROP, found, frozenset())


def said(found: DropResult) -> str:
    """The headline as one string."""
    return "".join(s.text for s in words.headline(found, "psi"))


def test_the_check_set_says_who_leans() -> None:
    """One clearly low; one asked for once more."""
    found = result(CHECK)
    assert said(found) == "Injector 5 gives 25 % less than the four that agree."
    step = next_step(found)
    assert step is not None
    # Nobody knows yet how bursts scatter here: until repeats say it, +12.2 of 10 % is nearer than three u.
    assert (step.injectors, step.passes, step.reason) == (("3",), 4, "unsettled")


@pytest.mark.parametrize("code", [c for c in RULES if c != "analysis_of_means"])
def test_any_rule_can_decide_on_a_sheet(code: str) -> None:
    """The finding's state follows the chosen rule's own rejects, on the right side."""
    found = result(CHECK, rule=RuleChoice(name=code))
    outcome = found.chosen
    called = {f.injector for f in found.findings if f.state in {State.LOW, State.HIGH}}
    assert called == set(outcome.reject)
    low = {f.injector for f in found.findings if f.state is State.LOW}
    assert low <= {"5", "2", "4"}
    assert len(found.rules()) == len(RULES)


def test_a_makers_pressure_limit_becomes_a_flow_tolerance() -> None:
    """+-1.5 psi at 50 to 26 is +-7.5 % of flow; common practice, no source."""
    found = result([(50, 26)] * 4, rule=RuleChoice(limits=Limits(limit=1.5 * PSI)))
    assert 100 * found.tolerance == pytest.approx(7.5, abs=0.1)


def test_marked_silent_is_no_response_whatever_the_rule() -> None:
    """A mark needs no figure."""
    for code in ("flow_index", "plain_mean"):
        found = result([(50, 26), None, (50, 26), (50, 26)], rule=RuleChoice(name=code))
        assert states(found)[1] == "no_response"
        assert "2" in found.chosen.reject


def test_an_answer_after_silence_counts_and_is_told() -> None:
    """Exercising may free it: the last word counts, and the row says so."""
    again = Noted(injector="2", number=2, first=50 * PSI, second=26 * PSI)
    found = result([(50, 26), None, (50, 26.5), (50, 26)], more=[again])
    assert found.findings[1].state is State.IN_PLUMB
    assert words.under(found.findings[1], found, "psi") == "answered after a silent burst"


def test_not_read_leaves_the_injector_open() -> None:
    """A burst nobody read is no silence."""
    sheet = DropSheet(
        kind=DROP.code,
        injectors=("1", "2"), step=0.5 * PSI,
        readings=(Noted(injector="1", number=1, first=None, second=None, mark=Mark.NOT_READ),),
    )  # fmt: skip
    assert states(analyse_drop(sheet)) == ["not_judged", "not_judged"]


def test_read_late_widens_the_uncertainty() -> None:
    """The same figures, known less well."""
    late = tuple(
        Noted(injector=str(n), number=1, first=a * PSI, second=b * PSI, mark=Mark.READ_LATE)
        for n, (a, b) in enumerate(CHECK, 1)
    )
    prompt = result(CHECK).findings[4]
    found = analyse_drop(
        DropSheet(kind=DROP.code, injectors=tuple("123456"), readings=late, step=0.5 * PSI)
    )
    assert (found.findings[4].u or 0) > 1.5 * (prompt.u or 1)


def test_a_split_says_so_and_asks_for_nothing_more() -> None:
    """More bursts cannot tell which half is right."""
    found = result([(40, 32), (40, 28), (40, 28), (40, 32)])
    assert said(found).startswith("Split: ")
    assert next_step(found) is None
    assert any("expected drop" in n for n in words.notes(found, "psi"))


def test_all_alike_but_low_is_said_against_what_is_expected() -> None:
    """Comparing equally tired ones shows nothing; an expected drop does."""
    tired = [(50, 33), (50, 33.5), (50, 33), (50, 33)]
    alone = words.notes(result(tired), "psi")
    assert any("shared by all would not show" in n for n in alone)
    told = words.notes(result(tired, expected=24.0), "psi")
    assert any("less than expected (card)" in n for n in told)


def test_wandering_starts_are_pointed_out() -> None:
    """Only where they move a plain drop by more than the gauge can show."""
    wild = words.notes(result([(44.5, 22), (50, 26), (56.5, 31)]), "psi")
    assert any("Starts wander from 44.5 to 56.5 psi" in n for n in wild)
    assert not any("wander" in n for n in words.notes(result(CHECK), "psi"))


def test_an_empty_rail_asks_for_a_shorter_burst() -> None:
    """And the next step does not ask for more of the same."""
    found = result([(50, 26), (50, 26), (50, 26), (10, 0)])
    assert any("shorter burst" in n for n in words.notes(found, "psi"))
    assert next_step(found) is None


def test_a_coarse_gauge_settles_nothing_by_itself() -> None:
    """2 psi ticks on a 16 psi drop: nobody is called, and each says what would help."""
    found = result([(50, 34), (50, 34), (52, 38), (50, 34), (50, 36), (52, 36)], step=2)
    assert set(states(found)) == {"unsettled"}
    assert {words.under(f, found, "psi") for f in found.findings} <= {
        "gauge too coarse: finer gauge or longer burst", "two more passes settle it",
        "three more passes settle it"}  # fmt: skip


def test_following_the_next_step_always_ends() -> None:
    """From an empty sheet, whatever it asks is measured, until it asks for nothing."""
    ends = {"1": 26.0, "2": 26.5, "3": 23.6, "4": 28.5, "5": 31.5, "6": None}
    readings: list[Noted] = []
    for _ in range(60):
        found = analyse_drop(
            DropSheet(
                kind=DROP.code, injectors=tuple(ends), readings=tuple(readings), step=0.5 * PSI
            )
        )
        step = next_step(found)
        if step is None:
            break
        for label in step.injectors:
            for _ in range(step.passes):
                number = 1 + sum(r.injector == label for r in readings)
                end = ends[label]
                readings.append(
                    Noted(
                        injector=label, number=number, first=50 * PSI,
                        second=None if end is None else end * PSI,
                        mark=Mark.NONE if end is None else None,
                    )
                )  # fmt: skip
    assert step is None
    assert states(found)[4:] == ["low", "no_response"]
    assert sum(r.injector == "6" for r in readings) == 2


def test_a_dead_one_is_blamed_only_after_the_tester_is_proven() -> None:
    """All silent: the tester's supply stands first."""
    silent = tuple(
        Noted(injector=n, number=1, first=None, second=None, mark=Mark.NONE) for n in "12"
    )
    sheet = DropSheet(kind=DROP.code, injectors=("1", "2"), readings=silent, step=PSI)
    verdicts = dict(analyse_job(Job(injectors=("1", "2"), sheets=(("s", sheet),))).verdicts)
    assert verdicts["1"].not_ruled_out[0] == "tester_supply"
    proven = result([(50, 26), None, (50, 26)])
    job = analyse_job(Job(injectors=("1", "2", "3"), sheets=(("s", proven.sheet),)))
    assert "tester_supply" not in dict(job.verdicts)["2"].not_ruled_out


def test_the_newest_sheet_gives_the_verdict() -> None:
    """After cleaning, the sheet before it no longer condemns; an empty one says nothing."""
    before = result([(50, 30), (50, 30.5), (50, 35.5), (50, 30)]).sheet
    after = result([(50, 30), (50, 30.5), (50, 31), (50, 30)]).sheet
    empty = DropSheet(kind=DROP.code, injectors=before.injectors, readings=(), step=PSI)
    job = Job(injectors=before.injectors, sheets=(("a", before), ("b", after), ("c", empty)))
    assert dict(analyse_job(job).verdicts)["3"].condition == "sound"


@pytest.mark.parametrize(("pair", "percent"), [((46, 36), 16.0), ((50, 26), 7.5), ((43, 29), 11.9)])
def test_the_working_tells_what_the_workshops_limit_means_here(
    pair: tuple[float, float], percent: float
) -> None:
    """+-1.5 psi in per cent of flow on this rail, whatever the unit looked in; figures of the trade."""
    for unit, limit in (("psi", "1.5 psi"), ("kPa", "10.3 kPa")):
        lines = {x.label: x.figure for x in explain(result([pair] * 4), unit).shared}
        assert float(lines[f"±{limit} on this rail"].strip("±")) == pytest.approx(percent, abs=0.06)


def test_the_working_can_be_redone_by_hand() -> None:
    """Deviation, parts and total as printed agree with each other."""
    working = explain(result(CHECK), "psi")
    lines = {x.label: x.figure for x in dict(working.injectors)["3"]}
    shared = {x.label: x.figure for x in working.shared}
    ratio = float(lines["pass 1"]) / float(shared["reference"])
    assert 100 * (ratio - 1) == pytest.approx(float(lines["deviation"]), abs=0.01)
    parts = [float(v) for k, v in lines.items() if k.startswith("u from")]
    assert sum(p * p for p in parts) ** 0.5 == pytest.approx(
        float(lines["u of the deviation"]), abs=0.01
    )
    assert all(x.formula or x.source or x.figure for x in working.shared)


@pytest.mark.parametrize("unit", ["psi", "kPa", "bar"])
def test_words_change_unit_but_not_sense(unit: str) -> None:
    """The same set in another unit says the same."""
    found = result([(44.5, 22), (50, 26), (56.5, 31)])
    assert any(unit in n for n in words.notes(found, unit))
    assert said(found) == "All three are in plumb."


def test_a_shops_own_thresholds_decide_and_are_named() -> None:
    """A shop that calls at 99 % keeps open what 95 % would call, and its working says 0.99."""
    sheet = result([(50, 26), (50, 26), (50, 30), (50, 26)]).sheet
    strict = Thresholds(call=0.999999, clear=0.01)
    assert states(analyse_drop(sheet))[2] == "low"
    found = analyse_drop(sheet, strict)
    assert states(found)[2] == "unsettled"
    lines = {x.label: x.formula for x in dict(explain(found, "psi").injectors)["3"]}
    assert "0.999999 on one side calls, 0.01 clears" in lines["probability out of tolerance"]
