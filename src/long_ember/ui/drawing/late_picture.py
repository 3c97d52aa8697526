"""A widget of many things, painted in portions once the answer has been: it is shown in one piece, and till then what was there stands."""

from __future__ import annotations

from collections.abc import Callable, Generator

from PySide6.QtCore import QObject, QRect, QSize
from PySide6.QtGui import QPainter, QPixmap
from PySide6.QtWidgets import QWidget

from long_ember.desk.session import Session
from long_ember.desk.turns import Portions
from long_ember.portions import all_portions

__all__ = ["LatePicture"]

Painting = Callable[[QPainter, QRect, bool], Generator[None, None, None]]


class LatePicture(QObject):
    """What a widget shows.

    Args:
        session: whose turns it takes.
        widget: that is painted; its `paintEvent` is `paint` here.
        who: its name at the gate.
        painting: paints the part of the widget that lies in a rectangle, px; told whether it may take its time.
    """

    def __init__(self, session: Session, widget: QWidget, who: str, painting: Painting) -> None:
        super().__init__(widget)
        self._widget, self._painting = widget, painting
        self._ready: tuple[QRect, QSize, QPixmap] | None = None
        self._first: Callable[[], Generator[None, None, object]] | None = None
        self._under_way = False
        self._coming = Portions(session.loop, session.turns, who)

    def paint(self, wanted: QRect) -> None:
        """Show what is ready, or paint it at once."""
        painter = QPainter(self._widget)
        if self._ready is not None and self._ready[1] == self._widget.size() and self._ready[0].contains(wanted):
            painter.drawPixmap(self._ready[0].topLeft(), self._ready[2])
        else:
            all_portions(self._painting(painter, wanted, False))

    def now(self) -> None:
        """Something else is to be seen: paint it at once, and whenever it is asked for."""
        self._ready = None
        self._widget.update()
        if self._under_way:  # what it would show is not all as it is now
            self.late()

    def late(self, first: Callable[[], Generator[None, None, object]] | None = None) -> None:
        """Something else is to be seen: paint it in portions.

        Args:
            first: what is done before that, in portions too.
        """
        self._first = first or self._first  # what is not done yet is begun anew
        self._under_way = True
        self._coming.start(self._made(), self._show)

    def again(self) -> None:
        """Paint it anew, in portions where it was painted so."""
        if self._first is not None:  # under way: it is painted after that
            return
        if self._ready is None:
            self._widget.update()
        else:
            self.late()

    def leave(self) -> None:
        """What is under way is not wanted any more."""
        self._first, self._under_way = None, False
        self._coming.leave()

    def _made(self) -> Generator[None, None, tuple[QRect, QSize, QPixmap]]:
        if self._first is not None:
            yield from self._first()
            self._first = None
        widget = self._widget
        seen, ratio = widget.visibleRegion().boundingRect(), widget.devicePixelRatioF()
        if seen.isEmpty():  # nobody looks by now: it is painted when it is seen again
            return seen, widget.size(), QPixmap()
        picture = QPixmap(seen.size() * ratio)
        picture.setDevicePixelRatio(ratio)
        painter = QPainter(picture)
        try:
            painter.translate(-seen.topLeft())
            yield from self._painting(painter, seen, True)
        finally:
            painter.end()
        return seen, widget.size(), picture

    def _show(self, ready: tuple[QRect, QSize, QPixmap]) -> None:
        self._ready, self._under_way = ready, False
        self._widget.update()
