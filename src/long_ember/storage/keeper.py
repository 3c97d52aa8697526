"""Keep every change: a thread that writes what it is given, sets aside what can never be written, and tries the rest again."""

from __future__ import annotations

import contextlib
import sqlite3
import threading
import time
from collections.abc import Callable, Iterator, Sequence
from functools import partial
from typing import Any

from long_ember.errors import BookError, EmberError
from long_ember.frozen import dataclass
from long_ember.storage.book import Book
from long_ember.storage.database import book_error, passing, transaction

__all__ = ["Change", "Keeper"]

PATIENCE = 0.08  # s that a change made while typing waits for the next one
_LONGEST = 0.18  # s that it waits at most
_IDLE = 0.5  # s without another change before what can be made again is made, and before what was written is brought into the book itself
_AGAIN = 1.0  # s between attempts while the disk refuses
_LATER = 30.0  # s between attempts with what was set aside
_TRIES = 5  # of one change, while others are written, before it is set aside
_NEVER = 1e18  # s
_SETTLE = 10.0  # s that closing waits for the last attempt


@dataclass(frozen=True, eq=False)
class Change:
    """Something to write.

    Args:
        key: a later change of the same key takes the place of one that still waits.
        run: writes it.
        value: what it is about, for whoever asks before it is written.
        title: what it is about, in words, for the message when it can't be written.
        typed: it is one of many to come: wait a moment.
        alone: not inside a transaction.
        idle: it can be made again from the book: when nothing else is to be written.
        settled: called in the keeper's thread when it is on disk, with "", or when it is set aside, with the reason.
    """

    key: str
    run: Callable[[Book], object]
    value: Any = None
    title: str = "A change"
    typed: bool = False
    alone: bool = False
    idle: bool = False
    settled: Callable[[str], object] | None = None


@dataclass(frozen=True, eq=False)
class _Failure:
    """A change that could not be written.

    Args:
        change: it stays.
        words: why.
        kind: whole (nothing can be written now), single (only this can't be, now), lasting (it never can be).
    """

    change: Change
    words: str
    kind: str


