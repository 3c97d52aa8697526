"""What is wrong with an entry, told beside it until it is mended, and spoken."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, QPoint, Qt
from PySide6.QtWidgets import QLabel, QLineEdit, QScrollArea, QWidget

from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import styled_as

__all__ = ["mark_fault"]

_WIDE, _LEAST, _GAP = 420, 180, 3


def mark_fault(entry: QLineEdit, words: str) -> None:
    """Say beside an entry what is wrong with it; with no words it is mended.

    Args:
        entry: that is marked.
        words: what is wrong and what would work; "" when nothing is.
    """
    fault = bool(words)
    styled_as(entry, "fault", fault)
    note = entry.findChild(_Follower)
    if note is None:
        if not fault:
            return
        note = _Follower(entry)
    note.say(words)


class _Follower(QObject):
    """Keeps the words below its entry, above everything that lies there, where they scroll with it."""

    def __init__(self, entry: QLineEdit) -> None:
        super().__init__(entry)
        self._entry, self._room = entry, _room_of(entry)
        self.label = QLabel(self._room)
        self.label.setFont(font(15, 500))
        self.label.setWordWrap(True)
        self.label.setProperty("role", "beside")
        self.label.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        entry.installEventFilter(self)
        entry.destroyed.connect(self.label.deleteLater)

    def say(self, words: str) -> None:
        """Show the words, or take them away."""
        if words == self.label.text() and self.label.isVisible():
            return
        self.label.setText(words)
        self._entry.setAccessibleDescription(words)
        if not words:
            self.label.hide()
            return
        self._place()
        from PySide6.QtGui import QAccessible, QAccessibleAnnouncementEvent  # with all its names: only when there is something to tell

        event = QAccessibleAnnouncementEvent(self._entry, words)
        QAccessible.updateAccessibility(event)

    def _place(self) -> None:
        entry, room = self._entry, self._room
        if not entry.isVisible() or not self.label.text():
            self.label.hide()
            return
        at = entry.mapTo(room, QPoint(0, 0))
        wide = min(max(entry.width(), _LEAST, min(self.label.fontMetrics().horizontalAdvance(self.label.text()) + 26, _WIDE)), room.width())
        self.label.ensurePolished()  # its frame counts
        tall = self.label.heightForWidth(wide) + 2
        below = at.y() + entry.height() + _GAP
        top = below if below + tall <= room.height() else max(at.y() - tall - _GAP, 0)
        self.label.setGeometry(min(at.x(), max(room.width() - wide, 0)), top, wide, tall)
        self.label.show()
        self.label.raise_()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Where the entry goes, its words go."""
        if event.type() in (QEvent.Type.Move, QEvent.Type.Resize, QEvent.Type.Show, QEvent.Type.Hide):
            self._place()
        return False


def _room_of(entry: QWidget) -> QWidget:
    """What is scrolled with it, or the window."""
    at: QWidget | None = entry
    while at is not None and not at.isWindow():
        up = at.parentWidget()
        area = up.parentWidget() if up is not None else None
        if isinstance(area, QScrollArea) and area.widget() is at:
            return at
        at = up
    return entry.window()
