r"""A trace as CSV, read in a stream: any column names, units in the header, millions of samples.

The header names the columns, each with its unit in brackets (``pressure [kPa]``) or in a second
line of its own; comma, semicolon or tab, decimal point or comma.  Titles above it are passed over,
clock times and dates become seconds, and UTF-16 is read as UTF-8 is.  What does not fit is told by
line and column.

>>> reader = TraceReader()
>>> reader.feed(b"time [ms];clamp [A]\n0;120,5\n1;121\n")
>>> table = reader.close()
>>> [(c.name, c.unit) for c in table.columns], table.values[:, 1].tolist()
([('time', 'ms'), ('clamp', 'A')], [120.5, 121.0])
"""

import codecs
import io
import re
from dataclasses import dataclass
from typing import Final

import numpy as np

from plumb.core.measure.problems import PlumbError, Problem
from plumb.jobfile.clocktimes import Clock, moment
from plumb.jobfile.plaincells import meant, plain_cell

MOST_SAMPLES: Final = 2_000_000
MOST_COLUMNS: Final = 24
MOST_BYTES: Final = 400_000_000
_HEADER: Final = "the first line names the columns, for example t [s],p [kPa]"
_PIECE: Final = 1 << 20
_HEAD_LINES: Final = 50
MOST_IN_A_LINE: Final = 1 << 16
"""Bytes; twenty columns of numbers with all their digits have under 500."""

_LONGEST_NAME: Final = 120
_UNIT: Final = re.compile(r"^(.*?)\s*[\[(]([^\])]*)[\])]\s*$")
_WORDED: Final = re.compile(
    r"(?i)^(?:(t|time)[ _](s|sec|ms|min)|(.*\w)[ _](psi|bar|mbar|[kmh]pa|kgf?/cm2))$"
)
"""A unit that is the last word of the name: "rail actual bar"."""


@dataclass(frozen=True, slots=True)
class Column:
    """A column: its name and its unit as the header has them; the unit may be empty."""

    name: str
    unit: str


@dataclass(frozen=True, slots=True, eq=False)
class TraceTable:
    """Columns and their values, samples × columns; a cell that was empty is NaN."""

    columns: tuple[Column, ...]
    values: np.ndarray

    def index(self, name: str) -> int | None:
        """Where a column of that name stands, None where there is none."""
        names = [c.name for c in self.columns]
        return names.index(name) if name in names else None


def _refuse(*, path: str = "", rule: str, value: str = "", code: str = "not_a_trace") -> PlumbError:
    return PlumbError(Problem(path=path, rule=rule, value=value[:80], code=code))


def _is_figure(cell: str) -> bool:
    try:
        float(cell.replace(",", "."))
    except ValueError:
        return False
    return True


def _is_number(cell: str) -> bool:
    """A figure, a moment, or nothing: what stands under a header."""
    return cell.strip() == "" or _is_figure(cell) or moment(cell) is not None


def _split(line: bytes) -> list[str]:
    text = line.decode("utf-8", "replace").strip("\r\n ")
    delimiter = next((d for d in (";", "\t", ",") if d in text), ",")
    return [c.strip().strip('"').strip() for c in text.split(delimiter)]


def _titles_above(lines: list[bytes]) -> int:
    """How many lines stand above the header: it is the one right over the first row of figures.

    Nought where that cannot be told, so that whatever does not fit is told by its own line.
    """
    rows = [_split(line) for line in lines]
    for n, row in enumerate(rows):
        told = [c for c in row if c]
        if len(told) > 1 and all(_is_number(c) for c in row):
            return max(0, _header_over(rows[:n], len(row)))
    return 0


def _header_over(above: list[list[str]], width: int) -> int:
    """The line of names over so many columns, with a line of units under it at most; else nought."""
    names = -1
    for n in range(len(above) - 1, max(-1, len(above) - 3), -1):
        if (
            len(above[n]) != width
            or not any(above[n])
            or any(c and _is_number(c) for c in above[n])
        ):
            break
        names = n
    return names


def _coding(text: bytes) -> str:
    """UTF-16 by its mark, or by the noughts between plain letters; else UTF-8."""
    if text.startswith((codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE)):
        return "utf-16"
    if len(text) > 3 and text[0] and not text[1] and not text[3]:
        return "utf-16-le"
    if len(text) > 3 and not text[0] and not text[2] and text[1]:
        return "utf-16-be"
    return "utf-8"


def as_utf8(text: bytes) -> bytes:
    r"""A whole trace as UTF-8, whichever of the codings loggers use it came in.

    >>> as_utf8("t;p".encode("utf-16"))
    b't;p'
    """
    coding = _coding(text)
    return text if coding == "utf-8" else text.decode(coding, "replace").encode()


