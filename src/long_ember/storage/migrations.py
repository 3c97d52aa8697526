"""The book's tables, version by version; a step, once shipped, is never changed."""

from __future__ import annotations

import contextlib
import sqlite3
from functools import cache

__all__ = ["APPLICATION", "BOOK_VERSION", "MIGRATIONS", "migrate", "misfit"]

APPLICATION = 0x4C454D42  # "LEMB", kept in the file's header

MIGRATIONS: tuple[str, ...] = (
    """
    CREATE TABLE fact (key TEXT PRIMARY KEY, value TEXT NOT NULL) WITHOUT ROWID;
    CREATE TABLE piece (
        id TEXT PRIMARY KEY, name TEXT NOT NULL, body TEXT NOT NULL, sum INTEGER NOT NULL, words TEXT NOT NULL,
        outline TEXT NOT NULL, tags TEXT NOT NULL, state TEXT NOT NULL, parent TEXT NOT NULL, at INTEGER NOT NULL,
        made REAL NOT NULL, changed REAL NOT NULL);
    CREATE TABLE step (
        piece TEXT NOT NULL REFERENCES piece ON DELETE CASCADE, serial INTEGER NOT NULL, title TEXT NOT NULL, focus TEXT NOT NULL,
        before BLOB NOT NULL, after BLOB NOT NULL, PRIMARY KEY (piece, serial)) WITHOUT ROWID;
    CREATE TABLE revision (
        id TEXT PRIMARY KEY, piece TEXT NOT NULL REFERENCES piece ON DELETE CASCADE, name TEXT NOT NULL, body TEXT NOT NULL,
        sum INTEGER NOT NULL, made REAL NOT NULL);
    CREATE INDEX revision_of ON revision (piece, made);
    """,
    """
    CREATE TABLE photo (
        id TEXT PRIMARY KEY, piece TEXT NOT NULL REFERENCES piece ON DELETE CASCADE, name TEXT NOT NULL, width INTEGER NOT NULL,
        height INTEGER NOT NULL, data BLOB NOT NULL, thumb BLOB NOT NULL, sum INTEGER NOT NULL, made REAL NOT NULL);
    CREATE INDEX photo_of ON photo (piece, made);
    CREATE TABLE record (
        kind TEXT NOT NULL, id TEXT NOT NULL, owner TEXT NOT NULL, body TEXT NOT NULL, sum INTEGER NOT NULL, made REAL NOT NULL,
        PRIMARY KEY (kind, id)) WITHOUT ROWID;
    CREATE INDEX record_of ON record (kind, owner, made);
    """,
)
BOOK_VERSION = len(MIGRATIONS)


def migrate(connection: sqlite3.Connection, version: int) -> None:
    """Bring a book from `version` to `BOOK_VERSION`, each step in a transaction of its own."""
    for number, step in enumerate(MIGRATIONS[version:], version + 1):
        # The version is written with the step: a power cut leaves the one or the other, never half of it.
        connection.executescript(f"BEGIN IMMEDIATE; {step}; PRAGMA user_version = {number}; PRAGMA application_id = {APPLICATION}; COMMIT;")


@cache
def _tables(version: int) -> frozenset[str]:
    with contextlib.closing(sqlite3.connect(":memory:")) as connection:
        for step in MIGRATIONS[:version]:
            connection.executescript(step)
        return _found(connection)


def _found(connection: sqlite3.Connection) -> frozenset[str]:
    return frozenset(str(row[0]) for row in connection.execute("SELECT name FROM sqlite_schema WHERE name NOT LIKE 'sqlite_%'"))


def misfit(connection: sqlite3.Connection, version: int) -> str:
    """Why the tables are not those of `version`, "" when they are."""
    wrong = _found(connection) ^ _tables(version)
    return f"its tables are not those of version {version}: {', '.join(sorted(wrong))}" if wrong else ""
