"""A picture to press points on: its scale, the middle of the steel, and what was made of it laid over."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, QSizeF, Qt, Signal
from PySide6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF, QWheelEvent
from PySide6.QtWidgets import QSizePolicy, QWidget

from long_ember.arrays import Array
from long_ember.desk.session import Session
from long_ember.photos import Grey
from long_ember.ui.drawing.paint import text_box
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import theme_of

__all__ = ["PhotoCanvas"]

_NEAR = 14.0  # px on the screen by which a point is taken hold of
_ZOOM = 1.2
_STEP = 12.0  # px on the screen that an arrow moves the cross by
_REACH = 20.0  # px about the cross
_ARROWS = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}


class PhotoCanvas(QWidget):
    """The picture with its points; the wheel zooms, the right button moves it."""

    pressed = Signal(float, float)
    moved = Signal(int, float, float)
    taken_back = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._image: QImage | None = None
        self._pixels: Array | None = None
        self.marks: list[tuple[float, float]] = []  # of the scale, px of the picture
        self.way: list[tuple[float, float]] = []  # along the middle
        self.moving = "way"  # which of them are pressed now
        self.line: Array | None = None  # the middle as found, px of the picture
        self.outlines: Sequence[Array] = ()
        self._scale, self._shift = 1.0, QPointF()
        self._held = -1
        self._panned: QPointF | None = None
        self._cross: tuple[float, float] | None = None  # where a key would press, px of the picture
        self.setMinimumSize(QSize(320, 240))
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("The picture: arrows move the cross, Space presses a point, Backspace takes the last one back")
        session.restyled.connect(self.update)

    def show_picture(self, grey: Grey | None) -> None:
        """Another picture, as large as there is room."""
        self._image = self._pixels = None
        if grey is not None:
            self._pixels = np.ascontiguousarray(grey.colour)  # the image does not keep its own
            high, wide = self._pixels.shape[:2]
            self._image = QImage(self._pixels.data, wide, high, 3 * wide, QImage.Format.Format_RGB888)
        self.marks, self.way, self.line, self.outlines, self._cross = [], [], None, (), None
        self.fit()

    def fit(self) -> None:
        """The whole picture."""
        if self._image is not None:
            self._scale = min(self.width() / self._image.width(), self.height() / self._image.height())
            size = QPointF(self._image.width(), self._image.height()) * self._scale
            self._shift = QPointF((self.width() - size.x()) / 2, (self.height() - size.y()) / 2)
        self.update()

    def resizeEvent(self, event: object) -> None:
        """Fit it anew."""
        self.fit()

    def _seen(self, x: float, y: float) -> QPointF:
        return QPointF(x, y) * self._scale + self._shift

    def _meant(self, at: QPointF) -> tuple[float, float]:
        p = (at - self._shift) / self._scale
        return p.x(), p.y()

    @property
    def points(self) -> list[tuple[float, float]]:
        """Those that are pressed now."""
        return self.way if self.moving == "way" else self.marks

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take hold of a point, or set one."""
        if event.button() != Qt.MouseButton.LeftButton:
            self._panned = event.position()
            return
        near = [(QPointF(self._seen(*p) - event.position()).manhattanLength(), i) for i, p in enumerate(self.points)]
        if near and min(near)[0] <= _NEAR:
            self._held = min(near)[1]
        elif self._image is not None:
            x, y = self._meant(event.position())
            if 0 <= x < self._image.width() and 0 <= y < self._image.height():
                self.pressed.emit(x, y)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Move the point that is held, or the picture."""
        if self._held >= 0:
            self.moved.emit(self._held, *self._meant(event.position()))
        elif self._panned is not None:
            self._shift += event.position() - self._panned
            self._panned = event.position()
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Let go."""
        self._held, self._panned = -1, None

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Zoom about the pointer."""
        self._zoom(event.position(), event.angleDelta().y() > 0)

    def _zoom(self, at: QPointF, closer: bool) -> None:
        factor = _ZOOM if closer else 1 / _ZOOM
        self._shift = at - (at - self._shift) * factor
        self._scale *= factor
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows move the cross, with Shift by a hair; Space presses there; Backspace takes the last point back, plus and minus zoom, F fits."""
        step = _ARROWS.get(Qt.Key(event.key()))
        if self._image is not None and step is not None:
            self._step(*step, fine=bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
        elif self._cross is not None and event.key() in (Qt.Key.Key_Space, Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.pressed.emit(*self._cross)
        elif event.key() in (Qt.Key.Key_Plus, Qt.Key.Key_Minus):
            self._zoom(self._seen(*self._cross) if self._cross else QPointF(self.rect().center()), event.key() == Qt.Key.Key_Plus)
        elif event.key() in (Qt.Key.Key_Backspace, Qt.Key.Key_Delete):
            self.taken_back.emit()
        elif event.key() == Qt.Key.Key_F:
            self.fit()
        else:
            super().keyPressEvent(event)

    def _step(self, right: int, down: int, *, fine: bool) -> None:
        """The cross by an eighth of an inch on the screen, or by one pixel of it."""
        assert self._image is not None
        x, y = self._cross or (self.points[-1] if self.points else self._meant(QPointF(self.rect().center())))
        far, before = (1.0 if fine else _STEP) / self._scale, self._cross
        self._cross = min(max(x + right * far, 0.0), self._image.width() - 1.0), min(max(y + down * far, 0.0), self._image.height() - 1.0)
        for cross in (before, self._cross):  # the picture is large: only what lies under the cross is painted anew
            if cross is not None:
                self.update(QRectF(self._seen(*cross), QSizeF()).adjusted(-_REACH, -_REACH, _REACH, _REACH).toAlignedRect())

    def paintEvent(self, event: QPaintEvent) -> None:
        """Picture, what is made of it, points."""
        painter, theme = QPainter(self), theme_of(self._session)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        painter.fillRect(self.rect(), theme.colour("panel"))
        if self._image is None:
            text_box(painter, "Drop a photo or a scanned drawing here, or open one.", QPointF(self.rect().center()), font(19, 500), theme)
            return
        size = QPointF(self._image.width(), self._image.height()) * self._scale
        painter.drawImage(QRectF(self._shift, self._shift + size), self._image)
        accent = theme.colour("accent")
        fill = theme.colour("chosen")
        fill.setAlpha(110)
        painter.setPen(QPen(accent, 2.0))
        painter.setBrush(fill)
        for outline in self.outlines:
            painter.drawPolygon(QPolygonF([self._seen(float(x), float(y)) for x, y in outline]))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if self.line is not None and len(self.line) > 1:
            painter.setPen(QPen(accent, 2.5, Qt.PenStyle.DashLine))
            painter.drawPolyline(QPolygonF([self._seen(float(x), float(y)) for x, y in self.line]))
        self._paint_points(painter, self.marks, square=True)
        self._paint_points(painter, self.way, square=False)
        if self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(accent, 2.0))
            painter.drawRect(QRectF(self.rect()).adjusted(1, 1, -1, -1))
            if self._cross is not None:
                at = self._seen(*self._cross)
                for colour, wide in (("paper", 5.0), ("accent", 2.0)):
                    painter.setPen(QPen(theme.colour(colour), wide))
                    painter.drawLine(at - QPointF(14, 0), at + QPointF(14, 0))
                    painter.drawLine(at - QPointF(0, 14), at + QPointF(0, 14))

    def _paint_points(self, painter: QPainter, points: Sequence[tuple[float, float]], *, square: bool) -> None:
        theme = theme_of(self._session)
        for i, point in enumerate(points, 1):
            at = self._seen(*point)
            painter.setPen(QPen(theme.colour("paper"), 4.0))
            painter.setBrush(theme.colour("accent"))
            box = QRectF(at.x() - 6, at.y() - 6, 12, 12)
            painter.drawRect(box) if square else painter.drawEllipse(box)
            if square:
                text_box(painter, str(i), at + QPointF(0, -18), font(15, 700), theme)
