"""Errors that nobody expected, wherever they arise: told in words with a way on, while the window lives and what was typed is kept."""

from __future__ import annotations

import contextlib
import platform
import sys
import threading
import traceback
from collections.abc import Callable
from pathlib import Path
from types import TracebackType
from typing import Any

import PySide6
from PySide6.QtCore import QObject, Qt, QTimer, Signal
from PySide6.QtWidgets import QDialog, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from long_ember import __version__
from long_ember.desk.library import Library
from long_ember.desk.session import Session
from long_ember.errors import EmberError, fault_places, fault_words
from long_ember.features import Piece
from long_ember.frozen import dataclass
from long_ember.storage import write_atomic
from long_ember.ui.style.fonts import font
from long_ember.ui.unkept import kept_words

__all__ = ["Fault", "Faults", "report_text", "save_report"]

_SAFE = (AttributeError, TypeError, NameError, ZeroDivisionError, IndexError, RecursionError)  # their words name code, not what was typed
_MOST = 40  # places in a report
_LOOK = 500  # ms between looks at what is on disk


@dataclass(frozen=True)
class Fault:
    """What is known of an unexpected error once it is let go of: an error holds all that was at work when it arose.

    Args:
        words: kind and place.
        kind: its kind, with its own words where they can't be private.
        places: where it arose, outermost call first.
    """

    words: str
    kind: str
    places: tuple[str, ...]

    @classmethod
    def of(cls, error: BaseException) -> Fault:
        """From the error."""
        told = f": {error}" if type(error) in _SAFE else ""
        return cls(fault_words(error), f"{type(error).__name__}{told}", tuple(fault_places(error)))


def report_text(fault: Fault, piece: Piece, count: int = 1) -> str:
    """What helps to mend an error, without anything private: no names, notes, sizes, paths or messages that could hold them."""
    kinds = ", ".join(f.kind for f in piece.features) or "none"
    lines = [
        f"Long Ember {__version__}, Python {platform.python_version()}, PySide6 {PySide6.__version__}, {platform.system()} {platform.machine()}",
        fault.kind,
        f"times: {count}",
        *(f"  {place}" for place in fault.places[-_MOST:]),
        f"features of the piece: {kinds}",
        f"bar: {piece.bar.shape}; material: {piece.material}; bend rule: {piece.school}",
    ]
    return "\n".join(lines) + "\n"


class Faults(QObject):
    """Where all errors go that nobody caught."""

    raised = Signal(object)

    def __init__(self, window: QWidget, session: Session, library: Library, to_book: Callable[[], object]) -> None:
        super().__init__(window)
        self._window, self._session, self._library, self._to_book = window, session, library, to_book
        self._known: set[tuple[str, ...]] = set()
        self.dialog: FaultDialog | None = None
        self.raised.connect(self._show, Qt.ConnectionType.QueuedConnection)  # never within what failed, such as painting

    def install(self) -> None:
        """Listen to the interpreter's own last resorts."""
        sys.excepthook = self._caught
        threading.excepthook = lambda found: self._caught(found.exc_type, found.exc_value, found.exc_traceback)

    def _caught(self, kind: type[BaseException], error: BaseException | None, trace: TracebackType | None) -> None:
        if isinstance(error, KeyboardInterrupt):
            self._window.close()
            return
        sys.__excepthook__(kind, error or kind(), trace)
        if isinstance(error, Exception):
            fault = Fault.of(error)
            # What failed while painting must let go of its painter before Qt goes on: Qt would fall over it.
            sys.last_type = sys.last_value = sys.last_traceback = None
            traceback.clear_frames(trace)
            with contextlib.suppress(RuntimeError):  # the window is gone already
                self.raised.emit(fault)

    def _show(self, fault: Fault) -> None:
        where = (fault.kind, *fault.places[-3:])
        if self.dialog is not None:
            self.dialog.again(fault)
        elif where in self._known:
            self._session.said.emit(f"Again: {fault.words}. {kept_words(self._library)}", True)
        else:
            self._known.add(where)
            self.dialog = FaultDialog(self._window, fault, self._session, self._library, self._to_book)
            self.dialog.finished.connect(self._done)
            self.dialog.show()

    def _done(self, _result: int) -> None:
        self.dialog = None


class FaultDialog(QDialog):
    """What happened, what of the work is on disk, and three ways on."""

    def __init__(self, window: QWidget, fault: Fault, session: Session, library: Library, to_book: Callable[[], object]) -> None:
        super().__init__(window)
        self._session, self._library, self._open_book = session, library, to_book
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle("Something went wrong")
        self.setMinimumWidth(640)
        self._fault, self._count = fault, 1
        column = QVBoxLayout(self)
        column.setContentsMargins(22, 18, 22, 18)
        column.setSpacing(12)
        title = QLabel("Something went wrong inside Long Ember")
        title.setFont(font(22, 600))
        self.told = QLabel()
        self.told.setFont(font(17))
        self.told.setWordWrap(True)
        column.addWidget(title)
        column.addWidget(self.told)
        row = QHBoxLayout()
        self.back_button = self._button("Take back the last step", self._take_back)
        self.back_button.setEnabled(bool(session.undo_title))
        self.book_button = self._button("To the book", self._to_book)
        self.report_button = self._button("Save a report…", lambda: save_report(window, session, self._fault, self._count))
        self.on_button = self._button("Go on", self.accept)
        self.on_button.setDefault(True)
        for button in (self.back_button, self.book_button, self.report_button):
            row.addWidget(button)
        row.addStretch(1)
        row.addWidget(self.on_button)
        column.addLayout(row)
        looking = QTimer(self, interval=_LOOK)
        looking.timeout.connect(self._say)
        looking.start()
        self._say()

    def _button(self, words: str, run: Any) -> QPushButton:
        button = QPushButton(words)
        button.setFont(font(17, 500))
        button.setMinimumHeight(42)
        button.clicked.connect(lambda _checked=False: run())
        return button

    def _say(self) -> None:
        times = f", {self._count} times" if self._count > 1 else ""
        self.told.setText(
            f"{self._fault.words}{times}. {kept_words(self._library)} A report says where it failed, and holds nothing private."
        )

    def again(self, fault: Fault) -> None:
        """Another, or the same, while this one is read."""
        self._fault, self._count = fault, self._count + 1
        self._say()

    def _take_back(self) -> None:
        self.accept()
        self._session.undo()

    def _to_book(self) -> None:
        self.accept()
        self._open_book()


def save_report(window: QWidget, session: Session, fault: Fault, count: int = 1) -> None:
    """Ask where to write the report."""
    from long_ember.ui.widgets.dialogs import explain, save_name  # loaded with the first question

    path = save_name(window, "Save a report", Path.home() / "long-ember-report.txt", "Text (*.txt)")
    if path is None:
        return
    try:
        write_atomic(path, report_text(fault, session.piece, count))
    except EmberError as told:
        explain(window, "The report was not saved", str(told))
    else:
        session.wrote.emit(f"The report is in {path.name}. Read it before you send it.", path)
