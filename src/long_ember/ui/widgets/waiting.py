"""Work that may take longer than a blink: in a thread, with progress, and a way out."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QProgressDialog, QWidget

from long_ember.errors import EmberError, fault_words
from long_ember.ui.desk.worker import Worker
from long_ember.ui.widgets.dialogs import explain

__all__ = ["wait_for"]

_PATIENCE = 300  # ms before the progress shows


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
    work = Worker(parent, lambda worker: run(worker.step))
    progress = QProgressDialog(f"{title}…", "Leave it", 0, 0, parent)
    progress.setWindowTitle("Long Ember")
    progress.setWindowModality(Qt.WindowModality.WindowModal)
    progress.setMinimumDuration(_PATIENCE)
    progress.setAutoClose(False)
    progress.setAutoReset(False)

    def ended(found: Any, error: Exception | None) -> None:
        work.join()
        progress.canceled.disconnect(work.leave)
        progress.close()
        progress.deleteLater()
        work.deleteLater()
        if work.left:
            return
        if error is None:
            done(found)
        else:
            words = str(error) if isinstance(error, EmberError) else f"Something went wrong inside Long Ember: {fault_words(error)}."
            explain(parent, failed, words)

    def stepped(at: int, of: int) -> None:
        progress.setMaximum(of)
        progress.setValue(at)

    progress.canceled.connect(work.leave)
    work.stepped.connect(stepped)
    work.ended.connect(ended)
    work.start()
    QTimer.singleShot(_PATIENCE, progress, lambda: None if work.left else progress.setValue(progress.value() + 1))
