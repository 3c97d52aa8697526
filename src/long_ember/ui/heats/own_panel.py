"""Operations in the smith's own words: described once, kept in the shop's list, used in any piece."""

from __future__ import annotations

import itertools
from dataclasses import replace
from functools import partial
from typing import Any

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QFormLayout, QHBoxLayout, QLabel, QListWidget, QMenu, QVBoxLayout, QWidget

from long_ember.desk.session import Session
from long_ember.document import set_planning
from long_ember.features import OwnWork, Piece
from long_ember.ui.style.fonts import font
from long_ember.ui.widgets.buttons import emptied, worded
from long_ember.ui.widgets.entry import ChoiceBox
from long_ember.ui.widgets.model_form import ModelForm

__all__ = ["OwnPanel"]

_gestures = itertools.count(1)
_EMPTY = (
    "Work that no shape describes: a face, an animal's head, a maker's own finish. Say what is done, where, with what, and how long it took"
    " you at which size; it is planned with the rest, and grows with the piece."
)
_PLACES = ("on", "after", "before")
_AFTER_WORDS = 2  # rows: name and what to do stand first


def _places(piece: Piece, name: str, own: OwnWork) -> list[tuple[str, str]]:
    """Id and words of what an operation can be done on, or come after or before."""
    first = {"on": "the whole piece", "after": "what it is done on", "before": "nothing in particular"}[name]
    row = [(f.id, f"{f.title} {i}") for i, f in enumerate(piece.features, 1)]
    row += [(s.id, f"{s.feature.title}, laid on") for s in piece.standing]
    if name != "on":
        row += [(w.id, w.name) for w in piece.planning.own if w.id != own.id]
    return [("", first), *row]


