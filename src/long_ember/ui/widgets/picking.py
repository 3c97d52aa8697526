"""One line, and under it what it finds; Down and Enter take it."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QEvent, QObject, Qt, QTimer
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QDialog, QLabel, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from long_ember.desk.finding import SHOWN, Findable, matching
from long_ember.ui.style.fonts import font

__all__ = ["PickDialog"]


class PickDialog(QDialog):
    """What is found is gone to when the window is free again.

    Args:
        title: what it is for.
        told: said while nothing is typed.
        things: that can be found.
        parent: above which it opens.
        listed: the first of them are shown before a word is typed.
    """

    def __init__(self, title: str, told: str, things: Sequence[Findable], parent: QWidget | None = None, *, listed: bool = True) -> None:
        super().__init__(parent)
        self._told, self._things, self._listed = told, things, listed
        self.found: list[Findable] = []
        self.setWindowTitle(title)
        self.resize(760, 520)
        self.line = QLineEdit()
        self.line.setFont(font(22))
        self.line.setMinimumHeight(48)
        self.line.setPlaceholderText(title)
        self.line.setAccessibleName(title)
        self.line.installEventFilter(self)
        self.line.textChanged.connect(self._look)
        self.line.returnPressed.connect(self._go)
        self.list = QListWidget()
        self.list.setFont(font(18))
        self.list.setProperty("place", "choose")
        self.list.setAccessibleName("What is found")
        self.list.itemActivated.connect(lambda _item: self._go())
        self.list.itemClicked.connect(lambda _item: self._go())
        self.told = QLabel()
        self.told.setFont(font(16))
        self.told.setWordWrap(True)
        self.told.setProperty("role", "muted")
        column = QVBoxLayout(self)
        for part in (self.line, self.told):
            column.addWidget(part)
        column.addWidget(self.list, 1)
        self.finished.connect(self.deleteLater)
        self._look("")

    def _look(self, text: str) -> None:
        typed = text.strip()
        self.found = matching(text, self._things) if typed or not self._listed else list(self._things[:SHOWN])
        self.list.clear()
        for thing in self.found:
            kind, tip = f"   ·   {thing.kind}" if thing.kind else "", f"   {thing.tip}" if thing.tip else ""
            self.list.addItem(QListWidgetItem(f"{thing.title}{kind}{tip}"))
        self.list.setCurrentRow(0)
        self.told.setText(self._told if not typed else "" if self.found else f"Nothing is called “{typed}”. Try another word for it.")
        self.told.setVisible(bool(self.told.text()))

    def _go(self) -> None:
        row = self.list.currentRow()
        if 0 <= row < len(self.found) and not self.result():  # where one click activates, it comes twice
            self.accept()
            QTimer.singleShot(0, self.found[row].go)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Up and Down move in the list while words are typed."""
        if event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent):
            by = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1, Qt.Key.Key_PageDown: 8, Qt.Key.Key_PageUp: -8}.get(Qt.Key(event.key()))
            if by and self.found:
                self.list.setCurrentRow(min(max(self.list.currentRow() + by, 0), len(self.found) - 1))
                return True
        return super().eventFilter(watched, event)
