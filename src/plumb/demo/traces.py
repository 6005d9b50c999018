"""The traces of the demo: made up by the simulator, and brought in as a person's file would be."""

from dataclasses import dataclass
from typing import Final

import numpy as np
from sqlalchemy import Engine

from plumb.bench.traces import Crank, Log, crank_trace, pressure_log
from plumb.core.measure.decision import Thresholds
from plumb.service.uses.bursts import Take, take_bursts
from plumb.service.uses.traces import Incoming, NewTrace, add_trace
from plumb.store.jobs import job_by_number
from plumb.store.session import transaction
from plumb.store.sheets import sheets_of


@dataclass(frozen=True, slots=True)
class DemoTrace:
    """A file for one sheet of a demo job."""

    job: str
    sheet: str
    name: str
    text: bytes


def _csv(head: str, columns: list[np.ndarray], formats: tuple[str, ...]) -> bytes:
    rows = (",".join(f.format(x) for f, x in zip(formats, row, strict=True))
            for row in np.column_stack(columns))  # fmt: skip
    return (head + "\n" + "\n".join(rows) + "\n").encode()


def _rail(swing: float, hz: float, seed: int) -> bytes:
    """A rail at idle and a little above: wanted, and what is there."""
    rng = np.random.default_rng(seed)
    t = np.arange(0.0, 36.0, 0.04)
    wanted = np.where(t < 20.0, 290.0, 380.0)
    actual = wanted - 3.0 + swing * np.sin(2 * np.pi * hz * t) + rng.normal(0.0, 2.0, len(t))
    return _csv("t [s],wanted [bar],actual [bar]", [t, wanted, actual],
                ("{:.2f}", "{:.0f}", "{:.1f}"))  # fmt: skip


def _crank(crank: Crank) -> bytes:
    t, current, sync = crank_trace(crank)
    return _csv("time [ms],clamp [A],sync cyl 1 [V]", [1000.0 * t, current, sync],
                ("{:.1f}", "{:.1f}", "{:.2f}"))  # fmt: skip


def _log(log: Log) -> bytes:
    t, pressure, _ = pressure_log(log)
    return _csv("t [s],rail [kPa]", [t, pressure], ("{:.3f}", "{:.2f}"))


def traces() -> tuple[DemoTrace, ...]:
    """Every trace of the demo; the last log is left for a person to take readings from."""
    return (
        DemoTrace("333", "s3", "rail at idle, 21 Nov.csv", _rail(41.0, 1.4, 11)),
        DemoTrace("334", "s3", "rail at idle, SM-51.csv", _rail(4.0, 0.9, 12)),
        DemoTrace(
            "334", "s4", "starter clamp, SM-51.csv",
            _crank(Crank(heights=(1.0, 0.74, 1.0, 0.99), slows=0.12, noise_a=2.5, seed=21,
                         noisy=((4, 3),))),
        ),
        DemoTrace(
            "335", "s2", "rail log, SM-58.csv",
            _log(Log(bursts=((346.0, 182.0), (343.0, 181.0), (344.0, 207.0), (345.5, 183.5),
                             (342.0, 179.0), (344.5, 181.5)), creep=5.0, seed=31)),
        ),
    )  # fmt: skip


_TAKEN: Final = {("335", "s2"): 4}
"""How many bursts of a log the demo has taken as readings; the rest waits."""


def bring_in(engine: Engine) -> None:
    """Bring every trace onto its sheet."""
    for trace in traces():
        with transaction(engine) as connection:
            found = job_by_number(connection, trace.job)
            sheets = sheets_of(connection, found[0].id) if found else []
        sheet = next((w.sheet.id for w in sheets if w.sheet.key == trace.sheet), None)
        if sheet is None:
            continue
        incoming = Incoming()
        incoming.feed(trace.text)
        told = NewTrace(request_id=f"demo {trace.job} {trace.sheet}", name=trace.name)
        view = add_trace(engine, sheet, incoming, told, Thresholds())
        takes = [Take(number=b.number, injector=b.injector) for b in view.bursts]
        count = _TAKEN.get((trace.job, trace.sheet), 0)
        if takes[:count]:
            take_bursts(engine, view.id, takes[:count], Thresholds())
