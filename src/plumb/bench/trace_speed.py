"""How fast and how large: traces of two million samples, each in a process of its own.

The recovery of simulated pressure logs stands beside it: how many readings are within a step of
the gauge, and how many bursts say themselves that they are doubtful.
"""

import csv
import itertools
import json
import resource
import statistics
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from typing import Final

import numpy as np
from rich.console import Console
from rich.table import Table

from plumb.bench.traces import Crank, Log, crank_trace, pressure_log
from plumb.core.measure.quantities import KPA_PER
from plumb.core.traces.humps import find_humps
from plumb.core.traces.pressure_log import find_bursts
from plumb.jobfile.kinds.cranking import CRANKING
from plumb.jobfile.kinds.drop import DROP
from plumb.jobfile.tracecolumns import kpa, pick, seconds
from plumb.jobfile.tracefile import TraceReader

SAMPLES: Final = 2_000_000
RUNS: Final = 3
STEP: Final = 0.5 * KPA_PER["psi"]
RATES: Final = (50.0, 100.0, 200.0, 500.0, 1000.0)


def traces(console: Console) -> None:
    """Write the traces, analyse each in a fresh process a few times, print medians and ratios."""
    with tempfile.TemporaryDirectory() as folder:
        crank, log = Path(folder) / "crank.csv", Path(folder) / "log.csv"
        _write_crank(crank)
        _write_log(log)
        plain = statistics.median(_plain_csv(crank) for _ in range(RUNS))
        for name, path, kind in (
            ("cranking, clamp and sync", crank, "crank"),
            ("pressure log of many bursts", log, "log"),
        ):
            runs = [_in_a_process(path, kind) for _ in range(RUNS)]
            read, found, most = (
                statistics.median(r[k] for r in runs) for k in ("read_s", "find_s", "peak_mb")
            )
            console.print(
                f"{name}: {SAMPLES:,} samples, {path.stat().st_size / 1e6:.0f} MB of CSV: read "
                f"{read:.2f} s, analysed {found:.2f} s, together [bold]{read + found:.2f} s[/] "
                f"(asked: at most 5); largest {most:.0f} MB (asked: at most 400)"
            )
            if kind == "crank":
                console.print(
                    f"the same file read by Python's csv module, nothing else done: {plain:.2f} s; "
                    f"ratio of all of the above to it {(read + found) / plain:.2f}"
                )
    _recovery(console)


def _write_crank(path: Path) -> None:
    rate = SAMPLES / 20.0
    t, current, sync = crank_trace(
        Crank(heights=(1, 1, 0.8, 1, 1, 1), rate_hz=rate, seconds=20.0, slows=0.15, noise_a=4.0)
    )
    np.savetxt(path, np.column_stack([t, current, sync]), fmt="%.5f,%.2f,%.1f",
               header="t [s],clamp [A],sync 1 [V]", comments="")  # fmt: skip


def _write_log(path: Path) -> None:
    rng = np.random.default_rng(4)
    one = 12.3
    bursts = tuple(
        (float(a), float(b))
        for a, b in zip(rng.normal(342, 4, 160), rng.normal(180, 6, 160), strict=True)
    )
    t, p, _ = pressure_log(Log(bursts=bursts, rate_hz=SAMPLES / (160 * one), rest_s=5.0))
    count = min(SAMPLES, len(t))
    np.savetxt(path, np.column_stack([t, p])[:count], fmt="%.4f,%.2f",
               header="time [s],pressure [kPa]", comments="")  # fmt: skip


def _plain_csv(path: Path) -> float:
    begin = time.perf_counter()
    with path.open(newline="") as file:
        count = sum(1 for _ in csv.reader(file))
    if count != SAMPLES + 1:
        message = f"the bench wrote {count} lines"
        raise RuntimeError(message)
    return time.perf_counter() - begin


def _in_a_process(path: Path, kind: str) -> dict[str, float]:
    answer = subprocess.run(
        [sys.executable, "-m", "plumb.bench.trace_speed", str(path), kind],
        check=True, capture_output=True, text=True,
    )  # fmt: skip
    made: dict[str, float] = json.loads(answer.stdout)
    return made


def _once(path: Path, kind: str) -> dict[str, float]:
    begin = time.perf_counter()
    reader = TraceReader()
    with path.open("rb") as file:
        while piece := file.read(1 << 20):
            reader.feed(piece)
    table = reader.close()
    between = time.perf_counter()
    at = pick((CRANKING if kind == "crank" else DROP).roles, table, {})
    t = seconds(table, at["time"])
    if kind == "crank":
        count = len(
            find_humps(
                t, table.values[:, at["current"]], cylinders=6, sync=table.values[:, at["sync"]]
            ).cycles
        )
    else:
        count = len(find_bursts(t, kpa(table, at["pressure"])).bursts)
    end = time.perf_counter()
    return {
        "read_s": between - begin, "find_s": end - between, "found": count,
        "peak_mb": resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024.0,
    }  # fmt: skip


def recover(rate: float, seed: int = 5) -> tuple[int, int, int, int]:
    """Simulated logs at one rate: bursts, readings within a step, wrong but sure, doubtful."""
    rng = np.random.default_rng(seed)
    cases = itertools.product(
        (0.2, 0.7, 1.5), (0.0, 4.0, 8.0), (0.0, 0.5, 1.0), (1, 25), (0.0, 1.0)
    )
    bursts = within = wrong = doubtful = 0
    for n, (noise, creep, seep, pulses, step) in enumerate(cases):
        truth = tuple(
            (float(340 + rng.uniform(-10, 10)), float(180 + rng.uniform(-25, 25))) for _ in range(4)
        )
        t, p, _ = pressure_log(
            Log(bursts=truth, rate_hz=rate, noise=noise, creep=creep, seep=seep, pulses=pulses,
                step=step, seed=seed * 1000 + n, burst_s=0.5 if pulses == 1 else 1.0)
        )  # fmt: skip
        found = find_bursts(t, p, step=STEP).bursts
        bursts += len(truth)
        for burst, (first, second) in zip(found, truth, strict=False):
            near = max(abs(burst.first - first), abs(burst.second - second)) <= STEP
            doubtful += burst.doubtful
            within += near
            wrong += not near and not burst.doubtful
        wrong += abs(len(found) - len(truth))
    return bursts, within, wrong, doubtful


def _recovery(console: Console) -> None:
    table = Table(title="simulated logs: noise, creep, seep, one pulse or 25; step 0.5 psi")
    for name in ("a second", "bursts", "within one step", "wrong and not doubted", "doubtful"):
        table.add_column(name, justify="right")
    for rate in RATES:
        bursts, within, wrong, doubtful = recover(rate)
        table.add_row(f"{rate:g}", str(bursts), f"{100 * within / bursts:.2f} %",
                      f"{100 * wrong / bursts:.2f} %", f"{100 * doubtful / bursts:.2f} %")  # fmt: skip
    console.print(table)


if __name__ == "__main__":
    sys.stdout.write(json.dumps(_once(Path(sys.argv[1]), sys.argv[2])))
