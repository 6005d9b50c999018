"""An empty sheet of paper for what is left to measure: boxes in reach order, limits, a code for a phone."""

from dataclasses import dataclass
from typing import Final

import segno

from plumb.core.measure.spoken import COMPLAINTS
from plumb.core.mend.finish import Finished
from plumb.core.procedures import AnyKind, route
from plumb.jobfile.file import JobFile
from plumb.jobfile.kinds import FILE_KINDS
from plumb.jobfile.to_core import engine_of
from plumb.report.sheets import limits_of

_PASSES: Final = 3
_MOMENTS: Final = ("0 s", "10 s", "60 s", "5 min", "20 min", "")
"""Rows of a hold."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Block:
    """One procedure to do: how, with which columns and rows, its limits, the way to its screen."""

    title: str
    how: str
    steps: tuple[str, ...]
    slips: tuple[str, ...]
    care: str
    limits: str
    takes_limits: bool
    columns: tuple[str, ...]
    rows: tuple[str, ...]
    words: str
    address: str
    code: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Worksheet:
    """The whole worksheet."""

    vehicle: str
    plate: str
    number: str
    complaint: str
    shop: str
    blocks: tuple[Block, ...]


def worksheet_of(
    file: JobFile,
    done: Finished,
    *,
    base: str,
    shop: str = "",
) -> Worksheet:
    """What is left to measure on a job, as boxes to fill in; ``base`` is the address of this Plumb."""
    begun = {r.kind for _, r in done.now.sheets if r.begun}
    aside = {s.kind for s in file.job.set_aside}
    again = {d.kind: d.injectors for d in done.due}
    blocks = [
        _block(kind, file, done, base, again.get(kind.code))
        for kind in route(file.vehicle.fuel_system)
        if kind.code not in aside
        and (kind.code in again or (kind.code not in begun and not kind.optional))
        and kind.can_be_done(done.now.setting)
    ]
    return Worksheet(
        vehicle=file.vehicle.name,
        plate=file.vehicle.registration,
        number=file.job.number,
        complaint=file.job.complaint,
        shop=shop,
        blocks=tuple(blocks),
    )


def _block(
    kind: AnyKind,
    file: JobFile,
    done: Finished,
    base: str,
    again: tuple[str, ...] | None,
) -> Block:
    told = kind.told(done.now.setting)
    guide = kind.guide.on(file.vehicle.fuel_system)
    address = f"{base.rstrip('/')}/jobs/{file.job.number}/{kind.code}"
    return Block(
        title=f"{kind.title}, after the repair" if again is not None else kind.title,
        how=told.how,
        steps=guide.steps,
        slips=guide.slips,
        care=told.care,
        limits=_limits(kind, file),
        takes_limits=kind.entry.shape not in {"words", "form"},
        columns=_columns(kind),
        rows=again or _rows(kind, file),
        words=_words(kind),
        address=address,
        code=segno.make(address, error="m").svg_inline(
            scale=1, border=2, svgclass=None, lineclass=None
        ),
    )


def _limits(kind: AnyKind, file: JobFile) -> str:
    """What this job holds such a sheet against: as its newest one says; else it is written in by hand."""
    mine = (limits_of(s) for s in reversed(file.sheets) if s.kind == kind.code)
    return next(filter(None, mine), "")


def _words(kind: AnyKind) -> str:
    """The words that can be noted; outside, those of the complaint."""
    if kind.entry.shape == "form":
        return ", ".join(COMPLAINTS.values())
    return ", ".join(word.replace("_", " ") for word, _ in kind.entry.words)


def _columns(kind: AnyKind) -> tuple[str, ...]:
    """One box for each figure of each pass; what is seen takes one."""
    entry = kind.entry
    if entry.shape in {"words", "form"}:
        return ("seen",)
    names = entry.figures or ("value",)
    unit = f", {kind.unit}" if kind.unit else ""
    once = entry.once or entry.shape == "point"
    return tuple(
        f"{name.replace('_', ' ')}{unit}" if once else f"{name.replace('_', ' ')}{unit} ({n})"
        for n in range(1, 2 if once else _PASSES + 1)
        for name in names
    )


def _rows(kind: AnyKind, file: JobFile) -> tuple[str, ...]:
    """The rows in reach order: injectors, or the states, moments and slots of the kind."""
    if kind.entry.shape == "point":
        return _MOMENTS
    if kind.entry.shape == "form":
        looked_at = kind.looked_at.get(file.vehicle.fuel_system, ())
        return (*looked_at, "complaint", *(("codes",) if "connectors" in looked_at else ()), "")
    engine = engine_of(file.vehicle)
    slots = FILE_KINDS[kind.code].slots(engine) or kind.entry.slots
    if slots:
        return tuple(s.replace("_", " ") for s in slots)
    return tuple(i.id for i in file.vehicle.injectors if not i.retired)
