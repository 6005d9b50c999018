"""Between the store and the job file's parts: a stored sheet as JSON, and a part as columns.

There is one way each way, for every kind of sheet: what a kind's model names is what is kept.
"""

import uuid
from collections.abc import Iterator
from datetime import UTC, datetime
from decimal import Decimal
from typing import Any, Final, cast

from pydantic import BaseModel

from plumb.core.quantities import KPA_PER, plain
from plumb.jobfile.file import PARTS, SheetPart
from plumb.jobfile.models import GaugePart, RulePart
from plumb.store.records import InjectorRecord, ReadingRecord, WholeSheet

HEAD: Final = frozenset({"kind", "id", "taken", "unit", "gauge", "rule"})
LISTS: Final = frozenset({"readings", "isolation"})
_METER: Final = ("lead", "percent", "counts")


def now() -> datetime:
    """The time now, UTC, as the store keeps it."""
    return datetime.now(UTC).replace(tzinfo=None)


def instant(text: str) -> datetime:
    """An ISO time with offset as the store keeps it: UTC without offset."""
    return datetime.fromisoformat(text).astimezone(UTC).replace(tzinfo=None)


def factor_of(unit: str) -> float:
    """How many of the core's unit one of a sheet's unit is: kPa for pressures, else one."""
    return KPA_PER.get(unit, 1.0)


def filled(**values: Any) -> dict[str, Any]:  # noqa: ANN401  JSON values
    """Only what says something: empty texts, lists and None are left out."""
    return {k: v for k, v in values.items() if v not in (None, "", [], {})}


def under(extras: dict[str, Any] | None, name: str) -> dict[str, Any]:
    """The ``x-...`` keys of one part, as they were kept."""
    return dict((extras or {}).get(name) or {})


def both_kept(**parts: dict[str, Any] | None) -> dict[str, Any] | None:
    """The ``x-...`` keys of several parts under their names, None when there are none."""
    return {name: kept for name, kept in parts.items() if kept} or None


def has_rule(kind: str) -> bool:
    """Whether sheets of that kind compare by a rule."""
    return "rule" in PARTS[kind].model_fields


def sheet_json(whole: WholeSheet) -> dict[str, Any]:
    """A stored sheet as the job file has it, figures as typed."""
    sheet = whole.sheet
    fields = PARTS[sheet.kind].model_fields
    labels = {i.id: i.label for i in whole.injectors}
    cylinders = {i.id: i.cylinder for i in whole.injectors}
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
    made |= conditions
    rows = [(r.shape, r.slot, reading_json(r, labels)) for r in whole.readings]
    if "readings" in fields:
        made["readings"] = [row for _, _, row in rows]
    if sheet.kind == "cranking_balance":
        made["readings"] = [
            {"cylinder": cylinders[r.injector_id or 0], **hump_json(r)} for r in whole.readings
        ]
    if sheet.kind == "hold":
        made["series"] = [row for shape, _, row in rows if shape == "point"]
        made["isolation"] = [row for shape, _, row in rows if shape == "word"]
    return {**made, **under(sheet.extras, "sheet")}


def _number(typed: str | None) -> Decimal | None:
    return None if typed is None else Decimal(typed)


def reading_json(reading: ReadingRecord, labels: dict[int, str]) -> dict[str, Any]:
    """A reading of the file.  A mark takes the note's place; a note beside it is ``x-note``."""
    taken = reading.taken_at.replace(tzinfo=UTC).isoformat()
    end = filled(note=reading.mark or reading.note, taken=taken)
    if reading.shape == "point":
        made: dict[str, Any] = {
            "t_s": _number(reading.at_typed), "value": _number(reading.value_typed), **end,
        }  # fmt: skip
    elif reading.slot is not None and reading.shape == "word":
        return {"step": reading.slot, "outcome": reading.word, "taken": taken}
    elif reading.slot is not None:
        made = {"state": reading.slot, "value": _number(reading.value_typed), **end}
    else:
        made = {"injector": labels[reading.injector_id or 0]}
        if reading.shape == "word":
            made |= {"seen": reading.word, **end}
        elif reading.shape == "value":
            value = _number(reading.value_typed)
            made |= {
                "pass": reading.number, "value": value,
                **filled(seat=reading.seat, sound=reading.sound, spray=reading.spray,
                         shim_mm=_number(reading.shim_typed)),
                **end,
            }  # fmt: skip
        else:
            made |= {
                "pass": reading.number,
                "first": _number(reading.first_typed),
                "second": _number(reading.second_typed),
                **filled(sound=reading.sound, fires_at=_number(reading.fires_at_typed)),
                **end,
            }
    made |= reading.extras or {}
    if reading.mark and reading.note:
        made["x-note"] = reading.note
    return made


