"""What was changed by whom, as it is read, searched, handed on and looked over."""

import json
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Final

from sqlalchemy import Connection, Engine

from plumb.core.measure.problems import PlumbError, Problem
from plumb.core.procedures import BY_CODE
from plumb.service.stored.known import known_job
from plumb.service.stored.parts import utc_text
from plumb.service.views.people import ChangeView, CheckedView, FieldChangeView, JournalView
from plumb.store import journal as store
from plumb.store.journal import CHANGE, Checked, Entry
from plumb.store.session import retried, transaction

A_PAGE: Final = 100
LONGEST_SHOWN: Final = 300
_NO_NEWS: Final = frozenset(
    {
        "id",
        "sheet_id",
        "job_id",
        "vehicle_id",
        "injector_id",
        "person_id",
        "device_id",
        "request_id",
    }
)
THINGS: Final[Mapping[str, str]] = {
    "old_figure": "figure from paper", "thing": "tick", "answer": "complaint asked again",
    "confirmed_cause": "confirmed cause", "shop": "shop's name", "preference": "setting",
    "device": "tablet", "sign_in": "sign-in", "attempt": "attempt to come in",
    "choice": "way chosen", "shelf": "on the shelf",
}  # fmt: skip
"""What is told otherwise than its table is called."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Wanted:
    """Which changes: of a job by its number, by a person, of a thing, with a word anywhere in them."""

    job: str = ""
    by: str | None = None
    what: str = ""
    find: str = ""
    before: int | None = None


@retried
def changes(engine: Engine, wanted: Wanted) -> JournalView:
    """A page of changes, the newest first.  Raises :class:`NotThere` for a job that is none."""
    with transaction(engine) as connection:
        conditions = []
        if wanted.job:
            job, _ = known_job(connection, wanted.job)
            conditions.append(store.of_job(job.id))
        if wanted.by is not None:
            conditions.append(CHANGE.c.by_name == wanted.by)
        if wanted.what:
            conditions.append(CHANGE.c.what == wanted.what)
        if wanted.find:
            conditions.append(store.holds(wanted.find))
        found = store.find(connection, conditions, A_PAGE + 1, wanted.before)
        return JournalView(
            changes=_views(connection, found[:A_PAGE]),
            more=len(found) > A_PAGE,
            names=store.names(connection),
            things=sorted(store.KEPT),
        )


def _views(connection: Connection, entries: Sequence[Entry]) -> list[ChangeView]:
    sheets = store.sheets_named(connection, {e.sheet_id for e in entries if e.sheet_id})
    jobs = {e.job_id for e in entries if e.job_id} | {job for job, _ in sheets.values()}
    numbers = store.job_numbers(connection, jobs)
    rows = [(_row(e.was), _row(e.became)) for e in entries]
    labels = {
        "injector_id": store.injector_labels(connection, set(_ids(rows, "injector_id"))),
        "person_id": store.person_names(connection, set(_ids(rows, "person_id"))),
    }
    return [
        _view(entry, was, became, sheets, numbers, labels)
        for entry, (was, became) in zip(entries, rows, strict=True)
    ]


def _row(text: str | None) -> dict[str, Any]:
    return {} if text is None else dict(json.loads(text))


def _ids(rows: Iterable[tuple[dict[str, Any], dict[str, Any]]], name: str) -> Iterator[int]:
    for was, became in rows:
        yield from (int(r[name]) for r in (was, became) if r.get(name) is not None)


def _view(
    entry: Entry, was: dict[str, Any], became: dict[str, Any], sheets: Mapping[int, tuple[int, str]],
    numbers: Mapping[int, str], labels: Mapping[str, Mapping[int, str]],
) -> ChangeView:  # fmt: skip
    job_id, kind = sheets.get(entry.sheet_id or 0, (entry.job_id or 0, ""))
    whole = was | became
    label = labels["injector_id"].get(int(whole.get("injector_id") or 0), "")
    person = labels["person_id"].get(int(whole.get("person_id") or 0), "")
    sheet = BY_CODE[kind].title if kind in BY_CODE else ""
    named = person or str(whole.get("slot") or whole.get("name") or "")
    place = f"injector {label}" if label else named
    return ChangeView(
        id=entry.id, at=utc_text(entry.at), by=entry.by_name, device=entry.device,
        what=THINGS.get(entry.what, entry.what), doing=entry.doing,
        job=numbers.get(job_id, str(whole.get("number", "")) if entry.what == "job" else ""),
        sheet=entry.sheet_id, where=", ".join(p for p in (sheet, place) if p),
        fields=list(_fields(was, became)), seq=entry.seq or 0,
    )  # fmt: skip


def _fields(was: dict[str, Any], became: dict[str, Any]) -> Iterator[FieldChangeView]:
    """Field by field what is not the same; inside of what is kept as JSON, key by key."""
    for name in dict.fromkeys((*was, *became)):
        before, after = was.get(name), became.get(name)
        if name in _NO_NEWS or (before or None) == (after or None):
            continue
        inner = (_inner(before), _inner(after))
        if any(inner):
            for key in dict.fromkeys((*inner[0], *inner[1])):
                if inner[0].get(key) != inner[1].get(key):
                    yield _field(key, inner[0].get(key), inner[1].get(key))
        else:
            yield _field(name, before, after)


def _inner(value: object) -> dict[str, Any]:
    """What a column holds as JSON, where that is an object."""
    if isinstance(value, str) and value.startswith("{"):
        try:
            return dict(json.loads(value))
        except ValueError:
            return {}
    return {}


def _field(name: str, was: object, became: object) -> FieldChangeView:
    shown = [_shown(v) for v in (was, became)]
    return FieldChangeView(field=name.replace("_", " "), was=shown[0], became=shown[1])


def _shown(value: object) -> str:
    if value is None:
        return ""
    text = value if isinstance(value, str) else json.dumps(value, ensure_ascii=False)
    return text if len(text) <= LONGEST_SHOWN else text[: LONGEST_SHOWN - 1] + "…"


@retried
def looked_over(engine: Engine) -> CheckedView:
    """Every entry against its seal."""
    return _told(store.check_all(engine))


def _told(checked: Checked) -> CheckedView:
    return CheckedView(entries=checked.entries, hash=checked.hash, wrong=checked.wrong)


def lines(engine: Engine) -> Iterator[bytes]:
    """All sealed entries as JSON lines, each with its seal: what `./plumb journal` looks over again."""
    store.seal(engine)
    with transaction(engine) as connection:
        for entry in store.sealed(connection):
            row = {name: getattr(entry, name) for name in Entry.__slots__}
            row["at"] = entry.at.isoformat()
            yield json.dumps(row, ensure_ascii=False).encode() + b"\n"


def check_lines(text: Iterable[bytes]) -> CheckedView:
    """Look over what :func:`lines` wrote.  Raises :class:`PlumbError` for a line that is none of its."""
    return _told(store.check(_entries(text)))


def _entries(text: Iterable[bytes]) -> Iterator[Entry]:
    for number, line in enumerate(text, 1):
        try:
            yield store.entry_from(json.loads(line))
        except (ValueError, KeyError, TypeError) as error:
            rule = "not an entry of the journal"
            raise PlumbError(Problem(path=f"line {number}", rule=rule)) from error
