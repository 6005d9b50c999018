"""What a person does with an instrument on the shelf: ask it, and see what answers."""

import time
from typing import Final

from plumb.core.measure.problems import PlumbError, Problem
from plumb.core.measure.quantities import KPA_PER
from plumb.devices.address import address_of, command_of
from plumb.devices.instrument import Silent
from plumb.devices.scpi import ScpiBox, ScpiGauge, figure_of, same_unit
from plumb.service.views.live import TriedView

_READ: Final = 5
"""So many figures are asked for, to see how quickly they come."""
_SLOW_HZ: Final = 8.0
"""A burst of half a second takes more figures than that."""


def try_instrument(address: str, command: str, unit: str) -> TriedView:
    """Ask a gauge as it is typed; without a ``unit`` a burst box.  What it answers is shown as it came.

    Raises :class:`PlumbError` for an address or command that is none.
    """
    where = address_of(address)
    if where.way != "line":
        rule = "only what is on a network or serial line can be asked from here"
        raise PlumbError(Problem(path="address", rule=rule, value=address, code="not_asked"))
    if not unit:
        return _try_box(ScpiBox(where))
    wanted = command_of(command, unit)
    gauge = ScpiGauge(where, command=wanted, unit=unit, step=0.0, rate_hz=1000.0)
    try:
        return _try_gauge(gauge, unit)
    finally:
        gauge.close()


def _try_gauge(gauge: ScpiGauge, unit: str) -> TriedView:
    problems: list[str] = []
    identity = ""
    try:
        identity = gauge.identity().told
    except Silent as silent:
        problems.append(f"*IDN?: {silent}")
    answers: list[str] = []
    begun = time.monotonic()
    try:
        for _ in range(_READ):
            answers.append(gauge.line.ask(gauge.command))
            figure_of(answers[-1])
    except Silent as silent:
        problems.append(f"{gauge.command}: {silent}")
    rate = len(answers) / max(1e-6, time.monotonic() - begun) if answers else 0.0
    said = gauge.says_unit() if answers and unit in KPA_PER else ""
    problems += _about(unit, said, rate if len(answers) == _READ else _SLOW_HZ)
    return TriedView(
        answers=bool(answers), identity=identity, readings=answers, says_unit=said,
        rate_hz=round(rate, 1), problems=problems,
    )  # fmt: skip


def _about(unit: str, said: str, rate: float) -> list[str]:
    told = []
    if said and not same_unit(said, unit):
        told.append(f"it says that it answers in {said}; the shelf has it in {unit}")
    if rate < _SLOW_HZ and unit in KPA_PER:
        told.append(f"{rate:.1f} figures a second are too few to see a burst")
    return told


def _try_box(box: ScpiBox) -> TriedView:
    problems: list[str] = []
    answers: list[str] = []
    identity = ""
    try:
        identity = box.identity().told
        box.errors()
        answers += [f"{query} {box.line.ask(query)}" for query in ("BURS:NCYC?", "BURS:WIDT?")]
        answers.append(f"OUTP:PUMP? {int(box.pump_is_on())}")
    except Silent as silent:
        problems.append(str(silent))
    finally:
        box.close()
    return TriedView(
        answers=not problems, identity=identity, readings=answers, says_unit="", rate_hz=0.0,
        problems=problems,
    )  # fmt: skip
