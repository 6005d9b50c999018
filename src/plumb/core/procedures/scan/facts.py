"""Facts of the scan: how the trims lie, and whose cylinder misfires."""

from collections.abc import Iterator
from typing import Final

from plumb.core.measure.fact import Fact
from plumb.core.procedures.scan.analysis import ScanResult

_PATTERNS: Final = {
    "good": "the trims lie within a tenth",
    "lean_at_idle": "the trims are lean at idle, better at speed",
    "lean_with_load": "the trims are lean, and worse at speed",
    "lean": "the trims are lean at idle and at speed alike",
    "rich_at_idle": "the trims are rich at idle, better at speed",
    "rich": "the trims are rich at idle and at speed alike",
}
MAKES: Final = {
    **{f"trims_{code}": said for code, said in _PATTERNS.items()},
    "one_bank_off": "the trims of one bank alone are off",
    "misfire_counted": "its cylinder misfires more often than the others",
    "misfire_none": "its cylinder does not misfire",
    "misfires_many": "most cylinders misfire",
}


def facts(key: str, result: ScanResult) -> Iterator[Fact]:
    """How the trims lie, on which bank, and which cylinders misfire; nothing of it is an injector's."""
    if result.pattern:
        where = f", bank {result.one_bank} only" if result.one_bank else ""
        yield Fact(
            code=f"trims_{result.pattern}", injector="", sheet=key,
            text=_PATTERNS[result.pattern] + where, weighs=False,
        )  # fmt: skip
    if result.one_bank:
        yield Fact(
            code="one_bank_off", injector="", sheet=key, weighs=False,
            text=f"bank {result.one_bank} alone is off: what it shares comes first",
        )  # fmt: skip
    if result.many:
        yield Fact(
            code="misfires_many",
            injector="",
            sheet=key,
            text="most cylinders misfire",
            weighs=False,
        )
        return
    for row, injectors, count in result.sheet.counts:
        if count is None:
            continue
        bad = row in result.counted
        for label in injectors:
            yield Fact(
                code="misfire_counted" if bad else "misfire_none", injector=label, sheet=key,
                text=f"{count:g} misfires were counted" if bad else "", weighs=False,
            )  # fmt: skip
