"""Readings CSV: both delimiters, both decimal marks, any order; problems by line and column."""

import pytest

from plumb.core.measure.problems import PlumbError
from plumb.jobfile.csvfile import Target, parse_csv, write_csv

TARGET = Target(job="7", sheet="s1", unit="psi", injectors=("1", "2", "3"), kind="pressure_drop")


def places(text: str) -> list[str]:
    """Where the problems are."""
    with pytest.raises(PlumbError) as caught:
        parse_csv(text, TARGET)
    return [p.path for p in caught.value.problems]


def test_comma_and_point() -> None:
    """Plain CSV, one figure a row."""
    readings = parse_csv("injector,pass,quantity,value\n1,1,first,50.0\n1,1,second,26.50\n", TARGET)
    assert [(r.injector, r.pass_, str(r.first), str(r.second)) for r in readings] == [
        ("1", 1, "50.0", "26.50")
    ]


def test_semicolon_and_comma_and_any_order() -> None:
    """As spreadsheets of half of the world write it, with a byte order mark."""
    text = "\ufeffvalue;quantity;injector\n50,5;first;2\n26;second;2\n"
    reading = parse_csv(text, TARGET)[0]
    assert (reading.injector, str(reading.first)) == ("2", "50.5")


def test_marks_stand_for_missing_figures() -> None:
    """none needs no value; read_late keeps its own."""
    text = (
        "injector,quantity,value,note\n1,second,,none\n"
        "2,first,50,\n2,second,26,read_late\n3,first,50,\n3,second,27,hose kinked\n"
    )
    marks = {r.injector: (r.mark, r.note) for r in parse_csv(text, TARGET)}
    assert marks == {
        "1": ("none", "none"), "2": ("read_late", "read_late"), "3": (None, "hose kinked"),
    }  # fmt: skip


def test_out_and_in_again() -> None:
    """What is written is read as it was."""
    text = (
        "injector,pass,quantity,value,note\n1,1,first,50.50,\n1,1,second,26.0,\n"
        "2,1,first,50,\n2,1,second,,none\n1,2,first,51,\n1,2,second,27,read_late\n"
    )
    readings = parse_csv(text, TARGET)
    assert parse_csv(write_csv(TARGET, readings), TARGET) == readings


@pytest.mark.parametrize(
    ("row", "place"),
    [
        ("9,1,first,50,psi,7,s1", "line 2, injector"),
        ("1,0,first,50,psi,7,s1", "line 2, pass"),
        ("1,x,first,50,psi,7,s1", "line 2, pass"),
        ("1,1,third,50,psi,7,s1", "line 2, quantity"),
        ("1,1,first,fifty,psi,7,s1", "line 2, value"),
        ("1,1,first,50,kPa,7,s1", "line 2, unit"),
        ("1,1,first,50,psi,8,s1", "line 2, job"),
        ("1,1,first,50,psi,7,s2", "line 2, sheet"),
        ("1,1,first,50,psi,7,s1,x", "line 2"),
        ("1,1,first,50,psi,7,s1", "line 2"),
    ],
)
def test_problems_are_told_by_line_and_column(row: str, place: str) -> None:
    """The last one lacks its second reading."""
    assert place in places(f"injector,pass,quantity,value,unit,job,sheet\n{row}\n")


@pytest.mark.parametrize(
    "header", ["injector,quantity", "injector,quantity,value,colour", "injector,injector,value", ""]
)
def test_a_header_that_does_not_fit_is_line_one(header: str) -> None:
    """Missing, unknown and double columns."""
    assert set(places(header + "\n1,first,50\n")) == {"line 1"}


def test_the_same_figure_twice_is_refused() -> None:
    """Nothing is silently overwritten."""
    assert "line 3, quantity" in places("injector,quantity,value\n1,first,50\n1,first,51\n")


NOZZLES = Target(job="7", sheet="s1", unit="bar", injectors=("1", "2"), kind="opening_pressure")
SEEN = (
    "injector,pass,quantity,value,unit\n1,1,value,116.0,bar\n1,1,shim_mm,1.040,mm\n"
    "1,1,seat,dry,\n1,1,sound,chatters,\n1,1,spray,even,\n2,1,value,118,bar\n"
)


def test_what_was_seen_stands_beside_its_figure() -> None:
    """Shims, seat, sound and spray of a stroke; out and in again as they were."""
    first, second = parse_csv(SEEN, NOZZLES)
    assert (str(first.shim_mm), first.seat, first.sound, first.spray) == (
        "1.040", "dry", "chatters", "even",
    )  # fmt: skip
    assert (second.seat, second.shim_mm) == (None, None)
    assert parse_csv(write_csv(NOZZLES, [first, second]), NOZZLES) == [first, second]


@pytest.mark.parametrize(
    ("row", "place", "rule"),
    [
        ("1,1,seat,soggy,", "line 4, seat", "one of 'dry', 'damp' or 'wet'"),
        ("1,1,seat,wet,bar", "line 8, unit", "a word has no unit"),
        ("1,1,shim_mm,1.05,bar", "line 8, unit", "this sheet's unit is mm"),
        ("1,1,shim_mm,1.05,mm", "line 8, quantity", "one figure for each"),
        ("2,1,shim_mm,thick,mm", "line 8, value", "typed with digits"),
        ("1,2,seat,dry,", "line 8", "a value is needed"),
        ("2,1,fires_at,40,bar", "line 8, quantity", "value or shim_mm or seat or sound or spray"),
    ],
)
def test_what_was_seen_and_does_not_fit(row: str, place: str, rule: str) -> None:
    """By line, and by what would."""
    text = SEEN if "soggy" not in row else SEEN.replace("1,1,seat,dry,", row)
    with pytest.raises(PlumbError) as caught:
        parse_csv(text if text != SEEN else SEEN + row + "\n", NOZZLES)
    problem = caught.value.problems[0]
    assert problem.path == place
    assert rule in problem.rule
