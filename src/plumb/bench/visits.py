"""Whole jobs on hidden engines, from the complaint to its end: what is left, and what good was touched.

Where :mod:`plumb.bench.diagnosis` stops at what was found, here it is repaired, measured again, the complaint
asked for word by word, and what is left looked for anew (:mod:`plumb.bench.engines.visits`).
"""

from collections import Counter
from collections.abc import Callable, Iterator

from rich.console import Console
from rich.progress import Progress
from rich.table import Table

from plumb.bench.diagnosis import drawn
from plumb.bench.engines.clashes import clashes
from plumb.bench.engines.visits import Ended, whole_job
from plumb.core.measure.uncertainty import wilson
from plumb.core.mend.finish import Finished


def ended(
    count: int,
    seed: int,
    progress: Callable[[], None] = lambda: None,
    watch: Callable[[Finished], None] = lambda _: None,
) -> Iterator[tuple[str, tuple[str, ...], int, Ended]]:
    """Fuel system, what is wrong, how many good injectors, and what the whole job came to; each step is watched."""
    for system, names, engine, scatter in drawn(count, seed):
        good = engine.count - len(engine.truth)
        yield (
            system,
            names,
            good,
            whole_job(engine, scatter, lambda _, told: watch(told)),
        )
        progress()


def visits(console: Console, *, engines: int, seed: int) -> None:
    """Run it, and print how many jobs end rightly, and each that does not."""
    with Progress(console=console, transient=True) as progress:
        task = progress.add_task("engines", total=engines)
        against: Counter[str] = Counter()
        made = list(
            ended(
                engines,
                seed,
                lambda: progress.advance(task),
                lambda told: against.update(clashes(told)),
            )
        )
    right = sum(one.right for _, _, _, one in made)
    low, high = wilson(right, len(made))
    needless = sum(len(one.needless) for _, _, _, one in made)
    minutes = sum(o.minutes for _, _, _, o in made) / sum(o.full_minutes for _, _, _, o in made)
    console.print(
        f"{engines} hidden engines (seed {seed}), each to its end: {100 * right / len(made):.1f} % "
        f"({100 * low:.1f} to {100 * high:.1f}) with nothing left and nothing good touched; "
        f"{needless} of {sum(good for _, _, good, _ in made)} good injectors worked on; "
        f"{minutes:.2f} of the minutes of the whole route, measuring again included."
    )
    console.print(
        f"{sum(len(o.steps) for _, _, _, o in made)} steps; what cannot stand together in what was told of one: "
        + ("; ".join(f"{text} ({count})" for text, count in against.items()) or "nothing")
        + "."
    )
    table = Table(title="What did not end so")
    for head in ("fuel system", "what is wrong", "left", "good, worked on", "what was done"):
        table.add_column(head)
    for system, names, _, one in made:
        if not one.right:
            table.add_row(
                system, ", ".join(names), ", ".join(one.left), ", ".join(one.needless),
                ", ".join(one.repairs),
            )  # fmt: skip
    console.print(table, width=max(console.width, 120))
