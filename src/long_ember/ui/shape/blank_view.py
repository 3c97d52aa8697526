"""Sheet and plate: a blank's sizes, its outline at scale, its sum and what to do with it."""

from __future__ import annotations

import math
from dataclasses import replace
from datetime import date
from functools import partial
from pathlib import Path
from typing import Any

import numpy as np
from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QDialog, QGridLayout, QHBoxLayout, QLabel, QLineEdit, QMenu, QPushButton, QVBoxLayout, QWidget

from long_ember.arrays import Array
from long_ember.blanks import BLANKS, Blank, Outline
from long_ember.desk.session import Session
from long_ember.errors import EmberError
from long_ember.export import drawing_dxf, drawing_svg
from long_ember.fields import Choice, Ticks, day_words, specs
from long_ember.fullsize import outline_drawing
from long_ember.papers.subject import Subject
from long_ember.records import Job, JobBlank
from long_ember.storage import write_atomic
from long_ember.ui.actions.bookwork import BookWork
from long_ember.ui.drawing.paint import View, arrow_line, polygon, text_box
from long_ember.ui.shape.inspector import Notes
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import theme_of
from long_ember.ui.widgets import dialogs
from long_ember.ui.widgets.entry import ChoiceBox
from long_ember.ui.widgets.message import MessageLine

__all__ = ["BlankDialog"]


class _Sheet(QWidget):
    """The outline: cuts solid, bend lines dashed, the rectangle it comes from dotted."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.outline: Outline | None = None
        self.setMinimumSize(QSize(420, 300))
        self.setAccessibleName("Outline of the blank")

    def show_outline(self, outline: Outline) -> None:
        """Draw another outline."""
        self.outline = outline
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Outline with its length and width."""
        painter, theme, m = QPainter(self), theme_of(self._session), self._session.measure
        painter.fillRect(self.rect(), theme.colour("paper"))
        if self.outline is None:
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        o = self.outline
        low, high = o.edge.min(axis=0), o.edge.max(axis=0)
        view = View.fitting(
            (float(low[0]), float(low[1]), float(high[0]), float(high[1])), QRectF(self.rect()).adjusted(70, 30, -30, -56), 6.0
        )

        def drawn(points: Array, close: bool) -> Array:
            return view.points(np.vstack((points, points[:1])) if close else points)

        painter.setPen(QPen(theme.colour("edge"), 1.6))
        painter.setBrush(theme.colour("steel"))
        painter.drawPolygon(polygon(view.points(o.edge)))
        painter.setBrush(theme.colour("paper"))
        for hole in o.holes:
            painter.drawPolygon(polygon(view.points(hole)))
        for slit in o.slits:
            painter.drawPolyline(polygon(drawn(slit, False)))
        painter.setPen(QPen(theme.colour("accent"), 1.6, Qt.PenStyle.DashLine))
        for bend in o.bends:
            painter.drawPolyline(polygon(drawn(bend, len(bend) > 2)))
        painter.setPen(QPen(theme.colour("muted"), 1.2))
        for mark in o.marks:
            painter.drawPolyline(polygon(drawn(mark, len(mark) > 2)))
        a, b = view.point(low), view.point(high)
        long, wide = o.size
        arrow_line(painter, type(a)(a.x(), a.y() + 24), type(a)(b.x(), a.y() + 24), theme.colour("edge"))
        text_box(painter, m.length(long), type(a)((a.x() + b.x()) / 2, a.y() + 24), font(16, 600), theme)
        arrow_line(painter, type(a)(a.x() - 20, a.y()), type(a)(a.x() - 20, b.y()), theme.colour("edge"))
        text_box(painter, m.length(wide), type(a)(a.x() - 34, (a.y() + b.y()) / 2), font(16, 600), theme)


