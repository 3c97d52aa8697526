"""SQLite connections as the book needs them, and what their errors mean to a person."""

from __future__ import annotations

import contextlib
import os
import sqlite3
import urllib.parse
from collections.abc import Iterator
from pathlib import Path

from long_ember.errors import BookError
from long_ember.storage.migrations import APPLICATION

__all__ = ["connect", "faults", "sound", "told", "transaction", "version_of"]

_BUSY = 5000  # ms to wait for another process
_MEANING = (
    ("full", "the disk is full", "Make room; work goes on in memory and is kept as soon as there is space."),
    ("readonly", "the book or its folder can't be written", "Change the rights of the file, or open a book elsewhere."),
    ("read-only", "the book or its folder can't be written", "Change the rights of the file, or open a book elsewhere."),
    ("permission denied", "the book or its folder can't be written", "Change the rights of the file, or open a book elsewhere."),
    ("unable to open", "the file can't be opened", "Check that the folder exists and may be read."),
    ("locked", "another program is writing to it", "Close that program."),
    ("disk i/o", "the disk reports a fault", "Check the disk, and copy the book to another one."),
    ("malformed", "the file is damaged", "Restore a backup."),
    ("not a database", "the file is no book, or is damaged", "Restore a backup."),
)


def connect(path: Path, *, read_only: bool = False) -> sqlite3.Connection:
    """Open a database file; a missing one is made unless `read_only`.

    Raises:
        BookError: when it can't be opened.
    """
    with faults(path):
        if read_only:
            frozen = "" if os.access(path.parent, os.W_OK) else "&immutable=1"  # WAL wants to make files beside it
            uri = f"file:{urllib.parse.quote(str(path))}?mode=ro{frozen}"
            connection = sqlite3.connect(uri, uri=True, timeout=_BUSY / 1000, isolation_level=None, check_same_thread=False)
        else:
            connection = sqlite3.connect(path, timeout=_BUSY / 1000, isolation_level=None, check_same_thread=False)
        connection.text_factory = _text
        try:
            connection.execute("PRAGMA trusted_schema = OFF")
            connection.execute("PRAGMA cell_size_check = ON")
            connection.execute("PRAGMA foreign_keys = ON")
            if not read_only:
                connection.execute("PRAGMA journal_mode = WAL")
                connection.execute("PRAGMA synchronous = FULL")  # on the disk, not only in the system's memory
        except sqlite3.Error:
            connection.close()
            raise
    return connection


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
        raise told(path, error) from error


def told(path: Path, error: Exception) -> BookError:
    """An error in a smith's words."""
    text = str(error).lower()
    for key, reason, remedy in _MEANING:
        if key in text:
            return BookError(str(path), reason, remedy)
    return BookError(str(path), str(error) or type(error).__name__)


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


def sound(connection: sqlite3.Connection) -> str:
    """What SQLite's integrity check objects to, "" for nothing."""
    try:
        found = [str(row[0]) for row in connection.execute("PRAGMA integrity_check(5)")]
        found += [f"a row of {row[0]} belongs to nothing" for row in connection.execute("PRAGMA foreign_key_check").fetchmany(5)]
    except (sqlite3.Error, UnicodeDecodeError) as error:
        return str(error)
    return "" if found == ["ok"] else "; ".join(found)
