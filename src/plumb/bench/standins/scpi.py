"""The words of an instrument: SCPI-99 headers with short and long forms, parameters, the error queue.

>>> said = Words()
>>> said.knows("MEASure:PRESsure?", lambda _: "43.5")
>>> said.obeys("meas:pres?"), said.obeys(":MEASURE:PRESSURE?"), said.obeys("MEAS:PRESS?")
(['43.5'], ['43.5'], [])
>>> said.obeys("SYST:ERR?"), said.obeys("SYSTem:ERRor:NEXT?")
(['-113,"Undefined header;MEAS:PRESS?"'], ['0,"No error"'])
"""

import re
from collections import deque
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from typing import Final

MOST_ERRORS: Final = 20
TEXTS: Final = {
    -102: "Syntax error", -108: "Parameter not allowed", -109: "Missing parameter",
    -113: "Undefined header", -121: "Invalid character in number", -131: "Invalid suffix",
    -213: "Init ignored", -221: "Settings conflict", -222: "Data out of range",
    -224: "Illegal parameter value", -350: "Queue overflow",
}  # fmt: skip
"""Numbers and texts of SCPI-99, volume 2, chapter 21."""
_COMMAND_ERROR, _EXECUTION_ERROR, _DONE = 32, 16, 1
_UNITS: Final = {"": 1.0, "S": 1.0, "MS": 1e-3, "US": 1e-6}
_NUMBER: Final = re.compile(r"([+-]?(?:\d+\.?\d*|\.\d+)(?:E[+-]?\d+)?)\s*([A-Z]*)", re.IGNORECASE)
_CHANNEL: Final = re.compile(r"\(\s*@\s*(\d+)\s*\)")

Obey = Callable[[str], str | None]


class Wrong(Exception):
    """A command that cannot be done: its number, and what of it."""

    def __init__(self, number: int, about: str = "") -> None:
        super().__init__(number)
        self.number, self.about = number, about


def number_of(text: str, low: float, high: float, *, time: bool = False) -> float:
    """A number within its limits; with ``time`` it may carry s, ms or us.  Raises :class:`Wrong`."""
    if not text:
        raise Wrong(-109)
    found = _NUMBER.fullmatch(text)
    if found is None:
        raise Wrong(-121, text)
    suffix = found[2].upper()
    if suffix not in (_UNITS if time else {""}):
        raise Wrong(-131, text)
    value = float(found[1]) * _UNITS[suffix]
    if not low <= value <= high:
        raise Wrong(-222, text)
    return value


def switch_of(text: str) -> bool:
    """ON, OFF, 1 or 0.  Raises :class:`Wrong`."""
    known = {"ON": True, "1": True, "OFF": False, "0": False}
    if not text:
        raise Wrong(-109)
    if text.upper() not in known:
        raise Wrong(-224, text)
    return known[text.upper()]


def channel_of(text: str, count: int) -> int:
    """The channel of ``(@3)``, from 0 on.  Raises :class:`Wrong`."""
    if not text:
        raise Wrong(-109)
    found = _CHANNEL.fullmatch(text)
    if found is None:
        raise Wrong(-102, text)
    if not 1 <= int(found[1]) <= count:
        raise Wrong(-222, text)
    return int(found[1]) - 1


def _pattern(header: str) -> re.Pattern[str]:
    """``MEASure[:SCALar]:PRESsure?`` as an expression for its long and short forms."""
    made = ""
    for piece in re.findall(r"\[:\w+\]|:?\w+|\?|\*\w+", header):
        optional = piece.startswith("[")
        name = piece.strip("[]")
        colon = ":" if name.startswith(":") else ""
        name = name.lstrip(":")
        if name == "?":
            made += r"\?"
            continue
        short = re.match(r"\*?[A-Z]+", name)
        forms = {name.upper(), short[0] if short else name.upper()}
        node = colon + "(?:" + "|".join(re.escape(f) for f in sorted(forms, key=len)) + ")"
        made += f"(?:{node})?" if optional else node
    return re.compile(made, re.IGNORECASE)


