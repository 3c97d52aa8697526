"""Every shape a smith forges, drawn by our own geometry and found by any of the names it goes by."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QPushButton, QScrollArea, QVBoxLayout, QWidget

from long_ember.desk.session import Session
from long_ember.features import KINDS
from long_ember.ui.drawing.glyphs import paint_kind_solid
from long_ember.ui.drawing.paint import line_height, text_box, write
from long_ember.ui.shape.strip import add_kind
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import theme_of

__all__ = ["Catalogue", "found_by"]

_WIDE, _HIGH, _GAP = 218, 148, 10


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


class _Wall(QWidget):
    """The pictures; arrows move, Enter adds."""

    chosen = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.kinds, self.at = list(KINDS), 0
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("Shapes")
        session.restyled.connect(self.update)

    @property
    def columns(self) -> int:
        """Pictures in a row."""
        return max(1, (self.width() - _GAP) // (_WIDE + _GAP))

    def show_kinds(self, kinds: list[str]) -> None:
        """Replace what hangs on the wall."""
        self.kinds, self.at = kinds, 0
        self._resize()

    def _resize(self) -> None:
        rows = -(-max(1, len(self.kinds)) // self.columns)
        self.setMinimumSize(QSize(_WIDE + 2 * _GAP, rows * (_HIGH + _GAP) + _GAP))
        self.update()

    def resizeEvent(self, event: object) -> None:
        """Hang them anew."""
        self._resize()

    def box(self, index: int) -> QRectF:
        """Where a picture hangs, px."""
        row, column = divmod(index, self.columns)
        return QRectF(_GAP + column * (_WIDE + _GAP), _GAP + row * (_HIGH + _GAP), _WIDE, _HIGH)

    def _index(self, at: QPointF) -> int:
        return next((i for i in range(len(self.kinds)) if self.box(i).contains(at)), -1)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Point at one."""
        index = self._index(event.position())
        if index >= 0 and index != self.at:
            self.at = index
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Add it."""
        index = self._index(event.position())
        if index >= 0:
            self.chosen.emit(self.kinds[index])

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Move and add."""
        step = {Qt.Key.Key_Right: 1, Qt.Key.Key_Left: -1, Qt.Key.Key_Down: self.columns, Qt.Key.Key_Up: -self.columns}.get(
            Qt.Key(event.key()), 0
        )
        if step and 0 <= self.at + step < len(self.kinds):
            self.at += step
            self.update()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space) and self.kinds:
            self.chosen.emit(self.kinds[self.at])
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Picture, name, other names."""
        painter, theme = QPainter(self), theme_of(self._session)
        painter.fillRect(event.rect(), theme.colour("paper"))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if not self.kinds:
            text_box(
                painter,
                "Nothing goes by that name. Try hook, eye, leaf, rivet…",
                QPointF(self.width() / 2, 60),
                font(18),
                theme,
                role="muted",
            )
            return
        for i, kind in enumerate(self.kinds):
            box = self.box(i)
            if not box.intersects(QRectF(event.rect())):
                continue
            here = i == self.at
            painter.setPen(QPen(theme.colour("accent" if here else "line"), 2.5 if here else 1.0))
            painter.setBrush(theme.colour("panel"))
            painter.drawRoundedRect(box.adjusted(1, 1, -1, -1), 7, 7)
            paint_kind_solid(painter, kind, box.adjusted(10, 8, -10, -52), theme, strong=here)
            cls = KINDS[kind]
            write(painter, cls.title, box.left() + 12, box.bottom() - 46, font(16, 600), theme.colour("ink"))
            small = font(13)
            names = painter.fontMetrics().elidedText(", ".join(cls.also), Qt.TextElideMode.ElideRight, int(box.width() * 1.1))
            painter.save()
            painter.setClipRect(box.adjusted(8, 0, -10, 0))
            write(painter, names, box.left() + 12, box.bottom() - 8 - line_height(small), small, theme.colour("muted"))
            painter.restore()


class Catalogue(QWidget):
    """A search line over the wall of shapes; stays open, adds behind the selected feature."""

    closed = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.wall = _Wall(session)
        self.search = QLineEdit()
        self.search.setFont(font(19, 500))
        self.search.setPlaceholderText("Find a shape by any name: spike, ring, leaf, joggle…")
        self.search.setAccessibleName("Find a shape")
        self.search.setClearButtonEnabled(True)
        self.search.textChanged.connect(lambda words: self.wall.show_kinds(found_by(words)))
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
        if self.wall.kinds:
            self._add(self.wall.kinds[0])

    def _add(self, kind: str) -> None:
        add_kind(self._session, kind)
        self.closed.emit()
