"""Whole jobs from their files, in few words: sheets, a complaint, what was done."""

import json
from collections.abc import Callable, Mapping, Sequence
from typing import Any

from plumb.core.mend.finish import Finished
from plumb.core.procedures import kind_of
from plumb.core.weigh.job import JobResult
from plumb.jobfile.file import JobFile
from plumb.jobfile.reading import parse
from plumb.jobfile.to_core import finished

Sheet = dict[str, Any]
Figures = Sequence[float] | Mapping[int, float]


def numbered(figures: Figures) -> list[tuple[int, float]]:
    """(injector, figure)."""
    return list(figures.items()) if isinstance(figures, Mapping) else list(enumerate(figures, 1))


def values(kind: str, unit: str, step: float, figures: Figures, **more: Any) -> Sheet:
    """A sheet of one figure an injector."""
    rows = [{"injector": str(n), "value": v} for n, v in numbered(figures)]
    return {"kind": kind, "unit": unit, "gauge": {"step": step}, "readings": rows, **more}


def drops(ends: Mapping[int, float | None] | Sequence[float | None], **more: Any) -> Sheet:
    """Bursts from 50 psi to these ends; None is a silent one."""
    pairs = ends.items() if isinstance(ends, Mapping) else enumerate(ends, 1)
    rows: list[dict[str, Any]] = [
        {
            "injector": str(n),
            "first": 50,
            "second": end,
            **({"note": "none"} if end is None else {}),
        }
        for n, end in pairs
    ]
    rows = [{k: v for k, v in r.items() if k != "first" or r["second"] is not None} for r in rows]
    burst = {"on_ms": 10, "pulses": 50}
    return {
        "kind": "pressure_drop",
        "unit": "psi",
        "gauge": {"step": 0.5},
        "burst": burst,
        "readings": rows,
        **more,
    }


def rail(
    pressure: Callable[[float], float], wanted: float, *, engine: str, seconds: float = 8.0
) -> Sheet:
    """A rail's trace, ten moments a second."""
    moments = [k / 10 for k in range(int(10 * seconds) + 1)]
    series = [{"t_s": t, "wanted": wanted, "actual": round(pressure(t), 1)} for t in moments]
    return {"kind": "rail_pressure", "unit": "bar", "engine": {"state": engine}, "series": series}


def hold(
    series: Mapping[float, float],
    *,
    unit: str = "psi",
    step: float = 1.0,
    side: str = "low",
    **window: Any,
) -> Sheet:
    """A hold with its limits."""
    points = [{"t_s": t, "value": p} for t, p in series.items()]
    return {
        "kind": "hold",
        "unit": unit,
        "gauge": {"step": step},
        "rail": side,
        "window": window,
        "series": points,
    }


def file_of(fuel: str, count: int, complaint: str, *sheets: Sheet, **more: Any) -> JobFile:
    """A checked job file."""
    injectors = [{"id": str(n), "cylinder": n} for n in range(1, count + 1)]
    told = {k: more.pop(k) for k in ("codes", "set_aside") if k in more}
    file = {
        "plumb": 1, "vehicle": {"name": "Torvik Lundy", "fuel_system": fuel, "injectors": injectors},
        "job": {"complaint": complaint, **told},
        "sheets": [{**s, "id": f"s{n}"} for n, s in enumerate(sheets, 1)],
        **more,
    }  # fmt: skip
    return parse(json.dumps(file))


def job(fuel: str, count: int, complaint: str, *sheets: Sheet, **more: Any) -> Finished:
    """A job from its file."""
    return finished(file_of(fuel, count, complaint, *sheets, **more))


def done(what: str, *labels: str) -> list[dict[str, str]]:
    """The same done to each of these."""
    return [{"injector": x, "done": what} for x in labels]


def words(of: Finished) -> dict[str, str]:
    """By injector the word of its last change."""
    return {p.injector: p.word for p in of.pairs}


def conditions(of: JobResult) -> dict[str, str]:
    """By injector."""
    return {label: v.condition for label, v in of.verdicts}


def headline(of: JobResult, key: str) -> str:
    """What a sheet says."""
    result = dict(of.sheets)[key]
    return "".join(s.text for s in kind_of(result).headline(result, "bar"))


def notes(of: JobResult, key: str) -> str:
    """What is written beneath."""
    result = dict(of.sheets)[key]
    return " ".join(kind_of(result).notes(result, "bar"))
