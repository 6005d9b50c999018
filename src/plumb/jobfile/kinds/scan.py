"""The scan in the job file: trims by bank and state, misfires by cylinder.

On a sheet each trim and each count has a row of its own; in the file a bank's two trims stand together.
"""

from collections.abc import Iterator, Mapping, Sequence
from typing import Annotated, Any, Literal

from pydantic import Field, model_validator

from plumb.core.measure.problems import Problem
from plumb.core.measure.readings import Noted
from plumb.core.procedures.kind import PETROL
from plumb.core.procedures.scan.analysis import STATES, Place, ScanResult, ScanSheet, Trim
from plumb.jobfile.kinds.kind import Engine, FileKind, cylinders_once
from plumb.jobfile.models import Instant, Part, Positive, SheetPart
from plumb.jobfile.numbers import Number

Percent = Annotated[Number, Field(ge=-100, le=100)]
_WHICH = ("long", "short")
_COUNT = "misfires "


class TrimPart(Part):
    """The fuel trims of one bank in one state of the engine, in per cent."""

    bank: str = Field("", max_length=12)
    state: Literal["idle", "raised"]
    short: Percent | None = None
    long: Percent | None = None
    note: str = Field("", max_length=500)
    taken: Instant | None = None


class MisfirePart(Part):
    """How often one cylinder misfired."""

    cylinder: int = Field(ge=1, le=16)
    count: Annotated[Number, Field(ge=0, le=1_000_000)]
    note: str = Field("", max_length=500)
    taken: Instant | None = None


class ScanRowPart(Part):
    """One row of the sheet: a trim, or the count of a cylinder."""

    state: str = Field(max_length=40)
    value: Annotated[Number, Field(ge=-1000, le=1_000_000)]
    note: str = Field("", max_length=500)
    taken: Instant | None = None


class ScanPart(SheetPart):
    """What the engine's controller tells: trims, misfire counts, and the words of a freeze frame."""

    kind: Literal["scan"]
    unit: Literal["percent"] = "percent"
    trims: list[TrimPart] = Field([], max_length=32)
    misfires: list[MisfirePart] = Field([], max_length=16)
    over_s: Positive | None = None
    frame: str = Field("", max_length=500)

    @model_validator(mode="before")
    @classmethod
    def _folded(cls, data: Any) -> Any:  # noqa: ANN401  the raw JSON value
        """Rows of the sheet, where it comes from the store, as the file has them."""
        if isinstance(data, dict) and "readings" in data:
            rows = [dict(r) for r in data["readings"]]
            return {k: v for k, v in data.items() if k != "readings"} | fold(rows)
        return data

    @property
    def readings(self) -> list[ScanRowPart]:
        """The rows that the sheet has."""
        made: list[ScanRowPart] = []
        for trim in self.trims:
            kept = trim.kept() or {}
            for which in _WHICH:
                value = getattr(trim, which)
                if value is not None:
                    own = kept.get(f"x-{which}") or {}
                    made.append(_row(trim, trim_row(trim.bank, trim.state, which), value, own))
        made += (_row(m, f"{_COUNT}{m.cylinder}", m.count, m.kept() or {}) for m in self.misfires)
        return made


def _row(part: TrimPart | MisfirePart, row: str, value: Any, own: Mapping[str, Any]) -> ScanRowPart:  # noqa: ANN401
    said = {"note": part.note, "taken": part.taken}
    return ScanRowPart.model_validate({**said, **own, "state": row, "value": value})


def trim_row(bank: str, state: str, which: str) -> str:
    """What a row is called: ``A idle, long``."""
    return f"{bank} {state}, {which}".strip()


def _place(row: str) -> Place:
    """What a row of a trim is of; a bank may have a name of several words."""
    where, _, which = row.rpartition(", ")
    bank, _, state = where.rpartition(" ")
    return bank, state, which


def fold(rows: Sequence[Mapping[str, Any]]) -> dict[str, Any]:
    """Rows of the sheet as the file has them: the trims of a bank and state together."""
    trims: dict[tuple[str, str], dict[str, Any]] = {}
    misfires: list[dict[str, Any]] = []
    for row in rows:
        name = str(row["state"])
        own = {k: v for k, v in row.items() if k not in {"state", "value"} and v not in (None, "")}
        taken = own.get("taken")
        if name.startswith(_COUNT):
            misfires.append(
                {"cylinder": int(name.removeprefix(_COUNT)), "count": row["value"], **own}
            )
            continue
        bank, state, which = _place(name)
        trim = trims.setdefault((bank, state), {**({"bank": bank} if bank else {}), "state": state})
        beside = {k: v for k, v in own.items() if k != "taken"}
        trim |= {which: row["value"], **({f"x-{which}": beside} if beside else {})}
        if taken:
            trim["taken"] = max(taken, trim.get("taken", taken))
    return {"trims": list(trims.values()), "misfires": misfires}


