"""Job files, CSV and traces as nobody would write them: told what is wrong, quickly, or taken in.

Each begins as a good file and is changed in a few places.  With ``./plumb test --faults`` there are thousands.
"""

import json
import os
import time
from collections.abc import Callable, Sequence
from copy import deepcopy
from typing import Any, Final

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from tests.api.test_traces import crank_csv, log_csv
from tests.drivers import DEMO, Desk, new_id

from plumb.core.measure.problems import PlumbError, Problem
from plumb.jobfile.exact import dumps, loads
from plumb.jobfile.kinds import FILE_KINDS
from plumb.jobfile.reading import parse
from plumb.jobfile.results import analyse_file

EXAMPLES = 4000 if os.environ.get("PLUMB_LONG_TESTS") else 60
MOST_S: Final = 10.0
often = settings(
    max_examples=EXAMPLES, deadline=None, derandomize=EXAMPLES < 1000,
    suppress_health_check=list(HealthCheck),
)  # fmt: skip

_DEMOS: Final = {p.stem: loads(p.read_bytes()) for p in sorted(DEMO.glob("*.json"))}

_odd = st.one_of(
    st.none(), st.booleans(), st.integers(-5, 200), st.floats(allow_nan=False, allow_infinity=False), st.text(max_size=8),
    st.sampled_from([
        "", " ", "=1", "\\x00", "1e400", "-0", "null", [], {}, [[]], 0, -1, 10**30, 1e-320,
        "9999-12-31T23:59:59-23:59", "0001-01-01T00:00:00+23:59", "1", "none", "over", "x" * 600,
    ]),
)  # fmt: skip


def _places(data: Any, path: tuple[Any, ...] = ()) -> list[tuple[Any, ...]]:
    """Where every part of a file stands."""
    inside = data.items() if isinstance(data, dict) else enumerate(data)
    made = []
    for key, value in inside:
        made.append((*path, key))
        if isinstance(value, dict | list):
            made += _places(value, (*path, key))
    return made


def _at(data: Any, path: Sequence[Any]) -> Any:
    for step in path:
        data = data[step]
    return data


@st.composite
def job_files(draw: st.DrawFn) -> bytes:
    """A demo job with a few parts changed, doubled, taken away or put elsewhere; then as text."""
    data = deepcopy(_DEMOS[draw(st.sampled_from(sorted(_DEMOS)))])
    for _ in range(draw(st.integers(1, 3))):
        places = _places(data)
        *way, last = draw(st.sampled_from(places))
        at = _at(data, way)
        what = draw(st.sampled_from(["put"] * 6 + ["drop", "double", "key"]))
        if what == "put" and draw(st.booleans()):
            # What stands elsewhere in the file often fits by its shape, and is wrong by its sense.
            like = [_at(data, p) for p in places if type(_at(data, p)) is type(at[last])]
            at[last] = deepcopy(draw(st.sampled_from(like)))
        elif what == "put":
            at[last] = draw(_odd)
        elif what == "drop":
            del at[last]
        elif what == "double" and isinstance(at, list):
            at += [deepcopy(at[last])] * draw(st.sampled_from([1, 2, 150]))
        elif isinstance(at, dict):
            at[draw(st.text(max_size=6))] = at[last]
    text = bytearray(dumps(data).encode("utf-8", "surrogatepass"))
    if draw(st.integers(0, 29)) == 7 and text:
        text[draw(st.integers(0, len(text) - 1))] = draw(st.integers(0, 255))
    return bytes(text)


def _quick(work: Callable[[], Any]) -> Any:
    began = time.process_time()
    made = work()
    assert time.process_time() - began < MOST_S
    return made


@often
@given(job_files())
def test_a_job_file_is_analysed_or_told_what_is_wrong(text: bytes) -> None:
    """Without a server."""
    made, problems = _quick(lambda: _analysed(text))
    assert made["plumb"] == 1 if made else all(p.rule for p in problems)