class BlankDialog(QDialog):
    """Choose a blank, type its sizes, read its sum, take its outline away as SVG or DXF."""

    def __init__(self, session: Session, parent: QWidget | None = None, work: BookWork | None = None) -> None:
        super().__init__(parent)
        self._work = work
        self.setWindowTitle("Sheet and plate")
        self.resize(1120, 680)
        self._session = session
        self.blank: Blank = next(iter(BLANKS.values()))()
        self.kind = ChoiceBox(session)
        self.kind.setFont(font(18, 500))
        self.kind.setAccessibleName("Blank")
        for kind, cls in BLANKS.items():
            self.kind.addItem(cls.title, kind)
        self.kind.activated.connect(lambda _i: self.show_blank(BLANKS[str(self.kind.currentData())]()))
        self.sheet = _Sheet(session)
        self.notes = Notes()
        self.message = MessageLine()
        self._fields = QWidget()
        self.entries: dict[str, QWidget] = {}
        self._column = QVBoxLayout(self)
        self._column.addWidget(self.kind)
        self._column.addWidget(self._fields)
        row = QHBoxLayout()
        row.addWidget(self.sheet, 3)
        row.addWidget(self.notes, 2)
        self._column.addLayout(row, 1)
        self._column.addWidget(self.message)
        self._column.addLayout(self._foot())
        self.show_blank(self.blank)

    def _foot(self) -> QHBoxLayout:
        foot = QHBoxLayout()
        self.jobs = ChoiceBox(self._session)
        self.jobs.setFont(font(16))
        self.jobs.setAccessibleName("Put this blank into a job")
        self.jobs.addItem("Into a job…", "")
        jobs = self._work.library.records(Job).items() if self._work is not None else ()
        for identity, job in jobs:
            if isinstance(job, Job) and job.state != "done":
                self.jobs.addItem(job.name, identity)
        if self.jobs.count() == 1:
            self.jobs.hide()
        self.jobs.activated.connect(lambda _i: self.put_into(str(self.jobs.currentData())))
        foot.addWidget(self.jobs)
        foot.addStretch(1)
        for words, run in (("Print at full size…", self.ask_print), ("Outline as SVG or DXF…", self._ask), ("Close", self.close)):
            button = QPushButton(words)
            button.setFont(font(16, 500))
            button.setAutoDefault(False)
            button.clicked.connect(run)
            foot.addWidget(button)
        return foot

    def show_blank(self, blank: Blank) -> None:
        """Show a blank with entries for its sizes."""
        self.blank = blank
        self.kind.setCurrentIndex(list(BLANKS).index(blank.kind))
        fields = QWidget()
        grid = QGridLayout(fields)
        grid.setContentsMargins(0, 0, 0, 0)
        self.entries = {}
        for i, (name, spec) in enumerate(specs(blank).items()):
            label = QLabel(spec.label)
            label.setFont(font(14, 500))
            label.setProperty("role", "muted")
            field = self._entry(name)
            label.setBuddy(field)
            grid.addWidget(label, i // 7 * 2, i % 7)
            grid.addWidget(field, i // 7 * 2 + 1, i % 7)
            self.entries[name] = field
        self._column.replaceWidget(self._fields, fields)
        self._fields.hide()
        self._fields.deleteLater()
        self._fields = fields
        self._renew()

    def _ticks(self, name: str, spec: Ticks, value: tuple[str, ...]) -> QPushButton:
        """A button that tells what is ticked, and a menu to tick it in."""
        button, menu = QPushButton(), QMenu(self)
        for widget in (button, menu):
            widget.setFont(font(16))
        button.setAccessibleName(spec.label)
        button.setToolTip(spec.tip)

        def told() -> None:
            chosen = [action.text() for action in menu.actions() if action.isChecked()]
            button.setText(", ".join(chosen) or "none")

        for key, words in spec.choices:
            action = menu.addAction(words)
            action.setCheckable(True)
            action.setChecked(key in value)
            action.setData(key)
        menu.triggered.connect(lambda _a: self._take(name, tuple(a.data() for a in menu.actions() if a.isChecked())))
        menu.triggered.connect(lambda _a: told())
        told()
        button.setMenu(menu)
        return button

    def _entry(self, name: str) -> QWidget:
        spec, value = specs(self.blank)[name], getattr(self.blank, name)
        if isinstance(spec, Choice):
            choice = ChoiceBox(self._session)
            choice.setFont(font(16))
            for key, words in spec.choices:
                choice.addItem(words, key)
            choice.setCurrentIndex(choice.findData(value))
            choice.activated.connect(lambda _i: self._take(name, choice.currentData()))
            return choice
        if isinstance(spec, Ticks):
            return self._ticks(name, spec, value)
        line = QLineEdit(spec.show(value, self._session.measure))
        line.setFont(font(17, 500))
        line.setAccessibleName(spec.label)
        line.setToolTip(spec.tip)
        line.textEdited.connect(partial(self._typed, name))
        line.editingFinished.connect(
            lambda: line.setText(spec.show(getattr(self.blank, name), self._session.measure))
        )  # as it was understood
        return line

    def _typed(self, name: str, text: str) -> None:
        try:
            value = specs(self.blank)[name].read(text, self._session.measure, self.blank.gauge)
        except EmberError as error:
            self.message.say(f"{error}. The old value still counts.".replace("..", "."), True)
            return
        self._take(name, value)

    def _take(self, name: str, value: Any) -> None:
        try:
            blank = replace(self.blank, **{name: value})
            blank.outline()
        except EmberError as error:
            self.message.say(f"{error} The old value still counts.", True)
            return
        self.blank = blank
        self._renew()

    def _renew(self) -> None:
        m, theme = self._session.measure, theme_of(self._session)
        self.sheet.show_outline(self.blank.outline())
        sums = "<br>".join(line.show(m) for line in self.blank.sum_lines(self._session.piece.steel.density))
        checks = "".join(
            f"<p style='color:{theme.ink if c.level == 'note' else theme.fault}'><b>{c.sign} {c.word}</b> {c.line.show(m)}</p>"
            for c in self.blank.checks()
        )
        steps = "".join(f"<li>{line.show(m)}</li>" for line in self.blank.steps())
        self.notes.say(f"{sums}{checks}<p><b>What to do</b></p><ol style='margin-left:-18px'>{steps}</ol>")
        self.message.say(f"Of {self._session.piece.steel.title.lower()}, as the piece.", False)

    def put_into(self, job_id: str) -> None:
        """Have the rectangle of this blank cut with a job, so many as there are of it; the job's count can be changed there."""
        job = self._work.library.records(Job).get(job_id) if self._work is not None else None
        self.jobs.setCurrentIndex(0)
        if self._work is None or not isinstance(job, Job):
            return
        length, width = self.blank.outline().size
        row = JobBlank(name=self.blank.title, length=math.ceil(length * 10 - 1e-6) / 10, width=math.ceil(width * 10 - 1e-6) / 10, thickness=self.blank.gauge,
                       material=self._session.piece.material)  # fmt: skip
        if self._work.put_records("Put a blank into the job", {job_id: (job, replace(job, blanks=(*job.blanks, row)))}):
            self.message.say(f"One {row.name.lower()} is in {job.name}: the number is changed in the Book, under Jobs.", False)

    def subject(self) -> Subject:
        """What is printed of it."""
        session = self._session
        return Subject(session.measure, session.shop, day_words(date.today()), blank=self.blank)

    def ask_print(self) -> None:
        """The print dialog, on this blank."""
        from long_ember.ui.paper.print_dialog import PrintDialog  # loaded with the first paper

        if self._work is not None:
            PrintDialog(self._work, self.subject, "blank", self).exec()

    def _ask(self) -> None:
        path = dialogs.save_name(self, "Outline", Path.home() / f"{self.blank.kind}.svg", "Outline (*.svg *.dxf)")
        if path is not None:
            self.export(path)

    def export(self, path: Path) -> bool:
        """Write the outline at true scale, by the file's ending."""
        outline = self.blank.outline()
        try:
            write = drawing_dxf if path.suffix.lower() == ".dxf" else drawing_svg
            write_atomic(path, write(outline_drawing(outline, self.blank.title)))
        except EmberError as error:
            dialogs.explain(self, "The outline was not written", str(error))
            return False
        self.message.wrote(f"The outline is in {path.name}.", path)
        return True
