"""The book: pieces with their history, revisions and photos, records, and the shop's facts, in one SQLite file."""

from __future__ import annotations

import contextlib
import json
import os
import sqlite3
import time
import zlib
from collections.abc import Generator, Iterable, Iterator
from functools import lru_cache
from pathlib import Path
from typing import TYPE_CHECKING, Any, TypeVar

import numpy as np

from long_ember.arrays import Array
from long_ember.document import History, PastStep, StoredEdit
from long_ember.errors import BookError, FileProblem, PieceFileError
from long_ember.features import Piece
from long_ember.fields import fields_out
from long_ember.frozen import dataclass
from long_ember.geometry import silhouette
from long_ember.plain import clean
from long_ember.portions import all_portions
from long_ember.records import RECORDS, LogEntry, Record, Shop, kind_of, record_kind
from long_ember.storage.database import faults
from long_ember.storage.migrations import side_of, sum_of
from long_ember.storage.models import Reader
from long_ember.storage.piece_file import LARGEST, piece_from_text, piece_to_text
from long_ember.units import Measure

if TYPE_CHECKING:
    from long_ember.storage.lock import Lock

__all__ = ["STATES", "Book", "Entry", "Photo", "Revision", "moved_away", "new_id", "piece_words", "polygons_of"]

STATES = ("kept", "archived", "trashed")
_R = TypeVar("_R")
_KEPT_STEPS = 250
_COLUMNS = "id, name, words, outline, tags, state, parent, made, changed, trouble, wide, tall"
_MARKS = "id, changed, sum, drawn, seal, trouble"  # what changes whenever a row does
_REMEMBERED = 200  # pieces
_MANY, _FEW = 500, 200  # rows asked for by their ids at once; in portions
_SERIAL = "writes"  # the fact that counts them


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
        trouble: why it could not be reckoned when it was last tried, "" when it could.
        wide: mm, of its outline.
        tall: the same.
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
    trouble: str = ""
    wide: float = 0.0
    tall: float = 0.0

    def polygons(self) -> tuple[Array, ...]:
        """The outline, each (n, 2), mm; empty where it can't be read."""
        return polygons_of(self.outline)


def polygons_of(outline: str) -> tuple[Array, ...]:
    """An outline as it is kept, each (n, 2), mm; empty where it can't be read."""
    try:
        return tuple(np.array(flat, dtype=float).reshape(-1, 2) / 10 for flat in json.loads(outline))
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


def _seal(tags: str, state: str, parent: str) -> int:
    return sum_of(f"{tags}\n{state}\n{parent}")


def piece_words(piece: Piece, tags: Iterable[str] = ()) -> str:
    """Everything a piece can be found by: its name, note and tags, its features by all their names, bar and material."""
    found = [piece.name, piece.note, *tags, piece.steel.title, piece.bar.label(Measure("mm", ascii=True))]
    for feature in piece.features:
        found += [feature.title, *feature.also]
    return " ".join(dict.fromkeys(" ".join(found).lower().split()))


@lru_cache(maxsize=64)
def _packed(piece: Piece) -> bytes:
    """A piece in the history; neighbours in it share most of theirs."""
    return zlib.compress(piece_to_text(piece).encode("utf-8"))


def moved_away(path: Path) -> BookError:
    """The file at a path is not the one that was opened."""
    remedy = "What is made stays in memory: put the book back where it was, or write the piece to a file."
    return BookError(str(path), "the book was moved, or another file was put in its place", remedy, "moved_away")


