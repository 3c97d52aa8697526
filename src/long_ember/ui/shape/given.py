"""The sum turned round: give a feature so much bar, and let one of its sizes follow."""

from __future__ import annotations

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QKeyEvent, QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QWidget

from long_ember.desk.session import Session
from long_ember.document import cover, give_bar
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

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
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
        self._words = _word("Give it"), _word("of bar by changing the")
        for widget in (self._words[0], self.length, self._words[1], self.free):
            row.addWidget(widget)
        row.addStretch(1)
        self.length.returnPressed.connect(self.give)
        self._later = QTimer(self, singleShot=True, interval=150)  # grey words can wait for a pause in the typing
        self._later.timeout.connect(self._show)
        session.refreshed.connect(self._later.start)
        self._names: tuple[str, ...] = ()
        self.follow()

    def showEvent(self, event: QShowEvent) -> None:
        """What changed while it was out of sight, the unit too."""
        super().showEvent(event)
        self._show()

    def follow(self) -> None:
        """Offer the sizes of the feature that is selected now."""
        session = self._session
        feature, laid = session.piece.feature(session.selection), session.piece.stands(session.selection) is not None
        names: tuple[str, ...] = ()
        if feature is not None and not (laid and feature.stands == "work"):  # a work covers what it is as large as
            names = tuple(n for n in free_names(feature) if not laid or n not in feature.of_bar)
        self.setVisible(bool(names))
        self._words[0].setText("Let it cover" if laid else "Give it")
        self._words[1].setText("of drawn bar by changing the" if laid else "of bar by changing the")
        if names != self._names and feature is not None:
            self._names = names
            self.free.clear()
            for name in names:
                self.free.addItem(specs(feature)[name].label.lower(), name)
        self._show()

    def _show(self) -> None:
        """The bar it takes now, in grey."""
        session = self._session
        index, piece = session.piece.index(session.selection), session.piece
        if not self.isVisible():
            return
        if index >= 0:
            self.length.setPlaceholderText(session.measure.length(stock_of(piece.features[index], piece.place(index))))
        elif piece.standing and (stand := piece.composition.stand(session.selection)) is not None:
            self.length.setPlaceholderText(session.measure.length(stand.covered))

    def give(self) -> bool:
        """Carry it out; what can't be read or has no answer is explained, and nothing changes."""
        session = self._session
        try:
            stock = parse_length(self.length.text(), unit=session.measure.unit, thickness=session.piece.bar.thickness)
        except EntryError as error:
            session.said.emit(f"Nothing changed. {error}.", True)
            return False
        way = give_bar if session.piece.index(session.selection) >= 0 else cover
        done = session.attempt(way, session.selection, str(self.free.currentData()), stock)
        if done:
            self.length.clear()
        return done


def _word(text: str) -> QLabel:
    label = QLabel(text)
    label.setFont(font(14, 500))
    label.setProperty("role", "muted")
    return label
