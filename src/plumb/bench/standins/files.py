"""The files that stand-ins are started with: which engine, and what is wrong with the instruments.

>>> engine_of({"system": "port", "count": 6, "faults": ["clogged"], "seed": 4}).count
6
"""

import json
from pathlib import Path
from typing import Annotated, Any, Literal, TypeVar

import numpy as np
from pydantic import BaseModel, ConfigDict, Field, ValidationError, model_validator

from plumb.bench.engines.hidden import FAULTS, IMITATORS, Hidden, draw
from plumb.core.measure.problems import PlumbError, Problem
from plumb.jobfile.reading import problems_of

Share = Annotated[float, Field(ge=0, le=3)]
Kpa = Annotated[float, Field(ge=0, le=100_000)]
System = Literal["port", "throttle_body", "direct", "common_rail", "mechanical_diesel"]


class _File(BaseModel):
    """A part of a file: nothing in it is unknown."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class InjectorFile(_File):
    """What differs from a good injector: flow 1 is good, a leak is in kPa a minute."""

    flow: Share | None = None
    leak: Kpa | None = None
    coil: Annotated[float, Field(gt=0, le=1000)] | Literal["open"] | None = None
    state: Literal["opens", "shut", "weak", "now_and_then"] | None = None
    lamp: Literal["blinks", "weak", "dark", "steady"] | None = None
    hump: Annotated[float, Field(ge=0, le=200)] | None = None
    back: Annotated[float, Field(ge=0, le=500)] | None = None
    opens: Kpa | None = None
    seat: Literal["dry", "damp", "wet"] | None = None
    spray: Literal["even", "streaky", "stream"] | None = None


class EngineFile(_File):
    """An engine: drawn from a seed, with faults by name, and what is set on it by hand."""

    system: System = "port"
    count: Annotated[int, Field(ge=1, le=16)] | None = None
    seed: int = 1
    faults: list[str] = []
    injectors: dict[str, InjectorFile] = {}
    leaks: dict[str, Kpa] = {}
    pump: Literal["runs", "silent"] | None = None
    supply: Annotated[float, Field(gt=0, le=2)] | None = None
    hot: bool | None = None
    words: list[str] = []

    @model_validator(mode="after")
    def _known(self) -> "EngineFile":
        for name in self.faults:
            on = (FAULTS | IMITATORS).get(name)
            if on is None or self.system not in on[0]:
                fits = ", ".join(
                    n for n, (s, _) in (FAULTS | IMITATORS).items() if self.system in s
                )
                message = f"{name!r} is no fault of {self.system}; there are {fits}"
                raise ValueError(message)
        return self


class InstrumentFaults(_File):
    """What is wrong with an instrument: each figure alone, 0 or nothing is sound.

    ``noise`` in the instrument's own unit; ``late_s`` for one answer in ``late_every``; unplugged
    ``unplug_at_s`` after the start for ``unplug_s``; ``unit``: what it really answers in.
    """

    noise: Annotated[float, Field(ge=0, le=1000)] | None = None
    step: Annotated[float, Field(gt=0, le=1000)] | None = None
    creep_s: Annotated[float, Field(ge=0, le=10)] = 0.0
    late_s: Annotated[float, Field(ge=0, le=30)] = 0.0
    late_every: Annotated[int, Field(ge=1)] = 10
    unplug_at_s: Annotated[float, Field(ge=0)] | None = None
    unplug_s: Annotated[float, Field(gt=0)] = 3.0
    unit: Literal["psi", "kPa", "bar", "MPa"] | None = None


class FaultsFile(_File):
    """What is wrong, by the instrument's name."""

    gauge: InstrumentFaults = InstrumentFaults()
    box: InstrumentFaults = InstrumentFaults()
    engine: InstrumentFaults = InstrumentFaults()
    meter: InstrumentFaults = InstrumentFaults()
    clamp: InstrumentFaults = InstrumentFaults()
    scale: InstrumentFaults = InstrumentFaults()
    handpump: InstrumentFaults = InstrumentFaults()


M = TypeVar("M", bound=_File)


def engine_of(given: EngineFile | dict[str, Any]) -> Hidden:
    """The engine of a file; :class:`PlumbError` says where it does not fit."""
    wanted = given if isinstance(given, EngineFile) else _checked(EngineFile, given)
    rng = np.random.default_rng(wanted.seed)
    engine = draw(rng, wanted.system, tuple(wanted.faults), count=wanted.count)
    for label, one in wanted.injectors.items():
        if not label.isdecimal() or not 1 <= int(label) <= engine.count:
            rule = f"injectors are called 1 to {engine.count}"
            raise PlumbError(
                Problem(path="injectors", rule=rule, value=label, code="unknown_injector")
            )
        for name, value in one.model_dump(exclude_none=True).items():
            getattr(engine, name)[int(label) - 1] = float("inf") if value == "open" else value
    engine.leaks |= wanted.leaks
    engine.words |= set(wanted.words)
    for name in ("pump", "supply", "hot"):
        if (value := getattr(wanted, name)) is not None:
            setattr(engine, name, value)
    return engine


def read_engine(path: Path | None) -> Hidden:
    """The engine of a file; without one an engine of eight with one clogged injector."""
    if path is None:
        return engine_of(EngineFile(count=8, seed=3, injectors={"3": InjectorFile(flow=0.76)}))
    return engine_of(_checked(EngineFile, _json(path)))


def read_faults(path: Path | None) -> FaultsFile:
    """What is wrong with the instruments; without a file nothing is."""
    return FaultsFile() if path is None else _checked(FaultsFile, _json(path))


def _json(path: Path) -> Any:  # noqa: ANN401  whatever the file holds
    try:
        return json.loads(path.read_text("utf-8"))
    except (ValueError, UnicodeDecodeError) as error:
        rule = "the file is JSON"
        raise PlumbError(
            Problem(path=str(path), rule=rule, value=str(error), code="no_json")
        ) from None


def _checked(model: type[M], data: object) -> M:
    try:
        return model.model_validate(data)
    except ValidationError as error:
        raise PlumbError(problems_of(error)) from None
