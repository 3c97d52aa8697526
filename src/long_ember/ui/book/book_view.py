"""Book: pieces on the wall, rack, prices, jobs and the shop."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from functools import partial
from typing import Any

from PySide6.QtCore import QPoint, QPointF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QShowEvent
from PySide6.QtWidgets import (
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QMenu,
    QScrollArea,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from long_ember.storage import Entry
from long_ember.ui.actions.bookwork import BookWork
from long_ember.ui.book.assembly_page import AssemblyPage
from long_ember.ui.book.board import Board
from long_ember.ui.book.piece_card import PieceCard
from long_ember.ui.book.shop_page import ShopPage
from long_ember.ui.book.wall import Wall
from long_ember.ui.style.fonts import font

__all__ = ["BookView", "found"]

_PARTS = (("pieces", "Pieces"), ("rack", "Rack"), ("price", "Catalogue"), ("job", "Jobs"), ("assembly", "Assemblies"), ("shop", "Shop"))
_MEANS = {
    "pieces": "Every piece that was ever planned here", "rack": "Bars and offcuts that lie there", "price": "Sizes, their weight and what they cost",
    "job": "What was ordered: so many of which piece", "assembly": "Parts put together, with their fits and weight",
    "shop": "Units, allowances, fire, hands, kit, costs",
}  # fmt: skip
_STATES = (("kept", "On the wall"), ("archived", "Archived"), ("trashed", "Trash"))
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
        self._state = "kept"
        self._parts: dict[str, QWidget] = {}
        self._tabs: dict[str, QToolButton] = {}
        self.stack = QStackedWidget()
        head = QHBoxLayout()
        head.setContentsMargins(16, 8, 16, 6)
        head.setSpacing(6)
        for key, words in _PARTS:
            tab = self._tabs[key] = self._toggle(words)
            tab.setToolTip(_MEANS[key])
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
        area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        area.setWidgetResizable(True)
        row = QHBoxLayout()
        row.addWidget(area, 1)
        row.addWidget(self.card)
        self.card.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(top)
        column.addLayout(row, 1)
        return page

    # --- parts

    def show_part(self, key: str, _checked: bool = False) -> None:
        """Pieces, rack, catalogue, jobs, assemblies or shop."""
        if key not in self._parts:
            makers: dict[str, Callable[[], QWidget]] = {"shop": partial(ShopPage, self.work), "assembly": partial(AssemblyPage, self.work)}
            self._parts[key] = makers.get(key, partial(Board, self.work, key))()
            self.stack.addWidget(self._parts[key])
        self.stack.setCurrentWidget(self._parts[key])
        for name, tab in self._tabs.items():
            tab.setChecked(name == key)
        self.refresh()

    @property
    def shop(self) -> ShopPage:
        """The pages of the shop, shown."""
        self.show_part("shop")
        part = self._parts["shop"]
        assert isinstance(part, ShopPage)
        return part

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
        waiting = len(library.unwritten)
        kept = f"{waiting} {'changes wait' if waiting > 1 else 'change waits'} to be written" if waiting else "everything is kept"
        self.kept.setText(f"{library.path.stem}: {library.read_only or library.trouble or kept}"[:110])
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