def _analysed(text: bytes) -> tuple[dict[str, Any] | None, Sequence[Problem]]:
    try:
        return json.loads(dumps(analyse_file(parse(text)))), ()
    except PlumbError as error:
        return None, error.problems


@often
@given(job_files())
def test_a_job_file_is_stored_whole_or_not_at_all(desk: Desk, text: bytes) -> None:
    """With the store; what was taken in can be looked at, and comes out as a file again."""
    answer = _quick(lambda: desk.bring_in(text.decode("utf-8", "replace")))
    assert answer.status_code in {200, 409, 422}, answer.text
    if answer.status_code != 200:
        assert answer.json()["problems"]
        return
    number = answer.json()["job_number"]
    job = _quick(lambda: desk.client.get(f"/api/jobs/{number}"))
    assert job.status_code == 200, job.text
    assert desk.client.get(f"/api/jobs/{number}/file").status_code == 200
    for knot in job.json()["route"]:
        if knot["sheet_id"]:
            path = f"/api/sheets/{knot['sheet_id']}"
            assert _quick(lambda at=path: desk.client.get(at)).status_code == 200
            assert desk.client.get(f"{path}/working").status_code == 200
            assert desk.client.get(f"{path}/csv").status_code in {200, 422}
    _quick(lambda: desk.client.get("/api/jobs"))


_cells = st.one_of(
    st.sampled_from([
        "1", "2", "first", "second", "value", "note", "over", "none", "50", "26,5", "-1", "1e9",
        "=1", '"', "\\n", ";", "kPa", "2026-05-12T09:10:00+02:00", "9" * 40, "\\x00",
    ]),
    st.text(max_size=6),
)  # fmt: skip


@often
@given(
    st.sampled_from([",", ";", "\t"]),
    st.lists(
        st.sampled_from(["injector", "pass", "quantity", "value", "unit", "note", "taken", "x"]),
        max_size=9,
    ),
    st.lists(st.lists(_cells, max_size=9), max_size=12),
)
def test_csv_is_taken_in_or_told_what_is_wrong(
    desk: Desk, delimiter: str, header: list[str], rows: list[list[str]]
) -> None:
    """Any cells under any columns."""
    sheet = desk.open_job(2)
    text = "\n".join(delimiter.join(row) for row in [header, *rows])
    body = text.encode("utf-8", "surrogatepass")
    answer = _quick(lambda: desk.send(f"/api/sheets/{sheet['id']}/csv", body))
    assert answer.status_code in {200, 422}, answer.text
    assert desk.client.get(f"/api/sheets/{sheet['id']}").status_code == 200


_traces = {"pressure_drop": log_csv()[:9000], "cranking_balance": crank_csv()[:9000]}
TAKING = [code for code, kind in FILE_KINDS.items() if kind.roles]


@often
@given(
    st.sampled_from(sorted(_traces)),
    st.lists(st.tuples(st.integers(0, 400), st.binary(max_size=40)), min_size=1, max_size=4),
    st.sampled_from(TAKING),
)
def test_a_trace_is_taken_in_or_told_what_is_wrong(
    desk: Desk, base: str, changes: list[tuple[int, bytes]], kind: str
) -> None:
    """Bytes put anywhere into its head and its first lines."""
    text = _traces[base]
    for at, put in changes:
        text = text[:at] + put + text[at + len(put) // 2 :]
    head = _quick(lambda: desk.send("/api/trace-columns", text, kind=kind))
    assert head.status_code == 200, head.text
    system = "port" if kind == "pressure_drop" else "common_rail"
    sheet = desk.open_job(4, fuel_system=system, begin_with=kind)
    path = f"/api/sheets/{sheet['id']}/trace"
    answer = _quick(lambda: desk.send(path, text, request_id=new_id(), unit="bar"))
    assert answer.status_code in {200, 422}, answer.text


@pytest.mark.parametrize("kind", TAKING)
def test_the_good_traces_are_read(desk: Desk, kind: str) -> None:
    """What is changed above is good before."""
    for base in _traces:
        assert desk.send("/api/trace-columns", _traces[base], kind=kind).json()["fits"]
