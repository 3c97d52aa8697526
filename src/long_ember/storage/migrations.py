"""The book's tables, version by version; a step, once shipped, is never changed."""

from __future__ import annotations

import contextlib
import json
import re
import sqlite3
import zlib
from collections.abc import Iterator
from functools import cache

from long_ember.storage.upgrades import upgraded

__all__ = ["APPLICATION", "BOOK_VERSION", "MIGRATIONS", "migrate", "misfit", "readable", "side_of", "sum_of"]

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
    """
    ALTER TABLE fact ADD COLUMN sum INTEGER NOT NULL DEFAULT 0;
    UPDATE fact SET sum = sum_of(value);
    ALTER TABLE piece ADD COLUMN seal INTEGER NOT NULL DEFAULT 0;
    UPDATE piece SET seal = sum_of(tags || char(10) || state || char(10) || parent);
    ALTER TABLE piece ADD COLUMN drawn INTEGER NOT NULL DEFAULT 0;
    UPDATE piece SET drawn = sum;
    ALTER TABLE piece ADD COLUMN trouble TEXT NOT NULL DEFAULT '';
    ALTER TABLE piece ADD COLUMN wide REAL NOT NULL DEFAULT 0;
    ALTER TABLE piece ADD COLUMN tall REAL NOT NULL DEFAULT 0;
    UPDATE piece SET wide = side_of(outline, 0), tall = side_of(outline, 1);
    UPDATE record SET owner = json_extract(body, '$.piece') WHERE kind = 'log' AND json_valid(body) AND json_extract(body, '$.piece') IS NOT NULL;
    CREATE INDEX record_at ON record (kind, made);
    CREATE INDEX piece_marks ON piece (changed DESC, id, sum, drawn, seal, trouble);
    """,
    """
    UPDATE record SET body = upgraded(kind, body), sum = sum_of(upgraded(kind, body))
        WHERE kind IN ('price', 'job', 'log', 'cuts') AND sum = sum_of(body);
    UPDATE fact SET value = upgraded('shop', value), sum = sum_of(upgraded('shop', value)) WHERE key = 'shop' AND sum = sum_of(value);
    """,
    """
    UPDATE fact SET value = upgraded('shop', value), sum = sum_of(upgraded('shop', value)) WHERE key = 'shop' AND sum = sum_of(value);
    """,
)
BOOK_VERSION = len(MIGRATIONS)
_TABLES = ("fact", "piece", "step", "revision", "photo", "record")


def sum_of(content: str | bytes) -> int:
    """What tells whether a text or a picture is still what was written."""
    return zlib.crc32(content.encode("utf-8") if isinstance(content, str) else content)


def side_of(outline: str, axis: int) -> float:
    """How wide (axis 0) or tall (1) an outline is, mm; 0 where there is none that can be read."""
    try:
        sides = [x for flat in json.loads(outline) for x in flat[axis::2]]
        return (max(sides) - min(sides)) / 10 if sides else 0.0
    except (ValueError, TypeError):
        return 0.0


def _helped(connection: sqlite3.Connection) -> None:
    """What the steps call."""
    connection.create_function("sum_of", 1, sum_of, deterministic=True)
    connection.create_function("side_of", 2, side_of, deterministic=True)
    connection.create_function("upgraded", 2, upgraded, deterministic=True)


def migrate(connection: sqlite3.Connection, version: int) -> None:
    """Bring a book from `version` to `BOOK_VERSION` in one transaction: a power cut leaves the one or the other, never something between."""
    _helped(connection)
    steps = "".join(MIGRATIONS[version:])
    if steps:
        connection.executescript(
            f"BEGIN IMMEDIATE; {steps} PRAGMA user_version = {BOOK_VERSION}; PRAGMA application_id = {APPLICATION}; COMMIT;"
        )


@contextlib.contextmanager
def _made(version: int) -> Iterator[sqlite3.Connection]:
    with contextlib.closing(sqlite3.connect(":memory:")) as connection:
        _helped(connection)
        for step in MIGRATIONS[:version]:
            connection.executescript(step)
        yield connection


@cache
def _schema(version: int) -> dict[str, str]:
    with _made(version) as connection:
        return _found(connection)


@cache
def _ours() -> dict[str, tuple[str, ...]]:
    with _made(BOOK_VERSION) as connection:
        return {table: _columns(connection, table) for table in _TABLES}


def _columns(connection: sqlite3.Connection, table: str) -> tuple[str, ...]:
    return tuple(str(row[1]) for row in connection.execute(f"PRAGMA table_info({table})"))


def _found(connection: sqlite3.Connection) -> dict[str, str]:
    """What was declared, by name, with its spaces evened out."""
    rows = connection.execute("SELECT name, sql FROM sqlite_schema WHERE name NOT LIKE 'sqlite_%'")
    return {str(name): re.sub(r"\s+", " ", str(sql)) for name, sql in rows}


def misfit(connection: sqlite3.Connection, version: int) -> str:
    """Why tables and columns are not those of `version`, "" when they are; nothing else may be there, no view and no trigger."""
    found, wanted = _found(connection), _schema(version)
    wrong = sorted(name for name in found.keys() | wanted.keys() if found.get(name) != wanted.get(name))
    return f"its tables are not those of version {version}: {', '.join(wrong)}" if wrong else ""


def readable(connection: sqlite3.Connection) -> str:
    """Why a book that a newer program made can't be looked at, "" when it has at least our tables and columns."""
    kinds = {str(name): str(kind) for name, kind in connection.execute("SELECT name, type FROM sqlite_schema")}
    missing = []
    for table in _TABLES:
        if kinds.get(table) != "table":
            missing.append(table)
            continue
        there = _columns(connection, table)
        missing += [f"{table}.{name}" for name in _ours()[table] if name not in there]
    return f"it lacks {', '.join(missing)}" if missing else ""
