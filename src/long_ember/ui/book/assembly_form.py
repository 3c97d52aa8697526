"""Entries of an assembly: parts chosen from the wall, joins by the places where they meet, the handle."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from functools import partial
from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from long_ember.assemblies import meeting_places
from long_ember.features import Piece
from long_ember.fields import choices_of
from long_ember.records import JOINS, LETTERS, ROLES, Assembly, AssemblyPart, Join
from long_ember.ui.actions.bookwork import BookWork
from long_ember.ui.style.fonts import font
from long_ember.ui.widgets.buttons import emptied, worded
from long_ember.ui.widgets.entry import ChoiceBox
from long_ember.ui.widgets.model_form import ModelForm

__all__ = ["AssemblyForm"]


class AssemblyForm(QWidget):
    """All entries of one assembly.

    Signals:
        changed: another assembly is in force.
    """

    changed = Signal(object)

    def __init__(self, work: BookWork, assembly: Assembly, pieces: Mapping[str, Piece]) -> None:
        super().__init__()
        self._work, self._session, self.model, self._pieces = work, work.session, assembly, pieces
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 0, 8, 0)
        self._column.setSpacing(6)
        self._fill()

    def set_pieces(self, pieces: Mapping[str, Piece]) -> None:
        """The parts' pieces, to be known before their places are listed."""
        self._pieces = pieces

    def _fill(self) -> None:
        self._entries(("name", "note"))
        self._head("Parts")
        for i, part in enumerate(self.model.parts[: len(LETTERS)]):
            self._part(i, part)
        self.add_part = worded("Add a part…", partial(self._work.pick_piece, "A part of it", self._add))
        self._column.addWidget(self.add_part)
        self._head("Joins")
        for i, join in enumerate(self.model.joins):
            self._join(i, join)
        self.add_join = self._choice("Add a join…", [(words[0], key) for key, words in JOINS.items()], "", self._add_join)
        self._column.addWidget(self.add_join)
        self._head("Handle")
        wooden = self.model.handle != "none"
        self._entries(("handle", *(("handle_length", "handle_across", "handle_over") if wooden else ())))
        if wooden:
            ends = [(f"{LETTERS[i]}, end {end}", f"{LETTERS[i]}.{end}") for i in range(len(self.model.parts)) for end in "AB"]
            self._column.addWidget(self._choice("Goes on…", ends, self.model.handle_on, partial(self._put, "handle_on")))
        self._column.addStretch(1)

    def _head(self, words: str) -> None:
        label = QLabel(words)
        label.setFont(font(18, 600))
        self._column.addSpacing(8)
        self._column.addWidget(label)

    def _entries(self, names: tuple[str, ...]) -> None:
        form = ModelForm(self._session, self.model, only=names)
        form.changed.connect(partial(self._typed, names))
        self._column.addWidget(form)

    def _choice(self, words: str, rows: list[tuple[str, str]], current: str, run: Any) -> ChoiceBox:
        box = ChoiceBox(self._session)
        box.setFont(font(16))
        box.setAccessibleName(words.rstrip("…"))
        box.setMinimumWidth(60)
        box.addItem(words, "")
        for text, data in rows:
            box.addItem(text, data)
        box.setCurrentIndex(max(box.findData(current), 0) if current else 0)
        box.activated.connect(lambda index: run(str(box.itemData(index))))
        return box

    def _line(self, *widgets: QWidget, stretch: int = 0) -> None:
        row = QHBoxLayout()
        row.setSpacing(6)
        for i, widget in enumerate(widgets):
            row.addWidget(widget, 1 if i == stretch else 0)
        self._column.addLayout(row)

    def _label(self, text: str) -> QLabel:
        label = QLabel(text)
        label.setFont(font(17, 600))
        return label

    def _out(self, name: str, index: int) -> QPushButton:
        button = QPushButton("Take out")
        button.setFont(font(14))
        button.clicked.connect(lambda _checked=False: self.take_out(name, index))
        return button

    def take_out(self, name: str, index: int) -> None:
        """Take a part or a join out."""
        if name == "parts":
            self.model = self.model.without_part(index)
            self.changed.emit(self.model)
            self._renew()
        else:
            self._put("joins", (*self.model.joins[:index], *self.model.joins[index + 1 :]))

    # --- parts

    def _part(self, index: int, part: AssemblyPart) -> None:
        entry = self._work.library.entry(part.piece)
        name = self._label(f"{LETTERS[index]}  {entry.name if entry else 'a piece that is gone'}")
        name.setMinimumWidth(40)
        self._line(name, self._out("parts", index))
        sides = [(words, key) for key, words in choices_of(AssemblyPart, "side")]
        box = self._choice("Side", sides, part.side, partial(self._side, index))
        box.removeItem(0)
        self._column.addWidget(box)

    def _side(self, index: int, side: str) -> None:
        self._put("parts", self._with("parts", index, replace(self.model.parts[index], side=side)))

    def _with(self, name: str, index: int, row: Any) -> tuple[Any, ...]:
        rows = list(getattr(self.model, name))
        rows[index] = row
        return tuple(rows)

    def _add(self, piece: str) -> None:
        if len(self.model.parts) < len(LETTERS):
            self._put("parts", (*self.model.parts, AssemblyPart(piece=piece)))

    # --- joins

    def places(self, role: str) -> list[tuple[str, str]]:
        """Words and keys of every place that can be a role: hole, pin, eye, ring or crown."""
        found = []
        for letter, part in zip(LETTERS, self.model.parts, strict=False):
            piece = self._pieces.get(part.piece)
            if piece is not None:
                for identity in meeting_places(piece, role):
                    feature, at = piece.feature(identity), piece.index(identity)
                    assert feature is not None, identity
                    found.append((f"{letter}: {feature.title} {at + 1 if at >= 0 else 'laid on'}", f"{letter}.{identity}"))
        return found

    def _join(self, index: int, join: Join) -> None:
        words, roles = JOINS[join.kind], ROLES[join.kind]
        self._line(self._label(words[0].capitalize()), self._out("joins", index))
        rows = [("first", words[1], roles[0]), ("second", words[2], roles[1])]
        if join.kind == "rivet":
            rows.append(("third", "a third hole", "hole"))
        for name, what, role in rows:
            self._column.addWidget(
                self._choice(f"{what.capitalize()}…", self.places(role), getattr(join, name), partial(self._placed, index, name))
            )
        names = {"rivet": ("diameter", "head", "face", "turn"), "link": ("turn",)}.get(join.kind, ("face", "turn"))
        form = ModelForm(self._session, join, only=names)
        form.changed.connect(lambda changed: self._quiet("joins", self._with("joins", index, self._joined(index, changed, names))))
        self._column.addWidget(form)

    def _joined(self, index: int, changed: Join, names: tuple[str, ...]) -> Join:
        return replace(self.model.joins[index], **{name: getattr(changed, name) for name in names})

    def _placed(self, index: int, name: str, place: str) -> None:
        values: dict[str, Any] = {name: place}
        self._quiet("joins", self._with("joins", index, replace(self.model.joins[index], **values)))

    def _add_join(self, kind: str) -> None:
        """A join between the first places that fit, of different parts: the usual case needs no more."""
        if not kind:
            return
        first, second = (self.places(role) for role in ROLES[kind])
        pairs = [(a, b) for _w, a in first for _v, b in second if a[0] != b[0] and not self._taken(a, b)]
        one, other = pairs[0] if pairs else ("", "")
        self._put("joins", (*self.model.joins, Join(kind=kind, first=one, second=other)))

    def _taken(self, *places: str) -> bool:
        used = {place for join in self.model.joins for place in (join.first, join.second, join.third)}
        return bool(used.intersection(places))

    # --- changing

    def _typed(self, names: tuple[str, ...], changed: Assembly) -> None:
        values = {name: getattr(changed, name) for name in names}
        again = (values.get("handle", self.model.handle) == "none") != (self.model.handle == "none")
        self.model = replace(self.model, **values)
        self.changed.emit(self.model)
        if again:
            self._renew()

    def _quiet(self, name: str, value: Any) -> None:
        """Change without making the entries anew: one of them is under the fingers."""
        self.model = replace(self.model, **{name: value})
        self.changed.emit(self.model)

    def _put(self, name: str, value: Any) -> None:
        self._quiet(name, value)
        self._renew()

    def _renew(self) -> None:
        emptied(self._column)
        self._fill()
