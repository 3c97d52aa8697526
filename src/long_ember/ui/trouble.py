"""A piece that can't be reckoned: what is known of it, and the ways on, in the place of the screens that would show it."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLabel, QPushButton, QVBoxLayout, QWidget

from long_ember.desk.library import Library
from long_ember.desk.session import Session
from long_ember.errors import EmberError, fault_words
from long_ember.ui.faults import Fault, save_report
from long_ember.ui.style.fonts import font

__all__ = ["TroublePage"]


class TroublePage(QWidget):
    """A heading, what is the matter, and large buttons."""

    def __init__(self, session: Session, library: Library, to_book: Callable[[], object], to_file: Callable[[], object]) -> None:
        super().__init__()
        self._session, self._library = session, library
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.title, self.told, self.place = QLabel(), QLabel(), QLabel()
        self.title.setFont(font(28, 600))
        self.told.setFont(font(18))
        self.place.setFont(font(15))
        self.place.setProperty("role", "muted")
        for label in (self.title, self.told, self.place):
            label.setWordWrap(True)
            label.setMaximumWidth(820)
        column = QVBoxLayout(self)
        column.setContentsMargins(48, 40, 48, 40)
        column.setSpacing(14)
        column.addWidget(self.title)
        column.addWidget(self.told)
        column.addWidget(self.place)
        self.back_button = self._button("Take back the last step", session.undo)
        self.book_button = self._button("Open another piece", to_book)
        self.file_button = self._button("Write it to a file…", to_file)
        self.report_button = self._button("Save a report…", self._report)
        for button in (self.back_button, self.book_button, self.file_button, self.report_button):
            column.addWidget(button)
        column.addStretch(1)

    def _button(self, words: str, run: Callable[[], object]) -> QPushButton:
        button = QPushButton(words)
        button.setFont(font(18, 500))
        button.setMinimumHeight(52)
        button.setMaximumWidth(420)
        button.clicked.connect(lambda _checked=False: run())
        return button

    def renew(self) -> None:
        """Say what is the matter with the piece on the bench."""
        session = self._session
        error, undo = session.trouble, session.undo_title
        self.title.setText(f"{session.piece.name} can't be reckoned")
        ours = error is not None and not isinstance(error, EmberError)
        reason = "The program fails on it; that is its fault and not yours." if ours else f"{error}"
        kept = (
            "The book is only looked at." if self._library.read_only else "It is in the book as it is, with all its steps: nothing is lost."
        )
        self.told.setText(f"{reason} {kept}")
        self.place.setText(fault_words(error) if ours and error is not None else "")
        self.back_button.setText(f"Take back: {undo[:1].lower()}{undo[1:]}" if undo else "Nothing to take back")
        self.back_button.setEnabled(bool(undo))

    def _report(self) -> None:
        error = self._session.trouble
        if error is not None:
            save_report(self.window(), self._session, Fault.of(error))
