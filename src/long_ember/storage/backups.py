"""Copies of the book: taken while it is in use, thinned out as they age, put back with the present one kept."""

from __future__ import annotations

import contextlib
import os
import re
import shutil
import sqlite3
import time
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path

from long_ember.errors import BookError, SaveError
from long_ember.storage.book import Book
from long_ember.storage.database import connect, faults, sound, version_of
from long_ember.storage.migrations import BOOK_VERSION

__all__ = ["HOUR", "Backup", "back_up", "backup_folder", "backups", "newest_good", "put_back", "thinned"]

HOUR = 3600.0
_DAY, _WEEK = 24 * HOUR, 7 * 24 * HOUR
_KEEP = ((HOUR, 12), (_DAY, 14), (_WEEK, 8))  # the last of each of so many hours, days, weeks
_BY_HAND = 20  # of those asked for, or made before something that changes much
_NAME = re.compile(r"(\d{8}-\d{6})(?:-\d+)?-([a-z0-9-]+)\.ember")


@dataclass(frozen=True, slots=True)
class Backup:
    """A copy of the book.

    Args:
        path: of the copy.
        made: seconds since 1970.
        why: rolling, by-hand, before-version-2, before-restore.
        size: bytes.
    """

    path: Path
    made: float
    why: str
    size: int


def backup_folder(book: Path) -> Path:
    """Where a book's copies lie: beside it."""
    return book.parent / "backups" / book.stem


def backups(book: Path) -> tuple[Backup, ...]:
    """All copies of a book, newest first."""
    found = []
    with contextlib.suppress(OSError):
        for path in backup_folder(book).iterdir():
            name = _NAME.fullmatch(path.name)
            if name:
                with contextlib.suppress(ValueError, OSError, OverflowError):
                    made = time.mktime(time.strptime(name[1], "%Y%m%d-%H%M%S"))
                    about = path.stat()  # two of one second are told apart by when they were written
                    found.append((Backup(path, made, name[2], about.st_size), about.st_mtime_ns))
    return tuple(backup for backup, _written in sorted(found, key=lambda pair: (pair[0].made, pair[1]), reverse=True))


def back_up(connection: sqlite3.Connection, book: Path, why: str, *, when: float | None = None) -> Path:
    """Copy the book while it is in use, check the copy, and thin out the old ones.

    Args:
        connection: of the book, outside a transaction.
        book: its path.
        why: see `Backup`.
        when: seconds since 1970, by default now.

    Raises:
        SaveError: when the copy can't be made; nothing else has changed.
    """
    folder = backup_folder(book)
    target = folder / f"{time.strftime('%Y%m%d-%H%M%S', time.localtime(when))}-{why}.ember"
    number = 1
    while target.exists():
        number += 1
        target = folder / f"{time.strftime('%Y%m%d-%H%M%S', time.localtime(when))}-{number}-{why}.ember"
    part = target.with_suffix(".part")
    try:
        folder.mkdir(parents=True, exist_ok=True)
        with contextlib.closing(sqlite3.connect(part, isolation_level=None)) as copy:
            connection.backup(copy)
            copy.execute("PRAGMA journal_mode = DELETE")  # one file, readable from a locked disk too
            problem = sound(copy)
        if problem:
            raise SaveError(str(target), f"the copy is not sound: {problem}")
        os.replace(part, target)
    except (sqlite3.Error, OSError) as error:
        raise SaveError(str(target), str(error)) from error
    finally:
        with contextlib.suppress(OSError):
            part.unlink()
    for old in thinned(backups(book), time.time() if when is None else when):
        with contextlib.suppress(OSError):
            old.path.unlink()
    return target


def thinned(found: Iterable[Backup], now: float) -> tuple[Backup, ...]:
    """Those that may go: of the rolling ones all but the last of each recent hour, day and week; of the others the oldest."""
    every = sorted(found, key=lambda b: b.made, reverse=True)
    rolling = [b for b in every if b.why == "rolling"]
    kept = {b.path for b in rolling[:1]}
    for span, number in _KEEP:
        seen: set[int] = set()
        for backup in rolling:  # newest first
            slot = int(backup.made // span)
            if slot not in seen and len(seen) < number and now - backup.made < span * (number + 1):
                seen.add(slot)
                kept.add(backup.path)
    others = [b for b in every if b.why != "rolling"][_BY_HAND:]
    return (*(b for b in rolling if b.path not in kept), *others)


def newest_good(book: Path) -> Backup | None:
    """The newest copy that is sound and that this program can open."""
    return next((b for b in backups(book) if _good(b.path)), None)


def _good(path: Path) -> bool:
    try:
        with contextlib.closing(connect(path, read_only=True)) as connection, faults(path):
            version = version_of(connection)
            if not 0 < version <= BOOK_VERSION or sound(connection):
                return False
            return version < BOOK_VERSION or not Book(connection, path).check(deep=False)
    except BookError:
        return False


def put_back(backup: Path, book: Path) -> None:
    """Make a copy the book; the caller has set the present one aside and holds the lock.

    Raises:
        SaveError: when it can't be written; the book is as it was.
    """
    part = book.with_name(book.name + ".part")
    try:
        shutil.copyfile(backup, part)
        with part.open("rb+") as file:
            os.fsync(file.fileno())
        for ending in ("-wal", "-shm"):
            with contextlib.suppress(FileNotFoundError):
                book.with_name(book.name + ending).unlink()
        os.replace(part, book)
    except OSError as error:
        with contextlib.suppress(OSError):
            part.unlink()
        raise SaveError(str(book), error.strerror or str(error)) from error
