"""An assembly as solids, together or taken apart; a drag turns it."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, QTimer
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from long_ember.assemblies import Assembled
from long_ember.desk.session import Session
from long_ember.ui.drawing.paint import View, paint_balance, text_box
from long_ember.ui.drawing.smooth import Hand, SmoothSolid
from long_ember.ui.drawing.solid import Solid
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import theme_of

__all__ = ["AssemblyCanvas"]

_EDGE = 46  # px left free about the solids
_TURNS = {Qt.Key.Key_Left: (-0.15, 0.0), Qt.Key.Key_Right: (0.15, 0.0), Qt.Key.Key_Up: (0.0, -0.15), Qt.Key.Key_Down: (0.0, 0.15)}


class AssemblyCanvas(QWidget):
    """The picture of an assembly; arrows or a drag turn it."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.found: Assembled | None = None
        self.share = 0.0
        self._hand = Hand(0.45, 0.35)
        self._solid: Solid | None = None
        self._names: list[tuple[str, np.ndarray]] = []
        self._smooth = SmoothSolid(session, self)
        self._rest = QTimer(self, singleShot=True, interval=160)
        self._rest.timeout.connect(self.update)
        self.setMinimumSize(320, 220)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("The assembly, turned by a drag or the arrow keys")
        session.restyled.connect(self.update)

    def show_assembled(self, found: Assembled | None) -> None:
        """Draw another assembly, or the same after a change."""
        self.found = found
        self._gather()

    def take_apart(self, share: float) -> None:
        """How far the parts stand apart, 0 to 1."""
        self.share = share
        self._gather()
        self._rest.start()

    def _gather(self) -> None:
        self._solid, self._names = None, []
        if self.found is not None and self.found.placed:
            together = np.vstack([b.mesh.points for b in self.found.solids()])
            gap = self.share * max(0.4 * float(np.ptp(together, axis=0).max()), 40.0)
            self._solid = Solid(self.found.solids(gap))
            for part in self.found.placed:
                points = np.vstack([b.mesh.points for b in part.solids]) + part.way * gap
                self._names.append((part.name, (points.min(axis=0) + points.max(axis=0)) / 2))
        self.update()

    def turn(self, yaw: float, pitch: float) -> None:
        """Turn about the upright and tip, rad."""
        self._hand.turn(yaw, pitch)
        self._rest.start()
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take hold."""
        self._hand.take(event.position())
        self.setFocus()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Turn."""
        if event.buttons() and (by := self._hand.drag(event.position())):
            self.turn(*by)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows turn."""
        step = _TURNS.get(Qt.Key(event.key()))
        if step is None:
            super().keyPressEvent(event)
        else:
            self.turn(*step)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Solids, names, and where it balances."""
        painter, theme = QPainter(self), theme_of(self._session)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.colour("paper"))
        if self._solid is None or self.found is None:
            middle = QPointF(self.width() / 2, self.height() / 2)
            text_box(painter, "Nothing to put together yet. Add two pieces of the book as parts,", middle, font(19, 500), theme)
            words = "then say where they meet: a tenon in a hole, a rivet, a pin in an eye, a ring on a staple."
            text_box(painter, words, middle + QPointF(0, 30), font(16), theme, role="muted")
            return
        look = self._hand.look
        points = self._solid.points @ look.T
        low, high = points.min(axis=0), points.max(axis=0)
        size = np.maximum(high - low, 1e-6)
        scale = float(min((self.width() - 2 * _EDGE) / size[0], (self.height() - 2 * _EDGE) / size[1]))
        middle_x, middle_y = ((low + high) / 2)[:2].tolist()
        view = View(scale, self.width() / 2 - middle_x * scale, self.height() / 2 + middle_y * scale)
        self._smooth.paint(painter, self._solid, look, view, QRectF(self.rect()), moving=self._rest.isActive())
        for name, at in self._names:
            if name not in ("rivet", "handle"):
                text_box(painter, name, view.point(look @ at), font(16, 600), theme)
        if not self.share:
            paint_balance(painter, view.point(look @ np.array(self.found.weight.centre)), theme)