class OwnPanel(QDialog):
    """Stays open beside the sequence; every change shows at once and can be undone."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self._gesture, self._busy = session, "", False
        self.setWindowTitle("Own work")
        self.resize(940, 660)
        self.list = QListWidget()
        self.list.setFont(font(17, 500))
        self.list.setAccessibleName("Own operations of this piece, in their order")
        self.list.setMinimumWidth(260)
        self.list.currentRowChanged.connect(self._choose)
        self.form: ModelForm | None = None
        self.places: dict[str, ChoiceBox] = {}
        self._holder = QVBoxLayout()
        self.told = QLabel(_EMPTY)
        self.told.setFont(font(16))
        self.told.setProperty("role", "muted")
        self.told.setWordWrap(True)
        self.add = worded("Add", lambda: self._add(OwnWork()), "Describe another operation")
        self.use = worded("From the shop's list", self._offer, "One that you have described before")
        self.keep = worded("Keep for other pieces", self._keep, "Put it into the shop's list")
        self.up = worded("Up", lambda: self._move(-1), "Sooner, among those on the same feature")
        self.down = worded("Down", lambda: self._move(1), "Later")
        self.out = worded("Take out", self._remove)
        left, right = QVBoxLayout(), QVBoxLayout()
        left.addWidget(self.list, 1)
        for pair in ((self.up, self.down), (self.add, self.out), (self.use,)):
            row = QHBoxLayout()
            for button in pair:
                row.addWidget(button, 1)
            left.addLayout(row)
        right.addWidget(self.told)
        right.addLayout(self._holder)
        right.addStretch(1)
        foot = QHBoxLayout()
        foot.addWidget(self.keep)
        foot.addStretch(1)
        foot.addWidget(worded("Close", self.accept))
        right.addLayout(foot)
        whole = QHBoxLayout(self)
        whole.setContentsMargins(16, 14, 16, 14)
        whole.setSpacing(22)
        whole.addLayout(left, 2)
        whole.addLayout(right, 3)
        session.refreshed.connect(self._renew)
        self._renew()

    @property
    def _own(self) -> tuple[OwnWork, ...]:
        return self._session.piece.planning.own

    @property
    def chosen(self) -> OwnWork | None:
        """What the form shows."""
        row = self.list.currentRow()
        return self._own[row] if 0 <= row < len(self._own) else None

    def _put(self, own: tuple[OwnWork, ...], gesture: str = "") -> None:
        self._busy = True
        self._session.attempt(lambda piece: replace(set_planning(piece, "own", own), gesture=gesture))
        self._busy = False

    def _renew(self) -> None:
        names = [w.name for w in self._own]
        if names != [self.list.item(i).text() for i in range(self.list.count())]:
            row = self.list.currentRow()
            self.list.blockSignals(True)
            self.list.clear()
            self.list.addItems(names)
            self.list.setCurrentRow(min(max(row, 0), len(names) - 1))
            self.list.blockSignals(False)
        if not self._busy and (self.form is None or self.form.model != self.chosen):
            self._show()
        self._enable()

    def _enable(self) -> None:
        row, count = self.list.currentRow(), len(self._own)
        for button, able in ((self.keep, row >= 0), (self.out, row >= 0), (self.up, row > 0), (self.down, 0 <= row < count - 1),
                             (self.use, bool(self._session.shop.own))):  # fmt: skip
            button.setEnabled(able)

    def _choose(self, _row: int) -> None:
        self._session.end_gesture()
        self._show()
        self._enable()

    def _show(self) -> None:
        """The form of the chosen one."""
        emptied(self._holder)
        own, self.form = self.chosen, None
        self.told.setVisible(own is None)
        if own is None:
            return
        self._gesture = f"own {next(_gestures)}"
        self.form = ModelForm(self._session, own, skip=("id", *_PLACES))
        self.form.changed.connect(self._typed)
        rows = self.form.layout()
        assert isinstance(rows, QFormLayout)
        self.places = {}
        for name, words in zip(_PLACES, ("Done on", "After", "Before"), strict=True):
            box = self.places[name] = ChoiceBox(self._session)
            box.setFont(font(16))
            box.setMinimumHeight(36)
            box.setAccessibleName(words)
            for identity, title in _places(self._session.piece, name, own):
                box.addItem(title, identity)
            box.setCurrentIndex(max(box.findData(getattr(own, name)), 0))
            box.activated.connect(lambda index, name=name, box=box: self._changed(name, str(box.itemData(index))))
            label = QLabel(words)
            label.setFont(font(16))
            label.setProperty("role", "muted")
            rows.insertRow(_AFTER_WORDS + len(self.places) - 1, label, box)
        self._holder.addWidget(self.form)

    def _typed(self, own: OwnWork) -> None:
        row = self.list.currentRow()
        self._put((*self._own[:row], own, *self._own[row + 1 :]), self._gesture)

    def _changed(self, name: str, value: Any) -> None:
        own = self.chosen
        if own is None or self.form is None:
            return
        self.form.model = replace(own, **{name: value})
        self._typed(self.form.model)

    def _add(self, own: OwnWork) -> None:
        known, piece = {w.id for w in self._own}, self._session.piece
        free = next(f"o{i}" for i in itertools.count(1) if f"o{i}" not in known)
        selected = self._session.selection if self._session.selection in {f.id for f in piece.every_feature()} else ""
        size = own.size if own.words else piece.bar.area**0.5
        self._put((*self._own, replace(own, id=free, on=selected, after="", before="", size=size)))
        self.list.setCurrentRow(len(self._own) - 1)
        self._show()
        self._enable()
        if self.form is not None:
            self.form.fields["name"].setFocus(Qt.FocusReason.OtherFocusReason)

    def _use(self, own: OwnWork, _checked: bool = False) -> None:
        self._add(own)

    def _remove(self) -> None:
        row = self.list.currentRow()
        self._put((*self._own[:row], *self._own[row + 1 :]))
        self._show()
        self._enable()

    def _move(self, by: int) -> None:
        row, own = self.list.currentRow(), list(self._own)
        own[row], own[row + by] = own[row + by], own[row]
        self._put(tuple(own))
        self.list.setCurrentRow(row + by)

    def _keep(self) -> None:
        own = self.chosen
        if own is None:
            return
        shop, bare = self._session.shop, replace(own, id=own.name, on="", after="", before="")
        rest = tuple(w for w in shop.own if w.name != own.name)
        self._session.set_shop(replace(shop, own=(*rest, bare)))
        self._session.said.emit(f"{own.name} is in the shop's list now, for any piece.", False)
        self._enable()

    def offered(self) -> QMenu:
        """The shop's list."""
        menu = QMenu(self)
        menu.setFont(font(16))
        for own in self._session.shop.own:
            menu.addAction(own.name).triggered.connect(partial(self._use, own))
        return menu

    def _offer(self) -> None:
        self.offered().exec(self.use.mapToGlobal(self.use.rect().bottomLeft()))
