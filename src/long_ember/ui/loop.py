"""Qt turns the crank of the desk."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any

import shiboken6
from PySide6.QtCore import QObject, QTimer, Signal

from long_ember.desk.loop import InThread
from long_ember.signals import ask_who_is_left

__all__ = ["QtLoop"]


def _left(owner: object) -> bool:
    """Qt deletes what Python may still hold."""
    return not isinstance(owner, QObject) or bool(shiboken6.isValid(owner))


class QtLoop(QObject):
    """Timers and ways back from threads, see `desk.loop.Loop`."""

    _posted = Signal(object)

    def __init__(self) -> None:
        super().__init__()
        ask_who_is_left(_left)
        self.working: set[InThread] = set()
        self._posted.connect(self._run)

    def timer(self, run: Callable[[], Any], milliseconds: int, *, once: bool = False) -> QTimer:
        """A timer that is not running yet."""
        made = QTimer(interval=milliseconds, singleShot=once)
        made.timeout.connect(run)
        return made

    def post(self, run: Callable[..., Any], *arguments: Any) -> None:
        """From any thread: have something run in this one."""
        self._posted.emit(partial(run, *arguments))

    def _run(self, call: Callable[[], Any]) -> None:
        call()
