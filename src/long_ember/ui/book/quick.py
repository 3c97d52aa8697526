"""Two short questions from any screen: how many of the piece for which job, and which pieces belong together."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QHBoxLayout, QLabel, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from long_ember.errors import EmberError
from long_ember.fields import specs
from long_ember.records import LETTERS, Assembly, AssemblyPart, Job, JobLine
from long_ember.storage import new_id
from long_ember.ui.actions.bookwork import BookWork
from long_ember.ui.style.fonts import font
from long_ember.ui.widgets.buttons import worded
from long_ember.ui.widgets.entry import ChoiceBox

__all__ = ["IntoJob", "PutTogether"]

_RECENT = 30  # pieces that are offered, those changed last


class _Short(QDialog):
    """A line of entries, what is wrong with them, one button."""

    def __init__(self, work: BookWork, title: str, parent: QWidget | None) -> None:
        super().__init__(parent)
        self._work = work
        self.setWindowTitle(title)
        self.setMinimumWidth(560)
        self.fault = QLabel()
        self.fault.setFont(font(16))
        self.fault.setWordWrap(True)
        self.fault.setProperty("role", "fault")
        self.done_button = worded(title, self.finish, weight=600)
        self.done_button.setDefault(True)
        self.column = QVBoxLayout(self)

    def end(self) -> None:
        """Lay out what comes last."""
        last = QHBoxLayout()
        last.addWidget(self.fault, 1)
        last.addWidget(worded("Leave it", self.reject))
        last.addWidget(self.done_button)
        self.column.addLayout(last)

    def finish(self) -> None:
        """Do it."""
        raise NotImplementedError

    def label(self, text: str) -> QLabel:
        """Words before an entry."""
        found = QLabel(text)
        found.setFont(font(17))
        return found


class IntoJob(_Short):
    """So many of the piece on the bench, into a job that is there or a new one."""

    def __init__(self, work: BookWork, parent: QWidget | None = None) -> None:
        super().__init__(work, "Into the job", parent)
        session = work.session
        self.count = QLineEdit("1")
        self.count.setAccessibleName("How many")
        self.count.setMaximumWidth(90)
        self.job = ChoiceBox(session)
        self.job.setAccessibleName("Job")
        self.job.addItem("a new job", "")
        for identity, job in work.library.records(Job).items():
            self.job.addItem(job.name, identity)
        row = QHBoxLayout()
        for part in (self.count, self.label(f"of {session.piece.name} into"), self.job):
            part.setFont(font(18, 500))
            row.addWidget(part)
        row.addStretch(1)
        self.column.addLayout(row)
        self.end()
        self.count.setFocus()
        self.count.selectAll()

    def finish(self) -> None:
        """One line more in the job; more of it where the piece is there already."""
        session, library = self._work.session, self._work.library
        try:
            number = specs(JobLine)["quantity"].read(self.count.text(), session.measure)
        except EmberError as error:
            self.fault.setText(f"! {error}")
            return
        identity = self.job.currentData() or new_id()
        before = library.records(Job).get(identity)
        job = before or Job(name=f"{session.piece.name}, {number}")
        lines = [line if line.piece != session.piece_id else replace(line, quantity=line.quantity + number) for line in job.lines]
        if all(line.piece != session.piece_id for line in lines):
            lines.append(JobLine(piece=session.piece_id, quantity=number))
        self._work.put_record(identity, replace(job, lines=tuple(lines)), before)
        session.said.emit(f"{number} of {session.piece.name} are in {job.name}. Cut shows its bars.", False)
        self.accept()


class PutTogether(_Short):
    """An assembly of pieces that are ticked, those changed last first."""

    def __init__(self, work: BookWork, parent: QWidget | None = None) -> None:
        super().__init__(work, "Put them together", parent)
        self.resize(560, 520)
        self.name = QLineEdit(self._free_name())
        self.name.setFont(font(18, 500))
        self.name.setAccessibleName("Name of the assembly")
        self.list = QListWidget()
        self.list.setFont(font(18))
        self.list.setAccessibleName("Pieces: space ticks one")
        kept = [e for e in work.library.entries if e.state == "kept"]
        for entry in sorted(kept, key=lambda e: e.changed, reverse=True)[:_RECENT]:
            item = QListWidgetItem(entry.name)
            item.setData(Qt.ItemDataRole.UserRole, entry.id)
            item.setFlags(Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(Qt.CheckState.Unchecked)
            self.list.addItem(item)
        self.column.addWidget(self.label("Tick the pieces that belong together (space), then press Enter."))
        self.column.addWidget(self.list, 1)
        row = QHBoxLayout()
        row.addWidget(self.label("Called"))
        row.addWidget(self.name, 1)
        self.column.addLayout(row)
        self.end()
        self.list.setCurrentRow(0)
        self.list.setFocus()

    def _free_name(self) -> str:
        taken = {r.name for r in self._work.library.records(Assembly).values()}
        return next(n for i in range(1, len(taken) + 2) if (n := "New assembly" if i == 1 else f"New assembly {i}") not in taken)

    def finish(self) -> None:
        """Keep the assembly."""
        items = [self.list.item(i) for i in range(self.list.count())]
        ticked = [str(i.data(Qt.ItemDataRole.UserRole)) for i in items if i.checkState() == Qt.CheckState.Checked]
        if not 2 <= len(ticked) <= len(LETTERS):
            self.fault.setText(f"! Tick 2 to {len(LETTERS)} pieces; {len(ticked)} are ticked.")
            return
        made = Assembly(name=self.name.text().strip() or self._free_name(), parts=tuple(AssemblyPart(piece=p) for p in ticked))
        self._work.put_record(new_id(), made, None)
        self._work.session.said.emit(f"{made.name} is among the assemblies: join its parts in the Book.", False)
        self.accept()
