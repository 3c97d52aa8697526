"""Small questions with a live answer: use a bar exactly, repeat a feature."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QDialog, QFormLayout, QHBoxLayout, QLabel, QLineEdit, QPushButton, QVBoxLayout, QWidget

from long_ember.desk.session import Session
from long_ember.document import Edit, fit_bar, repeat, scale_for, scaled, scaling_notes
from long_ember.document.scaling import TARGETS
from long_ember.errors import EmberError
from long_ember.features import shape_of
from long_ember.features.solve import free_names
from long_ember.fields import specs
from long_ember.sections import Section
from long_ember.stock import reckon
from long_ember.ui.style.fonts import font
from long_ember.ui.widgets.entry import ChoiceBox
from long_ember.units import parse_length, parse_number

__all__ = ["FitBar", "Repeat", "Scale"]


class _Question(QDialog):
    """Entries above, what would come of them below, one button that does it."""

    def __init__(
        self, session: Session, title: str, wanted: Callable[[], Edit], told: Callable[[Edit], str], parent: QWidget | None
    ) -> None:
        super().__init__(parent)
        self._wanted, self._told = wanted, told
        self.setWindowTitle(title)
        self.setMinimumWidth(640)
        self._session = session
        self.form = QFormLayout()
        self.outcome = QLabel()
        self.outcome.setFont(font(17, 500))
        self.outcome.setWordWrap(True)
        self.outcome.setMinimumHeight(64)
        self.done_button = QPushButton(title)
        self.done_button.setFont(font(17, 500))
        self.done_button.setDefault(True)
        self.done_button.clicked.connect(self._do)
        leave = QPushButton("Leave it")
        leave.setFont(font(17, 500))
        leave.clicked.connect(self.reject)
        row = QHBoxLayout()
        row.addStretch(1)
        row.addWidget(leave)
        row.addWidget(self.done_button)
        column = QVBoxLayout(self)
        column.addLayout(self.form)
        column.addWidget(self.outcome)
        column.addLayout(row)
        self._edit: Edit | None = None

    def add(self, words: str, field: QWidget) -> None:
        """One entry with its words."""
        field.setFont(font(18, 500))
        label = QLabel(words)
        label.setFont(font(16))
        label.setBuddy(field)
        self.form.addRow(label, field)
        if self.form.rowCount() == 1:  # what is asked first is typed at once
            field.setFocus()
            if isinstance(field, QLineEdit):
                field.selectAll()

    def renew(self) -> None:
        """Show what would come of the entries as they are."""
        try:
            self._edit = self._wanted()
            text = self._told(self._edit)
        except EmberError as error:
            self._edit, text = None, f"Not possible so: {error}"
        self.outcome.setText(text)
        self.done_button.setEnabled(self._edit is not None)

    def _do(self) -> None:
        if self._edit is not None:
            self._session.apply(self._edit)
            self.accept()


class FitBar(_Question):
    """`I have 350 mm of this bar`: one size floats until the piece uses it exactly."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(session, "Use the bar exactly", self.wanted, self.told, parent)
        self.length = QLineEdit(session.measure.edit_text(session.answer.reckoning.cut))
        self.free = ChoiceBox(session)
        for i, feature in enumerate(session.piece.features):
            for name in free_names(feature):
                self.free.addItem(f"{feature.title} {i + 1}: {specs(feature)[name].label.lower()}", (feature.id, name))
                if feature.id == session.selection and self.free.currentData()[0] != feature.id:
                    self.free.setCurrentIndex(self.free.count() - 1)
        self.add(f"I have, of {session.piece.bar.label(session.measure)},", self.length)
        self.add("Let this size follow", self.free)
        self.length.textEdited.connect(self.renew)
        self.free.activated.connect(self.renew)
        self.renew()

    def wanted(self) -> Edit:
        """The piece that uses the bar."""
        piece, measure = self._session.piece, self._session.measure
        length = parse_length(self.length.text(), unit=measure.unit, thickness=piece.bar.thickness)
        identity, name = self.free.currentData()
        return fit_bar(piece, identity, name, length, ruler=self._session.shop.division, forge=self._session.forge)

    def told(self, edit: Edit) -> str:
        """Old and new value."""
        identity, name = self.free.currentData()
        old, new = (getattr(p.features[p.index(identity)], name) for p in (edit.before, edit.after))
        spec = specs(edit.after.features[edit.after.index(identity)])[name]
        before, after = (spec.show(v, self._session.measure) for v in (old, new))
        return f"{self.free.currentText()} goes from {before} to {after}; scale, trim and parting are counted in."


