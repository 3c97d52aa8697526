"""Who wants to know of something is called when it happens."""

from __future__ import annotations

import sys
import types
import weakref
from collections.abc import Callable
from functools import partial
from typing import Any

__all__ = ["Signal", "ask_who_is_left"]

_left: Callable[[object], bool] = lambda _owner: True  # noqa: E731


def ask_who_is_left(left: Callable[[object], bool]) -> None:
    """Have it asked whether the owner of a method is still there: a toolkit may delete what Python still holds."""
    global _left
    _left = left


class _Weak:
    """A bound method whose owner may go; methods of a toolkit's own, which `weakref.WeakMethod` can't hold, among them."""

    def __init__(self, slot: Any) -> None:
        self._owner = weakref.ref(slot.__self__)
        self._name = slot.__name__
        self._function = slot.__func__ if isinstance(slot, types.MethodType) else None

    def __call__(self) -> Callable[..., object] | None:
        owner = self._owner()
        if owner is None or not _left(owner):
            return None
        return self._function.__get__(owner) if self._function is not None else getattr(owner, self._name)  # type: ignore[no-any-return]


class _Strong:
    """A function, kept as long as the signal; of a partial the owner of its method must still be there."""

    def __init__(self, slot: Callable[..., object]) -> None:
        self._slot = slot
        self._owner = getattr(slot.func, "__self__", None) if isinstance(slot, partial) else None

    def __call__(self) -> Callable[..., object] | None:
        return self._slot if self._owner is None or _left(self._owner) else None


class Signal:
    """Call what has been connected, in that order.

    Bound methods are held weakly, so that a closed view is forgotten. One that fails keeps no other from being told: its error goes where all
    go that nobody expected.
    """

    __slots__ = ("_slots",)

    def __init__(self) -> None:
        self._slots: list[_Weak | _Strong] = []

    def connect(self, slot: Callable[..., object]) -> None:
        """Have a function or bound method called with what is emitted."""
        try:
            self._slots.append(_Weak(slot) if hasattr(slot, "__self__") else _Strong(slot))
        except TypeError:  # a list's own method, say: nothing holds its owner weakly
            self._slots.append(_Strong(slot))

    def emit(self, *args: object) -> None:
        """Call all that are still there."""
        gone = False
        for held in tuple(self._slots):
            slot = held()
            if slot is None:
                gone = True
                continue
            try:
                slot(*args)
            except Exception as error:
                sys.excepthook(type(error), error, error.__traceback__)
        if gone:
            self._slots = [held for held in self._slots if held() is not None]
