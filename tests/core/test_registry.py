"""Facts, rows and kinds hang together: nothing is read that nobody makes, every row decides a case."""

from itertools import product
from typing import Any, Final

import pytest

from plumb.core.measure.fact import Fact
from plumb.core.procedures import KINDS
from plumb.core.procedures.kind import Effort
from plumb.core.weigh.job import analyse_job
from plumb.core.weigh.registry import registry
from plumb.core.weigh.row import VerdictRow
from plumb.core.weigh.table import TABLE
from plumb.core.weigh.verdict import judge
from plumb.jobfile.exact import dumps
from plumb.jobfile.reading import parse
from plumb.jobfile.to_core import core_job
from tests.drivers import DEMO
from tests.jobs_of_every_kind import job_file


def rare(system: str, **sheet: Any) -> dict[str, Any]:
    """A job of four cylinders with one sheet."""
    injectors = [{"id": str(n), "cylinder": n} for n in range(1, 5)]
    vehicle = {"name": "Torvik Lundy 1.8", "fuel_system": system, "injectors": injectors}
    gauge = {} if sheet["kind"] == "rail_pressure" else {"gauge": {"step": 1}}
    return {"plumb": 1, "vehicle": vehicle, "sheets": [{"id": "s1", **gauge, **sheet}]}


def board(rail: str, **tried: str) -> dict[str, Any]:
    """A hold of which only the isolation board is filled in."""
    steps = [{"step": step, "outcome": outcome} for step, outcome in tried.items()]
    return {"kind": "hold", "unit": "psi", "rail": rail, "isolation": steps}


RARE: Final = (
    ("mechanical_diesel", {
        "kind": "opening_pressure", "unit": "bar", "window": {"low": 122, "high": 132},
        "readings": [{"injector": x, "value": 117} for x in "123"],
    }),
    ("mechanical_diesel", {
        "kind": "opening_pressure", "unit": "bar", "window": {"low": 122, "high": 132},
        "readings": [{"injector": x, "value": 127} for x in "1234"],
        "held": {"lost": [1, 1, 9, 1], "at_most": 4},
    }),
    ("common_rail", {
        "kind": "rail_pressure", "unit": "bar",
        "readings": [{"state": "cranking", "wanted": 280, "actual": 9}],
    }),
    ("common_rail", {
        "kind": "hold", "unit": "bar", "rail": "high", "window": {"lost_at_most": 80, "within_s": 60},
        "series": [{"t_s": t, "value": 300 - t} for t in (0, 10, 20, 30, 40, 50, 60)],
    }),
    ("port", board("low", clamp_both="falls", vacuum_hose="dry", outside="dry", tips="dry")),
    ("common_rail", board("high", outside="wet")),
    ("common_rail", board("high", tips="wet")),
    ("common_rail", board("high", low_side="rises")),
    ("common_rail", board("high", low_side="steady", outside="dry", tips="dry")),
    ("common_rail", {
        "kind": "correction", "unit": "percent",
        "readings": [{"injector": x, "value": v} for x, v in zip("1234", (0, 0, 0, 4.3), strict=True)],
    }),
    ("common_rail", {
        "kind": "cranking_balance", "unit": "percent", "trace": {"cycles": [[100, 100, 60, 100]] * 4},
    }),
    ("common_rail", {
        "kind": "cranking_balance", "unit": "percent",
        "readings": [
            {"cylinder": n, "value": v} for n, v in enumerate((100, 100, 100, 85), 1)
        ],
    }),
    ("port", {
        "kind": "pressure_drop", "unit": "psi",
        "readings": [
            {"injector": x, "pass": p, "first": 50, "second": 50 if x == "3" and p % 2 else 26}
            for x in "1234" for p in (1, 2, 3, 4)
        ],
    }),
    ("port", {
        "kind": "pressure_drop", "unit": "psi", "gauge": {"step": 0.5},
        "readings": [
            {"injector": x, "pass": p, "first": 49 + p, "second": round(((49 + p) ** 0.5 - flow) ** 2, 1)}
            for x, flow in zip("1234", (1.97, 1.875, 1.78, 1.685), strict=True) for p in (1, 2, 3)
        ],
    }),
    *(
        (system, {
            "kind": kind, "unit": unit,
            "readings": [
                {"injector": x, "pass": p, "value": low if (x, p) == ("3", 1) else high}
                for x in "1234" for p in (1, 2)
            ],
        })
        for system, kind, unit, low, high in (
            ("direct", "injector_balance_running", "psi", 0, 40),
            ("port", "flow_bench", "ml", 12, 60),
        )
    ),
    ("direct", {
        "kind": "injector_balance_running", "unit": "psi",
        "readings": [{"injector": x, "value": v} for x, v in zip("1234", (40, 30, 30, 40), strict=True)],
    }),
    ("mechanical_diesel", {
        "kind": "opening_pressure", "unit": "bar",
        "readings": [{"injector": "1", "value": None, "note": "none"}],
    }),
)  # fmt: skip
"""Sheets that make the facts that a few hundred jobs seldom show."""


@pytest.fixture(scope="module")
def told() -> list[tuple[str, Fact]]:
    """Every fact of the demo and of some hundred generated jobs, with the kind of its sheet."""
    texts = [path.read_bytes() for path in DEMO.glob("*.json")]
    texts += [dumps(job_file(seed)).encode() for seed in range(240)]
    texts += [dumps(rare(system, **sheet)).encode() for system, sheet in RARE]
    made = []
    for text in texts:
        result = analyse_job(core_job(parse(text)))
        kinds = {key: r.kind for key, r in result.sheets}
        made += [(kinds.get(f.sheet, ""), f) for f in result.facts]
    return made


def test_no_fact_is_read_that_nobody_makes() -> None:
    """Each code in a row, a suspicion, a contradiction, a cause, the order of work."""
    assert [e.code for e in registry().values() if not e.when] == []


def test_every_fact_is_read_or_shown(told: list[tuple[str, Fact]]) -> None:
    """By a rule, or as a sentence by a person."""
    shown = {f.code for _, f in told if f.text}
    assert [e.code for e in registry().values() if not e.read_by and e.code not in shown] == []


def test_a_sheet_makes_only_what_its_kind_says(told: list[tuple[str, Fact]]) -> None:
    """The card lists its facts; what follows from several sheets is listed with the job."""
    entries = registry()
    for kind, fact in told:
        made_by = entries[fact.code].made_by
        assert kind in made_by or not made_by


def test_every_fact_that_a_sheet_lists_is_made_somewhere(told: list[tuple[str, Fact]]) -> None:
    """By one of the demo's or the generated jobs; a code that never comes up is dead."""
    listed = {code for kind in KINDS for code in kind.makes}
    assert listed - {f.code for _, f in told} == set()


USUAL = frozenset({"a_coil_reads", "neighbour_answered"})
"""What most sheets tell beside what is out: other coils read, other injectors answered."""


@pytest.mark.parametrize("row", TABLE, ids=lambda row: row.name)
def test_every_row_decides_a_case(row: VerdictRow) -> None:
    """Some choice of the facts that it needs lets it speak before all others."""
    choices = [frozenset(c) for c in product(*(sorted(group) for group in row.needs))]
    if row.name == "contradiction":
        choices = [frozenset({"coil_good", "volts_out"})]
    assert any(judge(c | usual).row == row.name for c in choices for usual in (frozenset(), USUAL))


def test_what_is_done_once_takes_no_longer_for_more() -> None:
    """Unless it says what each injector adds."""
    assert Effort(once=3.0).minutes(8) == 3.0
    assert Effort(once=3.0, each=0.5).minutes(8) == 7.0
