"""Sheets: show, enter a reading, take one back, change the conditions."""

from collections.abc import Mapping
from typing import Any

from fastapi import APIRouter, Request, Response
from pydantic import ValidationError

from plumb.api.deps import Shop, ShownUnit, Store
from plumb.api.problems import RESPONSES
from plumb.api.schemas import GaugeIn, NewSheetIn, ReadingIn, SheetChangeIn
from plumb.core.problems import PlumbError
from plumb.core.quantities import parse_number
from plumb.jobfile.models import BurstPart, EnginePart, ExpectedPart, GaugePart, RulePart
from plumb.jobfile.reading import problems_of
from plumb.service import readings
from plumb.service import sheets as service
from plumb.service.views import SheetView, WorkingView

router = APIRouter(tags=["sheets"], responses=RESPONSES)


def _tag(view: SheetView) -> str:
    return f'"{view.id}-{view.version}-{view.unit}"'


@router.get("/sheets/{sheet_id}")
def show_sheet(
    sheet_id: int,
    request: Request,
    response: Response,
    store: Store,
    shop: Shop,
    unit: ShownUnit = None,
) -> SheetView:
    """A sheet as it is now; 304 when the browser has this version."""
    view = service.show_sheet(store, sheet_id, shop.thresholds(), unit)
    response.headers["ETag"] = _tag(view)
    response.headers["Cache-Control"] = "no-cache"
    if request.headers.get("if-none-match") == _tag(view):
        response.status_code = 304
        response.body = b""
    return view


@router.get("/sheets/{sheet_id}/working")
def show_working(sheet_id: int, store: Store, shop: Shop, unit: ShownUnit = None) -> WorkingView:
    """How a sheet was worked out, figure by figure."""
    return service.show_working(store, sheet_id, shop.thresholds(), unit)


@router.post("/sheets/{sheet_id}/readings")
def save_reading(
    sheet_id: int, reading: ReadingIn, store: Store, shop: Shop, unit: ShownUnit = None
) -> SheetView:
    """Keep a reading; the answer is the sheet's new state."""
    given = readings.NewReading(
        id=reading.id,
        injector=reading.injector,
        pass_number=reading.pass_number,
        first=reading.first,
        second=reading.second,
        mark=reading.mark,
        sound=reading.sound,
        note=reading.note,
        replaces=reading.replaces,
        confirmed=tuple(reading.confirmed),
    )
    return readings.save_reading(store, sheet_id, given, shop.thresholds(), unit)


@router.delete("/sheets/{sheet_id}/readings/{reading_id}")
def take_back(
    sheet_id: int, reading_id: str, store: Store, shop: Shop, unit: ShownUnit = None
) -> SheetView:
    """Take a reading back; what it corrected comes into force again."""
    return readings.take_back(store, sheet_id, reading_id, shop.thresholds(), unit)


@router.patch("/sheets/{sheet_id}")
def change_sheet(
    sheet_id: int, change: SheetChangeIn, store: Store, shop: Shop, unit: ShownUnit = None
) -> SheetView:
    """Change the conditions; 409 when someone changed the sheet meanwhile."""
    wanted = _change(change)
    return service.change_sheet(store, sheet_id, change.version, wanted, shop.thresholds(), unit)


@router.post("/jobs/{number}/sheets", status_code=201)
def new_sheet(number: str, wanted: NewSheetIn, store: Store, shop: Shop) -> SheetView:
    """A new, empty drop sheet on a job."""
    return service.new_sheet(
        store,
        number,
        wanted.request_id,
        gauge_part(wanted.gauge),
        wanted.gauge.unit,
        shop.thresholds(),
    )


def gauge_part(gauge: GaugeIn) -> GaugePart:
    """A gauge as typed."""
    return GaugePart(name=gauge.name, step=service.typed_step(gauge.step))


def _part(kind: type[Any], values: Mapping[str, Any], numbers: tuple[str, ...], path: str) -> Any:  # noqa: ANN401
    """A part of the job file from typed texts; numbers are read, then the part's rules apply."""
    made = {
        k: parse_number(v, f"{path}.{k}") if k in numbers else v
        for k, v in values.items()
        if v is not None
    }
    try:
        return kind.model_validate(made)
    except ValidationError as error:
        raise PlumbError(problems_of(error, path)) from error


def _change(change: SheetChangeIn) -> service.SheetChange:
    """The typed change as parts of a sheet."""

    def values(part: Any) -> dict[str, Any]:  # noqa: ANN401  any request body
        return dict(part.model_dump())

    expected = change.expected
    gives = expected is not None and expected.drop is not None
    return service.SheetChange(
        unit=change.gauge.unit if change.gauge else None,
        gauge=gauge_part(change.gauge) if change.gauge else None,
        burst=_part(BurstPart, values(change.burst), ("on_ms",), "burst") if change.burst else None,
        engine=_part(EnginePart, values(change.engine), ("temperature_c",), "engine")
        if change.engine
        else None,
        rule=_part(
            RulePart,
            values(change.rule),
            ("tolerance_percent", "limit", "reject", "score", "alpha"),
            "rule",
        )
        if change.rule
        else None,
        expected=_part(ExpectedPart, values(expected), ("drop",), "expected") if gives else None,
        no_expected=expected is not None and expected.drop is None,
        supply_v=parse_number(change.supply_v, "supply_v") if change.supply_v else None,
        neighbour_proven=change.neighbour_proven,
    )
