"""What a person does to begin a sheet: which kind, with which gauge, with what the shop last noted."""

from dataclasses import dataclass
from typing import Any, Final

from sqlalchemy import Connection, Engine

from plumb.core.measure.decision import Thresholds
from plumb.core.measure.problems import PlumbError, Problem
from plumb.core.measure.quantities import KPA_PER
from plumb.core.measure.spoken import starts
from plumb.core.procedures import route
from plumb.core.procedures.kind import Setting
from plumb.jobfile.kinds import FILE_KINDS
from plumb.service.kinds import SCREEN_KINDS, AnyScreenKind
from plumb.service.screens.sheet import sheet_view
from plumb.service.stored.gauges import Gauge, gauge_json
from plumb.service.stored.known import known_job, known_sheet, still_open
from plumb.service.stored.parts import checked, filled, noted_now, sheet_columns, sheet_json
from plumb.service.views.sheet import SheetView
from plumb.store import jobs as job_store
from plumb.store import sheets as store
from plumb.store.actor import signed
from plumb.store.records import JobRecord, VehicleRecord, WholeSheet
from plumb.store.session import retried, transaction

COARSEST_KPA: Final = 20.0
"""A gauge of coarser steps is a hand pump's: 3 psi and more tell nothing on a rail."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Wanted:
    """A sheet to begin: its kind and gauge.

    ``when`` and ``because`` say what a repeat comes after, ``after`` which sheet it repeats after a
    repair, ``injectors`` whom it is for (none: all).
    """

    request_id: str
    kind: str
    gauge: Gauge | None = None
    when: str = ""
    because: str = ""
    after: str = ""
    injectors: tuple[str, ...] = ()


def start_sheet(
    connection: Connection, job: JobRecord, vehicle: VehicleRecord, wanted: Wanted
) -> int:
    """Begin an empty sheet of a kind; its id.  Without a gauge the last one of its unit is taken.

    Raises :class:`PlumbError` for a kind that this fuel system does not have.
    """
    kinds, code = route(vehicle.fuel_system), wanted.kind
    if code not in {k.code for k in kinds}:
        raise PlumbError(
            Problem(
                path="kind",
                value=code,
                code="no_procedure",
                rule="the sheets for this fuel system are " + ", ".join(k.code for k in kinds),
            )
        )
    screen = SCREEN_KINDS[code]
    data: dict[str, Any] = {"kind": code, "id": _free_key(connection, job.id)}
    data["taken"] = noted_now(job)
    fields = FILE_KINDS[code].model.model_fields
    before = _before(connection, job.id, wanted)
    if "gauge" in fields:
        chosen = wanted.gauge or (
            _gauge_of(before)
            if before is not None
            else _usual_gauge(connection, job.id, screen, vehicle.fuel_system)
        )
        data |= {"unit": chosen.unit, "gauge": gauge_json(chosen)}
    elif "unit" in fields:
        data["unit"] = before.sheet.unit if before is not None else screen.kind.unit
    noted = store.complaint_noted(connection, job.id)
    setting = Setting(fuel_system=vehicle.fuel_system, starts=starts(job.complaint, noted))
    data |= screen.begins_with(connection, setting)
    data |= _as_before(before)
    data |= filled(set=_set_to_read(connection, job, code))
    data |= {name: [] for name in ("readings",) if name in fields}
    data |= {"when": wanted.when} if wanted.when and "when" in fields else {}
    data |= filled(after=wanted.after)
    data |= filled(
        **{"x-because": wanted.because, "x-for": list(wanted.injectors), "x-by": signed("")}
    )
    values = sheet_columns(checked(data), job.id, vehicle.id)
    return store.add_sheet(connection, {**values, "request_id": wanted.request_id})


def _before(connection: Connection, job_id: int, wanted: Wanted) -> WholeSheet | None:
    """The sheet that is repeated: the named one (:class:`PlumbError` where it is none), or the last of its kind."""
    same = [w for w in store.sheets_of(connection, job_id) if w.sheet.kind == wanted.kind]
    if not wanted.after:
        return same[-1] if same else None
    named = next((w for w in same if w.sheet.key == wanted.after), None)
    if named is None:
        raise PlumbError(
            Problem(
                path="after", rule="a sheet of the same kind on this job", value=wanted.after,
                code="no_such_sheet",
            )
        )  # fmt: skip
    return named


def _set_to_read(connection: Connection, job: JobRecord, code: str) -> str:
    """On an engine with several sets: the first that no sheet of this kind has read yet."""
    names = dict.fromkeys(i.set_name for i in store.injectors_of(connection, job.vehicle_id))
    if len(names) < 2:
        return ""
    same = [w for w in store.sheets_of(connection, job.id) if w.sheet.kind == code]
    read = [str(w.sheet.conditions.get("set", "")) for w in same if w.readings]
    return next((name for name in names if name not in read), read[-1] if read else "")


_ONCE_SAID: Final = (
    "burst", "rule", "expected", "window", "windows", "mode", "duration_s", "nozzle", "shims_mm",
    "shim_unit", "strokes", "current_a", "place", "state", "rail_unit",
)  # fmt: skip
"""Conditions that hold for every sheet of a kind on a job; temperatures and supplies are read anew."""


def _as_before(before: WholeSheet | None) -> dict[str, Any]:
    """What the sheet before was taken with: a repeat is taken in the same way."""
    if before is None:
        return {}
    noted = sheet_json(before)
    made = {name: noted[name] for name in _ONCE_SAID if noted.get(name) not in (None, "", {}, [])}
    if isinstance(noted.get("rail"), str) and noted["rail"] in _SIDES:
        made["rail"] = noted["rail"]
    state = (noted.get("engine") or {}).get("state")
    return made | ({"engine": {"state": state}} if state else {})


_SIDES: Final = frozenset({"low", "high"})
"""Of a hold: which side of the pump it was; elsewhere a rail is a pressure, read anew."""


def _usual_gauge(
    connection: Connection, job_id: int, screen: AnyScreenKind, fuel_system: str
) -> Gauge:
    """The gauge of the job's last sheet of this kind of unit, else the shelf's first, else plain."""
    own = screen.gauge_on.get(fuel_system)
    plain = own or screen.gauge or Gauge(name="", unit=screen.kind.unit, step="1")
    pressure = plain.unit in KPA_PER

    def fits(unit: str) -> bool:
        return unit == plain.unit or (pressure and unit in KPA_PER)

    if screen.own_gauge or own:
        # A dial from elsewhere does not reach so far, or too far: only a gauge of the kind's own does.
        last = store.newest_of_kind(connection, screen.code, 1, fuel_system if own else "")
        return _gauge_of(last[0]) if last else plain
    for whole in reversed(store.sheets_of(connection, job_id)):
        # What a controller shows has no step, and is no gauge to go on with.
        if whole.sheet.gauge_step_typed and whole.sheet.unit and fits(whole.sheet.unit):
            return _gauge_of(whole)
    for shelf in job_store.gauges(connection):
        if fits(shelf.unit) and (not pressure or shelf.step <= COARSEST_KPA):
            more = {k: str(v) for k, v in (shelf.extras or {}).items()}
            return Gauge(name=shelf.name, unit=shelf.unit, step=shelf.step_typed, **more)
    return plain


def _gauge_of(whole: WholeSheet) -> Gauge:
    """The gauge that a sheet was taken with."""
    sheet, meter = whole.sheet, whole.sheet.conditions.get("meter") or {}
    return Gauge(
        name=sheet.gauge_name, unit=sheet.unit, step=sheet.gauge_step_typed,
        **{k: str(v) for k, v in meter.items()},
    )  # fmt: skip


@retried
def new_sheet(engine: Engine, number: str, wanted: Wanted, thresholds: Thresholds) -> SheetView:
    """A new, empty sheet on a job; the same request again gives the same sheet."""
    with transaction(engine) as connection:
        job, vehicle = known_job(connection, number, lock=True)
        sheet_id = store.sheet_by_request(connection, wanted.request_id)
        if sheet_id is None:
            still_open(closed=job.closed_at is not None, number=number)
            sheet_id = start_sheet(connection, job, vehicle, wanted)
        whole = known_sheet(connection, sheet_id)
    return sheet_view(whole, thresholds)


def _free_key(connection: Connection, job_id: int) -> str:
    keys = store.sheet_kinds(connection, job_id)
    number = len(keys) + 1
    while f"s{number}" in keys:
        number += 1
    return f"s{number}"
