"""The result of an analysis as plain JSON values, in the shape of docs/formats.md."""

import math
from typing import Any, Final

from plumb.core import coil, correction, cranking, drop, hold, opening, rail, supply
from plumb.core.evidence import Result, newest
from plumb.core.finding import Finding
from plumb.core.job import JobResult, analyse_job
from plumb.core.quantities import kpa_per
from plumb.core.suspicions import CAUSES
from plumb.core.verdict import Verdict
from plumb.core.words_next import step_words
from plumb.core.words_sheets import because_of, headline_of, notes_of, state_words
from plumb.jobfile.file import JobFile, SheetPart
from plumb.jobfile.to_core import core_job

_DECIMALS: Final = 4


def unit_of(sheet: SheetPart) -> str:
    """The unit of a sheet; empty for one without figures."""
    return str(getattr(sheet, "unit", ""))


def _percent(fraction: float | None) -> float | None:
    return None if fraction is None else round(100.0 * fraction, 2)


def _quantity(finding: Finding, result: Result, unit: str) -> tuple[str, str, float]:
    """Name, unit and factor of a finding's value: flow indices by the root of the unit."""
    if isinstance(result, drop.DropResult) and result.sheet.linear:
        return "volume", unit, 1.0
    if isinstance(result, drop.DropResult) and finding.quantity == "flow_index":
        return "flow_index", f"sqrt_{unit}", math.sqrt(kpa_per(unit))
    if isinstance(result, supply.SupplyResult):
        return finding.injector, unit, kpa_per(unit)
    if isinstance(result, drop.DropResult | hold.HoldResult):
        return finding.quantity, unit, kpa_per(unit)
    if isinstance(result, opening.OpeningResult):
        return finding.quantity, unit, kpa_per(unit)
    return finding.quantity, unit, 1.0


def finding_json(key: str, finding: Finding, result: Result, unit: str) -> dict[str, Any]:
    """One finding of one sheet; ``injector`` is null where it is about the whole engine."""
    quantity, shown, factor = _quantity(finding, result, unit)
    engine = isinstance(result, supply.SupplyResult | hold.HoldResult)

    def scaled(value: float | None) -> float | None:
        return None if value is None else round(value / factor, _DECIMALS)

    # Points and pressures are compared as they are: a share of a reference near nothing is nothing.
    absolute = isinstance(result, correction.CorrectionResult | opening.OpeningResult)
    known = None if isinstance(result, hold.HoldResult) else finding.u
    return {
        "sheet": key,
        "kind": result.kind,
        "injector": None if engine else finding.injector,
        "quantity": quantity,
        "value": scaled(finding.value),
        "unit": shown,
        "reference": scaled(finding.reference),
        "deviation_percent": None if absolute else _percent(finding.deviation),
        "uncertainty_percent": None if absolute else _percent(known),
        "deviation": scaled(finding.deviation) if absolute else None,
        "uncertainty": scaled(known) if absolute else None,
        "probability_out": None
        if finding.probability_out is None
        else round(finding.probability_out, 4),
        "state": finding.state.value,
        "words": state_words(finding, result),
        "passes_to_settle": finding.passes_to_settle,
        "because": because_of(finding, result),
    }


def sheet_json(key: str, result: Result, unit: str) -> dict[str, Any]:
    """What one sheet says of the set, with every rule beside the chosen one."""
    said = "".join(s.text for s in headline_of(result, unit))
    made: dict[str, Any] = {
        "sheet": key,
        "kind": result.kind,
        "says": said,
        "agreeing": [],
        "split": False,
        "notes": list(notes_of(result, unit)),
        "passed": result.passed,
        "rules": [],
    }
    if isinstance(result, drop.DropResult):
        made |= {"agreeing": list(result.flow.agreeing), "split": result.split}
        made["rules"] = [
            {
                "rule": o.rule,
                "reject": list(o.reject),
                "repeat": list(o.repeat),
                "applies": o.applies,
            }
            for o in result.rules
        ]
    elif isinstance(result, coil.CoilResult):
        compared = result.compared
        made |= {"agreeing": list(compared.agreeing), "split": compared.split}
    elif isinstance(result, hold.HoldResult):
        made["isolation"] = _board_json(result)
    elif isinstance(result, opening.OpeningResult):
        made |= _nozzles_json(result, unit)
    elif isinstance(result, rail.RailResult):
        made |= _rail_json(result, unit)
    elif isinstance(result, cranking.CrankingResult):
        made["humps"] = [
            {
                "injector": h.label or None, "percent": round(100.0 * h.median, 1),
                "low_cycles": h.low_cycles, "cycles": h.cycles, "state": h.state.value,
            }
            for h in result.humps
        ]  # fmt: skip
    return made


