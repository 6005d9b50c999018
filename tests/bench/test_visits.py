"""Whole jobs to their end: what a repair does to the engine, and that following every step ends the complaint."""

import os
from types import SimpleNamespace
from typing import Any

import numpy as np
import pytest

from plumb.bench.engines.clashes import clashes
from plumb.bench.engines.hidden import draw
from plumb.bench.engines.visits import Visit, whole_job
from plumb.bench.visits import ended
from plumb.core.mend.finish import Finished

WAYS = (
    ("port", ("clogged",)),
    ("port", ("regulator leaks", "weeps")),
    ("direct", ("supply", "drips")),
    ("common_rail", ("returns", "compression")),
    ("mechanical_diesel", ("seat leaks", "compression")),
    ("throttle_body", ("pours", "clogged")),
)


@pytest.mark.parametrize(("system", "names"), WAYS)
def test_two_faults_are_found_one_after_the_other(system: str, names: tuple[str, ...]) -> None:
    """What is found is repaired and measured again; what is left is looked for anew, until nothing is."""
    seed = WAYS.index((system, names))
    one = whole_job(draw(np.random.default_rng((5, seed)), system, names), seed)
    assert one.ended
    assert (one.left, one.needless) == ((), ())
    assert one.over
    again = [s for s in one.steps if s.endswith(":after_fix")]
    assert again
    assert one.steps[-1] == "ask_after:ask_after"
    assert one.minutes > 0.0


def test_a_repair_does_what_such_a_repair_does() -> None:
    """A new part is good; what was put right on the engine is right; a good one that is touched is told."""
    engine = draw(np.random.default_rng(3), "port", ("drips", "regulator leaks"))
    at = next(iter(engine.truth))
    words = set(engine.words)
    visit = Visit(engine, 1)
    visit.mends("regulator")
    assert "regulator" not in engine.leaks
    assert visit.there == {"drips"}
    visit.works_on(str(at + 1), "replace")
    assert (engine.leak[at], engine.truth, visit.there) == (0.0, {}, set())
    assert visit.needless == []
    other = str(1 + (at + 1) % engine.count)
    visit.works_on(other, "replace")
    assert visit.needless == [f"{other} replaced"]
    visit.asked()
    assert visit.done.asked_after == dict.fromkeys(words, "gone")
    assert [r.done for r in visit.done.repairs] == ["put_right", "replaced", "replaced"]


LONG = bool(os.environ.get("PLUMB_LONG_TESTS"))
ENGINES = 2000 if LONG else 25


def test_whole_jobs_end_with_nothing_left_and_never_contradict_themselves() -> None:
    """At most one in twenty leaves something or touches a good one; at no step do two things stand that cannot."""
    steps = 0

    def watch(told: Finished) -> None:
        nonlocal steps
        steps += 1
        assert clashes(told) == ()

    made = [one for _, _, _, one in ended(ENGINES, 61, watch=watch)]
    assert steps > 8 * ENGINES
    assert all(one.ended for one in made)
    assert sum(not one.right for one in made) <= ENGINES // 20


def told(action: str, *, cause: str = "", read: bool = True, ruled_out: str = "") -> Any:
    """A job of one injector, as far as the pairs look at it."""
    finding = SimpleNamespace(injector="1", told=read)
    verdict = SimpleNamespace(action=action, row="r", ruled_out=(ruled_out,))
    found = [
        SimpleNamespace(
            place="1", state="found", share=0.9, fault=SimpleNamespace(code=cause, of="injector")
        )
    ]
    now = SimpleNamespace(
        diagnosis=SimpleNamespace(
            words=("misfire",), explained="open", causes=(), found=found if cause else (),
            stands=lambda _word: "open",
        ),
        sheets=(("s1", SimpleNamespace(findings=(finding,))),), facts=(), verdicts=(("1", verdict),),
    )  # fmt: skip
    return SimpleNamespace(now=now, over=False, next_step=object(), repairs=(), unasked=())


def test_what_cannot_stand_together_is_seen() -> None:
    """Each pair by itself, and nothing of a job that is as it should be."""
    assert clashes(told("keep")) == ()
    assert clashes(told("keep", cause="gives_less")) == ("gives_less found, and kept",)
    assert clashes(told("replace", cause="coil_open", ruled_out="coil_open")) == (
        "coil_open found, and ruled out",
    )
    assert clashes(told("repeat", read=False)) == ("repeat, and never read",)
    nothing = told("repeat")
    nothing.next_step = None
    assert clashes(nothing) == ("nothing next, and repeat: r",)
    nothing.now.diagnosis.explained = "yes"
    assert "explained, and misfire open" in clashes(nothing)
    over = told("replace")
    over.over = True
    assert clashes(over) == ("over, and replace: r", "over, and something next")
    unasked = told("keep")
    unasked.repairs, unasked.unasked, unasked.next_step = ("r",), ("misfire",), None
    assert len(clashes(unasked)) == 1
    cleared = told("keep")
    cleared.now.diagnosis.causes = (
        SimpleNamespace(state="cleared", share=0.2, fault=SimpleNamespace(code="air")),
    )
    assert clashes(cleared) == ("air cleared, at 20 %",)
