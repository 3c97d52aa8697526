"""Pieces as silhouettes on a wall, all at one scale, hung from rails."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QBrush, QContextMenuEvent, QFont, QFontMetricsF, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QPushButton, QScrollArea, QWidget

from long_ember.storage import Entry
from long_ember.ui.fonts import font
from long_ember.ui.paint import polygon, text_box, write
from long_ember.ui.session import Session

__all__ = ["Wall", "silhouette_path", "silhouette_size"]

_GAP, _NAME, _PEG = 26, 48, 16  # px: between pieces, for the words below, from the rail to the piece
_LEAST, _LARGEST = 118, 320  # px wide: room for a name, and no piece fills the wall alone
_STEPS = 1.25  # of the scale


@lru_cache(maxsize=2048)
def _outline(entry: Entry) -> tuple[QPainterPath, float, float]:
    """Its path, mm, y downwards from its top, with width and height."""
    polygons = entry.polygons()
    path = QPainterPath()
    if not polygons:
        return path, 0.0, 0.0
    width, height = np.vstack(polygons).max(axis=0).tolist()
    path.setFillRule(Qt.FillRule.WindingFill)
    for points in polygons:
        path.addPolygon(polygon(points * (1.0, -1.0) + (0.0, height)))
        path.closeSubpath()
    return path, width, height


def silhouette_path(entry: Entry) -> QPainterPath:
    """A piece's outline, mm, y downwards from its upper left corner."""
    return _outline(entry)[0]


def silhouette_size(entry: Entry) -> tuple[float, float]:
    """Width and height of a piece as hung, mm."""
    return _outline(entry)[1:]


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
        self._boxes: list[QRectF] = []
        self._rails: list[float] = []
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
        widest = max((silhouette_size(e)[0] for e in self.entries), default=0.0)
        tallest = max((silhouette_size(e)[1] for e in self.entries), default=0.0)
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
            box = self._boxes[index].toRect()
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
        self._boxes, self._rails = [], []
        x, top, tall = float(_GAP), 12.0, 0.0
        row: list[int] = []
        for i, entry in enumerate(self.entries):
            w, h = (side * scale for side in silhouette_size(entry))
            w = max(w, _LEAST)
            if row and x + w + _GAP > width:
                top = self._end_row(row, top, tall)
                row, x, tall = [], float(_GAP), 0.0
            self._boxes.append(QRectF(x, top, w, h))
            row.append(i)
            x += w + _GAP
            tall = max(tall, h)
        if row:
            top = self._end_row(row, top, tall)
        self.setMinimumSize(QSize(2 * _LEAST, round(top) + 44))
        self.update()

    def _end_row(self, row: list[int], top: float, tall: float) -> float:
        for i in row:
            self._boxes[i].setHeight(_PEG + tall + _NAME)
        self._rails.append(top)
        return top + _PEG + tall + _NAME + 16

    def resizeEvent(self, event: object) -> None:
        """Hang them anew."""
        size = self.example.sizeHint()
        self.example.move((self.width() - size.width()) // 2, 130)
        self._lay_out()

    def _hit(self, at: QPointF) -> int:
        reach = _GAP / 2
        return next((i for i, box in enumerate(self._boxes) if box.adjusted(-reach, 0, reach, 0).contains(at)), -1)

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
        here = self._boxes[at]
        below = key == Qt.Key.Key_Down
        others = [i for i, b in enumerate(self._boxes) if (b.top() > here.top() if below else b.top() < here.top())]
        if not others:
            return at
        row = (min if below else max)(self._boxes[i].top() for i in others)
        return min((i for i in others if self._boxes[i].top() == row), key=lambda i: abs(self._boxes[i].center().x() - here.center().x()))

    def paintEvent(self, event: QPaintEvent) -> None:
        """Rails, silhouettes in sight, names."""
        painter, theme = QPainter(self), self._session.theme
        painter.fillRect(event.rect(), theme.colour("paper"))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if not self.entries:
            text_box(painter, self.empty_words, QPointF(self.width() / 2, 90), font(18), theme, role="muted")
            return
        painter.setPen(QPen(theme.colour("line"), 3))
        for rail in self._rails:
            painter.drawLine(QPointF(_GAP / 2, rail), QPointF(self.width() - _GAP / 2, rail))
        scale, sight = self.scale, QRectF(event.rect())
        for entry, box in zip(self.entries, self._boxes, strict=True):
            if box.intersects(sight):
                self._paint_piece(painter, entry, box, scale)
        self._paint_scale(painter, scale)

    def _paint_scale(self, painter: QPainter, scale: float) -> None:
        """How long a decimetre is, or four inches."""
        theme, measure = self._session.theme, self._session.measure
        length = 100.0 if measure.unit == "mm" else 101.6
        left, y = float(_GAP), self._boxes[-1].bottom() + 30
        painter.setPen(QPen(theme.colour("muted"), 1.5))
        painter.drawLine(QPointF(left, y), QPointF(left + length * scale, y))
        for x in (left, left + length * scale):
            painter.drawLine(QPointF(x, y - 5), QPointF(x, y + 5))
        write(painter, f"{measure.length(length)}, the same for all", left + length * scale + 12, y - 10, font(14), theme.colour("muted"))

    def _paint_piece(self, painter: QPainter, entry: Entry, box: QRectF, scale: float) -> None:
        theme, here = self._session.theme, entry.id == self.current
        if here:
            painter.setPen(QPen(theme.colour("accent"), 2.5 if self.hasFocus() else 1.5))
            painter.setBrush(theme.colour("panel"))
            painter.drawRoundedRect(box.adjusted(-10, 4, 10, 4), 7, 7)
        path, width, _height = _outline(entry)
        left, top = box.center().x() - width * scale / 2, box.top() + _PEG
        painter.setPen(QPen(theme.colour("line"), 2))
        painter.drawLine(QPointF(box.center().x(), box.top()), QPointF(box.center().x(), top))
        painter.save()
        painter.translate(left, top)
        painter.scale(scale, scale)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QBrush(theme.colour("accent" if here else "edge")))
        painter.drawPath(path)
        painter.restore()
        room = box.width() + 12
        self._words(painter, entry.name, font(16, 600), box.center().x(), box.bottom() - _NAME + 4, room, "ink")
        below, role = ("! can't be reckoned", "fault") if entry.trouble else (", ".join(entry.tags), "muted")
        self._words(painter, below, font(14), box.center().x(), box.bottom() - _NAME + 25, room, role)

    def _words(self, painter: QPainter, text: str, face: QFont, middle: float, top: float, room: float, role: str) -> None:
        metrics = QFontMetricsF(face)
        short = metrics.elidedText(text, Qt.TextElideMode.ElideRight, room)
        write(painter, short, middle - metrics.horizontalAdvance(short) / 2, top, face, self._session.theme.colour(role))
