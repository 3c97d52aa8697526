"""Write down what a piece really took, with dirty hands: what nobody enters says nothing, what is entered teaches the next plan."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from datetime import date, timedelta
from functools import partial

from PySide6.QtCore import QDate, QSignalBlocker, Qt, QTimer
from PySide6.QtWidgets import (
    QDateEdit,
    QGridLayout,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from long_ember.beliefs import factor_of
from long_ember.desk.session import Session
from long_ember.document import quick_answer
from long_ember.errors import NoAnswer
from long_ember.fields import day_words, specs
from long_ember.learning import RECALLED, calibrated, changed, figure_words, made_before, measurable, planned_entry, taught, told_by
from long_ember.records import CAUSES, Job, LogEntry, Pictured, SavedCutList, Sized, Told, sawn_lengths
from long_ember.stock import believed
from long_ember.storage import Photo, new_id
from long_ember.ui.actions.bookwork import BookWork
from long_ember.ui.heats.log_parts import Chips, LogLine, PartPicker, Rejects, Stepper, plain_label
from long_ember.ui.style.fonts import font
from long_ember.ui.widgets.asking import AskingDialog
from long_ember.ui.widgets.buttons import emptied, worded
from long_ember.ui.widgets.entry import ChoiceBox
from long_ember.ui.widgets.thumbnail import thumbnail
from long_ember.units import Measure, many

__all__ = ["LogPanel"]

_CHIPS = 10  # heats to tap
_THUMB = 56  # px
_SAME = 0.3  # mm: lengths that are told alike
_LENGTHS = (("right", "to length"), ("short", "short by"), ("long", "long by"))
_SPECS = specs(LogEntry)


class LogPanel(AskingDialog):
    """One entry; the other ones of the piece below it, to be changed or taken out."""

    def __init__(self, work: BookWork, parent: QWidget | None = None, counted: LogEntry | None = None) -> None:
        super().__init__(parent)
        self._work, self._session = work, work.session
        self.setWindowTitle("Log what happened")
        self.resize(900, 780)
        self._editing = ""  # id of the entry that is changed
        self._sizes: dict[tuple[str, str], Sized] = {}
        self._proposed: LogEntry
        self.told = plain_label("", 17, 500)
        self.told.setWordWrap(True)
        self.changes = plain_label("", 16, 500)
        self.changes.setWordWrap(True)
        self.changes.setMinimumHeight(44)
        self._soon = QTimer(self, singleShot=True, interval=180)
        self._soon.timeout.connect(self._preview)
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(4, 10, 12, 4)
        column.setSpacing(16)
        for part in (self._counted(), self._heated(), self._measured(), self._more()):
            column.addLayout(part)
        column.addStretch(1)
        area = QScrollArea()
        area.setWidget(page)
        area.setWidgetResizable(True)
        area.setFrameShape(QScrollArea.Shape.NoFrame)
        whole = QVBoxLayout(self)
        whole.addWidget(self.told)
        whole.addWidget(area, 1)
        whole.addWidget(self.changes)
        whole.addLayout(self._listed())
        whole.addLayout(self._buttons())
        self.begin()
        if counted is not None:  # at the anvil: it counts as entered, and what is left out of it is asked about
            empty = self._proposed
            self._show(counted)
            self.sawn.show_value(counted.planned_sawn)  # the sheet in hand said so
            self.sawn_choices.show_value(counted.planned_sawn)
            self._proposed = empty
            self.more_button.setChecked(bool(counted.sizes))
            self._toggle()

    # --- what is entered

    def _counted(self) -> QVBoxLayout:
        self.good, self.rejects = Stepper("Good", 1), Rejects(self._session, CAUSES)
        self.job, self.smith = ChoiceBox(self._session), ChoiceBox(self._session)
        jobs = [(i, j) for i, j in self._work.library.records(Job).items() if any(line.piece == self._session.piece_id for line in j.lines)]
        self.job.addItem("for no job", "")
        for identity, job in jobs:
            self.job.addItem(f"for {job.name}", identity)
        for smith in self._session.shop.smiths:
            self.smith.addItem(smith.name, smith.name)
        for box, name in ((self.job, "Job"), (self.smith, "Smith")):
            box.setFont(font(16))
            box.setMinimumHeight(42)
            box.setAccessibleName(name)
        for box, needed in ((self.job, bool(jobs)), (self.smith, len(self._session.shop.smiths) > 1)):
            if not needed:
                box.hide()
        row = QHBoxLayout()
        row.setSpacing(28)
        row.addWidget(self.good)
        row.addStretch(1)
        row.addWidget(self.job)
        row.addWidget(self.smith)
        for part in (self.good, self.rejects):
            part.changed.connect(self._changed)
        column = QVBoxLayout()
        column.addLayout(row)
        column.addWidget(self.rejects)
        return column

    def _heated(self) -> QVBoxLayout:
        likely = self._session.answer.plan.count
        first = max(likely - _CHIPS // 2, 1)
        self.heats = Chips("Heats", [(n, str(n)) for n in range(first, first + _CHIPS)])
        self.more_heats = LogLine(self._session, "or", _SPECS["heats"], 0, wide=80)
        self.minutes = LogLine(self._session, "Minutes each", _SPECS["minutes"], 0.0, wide=110, tip="min")
        row = QHBoxLayout()
        row.addWidget(plain_label("Heats each", 18, 500))
        row.addWidget(self.heats)
        row.addWidget(self.more_heats, 1)
        self.heats.changed.connect(lambda: self.more_heats.show_value(0))
        self.more_heats.changed.connect(lambda: self.heats.show_value(None))
        for part in (self.heats, self.more_heats, self.minutes):
            part.changed.connect(self._changed)
        column = QVBoxLayout()
        column.addLayout(row)
        column.addWidget(self.minutes)
        return column

    def _measured(self) -> QVBoxLayout:
        m = self._session.measure
        self.came = Chips("It came", _LENGTHS)
        self.off = LogLine(self._session, "", _SPECS["off"], 0.0, wide=110, tip=m.unit, sunk=True)
        self.off.entry.setAccessibleName("By how much")
        self.over_all = LogLine(self._session, "or length along it", _SPECS["over_all"], 0.0, tip=m.unit)
        row = QHBoxLayout()
        row.addWidget(plain_label("It came", 18, 500))
        row.addWidget(self.came)
        row.addWidget(self.off, 1)
        self.sawn = LogLine(self._session, "Sawn at", _SPECS["sawn"], 0.0, tip=m.unit)
        self.sawn_choices = Chips("Sawn at", ())
        self._sawn_row = QHBoxLayout()
        self._sawn_row.addWidget(self.sawn)
        self._sawn_row.addWidget(self.sawn_choices, 1)
        for part in (self.came, self.off, self.over_all, self.sawn):
            part.changed.connect(self._changed)
        column = QVBoxLayout()
        column.addLayout(row)
        column.addWidget(self.over_all)
        column.addLayout(self._sawn_row)
        return column

    def _offer_sawn(self, entry: LogEntry) -> None:
        """Offer the lengths that may have been sawn, one press each; what is ticked in a cut list stands there already."""
        m, old = self._session.measure, self.sawn_choices
        ticked = sawn_lengths(self._work.library.records(SavedCutList).values(), self._session.piece_id)
        last = max(self._entries.values(), key=lambda e: e.number, default=entry)
        found = {x: f"{m.length(x)}, ticked in the cut list" for x in ticked}
        for length, words in ((entry.planned_sawn, "as planned"), (last.sawn, "as the last")):
            if length and not any(abs(length - x) < _SAME for x in found):
                found[length] = f"{m.length(length)}, {words}"
        self.sawn_choices = Chips("Sawn at", list(found.items()), size=16)
        self.sawn_choices.changed.connect(self._sawn_chosen)
        self._sawn_row.replaceWidget(old, self.sawn_choices)
        old.deleteLater()
        known = entry.sawn or (entry.planned_sawn if entry.came != "unsaid" else 0.0) or (ticked[0] if len(ticked) == 1 else 0.0)
        self.sawn.show_value(known)
        self.sawn_choices.show_value(next((x for x in found if known and abs(x - known) < _SAME), None))

    def _sawn_chosen(self) -> None:
        self.sawn.show_value(self.sawn_choices.value or 0.0)
        self._changed()

    def _more(self) -> QVBoxLayout:
        session = self._session
        self.more_button = worded("More: weights, sizes, bar, day, note, photo", self._toggle)
        self.more_button.setCheckable(True)
        self.blank = LogLine(session, "Bar before", _SPECS["blank"], 0.0, tip="g")
        self.mass = LogLine(session, "Piece after", _SPECS["mass"], 0.0, tip="g")
        self.bar = LogLine(session, "Bar used", _SPECS["bar"], None, tip="as planned")
        self.number = LogLine(session, "Which of its kind", _SPECS["number"], 1, wide=80)
        self.note = LogLine(session, "How it came out", _SPECS["note"], "", wide=460)
        today = date.today()
        self.day = Chips("Day", ((today, "today"), (today - timedelta(days=1), "yesterday")))
        self.calendar = QDateEdit(QDate(today.year, today.month, today.day))
        self.calendar.setCalendarPopup(True)
        self.calendar.setDisplayFormat("d MMM yyyy")
        self.calendar.setMinimumWidth(150)
        self.calendar.setFont(font(16))
        self.calendar.setMinimumHeight(44)
        self.calendar.setAccessibleName("Another day")
        self.calendar.dateChanged.connect(lambda day: self._dated(date(day.year(), day.month(), day.day())))
        self.picker = PartPicker(session)
        self.picker.chosen.connect(self._sized)
        self._size_rows = QGridLayout()
        self.size_lines: dict[tuple[str, str], LogLine] = {}
        self._size_title = plain_label("Press a part that you have measured.", 16, 400, "muted")
        page = QWidget()
        grid = QGridLayout(page)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(8)
        for i, line in enumerate((self.blank, self.mass, self.bar)):
            grid.addWidget(line, i // 2, i % 2)
        grid.addWidget(self.picker, 2, 0, 2, 1)
        grid.addWidget(self._size_title, 2, 1)
        grid.addLayout(self._size_rows, 3, 1)
        days = QHBoxLayout()
        days.setSpacing(10)
        days.addWidget(plain_label("Forged"))
        days.addWidget(self.day)
        days.addWidget(self.calendar)
        days.addStretch(1)
        days.addWidget(self.number)
        grid.addLayout(days, 4, 0, 1, 2)
        grid.addWidget(self.note, 5, 0, 1, 2)
        add = worded(
            "Add a photo…",
            lambda: self._work.ask_photos(session.piece_id, self._pictured),
            "Of what came out; it is shown with the piece too",
        )
        add.setEnabled(bool(session.piece_id))
        self._photo_row = QHBoxLayout()
        pictures = QHBoxLayout()
        pictures.addWidget(add)
        pictures.addLayout(self._photo_row)
        pictures.addStretch(1)
        grid.addLayout(pictures, 6, 0, 1, 2)
        self.day.changed.connect(lambda: self._dated(self.day.value or today))
        for part in (self.blank, self.mass, self.bar, self.number, self.note):
            part.changed.connect(self._changed)
        self._further = page
        column = QVBoxLayout()
        column.addWidget(self.more_button, alignment=Qt.AlignmentFlag.AlignLeft)
        column.addWidget(page)
        return column

    def _pictured(self, photos: Sequence[Photo]) -> None:
        """These belong to the entry."""
        self._photos += tuple(Pictured(photo=p.id, name=p.name) for p in photos)
        self._show_photos()
        self._changed()

    def _show_photos(self) -> None:
        emptied(self._photo_row)
        there = {p.id: p for p in self._work.library.photos(self._session.piece_id)} if self._photos else {}
        for shown in self._photos:
            photo = there.get(shown.photo)
            if photo is not None:
                self._photo_row.addWidget(thumbnail(photo, partial(self._work.show_photo, photo.id), _THUMB))

    def _toggle(self) -> None:
        self._further.setVisible(self.more_button.isChecked())

    def _dated(self, day: date) -> None:
        self._show_day(day)
        self._changed()

    def _show_day(self, day: date) -> None:
        """Chips and calendar say the same."""
        self._day = day
        self.day.show_value(day)
        with QSignalBlocker(self.calendar):
            self.calendar.setDate(QDate(day.year, day.month, day.day))

    def _sized(self, feature_id: str) -> None:
        """The sizes of a part, each with its plan and a line for what came out."""
        emptied(self._size_rows)
        self.size_lines.clear()
        feature, m = self._session.piece.feature(feature_id), self._session.measure
        if feature is None:
            return
        known = measurable(feature)
        self._size_title.setText(f"{feature.title}: what came out, cold" if known else f"{feature.title} has no size to measure.")
        for row, (name, label, planned) in enumerate(known):
            line = self.size_lines[feature_id, name] = LogLine(self._session, label, _SPECS["sawn"], 0.0, tip=m.length(planned))
            kept = self._sizes.get((feature_id, name))
            if kept is not None:
                line.show_value(kept.value)
            line.changed.connect(partial(self._size, feature_id, feature.title, name, label, planned, line))
            self._size_rows.addWidget(line, row, 0)

    def _size(self, feature_id: str, title: str, name: str, label: str, planned: float, line: LogLine) -> None:
        key = feature_id, name
        if line.value:
            self._sizes[key] = Sized(feature=feature_id, title=title, name=name, label=label, planned=planned, value=line.value)
        else:
            self._sizes.pop(key, None)
        self._changed()

    # --- the entries of before

    def _listed(self) -> QVBoxLayout:
        self.list = QListWidget()
        self.list.setFont(font(16))
        self.list.setAccessibleName("What is logged of this piece")
        self.list.setMaximumHeight(92)
        self.list.itemDoubleClicked.connect(lambda _item: self.edit_chosen())
        self.edit_button = worded("Change it", self.edit_chosen, "Write the chosen entry anew")
        self.out_button = worded("Take out", self._take_out, "Remove the chosen entry; undo in the Book brings it back")
        beside = QVBoxLayout()
        beside.addWidget(self.edit_button)
        beside.addWidget(self.out_button)
        row = QHBoxLayout()
        row.addWidget(self.list, 1)
        row.addLayout(beside)
        column = QVBoxLayout()
        column.addLayout(row)
        return column

    def _buttons(self) -> QHBoxLayout:
        self.done_button = worded("Log it", self._log, weight=600)
        self.done_button.setFont(font(20, 600))
        self.done_button.setMinimumHeight(52)
        self.done_button.setDefault(True)
        row = QHBoxLayout()
        row.addStretch(1)
        row.addWidget(worded("Leave it", self.reject))
        row.addWidget(self.done_button)
        return row

    def _fill(self) -> None:
        """Entries of this piece, the last one on top."""
        self._entries = self._work.library.log_of(self._session.piece_id)
        self.list.clear()
        for identity, e in sorted(self._entries.items(), key=lambda pair: -pair[1].number):
            item = QListWidgetItem(entry_words(e, self._session.measure))
            item.setData(Qt.ItemDataRole.UserRole, identity)
            self.list.addItem(item)
        for widget in (self.list, self.edit_button, self.out_button):
            widget.setVisible(bool(self._entries))

    def _chosen(self) -> str:
        item = self.list.currentItem() or self.list.item(0)
        return str(item.data(Qt.ItemDataRole.UserRole)) if item is not None else ""

    def _take_out(self) -> None:
        identity = self._chosen()
        if identity:
            self._work.remove_record(identity, self._entries[identity])
            self._fill()

    def edit_chosen(self) -> None:
        """Write an entry of before anew."""
        identity = self._chosen()
        if identity:
            self._editing = identity
            self._show(self._entries[identity])

    # --- the entry

    def begin(self) -> None:
        """A new entry that says nothing yet."""
        session = self._session
        self._editing = ""
        self._fill()
        over_all = sum(s.length for _id, s in session.piece.shapes)
        number = made_before(self._entries.values(), session.piece_id) + 1
        self._base = planned_entry(
            session.piece, session.piece_id, session.answer.plan, number, session.shop.smith, ruler=session.shop.division, over_all=over_all
        )
        self._show(self._base)

    def _show(self, entry: LogEntry) -> None:
        self._base = entry
        m = self._session.measure
        planned = f"{many(entry.planned_heats, 'heat')}, {entry.planned_minutes:.0f} min"
        sawn = f", sawn {m.length(entry.planned_sawn)}" if entry.planned_sawn else ""
        self.told.setText(
            f"{entry.name}. Planned: {planned}{sawn}. Enter what you know; what you leave empty says nothing."
            if not self._editing
            else f"{entry.name}, no. {entry.number}, as it was logged. Change what was otherwise."
        )
        self.good.show_value(int(entry.good))
        self.rejects.show_value(entry.rejects)
        self._photos = entry.photos
        self._show_photos()
        tapped = entry.heats if entry.heats in self.heats.buttons else None
        self.heats.show_value(tapped)
        self.more_heats.show_value(0 if tapped else entry.heats)
        for name in ("minutes", "off", "over_all", "blank", "mass", "bar", "note"):
            getattr(self, name).show_value(getattr(entry, name))
        self.number.show_value(entry.number)
        self.number.entry.setText(str(entry.number))
        self.came.show_value(None if entry.came == "unsaid" else entry.came)
        self._offer_sawn(entry)
        self._show_day(entry.day or date.today())
        self._sizes = {(s.feature, s.name): s for s in entry.sizes}
        _choose(self.job, entry.job, "for a job of before")
        _choose(self.smith, entry.smith, entry.smith or "nobody named")
        more = any((entry.blank, entry.mass, entry.bar, entry.sizes, entry.note, entry.photos)) and bool(self._editing)
        self.more_button.setChecked(more)
        self._toggle()
        self._proposed = self.entry()
        self._changed()

    def entry(self) -> LogEntry:
        """What is entered, as it would be logged."""
        came = self.came.value or "unsaid"
        sizes = tuple(self._sizes.values())
        return replace(
            self._base, good=self.good.value, rejects=self.rejects.value, photos=self._photos, heats=self.heats.value or self.more_heats.value, minutes=self.minutes.value, came=came,
            off=self.off.value if came in ("short", "long") else 0.0, over_all=self.over_all.value, blank=self.blank.value, mass=self.mass.value,
            sawn=self.sawn.value, bar=self.bar.value, note=self.note.value, day=self._day, sizes=sizes, told=self._told(sizes),
            number=self.number.value or 1, job=self.job.currentData() or "", smith=self.smith.currentData() or "",
        )  # fmt: skip

    def _told(self, sizes: Sequence[Sized]) -> tuple[Told, ...]:
        """What the sizes say, by what the bar was marked with."""
        if self._editing and sizes == self._base.sizes:
            return self._base.told
        piece = believed(self._session.piece, self._session.forge.lengths)
        return tuple(t for t in (told_by(piece, s) for s in sizes) if t is not None)

    def faults(self) -> list[str]:
        """What can't be read, or is missing."""
        lines = (*(getattr(self, name) for name in ("more_heats", "minutes", "off", "over_all", "blank", "mass", "sawn", "bar", "number", "note")),
                 self.rejects, *self.size_lines.values())  # fmt: skip
        found = [line.fault for line in lines if line.fault]
        if self.came.value in ("short", "long") and not self.off.value:
            found.append(f"Say by how much it came {self.came.value}")
        if (self.came.value or self.over_all.value) and not self.sawn.value and not self.sawn.fault:
            found.append("Say what length was sawn: press one, or type it")
        if not self.good.value and not self.rejects.value:
            found.append("No piece, good or rejected")
        return found

    def held(self) -> str:
        """What was written and is not logged."""
        return "What you wrote here and have not logged" if self.entry() != self._proposed else ""

    def _changed(self) -> None:
        self.off.setVisible(self.came.value in ("short", "long"))
        self._soon.start()

    def _preview(self) -> None:
        """What this entry would change, or what is still missing; and what lies so far off that it was perhaps misread."""
        faults = self.faults()
        self.done_button.setEnabled(not faults)
        if faults:
            self.changes.setText(f"! {faults[0]}.")
            return
        entry, session = self.entry(), self._session
        said = [f"{t.words} says: {factor_of(t.factor).title.lower()} {figure_words(factor_of(t.factor), t.value)}." for t in entry.told]
        silent = [s.label.lower() for s in entry.sizes if not any(t.words == f"{s.title}: {s.label.lower()}" for t in entry.told)]
        if silent:
            said.append(f"Kept, but it teaches nothing: {', '.join(silent)}.")
        others = tuple(e for e in session.log if e != self._entries.get(self._editing))
        log = (*others, entry)
        forge = calibrated(session.shop.forge, log, session.shop.smith, session.piece_id)
        try:
            plan = quick_answer(session.piece, ruler=session.shop.division, forge=forge, order=session.answer.plan.order).plan
        except NoAnswer:
            plan = session.answer.plan
        line = changed(session.answer.plan, plan, session.measure)
        said.append(line.show(session.measure) if line is not None else "Nothing that is planned changes by this.")
        far = _far_off(log, session)
        self.changes.setText(" ".join([*far, *said]))

    def _log(self) -> None:
        if self.faults():
            self._preview()
            return
        identity = self._editing or new_id()
        self._work.log(identity, self.entry(), self._entries.get(self._editing))
        self.accept()


