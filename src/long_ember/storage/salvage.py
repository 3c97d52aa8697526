"""What is done about a damaged book: set aside, replaced by the newest good copy, and read as far as it goes."""

from __future__ import annotations

import contextlib
import os
import shutil
import sqlite3
import tempfile
import time
from dataclasses import replace
from pathlib import Path

from long_ember.errors import BookError, EmberError
from long_ember.features import Piece
from long_ember.storage.book import Book
from long_ember.storage.database import beside, faults, integrity_problem, looking, patient, version_of
from long_ember.storage.migrations import BOOK_VERSION, misfit, sum_of
from long_ember.storage.piece_file import piece_from_text

__all__ = ["damage", "salvaged", "set_aside"]


def damage(path: Path) -> str:
    """What is wrong with what a book holds, "" for nothing; the file is not touched.

    Raises:
        BookError: it can't be read now, which says nothing about what is in it: it is in use, or file, folder or disk refuse;
            or it is sound and has other tables or columns than ours (kind "foreign").
    """
    try:
        with contextlib.closing(looking(path)) as connection, faults(path), patient(connection):
            problem = integrity_problem(connection)
            version = -1 if problem else version_of(connection)
            if not problem and version < 0:
                problem = "it is no book, or its head is damaged"
            if not problem and version <= BOOK_VERSION and (strange := misfit(connection, version)):
                # Sound, and not ours as it is: somebody has added to it, who would miss it.
                raise BookError(str(path), f"this is not a book of Long Ember as it makes them: {strange}", kind="foreign")
            if not problem and version == BOOK_VERSION:
                problem = "; ".join(Book(connection, path).check(deep=False)[:3])
            return problem
    except BookError as error:
        if error.kind != "damaged":
            raise
        return error.reason


def set_aside(path: Path) -> Path:
    """Give a damaged book another name, its last changes with it.

    Raises:
        OSError: it can't be; whatever was done is undone.
    """
    aside, number = path.with_name(f"{path.stem}-damaged-{time.strftime('%Y%m%d-%H%M%S')}{path.suffix}"), 1
    while aside.exists():
        number += 1
        aside = path.with_name(f"{path.stem}-damaged-{time.strftime('%Y%m%d-%H%M%S')}-{number}{path.suffix}")
    os.rename(path, aside)
    try:
        for source, target in zip(beside(path), beside(aside), strict=True):
            if source.exists():
                os.rename(source, target)
    except OSError:
        os.rename(aside, path)
        raise
    with contextlib.suppress(FileNotFoundError):
        path.with_name(path.name + "-shm").unlink()
    return aside


def _copied(path: Path, stack: contextlib.ExitStack) -> Path:
    """A copy where there is room for one: among what is temporary, or else beside the book.

    Raises:
        OSError: there is room nowhere.
    """
    for at in (None, path.parent):
        try:
            copy = Path(stack.enter_context(tempfile.TemporaryDirectory(prefix="long-ember-", dir=at))) / "copy.ember"
            for source, target in zip((path, *beside(path)), (copy, *beside(copy)), strict=True):
                if source.exists():
                    shutil.copyfile(source, target)
            return copy
        except OSError:
            if at is not None:
                raise
    raise AssertionError


def salvaged(path: Path) -> dict[str, Piece]:
    """Every piece that can still be read from a damaged book, by id; the file is not touched: a copy of it is read.

    Raises:
        BookError: there is no room for the copy.
    """
    found: dict[str, Piece] = {}
    with faults(path), contextlib.ExitStack() as stack:
        copy = _copied(path, stack)
        for order in ("ASC", "DESC"):  # from both ends: reading stops at a page that is beyond reading
            with contextlib.suppress(BookError, sqlite3.Error, UnicodeDecodeError), contextlib.closing(looking(copy)) as c, patient(c):
                for identity, body, total in c.execute(f"SELECT id, body, sum FROM piece ORDER BY rowid {order}"):
                    with contextlib.suppress(EmberError, TypeError, ValueError):
                        piece = piece_from_text(body)
                        if sum_of(body) != total:
                            piece = replace(piece, note=f"Read from a damaged book: look it over. {piece.note}")
                        found.setdefault(str(identity), piece)
    return found
