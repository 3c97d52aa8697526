"""What the views share: the document, its answer, the selection, the settings."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PySide6.QtCore import QObject, Signal

from long_ember.document import Answer, Change, Document, Edit, History, answer
from long_ember.errors import EmberError, SaveError
from long_ember.features import Check, Piece
from long_ember.geometry import Balance, Contact, contacts
from long_ember.shop import Settings, Shop
from long_ember.storage import write_settings
from long_ember.ui.theme import THEMES, Theme
from long_ember.units import Line, Measure, say

if TYPE_CHECKING:
    from long_ember.ui.library import Library

__all__ = ["Session"]


class Session(QObject):
    """The one path from an edit to a repaint: edit, document, answer, `refreshed`, views.

    Signals:
        refreshed: the piece, its answer or the way numbers are shown changed.
        selected: another feature, or none, is selected.
        hovered: the pointer is over another feature.
        restyled: the theme changed.
        said: a sentence for the message line; True when it is a fault.
        touched: the piece was found to run into itself somewhere else than before, or no longer.
    """

    refreshed = Signal()
    selected = Signal()
    hovered = Signal()
    restyled = Signal()
    said = Signal(str, bool)
    touched = Signal()

    def __init__(self, piece: Piece, settings: Settings, shop: Shop, library: Library | None = None, piece_id: str = "",
                 history: History | None = None) -> None:  # fmt: skip
        super().__init__()
        self.document = Document(piece, history)
        self.document.changed.connect(self._changed)
        self.settings, self.shop = settings, shop
        self.library, self.piece_id = library, piece_id
        self.selection = piece.features[0].id if piece.features else ""
        self.hover = ""
        self.contacts: tuple[Contact, ...] = ()
        self.balance: tuple[Piece, Balance] | None = None
        self.comparison: tuple[Piece, str, tuple[Line, ...]] | None = None
        self._opening = False
        self.unkept = False  # something was changed in a book that is only looked at
        self.answer: Answer = answer(piece, ruler=shop.division, bench=shop.bench)

    @property
    def piece(self) -> Piece:
        """The piece as it is now."""
        return self.document.piece

    @property
    def measure(self) -> Measure:
        """How numbers are shown."""
        return self.shop.measure

    @property
    def theme(self) -> Theme:
        """Colours in force."""
        return THEMES[self.settings.theme]

    def look_for_contacts(self) -> None:
        """Find where the piece runs into itself; too slow for every keystroke, so it waits for a pause."""
        found = contacts(self.piece)
        if found != self.contacts:
            self.contacts = found
            self.touched.emit()
            if found:
                first, second = (self.piece.features[self.piece.index(i)].title.lower() for i in (found[0].first, found[0].second))
                self.said.emit(f"The {second} runs into the {first}: turn one of them, or leave more room.", True)

    def set_comparison(self, name: str, lines: tuple[Line, ...]) -> None:
        """How the piece as it is stands against a known one; printed until it changes."""
        self.comparison = (self.piece, name, lines) if lines else None

    def set_balance(self, found: Balance | None) -> None:
        """Where the piece as it is balances; drawn until it changes."""
        self.balance = None if found is None else (self.piece, found)
        self.touched.emit()

    def contact_checks(self, feature_id: str) -> tuple[Check, ...]:
        """What the selected feature runs into."""
        found = []
        for contact in self.contacts:
            if feature_id in (contact.first, contact.second):
                other = self.piece.index(contact.second if feature_id == contact.first else contact.first)
                if other >= 0:
                    text = f"Runs into the {self.piece.features[other].title.lower()} by {{}}: turn one of them, or leave more room."
                    found.append(Check("warn", say(text, contact.depth)))
        return tuple(found)

    def apply(self, edit: Edit) -> None:
        """Carry out an edit."""
        self.document.apply(edit)

    def attempt(self, make: object, *arguments: object) -> bool:
        """Carry out the edit that `make(piece, *arguments)` gives; an impossible one is explained in the message line."""
        try:
            self.apply(make(self.piece, *arguments))  # type: ignore[operator]
        except EmberError as error:
            self.said.emit(f"Nothing changed. {error}", True)
            return False
        self.said.emit("", False)
        return True

    def undo(self) -> None:
        """Take the last step back, and what was said about it."""
        self._stepped(self.document.undo)

    def redo(self) -> None:
        """Do the next step again."""
        self._stepped(self.document.redo)

    def _stepped(self, step: Callable[[], None]) -> None:
        try:
            step()
            self.said.emit("", False)
        except EmberError as error:  # a step of an earlier session that can't be read
            self.said.emit(f"Nothing changed. {error}", True)

    def end_gesture(self) -> None:
        """What was typed is one finished step, and is kept now."""
        self.document.end_gesture()
        if self.library is not None:
            self.library.hurry()

    def select(self, feature_id: str) -> None:
        """Select a feature everywhere."""
        if feature_id != self.selection:
            self.end_gesture()
            self.selection = feature_id
            self.selected.emit()

    def set_hover(self, feature_id: str) -> None:
        """Point at a feature everywhere."""
        if feature_id != self.hover:
            self.hover = feature_id
            self.hovered.emit()

    def configure(self, settings: Settings) -> None:
        """Change the theme or the books opened last."""
        old, self.settings = self.settings, settings
        try:
            write_settings(settings)
        except SaveError as error:
            self.said.emit(f"The setting holds until you quit. {error}", True)
        if old.theme != settings.theme:
            self.restyled.emit()

    def set_shop(self, shop: Shop) -> None:
        """Change units, kit, allowances, fire or smiths; stored sizes stay as they are."""
        if shop != self.shop:
            self.adopt(shop)
            if self.library is not None:
                self.library.put_shop(shop)

    def adopt(self, shop: Shop) -> None:
        """Show things as another book's shop has them."""
        self.shop = shop
        self.answer = answer(self.piece, ruler=shop.division, bench=shop.bench)
        self.refreshed.emit()

    def open(self, piece: Piece, piece_id: str = "", history: History | None = None) -> None:
        """Show another piece; nothing is written until it is changed."""
        self.end_gesture()
        self.piece_id, self._opening, self.unkept = piece_id, True, False
        try:
            self.document.replace(piece, history)
        finally:
            self._opening = False
        self.unkept = False  # something was changed in a book that is only looked at
        self.said.emit("", False)

    def _changed(self, change: Change) -> None:
        self.answer = answer(self.piece, ruler=self.shop.division, bench=self.shop.bench)
        if self.library is not None and self.piece_id and not self._opening:
            self.library.keep(self.piece_id, self.piece, self.document.history)
            self.unkept = bool(self.library.read_only)
        wanted = change.focus or self.selection
        features = self.piece.features
        if self.piece.index(wanted) < 0:  # it is gone: look at what stands where the change was
            wanted = features[min(change.first, len(features) - 1)].id if features else ""
        moved = wanted != self.selection
        self.selection = wanted
        self.refreshed.emit()
        if moved:
            self.selected.emit()
