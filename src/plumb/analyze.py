"""Job files analysed without a server: tables for people, JSON for programs, lines for many."""

import gc
from collections import deque
from collections.abc import Iterable, Iterator
from concurrent.futures import Future, ProcessPoolExecutor
from itertools import chain, islice
from multiprocessing import get_context
from typing import Any, Final, TextIO

from rich.console import Console
from rich.table import Table

from plumb.core.measure.problems import PlumbError, Problem
from plumb.jobfile.exact import dumps, dumps_figures
from plumb.jobfile.reading import parse
from plumb.jobfile.results import analyse_file


def as_json(text: bytes) -> str:
    """The result of one job file as one JSON object."""
    return dumps(analyse_file(parse(text)), indent=1)


_PIECE: Final = 50
"""So many lines one process is given at a time."""


def lines(source: Iterable[bytes], out: TextIO, workers: int = 1) -> int:
    """One job file a line in, one result a line out; 1 when a line did not fit, else 0.

    ``workers`` processes share the lines; results come in the order of the lines, and no more is
    read ahead than they are busy with.
    """
    filled_lines = (line for line in source if line.strip())
    pieces = iter(lambda: list(islice(filled_lines, _PIECE)), [])
    first = next(pieces, [])
    texts = (
        _shared_out(pieces, workers)
        if workers > 1 and len(first) == _PIECE
        else map(_piece, pieces)
    )
    code = 0
    for text, fits in chain([_piece(first)], texts):
        out.write(text)
        code = code if fits else 1
    return code


def _shared_out(pieces: Iterator[list[bytes]], workers: int) -> Iterator[tuple[str, bool]]:
    """The pieces worked through by several processes, in order."""
    context = get_context("fork")
    with ProcessPoolExecutor(workers, mp_context=context) as pool:
        busy: deque[Future[tuple[str, bool]]] = deque()
        for piece in pieces:
            busy.append(pool.submit(_piece, piece))
            if len(busy) > 2 * workers:
                yield busy.popleft().result()
        while busy:
            yield busy.popleft().result()


def _piece(source: list[bytes]) -> tuple[str, bool]:
    """Results of some lines as text, and whether all of them fitted."""
    made, fits = [], True
    # Records only, no cycles: the collector would walk millions of them for nothing.
    gc.freeze()
    gc.disable()
    try:
        for line in source:
            try:
                answer: dict[str, Any] = analyse_file(parse(line))
            except PlumbError as error:
                fits = False
                answer = _error(error.problems[0])
            made.append(dumps_figures(answer) + "\n")
    finally:
        gc.enable()
    return "".join(made), fits


def _error(problem: Problem) -> dict[str, Any]:
    got = f" (got {problem.value})" if problem.value else ""
    return {"error": {"path": problem.path, "message": problem.rule + got}}


def as_tables(text: bytes, console: Console) -> None:
    """Findings, verdicts and the next step for people."""
    file = parse(text)
    result = analyse_file(file)
    console.print(
        f"{file.vehicle.name}  {file.job.number}  {file.job.complaint}".strip(),
        style="bold",
        markup=False,
    )
    for sheet in result["sheets"]:
        _sheet_tables(sheet, result, console)
    verdicts = Table("Injector", "Condition", "Do", "Not ruled out")
    for v in result["verdicts"]:
        verdicts.add_row(
            v["injector"],
            v["condition"].replace("_", " "),
            v["action"].replace("_", " "),
            ", ".join(x.replace("_", " ") for x in v["not_ruled_out"]),
        )
    if result["verdicts"]:
        console.print(verdicts)
    for cause in (c for s in result["sheets"] for c in s["check_first"]):
        console.print(f"Check first: {cause}.", markup=False)
    step = result["next_step"]
    console.print(
        f"Next: {step['because']}" if step else "Next: nothing left that would change a verdict.",
        markup=False,
    )


def _sheet_tables(sheet: dict[str, Any], result: dict[str, Any], console: Console) -> None:
    """One sheet: what it says, findings, notes, every rule."""
    agreeing = f" (agreeing: {', '.join(sheet['agreeing'])})" if sheet["agreeing"] else ""
    console.print(
        f"\nSheet {sheet['sheet']}, {sheet['kind'].replace('_', ' ')}: {sheet['says']}{agreeing}",
        markup=False,
    )
    table = Table("Injector", "Figure", "Deviation", "u", "Reads as", "Because")
    for f in result["findings"]:
        if f["sheet"] == sheet["sheet"]:
            table.add_row(
                f["injector"] or f["quantity"].replace("_", " "),
                _figure(f["value"], f["unit"]),
                _either(f, "deviation", sign=True),
                _either(f, "uncertainty"),
                f["words"],
                f["because"],
            )
    if table.row_count:
        console.print(table)
    for note in sheet["notes"]:
        console.print(f"  {note}", markup=False)
    if not sheet["rules"]:
        return
    rules = Table("Rule", "Would reject", "Would repeat")
    for rule in sheet["rules"]:
        rules.add_row(
            rule["rule"],
            ", ".join(rule["reject"]) if rule["applies"] else "does not apply",
            ", ".join(rule["repeat"]),
        )
    console.print(rules)


def _either(finding: dict[str, Any], name: str, *, sign: bool = False) -> str:
    """Per cent of the reference, or the quantity itself where that is what is compared."""
    percent = finding[f"{name}_percent"]
    if percent is not None:
        return _figure(percent, "%", sign=sign)
    return _figure(finding[name], finding["unit"], sign=sign)


def _figure(value: float | None, unit: str, *, sign: bool = False) -> str:
    if value is None:
        return "-"
    return f"{value:+g} {unit}" if sign else f"{value:g} {unit}"
