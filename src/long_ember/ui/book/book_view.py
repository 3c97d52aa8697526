"""Book: pieces on the wall, rack, prices, jobs and the shop."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from dataclasses import replace
from functools import partial
from typing import Any

from PySide6.QtCore import QPoint, QPointF, Qt, QTimer, Signal
from PySide6.QtGui import QKeyEvent, QShowEvent
from PySide6.QtWidgets import (
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QMenu,
    QPushButton,
    QScrollArea,
    QSizePolicy,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from long_ember.records import Shop
from long_ember.storage import Entry
from long_ember.ui.actions.bookwork import BookWork
from long_ember.ui.book.assembly_page import AssemblyPage
from long_ember.ui.book.board import Board
from long_ember.ui.book.piece_card import PieceCard
from long_ember.ui.book.wall import Wall
from long_ember.ui.style.fonts import font
from long_ember.ui.widgets.model_form import ModelForm

__all__ = ["BookView", "found"]

_PARTS = (("pieces", "Pieces"), ("rack", "Rack"), ("price", "Catalogue"), ("job", "Jobs"), ("assembly", "Assemblies"), ("shop", "Shop"))
_STATES = (("kept", "On the wall"), ("archived", "Archived"), ("trashed", "Trash"))
# The shop's page: columns of groups, each with what it decides and its fields.
_SHOP = (
    (("Measures", "How every length is shown and typed.", ("name", "unit", "denominator", "ruler")),
     ("Allowances", "For new pieces; a piece keeps its own.", ("school", "source", "scale", "trim", "parting", "bite", "bar_length", "kerf", "end_trim")),
     ("Sawing and sheet", "What stays on a bar that is forged on, what is worth keeping, and the sheets you buy.",
      ("hold", "keep", "sheet_length", "sheet_width", "margin_sheet")),
     ("The length to saw", "Marks, sheets, cut list and prices are made for it.", ("saw", "confidence", "margin")),
     ("Choosing the bar", "What the choice looks through.", ("offer",))),
    (("Fire", "How much bar one heat can hold, and how long it takes.", ("fire", "hot_length", "opening", "door", "depth", "slow", "irons")),
     ("Smiths", "The first one is at the anvil: their hammer and hand set the number of heats.", ("smiths",)),
     ("Heavy blows", "Who or what strikes beside the smith.", ("ram", "striker")),
     ("Costs", "In your own money, whatever it is; 0 leaves a thing out.", ("hour", "overhead", "fuel", "finishing", "market", "wholesale")),
     ("Schools", "Where smiths differ; a piece may go its own way.", ("first", "warming", "ends", "bends", "heads", "rhythm", "touch"))),
    (("Kit", "What is missing is said wherever a heat asks for it.", ("kit",)),
     ("Own rules of order", "What comes before what in this shop.", ("rules",)),
     ("Own work", "Operations of your own, for any piece; they are described in the sequence of a piece.", ("own",)),
     ("Stores", "Rivets, screws, flux, wax: what lies there, and what one costs.", ("stores",))),
)  # fmt: skip
_EMPTY = {
    "kept": "Nothing hangs here yet. Begin a new piece with Ctrl+N, or look at the demo's.",
    "archived": "Nothing is archived.",
    "trashed": "The trash is empty.",
}


def found(entries: tuple[Entry, ...], words: str, state: str) -> tuple[Entry, ...]:
    """Pieces in a state that hold every word typed, those with it in their name or tags first, otherwise the last changed first."""
    typed = words.lower().split()
    if not typed:
        return tuple(e for e in entries if e.state == state)
    hits = [e for e in entries if e.state == state and all(w in e.words for w in typed)]
    named = {e.id: " ".join((e.name, *e.tags)).lower() for e in hits}
    return tuple(sorted(hits, key=lambda e: not all(w in named[e.id] for w in typed)))


class BookView(QWidget):
    """Everything that is kept.

    Signals:
        example_asked: an empty wall is to be hung with the demo's pieces.
    """

    example_asked = Signal()

    def __init__(self, work: BookWork) -> None:
        super().__init__()
        self.work = work
        self._state, self._typing = "kept", False
        self.shop_forms: list[ModelForm] = []
        self._groups: dict[str, QLabel] = {}
        self._parts: dict[str, QWidget] = {}
        self._tabs: dict[str, QToolButton] = {}
        self.stack = QStackedWidget()
        head = QHBoxLayout()
        head.setContentsMargins(16, 8, 16, 6)
        head.setSpacing(6)
        for key, words in _PARTS:
            tab = self._tabs[key] = self._toggle(words)
            tab.clicked.connect(partial(self.show_part, key))
            head.addWidget(tab)
        head.addStretch(1)
        self.kept = QLabel()
        self.kept.setFont(font(15))
        self.kept.setProperty("role", "muted")
        head.addWidget(self.kept)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(head)
        column.addWidget(self.stack, 1)
        self._parts["pieces"] = self._pieces()
        self.stack.addWidget(self._parts["pieces"])
        work.library.changed.connect(self.refresh)
        work.session.refreshed.connect(self._renew_forms)
        self.show_part("pieces")

    def _toggle(self, words: str) -> QToolButton:
        button = QToolButton()
        button.setText(words)
        button.setCheckable(True)
        button.setFont(font(17, 500))
        button.setMinimumHeight(38)
        return button

    def _pieces(self) -> QWidget:
        page = QWidget()
        self.search = QLineEdit()
        self.search.setFont(font(19, 500))
        self.search.setPlaceholderText("Find a piece by its name, tags, note, shapes or bar")
        self.search.setAccessibleName("Find a piece")
        self.search.setClearButtonEnabled(True)
        self.search.textChanged.connect(self._hang)
        self.wall = Wall(self.work.session)
        self.card = PieceCard(self.work)
        self.wall.chosen.connect(self._choose)
        self.wall.opened.connect(self._open)
        self.wall.typed.connect(self._type)
        self.wall.asked.connect(self._menu)
        self.wall.example.clicked.connect(self.example_asked)
        self.search.returnPressed.connect(lambda: self._open(self.wall.current))
        top = QHBoxLayout()
        top.setContentsMargins(16, 0, 16, 0)
        top.addWidget(self.search, 1)
        self._state_buttons: dict[str, QToolButton] = {}
        for state, words in _STATES:
            button = self._state_buttons[state] = self._toggle(words)
            button.clicked.connect(partial(self.show_state, state))
            top.addWidget(button)
        for words, factor, tip in (("−", 0.8, "Smaller (−)"), ("+", 1.25, "Larger (+)")):
            button = self._toggle(words)
            button.setCheckable(False)
            button.setToolTip(tip)
            button.clicked.connect(partial(self._zoom, factor))
            top.addWidget(button)
        area = QScrollArea()
        area.setWidget(self.wall)
        area.setWidgetResizable(True)
        row = QHBoxLayout()
        row.addWidget(area, 1)
        row.addWidget(self.card)
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(top)
        column.addLayout(row, 1)
        return page

    # --- parts

    def show_part(self, key: str, _checked: bool = False) -> None:
        """Pieces, rack, catalogue, jobs, assemblies or shop."""
        if key not in self._parts:
            makers: dict[str, Callable[[], QWidget]] = {"shop": self._shop, "assembly": partial(AssemblyPage, self.work)}
            self._parts[key] = makers.get(key, partial(Board, self.work, key))()
            self.stack.addWidget(self._parts[key])
        self.stack.setCurrentWidget(self._parts[key])
        for name, tab in self._tabs.items():
            tab.setChecked(name == key)
        self.refresh()

    def show_group(self, title: str) -> None:
        """One group of the shop's page, scrolled to the top."""
        self.show_part("shop")
        QTimer.singleShot(0, self, partial(self._scroll_to, title))  # the page is laid out first

    def _scroll_to(self, title: str) -> None:
        page, head = self._shop_area.widget(), self._groups.get(title)
        if page is not None and head is not None:
            self._shop_area.verticalScrollBar().setValue(head.mapTo(page, QPoint(0, 0)).y() - 12)

    def board(self, kind: str) -> Board:
        """Rack, prices or jobs."""
        self.show_part(kind)
        part = self._parts[kind]
        assert isinstance(part, Board)
        return part

    @property
    def assemblies(self) -> AssemblyPage:
        """The page of assemblies."""
        self.show_part("assembly")
        part = self._parts["assembly"]
        assert isinstance(part, AssemblyPage)
        return part

    def _shop(self) -> QWidget:
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._shop_area = area
        self._fill_shop()
        return area

    def _fill_shop(self) -> None:
        page = QWidget()
        row = QHBoxLayout(page)
        row.setContentsMargins(24, 8, 24, 24)
        row.setSpacing(30)
        self.shop_forms = []
        for groups in _SHOP:
            column = QVBoxLayout()
            column.setSpacing(8)
            for title, words, names in groups:
                self._group(column, title, words, names)
            if groups is _SHOP[0]:
                again = QPushButton("Start from another shop…")
                again.setFont(font(16, 500))
                again.setMinimumHeight(40)
                again.clicked.connect(lambda _checked=False: self.work.ask_first_day())
                column.addSpacing(12)
                column.addWidget(again)
            column.addStretch(1)
            row.addLayout(column, 3 if "kit" in groups[0][2] else 2)
        self._shop_area.setWidget(page)

    def _group(self, column: QVBoxLayout, title: str, words: str, names: tuple[str, ...]) -> None:
        head, told = QLabel(title), QLabel(words)
        self._groups[title] = head
        head.setFont(font(18, 600))
        told.setFont(font(15))
        told.setWordWrap(True)
        told.setProperty("role", "muted")
        form = ModelForm(self.work.session, self.work.session.shop, only=names)
        form.changed.connect(partial(self._shop_changed, names))
        form.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.shop_forms.append(form)
        for widget in (head, told, form):
            column.addWidget(widget)
        column.addSpacing(10)

    def _shop_changed(self, names: tuple[str, ...], shop: Shop) -> None:
        session = self.work.session
        self._typing = True
        session.set_shop(replace(session.shop, **{name: getattr(shop, name) for name in names}))
        self._typing = False

    def _renew_forms(self) -> None:
        """Another shop, or other units, from elsewhere."""
        shop = self.work.session.shop
        stale = "shop" in self._parts and not self._typing
        if stale and any(getattr(form.model, name) != getattr(shop, name) for form in self.shop_forms for name in form.fields):
            self._fill_shop()

    # --- pieces

    def show_state(self, state: str, _checked: bool = False) -> None:
        """On the wall, archived, or in the trash."""
        self._state = state
        self.refresh()

    def refresh(self) -> None:
        """Show what the book has now."""
        if not self.isVisible():
            return
        library = self.work.library
        numbers = Counter(e.state for e in library.entries)
        for state, button in self._state_buttons.items():
            button.setChecked(state == self._state)
            number = numbers[state]
            button.setText(f"{dict(_STATES)[state]} {number}" if number else dict(_STATES)[state])
        self.kept.setText(f"{library.path.stem}: {library.read_only or library.trouble or 'everything is kept'}"[:110])
        self._hang()
        part = self.stack.currentWidget()
        if isinstance(part, (Board, AssemblyPage)):
            part.refresh()

    def _hang(self, _text: str = "") -> None:
        words = self.search.text()
        entries = found(self.work.library.entries, words, self._state)
        self.wall.hang(entries, "Nothing is found by these words." if words.strip() else _EMPTY[self._state])
        self.card.show_entry(self.work.library.entry(self.wall.current))

    def _choose(self, piece_id: str) -> None:
        self.card.show_entry(self.work.library.entry(piece_id))

    def _open(self, piece_id: str) -> None:
        if piece_id:
            self.work.open_piece(piece_id)

    def _type(self, text: str) -> None:
        self.search.setFocus()
        self.search.setText(self.search.text() + text)

    def _zoom(self, factor: float, _checked: bool = False) -> None:
        self.wall.zoom(factor)

    def _menu(self, piece_id: str, at: QPointF) -> None:
        menu = QMenu(self)
        menu.setFont(font(15))
        for button in (self.card.open_button, self.card.copy_button, self.card.variant_button, self.card.archive_button, self.card.trash_button,
                       self.card.state_button, self.card.photo_button):  # fmt: skip
            menu.addAction(button.text() if button is not self.card.photo_button else "Add photos…", button.click)
        menu.popup(QPoint(round(at.x()), round(at.y())))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Delete puts the chosen piece in the trash, Down goes from the search line to the wall."""
        if event.key() == Qt.Key.Key_Down and self.search.hasFocus():
            self.wall.setFocus()
        elif event.key() == Qt.Key.Key_Delete and self.wall.hasFocus():
            self.work.set_state(self.wall.current, "trashed")
        else:
            super().keyPressEvent(event)

    def showEvent(self, event: QShowEvent) -> None:
        """The book may have changed while another screen was in sight."""
        self.refresh()
        piece: Any = self.work.session.piece_id
        if self.work.library.entry(piece) is not None and self._state == "kept":
            self.wall.choose(piece)
        self.wall.setFocus()
