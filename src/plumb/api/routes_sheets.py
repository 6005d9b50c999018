"""Sheets: show, enter a reading, take one back, change the conditions."""

from typing import Annotated

from fastapi import Query, Request, Response
from pydantic import ValidationError

from plumb.api.deps import Shop, ShownUnit, Store
from plumb.api.intake import routes_of
from plumb.api.schemas import GaugeIn, NewSheetIn, ReadingIn, RuleIn, SheetChangeIn
from plumb.core.measure.problems import PlumbError
from plumb.core.measure.quantities import parse_typed
from plumb.jobfile.models import RulePart
from plumb.jobfile.reading import problems_of
from plumb.service.kinds.entry import NewReading
from plumb.service.stored.gauges import Gauge
from plumb.service.uses import new_sheets, readings
from plumb.service.uses import sheets as service
from plumb.service.views.sheet import ReadingView, SheetView, WorkingView

router = routes_of("sheets")


def _tag(view: SheetView) -> str:
    return f'"{view.id}-{view.version}-{view.unit}-{view.learnt}"'


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


@router.get("/sheets/{sheet_id}/rows/{row:path}/readings")
def show_passes(sheet_id: int, row: str, store: Store, unit: ShownUnit = None) -> list[ReadingView]:
    """Every reading of a row, by pass; a sheet shows the newest few."""
    return service.show_passes(store, sheet_id, row, unit)


@router.post("/sheets/{sheet_id}/readings")
def save_reading(
    sheet_id: int, reading: ReadingIn, store: Store, shop: Shop, unit: ShownUnit = None
) -> SheetView:
    """Keep a reading; the answer is the sheet's new state."""
    given = NewReading(
        id=reading.id,
        injector=reading.injector,
        pass_number=reading.pass_number,
        first=reading.first,
        second=reading.second,
        value=reading.value,
        at_s=reading.at_s,
        word=reading.word,
        spray=reading.spray,
        fires_at=reading.fires_at,
        mark=reading.mark,
        sound=reading.sound,
        seat=reading.seat,
        shim=reading.shim,
        note=reading.note,
        by=reading.by,
        replaces=reading.replaces,
        confirmed=tuple(reading.confirmed),
    )
    return readings.save_reading(store, sheet_id, given, shop.thresholds(), unit)


@router.delete("/sheets/{sheet_id}/readings/{reading_id}")
def take_back(
    sheet_id: int,
    reading_id: str,
    store: Store,
    shop: Shop,
    unit: ShownUnit = None,
    *,
    altogether: Annotated[
        bool, Query(description="what it corrected stays taken back too: the pass is gone")
    ] = False,
) -> SheetView:
    """Take a reading back; what it corrected comes into force again."""
    return readings.take_back(
        store, sheet_id, reading_id, shop.thresholds(), unit, altogether=altogether
    )


@router.patch("/sheets/{sheet_id}")
def change_sheet(
    sheet_id: int, change: SheetChangeIn, store: Store, shop: Shop, unit: ShownUnit = None
) -> SheetView:
    """Change the conditions; 409 when someone changed the sheet meanwhile."""
    wanted = _change(change)
    return service.change_sheet(store, sheet_id, change.version, wanted, shop.thresholds(), unit)


@router.post("/jobs/{number}/sheets", status_code=201)
def new_sheet(number: str, wanted: NewSheetIn, store: Store, shop: Shop) -> SheetView:
    """A new, empty sheet of any kind that this fuel system has."""
    gauge = None if wanted.gauge is None else gauge_of(wanted.gauge)
    given = new_sheets.Wanted(
        **{**wanted.model_dump(), "gauge": gauge, "injectors": tuple(wanted.injectors)}
    )
    return new_sheets.new_sheet(store, number, given, shop.thresholds())


@router.delete("/sheets/{sheet_id}", status_code=204)
def drop_sheet(sheet_id: int, store: Store, shop: Shop) -> None:
    """Take a sheet away on which nothing was ever noted; 409 where something was."""
    service.drop_sheet(store, sheet_id, shop.thresholds())


@router.post("/sheets/{sheet_id}/engine-runs")
def engine_ran(sheet_id: int, store: Store, shop: Shop, unit: ShownUnit = None) -> SheetView:
    """Note that the engine ran between bursts: raw fuel is burnt, the key was turned."""
    return service.engine_ran(store, sheet_id, shop.thresholds(), unit)


def gauge_of(gauge: GaugeIn) -> Gauge:
    """A gauge as typed."""
    return Gauge(**gauge.model_dump())


def _rule(rule: RuleIn) -> RulePart:
    """The rule as a part of the file: numbers are read, then the part's rules apply."""
    numbers = ("tolerance_percent", "limit", "reject", "score", "alpha")
    made = {
        k: parse_typed(v, f"rule.{k}") if k in numbers else v
        for k, v in rule.model_dump().items()
        if v is not None
    }
    try:
        return RulePart.model_validate(made)
    except ValidationError as error:
        raise PlumbError(problems_of(error, "rule")) from error


def _change(change: SheetChangeIn) -> service.SheetChange:
    return service.SheetChange(
        gauge=gauge_of(change.gauge) if change.gauge else None,
        rule=_rule(change.rule) if change.rule else None,
        put=change.put,
    )
