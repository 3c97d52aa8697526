"""Rules of order at work in the piece: which hold, which do not and why, schools, pins; one click sets a rule aside or lets it hold again."""

from __future__ import annotations

import itertools
from dataclasses import replace
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QFormLayout, QHBoxLayout, QLabel, QLineEdit, QScrollArea, QVBoxLayout, QWidget

from long_ember.desk.session import Session
from long_ember.document import overrule, pin_order, restore_rule, set_planning
from long_ember.features import ORDER_SCHOOLS
from long_ember.fields import choices_of, specs
from long_ember.heats import PINNED, Rule, pin_all
from long_ember.plain import marked_up
from long_ember.ui.style.fonts import font
from long_ember.ui.widgets.buttons import emptied, worded
from long_ember.ui.widgets.entry import ChoiceBox
from long_ember.ui.widgets.typed import Typed

__all__ = ["RulesPanel", "rules_at_work"]

_STRENGTH = {"must": "Must", "better": "Better", "either": "School"}
_STATE = {"holds": "\u2713 holds", "broken": "! broken", "given up": "~ given up: it would cost more", "overruled": "\u2013 set aside"}


def rules_at_work(session: Session) -> list[tuple[Rule, str]]:
    """Rules that tie something in the piece and how they stand, the ones in trouble first."""
    plan = session.answer.plan
    found: dict[Rule, str] = {rule: why for rule, _n, why in plan.flags}
    for tie in plan.ties.pairs:
        if tie.rule.id != "own-order" and tie.rule is not PINNED:
            found.setdefault(tie.rule, "holds")
    rank = list(_STATE)
    return sorted(found.items(), key=lambda pair: (-rank.index(pair[1]) if pair[1] != "holds" else 1, pair[0].strength != "must"))


_gestures = itertools.count()


class RulesPanel(QDialog):
    """Stays open beside the sequence; every change shows at once and can be undone."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.setWindowTitle("Rules of order")
        self.resize(820, 680)
        self.schools: dict[str, ChoiceBox] = {}
        self._notes: dict[str, Typed] = {}
        self._shown: object = None
        form = QFormLayout()
        names = (*(s.key for s in ORDER_SCHOOLS if s.key != "rhythm"), "touch", "purpose", "working", "finish")
        for name in names:
            form.addRow(self._label(specs(session.piece.planning)[name].label), self._choice(name))
        self._list = QVBoxLayout()
        self._list.setSpacing(10)
        holder = QWidget()
        outer = QVBoxLayout(holder)
        outer.addLayout(self._list)
        outer.addStretch(1)
        area = QScrollArea()
        area.setWidget(holder)
        area.setWidgetResizable(True)
        self.pin = worded("Pin the whole order", self._pin_all, "Every operation stays where it is, whatever changes")
        self.free = worded("Unpin the order", lambda: session.attempt(pin_order, (), "Unpin the order"))
        row = QHBoxLayout()
        for button in (self.pin, self.free, worded("Close", self.accept)):
            row.addWidget(button)
        column = QVBoxLayout(self)
        column.addLayout(form)
        column.addWidget(area, 1)
        column.addWidget(self._label("Rules of your own are written in the Book, under Shop."))
        column.addLayout(row)
        session.refreshed.connect(self._renew)
        self._renew()

    def _label(self, text: str) -> QLabel:
        label = QLabel(text)
        label.setFont(font(16))
        label.setProperty("role", "muted")
        return label

    def _choice(self, name: str) -> ChoiceBox:
        box = self.schools[name] = ChoiceBox(self._session)
        box.setFont(font(16))
        box.setMinimumHeight(36)
        box.setAccessibleName(specs(self._session.piece.planning)[name].label)
        for value, words in choices_of(self._session.piece.planning, name):
            box.addItem(f"{words}: {self._of_the_shop(name)}" if value == "shop" and name != "touch" else words, value)
        box.activated.connect(lambda index: self._session.attempt(set_planning, name, str(box.itemData(index))))
        return box

    def _of_the_shop(self, name: str) -> str:
        """The side that the shop takes, without its reason."""
        choice = getattr(self._session.shop, name)
        return next(words for value, words in choices_of(self._session.shop, name) if value == choice).split(":")[0]

    def _pin_all(self) -> None:
        self._session.attempt(pin_order, pin_all(self._session.answer.plan), "Pin the whole order")

    def _renew(self) -> None:
        piece = self._session.piece
        for name, box in self.schools.items():
            box.setCurrentIndex(box.findData(getattr(piece.planning, name)))
        hardens = piece.steel.hardening not in ("none", "")
        for name in ("purpose", "working"):
            self.schools[name].setEnabled(hardens)
        self.free.setEnabled(bool(piece.planning.pins))
        found = rules_at_work(self._session)
        if found == self._shown and any(typed.busy for typed in self._notes.values()):
            return  # somebody writes on one of them
        self._shown = found
        self._notes.clear()
        emptied(self._list)
        for rule, state in found:
            self._list.addWidget(self._row(rule, state))
        if not found:
            self._list.addWidget(self._label("Nothing has to come before anything else in this piece."))

    def _row(self, rule: Rule, state: str) -> QWidget:
        """Strength, reason, state, and the button that changes it."""
        row = QWidget()
        line = QHBoxLayout(row)
        line.setContentsMargins(0, 0, 0, 0)
        plan = self._session.answer.plan
        instead = (
            next((told for r, n, _why in plan.flags if r is rule and (told := plan.instead(r, n))), "")
            if state in ("broken", "given up")
            else ""
        )
        words = QLabel(f"<b>{_STRENGTH[rule.strength]}</b>&nbsp; {_STATE[state]}<br>{marked_up(f'{rule.reason} {instead}'.strip())}")
        words.setFont(font(16))
        words.setWordWrap(True)
        words.setTextFormat(Qt.TextFormat.RichText)
        if state == "broken":
            words.setProperty("role", "fault")
        texts = QVBoxLayout()
        texts.addWidget(words)
        line.addLayout(texts, 1)
        if state == "overruled":
            note = QLineEdit(next((o.note for o in self._session.piece.planning.overrules if o.rule == rule.id), ""))
            note.setFont(font(16))
            note.setPlaceholderText("why, for the next time")
            note.setAccessibleName(f"Why this rule is set aside: {rule.reason}")
            self._notes[rule.id] = Typed(note, partial(self._noted, rule, next(_gestures)), self._session.end_gesture)
            texts.addWidget(note)
            line.addWidget(worded("Let it hold", partial(self._session.attempt, restore_rule, rule.id)))
        else:
            line.addWidget(
                worded("Set aside", partial(self._session.attempt, overrule, rule.id, "", ""), "It no longer holds for this piece")
            )
        return row

    def _noted(self, rule: Rule, gesture: int, text: str) -> None:
        if any(o.rule == rule.id and o.note != text for o in self._session.piece.planning.overrules):
            self._session.attempt(lambda piece: replace(overrule(piece, rule.id, "", text), gesture=f"note {gesture}"))
