"""Entries bound to a field of the piece: every keystroke that can be read is in force at once."""

from __future__ import annotations

import math

from PySide6.QtCore import QEvent, QObject, QPointF, Qt, Signal
from PySide6.QtGui import QFocusEvent, QKeyEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PySide6.QtWidgets import QComboBox, QLineEdit, QWidget

from long_ember.desk.session import Session
from long_ember.document import FieldAddress
from long_ember.errors import EmberError
from long_ember.fields import Field, Length, Mass, Number, choices_of
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import theme_of
from long_ember.ui.widgets.beside import mark_fault
from long_ember.units import Measure

__all__ = ["ChoiceBox", "ChoiceField", "EntryField", "waits_for"]

_HAIR = 1e-6  # of a step: it stands on one
_ROWS = 14  # of a list that are in sight at once
_OWN_KEYS = frozenset(
    {Qt.Key.Key_A, Qt.Key.Key_C, Qt.Key.Key_V, Qt.Key.Key_X, Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Home, Qt.Key.Key_End,
     Qt.Key.Key_Backspace, Qt.Key.Key_Delete, Qt.Key.Key_Insert}
)  # fmt: skip


def _is_command(event: QKeyEvent) -> bool:
    return bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier) and Qt.Key(event.key()) not in _OWN_KEYS


def waits_for(line: QLineEdit, spec: Field) -> None:
    """Have a line take what an instrument measures, if its field is of that kind."""
    line.setProperty("measures", "length" if isinstance(spec, Length) else "mass" if isinstance(spec, Mass) else "")


