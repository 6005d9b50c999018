"""Between the store and the job file's parts: a stored sheet as JSON, and a part as columns.

For every kind of sheet what its model names is what is kept; both directions go over the names
of the model's fields.
"""

import uuid
from collections.abc import Mapping
from datetime import UTC, datetime
from decimal import Decimal
from typing import Any, Final, cast, get_args

from pydantic import BaseModel, ValidationError

from plumb.core.measure.problems import PlumbError
from plumb.core.measure.quantities import plain
from plumb.core.measure.readings import Mark, Noted
from plumb.core.procedures import BY_CODE
from plumb.core.procedures.kind import Setting
from plumb.jobfile.kinds import FILE_KINDS, Engine
from plumb.jobfile.kinds.kind import cylinder_slot, factor_of, slot_of
from plumb.jobfile.models import GaugePart, RulePart, SheetPart
from plumb.jobfile.reading import problems_of
from plumb.jobfile.to_core import entries_of
from plumb.service.stored.gauges import FIGURES
from plumb.store.records import InjectorRecord, JobRecord, ReadingRecord, WholeSheet

HEAD: Final = frozenset({"kind", "id", "taken", "unit", "gauge", "rule"})


def now() -> datetime:
    """The time now, UTC, as the store keeps it."""
    return datetime.now(UTC).replace(tzinfo=None)


def utc_text(moment: datetime) -> str:
    """A moment of the store, as it is sent: with its offset."""
    return moment.replace(tzinfo=UTC).isoformat()


def now_typed(timespec: str = "seconds") -> str:
    """The time now with its offset, as people's own times are kept beside it."""
    return datetime.now(UTC).isoformat(timespec=timespec)


def noted_now(job: JobRecord, timespec: str = "seconds") -> str:
    """The time at which a job says that something is done: now, on its own day where it was dated back."""
    moment = datetime.now(UTC)
    if job.dated_because is not None:
        day = job.opened_at.date()
        moment = moment.replace(year=day.year, month=day.month, day=day.day)
    return moment.isoformat(timespec=timespec)


def instant(text: str) -> datetime:
    """An ISO time with offset as the store keeps it: UTC without offset."""
    return datetime.fromisoformat(text).astimezone(UTC).replace(tzinfo=None)


def filled(**values: Any) -> dict[str, Any]:  # noqa: ANN401  JSON values
    """Only what says something: empty texts, lists and None are left out."""
    return {k: v for k, v in values.items() if v not in (None, "", [], {})}


def under(extras: dict[str, Any] | None, name: str) -> dict[str, Any]:
    """The ``x-...`` keys of one part, as they were kept."""
    return dict((extras or {}).get(name) or {})


def both_kept(**parts: dict[str, Any] | None) -> dict[str, Any] | None:
    """The ``x-...`` keys of several parts under their names, None when there are none."""
    return {name: kept for name, kept in parts.items() if kept} or None


def units_of(kind: str) -> list[str]:
    """The units that a kind's model takes; none where it has no unit."""
    field = FILE_KINDS[kind].model.model_fields.get("unit")
    return list(get_args(field.annotation)) if field is not None else []


def has_rule(kind: str) -> bool:
    """Whether sheets of that kind compare by a rule."""
    return "rule" in FILE_KINDS[kind].model.model_fields


def head_json(whole: WholeSheet) -> dict[str, Any]:
    """A stored sheet as the job file has it, without its readings."""
    sheet = whole.sheet
    kind = FILE_KINDS[sheet.kind]
    fields = kind.model.model_fields
    made: dict[str, Any] = {"kind": sheet.kind, "id": sheet.key, "taken": sheet.taken_typed}
    conditions = dict(sheet.conditions)
    meter = conditions.pop("meter", None) or {}
    if sheet.unit:
        made["unit"] = sheet.unit
    if "gauge" in fields:
        made["gauge"] = {
            **filled(name=sheet.gauge_name, step=Decimal(sheet.gauge_step_typed), **meter),
            **under(sheet.extras, "gauge"),
        }
    if "rule" in fields:
        made["rule"] = {"name": sheet.rule_name, **sheet.rule_limits}
    return {**made, **conditions, **dict.fromkeys(kind.entries, ())}


