"""The one way to work in a thread: it tells how far it is, can be left at any step, and always ends."""

from __future__ import annotations

import contextlib
import threading
from collections.abc import Callable
from typing import Any

from long_ember.desk.loop import Loop
from long_ember.errors import EmberError
from long_ember.signals import Signal

__all__ = ["Worker"]


class _Left(Exception):
    """The person thought better of it."""


class Worker:
    """One piece of work in a thread of its own.

    Args:
        loop: whose thread is told what came of it.
        run: the work; gets this worker, to tell how far it is (`step`) and what it has found so far (`tell`). What it returns is handed on.

    Attributes:
        stepped: emits how much of how much is done.
        found: emits something on the way.
        ended: emits what came of it and None, or None and the error; neither where it was left. Comes always, and once.
    """

    def __init__(self, loop: Loop, run: Callable[[Worker], Any]) -> None:
        self.stepped, self.found, self.ended = Signal(), Signal(), Signal()
        self._loop, self._run, self.left = loop, run, False
        self._thread = threading.Thread(target=self._go, daemon=True)

    def start(self) -> None:
        """Begin."""
        self._loop.working.add(self)
        self._thread.start()

    def leave(self) -> None:
        """Stop at the next step; nobody waits for what comes of it."""
        self.left = True

    def join(self, seconds: float | None = None) -> None:
        """Wait until the thread is gone."""
        self._thread.join(seconds)

    def _end(self, made: Any, error: Exception | None) -> None:
        self._loop.working.discard(self)
        self.ended.emit(made, error)

    # --- in the thread

    def _tell(self, run: Callable[..., Any], *what: Any) -> None:
        with contextlib.suppress(RuntimeError):  # the window is gone, and with it whoever waited
            self._loop.post(run, *what)

    def step(self, done: int = 0, of: int = 0) -> None:
        """Tell how far it is; does not come back once the work was left."""
        if self.left:
            raise _Left
        if of:
            self._tell(self.stepped.emit, done, of)

    def tell(self, what: Any) -> None:
        """Hand on something found on the way."""
        self.step()
        self._tell(self.found.emit, what)

    def _go(self) -> None:
        made: Any = None
        error: Exception | None = None
        unexpected: Exception | None = None
        try:
            made = self._run(self)
        except _Left:
            pass
        except EmberError as told:
            error = told
        except Exception as fault:
            error = unexpected = fault
        self._tell(self._end, made, error)
        if unexpected is not None:
            raise unexpected  # to where all go that nobody expected
