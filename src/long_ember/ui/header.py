"""Name, bar and material of the piece, units and theme."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtWidgets import QHBoxLayout, QLabel, QToolButton, QWidget

from long_ember.desk.session import Session
from long_ember.document import FieldAddress
from long_ember.records import DENOMINATORS
from long_ember.ui.style.fonts import font
from long_ember.ui.widgets.entry import ChoiceBox, ChoiceField, EntryField

__all__ = ["Header"]


class Header(QWidget):
    """One row above every screen."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.name = EntryField(session, FieldAddress("", "name"), size=20)
        self.bar = EntryField(session, FieldAddress("", "bar"), size=20)
        self.material = ChoiceField(session, FieldAddress("", "material"))
        self.units = ChoiceBox(session)
        self.units.setFont(font(16, 500))
        self.units.setAccessibleName("Units")
        self.units.setToolTip("How lengths are shown, and the unit of a bare number. Stored sizes do not change.")
        self.units.addItem("mm", ("mm", ""))
        for d in DENOMINATORS:
            self.units.addItem(f"inch, 1\u2044{d}", ("in", str(d)))
        self.units.activated.connect(self._choose_units)
        self.theme = QToolButton()
        self.theme.setFont(font(16, 500))
        self.theme.setToolTip("Light for daylight, dark for the shop")
        self.theme.clicked.connect(self.toggle_theme)
        piece = self._piece = QWidget()
        inner = QHBoxLayout(piece)
        inner.setContentsMargins(0, 0, 18, 0)
        inner.setSpacing(10)
        inner.addWidget(self.name, 3)
        inner.addWidget(_caption("Bar"))
        inner.addWidget(self.bar, 2)
        inner.addWidget(_caption("of"))
        inner.addWidget(self.material, 1)
        self.title = QLabel()
        self.title.setFont(font(22, 600))
        self.title.hide()
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 6, 16, 2)
        row.setSpacing(10)
        row.addWidget(piece, 1)
        row.addWidget(self.title, 1)
        row.addWidget(self.units)
        row.addWidget(self.theme)
        session.refreshed.connect(self.refresh)
        session.restyled.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Show units and theme in force."""
        shop = self._session.shop
        index = 0 if shop.unit == "mm" else 1 + DENOMINATORS.index(int(shop.denominator))
        self.units.setCurrentIndex(index)
        self.theme.setText("Dark" if self._session.settings.theme == "light" else "Light")

    def show_title(self, words: str) -> None:
        """Words in the place of the piece; "" for the piece again."""
        self.title.setText(words)
        self.title.setVisible(bool(words))
        self._piece.setVisible(not words)

    def toggle_theme(self) -> None:
        """Light to dark and back."""
        settings = self._session.settings
        self._session.configure(replace(settings, theme="dark" if settings.theme == "light" else "light"))

    def toggle_units(self) -> None:
        """mm to inch and back."""
        shop = self._session.shop
        self._session.set_shop(replace(shop, unit="in" if shop.unit == "mm" else "mm"))

    def _choose_units(self, index: int) -> None:
        unit, denominator = self.units.itemData(index)
        shop = self._session.shop
        self._session.set_shop(replace(shop, unit=unit, denominator=denominator or shop.denominator))


def _caption(text: str) -> QLabel:
    label = QLabel(text)
    label.setFont(font(16))
    label.setProperty("role", "muted")
    return label
