"""Dialogs of the screens, each loaded when it is first asked for; deeds ask for them without knowing the screens."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from PySide6.QtWidgets import QDialog

from long_ember.features import Piece
from long_ember.sections import Section
from long_ember.storage import Backup, Incoming, Photo
from long_ember.ui.actions.bookwork import BookWork, moment_words

__all__ = ["WindowQuestions"]


class WindowQuestions:
    """The dialogs of this window; see `deeds.bookwork.Questions`."""

    def variant(self, work: BookWork, piece_id: str) -> QDialog:
        """The same piece for another bar."""
        from long_ember.ui.book.book_dialogs import VariantDialog

        return VariantDialog(work, piece_id)

    def state(self, work: BookWork, piece_id: str) -> QDialog:
        """A name for the present state."""
        from long_ember.ui.book.book_dialogs import StateDialog

        return StateDialog(work, piece_id)

    def photo(self, work: BookWork, photo: Photo) -> QDialog:
        """A photo, large."""
        from long_ember.ui.book.book_dialogs import PhotoDialog

        return PhotoDialog(work, photo)

    def look_over(self, work: BookWork, source: str, found: tuple[Incoming, ...]) -> QDialog:
        """What a file would change."""
        from long_ember.ui.book.book_dialogs import ArrivalDialog

        return ArrivalDialog(work, source, found)

    def first_day(self, work: BookWork) -> QDialog:
        """Three shops to start from."""
        from long_ember.ui.book.book_dialogs import FirstDay

        return FirstDay(work)

    def backups(self, work: BookWork, restore: Callable[[Backup], None]) -> QDialog:
        """Copies of the book."""
        from long_ember.ui.book.book_dialogs import BackupsDialog

        return BackupsDialog(work, moment_words, work.preview, restore)

    def compare(self, work: BookWork, states: list[tuple[str, Piece]], at: int, go_back: Callable[[str, Piece], None]) -> QDialog:
        """Named states beside each other."""
        from long_ember.ui.book.compare import CompareDialog

        return CompareDialog(work.session, states, at, go_back, work.window)

    def scale(self, work: BookWork, sold: tuple[Section, ...]) -> QDialog:
        """How large the design shall be."""
        from long_ember.ui.shape.forms import Scale

        return Scale(work.session, sold, work.window)

    def trial(self, work: BookWork, bars: Sequence[Any]) -> QDialog:
        """A test piece of these bars."""
        from long_ember.ui.stock.trial import TrialDialog

        return TrialDialog(work, bars)
