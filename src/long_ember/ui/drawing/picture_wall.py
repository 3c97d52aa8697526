"""Pictures in rows, each with a name and what else it is called: pointed at, walked over with the arrows, chosen."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from long_ember.desk.session import Session
from long_ember.frozen import NamedTuple
from long_ember.ui.drawing.paint import line_height, text_box, write
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import Theme, theme_of

__all__ = ["Hung", "PictureWall"]

_GAP = 10
_STEPS = {Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Down: (0, 1), Qt.Key.Key_Up: (0, -1)}


class Hung(NamedTuple):
    """One picture.

    Args:
        key: by which it is chosen.
        title: below it.
        names: what else it is called, below that.
    """

    key: str
    title: str
    names: str


class PictureWall(QWidget):
    """The pictures; arrows move, Enter chooses.

    Args:
        session: whose theme is in force.
        paint: draws one picture into a box; whether it is the one at hand comes last.
        empty: said where there is none.
        size: of one, px.
    """

    chosen = Signal(str)
    pointed = Signal(str)

    def __init__(
        self, session: Session, paint: Callable[[QPainter, str, QRectF, Theme, bool], None], empty: str, size: tuple[int, int] = (218, 148)
    ) -> None:
        super().__init__()
        self._session, self._paint, self._empty = session, paint, empty
        self._wide, self._high = size
        self.hung: tuple[Hung, ...] = ()
        self.at = 0
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        session.restyled.connect(self.update)

    @property
    def columns(self) -> int:
        """Pictures in a row."""
        return max(1, (self.width() - _GAP) // (self._wide + _GAP))

    @property
    def current(self) -> str:
        """Key of the one at hand, "" where none hangs."""
        return self.hung[self.at].key if self.hung else ""

    def hang(self, hung: Sequence[Hung]) -> None:
        """Replace what hangs on the wall."""
        self.hung, self.at = tuple(hung), 0
        self._resize()

    def _resize(self) -> None:
        rows = -(-max(1, len(self.hung)) // self.columns)
        self.setMinimumSize(QSize(self._wide + 2 * _GAP, rows * (self._high + _GAP) + _GAP))
        self.update()

    def resizeEvent(self, event: object) -> None:
        """Hang them anew."""
        self._resize()

    def box(self, index: int) -> QRectF:
        """Where a picture hangs, px."""
        row, column = divmod(index, self.columns)
        return QRectF(_GAP + column * (self._wide + _GAP), _GAP + row * (self._high + _GAP), self._wide, self._high)

    def _index(self, at: QPointF) -> int:
        return next((i for i in range(len(self.hung)) if self.box(i).contains(at)), -1)

    def _go(self, index: int) -> None:
        if index != self.at:
            self.at = index
            self.pointed.emit(self.current)
            self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Point at one."""
        index = self._index(event.position())
        if index >= 0:
            self._go(index)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Choose it."""
        index = self._index(event.position())
        if index >= 0:
            self._go(index)
            self.chosen.emit(self.hung[index].key)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Move and choose."""
        along, down = _STEPS.get(Qt.Key(event.key()), (0, 0))
        step = along + down * self.columns
        if step and 0 <= self.at + step < len(self.hung):
            self._go(self.at + step)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space) and self.hung:
            self.chosen.emit(self.current)
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Picture, name, other names."""
        painter, theme = QPainter(self), theme_of(self._session)
        painter.fillRect(event.rect(), theme.colour("paper"))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if not self.hung:
            text_box(painter, self._empty, QPointF(self.width() / 2, 60), font(18), theme, role="muted")
            return
        for i, one in enumerate(self.hung):
            box = self.box(i)
            if not box.intersects(QRectF(event.rect())):
                continue
            here = i == self.at
            painter.setPen(QPen(theme.colour("accent" if here else "line"), 2.5 if here else 1.0))
            painter.setBrush(theme.colour("panel"))
            painter.drawRoundedRect(box.adjusted(1, 1, -1, -1), 7, 7)
            self._paint(painter, one.key, box.adjusted(10, 8, -10, -52), theme, here)
            write(painter, one.title, box.left() + 12, box.bottom() - 46, font(16, 600), theme.colour("ink"))
            small = font(13)
            names = painter.fontMetrics().elidedText(one.names, Qt.TextElideMode.ElideRight, int(box.width() * 1.1))
            painter.save()
            painter.setClipRect(box.adjusted(8, 0, -10, 0))
            write(painter, names, box.left() + 12, box.bottom() - 8 - line_height(small), small, theme.colour("muted"))
            painter.restore()
