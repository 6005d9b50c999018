"""One row of the verdict's table."""

from dataclasses import dataclass

Needs = tuple[frozenset[str], ...]


def needs(*groups: str) -> Needs:
    """Each text is a list of facts of which one must be there: ``"tip_drips tip_pours"``."""
    return tuple(frozenset(g.split()) for g in groups)


@dataclass(frozen=True, slots=True, kw_only=True)
class VerdictRow:
    """One row: the facts it needs, those that forbid it, the codes it gives, why, what is open.

    ``not_ruled_out`` are codes of :data:`SUSPICIONS`; one that a fact has cleared is left out.  ``alone`` is why
    where it was held against what is expected, and not against others.
    """

    name: str
    needs: Needs
    unless: frozenset[str] = frozenset()
    condition: str
    action: str
    because: str
    not_ruled_out: tuple[str, ...] = ()
    alone: str = ""

    def fits(self, facts: frozenset[str]) -> bool:
        """Whether the facts have one of each group that is needed, and none that forbids."""
        return all(group & facts for group in self.needs) and not self.unless & facts
