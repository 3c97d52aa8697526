"""The book: pieces with their history, revisions and photos, records, and the shop's facts, in one SQLite file."""

from __future__ import annotations

import json
import os
import sqlite3
import time
import zlib
from collections.abc import Iterable
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path
from typing import Any

import numpy as np

from long_ember.arrays import Array
from long_ember.document import History, Step, StoredEdit
from long_ember.errors import BookError, FileProblem, PieceFileError
from long_ember.features import Piece
from long_ember.geometry import silhouette
from long_ember.shop import RECORDS, Record, Shop, record_kind
from long_ember.storage.database import faults
from long_ember.storage.models import Reader, fields_out
from long_ember.storage.piece_file import LARGEST, piece_from_text, piece_to_text
from long_ember.units import Measure

__all__ = ["STATES", "Book", "Entry", "Photo", "Revision", "new_id", "piece_words"]

STATES = ("kept", "archived", "trashed")
_KEPT_STEPS = 250
_COLUMNS = "id, name, words, outline, tags, state, parent, made, changed"


def new_id() -> str:
    """An id that no other book has either."""
    return os.urandom(8).hex()


@dataclass(frozen=True, slots=True)
class Entry:
    """A piece as the library shows it, without opening it.

    Args:
        id: in this book and in every copy of it.
        name: of the piece.
        words: everything it can be found by, lower case.
        outline: polygons as JSON, 0.1 mm.
        tags: the smith's own words.
        state: kept, archived or trashed.
        parent: id of the piece it is a variant of, or "".
        made: seconds since 1970.
        changed: the same, of its last edit.
    """

    id: str
    name: str
    words: str
    outline: str
    tags: tuple[str, ...]
    state: str
    parent: str
    made: float
    changed: float

    def polygons(self) -> tuple[Array, ...]:
        """The outline, each (n, 2), mm; empty where it can't be read."""
        try:
            return tuple(np.array(flat, dtype=float).reshape(-1, 2) / 10 for flat in json.loads(self.outline))
        except (ValueError, TypeError):
            return ()


@dataclass(frozen=True, slots=True)
class Revision:
    """A state of a piece that was given a name."""

    id: str
    piece: str
    name: str
    made: float


@dataclass(frozen=True, slots=True)
class Photo:
    """A picture of a piece: JPEG data, and a small one of it.

    Args:
        id: of the photo.
        piece: id of the piece.
        name: of the file it came from.
        width: px.
        height: px.
        data: the picture; empty where only the small one was asked for.
        thumb: the small one.
    """

    id: str
    piece: str
    name: str
    width: int
    height: int
    data: bytes
    thumb: bytes


def _sum(text: str | bytes) -> int:
    return zlib.crc32(text.encode("utf-8") if isinstance(text, str) else text)


def piece_words(piece: Piece, tags: Iterable[str] = ()) -> str:
    """Everything a piece can be found by: its name, note and tags, its features by all their names, bar and material."""
    found = [piece.name, piece.note, *tags, piece.steel.title, piece.bar.label(Measure("mm", ascii=True))]
    for feature in piece.features:
        found += [feature.title, *feature.also]
    return " ".join(dict.fromkeys(" ".join(found).lower().split()))


@lru_cache(maxsize=512)
def _packed(piece: Piece) -> bytes:
    """A piece in the history; neighbours in it share most of theirs."""
    return zlib.compress(piece_to_text(piece).encode("utf-8"))


