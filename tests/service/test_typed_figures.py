"""Figures as people type them, wherever a figure is typed: thousands set apart, units of their own, a clock.

Factors: NIST SP 811, Appendix B.8.
"""

from decimal import Decimal
from typing import Any

import pytest
from tests.drivers import Desk, new_id

from plumb.core.measure.problems import PlumbError
from plumb.core.measure.quantities import parse_typed
from plumb.service.kinds.conditions import fields_of, put
from plumb.service.kinds.typed_units import figure_in, in_unit


@pytest.mark.parametrize(
    ("text", "figure"),
    [
        ("70 000", "70000"), ("1'200", "1200"), ("1\u2019200.5", "1200.5"), ("1\u202f234\u202f567", "1234567"),
        ("1,200.5", "1200.5"), ("1,234,567", "1234567"), ("1.200,5", "1200.5"), ("1.234.567", "1234567"),
        ("26,5", "26.5"), ("0,125", "0.125"), ("70.000", "70.000"), ("-1 200", "-1200"), ("1234,567", "1234.567"),
    ],
)  # fmt: skip
def test_thousands_are_set_apart_as_people_do_it(text: str, figure: str) -> None:
    """Spaces thin and wide, apostrophes, commas before a point; a point alone is the decimal mark."""
    assert parse_typed(text) == Decimal(figure)


@pytest.mark.parametrize("text", ["70,000", "1,200", "-5,125"])
def test_what_can_mean_two_things_is_asked(text: str) -> None:
    """With both readings, and the whole one to be taken at a press."""
    with pytest.raises(PlumbError) as asked:
        parse_typed(text, "distance")
    [problem] = asked.value.problems
    assert (problem.code, problem.suggestion) == ("ambiguous", text.replace(",", ""))
    assert text.replace(",", ".") in problem.rule


@pytest.mark.parametrize("text", ["70 00", "1 2000", "1''200", "1,20,000", "12 psi bar", "1e3", ""])
def test_what_is_no_number_is_refused(text: str) -> None:
    """Thousands come in threes."""
    with pytest.raises(PlumbError) as refused:
        parse_typed(text)
    assert refused.value.problems[0].code == "not_a_number"


@pytest.mark.parametrize(
    ("text", "unit", "figure"),
    [
        ("20 min", "s", "1200"), ("20:00", "s", "1200"), ("1:20:30", "s", "4830"), ("90", "s", "90"),
        ("137 bar", "psi", "1987"), ("0.5 bar", "kPa", "50"), ("50 F", "°C", "10"), ("68 °F", "°C", "20"),
        ("40 °C", "°C", "40"), ("300 K", "°C", "26.9"), ("25 ft-lb", "N·m", "33.9"), ("25 lb-ft", "N·m", "33.9"),
        ("3 kgm", "N·m", "29.4"), ("60 N·m", "N·m", "60"), ("60 Nm", "N·m", "60"), ("43 000 mi", "km", "69200"),
        ("1'200 km", "km", "1200"), ("250 mV", "V", "0.25"), ("2 ms", "s", "0.002"),
    ],
)  # fmt: skip
def test_a_unit_of_its_own(text: str, unit: str, figure: str) -> None:
    """In the field's unit, with one digit more than was typed and at least three."""
    assert figure_in(text, unit) == Decimal(figure)


@pytest.mark.parametrize(
    ("text", "unit"),
    [
        ("5 kg", "psi"),
        ("50 ml", "°C"),
        ("3 psi", "N·m"),
        ("5 ft-lb", "bar"),
        ("1:75", "s"),
        ("20:00", "psi"),
    ],
)
def test_a_unit_that_does_not_fit_is_refused(text: str, unit: str) -> None:
    """And named."""
    with pytest.raises(PlumbError):
        figure_in(text, unit)


def test_the_entry_line_reads_the_same() -> None:
    """Its digits stay as they were typed, unless thousands were set apart."""
    assert in_unit("26,50", "psi").digits == "26,50"
    assert in_unit("1'200", "kPa").digits == "1200"
    assert in_unit("20:00", "s").digits == "1200"
    with pytest.raises(PlumbError):
        in_unit("70,000", "kPa")


def test_every_field_knows_its_unit() -> None:
    """By its label or by the last part of its key."""
    drop, hold, opening = (fields_of(k) for k in ("pressure_drop", "hold", "opening_pressure"))
    assert drop["engine.temperature_c"].unit("psi") == "°C"
    assert drop["supply_v"].unit("psi") == "V"
    assert drop["burst.on_ms"].unit("psi") == "ms"
    assert hold["window.lost_at_most"].unit("bar") == "bar"
    assert hold["window.within_s"].unit("bar") == "s"
    assert opening["nozzle.torque_nm"].unit("bar") == "N·m"
    made = put(
        {"unit": "bar"}, "hold", {"window.within_s": "20 min", "window.lost_at_most": "5 psi"}
    )
    assert made["window"] == {"within_s": Decimal(1200), "lost_at_most": Decimal("0.345")}


def test_a_form_and_a_distance_over_the_api(desk: Desk) -> None:
    """A window in another unit, a distance with its thousands; what can mean two things is refused."""
    sheet = desk.open_job(4, distance="70 000")
    sheet = desk.put(sheet, **{"engine.temperature_c": "50 F", "expected.drop": "1.5 bar"})
    fields: dict[str, Any] = {f["key"]: f["value"] for k in sheet["knobs"] for f in k["fields"]}
    assert (fields["engine.temperature_c"], fields["expected.drop"]) == ("10", "21.8")
    job = desk.client.get(f"/api/jobs/{sheet['job_number']}").json()
    assert job["distance"] == "70000"
    body = {"request_id": new_id(), "vehicle_name": "Van", "distance": "70,000"}
    answer = desk.client.post("/api/jobs", json=body)
    assert answer.status_code == 422
    assert answer.json()["problems"][0]["code"] == "ambiguous"
