"""The shop as its papers name it: name, address, currency."""

from sqlalchemy import Engine

from plumb.jobfile.pictures import picture_of
from plumb.service.views.finishing import ShopView
from plumb.store import finishing as store
from plumb.store.session import retried, transaction


@retried
def show_shop(engine: Engine) -> ShopView:
    """The shop as its papers name it; all empty where nobody has said."""
    with transaction(engine) as connection:
        shop = store.shop(connection)
    return ShopView(
        name=shop.name, address=shop.address, currency=shop.currency, logo=shop.logo is not None
    )


@retried
def change_shop(engine: Engine, name: str, address: str, currency: str) -> ShopView:
    """Say what the shop's papers name it."""
    values = {"name": name.strip(), "address": address.strip(), "currency": currency}
    with transaction(engine) as connection:
        store.put_shop(connection, values)
    return show_shop(engine)


@retried
def put_logo(engine: Engine, raw: bytes) -> ShopView:
    """The shop's mark on its papers, as any picture; nothing takes it away.

    :class:`PlumbError` for what is no picture.
    """
    logo = picture_of(raw).data if raw else None
    with transaction(engine) as connection:
        shop = store.shop(connection)
        store.put_shop(
            connection,
            {"name": shop.name, "address": shop.address, "currency": shop.currency, "logo": logo},
        )
    return show_shop(engine)
