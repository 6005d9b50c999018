"""How the opening pressures were worked out."""

from plumb.core.measure.lines import COMMON, STEP_SOURCE, Line, Working, called_line, class_lines
from plumb.core.measure.quantities import KPA_PER, show_pressure
from plumb.core.measure.uncertainty import KNOWN_TO, reach
from plumb.core.procedures.opening.analysis import STROKE_KPA, Nozzle, OpeningResult
from plumb.core.procedures.opening.shims import COMMONLY, MM_PER_THOU, REASSEMBLY_KPA
from plumb.core.procedures.opening.words import because, plan_words


def working(result: OpeningResult, unit: str) -> Working:
    """All figures of the sheet: strokes, u, window, what a shim buys, and the plan."""
    sheet, s = result.sheet, result.sensitivity
    step = sheet.step / 10.0
    window = sheet.window

    def shown(kpa: float | None) -> str:
        return "none" if kpa is None else show_pressure(kpa, unit, step)

    before = result.sheet.maker or COMMONLY
    shared = [
        Line(label="scatter of a stroke", figure=shown(result.scatter), unit=unit,
             formula=f"pooled over all strokes, from {shown(STROKE_KPA)} {unit} worth four", source=COMMON),
        Line(label="window", figure=f"{shown(window.low)} to {shown(window.high)}", unit=unit,
             source=window.source),
        Line(label="set spread allowed", figure=shown(window.spread), unit=unit),
        Line(label="0.01 mm buys", figure=f"{shown(s.kpa_per_mm * 0.01)} ± {shown(reach(s.u) * 0.01)}",
             unit=unit, formula=f"{KNOWN_TO}; {s.changes} changes, weighed with what nozzles differ by, from "
             f"{shown(before.kpa_per_mm * 0.01)} ± {reach(before.u / before.kpa_per_mm):.0%}",
             source="the maker's figure" if result.sheet.maker else COMMON),
        Line(label="from nozzle to nozzle", figure=shown(s.between * 0.01), unit=unit,
             formula="one deviation, for 0.01 mm; DerSimonian and Laird, with a tenth worth eight changes",
             source="DerSimonian and Laird 1986"),
        Line(label="taking it apart", figure=shown(REASSEMBLY_KPA), unit=unit,
             source=COMMON),
        Line(label="0.001 inch", figure=f"{MM_PER_THOU:g}", unit="mm", source="NIST SP 811, B.8"),
    ]  # fmt: skip
    shared += class_lines(sheet.u_class, KPA_PER[unit], unit)
    rows = tuple(
        (n.injector, tuple(_of_nozzle(n, result, unit))) for n in result.nozzles if n.settings
    )
    return Working(shared=tuple(shared), injectors=rows)


def _of_nozzle(nozzle: Nozzle, result: OpeningResult, unit: str) -> list[Line]:
    step = result.sheet.step / 10.0
    made = [
        Line(
            label="shims not noted" if x.shim_mm is None else f"with {x.shim_mm:g} mm",
            figure=f"{show_pressure(x.mean, unit, step)} ± {show_pressure(reach(x.u), unit, step)}",
            unit=unit, formula=f"mean of {x.strokes}; {KNOWN_TO}, 1.96 u of step and scatter",
            source=STEP_SOURCE,
        )
        for x in nozzle.settings
    ]  # fmt: skip
    finding = next(f for f in result.findings if f.injector == nozzle.injector)
    if finding.probability_out is not None:
        made.append(called_line(result.thresholds, finding.probability_out))
    if nozzle.plan is not None:
        aimed = nozzle.plan.window
        low, high = (show_pressure(x or 0.0, unit, step) for x in (aimed.low, aimed.high))
        made.append(
            Line(label="plan", figure=plan_words(nozzle.plan, result, unit),
                 formula=f"lands in {low} to {high} {unit} with {nozzle.plan.probability:.0%}")
        )  # fmt: skip
    made.append(Line(label="because", figure=because(finding, result, unit)))
    return made
