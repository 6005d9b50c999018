"""All thirty exercises worked by whoever only follows *Next*: is it right, and what does it cost."""

from rich.console import Console
from rich.table import Table

from plumb.bench.engines.follow import follow
from plumb.practice.exercises import EXERCISES, engine_of


def practice(console: Console, *, seed: int) -> None:
    """Print each exercise with its minutes against the whole route."""
    table = Table(title=f"The thirty exercises, *Next* followed (noise seed {seed})")
    for head in ("", "engine", "right", "minutes", "whole route", "steps"):
        table.add_column(head, justify="left" if head in {"engine", "steps"} else "right")
    right = minutes = full = 0.0
    for exercise in EXERCISES.values():
        outcome = follow(engine_of(exercise), seed)
        right += outcome.right and outcome.ended
        minutes += outcome.minutes
        full += outcome.full_minutes
        table.add_row(
            exercise.code, f"{exercise.vehicle}: {exercise.teaches}",
            "yes" if outcome.right and outcome.ended else "no", f"{outcome.minutes:.0f}",
            f"{outcome.full_minutes:.0f}", str(len(outcome.steps)),
        )  # fmt: skip
    console.print(table, width=max(console.width, 130))
    console.print(
        f"right {right:.0f} of {len(EXERCISES)}; {minutes:.0f} min of {full:.0f} "
        f"({minutes / full:.2f} of the whole routes)"
    )
