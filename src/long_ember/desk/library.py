"""The open book for the window: what is in it, what is being written, and what stands in the way."""

from __future__ import annotations

import contextlib
import threading
import time
from collections.abc import Callable, Generator, Iterator, Mapping
from dataclasses import field, replace
from functools import partial
from pathlib import Path
from types import MappingProxyType
from typing import Any, TypeVar

from long_ember.desk.loop import Loop
from long_ember.document import History
from long_ember.errors import EmberError, SaveError, fault_words
from long_ember.features import Piece
from long_ember.frozen import dataclass
from long_ember.learning import RECALLED
from long_ember.records import RECORDS, LogEntry, Record, Shop, kind_of, record_kind
from long_ember.signals import Signal
from long_ember.storage import Backup, Book, Change, Entry, Keeper, Opened, Photo, Revision, back_up, backups, open_book, put_back, writer
from long_ember.storage.copies import HOUR
from long_ember.storage.database import faults, looking
from long_ember.storage.lock import Lock
from long_ember.storage.parcel import Parcel, PieceItem

__all__ = ["BookEdit", "Library", "reopened"]

_R = TypeVar("_R")
_LOOK = 300_000  # ms between looks whether a copy is due
_BLINK = 0.15  # s that the window waits for the keeper
_CATCH_UP = 3.0  # s that reading a piece waits for what was done to it, where the disk is slow
_GESTURE = 3.0  # s between two letters of one entry
_COPYING = 2.0  # s that closing waits for a copy before it is left unfinished
_SOON = 200  # ms without a write before those who show the book are told


@dataclass(frozen=True)
class BookEdit:
    """Something done to the book that can be taken back.

    Args:
        title: shown in Undo and Redo.
        do: writes it.
        undo: writes what was there before.
        records: that it changes, before and after by id, None where there is none: they are shown so even before they are on disk.
        gesture: deeds of one gesture that follow each other closely, as the letters of one entry do, are taken back together; "" for one alone.
        facts: the same as data where it is no record: what, of which piece, before, after; a step of a piece's own history is "piece", its id, its serial.
        serial: a number that no other edit ever had; 0 before it is done.
    """

    title: str
    do: Callable[[Book], object]
    undo: Callable[[Book], object]
    records: Mapping[str, tuple[Record | None, Record | None]] = field(default_factory=dict)
    gesture: str = ""
    facts: tuple[Any, ...] = ()
    serial: int = 0

    def joined(self, earlier: BookEdit) -> BookEdit:
        """As one with the edit before."""
        first = {i: pair[0] for i, pair in earlier.records.items()}
        facts = (*earlier.facts[:3], *self.facts[3:])
        return replace(earlier, do=self.do, facts=facts, records={i: (first.get(i, pair[0]), pair[1]) for i, pair in self.records.items()})


