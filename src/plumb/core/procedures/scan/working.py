"""How the scan was worked out."""

from plumb.core.measure.lines import COMMON, Line, Working
from plumb.core.measure.quantities import rounded
from plumb.core.procedures.scan.analysis import (
    BETTER,
    BEYOND,
    CHANCE,
    LEAST_COUNT,
    NAMES,
    ScanResult,
)
from plumb.core.procedures.scan.words import because, state


def working(result: ScanResult, unit: str) -> Working:
    """The rules of the pattern, and each figure with what it is held against."""
    shared = [
        Line(label="looked into", figure=f"±{BEYOND:g}", unit="%", formula="long trim", source=COMMON),
        Line(label="better at speed", figure=f"{100 * BETTER:g}", unit="% of it or less",
             formula=f"{NAMES['raised']} against {NAMES['idle']}", source=COMMON),
    ]  # fmt: skip
    if result.counts:
        shared += [
            Line(label="fewest misfires that count", figure=f"{LEAST_COUNT}", source=COMMON),
            Line(label="seldomer by chance than", figure=f"{100 * CHANCE:g}", unit="%",
                 formula="Poisson with the middle count of the other cylinders"),
        ]  # fmt: skip
        if result.sheet.over_s:
            shared.append(
                Line(label="counted over", figure=rounded(result.sheet.over_s, 0), unit="s")
            )
    return Working(
        shared=tuple(shared),
        injectors=tuple(
            (f.place, (Line(label=state(f, result) or "read", figure=f"{f.value:g}",
                            formula=because(f, result, unit)),))
            for f in result.findings
            if f.value is not None
        ),
    )  # fmt: skip
