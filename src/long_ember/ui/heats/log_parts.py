"""What a log entry is filled in with: lines that say beside them what does not count, large keys, chips, and the piece to press on."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from typing import Any

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QButtonGroup, QHBoxLayout, QLabel, QLineEdit, QPushButton, QWidget

from long_ember.desk.session import Session
from long_ember.errors import EmberError
from long_ember.fields import Field
from long_ember.geometry import piece_figure
from long_ember.ui.drawing.paint import View, paint_figure
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import theme_of
from long_ember.ui.widgets.buttons import worded

__all__ = ["Chips", "LogLine", "PartPicker", "Stepper", "plain_label"]


def plain_label(text: str, size: int = 16, weight: int = 400, role: str = "") -> QLabel:
    """Words at the size of the log."""
    label = QLabel(text)
    label.setFont(font(size, weight))
    if role:
        label.setProperty("role", role)
    return label


class LogLine(QWidget):
    """A name, a line to type in, and beside it why what was typed does not count."""

    changed = Signal()

    def __init__(
        self, session: Session, title: str, spec: Field, empty: object, *, wide: int = 130, tip: str = "", sunk: bool = False
    ) -> None:
        super().__init__()
        self._session, self._spec, self._empty = session, spec, empty
        self.value: Any = empty
        self.fault = ""
        self.entry = QLineEdit()
        self.entry.setFont(font(18, 500))
        self.entry.setMinimumHeight(42)
        self.entry.setMaximumWidth(wide)
        self.entry.setAccessibleName(title)
        self.entry.setToolTip(spec.tip)
        self.entry.setPlaceholderText(tip)
        self.said = plain_label("", 14, 500)
        self.said.setProperty("role", "fault")
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        if not sunk:
            name = plain_label(title)
            name.setBuddy(self.entry)
            row.addWidget(name)
        row.addWidget(self.entry, 3 if wide > 200 else 0)
        row.addWidget(self.said, 1)
        self.entry.textEdited.connect(self._typed)

    def _typed(self, text: str) -> None:
        self.value, self.fault = self._empty, ""
        if text.strip():
            try:
                self.value = self._spec.read(text, self._session.measure, self._session.piece.bar.thickness)
            except EmberError as error:
                self.fault = str(error)
        self.said.setText(f"! {self.fault}" if self.fault else "")
        self.changed.emit()

    def show_value(self, value: Any) -> None:
        """Put a value there; what says nothing leaves the line empty."""
        self.value, self.fault = value, ""
        self.entry.setText("" if value == self._empty else self._spec.show(value, self._session.measure))
        self.said.setText("")


class Stepper(QWidget):
    """A whole number with a large key on either side."""

    changed = Signal()

    def __init__(self, title: str, value: int, most: int = 1000) -> None:
        super().__init__()
        self.value, self._most = value, most
        self._shown = plain_label(str(value), 26, 600)
        self._shown.setMinimumWidth(52)
        self._shown.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self._shown.setAccessibleName(title)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(plain_label(title, 18, 500))
        self.keys = {}
        for text, by in (("\u2212", -1), ("+", 1)):
            key = self.keys[by] = worded(text, partial(self._step, by))
            key.setFont(font(24, 600))
            key.setFixedSize(52, 48)
            key.setAccessibleName(f"{title}: one {'more' if by > 0 else 'less'}")
        row.addWidget(self.keys[-1])
        row.addWidget(self._shown)
        row.addWidget(self.keys[1])

    def _step(self, by: int) -> None:
        self.show_value(self.value + by)
        self.changed.emit()

    def show_value(self, value: int) -> None:
        """Another number."""
        self.value = min(max(value, 0), self._most)
        self._shown.setText(str(self.value))


class Chips(QWidget):
    """A few words or numbers, one of them or none; a second press lets go."""

    changed = Signal()

    def __init__(self, title: str, choices: Sequence[tuple[Any, str]], *, size: int = 18) -> None:
        super().__init__()
        self.value: Any = None
        self._group = QButtonGroup(self)
        self._group.setExclusive(False)
        self.buttons: dict[Any, QPushButton] = {}
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(6)
        for value, words in choices:
            button = self.buttons[value] = worded(words, partial(self._pressed, value))
            button.setFont(font(size, 500))
            button.setCheckable(True)
            button.setMinimumHeight(44)
            button.setMinimumWidth(48)
            button.setAccessibleName(f"{title}: {words}")
            row.addWidget(button)
        row.addStretch(1)

    def _pressed(self, value: Any) -> None:
        self.show_value(None if self.value == value else value)
        self.changed.emit()

    def show_value(self, value: Any) -> None:
        """Choose one, or none."""
        self.value = value
        for own, button in self.buttons.items():
            button.setChecked(own == value)


class PartPicker(QWidget):
    """The piece; a press on a part chooses it."""

    chosen = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session, self.current = session, ""
        self._figure = piece_figure(session.piece)
        self.setMinimumHeight(120)
        self.setAccessibleName("The piece: press the part that you have measured")
        self.setCursor(Qt.CursorShape.PointingHandCursor)

    def sizeHint(self) -> QSize:
        """Wide and low."""
        return QSize(420, 130)

    def _view(self) -> View:
        return View.fitting(self._figure.bounds, QRectF(self.rect()).adjusted(10, 10, -10, -10), most=6.0)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Its figure, the chosen part marked."""
        painter, theme = QPainter(self), theme_of(self._session)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.colour("paper"))
        paint_figure(painter, self._figure, self._view(), theme, chosen=self.current)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """The nearest part."""
        view, at = self._view(), event.position()
        x0, y0, x1, y1 = self._figure.boxes.T

        def away(i: int) -> float:
            a, b = view.point((float(x0[i]), float(y0[i]))), view.point((float(x1[i]), float(y1[i])))  # type: ignore[arg-type]
            box = QRectF(a, b).normalized()
            near = QPointF(min(max(at.x(), box.left()), box.right()), min(max(at.y(), box.top()), box.bottom()))
            off = at - near
            return float(QPointF.dotProduct(off, off) * 1e6 + box.width() * box.height())

        if self._figure.parts:
            self.choose(self._figure.parts[min(range(len(self._figure.parts)), key=away)].id)

    def choose(self, feature_id: str) -> None:
        """Mark a part."""
        self.current = feature_id
        self.chosen.emit(feature_id)
        self.update()
