"""Name, bar and material of the piece, units and theme."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtWidgets import QHBoxLayout, QLabel, QToolButton, QWidget

from long_ember.document import Slot
from long_ember.shop import DENOMINATORS
from long_ember.ui.entry import Choice, ChoiceField, EntryField
from long_ember.ui.fonts import font
from long_ember.ui.session import Session

__all__ = ["Header"]


class Header(QWidget):
    """One row above every screen."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.name = EntryField(session, Slot("", "name"), size=20)
        self.bar = EntryField(session, Slot("", "bar"), size=20)
        self.material = ChoiceField(session, Slot("", "material"))
        self.units = Choice(session)
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
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 6, 16, 2)
        row.setSpacing(10)
        row.addWidget(self.name, 3)
        row.addWidget(_caption("Bar"))
        row.addWidget(self.bar, 2)
        row.addWidget(_caption("of"))
        row.addWidget(self.material, 1)
        row.addSpacing(18)
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
