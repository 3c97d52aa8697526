"""Copies of the book: taken while it is in use, proven, thinned out by count, put back with the present one kept."""

from __future__ import annotations

import contextlib
import os
import re
import shutil
import sqlite3
import time
from collections.abc import Callable, Iterable
from datetime import datetime
from pathlib import Path

from long_ember.errors import BookError, SaveError
from long_ember.frozen import dataclass
from long_ember.storage.book import Book
from long_ember.storage.database import (
    beside,
    book_error,
    faults,
    integrity_problem,
    looking,
    make_private,
    patient,
    transaction,
    version_of,
)
from long_ember.storage.migrations import BOOK_VERSION, migrate, misfit

__all__ = ["HOUR", "Backup", "Held", "back_up", "backup_folder", "backups", "held", "newest_good", "put_back", "swept", "thinned"]

HOUR = 3600.0
_DAY, _WEEK = 24 * HOUR, 7 * 24 * HOUR
_ODD = 2 * _DAY  # s ahead of now: the clock was wrong when it was made, or is wrong now
_LAST = 6  # of the rolling ones that stay whatever their dates say
_KEEP = ((HOUR, 12), (_DAY, 14), (_WEEK, 8))  # and the last of each of so many hours, days, weeks
_BY_HAND = 20  # of those asked for, or made before something that changes much
_NAME = re.compile(r"(\d{4})(\d\d)(\d\d)-(\d\d)(\d\d)(\d\d)(?:-n(\d{1,9})|-\d+)?-([a-z0-9-]+)\.ember")
_PAGES = 2000  # copied between looks whether to go on


@dataclass(frozen=True, slots=True)
class Backup:
    """A copy of the book.

    Args:
        path: of the copy.
        made: seconds since 1970, by the clock of that moment.
        why: rolling, by-hand, before-version-2, before-restore.
        size: bytes.
        number: one more than the copy before; what is older is told by it, since a clock can be wrong.
        odd: its date can't be: it lies ahead of now, or before that of an earlier copy.
    """

    path: Path
    made: float
    why: str
    size: int
    number: int = 0
    odd: bool = False


@dataclass(frozen=True, slots=True)
class Held:
    """What a book or a copy of it holds.

    Args:
        pieces: on the wall, in the archive and in the trash.
        serial: how often it had been written.
    """

    pieces: int
    serial: int


def backup_folder(book: Path) -> Path:
    """Where a book's copies lie: beside it."""
    return book.parent / "backups" / book.stem


def _moment(year: int, month: int, day: int, hour: int, minute: int, second: int) -> float:
    """Of the clock on the wall as a moment, s since 1970; the library's reader of dates would be loaded for it alone."""
    return datetime(year, month, day, hour, minute, second).timestamp()


def backups(book: Path) -> tuple[Backup, ...]:
    """All copies of a book, newest first: by number, those of earlier versions by date."""
    found = []
    with contextlib.suppress(OSError):
        for path in backup_folder(book).iterdir():
            name = _NAME.fullmatch(path.name)
            if name:
                with contextlib.suppress(ValueError, OSError, OverflowError):
                    made = _moment(*map(int, name.groups()[:6]))
                    about = path.stat()  # two of one second are told apart by when they were written
                    found.append(
                        (int(name[7] or 0), made, about.st_mtime_ns, Backup(path, made, name[8], about.st_size, int(name[7] or 0)))
                    )
    found.sort(key=lambda row: row[:3])
    latest, ahead, rows = 0.0, time.time() + _ODD, []
    for _number, made, _written, backup in found:
        odd = made > ahead or made < latest - _DAY
        rows.append(Backup(backup.path, made, backup.why, backup.size, backup.number, odd))
        latest = max(latest, made) if made <= ahead else latest
    return tuple(reversed(rows))


def back_up(
    connection: sqlite3.Connection, book: Path, why: str, *, when: float | None = None, go_on: Callable[[], bool] = lambda: True
) -> Path:
    """Copy the book while it is in use, prove that the copy can be read, and thin out the old ones.

    Args:
        connection: of the book, outside a transaction.
        book: its path.
        why: see `Backup`.
        when: seconds since 1970, by default now.
        go_on: asked now and then; where it says no the copy is left.

    Raises:
        SaveError: when the copy can't be made or can't be read; nothing else has changed.
    """
    folder, known = backup_folder(book), backups(book)
    number = max((b.number for b in known), default=0) + 1
    target = folder / f"{time.strftime('%Y%m%d-%H%M%S', time.localtime(when))}-n{number:04d}-{why}.ember"
    part = target.with_suffix(".part")
    try:
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        folder.parent.chmod(0o700)  # parents are made with the rights that are usual, which let others look
        swept(book)
        make_private(part)
        with contextlib.closing(sqlite3.connect(part, isolation_level=None)) as copy:
            connection.backup(copy, pages=_PAGES, progress=lambda _status, _left, _of: _asked(go_on))
            copy.execute("PRAGMA journal_mode = DELETE")  # one file, readable from a locked disk too
        with part.open("rb+") as file:
            os.fsync(file.fileno())
        problem = _unproven(part)
        if problem:
            raise SaveError(str(target), f"the copy is not sound: {problem}")
        os.replace(part, target)
    except (sqlite3.Error, OSError) as error:
        raise SaveError(str(target), book_error(target, error).reason) from error
    finally:
        with contextlib.suppress(OSError):
            part.unlink()
    for old in thinned(backups(book), _richest(backups(book))):
        with contextlib.suppress(OSError):
            old.path.unlink()
    return target


