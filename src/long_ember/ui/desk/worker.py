"""The one way to work in a thread: it tells how far it is, can be left at any step, and always ends."""

from __future__ import annotations

import contextlib
import threading
from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject, Signal

from long_ember.errors import EmberError

__all__ = ["Worker"]


class _Left(Exception):
    """The person thought better of it."""


class Worker(QObject):
    """One piece of work in a thread of its own.

    Args:
        parent: its window.
        run: the work; gets this worker, to tell how far it is (`step`) and what it has found so far (`tell`). What it returns is handed on.

    Signals:
        stepped: how much of how much is done.
        found: something on the way.
        ended: what came of it and None, or None and the error; neither where it was left. Comes always, and once.
    """

    stepped = Signal(int, int)
    found = Signal(object)
    ended = Signal(object, object)

    def __init__(self, parent: QObject, run: Callable[[Worker], Any]) -> None:
        super().__init__(parent)
        self._run, self.left = run, False
        self._thread = threading.Thread(target=self._go, daemon=True)

    def start(self) -> None:
        """Begin."""
        self._thread.start()

    def leave(self) -> None:
        """Stop at the next step; nobody waits for what comes of it."""
        self.left = True

    def join(self, seconds: float | None = None) -> None:
        """Wait until the thread is gone."""
        self._thread.join(seconds)

    # --- in the thread

    def step(self, done: int = 0, of: int = 0) -> None:
        """Tell how far it is; does not come back once the work was left."""
        if self.left:
            raise _Left
        if of:
            self.stepped.emit(done, of)

    def tell(self, what: Any) -> None:
        """Hand on something found on the way."""
        self.step()
        self.found.emit(what)

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
        with contextlib.suppress(RuntimeError):  # the window is gone, and with it whoever waited
            self.ended.emit(made, error)
        if unexpected is not None:
            raise unexpected  # to where all go that nobody expected