class EntryField(QLineEdit):
    """A line for one field.

    What is typed is shown as soon as it can be read, and counts with Enter, Tab or leaving; Escape takes it back. What can't be read shows nothing
    new: the line is marked, beside it stands what would work, and the old value stays in force.
    """

    finished = Signal()

    def __init__(self, session: Session, address: FieldAddress, parent: QWidget | None = None, *, size: int = 17) -> None:
        super().__init__(parent)
        self._session, self.address, self._typing, self._busy = session, address, False, False
        self._began = (0, 0)
        self._shown: tuple[object, Measure, str] | None = None  # of what, in which measure, and its text
        self.setFont(font(size, 500))
        spec = address.spec(session.piece)
        self.setAccessibleName(spec.label)
        self.setToolTip(spec.tip)
        waits_for(self, spec)
        if spec.optional:
            self.setPlaceholderText(spec.tip if isinstance(spec, Length) else "as the bar")
        self.textEdited.connect(self._edited)
        session.refreshed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show the value in force, unless it is being typed right now."""
        if self._typing and self._began != self._session.document.steps_taken:  # something else was done, or taken back
            self._typing = False
        if self._busy or self._typing:
            return
        model, measure, shown = self.address.model(self._session.piece), self._session.measure, self._shown
        if model is None or (shown is not None and shown[0] is model and shown[1] == measure and shown[2] == self.text()):
            return
        mark_fault(self, "")
        text = self.address.text(self._session.piece, measure)
        self._shown = (model, measure, text)
        if text != self.text():
            self.setText(text)
            if not self.hasFocus():
                self.setCursorPosition(0)  # of what does not fit the beginning is in sight

    def _edited(self, text: str) -> None:
        if self.address.gone(self._session.document.settled):  # nobody can want anything of it
            self._typing = False
            return
        if not self._typing:
            self._session.document.settle()  # what is typed elsewhere and not taken yet stands
            self._typing, self._began = True, self._session.document.steps_taken
        session, self._busy = self._session, True
        settled = session.document.settled
        try:
            session.attempt_typed(self.address.edit(settled, text, session.measure))
        except EmberError as error:
            session.document.withdraw()
            kept = self.address.text(settled, session.measure) or "as the bar"
            told = f"{error}. Still {kept}.".replace("..", ".")
            mark_fault(self, told)
            session.said.emit(told, True)
        else:
            mark_fault(self, "")
            session.said.emit(self._reading(text), False)
        finally:
            self._busy = False

    def _reading(self, text: str) -> str:
        """How the entry was read, where that is not plain from what was typed."""
        piece, measure = self._session.piece, self._session.measure
        spec = self.address.spec(piece)
        shown = self.address.text(piece, measure)
        if not spec.reworded or shown.replace(" ", "").startswith(text.replace(" ", "")):
            return ""
        return f"Read as {shown}." if text.strip() else ""

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Ctrl and a key is a command of the window, as everywhere else; a line keeps only copy, cut, paste and moving about."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride and _is_command(event):
            event.ignore()
            return True
        return super().eventFilter(watched, event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Enter ends the edit, Escape takes it back."""
        if _is_command(event):
            event.ignore()
        elif event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self._stepped(1 if event.key() == Qt.Key.Key_Up else -1, bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._leave()
            self.selectAll()
            self.finished.emit()
        elif event.key() == Qt.Key.Key_Escape:
            self.restore()
            self.finished.emit()
        else:
            super().keyPressEvent(event)

    @property
    def unfinished(self) -> bool:
        """What stands here is tried and not taken yet, or was refused."""
        return self._typing or bool(self.property("fault"))

    def restore(self) -> None:
        """Show what is in force; what was tried or refused is as if it had never been typed."""
        self._typing, self._shown = False, None
        self._session.document.withdraw()
        self.refresh()
        self._session.said.emit("", False)

    def wheelEvent(self, event: QWheelEvent) -> None:
        """A step of the ruler, of five degrees, of a quarter turn, of one; ten with Shift. Only where it is being typed."""
        if self.hasFocus() and event.angleDelta().y():
            self._stepped(1 if event.angleDelta().y() > 0 else -1, bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
            event.accept()
        else:
            event.ignore()

    def _stepped(self, by: int, ten: bool) -> None:
        session = self._session
        if self.address.gone(session.piece):
            return
        spec, model = self.address.spec(session.piece), self.address.model(session.piece)
        value = getattr(model, self.address.name)
        if not isinstance(spec, Number) or value is None:
            return
        step = spec.step(session.shop.division) * (10 if ten else 1)
        at = value / step
        on = abs(at - round(at)) < _HAIR
        wanted = max(round(at) + by if on else math.floor(at) + (by > 0), 0 if spec.low <= 0 else 1) * step
        self.setText(spec.show(min(max(wanted, spec.low), spec.high), session.measure))
        self._edited(self.text())

    def focusInEvent(self, event: QFocusEvent) -> None:
        """Typing replaces what is there."""
        super().focusInEvent(event)
        self.installEventFilter(self)  # while it is typed into: what every line of a window is told would take longer than to draw them
        if event.reason() != Qt.FocusReason.PopupFocusReason:
            self.selectAll()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        """Leaving ends the edit; what could not be read stays marked, and the old value in force."""
        super().focusOutEvent(event)
        self.removeEventFilter(self)
        self._leave()

    def _leave(self) -> None:
        if self._typing:
            self._typing = False
            self._session.settle()
            if not self.property("fault"):
                self._session.said.emit("", False)
        if not self.property("fault"):
            self.refresh()


class ChoiceBox(QComboBox):
    """A list of words with a chevron of its own: a styled combo box shows none."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.setMaxVisibleItems(_ROWS)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows open the list: nothing is chosen before Enter."""
        if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_PageUp, Qt.Key.Key_PageDown):
            self.showPopup()
        else:
            super().keyPressEvent(event)

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Whoever scrolls the page chooses nothing."""
        event.ignore()

    def paintEvent(self, event: QPaintEvent) -> None:
        """The plain box, then the chevron."""
        super().paintEvent(event)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(theme_of(self._session).colour("muted"), 2))
        x, y = self.width() - 16, self.height() / 2
        painter.drawPolyline([QPointF(x - 5, y - 2), QPointF(x, y + 3), QPointF(x + 5, y - 2)])


class ChoiceField(ChoiceBox):
    """A field with a few words to choose from."""

    def __init__(self, session: Session, address: FieldAddress, parent: QWidget | None = None) -> None:
        super().__init__(session, parent)
        self.address = address
        self.setFont(font(16))
        spec = address.spec(session.piece)
        self.setAccessibleName(spec.label)
        self.setToolTip(spec.tip)
        for value, words in choices_of(address.model(session.piece), address.name):
            self.addItem(words.split(":")[0], value)
            self.setItemData(self.count() - 1, words, Qt.ItemDataRole.ToolTipRole)
        self.activated.connect(self._chosen)
        session.refreshed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show the value in force."""
        model = self.address.model(self._session.piece)
        if model is not None:
            self.setCurrentIndex(self.findData(getattr(model, self.address.name)))

    def _chosen(self, index: int) -> None:
        session = self._session
        if self.address.gone(session.piece):
            return
        try:
            session.apply(self.address.edit(session.piece, str(self.itemData(index)), session.measure))
            session.said.emit("", False)
        except EmberError as error:
            session.said.emit(f"Nothing changed. {error}", True)
            self.refresh()
