"""Work that may take longer than a blink: in a thread, with progress, and a way out."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QProgressDialog, QWidget

from long_ember.desk.loop import Loop
from long_ember.desk.worker import Worker
from long_ember.errors import EmberError, fault_words
from long_ember.ui.widgets.dialogs import explain

__all__ = ["wait_for"]

_PATIENCE = 300  # ms before the progress shows


def wait_for(
    loop: Loop, parent: QWidget, title: str, failed: str, run: Callable[[Callable[[int, int], None]], Any], done: Callable[[Any], None]
) -> None:
    """Run something in a thread and hand what it gives to `done`; a failure is explained, and can be left.

    Args:
        loop: see `Worker`.
        parent: of the progress.
        title: what is going on.
        failed: the heading when it fails.
        run: the work; gets a function to call with how far it is.
        done: called in the window's thread.
    """
    waiting = _Waiting(parent, title, failed, Worker(loop, lambda worker: run(worker.step)), done)
    QTimer.singleShot(_PATIENCE, waiting, waiting.show_soon)


class _Waiting(QProgressDialog):
    """How far it is, with a way out; gone with its window, it is told nothing more."""

    def __init__(self, parent: QWidget, title: str, failed: str, work: Worker, done: Callable[[Any], None]) -> None:
        super().__init__(f"{title}…", "Leave it", 0, 0, parent)
        self._window, self._failed, self._work, self._done = parent, failed, work, done
        self.setWindowTitle("Long Ember")
        self.setWindowModality(Qt.WindowModality.WindowModal)
        self.setMinimumDuration(_PATIENCE)
        self.setAutoClose(False)
        self.setAutoReset(False)
        self.canceled.connect(work.leave)
        work.stepped.connect(self.stepped)
        work.ended.connect(self.ended)
        work.start()

    def show_soon(self) -> None:
        """It takes longer than a blink."""
        if not self._work.left:
            self.setValue(self.value() + 1)

    def stepped(self, at: int, of: int) -> None:
        """So much of so much is done."""
        self.setMaximum(of)
        self.setValue(at)

    def ended(self, found: Any, error: Exception | None) -> None:
        """It came to its end, was left, or failed."""
        self._work.join()
        self.canceled.disconnect(self._work.leave)
        self.close()
        self.deleteLater()
        if self._work.left:
            return
        if error is None:
            self._done(found)
        else:
            words = str(error) if isinstance(error, EmberError) else f"Something went wrong inside Long Ember: {fault_words(error)}."
            explain(self._window, self._failed, words)
