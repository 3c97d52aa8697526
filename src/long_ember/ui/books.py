"""Which book: those opened last, another file, or a new one."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QDialog, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from long_ember.desk.library import Library
from long_ember.desk.session import Session
from long_ember.storage import book_path, data_folder
from long_ember.ui.style.fonts import font
from long_ember.ui.widgets.dialogs import open_name, save_name

__all__ = ["BooksDialog"]

_KINDS = "Book (*.ember)"


class BooksDialog(QDialog):
    """One large button for each book opened last."""

    def __init__(self, window: QWidget, session: Session, library: Library, take: Callable[[Path], object]) -> None:
        super().__init__(window)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setObjectName("books")
        self.setWindowTitle("Another book")
        self.setMinimumWidth(620)
        self._take = take
        column = QVBoxLayout(self)
        column.setContentsMargins(22, 18, 22, 18)
        column.setSpacing(8)
        title = QLabel("Another book")
        title.setFont(font(22, 600))
        column.addWidget(title)
        self.books: list[QPushButton] = []
        paths = dict.fromkeys([*map(Path, session.settings.books), book_path()])
        for path in paths:
            button = QPushButton(f"{path.stem}\n{path.parent}")
            button.setFont(font(16, 500))
            button.setMinimumHeight(58)
            here = path == library.path and not library.read_only  # one that is only looked at can be tried again
            button.setEnabled(not here and (path.exists() or path == book_path()))
            button.setToolTip("It is open" if here else "" if path.exists() else "It is no longer there")
            button.clicked.connect(partial(self._open, path))
            self.books.append(button)
            column.addWidget(button)
        row = QHBoxLayout()
        row.addStretch(1)
        for words, run in (("Open another file…", self._other), ("New book…", self._new), ("Close", self.reject)):
            button = QPushButton(words)
            button.setFont(font(16, 500))
            button.clicked.connect(lambda _checked=False, run=run: run())
            row.addWidget(button)
        column.addLayout(row)

    def _open(self, path: Path, _checked: bool = False) -> None:
        self.accept()
        self._take(path)

    def _other(self) -> None:
        path = open_name(self, "Open a book", data_folder(), _KINDS)
        if path is not None:
            self._open(path)

    def _new(self) -> None:
        path = save_name(self, "A new book", data_folder() / "my-book.ember", _KINDS)
        if path is not None:
            self._open(path)
