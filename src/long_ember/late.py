"""Names of a package whose modules are loaded when one of them is first asked for: the start of the program does not wait for them."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from importlib import import_module
from typing import Any

__all__ = ["late"]


def late(package: str, modules: Mapping[str, tuple[str, ...]]) -> Callable[[str], Any]:
    """A `__getattr__` for a package.

    Args:
        package: its name.
        modules: names by the module that holds them.

    >>> late("long_ember", {"late": ("late",)})("late") is late
    True
    """
    homes = {name: module for module, names in modules.items() for name in names}

    def find(name: str) -> Any:
        if name not in homes:
            raise AttributeError(f"{package} has no {name}")
        return getattr(import_module(f"{package}.{homes[name]}"), name)

    return find
