"""Conditions of a sheet as knobs: their fields, and what they show."""

from collections.abc import Callable
from dataclasses import dataclass
from typing import Final

Get = Callable[[str], str]
_UNITS: Final = {"c": "°C", "s": "s", "ms": "ms", "v": "V", "a": "A", "nm": "N·m"}
"""The unit that the last part of a key in the job file names."""


@dataclass(frozen=True, slots=True)
class Field:
    """One field: its key in the job file, its label, and what it takes.

    That is number, whole, text, choice, yes, words, numbers, wholes, spells, shim or shims.
    """

    key: str
    label: str
    kind: str = "number"
    options: tuple[tuple[str, str], ...] = ()

    def unit(self, of_sheet: str) -> str:
        """The unit a figure is kept in: the sheet's where the label says so, else the one its key ends with."""
        if "{unit}" in self.label:
            return of_sheet
        return _UNITS.get(self.key.rpartition("_")[2], "")


@dataclass(frozen=True, slots=True)
class Knob:
    """A knob: its name, its fields, and what it shows (from the fields' texts).

    With ``slot`` it is for one row of the sheet, and shown where that row is.
    """

    name: str
    fields: tuple[Field, ...]
    shows: Callable[[Get], str]
    note: str = ""
    window: bool = False
    slot: str = ""


def or_none(text: str, unit: str = "", none: str = "?") -> str:
    """A typed text with its unit, or what stands where nothing was typed."""
    return f"{text} {unit}".strip() if text else none


def between(get: Get, low: str, high: str, unit: str) -> str:
    """Two limits, or the one there is, in words."""
    if get(low) and get(high):
        return f"{get(low)}–{get(high)} {unit}"
    if get(low):
        return f"from {get(low)} {unit}"
    return f"up to {get(high)} {unit}" if get(high) else ""


def window_words(get: Get) -> str:
    """A window with the temperatures at which it holds and its spread."""
    parts = [between(get, "window.low", "window.high", "{unit}")]
    if get("window.from_c") or get("window.to_c"):
        parts.append(f"at {between(get, 'window.from_c', 'window.to_c', '°C')}")
    if get("window.spread"):
        parts.append(f"spread {get('window.spread')}")
    return ", ".join(p for p in parts if p) or "unknown"


ENGINE: Final = Knob(
    "Engine",
    (Field("engine.temperature_c", "Engine temperature, °C"),),
    lambda get: or_none(get("engine.temperature_c"), "°C"),
)
SET: Final = Field("set", "Injectors of this sheet", "choice")
"""On an engine with several sets, each on a rail of its own; the engine says which there are."""
WHEN: Final = Knob(
    "When",
    (
        Field("when", "Before or after cleaning", "choice",
              (("", "not said"), ("before_cleaning", "before cleaning"),
               ("after_cleaning", "after cleaning"))),
    ),
    lambda get: get("when").replace("_", " ") or "first time",
)  # fmt: skip
SOURCE: Final = Field("window.source", "Who says so", "text")
SPREAD: Final = Field("window.spread", "Largest difference across the set, {unit}")
LOW_HIGH: Final = (
    Field("window.low", "Lower limit, {unit}"),
    Field("window.high", "Upper limit, {unit}"),
)


def expected(what: str) -> Knob:
    """What a maker or an earlier sheet foretells."""
    return Knob(
        "Expected",
        (
            Field("expected.drop", f"{what}, {{unit}} (empty: unknown)"),
            Field("expected.source", "Who says so", "text"),
            Field("expected.since", "Day of the earlier set that gave it (empty: none)", "text"),
        ),
        lambda get: or_none(get("expected.drop"), "{unit}", "unknown"),
        "What a maker or an earlier sheet says it should be. It settles a split set, and shows a "
        "fault that all of them share.",
        window=True,
    )
