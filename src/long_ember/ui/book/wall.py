"""Pieces as silhouettes on a wall, all at one scale, hung from rails."""

from __future__ import annotations

import bisect
from functools import lru_cache

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QBrush,
    QContextMenuEvent,
    QFont,
    QFontMetricsF,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
    QResizeEvent,
)
from PySide6.QtWidgets import QPushButton, QScrollArea, QWidget

from long_ember.desk.session import Session
from long_ember.frozen import NamedTuple
from long_ember.storage import Entry, polygons_of
from long_ember.ui.drawing.paint import polygon, text_box, write
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import theme_of

__all__ = ["Wall", "silhouette_path"]

_GAP, _NAME, _PEG = 26, 48, 16  # px: between pieces, for the words below, from the rail to the piece
_LEAST, _LARGEST = 118, 320  # px wide: room for a name, and no piece fills the wall alone
_STEPS = 1.25  # of the scale


@lru_cache(maxsize=2048)
def _path(outline: str, tall: float) -> QPainterPath:
    """Made once for each outline that comes in sight."""
    path = QPainterPath()
    path.setFillRule(Qt.FillRule.WindingFill)
    for points in polygons_of(outline):
        path.addPolygon(polygon(points * (1.0, -1.0) + (0.0, tall)))
        path.closeSubpath()
    return path


def silhouette_path(entry: Entry) -> QPainterPath:
    """A piece's outline, mm, y downwards from its upper left corner."""
    return _path(entry.outline, entry.tall)


class _Row(NamedTuple):
    """Pieces that hang from one rail: its height, theirs with their names, px, and the number of the first."""

    top: float
    height: float
    first: int

    @property
    def end(self) -> float:
        """Where the next rail is."""
        return self.top + self.height + 16


