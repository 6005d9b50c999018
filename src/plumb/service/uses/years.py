"""What a person sees of a vehicle over the years, and the figures from paper that are brought in."""

import csv
from collections.abc import Iterable, Iterator, Mapping, Sequence
from datetime import UTC, date, datetime, time
from decimal import Decimal
from typing import Any, Final

from sqlalchemy import Connection, Engine

from plumb.core.measure.decision import State, Thresholds
from plumb.core.measure.problems import PlumbError, Problem, told
from plumb.core.measure.quantities import parse_number, plain
from plumb.core.measure.uncertainty import SQRT12
from plumb.core.mend.places import Stay
from plumb.core.mend.repairs import Part, Repair
from plumb.core.mend.words import repair_words
from plumb.core.procedures import BY_CODE
from plumb.core.years.tolerance import learnt_window
from plumb.jobfile.csvfile import read_rows
from plumb.jobfile.kinds.kind import factor_of
from plumb.service.kinds import SCREEN_KINDS
from plumb.service.kinds.conditions import fields_of
from plumb.service.screens.finishing import part_view
from plumb.service.screens.job import vehicle_view
from plumb.service.screens.years import Measured, Told, distance_of, quantities
from plumb.service.stored.analysis import analysed
from plumb.service.stored.finishing import part_of_record, repair_of, stays_on, utc
from plumb.service.stored.known import known_sheet, known_vehicle
from plumb.service.stored.others import all_with_others
from plumb.service.stored.parts import units_of
from plumb.service.uses.jobs import km_of
from plumb.service.views.job import ImportView
from plumb.service.views.years import (
    LastView,
    LearntWindowView,
    SeatView,
    VisitView,
    YearsView,
)
from plumb.store import finishing as finishing_store
from plumb.store import sheets as sheet_store
from plumb.store import years as store
from plumb.store.finishing import PartRecord
from plumb.store.records import JobRecord, VehicleRecord, WholeSheet
from plumb.store.session import retried, transaction

_MOST_ALIKE: Final = 300
_MOST_OLD: Final = 5000
_COLUMNS: Final = ("date", "injector", "sheet", "value")
_MAY: Final = ("distance", "unit", "source")


@retried
def show_years(engine: Engine, vehicle_id: int, thresholds: Thresholds) -> YearsView:
    """A vehicle with its visits, parts and every quantity over the years."""
    with transaction(engine) as connection:
        vehicle = known_vehicle(connection, vehicle_id)
        injectors = sheet_store.injectors_of(connection, vehicle.id)
        labels = {i.id: i.label for i in injectors}
        jobs = store.jobs_of_vehicle(connection, vehicle.id)
        sheets = sheet_store.sheets_of_jobs(connection, [j.id for j in jobs])
        whole = all_with_others(connection, [w for mine in sheets.values() for w in mine])
        sat, known = stays_on(connection, vehicle.id, labels)
        repairs = finishing_store.repairs_of_vehicle(connection, vehicle.id)
        parts = {p.repair_id: p for p in finishing_store.parts_of_vehicle(connection, vehicle.id)}
        paper = _from_paper(connection, vehicle, labels)
    done = [repair_of(r, labels, parts) for r in repairs]
    by_job = {j.id: j for j in jobs}
    unit = vehicle.distance_unit
    return YearsView(
        vehicle=vehicle_view(vehicle, injectors),
        visits=_visits(jobs, vehicle, [(r.job_id, d) for r, d in zip(repairs, done, strict=True)]),
        seats=_seats(labels.values(), sat, known),
        quantities=quantities(
            [_measured(w, by_job[w.sheet.job_id], unit, thresholds) for w in whole],
            paper, sat, _names(sat, known), done, unit,
        ),
    )  # fmt: skip


def _measured(whole: WholeSheet, job: JobRecord, unit: str, thresholds: Thresholds) -> Measured:
    return Measured(
        job=job.number, at=utc(whole.sheet.taken_at), unit=whole.sheet.unit,
        distance=distance_of(job.distance_typed, unit), result=analysed(whole, thresholds),
    )  # fmt: skip


