"""Who is at it: carried beside a request, told to the database, written into what is noted."""

import functools
from collections.abc import Callable
from contextvars import ContextVar
from dataclasses import dataclass
from typing import Final, ParamSpec, TypeVar

_Given = ParamSpec("_Given")
_Made = TypeVar("_Made")


@dataclass(frozen=True, slots=True)
class Actor:
    """A person at a device; without a name it is this workshop, which may everything."""

    person_id: int | None = None
    name: str = ""
    device: str = ""
    role: str = "owner"


WORKSHOP: Final = Actor()
acting: ContextVar[Actor] = ContextVar("acting", default=WORKSHOP)
"""Set where a request comes in; a thread that goes on after it is begun with :func:`as_now`."""


def signed(by: str) -> str:
    """Who stands behind what is noted: the person who signed in, else the name that was typed."""
    return acting.get().name or by


def as_now(work: Callable[_Given, _Made]) -> Callable[_Given, _Made]:
    """The same work, for another thread, done by whoever is at it now."""
    who = acting.get()

    @functools.wraps(work)
    def done(*args: _Given.args, **kwargs: _Given.kwargs) -> _Made:
        acting.set(who)
        return work(*args, **kwargs)

    return done
