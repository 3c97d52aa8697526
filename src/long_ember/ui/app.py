"""Start the application."""

from __future__ import annotations

import gc
import signal
import sys
from pathlib import Path

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication

from long_ember import __version__
from long_ember.demo import demo_files
from long_ember.errors import EmberError
from long_ember.features import Piece
from long_ember.storage import read_piece, read_settings
from long_ember.ui.fonts import font, load_fonts
from long_ember.ui.session import Session
from long_ember.ui.window import MainWindow

__all__ = ["make_application", "make_window", "run", "settle_memory"]


def make_application(arguments: list[str]) -> QApplication:
    """The Qt application with fonts and names set."""
    existing = QApplication.instance()
    application = existing if isinstance(existing, QApplication) else QApplication(arguments)
    application.setApplicationName("long-ember")
    application.setApplicationDisplayName("Long Ember")
    application.setApplicationVersion(__version__)
    application.setStyle("Fusion")
    load_fonts()
    application.setFont(font(16))
    return application


def make_window(path: Path | None, *, demo: bool = False) -> MainWindow:
    """The window with a piece: the given file, the demo's lantern bracket, or an empty bar.

    Raises:
        PieceFileError: when the file can't be opened.
    """
    if path is not None:
        return MainWindow(Session(read_piece(path), read_settings(), path))
    piece = read_piece(demo_files()[0]) if demo else Piece()
    return MainWindow(Session(piece, read_settings()))


def settle_memory(window: MainWindow) -> None:
    """Keep the collector out of the typing: what start-up made is set aside, what is made later is looked through in pauses."""
    gc.collect()
    gc.freeze()
    gc.set_threshold(500_000, 20, 20)  # for a hand that never rests
    window.idle.timeout.connect(_collect)


def _collect() -> None:
    gc.collect(1)


def run(path: Path | None = None, *, demo: bool = False) -> int:
    """Show the window until it is closed."""
    application = make_application(sys.argv[:1])
    try:
        window = make_window(path, demo=demo)
    except EmberError as error:
        print(error, file=sys.stderr)
        return 1
    window.show()
    settle_memory(window)
    # Ctrl+C in the terminal closes the window; the timer lets Python look at signals while Qt waits.
    signal.signal(signal.SIGINT, lambda *_: window.close())
    pulse = QTimer()
    pulse.start(400)
    pulse.timeout.connect(lambda: None)
    return int(application.exec())