def sheet_json(whole: WholeSheet) -> dict[str, Any]:
    """A stored sheet as the job file has it, figures as typed."""
    made = head_json(whole)
    injectors = {i.id: i for i in whole.injectors}
    for name, model in FILE_KINDS[whole.sheet.kind].entries.items():
        shape = shape_of(model)
        made[name] = [reading_json(r, model, injectors) for r in whole.readings if r.shape == shape]
    fold = FILE_KINDS[whole.sheet.kind].fold
    if fold is not None:
        made |= fold(
            [row for name in FILE_KINDS[whole.sheet.kind].entries for row in made.pop(name)]
        )
    return {**made, **under(whole.sheet.extras, "sheet")}


def _number(typed: str | None) -> Decimal | None:
    return None if typed is None else Decimal(typed)


def reading_json(
    reading: ReadingRecord, model: type[BaseModel], injectors: Mapping[int, InjectorRecord]
) -> dict[str, Any]:
    """A reading as its ``model`` has it.  A mark takes the note's place; one beside it is ``x-note``."""
    injector = injectors.get(reading.injector_id or 0)
    figures = {
        "t_s": _number(reading.at_typed),
        "step": reading.slot,
        "state": reading.slot,
        "cylinder": injector.cylinder if injector else _cylinder_in(reading.slot),
        "injector": injector.label if injector else None,
        "pass": reading.number,
        "first": _number(reading.first_typed),
        "second": _number(reading.second_typed),
        "wanted": _number(reading.first_typed),
        "actual": _number(reading.second_typed),
        "value": _number(reading.value_typed),
        "seen": reading.word,
        "outcome": reading.word,
    }
    beside = filled(
        seat=reading.seat,
        sound=reading.sound,
        spray=reading.spray,
        fires_at=_number(reading.fires_at_typed),
        shim_mm=_number(reading.shim_typed),
        note=reading.mark or reading.note,
        taken=utc_text(reading.taken_at),
    )
    names = {f.alias or name for name, f in model.model_fields.items()}
    made = {k: v for k, v in {**figures, **beside}.items() if k in names} | (reading.extras or {})
    if reading.mark and reading.note:
        made["x-note"] = reading.note
    return made


def _cylinder_in(slot: str | None) -> int | None:
    """The cylinder of a row that has no injector of its own."""
    number = (slot or "").removeprefix(cylinder_slot(0)[:-1])
    return int(number) if number.isdigit() else None


def part_of(whole: WholeSheet) -> SheetPart:
    """A stored sheet as a checked part of the file."""
    part: SheetPart = FILE_KINDS[whole.sheet.kind].model.model_validate(sheet_json(whole))
    return part


def head_of(whole: WholeSheet) -> SheetPart:
    """A stored sheet as a checked part of the file, without its readings."""
    part: SheetPart = FILE_KINDS[whole.sheet.kind].model.model_validate(head_json(whole))
    return part


def noted_on(whole: WholeSheet) -> tuple[Noted, ...]:
    """The readings of a stored sheet as the core takes them: they were read when they were typed."""
    labels = {i.id: i.label for i in whole.injectors}
    factor = factor_of(whole.sheet.unit)
    if len(_noted) > _MOST_NOTED:
        _noted.clear()
    return tuple(_as_noted(r, labels.get(r.injector_id or 0, ""), factor) for r in whole.readings)


_MOST_NOTED: Final = 50_000
_noted: dict[str, tuple[ReadingRecord, str, float, Noted]] = {}
"""While somebody types, all readings of a sheet but one are the very same records as before."""


def _number_in(extras: Mapping[str, Any] | None, name: str) -> float | None:
    """A figure that has no column of its own."""
    figure = (extras or {}).get(name)
    return None if figure is None else float(figure)


def _as_noted(r: ReadingRecord, label: str, factor: float) -> Noted:
    kept = _noted.get(r.id)
    if kept is not None and kept[0] is r and kept[1:3] == (label, factor):
        return kept[3]
    made = Noted(
        injector=label,
        slot=r.slot or "",
        number=r.number,
        at_s=r.at_s,
        first=r.first_kpa,
        second=r.second_kpa,
        value=r.value,
        word=r.word,
        mark=Mark(r.mark) if r.mark else None,
        sound=r.sound,
        fires_at=None if r.fires_at_typed is None else float(r.fires_at_typed) * factor,
        spray=r.spray,
        seat=r.seat,
        shim_mm=None if r.shim_typed is None else float(r.shim_typed),
        supply_v=_number_in(r.extras, "supply_v"),
    )
    _noted[r.id] = (r, label, factor, made)
    return made


