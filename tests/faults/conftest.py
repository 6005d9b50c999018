"""Shops of one's own, as the command line's tests have them."""

from tests.cli.test_again import empty_shop, opens

__all__ = ["empty_shop", "opens"]
