"""A job from its verdict on: ways, repairs, what goes with them, answers, closing; the shop's name."""

from datetime import UTC, datetime
from typing import Annotated

from fastapi import Path

from plumb.api.deps import HANDED_IN, Shop, Store
from plumb.api.intake import routes_of
from plumb.api.schemas import MadeId
from plumb.api.schemas_finishing import (
    AnswerIn,
    ChoiceIn,
    ClosingIn,
    RepairIn,
    ShopIn,
    SightingIn,
    ThingIn,
)
from plumb.jobfile.finishing import Word
from plumb.service.uses import finishing as service
from plumb.service.uses import shop as shop_service
from plumb.service.views.finishing import LookAgainView, ShopView
from plumb.service.views.job import JobView

router = routes_of("finishing")

Id = Annotated[MadeId, Path(description="made by the browser: sending it twice is harmless")]


@router.put("/jobs/{number}/choices/{choice_id}", dependencies=[HANDED_IN])
def choose(number: str, choice_id: Id, wanted: ChoiceIn, store: Store, shop: Shop) -> JobView:
    """Choose a way to put it right; all choices stay in the record."""
    return service.choose(store, number, choice_id, wanted.model_dump(), shop.thresholds())


@router.put("/jobs/{number}/repairs/{repair_id}", dependencies=[HANDED_IN])
def repair(number: str, repair_id: Id, wanted: RepairIn, store: Store, shop: Shop) -> JobView:
    """Note what was done to an injector, or on the engine."""
    values = wanted.model_dump(exclude={"swapped_with"}, exclude_none=True)
    if wanted.swapped_with is not None:
        values["with"] = wanted.swapped_with
    return service.repair(store, number, repair_id, values, shop.thresholds())


@router.delete("/jobs/{number}/repairs/{repair_id}", dependencies=[HANDED_IN])
def take_back(number: str, repair_id: Id, store: Store, shop: Shop) -> JobView:
    """Take a repair back that was noted by mistake."""
    return service.take_back(store, number, repair_id, shop.thresholds())


@router.put("/jobs/{number}/sightings/{sighting_id}", dependencies=[HANDED_IN])
def find(number: str, sighting_id: Id, wanted: SightingIn, store: Store, shop: Shop) -> JobView:
    """Note a cause that a person found by eye, hand or ear."""
    values = wanted.model_dump(exclude_none=True)
    return service.find(store, number, sighting_id, values, shop.thresholds())


@router.delete("/jobs/{number}/sightings/{sighting_id}", dependencies=[HANDED_IN])
def take_sighting_back(number: str, sighting_id: Id, store: Store, shop: Shop) -> JobView:
    """Take back what was noted as found by mistake."""
    return service.take_sighting_back(store, number, sighting_id, shop.thresholds())


@router.put("/jobs/{number}/things", dependencies=[HANDED_IN])
def tick(number: str, wanted: ThingIn, store: Store, shop: Shop) -> JobView:
    """Tick something that goes with the repair, set it aside with a reason, or take that back."""
    values = {
        "what": wanted.what, "done": wanted.state != "aside", "reason": wanted.reason,
        "by": wanted.by,
    }  # fmt: skip
    return service.tick(store, number, values, shop.thresholds(), clear=not wanted.state)


@router.put("/jobs/{number}/answers/{word}", dependencies=[HANDED_IN])
def answer(number: str, word: Word, wanted: AnswerIn, store: Store, shop: Shop) -> JobView:
    """Note what became of a word of the complaint."""
    return service.answer(store, number, word, wanted.answer, wanted.by, shop.thresholds())


@router.post("/jobs/{number}/closing", dependencies=[HANDED_IN])
def close(number: str, wanted: ClosingIn, store: Store, shop: Shop) -> JobView:
    """Close a job and sign it; 422 without a reason where something is left open."""
    signature = service.Signature(by=wanted.by, reason=wanted.reason, hand=wanted.hand)
    return service.close(store, number, signature, shop.thresholds())


@router.get("/look-again")
def look_again(store: Store) -> list[LookAgainView]:
    """Vehicles whose fault was left, and whose day to be looked at again has come."""
    return service.look_again(store, datetime.now(UTC).date())


@router.get("/shop")
def show_shop(store: Store) -> ShopView:
    """The shop as its papers name it."""
    return shop_service.show_shop(store)


@router.put("/shop")
def change_shop(wanted: ShopIn, store: Store) -> ShopView:
    """Say what the shop's papers name it."""
    return shop_service.change_shop(store, wanted.name, wanted.address, wanted.currency)
