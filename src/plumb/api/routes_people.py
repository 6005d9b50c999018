"""People: coming in and going, tablets, who belongs to the shop, what was changed by whom."""

from datetime import datetime
from typing import Annotated, Final

import segno
from fastapi import Query, Request, Response
from fastapi.responses import StreamingResponse
from starlette.requests import HTTPConnection

from plumb.api.deps import Shop, Store
from plumb.api.door import host_of
from plumb.api.guard import PERSON_COOKIE, TABLET_COOKIE, cookie_of
from plumb.api.intake import routes_of
from plumb.api.papers import THIS_MACHINE, Papers
from plumb.api.schemas_people import (
    ClaimIn,
    FirstIn,
    OwnIn,
    PersonChangeIn,
    PersonIn,
    SignInIn,
)
from plumb.core.measure.problems import Conflict, Problem
from plumb.service.people import coming_in, journal, staff, tablets
from plumb.service.people.coming_in import FirstTime, Known, Place
from plumb.service.people.refusals import not_in
from plumb.service.stored.parts import utc_text
from plumb.service.views.people import (
    CheckedView,
    CodeView,
    DeviceView,
    HereView,
    JournalView,
    SignInView,
    StaffView,
)

router = routes_of("people")
TABLET_STAYS_S: Final = 400 * 86_400
"""As long as browsers keep any cookie (RFC 6265bis); it is written anew at every sign-in."""


def known_of(request: HTTPConnection) -> Known:
    """Who asks, as the guard found out; nobody where no guard stands."""
    who = request.scope.get("state", {}).get("known")
    return who if isinstance(who, Known) else Known()


def _place(request: Request) -> Place:
    return Place(
        device_token=cookie_of(request.headers, TABLET_COOKIE),
        address=request.client.host if request.client else "",
        looks_like=_looks_like(request.headers.get("user-agent", "")),
    )


_BROWSERS: Final = ("Firefox", "Edg", "OPR", "Chrome", "Safari")
_SYSTEMS: Final = ("Android", "iPad", "iPhone", "Windows", "Macintosh", "Linux")


def _looks_like(agent: str) -> str:
    """A browser and its system as one tells them apart, not as they tell themselves.

    >>> _looks_like("Mozilla/5.0 (Linux; Android 14) AppleWebKit/537.36 Chrome/150 Safari/537.36")
    'Chrome on Android'
    """
    found = [next((n for n in names if n in agent), "") for names in (_BROWSERS, _SYSTEMS)]
    return " on ".join(n for n in found if n)


def _reachable(request: Request) -> str:
    """The address that a tablet finds this server at: the one that was asked, unless it is this machine's own."""
    asked = request.headers["host"]
    papers: Papers | None = request.app.state.papers
    if host_of(asked) not in THIS_MACHINE or papers is None:
        return asked
    return (papers.reach() or host_of(asked)) + asked[len(host_of(asked)) :]


def _only_on_network(shop: Shop) -> None:
    if not shop.network:
        rule = "this Plumb stays on its own machine and asks nobody to sign in"
        raise Conflict(Problem(path="", rule=rule, code="no_network"))


def _cookie(response: Response, name: str, value: str, age: int | None = None) -> None:
    response.set_cookie(
        name, value, max_age=age, path="/", secure=True, httponly=True, samesite="strict"
    )


def _came_in(request: Request, response: Response, token: str) -> None:
    """The cookies of somebody who came in; a tablet's own stays as long again."""
    _cookie(response, PERSON_COOKIE, token)
    tablet = cookie_of(request.headers, TABLET_COOKIE)
    if tablet:
        _cookie(response, TABLET_COOKIE, tablet, TABLET_STAYS_S)


@router.get("/here")
def show_here(request: Request, store: Store, shop: Shop) -> HereView:
    """Who is at this screen, and who could be."""
    if not shop.network:
        return staff.open_to_all()
    return staff.here(store, known_of(request), shop.stay())


@router.post("/sign-in")
def sign_in(
    wanted: SignInIn, request: Request, response: Response, store: Store, shop: Shop
) -> HereView:
    """Come in by password, or by PIN at a paired tablet."""
    _only_on_network(shop)
    place = _place(request)
    if wanted.person_id:
        token = coming_in.by_pin(store, wanted.person_id, wanted.pin, place)
    else:
        token = coming_in.by_password(store, wanted.name, wanted.password, place)
    _came_in(request, response, token)
    who = coming_in.known(store, token, place.device_token, shop.stay())
    return staff.here(store, who, shop.stay())


@router.post("/sign-in/first")
def sign_in_first(
    wanted: FirstIn, request: Request, response: Response, store: Store, shop: Shop
) -> HereView:
    """Come in with a code, and choose password or PIN."""
    _only_on_network(shop)
    place = _place(request)
    first = FirstTime(name=wanted.name, code=wanted.code, password=wanted.password, pin=wanted.pin)
    token = coming_in.first_time(store, first, place)
    _came_in(request, response, token)
    who = coming_in.known(store, token, place.device_token, shop.stay())
    return staff.here(store, who, shop.stay())