def banks_of(engine: Engine) -> tuple[str, ...]:
    """The banks that trims are told of; one without a name where the engine has no two."""
    named = tuple(dict.fromkeys(b for x in engine.labels if (b := engine.banks.get(x))))
    return named if len(named) > 1 else ("",)


def _trims(engine: Engine) -> Iterator[str]:
    """The rows of trims that this engine has."""
    if engine.fuel_system in PETROL and engine.starts:
        for bank in banks_of(engine):
            for state in STATES:
                for which in _WHICH:
                    yield trim_row(bank, state, which)


def slots(engine: Engine) -> tuple[str, ...]:
    """The rows that this engine has: its trims, then its cylinders."""
    counts = (f"{_COUNT}{n}" for n in sorted(engine.numbers()))
    return (*_trims(engine), *counts)


def core(part: ScanPart, rows: tuple[Noted, ...], engine: Engine) -> ScanSheet:
    """Trims and counts for the core; a trim that this engine is not asked for is kept beside them."""
    read = {r.slot: r.value for r in rows}
    asked = (*_trims(engine), *(name for name in read if not name.startswith(_COUNT)))
    rows_of = {row: _place(row) for row in asked}
    states = dict.fromkeys((bank, state) for bank, state, _ in rows_of.values())
    return ScanSheet(
        trims=tuple(
            Trim(
                bank=bank, state=state, long=read.get(trim_row(bank, state, "long")),
                short=read.get(trim_row(bank, state, "short")),
            )
            for bank, state in states
        ),
        counts=tuple(
            (f"{_COUNT}{n}", _injectors(engine, n), read.get(f"{_COUNT}{n}"))
            for n in sorted(engine.numbers())
        ),
        rows=tuple(rows_of.items()),
        over_s=None if part.over_s is None else float(part.over_s),
        frame=part.frame,
    )  # fmt: skip


def _injectors(engine: Engine, cylinder: int) -> tuple[str, ...]:
    first = engine.at(cylinder)
    return (first, *engine.beside(cylinder)) if first else engine.shared()


def problems(part: ScanPart, engine: Engine, path: str) -> Iterator[Problem]:
    """A bank or a cylinder that the engine does not have, two readings of one."""
    banks, seen = banks_of(engine), set[tuple[str, str]]()
    for m, trim in enumerate(part.trims):
        here = f"{path}.trims[{m}]"
        if engine.fuel_system not in PETROL:
            yield Problem(
                path=here, value=trim.state, code="not_this_engine",
                rule="trims are told of a petrol engine; of a diesel the misfires are",
            )  # fmt: skip
        if trim.bank not in {*banks, ""}:
            yield Problem(
                path=f"{here}.bank", value=trim.bank, code="unknown_bank",
                rule="a bank of the vehicle: " + (", ".join(b for b in banks if b) or "it has one only"),
            )  # fmt: skip
        if (trim.bank, trim.state) in seen:
            yield Problem(
                path=f"{here}.state", rule="one reading for each bank and state", value=trim.state,
                code="double",
            )  # fmt: skip
        if trim.short is None and trim.long is None:
            yield Problem(path=here, rule="a trim has its long or its short figure", code="missing")
        seen.add((trim.bank, trim.state))
    yield from cylinders_once(part.misfires, engine, f"{path}.misfires", "count")


def more(result: ScanResult, unit: str) -> dict[str, Any]:  # noqa: ARG001  trims are per cent
    """How the trims lie, and which cylinders misfire."""
    return {
        "trims": {
            "pattern": result.pattern or None,
            "banks": dict(result.banks),
            "one_bank": result.one_bank or None,
        },
        "misfires": [int(row.removeprefix(_COUNT)) for row in result.counted],
    }


SCAN = FileKind(
    model=ScanPart,
    entries={"readings": ScanRowPart},
    folded=("trims", "misfires"),
    fold=fold,
    slots=slots,
    core=core,
    problems=problems,
    more=more,
)
