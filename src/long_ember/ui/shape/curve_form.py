"""A line of a drawing: which one, how large it is meant, and the bends that follow it, laid over it."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QDialog, QHBoxLayout, QLabel, QLineEdit, QVBoxLayout, QWidget

from long_ember.arrays import Array
from long_ember.desk.session import Session
from long_ember.errors import EmberError
from long_ember.features import Arc, Corner, Straight
from long_ember.features.traced import course_text
from long_ember.geometry import follow
from long_ember.photos import strays_of
from long_ember.ui.drawing.paint import View, gaps
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import theme_of
from long_ember.ui.widgets.buttons import worded
from long_ember.ui.widgets.entry import ChoiceBox
from long_ember.units import MM_PER, parse_length

__all__ = ["CurveForm"]

_NEAR = 18.0  # px within which a line is pressed
_PIXEL = 25.4 / 96.0  # mm


class _Sheet(QWidget):
    """All lines of the drawing, the chosen one heavy, the course over it; a press chooses."""

    chosen = Signal(int)

    def __init__(self, session: Session, curves: Sequence[Array]) -> None:
        super().__init__()
        self._session, self.curves, self.at = session, curves, 0
        self.course: Array | None = None  # mm of the drawing
        self.setMinimumSize(QSize(520, 300))
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Lines of the drawing: press one, or choose with the arrows")

    def _view(self) -> View:
        points = np.vstack(self.curves)
        low, high = points.min(axis=0), points.max(axis=0)
        return View.fitting((*low.tolist(), *high.tolist()), QRectF(self.rect()).adjusted(20, 20, -20, -20))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """The nearest line."""
        view, at = self._view(), np.array([event.position().x(), event.position().y()])
        far = [float(gaps(at, view.points(c)).min()) for c in self.curves]
        nearest = int(np.argmin(far))
        if far[nearest] <= _NEAR:
            self.chosen.emit(nearest)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """The next one, or the one before."""
        step = {Qt.Key.Key_Right: 1, Qt.Key.Key_Down: 1, Qt.Key.Key_Left: -1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()), 0)
        if step:
            self.chosen.emit((self.at + step) % len(self.curves))
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Lines, the chosen one on top, what follows it over that."""
        painter, theme, view = QPainter(self), theme_of(self._session), self._view()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.colour("panel"))
        for i, curve in sorted(enumerate(self.curves), key=lambda one: one[0] == self.at):
            painter.setPen(QPen(theme.colour("accent" if i == self.at else "muted"), 5.0 if i == self.at else 1.2))
            painter.drawPolyline(QPolygonF([QPointF(x, y) for x, y in view.points(curve).tolist()]))
        if self.course is not None:
            painter.setPen(QPen(theme.colour("panel"), 2.0, Qt.PenStyle.DashLine))
            painter.drawPolyline(QPolygonF([QPointF(x, y) for x, y in view.points(self.course).tolist()]))
        if self.hasFocus():
            painter.setPen(QPen(theme.colour("accent"), 2))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 6, 6)


class CurveForm(QDialog):
    """Which line, its scale, what follows it."""

    def __init__(self, session: Session, name: str, curves: Sequence[Array], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self._curves = session, curves
        self._figure = _PIXEL if name.lower().endswith(".svg") else 1.0  # mm that a bare figure of the drawing is taken for
        self.course = ""
        self.setWindowTitle(f"A line of {name}")
        self.resize(860, 620)
        self.sheet = _Sheet(session, curves)
        self.sheet.chosen.connect(self._choose)
        self.scale = ChoiceBox(session)
        self.scale.setAccessibleName("Scale")
        for words, key in (
            ("as the drawing says", "own"), ("its figures are mm", "mm"), ("its figures are inches", "in"), ("the line is, along it,", "length"),
        ):  # fmt: skip
            self.scale.addItem(words, key)
        self.scale.activated.connect(lambda _index: self.renew())
        self.length = QLineEdit()
        self.length.setAccessibleName("Length along the line")
        self.length.textEdited.connect(lambda _text: self.renew())
        self.told = QLabel()
        self.told.setWordWrap(True)
        self.told.setMinimumHeight(52)
        for part, size in ((self.scale, 17), (self.length, 18), (self.told, 17)):
            part.setFont(font(size, 500))
        self.done_button = worded("Add it behind the chosen feature", self.accept, weight=600)
        self.done_button.setDefault(True)
        row = QHBoxLayout()
        label = QLabel("Scale")
        label.setFont(font(16))
        label.setBuddy(self.scale)
        row.addWidget(label)
        row.addWidget(self.scale)
        row.addWidget(self.length)
        row.addStretch(1)
        last = QHBoxLayout()
        last.addStretch(1)
        last.addWidget(worded("Leave it", self.reject))
        last.addWidget(self.done_button)
        column = QVBoxLayout(self)
        column.addWidget(self.sheet, 1)
        column.addLayout(row)
        column.addWidget(self.told)
        column.addLayout(last)
        self._choose(0)
        self.sheet.setFocus()

    def _choose(self, at: int) -> None:
        self.sheet.at = at
        self.length.setText(self._session.measure.edit_text(round(self._long(), 2)))
        self.renew()

    def _long(self) -> float:
        return float(np.hypot(*np.diff(self._curves[self.sheet.at], axis=0).T).sum())

    def _factor(self) -> float:
        """Times what the drawing says."""
        key = self.scale.currentData()
        if key == "length":
            return parse_length(self.length.text(), unit=self._session.measure.unit) / self._long()
        return {"own": 1.0, "mm": 1.0 / self._figure, "in": MM_PER["in"] / self._figure}[key]

    def renew(self) -> None:
        """Follow the line at its scale."""
        m = self._session.measure
        self.length.setVisible(self.scale.currentData() == "length")
        self.course, self.sheet.course = "", None
        try:
            factor = self._factor()
            curve = self._curves[self.sheet.at] * factor
            segments = follow(curve)
            far, laid = strays_of(segments, curve)
            self.course, self.sheet.course = course_text(segments), laid / factor
            counts = [sum(isinstance(s, kind) for s in segments) for kind in (Straight, Arc, Corner)]
            words = [f"{n} {noun}{'s' if n != 1 else ''}" for n, noun in zip(counts, ("straight", "bend", "corner"), strict=True) if n]
            self.told.setText(f"{m.length(self._long() * factor)} along it: {', '.join(words)}, at most {m.fine(far)} off the line.")
        except (EmberError, ArithmeticError) as error:
            self.told.setText(f"! {error}")
        self.done_button.setEnabled(bool(self.course))
        self.sheet.update()