@router.post("/sign-out", status_code=204)
def sign_out(request: Request, response: Response, store: Store) -> None:
    """Go; the word that came in is worth nothing any more."""
    token = cookie_of(request.headers, PERSON_COOKIE)
    if token:
        coming_in.go(store, token)
    response.delete_cookie(PERSON_COOKIE, path="/", secure=True, httponly=True, samesite="strict")


@router.put("/me", status_code=204)
def change_own(wanted: OwnIn, request: Request, store: Store, shop: Shop) -> None:
    """Choose a new password or PIN; every other sign-in of one's own ends."""
    _only_on_network(shop)
    who = known_of(request)
    if who.person is None:
        rule = "sign in first"
        raise not_in(rule)
    coming_in.change_own(
        store, who.person, wanted.current, password=wanted.password, pin=wanted.pin,
        place=_place(request), keep=who.sign_in,
    )  # fmt: skip


@router.get("/sign-ins")
def list_sign_ins(request: Request, store: Store, shop: Shop) -> list[SignInView]:
    """Where one is signed in; for an owner, where everybody is."""
    return staff.sign_ins(store, known_of(request), shop.stay())


@router.delete("/sign-ins/{sign_in_id}", status_code=204)
def end_sign_in(sign_in_id: int, request: Request, store: Store) -> None:
    """End one of them."""
    staff.end_sign_in(store, sign_in_id, known_of(request))


def _code_view(code: str, until: datetime, **more: str | StaffView) -> CodeView:
    return CodeView(code=code, until=utc_text(until), **more)  # type: ignore[arg-type]


@router.post("/pairing", status_code=201)
def pair(request: Request, store: Store, shop: Shop) -> CodeView:
    """A code for one tablet, as words and as a picture to be scanned."""
    _only_on_network(shop)
    code, until = tablets.pairing_code(store)
    # Behind the sign of the fragment: no server on the way, and no log, ever sees it.
    address = f"https://{_reachable(request)}/pair#{code}"
    picture = segno.make(address, error="m", micro=False).svg_data_uri(scale=6, border=4)
    return _code_view(code, until, address=address, picture=picture)


@router.post("/pairing/claim")
def claim(
    wanted: ClaimIn, request: Request, response: Response, store: Store, shop: Shop
) -> HereView:
    """Pair this tablet."""
    _only_on_network(shop)
    token = tablets.claim(store, wanted.code, wanted.name, _place(request))
    _cookie(response, TABLET_COOKIE, token, TABLET_STAYS_S)
    return staff.here(store, coming_in.known(store, "", token, shop.stay()), shop.stay())


@router.get("/devices")
def list_devices(store: Store) -> list[DeviceView]:
    """Every tablet that was ever paired."""
    return tablets.devices(store)


@router.delete("/devices/{device_id}", status_code=204)
def end_device(device_id: int, store: Store) -> None:
    """A tablet is lost or gone."""
    tablets.end(store, device_id)


@router.get("/people")
def list_people(store: Store) -> list[StaffView]:
    """Everybody who belongs, or belonged, to the shop."""
    return staff.people(store)


@router.post("/people", status_code=201)
def add_person(wanted: PersonIn, store: Store) -> CodeView:
    """Somebody new, and the code for the first time."""
    person, code, until = staff.add(store, wanted.name, wanted.role)
    return _code_view(code, until, person=person)


@router.patch("/people/{person_id}")
def change_person(person_id: int, wanted: PersonChangeIn, store: Store) -> StaffView:
    """Another name or role; leaving, and coming back."""
    change = staff.PersonChange(name=wanted.name, role=wanted.role, active=wanted.active)
    return staff.change(store, person_id, change)


@router.post("/people/{person_id}/code", status_code=201)
def new_code(person_id: int, store: Store) -> CodeView:
    """A new code for somebody who forgot theirs."""
    person, code, until = staff.new_code(store, person_id)
    return _code_view(code, until, person=person)


@router.get("/journal")
def show_journal(
    store: Store,
    job: Annotated[str, Query(max_length=40)] = "",
    by: Annotated[str | None, Query(max_length=40)] = None,
    what: Annotated[str, Query(max_length=24)] = "",
    find: Annotated[str, Query(max_length=80)] = "",
    before: Annotated[int | None, Query(ge=1)] = None,
) -> JournalView:
    """What was changed by whom, the newest first."""
    wanted = journal.Wanted(job=job, by=by, what=what, find=find, before=before)
    return journal.changes(store, wanted)


@router.get("/journal/check")
def check_journal(store: Store) -> CheckedView:
    """Whether every entry is what it was, and none is missing."""
    return journal.looked_over(store)


@router.get("/journal/entries", response_class=StreamingResponse)
def export_journal(store: Store) -> StreamingResponse:
    """All entries with their seals, as JSON lines; `./plumb journal` looks them over again."""
    name = {"Content-Disposition": 'attachment; filename="plumb-journal.jsonl"'}
    return StreamingResponse(journal.lines(store), media_type="application/x-ndjson", headers=name)
