"""Questions about the book: a variant's bar, a state's name, what to bring in, which backup, and the shop on the first day."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from typing import Any

from PySide6.QtCore import QByteArray, Qt
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import (
    QDialog,
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from long_ember.errors import EmberError
from long_ember.fields import inched, specs
from long_ember.records import KIT, STARTING, Shop
from long_ember.sections import parse_section
from long_ember.storage import CHOICES, Backup, Incoming, Photo
from long_ember.ui.actions.bookwork import BookWork
from long_ember.ui.style.fonts import font
from long_ember.ui.widgets.entry import ChoiceBox

__all__ = ["ArrivalDialog", "BackupsDialog", "FirstDay", "PhotoDialog", "StateDialog", "VariantDialog"]

_WORDS = {"new": "new", "same": "the same", "differs": "different"}


def _label(text: str, size: int = 16, weight: int = 400, role: str = "") -> QLabel:
    label = QLabel(text)
    label.setFont(font(size, weight))
    label.setWordWrap(True)
    label.setProperty("role", role)
    return label


class _Dialog(QDialog):
    """A heading, what it is about, and a row of buttons; the first one does it."""

    def __init__(self, work: BookWork, title: str, wide: int = 560) -> None:
        super().__init__(work.window)
        self._work = work
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle(title)
        self.setMinimumWidth(wide)
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(22, 18, 22, 18)
        self.column.setSpacing(10)
        self.column.addWidget(_label(title, 22, 600))
        self.row = QHBoxLayout()

    def buttons(self, do: str, run: Callable[[], object], leave: str = "Leave it") -> QPushButton:
        """The row of buttons."""
        row = self.row
        row.addStretch(1)
        away, done = QPushButton(leave), QPushButton(do)
        for button in (away, done):
            button.setFont(font(17, 500))
            row.addWidget(button)
        away.clicked.connect(self.reject)
        done.setDefault(True)
        done.clicked.connect(lambda _checked=False: run())
        self.column.addLayout(row)
        return done


class VariantDialog(_Dialog):
    """The same piece for another bar."""

    def __init__(self, work: BookWork, piece_id: str) -> None:
        super().__init__(work, "The same piece for another bar")
        entry = work.library.entry(piece_id)
        self._id = piece_id
        self.column.addWidget(_label(f"{entry.name if entry else 'The piece'} stays as it is; the variant hangs beside it.", role="muted"))
        self.bar = QLineEdit()
        self.bar.setFont(font(20, 500))
        self.bar.setPlaceholderText("10 sq, 1/2 rd, 25x6 flat")
        self.bar.setAccessibleName("Bar of the variant")
        self.told = _label("", 16, 500)
        self.told.setMinimumHeight(48)
        self.column.addWidget(self.bar)
        self.column.addWidget(self.told)
        self.done_button = self.buttons("Make the variant", self._do)
        self.bar.textChanged.connect(self._renew)
        self._renew()

    def _renew(self) -> None:
        try:
            bar = parse_section(self.bar.text(), unit=self._work.session.measure.unit)
            self.told.setText(f"Of {bar.label(self._work.session.measure)}.")
            self.done_button.setEnabled(True)
        except EmberError as error:
            self.told.setText(str(error) if self.bar.text().strip() else "")
            self.done_button.setEnabled(False)

    def _do(self) -> None:
        try:
            self._work.variant(self._id, parse_section(self.bar.text(), unit=self._work.session.measure.unit))
        except EmberError as error:
            self.told.setText(f"Not of this bar: {error}")
            return
        self.accept()


class StateDialog(_Dialog):
    """A name for the present state."""

    def __init__(self, work: BookWork, piece_id: str) -> None:
        super().__init__(work, "Name this state")
        self._id = piece_id
        self.column.addWidget(
            _label("Everything is kept by itself. A name lets you come back to this state, and compare with it.", role="muted")
        )
        self.name = QLineEdit()
        self.name.setFont(font(20, 500))
        self.name.setPlaceholderText("as shown to the customer")
        self.name.setAccessibleName("Name of the state")
        self.column.addWidget(self.name)
        done = self.buttons("Name it", self._do)
        done.setEnabled(False)
        self.name.textChanged.connect(lambda text: done.setEnabled(bool(text.strip())))

    def _do(self) -> None:
        self._work.name_state(self._id, self.name.text().strip())
        self.accept()


class PhotoDialog(_Dialog):
    """A photo, large."""

    def __init__(self, work: BookWork, photo: Photo) -> None:
        super().__init__(work, photo.name, 400)
        picture = QLabel()
        pixmap = QPixmap()
        pixmap.loadFromData(QByteArray(photo.data))
        room = work.window.size() * 0.8
        if pixmap.width() > room.width() or pixmap.height() > room.height():
            pixmap = pixmap.scaled(room, Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation)
        picture.setPixmap(pixmap)
        self.column.addWidget(picture)

        def out() -> None:
            work.remove_photo(photo)
            self.accept()

        self.buttons("Take it out", out, "Close").setDefault(False)


class ArrivalDialog(_Dialog):
    """What a file would change, one choice for each thing; nothing is written before the button."""

    def __init__(self, work: BookWork, source: str, found: tuple[Incoming, ...]) -> None:
        super().__init__(work, f"Bring in from {source}", 860)
        self.found = found
        self.choices: dict[str, ChoiceBox] = {}
        counts = {v: sum(a.verdict == v for a in found) for v in _WORDS}
        told = ", ".join(f"{n} {_WORDS[v]}" for v, n in counts.items() if n) or "Nothing in it"
        self.column.addWidget(_label(f"{told}. Nothing is replaced unless you say so; a backup is made first.", role="muted"))
        inner = QWidget()
        grid = QGridLayout(inner)
        grid.setHorizontalSpacing(16)
        grid.setColumnStretch(1, 1)
        for row, arrival in enumerate(found):
            self._row(grid, row, arrival)
        grid.setRowStretch(len(found), 1)
        area = QScrollArea()
        area.setWidget(inner)
        area.setWidgetResizable(True)
        area.setMinimumHeight(min(420, 60 + 54 * len(found)))
        self.column.addWidget(area, 1)
        self.done_button = self.buttons("Bring it in", self._do)
        self._renew()

    def _row(self, grid: QGridLayout, row: int, arrival: Incoming) -> None:
        grid.addWidget(_label(arrival.what, 15, role="muted"), row, 0)
        words = _label(arrival.name, 17, 600)
        if arrival.said:
            words = _label(f"<b>{_html(arrival.name)}</b><br>{_html(' '.join(arrival.said))}", 16)
        grid.addWidget(words, row, 1)
        grid.addWidget(_label(_WORDS[arrival.verdict], 16, 500, "fault" if arrival.verdict == "differs" else "muted"), row, 2)
        box = ChoiceBox(self._work.session)
        box.setFont(font(16))
        for choice in arrival.choices:
            box.addItem(CHOICES[choice], choice)
        box.setAccessibleName(f"What to do with {arrival.name}")
        box.activated.connect(self._renew)
        self.choices[arrival.key] = box
        grid.addWidget(box, row, 3)

    @property
    def chosen(self) -> dict[str, str]:
        """What is to be done, by key."""
        return {key: str(box.currentData()) for key, box in self.choices.items()}

    def _renew(self) -> None:
        number = sum(choice != "skip" for choice in self.chosen.values())
        self.done_button.setEnabled(number > 0)
        self.done_button.setText(f"Bring in {number}" if number else "Nothing to bring in")

    def _do(self) -> None:
        self._work.accept(self.found, self.chosen)
        self.accept()


def _html(text: str) -> str:
    return text.replace("&", "&amp;").replace("<", "&lt;")


class BackupsDialog(_Dialog):
    """Copies of the book: one made now, or one put back after a look at what would change."""

    def __init__(
        self, work: BookWork, moment_words: Callable[[float], str], preview: Callable[[Backup], str], restore: Callable[[Backup], None]
    ) -> None:
        super().__init__(work, "Backups of the book", 760)
        self._preview, self._restore = preview, restore
        self.column.addWidget(_label(
            "A copy is made every hour while you work, and thinned out to the last of each hour, day and week. "
            "Putting one back keeps the present book as a backup too.", role="muted"))  # fmt: skip
        self.list = QListWidget()
        self.list.setFont(font(17))
        self.list.setAccessibleName("Backups, newest first")
        for backup in work.library.backups():
            why = {"rolling": "by itself", "by-hand": "asked for"}.get(backup.why, backup.why.replace("-", " "))
            odd = "   (this date can't be: a clock was wrong)" if backup.odd else ""
            item = QListWidgetItem(f"{moment_words(backup.made)}   {why}   {backup.size / 1e6:.1f} MB{odd}")
            item.setData(Qt.ItemDataRole.UserRole, backup)
            self.list.addItem(item)
        self.told = _label("" if self.list.count() else "There is none yet.", 16)
        self.told.setMinimumHeight(96)
        self.told.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.column.addWidget(self.list, 1)
        self.column.addWidget(self.told)
        now = QPushButton("Make one now")
        now.setFont(font(17, 500))
        now.setEnabled(not work.library.read_only)
        now.clicked.connect(self._now)
        self.done_button = self.buttons("Put this one back", self._put_back, "Close")
        self.done_button.setEnabled(False)
        self.done_button.setDefault(False)
        self.row.insertWidget(0, now)
        self.list.currentItemChanged.connect(self._look)

    def _look(self, item: QListWidgetItem | None) -> None:
        if item is not None:
            try:
                self.told.setText(self._preview(item.data(Qt.ItemDataRole.UserRole)))
                self.done_button.setEnabled(not self._work.library.read_only)
            except EmberError as error:
                self.told.setText(f"This copy can't be used: {error}")
                self.done_button.setEnabled(False)

    def _now(self) -> None:
        self._work.library.back_up()
        self.accept()

    def _put_back(self) -> None:
        backup = self.list.currentItem().data(Qt.ItemDataRole.UserRole)
        self.accept()
        self._restore(backup)


def _in_unit(shop: Shop, unit: str) -> Shop:
    """A shop to start from, its kerf, trim, hammers and all in sizes of the unit."""
    if unit == "mm":
        return shop
    return replace(inched(shop), unit=unit, smiths=tuple(inched(s) for s in shop.smiths))


class FirstDay(_Dialog):
    """Three shops to start from; skipped with Escape, changed at any time under Book, Shop."""

    def __init__(self, work: BookWork) -> None:
        super().__init__(work, "What is your shop like?", 900)
        self.column.addWidget(
            _label("Pick the nearest. Everything can be changed later under Book, Shop, or skipped now.", 17, role="muted")
        )
        row = QHBoxLayout()
        row.setSpacing(14)
        self.cards: dict[str, QPushButton] = {}
        for key, (title, sentence, shop) in STARTING.items():
            row.addWidget(self._card(key, title, sentence, shop))
        self.column.addLayout(row)
        units = QHBoxLayout()
        units.addWidget(_label("Lengths in", 17))
        self.unit = ChoiceBox(work.session)
        self.unit.setFont(font(17))
        for words, unit in (("mm", "mm"), ("inches and fractions", "in")):
            self.unit.addItem(words, unit)
        units.addWidget(self.unit)
        units.addStretch(1)
        skip = QPushButton("Skip")
        skip.setFont(font(17, 500))
        skip.clicked.connect(self.reject)
        units.addWidget(skip)
        self.column.addLayout(units)

    def _card(self, key: str, title: str, sentence: str, shop: Shop) -> QFrame:
        card = QFrame()
        column = QVBoxLayout(card)
        column.setContentsMargins(0, 6, 0, 6)
        button = self.cards[key] = QPushButton(title)
        button.setFont(font(18, 600))
        button.setMinimumHeight(64)
        button.clicked.connect(partial(self._take, shop))
        column.addWidget(button)
        column.addWidget(_label(sentence, 16))
        smith, m = shop.smiths[0], self._work.session.measure
        column.addWidget(_label(f"Heats {m.length(shop.hot_length)} at once; {specs(smith)['hammer'].show(smith.hammer, m)} hammer; "
                                f"{len(shop.kit)} of {len(KIT)} tools.", 15, role="muted"))  # fmt: skip
        column.addStretch(1)
        return card

    def _take(self, shop: Shop, _checked: bool = False) -> None:
        self._work.session.set_shop(_in_unit(shop, self.unit.currentData()))
        self.accept()

    def reject(self) -> None:
        """Skipped: a plain shop, so that the question is not asked again."""
        session: Any = self._work.session
        if session.library is not None and session.library.shop is None:
            session.library.put_shop(session.shop)
        super().reject()
