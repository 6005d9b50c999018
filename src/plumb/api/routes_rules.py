"""What a rule is worth: simulated sets, and what it would take to be sure."""

from typing import Annotated

from fastapi import Query

from plumb.api.deps import Simulated
from plumb.api.intake import routes_of
from plumb.api.schemas_live import PlanIn, SetupIn
from plumb.service.views.worth import PlannerView, SetupView, WorthView

router = routes_of("rules")


@router.get("/rules/worth/setup")
def show_setup(worths: Simulated, sheet: Annotated[int, Query(ge=0)] = 0) -> SetupView:
    """What to begin with: the gauge, rail and rule of a sheet, or what is usual."""
    return worths.usual(sheet)


@router.post("/rules/worth")
def start(wanted: SetupIn, worths: Simulated) -> WorthView:
    """Begin to simulate; the answer has the first few sets already."""
    return worths.start(wanted.view(), wanted.sets)


@router.get("/rules/worth/{run_id}")
def show(run_id: str, worths: Simulated) -> WorthView:
    """How a simulation stands."""
    return worths.view(run_id)


@router.delete("/rules/worth/{run_id}")
def stop(run_id: str, worths: Simulated) -> WorthView:
    """End it; what it says so far stays."""
    return worths.stop(run_id)


@router.post("/rules/plan")
def plan(wanted: PlanIn, worths: Simulated) -> PlannerView:
    """What would call out an injector that is off by so much, with that certainty."""
    return worths.plan(wanted.view(), wanted.off_percent, wanted.certainty_percent)
