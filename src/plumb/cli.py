"""The command line: demo, serve, stop, backup, restore, export, bring, analyze, trace, bench, settings."""

import importlib
import os
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Annotated

import typer
from pydantic import ValidationError
from rich.console import Console
from rich.table import Table

from plumb import cli_keeping
from plumb.core.measure.problems import PlumbError

app = typer.Typer(
    no_args_is_help=True,
    add_completion=False,
    rich_markup_mode=None,
    help="Plumb: which injector leans, what to do with it, what could imitate it.",
)
console = Console(highlight=False)
errors = Console(stderr=True, highlight=False, soft_wrap=True)


_Network = Annotated[
    bool, typer.Option("--network", help="open it to the workshop: TLS, people sign in")
]


def _serve(*, demo: bool, network: bool) -> None:
    from plumb.api.settings import Settings  # noqa: PLC0415  analyze must not wait for the server's parts
    from plumb.demo import load  # noqa: PLC0415
    from plumb.serving import serve  # noqa: PLC0415
    from plumb.store.server import ServerTrouble  # noqa: PLC0415

    settings = Settings(network=True) if network else Settings()
    if settings.log == "json":
        from plumb.api.log import as_json  # noqa: PLC0415

        as_json()
    try:
        if demo:
            from plumb.demo.bench import bench as standing_in  # noqa: PLC0415

            with standing_in() as stand_ins:
                serve(settings, lambda engine: load.once(engine, stand_ins))
        else:
            serve(settings, load.gauges_once, keeps=True)
    except ServerTrouble as error:
        errors.print(f"plumb: {error}", markup=False)
        raise typer.Exit(2) from None


@app.command()
def demo(*, network: _Network = False) -> None:
    """Start Plumb with the demo jobs of the Saltmere workshop."""
    _serve(demo=True, network=network)


@app.command()
def serve(*, network: _Network = False) -> None:
    """Start Plumb without demo jobs."""
    _serve(demo=False, network=network)


@app.command()
def stop() -> None:
    """Stop an application and database that still run."""
    from plumb.api.settings import Settings  # noqa: PLC0415
    from plumb.stopping import stop as stop_all  # noqa: PLC0415

    console.print("Stopped." if stop_all(Settings()) else "Nothing was running.")


cli_keeping.register(app)


@app.command()
def journal(
    file: Annotated[
        str, typer.Argument(help="what the journal's page handed on; - is standard input")
    ],
) -> None:
    """Look over an exported journal: whether an entry was changed, or is missing."""
    from plumb.service.people.journal import check_lines  # noqa: PLC0415

    with _told(file), _stream(file) as lines:
        checked = check_lines(lines)
    if checked.wrong:
        errors.print(f"{file}: {checked.wrong}", markup=False)
        raise typer.Exit(1)
    console.print(
        f"{checked.entries} entries, none changed, none missing; last seal {checked.hash}"
    )


@app.command()
def settings() -> None:
    """Every setting: variable, value, default, what it is."""
    from plumb.api.settings import table  # noqa: PLC0415

    rows = table()
    made = Table()
    # A name that is broken over lines cannot be copied.
    made.add_column("Variable", no_wrap=True, min_width=max(len(r[0]) for r in rows))
    for title in ("Value", "Default", "What it is"):
        made.add_column(title)
    for row in rows:
        made.add_row(*row)
    console.print(made)


@app.command()
def analyze(
    files: Annotated[
        list[str] | None, typer.Argument(help="job files; none, or -, is standard input")
    ] = None,
    as_json: Annotated[bool, typer.Option("--json", help="one JSON object a file")] = False,
    jsonl: Annotated[bool, typer.Option("--jsonl", help="one job file a line")] = False,
) -> None:
    """Analyse job files: findings and verdicts."""
    from plumb import analyze as analysis  # noqa: PLC0415

    if not files and sys.stdin.isatty():
        errors.print("plumb: name a job file, or send one to standard input", markup=False)
        raise typer.Exit(2)
    code = 0
    for name in files or ["-"]:
        try:
            if jsonl:
                code = max(code, analysis.lines(_stream(name), sys.stdout, os.cpu_count() or 1))
            elif as_json:
                sys.stdout.write(analysis.as_json(_read(name)) + "\n")
            else:
                analysis.as_tables(_read(name), console)
        except PlumbError as error:
            for problem in error.problems:
                errors.print(f"{name}: {problem.text()}", markup=False)
            code = 2
        except OSError as error:
            errors.print(f"{name}: cannot be read ({error.strerror})", markup=False)
            code = 2
    raise typer.Exit(code)


