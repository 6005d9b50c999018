"""Slips of busy hands: figures that are asked about before they are stored.

``26 50`` for ``50 26``, ``5026`` without the space, ``500`` without the point, a figure between
two steps of the gauge.  A question can be answered with "as typed"; only a pressure that rises
by more than the gauge could misread is refused, because a burst cannot fill a rail.

>>> [q.code for q in check_drop("26", "50", Scale(unit="psi", step=0.5))]
['swapped']
>>> check_drop("5026", None, Scale(unit="psi", step=0.5))[0].suggestion
('50', '26')
"""

from collections.abc import Iterator
from dataclasses import dataclass
from decimal import Decimal
from typing import Final

from plumb.core.measure.quantities import kpa_per, parse_number, plain

USUAL_START: Final[dict[str, tuple[float, float]]] = {
    "port": (70.0, 700.0),
    "throttle_body": (40.0, 400.0),
    "direct": (200.0, 25_000.0),
    "common_rail": (10_000.0, 250_000.0),
    "mechanical_diesel": (5_000.0, 50_000.0),
}
"""Start pressures (kPa) that are not asked about, by fuel system; common practice, no source."""

FAR_RATIO: Final = 1.6
"""A first reading this many times the set's median, or its inverse, is asked about."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Scale:
    """What is known of the gauge and the rail: unit, step in that unit, what others started from.

    ``starts`` are the first readings of the other injectors, in the unit.
    """

    unit: str
    step: float
    fuel_system: str = "port"
    starts: tuple[float, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Question:
    """One thing to ask: where, what, and the pair that was probably meant.

    ``refused`` questions cannot be answered with "as typed".
    """

    code: str
    field: str
    text: str
    suggestion: tuple[str, str] | None = None
    refused: bool = False


def check_drop(first: str, second: str | None, scale: Scale) -> list[Question]:
    """Questions about one burst as typed; none: it can be stored.

    Raises :class:`~plumb.core.measure.problems.PlumbError` when a text is not a number at all.
    """
    one = parse_number(first, "first")
    if one < 0:
        return [_negative(one, "first", second or "")]
    if second is None:
        asked = _lone(one, first, scale)
        return [asked] if asked else []
    two = parse_number(second, "second")
    if two < 0:
        return [_negative(two, "second", plain(one))]
    questions = list(_order(one, two, scale))
    if not questions:
        far = _far(one, "first", plain(two), scale)
        questions += [far] if far else []
        questions += [
            q for q in (_off_step(one, "first", scale), _off_step(two, "second", scale)) if q
        ]
    return questions


def _negative(value: Decimal, field: str, other: str) -> Question:
    """A minus: a slip of the finger, as a gauge on a rail reads nothing below zero."""
    meant = plain(-value)
    pair = (meant, other) if field == "first" else (other, meant)
    return Question(
        code="negative",
        field=field,
        suggestion=pair,
        refused=True,
        text=f"A gauge on a rail reads nothing below zero. Did you mean {meant}?",
    )


def _split_digits(text: str, scale: Scale) -> tuple[str, str] | None:
    """``5026`` → ``50``, ``26``: the split whose start fits the rail and whose end is lower."""
    digits = text.strip()
    if not digits.isdigit() or len(digits) not in (3, 4, 6):
        return None
    cut = len(digits) // 2 if len(digits) != 3 else 2
    first, second = digits[:cut], digits[cut:]
    low, high = _usual(scale)
    fits = low <= float(first) <= high and float(second) < float(first)
    return (first, second) if fits and not second.startswith("0") else None


def _usual(scale: Scale) -> tuple[float, float]:
    """The start pressures that are not asked about, in the gauge's unit."""
    if scale.starts:
        ranked = sorted(scale.starts)
        middle = ranked[len(ranked) // 2]
        return middle / FAR_RATIO, middle * FAR_RATIO
    low, high = USUAL_START.get(scale.fuel_system, USUAL_START["port"])
    factor = kpa_per(scale.unit)
    return low / factor, high / factor


def _lone(one: Decimal, text: str, scale: Scale) -> Question | None:
    """A figure that stands alone: two run together, or one without its point."""
    pair = _split_digits(text, scale)
    _low, high = _usual(scale)
    if float(one) > high and pair:
        return Question(
            code="run_together",
            field="first",
            suggestion=pair,
            text=f"{text} is far above this rail. Did you mean {pair[0]} and {pair[1]}?",
        )
    return _far(one, "first", "", scale)


def _far(value: Decimal, field: str, other: str, scale: Scale) -> Question | None:
    """A start pressure that this rail does not have: 500 for 50.0."""
    low, high = _usual(scale)
    if low <= float(value) <= high:
        return None
    tenth = plain(value / 10)
    near = "the other first readings" if scale.starts else "what this fuel system runs at"
    if float(value) > high and low <= float(tenth) <= high:
        return Question(
            code="point_missing",
            field=field,
            suggestion=(tenth, other),
            text=f"{plain(value)} {scale.unit} is far above {near}. Did you mean {tenth}?",
        )
    side = "above" if float(value) > high else "below"
    return Question(
        code="far_off",
        field=field,
        text=f"{plain(value)} {scale.unit} is far {side} {near}. Is it right?",
    )


def _order(one: Decimal, two: Decimal, scale: Scale) -> Iterator[Question]:
    """The second above the first: swapped, or a needle that trembled by a step or two."""
    rise = float(two - one)
    if rise <= 0.0:
        return
    pair = (plain(two), plain(one))
    if rise > 2.0 * scale.step + 1e-9:
        yield Question(
            code="swapped",
            field="second",
            suggestion=pair,
            refused=True,
            text=f"The pressure cannot rise in a burst. Did you mean "
            f"{pair[0]} then {pair[1]}? If it did rise, the pump was still on: "
            "wait until it rests and read again.",
        )
    else:
        yield Question(
            code="rise",
            field="second",
            text=f"The second reading is {plain(two - one)} {scale.unit} above the "
            "first. Keep it as no drop?",
        )


def _tidy(value: Decimal) -> str:
    """Digits without zeros that say nothing: a step of 2.0 reads to 2."""
    return plain(value.normalize())


def _off_step(value: Decimal, field: str, scale: Scale) -> Question | None:
    """A figure that this gauge cannot show."""
    step = Decimal(repr(scale.step))
    if step <= 0 or value % step == 0:
        return None
    below = value - value % step
    return Question(
        code="off_step",
        field=field,
        text=f"{_tidy(value)} lies between {_tidy(below)} and {_tidy(below + step)}: this gauge "
        f"reads to {_tidy(step)} {scale.unit}. Keep it as typed?",
    )


USUAL_VALUE: Final[dict[str, tuple[float, float]]] = {
    "ohm": (0.2, 60.0),
    "V": (0.05, 30.0),
    "ml": (0.5, 2000.0),
    "percent": (10.0, 300.0),
    "mm3": (-100.0, 100.0),
    "ms": (0.05, 20.0),
}
"""Figures that are not asked about, by unit; common practice, no source."""
MOST_FALL: Final = 5.0
"""A figure that is so many times another of its sheet is asked about."""


def check_value(text: str, scale: Scale, *, field: str = "value") -> list[Question]:
    """Questions about one figure as typed; none: it can be stored.

    ``scale.starts`` are the other figures of the sheet; without any the unit says what is usual.

    >>> [q.suggestion for q in check_value("124", Scale(unit="ohm", step=0.1, starts=(12.3, 12.4)))]
    [('12.4', '')]
    """
    value = parse_number(text, field)
    low, high = _usual_value(scale)
    asked: Question | None = None
    if not low <= float(value) <= high:
        tenth = plain(value / 10)
        what = f"{plain(value)} {scale.unit}"
        side = "above" if float(value) > high else "below"
        near = "the others" if scale.starts else "what is usual"
        if float(value) > high and low <= float(tenth) <= high:
            asked = Question(
                code="point_missing", field=field, suggestion=(tenth, ""),
                text=f"{what} is far above {near}. Did you mean {tenth}?",
            )  # fmt: skip
        else:
            asked = Question(
                code="far_off", field=field, text=f"{what} is far {side} {near}. Is it right?"
            )
    off = _off_step(value, field, scale)
    return [q for q in (asked, None if asked else off) if q]


ATTEMPT: Final = 0.3
"""A hold that rises by more of its first pressure than heat makes it is another attempt; common practice, no source."""


def check_rise(value: float, first: float, last: float, unit: str) -> Question | None:
    """Whether a pressure of a hold belongs to another attempt; all three in the unit, None where it fits.

    >>> check_rise(50.0, 50.0, 2.0, "psi").code, check_rise(54.0, 50.0, 50.0, "psi")
    ('another_attempt', None)
    """
    if value - last <= ATTEMPT * first:
        return None
    return Question(
        code="another_attempt", field="value",
        text=f"{value:g} {unit} after {last:g}: a hold does not rise so far. "
        "Another attempt has a sheet of its own, so that both curves stand; keep it on this one?",
    )  # fmt: skip


def _usual_value(scale: Scale) -> tuple[float, float]:
    live = sorted(v for v in scale.starts if v > 0.0)
    if live:
        middle = live[len(live) // 2]
        return middle / MOST_FALL, middle * MOST_FALL
    if scale.unit in USUAL_VALUE:
        return USUAL_VALUE[scale.unit]
    _low, high = USUAL_START.get(scale.fuel_system, USUAL_START["port"])
    return 0.0, high / kpa_per(scale.unit)
