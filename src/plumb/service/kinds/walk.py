"""The walk-round on the screen: ticks, and no rows."""

from typing import Any

from plumb.core.procedures.walk.analysis import COMPLAINTS, KIND, WalkResult
from plumb.service.kinds.kind import ScreenKind
from plumb.service.kinds.knobs import Field
from plumb.service.views.sheet import FormView, OptionView
from plumb.store.records import WholeSheet


def more(whole: WholeSheet, result: WalkResult, _unit: str) -> dict[str, Any]:
    """What is ticked, and what can be."""
    kept = whole.sheet.conditions
    form = FormView(
        complaint=list(kept.get("complaint", [])),
        codes=list(kept.get("codes", [])),
        hose=kept.get("hose", ""),
        connectors=kept.get("connectors", ""),
        note=kept.get("note", ""),
        pump="",
        complaints=[OptionView(code=c, label=w) for c, w in COMPLAINTS.items()],
        looked_at=list(result.sheet.looked_at),
    )
    return {"form": form, "measured": int(result.begun)}


WALK = ScreenKind(
    code=KIND,
    gauge=None,
    form=(
        Field("complaint", "Complaint", "words"),
        Field("codes", "Codes", "words"),
        Field("hose", "Vacuum hose", "text"),
        Field("connectors", "Connectors", "text"),
        Field("note", "Note", "text"),
    ),
    more=more,
)
