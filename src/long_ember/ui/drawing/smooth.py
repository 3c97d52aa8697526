"""A solid in a window: coarse while it moves, and smooth a little later, painted in portions so that nothing is held up."""

from __future__ import annotations

import math
import time
from collections.abc import Iterator

from PySide6.QtCore import QObject, QPointF, QRect, QRectF, QTimer
from PySide6.QtGui import QImage, QPainter
from PySide6.QtWidgets import QWidget

from long_ember.arrays import Array
from long_ember.desk.session import Session
from long_ember.desk.turns import PORTION
from long_ember.geometry import turned
from long_ember.ui.drawing.paint import View
from long_ember.ui.drawing.solid import Solid, fine_painting, paint_solid
from long_ember.ui.style.theme import theme_of

__all__ = ["Hand", "SmoothSolid"]

_BY = 0.01  # rad for a pixel of a drag


class Hand:
    """How a solid is turned in the hand: about the upright, and tipped, never beyond straight from above.

    Args:
        yaw: rad.
        pitch: rad.
    """

    def __init__(self, yaw: float, pitch: float) -> None:
        self._yaw, self._pitch = yaw, pitch
        self._at: QPointF | None = None

    @property
    def look(self) -> Array:
        """The direction that it is seen from, (3, 3)."""
        return turned(self._yaw, self._pitch)

    def turn(self, yaw: float, pitch: float) -> None:
        """Turn it on by so much, rad."""
        self._yaw, self._pitch = self._yaw + yaw, min(max(self._pitch + pitch, -math.pi / 2), math.pi / 2)

    def take(self, at: QPointF | None) -> None:
        """Take hold of it at a point, or let go."""
        self._at = at

    def drag(self, at: QPointF) -> tuple[float, float] | None:
        """By how much a drag to a point turns it, rad; None where nobody holds it."""
        if self._at is None:
            return None
        move, self._at = at - self._at, at
        return move.x() * _BY, move.y() * _BY


class SmoothSolid(QObject):
    """Paints a solid for a widget, and keeps the smooth picture until anything about it changes.

    Args:
        session: whose colours it is shown in.
        widget: that is painted on; it is painted anew when the smooth picture is there.
    """

    def __init__(self, session: Session, widget: QWidget) -> None:
        super().__init__(widget)
        self._session, self._widget = session, widget
        self._done: tuple[object, QImage, QRect] | None = None
        self._begun: tuple[object, QImage, QRect, Iterator[None]] | None = None
        self._turn = QTimer(self, interval=0)
        self._turn.timeout.connect(self._paint_on)

    @property
    def resting(self) -> bool:
        """The smooth picture is on the screen, or none is wanted."""
        return self._begun is None

    def paint(self, painter: QPainter, solid: Solid, look: Array, view: View, target: QRectF, *, chosen: str = "", moving: bool) -> None:
        """The solid as it can be shown now; what the arguments mean says `paint_solid`.

        Args:
            moving: it will be painted again in a moment.
        """
        theme, ratio = theme_of(self._session), painter.device().devicePixelRatioF()
        key = (solid, look.tobytes(), view.scale, view.x, view.y, target.getRect(), theme.name, chosen, ratio)
        if self._done is not None and self._done[0] == key:
            painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
            painter.drawImage(self._done[2], self._done[1])
            return
        paint_solid(painter, solid, look, view, theme, target, chosen=chosen, fine=False)
        if not moving and (self._begun is None or self._begun[0] != key):
            self._begun = (key, *fine_painting(ratio, solid, look, view, theme, target, chosen))
            self._turn.start()

    def _paint_on(self) -> None:
        turns = self._session.turns
        if self._begun is None or not self._widget.isVisible():
            self._begun = None
            self._turn.stop()
            turns.left("solid")
            return
        if not turns.take("solid"):
            return
        key, image, box, portions = self._begun
        until = time.perf_counter() + PORTION
        while time.perf_counter() < until:
            if next(portions, self) is self:
                self._done, self._begun = (key, image, box), None
                self._turn.stop()
                turns.left("solid")
                self._widget.update()
                break
        turns.done()
