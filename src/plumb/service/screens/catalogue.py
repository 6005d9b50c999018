"""What there is to choose from, as the page needs it."""

from dataclasses import replace

from plumb.core.compare.rules import RULES
from plumb.core.measure.problems import NotThere, Problem
from plumb.core.procedures import BY_CODE, FUEL_SYSTEMS, route
from plumb.core.procedures.guide import DRAWINGS
from plumb.core.procedures.kind import Setting
from plumb.service.kinds import SCREEN_KINDS
from plumb.service.kinds.compared import rule_fields
from plumb.service.kinds.knobs import Knob
from plumb.service.screens.knobs import field_view
from plumb.service.stored.parts import has_rule, units_of
from plumb.service.views.catalogue import (
    CatalogueView,
    DrawingView,
    GuideView,
    KindView,
    LargestView,
    RuleKindView,
    SystemView,
)
from plumb.service.views.sheet import FieldView


def catalogue(largest: LargestView) -> CatalogueView:
    """Kinds of sheet with their limits, rules with theirs, fuel systems with their first sheets."""
    return CatalogueView(
        largest=largest,
        kinds=[
            KindView(
                code=code,
                title=screen.kind.title,
                units=units_of(code),
                compares=screen.kind.compares and has_rule(code),
                limits=_limits([knob for knob in screen.knobs if knob.window]),
            )
            for code, screen in SCREEN_KINDS.items()
        ],
        rules=[
            RuleKindView(code=spec.code, title=spec.title, fields=rule_fields(spec.code))
            for spec in RULES.values()
        ],
        systems=[_system(code) for code in FUEL_SYSTEMS],
    )


def _limits(windows: list[Knob]) -> list[FieldView]:
    """The limits of a kind's windows; of several each says which it belongs to."""
    if len(windows) == 1:
        return [field_view(f, "") for f in windows[0].fields]
    return [
        field_view(replace(f, label=f"{knob.name}: {f.label[:1].lower()}{f.label[1:]}"), "")
        for knob in windows
        for f in knob.fields
    ]


def _system(code: str) -> SystemView:
    kinds = route(code)
    straight = next(k for k in sorted(kinds, key=lambda k: not k.must) if k.compares)
    return SystemView(
        code=code, outside=kinds[0].code, straight=straight.code, straight_words=straight.straight
    )


def guide_view(code: str, setting: Setting) -> GuideView:
    """The card of a kind of sheet on an engine; :class:`NotThere` for one that is none."""
    kind = BY_CODE.get(code)
    if kind is None:
        raise NotThere(
            Problem(path="kind", rule="a kind of sheet", value=code, code="no_procedure")
        )
    guide = kind.guide.on(setting.fuel_system)
    return GuideView(
        title=kind.title,
        shows=guide.shows,
        hides=guide.hides,
        needs=list(guide.needs),
        connect=list(guide.connect),
        steps=list(guide.steps),
        look=list(guide.look),
        slips=list(guide.slips),
        enough=guide.enough,
        schools=guide.schools,
        care=kind.told(setting).care,
        drawings=[DrawingView(code=d, words=DRAWINGS[d]) for d in guide.drawings],
    )
