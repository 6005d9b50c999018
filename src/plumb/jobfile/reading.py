"""From text to a checked job file.

Every thing that does not fit is reported at once: path, rule and value.
"""

import re
from collections.abc import Iterable, Iterator
from typing import Any, Final

from pydantic import ValidationError

from plumb.core.measure.problems import MOST_TOLD, PlumbError, Problem, told
from plumb.core.procedures import BY_CODE
from plumb.jobfile.exact import loads
from plumb.jobfile.file import JobFile
from plumb.jobfile.kinds import FILE_KINDS
from plumb.jobfile.kinds.kind import Engine
from plumb.jobfile.models import SheetPart
from plumb.jobfile.to_core import engine_for, engine_of

MOST_BYTES: Final = 2 * 2**20
MOST_IN_A_LIST: Final = 20_000
MOST_PARTS: Final = 150_000
DEEPEST: Final = 20
"""What a job file may hold; a job of 8 injectors and 20 sheets has 2,000 parts in 60 kB."""


def parse(text: str | bytes) -> JobFile:
    """A checked job file from JSON text; :class:`PlumbError` with every problem otherwise."""
    if len(text) > MOST_BYTES:
        raise PlumbError(
            Problem(path="", rule=f"a job file has at most {MOST_BYTES // 2**20} MB",
                    value=f"{len(text)} bytes", code="too_large")
        )  # fmt: skip
    try:
        data = loads(text)
    except (ValueError, RecursionError) as error:
        raise PlumbError(
            Problem(path="", rule=f"the file is JSON ({error})", code="not_json")
        ) from error
    _within_bounds(data)
    # Half a character comes as an escape; in bytes that are text there is no other way.
    if isinstance(text, str) or b"\\u" in text:
        _are_text(data)
    return check(data)


_HOLDING: Final = frozenset({dict, list})


def _inside(holding: dict[str, Any] | list[Any]) -> Iterable[Any]:
    return holding.values() if isinstance(holding, dict) else holding


def _whole(word: str) -> bool:
    try:
        word.encode()
    except UnicodeEncodeError:
        return False
    return True


def _within_bounds(data: Any) -> None:  # noqa: ANN401  JSON is any shape until it is validated
    """Refuse what no job needs before each part of it is looked at one by one."""
    parts, level = 1, [data] if type(data) in _HOLDING else []
    for _ in range(DEEPEST):
        if not level:
            return
        parts += sum(map(len, level))
        if parts > MOST_PARTS:
            raise _beyond(MOST_PARTS, "parts in all")
        if any(type(one) is list and len(one) > MOST_IN_A_LIST for one in level):
            raise _beyond(MOST_IN_A_LIST, "entries in a list")
        level = [x for one in level for x in _inside(one) if type(x) in _HOLDING]
    raise _beyond(DEEPEST, "parts inside one another")


def _are_text(data: Any) -> None:  # noqa: ANN401  JSON is any shape until it is validated
    """Refuse half a character: it can be written in JSON, and is none."""
    level = [data]
    while level:
        for word in level:
            if type(word) is str and not _whole(word):
                raise PlumbError(
                    Problem(path="", rule="text is made of whole characters", value=word,
                            code="not_text")
                )  # fmt: skip
        holding = [one for one in level if type(one) in _HOLDING]
        keys = [key for one in holding if type(one) is dict for key in one]
        level = keys + [x for one in holding for x in _inside(one)]


def _beyond(most: int, what: str) -> PlumbError:
    return PlumbError(
        Problem(path="", rule=f"a job file has at most {most} {what}", code="too_large")
    )


def check(data: Any) -> JobFile:  # noqa: ANN401  JSON is any shape until it is validated
    """A checked job file from parsed JSON."""
    if not isinstance(data, dict):
        raise PlumbError(
            Problem(
                path="",
                rule="a job file is one JSON object",
                value=type(data).__name__,
                code="not_an_object",
            )
        )
    try:
        file = JobFile.model_validate(data)
    except ValidationError as error:
        raise PlumbError(problems_of(error)) from error
    if found := list(_across(file)):
        raise PlumbError(found)
    return file


def path_of(location: tuple[int | str, ...]) -> str:
    """``('sheets', 0, 'unit')`` → ``sheets[0].unit``."""
    made = ""
    # The name of a sheet's kind is how Pydantic found its model; no key of the file is called that.
    for part in (p for p in location if p not in BY_CODE):
        made += f"[{part}]" if isinstance(part, int) else f".{part}" if made else str(part)
    return made


