"""Find anything: one line, and under it what it finds; Down and Enter go there."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QDialog, QLabel, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from long_ember.desk.finding import Findable, guide_sections, matching
from long_ember.features import KINDS
from long_ember.records import Job
from long_ember.ui.style.fonts import font

if TYPE_CHECKING:
    from long_ember.ui.window import MainWindow

__all__ = ["FindDialog", "ask_find", "findable"]

_EMPTY = "Shapes, pieces, jobs, tables, the guide, and everything that can be done: type a word of it."


class FindDialog(QDialog):
    """What is found is gone to when the window is free again."""

    def __init__(self, things: Callable[[], Sequence[Findable]], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._things: Sequence[Findable] = things()
        self.found: list[Findable] = []
        self.chosen: Findable | None = None
        self.setWindowTitle("Find")
        self.resize(760, 520)
        self.line = QLineEdit()
        self.line.setFont(font(22))
        self.line.setMinimumHeight(48)
        self.line.setPlaceholderText("Find anything")
        self.line.setAccessibleName("Find anything")
        self.line.installEventFilter(self)
        self.line.textChanged.connect(self._look)
        self.line.returnPressed.connect(self._go)
        self.list = QListWidget()
        self.list.setFont(font(18))
        self.list.setProperty("place", "choose")
        self.list.setAccessibleName("What is found")
        self.list.itemActivated.connect(lambda _item: self._go())
        self.list.itemClicked.connect(lambda _item: self._go())
        self.told = QLabel(_EMPTY)
        self.told.setFont(font(16))
        self.told.setWordWrap(True)
        self.told.setProperty("role", "muted")
        column = QVBoxLayout(self)
        for part in (self.line, self.told):
            column.addWidget(part)
        column.addWidget(self.list, 1)

    def _look(self, text: str) -> None:
        self.found = matching(text, self._things)
        self.list.clear()
        for thing in self.found:
            tip = f"   {thing.tip}" if thing.tip else ""
            self.list.addItem(QListWidgetItem(f"{thing.title}   ·   {thing.kind}{tip}"))
        self.list.setCurrentRow(0)
        self.told.setText("" if self.found else f"Nothing is called “{text.strip()}”. Try another word for it." if text.strip() else _EMPTY)
        self.told.setVisible(bool(self.told.text()))

    def _go(self) -> None:
        row = self.list.currentRow()
        if 0 <= row < len(self.found):
            self.chosen = self.found[row]
            self.accept()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Up and Down move in the list while words are typed."""
        if event.type() == QEvent.Type.KeyPress and isinstance(event, QKeyEvent):
            by = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1, Qt.Key.Key_PageDown: 8, Qt.Key.Key_PageUp: -8}.get(Qt.Key(event.key()))
            if by and self.found:
                self.list.setCurrentRow(min(max(self.list.currentRow() + by, 0), len(self.found) - 1))
                return True
        return super().eventFilter(watched, event)


def ask_find(window: MainWindow) -> None:
    """Find anything, and go there."""
    dialog = FindDialog(partial(findable, window), window)
    dialog.exec()
    dialog.deleteLater()
    if dialog.chosen is not None:
        dialog.chosen.go()


def findable(window: MainWindow) -> list[Findable]:
    """Everything that can be found by a word: what the smith made first."""
    from long_ember.tables import WALL_TABLES
    from long_ember.ui.widgets.help import guide_text

    library, run = window.library, window.run
    found = [Findable("piece", e.name, f"{e.words} {' '.join(e.tags)}", partial(window.work.open_piece, e.id)) for e in library.entries]
    found += [Findable("job", job.name, job.note, partial(window.show_cuts, i)) for i, job in library.records(Job).items()]
    found += [Findable("table", t.title, t.words, partial(window.show_tables, t.key)) for t in WALL_TABLES]
    for command in window.commands:
        if command.enabled():
            cls = KINDS.get(command.id.partition(".")[2]) if command.id.startswith("add.") else None
            words = " ".join((command.tip, *(cls.also if cls is not None else ())))
            found.append(Findable("shape" if cls is not None else "do", command.words, words, partial(run, command.id), command.keys))
    found += [Findable("guide", heading, text, partial(window.show_help, heading)) for heading, text in guide_sections(guide_text())]
    return found
