"""What the desk asks of whoever turns the crank: a clock, and a way back from other threads."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Protocol

__all__ = ["InThread", "Loop", "Timer"]


class Timer(Protocol):
    """Calls a function after a while, or again and again."""

    def start(self) -> None:
        """Begin to wait, anew where it waits already."""

    def stop(self) -> None:
        """No longer."""


class InThread(Protocol):
    """Something that goes on in another thread."""

    def leave(self) -> None:
        """Stop at the next step."""

    def join(self, seconds: float | None = None) -> None:
        """Wait until it is gone."""


class Loop(Protocol):
    """The thread that the desk lives in.

    Attributes:
        working: work in other threads that has not come to its end.
    """

    working: set[InThread]

    def timer(self, run: Callable[[], Any], milliseconds: int, *, once: bool = False) -> Timer:
        """A timer that is not running yet; it goes when nobody holds it any more."""

    def post(self, run: Callable[..., Any], *arguments: Any) -> None:
        """From any thread: have something run in this one."""