_WORDS: Final = (
    (r"Input should be less than or equal to (\S+)", r"at most \1"),
    (r"Input should be greater than or equal to (\S+)", r"at least \1"),
    (r"Input should be greater than (\S+)", r"above \1"),
    (r"Input should be less than (\S+)", r"below \1"),
    (r"(?:String|List) should have at (most|least) (\d+) (character|item)s?.*", r"at \1 \2 \3s"),
    (r"Input should be a valid integer.*", "a whole number"),
    (r"Input should be a valid (?:string|boolean|list|dictionary)", "of another sort than this"),
    (r"Input should be ('.*')", r"one of \1"),
    (r"Field required", "is missing"),
)
"""What the checking library says, in words that a technician would use."""


def in_words(rule: str) -> str:
    """A rule without the library's way of speaking.

    >>> in_words("Input should be less than or equal to 200")
    'at most 200'
    """
    for pattern, words in _WORDS:
        if match := re.fullmatch(pattern, rule):
            return match.expand(words)
    return rule


def problems_of(error: ValidationError, under: str = "") -> list[Problem]:
    """Pydantic's list of errors as problems: path, rule, value; of many, those that are told."""
    made: list[Problem] = []
    for one in error.errors(include_url=False)[:MOST_TOLD]:
        unknown = one.get("ctx", {}).get("key") if one["type"] == "unknown_key" else None
        path = path_of((*one["loc"], *([unknown] if unknown else [])))
        value, rule, code = one.get("input"), str(one["msg"]), str(one["type"])
        if code in {"union_tag_invalid", "union_tag_not_found"}:
            value = value.get("kind", "") if isinstance(value, dict) else value
            rule, code = "the kind of a sheet is one of " + ", ".join(BY_CODE), "literal_error"
            path = f"{path}.kind"
        joined = f"{under}.{path}" if under and path else under or path
        shown = "" if isinstance(value, dict | list) else str(value)[:80]
        made.append(
            Problem(
                path=joined,
                rule=in_words(rule.removeprefix("Value error, ")),
                code=code,
                value="" if code == "missing" else shown,
            )
        )
    return told(made, error.error_count())


def _across(file: JobFile) -> Iterator[Problem]:
    """What one part alone cannot know: labels, doubles, pressures that rise."""
    engine = engine_of(file.vehicle)
    keys: set[str] = set()
    for n, sheet in enumerate(file.sheets):
        if sheet.id.casefold() in keys:
            yield Problem(
                path=f"sheets[{n}].id",
                rule="every sheet has an id of its own, capitals apart",
                value=sheet.id,
                code="double",
            )
        keys.add(sheet.id.casefold())
        yield from sheet_problems(sheet, engine, f"sheets[{n}]")
        yield from _after_problems(file, n)
    yield from _repair_problems(file)


def _after_problems(file: JobFile, n: int) -> Iterator[Problem]:
    """A sheet after a repair names an earlier one of its own kind."""
    sheet = file.sheets[n]
    if sheet.after and not any(
        s.id == sheet.after and s.kind == sheet.kind for s in file.sheets[:n]
    ):
        yield Problem(
            path=f"sheets[{n}].after", rule="the id of an earlier sheet of the same kind",
            value=sheet.after, code="no_sheet",
        )  # fmt: skip


def _repair_problems(file: JobFile) -> Iterator[Problem]:
    """Repairs, choices and what a person found name injectors that the vehicle has."""
    known = {i.id for i in file.vehicle.injectors}
    named = [
        (f"repairs[{n}].{key}", label)
        for n, r in enumerate(file.repairs)
        for key, label in (("injector", r.injector), ("with", r.with_))
        if label is not None
    ]
    named += [
        (f"sightings[{n}].injector", s.injector)
        for n, s in enumerate(file.sightings)
        if s.injector is not None
    ]
    named += [
        (f"choices[{n}].injectors[{m}]", label)
        for n, c in enumerate(file.choices)
        for m, label in enumerate(c.injectors)
    ]
    for path, label in named:
        if label not in known:
            yield Problem(
                path=path, rule="an injector of this vehicle", value=label, code="unknown_injector"
            )


def sheet_problems(sheet: SheetPart, engine: Engine, path: str) -> Iterator[Problem]:
    """Problems of one sheet against the vehicle's injectors, and within itself."""
    here = engine_for(sheet, engine)
    if not here.labels:
        yield Problem(
            path=f"{path}.set", rule="a set that the engine has", value=sheet.set, code="no_set"
        )
    yield from FILE_KINDS[sheet.kind].problems(sheet, here, path)
