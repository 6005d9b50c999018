"""The result of an analysis as plain JSON values, in the shape of docs/formats.md."""

import math
from typing import Any

from plumb.core import words
from plumb.core.drop import KIND, DropResult, Finding
from plumb.core.job import JobResult, analyse_job
from plumb.core.quantities import kpa_per
from plumb.core.verdict import Verdict
from plumb.jobfile.models import JobFile
from plumb.jobfile.reading import core_job

_DECIMALS = 4


def _scaled(value: float | None, quantity: str, unit: str) -> float | None:
    """A figure of the core in the sheet's unit: flow indices by its root."""
    if value is None:
        return None
    factor = kpa_per(unit)
    return round(value / (math.sqrt(factor) if quantity == "flow_index" else factor), _DECIMALS)


def _percent(fraction: float | None) -> float | None:
    return None if fraction is None else round(100.0 * fraction, 2)


def finding_json(key: str, finding: Finding, result: DropResult, unit: str) -> dict[str, Any]:
    """One finding of one sheet."""
    return {
        "sheet": key,
        "kind": KIND,
        "injector": finding.injector,
        "quantity": finding.quantity,
        "value": _scaled(finding.value, finding.quantity, unit),
        "unit": f"sqrt_{unit}" if finding.quantity == "flow_index" else unit,
        "reference": _scaled(finding.reference, finding.quantity, unit),
        "deviation_percent": _percent(finding.deviation),
        "uncertainty_percent": _percent(finding.u),
        "probability_out": None
        if finding.probability_out is None
        else round(finding.probability_out, 4),
        "state": finding.state.value,
        "passes_to_settle": finding.passes_to_settle,
        "because": words.because(finding, result),
    }


def sheet_json(key: str, result: DropResult, unit: str) -> dict[str, Any]:
    """What one sheet says of the set, with every rule beside the chosen one."""
    return {
        "sheet": key,
        "agreeing": list(result.flow.agreeing),
        "split": result.split,
        "notes": list(words.notes(result, unit)),
        "passed": result.passed,
        "rules": [
            {
                "rule": o.rule,
                "reject": list(o.reject),
                "repeat": list(o.repeat),
                "applies": o.applies,
            }
            for o in result.rules
        ],
    }


def verdict_json(label: str, verdict: Verdict) -> dict[str, Any]:
    """The verdict of one injector."""
    return {
        "injector": label,
        "condition": verdict.condition,
        "action": verdict.action,
        "because": [verdict.because],
        "not_ruled_out": list(verdict.not_ruled_out),
    }


def _next_json(result: JobResult) -> dict[str, Any] | None:
    step = result.next_step
    if step is None:
        return None
    newest = result.sheets[-1][1] if result.sheets else None
    advice = words.step_words(step, newest)
    every = step.reason == "not_measured" and (newest is None or not newest.sheet.readings)
    return {
        "kind": step.kind,
        "injectors": None if every else list(step.injectors),
        "passes": step.passes,
        "isolation": None,
        "minutes": round(step.minutes, 1),
        "because": f"{advice.title}: {advice.text}",
    }


def result_json(file: JobFile, result: JobResult) -> dict[str, Any]:
    """The whole result of a job file."""
    units = {s.id: s.unit for s in file.sheets}
    return {
        "plumb": 1,
        "findings": [
            finding_json(key, f, r, units[key]) for key, r in result.sheets for f in r.findings
        ],
        "sheets": [sheet_json(key, r, units[key]) for key, r in result.sheets],
        "verdicts": [verdict_json(label, v) for label, v in result.verdicts],
        "next_step": _next_json(result),
    }


def analyse_file(file: JobFile) -> dict[str, Any]:
    """A checked job file in, its result out."""
    return result_json(file, analyse_job(core_job(file)))
