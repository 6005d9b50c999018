"""The exercises: thirty engines of rising difficulty as data, and as many drawn ones as anybody likes.

>>> len(EXERCISES), EXERCISES["01"].faults
(30, ('clogged',))
>>> engine = engine_of(EXERCISES["16"])
>>> sorted(engine.causes), engine.count
(['shared_feed'], 8)
"""

import json
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Any, Final

import numpy as np

from plumb.bench.diagnosis import cases
from plumb.bench.engines.hidden import Hidden, draw

_FILE: Final = Path(__file__).parent / "exercises.json"
DRAWN: Final = "drawn"
"""How the code of a drawn one begins; its seed follows."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Exercise:
    """One engine: its vehicle, how it is drawn, what is hidden in it, and what it teaches."""

    code: str
    vehicle: str
    system: str
    count: int | None
    seed: int
    faults: tuple[str, ...]
    teaches: str


def _read(raw: Mapping[str, Any]) -> Exercise:
    return Exercise(**{**raw, "faults": tuple(raw["faults"])})


EXERCISES: Final[Mapping[str, Exercise]] = {
    raw["code"]: _read(raw) for raw in json.loads(_FILE.read_text("utf-8"))
}
"""The thirty, by code, the easiest first."""


def exercise_of(code: str) -> Exercise | None:
    """One of the thirty, or a drawn one (``drawn-1234``); None for a code that is neither.

    A drawn one may have nothing wrong with it, as a real one may.
    """
    if code in EXERCISES:
        return EXERCISES[code]
    kind, _, seed = code.partition("-")
    if kind != DRAWN or not seed.isdecimal() or len(seed) > 9:
        return None
    number = int(seed)
    system, faults = list(cases(1 + number % 50, number))[-1]
    return Exercise(
        code=code,
        vehicle="drawn",
        system=system,
        count=None,
        seed=number,
        faults=faults,
        teaches="",
    )


def engine_of(exercise: Exercise) -> Hidden:
    """The engine of an exercise, always the same one."""
    rng = np.random.default_rng(exercise.seed)
    return draw(rng, exercise.system, exercise.faults, count=exercise.count)
