"""Entries for any declared model: shop, rack, price, job; what is typed counts as soon as it can be read."""

from __future__ import annotations

from dataclasses import replace
from functools import partial
from typing import Any

from PySide6.QtCore import Signal
from PySide6.QtWidgets import (
    QFormLayout,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPushButton,
    QSizePolicy,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from long_ember.desk.session import Session
from long_ember.errors import EmberError
from long_ember.fields import Choice, Field, Flag, Rows, Ticks, specs
from long_ember.ui.style.fonts import font
from long_ember.ui.widgets.beside import mark_fault
from long_ember.ui.widgets.entry import ChoiceBox, waits_for

__all__ = ["ModelForm"]

_ENTRY = 260  # px, of an entry with its meaning beside it


class ModelForm(QWidget):
    """A form made from the model's own declarations.

    Signals:
        changed: another model is in force.
    """

    changed = Signal(object)

    def __init__(self, session: Session, model: Any, *, only: tuple[str, ...] = (), skip: tuple[str, ...] = (), columns: int = 2,
                 explained: bool = False) -> None:  # fmt: skip
        super().__init__()
        self._session, self.model, self._columns, self._explained = session, model, columns, explained
        self.fields: dict[str, QWidget] = {}
        self._form = QFormLayout(self)
        self._form.setContentsMargins(0, 0, 0, 0)
        self._form.setVerticalSpacing(8)
        assert {*only, *skip} <= specs(model).keys(), (only, skip)
        for name, spec in specs(model).items():
            if name not in skip and (not only or name in only):
                self._add(name, spec)

    def _add(self, name: str, spec: Field) -> None:
        whole = isinstance(spec, (Ticks, Rows))  # their page gives them a heading
        made: QWidget = _MAKERS.get(type(spec), ModelForm._line)(self, name, spec)
        if not whole:
            made.setMinimumHeight(36)  # never squeezed, however many there are
        made.setAccessibleName(spec.label)
        made.setToolTip(spec.tip)
        self.fields[name] = made
        label = QLabel(spec.label)
        label.setFont(font(16))
        label.setProperty("role", "muted")
        label.setBuddy(made)
        label.setMinimumWidth(min(label.sizeHint().width(), 190))  # the entry gives way before its name is cut off
        if whole:
            label.deleteLater()
            self._form.addRow(made)
        elif self._explained:
            self._form.addRow(label, self._told(made, spec.tip))
        else:
            self._form.addRow(label, made)

    def _told(self, made: QWidget, tip: str) -> QWidget:
        """The entry with what it means beside it, where there is room to say so."""
        row, words = QWidget(), QLabel(tip)
        words.setFont(font(15))
        words.setProperty("role", "muted")
        words.setWordWrap(True)
        made.setFixedWidth(_ENTRY)
        beside = QHBoxLayout(row)
        beside.setContentsMargins(0, 0, 0, 0)
        beside.setSpacing(14)
        beside.addWidget(made)
        beside.addWidget(words, 1)
        return row

    def _line(self, name: str, spec: Field) -> QLineEdit:
        line = QLineEdit(spec.show(getattr(self.model, name), self._session.measure))
        line.setFont(font(17, 500))
        line.setCursorPosition(0)  # of what does not fit the beginning is in sight
        waits_for(line, spec)
        if spec.optional:
            line.setPlaceholderText(spec.tip)
        line.textEdited.connect(partial(self._typed, line, name, spec))
        line.editingFinished.connect(partial(self._left, line, name, spec))
        return line

    def _typed(self, line: QLineEdit, name: str, spec: Field, text: str) -> None:
        try:
            self._put(name, spec.read(text, self._session.measure, 0.0))
        except EmberError as error:
            told = f"{error}. Still {spec.show(getattr(self.model, name), self._session.measure)}.".replace("..", ".")
            mark_fault(line, told)
            self._session.said.emit(told, True)
        else:
            mark_fault(line, "")
            self._session.said.emit("", False)

    def _left(self, line: QLineEdit, name: str, spec: Field) -> None:
        """Leaving a line shows the value in force."""
        if not line.property("fault"):
            line.setText(spec.show(getattr(self.model, name), self._session.measure))
            line.setCursorPosition(0)

    def _choice(self, name: str, spec: Choice) -> ChoiceBox:
        box = ChoiceBox(self._session)
        box.setFont(font(16))
        for value, words in spec.choices:
            box.addItem(words.split(":")[0], value)
        box.setCurrentIndex(box.findData(getattr(self.model, name)))
        box.activated.connect(lambda index: self._put(name, str(box.itemData(index))))
        return box

    def _flag(self, name: str, spec: Flag) -> QToolButton:
        def pressed(on: bool) -> None:
            _mark_tick(box, spec.words(on), on)
            self._put(name, on)

        box = _tick(spec.words(getattr(self.model, name)), getattr(self.model, name))
        box.toggled.connect(pressed)
        return box

    def _ticks(self, name: str, spec: Ticks) -> QWidget:
        group = QWidget()
        grid = QGridLayout(group)
        grid.setContentsMargins(0, 0, 0, 0)
        boxes: dict[str, QToolButton] = {}

        def ticked(_on: bool) -> None:
            self._put(name, tuple(key for key, box in boxes.items() if box.isChecked()))

        for i, (key, words) in enumerate(spec.choices):
            box = boxes[key] = _tick(words, key in getattr(self.model, name))
            box.toggled.connect(partial(_mark_tick, box, words))
            box.toggled.connect(ticked)
            grid.addWidget(box, i // self._columns, i % self._columns)
        return group

    def _rows(self, name: str, spec: Rows) -> QWidget:
        """A small form for each, one button to add, one beside each to take out."""
        group = QWidget()
        column = QVBoxLayout(group)
        column.setContentsMargins(0, 0, 0, 0)
        for i, row in enumerate(getattr(self.model, name)):
            form = ModelForm(self._session, row, columns=self._columns, explained=self._explained)
            form.changed.connect(partial(self._row, name, i))
            column.addWidget(form)
            out = QPushButton(f"Take {getattr(row, 'name', '') or spec.label.lower()} out")
            out.setFont(font(15))
            out.clicked.connect(partial(self._without, name, i))
            column.addWidget(out)
        more = QPushButton(f"Add to {spec.label.lower()}")
        more.setFont(font(15, 500))
        more.clicked.connect(partial(self._with, name, spec))
        column.addWidget(more)
        return group

    def _row(self, name: str, index: int, row: Any) -> None:
        rows = list(getattr(self.model, name))
        rows[index] = row
        self._put(name, tuple(rows))

    def _without(self, name: str, index: int, _checked: bool = False) -> None:
        rows = getattr(self.model, name)
        self._put(name, (*rows[:index], *rows[index + 1 :]))
        self._renew(name)

    def _with(self, name: str, spec: Rows, _checked: bool = False) -> None:
        self._put(name, (*getattr(self.model, name), spec.row()))
        self._renew(name)

    def _renew(self, name: str) -> None:
        old, spec = self.fields[name], specs(self.model)[name]
        assert isinstance(spec, Rows)
        made = self._rows(name, spec)
        self._form.replaceWidget(old, made)
        old.deleteLater()
        self.fields[name] = made

    def _put(self, name: str, value: Any) -> None:
        model = replace(self.model, **{name: value})
        if model != self.model:
            self.model = model
            self.changed.emit(model)


def _tick(words: str, on: bool) -> QToolButton:
    """A button that stays down: a tick is a small thing to hit with a gloved hand."""
    box = QToolButton()
    box.setFont(font(14, 500))
    box.setMinimumHeight(36)
    box.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
    box.setCheckable(True)
    box.setProperty("tick", True)
    box.setChecked(on)
    _mark_tick(box, words, on)
    return box


def _mark_tick(button: QToolButton, words: str, on: bool) -> None:
    """Ticked or not by its words too, not by colour alone."""
    button.setText(f"\u2713 {words}" if on else words)


_MAKERS: dict[type[Field], Any] = {Choice: ModelForm._choice, Flag: ModelForm._flag, Ticks: ModelForm._ticks, Rows: ModelForm._rows}
