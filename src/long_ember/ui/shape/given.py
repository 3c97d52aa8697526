"""The sum turned round: give a feature so much bar, and let one of its sizes follow."""

from __future__ import annotations

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QWidget

from long_ember.desk.session import Session
from long_ember.document import give_bar
from long_ember.errors import EntryError
from long_ember.features import stock_of
from long_ember.features.solve import free_names
from long_ember.fields import specs
from long_ember.ui.style.fonts import font
from long_ember.ui.widgets.entry import ChoiceBox
from long_ember.units import parse_length

__all__ = ["GivenBar"]


class _Length(QLineEdit):
    """Enter takes it, Escape leaves it."""

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Escape clears."""
        if event.key() == Qt.Key.Key_Escape:
            self.clear()
        else:
            super().keyPressEvent(event)


class GivenBar(QWidget):
    """`Give it [40 mm] of bar by changing [Length]`, for the selected feature."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.length = _Length()
        self.length.setFont(font(16, 500))
        self.length.setFixedWidth(112)
        self.length.setAccessibleName("Bar given to this feature")
        self.length.setToolTip(
            "Type a length and press Enter: the size named beside it is changed until the feature takes just that much bar."
        )
        self.free = ChoiceBox(session)
        self.free.setFont(font(15))
        self.free.setSizeAdjustPolicy(ChoiceBox.SizeAdjustPolicy.AdjustToContents)
        self.free.setAccessibleName("Size that follows")
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        for widget in (_word("Give it"), self.length, _word("of bar by changing the"), self.free):
            row.addWidget(widget)
        row.addStretch(1)
        self.length.returnPressed.connect(self.give)
        self._later = QTimer(self, singleShot=True, interval=150)  # grey words can wait for a pause in the typing
        self._later.timeout.connect(self._show)
        session.refreshed.connect(self._later.start)
        self._names: tuple[str, ...] = ()
        self.follow()

    def follow(self) -> None:
        """Offer the sizes of the feature that is selected now."""
        session = self._session
        index = session.piece.index(session.selection)
        names = free_names(session.piece.features[index]) if index >= 0 else ()
        self.setVisible(bool(names))
        if names != self._names and index >= 0:
            self._names = names
            self.free.clear()
            for name in names:
                self.free.addItem(specs(session.piece.features[index])[name].label.lower(), name)
        self._show()

    def _show(self) -> None:
        """The bar it takes now, in grey."""
        session = self._session
        index = session.piece.index(session.selection)
        if index >= 0 and self.isVisible():
            self.length.setPlaceholderText(session.measure.length(stock_of(session.piece.features[index], session.piece.place(index))))

    def give(self) -> bool:
        """Carry it out; what can't be read or has no answer is explained, and nothing changes."""
        session = self._session
        try:
            stock = parse_length(self.length.text(), unit=session.measure.unit, thickness=session.piece.bar.thickness)
        except EntryError as error:
            session.said.emit(f"Nothing changed. {error}.", True)
            return False
        done = session.attempt(give_bar, session.selection, str(self.free.currentData()), stock)
        if done:
            self.length.clear()
        return done


def _word(text: str) -> QLabel:
    label = QLabel(text)
    label.setFont(font(14, 500))
    label.setProperty("role", "muted")
    return label
