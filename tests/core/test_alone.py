"""An engine with one injector for all cylinders: held against what is expected, and never sent to repeat."""

import math
from dataclasses import replace

import pytest

from plumb.core.compare.alone import alone_without_reference
from plumb.core.compare.rules import RULES, RuleChoice
from plumb.core.measure.decision import State
from plumb.core.measure.readings import Value, Window
from plumb.core.procedures import RETURNS, Sheet, kind_of
from plumb.core.procedures.opening.analysis import OpeningSheet, Stroke
from plumb.core.procedures.returns.analysis import ReturnSheet
from plumb.core.weigh.job import Job, JobResult, analyse_job, analyse_sheet
from plumb.core.weigh.words_next import step_words
from tests.core.jobs import coils, drop

ALONE = "alone, and nothing says what it should give"


def one(sheet: Sheet, fuel_system: str = "throttle_body") -> JobResult:
    """The job of an engine with one injector, and this sheet on it."""
    aside = frozenset({"walk_round", "supply_pressure"})
    job = Job(injectors=("1",), sheets=(("s", sheet),), fuel_system=fuel_system, set_aside=aside)
    return analyse_job(job)


def test_without_anything_expected_that_is_what_is_asked_for() -> None:
    """No repeat: a further burst would tell nothing."""
    result = one(drop([26.0]))
    (_, verdict), step = result.verdicts[0], result.next_step
    assert (verdict.row, verdict.action) == (ALONE, "check_first")
    assert step is not None
    assert step.reason == "alone"
    assert (step.passes, step.minutes) == (1, 1.5)
    words = step_words(step, None)
    assert words.title == "Say what it should give"
    assert "repeat" not in f"{words.title} {words.text} {verdict.because}".lower()


@pytest.mark.parametrize(
    ("end", "state", "condition"),
    [
        (26.0, State.IN_PLUMB, "sound"),
        (33.0, State.LOW, "gives_less"),
        (17.0, State.HIGH, "gives_more"),
    ],
)
def test_what_is_expected_decides(end: float, state: State, condition: str) -> None:
    """A drop of 24 psi is expected; by the orifice law the flow goes with the fall of the root."""
    result = one(drop([end], passes=2, expected=24.0))
    finding = result.sheets[0][1].findings[0]
    assert finding.state is state
    by_hand = (math.sqrt(50.0) - math.sqrt(end)) / (math.sqrt(50.0) - math.sqrt(26.0)) - 1.0
    assert finding.deviation == pytest.approx(by_hand, abs=1e-9)
    assert result.verdicts[0][1].condition == condition
    assert not {f.code for f in result.facts} & {"set_low", "set_high", "set_as_expected", "alone"}


@pytest.mark.parametrize("rule", sorted(RULES))
def test_whichever_rule_is_chosen(rule: str) -> None:
    """A rule compares injectors, and there is none to compare with."""
    sheet = drop([33.0], passes=2, expected=24.0, rule=RuleChoice(name=rule))
    result = analyse_sheet(sheet)
    assert result.findings[0].state is State.LOW
    said = "".join(s.text for s in kind_of(result).headline(result, "psi"))
    less = 1.0 - (50.0**0.5 - 33.0**0.5) / (50.0**0.5 - 26.0**0.5)
    assert said == f"Injector 1 gives {100.0 * less:.0f} % less than expected."


def test_one_of_several_that_was_measured_first_is_not_alone() -> None:
    """Its neighbours are still to come."""
    sheet = drop([26.0])
    begun = analyse_job(
        Job(
            injectors=("1", "2", "3", "4"),
            sheets=(("s", type(sheet)(**{**_fields(sheet), "injectors": ("1", "2", "3", "4")})),),
            set_aside=frozenset({"walk_round", "supply_pressure"}),
        )
    )
    assert begun.next_step is not None
    assert begun.next_step.reason == "not_measured"
    assert begun.verdicts == () or begun.verdicts[0][1].row != ALONE


def _fields(sheet: object) -> dict[str, object]:
    return {name: getattr(sheet, name) for name in sheet.__slots__}  # type: ignore[attr-defined]


def test_a_nozzle_and_a_return_alone_ask_for_their_window() -> None:
    """Where a maker's limit stands they are judged, else it is asked for."""
    strokes = tuple(Stroke(injector="1", number=n, value=12_500.0) for n in (1, 2, 3))
    bare = OpeningSheet(injectors=("1",), strokes=strokes, step=100.0)
    asked = one(bare, "mechanical_diesel").next_step
    assert asked is not None
    assert asked.reason == "alone"
    held = OpeningSheet(
        injectors=("1",), strokes=strokes, step=100.0, window=Window(low=12_200.0, high=13_200.0)
    )
    assert analyse_sheet(held).findings[0].state is State.IN_PLUMB
    volume = (Value(injector="1", number=1, value=12.0),)
    returned = ReturnSheet(injectors=("1",), readings=volume, step=1.0)
    step = kind_of(returned).asks(RETURNS, analyse_sheet(returned), frozenset())
    assert step is not None
    assert step.reason == "alone"


def test_only_a_sheet_that_compares_and_speaks_says_so() -> None:
    """Not a coil without a window, not an older sheet than the one that knows what is expected."""
    assert "alone" not in {f.code for f in one(coils([12.4])).facts}
    aside = frozenset({"walk_round", "supply_pressure"})
    both = Job(
        injectors=("1",), set_aside=aside, fuel_system="throttle_body",
        sheets=(("s1", drop([26.0])), ("s2", drop([26.0], passes=2, expected=24.0))),
    )  # fmt: skip
    result = analyse_job(both)
    assert "alone" not in {f.code for f in result.facts}
    assert result.verdicts[0][1].condition == "sound"


def test_one_that_was_not_read_is_measured_first() -> None:
    """It lacks a reading, not something to be held against."""
    finding = analyse_sheet(drop([26.0])).findings[0]
    assert alone_without_reference((finding,)) == ("1",)
    assert alone_without_reference((replace(finding, passes=0),)) == ()
    assert alone_without_reference((replace(finding, bound=True),)) == ()
    assert alone_without_reference((finding, finding)) == ()


def test_its_working_names_what_it_is_held_against() -> None:
    """The flow that the expected drop means, and who says so."""
    result = analyse_sheet(drop([33.0], passes=2, expected=24.0))
    lines = {x.label: x for x in kind_of(result).working(result, "psi").shared}
    assert "who agrees" not in lines
    held = lines["held against"]
    assert float(held.figure) == pytest.approx(50.0**0.5 - 26.0**0.5, abs=1e-4)
    assert held.source == "card"
