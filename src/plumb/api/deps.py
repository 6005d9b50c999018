"""What every route is given: the engine and the settings of this application."""

from typing import Annotated, cast

from fastapi import Depends, Query, Request
from sqlalchemy import Engine

from plumb.api.intake import Turns
from plumb.api.settings import Settings
from plumb.jobfile.models import UnitName


def _engine(request: Request) -> Engine:
    return cast("Engine", request.app.state.engine)


def _settings(request: Request) -> Settings:
    return cast("Settings", request.app.state.settings)


def _turns(request: Request) -> Turns:
    return cast("Turns", request.app.state.turns)


Store = Annotated[Engine, Depends(_engine)]
Shop = Annotated[Settings, Depends(_settings)]
InTurn = Annotated[Turns, Depends(_turns)]
ShownUnit = Annotated[UnitName | None, Query(description="unit to show pressures in")]
