"""The words of a complaint in what was typed when the job was opened.

>>> words_in("Won’t start, was cranking for long; no misfire before")
('no_start', 'long_crank')
"""

import re
from collections.abc import Iterable, Sequence
from functools import lru_cache
from typing import Final

COMPLAINTS: Final = {
    "rough_idle": "rough idle",
    "misfire": "misfire",
    "long_crank": "long crank",
    "no_start": "no start",
    "hard_start_cold": "hard to start cold",
    "hard_start_hot": "hard to start hot",
    "fuel_smell": "smell of fuel",
    "smoke_black": "black smoke",
    "smoke_white": "white smoke",
    "smoke_blue": "blue smoke",
    "rich": "runs rich",
    "bogs": "bogs under load",
    "fine_above_idle": "fine above idle",
    "surges": "surges",
    "none": "no complaint",
}
"""What can be complained of: words of the job file, and how they are said."""

_AS_A_THING: Final = {
    "hard_start_cold": "hard starting when cold",
    "hard_start_hot": "hard starting when hot",
    "rich": "rich running",
    "bogs": "bogging under load",
    "surges": "surging",
}
"""How a word is called in a sentence, where it is no thing by itself."""


def as_things(words: Iterable[str]) -> list[str]:
    """The words of a complaint as things that can be explained.

    >>> as_things(("surges", "misfire"))
    ['surging', 'misfire']
    """
    return [_AS_A_THING.get(word, COMPLAINTS[word]) for word in words]


DESCRIBES: Final = frozenset({"fine_above_idle"})
"""Words that say how the complaint shows: they are weighed, but nothing is wrong with them that could be cured."""
UNASKED: Final = frozenset({"rich", "smoke_blue"})
"""Words that a technician says and no owner is asked for: said they are weighed, unsaid they tell nothing."""
NO_START: Final = "no_start"
"""The word of a complaint that says what cannot be done: nothing runs at idle."""
_SPOKEN: Final = {
    NO_START: r"no[- ]start|non[- ]start|(does(n.?t| not)|do(n.?t| not)|did(n.?t| not)|won.?t|will not|"
    r"can(no|.?)t|never) (even )?start|not starting|refuses to start|cranks?,? but|cranks? only",
    "long_crank": r"(long|too long|lots of|much|extended|minutes of) crank|crank\w*( for)?( too| very)? long|"
    r"(takes|took) (too )?long to (start|fire)|slow to start",
    "hard_start_cold": r"(hard|bad|difficult|poor)\w*( to)? start\w*[^,;.]*\b(cold|morning)|"
    r"\bcold[- ]start|starts? (hard|badly|poorly)[^,;.]*\bcold|\bcold\b[^,;.]*(hard|bad)\w*( to)? start",
    "hard_start_hot": r"(hard|bad|difficult|poor)\w*( to)? start\w*[^,;.]*\b(hot|warm)|"
    r"\b(hot|warm)[- ](re)?start|starts? (hard|badly|poorly)[^,;.]*\b(hot|warm)|"
    r"\b(hot|warm)\b[^,;.]*(hard|bad)\w*( to)? start",
    "misfire": r"mis-?fir",
    "rough_idle": r"(rough|shaky|uneven|lumpy|poor|bad|unsteady)\w*( at)? (idl|tick)|"
    r"(idl|tick)\w*( \w+)? (rough|shak|uneven|lump|poor|bad|unsteady)",
    "smoke_black": r"black smoke|smok\w* black|soot",
    "smoke_white": r"white smoke|smok\w* white",
    "smoke_blue": r"blue smoke|smok\w* blue|burns oil",
    "rich": r"\brich\b|over-?fuel",
    "fuel_smell": r"(smell|stink|reek)\w*( of)?( raw| strong\w*)? (fuel|petrol|diesel|gas)|"
    r"(fuel|petrol|diesel|gas) smell",
    "bogs": r"\bbog|(no|lacks?|loses?|lost|loss of|low|poor) power|down on power|weak (under|at|on)|"
    r"hesitat|stumbl",
    "fine_above_idle": r"(fine|good|well|clean|clears) (above|off|over) idle|clears (up )?(with|at) (rev|speed)",
    "surges": r"\bsurg|\bhunt",
}  # fmt: skip
_NOT: Final = re.compile(r"(\bno|\bnot|\bwithout|\bnever|n.t)\s+(\w+\s+)?$")


@lru_cache(maxsize=2048)
def words_in(text: str) -> tuple[str, ...]:
    """The codes of a complaint that a text speaks of, in the order it names them; none is guessed.

    What stands behind "no" or "without" is not complained of.
    """
    spoken = text.lower()
    found: dict[str, int] = {}
    for code, pattern in _SPOKEN.items():
        for match in re.finditer(pattern, spoken):
            if code == NO_START or not _NOT.search(spoken[: match.start()]):
                found[code] = match.start()
                break
    return tuple(sorted(found, key=found.__getitem__))


def starts(text: str, noted: Sequence[str]) -> bool:
    """Whether the engine starts: what was noted on the walk-round counts, else what was typed."""
    return NO_START not in (noted or words_in(text))
