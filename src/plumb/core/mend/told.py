"""The verdict of a whole job in a sentence; screen, Today, result and workbook lay it out and say nothing else."""

from plumb.core.measure.text import Span
from plumb.core.mend.finish import Finished
from plumb.core.weigh.words_diagnosis import explanation
from plumb.core.weigh.words_verdict import sentence


def sentence_of(done: Finished) -> tuple[Span, ...]:
    """The verdict in a sentence: what explains the complaint; after a repair what was found, and is now."""
    open_ = done.still_open
    spans = (*explanation(open_.diagnosis), *sentence(open_))
    if not done.repairs or open_ is done.now:
        return spans
    return (*spans, Span(text=" Now: "), *sentence(done.now))


def says(done: Finished) -> str:
    """The same as a text."""
    return "".join(s.text for s in sentence_of(done)).strip()
