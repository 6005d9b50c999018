"""The result of an analysis as plain JSON values, in the shape of docs/formats.md."""

from typing import Any

from plumb.core.causes.fault import FEED
from plumb.core.diagnose.explain import Cause
from plumb.core.measure.finding import Dimension, Finding
from plumb.core.measure.step import NextStep
from plumb.core.mend.after import Pair
from plumb.core.mend.finish import Finished
from plumb.core.mend.options import Option, Prices, options_for
from plumb.core.mend.told import says
from plumb.core.mend.words import swap_words
from plumb.core.procedures import Result, kind_of
from plumb.core.weigh.facts import newest
from plumb.core.weigh.job import JobResult
from plumb.core.weigh.suspicions import CAUSES
from plumb.core.weigh.verdict import Verdict
from plumb.core.weigh.words_diagnosis import because, explanation
from plumb.core.weigh.words_next import step_words
from plumb.jobfile.file import JobFile
from plumb.jobfile.kinds import FILE_KINDS
from plumb.jobfile.kinds.kind import DECIMALS
from plumb.jobfile.models import SheetPart
from plumb.jobfile.to_core import finished


def unit_of(sheet: SheetPart) -> str:
    """The unit of a sheet; empty for one without figures."""
    return str(getattr(sheet, "unit", ""))


def _percent(fraction: float | None) -> float | None:
    return None if fraction is None else round(100.0 * fraction, 2)


def finding_json(key: str, finding: Finding, result: Result, unit: str) -> dict[str, Any]:
    """One finding of one sheet; ``injector`` is null where it is about the whole engine."""
    kind = kind_of(result)
    root = finding.scale.dimension is Dimension.ROOT_OF_PRESSURE
    shown, factor = f"sqrt_{unit}" if root else unit, finding.scale.per(unit)
    relative = finding.scale.relative

    def scaled(value: float | None) -> float | None:
        return None if value is None else round(value / factor, DECIMALS)

    # Points and pressures are compared as they are: a share of a reference near nothing is nothing.
    return {
        "sheet": key,
        "kind": result.kind,
        "injector": finding.injector or None,
        "quantity": finding.quantity,
        "value": scaled(finding.value),
        "unit": shown,
        "reference": scaled(finding.reference),
        "deviation_percent": _percent(finding.deviation) if relative else None,
        "uncertainty_percent": _percent(finding.u) if relative else None,
        "deviation": None if relative else scaled(finding.deviation),
        "uncertainty": None if relative else scaled(finding.u),
        "probability_out": None
        if finding.probability_out is None
        else round(finding.probability_out, DECIMALS),
        "state": finding.state.value,
        "words": kind.state(finding, result),
        "passes_to_settle": finding.passes_to_settle,
        "because": kind.because(finding, result, unit)
        + (f"; carried over {finding.carried}" if finding.carried else ""),
    }


