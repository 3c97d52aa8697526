"""Start the application."""

from __future__ import annotations

import contextlib
import gc
import signal
import sys
from functools import partial
from pathlib import Path

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication

from long_ember import __version__
from long_ember.demo import demo_parcel
from long_ember.desk.library import Library, reopened
from long_ember.desk.session import Session
from long_ember.document import History
from long_ember.errors import EmberError
from long_ember.features import Piece
from long_ember.records import Shop
from long_ember.storage import Book, book_path, bring_in, data_folder, look_over, new_id, read_piece, read_settings
from long_ember.storage.database import transaction
from long_ember.ui.loop import QtLoop
from long_ember.ui.menu import LAYOUT, commands_of
from long_ember.ui.style.fonts import font, load_fonts
from long_ember.ui.window import MainWindow
from long_ember.units import Measure

__all__ = ["make_application", "make_window", "settle_memory", "show_window"]


_FIRST_PAINT = 400  # ms until the window has surely been painted


def make_application(arguments: list[str]) -> QApplication:
    """The Qt application with fonts and names set."""
    existing = QApplication.instance()
    # The style by an argument: asked for as an object, all that is told of styles would be made first.
    application = existing if isinstance(existing, QApplication) else QApplication([*arguments, "-style", "Fusion"])
    application.setApplicationName("long-ember")
    application.setApplicationDisplayName("Long Ember")
    application.setApplicationVersion(__version__)
    load_fonts()
    application.setFont(font(16))
    return application


def make_window(path: Path | None, *, demo: bool = False, book: Path | None = None) -> MainWindow:
    """The window on a book, with the piece that was open last, or the first one.

    Args:
        path: a piece file to bring in and open.
        demo: the demo book, made from the demo pieces where it is missing.
        book: another book than the usual one.

    Raises:
        PieceFileError: when the file can't be opened.
    """
    piece = read_piece(path) if path is not None else None
    opened = reopened(book or (data_folder() / "demo.ember" if demo else book_path()))
    if demo and opened.book is not None and not opened.read_only and not (opened.book.count() or opened.book.fact("open")):
        _fill(opened.book)  # new, or cut short before it was filled
    loop = QtLoop()
    library = Library(loop, opened)
    shop = library.shop or Shop()
    last = library.fact("open") or next((e.id for e in library.entries if e.state == "kept"), "")
    start, identity, history = shop.new_piece(), new_id(), History()
    if piece is not None:
        start, last = piece, next((e.id for e in library.entries if _holds(library, e.id, piece)), "")
    if library.entry(last) is not None:
        with contextlib.suppress(EmberError):  # one that can't be read is told of when it is opened from the wall
            start, history = library.read(last)
            identity = last
    try:
        session = Session(loop, start, read_settings(), shop, library, identity, history)
    except Exception:  # it can't be reckoned: the window opens on an empty bar, and then says so in its own words
        window = MainWindow(Session(loop, shop.new_piece(), read_settings(), shop, library, identity), library)
        window.session.open(start, identity, history)
    else:
        window = MainWindow(session, library)
    window.take_commands(commands_of(window), LAYOUT)
    if piece is not None and library.entry(identity) is None:
        library.keep(identity, piece, History())
    return window


def _holds(library: Library, piece_id: str, piece: Piece) -> bool:
    try:
        return library.read(piece_id)[0] == piece
    except EmberError:
        return False


def _fill(book: Book) -> None:
    """Hang the boathouse's pieces in an empty book, the lantern bracket on the bench."""
    with transaction(book.connection):
        found = look_over(book, demo_parcel(), Measure())
        for identity in bring_in(book, found, {"shop": "replace"}):
            book.describe(identity)
        book.put_fact("open", "lantern-bracket")


def settle_memory(window: MainWindow) -> None:
    """Keep the collector out of the typing: what start-up made is set aside, what is made later is looked through in pauses."""
    gc.collect()
    gc.freeze()
    gc.enable()
    gc.set_threshold(500_000, 20, 20)  # for a hand that never rests
    window.idle.timeout.connect(_collect)


def _collect() -> None:
    gc.collect(1)


def show_window(path: Path | None = None, *, demo: bool = False, book: Path | None = None) -> int:
    """Show the window until it is closed."""
    application = make_application(sys.argv[:1])
    try:
        window = make_window(path, demo=demo, book=book)
    except EmberError as error:
        print(error, file=sys.stderr)
        return 1
    window.faults.install()
    window.show()
    QTimer.singleShot(_FIRST_PAINT, window, partial(settle_memory, window))
    window.rail.painted_first.connect(partial(window.greet, again=False))
    QTimer.singleShot(20_000, window, window.library.back_up_if_old)
    # Ctrl+C in the terminal closes the window; the timer lets Python look at signals while Qt waits.
    signal.signal(signal.SIGINT, lambda *_: window.close())
    pulse = QTimer()
    pulse.start(400)
    pulse.timeout.connect(lambda: None)
    return int(application.exec())
