"""SQLite connections as the book needs them, and what their errors mean to a person."""

from __future__ import annotations

import contextlib
import errno
import os
import shutil
import sqlite3
import tempfile
import time
import urllib.parse
from collections.abc import Iterator
from pathlib import Path

from long_ember.errors import BookError
from long_ember.storage.migrations import APPLICATION

__all__ = [
    "address",
    "beside",
    "book_error",
    "connect",
    "faults",
    "integrity_problem",
    "journal_of",
    "looking",
    "make_private",
    "passing",
    "patient",
    "transaction",
    "version_of",
    "wal_of",
]

_BUSY = 5000  # ms to wait for another process
_PATIENCE = 20.0  # s that one statement on a book may take: a hostile one could ask for ever
_STEPS = 100_000  # of SQLite's machine between looks at the clock
_ROUNDS = 3  # copies that are tried while somebody else writes

_RIGHTS = ("the book or its folder can't be written", "Change the rights of the file, or open a book elsewhere.", "refused")
_FULL = ("the disk is full", "Make room; work goes on in memory and is kept as soon as there is space.", "refused")
_CLOSED = ("the file can't be opened", "Check that the file and its folder exist and may be read.", "refused")
_FAULTY = ("the disk reports a fault", "Check the disk, and copy the book to another one.", "refused")
_DAMAGED = ("the file is damaged", "Restore a backup.", "damaged")
_IN_USE = ("another program is writing to it", "Close that program, or wait until it is done.", "busy")
_ENDLESS = ("reading it takes for ever", "It was not made by Long Ember, or was changed by something else.", "damaged")
# Primary result codes of SQLite, which its messages only paraphrase.
_CODES = {
    3: _RIGHTS, 5: _IN_USE, 6: _IN_USE, 8: _RIGHTS, 9: _ENDLESS, 10: _FAULTY, 11: _DAMAGED, 13: _FULL, 14: _CLOSED, 23: _RIGHTS,
    26: ("the file is no book, or is damaged", "Restore a backup.", "damaged"),
}  # fmt: skip
_ERRNO = {
    errno.ENOSPC: _FULL, errno.EDQUOT: _FULL, errno.EFBIG: _FULL, errno.EACCES: _RIGHTS, errno.EPERM: _RIGHTS, errno.EROFS: _RIGHTS,
    errno.EIO: _FAULTY, errno.ENOENT: _CLOSED, errno.ENOTDIR: _CLOSED, errno.ELOOP: _CLOSED, errno.EISDIR: _CLOSED, errno.EEXIST: _CLOSED,
}  # fmt: skip
_BY_TEXT = {"database or disk is full": 13, "attempt to write a readonly database": 8, "database is locked": 5,
            "disk I/O error": 10, "database disk image is malformed": 11, "file is not a database": 26, "unable to open database file": 14}  # fmt: skip


def wal_of(path: Path) -> Path:
    """Where the last changes of a book lie until they are brought into it."""
    return path.with_name(path.name + "-wal")


def journal_of(path: Path) -> Path:
    """Where the pages lie that a change replaced, until it is whole: only while a book is made, or brought up to date, are there any."""
    return path.with_name(path.name + "-journal")


def beside(path: Path) -> tuple[Path, Path]:
    """The files that belong to what a book holds."""
    return wal_of(path), journal_of(path)


def make_private(path: Path) -> None:
    """A file for its owner only, made where it is missing.

    Raises:
        OSError: it can't be.
    """
    os.close(os.open(path, os.O_RDWR | os.O_CREAT | os.O_CLOEXEC, 0o600))


def connect(path: Path) -> sqlite3.Connection:
    """Open a book for writing; a missing one is made, for its owner only.

    Raises:
        BookError: when it can't be opened.
    """
    with faults(path):
        if not path.exists():
            make_private(path)
        connection = sqlite3.connect(path, timeout=_BUSY / 1000, isolation_level=None, check_same_thread=False)
        with _closed_if_not(connection):
            _settle(connection)
            connection.execute("PRAGMA journal_mode = WAL")
            connection.execute("PRAGMA synchronous = FULL")  # on the disk, not only in the system's memory
    return connection


def looking(path: Path, *, wait: float | None = None) -> sqlite3.Connection:
    """Open a book for reading alone, its last changes included; nothing in its folder is changed where that can be had.

    Args:
        path: of the book.
        wait: s for another process; by default five.

    Raises:
        BookError: when it can't be opened, or when its last changes can't be read.
    """
    wait = _BUSY / 1000 if wait is None else wait
    with faults(path):
        if not path.exists():
            raise FileNotFoundError(errno.ENOENT, "No such file", str(path))
        hot = any(f.exists() and f.stat().st_size > 0 for f in beside(path))
        plain = os.access(path.parent, os.W_OK)
        # SQLite makes files of its own beside the book while it reads; where it can't, a book without last changes is read as it lies.
        connection = _read(path, "" if hot or plain else "&immutable=1", wait)
        with _closed_if_not(connection):
            try:
                connection.execute("SELECT count(*) FROM sqlite_schema").fetchone()
            except sqlite3.OperationalError as error:
                if not hot or book_error(path, error).kind != "refused":
                    raise
                connection.close()
                return _copied(path, wait)
    return connection


def _read(path: Path, how: str, wait: float) -> sqlite3.Connection:
    connection = sqlite3.connect(address(path, f"mode=ro{how}"), uri=True, timeout=wait, isolation_level=None, check_same_thread=False)
    with _closed_if_not(connection):
        _settle(connection)
    return connection


def address(path: Path, how: str) -> str:
    """A file as SQLite's URI: any bytes that a name may have, and two strokes at its head as well."""
    return f"file://{urllib.parse.quote(os.fsencode(path.absolute()))}?{how}"


