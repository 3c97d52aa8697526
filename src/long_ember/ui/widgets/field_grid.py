"""Labelled entries in columns."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from PySide6.QtWidgets import QGridLayout, QLabel, QWidget

from long_ember.desk.session import Session
from long_ember.document import FieldAddress
from long_ember.fields import Choice, Field
from long_ember.ui.style.fonts import font
from long_ember.ui.widgets.entry import ChoiceField, EntryField

__all__ = ["COLUMNS", "FieldGrid"]

COLUMNS = 4
_WIDTHS = (
    (COLUMNS, 112, 170),
    (6, 100, 118),
    (7, 88, 102),
    (99, 76, 90),
)  # up to so many columns: least and greatest width of an entry, px


class FieldGrid(QWidget):
    """Labelled entries for the fields of one part of the piece.

    Args:
        session: whose piece it is.
        addresses: addresses of the fields.
        columns: how many stand beside each other.
        kinds: widgets for kinds of fields that only some screens have.
    """

    def __init__(
        self,
        session: Session,
        addresses: list[FieldAddress],
        columns: int = COLUMNS,
        kinds: Mapping[type[Field], Callable[..., Any]] | None = None,
    ) -> None:
        super().__init__()
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(14)
        grid.setVerticalSpacing(2)
        self.fields: list[Any] = []
        for i, address in enumerate(addresses):
            spec = address.spec(session.piece)
            label = QLabel(spec.label)
            label.setFont(font(14, 500))
            label.setProperty("role", "muted")
            made: dict[type[Field], Callable[..., Any]] = {Choice: ChoiceField, **(kinds or {})}
            field = made.get(type(spec), EntryField)(session, address)
            least, most = next(sizes for most_columns, *sizes in _WIDTHS if columns <= most_columns)
            field.setMinimumWidth(least)
            field.setMaximumWidth(most)
            label.setBuddy(field)
            row, column = divmod(i, columns)
            grid.addWidget(label, row * 2, column)
            grid.addWidget(field, row * 2 + 1, column)
            self.fields.append(field)
        grid.setRowStretch(grid.rowCount(), 1)
