"""Rack, catalogue and jobs: rows drawn at one scale, and the entries of the chosen row beside them."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Callable
from dataclasses import replace
from functools import partial

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFontMetricsF, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QScrollArea, QVBoxLayout, QWidget

from long_ember.choosing import catalogue, is_sheet, mass_per_metre
from long_ember.fields import choices_of, day_words, specs
from long_ember.materials import MATERIALS
from long_ember.records import RECORDS, Assembly, Job, JobLine, JobSet, Price, RackItem, Record, SavedCutList, promised_bars
from long_ember.sections import SHAPES
from long_ember.storage import new_id
from long_ember.ui.actions.bookwork import BookWork
from long_ember.ui.book.wall import silhouette_path
from long_ember.ui.drawing.paint import text_box, write
from long_ember.ui.drawing.section_paint import paint_section
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import theme_of
from long_ember.ui.widgets.buttons import emptied, worded
from long_ember.ui.widgets.entry import ChoiceBox
from long_ember.ui.widgets.model_form import ModelForm
from long_ember.ui.widgets.sight import TabsInSight

__all__ = ["Board"]

_TALL = {"rack": 58, "price": 58, "job": 104}
_WORDS, _TAIL = 300, 250  # px before and behind the bars
_NONE = {
    "rack": "An empty rack. Add a bar or an offcut, or bring in a list as CSV.",
    "price": "No size of this section. Add one, or bring in a list as CSV.",
    "job": "No jobs yet. Add one, and say how many of which piece.",
}
_ADD = {"rack": "Add to the rack", "price": "Add a size", "job": "Add a job"}


class _Rows(QWidget):
    """The rows, painted; Up and Down choose, Delete takes out."""

    chosen = Signal(str)
    removed = Signal()

    def __init__(self, work: BookWork, kind: str) -> None:
        super().__init__()
        self._work, self._session, self.kind = work, work.session, kind
        self.records: dict[str, Record] = {}
        self.promised: Counter[str] = Counter()
        self.current = ""
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName({"rack": "Rack", "price": "Catalogue", "job": "Jobs"}[kind])
        self._session.restyled.connect(self.update)

    def show_records(self, records: dict[str, Record]) -> None:
        """Replace the rows; the chosen one stays chosen while it is there."""
        self.records = records
        if self.kind == "rack":
            self.promised = promised_bars(self._work.library.records(SavedCutList).values())
        if self.current not in records:
            self.choose(next(iter(records), ""))
        self.setMinimumSize(QSize(400, max(1, len(records)) * _TALL[self.kind] + 20))
        self.update()

    def choose(self, record_id: str) -> None:
        """Choose a row."""
        self.current = record_id
        self.chosen.emit(record_id)
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Choose."""
        at = int((event.position().y() - 8) // _TALL[self.kind])
        if 0 <= at < len(self.records):
            self.choose(list(self.records)[at])

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Choose with the arrows, take out with Delete."""
        ids = list(self.records)
        step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()), 0)
        if step and self.current in ids:
            self.choose(ids[min(max(ids.index(self.current) + step, 0), len(ids) - 1)])
        elif event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and self.current:
            self.removed.emit()
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Every row at one scale."""
        painter, theme = QPainter(self), theme_of(self._session)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(event.rect(), theme.colour("paper"))
        if not self.records:
            text_box(painter, _NONE[self.kind], QPointF(self.width() / 2, 80), font(18), theme, role="muted")
            return
        longest = max((r.length for r in self.records.values() if isinstance(r, (RackItem, Price))), default=1.0)
        scale = (self.width() - _WORDS - _TAIL) / longest
        tall = _TALL[self.kind]
        for i, (identity, record) in enumerate(self.records.items()):
            box = QRectF(8, 8 + i * tall, self.width() - 16, tall - 6)
            if not box.intersects(QRectF(event.rect())):
                continue
            here = identity == self.current
            if here:
                painter.setPen(QPen(theme.colour("accent"), 2.5 if self.hasFocus() else 1.5))
                painter.setBrush(theme.colour("panel"))
                painter.drawRoundedRect(box, 7, 7)
            if isinstance(record, Job):
                self._paint_job(painter, record, box)
            elif isinstance(record, (RackItem, Price)):
                self._paint_bar(painter, identity, record, box, scale)

    def _words(self, painter: QPainter, text: str, x: float, y: float, size: int, weight: int = 400, role: str = "ink") -> None:
        write(painter, text, x, y, font(size, weight), theme_of(self._session).colour(role))

    def _paint_bar(self, painter: QPainter, identity: str, item: RackItem | Price, box: QRectF, scale: float) -> None:
        theme, m = theme_of(self._session), self._session.measure
        bars = [r.section for r in self.records.values() if isinstance(r, (RackItem, Price)) and not is_sheet(r.section)]
        largest = max((max(s.width, s.thickness) for s in bars), default=100.0)
        own = max(item.section.width, item.section.thickness)  # by the root, or the small ones would be dots beside the large
        paint_section(painter, item.section, QPointF(box.left() + 34, box.center().y()), min(1.4, 42 / math.sqrt(own * largest)), theme)
        self._words(painter, item.section.label(m), box.left() + 68, box.top() + 5, 17, 600)
        weight = f", {m.line_mass(mass_per_metre(item.section, MATERIALS[item.material].density))}" if isinstance(item, Price) else ""
        self._words(painter, MATERIALS[item.material].title.lower() + weight, box.left() + 68, box.top() + 28, 14, role="muted")
        pieces = min(item.count, 5) if isinstance(item, RackItem) else 1
        thick = min(max(item.section.thickness * 0.4, 5.0), 36.0 / max(pieces, 1))
        pile = QRectF(box.left() + _WORDS, box.center().y() - thick * max(pieces, 1) / 2, max(item.length * scale, 3.0), thick)
        painter.setPen(QPen(theme.colour("edge"), 1.0, Qt.PenStyle.DashLine if _absent(item) else Qt.PenStyle.SolidLine))
        painter.setBrush(
            theme.colour("paper" if _absent(item) else "steel_alt" if isinstance(item, RackItem) and item.source == "offcut" else "steel")
        )
        for i in range(max(pieces, 1)):
            painter.drawRect(pile.translated(0, i * thick))
        x = pile.right() + 12
        if isinstance(item, RackItem):
            promised = f", {number} on a cut list" if (number := self.promised[identity]) else ""
            self._words(painter, f"{item.count} × {m.length(item.length)}{promised}", x, box.top() + 5, 17, 600)
            self._words(
                painter,
                ", ".join(w for w in (item.source if item.source == "offcut" else "", item.place) if w),
                x,
                box.top() + 28,
                14,
                role="muted",
            )
            return
        mass = item.section.area * item.length * 1e-3 * MATERIALS[item.material].density
        if not item.sold or not item.price:
            self._words(
                painter,
                "not sold here" if not item.sold else f"no price yet, bought {m.length(item.length)} long",
                x,
                box.top() + 16,
                15,
                role="muted",
            )
            return
        self._words(painter, f"{item.price:,.2f} for {m.length(item.length)}", x, box.top() + 5, 17, 600)
        by = f"{item.price / mass:,.2f} a kg" if mass > 0 else ""
        self._words(painter, ", ".join(w for w in (by, item.seller) if w), x, box.top() + 28, 14, role="muted")

    def _paint_job(self, painter: QPainter, job: Job, box: QRectF) -> None:
        theme = theme_of(self._session)
        state = dict(choices_of(Job, "state"))[job.state]
        self._words(painter, job.name, box.left() + 14, box.top() + 8, 18, 600)
        self._words(
            painter, f"{state}{f', due {day_words(job.due)}' if job.due else ''}", box.left() + 14, box.top() + 34, 15, role="muted"
        )
        short = QFontMetricsF(font(15)).elidedText(job.note, Qt.TextElideMode.ElideRight, _WORDS - 10)
        self._words(painter, short, box.left() + 14, box.top() + 58, 15, role="muted")
        x = box.left() + _WORDS + 20
        for line in job.lines:
            entry = self._work.library.entry(line.piece)
            count = f"{line.quantity}{f' + {line.spare}' if line.spare else ''} ×"
            self._words(painter, count, x, box.center().y() - 13, 17, 600)
            x += 22 + 10 * len(count)
            if entry is None:
                self._words(painter, "gone", x, box.center().y() - 13, 16, role="fault")
                x += 60
                continue
            width, height = entry.wide, entry.tall
            scale = min(130 / max(width, 1), (box.height() - 38) / max(height, 1))
            painter.save()
            painter.translate(x, box.center().y() - height * scale / 2 - 8)
            painter.scale(scale, scale)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.colour("edge"))
            painter.drawPath(silhouette_path(entry))
            painter.restore()
            self._words(painter, entry.name[:22], x, box.bottom() - 24, 14, role="muted")
            x += max(130.0, 8.0 * len(entry.name[:22])) + 26
        assemblies = self._work.library.records(Assembly)
        words = [f"{row.quantity} × {name.name}" for row in job.sets if isinstance(name := assemblies.get(row.assembly), Assembly)]
        words += [f"{sum(b.count for b in job.blanks)} of sheet"] if job.blanks else []
        for i, text in enumerate(words):
            self._words(painter, text, x, box.top() + 12 + 24 * i, 15)


