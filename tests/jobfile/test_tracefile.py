"""Traces as CSV: any names, units in the header, read in pieces, told by line what does not fit."""

from datetime import UTC, datetime, timedelta

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


@pytest.mark.parametrize(
    ("header", "columns"),
    [
        ("time s,rail actual bar", [("time", "s"), ("rail actual", "bar")]),
        ("T_ms,p_kPa", [("T", "ms"), ("p", "kPa")]),
        ("t [s],rail bar [psi]", [("t", "s"), ("rail bar", "psi")]),
        ("time,bar", [("time", ""), ("bar", "")]),
        ("sensor s,crossbar", [("sensor s", ""), ("crossbar", "")]),
    ],
)
def test_a_unit_may_be_the_last_word_of_a_name(header: str, columns: list[tuple[str, str]]) -> None:
    """Brackets come first; a name alone is no unit, and only time is in s without them."""
    table = read(f"{header}\n0,1\n2,3\n")
    assert [(c.name, c.unit) for c in table.columns] == columns


def test_a_missing_unit_is_asked_for() -> None:
    """A pressure without one is no pressure; told, it is."""
    table = read("t [s],p\n0,1\n1,2\n")
    with pytest.raises(PlumbError):
        kpa(table, 1)
    assert kpa(table, 1, "bar").tolist() == [100.0, 200.0]
    with pytest.raises(PlumbError):
        seconds(read("t [m],p\n0,1\n"), 0)


def _table(text: str | bytes, piece: int = 1 << 20) -> TraceTable:
    """A trace read in pieces of so many bytes."""
    data = text if isinstance(text, bytes) else text.encode()
    reader = TraceReader()
    for start in range(0, len(data), piece):
        reader.feed(data[start : start + piece])
    return reader.close()


PLAIN = "t [s];p [bar]\n0;3,5\n0,5;3,25\n1;3\n"


@pytest.mark.parametrize("coding", ["utf-8", "utf-8-sig", "utf-16", "utf-16-le", "utf-16-be"])
@pytest.mark.parametrize("piece", [1, 7, 1 << 20])
def test_a_trace_in_any_coding_of_loggers_is_the_same(coding: str, piece: int) -> None:
    """Also where a character is cut in two."""
    data = PLAIN.encode(coding)
    if piece < 4:
        data, piece = PLAIN.encode("utf-16") if "16" in coding else data, max(piece, 4) + 1
    table = _table(data, piece)
    assert [(c.name, c.unit) for c in table.columns] == [("t", "s"), ("p", "bar")]
    assert table.values.tolist() == [[0.0, 3.5], [0.5, 3.25], [1.0, 3.0]]


@pytest.mark.parametrize(
    "titles",
    [
        "Harbour logger 7\n",
        "Harbour logger 7\nvan SM-14, 12 May\n\n",
        "Logger;7\nDate;12.05.2026\n",
        "# made by hand\nTitle\n",
        "Channels;2;rate;2\n",
    ],
)
def test_titles_above_the_header_are_passed_over(titles: str) -> None:
    """Whatever stands above the line of names."""
    table = _table(titles + PLAIN)
    assert [(c.name, c.unit) for c in table.columns] == [("t", "s"), ("p", "bar")]
    assert len(table.values) == 3


def test_units_in_a_line_of_their_own_under_a_title() -> None:
    """Names, then units, then figures."""
    table = _table("Logger 7\ntime;rail\ns;bar\n0;3,5\n1;3\n")
    assert [(c.name, c.unit) for c in table.columns] == [("time", "s"), ("rail", "bar")]


def test_a_slip_under_the_header_is_no_title() -> None:
    """The bad cell is told by its own line, counted from the top of the file."""
    with pytest.raises(PlumbError) as caught:
        _table("Logger 7\nt [s];p [bar]\n0;3,5\n1;x\n2;3\n")
    assert caught.value.problems[0].path == "line 4, p"
    with pytest.raises(PlumbError) as first:
        _table("t [s];p [bar]\n0;x\n1;3\n")
    assert first.value.problems[0].path == "line 2, p"


@pytest.mark.parametrize(
    ("times", "seconds"),
    [
        (("12:30:05", "12:30:06", "12:31:05.25"), (0.0, 1.0, 60.25)),
        (("23:59:59", "00:00:00", "00:00:01,5"), (0.0, 1.0, 2.5)),
        (("2026-05-12 23:59:59", "2026-05-13 00:00:00", "2026-05-13T00:00:02.5"), (0.0, 1.0, 3.5)),
        (("31.12.2025 23:59:58", "31.12.2025 23:59:59", "01.01.2026 00:00:00"), (0.0, 1.0, 2.0)),
        (("05/31/2026 11:59:59 PM", "06/01/2026 12:00:00 AM", "06/01/2026 12:00:01 AM"),
         (0.0, 1.0, 2.0)),
    ],
)  # fmt: skip
def test_clock_times_and_dates_are_times(
    times: tuple[str, ...], seconds: tuple[float, ...]
) -> None:
    """Seconds since the first sample; past midnight they go on."""
    rows = "".join(f"{t};{n}\n" for n, t in enumerate(times))
    table = _table(f"time;p [bar]\n{rows}")
    assert table.columns[0].unit == "s"
    assert table.values[:, 0].tolist() == pytest.approx(seconds)


def test_a_clock_agrees_with_seconds() -> None:
    """The standard library's own times, over more than a day."""
    begun = datetime(2026, 5, 12, 22, 0, 0, tzinfo=UTC)
    steps = [begun + timedelta(seconds=97.5 * n) for n in range(1000)]
    rows = "".join(f"{t:%H:%M:%S.%f};1\n" for t in steps)
    told = _table(f"clock;p\n{rows}").values[:, 0]
    assert told.tolist() == pytest.approx([97.5 * n for n in range(1000)])


def test_what_is_no_clock_time_is_told_by_its_place() -> None:
    """A cell in a column of clock times that is none."""
    with pytest.raises(PlumbError) as caught:
        _table("time;p\n12:00:00;1\n12:00:01;1\n25:99:00;1\n")
    assert (caught.value.problems[0].path, caught.value.problems[0].value) == (
        "line 4, time", "25:99:00"
    )  # fmt: skip