class _Left(sqlite3.Error):
    """Nobody waits for the copy any more."""


def _asked(go_on: Callable[[], bool]) -> None:
    if not go_on():
        raise _Left("left unfinished")


def _unproven(part: Path) -> str:
    """Why a copy can't be relied on, "" when it can: opened anew, and read to the last sum."""
    try:
        with contextlib.closing(looking(part)) as connection, faults(part):
            return integrity_problem(connection) or misfit(connection, version_of(connection)) or "; ".join(_check(connection, part)[:3])
    except BookError as error:
        return error.reason


def _check(connection: sqlite3.Connection, path: Path) -> tuple[str, ...]:
    return Book(connection, path).check(deep=False) if version_of(connection) == BOOK_VERSION else ()


def swept(book: Path) -> None:
    """Take away what a copy that was cut short has left; only while the lock is held."""
    with contextlib.suppress(OSError):
        for path in backup_folder(book).iterdir():
            if ".part" in path.name:
                path.unlink()


def held(path: Path) -> Held:
    """What a copy holds.

    Raises:
        BookError: it can't be read.
    """
    with contextlib.closing(looking(path, wait=0.5)) as connection, faults(path), patient(connection):
        pieces = int(connection.execute("SELECT count(*) FROM piece").fetchone()[0])
        return Held(pieces, Book(connection, path).serial if version_of(connection) == BOOK_VERSION else 0)


def _richest(found: Iterable[Backup]) -> Backup | None:
    """The newest of the rolling copies that hold the most pieces: what went by mistake is still in it."""
    best: tuple[int, Backup] | None = None
    for backup in found:
        for what in _held(backup) if backup.why == "rolling" else ():
            if best is None or what.pieces > best[0]:
                best = (what.pieces, backup)
    return best[1] if best else None


def thinned(found: Iterable[Backup], richest: Backup | None = None) -> tuple[Backup, ...]:
    """Those that may go. Of the rolling ones the last few stay, and the last of each of so many hours, days and weeks, counted in the
    order they were made, so that no clock can make them all look old; of the others the oldest go.

    Args:
        found: newest first.
        richest: stays whatever its age.
    """
    every = tuple(found)
    rolling = [b for b in every if b.why == "rolling"]
    kept = {b.path for b in rolling[:_LAST]} | ({richest.path} if richest is not None else set())
    for span, number in _KEEP:
        seen: set[int] = set()
        for backup in rolling:
            slot = int(backup.made // span)
            if slot not in seen and len(seen) < number:
                seen.add(slot)
                kept.add(backup.path)
    others = [b for b in every if b.why != "rolling"][_BY_HAND:]
    return (*(b for b in rolling if b.path not in kept), *others)


def newest_good(book: Path) -> Backup | None:
    """The newest copy that is sound and that this program can open."""
    return next((b for b in backups(book) if _good(b.path)), None)


def _good(path: Path) -> bool:
    try:
        with contextlib.closing(looking(path)) as connection, faults(path), patient(connection):
            version = version_of(connection)
            return 0 < version <= BOOK_VERSION and not (
                integrity_problem(connection) or misfit(connection, version) or _check(connection, path)
            )
    except BookError:
        return False


def put_back(backup: Path, book: Path) -> None:
    """Make a copy the book; the caller has set the present one aside and holds the lock.

    Raises:
        SaveError: when it can't be written; the book is as it was.
    """
    part = book.with_name(book.name + ".part")
    try:
        make_private(part)
        shutil.copyfile(backup, part)
        _numbered(part, 1 + max((h.serial for b in backups(book) for h in _held(b)), default=0))
        with part.open("rb+") as file:
            os.fsync(file.fileno())
        for stale in (*beside(book), book.with_name(book.name + "-shm")):
            with contextlib.suppress(FileNotFoundError):
                stale.unlink()
        os.replace(part, book)
    except (OSError, sqlite3.Error) as error:
        with contextlib.suppress(OSError):
            part.unlink()
        raise SaveError(str(book), book_error(book, error).reason) from error


def _held(backup: Backup) -> tuple[Held, ...]:
    """What it holds; nothing where it can't be read."""
    try:
        return (held(backup.path),)
    except BookError:
        return ()


def _numbered(part: Path, serial: int) -> None:
    """Let the writes go on being counted from here: going back on purpose is no loss."""
    with contextlib.closing(sqlite3.connect(part, isolation_level=None)) as connection:
        migrate(connection, version_of(connection))
        with transaction(connection):
            Book(connection, part).set_serial(serial)
        connection.execute("PRAGMA journal_mode = DELETE")
