"""Keep every change: a thread that writes what it is given, each batch in one transaction, and tries again while it can't."""

from __future__ import annotations

import contextlib
import sqlite3
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from long_ember.errors import BookError, EmberError
from long_ember.storage.book import Book
from long_ember.storage.database import told, transaction

__all__ = ["Change", "Keeper"]

PATIENCE = 0.25  # s that a change made while typing waits for the next one
_LONGEST = 0.7  # s that it waits at most
_AGAIN = 1.0  # s between attempts while the disk refuses
_SETTLE = 10.0  # s that closing waits for the last attempt


@dataclass(frozen=True)
class Change:
    """Something to write.

    Args:
        key: a later change of the same key takes the place of one that still waits.
        run: writes it.
        value: what it is about, for whoever asks before it is written.
        typed: it is one of many to come: wait a moment.
        alone: not inside a transaction.
    """

    key: str
    run: Callable[[Book], object]
    value: Any = None
    typed: bool = False
    alone: bool = False


class Keeper:
    """The only writer of a book.

    Args:
        connect: opens the book for writing; called in the keeper's thread, again after every failure.
        told: called in that thread after every attempt, with "" when all is on disk, otherwise with what stands in the way.
    """

    def __init__(self, connect: Callable[[], Book], told: Callable[[str], None] = lambda _words: None) -> None:
        self._connect, self._told = connect, told
        self._lock = threading.Condition()
        self._waiting: dict[str, Change] = {}
        self._writing: dict[str, Change] = {}
        self._first = self._last = 0.0
        self._rush = self._closing = False
        self.trouble = ""
        self._thread = threading.Thread(target=self._work, name="keeper", daemon=True)
        self._thread.start()

    def put(self, change: Change) -> None:
        """Have a change written; returns at once."""
        with self._lock:
            now = time.monotonic()
            if not self._waiting:
                self._first = now
            self._last = now
            self._rush = self._rush or not change.typed
            self._waiting[change.key] = change
            self._lock.notify_all()

    def hurry(self) -> None:
        """Wait no longer for more of the same: what was typed is finished."""
        with self._lock:
            self._rush = True
            self._lock.notify_all()

    def waiting(self, key: str) -> Any:
        """The value of a change that is not on disk yet; None when there is none."""
        with self._lock:
            change = self._waiting.get(key) or self._writing.get(key)
            return None if change is None else change.value

    @property
    def idle(self) -> bool:
        """Nothing waits to be written."""
        with self._lock:
            return not self._waiting

    def flush(self, seconds: float = _SETTLE) -> bool:
        """Wait until everything is on disk; False when that can't be had now."""
        end = time.monotonic() + seconds
        with self._lock:
            self._rush = True
            self._lock.notify_all()
            while self._waiting or self._writing:
                left = end - time.monotonic()
                if left <= 0 or self.trouble:
                    return False
                self._lock.wait(left)
        return True

    def close(self) -> bool:
        """Write what is left and stop; False when something could not be written."""
        done = self.flush()
        with self._lock:
            self._closing = True
            self._lock.notify_all()
        self._thread.join()
        return done

    # --- in the thread

    def _work(self) -> None:
        book: Book | None = None
        while self._wait():
            try:
                book = book or self._connect()
                self._write(book)
                words = ""
            except (sqlite3.Error, OSError, EmberError) as error:
                words = str(error if isinstance(error, EmberError) else told(book.path, error) if book else error)
                if book is not None:
                    with contextlib.suppress(sqlite3.Error):
                        book.close()
                book = None
            self._after(words)
        if book is not None:
            book.close()

    def _wait(self) -> bool:
        """Until there is something to write and its time has come; False to stop."""
        with self._lock:
            while not self._closing:
                if not self._waiting:
                    self._lock.wait()
                    continue
                due = 0.0 if self._rush else min(self._last + PATIENCE, self._first + _LONGEST)
                if self.trouble:
                    due = self._last + _AGAIN
                left = due - time.monotonic()
                if left <= 0:
                    self._writing, self._waiting, self._rush = self._waiting, {}, False
                    return True
                self._lock.wait(left)
            return False

    def _write(self, book: Book) -> None:
        batch = list(self._writing.values())
        for change in batch:
            if change.alone:
                change.run(book)
        with transaction(book.connection):
            for change in batch:
                if not change.alone:
                    self._one(change, book)

    def _one(self, change: Change, book: Book) -> None:
        """One change; what can never be written (its piece was removed meanwhile) does not hold up the others."""
        book.connection.execute("SAVEPOINT one")
        try:
            change.run(book)
        except (sqlite3.IntegrityError, BookError):
            book.connection.execute("ROLLBACK TO one")
        book.connection.execute("RELEASE one")

    def _after(self, words: str) -> None:
        self._told(words)  # first: whoever waits in `flush` finds it told already
        with self._lock:
            if words:  # keep everything; what came meanwhile is newer
                self._waiting = {**self._writing, **self._waiting}
                self._last = time.monotonic()
            self._writing = {}
            self.trouble = words
            self._lock.notify_all()
