"""What every sheet says, and that its working can be redone by hand."""

import pytest

from plumb.core.measure.finding import Finding
from plumb.core.measure.lines import Working
from plumb.core.measure.quantities import KPA_PER
from plumb.core.procedures import KINDS, Result, kind_of
from plumb.core.weigh.job import analyse_job, analyse_sheet
from plumb.jobfile.reading import parse
from plumb.jobfile.to_core import core_job
from tests.core.jobs import coils, command, hold, supply, tips, walk
from tests.drivers import DEMO


def said(result: Result) -> str:
    """The headline as one string, in psi."""
    return "".join(s.text for s in kind_of(result).headline(result, "psi"))


def notes_of(result: Result, unit: str) -> tuple[str, ...]:
    """What else must be known."""
    return kind_of(result).notes(result, unit)


def because_of(finding: Finding, result: Result) -> str:
    """Why a row reads as it does."""
    return kind_of(result).because(finding, result, "psi")


def explain_sheet(result: Result, unit: str) -> Working:
    """How it was worked out."""
    return kind_of(result).working(result, unit)


@pytest.mark.parametrize(
    ("sheet", "text"),
    [
        (walk(hose="wet"), "Fuel stands in the vacuum hose: the regulator’s diaphragm is torn."),
        (walk("rough_idle"), "Noted: rough idle, nothing wrong seen outside."),
        (supply(), "The supply is inside its window."),
        (supply(44.0), "Key on too low."),
        (
            supply(0.0),
            "No pressure with the key on: the pump or its feed; the volts at its plug tell which. The injector work stops here.",
        ),
        (hold([(0, 50), (60, 49)]), "Holds: 49.0 psi left after 60 s, 45.0 psi asked for."),
        (hold([(0, 50), (60, 40)]), "Does not hold: 40.0 psi left after 60 s, 45.0 psi asked for."),
        (hold([(0, 50), (3, 2)]), "The pressure is gone within seconds."),
        (hold([]), "Nothing measured yet."),
        (command("blinks blinks"), "All blink."),
        (command("blinks steady"), "Command 2 stays on."),
        (tips("dry pours"), "Injector 2 pours."),
        (tips("dry dry"), "All tips stay dry."),
        (coils([12.4, 12.5, None]), "Injector 3 has an open coil."),
        (coils([12.4, 4.0, 16.0]), "Injector 2 has shorted turns; Injector 3 reads too high."),
        (coils([12.4, 12.5]), "Both coils are in plumb."),
    ],
)
def test_headlines(sheet: object, text: str) -> None:
    """One plain sentence."""
    assert said(analyse_sheet(sheet)) == text  # type: ignore[arg-type]


def test_a_hold_says_what_it_foretells_and_where_it_goes() -> None:
    """The range before its time; a contradiction by its steps; the one place left."""
    early = analyse_sheet(hold([(0, 50), (10, 49.5)]))
    assert said(early).startswith(
        "Too early to tell: 49.5 psi after 10 s; 45.0 psi asked for after 60 s."
    )
    longer = analyse_sheet(hold([(0, 50), (10, 49), (20, 48), (30, 47.5)]))
    assert "foretold after 60 s, between" in said(longer)
    clash = analyse_sheet(hold([(0, 50), (60, 30)], ("clamp_supply", "holds"), ("tips", "wet")))
    assert any(n.startswith("Contradiction: supply clamped") for n in notes_of(clash, "psi"))
    found = analyse_sheet(hold([(0, 50), (60, 30)], ("vacuum_hose", "wet")))
    assert "One place is left: regulator's diaphragm." in notes_of(found, "psi")


def test_coils_say_what_they_were_held_against() -> None:
    """The temperature, the tester's range, a coil that drags others."""
    hot = analyse_sheet(
        coils([15.3, 15.2, 15.4], temperature_c=90.0, window_from_c=10.0, window_to_c=32.0)
    )
    assert "at 32 °C, where the window holds" in because_of(hot.findings[0], hot)
    assert any("low range" in n for n in notes_of(hot, ""))
    raw = analyse_sheet(coils([12.4, 4.0, 12.5]))
    assert any("No coil temperature noted" in n for n in notes_of(raw, ""))
    assert any("partners of 2" in n for n in notes_of(raw, ""))


def test_the_working_of_a_coil_can_be_redone() -> None:
    """Reading, leads, copper: the printed figures agree with each other."""
    result = analyse_sheet(coils([15.3, 15.2], temperature_c=90.0))
    lines = {x.label: x.figure for x in dict(explain_sheet(result, "ohm").injectors)["1"]}
    cold = float(lines["without leads"]) / (1 + 0.00393 * 70)
    assert float(lines["at 20 °C"]) == pytest.approx(cold, abs=5e-4)


def test_the_working_of_a_hold_names_its_sources() -> None:
    """Theil, Sen, Torricelli; what is foretold after a minute is what the root law leaves of 50 psi."""
    falls = [(t, (50.0**0.5 - 0.07 * t / 20.0) ** 2) for t in (15.0, 30.0, 40.0, 45.0, 50.0)]
    result = analyse_sheet(hold(falls))
    shared = {x.label: x for x in explain_sheet(result, "psi").shared}
    assert "Sen 1968" in shared["leak constant"].source
    k = float(shared["leak constant"].figure.split(" ")[0])
    assert k == pytest.approx(0.07 * 3.0, abs=2e-4)
    left = (50.0**0.5 - 0.07 * 3.0) ** 2
    assert float(shared["foretold at 60 s"].figure) == pytest.approx(left, abs=0.02)


@pytest.mark.parametrize("path", sorted(DEMO.glob("*.json")), ids=lambda p: p.stem)
def test_every_sheet_of_the_demo_can_be_said_and_worked_out(path: object) -> None:
    """A sentence that ends, a reason for each row, figures with labels."""
    job = analyse_job(core_job(parse(path.read_text())))  # type: ignore[attr-defined]
    for _, result in job.sheets:
        assert said(result).endswith((".", "?"))
        for finding in result.findings:
            assert because_of(finding, result)
        unit = kind_of(result).unit
        working = explain_sheet(result, "psi" if unit in KPA_PER else unit)
        figures = [*working.shared, *(x for _, lines in working.injectors for x in lines)]
        assert all(x.label and x.figure for x in figures)


def test_every_kind_has_its_title_its_how_and_its_care() -> None:
    """The maker's procedure comes last in each care note, and before Plumb."""
    assert len({k.title for k in KINDS}) == len({k.how for k in KINDS}) == len(KINDS) == 16
    assert all("maker’s procedure" in k.care for k in KINDS)
