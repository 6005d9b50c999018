"""The opening pressures in the job file, with the shims at hand."""

from collections.abc import Iterator, Mapping
from decimal import Decimal
from typing import Annotated, Any, Literal, Self

from pydantic import Field, model_validator

from plumb.core.measure.problems import Problem
from plumb.core.measure.quantities import kpa_per
from plumb.core.measure.readings import Noted
from plumb.core.procedures.opening.analysis import OpeningResult, OpeningSheet, Stroke
from plumb.core.procedures.opening.held import Held
from plumb.core.procedures.opening.shims import Change, Sensitivity, by_maker
from plumb.jobfile.kinds.kind import (
    DECIMALS,
    WORD,
    Engine,
    FileKind,
    Lessons,
    row_problems,
    too_high,
    window_of,
)
from plumb.jobfile.models import (
    GaugePart,
    Instant,
    Label,
    NotNegative,
    Part,
    Positive,
    SetLimitsPart,
    SheetPart,
    UnitName,
    When,
)
from plumb.jobfile.numbers import Number


class NozzlePart(Part):
    """The nozzles: the name of their type, pintle or hole, the torque of the body.

    By their maker a shim of ``shim_mm`` changes the opening pressure by ``buys``, in the sheet's unit;
    ``shim_of`` is what the shims are made of.
    """

    name: str = Field("", max_length=60)
    form: Literal["", "pintle", "hole"] = ""
    torque_nm: Positive | None = None
    shim_mm: Annotated[Number, Field(gt=0, le=20)] | None = None
    buys: Positive | None = None
    shim_of: str = Field("", max_length=60)

    @model_validator(mode="after")
    def _both(self) -> Self:
        if self.buys is not None and self.shim_mm is None:
            message = "what a shim buys needs the shim it is said of"
            raise ValueError(message)
        return self

    def by_its_maker(self, factor: float) -> Sensitivity | None:
        """What a millimetre buys as the maker says it; None where nothing was noted."""
        if self.buys is None or self.shim_mm is None:
            return None
        return by_maker(float(self.buys) * factor, float(self.shim_mm))


class HeldPart(Part):
    """Nozzles held below opening for some seconds: what each lost, in the order of those that were stroked.

    ``at_most`` is what their maker allows in that time, all in the sheet's unit.
    """

    for_s: Annotated[Number, Field(gt=0, le=600)] = Decimal(10)
    lost: list[NotNegative] = Field([], max_length=40)
    at_most: Positive | None = None


class LearntPart(Part):
    """A change of shims on this nozzle type elsewhere: mm more, pressure before and after."""

    shim_mm: Annotated[Number, Field(ge=-5, le=5)]
    before: Positive
    after: Positive


class StrokePart(Part):
    """One stroke of the hand pump; null needs the note none or not_read."""

    injector: Label
    pass_: int = Field(1, alias="pass", ge=1, le=99)
    value: NotNegative | None = None
    seat: Literal["dry", "damp", "wet"] | None = None
    sound: Literal["chatters", "weak", "silent"] | None = None
    spray: Literal["even", "streaky", "stream", "none"] | None = None
    shim_mm: Annotated[Number, Field(ge=0, le=20)] | None = None
    note: str = Field("", max_length=500)
    taken: Instant | None = None

    @property
    def mark(self) -> str | None:
        """The note, where it stands for a missing figure."""
        return self.note if self.note in {"none", "not_read"} else None

    @model_validator(mode="after")
    def _whole(self) -> Self:
        if (self.value is None) != (self.mark is not None):
            message = "a value is needed, or the note none or not_read"
            raise ValueError(message)
        return self


class OpeningPart(SheetPart):
    """Opening pressure of mechanical nozzles, and the shims at hand.

    ``shim_unit`` is the one shims are typed and shown in; in the file they are mm.
    """

    kind: Literal["opening_pressure"]
    unit: UnitName
    gauge: GaugePart
    window: SetLimitsPart = SetLimitsPart()
    nozzle: NozzlePart = NozzlePart()
    strokes: int = Field(3, ge=1, le=9)
    shims_mm: list[Annotated[Number, Field(gt=0, le=20)]] = Field([], max_length=40)
    shim_unit: Literal["mm", "thou"] = "mm"
    when: When = ""
    held: HeldPart | None = None
    learnt: list[LearntPart] = Field([], max_length=200)
    readings: list[StrokePart] = Field(max_length=2000)


