"""Supply pressure: static, cranking, running, hose off; no motor sound ends the injector work.

With a vacuum regulator the pressure falls at idle by about the manifold's depression and rises
again when its hose comes off; a rail that does not answer has a regulator that does not.
"""

import math
from dataclasses import dataclass
from typing import Final

from plumb.core.compare.bursts import beyond
from plumb.core.compare.window_rule import decide_window, outside_window
from plumb.core.measure.decision import State, Thresholds
from plumb.core.measure.finding import SHARE_OF_PRESSURE, Finding
from plumb.core.measure.readings import Window
from plumb.core.measure.uncertainty import step_uncertainty
from plumb.core.procedures.supply.pump import heard

KIND: Final = "supply_pressure"
STATES: Final = ("key_on", "cranking", "running", "hose_off")
NAMES: Final = {
    "key_on": "Key on",
    "cranking": "Cranking",
    "running": "Running",
    "hose_off": "Hose off",
}
"""The states of the engine in working order, and what they are called."""


@dataclass(frozen=True, slots=True, kw_only=True)
class SupplySheet:
    """What is put in: pressures in kPa by state, windows by state, the pump's sound and its volts.

    ``u_class`` is what the gauge's class adds to each of them (kPa).  ``pump`` is runs, clicks_only, silent or empty; ``pump_v`` the volts at its plug while it should run.
    """

    readings: tuple[tuple[str, float], ...]
    step: float
    windows: tuple[tuple[str, Window], ...] = ()
    pump: str = ""
    pump_v: float | None = None
    u_class: float = 0.0

    @property
    def kind(self) -> str:
        """Which procedure it is."""
        return KIND


@dataclass(frozen=True, slots=True, kw_only=True)
class SupplyResult:
    """What the sheet says: a finding for each state of the engine, in working order.

    ``no_pressure``: the rail stays empty with the key on; ``regulator_answers``: whether pulling
    the hose raises it, None where both were not read.
    """

    sheet: SupplySheet
    findings: tuple[Finding, ...]
    no_pressure: bool
    regulator_answers: bool | None
    thresholds: Thresholds

    @property
    def kind(self) -> str:
        """Which procedure it is."""
        return KIND

    @property
    def begun(self) -> bool:
        """Whether anything was read, or the pump listened to."""
        return bool(self.sheet.readings or self.sheet.pump or self.sheet.pump_v is not None)

    @property
    def passed(self) -> bool:
        """Something was read and nothing is out of its window."""
        read = [f for f in self.findings if f.value is not None]
        out = {State.LOW, State.HIGH, State.UNSETTLED}
        return bool(read) and not self.no_pressure and not any(f.state in out for f in read)

    @property
    def ends_here(self) -> bool:
        """Without a running pump or a pressure there is nothing to test an injector with."""
        return bool(heard(self.sheet.pump)) or self.no_pressure


def analyse_supply(sheet: SupplySheet, thresholds: Thresholds = Thresholds()) -> SupplyResult:
    """Judge each state against its window; say whether the regulator answers to its hose."""
    u = math.hypot(step_uncertainty(sheet.step), sheet.u_class)
    read = dict(sheet.readings)
    windows = dict(sheet.windows)
    findings = tuple(
        _finding(name, read.get(name), windows.get(name, Window()), u, thresholds)
        for name in STATES
        if name in read or name != "cranking"
    )
    answers = None
    if "running" in read and "hose_off" in read:
        # One step may be the reader; a manifold pulls several psi.
        rise = read["hose_off"] - read["running"]
        answers = rise > 0.0 and beyond(rise, 2.0 * sheet.step)
    first = read.get("key_on")
    return SupplyResult(
        sheet=sheet,
        findings=findings,
        no_pressure=first is not None and first < 2.0 * sheet.step,
        regulator_answers=answers,
        thresholds=thresholds,
    )


def _finding(
    name: str, value: float | None, window: Window, u: float, thresholds: Thresholds
) -> Finding:
    middle = None
    if window.low is not None and window.high is not None:
        middle = (window.low + window.high) / 2.0
    judged = value is not None and window.stated
    return Finding(
        injector="",
        place=name,
        quantity=name,
        scale=SHARE_OF_PRESSURE,
        state=State.NOT_JUDGED if value is None else decide_window(value, u, window, thresholds),
        value=value,
        reference=middle,
        deviation=value / middle - 1.0 if value is not None and middle else None,
        u=u / middle if value is not None and middle else None,
        tolerance=(window.high - window.low) / 2.0 / middle
        if middle and window.low is not None and window.high is not None
        else None,
        probability_out=outside_window(value, u, window).out
        if judged and value is not None
        else None,
        passes_to_settle=None,
        passes=0 if value is None else 1,
        agrees=False,
    )
