"""Words and care fit the fuel system, and an engine that does not start."""

import json
import re
from pathlib import Path
from typing import Any

import pytest

from plumb.contract import words
from plumb.core.measure.codes import written
from plumb.core.measure.decision import Thresholds
from plumb.core.measure.spoken import COMPLAINTS, starts, words_in
from plumb.core.procedures import BY_CODE, FUEL_SYSTEMS, kind_of, route
from plumb.core.procedures.kind import Setting
from plumb.core.procedures.rail.analysis import RailSheet, analyse_rail
from plumb.core.weigh.glossary import can_be_told, glossary
from plumb.core.weigh.job import Job, analyse_job
from plumb.core.weigh.words_next import before_condemning
from plumb.jobfile.reading import parse
from plumb.jobfile.to_core import core_job
from tests.core.jobs import walk
from tests.drivers import DEMO
from tests.jobs_of_every_kind import job_file

HOSE = {"port", "throttle_body"}
STRANGE = {
    "port": r"nozzles?|shims?|glow|corrections?|common rail|high-pressure|humps?|control valve",
    "throttle_body": r"nozzles?|shims?|glow|corrections?|common rail|high-pressure|humps?",
    "direct": r"nozzles?|shims?|glow|corrections?|common rail|humps?|control valve",
    "common_rail": r"lean|piston|vacuum|hoses?|plugs|petrol|throttle|ignition|bursts?|nozzles?|shims?|pulsed?",
    "mechanical_diesel": r"lean|piston|vacuum|hoses?|petrol|throttle|ignition|bursts?|coils?|lamps?|connectors?|"
    r"plugs?|rail|control valve|regulator|feed|driver",
}
"""Words of another fuel system; common practice, no source."""


@pytest.mark.parametrize("fuel_system", FUEL_SYSTEMS)
def test_no_word_of_another_fuel_system_is_said(fuel_system: str) -> None:
    """Of everything that can be said there, no text speaks of what the engine does not have."""
    said = glossary(fuel_system).all_words()
    strange = [t for t in said if re.search(rf"\b({STRANGE[fuel_system]})\b", t, re.IGNORECASE)]
    assert strange == []
    assert len(said) > 40


def test_the_list_of_words_is_as_the_tables_are() -> None:
    """The committed list is made from the program."""
    assert (Path(__file__).parents[2] / "docs" / "words.md").read_text() == words()


def _on_its_rail(job: dict[str, Any]) -> dict[str, Any]:
    """A common rail is held on its high side, and only some engines have a hose to pull."""
    high = job["vehicle"]["fuel_system"] == "common_rail"
    for sheet in job["sheets"]:
        if sheet["kind"] == "hold":
            sheet |= {"rail": "high" if high else "low", "isolation": []}
        if sheet["kind"] == "supply_pressure" and job["vehicle"]["fuel_system"] not in HOSE:
            sheet["readings"] = [r for r in sheet["readings"] if r["state"] != "hose_off"]
    here = {k.code for k in route(job["vehicle"]["fuel_system"])}
    return job | {"sheets": [s for s in job["sheets"] if s["kind"] in here]}


def test_jobs_say_nothing_that_is_not_on_the_list() -> None:
    """The demo's jobs and drawn ones: each state's word is declared, each fact can be made there."""
    files = [parse(p.read_text()) for p in sorted(DEMO.glob("*.json"))]
    files += [parse(json.dumps(_on_its_rail(job_file(seed)))) for seed in range(900, 1020)]
    for file in files:
        job = core_job(file)
        result = analyse_job(job)
        for _, sheet in result.sheets:
            kind = kind_of(sheet)
            rows = {kind.state(f, sheet) for f in sheet.findings}
            assert rows - {""} <= set(kind.says), kind.code
        assert {f.code for f in result.facts} <= can_be_told(job.fuel_system)
        fitting = {r.name for r in glossary(job.fuel_system).rows}
        assert {name for _, v in result.verdicts for name in v.fired} <= fitting


@pytest.mark.parametrize("fuel_system", FUEL_SYSTEMS)
def test_an_engine_that_does_not_start_is_told_nothing_that_needs_it_to_run(
    fuel_system: str,
) -> None:
    """No running engine, no idle; where it is cranked the care of cranking stands there."""
    stalled = Setting(fuel_system=fuel_system, starts=False)
    for kind in route(fuel_system):
        told = kind.told(stalled)
        if not kind.can_be_done(stalled):
            assert "only on an engine that idles" in told.how
            continue
        text = f"{told.how} {told.measure} {told.care}"
        assert not re.search(r"engine runs:|run the engine|idling|at idle", text, re.IGNORECASE)
        if re.search(r"crank", f"{told.how} {told.measure}"):
            assert "Cranking: clear of belts" in told.care
    for kind in route(fuel_system):
        assert kind.told(Setting(fuel_system=fuel_system)).care.endswith("what Plumb says.")
        assert kind.told(stalled).care.endswith("what Plumb says.")


def test_common_rails_supply_is_the_low_side() -> None:
    """No vacuum hose, the jets' warning, another place for the gauge."""
    supply = BY_CODE["supply_pressure"]
    rail = supply.told(Setting(fuel_system="common_rail"))
    assert rail.slots == ("key_on", "running")
    assert "low side" in rail.how
    assert "goes through skin" in rail.care
    port = supply.told(Setting(fuel_system="port"))
    assert port.slots == ("key_on", "running", "hose_off")
    assert "skin" not in port.care
    stalled = supply.told(Setting(fuel_system="common_rail", starts=False))
    assert stalled.slots == ("key_on", "cranking")
    assert "goes through skin" in stalled.care