def sheet_json(key: str, result: Result, unit: str) -> dict[str, Any]:
    """What one sheet says of the set, with what its kind tells beyond that."""
    kind = kind_of(result)
    return {
        "sheet": key,
        "kind": result.kind,
        "says": "".join(s.text for s in kind.headline(result, unit)),
        "agreeing": [],
        "split": False,
        "notes": list(kind.notes(result, unit)),
        "passed": result.passed,
        "rules": [],
        **FILE_KINDS[result.kind].more(result, unit),
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


def _step_json(step: NextStep, result: JobResult, count: int) -> dict[str, Any]:
    there = newest(result.sheets).get(step.kind)
    advice = step_words(step, there[1] if there else None, result.setting)
    every = len(step.injectors) == count and there is None
    return {
        "kind": step.kind,
        "injectors": None if every or not step.injectors else list(step.injectors),
        "passes": step.passes,
        "isolation": step.isolation or None,
        "minutes": round(step.minutes, 1),
        "because": f"{advice.title}: {advice.text}",
        **({"cause": step.cause} if step.repairs else {}),
    }


def _next_json(done: Finished, count: int) -> dict[str, Any] | None:
    result, step = done.now, done.next_step
    if step is None:
        return None
    others = result.alternatives if step is result.next_step else ()
    return {
        **_step_json(step, result, count),
        "alternatives": [_step_json(s, result, count) for s in others],
    }


def engine_json(result: JobResult) -> dict[str, Any]:
    """What explains the complaint: every cause of the engine, of a cylinder, of an injector."""
    diagnosis = result.diagnosis
    return {
        "complaint": list(diagnosis.words),
        "explained": diagnosis.explained,
        "says": "".join(s.text for s in explanation(diagnosis)).strip(),
        "causes": [_cause_json(c, result) for c in diagnosis.causes],
        "outside": list(diagnosis.outside),
    }


def _cause_json(cause: Cause, result: JobResult) -> dict[str, Any]:
    place = "feed" if cause.fault.of == FEED else "injector"
    kinds = {key: r.kind for key, r in result.sheets}
    return {
        "cause": cause.fault.code,
        **({place: cause.place} if cause.place else {}),
        "state": cause.state,
        "share": round(cause.share, DECIMALS),
        "because": because(cause, result),
        "told_by": kinds.get(cause.told_by),
    }


def option_json(option: Option) -> dict[str, Any]:
    """One way to put it right; money in the currency of the prices, null where a price is missing."""
    cost = option.cost
    return {
        "option": option.option,
        "injectors": list(option.injectors),
        "cost": None
        if cost is None
        else {n: round(getattr(cost, n), 2) for n in ("expected", "low", "high")},
        "hours": round(option.hours, 2),
        "second_visit": round(option.second_visit, DECIMALS),
        "because": option.because,
        "risk": option.risk,
    }


def pair_json(pair: Pair, unit: str) -> dict[str, Any]:
    """One row before and after the repair."""
    factor = pair.after.scale.per(unit)
    absolute = None if pair.relative else pair.change
    return {
        "injector": pair.injector or None,
        **({} if pair.injector else {"row": pair.row}),
        "sheet": pair.sheet,
        "before": pair.before_sheet,
        "change_percent": _percent(pair.change) if pair.relative else None,
        "uncertainty_percent": _percent(pair.u) if pair.relative else None,
        "change": None if absolute is None else round(absolute / factor, DECIMALS),
        "uncertainty": None
        if absolute is None or pair.u is None
        else round(pair.u / factor, DECIMALS),
        "unit": "" if pair.relative else unit,
        "word": pair.word,
    }


def finishing_json(file: JobFile, done: Finished) -> dict[str, Any]:
    """What follows from the verdict: ways to put it right, what changed, what goes with the work."""
    units = {s.id: unit_of(s) for s in file.sheets}
    prices = file.prices.core() if file.prices else Prices()
    return {
        "says": says(done),
        "options": [option_json(o) for o in options_for(done.still_open, prices, {})],
        "after": [pair_json(p, units[p.sheet]) for p in done.pairs],
        "swaps": [
            {
                "injectors": [s.place, s.other], "sheet": s.sheet, "before": s.before_sheet,
                "word": s.word, "says": swap_words(s),
            }
            for s in done.swaps
        ],
        "things": [{"what": t.code, "says": t.words} for t in done.things],
        "due": [
            {"kind": d.kind, "injectors": list(d.injectors), "after": d.before_sheet}
            for d in done.due
        ],
        "over": done.over,
    }  # fmt: skip


def found_json(done: Finished) -> dict[str, Any]:
    """What was found before any repair."""
    return {
        "verdicts": [verdict_json(label, v, done.found) for label, v in done.found.verdicts],
        "engine": engine_json(done.found),
    }


def result_json(file: JobFile, done: Finished) -> dict[str, Any]:
    """The whole result of a job file: how the engine stands now, and what was found before a repair."""
    result = done.now
    units = {s.id: unit_of(s) for s in file.sheets}
    repaired = {"found": found_json(done)} if done.repairs or done.pairs else {}
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
        "engine": engine_json(result),
        "next_step": _next_json(done, len(file.vehicle.injectors)),
        **repaired,
        **finishing_json(file, done),
    }


def _causes(key: str, result: JobResult) -> list[str]:
    """What a sheet says is to be checked first on the engine itself."""
    return [CAUSES[f.code] for f in result.facts if f.sheet == key and f.code in CAUSES]


def analyse_file(file: JobFile) -> dict[str, Any]:
    """A checked job file in, its result out."""
    return result_json(file, finished(file))