class Book:
    """A book on one connection; not to be shared between threads.

    Args:
        connection: of `BOOK_VERSION`.
        path: for messages.
        lock: the right to write it; None where it is only read.
        owner: the lock is let go with the book.
    """

    def __init__(self, connection: sqlite3.Connection, path: Path, lock: Lock | None = None, *, owner: bool = False) -> None:
        self.connection, self.path, self._lock, self._owner = connection, path, lock, owner
        self._seen: dict[str, tuple[Any, Entry]] = {}  # entries by id, with the marks of their rows
        self._pieces: dict[str, tuple[int, Piece]] = {}  # those asked for last, with the sums of their rows
        self._parsed: dict[tuple[str, str], tuple[int, Record | None]] = {}  # records by kind and id, with the sums of their rows

    def close(self) -> None:
        """Let the file go."""
        self.connection.close()
        if self._owner and self._lock is not None:
            self._lock.release()

    def _rows(self, sql: str, values: Iterable[Any] = ()) -> list[Any]:
        with faults(self.path):
            return self.connection.execute(sql, tuple(values)).fetchall()

    def _run(self, sql: str, *values: Any) -> None:
        self.connection.execute(sql, values)

    # --- the file

    def still_there(self) -> None:
        """Make sure that what is written goes where the book is.

        Raises:
            BookError: it was moved, or another file stands in its place.
        """
        if self._lock is not None and not self._lock.same():
            raise moved_away(self.path)

    def count_write(self) -> int:
        """Number this write; a book that has fewer than one of its copies has lost something."""
        return self.set_serial(self.serial + 1)

    def set_serial(self, serial: int) -> int:
        """Count from here."""
        self.put_fact(_SERIAL, str(serial))
        return serial

    @property
    def serial(self) -> int:
        """How often the book has been written."""
        text = self.fact(_SERIAL)
        return int(text) if text.isdecimal() and len(text) < 18 else 0

    def note_write(self, serial: int) -> None:
        """Write the number down beside the book too: a hint, so nothing depends on its success."""
        if self._lock is not None:
            with contextlib.suppress(OSError):
                self._lock.note(serial)

    def settle(self) -> None:
        """Bring the last changes from the file beside it into the book, unless somebody reads them just now."""
        self.connection.execute("PRAGMA busy_timeout = 0")
        try:
            self.connection.execute("PRAGMA wal_checkpoint(TRUNCATE)").fetchone()
        finally:
            self.connection.execute("PRAGMA busy_timeout = 5000")

    # --- facts

    def fact(self, key: str) -> str:
        """A fact's value, "" where there is none, or none that is as it was written."""
        rows = self._rows("SELECT value, sum FROM fact WHERE key = ?", (key,))
        return str(rows[0][0]) if rows and not _damage(*rows[0]) else ""

    def put_fact(self, key: str, value: str) -> None:
        """Keep a fact."""
        value = clean(value)
        self._run("INSERT OR REPLACE INTO fact (key, value, sum) VALUES (?, ?, ?)", key, value, sum_of(value))

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
        """All pieces, the last one changed first; only rows that have changed since they were last asked for are read."""
        return all_portions(self.reading_entries())

    def reading_entries(self) -> Generator[None, None, tuple[Entry, ...]]:
        """The same in portions, see `entries`."""
        marks = {row[0]: row for row in self._rows(f"SELECT {_MARKS} FROM piece ORDER BY changed DESC, id")}
        known = self._seen
        fresh = [i for i, mark in marks.items() if i not in known or known[i][0] != mark]
        found = {}
        for first in range(0, len(fresh), _FEW):
            some = fresh[first : first + _FEW]
            rows = self._rows(f"SELECT {_COLUMNS} FROM piece WHERE id IN ({', '.join('?' * len(some))})", some)
            found.update({row[0]: self._entry(row) for row in rows})
            yield
        self._seen = {i: (mark, found[i] if i in found else known[i][1]) for i, mark in marks.items() if i in found or i in known}
        return tuple(entry for _mark, entry in self._seen.values())

    def _entry(self, row: Any) -> Entry:
        identity, name, words, outline, tags, state, parent, made, changed, trouble, wide, tall = row
        try:
            return Entry(str(identity), str(name), str(words), str(outline), tuple(tags.split("\n")) if tags else (),
                         state if state in STATES else "kept", str(parent), float(made), float(changed), str(trouble), float(wide), float(tall))  # fmt: skip
        except (TypeError, ValueError, AttributeError) as error:
            raise BookError(str(self.path), f"the row of the piece {name!r} is damaged", "Restore a backup.") from error

    def entry(self, piece_id: str) -> Entry | None:
        """One of them."""
        rows = self._rows(f"SELECT {_COLUMNS} FROM piece WHERE id = ?", (piece_id,))
        return self._entry(rows[0]) if rows else None

    def known(self, piece_ids: Iterable[str]) -> set[str]:
        """Those of some ids that are pieces of the book."""
        wanted, found = list(dict.fromkeys(piece_ids)), set[str]()
        for first in range(0, len(wanted), _MANY):
            some = wanted[first : first + _MANY]
            found.update(row[0] for row in self._rows(f"SELECT id FROM piece WHERE id IN ({', '.join('?' * len(some))})", some))
        return found

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
        if not isinstance(body, str) or _damage(body, total):
            raise BookError(str(self.path), f"{what} is damaged in the file", "Restore it from a backup.")
        return body

    def piece(self, piece_id: str) -> Piece:
        """A piece.

        Raises:
            BookError: as `text`.
            PieceFileError: when a newer program wrote it.
        """
        rows = self._rows("SELECT sum FROM piece WHERE id = ?", (piece_id,))
        known = self._pieces.get(piece_id)
        if known is None or not rows or known[0] != rows[0][0]:
            known = rows[0][0] if rows else 0, piece_from_text(self.text(piece_id), source=str(self.path))
            self._pieces[piece_id] = known
            if len(self._pieces) > _REMEMBERED:
                del self._pieces[next(iter(self._pieces))]
        return known[1]  # the very same again: what was reckoned of it stays with it

    def history(self, piece_id: str) -> History:
        """The steps of a piece, their pieces unread."""
        rows = self._rows("SELECT serial, title, focus, before, after FROM step WHERE piece = ? ORDER BY serial", (piece_id,))
        at = self._rows("SELECT at FROM piece WHERE id = ?", (piece_id,))
        steps = tuple(PastStep(serial, StoredEdit(title, focus, _reader(before, after, self.path)))
                      for serial, title, focus, before, after in rows)  # fmt: skip
        return History(steps, min(int(at[0][0]), len(steps)) if at else 0)

    def put_piece(self, piece_id: str, piece: Piece, history: History | None = None, *, when: float | None = None) -> None:
        """Keep a piece as it is now, with its steps where they are given; what is known of it besides stays."""
        self.put_body(piece_id, piece, history, when=when)
        self.describe(piece_id, piece)

    def put_body(self, piece_id: str, piece: Piece, history: History | None = None, *, when: float | None = None) -> None:
        """Keep a piece without what follows from it: its outline and the words it is found by stay as they were until `describe`."""
        now = time.time() if when is None else when
        body = piece_to_text(piece)
        self._run(
            "INSERT INTO piece (id, name, body, sum, words, outline, tags, state, parent, at, made, changed, seal) "
            "VALUES (?, ?, ?, ?, '', '', '', 'kept', '', 0, ?, ?, ?) "
            "ON CONFLICT (id) DO UPDATE SET name = excluded.name, body = excluded.body, sum = excluded.sum, changed = excluded.changed",
            piece_id, piece.name, body, sum_of(body), now, now, _seal("", "kept", ""),
        )  # fmt: skip
        if history is not None:
            self._put_history(piece_id, history)

    def describe(self, piece_id: str, piece: Piece | None = None) -> None:
        """Make a piece's outline and words anew: what the wall shows of it, and nothing that would be missed.

        A piece whose outline can't be drawn hangs there without one.
        """
        rows = self._rows("SELECT tags, sum FROM piece WHERE id = ?", (piece_id,))
        if not rows:
            return
        piece = self.piece(piece_id) if piece is None else piece
        tags, total = rows[0]
        try:
            outline = json.dumps([np.rint(p * 10).astype(int).ravel().tolist() for p in silhouette(piece)], separators=(",", ":"))
            trouble = ""
        except Exception as error:  # drawing is a large machine: whatever fails in it costs a picture, not the piece
            outline, trouble = "", f"it can't be drawn ({type(error).__name__})"
        self._run(
            "UPDATE piece SET words = ?, outline = ?, drawn = ?, wide = ?, tall = ?, trouble = CASE WHEN ? = '' THEN trouble ELSE ? END WHERE id = ?",
            piece_words(piece, tags.split("\n")), outline, total, side_of(outline, 0), side_of(outline, 1), trouble, trouble, piece_id,
        )  # fmt: skip

    def undescribed(self) -> tuple[str, ...]:
        """Pieces whose outline and words are not those of what they are now, as a kill may leave them."""
        return tuple(str(row[0]) for row in self._rows("SELECT id FROM piece WHERE drawn != sum"))

    def troubled(self) -> tuple[str, ...]:
        """Pieces that could not be reckoned when it was last tried."""
        return tuple(str(row[0]) for row in self._rows("SELECT id FROM piece WHERE trouble != ''"))

    def put_trouble(self, piece_id: str, words: str) -> None:
        """Remember why a piece can't be reckoned, or that it can."""
        self._run("UPDATE piece SET trouble = ? WHERE id = ?", clean(words), piece_id)

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
        tidy = tuple(dict.fromkeys(" ".join(clean(t).split()) for t in tags if t.strip()))
        self._run("UPDATE piece SET tags = ? WHERE id = ?", "\n".join(tidy), piece_id)
        self._reseal(piece_id)
        self._run("UPDATE piece SET words = ? WHERE id = ?", piece_words(self.piece(piece_id), tidy), piece_id)

    def _reseal(self, piece_id: str) -> None:
        for row in self._rows("SELECT tags, state, parent FROM piece WHERE id = ?", (piece_id,)):
            self._run("UPDATE piece SET seal = ? WHERE id = ?", _seal(*row), piece_id)

    def put_state(self, piece_id: str, state: str) -> None:
        """Keep, archive or trash a piece; nothing else of it changes."""
        if state not in STATES:
            raise ValueError(state)
        self._run("UPDATE piece SET state = ? WHERE id = ?", state, piece_id)
        self._reseal(piece_id)

    def put_parent(self, piece_id: str, parent: str) -> None:
        """Remember which piece this one is a variant of."""
        self._run("UPDATE piece SET parent = ? WHERE id = ?", parent, piece_id)
        self._reseal(piece_id)

    def remove_piece(self, piece_id: str) -> None:
        """Take a piece out for good, with its steps, revisions and photos."""
        self._run("DELETE FROM piece WHERE id = ?", piece_id)

    def forget_piece(self, piece_id: str) -> bool:
        """Take out a piece that was only begun; whether it is gone. One with a named state, a photo, a tag or a state of its own stays."""
        self._run(
            "DELETE FROM piece WHERE id = ? AND tags = '' AND state = 'kept' "
            "AND NOT EXISTS (SELECT 1 FROM revision WHERE revision.piece = piece.id) AND NOT EXISTS (SELECT 1 FROM photo WHERE photo.piece = piece.id)",
            piece_id,
        )
        return not self._rows("SELECT 1 FROM piece WHERE id = ?", (piece_id,))

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
        body, name = piece_to_text(piece), clean(name)
        made = time.time() if when is None else when
        self._run("INSERT OR REPLACE INTO revision VALUES (?, ?, ?, ?, ?, ?)", revision_id, piece_id, name, body, sum_of(body), made)

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
        if not rows or _damage(rows[0][5], rows[0][7]):
            raise BookError(str(self.path), "this photo is damaged or gone", "Restore it from a backup.")
        return Photo(*rows[0][:7])

    def put_photo(self, photo: Photo) -> None:
        """Keep a photo."""
        p = photo
        self._run("INSERT OR REPLACE INTO photo VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?)",
                  p.id, p.piece, clean(p.name), p.width, p.height, p.data, p.thumb, sum_of(p.data), time.time())  # fmt: skip

    def remove_photo(self, photo_id: str) -> None:
        """Take a photo out."""
        self._run("DELETE FROM photo WHERE id = ?", photo_id)

    # --- records

    def records(self, cls: type[_R]) -> dict[str, _R]:
        """All records of a class by id, in the order they were made; those that can't be read are left to `check`."""
        return self._found(cls, self._rows("SELECT id, sum FROM record WHERE kind = ? ORDER BY made, id", (kind_of(cls),)))

    def record(self, cls: type[_R], record_id: str) -> _R | None:
        """One of them; None where there is none, or none that can be read."""
        return self._found(cls, self._rows("SELECT id, sum FROM record WHERE kind = ? AND id = ?", (kind_of(cls), record_id))).get(
            record_id
        )

    def records_of(self, cls: type[_R], owner: str) -> dict[str, _R]:
        """Those that belong to something, such as the entries of the log that speak of one piece."""
        rows = self._rows("SELECT id, sum FROM record WHERE kind = ? AND owner = ? ORDER BY made, id", (kind_of(cls), owner))
        return self._found(cls, rows)

    def latest(self, cls: type[_R], most: int, portion: int = 100) -> Iterator[dict[str, _R]]:
        """The last so many, oldest first, in portions: a long log is read between other things."""
        rows = self._rows("SELECT id, sum FROM record WHERE kind = ? ORDER BY made DESC, id DESC LIMIT ?", (kind_of(cls), most))[::-1]
        for first in range(0, len(rows), portion):
            yield self._found(cls, rows[first : first + portion])

    def _found(self, cls: type[_R], rows: list[Any]) -> dict[str, _R]:
        """Records by id; a body that has been read before is not read again while its sum is the same."""
        known, kind = self._parsed, kind_of(cls)
        fresh = [i for i, total in rows if (kind, i) not in known or known[kind, i][0] != total]
        for first in range(0, len(fresh), _MANY):
            some = fresh[first : first + _MANY]
            marks = ", ".join("?" * len(some))
            for identity, body, total in self._rows(f"SELECT id, body, sum FROM record WHERE kind = ? AND id IN ({marks})", (kind, *some)):
                known[kind, identity] = total, None if _damage(body, total) else _record(kind, body)
        found = {i: known[kind, i][1] for i, _total in rows if (kind, i) in known}
        return {i: record for i, record in found.items() if isinstance(record, cls)}

    def put_record(self, record_id: str, record: Record, *, owner: str = "") -> None:
        """Keep a record; one that is there is replaced and keeps its place."""
        body = json.dumps(fields_out(record), ensure_ascii=False)
        owner = record.piece if isinstance(record, LogEntry) else owner
        self._run("INSERT INTO record VALUES (?, ?, ?, ?, ?, ?) ON CONFLICT (kind, id) DO UPDATE SET body = excluded.body, "
                  "sum = excluded.sum, owner = excluded.owner",
                  record_kind(record), record_id, owner, body, sum_of(body), time.time())  # fmt: skip

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
        found += [
            f"{key} of the book: damaged" for key, value, total in self._rows("SELECT key, value, sum FROM fact") if _damage(value, total)
        ]
        found += [f"tags and place of {name!r}: damaged" for name, seal, *row in self._rows("SELECT name, seal, tags, state, parent FROM piece")
                  if _seal(*row) != seal]  # fmt: skip
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
            found += [f"photo {n!r}: damaged" for n, data, total in self._rows("SELECT name, data, sum FROM photo") if _damage(data, total)]
        return tuple(found)

    def count(self) -> int:
        """How many pieces there are, the trash not counted."""
        return int(self._rows("SELECT count(*) FROM piece WHERE state != 'trashed'")[0][0])


def _damage(body: object, total: int) -> str:
    return "" if isinstance(body, (str, bytes)) and sum_of(body) == total else "damaged"


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