def _visits(
    jobs: Sequence[JobRecord], vehicle: VehicleRecord, done: Sequence[tuple[int, Repair]]
) -> list[VisitView]:
    return [
        VisitView(
            number=j.number, opened=j.opened_typed, complaint=j.complaint,
            closed=j.closed_at is not None,
            distance=_distance(j.distance_typed, vehicle.distance_unit),
            done=[repair_words(r) for job_id, r in done if job_id == j.id],
        )
        for j in reversed(jobs)
    ]  # fmt: skip


def _distance(typed: str | None, unit: str) -> str:
    value = distance_of(typed, unit)
    return "" if value is None else f"{value:.0f}"


def _names(sat: Sequence[Stay], known: Mapping[str, PartRecord]) -> dict[str, str]:
    """What each part is called: by what is known of it, else by where it was first."""
    return {
        s.part: words
        for s in sat
        if s.part in known and (words := part_of_record(known[s.part]).words)
    }


def _seats(
    labels: Iterable[str],
    sat: Sequence[Stay],
    known: Mapping[str, PartRecord],
) -> list[SeatView]:
    now = {s.place: s for s in sat if s.until is None}
    return [
        SeatView(
            place=label,
            since=now[label].since.isoformat() if now[label].since else "",  # type: ignore[union-attr]
            part=part_view(
                part_of_record(known[now[label].part]) if now[label].part in known else Part()
            ),
        )
        for label in labels
    ]


def _from_paper(
    connection: Connection, vehicle: VehicleRecord, labels: Mapping[int, str]
) -> dict[str, list[Told]]:
    """The figures from paper by kind; read to their last digit, so known to a twelfth root of it."""
    made: dict[str, list[Told]] = {}
    for old in store.old_figures(connection, vehicle.id):
        if old.injector_id in labels:
            made.setdefault(old.kind, []).append(
                Told(
                    place=labels[old.injector_id], unit=old.unit,
                    at=datetime.combine(old.taken_on, time(12), UTC),
                    distance=distance_of(old.distance_typed, vehicle.distance_unit),
                    value=old.value,
                    u=_last_digit(old.value_typed) / SQRT12 * factor_of(old.unit), low=None, high=None,
                    job="", source=old.source or "from paper",
                )
            )  # fmt: skip
    return made


def _last_digit(typed: str) -> float:
    exponent = Decimal(typed).as_tuple().exponent
    return 10.0 ** int(exponent)


@retried
def put_part(
    engine: Engine, vehicle_id: int, label: str, values: dict[str, str], thresholds: Thresholds
) -> YearsView:
    """Say what is known of the part that sits in a place now."""
    with transaction(engine) as connection:
        vehicle = known_vehicle(connection, vehicle_id, lock=True)
        injectors = sheet_store.injectors_of(connection, vehicle.id)
        one = next((i for i in injectors if i.label == label), None)
        if one is None:
            raise _no_injector("injector", label)
        sat, known = stays_on(connection, vehicle.id, {i.id: i.label for i in injectors})
        part = next(s.part for s in sat if s.place == label and s.until is None)
        typed = {k: v.strip() for k, v in values.items()}
        if part in known:
            finishing_store.put_part(connection, known[part].id, typed)
        else:
            first = next(i.id for i in injectors if part.endswith(f" {i.label}"))
            finishing_store.put_first_part(connection, vehicle.id, first, typed)
    return show_years(engine, vehicle_id, thresholds)


def _no_injector(path: str, label: str) -> PlumbError:
    return PlumbError(
        Problem(path=path, rule="an injector of this vehicle", value=label, code="unknown_injector")
    )


