"""What waits to be written, said as long as something stands in the way of it, with a file as the way out."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QWidget

from long_ember.desk.library import Library
from long_ember.ui.style.fonts import font

__all__ = ["UnkeptBar", "kept_words"]

_LOOK = 1000  # ms between looks while it is shown


def kept_words(library: Library) -> str:
    """Return a sentence on what is on disk and what is not, as the writer itself knows it at this moment."""
    if library.read_only:
        return f"Nothing is written here: {library.read_only}"
    waiting = library.unwritten
    if not waiting:
        return "Everything that was settled is on disk."
    first = waiting[0].title
    number = (
        f"1 change waits to be written: {first}." if len(waiting) == 1 else f"{len(waiting)} changes wait to be written, {first} first."
    )
    return f"{number} {library.trouble}".strip()


class UnkeptBar(QWidget):
    """One row under the screens, there only while the book can't be written."""

    def __init__(self, library: Library, to_file: Callable[[], object]) -> None:
        super().__init__()
        self._library = library
        self.told = QLabel()
        self.told.setFont(font(16, 600))
        self.told.setProperty("role", "fault")
        self.told.setWordWrap(True)
        self.file_button = QPushButton("Write what waits to a file…")
        self.file_button.setFont(font(16, 500))
        self.file_button.setMinimumHeight(40)
        self.file_button.clicked.connect(lambda _checked=False: to_file())
        row = QHBoxLayout(self)
        row.setContentsMargins(16, 4, 16, 4)
        row.setSpacing(14)
        row.addWidget(self.told, 1)
        row.addWidget(self.file_button)
        self.hide()
        self._look = QTimer(self, interval=_LOOK)
        self._look.timeout.connect(self.renew)
        library.kept.connect(self._heard)

    def _heard(self, _words: str) -> None:
        self.renew()

    def renew(self) -> None:
        """Show what waits, or go."""
        waits = bool(self._library.unwritten and self._library.trouble)
        if waits:
            self.told.setText(f"! {kept_words(self._library)}")
            self.told.setAccessibleName(self.told.text())
            self._look.start()
        else:
            self._look.stop()
        self.setVisible(waits)
