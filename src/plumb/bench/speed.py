"""How fast it is: medians and ratios, side by side in one run.

The database is a durable one of its own in a temporary folder, so that a commit costs what it
costs in a workshop.
"""

import io
import json
import math
import os
import random
import statistics
import tempfile
import time
import uuid
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from dataclasses import replace
from functools import partial
from http.client import HTTPConnection
from pathlib import Path
from typing import Any

from rich.console import Console
from sqlalchemy import text

from plumb.analyze import lines
from plumb.api.app import make_app
from plumb.api.settings import ROOT, Settings
from plumb.bench.shop import ask, busy_shop, ms_of, served
from plumb.core.compare.drops.sheet import DropSheet, analyse_drop
from plumb.core.compare.seen import SeenSheet
from plumb.core.measure.quantities import KPA_PER
from plumb.core.measure.readings import Noted, Seen, Value, Window
from plumb.core.procedures import (
    COIL_VOLTAGE,
    COMMAND,
    DROP,
    FLOW_BENCH,
    RUNNING,
    TIPS,
    AnyKind,
    Sheet,
)
from plumb.core.procedures.coils.analysis import CoilSheet, Meter
from plumb.core.procedures.hold.analysis import HoldSheet
from plumb.core.procedures.hold.analysis import Limits as HoldLimits
from plumb.core.procedures.supply.analysis import SupplySheet
from plumb.core.procedures.walk.analysis import WalkSheet
from plumb.core.weigh.job import Job, analyse_job, analyse_sheet, weigh
from plumb.store.schema import upgrade
from plumb.store.server import Place, Server
from plumb.store.session import make_engine, transaction

PSI = KPA_PER["psi"]
ENDS = ((50, 26), (50.5, 26.5), (49.5, 23.5), (50, 26.5), (50, 31.5), (51, 27), (50, 26), (50, 27))
ROUNDS = 300
API_PORT, DB_PORT = 8655, 8656


def median_ms(work: Callable[[], object], rounds: int = ROUNDS) -> float:
    """Median time of one call in milliseconds, after a warm-up."""
    for _ in range(10):
        work()
    times = []
    for _ in range(rounds):
        begin = time.perf_counter()
        work()
        times.append(time.perf_counter() - begin)
    return statistics.median(times) * 1000.0


def speed(console: Console) -> None:
    """Print every figure with what is asked for."""
    for passes in (1, 3):
        sheet = _sheet(passes)
        console.print(
            f"one sheet of 8 injectors, {passes} pass(es), all rules: median "
            f"[bold]{median_ms(partial(_all_rules, sheet)):.2f} ms[/]  (asked: below 2)"
        )
    job = _whole_job()
    console.print(
        "a complete petrol job, 8 injectors, 10 sheets, 3 passes, weighed into its verdicts: median "
        f"[bold]{median_ms(partial(analyse_job, job)):.2f} ms[/]  (asked: below 10)"
    )
    large = _large_job()
    done = tuple((key, analyse_sheet(sheet)) for key, sheet in large.sheets)
    console.print(
        "shares and next step of 16 injectors and 20 sheets: median "
        f"[bold]{median_ms(partial(weigh, large, done), 40):.1f} ms[/]  (asked: at most 30)"
    )
    cores = os.cpu_count() or 1
    alone, shared = _lines_a_second(1), _lines_a_second(cores)
    bare = median_ms(_bare_formula, 2000)
    console.print(
        f"job files of six injectors through --jsonl: {alone:.0f} a second on one core, "
        f"[bold]{shared:.0f}[/] on {cores}  (asked: 1000); one is "
        f"{1000.0 / alone / bare:.0f} times the bare formula"
    )
    _saving(console)


def _all_rules(sheet: DropSheet) -> object:
    return analyse_drop(sheet).rules()


def _sheet(passes: int) -> DropSheet:
    readings = tuple(
        Noted(injector=str(n), number=p, first=a * PSI, second=b * PSI)
        for n, (a, b) in enumerate(ENDS, 1)
        for p in range(1, passes + 1)
    )
    labels = tuple(str(n) for n in range(1, len(ENDS) + 1))
    return DropSheet(kind=DROP.code, injectors=labels, readings=readings, step=0.5 * PSI)


