"""Conditions as typed texts by the job file's keys."""

from decimal import Decimal

import pytest

from plumb.core.measure.problems import PlumbError
from plumb.jobfile.kinds import FILE_KINDS
from plumb.service.kinds.conditions import fields_of, put

BASE = {"kind": "coil_resistance", "id": "s", "unit": "ohm", "gauge": {"step": Decimal("0.1")}}


def test_texts_land_at_their_keys_with_their_digits() -> None:
    """Nested, numbers exact, the given data untouched."""
    made = put(BASE, "coil_resistance", {"window.low": "11,50", "gauge.lead": "0.20"})
    assert made["window"] == {"low": Decimal("11.50")}
    assert made["gauge"] == {"step": Decimal("0.1"), "lead": Decimal("0.20")}
    assert "window" not in BASE
    assert "lead" not in BASE["gauge"]


def test_an_empty_text_takes_a_value_away() -> None:
    """And what is expected goes with its figure."""
    drop = {"kind": "pressure_drop", "expected": {"drop": Decimal(24), "source": "card"}}
    assert "expected" not in put(drop, "pressure_drop", {"expected.drop": ""})
    assert put(drop, "pressure_drop", {"expected.source": ""})["expected"] == {"drop": Decimal(24)}


@pytest.mark.parametrize(
    ("kind", "key", "text", "code"),
    [
        ("coil_resistance", "window.colour", "red", "unknown_condition"),
        ("walk_round", "window.low", "3", "unknown_condition"),
        ("coil_resistance", "window.low", "eleven", "not_a_number"),
        ("pressure_drop", "burst.pulses", "5.5", "not_whole"),
    ],
)
def test_what_does_not_fit_is_named(kind: str, key: str, text: str, code: str) -> None:
    """By its key."""
    with pytest.raises(PlumbError) as caught:
        put({"kind": kind}, kind, {key: text})
    assert (caught.value.problems[0].path, caught.value.problems[0].code) == (key, code)


@pytest.mark.parametrize("kind", FILE_KINDS)
def test_every_field_is_a_key_that_the_file_knows(kind: str) -> None:
    """The first part of each key is a field of the kind's model."""
    for key in fields_of(kind):
        assert key.split(".")[0] in FILE_KINDS[kind].model.model_fields


def test_words_become_a_list_and_a_tick_becomes_true() -> None:
    """Complaints, codes; a neighbour that answered."""
    assert put({}, "walk_round", {"codes": "P0304  P0301"})["codes"] == ["P0304", "P0301"]
    made = put({}, "pressure_drop", {"neighbour_proven": "yes"})
    assert made["neighbour_proven"] is True
    assert put(made, "pressure_drop", {"neighbour_proven": ""}) == {}
