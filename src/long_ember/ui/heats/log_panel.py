"""Write down what a piece really took; the next plans reckon with it."""

from __future__ import annotations

from dataclasses import replace
from datetime import date

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QLabel, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from long_ember.fields import day_words
from long_ember.heats.operations import ROUGH
from long_ember.learning import lesson, made_before
from long_ember.records import LogEntry
from long_ember.storage import new_id
from long_ember.ui.actions.bookwork import BookWork
from long_ember.ui.style.fonts import font
from long_ember.ui.widgets.asking import AskingDialog
from long_ember.ui.widgets.buttons import worded
from long_ember.ui.widgets.model_form import ModelForm

__all__ = ["LogPanel", "lesson_words"]


def lesson_words(entries: tuple[LogEntry, ...]) -> str:
    """What the log teaches, in a sentence."""
    found = lesson(entries, ROUGH)
    if not found.entries:
        return "Nothing is logged yet: plans are rough, half to double. Every piece you write down narrows them."
    low, high = found.band
    return (
        f"{found.entries} logged: work takes {found.measured:.2f} times what the model says; plans hold from \u00d7{low:.2f} to \u00d7{high:.2f}; "
        f"at twice the number a piece takes {found.curve:.0%} of the time."
    )


class LogPanel(AskingDialog):
    """One entry, ready filled with what was planned."""

    def __init__(self, work: BookWork, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._work = work
        session = work.session
        self.setWindowTitle("Log what happened")
        self.setMinimumWidth(640)
        plan = session.answer.plan
        entry = LogEntry(
            piece=session.piece_id, name=session.piece.name, number=made_before(work.library.log_of(session.piece_id).values(), session.piece_id) + 1, day=date.today(),
            heats=plan.count, minutes=round(plan.minutes[1]), planned_heats=plan.count, planned_minutes=round(plan.minutes[1], 1),
            factor=session.forge.measured,
        )  # fmt: skip
        self._proposed = entry
        self.form = ModelForm(session, entry, only=("number", "day", "heats", "minutes", "note"))
        told = QLabel(
            f"{session.piece.name}. Planned: {plan.count} heats, {plan.minutes[1]:.0f} min. Change what was otherwise; 0 where nobody counted."
        )
        self.lesson = QLabel(lesson_words(session.log))
        for label, size in ((told, 18), (self.lesson, 16)):
            label.setFont(font(size, 500 if size > 16 else 400))
            label.setWordWrap(True)
        self.form.changed.connect(self._changed)
        self.list = QListWidget()
        self.list.setFont(font(16))
        self.list.setAccessibleName("What is logged of this piece")
        self.list.setMaximumHeight(170)
        self.out_button = worded("Take out", self._take_out, "Remove the chosen entry; undo in the Book brings it back")
        self._fill()
        row = QHBoxLayout()
        row.addWidget(self.out_button)
        row.addStretch(1)
        self.done_button = worded("Log it", self._log)
        self.done_button.setDefault(True)
        row.addWidget(worded("Leave it", self.reject))
        row.addWidget(self.done_button)
        column = QVBoxLayout(self)
        for widget in (told, self.form, self.lesson, self.list):
            column.addWidget(widget)
        column.addLayout(row)
        column.setAlignment(Qt.AlignmentFlag.AlignTop)

    def held(self) -> str:
        """What was written and is not logged."""
        return "What you wrote here and have not logged" if self.form.model != self._proposed else ""

    def _fill(self) -> None:
        """Entries of this piece, the last one on top."""
        piece_id = self._work.session.piece_id
        self._entries = self._work.library.log_of(piece_id)
        self.list.clear()
        for identity, e in sorted(self._entries.items(), key=lambda pair: -pair[1].number):
            item = QListWidgetItem(
                f"no. {e.number}   {day_words(e.day) if e.day else 'some day'}   {e.heats} of {e.planned_heats} heats   {e.minutes:g} of {e.planned_minutes:g} min   {e.note}"
            )
            item.setData(Qt.ItemDataRole.UserRole, identity)
            self.list.addItem(item)
        self.list.setVisible(bool(self._entries))
        self.out_button.setVisible(bool(self._entries))

    def _take_out(self) -> None:
        item = self.list.currentItem() or self.list.item(0)
        identity = str(item.data(Qt.ItemDataRole.UserRole))
        self._work.remove_record(identity, self._entries[identity])
        self.list.takeItem(self.list.row(item))

    def _changed(self, entry: LogEntry) -> None:
        self.lesson.setText("With this: " + lesson_words((*self._work.session.log, entry)))

    def _log(self) -> None:
        entry = self.form.model
        self._work.put_record(new_id(), replace(entry), None)
        self.accept()