def _settle(connection: sqlite3.Connection) -> None:
    connection.text_factory = _text
    connection.execute("PRAGMA trusted_schema = OFF")
    connection.execute("PRAGMA cell_size_check = ON")
    connection.execute("PRAGMA foreign_keys = ON")


def _copied(path: Path, wait: float) -> sqlite3.Connection:
    """A book whose last changes can't be read, or taken back, where it lies without writing there: a copy of all, in memory.

    Raises:
        OSError: it can't be copied.
        sqlite3.Error: the copy can't be read.
    """
    with tempfile.TemporaryDirectory(prefix="long-ember-") as folder:
        copy = Path(folder) / "copy.ember"
        for _round in range(_ROUNDS):  # somebody may be writing meanwhile
            for source, target in (*_pairs(path, copy), (path, copy), *_pairs(path, copy)):
                shutil.copyfile(source, target)
            with contextlib.closing(
                sqlite3.connect(copy, isolation_level=None)
            ) as connection:  # it may be written: what was begun is taken back
                connection.execute("SELECT count(*) FROM sqlite_schema").fetchone()
            with contextlib.closing(_read(copy, "", wait)) as connection:
                if not integrity_problem(connection):
                    break
        memory = sqlite3.connect(":memory:", isolation_level=None, check_same_thread=False)
        with _closed_if_not(memory), contextlib.closing(_read(copy, "", wait)) as connection:
            connection.backup(memory)
            _settle(memory)
        return memory


def _pairs(path: Path, copy: Path) -> list[tuple[Path, Path]]:
    return [(source, target) for source, target in zip(beside(path), beside(copy), strict=True) if source.exists()]


@contextlib.contextmanager
def _closed_if_not(connection: sqlite3.Connection) -> Iterator[None]:
    try:
        yield
    except BaseException:
        connection.close()
        raise


def _text(raw: bytes) -> str:
    """Damaged text is read as far as it goes: the sums tell, where it counts."""
    return raw.decode("utf-8", "replace")


@contextlib.contextmanager
def faults(path: Path) -> Iterator[None]:
    """Turn SQLite's errors into ours.

    Raises:
        BookError: saying what stands in the way and what to do.
    """
    try:
        yield
    except (sqlite3.Error, UnicodeDecodeError, OSError) as error:
        raise book_error(path, error) from error


def book_error(path: Path, error: Exception) -> BookError:
    """An error in a smith's words."""
    if isinstance(error, OSError):
        meaning = _ERRNO.get(error.errno or 0)
        return BookError(str(path), *meaning) if meaning else BookError(str(path), error.strerror or type(error).__name__, kind="refused")
    # A message that is no text comes of a file whose own words are damaged.
    code = sqlite3.SQLITE_CORRUPT if isinstance(error, UnicodeDecodeError) else getattr(error, "sqlite_errorcode", None)
    meaning = _CODES.get(_BY_TEXT.get(str(error), 0) if code is None else code & 0xFF)
    return BookError(str(path), *meaning) if meaning else BookError(str(path), str(error) or type(error).__name__)


def passing(error: BaseException) -> bool:
    """Whether a write that failed so may succeed later, unchanged: disk and file refuse, not what is written."""
    if isinstance(error, BookError):
        return error.kind != ""
    lasting = (sqlite3.IntegrityError, sqlite3.DataError, sqlite3.ProgrammingError, sqlite3.InterfaceError)
    return isinstance(error, (sqlite3.Error, OSError, MemoryError)) and not isinstance(error, lasting)


@contextlib.contextmanager
def transaction(connection: sqlite3.Connection) -> Iterator[None]:
    """Everything inside, or nothing."""
    connection.execute("BEGIN IMMEDIATE")
    try:
        yield
        connection.execute("COMMIT")
    except BaseException:
        with contextlib.suppress(sqlite3.Error):  # some errors have rolled back already
            connection.execute("ROLLBACK")
        raise


def version_of(connection: sqlite3.Connection) -> int:
    """The book's version; 0 for an empty file, −1 for a database that is no book."""
    version = int(connection.execute("PRAGMA user_version").fetchone()[0])
    if int(connection.execute("PRAGMA application_id").fetchone()[0]) == APPLICATION:
        return version
    return -1 if connection.execute("SELECT count(*) FROM sqlite_schema").fetchone()[0] else 0


def integrity_problem(connection: sqlite3.Connection) -> str:
    """What SQLite's integrity check objects to, "" for nothing.

    Raises:
        sqlite3.Error: the file could not be read, which says nothing about what is in it.
    """
    try:
        found = [str(row[0]) for row in connection.execute("PRAGMA integrity_check(5)")]
        found += [f"a row of {row[0]} belongs to nothing" for row in connection.execute("PRAGMA foreign_key_check").fetchmany(5)]
    except UnicodeDecodeError as error:
        return str(error)
    except sqlite3.Error as error:
        if book_error(Path(), error).kind == "damaged" or not isinstance(error, sqlite3.OperationalError):
            return str(error)
        raise
    return "" if found == ["ok"] else "; ".join(found)


@contextlib.contextmanager
def patient(connection: sqlite3.Connection, seconds: float = _PATIENCE) -> Iterator[None]:
    """Give up on a statement that goes on for ever, as a view over itself in a hostile book does.

    Raises:
        sqlite3.OperationalError: interrupted.
    """
    end = time.monotonic() + seconds
    connection.set_progress_handler(lambda: time.monotonic() > end, _STEPS)
    try:
        yield
    finally:
        connection.set_progress_handler(None, 0)
