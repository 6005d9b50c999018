"""Every fact there is: which sheet makes it, when, and who reads it.

A code that nobody makes, or that nobody reads, is a slip of the pen; a test looks for both.

>>> entry = registry()["coil_open"]
>>> entry.made_by
('coil_resistance', 'coil_voltage_drop')
>>> "row: coil open" in entry.read_by
True
"""

from collections.abc import Iterator
from dataclasses import dataclass

from plumb.core.causes.table import FAULTS
from plumb.core.measure.spoken import NO_START
from plumb.core.procedures import KINDS, AnyKind
from plumb.core.weigh import facts, next_job, verdict
from plumb.core.weigh.suspicions import CAUSES, CONTRADICTIONS, SUSPICIONS
from plumb.core.weigh.table import TABLE


@dataclass(frozen=True, slots=True, kw_only=True)
class FactEntry:
    """One fact: ``when`` it is made, by which kinds of sheet (none: by the job), and its readers."""

    code: str
    when: str
    made_by: tuple[str, ...]
    read_by: tuple[str, ...]


def registry() -> dict[str, FactEntry]:
    """Every fact by its code; one that is read but never made has an empty ``when``."""
    when: dict[str, str] = dict(facts.MAKES)
    made: dict[str, list[str]] = {code: [] for code in facts.MAKES}
    for kind in KINDS:
        for code, said in kind.makes.items():
            when.setdefault(code, said)
            made.setdefault(code, []).append(kind.code)
    read: dict[str, list[str]] = {}
    for code, reader in _readers():
        read.setdefault(code, []).append(reader)
    return {
        code: FactEntry(
            code=code, when=when.get(code, ""), made_by=tuple(made.get(code, ())),
            read_by=tuple(read.get(code, ())),
        )
        for code in {**when, **read}
    }  # fmt: skip


def _readers() -> Iterator[tuple[str, str]]:
    """Pairs of a fact's code and who reads it."""
    for row in TABLE:
        for group in (*row.needs, row.unless):
            yield from ((code, f"row: {row.name}") for code in group)
    for name, suspicion in SUSPICIONS.items():
        yield from ((code, f"clears: {name}") for code in suspicion.cleared_by)
    for against in CONTRADICTIONS:
        for group in against.needs:
            yield from ((code, f"contradiction: {against.name}") for code in group)
    yield from ((code, "cause") for code in CAUSES)
    yield from ((code, "facts that follow") for code in facts.READS)
    yield from ((code, "next step") for code in next_job.READS)
    yield from ((code, "words of the verdict") for code in verdict.READS)
    for fault in FAULTS.values():
        groups = (*fault.found_by, fault.found_somewhere)
        yield from ((code, f"finds {fault.code}") for group in groups for code in group)
    for kind in KINDS:
        yield from _readers_of(kind)


def _readers_of(kind: AnyKind) -> Iterator[tuple[str, str]]:
    """Pairs of a fact's code and what of a kind of sheet reads it."""
    for table in kind.shows:
        yield from ((code, f"shown: {table.name}") for facts in table.facts for code in facts)
    yield from ((code, f"spoils {kind.code}") for code in kind.spoilt_by)
    yield from ((code, f"asked by {kind.code}") for code in kind.asks_by)
    for place in kind.places.values():
        if place.when and place.when != NO_START:
            yield place.when, f"begins with {kind.code}"