@pytest.mark.parametrize(
    ("text", "found"),
    [
        ("Cranks but does not start", ("no_start",)),
        ("won’t start when it is cold", ("no_start",)),
        ("No-start, hot", ("no_start",)),
        ("hard to start cold, fine above idle", ("hard_start_cold", "fine_above_idle")),
        ("starts badly when hot; smell of fuel", ("hard_start_hot", "fuel_smell")),
        ("Misfires at idle, no smoke", ("misfire",)),
        ("long crank, then black smoke", ("long_crank", "smoke_black")),
        ("idles rough and surges", ("rough_idle", "surges")),
        ("no misfire any more", ()),
        ("lost power on the hill", ("bogs",)),
        ("yearly look", ()),
        ("", ()),
    ],
)
def test_what_was_typed_at_the_start_speaks_of_a_complaint(
    text: str, found: tuple[str, ...]
) -> None:
    """Only what is named, and nothing that is denied."""
    assert words_in(text) == found
    assert set(found) <= set(COMPLAINTS)


def test_the_walk_round_knows_better_than_what_was_typed() -> None:
    """Whoever looked counts; where nobody looked, what was typed does."""
    assert not starts("does not start", ())
    assert starts("does not start", ("long_crank",))
    assert not starts("rough idle", ("no_start",))


def test_nothing_that_needs_idle_is_proposed_where_the_engine_does_not_start() -> None:
    """A common rail that does not start: never corrections, and rail and returns by cranking."""
    injectors = ("1", "2", "3", "4")
    stalled = Job(
        injectors=injectors,
        sheets=(("w", walk("no_start")),),
        fuel_system="common_rail",
        set_aside=frozenset({"supply_pressure"}),
    )
    step = analyse_job(stalled).next_step
    assert step is not None
    assert step.kind == "rail_pressure"
    typed = Job(
        injectors=injectors, sheets=(), fuel_system="common_rail", said=("no_start",),
        set_aside=frozenset({"supply_pressure", "walk_round"}),
    )  # fmt: skip
    again = analyse_job(typed).next_step
    assert again is not None
    assert again.kind == step.kind
    runs = Job(
        injectors=injectors, sheets=(("w", walk("rough_idle")),), fuel_system="common_rail",
        set_aside=frozenset({"supply_pressure"}),
    )  # fmt: skip
    begun = analyse_job(runs).next_step
    assert begun is not None
    assert begun.kind == "correction"


@pytest.mark.parametrize(
    ("wanted", "actual", "state"),
    [
        (300.0, 298.0, "good"),
        (300.0, 180.0, "low"),
        (300.0, 360.0, "high"),
        (300.0, 271.0, "unsettled"),
        (300.0, 262.0, "low"),
        (0.0, 5.0, "good"),
    ],
)
def test_a_rail_pressure_that_was_read_is_held_against_what_is_wanted(
    wanted: float, actual: float, state: str
) -> None:
    """A tenth is allowed and a figure is known to a hundredth: both common practice, no source."""
    sheet = RailSheet(read=(("cranking", wanted * 100.0, actual * 100.0),))
    result = analyse_rail(sheet, Thresholds())
    assert result.state == state
    assert result.begun
    says = "".join(s.text for s in kind_of(result).headline(result, "bar"))
    assert ("while cranking" in says) == (state in {"low", "high"})
    if wanted:
        found = result.findings[0]
        assert found.deviation == pytest.approx(actual / wanted - 1.0)
        assert (found.u, found.tolerance, found.passes) == (0.01, 0.10, 1)
    if state == "low":
        assert f"{wanted - actual:.0f} bar below" in says


def test_a_surging_trace_is_not_outweighed_by_a_figure() -> None:
    """Figures that stand still show no surge; what they show low counts beside a good trace."""
    steady = tuple((k / 10.0, 30_000.0, 30_000.0) for k in range(100))
    waving = tuple((t, w, a + (4000.0 if n % 10 < 5 else -4000.0))
                   for n, (t, w, a) in enumerate(steady))  # fmt: skip
    read = (("idle", 30_000.0, 30_000.0),)
    assert analyse_rail(RailSheet(series=waving, read=read)).state == "surges"
    low = RailSheet(series=steady, read=(("cranking", 30_000.0, 20_000.0),))
    found = analyse_rail(low)
    assert (found.state, found.off_in) == ("low", "cranking")
    assert not found.by_figures


def test_a_diesel_that_gets_more_is_not_sent_to_look_at_its_burst() -> None:
    """What stands before condemning speaks of the engine's own work."""
    files = [parse(p.read_text()) for p in sorted(DEMO.glob("*.json"))]
    for file in files:
        job = core_job(file)
        if job.fuel_system in {"common_rail", "mechanical_diesel"}:
            result = analyse_job(job)
            said = before_condemning(result.verdicts, job.fuel_system)
            assert not any("burst" in advice.text for advice in said)


@pytest.mark.parametrize(
    ("typed", "code"),
    [(" p0304", "P0304"), ("U3fff", "U3FFF"), ("B1A2C-1F", "B1A2C-1F"), ("1-2", "1-2"),
     ("157-18", "157-18"), ("SPN 157 FMI 18", "157-18"), ("0157.08", "157-8"),
     ("P4304", None), ("P030", None), ("P03045", None), ("1234567-1", None), ("157-123", None),
     ("", None)],
)  # fmt: skip
def test_the_form_of_a_code(typed: str, code: str | None) -> None:
    """SAE J2012: P, B, C, U, then 0 to 3 and three hexadecimal digits; SAE J1939-73: SPN and FMI."""
    assert written(typed) == code