class Wall(QWidget):
    """The wall; arrows choose, Enter takes down, + and − change the scale of all."""

    chosen = Signal(str)
    opened = Signal(str)
    typed = Signal(str)
    asked = Signal(str, QPointF)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.entries: tuple[Entry, ...] = ()
        self.current, self.empty_words = "", ""
        self._zoom = 1.0
        self._spots: list[tuple[float, float]] = []  # left and width of each piece, px
        self._rows: list[_Row] = []
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Pieces in the book")
        self.example = QPushButton("Hang the pieces of the demo here", self)
        self.example.setFont(font(17, 500))
        self.example.hide()
        session.restyled.connect(self.update)

    @property
    def scale(self) -> float:
        """px per mm, the same for all."""
        widest = max((e.wide for e in self.entries), default=0.0)
        tallest = max((e.tall for e in self.entries), default=0.0)
        return min(_LARGEST / max(widest, 1.0), 0.62 * _LARGEST / max(tallest, 1.0), 1.2) * self._zoom

    def hang(self, entries: tuple[Entry, ...], empty_words: str) -> None:
        """Replace what hangs here; the chosen one stays chosen while it is among them."""
        self.entries, self.empty_words = entries, empty_words
        self.example.setVisible(not entries and "demo" in empty_words)
        if all(e.id != self.current for e in entries):
            self.current = entries[0].id if entries else ""
            self.chosen.emit(self.current)
        self._lay_out()

    def choose(self, piece_id: str) -> None:
        """Choose one and bring it into sight."""
        if piece_id != self.current:
            self.current = piece_id
            self.chosen.emit(piece_id)
        self._show_current()
        self.update()

    def _show_current(self) -> None:
        index, area = self._index(), self.parent()
        while area is not None and not isinstance(area, QScrollArea):
            area = area.parent()
        if index >= 0 and area is not None:
            box = self._box(index).toRect()
            area.ensureVisible(box.center().x(), box.center().y(), box.width() // 2, box.height() // 2 + 12)

    def zoom(self, factor: float) -> None:
        """Larger or smaller, all of them."""
        self._zoom = min(max(self._zoom * factor, 0.2), 5.0)
        self._lay_out()

    def _index(self) -> int:
        return next((i for i, e in enumerate(self.entries) if e.id == self.current), -1)

    def _lay_out(self) -> None:
        """Rows as full as they go, each as tall as its tallest piece."""
        scale, width = self.scale, self.width()
        spots: list[tuple[float, float]] = []
        rows: list[_Row] = []
        x, top, tall, first = float(_GAP), 12.0, 0.0, 0
        for i, entry in enumerate(self.entries):
            w = max(entry.wide * scale, _LEAST)
            if i > first and x + w + _GAP > width:
                rows.append(_Row(top, _PEG + tall + _NAME, first))
                top, x, tall, first = rows[-1].end, float(_GAP), 0.0, i
            spots.append((x, w))
            x += w + _GAP
            tall = max(tall, entry.tall * scale)
        if spots:
            rows.append(_Row(top, _PEG + tall + _NAME, first))
            top = rows[-1].end
        self._spots, self._rows = spots, rows
        self.setMinimumSize(QSize(2 * _LEAST, round(top) + 44))
        self.update()

    def _box(self, index: int) -> QRectF:
        """Where a piece hangs."""
        row, (left, width) = self._rows[self._row_of(index)], self._spots[index]
        return QRectF(left, row.top, width, row.height)

    def _row_of(self, index: int) -> int:
        return bisect.bisect_right(self._rows, index, key=lambda row: row.first) - 1

    def _of_row(self, number: int) -> range:
        """The pieces of a row."""
        last = self._rows[number + 1].first if number + 1 < len(self._rows) else len(self._spots)
        return range(self._rows[number].first, last)

    def _row_at(self, y: float) -> int:
        """The row at a height, or the one above it; −1 above the first."""
        return bisect.bisect_right(self._rows, y, key=lambda row: row.top) - 1

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Hang them anew."""
        size = self.example.sizeHint()
        self.example.move((self.width() - size.width()) // 2, 130)
        if event.size().width() != event.oldSize().width():
            self._lay_out()

    def _hit(self, at: QPointF) -> int:
        reach, row = _GAP / 2, self._row_at(at.y())
        near = self._of_row(row) if row >= 0 else ()
        return next((i for i in near if self._box(i).adjusted(-reach, 0, reach, 0).contains(at)), -1)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Choose."""
        index = self._hit(event.position())
        if index >= 0:
            self.choose(self.entries[index].id)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """Take down: open."""
        if self._hit(event.position()) >= 0:
            self.opened.emit(self.current)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        """What can be done with it."""
        index = self._hit(QPointF(event.pos()))
        if index >= 0:
            self.choose(self.entries[index].id)
            self.asked.emit(self.current, QPointF(event.globalPos()))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows choose, Enter opens, + − zoom; letters go to the search line."""
        key, at = Qt.Key(event.key()), self._index()
        if key in (Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Up, Qt.Key.Key_Down) and self.entries:
            self.choose(self.entries[self._next(key, max(at, 0))].id)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and at >= 0:
            self.opened.emit(self.current)
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal, Qt.Key.Key_Minus):
            self.zoom(1 / _STEPS if key == Qt.Key.Key_Minus else _STEPS)
        elif event.text().isalnum() and not event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.typed.emit(event.text())
        else:
            super().keyPressEvent(event)

    def _next(self, key: Qt.Key, at: int) -> int:
        if key == Qt.Key.Key_Left:
            return max(at - 1, 0)
        if key == Qt.Key.Key_Right:
            return min(at + 1, len(self.entries) - 1)
        row, middle = self._row_of(at) + (1 if key == Qt.Key.Key_Down else -1), self._box(at).center().x()
        if not 0 <= row < len(self._rows):
            return at
        return min(self._of_row(row), key=lambda i: abs(self._box(i).center().x() - middle))

    def paintEvent(self, event: QPaintEvent) -> None:
        """Rails, silhouettes in sight, names."""
        painter, theme = QPainter(self), theme_of(self._session)
        painter.fillRect(event.rect(), theme.colour("paper"))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if not self.entries:
            text_box(painter, self.empty_words, QPointF(self.width() / 2, 90), font(18), theme, role="muted")
            return
        painter.setPen(QPen(theme.colour("line"), 3))
        scale, sight = self.scale, QRectF(event.rect())
        seen = range(max(0, self._row_at(sight.top())), self._row_at(sight.bottom()) + 1)
        for number in seen:
            rail = self._rows[number].top
            painter.drawLine(QPointF(_GAP / 2, rail), QPointF(self.width() - _GAP / 2, rail))
        for i in (i for number in seen for i in self._of_row(number)):
            self._paint_piece(painter, self.entries[i], self._box(i), scale)
        self._paint_scale(painter, scale)

    def _paint_scale(self, painter: QPainter, scale: float) -> None:
        """How long a decimetre is, or four inches."""
        theme, measure = theme_of(self._session), self._session.measure
        length = 100.0 if measure.unit == "mm" else 101.6
        left, y = float(_GAP), self._rows[-1].top + self._rows[-1].height + 30
        painter.setPen(QPen(theme.colour("muted"), 1.5))
        painter.drawLine(QPointF(left, y), QPointF(left + length * scale, y))
        for x in (left, left + length * scale):
            painter.drawLine(QPointF(x, y - 5), QPointF(x, y + 5))
        write(painter, f"{measure.length(length)}, the same for all", left + length * scale + 12, y - 10, font(14), theme.colour("muted"))

    def _paint_piece(self, painter: QPainter, entry: Entry, box: QRectF, scale: float) -> None:
        theme, here = theme_of(self._session), entry.id == self.current
        if here:
            painter.setPen(QPen(theme.colour("accent"), 2.5 if self.hasFocus() else 1.5))
            painter.setBrush(theme.colour("panel"))
            painter.drawRoundedRect(box.adjusted(-10, 4, 10, 4), 7, 7)
        left, top = box.center().x() - entry.wide * scale / 2, box.top() + _PEG
        painter.setPen(QPen(theme.colour("line"), 2))
        painter.drawLine(QPointF(box.center().x(), box.top()), QPointF(box.center().x(), top))
        painter.save()
        painter.translate(left, top)
        painter.scale(scale, scale)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QBrush(theme.colour("accent" if here else "edge")))
        painter.drawPath(silhouette_path(entry))
        painter.restore()
        room = box.width() + 12
        self._words(painter, entry.name, font(16, 600), box.center().x(), box.bottom() - _NAME + 4, room, "ink")
        below, role = ("! can't be reckoned", "fault") if entry.trouble else (", ".join(entry.tags), "muted")
        self._words(painter, below, font(14), box.center().x(), box.bottom() - _NAME + 25, room, role)

    def _words(self, painter: QPainter, text: str, face: QFont, middle: float, top: float, room: float, role: str) -> None:
        metrics = QFontMetricsF(face)
        short = metrics.elidedText(text, Qt.TextElideMode.ElideRight, room)
        write(painter, short, middle - metrics.horizontalAdvance(short) / 2, top, face, theme_of(self._session).colour(role))