@retried
def bring_in_old(engine: Engine, vehicle_id: int, text: bytes, *, store_it: bool) -> ImportView:
    """Figures from paper as CSV with their own dates: all of them or none."""
    with transaction(engine) as connection:
        vehicle = known_vehicle(connection, vehicle_id)
        injectors = sheet_store.injectors_of(connection, vehicle.id, retired=True)
        ids = {i.label: i.id for i in injectors}
        rows, problems = _old_rows(text, vehicle, ids)
        if store_it and not problems:
            store.put_old_figures(connection, rows)
    if problems and store_it:
        raise PlumbError(problems)
    days = {r["taken_on"] for r in rows}
    return ImportView(
        fits=not problems, stored=store_it and not problems, job_number="", readings=len(rows),
        summary="Nothing can be taken in."
        if problems
        else f"{len(rows)} figures of {len(days)} days for {vehicle.name}.",
        problems=[p.text() for p in told(problems)],
    )  # fmt: skip


def _old_rows(
    text: bytes, vehicle: VehicleRecord, ids: Mapping[str, int]
) -> tuple[list[dict[str, Any]], list[Problem]]:
    try:
        header, lines = read_rows(text.decode("utf-8-sig"))
    except (csv.Error, UnicodeDecodeError) as error:
        return [], [Problem(path="", rule=f"the file is CSV ({error})", code="not_csv")]
    missing = [c for c in _COLUMNS if c not in header]
    unknown = [h for h in header if h not in {*_COLUMNS, *_MAY}]
    if missing or unknown or len(lines) > _MOST_OLD:
        rule = f"the columns are {', '.join((*_COLUMNS, *_MAY))}, the first four are needed; at most {_MOST_OLD} lines"
        return [], [
            Problem(path="line 1", rule=rule, value=", ".join(missing or unknown), code="header")
        ]
    rows, problems = [], []
    for n, line in enumerate(lines, 2):
        if any(cell.strip() for cell in line):
            cells = dict(zip(header, (c.strip() for c in line), strict=False))
            try:
                rows.append(_old_row(cells, vehicle, ids))
            except PlumbError as error:
                problems += [
                    Problem(path=f"line {n}, {p.path}", rule=p.rule, value=p.value, code=p.code)
                    for p in error.problems
                ]
    return rows, problems


def _old_row(
    cells: Mapping[str, str], vehicle: VehicleRecord, ids: Mapping[str, int]
) -> dict[str, Any]:
    """One figure from paper, checked; its value in the core's unit."""
    kinds = {k.code: k for k in BY_CODE.values() if k.tracks}
    by_name = {k.title.casefold(): k for k in kinds.values()} | kinds
    kind = by_name.get(cells["sheet"].casefold())
    if kind is None:
        known = ", ".join(k.title for k in kinds.values())
        raise PlumbError(
            Problem(path="sheet", rule=f"one of {known}", value=cells["sheet"], code="no_procedure")
        )
    if cells["injector"] not in ids:
        raise _no_injector("injector", cells["injector"])
    try:
        day = date.fromisoformat(cells["date"])
    except ValueError:
        raise PlumbError(
            Problem(path="date", rule="a day like 2024-05-12", value=cells["date"], code="no_day")
        ) from None
    unit = cells.get("unit") or ("%" if kind.tracks == "share" else kind.unit)
    allowed = {"%"} if kind.tracks == "share" else set(units_of(kind.code))
    if unit not in allowed:
        raise PlumbError(
            Problem(
                path="unit",
                rule=f"one of {', '.join(sorted(allowed))}",
                value=unit,
                code="unknown_unit",
            )
        )
    value = parse_number(cells["value"], "value")
    return {
        "vehicle_id": vehicle.id, "injector_id": ids[cells["injector"]], "kind": kind.code,
        "taken_on": day, "value": float(value) * factor_of(unit), "value_typed": plain(value),
        "unit": unit, "source": cells.get("source", "")[:120],
        "distance_typed": km_of(cells.get("distance"), vehicle.distance_unit),
    }  # fmt: skip


