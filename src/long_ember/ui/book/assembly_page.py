"""Assemblies: the picture in the middle, what fits under it, the entries beside it."""

from __future__ import annotations

from dataclasses import replace
from functools import partial
from pathlib import Path

from PySide6.QtCore import Qt, QTimer
from PySide6.QtWidgets import QHBoxLayout, QLabel, QScrollArea, QSlider, QVBoxLayout, QWidget

from long_ember.assemblies import Assembled, assembled, fits
from long_ember.errors import EmberError
from long_ember.features import Piece
from long_ember.plain import marked_up
from long_ember.records import Assembly, pieces_of
from long_ember.stock import believed
from long_ember.storage import new_id
from long_ember.ui.actions.bookwork import BookWork
from long_ember.ui.book.assembly_canvas import AssemblyCanvas
from long_ember.ui.book.assembly_form import AssemblyForm
from long_ember.ui.style.fonts import font
from long_ember.ui.widgets import dialogs
from long_ember.ui.widgets.buttons import worded
from long_ember.ui.widgets.entry import ChoiceBox

__all__ = ["AssemblyPage"]

_VERDICTS = {"fits": "Fits", "look": "Look at it", "wrong": "Does not fit"}
_CAUTION = (
    "Fits, mass and balance only: nothing here says what it carries. For anything that lifts, holds people or hangs overhead follow local "
    "codes and ask a licensed engineer."
)


