"""What menus, cards and keys do with the book: the actions of the desk, with the dialogs that ask before them."""

from __future__ import annotations

import time
from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any, Protocol

from long_ember.choosing import catalogue
from long_ember.desk.book_actions import BookActions
from long_ember.desk.library import Library
from long_ember.desk.session import Session
from long_ember.features import Piece
from long_ember.records import PLURALS, Price
from long_ember.sections import Section
from long_ember.storage import Backup, Incoming, Photo, look_over
from long_ember.storage.parcel import Parcel
from long_ember.ui.widgets import dialogs

if TYPE_CHECKING:
    from PySide6.QtWidgets import QDialog, QWidget

    from long_ember.desk.finding import Findable

__all__ = ["BookWork", "Questions", "moment_words"]


class Questions(Protocol):
    """Dialogs that deeds ask for; the window has them, since the screens they belong to stand above deeds."""

    def variant(self, work: BookWork, piece_id: str) -> QDialog:
        """The same piece for another bar."""

    def state(self, work: BookWork, piece_id: str) -> QDialog:
        """A name for the present state."""

    def photo(self, work: BookWork, photo: Photo) -> QDialog:
        """A photo, large."""

    def look_over(self, work: BookWork, source: str, found: tuple[Incoming, ...]) -> QDialog:
        """What a file would change."""

    def first_day(self, work: BookWork) -> QDialog:
        """Three shops to start from."""

    def backups(self, work: BookWork, restore: Callable[[Backup], None]) -> QDialog:
        """Copies of the book."""

    def compare(self, work: BookWork, states: list[tuple[str, Piece]], at: int, go_back: Callable[[str, Piece], None]) -> QDialog:
        """Named states beside each other."""

    def scale(self, work: BookWork, sold: tuple[Section, ...]) -> QDialog:
        """How large the design shall be."""

    def trial(self, work: BookWork, bars: Sequence[Section]) -> QDialog:
        """A test piece of these bars."""


class BookWork(BookActions):
    """Actions on the open book, asked for in a window."""

    def __init__(self, session: Session, library: Library, window: QWidget, questions: Questions) -> None:
        super().__init__(session, library)
        self.window, self.questions = window, questions
        self.dialog: Any = None

    def explain(self, what: str, words: str) -> None:
        """Why something did not come about."""
        dialogs.explain(self.window, what, words)

    def slow(self, title: str, failed: str, read: Callable[[Callable[[int, int], None]], Any], done: Callable[[Any], None]) -> None:
        """Work that may take longer than a blink, see `wait_for`."""
        from long_ember.ui.widgets.waiting import wait_for  # with its dialog, when first wanted

        wait_for(self.session.loop, self.window, title, failed, read, done)

    def review(self, parcel: Parcel, source: str) -> None:
        """Show what a parcel would change, and let the person choose."""

        def work() -> None:
            found = look_over(self.library.reader(), parcel, self.session.measure)
            self._show(self.questions.look_over(self, source, found))

        self._tried("Nothing was brought in", work)

    def ask_variant(self, piece_id: str) -> None:
        """Ask for the bar."""
        self._show(self.questions.variant(self, piece_id))

    def ask_remove(self, piece_id: str) -> None:
        """Remove for good, after asking."""
        entry = self.library.entry(piece_id)
        if entry is not None and dialogs.agree(
            self.window,
            "Remove for good",
            f"{entry.name}, with its photos, named states and history, can't be brought back except from a backup.",
        ):
            self.remove(piece_id)

    def pick_piece(self, title: str, go: Callable[[str], object], *, without: str = "", before: Sequence[Findable] = ()) -> None:
        """Have one of the pieces on the wall chosen, of however many.

        Args:
            title: what for.
            go: what is done with its id.
            without: id of one that is not meant.
            before: what else can be chosen, above them.
        """
        from long_ember.desk.finding import findable_pieces  # with its dialog, when first asked for
        from long_ember.ui.widgets.picking import PickDialog

        kept = [e for e in self.library.entries if e.state == "kept" and e.id != without]
        told = "Those that were changed last; a word finds any other." if kept else "No other piece hangs on the wall yet."
        self._show(PickDialog(title, told, [*before, *findable_pieces(kept, go)], self.window))

    def ask_state(self, piece_id: str) -> None:
        """Ask for a name for the present state."""
        self._show(self.questions.state(self, piece_id))

    def compare(self, piece_id: str, revision_id: str, _checked: bool = False) -> None:
        """Show named states beside each other, and beside the piece as it is."""

        def work() -> None:
            now = self.session.piece if piece_id == self.session.piece_id else self.library.read(piece_id)[0]
            book, past = self.library.reader(), self.library.revisions(piece_id)
            states = [("now", now), *((r.name, book.revision(r.id)) for r in past)]
            at = 1 + next(i for i, r in enumerate(past) if r.id == revision_id)
            self._show(self.questions.compare(self, states, at, lambda name, piece: self.go_back(piece_id, name, piece)))

        self._tried("The states were not compared", work)

    def ask_photos(self, piece_id: str, then: Callable[[list[Photo]], None] | None = None) -> None:
        """Ask for pictures; `then` is called with what was added."""
        paths = dialogs.open_names(self.window, "Photos", Path.home(), "Pictures (*.jpg *.jpeg *.png *.webp *.bmp *.tif *.tiff *.gif)")
        if paths:
            self.add_photos(piece_id, paths, then)

    def show_photo(self, photo_id: str, _checked: bool = False) -> None:
        """A photo, large."""
        self._tried("The photo was not shown", lambda: self._show(self.questions.photo(self, self.library.reader().photo(photo_id))))

    def ask_records(self, kind: str, record_id: str) -> None:
        """Ask where to write the rack, the prices, or the chosen job or assembly with its pieces."""
        if kind in ("job", "assembly"):
            path = dialogs.save_name(
                self.window, f"Write the {kind} to a file", Path.home() / f"{kind}.zip", "With pictures (*.zip);;Without them (*.json)"
            )
            if path is not None and record_id:
                self.export(path, record=(kind, record_id))
            return
        name = PLURALS[kind]
        path = dialogs.save_name(self.window, f"Write the {name} to a file", Path.home() / f"{name}.csv", "Table (*.csv);;JSON (*.json)")
        if path is not None:
            self.export_records(path, kind)

    def ask_in(self) -> None:
        """Ask which file to bring in."""
        kinds = "What Long Ember reads (*.json *.zip *.csv *.ember)"
        path = dialogs.open_name(self.window, "Bring in", Path.home(), kinds)
        if path is not None:
            self.bring_in_file(path)

    def ask_scale(self) -> None:
        """Ask how large the design shall be."""
        shop = self.session.shop
        prices = self.library.records(Price)
        sold = tuple(r.section for r in catalogue(shop.offered, prices, shop.bar_length).values() if r.sold)
        self._show(self.questions.scale(self, sold))

    def ask_trial(self, bars: Sequence[Section]) -> None:
        """Plan a test piece of these bars, or say why there is none."""
        self._tried("No test piece", lambda: self._show(self.questions.trial(self, bars)))

    def ask_first_day(self) -> None:
        """Ask which shop to start from."""
        self._show(self.questions.first_day(self))

    def ask_backups(self, restore: Callable[[Backup], None]) -> None:
        """Show the copies of the book; `restore` puts one back."""
        self._show(self.questions.backups(self, restore))

    def _show(self, dialog: Any) -> None:
        self.dialog = dialog
        dialog.open()


def moment_words(seconds: float) -> str:
    """A moment in words."""
    return time.strftime("%-d %b %Y, %H:%M", time.localtime(seconds))
