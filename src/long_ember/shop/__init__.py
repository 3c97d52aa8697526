"""The shop."""

from long_ember.shop.settings import DENOMINATORS, Settings

__all__ = ["DENOMINATORS", "Settings"]
