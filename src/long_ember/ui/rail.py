"""The rail of verbs in the order of the work."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from long_ember.desk.session import Session
from long_ember.ui.drawing.glyphs import paint_verb
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import fill_box, theme_of

__all__ = ["FORGE", "SCREENS", "Rail"]

SCREENS = (("shape", "Shape"), ("stock", "Stock"), ("mark", "Mark"), ("heats", "Heats"), ("cut", "Cut"), ("book", "Book"))

FORGE = len(SCREENS)  # the verb that fills the whole screen
_TALL, _LEAST = 92, 62  # px, of a target; where the window is low


class Rail(QWidget):
    """Large targets; Up and Down move between them."""

    chosen = Signal(int)
    painted_first = Signal()  # it is on every screen: when it has been painted the window has

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session, self.current, self._painted = session, 0, False
        self.setFixedWidth(88)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        session.restyled.connect(self.update)
        self.show_current(0)

    def show_current(self, index: int) -> None:
        """Mark the screen in sight."""
        self.current = index
        self.setAccessibleName(f"Screen {SCREENS[index][1]}, {index + 1} of {len(SCREENS)}")
        self.update()

    @property
    def _tall(self) -> float:
        return float(min(max(self.height() // (FORGE + 1), _LEAST), _TALL))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Choose a screen."""
        index = int(event.position().y() // self._tall)
        if index <= FORGE:
            self.chosen.emit(index)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Choose the next or the previous screen."""
        step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()), 0)
        if step:
            self.chosen.emit((self.current + step) % len(SCREENS))
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Sign over word; the current one on a bar of accent."""
        if not self._painted:
            self._painted = True
            QTimer.singleShot(0, self, self.painted_first.emit)
        painter, theme = QPainter(self), theme_of(self._session)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        fill_box(painter, self.rect(), theme.colour("panel"))
        tall = self._tall
        for i, (verb, word) in enumerate((*SCREENS, ("forge", "Forge"))):
            top, here = i * tall, i == self.current
            if here:
                fill_box(painter, QRectF(0, top, self.width(), tall), theme.colour("accent"))
            role = "on_accent" if here else "ink"
            paint_verb(painter, verb, QRectF(24, top + 0.15 * tall, 40, 0.39 * tall), theme, role)
            painter.setFont(font(17, 600))
            painter.setPen(theme.colour(role))
            painter.drawText(QRectF(0, top + 0.59 * tall, self.width(), 0.28 * tall), Qt.AlignmentFlag.AlignCenter, word)
        painter.setPen(QPen(theme.colour("line"), 1))
        painter.drawLine(self.width() - 1, 0, self.width() - 1, self.height())
        if self.hasFocus():
            painter.setPen(QPen(theme.colour("ink"), 2, Qt.PenStyle.DotLine))
            painter.drawRect(QRectF(4, self.current * tall + 4, self.width() - 8, tall - 8))