def engine_of(whole: WholeSheet) -> Engine:
    """The engine of a stored sheet."""
    return Engine(
        labels=tuple(i.label for i in whole.injectors),
        cylinders={i.label: i.cylinder for i in whole.injectors},
        starts=whole.starts,
        fuel_system=whole.fuel_system,
        count=whole.cylinders or len({i.cylinder for i in whole.injectors if i.cylinder}) or 1,
        firing_order=whole.firing_order,
        sets={i.label: i.set_name for i in whole.injectors if i.set_name},
        banks={i.label: i.bank for i in whole.injectors if i.bank},
    )


def own_slots(whole: WholeSheet) -> tuple[str, ...]:
    """The rows of a sheet that are no injectors and hang on the engine."""
    return FILE_KINDS[whole.sheet.kind].slots(engine_of(whole))


def setting_of(whole: WholeSheet) -> Setting:
    """The engine that a stored sheet is read on."""
    return Setting(fuel_system=whole.fuel_system, starts=whole.starts)


def shown_slots(whole: WholeSheet) -> tuple[str, ...]:
    """The rows of a sheet whose rows are no injectors: what this engine has, and what was noted."""
    kind = BY_CODE[whole.sheet.kind]
    asked = kind.told(setting_of(whole)).slots
    windows = whole.sheet.conditions.get("windows") or {}
    noted = {r.slot for r in whole.readings} | set(windows)
    return tuple(slot for slot in kind.entry.slots if slot in asked or slot in noted)


def checked(data: dict[str, Any]) -> SheetPart:
    """A part of the job file from JSON; :class:`PlumbError` with every problem, by its key."""
    try:
        part: SheetPart = FILE_KINDS[data["kind"]].model.model_validate(data)
    except ValidationError as error:
        raise PlumbError(problems_of(error)) from error
    return part


def gauge_columns(gauge: GaugePart | None, unit: str) -> dict[str, Any]:
    """The gauge as a sheet keeps it: copied, so that the shelf may change."""
    if gauge is None:
        return {"gauge_name": "", "gauge_step_typed": "", "gauge_step": 0.0}
    return {
        "gauge_name": gauge.name,
        "gauge_step_typed": str(gauge.step),
        "gauge_step": float(gauge.step) * factor_of(unit),
    }


def meter_of(gauge: GaugePart | None) -> dict[str, Any]:
    """Leads and accuracy of a meter, class and span of a pressure gauge, where it has any."""
    return filled(**{name: getattr(gauge, name, None) for name in (*FIGURES, "reads")})


def rule_columns(rule: RulePart | None) -> dict[str, Any]:
    """The rule as a sheet keeps it."""
    if rule is None:
        return {"rule_name": "", "rule_limits": {}}
    limits = rule.model_dump(exclude={"name"}, exclude_none=True, exclude_defaults=True)
    return {"rule_name": rule.name, "rule_limits": limits}


def conditions_of(part: SheetPart) -> dict[str, Any]:
    """Everything of a sheet that is no reading and has no column of its own."""
    kept = part.kept() or {}
    lists = FILE_KINDS[part.kind].entries
    made = part.model_dump(
        exclude={*HEAD, *lists, *FILE_KINDS[part.kind].folded, *kept},
        exclude_none=True,
        exclude_unset=True,
        by_alias=True,
    )
    meter = meter_of(getattr(part, "gauge", None))
    return {**made, **({"meter": meter} if meter else {})}


def sheet_columns(part: SheetPart, job_id: int, vehicle_id: int) -> dict[str, Any]:
    """A sheet of a job file as the store keeps it."""
    taken = part.taken or now_typed()
    gauge = getattr(part, "gauge", None)
    unit = str(getattr(part, "unit", ""))
    return {
        "job_id": job_id,
        "vehicle_id": vehicle_id,
        "key": part.id,
        "kind": part.kind,
        "version": 1,
        "taken_typed": taken,
        "taken_at": instant(taken),
        "unit": unit,
        **gauge_columns(gauge, unit),
        **rule_columns(getattr(part, "rule", None)),
        "conditions": conditions_of(part),
        "extras": both_kept(sheet=part.kept(), gauge=None if gauge is None else gauge.kept()),
    }


