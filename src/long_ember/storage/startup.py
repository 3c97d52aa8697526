"""Open a book and say exactly what was found: sound, damaged, old, newer, in use, read-only, or not there."""

from __future__ import annotations

import contextlib
import os
import shutil
import sqlite3
import tempfile
import time
import zlib
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from pathlib import Path

from long_ember.errors import BookError, EmberError, SaveError
from long_ember.features import Piece
from long_ember.storage.backups import back_up, backups, newest_good, put_back
from long_ember.storage.book import Book
from long_ember.storage.database import connect, faults, sound, told, version_of
from long_ember.storage.lock import Lock
from long_ember.storage.migrations import BOOK_VERSION, migrate, misfit
from long_ember.storage.piece_file import piece_from_text

__all__ = ["Opened", "book_path", "data_folder", "looked_at", "open_book", "salvaged", "writer"]


def data_folder() -> Path:
    """`$XDG_DATA_HOME/long-ember`, by default under `~/.local/share`."""
    base = os.environ.get("XDG_DATA_HOME", "")
    return (Path(base) if base.startswith("/") else Path.home() / ".local" / "share") / "long-ember"


def book_path() -> Path:
    """The book that is opened when no other is asked for."""
    return data_folder() / "book.ember"


@dataclass
class Opened:
    """A book, and how it came to be open.

    Args:
        path: of the book.
        book: to read from; None when there is nothing to read, and what is made is kept in memory until it can be written.
        lock: the right to write.
        read_only: why nothing is written, "" when it is.
        told: what the person has to know, each a sentence or two.
        aside: where a damaged book was put, untouched.
        fresh: the book was made just now.
    """

    path: Path
    book: Book | None
    lock: Lock | None = None
    read_only: str = ""
    told: list[str] = field(default_factory=list)
    aside: Path | None = None
    fresh: bool = False

    def reader(self) -> Book:
        """The book to read from.

        Raises:
            BookError: there is none now.
        """
        if self.book is None:
            raise BookError(str(self.path), "the book can't be read now", "It is tried again with every change.")
        return self.book

    def close(self) -> None:
        """Let everything go."""
        if self.book is not None:
            self.book.close()
        if self.lock is not None:
            self.lock.release()


def writer(path: Path) -> Callable[[], Book]:
    """What a keeper connects with: makes the folder and the tables where they are missing."""

    def make() -> Book:
        with faults(path):
            path.parent.mkdir(parents=True, exist_ok=True)
        connection = connect(path)
        try:
            with faults(path):
                migrate(connection, max(0, version_of(connection)))
        except BookError:
            connection.close()
            raise
        return Book(connection, path)

    return make


def open_book(path: Path) -> Opened:
    """Open a book for reading, after making it, repairing it or bringing it up to date where that is needed.

    Raises:
        BookError: the file is something else, or can't be read at all; it is untouched.
    """
    lock = Lock(path)
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        mine = lock.take()
    except OSError as error:
        return _unwritable(path, told(path, error))
    if not mine:
        reason = f"This book is open in another window of Long Ember ({lock.holder}). Here you can look; nothing is kept."
        return looked_at(path, reason)
    try:
        return _mine(path, lock)
    except BaseException:
        lock.release()
        raise


def _mine(path: Path, lock: Lock) -> Opened:
    copies = backups(path)
    empty = not path.exists() or path.stat().st_size == 0
    opened = Opened(path, None, lock, fresh=empty and not (copies and path.exists()))
    if opened.fresh and copies:
        opened.told.append(f"A new book was begun. {len(copies)} backups of an earlier one are there: File, Backups.")
    if not opened.fresh:
        problem = "it is empty" if empty else _damage(path)
        if problem:
            _own(path, problem)
            _recover(opened, problem)
    try:
        return _brought_up(opened, lock)
    except SaveError as error:  # no backup, no migration
        lock.release()
        return looked_at(path, f"The book is of an older version and could not be copied before it is brought up to date: {error}")
    except BookError as error:
        if not _refused(error):
            raise
        return _unwritable(path, error, lock)


def _brought_up(opened: Opened, lock: Lock) -> Opened:
    """The book, with the tables of this version."""
    path = opened.path
    with contextlib.closing(connect(path)) as connection, faults(path):
        version = version_of(connection)
        if version > BOOK_VERSION:
            lock.release()
            return looked_at(path, _newer(version))
        if 0 < version < BOOK_VERSION:
            back_up(connection, path, f"before-version-{BOOK_VERSION}")
            opened.told.append(f"The book was brought from version {version} to {BOOK_VERSION}. A copy from before is among the backups.")
        migrate(connection, version)
    opened.book = Book(connect(path), path)
    return opened


def _own(path: Path, problem: str) -> None:
    """Refuse to replace a file that may never have been a book."""
    with path.open("rb") as file:
        database = file.read(16) == b"SQLite format 3\0"
    if not backups(path) and path != book_path() and not (database and "no book" not in problem):
        raise BookError(str(path), "this file is not a book of Long Ember", "It was left untouched.")