def _absent(item: RackItem | Price) -> bool:
    """Nothing of it is there, or to be had."""
    return not item.count if isinstance(item, RackItem) else not item.sold


class Board(QWidget):
    """Rows on the left, the chosen one's entries on the right."""

    def __init__(self, work: BookWork, kind: str) -> None:
        super().__init__()
        self._work, self.kind = work, kind
        self.rows = _Rows(work, kind)
        self.rows.chosen.connect(self._show)
        self.rows.removed.connect(self.take_out)
        area = QScrollArea()
        area.setWidget(self.rows)
        area.setFocusPolicy(Qt.FocusPolicy.NoFocus)  # its rows have the keys
        area.setWidgetResizable(True)
        self.form: ModelForm | None = None
        self._card = QVBoxLayout()
        self._card.setContentsMargins(8, 8, 12, 8)
        self.add_button = worded(_ADD[kind], self.add, "A new row, to be typed over")
        self.out_button = worded("Take out", self.take_out, "Delete; Ctrl+Z brings it back")
        inner, side = QWidget(), QScrollArea()  # a job of many pieces is taller than the window
        inner.setLayout(self._card)
        side.setWidget(inner)
        side.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        TabsInSight(inner)
        side.setWidgetResizable(True)
        side.setFixedWidth(366)
        side.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(area, 1)
        row.addWidget(side)
        self.shapes = self._shapes()
        self._card.addWidget(self.shapes)
        self.shapes.setVisible(kind == "price")
        self._card.addWidget(self.add_button)
        self.cuts_button = worded("Cut list, shopping, price", self._cuts, "All pieces of this job on the rack's bars and bought ones")
        self._card.addWidget(self.cuts_button)
        self.cuts_button.setVisible(kind == "job")
        self.again_button = worded("Another like it", self.again, "A job of its own with the same pieces; from a template too")
        deeds = QHBoxLayout()
        deeds.addWidget(self.out_button, 1)
        deeds.addWidget(self.again_button, 1)
        self._card.addLayout(deeds)
        self.again_button.setVisible(kind == "job")
        self._card.addStretch(1)
        self.file_button = worded(
            "Write this job to a file…" if kind == "job" else "Write them to a file…",
            self._write,
            "As JSON, or as a table for a spreadsheet",
        )
        self._card.addWidget(self.file_button)
        self._card.addWidget(worded("Bring in…", work.ask_in, "From JSON, a table, ZIP or another book"))

    def _shapes(self) -> ChoiceBox:
        """Which sections of the catalogue are listed."""
        box = ChoiceBox(self._work.session)
        box.setFont(font(16))
        box.setMinimumHeight(40)
        box.setAccessibleName("Sections listed")
        box.addItem("All sections", "")
        for shape in SHAPES:
            box.addItem(f"Only {shape}", shape)
        box.activated.connect(lambda _index: self.refresh())
        return box

    def _listed(self) -> dict[str, Record]:
        """The records; of the catalogue also the common sizes that nothing is said about yet."""
        records = self._work.library.records(RECORDS[self.kind])
        if self.kind != "price":
            return dict(records)
        shop, shape = self._work.session.shop, self.shapes.currentData()
        prices = {i: r for i, r in records.items() if isinstance(r, Price)}
        return {i: r for i, r in catalogue(shop.offered, prices, shop.bar_length).items() if not shape or r.section.shape == shape}

    def refresh(self) -> None:
        """Show what the book has now."""
        self.rows.show_records(self._listed())
        record = self.rows.records.get(self.rows.current)
        if self.form is not None and record != self.form.model:
            self._show(self.rows.current)
        self.out_button.setEnabled(bool(self.rows.current))
        self._name_out(record)
        self.file_button.setEnabled(bool(self.rows.records))
        self._allow(record)
        self.add_button.setEnabled(not self._work.library.read_only)

    def _allow(self, record: Record | None) -> None:
        """What can be done with a job: a template is not cut, only begun from."""
        self.cuts_button.setEnabled(isinstance(record, Job) and record.state != "template")
        self.again_button.setEnabled(isinstance(record, Job) and not self._work.library.read_only)

    def again(self) -> None:
        """A job like the chosen one, with nothing of it made, due or asked yet."""
        record = self.rows.records.get(self.rows.current)
        if isinstance(record, Job):
            identity = new_id()
            if self._work.put_records("Another job like it", {identity: (None, record.again())}):
                self.refresh()
                self.rows.choose(identity)

    def _cuts(self) -> None:
        self._work.cuts_asked.emit(self.rows.current)

    def _write(self) -> None:
        self._work.ask_records(self.kind, self.rows.current)

    def _show(self, record_id: str) -> None:
        """The entries of one row."""
        if self.form is not None:
            self._card.removeWidget(self.form)
            self.form.hide()
            self.form.deleteLater()
            self.form = None
        record = self.rows.records.get(record_id)
        self.out_button.setEnabled(record is not None)
        self._allow(record)
        self._name_out(record)
        if record is None:
            return
        self.form = _JobForm(self._work, record) if isinstance(record, Job) else ModelForm(self._work.session, record)
        self.form.changed.connect(partial(self._changed, record_id))
        self._card.insertWidget(3, self.form)

    def _changed(self, record_id: str, record: Record) -> None:
        before = self._work.library.records(RECORDS[self.kind]).get(record_id)
        self.rows.records[record_id] = record
        self._work.put_record(record_id, record, before)

    def add(self) -> None:
        """A new row, like the chosen one where there is one."""
        like = self.rows.records.get(self.rows.current)
        record = RECORDS[self.kind]() if like is None or isinstance(like, Job) else like
        identity = new_id()
        self._work.put_record(identity, record, None)
        self.refresh()
        self.rows.choose(identity)

    def take_out(self) -> None:
        """Take the chosen row out; a common size is then said not to be sold here. Undo brings it back."""
        identity = self.rows.current
        record, kept = self.rows.records.get(identity), self._work.library.records(RECORDS[self.kind]).get(identity)
        if kept is not None:
            self._work.remove_record(identity, kept)
        elif isinstance(record, Price):
            self._work.put_record(identity, replace(record, sold=False), None)

    def _name_out(self, record: Record | None) -> None:
        common = isinstance(record, Price) and self.rows.current not in self._work.library.records(RECORDS[self.kind])
        self.out_button.setText("Not sold here" if common else "Take out")


