"""The corrections in the job file."""

from collections.abc import Iterator
from typing import Annotated, Final, Literal, Self

from pydantic import Field, model_validator

from plumb.core.measure.problems import Problem
from plumb.core.measure.readings import Noted, values_of
from plumb.core.procedures.correction.analysis import Beside, CorrectionSheet
from plumb.jobfile.kinds.kind import Engine, FileKind, row_problems, scaled
from plumb.jobfile.models import EnginePart, GaugePart, Instant, Label, Part, Positive, SheetPart
from plumb.jobfile.numbers import Number


class SignedPart(Part):
    """A correction, which may be below zero; null needs the note not_read."""

    injector: Label
    pass_: int = Field(1, alias="pass", ge=1, le=99)
    value: Annotated[Number, Field(ge=-1000, le=1000)] | None = None
    note: str = Field("", max_length=500)
    taken: Instant | None = None

    @property
    def mark(self) -> str | None:
        """The note, where it stands for a missing figure."""
        return self.note if self.note == "not_read" else None

    @model_validator(mode="after")
    def _whole(self) -> Self:
        if (self.value is None) != (self.note == "not_read"):
            message = "a value is needed, or the note not_read"
            raise ValueError(message)
        return self


class ApartPart(Part):
    """How far corrections may lie from those that agree, in the sheet's unit."""

    apart: Positive | None = None
    source: str = Field("", max_length=200)


class BesidePart(Part):
    """What the controller shows beside each correction: one figure a reading's injector, in their order on the engine."""

    unit: Literal["mm3", "percent", "ms"] = "ms"
    step: Positive | None = None
    values: list[Annotated[Number, Field(ge=-1000, le=1000)]] = Field([], max_length=32)


class CorrectionPart(SheetPart):
    """The controller's fuel corrections at idle."""

    kind: Literal["correction"]
    unit: Literal["mm3", "percent", "ms"]
    gauge: GaugePart
    window: ApartPart = ApartPart()
    beside: BesidePart | None = None
    engine: EnginePart = EnginePart(state="idle")
    readings: list[SignedPart] = Field(max_length=2000)


def core(part: CorrectionPart, rows: tuple[Noted, ...], engine: Engine) -> CorrectionSheet:
    """Corrections as the controller shows them."""
    return CorrectionSheet(
        injectors=engine.labels,
        readings=values_of(rows),
        step=float(part.gauge.step),
        unit=part.unit,
        apart=scaled(part.window.apart),
        source=part.window.source,
        beside=_beside(part.beside, engine),
    )


_STEPS: Final = {"mm3": 0.1, "percent": 0.1, "ms": 0.01}
"""What controllers usually show their figures to; common practice, no source."""


def _beside(part: BesidePart | None, engine: Engine) -> Beside | None:
    if part is None or not part.values:
        return None
    step = float(part.step) if part.step is not None else _STEPS[part.unit]
    figures = zip(engine.labels, map(float, part.values), strict=False)
    return Beside(unit=part.unit, step=step, figures=tuple(figures))


def problems(part: CorrectionPart, engine: Engine, path: str) -> Iterator[Problem]:
    """Those of any sheet, and more second figures than there are cylinders."""
    yield from row_problems(part, engine, path)
    count = len(part.beside.values) if part.beside else 0
    if count > len(engine.labels):
        yield Problem(
            path=f"{path}.beside.values", rule=f"at most a figure for each of {len(engine.labels)} cylinders",
            value=str(count), code="count",
        )  # fmt: skip


CORRECTION = FileKind(
    model=CorrectionPart, entries={"readings": SignedPart}, core=core, problems=problems
)
