"""The conditions of a stored sheet as knobs, figures as typed."""

from dataclasses import replace

from plumb.service.kinds import SCREEN_KINDS
from plumb.service.kinds.conditions import shown
from plumb.service.kinds.knobs import SET, Field, Knob
from plumb.service.kinds.shims import shim_unit
from plumb.service.stored.parts import shown_slots
from plumb.service.views.sheet import FieldView, KnobView, OptionView
from plumb.store.records import WholeSheet


def field_view(field: Field, value: str) -> FieldView:
    """One field, with its text as typed; ``{unit}`` in its label is left for who knows the unit."""
    return FieldView(
        key=field.key,
        label=field.label,
        kind=field.kind,
        value=value,
        options=[OptionView(code=c, label=w) for c, w in field.options],
    )


def _options(field: Field, whole: WholeSheet) -> tuple[tuple[str, str], ...]:
    """What can be chosen: of the sets those of this engine."""
    if field is not SET:
        return field.options
    return (("", "all injectors"), *((name, name) for name in whole.sets if name))


def knob_views(whole: WholeSheet) -> list[KnobView]:
    """The knobs of a stored sheet, figures as typed."""
    sheet = whole.sheet
    data = {**sheet.conditions, "gauge": sheet.conditions.get("meter") or {}}
    length = shim_unit(whole)
    rows = shown_slots(whole)
    knobs = [k for k in SCREEN_KINDS[sheet.kind].knobs if not k.slot or k.slot in rows]
    if len(whole.sets) > 1:
        knobs.append(Knob("Set", (SET,), lambda get: get("set") or "all injectors"))
    texts = {f.key: shown(data, f, length) for knob in knobs for f in knob.fields}

    def told(text: str) -> str:
        return text.replace("{unit}", sheet.unit).replace("{shim}", length)

    return [
        KnobView(
            name=knob.name,
            value=told(knob.shows(lambda key: texts.get(key, ""))),
            note=knob.note,
            window=knob.window,
            fields=[
                field_view(
                    replace(f, label=told(f.label), options=_options(f, whole)), texts[f.key]
                )
                for f in knob.fields
            ],
        )
        for knob in knobs
    ]
