"""The diagnosis on the screen: what explains the complaint, what else it could be, what moved it."""

from collections.abc import Mapping

from plumb.core.causes.common import Learnt
from plumb.core.diagnose.moved import moved_by
from plumb.core.measure.spoken import COMPLAINTS
from plumb.core.weigh.job import JobResult
from plumb.core.weigh.words_diagnosis import CauseLine, joined, lines, remains, told_together
from plumb.core.weigh.words_faults import named
from plumb.service.views.job import CauseView, DiagnosisView, MovedView
from plumb.service.views.sheet import AdviceView


def diagnosis_view(result: JobResult, common: Mapping[str, Learnt]) -> DiagnosisView:
    """The diagnosis of a job with everything that its screens show of it."""
    diagnosis = result.diagnosis
    return DiagnosisView(
        complaint=joined(diagnosis.words),
        explained=diagnosis.explained,
        by_word=[
            AdviceView(title=COMPLAINTS[word], text=_by(diagnosis.stands(word), told_together(by)))
            for word, by in diagnosis.by_word
        ],
        causes=[_cause(line, common) for line in lines(result)] if _shown(result) else [],
        remains=[AdviceView(title=words, text=told) for words, told in remains(diagnosis)],
        moved={
            key: [
                MovedView(
                    words=named(m.fault, m.places), before=round(100.0 * m.before, 1),
                    after=round(100.0 * m.after, 1),
                )
                for m in moved_by(result.weighed, key)
            ]
            for key in result.speaking().values()
        },
    )  # fmt: skip


def _by(stands: str, causes: str) -> str:
    """What brings a word about, and that it is not certain where it is not."""
    return f"perhaps {causes}" if stands in {"maybe", "doubted", "waits"} else causes


def _shown(result: JobResult) -> bool:
    """Before anything was noted or complained of there is nothing to tell."""
    return bool(result.facts or result.diagnosis.words or result.diagnosis.found)


def _cause(line: CauseLine, common: Mapping[str, Learnt]) -> CauseView:
    return CauseView(
        code=line.code,
        words=line.words,
        state=line.state,
        share=round(100.0 * line.share, 1),
        outside=line.outside,
        note=line.note,
        speaks_for=list(line.speaks_for),
        speaks_against=list(line.speaks_against),
        common=_common(common.get(line.code)),
    )


def _common(one: Learnt | None) -> str:
    """How common it is before anything is measured, and how much of that the shop has learnt."""
    if one is None:
        return ""
    own = (
        f"; {one.own_cases} of your own, which count {100.0 * one.own_share:.0f} %"
        if one.own_cases
        else ""
    )
    return f"{100.0 * one.chance:.1f} in a hundred by common practice{own}"
