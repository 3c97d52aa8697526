"""A solid in a window: coarse while it moves, and smooth a little later, painted in portions so that nothing is held up."""

from __future__ import annotations

import math
from collections.abc import Callable, Generator
from functools import partial

from PySide6.QtCore import QObject, QPointF, QRect, QRectF
from PySide6.QtGui import QImage, QPainter
from PySide6.QtWidgets import QWidget

from long_ember.arrays import Array
from long_ember.desk.session import Session
from long_ember.desk.turns import Portions
from long_ember.geometry import turned
from long_ember.ui.drawing.paint import View
from long_ember.ui.drawing.solid import Solid, fine_painting, rough_picture
from long_ember.ui.style.theme import Theme, theme_of

__all__ = ["Hand", "SmoothSolid"]

_BY = 0.01  # rad for a pixel of a drag
_MANY_FACES = 1500  # painting more at once takes longer than anything may that is put off


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
        widget: that is painted on.
        again: paints it anew when the smooth picture is there.
    """

    def __init__(self, session: Session, widget: QWidget, again: Callable[[], object] | None = None) -> None:
        super().__init__(widget)
        self._session, self._again = session, again or widget.update
        self._done: tuple[object, QImage, QRect] | None = None
        self._rough: tuple[object, QImage, QRect] | None = None
        self._begun: object = None
        self._painting = Portions(session.loop, session.turns, "solid")

    @property
    def resting(self) -> bool:
        """The smooth picture is on the screen, or none is wanted."""
        return self._begun is None

    def paint(
        self,
        painter: QPainter,
        solid: Solid,
        look: Array,
        view: View,
        target: QRectF,
        *,
        chosen: str = "",
        moving: bool,
        turning: bool = True,
    ) -> bool:
        """The solid as it can be shown now; what the arguments mean says `paint_solid`.

        Args:
            moving: it will be painted again in a moment.
            turning: it is turned by hand, and painted coarsely at once; where not, one of many faces waits for its smooth picture.

        Returns:
            Whether anything was painted.
        """
        theme, ratio = theme_of(self._session), painter.device().devicePixelRatioF()
        key = _key(solid, look, view, target, theme, chosen, ratio)
        if self._done is not None and self._done[0] == key:
            painter.drawImage(self._done[2].topLeft(), self._done[1])
            return True
        if not moving and self._begun != key:
            self._begun = key
            self._painting.start(fine_painting(ratio, solid, look, view, theme, target, chosen), partial(self._painted, key))
        if self._rough is None or self._rough[0] != key:
            if not turning and solid.count > _MANY_FACES:
                return False
            self._rough = (key, *rough_picture(ratio, solid, look, view, theme, target, chosen))
        painter.drawImage(self._rough[2].topLeft(), self._rough[1])
        return True

    def painting(self, painter: QPainter, solid: Solid, look: Array, view: View, target: QRectF) -> Generator[None, None, None]:
        """The smooth picture, painted in portions now; what the arguments mean says `paint_solid`."""
        theme, ratio = theme_of(self._session), painter.device().devicePixelRatioF()
        key = _key(solid, look, view, target, theme, "", ratio)
        if self._done is None or self._done[0] != key:
            self._painting.leave()
            self._done, self._begun = (key, *(yield from fine_painting(ratio, solid, look, view, theme, target, ""))), None
        painter.drawImage(self._done[2].topLeft(), self._done[1])

    def _painted(self, key: object, found: tuple[QImage, QRect]) -> None:
        self._done, self._begun, self._rough = (key, *found), None, None
        self._again()


def _key(solid: Solid, look: Array, view: View, target: QRectF, theme: Theme, chosen: str, ratio: float) -> object:
    """All that a picture depends on."""
    return solid, look.tobytes(), view, target.getRect(), theme.name, chosen, ratio
