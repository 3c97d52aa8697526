"""Labelled entries in columns."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from PySide6.QtGui import QFontMetrics
from PySide6.QtWidgets import QGridLayout, QLabel, QWidget

from long_ember.desk.session import Session
from long_ember.document import FieldAddress
from long_ember.fields import Choice, Course, Field, Landmark, Number, SectionField, choices_of
from long_ember.ui.style.fonts import font
from long_ember.ui.widgets.entry import ChoiceField, EntryField

__all__ = ["COLUMNS", "FieldGrid"]

COLUMNS = 4
_FEW = 112, 170, 200  # px: least and usual width of an entry where there are few columns, and what the longest may ask for
_WIDE = 880  # px: of all of them together where there are many
_GAP, _LEAST = 12, 76
_NEED: dict[type[Field], int] = {
    Number: 94,
    SectionField: 128,
    Course: 230,
    Landmark: 176,
    Choice: 160,
}  # px that a kind of field wants, a choice by its words
_CHEVRON, _MARGINS = 50, 26  # px beside the words of a choice, and of an entry


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
        grid.setHorizontalSpacing(_GAP)
        grid.setVerticalSpacing(2)
        self.fields: list[Any] = []
        widths = _widths(session, addresses, columns)
        for i, address in enumerate(addresses):
            spec = address.spec(session.piece)
            label = QLabel(spec.label)
            label.setFont(font(14, 500))
            label.setProperty("role", "muted")
            made: dict[type[Field], Callable[..., Any]] = {Choice: ChoiceField, **(kinds or {})}
            field = made.get(type(spec), EntryField)(session, address)
            if columns <= COLUMNS:
                need = _need(session, address)
                field.setMinimumWidth(max(_FEW[0], min(need, _FEW[2])))
                field.setMaximumWidth(max(_FEW[1], need))
            else:
                field.setFixedWidth(widths[i % columns])
            label.setBuddy(field)
            row, column = divmod(i, columns)
            grid.addWidget(label, row * 2, column)
            grid.addWidget(field, row * 2 + 1, column)
            self.fields.append(field)
        grid.setRowStretch(grid.rowCount(), 1)


def _widths(session: Session, addresses: list[FieldAddress], columns: int) -> list[int]:
    """What each column wants, px; where that is too much for the screen, the widest give way."""
    found = [_LEAST] * columns
    for i, address in enumerate(addresses):
        found[i % columns] = max(found[i % columns], _need(session, address))
    room = _WIDE - _GAP * (columns - 1)
    while sum(found) > room and max(found) > _LEAST:
        found[found.index(max(found))] -= 1
    return found


def _need(session: Session, address: FieldAddress) -> int:
    spec = address.spec(session.piece)
    if isinstance(spec, Choice):
        words = (shown.split(":")[0] for _value, shown in choices_of(address.model(session.piece), address.name))
        return min(max(QFontMetrics(font(16)).horizontalAdvance(w) for w in words) + _CHEVRON, _NEED[Choice])
    named = max(QFontMetrics(font(14, 500)).horizontalAdvance(spec.label) + 2, _LEAST)
    if isinstance(spec, (Number, SectionField)):  # a size of millimetres among inches is said in both
        text = address.text(session.piece, session.measure)
        named = max(named, min(QFontMetrics(font(17, 500)).horizontalAdvance(text) + _MARGINS, _FEW[2]))
    return max(named, next((need for kind, need in _NEED.items() if isinstance(spec, kind)), _LEAST))