def _nozzles_json(result: opening.OpeningResult, unit: str) -> dict[str, Any]:
    """Settings, what was seen, and the plan of each nozzle; what a millimetre of shim buys."""
    factor = kpa_per(unit)
    s = result.sensitivity

    def shown(kpa: float) -> float:
        return round(kpa / factor, _DECIMALS)

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
                "wanted_mm": None if n.wanted_mm is None else round(n.wanted_mm, _DECIMALS),
                "plan": None
                if n.plan is None
                else {
                    "keep_inside": n.plan.stays, "add_mm": list(n.plan.added),
                    "change_mm": n.plan.change_mm, "value": shown(n.plan.predicted),
                    "low": shown(n.plan.low), "high": shown(n.plan.high),
                    "probability": round(n.plan.probability, _DECIMALS),
                },
            }
            for n in result.nozzles
        ],
    }  # fmt: skip


def _rail_json(result: rail.RailResult, unit: str) -> dict[str, Any]:
    """How the rail follows what is wanted."""
    factor = kpa_per(unit)
    return {
        "rail": {
            "state": result.state,
            "bias": round(result.bias / factor, _DECIMALS),
            "swing": round(result.swing / factor, _DECIMALS),
            "frequency_hz": None
            if result.frequency_hz is None
            else round(result.frequency_hz, _DECIMALS),
            "beyond_percent": _percent(result.beyond),
            "unit": unit,
        }
    }


def _board_json(result: hold.HoldResult) -> dict[str, Any]:
    board = result.board
    return {
        "left": list(board.left),
        "struck": {s.source: s.because for s in board.struck},
        "contradiction": board.contradiction,
        "against": [list(pair) for pair in board.against],
    }


def verdict_json(label: str, verdict: Verdict, result: JobResult) -> dict[str, Any]:
    """The verdict of one injector."""
    return {
        "injector": label,
        "condition": verdict.condition,
        "action": verdict.action,
        "because": [verdict.because, *(f.text for f in result.facts_about(label))],
        "not_ruled_out": list(verdict.not_ruled_out),
        "ruled_out": list(verdict.ruled_out),
        "rows": list(verdict.fired),
        "contradictions": [c.text for c in verdict.contradictions],
    }


def _next_json(result: JobResult, count: int) -> dict[str, Any] | None:
    step = result.next_step
    if step is None:
        return None
    there = newest(result.sheets).get(step.kind)
    on = there[1] if there else None
    advice = step_words(step, on if isinstance(on, drop.DropResult) else None)
    every = len(step.injectors) == count and there is None
    return {
        "kind": step.kind,
        "injectors": None if every or not step.injectors else list(step.injectors),
        "passes": step.passes,
        "isolation": step.isolation or None,
        "minutes": round(step.minutes, 1),
        "because": f"{advice.title}: {advice.text}",
    }


def result_json(file: JobFile, result: JobResult) -> dict[str, Any]:
    """The whole result of a job file."""
    units = {s.id: unit_of(s) for s in file.sheets}
    return {
        "plumb": 1,
        "findings": [
            finding_json(key, f, r, units[key]) for key, r in result.sheets for f in r.findings
        ],
        "sheets": [
            {**sheet_json(key, r, units[key]), "check_first": _causes(key, result)}
            for key, r in result.sheets
        ],
        "verdicts": [verdict_json(label, v, result) for label, v in result.verdicts],
        "next_step": _next_json(result, len(file.vehicle.injectors)),
    }


def _causes(key: str, result: JobResult) -> list[str]:
    """What a sheet says is to be checked first on the engine itself."""
    return [CAUSES[f.code] for f in result.facts if f.sheet == key and f.code in CAUSES]


def analyse_file(file: JobFile) -> dict[str, Any]:
    """A checked job file in, its result out."""
    return result_json(file, analyse_job(core_job(file)))
