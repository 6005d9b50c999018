"""Traces as CSV: any names, units in the header, read in pieces, told by line what does not fit."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from plumb.core.measure.problems import PlumbError, Problem
from plumb.jobfile.kinds import FILE_KINDS
from plumb.jobfile.kinds.cranking import CRANKING
from plumb.jobfile.tracecolumns import guess, kpa, pick, seconds
from plumb.jobfile.tracefile import MOST_SAMPLES, Column, TraceReader, TraceTable


def read(text: str, *, piece: int = 0) -> TraceTable:
    """A whole text, in one piece or in many."""
    reader = TraceReader()
    data = text.encode()
    for k in range(0, len(data), piece or max(1, len(data))):
        reader.feed(data[k : k + (piece or len(data))])
    return reader.close()


def refused(text: str) -> Problem:
    """The first problem of a text that does not fit."""
    with pytest.raises(PlumbError) as caught:
        read(text)
    return caught.value.problems[0]


@pytest.mark.parametrize(
    "text",
    [
        "t [s],p [kPa]\n0,345.5\n0.5,344\n",
        "t (s);p (kPa)\r\n0;345,5\r\n0,5;344\r\n",
        "t\tp\ns\tkPa\n0\t345.5\n0.5\t344",
        "\ufefft [s],p [kPa]\n\n0,345.5\n0.5,344\n\n",
        '"t [s]","p [kPa]"\n0,345.5\n0.5,344\n',
    ],
    ids=["comma", "semicolon", "units in a second line", "mark and empty lines", "quotes"],
)
def test_the_same_trace_in_many_hands(text: str) -> None:
    """Names, units and values do not depend on how it was written."""
    table = read(text)
    assert table.columns == (Column("t", "s"), Column("p", "kPa"))
    assert table.values.tolist() == [[0.0, 345.5], [0.5, 344.0]]


@given(st.integers(1, 60), st.integers(3, 40))
def test_pieces_do_not_matter(piece: int, rows: int) -> None:
    """Cut anywhere, even in the middle of a figure."""
    text = "t [ms];A [A]\n" + "".join(
        f"{k};{k * 1.25:.2f}\n".replace(".", ",") for k in range(rows)
    )
    assert np.array_equal(read(text, piece=piece).values, read(text).values)


def test_an_empty_cell_is_no_figure_and_no_zero() -> None:
    """It is left out later; a cell that is missing at the end as well."""
    values = read("t [s],p [kPa],x\n0,1,2\n1,,3\n2,5\n").values
    assert np.isnan(values[1, 1])
    assert np.isnan(values[2, 2])


@pytest.mark.parametrize(
    ("text", "path", "value"),
    [
        ("t [s],p [kPa]\n0,1\n1,abc\n", "line 3, p", "abc"),
        ("t [s],p [kPa]\n0,1\n\n1,2,3\n", "line 4", "1,2,3"),
        ("0,1\n1,2\n", "line 1", "0,1"),
        ("t [s],p [kPa]\n", "", ""),
        ("", "line 1", ""),
    ],
)
def test_what_does_not_fit_is_told_by_its_place(text: str, path: str, value: str) -> None:
    """Line, column and what stood there."""
    problem = refused(text)
    assert (problem.path, problem.value) == (path, value)


def test_more_samples_than_allowed_are_refused_while_they_come() -> None:
    """Not after all of them have been read."""
    reader = TraceReader()
    reader.feed(b"t [s],p [kPa]\n")
    lines = b"1,2\n" * 500_000
    for _ in range(MOST_SAMPLES // 500_000):
        reader.feed(lines)
    with pytest.raises(PlumbError) as caught:
        reader.feed(lines)
    assert caught.value.problems[0].code == "too_many"
    assert reader.samples <= MOST_SAMPLES + 1_000_000


@pytest.mark.parametrize(
    ("kind", "header", "picks"),
    [
        ("cranking_balance", "t [ms],Clamp [A]", ("t", "Clamp", "")),
        ("cranking_balance", "A [V],B [A],time [s]", ("time", "B", "")),
        ("cranking_balance", "x [s],ch1 [mV],trigger [V]", ("x", "ch1", "trigger")),
        ("rail_pressure", "t [s],desired [bar],measured [bar]", ("t", "desired", "measured")),
        ("rail_pressure", "zeit [s],Rail ist [bar],Rail soll [bar]", ("zeit", "Rail soll", "Rail ist")),
        ("pressure_drop", "seconds,volts [V],rail [psi]", ("seconds", "rail")),
    ],
)  # fmt: skip
def test_columns_are_guessed_by_name_and_unit(
    kind: str, header: str, picks: tuple[str, ...]
) -> None:
    """In whatever order they stand."""
    table = read(header + "\n" + ",".join("1" * len(header.split(","))) + "\n")
    assert tuple(guess(FILE_KINDS[kind].roles, table.columns).values()) == picks


def test_a_column_can_be_told_and_a_wrong_one_is_named() -> None:
    """What is told comes before what is guessed; a dash means none."""
    table = read("t [s],a [A],b [A],sync [V]\n0,1,2,0\n1,1,2,5\n")
    assert pick(CRANKING.roles, table, {"current": "b"})["current"] == 2
    assert "sync" not in pick(CRANKING.roles, table, {"sync": "-"})
    with pytest.raises(PlumbError) as caught:
        pick(CRANKING.roles, table, {"current": "c"})
    assert caught.value.problems[0].path == "current"


@pytest.mark.parametrize(
    ("unit", "in_kpa"),
    [("bar", 100.0), ("MPa", 1000.0), ("psi", 6.894757293168), ("kgf/cm²", 98.0665), ("mbar", 0.1)],
)
def test_units_of_the_header(unit: str, in_kpa: float) -> None:
    """Factors of NIST SP 811, Appendix B.8."""
    table = read(f"t [min],p [{unit}]\n0,1\n2,3\n")
    assert kpa(table, 1)[0] == pytest.approx(in_kpa)
    assert seconds(table, 0).tolist() == [0.0, 120.0]


def test_a_missing_unit_is_asked_for() -> None:
    """A pressure without one is no pressure; told, it is."""
    table = read("t [s],p\n0,1\n1,2\n")
    with pytest.raises(PlumbError):
        kpa(table, 1)
    assert kpa(table, 1, "bar").tolist() == [100.0, 200.0]
    with pytest.raises(PlumbError):
        seconds(read("t [m],p\n0,1\n"), 0)