class _JobForm(ModelForm):
    """A job's entries, its pieces chosen from the wall and its assemblies from theirs."""

    def __init__(self, work: BookWork, job: Job) -> None:
        super().__init__(work.session, job, skip=("lines", "sets", "blanks", "fittings"))
        self._work = work
        self._rows_box = QWidget()
        self._column = QVBoxLayout(self._rows_box)
        self._column.setContentsMargins(0, 8, 0, 0)
        self._form.addRow(self._rows_box)
        for title, name in (("Blanks of sheet", "blanks"), ("Fittings beside what the work asks for", "fittings")):
            head = QLabel(title)
            head.setFont(font(17, 600))
            head.setWordWrap(True)
            self._form.addRow(head)
            self._add(name, specs(job)[name])
        self._list()

    def _list(self) -> None:
        emptied(self._column)
        library = self._work.library
        assemblies = library.records(Assembly)
        for i, line in enumerate(self.model.lines):
            entry = library.entry(line.piece)
            self._row_of("lines", i, entry.name if entry else "A piece that is gone", "piece")
        for i, row in enumerate(self.model.sets):
            self._row_of("sets", i, assemblies[row.assembly].name if row.assembly in assemblies else "An assembly that is gone", "assembly")
        self.pieces = worded("Add a piece…", partial(self._work.pick_piece, "A piece of this job", self._add_piece))
        self._column.addWidget(self.pieces)
        if assemblies:
            self.assemblies = self._choice_of("Add an assembly…", {i: a.name for i, a in assemblies.items()}, self._add_set)

    def _row_of(self, rows: str, index: int, title: str, key: str) -> None:
        """One line with its counts, and a button that takes it out."""
        head = QWidget()
        row = QHBoxLayout(head)
        row.setContentsMargins(0, 0, 0, 0)
        name = QLabel(title)
        name.setFont(font(16, 600))
        name.setWordWrap(True)
        out = QPushButton("Take out")
        out.setAccessibleName(f"Take {title} out")
        out.setFont(font(14))
        out.clicked.connect(partial(self._drop, rows, index))
        row.addWidget(name, 1)
        row.addWidget(out)
        self._column.addWidget(head)
        counts = ModelForm(self._session, getattr(self.model, rows)[index], skip=(key,))
        counts.changed.connect(partial(self._row, rows, index))
        counts.setMinimumHeight(counts.minimumSizeHint().height())  # the card scrolls before its entries are squeezed
        self._column.addWidget(counts)

    def _choice_of(self, words: str, names: dict[str, str], add: Callable[[str], None]) -> ChoiceBox:
        choice = ChoiceBox(self._session)
        choice.setFont(font(16))
        choice.setAccessibleName(words.rstrip("…"))
        choice.addItem(words, "")
        for identity, name in names.items():
            choice.addItem(name, identity)
        choice.activated.connect(lambda index: add(str(choice.itemData(index))))
        self._column.addWidget(choice)
        return choice

    def _add_piece(self, piece_id: str) -> None:
        self._put("lines", (*self.model.lines, JobLine(piece=piece_id)))
        self._list()

    def _add_set(self, assembly_id: str) -> None:
        if assembly_id:
            self._put("sets", (*self.model.sets, JobSet(assembly=assembly_id)))
            self._list()

    def _drop(self, name: str, index: int, _checked: bool = False) -> None:
        rows = getattr(self.model, name)
        self._put(name, (*rows[:index], *rows[index + 1 :]))
        self._list()