class Keeper:
    """The only writer of a book.

    Args:
        connect: opens the book for writing; called in the keeper's thread, again after every failure.
        tell: called in that thread after every attempt, with "" when all is on disk, otherwise with what stands in the way.

    Attributes:
        trouble: what stands in the way of everything, "" for nothing.
        rounds: how often it has tried to write.
    """

    def __init__(self, connect: Callable[[], Book], tell: Callable[[str], None] = lambda _words: None) -> None:
        self._connect, self._told = connect, tell
        self._lock = threading.Condition()
        self._waiting: dict[str, Change] = {}
        self._writing: dict[str, Change] = {}
        self._idle: dict[str, Change] = {}
        self._aside: dict[str, _Failure] = {}
        self._tries: dict[str, int] = {}
        self._first = self._last = self._failed = self._tried = 0.0
        self.rounds = 0
        self._rush = self._all = self._closing = self._loose = False
        self.trouble = ""
        self._book: Book | None = None
        self._thread = threading.Thread(target=self._work, name="keeper", daemon=True)
        self._thread.start()

    def put(self, change: Change) -> None:
        """Have a change written; returns at once."""
        with self._lock:
            self._last = time.monotonic()
            if change.idle:
                self._idle[change.key] = change
            else:
                if not self._waiting:
                    self._first = self._last
                self._rush = self._rush or not change.typed
                self._waiting[change.key] = change
                self._aside.pop(change.key, None)  # a newer one takes its place
            self._lock.notify_all()

    def hurry(self) -> None:
        """Wait no longer for more of the same: what was typed is finished."""
        with self._lock:
            self._rush = self._rush or bool(self._waiting)
            self._lock.notify_all()

    def waiting(self, key: str) -> Any:
        """The value of a change that is not on disk yet; None when there is none."""
        with self._lock:
            failure = self._aside.get(key)
            change = self._waiting.get(key) or self._writing.get(key) or (failure.change if failure else None)
            return None if change is None else change.value

    @property
    def idle(self) -> bool:
        """Nothing waits to be written."""
        with self._lock:
            return not self._waiting and not self._aside

    @property
    def aside(self) -> tuple[str, ...]:
        """What could not be written though the rest could: what it is, and why."""
        with self._lock:
            return tuple(f"{f.change.title} could not be kept: {f.words}" for f in self._aside.values())

    def flush(self, seconds: float = _SETTLE) -> bool:
        """Wait until everything is on disk; False when that can't be had now."""
        end = time.monotonic() + seconds
        with self._lock:
            self._rush, self._all, rounds = True, bool(self._idle), self.rounds
            self._again(time.monotonic(), whatever=True)
            self._lock.notify_all()
            while self._waiting or self._writing or self._idle:
                left = end - time.monotonic()
                if left <= 0 or (self.trouble and self.rounds > rounds):
                    return False
                self._lock.wait(left)
            return not self._aside

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
        while self._wait():
            batch, failures = tuple(self._writing.values()), list[_Failure]()
            if not batch:
                self._settle()
                continue
            try:
                self._book = self._book or self._connect()
                self._book.still_there()
                for group in _groups(batch):
                    failures += self._written(self._book, group)
            except Exception as error:  # whatever it is: nothing else keeps what was made
                failures = [_Failure(change, _words(self._book, error), "whole") for change in batch]
                if not isinstance(error, EmberError) and not passing(error):
                    _report(error)
            if any(f.kind != "lasting" for f in failures):  # a fresh connection knows nothing of what ailed this one
                self._let_go()
            self._after(batch, failures)
        self._settle()
        self._let_go()

    def _wait(self) -> bool:
        """Until there is something to do and its time has come; False to stop."""
        with self._lock:
            while not self._closing:
                now = time.monotonic()
                self._again(now)
                due = self._due()
                if due <= now:
                    if self._waiting:
                        self._writing, self._waiting = self._waiting, {}
                        self._rush = False
                    else:
                        self._writing, self._idle, self._all = self._idle, {}, False
                    return True
                self._lock.wait(min(due - now, _AGAIN) if self._aside or due < _NEVER else None)
            return False

    def _due(self) -> float:
        """When something is to be done."""
        if self._waiting:
            if self.trouble and not self._rush:
                return self._failed + _AGAIN
            return 0.0 if self._rush else min(self._last + PATIENCE, self._first + _LONGEST)
        if self._idle or self._loose:
            return 0.0 if self._all and self._idle else self._last + _IDLE
        self._rush = False
        return _NEVER

    def _again(self, now: float, *, whatever: bool = False) -> None:
        """What only waits for a better moment is tried again from time to time."""
        single = {k: f.change for k, f in self._aside.items() if f.kind == "single"}
        often = any(self._tries.get(k, 0) < _TRIES for k in single)
        if single and (whatever or now - self._tried > (_AGAIN if often else _LATER)):
            self._tried = now
            self._waiting = {**single, **self._waiting}
            self._aside = {k: f for k, f in self._aside.items() if k not in single}

    def _written(self, book: Book, group: Sequence[Change]) -> list[_Failure]:
        """Write a group in one transaction; where the disk refuses that, each on its own, so that one does not starve the rest."""
        try:
            return self._together(book, group)
        except Exception as error:
            words, works = _words(book, error), _works(book)
            if not works:
                return [_Failure(change, words, "whole") for change in group]
            if len(group) == 1:
                return [_Failure(group[0], words, "single")]
        return [failure for change in group for failure in self._written(book, (change,))]

    def _together(self, book: Book, group: Sequence[Change]) -> list[_Failure]:
        if group[0].alone:
            found = [_tried(group[0], book)]
        else:
            with transaction(book.connection):
                found = [_within(change, book) for change in group]
                serial = book.count_write()
            book.note_write(serial)
        self._loose = True
        return [failure for failure in found if failure is not None]

    def _settle(self) -> None:
        """Bring what was written last into the book itself, so that little ever lies in the file beside it."""
        self._loose = False
        if self._book is not None:
            with contextlib.suppress(sqlite3.Error):  # somebody reads: the next time
                self._book.settle()

    def _let_go(self) -> None:
        if self._book is not None:
            with contextlib.suppress(sqlite3.Error):
                self._book.close()
        self._book = None

    def _after(self, batch: Sequence[Change], failures: Sequence[_Failure]) -> None:
        """Say what came of it; what could not be written stays."""
        failed = {f.change.key: f for f in failures}
        whole = [f for f in failures if f.kind == "whole"]
        with self._lock:
            again = {f.change.key: f.change for f in whole if not f.change.idle}
            self._waiting = {**again, **self._waiting}  # what came meanwhile is newer
            self._idle = {**{f.change.key: f.change for f in whole if f.change.idle}, **self._idle}
            kept = {k: f for k, f in failed.items() if f.kind != "whole" and k not in self._waiting and not f.change.idle}
            self._aside.update(kept)  # what can be made again is not missed
            self._tries = {k: self._tries.get(k, 0) + (k in failed) for k in self._aside}
            if whole:
                self._failed = time.monotonic()
        trouble = whole[0].words if whole else ""
        words = trouble or " ".join(self.aside)
        self._tell(partial(self._told, words))  # first: whoever waits in `flush` finds it told already
        for change in batch:
            failure = failed.get(change.key)
            if change.settled is not None and (failure is None or failure.kind == "lasting"):
                self._tell(partial(change.settled, failure.words if failure else ""))
        with self._lock:
            self._writing, self.trouble = {}, trouble
            self.rounds += 1
            self._lock.notify_all()

    def _tell(self, run: Callable[[], object]) -> None:
        try:
            run()
        except Exception as error:  # whoever listens may be gone; the next change is kept all the same
            _report(error)


