"""Which column of a trace is what: guessed from names and units, or told.

>>> columns = (Column("Zeit", "ms"), Column("Clamp", "A"), Column("Sync cyl 1", "V"))
>>> guess((TIME, Role("current", "starter current", names="clamp")), columns)
{'time': 'Zeit', 'current': 'Clamp'}
"""

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Final

import numpy as np

from plumb.core.measure.problems import PlumbError, Problem
from plumb.core.measure.quantities import KPA_PER
from plumb.jobfile.tracefile import Column, TraceTable

SECONDS: Final = {
    "": 1.0, "s": 1.0, "sec": 1.0, "ms": 1e-3, "us": 1e-6, "µs": 1e-6, "μs": 1e-6, "min": 60.0,
}  # fmt: skip
"""How many seconds one of each unit of time is; no unit: seconds."""

PRESSURES: Final = {k.lower(): v for k, v in KPA_PER.items()} | {
    "mbar": 0.1, "hpa": 0.1, "pa": 0.001, "kg/cm2": 98.0665, "kgf/cm²": 98.0665,
}  # fmt: skip
"""How many kPa one of each unit of pressure is (NIST SP 811, B.8), written any way."""


@dataclass(frozen=True, slots=True)
class Role:
    """One thing that a column can be: code, what a person calls it, whether it must be there."""

    code: str
    label: str
    needed: bool = True
    names: str = ""
    pressure: bool = False


TIME: Final = Role("time", "time", names=r"^(t|t_s|time|zeit|sec|seconds|timestamp)\b")
"""The column that every trace needs."""


def _is_unit_of(role: Role, unit: str) -> bool:
    if role.code == "time":
        return unit.lower() in SECONDS and unit != ""
    if role.pressure:
        return unit.lower() in PRESSURES
    return role.code == "current" and unit.lower() in {"a", "ma", "amp"}


def guess(roles: Sequence[Role], columns: Sequence[Column]) -> dict[str, str]:
    """The column of each role by name and unit, empty where none fits."""
    left = list(columns)
    made: dict[str, str] = {}
    by_need = sorted(roles, key=lambda r: r.needed and r.code != "time")
    for role in by_need:
        named = [c for c in left if role.names and re.search(role.names, c.name.lower())]
        unit = [c for c in left if _is_unit_of(role, c.unit)]
        both = [c for c in named if c in unit]
        found = next(iter(both or named or (unit if role.code != "sync" else [])), None)
        if found is None and role.code == "time" and left:
            found = left[0]
        if found is not None:
            left.remove(found)
        made[role.code] = found.name if found else ""
    for role in roles:
        if role.needed and not made[role.code] and left:
            made[role.code] = left.pop(0).name
    return {role.code: made[role.code] for role in roles}


def pick(roles: Sequence[Role], table: TraceTable, told: Mapping[str, str]) -> dict[str, int]:
    """Where each role's column stands; :class:`PlumbError` where one is missing or unknown."""
    picks = {**guess(roles, table.columns), **{k: v for k, v in told.items() if v}}
    known = ", ".join(c.name for c in table.columns)
    made: dict[str, int] = {}
    problems: list[Problem] = []
    for role in roles:
        name = picks.get(role.code, "")
        at = table.index(name) if name and name != "-" else None
        if at is not None:
            made[role.code] = at
        elif role.needed or name not in {"", "-"}:
            problems.append(
                Problem(path=role.code, rule=f"a column for {role.label}: one of {known}",
                        value=name, code="unknown_column")
            )  # fmt: skip
    if problems:
        raise PlumbError(problems)
    return made


def seconds(table: TraceTable, at: int) -> np.ndarray:
    """The column of time in seconds; :class:`PlumbError` for a unit that is none of time."""
    unit = table.columns[at].unit
    factor = SECONDS.get(unit.lower())
    if factor is None:
        raise PlumbError(
            Problem(path=f"line 1, {table.columns[at].name}", value=unit, code="unknown_unit",
                    rule="time in " + ", ".join(u for u in SECONDS if u))
        )  # fmt: skip
    times: np.ndarray = table.values[:, at] * factor
    return times


def kpa(table: TraceTable, at: int, unit: str = "") -> np.ndarray:
    """A column of pressure in kPa; ``unit`` where the header has none."""
    column = table.columns[at]
    factor = PRESSURES.get((column.unit or unit).lower())
    if factor is None:
        raise PlumbError(
            Problem(path=f"line 1, {column.name}", value=column.unit, code="unknown_unit",
                    rule="the header gives the unit of pressure, for example p [bar]: "
                    + ", ".join(KPA_PER))
        )  # fmt: skip
    pressures: np.ndarray = table.values[:, at] * factor
    return pressures


def unit_of(table: TraceTable, at: int, unit: str = "") -> str:
    """The unit that a sheet of this trace is kept in: the header's, where sheets know it."""
    written = (table.columns[at].unit or unit).lower()
    return next((k for k in KPA_PER if k.lower() == written), "kPa")