@app.command()
def plan(
    file: Annotated[str, typer.Argument(help="a job file; - is standard input")],
    as_json: Annotated[bool, typer.Option("--json", help="one JSON object")] = False,
) -> None:
    """Ways to put it right, with what each can be expected to cost."""
    from plumb import finishing  # noqa: PLC0415

    with _told(file):
        finishing.plan(_read(file), console, as_json=as_json)


@app.command()
def report(
    file: Annotated[str, typer.Argument(help="a job file; - is standard input")],
    out: Annotated[Path | None, typer.Option("-o", "--out", help="where to")] = None,
) -> None:
    """The report of a job file as PDF: for the customer, then for the workshop."""
    from plumb import finishing  # noqa: PLC0415

    with _told(file):
        _put(finishing.report(_read(file)), out or _beside(file, "report"))


@app.command()
def worksheet(
    file: Annotated[str, typer.Argument(help="a job file; - is standard input")],
    out: Annotated[Path | None, typer.Option("-o", "--out", help="where to")] = None,
    base: Annotated[
        str, typer.Option(help="address that a phone reaches this Plumb at")
    ] = "http://127.0.0.1:8650",
) -> None:
    """An empty worksheet for what is left to measure, as PDF."""
    from plumb import finishing  # noqa: PLC0415

    with _told(file):
        _put(finishing.worksheet(_read(file), base), out or _beside(file, "worksheet"))


def _beside(name: str, what: str) -> Path:
    """A name for what is made of a file, where the command stands."""
    stem = "job" if name == "-" else Path(name).name.removesuffix(".json").removesuffix(".plumb")
    return Path(f"{stem}-{what}.pdf")


def _put(data: bytes, out: Path) -> None:
    """Write a paper, and say where."""
    out.write_bytes(data)
    console.print(f"wrote {out}", markup=False)


@contextmanager
def _told(name: str) -> Iterator[None]:
    """Whatever does not fit is told with the file's name, and ends with 2."""
    try:
        yield
    except PlumbError as error:
        for problem in error.problems:
            errors.print(f"{name}: {problem.text()}", markup=False)
        raise typer.Exit(2) from None
    except OSError as error:
        errors.print(f"{name}: {error.strerror}", markup=False)
        raise typer.Exit(2) from None


def _read(name: str) -> bytes:
    return sys.stdin.buffer.read() if name == "-" else Path(name).read_bytes()


def _stream(name: str):  # type: ignore[no-untyped-def]  # noqa: ANN202  a binary stream either way
    return sys.stdin.buffer if name == "-" else Path(name).open("rb")


@app.command()
def trace(
    what: Annotated[str, typer.Argument(help="cranking, rail or bursts")],
    file: Annotated[Path, typer.Argument(help="a CSV with units in its first line")],
    cylinders: Annotated[int, typer.Option(min=1, max=16, help="humps a cycle")] = 4,
    step: Annotated[float, typer.Option(min=0, help="of the gauge, in the log's unit")] = 0.0,
    unit: Annotated[str, typer.Option(help="of pressure, if the header has none")] = "",
    as_json: Annotated[bool, typer.Option("--json", help="one JSON object")] = False,
) -> None:
    """Find humps of starter current, a surging rail, or bursts in a trace."""
    from plumb import trace as tracing  # noqa: PLC0415

    try:
        table = tracing.read_file(file, None if as_json else errors)
        found = tracing.analyse_trace(what, table, cylinders=cylinders, step=step, unit=unit)
    except PlumbError as error:
        for problem in error.problems:
            errors.print(f"{file}: {problem.text()}", markup=False)
        raise typer.Exit(2) from None
    except OSError as error:
        errors.print(f"{file}: cannot be read ({error.strerror})", markup=False)
        raise typer.Exit(2) from None
    tracing.show(found, console, as_json=as_json)