def _newer(version: int) -> str:
    return (f"A newer Long Ember wrote this book (version {version}; this program knows {BOOK_VERSION}). "
            "Here you can look; nothing is kept. Install the newer program to go on.")  # fmt: skip


def _refused(error: BookError) -> bool:
    return any(words in error.reason for words in ("can't be written", "full", "can't be opened"))


def _damage(path: Path) -> str:
    """What is wrong with a file, "" for nothing; the file is not touched."""
    try:
        with contextlib.closing(connect(path, read_only=True)) as connection, faults(path):
            problem = sound(connection)
            version = -1 if problem else version_of(connection)
            if not problem and version < 0:
                problem = "it is no book, or its head is damaged"
            if not problem and version <= BOOK_VERSION:
                problem = misfit(connection, version)
            if not problem and version == BOOK_VERSION:
                problem = "; ".join(Book(connection, path).check(deep=False)[:3])
            return problem
    except BookError as error:
        return error.reason if "damaged" in error.reason else ""


def _recover(opened: Opened, problem: str) -> None:
    """Set a damaged book aside, and put the newest good backup in its place."""
    path = opened.path
    aside = path.with_name(f"{path.stem}-damaged-{time.strftime('%Y%m%d-%H%M%S')}{path.suffix}")
    number = 1
    while aside.exists():
        number += 1
        aside = path.with_name(f"{path.stem}-damaged-{time.strftime('%Y%m%d-%H%M%S')}-{number}{path.suffix}")
    try:
        for ending in ("", "-wal"):
            if path.with_name(path.name + ending).exists():
                os.rename(path.with_name(path.name + ending), aside.with_name(aside.name + ending))
        with contextlib.suppress(FileNotFoundError):
            path.with_name(path.name + "-shm").unlink()
    except OSError as error:
        raise BookError(str(path), f"the book is damaged ({problem}) and can't be set aside: {error.strerror}") from error
    opened.aside = aside
    words = f"The book was damaged ({problem}). It was set aside, untouched, as {aside.name}. "
    backup = newest_good(path)
    if backup is None:
        opened.fresh = True
        opened.told.append(words + "There was no good backup, so a new book was begun.")
    else:
        put_back(backup.path, path)
        day = time.strftime("%d %B %Y, %H:%M", time.localtime(backup.made))
        opened.told.append(words + f"The backup of {day} was opened in its place.")
    found = salvaged(aside)
    count = f"{len(found)} piece{'s' if len(found) != 1 else ''}"
    opened.told.append(f"{count} can still be read from the damaged book: Book, Bring in, choose that file to see which are newer."
                       if found else "Nothing can be read from the damaged book.")  # fmt: skip


def salvaged(path: Path) -> dict[str, Piece]:
    """Every piece that can still be read from a damaged book, by id; the file is not touched: a copy of it is read."""
    found: dict[str, Piece] = {}
    with tempfile.TemporaryDirectory() as folder, contextlib.suppress(OSError):
        copy = Path(folder) / "copy.ember"
        for ending in ("", "-wal"):
            if path.with_name(path.name + ending).exists():
                shutil.copyfile(path.with_name(path.name + ending), copy.with_name(copy.name + ending))
        for order in ("ASC", "DESC"):  # from both ends: reading stops at a page that is beyond reading
            with contextlib.suppress(BookError, sqlite3.Error, UnicodeDecodeError), contextlib.closing(connect(copy, read_only=True)) as c:
                for identity, body, total in c.execute(f"SELECT id, body, sum FROM piece ORDER BY rowid {order}"):
                    with contextlib.suppress(EmberError, TypeError, ValueError):
                        piece = piece_from_text(body)
                        if zlib.crc32(body.encode("utf-8")) != total:
                            piece = replace(piece, note=f"Read from a damaged book: look it over. {piece.note}")
                        found.setdefault(str(identity), piece)
    return found


def looked_at(path: Path, reason: str = "It is only looked at.") -> Opened:
    """Open for reading alone; a book of an older version is brought up to date in memory.

    Raises:
        BookError: it can't be read.
    """
    connection = connect(path, read_only=True)
    try:
        with faults(path):
            version = version_of(connection)
            if 0 < version < BOOK_VERSION:
                memory = sqlite3.connect(":memory:", isolation_level=None, check_same_thread=False)
                connection.backup(memory)
                connection.close()
                connection = memory
                migrate(connection, version)
            connection.execute("SELECT count(*) FROM piece").fetchone()
    except BookError:
        connection.close()
        raise
    return Opened(path, Book(connection, path), read_only=reason)


def _unwritable(path: Path, error: BookError, lock: Lock | None = None) -> Opened:
    """The disk refuses: what is there is shown, and what is made is kept in memory until it can be written."""
    words = f"{error.reason[:1].upper()}{error.reason[1:]}. Work goes on in memory and is kept as soon as it can be."
    try:
        opened = looked_at(path, "")
    except BookError:
        opened = Opened(path, None)
    opened.told.append(words)
    opened.lock = lock
    return opened