class TraceReader:
    """Takes bytes as they come, keeps whole lines as numbers; ``samples`` says how far it is."""

    def __init__(self) -> None:
        """Nothing read yet."""
        self.samples = 0
        self.read = 0
        self._rest = b""
        self._line = 0
        self._columns: tuple[Column, ...] = ()
        self._delimiter = b","
        self._pieces: list[np.ndarray] = []
        self._decoder: codecs.IncrementalDecoder | None = None
        self._clocks: dict[int, Clock] = {}

    def feed(self, data: bytes) -> None:
        """More of the file; :class:`PlumbError` as soon as something does not fit."""
        self.read += len(data)
        if self.read > MOST_BYTES:
            raise _refuse(rule=f"at most {MOST_BYTES // 1_000_000} MB", code="too_large")
        if self.read == len(data) and (coding := _coding(data)) != "utf-8":
            self._decoder = codecs.getincrementaldecoder(coding)("replace")
        self._rest += data if self._decoder is None else self._decoder.decode(data).encode()
        if len(self._rest) >= _PIECE:
            self._take(last=False)
            if len(self._rest) > MOST_IN_A_LINE:
                raise _refuse(
                    path=f"line {self._line + 1}", rule=f"a line has at most {MOST_IN_A_LINE} bytes",
                    code="too_wide",
                )  # fmt: skip

    def close(self) -> TraceTable:
        """The end of the file: everything that was read."""
        self._take(last=True)
        if not self._columns:
            raise _refuse(path="line 1", rule=_HEADER)
        if self.samples == 0:
            raise _refuse(rule="there are samples under the header", code="empty")
        values = np.concatenate(self._pieces) if len(self._pieces) > 1 else self._pieces[0]
        self._pieces = []
        return TraceTable(self._columns, values)

    def _take(self, *, last: bool) -> None:
        """Whole lines of what is there; the rest waits."""
        end = len(self._rest) if last else self._rest.rfind(b"\n") + 1
        text, self._rest = self._rest[:end], self._rest[end:]
        if not self._columns:
            text = self._header(text)
        if text.strip():
            self._numbers(text)

    def _header(self, text: bytes) -> bytes:
        """Name the columns; what follows the header comes back."""
        lines = text.removeprefix(b"\xef\xbb\xbf").split(b"\n", _HEAD_LINES)
        head: list[list[str]] = []
        titles = _titles_above(lines[:_HEAD_LINES])
        del lines[:titles]
        self._line += titles
        while lines and len(head) < 2:
            cells = self._cells(lines[0], first=not head)
            if cells and not cells[0].startswith("#"):
                if all(_is_number(c) for c in cells):
                    self._find_clocks(cells)
                    break
                if head and (len(cells) != len(head[0]) or any(map(_is_figure, cells))):
                    break
                head.append(cells)
            lines.pop(0)
            self._line += 1
        if not head:
            if not lines or not b"".join(lines).strip():
                return b""
            raise _refuse(
                path=f"line {self._line + 1}", rule=_HEADER,
                value=lines[0].decode("utf-8", "replace"),
            )  # fmt: skip
        if len(head[0]) > MOST_COLUMNS:
            raise _refuse(
                path="line 1", rule=f"at most {MOST_COLUMNS} columns", value=str(len(head[0])),
                code="too_wide",
            )  # fmt: skip
        self._columns = _named(head)
        for n in self._clocks:
            self._columns = (
                *self._columns[:n], Column(self._columns[n].name, "s"), *self._columns[n + 1 :]
            )  # fmt: skip
        return b"\n".join(lines)

    def _find_clocks(self, cells: list[str]) -> None:
        """Columns whose first cell is a clock time or a date."""
        clocks = (n for n, c in enumerate(cells) if not _is_figure(c) and moment(c) is not None)
        self._clocks = {n: Clock() for n in clocks}

    def _cells(self, line: bytes, *, first: bool) -> list[str]:
        text = line.decode("utf-8", "replace").strip("\r\n ")
        if not text:
            return []
        if first and not text.startswith("#"):
            self._delimiter = next((d for d in (b";", b"\t", b",") if d in line), b",")
        return [c.strip().strip('"').strip() for c in text.split(self._delimiter.decode())]

    def _numbers(self, text: bytes) -> None:
        lines = text.count(b"\n") + (not text.endswith(b"\n"))
        width = len(self._columns)
        plain = text.replace(b"\r", b"")
        if self._clocks:
            plain = self._without_clocks(plain)
        if self._delimiter != b",":
            plain = plain.replace(b",", b".").replace(self._delimiter, b",")
        values = _quick(plain, width)
        if values is None:
            values = self._slow(plain.decode("utf-8", "replace"), width)
        self._line += lines
        self.samples += len(values)
        if self.samples > MOST_SAMPLES:
            raise _refuse(
                path=f"line {self._line}", rule=f"at most {MOST_SAMPLES} samples",
                value=str(self.samples), code="too_many",
            )  # fmt: skip
        if len(values):
            self._pieces.append(values)

    def _without_clocks(self, text: bytes) -> bytes:
        """Clock times as seconds; what is none stays, and is told by its place."""
        delimiter = self._delimiter.decode()
        made = []
        for line in text.decode("utf-8", "replace").split("\n"):
            cells = line.split(delimiter)
            for n, clock in self._clocks.items():
                if n < len(cells) and (at := clock.seconds(cells[n].strip(' "'))) is not None:
                    cells[n] = f"{at:.6f}"
            made.append(delimiter.join(cells))
        return "\n".join(made).encode()

    def _slow(self, text: str, width: int) -> np.ndarray:
        """Line by line: empty cells are NaN, and a cell that is no number is told by its place."""
        rows: list[list[float]] = []
        for n, line in enumerate(text.split("\n"), self._line + 1):
            cells = [c.strip().strip('"') for c in line.split(",")]
            if not any(cells):
                continue
            if len(cells) < width:
                cells += [""] * (width - len(cells))
            if len(cells) > width and any(cells[width:]):
                raise _refuse(
                    path=f"line {n}", rule=f"{width} cells, as the header has", value=line,
                    code="too_wide",
                )  # fmt: skip
            row = []
            for column, cell in zip(self._columns, cells, strict=False):
                try:
                    row.append(float(cell) if cell else float("nan"))
                except ValueError:
                    raise _refuse(
                        path=f"line {n}, {column.name}", rule="a number, for example 26.5",
                        value=cell, code="not_a_number",
                    ) from None  # fmt: skip
            rows.append(row)
        return np.array(rows, dtype=float).reshape(-1, width)


