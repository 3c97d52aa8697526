"""Every shape a smith forges, drawn by our own geometry and found by any of the names it goes by."""

from __future__ import annotations

from collections.abc import Iterable

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QPainter
from PySide6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QPushButton, QScrollArea, QVBoxLayout, QWidget

from long_ember.desk.session import Session
from long_ember.features import KINDS
from long_ember.ui.drawing.glyphs import paint_kind_solid
from long_ember.ui.drawing.picture_wall import Hung, PictureWall
from long_ember.ui.shape.strip import add_kind
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import Theme

__all__ = ["Catalogue", "asked_for", "found_by"]


def found_by(words: str) -> list[str]:
    """Kinds whose title or other names hold every word typed, best first.

    >>> found_by('rivet')[0]
    'head'
    """
    typed = " ".join(words.lower().split())
    ranked = []
    for i, (kind, cls) in enumerate(KINDS.items()):
        names = [cls.title.lower(), *(n.lower() for n in cls.also), kind]
        if all(any(w in n for n in names) for w in typed.split()):
            ranked.append((0 if typed == names[0] else min(1 if n == typed else 2 if n.startswith(typed) else 3 for n in names), i, kind))
    return [kind for _best, _i, kind in sorted(ranked)]


def asked_for(kind: str, words: str) -> str:
    """The name of a kind that is meant by what was typed: just that, or the only one that it begins; "" for none.

    >>> asked_for('head', 'rose'), asked_for('head', 'rivet head'), asked_for('head', 'head')
    ('rose head', 'rivet head', '')
    """
    typed = " ".join(words.lower().split())
    names = [n.lower() for n in KINDS[kind].also]
    begun = [n for n in names if typed and n.startswith(typed)]
    return typed if typed in names else begun[0] if len(begun) == 1 else ""


def _hung(kinds: Iterable[str]) -> list[Hung]:
    return [Hung(kind, KINDS[kind].title, ", ".join(KINDS[kind].also)) for kind in kinds]


def _picture(painter: QPainter, kind: str, box: QRectF, theme: Theme, here: bool) -> None:
    paint_kind_solid(painter, kind, box, theme, strong=here)


class Catalogue(QWidget):
    """A search line over the wall of shapes; stays open, adds behind the selected feature."""

    closed = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.wall = PictureWall(session, _picture, "Nothing goes by that name. Try hook, eye, leaf, rivet…")
        self.wall.setAccessibleName("Shapes")
        self.wall.hang(_hung(KINDS))
        self.search = QLineEdit()
        self.search.setFont(font(19, 500))
        self.search.setPlaceholderText("Find a shape by any name: spike, ring, leaf, joggle…")
        self.search.setAccessibleName("Find a shape")
        self.search.setClearButtonEnabled(True)
        self.search.textChanged.connect(lambda words: self.wall.hang(_hung(found_by(words))))
        self.search.returnPressed.connect(self._first)
        done = QPushButton("Back to the piece")
        done.setFont(font(16, 500))
        done.clicked.connect(self.closed)
        head = QHBoxLayout()
        title = QLabel("All shapes")
        title.setFont(font(24, 600))
        head.addWidget(title)
        head.addSpacing(20)
        head.addWidget(self.search, 1)
        head.addWidget(done)
        area = QScrollArea()
        area.setWidget(self.wall)
        area.setWidgetResizable(True)
        column = QVBoxLayout(self)
        column.setContentsMargins(16, 8, 16, 8)
        column.addLayout(head)
        column.addWidget(area, 1)
        self.wall.chosen.connect(self._add)

    def open(self) -> None:
        """Ready to type."""
        self.search.clear()
        self.search.setFocus()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Escape goes back, Down goes to the wall."""
        if event.key() == Qt.Key.Key_Escape:
            self.closed.emit()
        elif event.key() == Qt.Key.Key_Down:
            self.wall.setFocus()
        else:
            super().keyPressEvent(event)

    def _first(self) -> None:
        if self.wall.hung:
            self._add(self.wall.hung[0].key)

    def _add(self, kind: str) -> None:
        add_kind(self._session, kind, name=asked_for(kind, self.search.text()))
        self.closed.emit()
