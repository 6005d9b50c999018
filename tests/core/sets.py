"""Sets of bursts for tests, typed in psi."""

from collections.abc import Sequence

from plumb.core.compare.bursts import BurstSet, Injected
from plumb.core.compare.drops.expected import Expected
from plumb.core.compare.drops.sheet import (
    DropResult,
    DropSheet,
    analyse_drop,
)
from plumb.core.compare.flow import flow_of
from plumb.core.compare.rules import RuleChoice
from plumb.core.measure.quantities import KPA_PER
from plumb.core.measure.readings import Mark, Noted

PSI = KPA_PER["psi"]
Pair = tuple[float, float]

CHECK = ((50, 26), (50.5, 26.5), (49.5, 23.5), (50, 26.5), (50, 31.5), (51, 27))
"""The worked check set of the methods, 0.5 psi step; labels 1 to 6."""


def bursts(pairs: Sequence[Pair | Sequence[Pair]], step: float = 0.5) -> BurstSet:
    """A set, labels from 1; an entry is one burst or several."""
    rows = []
    for n, entry in enumerate(pairs, 1):
        passes = [entry] if isinstance(entry[0], int | float) else entry
        flows = tuple(flow_of(a * PSI, b * PSI, step * PSI) for a, b in passes)  # type: ignore[misc]
        rows.append(Injected(str(n), flows))
    return BurstSet(injected=tuple(rows), step=step * PSI)


def drops(start: float, values: Sequence[float], step: float = 0.5) -> BurstSet:
    """A set that starts at one pressure, given by its drops."""
    return bursts([(start, start - d) for d in values], step)


def result(
    pairs: Sequence[Pair | None],
    *,
    step: float = 0.5,
    rule: RuleChoice = RuleChoice(),
    expected: float | None = None,
    more: Sequence[Noted] = (),
) -> DropResult:
    """A drop sheet analysed; None stands for an injector that did not respond."""
    readings = [
        Noted(injector=str(n), number=1, first=50 * PSI, second=None, mark=Mark.NONE)
        if pair is None
        else Noted(injector=str(n), number=1, first=pair[0] * PSI, second=pair[1] * PSI)
        for n, pair in enumerate(pairs, 1)
    ]
    return analyse_drop(
        DropSheet(
            kind="pressure_drop",
            injectors=tuple(str(n) for n in range(1, len(pairs) + 1)),
            readings=(*readings, *more),
            step=step * PSI,
            rule=rule,
            expected=None if expected is None else Expected(drop=expected * PSI, source="card"),
        )
    )


def drop_sheet(passes: Sequence[Sequence[Pair]], step: float = 0.5) -> DropSheet:
    """A drop sheet with several passes of each injector, labels from 1."""
    return DropSheet(
        kind="pressure_drop",
        injectors=tuple(str(n) for n in range(1, len(passes) + 1)),
        readings=tuple(
            Noted(injector=str(n), number=p, first=a * PSI, second=b * PSI)
            for n, mine in enumerate(passes, 1)
            for p, (a, b) in enumerate(mine, 1)
        ),
        step=step * PSI,
    )


def states(found: DropResult) -> list[str]:
    """The state codes in order."""
    return [f.state.value for f in found.findings]