def _groups(batch: Sequence[Change]) -> Iterator[tuple[Change, ...]]:
    """In order; those that go alone between the others."""
    group: list[Change] = []
    for change in batch:
        if change.alone:
            if group:
                yield tuple(group)
                group = []
            yield (change,)
        else:
            group.append(change)
    if group:
        yield tuple(group)


def _works(book: Book) -> bool:
    """Something small can be written."""
    try:
        with transaction(book.connection):
            book.count_write()
    except (sqlite3.Error, OSError, EmberError):
        return False
    return True


def _within(change: Change, book: Book) -> _Failure | None:
    """Write one inside a transaction; one that fails leaves nothing of it."""
    book.connection.execute("SAVEPOINT one")
    failure = _tried(change, book)
    if failure is not None:
        book.connection.execute("ROLLBACK TO one")
    book.connection.execute("RELEASE one")
    return failure


def _tried(change: Change, book: Book) -> _Failure | None:
    """Write one; what is the change's own fault is handed back.

    Raises:
        Exception: the disk or the file refuses.
    """
    try:
        change.run(book)
    except Exception as error:
        if passing(error):
            raise
        if not isinstance(error, (sqlite3.Error, EmberError)):
            _report(error)
        return _Failure(change, _words(book, error), "lasting")
    return None


def _words(book: Book | None, error: BaseException) -> str:
    if isinstance(error, BookError):
        return f"{error.reason}. {error.remedy}".strip()
    if isinstance(error, EmberError):
        return str(error)
    if book is not None and isinstance(error, (sqlite3.Error, OSError)):
        return _words(None, book_error(book.path, error))
    return f"{type(error).__name__}: {error}"


def _report(error: Exception) -> None:
    """An error that nobody expected goes where all of them go, and is not hidden by having been survived."""
    threading.excepthook(threading.ExceptHookArgs((type(error), error, error.__traceback__, threading.current_thread())))