def _choose(box: ChoiceBox, value: str, words: str) -> None:
    """Choose what an entry names; it stays so where the shop no longer has it."""
    if box.findData(value) < 0:
        box.addItem(words, value)
    box.setCurrentIndex(box.findData(value))


def _far_off(log: tuple[LogEntry, ...], session: Session) -> list[str]:
    """What to measure again of the last entry, because it lies more than three deviations from what is held."""
    found = taught(log, session.shop.smith, session.shop.fire)
    kinds = {round(abs(off)) for at, off in found.far if at == min(len(log), RECALLED) - 1}
    return (
        [f"! This lies far from all that was logged before ({max(kinds)} times what is usual): measure it again? It will weigh less."]
        if kinds
        else []
    )


def entry_words(e: LogEntry, m: Measure) -> str:
    """One entry in a line."""
    parts = [f"no. {e.number}", day_words(e.day) if e.day else "some day"]
    if e.good != 1 or e.rejects:
        parts.append(f"{e.good} good" + (f", {e.spoilt} rejected" if e.rejects else ""))
    if e.heats:
        parts.append(f"{e.heats} of {e.planned_heats} heats")
    if e.minutes:
        parts.append(f"{e.minutes:g} of {e.planned_minutes:g} min")
    if e.came != "unsaid":
        parts.append(dict(_LENGTHS)[e.came] + (f" {m.length(e.off)}" if e.off else ""))
    if e.photos:
        parts.append(many(len(e.photos), "photo"))
    return "   ".join([*parts, *([e.note] if e.note else [])])