class AssemblyPage(QWidget):
    """One assembly at a time, chosen from a list."""

    def __init__(self, work: BookWork) -> None:
        super().__init__()
        self._work, self._session = work, work.session
        self.current = ""
        self.form: AssemblyForm | None = None
        self.found: Assembled | None = None
        self._shown: tuple[object, ...] = ()
        self._changing = False
        self._rest = QTimer(self, singleShot=True, interval=60)
        self._rest.timeout.connect(self._put_together)
        self.which = ChoiceBox(self._session)
        self.which.setFont(font(18, 600))
        self.which.setAccessibleName("Assembly")
        self.which.setMinimumHeight(40)
        self.which.activated.connect(lambda index: self.choose(str(self.which.itemData(index))))
        self.canvas = AssemblyCanvas(self._session)
        self.apart = QSlider(Qt.Orientation.Horizontal)
        self.apart.setRange(0, 100)
        self.apart.setPageStep(25)
        self.apart.setAccessibleName("Taken apart")
        self.apart.setMinimumHeight(36)
        self.apart.valueChanged.connect(lambda value: self.canvas.take_apart(value / 100))
        self.figures, self.told, self.caution = self._label(18, 600), self._label(16), self._label(14)
        self.caution.setProperty("role", "muted")
        self.caution.setText(_CAUTION)
        self.add_button, self.out_button = (
            worded("New assembly", self.add, "Parts of the book, and where they meet"),
            worded("Take out", self.take_out, "Ctrl+Z brings it back"),
        )
        self.copy_button = worded("Duplicate", self.duplicate, "A version of it to change and compare")
        self.file_button = worded("Write to a file…", self._write, "With its pieces, as JSON")
        self.against = ChoiceBox(self._session)
        self.against.setFont(font(15))
        self.against.setAccessibleName("Compare with another assembly")
        self.against.activated.connect(lambda _index: self._put_together())
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 0, 0, 8)
        row.addLayout(self._middle(), 1)
        self._area = QScrollArea()
        self._area.setWidgetResizable(True)
        self._area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self._area.setFixedWidth(372)
        self._area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        row.addWidget(self._area)
        self._session.refreshed.connect(self._soon)

    def _middle(self) -> QVBoxLayout:
        head = QHBoxLayout()
        head.addWidget(self.which, 1)
        for button in (self.add_button, self.copy_button, self.file_button, self.out_button):
            head.addWidget(button)
        slide = QHBoxLayout()
        for text in ("Together", "Taken apart"):
            label = QLabel(text)
            label.setFont(font(15))
            slide.addWidget(label)
        slide.insertWidget(1, self.apart, 1)
        slide.addWidget(worded("Picture…", self._picture, "What is seen, as PNG"))
        # What fits can be long; it scrolls by itself rather than push the picture away.
        words = QWidget()
        column = QVBoxLayout(words)
        column.setContentsMargins(0, 0, 8, 0)
        column.addWidget(self.told)
        column.addStretch(1)
        area = QScrollArea()
        area.setWidget(words)
        area.setWidgetResizable(True)
        area.setFixedHeight(104)
        area.setAccessibleName("How the parts fit")
        middle = QVBoxLayout()
        middle.setSpacing(4)
        middle.addLayout(head)
        middle.addWidget(self.canvas, 1)
        middle.addLayout(slide)
        weighed = QHBoxLayout()
        weighed.addWidget(self.figures, 1)
        weighed.addWidget(self.against)
        middle.addLayout(weighed)
        middle.addWidget(area)
        middle.addWidget(self.caution)
        return middle

    def _label(self, size: int, weight: int = 400) -> QLabel:
        label = QLabel()
        label.setFont(font(size, weight))
        label.setWordWrap(True)
        label.setTextFormat(Qt.TextFormat.RichText)
        return label

    # --- what is shown

    @property
    def records(self) -> dict[str, Assembly]:
        """All assemblies of the book by id."""
        return dict(self._work.library.records(Assembly))

    def refresh(self) -> None:
        """Show what the book has now."""
        records = self.records
        if self.current not in records:
            self.current = next(iter(records), "")
        self.which.clear()
        for identity, record in records.items():
            self.which.addItem(record.name, identity)
        self.which.setCurrentIndex(self.which.findData(self.current))
        self.which.setEnabled(bool(records))
        self._list_others(records)
        writable = not self._work.library.read_only
        self.add_button.setEnabled(writable)
        for button in (self.out_button, self.copy_button):
            button.setEnabled(bool(records) and writable)
        self.file_button.setEnabled(bool(records))
        if self.form is None or (not self._changing and self.form.model != records.get(self.current)):
            self._fill()
        self._put_together()

    def _list_others(self, records: dict[str, Assembly]) -> None:
        now = self.against.currentData()
        self.against.clear()
        self.against.addItem("Compare with…", "")
        for identity, record in records.items():
            if identity != self.current:
                self.against.addItem(f"against {record.name}", identity)
        self.against.setCurrentIndex(max(self.against.findData(now), 0))

    def choose(self, identity: str) -> None:
        """Show one assembly."""
        self.current = identity
        self.refresh()

    def _fill(self) -> None:
        record = self.records.get(self.current)
        if record is None:
            self.form = None
            self._area.setWidget(QWidget())
            return
        self.form = AssemblyForm(self._work, record, self._pieces(record))
        self.form.changed.connect(partial(self._changed, self.current))
        self._area.setWidget(self.form)

    def _pieces(self, record: Assembly) -> dict[str, Piece]:
        found = {}
        for identity in pieces_of(record):
            try:
                here = identity == self._session.piece_id
                piece = self._session.piece if here else self._work.library.read(identity)[0]
                found[identity] = believed(piece, self._session.forge.lengths)  # as heavy as it is told everywhere
            except EmberError:
                continue  # it is named as gone
        return found

    def _changed(self, identity: str, record: Assembly) -> None:
        before = self.records.get(identity)
        if self.form is not None:
            self.form.set_pieces(self._pieces(record))
        self._changing = True  # a slow disk may still tell the old record: the entries under the fingers stay
        try:
            self._work.put_record(identity, record, before)
        finally:
            self._changing = False
        self._soon()

    def _soon(self) -> None:
        if self.isVisible():
            self._rest.start()

    def _put_together(self) -> None:
        """Solids take longer than a keystroke, so they follow a moment later."""
        record = self.records.get(self.current)
        if record is None or not record.parts:
            self.found, self._shown = None, ()
            self.canvas.show_assembled(None)
            self.figures.setText("")
            self.told.setText("")
            self.apart.setEnabled(False)
            return
        pieces, m = self._pieces(record), self._session.measure
        shown = (record, *pieces.items())
        if self.found is None or shown != self._shown:
            self.found, self._shown = assembled(record, pieces), shown
            self.canvas.show_assembled(self.found)
        self.apart.setEnabled(True)
        found = self.found
        whole, solids = found.weight, found.solids()
        left = min((float(b.mesh.points[:, 0].min()) for b in solids), default=0.0)
        self.figures.setText(f"{m.mass(whole.mass)} together; balances {m.length(whole.centre[0] - left)} from its left end (⊕).")
        said = self._versus(found, left)
        said += [
            (f"{fit.title}: {_VERDICTS[fit.verdict].lower()}.", " ".join(_sentence(line.show(m)) for line in fit.lines))
            for fit in fits(found, ruler=self._session.shop.division)
        ]
        said += [("Not joined yet:", f"{name}.") for name in found.loose]
        if len(found.placed) > 1:
            said.append(("Mass:", " + ".join(f"{p.name} {m.mass(p.weight.mass)}" for p in found.placed) + f" = {m.mass(whole.mass)}."))
        alone = len(record.parts) < 2
        words = "<br>".join(f"<b>{marked_up(head)}</b> {marked_up(text)}" for head, text in said)
        self.told.setText(words or ("" if alone else "No joins yet: say where the parts meet."))

    def _versus(self, found: Assembled, left: float) -> list[tuple[str, str]]:
        """Mass and balance beside another assembly's."""
        other = self.records.get(str(self.against.currentData() or ""))
        if other is None or not other.parts:
            return []
        m, beside = self._session.measure, assembled(other, self._pieces(other))
        start = min((float(b.mesh.points[:, 0].min()) for b in beside.solids()), default=0.0)
        mass, known = found.weight.mass, beside.weight.mass
        said = _heavier(mass, known) or "as heavy"
        moved = (found.weight.centre[0] - left) - (beside.weight.centre[0] - start)
        where = (
            f"{m.length(abs(moved))} {'farther from' if moved > 0 else 'nearer to'} its left end"
            if abs(moved) > 0.05
            else "at the same place"
        )
        parts = [
            f"{one.name.partition(': ')[2] or one.name} {change}"
            for one, two in zip(found.placed, beside.placed, strict=False)
            if (change := _heavier(one.weight.mass, two.weight.mass))
        ]
        return [(f"Against {other.name}", f"({m.mass(known)}): {said}, balances {where}{'; ' if parts else ''}{', '.join(parts)}.")]

    # --- deeds

    def add(self) -> None:
        """An empty assembly."""
        identity = new_id()
        taken = {r.name for r in self.records.values()}
        name = next(n for i in range(1, len(taken) + 2) if (n := "New assembly" if i == 1 else f"New assembly {i}") not in taken)
        self._work.put_record(identity, Assembly(name=name), None)
        self.choose(identity)

    def duplicate(self) -> None:
        """A version of the assembly, beside it and compared with it."""
        record, before = self.records.get(self.current), self.current
        if record is not None:
            identity = new_id()
            self._work.put_record(identity, replace(record, name=f"{record.name}, another version"), None)
            self.choose(identity)
            self.against.setCurrentIndex(max(self.against.findData(before), 0))
            self._put_together()

    def _picture(self) -> None:
        """What is seen, as PNG."""
        path = dialogs.save_name(self.window(), "Write the picture", Path.home() / "assembly.png", "Picture (*.png)")
        if path is not None:
            done = self.canvas.grab().save(str(path), "PNG")
            self._session.said.emit(f"Written to {path.name}." if done else f"{path.name} could not be written there.", not done)

    def take_out(self) -> None:
        """Take the assembly out; undo brings it back, its pieces stay."""
        record = self.records.get(self.current)
        if record is not None:
            self._work.remove_record(self.current, record)

    def _write(self) -> None:
        self._work.ask_records("assembly", self.current)


def _heavier(mass: float, known: float) -> str:
    """One mass against another in words, "" where they are the same."""
    ratio = mass / known if known else 1.0
    if abs(ratio - 1) < 0.005:
        return ""
    return f"{ratio:.1f} times as heavy" if ratio >= 2 else f"{abs(ratio - 1):.0%} {'heavier' if ratio > 1 else 'lighter'}"


def _sentence(text: str) -> str:
    return text if text.endswith((".", ":")) else f"{text}."