class Repeat(_Question):
    """The selected feature again and again, from middle to middle."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(session, "Repeat", self.wanted, self.told, parent)
        index = session.piece.index(session.selection)
        feature = session.piece.features[index]
        own = shape_of(feature, session.piece.place(index)).length
        self.count = QLineEdit("3")
        self.pitch = QLineEdit(session.measure.edit_text(round(own * 2)))
        self.add(f"How many of this {feature.title.lower()}, in all", self.count)
        self.add("From middle to middle", self.pitch)
        for field in (self.count, self.pitch):
            field.textEdited.connect(self.renew)
        self.renew()

    def wanted(self) -> Edit:
        """The piece with its repeats."""
        session = self._session
        count = parse_number(self.count.text(), example="3")
        if count != int(count) or not 2 <= count <= 60:
            raise EmberError("How many must be a whole number from 2 to 60.")
        pitch = parse_length(self.pitch.text(), unit=session.measure.unit, thickness=session.piece.bar.thickness)
        return repeat(session.piece, session.selection, int(count), pitch)

    def told(self, edit: Edit) -> str:
        """How many features come of it."""
        more = len(edit.after.features) - len(edit.before.features)
        return f"{more} features more, plain bar between them."


_LENGTHS = ("cut", "bar", "size")


class Scale(_Question):
    """A design larger or smaller, by a factor or to a target."""

    def __init__(self, session: Session, sold: tuple[Section, ...], parent: QWidget | None = None) -> None:
        super().__init__(session, "Scale the design", self.wanted, self.told, parent)
        self._sold = sold
        self.by = ChoiceBox(session)
        for words, target in (
            ("by a factor", "factor"),
            ("to a cut length", "cut"),
            ("to a finished mass, g", "mass"),
            ("to a bar of", "bar"),
            ("to a finished size over all", "size"),
        ):
            self.by.addItem(words, target)
        self.value = QLineEdit("1.5")
        self.add("Scale it", self.by)
        self.add("to", self.value)
        self.by.activated.connect(self._start)
        self.value.textEdited.connect(self.renew)
        self.renew()

    def _start(self) -> None:
        """Begin from how it is now."""
        piece, m = self._session.piece, self._session.measure
        target = self.by.currentData()
        now = 1.5 if target == "factor" else TARGETS[target](piece, self._session.forge)
        self.value.setText(m.edit_text(now) if target in _LENGTHS else f"{now:.4g}")
        self.renew()

    def wanted(self) -> Edit:
        """The piece scaled."""
        piece, m, target = self._session.piece, self._session.measure, self.by.currentData()
        if target in _LENGTHS:
            value = parse_length(self.value.text(), unit=m.unit, thickness=piece.bar.thickness)
        else:
            value = parse_number(self.value.text(), example="1.5")
        return scaled(piece, value if target == "factor" else scale_for(piece, target, value, forge=self._session.forge))

    def told(self, edit: Edit) -> str:
        """What becomes of it, and what no longer makes sense."""
        m = self._session.measure
        before, after = (reckon(p) for p in (edit.before, edit.after))
        figures = f"Bar {edit.after.bar.label(m)}; its features take {m.length(before.bare)} to {m.length(after.bare)}; {m.mass(before.mass)} to {m.mass(after.mass)}."
        return " ".join([figures, *(note.show(m) for note in scaling_notes(edit.before, edit.after, self._sold))])
