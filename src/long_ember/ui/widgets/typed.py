"""Text that is handed over a moment after it is typed, not only when its line is left."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject, QTimer
from PySide6.QtWidgets import QLineEdit, QPlainTextEdit

__all__ = ["Typed"]

_SOON = 100  # ms between a key and its being handed over; not put off by the next key


class Typed(QObject):
    """Watches one entry.

    Args:
        entry: a line, or a page of text.
        take: is handed the text.
        left: called when the entry is left: the next letter begins another step.
    """

    def __init__(self, entry: QLineEdit | QPlainTextEdit, take: Callable[[str], object], left: Callable[[], object] = lambda: None) -> None:
        super().__init__(entry)
        self._entry, self._take, self._left = entry, take, left
        self.busy = self._showing = False
        self._timer = QTimer(self, singleShot=True, interval=_SOON)
        self._timer.timeout.connect(self._hand_over)
        if isinstance(entry, QLineEdit):
            entry.textEdited.connect(self._begin)
            entry.editingFinished.connect(self.finish)
        else:
            entry.textChanged.connect(self._begin)
            entry.installEventFilter(self)

    @property
    def text(self) -> str:
        """What stands there."""
        return self._entry.text() if isinstance(self._entry, QLineEdit) else self._entry.toPlainText()

    def show(self, text: str) -> None:
        """Show what is kept, unless somebody is typing there."""
        if self.busy or self.text == text:
            return
        self._showing = True
        if isinstance(self._entry, QLineEdit):
            self._entry.setText(text)
        else:
            self._entry.setPlainText(text)
        self._showing = False

    def finish(self) -> None:
        """Hand over what was typed, now."""
        if self.busy:
            self._timer.stop()
            self._hand_over()
            self.busy = False
            self._left()

    def _begin(self) -> None:
        if not self._showing:
            self.busy = True
            if not self._timer.isActive():
                self._timer.start()

    def _hand_over(self) -> None:
        self._take(self.text)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Leaving a page of text finishes it."""
        if event.type() == QEvent.Type.FocusOut:
            self.finish()
        return False