class Book:
    """A book on one connection; not to be shared between threads.

    Args:
        connection: of `BOOK_VERSION`.
        path: for messages.
    """

    def __init__(self, connection: sqlite3.Connection, path: Path) -> None:
        self.connection, self.path = connection, path

    def close(self) -> None:
        """Let the file go."""
        self.connection.close()

    def _rows(self, sql: str, values: Iterable[Any] = ()) -> list[Any]:
        with faults(self.path):
            return self.connection.execute(sql, tuple(values)).fetchall()

    def _run(self, sql: str, *values: Any) -> None:
        self.connection.execute(sql, values)

    # --- facts

    def fact(self, key: str) -> str:
        """A fact's value, "" where there is none."""
        rows = self._rows("SELECT value FROM fact WHERE key = ?", (key,))
        return str(rows[0][0]) if rows else ""

    def put_fact(self, key: str, value: str) -> None:
        """Keep a fact."""
        self._run("INSERT OR REPLACE INTO fact VALUES (?, ?)", key, value)

    @property
    def shop(self) -> Shop | None:
        """The shop; None before it has been set up, or where what is kept of it can't be read."""
        text = self.fact("shop")
        if not text:
            return None
        reader = Reader()
        plain = fields_out(Shop())  # what an earlier version had no word for

        def build(data: Any) -> Shop | None:
            found: Shop | None = reader.model(Shop, {**plain, **data} if isinstance(data, dict) else data, "$")
            return found

        return reader.read(text, build)

    def put_shop(self, shop: Shop) -> None:
        """Keep the shop."""
        self.put_fact("shop", json.dumps(fields_out(shop), ensure_ascii=False))

    # --- pieces

    def entries(self) -> tuple[Entry, ...]:
        """All pieces, the last one changed first."""
        return tuple(self._entry(row) for row in self._rows(f"SELECT {_COLUMNS} FROM piece ORDER BY changed DESC, id"))

    def _entry(self, row: Any) -> Entry:
        identity, name, words, outline, tags, state, parent, made, changed = row
        try:
            return Entry(str(identity), str(name), str(words), str(outline), tuple(tags.split("\n")) if tags else (),
                         state if state in STATES else "kept", str(parent), float(made), float(changed))  # fmt: skip
        except (TypeError, ValueError, AttributeError) as error:
            raise BookError(str(self.path), f"the row of the piece {name!r} is damaged", "Restore a backup.") from error

    def entry(self, piece_id: str) -> Entry | None:
        """One of them."""
        return next((e for e in self.entries() if e.id == piece_id), None)

    def text(self, piece_id: str) -> str:
        """A piece as the file would have it.

        Raises:
            BookError: when it is not there, or is not what was written.
        """
        rows = self._rows("SELECT name, body, sum FROM piece WHERE id = ?", (piece_id,))
        if not rows:
            raise BookError(str(self.path), "this piece is no longer in the book")
        name, body, total = rows[0]
        return self._checked(body, total, f"the piece {name!r}")

    def _checked(self, body: str, total: int, what: str) -> str:
        if not isinstance(body, str) or _sum(body) != total:
            raise BookError(str(self.path), f"{what} is damaged in the file", "Restore it from a backup.")
        return body

    def piece(self, piece_id: str) -> Piece:
        """A piece.

        Raises:
            BookError: as `text`.
            PieceFileError: when a newer program wrote it.
        """
        return piece_from_text(self.text(piece_id), source=str(self.path))

    def history(self, piece_id: str) -> History:
        """The steps of a piece, their pieces unread."""
        rows = self._rows("SELECT serial, title, focus, before, after FROM step WHERE piece = ? ORDER BY serial", (piece_id,))
        at = self._rows("SELECT at FROM piece WHERE id = ?", (piece_id,))
        steps = tuple(Step(serial, StoredEdit(title, focus, _reader(before, after, self.path)))
                      for serial, title, focus, before, after in rows)  # fmt: skip
        return History(steps, min(int(at[0][0]), len(steps)) if at else 0)

    def put_piece(self, piece_id: str, piece: Piece, history: History | None = None, *, when: float | None = None) -> None:
        """Keep a piece as it is now, with its steps where they are given; what is known of it besides stays."""
        now = time.time() if when is None else when
        rows = self._rows("SELECT tags FROM piece WHERE id = ?", (piece_id,))
        tags = rows[0][0].split("\n") if rows else []
        body = piece_to_text(piece)
        outline = json.dumps([np.rint(p * 10).astype(int).ravel().tolist() for p in silhouette(piece)], separators=(",", ":"))
        self._run(
            "INSERT INTO piece VALUES (?, ?, ?, ?, ?, ?, '', 'kept', '', 0, ?, ?) ON CONFLICT (id) DO UPDATE SET name = excluded.name, "
            "body = excluded.body, sum = excluded.sum, words = excluded.words, outline = excluded.outline, changed = excluded.changed",
            piece_id, piece.name, body, _sum(body), piece_words(piece, tags), outline, now, now,
        )  # fmt: skip
        if history is not None:
            self._put_history(piece_id, history)

    def _put_history(self, piece_id: str, history: History) -> None:
        """Write the steps that are new, drop those that are gone or older than is kept."""
        first = max(0, len(history.steps) - _KEPT_STEPS)
        steps = {step.serial: step for step in history.steps[first:]}
        known = {row[0] for row in self._rows("SELECT serial FROM step WHERE piece = ?", (piece_id,))}
        self.connection.executemany("DELETE FROM step WHERE piece = ? AND serial = ?", [(piece_id, s) for s in known - steps.keys()])
        new = [steps[s].edit for s in sorted(steps.keys() - known)]
        self.connection.executemany(
            "INSERT INTO step VALUES (?, ?, ?, ?, ?, ?)",
            [(piece_id, serial, edit.title, edit.focus, _packed(edit.before), _packed(edit.after))
             for serial, edit in zip(sorted(steps.keys() - known), new, strict=True)],
        )  # fmt: skip
        self._run("UPDATE piece SET at = ? WHERE id = ?", max(0, history.at - first), piece_id)

    def put_tags(self, piece_id: str, tags: Iterable[str]) -> None:
        """Keep a piece's tags."""
        clean = tuple(dict.fromkeys(" ".join(t.split()) for t in tags if t.strip()))
        words = piece_words(self.piece(piece_id), clean)
        self._run("UPDATE piece SET tags = ?, words = ? WHERE id = ?", "\n".join(clean), words, piece_id)

    def put_state(self, piece_id: str, state: str) -> None:
        """Keep, archive or trash a piece; nothing else of it changes."""
        if state not in STATES:
            raise ValueError(state)
        self._run("UPDATE piece SET state = ? WHERE id = ?", state, piece_id)

    def put_parent(self, piece_id: str, parent: str) -> None:
        """Remember which piece this one is a variant of."""
        self._run("UPDATE piece SET parent = ? WHERE id = ?", parent, piece_id)

    def remove_piece(self, piece_id: str) -> None:
        """Take a piece out for good, with its steps, revisions and photos."""
        self._run("DELETE FROM piece WHERE id = ?", piece_id)

    # --- revisions

    def revisions(self, piece_id: str) -> tuple[Revision, ...]:
        """Named states of a piece, newest first."""
        return tuple(Revision(*row) for row in self._rows(
            "SELECT id, piece, name, made FROM revision WHERE piece = ? ORDER BY made DESC", (piece_id,)))  # fmt: skip

    def revision(self, revision_id: str) -> Piece:
        """The piece as it was.

        Raises:
            BookError: when it is damaged or gone.
        """
        rows = self._rows("SELECT name, body, sum FROM revision WHERE id = ?", (revision_id,))
        if not rows:
            raise BookError(str(self.path), "this revision is no longer in the book")
        return piece_from_text(self._checked(rows[0][1], rows[0][2], f"the revision {rows[0][0]!r}"), source=str(self.path))

    def put_revision(self, revision_id: str, piece_id: str, name: str, piece: Piece, *, when: float | None = None) -> None:
        """Give the present state a name."""
        body = piece_to_text(piece)
        made = time.time() if when is None else when
        self._run("INSERT OR REPLACE INTO revision VALUES (?, ?, ?, ?, ?, ?)", revision_id, piece_id, name, body, _sum(body), made)

    def remove_revision(self, revision_id: str) -> None:
        """Forget a named state; the piece itself stays."""
        self._run("DELETE FROM revision WHERE id = ?", revision_id)

    # --- photos

    def photos(self, piece_id: str) -> tuple[Photo, ...]:
        """A piece's photos, oldest first, only the small pictures."""
        rows = self._rows("SELECT id, piece, name, width, height, x'', thumb FROM photo WHERE piece = ? ORDER BY made", (piece_id,))
        return tuple(Photo(*row) for row in rows)

    def photo(self, photo_id: str) -> Photo:
        """One of them, whole.

        Raises:
            BookError: when it is damaged or gone.
        """
        rows = self._rows("SELECT id, piece, name, width, height, data, thumb, sum FROM photo WHERE id = ?", (photo_id,))
        if not rows or _sum(rows[0][5]) != rows[0][7]:
            raise BookError(str(self.path), "this photo is damaged or gone", "Restore it from a backup.")
        return Photo(*rows[0][:7])

    def put_photo(self, photo: Photo) -> None:
        """Keep a photo."""
        p = photo
        self._run("INSERT OR REPLACE INTO photo VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)",
                  p.id, p.piece, p.name, p.width, p.height, p.data, p.thumb, _sum(p.data), time.time())  # fmt: skip

    def remove_photo(self, photo_id: str) -> None:
        """Take a photo out."""
        self._run("DELETE FROM photo WHERE id = ?", photo_id)

    # --- records

    def records(self, kind: str) -> dict[str, Record]:
        """All records of a kind by id, in the order they were made; those that can't be read are left to `check`."""
        found = {}
        for identity, body, total in self._rows("SELECT id, body, sum FROM record WHERE kind = ? ORDER BY made, id", (kind,)):
            record = _record(kind, body) if _sum(body) == total else None
            if record is not None:
                found[identity] = record
        return found

    def put_record(self, record_id: str, record: Record, *, owner: str = "") -> None:
        """Keep a record; one that is there is replaced and keeps its place."""
        body = json.dumps(fields_out(record), ensure_ascii=False)
        self._run("INSERT INTO record VALUES (?, ?, ?, ?, ?, ?) ON CONFLICT (kind, id) DO UPDATE SET body = excluded.body, "
                  "sum = excluded.sum, owner = excluded.owner",
                  record_kind(record), record_id, owner, body, _sum(body), time.time())  # fmt: skip

    def remove_record(self, kind: str, record_id: str) -> None:
        """Take a record out."""
        self._run("DELETE FROM record WHERE kind = ? AND id = ?", kind, record_id)

    # --- soundness

    def check(self, *, deep: bool = True) -> tuple[str, ...]:
        """Everything in the book that is not as it was written, in words; empty for a sound book.

        Args:
            deep: also read every piece, record and photo; without it only their sums are compared, and photos left out.
        """
        found = []
        try:
            self.entries()
        except BookError as error:
            return (error.reason,)
        for table in ("piece", "revision"):
            for name, body, total in self._rows(f"SELECT name, body, sum FROM {table}"):
                problem = _damage(body, total) or (_unreadable(body) if deep else "")
                if problem:
                    found.append(f"{table} {name!r}: {problem}")
        for kind, identity, body, total in self._rows("SELECT kind, id, body, sum FROM record"):
            problem = _damage(body, total) or ("can't be read" if deep and kind in RECORDS and _record(kind, body) is None else "")
            if problem:
                found.append(f"{kind} {identity}: {problem}")
        if deep:
            found += [f"photo {n!r}: damaged" for n, data, total in self._rows("SELECT name, data, sum FROM photo") if _sum(data) != total]
        return tuple(found)

    def count(self) -> int:
        """How many pieces there are, the trash not counted."""
        return int(self._rows("SELECT count(*) FROM piece WHERE state != 'trashed'")[0][0])


def _damage(body: object, total: int) -> str:
    return "" if isinstance(body, str) and _sum(body) == total else "damaged"


def _unreadable(body: str) -> str:
    try:
        piece_from_text(body)
    except PieceFileError as error:
        return str(error.problems[0])
    return ""


def _record(kind: str, body: str) -> Record | None:
    reader = Reader()
    if kind not in RECORDS:
        return None
    found: Record | None = reader.read(body, lambda data: reader.model(RECORDS[kind], data, "$"))
    return found


def _reader(before: bytes, after: bytes, path: Path) -> Any:
    def read(first: bool) -> Piece:
        try:
            text = zlib.decompressobj().decompress(before if first else after, LARGEST).decode("utf-8")  # never a bomb
        except (zlib.error, UnicodeDecodeError) as error:
            raise PieceFileError(str(path), (FileProblem("$", "this step of the history is damaged"),)) from error
        return piece_from_text(text, source=str(path))

    return read
