"""The diagnosis in words: whether the complaint is explained, by what, and what else it could be.

>>> joined(("rough_idle", "misfire"))
'rough idle and misfire'
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Final

from plumb.core.causes.codes import code_words, read_code
from plumb.core.causes.fault import SOMETIMES
from plumb.core.causes.sighting import OWN_WORDS
from plumb.core.causes.table import FAULTS
from plumb.core.diagnose.explain import GONE, POSSIBLE, RANK, Cause, Diagnosis
from plumb.core.measure.spoken import COMPLAINTS, as_things
from plumb.core.measure.text import Span, be, listed
from plumb.core.procedures import BY_CODE, KINDS, AnyKind
from plumb.core.weigh.job import JobResult
from plumb.core.weigh.words_faults import named

_MOST_LINES: Final = 9
_MOST_CLEARED: Final = 3
_OVER: Final = 1000.0


@dataclass(frozen=True, slots=True, kw_only=True)
class CauseLine:
    """One line of what could be behind it: a fault, wherever it could be.

    ``labels`` are the injectors or the feed that it speaks of, ``share`` how likely it is at any of
    them, ``note`` what found it, cleared it, or would tell, ``speaks_for`` and ``speaks_against`` what was seen.
    """

    code: str
    words: str
    labels: tuple[str, ...]
    state: str
    share: float
    outside: bool
    note: str
    speaks_for: tuple[str, ...] = ()
    speaks_against: tuple[str, ...] = ()


def joined(words: Sequence[str]) -> str:
    """The words of a complaint as one."""
    return listed(as_things(words))


def explanation(diagnosis: Diagnosis) -> tuple[Span, ...]:
    """The sentence that the verdict opens with: what explains the complaint, or that nothing does."""
    if not diagnosis.words:
        return _found_beside(diagnosis)
    if diagnosis.explained == GONE:
        gone = joined(diagnosis.words)
        return (Span(text=f"The {gone} {be(len(diagnosis.words))} gone. "),)
    if diagnosis.explained == "no":
        what = listed([_outside(diagnosis, c)[0] for c in diagnosis.outside])
        what = what or diagnosis.beyond or "nothing that Plumb knows of"
        return (
            *_fuel(diagnosis),
            Span(text=f"Nothing that Plumb can measure explains the {joined(diagnosis.words)}. ",
                 tone="open"),
            Span(text=f"What remains: {what}. "), *_found_beside(diagnosis),
        )  # fmt: skip
    explained, maybe, doubted, waits, left = (
        [(w, by) for w, by in diagnosis.by_word if diagnosis.stands(w) == how]
        for how in ("explained", "maybe", "doubted", "waits", "open")
    )
    if len(left) == len(diagnosis.by_word):
        open_ = Span(text=f"What explains the {joined(diagnosis.words)} is still open. ")
        return (*_fuel(diagnosis), *_found_beside(diagnosis), open_)
    spans = []
    if explained:
        words = joined([w for w, _ in explained])
        spans.append(Span(text=f"The {words} {be(len(explained))} explained: "))
        spans.append(Span(text=f"{_by(explained)}. "))
    if diagnosis.explained == "partly" and not left:
        spans.append(Span(text="That brings it about only sometimes. "))
    for some, but in (
        (maybe, "something else is as likely"),
        (doubted, "first the instrument is proved"),
        (waits, "what is still open there comes first"),
    ):
        if some:
            by = _by(some)
            words = joined([w for w, _ in some])
            text = f"{by[0].upper()}{by[1:]} may be behind the {words}; {but}. "
            spans.append(Span(text=text, tone="open"))
    if left:
        still = "is still open" if diagnosis.explained == "open" else "is not"
        spans.append(Span(text=f"The {joined([w for w, _ in left])} {still}. ", tone="open"))
    return (*spans, *_found_beside(diagnosis))


def _fuel(diagnosis: Diagnosis) -> tuple[Span, ...]:
    """That the fuel is not what they wait for at the start, where the rail has shown it."""
    if not diagnosis.fuel_is_there:
        return ()
    return (Span(text="The fuel is there: the rail holds its pressure. "),)


def _outside(diagnosis: Diagnosis, code: str) -> tuple[str, str]:
    """What lies outside, and how it is told; of what has no name where to look for this complaint."""
    fault = FAULTS[code]
    if code != OWN_WORDS or not diagnosis.beyond:
        return fault.words, fault.told
    return diagnosis.beyond, f"looked at one after the other, {fault.told}"


def _found_beside(diagnosis: Diagnosis) -> tuple[Span, ...]:
    """What a person found that explains no word of the complaint: it is told all the same."""
    told = {c.fault.words for _, by in diagnosis.by_word for c in by}
    beside = [c for c in diagnosis.found if c.sighted and c.fault.words not in told]
    return (Span(text=f"Found: {told_together(beside)}. "),) if beside else ()


def _by(explained: Sequence[tuple[str, tuple[Cause, ...]]]) -> str:
    """What explains it, each cause once, with its injectors together."""
    return told_together([c for _, by in explained for c in by])


def told_together(causes: Sequence[Cause]) -> str:
    """Causes as one list, each once, with its injectors together: injectors 1 and 2 (opens early)."""
    places: dict[str, dict[str, None]] = {}
    faults = {c.fault.words: c.fault for c in causes}
    for c in causes:
        places.setdefault(c.fault.words, {}).update({c.place: None} if c.place else {})
    return listed(
        [named(faults[words], tuple(labels), join="and") for words, labels in places.items()]
    )


def lines(result: JobResult) -> tuple[CauseLine, ...]:
    """What could be behind it, found first, then by its share; what was cleared comes last.

    A fault that hangs over several injectors alike is said once for all of them.
    """
    groups: dict[tuple[str, str], list[Cause]] = {}
    for cause in result.diagnosis.causes:
        alone = cause.state in {"found", "suspected"} and cause.place
        where = cause.place if alone else cause.state
        groups.setdefault((cause.fault.words, where), []).append(cause)
    made = [_line(result, causes) for causes in groups.values()]
    made.sort(key=lambda x: (RANK[x.state], -x.share))
    words = result.diagnosis.words
    told = words or result.weighed.case.codes
    kept = [x for x in made if x.state == "found" or (told and x.share >= POSSIBLE)]
    cleared = [
        x
        for x in made
        if x.state == "cleared"
        and any(FAULTS[x.code].brings.get(w, 0.0) >= SOMETIMES for w in words)
    ]
    return (*kept[:_MOST_LINES], *cleared[:_MOST_CLEARED])


def _line(result: JobResult, causes: Sequence[Cause]) -> CauseLine:
    first = causes[0]
    labels = tuple(c.place for c in causes if c.place)
    return CauseLine(
        code=first.fault.code,
        words=named(first.fault, labels),
        labels=labels,
        state=first.state,
        share=min(1.0, sum(c.share for c in causes)),
        outside=first.outside,
        note=_note(result, first, labels),
        speaks_for=tuple(_seen(result, first.speaks_for)),
        speaks_against=tuple(_seen(result, first.speaks_against)),
    )


def because(cause: Cause, result: JobResult) -> str:
    """What found it, or what speaks most for it or against it; empty where nothing was seen of it."""
    if cause.because:
        return cause.because
    speaks = cause.speaks_against if cause.state == "cleared" else cause.speaks_for
    return next(_seen(result, speaks), "")


def _note(result: JobResult, cause: Cause, labels: Sequence[str]) -> str:
    if cause.state == "found":
        return f"found: {cause.because}" if cause.because else "found"
    if cause.state == "cleared":
        by = because(cause, result)
        return f"cleared: {by}" if by else "cleared"
    if cause.outside:
        return f"not measured by Plumb: {cause.fault.told}"
    left = _would_tell(result, cause, labels)
    return (
        f"{cause.state}: {left} would tell" if left else f"{cause.state}: nothing left would tell"
    )


def _would_tell(result: JobResult, cause: Cause, labels: Sequence[str]) -> str:
    """The proposed procedure that would tell, with its minutes; else the cheapest that is not done."""
    for step in (result.next_step, *result.alternatives):
        kind = BY_CODE.get(step.kind) if step else None
        if step is not None and kind is not None and _shows(kind, cause):
            return f"{kind.title.lower()}, {round(step.minutes)} min,"
    done = {r.kind for _, r in result.sheets if r.begun}
    left = [
        k
        for k in KINDS
        if result.setting.fuel_system in k.places
        and k.code not in done
        and k.can_be_done(result.setting)
        and _shows(k, cause)
    ]
    count = max(1, len(labels))
    if not left:
        return ""
    took = {k.title.lower(): round(k.effort.minutes(0 if k.of_engine else count)) for k in left}
    title = min(took, key=lambda t: took[t])
    return f"{title}, {took[title]} min,"


def _shows(kind: AnyKind, cause: Cause) -> bool:
    return any(cause.fault.code in t.rows for t in kind.shows)


def _seen(result: JobResult, speaks: Sequence[tuple[str, float]]) -> Iterator[str]:
    """What was seen, in words, each with how much it speaks."""
    texts = {f.code: f.text for f in reversed(result.facts) if f.text}
    for codes, times in speaks:
        text = listed([_words_of(code, texts) for code in codes.split("+")])
        much = times if times > 1.0 else 1.0 / times
        size = f"over {_OVER:.0f}" if much > _OVER else f"{much:.0f}"
        yield f"{text} ({size} times {'likelier' if times > 1.0 else 'less likely'})"


def _words_of(code: str, texts: Mapping[str, str]) -> str:
    """The words of a fact, of a complaint's word, or of a fault code."""
    if code in COMPLAINTS:
        return f"the complaint: {COMPLAINTS[code]}"
    if read_code(code):
        return f"{code}, {code_words(code)}"
    return texts.get(code) or next((k.makes[code] for k in KINDS if code in k.makes), code)


def remains(diagnosis: Diagnosis) -> tuple[tuple[str, str], ...]:
    """What lies outside and could bring it about, the likeliest first, and how it is usually told."""
    return tuple(_outside(diagnosis, code) for code in diagnosis.outside)
