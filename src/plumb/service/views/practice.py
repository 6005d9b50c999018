"""Practice on a screen: what can be worked, a run with its bench, how it was marked, and who has come how far."""

from dataclasses import dataclass

from plumb.practice.worked import Charge, Happened, Marked, Told


@dataclass(frozen=True, slots=True, kw_only=True)
class ExerciseView:
    """One of the thirty: its engine, and who has solved it how well (``best`` points by person)."""

    code: str
    vehicle: str
    system: str
    count: int
    best: dict[str, float]


@dataclass(frozen=True, slots=True, kw_only=True)
class RunLineView:
    """A run in a list; ``points`` are None until it is handed in."""

    number: str
    exercise: str
    vehicle: str
    by: str
    exam: bool
    begun_at: str
    points: float | None


@dataclass(frozen=True, slots=True, kw_only=True)
class PersonView:
    """How far somebody has come: runs handed in, how many of the thirty from 80 points on, the mean of the best."""

    by: str
    handed_in: int
    solved: int
    mean_best: float


@dataclass(frozen=True, slots=True, kw_only=True)
class PracticeView:
    """All that can be worked, what was begun, who has come how far."""

    exercises: list[ExerciseView]
    runs: list[RunLineView]
    people: list[PersonView]


@dataclass(frozen=True, slots=True, kw_only=True)
class BenchView:
    """The engine as it stands: lines that are on, what the gauge shows, whether it runs, whether the rail is out."""

    on: list[str]
    gauge: str
    unit: str
    runs: bool
    lifted: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class ChoiceView:
    """Something to choose: its code and its words."""

    code: str
    words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class RunView:
    """One run: what was spent and seen, its bench while it goes on, its marks once it is handed in.

    ``told`` was seen last, ``about`` on the sheet with that key.  What can be chosen comes with it: how an
    injector can be, what can be done with it, what can be wrong with the engine, what can be tried at a
    ``hold_kind`` sheet, what can be put right on the way; sheets ``by_row`` are done one row at a time.
    """

    number: str
    exercise: str
    vehicle: str
    by: str
    exam: bool
    ended: bool
    minutes: float
    money: float
    hints: int
    hint: str
    spent: list[Charge]
    incidents: list[Happened]
    about: str
    told: list[Told]
    bench: BenchView | None
    injectors: list[str]
    conditions: list[ChoiceView]
    repairs: list[ChoiceView]
    causes: list[ChoiceView]
    steps: list[ChoiceView]
    repairable: list[ChoiceView]
    hold_kind: str
    by_row: list[str]
    points: float | None
    marks: list[Marked]
    truth: list[str]
    teaches: str
