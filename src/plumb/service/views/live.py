"""What is live on a screen: what an instrument answered, and how a capture stands."""

from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class TriedView:
    """What came of asking an instrument: who answered, what, how quickly; ``problems`` in words.

    ``readings`` are the answers as they came; ``rate_hz`` is how many a second it gives.
    """

    answers: bool
    identity: str
    readings: list[str]
    says_unit: str
    rate_hz: float
    problems: list[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class CaptureOffer:
    """How a sheet can be filled in by its instrument; ``why_not`` says what is missing.

    ``others`` of the shelf could serve it if they were chosen on the sheet.  ``box`` is the burst box of the shelf, empty where it has none or the sheet needs none; ``pushed``:
    the figures come from this browser's own serial port.
    """

    words: str
    gauge: str
    address: str
    unit: str
    box: str
    kick: str
    why_not: str
    others: list[str]
    pushed: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class LastView:
    """What was taken last: for which row, its figures, how sure (%), and whether it was kept."""

    row: str
    shown: str
    confidence_percent: float
    doubts: list[str]
    kept: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class CaptureView:
    """How a capture stands.

    ``state`` is a code, ``told`` says it in words; ``row`` is the one that is read next, ``name`` what
    it is called; ``trouble`` is what is wrong with instrument or database; ``tone`` counts the tones
    sounded, ``sound`` is the last one's code (taken, doubt, done, trouble).  ``number`` rises with every
    change.
    """

    sheet_id: int
    number: int
    running: bool
    gauge: str
    unit: str
    by: str
    state: str
    told: str
    row: str
    name: str
    waits: str
    trouble: str
    unsaved: int
    taken: int
    last: LastView | None
    tone: int
    sound: str
    fires: bool
    kick: str
    trace_id: int