def core(part: OpeningPart, rows: tuple[Noted, ...], engine: Engine) -> OpeningSheet:
    """Strokes with shims and what was seen; what the file says was learnt elsewhere."""
    factor = kpa_per(part.unit)
    step = float(part.gauge.step) * factor
    return OpeningSheet(
        injectors=engine.labels,
        step=step,
        u_class=part.gauge.u_class(factor),
        window=window_of(part.window, factor),
        form=part.nozzle.form,
        maker=part.nozzle.by_its_maker(factor),
        drawer=tuple(float(x) for x in part.shims_mm),
        when=part.when,
        unit=part.unit,
        held=_held(part, rows, factor),
        length=part.shim_unit,
        learnt=tuple(
            Change(
                shim_mm=float(c.shim_mm), before=float(c.before) * factor,
                after=float(c.after) * factor, u=step / 12.0**0.5,
            )
            for c in part.learnt
        ),
        strokes=tuple(
            Stroke(
                injector=r.injector, number=r.number, value=r.value, shim_mm=r.shim_mm,
                seat=r.seat or "", sound=r.sound or "", spray=r.spray or "", mark=r.mark,
            )
            for r in rows
        ),
    )  # fmt: skip


def _held(part: OpeningPart, rows: tuple[Noted, ...], factor: float) -> Held | None:
    """What each of those that were stroked on this sheet lost, in the order in which they were."""
    if part.held is None or not part.held.lost:
        return None
    stroked = dict.fromkeys(r.injector for r in rows)
    lost = zip(stroked, part.held.lost, strict=False)
    limit = part.held.at_most
    return Held(
        for_s=float(part.held.for_s),
        lost=tuple((label, float(x) * factor) for label, x in lost),
        at_most=None if limit is None else float(limit) * factor,
    )


def problems(part: OpeningPart, engine: Engine, path: str) -> Iterator[Problem]:
    """Rows that do not fit, pressures beyond any pump."""
    yield from row_problems(part, engine, path)
    for m, reading in enumerate(part.readings):
        yield from too_high(reading.value, part.unit, f"{path}.readings[{m}].value")
    count, held = len({r.injector for r in part.readings}), part.held
    if held is not None and len(held.lost) > count:
        yield Problem(
            path=f"{path}.held.lost", rule=f"at most a figure for each of the {count} nozzles that were stroked",
            value=str(len(held.lost)), code="count",
        )  # fmt: skip


def more(result: OpeningResult, unit: str) -> dict[str, Any]:
    """Settings, what was seen, and the plan of each nozzle; what a millimetre of shim buys."""
    factor = kpa_per(unit)
    s = result.sensitivity

    def shown(kpa: float) -> float:
        return round(kpa / factor, DECIMALS)

    return {
        "sensitivity": {
            "per_mm": shown(s.kpa_per_mm), "u": shown(s.u), "unit": unit, "changes": s.changes,
        },
        "nozzles": [
            {
                "injector": n.injector,
                "seat": n.seat, "sound": n.sound, "spray": n.spray, "fault": n.fault,
                "settings": [
                    {"shim_mm": x.shim_mm, "value": shown(x.mean), "strokes": x.strokes}
                    for x in n.settings
                ],
                "wanted_mm": None if n.wanted_mm is None else round(n.wanted_mm, DECIMALS),
                "plan": None
                if n.plan is None
                else {
                    "keep_inside": n.plan.stays, "add_mm": list(n.plan.added),
                    "change_mm": n.plan.change_mm, "value": shown(n.plan.predicted),
                    "low": shown(n.plan.low), "high": shown(n.plan.high),
                    "probability": round(n.plan.probability, DECIMALS),
                },
            }
            for n in result.nozzles
        ],
    }  # fmt: skip


def _nozzle_name(conditions: Mapping[str, Any]) -> str:
    """The type of the nozzles, empty where nobody noted it."""
    return str((conditions.get("nozzle") or {}).get("name") or "")


def _changes(result: OpeningResult) -> tuple[Change, ...]:
    """The changes of shims that a sheet recorded."""
    return tuple(change for _, change in result.changes)


OPENING = FileKind(
    model=OpeningPart,
    entries={"readings": StrokePart},
    core=core,
    problems=problems,
    beside={"shim_mm": "mm", "seat": WORD, "sound": WORD, "spray": WORD},
    more=more,
    lessons=Lessons(name_of=_nozzle_name, taught_by=_changes),
    method=lambda part: (part.unit, part.gauge.step),
)