@retried
def last_time(
    engine: Engine, sheet_id: int, thresholds: Thresholds, unit: str | None
) -> list[LastView]:
    """Where each row of a sheet hung on the vehicle's visit before this one."""
    with transaction(engine) as connection:
        whole = known_sheet(connection, sheet_id)
        before = store.sheets_before_on_vehicle(
            connection, whole.sheet.vehicle_id, whole.sheet.kind, whole.sheet.job_id
        )
        before = all_with_others(connection, before)
    screen = SCREEN_KINDS[whole.sheet.kind]
    shown = unit if unit is not None and factor_of(whole.sheet.unit) != 1.0 else whole.sheet.unit
    rows = {i.label for i in whole.injectors}
    made: dict[str, LastView] = {}
    for sheet in before:
        result = analysed(sheet, thresholds)
        for finding in result.findings:
            at, u_at = screen.hangs(finding, result, shown)
            if at is not None and finding.read and finding.injector in rows:
                made[finding.injector] = LastView(
                    row=finding.injector, at=at, u_at=u_at, when=sheet.sheet.taken_typed,
                    job=sheet.job_number,
                )  # fmt: skip
    return list(made.values())


@retried
def learnt_for(engine: Engine, sheet_id: int, thresholds: Thresholds) -> LearntWindowView | None:
    """The window that the shop's own sound parts of the same vehicle or number give; None: too few.

    Each place of each vehicle counts once, with its newest figure; vehicles are what differs, not places.
    """
    with transaction(engine) as connection:
        whole = known_sheet(connection, sheet_id)
        kind = BY_CODE[whole.sheet.kind]
        if (
            kind.tracks != "value"
            or not {"window.low", "window.high"} <= fields_of(kind.code).keys()
        ):
            return None
        vehicle = known_vehicle(connection, whole.sheet.vehicle_id)
        numbers = {
            p.number for p in finishing_store.parts_of_vehicle(connection, vehicle.id) if p.number
        }
        alike = store.sheets_of_alike(connection, kind.code, vehicle.name, numbers, _MOST_ALIKE)
        alike = all_with_others(connection, [w for w in alike if w.sheet.id != sheet_id])
    unit = whole.sheet.unit
    vehicles: dict[int, dict[str, float]] = {}
    for (of, place), value in _sound(alike, thresholds, factor_of(unit)):
        vehicles.setdefault(of, {})[place] = value
    learnt = learnt_window([list(places.values()) for places in vehicles.values()])
    if learnt is None:
        return None
    low, high = _typed(max(0.0, learnt.low)), _typed(learnt.high)
    put = {"window.low": low, "window.high": high}
    source = f"{learnt.count} of our own, on {learnt.vehicles} of {vehicle.name}"
    fields = fields_of(kind.code)
    # Coils are told at 20 °C, so their window holds there.
    extra = {"window.from_c": "20", "window.to_c": "20", "window.source": source[:200]}
    put |= {k: v for k, v in extra.items() if k in fields}
    how = "smallest to largest" if learnt.how == "smallest_to_largest" else "normal distribution"
    return LearntWindowView(
        words=f"{low} to {high} {unit}: holds 95 % of them with 95 % confidence, from {learnt.count} sound "
        f"ones of your own on {learnt.vehicles} vehicles ({how}; ISO 16269-6)",
        low=float(low), high=float(high), count=learnt.count, unit=unit, put=put,
    )  # fmt: skip


def _typed(value: float) -> str:
    return plain(Decimal(f"{value:.4g}"))


def _sound(
    sheets: Sequence[WholeSheet], thresholds: Thresholds, per: float
) -> Iterator[tuple[tuple[int, str], float]]:
    for whole in sheets:
        for finding in analysed(whole, thresholds).findings:
            told_here = finding.read and finding.value is not None
            if finding.injector and told_here and finding.state is State.IN_PLUMB:
                yield (whole.sheet.vehicle_id, finding.injector), (finding.value or 0.0) / per