@dataclass(slots=True)
class Words:
    """What an instrument understands; ``obeys`` gives back the answers of a line, one a query."""

    identity: str = "Plumb,stand-in,0,0"
    errors: deque[str] = field(default_factory=deque)
    _known: list[tuple[re.Pattern[str], Obey]] = field(default_factory=list)
    _events: int = 128

    def __post_init__(self) -> None:
        """The words that IEEE 488.2 and SCPI ask of every instrument."""
        for header, obey in (
            ("*IDN?", lambda _: self.identity), ("*CLS", self._clear), ("*ESR?", self._event),
            ("*OPC?", lambda _: "1"), ("*OPC", self._done), ("*WAI", lambda _: None),
            ("*TST?", lambda _: "0"), ("*ESE", lambda _: None), ("*ESE?", lambda _: "0"),
            ("*SRE", lambda _: None), ("*SRE?", lambda _: "0"),
            ("*STB?", lambda _: "4" if self.errors else "0"),
            ("SYSTem:ERRor[:NEXT]?", self._next_error),
            ("SYSTem:ERRor:COUNt?", lambda _: str(len(self.errors))),
            ("SYSTem:VERSion?", lambda _: "1999.0"),
        ):  # fmt: skip
            self.knows(header, obey)

    def knows(self, header: str, obey: Obey) -> None:
        """One more header; ``obey`` gets the parameters as text and may answer."""
        self._known.append((_pattern(header), obey))

    def obeys(self, line: str) -> list[str]:
        """Do what a line asks for; what cannot be done goes into the error queue."""
        return [a for a in self.each(line) if a is not None]

    def each(self, line: str) -> Iterator[str | None]:
        """Do a line command by command: its answers; None before one that waits for what is under way."""
        path = ""
        for unit in _units(line):
            if unit.upper() in {"*OPC?", "*WAI"}:
                yield None
            header, _, rest = unit.partition(" ")
            found, full = self._find(header, path)
            if found is None:
                self.fail(-113, header)
                continue
            if not header.startswith("*"):
                path = full.rpartition(":")[0]
            try:
                answer = _obeyed(found, header, rest.strip())
            except Wrong as wrong:
                self.fail(wrong.number, wrong.about)
                continue
            if answer is not None:
                yield answer

    def fail(self, number: int, about: str = "") -> None:
        """An error for the queue; one too many says only that there were more."""
        self._events |= _COMMAND_ERROR if -200 < number <= -100 else _EXECUTION_ERROR
        text = f'{number},"{TEXTS[number]}{";" + about[:60] if about else ""}"'
        if len(self.errors) < MOST_ERRORS:
            self.errors.append(text.replace("\n", " "))
        else:
            self.errors[-1] = f'-350,"{TEXTS[-350]}"'

    def _find(self, header: str, path: str) -> tuple[Obey | None, str]:
        """The command of a header: from the root, or on from where the last one was."""
        tried = [header.removeprefix(":")]
        if path and not header.startswith((":", "*")):
            tried.insert(0, f"{path}:{header}")
        for full in tried:
            for pattern, obey in self._known:
                if pattern.fullmatch(full):
                    return obey, full
        return None, ""

    def _clear(self, _text: str) -> None:
        self.errors.clear()
        self._events = 0

    def _event(self, _text: str) -> str:
        events, self._events = self._events, 0
        return str(events)

    def _done(self, _text: str) -> None:
        self._events |= _DONE

    def _next_error(self, _text: str) -> str:
        return self.errors.popleft() if self.errors else '0,"No error"'


def _obeyed(found: Obey, header: str, rest: str) -> str | None:
    if header.endswith("?") and rest and "@" not in rest:
        raise Wrong(-108, rest)
    return found(rest)


def _units(line: str) -> list[str]:
    """The commands of a line; a semicolon within quotes parts nothing."""
    pieces = re.findall(r'(?:[^;"]|"[^"]*")+', line)
    return [re.sub(r"\s+", " ", p).strip() for p in pieces if p.strip()]
