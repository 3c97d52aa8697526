"""Work that is done a portion at a time: a generator that yields between them, and returns what came of it."""

from __future__ import annotations

from collections.abc import Generator
from typing import TypeVar

__all__ = ["all_portions"]

T = TypeVar("T")


def all_portions(work: Generator[object, None, T]) -> T:
    """All portions at once.

    >>> def three():
    ...     yield
    ...     return 3
    >>> all_portions(three())
    3
    """
    while True:
        try:
            next(work)
        except StopIteration as over:
            found: T = over.value
            return found