def hump_json(reading: ReadingRecord) -> dict[str, Any]:
    """What a hump of the cranking balance has beside its cylinder."""
    taken = reading.taken_at.replace(tzinfo=UTC).isoformat()
    return {"value": _number(reading.value_typed), **filled(note=reading.note, taken=taken)}


def part_of(whole: WholeSheet) -> SheetPart:
    """A stored sheet as a checked part of the file."""
    return PARTS[whole.sheet.kind].model_validate(sheet_json(whole))


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
    """Leads and accuracy of a meter, where it has any."""
    return filled(**{name: getattr(gauge, name, None) for name in _METER})


def rule_columns(rule: RulePart | None) -> dict[str, Any]:
    """The rule as a sheet keeps it."""
    if rule is None:
        return {"rule_name": "", "rule_limits": {}}
    limits = rule.model_dump(exclude={"name"}, exclude_none=True, exclude_defaults=True)
    return {"rule_name": rule.name, "rule_limits": limits}


def conditions_of(part: SheetPart) -> dict[str, Any]:
    """Everything of a sheet that is no reading and has no column of its own."""
    kept = part.kept() or {}
    # The moments of a hold are readings; those of a rail are one trace and stay together.
    lists = LISTS | ({"series"} if part.kind == "hold" else set())
    made = part.model_dump(
        exclude={*HEAD, *lists, *kept}, exclude_none=True, exclude_unset=True, by_alias=True
    )
    meter = meter_of(getattr(part, "gauge", None))
    return {**made, **({"meter": meter} if meter else {})}


def sheet_columns(part: SheetPart, job_id: int, vehicle_id: int) -> dict[str, Any]:
    """A sheet of a job file as the store keeps it."""
    taken = part.taken or datetime.now(UTC).isoformat(timespec="seconds")
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


def entries_of(part: SheetPart) -> Iterator[BaseModel]:
    """Every reading of a sheet, of whichever list."""
    lists = ("readings", "series", "isolation") if part.kind == "hold" else ("readings",)
    for name in lists:
        yield from cast("list[BaseModel]", getattr(part, name, []))


def count_of(part: SheetPart) -> int:
    """How many readings a sheet has."""
    return sum(1 for _ in entries_of(part))


def reading_columns(
    entry: BaseModel, sequence: int, part: SheetPart, place: tuple[int, int], ids: dict[str, int]
) -> dict[str, Any]:
    """A reading of a file as the store keeps it; ``place`` is (sheet id, vehicle id)."""
    sheet_id, vehicle_id = place
    unit = str(getattr(part, "unit", ""))
    factor = factor_of(unit)

    def both(name: str, scale: float = 1.0) -> tuple[str | None, float | None]:
        value = getattr(entry, name, None)
        return (None, None) if value is None else (plain(value), float(value) * scale)

    made = dict(_EMPTY)
    made["first_typed"], made["first_kpa"] = both("first", factor)
    made["second_typed"], made["second_kpa"] = both("second", factor)
    made["value_typed"], made["value"] = both("value", factor)
    made["at_typed"], made["at_s"] = both("t_s")
    made["fires_at_typed"], _ = both("fires_at")
    made["shim_typed"], _ = both("shim_mm")
    mark = getattr(entry, "mark", None)
    extras = cast("dict[str, Any]", dict(entry.model_extra or {}))
    side_note = str(extras.pop("x-note", "")) if mark else ""
    # Of a reading without a time of its own the sheet's is known at least.
    taken = getattr(entry, "taken", None) or part.taken
    injector = getattr(entry, "injector", None)
    cylinder = getattr(entry, "cylinder", None)
    if cylinder is not None:
        injector = f"cylinder {cylinder}"
    return made | {
        "id": str(uuid.uuid4()),
        "sheet_id": sheet_id,
        "vehicle_id": vehicle_id,
        "injector_id": None if injector is None else ids[injector],
        "slot": None if injector is not None else slot_of(entry),
        "shape": shape_of(entry),
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


def ids_of(injectors: tuple[InjectorRecord, ...]) -> dict[str, int]:
    """Ids of injectors by label, and by cylinder for what is told by cylinder."""
    by_cylinder = {f"cylinder {i.cylinder}": i.id for i in injectors}
    return by_cylinder | {i.label: i.id for i in injectors}


def slot_of(entry: BaseModel) -> str:
    """The place on the sheet of a reading that belongs to no injector."""
    moment = getattr(entry, "t_s", None)
    if moment is not None:
        return moment_slot(plain(moment))
    return str(getattr(entry, "state", None) or getattr(entry, "step", ""))


def moment_slot(typed: str) -> str:
    """The slot of a moment of a hold."""
    return f"at {Decimal(typed).normalize():f}"


def shape_of(entry: BaseModel) -> str:
    """Which columns a reading fills: burst, value, point or word."""
    names = type(entry).model_fields
    if "first" in names:
        return "burst"
    if "t_s" in names:
        return "point"
    return "value" if "value" in names else "word"
