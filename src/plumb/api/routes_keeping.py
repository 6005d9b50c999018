"""Safe keeping, for whoever looks after the shop."""

from typing import TYPE_CHECKING, cast

from fastapi import Request

from plumb.api.deps import Shop
from plumb.api.intake import routes_of
from plumb.service.uses import keeping
from plumb.service.views.keeping import KeepingView

if TYPE_CHECKING:
    from plumb.keeping.clock import Clock

router = routes_of("keeping")


@router.get("/keeping")
def safe_keeping(request: Request, shop: Shop) -> KeepingView:
    """The last backup, the room on the disk, and what somebody should look after."""
    clock = cast("Clock | None", request.app.state.clock)
    return keeping.safe_keeping(clock.safe() if clock else None, shop.data_dir)
