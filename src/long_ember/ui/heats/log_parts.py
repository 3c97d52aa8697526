"""What a log entry is filled in with: lines that say beside them what does not count, large keys, chips, and the piece to press on."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial
from typing import Any

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QButtonGroup, QGridLayout, QHBoxLayout, QLabel, QLineEdit, QPushButton, QVBoxLayout, QWidget

from long_ember.desk.session import Session
from long_ember.errors import EmberError
from long_ember.fields import Field, specs
from long_ember.geometry import piece_figure
from long_ember.records import Reject
from long_ember.ui.drawing.paint import View, paint_figure
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import theme_of
from long_ember.ui.widgets.buttons import worded
from long_ember.ui.widgets.entry import waits_for

__all__ = ["Chips", "LogLine", "PartPicker", "Rejects", "Stepper", "plain_label"]

_A_ROW = 4  # causes in a row


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
        waits_for(self.entry, spec)
        self.entry.setPlaceholderText(tip)
        self.said = plain_label("", 14, 500)
        self.said.setProperty("role", "fault")
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        self._name = plain_label("" if sunk else title)
        self._name.setBuddy(self.entry)
        row.addWidget(self._name)
        self._name.setVisible(not sunk)
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

    def retitle(self, title: str) -> None:
        """Call it otherwise."""
        self._name.setText(title)
        self.entry.setAccessibleName(title)

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


class Rejects(QWidget):
    """Why pieces were rejected: each tap on a cause counts one; a line for what was made of the last one's."""

    changed = Signal()

    def __init__(self, session: Session, causes: Sequence[tuple[str, str]]) -> None:
        super().__init__()
        self._words, self._counts, self._salvage = dict(causes), dict[str, int](), dict[str, str]()
        self._last: list[str] = []
        self.buttons: dict[str, QPushButton] = {}
        taps = QGridLayout()
        taps.setSpacing(6)
        taps.addWidget(plain_label("Rejected", 18, 500), 0, 0)
        for i, (cause, words) in enumerate(causes):
            button = self.buttons[cause] = worded(words, partial(self._tapped, cause), "One more that was rejected for this")
            button.setFont(font(16, 500))
            button.setMinimumSize(150, 44)
            taps.addWidget(button, i // _A_ROW, 1 + i % _A_ROW)
        self.less = worded("\u2212", self._untapped, "Take the last one back")
        self.less.setFont(font(24, 600))
        self.less.setFixedSize(52, 48)
        self.less.setAccessibleName("Rejected: one less")
        taps.addWidget(self.less, 0, 1 + _A_ROW)
        taps.setColumnStretch(2 + _A_ROW, 1)
        self.salvaged = LogLine(session, "Salvaged as", specs(Reject)["salvaged"], "", wide=300)
        self.salvaged.changed.connect(self._salvaged)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(taps)
        column.addWidget(self.salvaged)

    @property
    def fault(self) -> str:
        """Why what was typed does not count."""
        return self.salvaged.fault

    @property
    def value(self) -> tuple[Reject, ...]:
        """By cause, in the order of the first tap."""
        return tuple(Reject(cause=c, count=n, salvaged=self._salvage.get(c, "")) for c, n in self._counts.items())

    def show_value(self, rejects: Sequence[Reject]) -> None:
        """Those of an entry."""
        self._counts, self._salvage = {}, {}
        for r in rejects:
            self._counts[r.cause] = self._counts.get(r.cause, 0) + int(r.count)
            self._salvage[r.cause] = r.salvaged or self._salvage.get(r.cause, "")
        self._last = [r.cause for r in rejects for _one in range(int(r.count))]
        self._show()

    def _tapped(self, cause: str) -> None:
        self._counts[cause] = self._counts.get(cause, 0) + 1
        self._last.append(cause)
        self._show()
        self.changed.emit()

    def _untapped(self) -> None:
        if self._last:
            cause = self._last.pop()
            self._counts[cause] -= 1
            if not self._counts[cause]:
                del self._counts[cause]
            self._show()
            self.changed.emit()

    def _salvaged(self) -> None:
        if self._last and not self.salvaged.fault:
            self._salvage[self._last[-1]] = self.salvaged.value
        self.changed.emit()

    def _show(self) -> None:
        for cause, button in self.buttons.items():
            count = self._counts.get(cause, 0)
            button.setText(f"{self._words[cause]}  {count}" if count else self._words[cause])
            button.setFont(font(16, 700 if count else 500))
            button.setAccessibleName(f"Rejected because {self._words[cause]}: {count}")
        self.less.setEnabled(bool(self._last))
        self.salvaged.setVisible(bool(self._last))
        if self._last:
            words = self._words[self._last[-1]]
            self.salvaged.retitle(f"{words[:1].upper()}{words[1:]}: salvaged as")
            self.salvaged.show_value(self._salvage.get(self._last[-1], ""))


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
