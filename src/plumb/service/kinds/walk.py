"""The walk-round on the screen: ticks, and no rows."""

from typing import Any

from plumb.core.measure.spoken import COMPLAINTS, words_in
from plumb.core.procedures.walk.analysis import KIND, WalkResult
from plumb.service.kinds.kind import ScreenKind
from plumb.service.kinds.knobs import Field
from plumb.service.views.sheet import FormView, OptionView
from plumb.store.records import WholeSheet


def along(whole: WholeSheet) -> dict[str, str]:
    """What was told when the job was opened: its words and codes, until the sheet has its own."""
    told = {"complaint": words_in(whole.complaint), "codes": whole.codes}
    return {k: " ".join(v) for k, v in told.items() if v and k not in whole.sheet.conditions}


def more(whole: WholeSheet, result: WalkResult, _unit: str) -> dict[str, Any]:
    """What is ticked, and what can be."""
    kept = {k: v.split() for k, v in along(whole).items()} | whole.sheet.conditions
    form = FormView(
        complaint=list(kept.get("complaint", [])),
        codes=list(kept.get("codes", [])),
        hose=kept.get("hose", ""),
        connectors=kept.get("connectors", ""),
        note=kept.get("note", ""),
        pump="",
        complaints=[OptionView(code=c, label=w) for c, w in COMPLAINTS.items()],
        told=whole.complaint,
        looked_at=list(result.sheet.looked_at),
        looked=None,
        low_by_eye=[],
    )
    return {"form": form, "measured": int(result.begun)}


WALK = ScreenKind(
    code=KIND,
    gauge=None,
    along=along,
    form=(
        Field("complaint", "Complaint", "words"),
        Field("codes", "Codes", "words"),
        Field("hose", "Vacuum hose", "text"),
        Field("connectors", "Connectors", "text"),
        Field("note", "Note", "text"),
    ),
    more=more,
)