class Library:
    """A book and its keeper. Reading happens here, writing in the keeper's thread.

    Attributes:
        changed: something in the book is different now.
        kept: emits "" when everything is on disk, otherwise what stands in the way.
        closing: the book is about to be put away.
        acted: emits a `BookEdit` that was done, or what it has grown to.
        taken: another book is open.
        copied: emits for which reason (see `Backup`) a copy was made, and "" or what stood in the way.
    """

    def __init__(self, loop: Loop, opened: Opened) -> None:
        self.changed, self.kept, self.closing, self.copied, self.acted, self.taken = (Signal() for _ in range(6))
        self._loop = loop
        self._copier: threading.Thread | None = None
        self._leaving = False
        self._hour = loop.timer(self.back_up_if_old, _LOOK)
        self._later = loop.timer(self.changed.emit, _SOON, once=True)
        self._writes, self._gesture, self._acted, self.deeds = 0, "", 0.0, 0
        self._take(opened)

    def _take(self, opened: Opened) -> None:
        self.opened = opened
        self._entries: dict[str, Entry] | None = None
        self._last: BookEdit | None = None  # done, and a gesture that may still grow
        self._late = False  # something was done to pieces that may not be on disk yet
        self._unwritten: dict[str, tuple[str, Record | None]] = {}  # records that are not on disk yet: their kind, and what they are now
        self._records: dict[str, dict[str, Record]] = {}  # by kind, as they are now; kept up with every deed
        self._shown = 0  # attempts of the keeper that all who show the book know of
        self._log_news: dict[str, Record | None] = {}  # what became of the log while it was read, in portions
        self._log: dict[str, LogEntry] | None = None  # the part of the log that teaches; None while it is not read
        self._marked = set(opened.book.troubled()) if opened.book is not None else set()
        self._lock = opened.lock or Lock(opened.path)
        self._connect = writer(opened.path, self._lock)
        self._keeper = None if opened.read_only else Keeper(self._connect, self._report)
        if self._keeper is not None:
            self._hour.start()
            self.describe_new()

    def change(self, opened: Opened) -> None:
        """Put this book away and show another."""
        self.close()
        self._take(opened)
        self.taken.emit()
        self._stale()

    def restore(self, backup: Backup) -> None:
        """Put a backup in the place of the book.

        Raises:
            SaveError: it could not be, or no copy of the present book could be made; the book is as it was.
            BookError: it can't be opened.
        """
        path, lock = self.path, self.opened.lock
        if self._keeper is None or not self._keeper.flush():
            raise SaveError(str(path), "not everything is on disk yet, and what is not would be lost")
        back_up(self.reader().connection, path, "before-restore")
        self._hour.stop()
        self._join_copier()
        if self._keeper is not None:
            self._keeper.close()
        if self.opened.book is not None:
            self.opened.book.close()
        try:
            put_back(backup.path, path)
        finally:  # the lock is held throughout: no other window may come between
            if lock is not None:
                lock.release()
            self._take(reopened(path))
            self.taken.emit()
            self._stale()

    # --- what is known

    @property
    def path(self) -> Path:
        """Of the book."""
        return self.opened.path

    @property
    def read_only(self) -> str:
        """Why nothing is written, "" when it is."""
        return self.opened.read_only

    @property
    def trouble(self) -> str:
        """What stands in the way of keeping, "" for nothing: asked of the keeper itself, not of what it said last."""
        if self._keeper is None:
            return ""
        return self._keeper.trouble or " ".join(self._keeper.aside)

    @property
    def unwritten(self) -> tuple[Change, ...]:
        """Changes that are not on disk yet, oldest first."""
        return self._keeper.unwritten if self._keeper is not None else ()

    def unwritten_parcel(self) -> Parcel:
        """Return the pieces, records and shop that are not on disk yet, as a file that any book can bring in."""
        values = {change.key: change.value for change in self.unwritten}
        pieces = {key.partition("/")[2]: value[0] for key, value in values.items() if key.startswith("piece/") and value}
        records = tuple((i, record) for i, (_kind, record) in self._unwritten.items() if record is not None)
        return Parcel(tuple(PieceItem(i, piece) for i, piece in pieces.items()), records, values.get("fact/shop"))

    @property
    def entries(self) -> tuple[Entry, ...]:
        """All pieces, read once after every change."""
        if self._entries is None:
            self._entries = {e.id: e for e in self.opened.book.entries()} if self.opened.book is not None else {}
        return tuple(self._entries.values())

    def reading(self) -> Generator[None, None, None]:
        """Read in portions what the wall and every list of pieces show, before somebody asks for it and waits."""
        if self._entries is None and self.opened.book is not None:
            with contextlib.suppress(EmberError):  # told when it is asked for
                yield from self.opened.book.reading_entries()

    def entry(self, piece_id: str) -> Entry | None:
        """One of them; asked for by itself where the others are not known just now."""
        if self._entries is None and self.opened.book is not None:
            return self.opened.book.entry(piece_id)
        return (self._entries or {}).get(piece_id)

    def read(self, piece_id: str) -> tuple[Piece, History]:
        """A piece with its steps, the newest even before it is on disk.

        Raises:
            EmberError: when it can't be read.
        """
        waiting = self._keeper.waiting(f"piece/{piece_id}") if self._keeper is not None else None
        if waiting is not None:
            piece, history = waiting
            return piece, history
        self._caught_up()
        book = self.reader()
        return book.piece(piece_id), book.history(piece_id)

    def piece(self, piece_id: str) -> Piece:
        """A piece without its steps, the newest even before it is on disk.

        Raises:
            EmberError: when it can't be read.
        """
        waiting = self._keeper.waiting(f"piece/{piece_id}") if self._keeper is not None else None
        if waiting is None:
            self._caught_up()
        found: Piece = waiting[0] if waiting is not None else self.reader().piece(piece_id)
        return found

    @property
    def shop(self) -> Shop | None:
        """The shop; None before it has been set up."""
        waiting = self._keeper.waiting("fact/shop") if self._keeper is not None else None
        if isinstance(waiting, Shop):
            return waiting
        return self.opened.book.shop if self.opened.book is not None else None

    def fact(self, key: str) -> str:
        """A fact of the book, the newest even before it is on disk; "" where there is none."""
        waiting = self._keeper.waiting(f"fact/{key}") if self._keeper is not None else None
        if isinstance(waiting, str):
            return waiting
        return self.opened.book.fact(key) if self.opened.book is not None else ""

    def records(self, cls: type[_R]) -> Mapping[str, _R]:
        """All records of a class, the newest even before they are on disk."""
        kind = kind_of(cls)
        found = self._records.get(kind)
        if found is None:
            found = dict[str, Any](self.opened.book.records(RECORDS[kind])) if self.opened.book is not None else {}
            for identity, (own, record) in self._unwritten.items():
                if own == kind:
                    _put(found, identity, record)
            if self._keeper is not None:  # a book that is only looked at may change under somebody else's hands
                self._records[kind] = found
        known: dict[str, Any] = found
        return MappingProxyType(known)

    def log_of(self, piece_id: str) -> dict[str, LogEntry]:
        """What is logged of one piece."""
        book = self.opened.book
        found = dict(book.records_of(LogEntry, piece_id)) if book is not None else {}
        for identity, (own, record) in self._unwritten.items():
            if own == "log" and (record is None or (isinstance(record, LogEntry) and record.piece == piece_id)):
                _put(found, identity, record)
        return {i: e for i, e in found.items() if isinstance(e, LogEntry)}

    def log(self) -> Iterator[tuple[LogEntry, ...] | None]:
        """The part of the log that teaches; None as often as there is more to read, so that other things can be done between."""
        if self._log is None:
            found: dict[str, Record] = {}
            self._log_news = {}
            for portion in self.opened.book.latest(LogEntry, RECALLED) if self.opened.book is not None else ():
                found.update(portion)
                yield None
            for identity, (own, record) in self._unwritten.items():
                if own == "log":
                    _put(found, identity, record)
            for identity, record in self._log_news.items():  # written meanwhile, after its portion was read
                _put(found, identity, record)
            self._log = {i: e for i, e in found.items() if isinstance(e, LogEntry)}
        yield tuple(self._log.values())

    def _forget(self) -> None:
        """Ask for all records anew."""
        self._records.clear()
        self._log = None

    def _note(self, records: Mapping[str, tuple[Record | None, Record | None]], at: int) -> None:
        """What a deed changes is so from now on, whether it is on disk yet or not."""
        for identity, pair in records.items():
            known = pair[0] or pair[1]
            assert known is not None
            kind, record = record_kind(known), pair[at]
            self._unwritten[identity] = (kind, record)
            if kind in self._records:
                self._records[kind] = dict(self._records[kind])  # whoever holds the old one goes on seeing what was
                _put(self._records[kind], identity, record)
            if kind == "log":
                self._log_news[identity] = record
                if self._log is not None:
                    _put(self._log, identity, record if isinstance(record, LogEntry) else None)

    def revisions(self, piece_id: str) -> tuple[Revision, ...]:
        """Named states of a piece."""
        self._caught_up()
        return self.opened.book.revisions(piece_id) if self.opened.book is not None else ()

    def photos(self, piece_id: str) -> tuple[Photo, ...]:
        """Small photos of a piece."""
        self._caught_up()
        return self.opened.book.photos(piece_id) if self.opened.book is not None else ()

    def reader(self) -> Book:
        """The book to read from.

        Raises:
            BookError: there is none now.
        """
        return self.opened.reader()

    # --- writing

    def keep(self, piece_id: str, piece: Piece, history: History) -> None:
        """Have a piece kept as it is now: at once, or a moment later while one entry is being typed."""
        gesture = history.steps[history.at - 1].edit.gesture if history.at else ""
        typed, self._gesture = bool(gesture) and gesture == self._gesture, gesture
        run: Callable[[Book], object] = lambda book: book.put_body(piece_id, piece, history)  # noqa: E731
        self._put(Change(f"piece/{piece_id}", run, (piece, history), f"The piece {piece.name!r}", typed=typed))
        self._describe(piece_id, piece)

    def forget(self, piece_id: str, piece: Piece) -> None:
        """Have a piece that was only begun taken out again; where anything else is kept with it, it stays as it is."""

        def run(book: Book) -> None:
            if not book.forget_piece(piece_id):
                book.put_body(piece_id, piece, History((), 0))

        self._put(Change(f"piece/{piece_id}", run, (piece, History((), 0)), f"The piece {piece.name!r}"))

    def _describe(self, piece_id: str, piece: Piece | None = None) -> None:
        """Have its outline and the words it is found by made anew, when the keeper has nothing better to do."""
        if self._keeper is not None:
            self._keeper.put(Change(f"description/{piece_id}", lambda book: book.describe(piece_id, piece), idle=True))

    def describe_new(self) -> None:
        """Have outline and words made of pieces that came without them."""
        if self.opened.book is not None:
            for identity in self.opened.book.undescribed():
                self._describe(identity)

    def mark(self, piece_id: str, words: str) -> None:
        """Remember why a piece can't be reckoned; "" when it can."""
        if words or piece_id in self._marked:
            (self._marked.add if words else self._marked.discard)(piece_id)
            self._put(Change(f"trouble/{piece_id}", lambda book: book.put_trouble(piece_id, words), typed=True))

    def hurry(self) -> None:
        """What was typed is finished: write it now."""
        if self._keeper is not None:
            self._keeper.hurry()

    def put_shop(self, shop: Shop) -> None:
        """Have the shop kept."""
        self._put(Change("fact/shop", lambda book: book.put_shop(shop), shop, "The shop", typed=True))

    def put_fact(self, key: str, value: str) -> None:
        """Have a fact kept."""
        self._put(Change(f"fact/{key}", lambda book: book.put_fact(key, value), value, typed=True))

    def put_later(self, key: str, make: Callable[[], str]) -> None:
        """Have a fact kept that is no more than a convenience: it is made in the keeper's thread, when that has nothing else to do."""
        if self._keeper is not None:
            self._keeper.put(Change(f"fact/{key}", lambda book: book.put_fact(key, make()), idle=True))

    def _put(self, change: Change) -> None:
        if self._keeper is not None:
            self._writes += 1
            self._keeper.put(change)

    def act(self, edit: BookEdit) -> bool:
        """Do something to the book that can be taken back; False, with the reason told, when nothing is written here."""
        if not self._run(edit.do, edit.records, 1, edit.title):
            return False
        now, last = time.monotonic(), self._last
        grown = last is not None and last.gesture == edit.gesture != "" and now - self._acted < _GESTURE
        self._last = edit.joined(last) if last is not None and grown else replace(edit, serial=time.time_ns() // 1000)
        self._acted = now
        self.acted.emit(self._last)
        return True

    def carry_out(self, edit: BookEdit, at: int) -> bool:
        """Take an edit back (0) or do it again (1); False, with the reason told, when nothing is written here."""
        self._last = None
        return self._run(edit.do if at else edit.undo, edit.records, at, edit.title)

    def write(
        self, run: Callable[[Book], object], title: str = "A change", done: Callable[[str], object] | None = None, *, alone: bool = False
    ) -> bool:
        """Do something to the book for good.

        Args:
            run: does it.
            title: what it is about.
            done: called when it is on disk, with "", or when it can't be written, with the reason.
            alone: it has transactions of its own.
        """
        return self._run(run, title=title, done=done, alone=alone)

    def _run(
        self, run: Callable[[Book], object], records: Mapping[str, tuple[Record | None, Record | None]] | None = None, at: int = 1,
        title: str = "A change", done: Callable[[str], object] | None = None, *, alone: bool = False,
    ) -> bool:  # fmt: skip
        if self._keeper is None:
            self.kept.emit(self.read_only)
            return False
        self._writes += 1
        self.deeds += 1
        settled = None if done is None else partial(self._loop.post, done)
        self._keeper.put(Change(f"deed/{self._writes}", run, title=title, alone=alone, settled=settled))
        self._note(records or {}, at)
        if alone:  # it may change anything
            self._forget()
        # Milliseconds, unless the disk is slow or refuses; then it waits with everything else. Records are known as they are now anyhow.
        if not records:
            self._late = not self._keeper.flush(_BLINK)
            if not self._late:
                self._unwritten.clear()
                self._shown = self._keeper.rounds
        self._stale()
        return True

    def _caught_up(self) -> None:
        """What was done to pieces, states and photos is waited for before any is read: on a slow disk it is not there yet."""
        if self._late and self._keeper is not None:
            self._late = not self._keeper.flush(_CATCH_UP)

    def flush(self) -> bool:
        """Wait until everything is on disk; False when that can't be had now."""
        return self._keeper is None or self._keeper.flush()

    # --- backups

    def backups(self) -> tuple[Backup, ...]:
        """Copies of the book, newest first."""
        return backups(self.path)

    def back_up(self, why: str = "by-hand") -> None:
        """Have a copy made, after what was done so far and beside what is done meanwhile; `copied` tells what came of it."""
        if self._keeper is None or (self._copier is not None and self._copier.is_alive()):
            return
        self._copier = threading.Thread(target=self._copy, args=(self._keeper, why), name="copier", daemon=True)
        self._copier.start()

    def _copy(self, keeper: Keeper, why: str) -> None:
        """In a thread of its own, on a connection of its own: nobody who writes waits for it."""
        words = ""
        try:
            keeper.flush()
            with contextlib.closing(looking(self.path)) as connection, faults(self.path):
                connection.execute("BEGIN")  # the book as it is at this moment, whatever is written meanwhile
                back_up(connection, self.path, why, go_on=lambda: not self._leaving)
        except EmberError as error:
            words = str(error)
        except Exception as error:
            words = fault_words(error)
            raise
        finally:
            self._loop.post(self.copied.emit, why, words)

    def _join_copier(self) -> None:
        if self._copier is not None:
            self._copier.join(_COPYING)
            self._leaving = True
            self._copier.join()
        self._copier, self._leaving = None, False

    def back_up_if_old(self) -> None:
        """A rolling copy, when the last one is an hour old and the book has changed since."""
        newest = next((b for b in self.backups() if b.why == "rolling"), None)
        changed = max((e.changed for e in self.entries), default=0.0)
        made = 0.0 if newest is None or newest.odd else newest.made
        if abs(time.time() - made) >= HOUR and (changed > made or self._writes):
            self._writes = 0
            self.back_up("rolling")

    # --- in and out

    def _report(self, words: str) -> None:
        # From the keeper's thread into the window's, with the number of the attempt that it speaks of.
        self._loop.post(self._after, words, self._keeper.rounds + 1 if self._keeper is not None else 0)

    def _after(self, words: str, attempt: int) -> None:
        if not words and self.opened.book is None:
            with contextlib.suppress(EmberError):
                self.opened.book = self._connect()
        if words:  # something may never come to be
            self._forget()
        if not words and self._keeper is not None and self._keeper.idle:
            self._unwritten.clear()
            self._late = False
        self.kept.emit(words)
        if attempt <= self._shown and not words:
            return  # what was written is shown already
        self._entries = None
        self._later.start()  # when the hands rest: whoever shows the book has much to do

    def _stale(self) -> None:
        self._entries = None
        self.changed.emit()

    def close(self) -> bool:
        """Write what is left and let the book go; False when something could not be written."""
        self.closing.emit()
        self._hour.stop()
        self._later.stop()
        done = self._keeper.close() if self._keeper is not None else True
        self._join_copier()
        self.opened.close()
        self._lock.release()
        return done


def _put(found: dict[str, Any], identity: str, record: Record | None) -> None:
    """One record as it is now; None takes it out."""
    if record is not None:
        found[identity] = record
    else:
        found.pop(identity, None)


def reopened(path: Path) -> Opened:
    """Open a book; what can't be opened at all is shown empty, and nothing is written to it."""
    try:
        return open_book(path)
    except EmberError as error:
        return Opened(path, None, read_only=f"{error} Nothing is kept until another book is opened.", notices=[str(error)])