@app.command()
def standins(
    engine: Annotated[Path | None, typer.Option(help="the engine, as JSON")] = None,
    faults: Annotated[Path | None, typer.Option(help="what is wrong, as JSON")] = None,
    port: Annotated[
        int, typer.Option(min=0, max=65500, help="of the first; 0 takes free ones")
    ] = 5025,
    seed: Annotated[int, typer.Option(help="of noise and scatter")] = 1,
    speed: Annotated[float, typer.Option(min=0.1, max=100, help="how fast its clock goes")] = 1.0,
    with_parent: Annotated[bool, typer.Option(help="end with the program that began it")] = False,
) -> None:
    """A virtual engine with its instruments, each on a port, speaking SCPI."""
    from plumb.bench.standins.files import read_engine, read_faults  # noqa: PLC0415
    from plumb.bench.standins.server import stand_in  # noqa: PLC0415

    with _told(str(engine or "plumb")):
        hidden = read_engine(engine)
    with _told(str(faults or "plumb")):
        stand_in(
            hidden, read_faults(faults), port=port, seed=seed, speed=speed, with_parent=with_parent
        )


_BENCHES = {
    "speed": ("speed", "speed", ()),
    "detection": ("report", "detection", ("sets", "seed")),
    "diagnosis": ("diagnosis", "diagnosis", ("engines", "seed")),
    "visits": ("visits", "visits", ("engines", "seed")),
    "calibration": ("calibration", "calibration", ("engines", "seed")),
    "practice": ("practice", "practice", ("seed",)),
    "capture": ("capturing", "capturing", ("bursts", "seed")),
    "line": ("line", "line", ()),
    "traces": ("trace_speed", "traces", ()),
    "papers": ("papers", "papers", ()),
    "scale": ("scale", "scale", ("jobs",)),
    "start": ("starting", "starting", ()),
}
"""What can be benched: the module under ``plumb.bench``, its function, and the options that it takes."""


@app.command()
def bench(
    what: Annotated[str, typer.Argument(help=", ".join(_BENCHES))] = "speed",
    sets: Annotated[int, typer.Option(help="sets a cell, for detection")] = 3000,
    engines: Annotated[
        int, typer.Option(help="hidden engines, for diagnosis, visits and calibration")
    ] = 1000,
    bursts: Annotated[int, typer.Option(help="bursts a gauge, for capture")] = 500,
    jobs: Annotated[int, typer.Option(help="jobs of the larger shop, for scale")] = 100_000,
    seed: Annotated[
        int, typer.Option(help="for detection, diagnosis, visits, calibration, practice, capture")
    ] = 7,
) -> None:
    """How fast it is, what each rule is worth, who finds what: truth known, ratios side by side."""
    if what not in _BENCHES:
        errors.print(f"plumb: bench knows {', '.join(_BENCHES)}, not {what}", markup=False)
        raise typer.Exit(2)
    module, function, takes = _BENCHES[what]
    given = {"sets": sets, "engines": engines, "bursts": bursts, "seed": seed, "jobs": jobs}
    # Only what is asked for is loaded: some of it takes seconds.
    run = getattr(importlib.import_module(f"plumb.bench.{module}"), function)
    run(console, **{name: given[name] for name in takes})


@app.command(name="contract", hidden=True)
def contract() -> None:
    """Write docs/openapi.json and docs/job-file.schema.json from the code."""
    from plumb.contract import write  # noqa: PLC0415

    for path in write():
        console.print(f"wrote {path}")


def main() -> None:
    """The command line; a setting that cannot be is told by its name, without what stands in it."""
    try:
        app()
    except ValidationError as error:
        if error.title != "Settings":
            raise
        for found in error.errors(include_input=False, include_url=False):
            name = f"PLUMB_{'_'.join(map(str, found['loc'])).upper()}"
            rule = found["msg"].removeprefix("Value error, ")
            errors.print(f"plumb: {name}: {rule}", markup=False)
        sys.exit(2)


if __name__ == "__main__":
    main()