def _quick(text: bytes, width: int) -> np.ndarray | None:
    """A whole table of plain numbers at once; None where any cell is something else."""
    body = text.strip(b"\n")
    lines = body.count(b"\n") + 1
    if body.count(b",") != lines * (width - 1) or b"\n\n" in body:
        return None
    try:
        with np.errstate(all="ignore"):
            flat = np.loadtxt(io.BytesIO(body), delimiter=",", ndmin=2, comments=None)
    except ValueError:
        return None
    return flat if flat.shape == (lines, width) else None


def _named(head: list[list[str]]) -> tuple[Column, ...]:
    """Names and units: in brackets behind the name, as its last word, or in a line of their own."""
    units = head[1] if len(head) > 1 else [""] * len(head[0])
    made: list[Column] = []
    for n, long in enumerate(head[0]):
        cell = meant(long)
        if len(cell) > _LONGEST_NAME:
            raise _refuse(
                path=f"line 1, column {n + 1}", rule=f"a name has at most {_LONGEST_NAME} characters",
                value=cell, code="too_wide",
            )  # fmt: skip
        match = _UNIT.match(cell)
        name, unit = (match[1], match[2]) if match else (cell, units[n].strip("[]() "))
        if not unit.strip() and (worded := _WORDED.match(cell.strip())):
            name, unit = worded[1] or worded[3], worded[2] or worded[4]
        name = name.strip() or f"column {n + 1}"
        if name in {c.name for c in made}:
            name = f"{name} {n + 1}"
        made.append(Column(name, unit.strip()))
    return tuple(made)


def harmless(text: bytes) -> bytes:
    r"""A trace as it came, for going out again: no name in its head is a formula.

    >>> harmless(b't [s],=1+1\n0,-5\n')
    b"t [s],'=1+1\n0,-5\n"
    """
    lines = as_utf8(text).split(b"\n", _HEAD_LINES)
    for n, line in enumerate(lines[:_HEAD_LINES]):
        delimiter = next((d for d in (b";", b"\t", b",") if d in line), b",")
        lines[n] = delimiter.join(_plain(c) for c in line.split(delimiter))
    return b"\n".join(lines)


def _plain(cell: bytes) -> bytes:
    inner = cell.decode("utf-8", "replace").strip("\ufeff\r ").strip('"').strip()
    safe = plain_cell(inner)
    return cell if safe == inner else cell.replace(inner.encode(), safe.encode(), 1)
