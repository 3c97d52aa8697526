"""Open a book and say exactly what was found: sound, damaged, old, newer, in use, read-only, or not there."""

from __future__ import annotations

import contextlib
import os
import sqlite3
import time
from collections.abc import Callable
from dataclasses import field
from pathlib import Path

from long_ember.errors import BookError, SaveError
from long_ember.frozen import dataclass
from long_ember.storage.book import Book, moved_away
from long_ember.storage.copies import Backup, back_up, backups, held, newest_good, put_back, swept
from long_ember.storage.database import address, book_error, connect, faults, looking, patient, transaction, version_of, wal_of
from long_ember.storage.lock import Lock, who_holds
from long_ember.storage.migrations import BOOK_VERSION, migrate, misfit, readable
from long_ember.storage.salvage import damage, salvaged, set_aside

__all__ = ["Opened", "book_path", "data_folder", "looked_at", "open_book", "writer"]

_HOME = "home"  # the fact that tells under which name the book was opened last


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
        path: of the book, links followed.
        book: to read from; None when there is nothing to read, and what is made is kept in memory until it can be written.
        lock: the right to write.
        read_only: why nothing is written, "" when it is.
        notices: what the person has to know, each a sentence or two.
        aside: where a damaged book was put, untouched.
        fresh: the book was made just now.
        lost: something seems to be missing from it.
    """

    path: Path
    book: Book | None
    lock: Lock | None = None
    read_only: str = ""
    notices: list[str] = field(default_factory=list)
    aside: Path | None = None
    fresh: bool = False
    lost: bool = False

    def reader(self) -> Book:
        """The book to read from.

        Raises:
            BookError: there is none now.
        """
        if self.book is None:
            raise BookError(str(self.path), "the book can't be read now", "It is tried again with every change.", "refused")
        return self.book

    def close(self) -> None:
        """Let everything go."""
        if self.book is not None:
            self.book.close()
        if self.lock is not None:
            self.lock.release()


def writer(path: Path, lock: Lock | None = None) -> Callable[[], Book]:
    """What a keeper connects with: makes the folder and the tables where they are missing; it writes nothing without the lock.

    Args:
        path: of the book, links followed.
        lock: the right to write; None: the book takes it, and lets it go when it is closed.
    """
    given, lock = lock, lock or Lock(path)

    def make() -> Book:
        with faults(path):
            if not lock.same():
                raise moved_away(path)
            path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
            if not lock.take():
                raise BookError(str(path), f"{lock.holder} writes this book now", "Close the other window.", "busy")
        connection = connect(path)
        try:
            with faults(path):
                if not lock.hold():
                    raise BookError(str(path), "another program writes this file under another name", "Close it there.", "busy")
                migrate(connection, max(0, version_of(connection)))
                _at_home(connection, path)
        except BaseException:  # a transaction left open would lock everybody out
            connection.close()
            if given is None:
                lock.release()
            raise
        return Book(connection, path, lock, owner=given is None)

    return make


def open_book(path: Path) -> Opened:
    """Open a book for reading, after making it, repairing it or bringing it up to date where that is needed.

    Raises:
        BookError: the file is something else, or can't be read now; it is untouched.
    """
    path = _known_as(_real(path))
    lock = Lock(path)
    try:
        path.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
        mine = lock.take()
    except OSError as error:
        if path.exists():  # nobody can tell who else writes it
            return looked_at(
                path, f"The right to write this book can't be had: {book_error(path, error).reason}. Here you can look; nothing is kept."
            )
        return _in_memory(path, book_error(path, error), lock)
    if not mine:
        reason = f"This book is open in another window of Long Ember ({lock.holder}). Here you can look; nothing is kept."
        return looked_at(path, reason)
    try:
        return _mine(path, lock)
    except BaseException:
        lock.release()
        raise


def _real(path: Path) -> Path:
    """The file itself, links followed.

    Raises:
        BookError: the links go round.
    """
    with faults(path):
        return path.resolve()


def _known_as(path: Path) -> Path:
    """The name under which a book with several was opened last, if its last changes still lie beside that one."""
    with contextlib.suppress(OSError, sqlite3.Error, ValueError, TypeError):
        home = _home(path)
        if os.stat(path).st_nlink > 1 and home is not None and home != path and wal_of(home).exists() and os.path.samefile(home, path):
            return home
    return path


def _home(path: Path) -> Path | None:
    """Where a book was opened last, from the file alone."""
    with contextlib.closing(sqlite3.connect(address(path, "mode=ro&immutable=1"), uri=True)) as connection:
        rows = connection.execute("SELECT value FROM fact WHERE key = ?", (_HOME,)).fetchall()
    return Path(os.fsdecode(bytes.fromhex(rows[0][0]))) if rows else None


def _at_home(connection: sqlite3.Connection, path: Path) -> None:
    """Write into the book itself where it is opened: its last changes lie beside that name."""
    book, here = Book(connection, path), os.fsencode(path).hex()
    if book.fact(_HOME) != here:
        with transaction(connection):
            book.put_fact(_HOME, here)
        book.settle()


def _mine(path: Path, lock: Lock) -> Opened:
    copies = backups(path)
    empty = not path.exists() or path.stat().st_size == 0
    opened = Opened(path, None, lock, fresh=empty and not (copies and path.exists()))
    swept(path)
    if opened.fresh and copies:
        opened.notices.append(f"A new book was begun. {len(copies)} backups of an earlier one are there: File, Backups.")
    if not opened.fresh:
        try:
            problem = "it is empty" if empty else damage(path)
        except BookError as error:  # it can't be read: whether it is sound is not known, and it stays where it is
            return _unreadable(path, error, lock)
        if problem:
            _own(path, problem)
            _recover(opened, problem)
    behind = _left_behind(path)
    if behind:
        opened.lost = True
        opened.notices.append(behind)
    try:
        return _brought_up(opened, lock)
    except SaveError as error:  # no backup, no migration
        lock.release()
        return looked_at(path, f"The book is of an older version and could not be copied before it is brought up to date: {error}")
    except BookError as error:
        if error.kind not in ("refused", "busy"):
            raise
        return _in_memory(path, error, lock)


def _unreadable(path: Path, error: BookError, lock: Lock) -> Opened:
    """A book that is there and can't be read now, by anybody: who or what stands in the way is said, and nothing is done to it.

    Raises:
        BookError: saying so.
    """
    holder = who_holds(path) or who_holds(path.with_name(path.name + "-shm")) if error.kind == "busy" else ""
    lock.release()
    reason = error.reason.replace("another program", holder) if holder else error.reason
    raise BookError(str(path), f"{reason}. It was left as it is", error.remedy, error.kind) from error


def _left_behind(path: Path) -> str:
    """Whether the book was moved without its last changes, in words."""
    with contextlib.suppress(OSError, sqlite3.Error, ValueError, TypeError):
        home = _home(path)
        if home is not None and home != path and not home.exists() and not wal_of(path).exists() and _size(wal_of(home)):
            return (f"This book was moved here without the file {wal_of(home)}, which holds its last changes. To have them, close this window, "
                    f"move that file to {wal_of(path)} and open the book again.")  # fmt: skip
    return ""


def _size(path: Path) -> int:
    return path.stat().st_size if path.exists() else 0


def _brought_up(opened: Opened, lock: Lock) -> Opened:
    """The book, with the tables of this version."""
    path = opened.path
    version = _version(path)
    if version > BOOK_VERSION:
        lock.release()
        return looked_at(path, _newer(version))
    with contextlib.closing(connect(path)) as connection, faults(path):
        if not lock.hold():
            raise BookError(str(path), "another program writes this file under another name", "Close it there.", "busy")
        if 0 < version < BOOK_VERSION:
            back_up(connection, path, f"before-version-{BOOK_VERSION}")
            opened.notices.append(
                f"The book was brought from version {version} to {BOOK_VERSION}. A copy from before is among the backups."
            )
        opened.fresh = opened.fresh or version == 0
        migrate(connection, version)
        _at_home(connection, path)
        if not opened.fresh and opened.aside is None:
            _compare(opened, Book(connection, path), lock)
    for ending in ("", "-wal", "-shm"):
        with contextlib.suppress(OSError):  # somebody else's file: their rights
            os.chmod(path.with_name(path.name + ending), 0o600)
    opened.book = Book(connect(path), path, lock)
    return opened


def _version(path: Path) -> int:
    """Of a book; 0 where there is none."""
    if not path.exists():
        return 0
    with contextlib.closing(looking(path)) as connection, faults(path):
        return max(0, version_of(connection))


def _compare(opened: Opened, book: Book, lock: Lock) -> None:
    """Hold the book against its newest copy and against what its last writer told: what they know and it does not is missing."""
    serial, newest = book.serial, next(iter(backups(opened.path)), None)
    with contextlib.suppress(BookError):
        there = held(newest.path) if newest is not None else None
        if newest is not None and there is not None and there.serial > serial:
            opened.lost = True
            opened.notices.append(
                f"Something seems to be missing: the copy of {_day(newest)} holds {there.serial - serial} later changes, and {there.pieces} "
                "pieces. Look at it under File, Backups."
            )
    if not opened.lost and lock.last > serial:
        opened.lost = True
        opened.notices.append(
            f"Something seems to be missing: the last {lock.last - serial} changes that were written are not in the book. Was the file "
            f"{wal_of(opened.path).name} beside it taken away? Put it back before you go on."
        )
    lock.note(max(serial, 0))


def _day(backup: Backup) -> str:
    return time.strftime("%d %B %Y, %H:%M", time.localtime(backup.made)) + (" (by a clock that was wrong)" if backup.odd else "")


def _own(path: Path, problem: str) -> None:
    """Refuse to replace a file that may never have been a book.

    Raises:
        BookError: it is left alone.
    """
    with faults(path), path.open("rb") as file:
        database = file.read(16) == b"SQLite format 3\0"
    if not backups(path) and path != book_path().resolve() and not (database and "no book" not in problem):
        raise BookError(str(path), "this file is not a book of Long Ember", "It was left untouched.")


def _newer(version: int) -> str:
    return (f"A newer Long Ember wrote this book (version {version}; this program knows {BOOK_VERSION}). "
            "Here you can look; nothing is kept. Install the newer program to go on.")  # fmt: skip


def _recover(opened: Opened, problem: str) -> None:
    """Set a damaged book aside, and put the newest good backup in its place."""
    path = opened.path
    try:
        aside = opened.aside = set_aside(path)
    except OSError as error:
        raise BookError(str(path), f"the book is damaged ({problem}) and can't be set aside: {error.strerror}", kind="damaged") from error
    words = f"The book was damaged ({problem}). It was set aside, untouched, as {aside.name}. "
    backup = newest_good(path)
    if backup is None:
        opened.fresh = True
        opened.notices.append(words + "There was no good backup, so a new book was begun.")
    else:
        put_back(backup.path, path)
        opened.notices.append(words + f"The backup of {_day(backup)} was opened in its place.")
    try:
        found = salvaged(aside)
    except BookError as error:
        opened.notices.append(
            f"What can still be read from the damaged book was not looked at: {error.reason}. Make room, then Book, Bring in, that file."
        )
        return
    count = f"{len(found)} piece{'s' if len(found) != 1 else ''}"
    opened.notices.append(f"{count} can still be read from the damaged book: Book, Bring in, choose that file to see which are newer."
                       if found else "Nothing can be read from the damaged book.")  # fmt: skip


def looked_at(path: Path, reason: str = "It is only looked at.") -> Opened:
    """Open for reading alone; a book of an older version is brought up to date in memory.

    Raises:
        BookError: it can't be read, or is no book.
    """
    path = _known_as(_real(path))
    connection = looking(path)
    try:
        with faults(path), patient(connection):
            version = version_of(connection)
            problem = "" if version < 0 else misfit(connection, version) if version <= BOOK_VERSION else readable(connection)
            if version <= 0 or problem:
                words = f"this is not a book of Long Ember{f': {problem}' if problem else ''}"
                raise BookError(str(path), words, "It was left untouched.", "damaged")
            if version < BOOK_VERSION:
                memory = sqlite3.connect(":memory:", isolation_level=None, check_same_thread=False)
                connection.backup(memory)
                connection.close()
                connection = memory
                migrate(connection, version)
    except BookError:
        connection.close()
        raise
    return Opened(path, Book(connection, path), read_only=reason)


def _in_memory(path: Path, error: BookError, lock: Lock) -> Opened:
    """The disk refuses: what is there is shown, and what is made is kept in memory until it can be written, with the lock and not before."""
    words = f"{error.reason[:1].upper()}{error.reason[1:]}. Work goes on in memory and is kept as soon as it can be."
    try:
        opened = looked_at(path, "")
    except BookError:
        opened = Opened(path, None)
    opened.notices.append(words)
    opened.lock = lock
    return opened
