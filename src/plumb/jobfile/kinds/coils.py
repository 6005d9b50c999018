"""The coils in the job file: resistance, and voltage drop under load."""

from typing import Any, Literal, Self

from pydantic import Field, model_validator

from plumb.core.measure.quantities import plain
from plumb.core.measure.readings import Noted, values_of
from plumb.core.procedures.coils.analysis import (
    TEMPERATURE_HALF_WIDTH,
    VOLTAGE,
    CoilResult,
    CoilSheet,
    Meter,
)
from plumb.jobfile.kinds.kind import (
    Engine,
    FileKind,
    row_problems,
    rule_choice,
    scaled,
    window_of,
)
from plumb.jobfile.models import (
    MeterPart,
    NotNegative,
    Positive,
    RulePart,
    SetLimitsPart,
    SheetPart,
    Temperature,
    ValuePart,
)


class CoilLimitsPart(SetLimitsPart):
    """A window for coils, which holds between two coil temperatures."""

    from_c: Temperature | None = None
    to_c: Temperature | None = None

    @model_validator(mode="after")
    def _warmer(self) -> Self:
        if self.from_c is not None and self.to_c is not None and self.from_c > self.to_c:
            message = f"from {plain(self.from_c)} °C is above to {plain(self.to_c)} °C"
            raise ValueError(message)
        return self


class CoilPart(SheetPart):
    """Coil resistances."""

    kind: Literal["coil_resistance"]
    unit: Literal["ohm"]
    gauge: MeterPart
    temperature_c: Temperature | None = None
    temperature_within_c: NotNegative | None = None
    window: CoilLimitsPart = CoilLimitsPart()
    rule: RulePart = RulePart()
    readings: list[ValuePart] = Field(max_length=2000)


class CoilVoltagePart(SheetPart):
    """Voltage drops of the coils under one current."""

    kind: Literal["coil_voltage_drop"]
    unit: Literal["V"]
    gauge: MeterPart
    current_a: Positive | None = None
    pulse_ms: Positive | None = None
    window: SetLimitsPart = SetLimitsPart()
    rule: RulePart = RulePart()
    readings: list[ValuePart] = Field(max_length=2000)


def _meter(gauge: MeterPart) -> Meter:
    return Meter(
        step=float(gauge.step),
        lead=float(gauge.lead or 0),
        percent=float(gauge.percent or 0),
        counts=float(gauge.counts or 0),
    )


def core(part: CoilPart, rows: tuple[Noted, ...], engine: Engine) -> CoilSheet:
    """Resistances with their temperature, and the window with those at which it holds."""
    within = scaled(part.temperature_within_c)
    return CoilSheet(
        injectors=engine.labels,
        readings=values_of(rows),
        meter=_meter(part.gauge),
        temperature_c=scaled(part.temperature_c),
        temperature_half_width=TEMPERATURE_HALF_WIDTH if within is None else within,
        window=window_of(part.window),
        rule=rule_choice(part.rule, 1.0),
        window_from_c=scaled(part.window.from_c),
        window_to_c=scaled(part.window.to_c),
    )


def core_of_volts(part: CoilVoltagePart, rows: tuple[Noted, ...], engine: Engine) -> CoilSheet:
    """Voltage drops under one current."""
    return CoilSheet(
        kind=VOLTAGE,
        injectors=engine.labels,
        readings=values_of(rows),
        meter=_meter(part.gauge),
        window=window_of(part.window),
        rule=rule_choice(part.rule, 1.0),
        current_a=scaled(part.current_a),
    )


def more(result: CoilResult, unit: str) -> dict[str, Any]:  # noqa: ARG001  labels have no unit
    """Who agrees."""
    return {"agreeing": list(result.compared.agreeing), "split": result.compared.split}


COIL_RESISTANCE = FileKind(
    model=CoilPart, entries={"readings": ValuePart}, core=core, problems=row_problems, more=more
)
COIL_VOLTAGE = FileKind(
    model=CoilVoltagePart, entries={"readings": ValuePart}, core=core_of_volts,
    problems=row_problems, more=more,
)  # fmt: skip