_EIGHT = tuple(str(n) for n in range(1, 9))


def _values(around: float) -> tuple[Value, ...]:
    return tuple(
        Value(injector=i, number=p, value=around * (1 + 0.01 * int(i)) + 0.1 * p)
        for i in _EIGHT
        for p in (1, 2, 3)
    )


def _seen(kind: AnyKind, word: str) -> SeenSheet:
    words = tuple(Seen(injector=i, word=word) for i in _EIGHT)
    return SeenSheet(kind=kind.code, injectors=_EIGHT, readings=words)


def _whole_job() -> Job:
    """Every sheet that a direct-injection petrol engine has, one job."""
    drop = _sheet(3)
    sheets: tuple[Sheet, ...] = (
        WalkSheet(complaint=("rough_idle",), hose="dry", connectors="good"),
        SupplySheet(
            readings=(("key_on", 345.0), ("running", 290.0)), step=3.4,
            windows=(("key_on", Window(low=330.0, high=380.0)),), pump="runs",
        ),
        HoldSheet(
            series=tuple((60.0 * n, 345.0 - 3.0 * n) for n in range(12)), step=3.4,
            limits=HoldLimits(left_at_least=100.0, after_s=1200.0),
            isolation=(("vacuum_hose", "dry"), ("clamp_return", "falls")),
        ),
        _seen(COMMAND, "blinks"),
        CoilSheet(
            injectors=_EIGHT, readings=_values(12.0), meter=Meter(step=0.1), temperature_c=40.0,
            window=Window(low=11.0, high=14.0, spread=3.0),
        ),
        CoilSheet(
            kind=COIL_VOLTAGE.code, injectors=_EIGHT, readings=_values(5.0),
            meter=Meter(step=0.01), window=Window(spread=1.0),
        ),
        drop,
        replace(drop, kind=RUNNING.code),
        _seen(TIPS, "dry"),
        DropSheet(
            kind=FLOW_BENCH.code, linear=True, injectors=_EIGHT, step=0.5,
            readings=tuple(
                Noted(injector=v.injector, number=v.number, first=v.value, second=0.0)
                for v in _values(60.0)
            ),
        ),
    )  # fmt: skip
    keyed = tuple((f"s{n}", s) for n, s in enumerate(sheets, 1))
    return Job(injectors=_EIGHT, sheets=keyed, fuel_system="direct")


def _large_job() -> Job:
    """Sixteen injectors, twenty sheets, three words of a complaint."""
    labels = tuple(str(n) for n in range(1, 17))
    drop = DropSheet(
        kind=DROP.code, injectors=labels, step=0.5 * PSI,
        readings=tuple(
            Noted(injector=x, number=1, first=50 * PSI, second=(33 if x == "16" else 26) * PSI)
            for x in labels
        ),
    )  # fmt: skip
    seen = [
        SeenSheet(
            kind=kind.code, injectors=labels,
            readings=tuple(Seen(injector=x, word=word) for x in labels),
        )
        for kind, word in ((COMMAND, "blinks"), (TIPS, "dry"))
    ]  # fmt: skip
    walk = WalkSheet(complaint=("rough_idle", "misfire", "bogs"), hose="dry", connectors="good")
    sheets: list[Sheet] = [walk, drop]
    for _ in range(6):
        sheets += [*seen, drop]
    return Job(
        injectors=labels, sheets=tuple((f"s{n}", s) for n, s in enumerate(sheets, 1)),
        feeds={x: str(int(x) % 8) for x in labels},
    )  # fmt: skip


def _job_line(six: Sequence[tuple[float, float]] = ENDS[:6]) -> bytes:
    data = {
        "plumb": 1,
        "job": {"number": "1", "complaint": "rough idle"},
        "vehicle": {
            "name": "Torvik Fastnet 3.0 V6",
            "fuel_system": "port",
            "injectors": [{"id": str(n), "cylinder": n} for n in range(1, 7)],
        },
        "sheets": [
            {
                "kind": DROP.code,
                "id": "s1",
                "unit": "psi",
                "gauge": {"step": 0.5},
                "readings": [
                    {"injector": str(n), "first": a, "second": b} for n, (a, b) in enumerate(six, 1)
                ],
            }
        ],
    }
    return json.dumps(data).encode()


