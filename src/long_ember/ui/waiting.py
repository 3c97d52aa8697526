"""Work that may take longer than a blink: in a thread, with progress, and a way out."""

from __future__ import annotations

import threading
from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QObject, Qt, QTimer, Signal
from PySide6.QtWidgets import QProgressDialog, QWidget

from long_ember.errors import EmberError
from long_ember.ui.dialogs import explain

__all__ = ["wait_for"]

_PATIENCE = 300  # ms before the progress shows


class _Left(Exception):
    """The person thought better of it."""


class _Work(QObject):
    """One piece of work in its thread."""

    stepped = Signal(int, int)
    ended = Signal(object, object)

    def __init__(self, parent: QWidget, run: Callable[[Callable[[int, int], None]], Any]) -> None:
        super().__init__(parent)
        self._run, self.left = run, False
        self.runner = threading.Thread(target=self._go, daemon=True)

    def _go(self) -> None:
        try:
            self.ended.emit(self._run(self._step), None)
        except (EmberError, _Left) as error:
            self.ended.emit(None, error)

    def _step(self, done: int, of: int) -> None:
        if self.left:
            raise _Left
        self.stepped.emit(done, of)


def wait_for(
    parent: QWidget, title: str, failed: str, run: Callable[[Callable[[int, int], None]], Any], done: Callable[[Any], None]
) -> None:
    """Run something in a thread and hand what it gives to `done`; a failure is explained, and can be left.

    Args:
        parent: of the progress.
        title: what is going on.
        failed: the heading when it fails.
        run: the work; gets a function to call with how far it is.
        done: called in the window's thread.
    """
    work = _Work(parent, run)
    progress = QProgressDialog(f"{title}…", "Leave it", 0, 0, parent)
    progress.setWindowTitle("Long Ember")
    progress.setWindowModality(Qt.WindowModality.WindowModal)
    progress.setMinimumDuration(_PATIENCE)
    progress.setAutoClose(False)
    progress.setAutoReset(False)

    def leave() -> None:
        work.left = True

    def ended(found: Any, error: Exception | None) -> None:
        work.runner.join()
        progress.canceled.disconnect(leave)
        progress.close()
        progress.deleteLater()
        work.deleteLater()
        if isinstance(error, EmberError) and not work.left:
            explain(parent, failed, str(error))
        elif error is None and not work.left:
            done(found)

    def stepped(at: int, of: int) -> None:
        progress.setMaximum(of)
        progress.setValue(at)

    progress.canceled.connect(leave)
    work.stepped.connect(stepped)
    work.ended.connect(ended)
    work.runner.start()
    QTimer.singleShot(_PATIENCE, progress, lambda: None if work.left else progress.setValue(progress.value() + 1))
