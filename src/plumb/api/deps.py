"""What every route is given: the engine and the settings of this application."""

from collections.abc import Callable
from typing import Annotated, cast

from fastapi import Depends, Query, Request
from sqlalchemy import Engine

from plumb.api.intake import Turns
from plumb.api.settings import Settings
from plumb.core.measure.problems import Conflict, NotThere, Problem
from plumb.jobfile.models import UnitName
from plumb.service.live.captures import Captures
from plumb.service.live.worth import Worths
from plumb.service.practice.world import World


def _engine(request: Request) -> Engine:
    request.app.state.ready()
    return cast("Engine", request.app.state.engine)


def _settings(request: Request) -> Settings:
    return cast("Settings", request.app.state.settings)


def _captures(request: Request) -> Captures:
    request.app.state.ready()
    return cast("Captures", request.app.state.captures)


def _worths(request: Request) -> Worths:
    return cast("Worths", request.app.state.worths)


def _world(request: Request) -> World:
    world = request.app.state.world
    if world is None:
        rule = "this Plumb was started without practice"
        raise NotThere(Problem(path="practice", rule=rule, code="no_practice"))
    return cast("World", world)


def _turns(request: Request) -> Turns:
    return cast("Turns", request.app.state.turns)


Told = Callable[[str], bool]
"""Whether what the job of a number says may be told; of the empty number: what any job says."""


def told_to_all(_number: str) -> bool:
    """In the shop nothing is kept from anybody."""
    return True


def _told(request: Request) -> Told:
    return cast("Told", request.app.state.told)


def _handed_in(request: Request) -> None:
    request.app.state.ready()
    number = request.path_params.get("number", "")
    if not _told(request)(number):
        rule = "what an exercise comes to is told when its verdict was handed in"
        raise Conflict(Problem(path="run", rule=rule, value=number, code="not_handed_in"))


HANDED_IN = Depends(_handed_in)
"""For routes that tell, or work on, what a job comes to."""

Store = Annotated[Engine, Depends(_engine)]
Shop = Annotated[Settings, Depends(_settings)]
Capturing = Annotated[Captures, Depends(_captures)]
Simulated = Annotated[Worths, Depends(_worths)]
Practising = Annotated[World, Depends(_world)]
Tells = Annotated[Told, Depends(_told)]
InTurn = Annotated[Turns, Depends(_turns)]
ShownUnit = Annotated[UnitName | None, Query(description="unit to show pressures in")]