_EMPTY: Final[dict[str, Any]] = dict.fromkeys(("injector_id", "slot", "first_typed", "second_typed", "first_kpa", "second_kpa", "value_typed", "value", "at_typed", "at_s", "word", "spray", "mark", "sound", "fires_at_typed", "seat", "shim_typed", "replaces"))  # fmt: skip


def count_of(part: SheetPart) -> int:
    """How many readings a sheet has."""
    return sum(1 for _ in entries_of(part))


def _figure_columns(entry: BaseModel, factor: float) -> dict[str, Any]:
    """The figures of a reading as they were typed, and those that are reckoned with."""
    names = ("first", "second", "value", "t_s", "fires_at", "shim_mm")
    typed = {name: getattr(entry, name, None) for name in names}
    if "wanted" in type(entry).model_fields:
        # Two pressures of the rail stand in the columns of two pressures of a burst.
        typed |= {"first": getattr(entry, "wanted"), "second": getattr(entry, "actual")}  # noqa: B009
    made: dict[str, Any] = {
        f"{_COLUMN.get(name, name)}_typed": plain(v) for name, v in typed.items() if v is not None
    }
    for name, column, scale in (
        ("first", "first_kpa", factor),
        ("second", "second_kpa", factor),
        ("value", "value", factor),
        ("t_s", "at_s", 1.0),
    ):
        if (figure := typed[name]) is not None:
            made[column] = float(figure) * scale
    return made


_COLUMN: Final = {"t_s": "at", "shim_mm": "shim"}


def reading_columns(
    entry: BaseModel, sequence: int, part: SheetPart, place: tuple[int, int], ids: dict[str, int]
) -> dict[str, Any]:
    """A reading of a file as the store keeps it; ``place`` is (sheet id, vehicle id)."""
    sheet_id, vehicle_id = place
    unit = str(getattr(part, "unit", ""))
    mark = getattr(entry, "mark", None)
    extras = cast("dict[str, Any]", dict(entry.model_extra or {}))
    side_note = str(extras.pop("x-note", "")) if mark else ""
    if (volts := getattr(entry, "supply_v", None)) is not None:
        extras["supply_v"] = volts
    # Of a reading without a time of its own the sheet's is known at least.
    taken = getattr(entry, "taken", None) or part.taken
    injector = getattr(entry, "injector", None)
    cylinder = getattr(entry, "cylinder", None)
    if cylinder is not None and cylinder_slot(cylinder) in ids:
        injector = cylinder_slot(cylinder)
    return (
        _EMPTY
        | _figure_columns(entry, factor_of(unit))
        | {
            "id": str(uuid.uuid4()),
            "sheet_id": sheet_id,
            "vehicle_id": vehicle_id,
            "injector_id": None if injector is None else ids[injector],
            "slot": None if injector is not None else slot_of(entry),
            "shape": shape_of(type(entry)),
            "number": getattr(entry, "pass_", 1),
            "unit": unit,
            "word": getattr(entry, "seen", None) or getattr(entry, "outcome", None),
            "spray": getattr(entry, "spray", None),
            "sound": getattr(entry, "sound", None),
            "seat": getattr(entry, "seat", None),
            "mark": mark,
            "note": side_note if mark else getattr(entry, "note", ""),
            "taken_at": instant(taken) if taken else now(),
            "live": 1,
            "sequence": sequence,
            "extras": extras or None,
        }
    )


def ids_of(injectors: tuple[InjectorRecord, ...]) -> dict[str, int]:
    """Ids of injectors by label, and by cylinder for what is told by cylinder."""
    # Of several injectors on a cylinder the first in reach order stands for it.
    by_cylinder = {cylinder_slot(i.cylinder): i.id for i in reversed(injectors) if i.cylinder}
    return by_cylinder | {i.label: i.id for i in injectors}


def shape_of(model: type[BaseModel]) -> str:
    """Which columns a reading fills: burst, value, point or word."""
    names = model.model_fields
    if "first" in names or "wanted" in names:
        return "burst"
    if "t_s" in names:
        return "point"
    return "value" if "value" in names else "word"
