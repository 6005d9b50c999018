"""The next step as a screen shows it."""

from collections.abc import Sequence

from plumb.core.measure.step import AFTER_FIX, ASK_AFTER, PUT_RIGHT, NextStep
from plumb.core.procedures import Result
from plumb.core.procedures.kind import Setting
from plumb.core.weigh.words_next import step_words
from plumb.service.views.sheet import NextView, OtherStepView


def next_view(
    step: NextStep | None,
    result: Result | None,
    setting: Setting,
    others: Sequence[NextStep] = (),
) -> NextView | None:
    """The next step in words, with what could be done instead."""
    if step is None:
        return None
    advice = step_words(step, result, setting)
    return NextView(
        kind=step.doubt if step.repairs else step.kind,
        injectors=list(step.injectors),
        passes=step.passes,
        minutes=round(step.minutes, 1),
        isolation=step.isolation,
        title=advice.title,
        text=advice.text,
        anew=step.repairs or step.reason in {"contradiction", "left_out", AFTER_FIX},
        repairs=step.repairs,
        after=step.doubt if step.reason == AFTER_FIX else "",
        asks=step.kind in {ASK_AFTER, PUT_RIGHT},
        alternatives=[_other(s, setting) for s in others],
    )


def _other(step: NextStep, setting: Setting) -> OtherStepView:
    advice = step_words(step, None, setting)
    return OtherStepView(
        kind=step.kind, injectors=list(step.injectors), minutes=round(step.minutes, 1),
        title=advice.title, text=advice.text,
    )  # fmt: skip
