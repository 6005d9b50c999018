"""What there is to choose from, whatever job is open: kinds of sheet, rules, fuel systems."""

from dataclasses import dataclass

from plumb.service.views.sheet import FieldView


@dataclass(frozen=True, slots=True, kw_only=True)
class KindView:
    """A kind of sheet: its title, its units, whether a rule decides on it, its limits on the shelf."""

    code: str
    title: str
    units: list[str]
    compares: bool
    limits: list[FieldView]


@dataclass(frozen=True, slots=True, kw_only=True)
class RuleKindView:
    """A rule: its title, and the limits that may be set for it."""

    code: str
    title: str
    fields: list[FieldView]


@dataclass(frozen=True, slots=True, kw_only=True)
class SystemView:
    """A fuel system, and the two sheets a job on it may begin with: outside first, or straight."""

    code: str
    outside: str
    straight: str
    straight_words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class LargestView:
    """How many bytes of each kind of file are taken in."""

    job_file: int
    csv: int
    trace: int


@dataclass(frozen=True, slots=True, kw_only=True)
class CatalogueView:
    """Everything to choose from, and how large a file may be."""

    largest: LargestView

    kinds: list[KindView]
    rules: list[RuleKindView]
    systems: list[SystemView]


@dataclass(frozen=True, slots=True, kw_only=True)
class DrawingView:
    """A drawing that the page has, and what it shows, in words."""

    code: str
    words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class GuideView:
    """How a procedure is done: the card beside its sheet."""

    title: str
    shows: str
    hides: str
    needs: list[str]
    connect: list[str]
    steps: list[str]
    look: list[str]
    slips: list[str]
    enough: str
    schools: str
    care: str
    drawings: list[DrawingView]
