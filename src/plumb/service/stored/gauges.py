"""A gauge as it is typed, and as the job file has it."""

from collections.abc import Mapping
from dataclasses import dataclass
from decimal import Decimal
from typing import Any, Final

from plumb.core.measure.problems import PlumbError, Problem
from plumb.core.measure.quantities import parse_typed, plain
from plumb.core.measure.uncertainty import class_words


@dataclass(frozen=True, slots=True, kw_only=True)
class Gauge:
    """A gauge as typed: name, unit, step; a meter's leads and accuracy; where it is asked, and what.

    ``class_percent`` of its ``span`` is a pressure gauge's class, ``reads`` whether it is a dial or digital.
    """

    name: str
    unit: str
    step: str
    lead: str = ""
    percent: str = ""
    counts: str = ""
    address: str = ""
    command: str = ""
    class_percent: str = ""
    span: str = ""
    reads: str = ""


FIGURES: Final = ("lead", "percent", "counts", "class_percent", "span")
"""What is known of a gauge beside its step, as figures."""


def shown(known: Mapping[str, Any] | None, unit: str) -> dict[str, str]:
    """What is known of a kept gauge beside its step, as it was typed, with how its class is told."""
    # A whole number comes back as an int, which has no digits of its own to keep.
    made = {k: v if k == "reads" else plain(Decimal(v)) for k, v in (known or {}).items()}
    percent, span, reads = (made.get(k, "") for k in ("class_percent", "span", "reads"))
    return {**made, "class_words": class_words(percent, span, reads, unit)}


def gauge_json(gauge: Gauge) -> dict[str, Any]:
    """A gauge as the job file has it."""
    made: dict[str, Any] = {"name": gauge.name, "step": typed_step(gauge.step)}
    for name in FIGURES:
        text = getattr(gauge, name)
        if text:
            made[name] = parse_typed(text, f"gauge.{name}")
    return {**made, "reads": gauge.reads} if gauge.reads else made


def typed_step(text: str) -> Decimal:
    """A gauge's step as typed; above zero."""
    step = parse_typed(text, "step")
    if step <= 0:
        raise PlumbError(
            Problem(
                path="step", rule="a gauge's step is above zero", value=text, code="not_positive"
            )
        )
    return step