def _bare_formula() -> list[float]:
    """The deviations of six injectors and nothing else, from the same text."""
    sheet = json.loads(_LINE)["sheets"][0]
    flows = [math.sqrt(r["first"]) - math.sqrt(r["second"]) for r in sheet["readings"]]
    mean = statistics.fmean(flows)
    return [f / mean - 1.0 for f in flows]


def _lines_a_second(workers: int, count: int = 1000) -> float:
    """Median of five runs over ``count`` lines."""
    rng = random.Random(count)  # noqa: S311  made-up readings, no secret
    # No two files alike: nothing that is kept of one serves the next.
    source = [
        _job_line([(a, a - rng.choice((18.5, 23.0, 23.5, 24.0, 24.5, 27.0))) for a, _ in ENDS[:6]])
        for _ in range(count)
    ]
    rates = []
    for _ in range(5):
        begin = time.perf_counter()
        lines(source, io.StringIO(), workers)
        rates.append(count / (time.perf_counter() - begin))
    return statistics.median(rates)


_LINE = _job_line()


@contextmanager
def application(folder: Path) -> Iterator[tuple[Any, Settings]]:
    """A durable database and an application with one more route: a bare INSERT and COMMIT."""
    settings = Settings(port=API_PORT, db_port=DB_PORT, data_dir=folder)
    database = Server(Place(home=folder, port=DB_PORT))
    database.start()
    try:
        engine = make_engine(database.place.url())
        upgrade(engine)
        with transaction(engine) as connection:
            connection.execute(text("CREATE TABLE bare (id CHAR(36) PRIMARY KEY, value DOUBLE)"))
        app = make_app(engine, settings, pages=folder / "none")

        def bare(body: dict[str, Any]) -> dict[str, str]:
            with transaction(engine) as connection:
                connection.execute(text("INSERT INTO bare VALUES (:id, :value)"), body)
            return {"id": body["id"]}

        app.add_api_route("/bare", bare, methods=["POST"])
        with served(app, API_PORT):
            yield engine, settings
    finally:
        database.stop()


def _saving(console: Console) -> None:
    """A reading saved and analysed through HTTP against one bare INSERT and COMMIT."""
    with (
        tempfile.TemporaryDirectory(dir=ROOT / "var") as folder,
        application(Path(folder)) as (engine, settings),
    ):
        link = HTTPConnection("127.0.0.1", settings.port)
        saved, bare, direct = [], [], []
        for _ in range(40):
            sheet = json.loads(ask(link, "/api/jobs", _new_job()))
            for n, (a, b) in enumerate(ENDS[:6], 1):
                reading = {"id": str(uuid.uuid4()), "injector": str(n), "first": str(a)}
                path = f"/api/sheets/{sheet['id']}/readings"
                saved.append(ms_of(partial(ask, link, path, {**reading, "second": str(b)})))
                row = {"id": str(uuid.uuid4()), "value": 1.0}
                bare.append(ms_of(partial(ask, link, "/bare", row)))
                direct.append(ms_of(partial(_insert, engine)))
        busy_shop(console, link)
    s, b, d = (statistics.median(x) for x in (saved, bare, direct))
    console.print(
        f"reading saved and analysed through HTTP: median {s:.2f} ms; the same server doing one "
        f"bare INSERT and COMMIT: {b:.2f} ms; ratio [bold]{s / b:.2f}[/]  (asked: at most 2.5)"
    )
    console.print(f"the INSERT and COMMIT alone, without HTTP: {d:.2f} ms; ratio {s / d:.2f}")


def _new_job() -> dict[str, Any]:
    return {"request_id": str(uuid.uuid4()), "vehicle_name": "Torvik Fastnet", "cylinders": 6}


def _insert(engine: Any) -> None:  # noqa: ANN401  an SQLAlchemy engine
    with transaction(engine) as connection:
        connection.execute(text("INSERT INTO bare VALUES (:id, 1.0)"), {"id": str(uuid.uuid4())})
