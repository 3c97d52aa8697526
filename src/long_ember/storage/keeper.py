"""Keep every change: a thread that writes what it is given, sets aside what can never be written, and tries the rest again."""

from __future__ import annotations

import contextlib
import sqlite3
import threading
import time
from collections import deque
from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace
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
_PORTION = 20  # of what can be made again, in one transaction
_LOOK = 0.2  # s between looks whether the thread lives, while somebody waits for it
_DIED = "What writes the book has stopped. It is started anew."


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
        kind: whole (nothing can be written now), single (only this can't be, now), odd (nobody expected it: it may
            have been chance), lasting (it never can be).
    """

    change: Change
    words: str
    kind: str


_UNKNOWN = object()  # what came of a change that is being written


class Keeper:
    """The only writer of a book.

    Its thread is supervised: an error anywhere in it is told, what was not committed goes back among
    what waits, and the thread goes on, or is started anew by whoever asks something of it.

    Args:
        connect: opens the book for writing; called in the keeper's thread, again after every failure.
        tell: called in that thread after every attempt, with "" when all is on disk, otherwise with what stands in the way.

    Attributes:
        rounds: how often it has tried to write.
    """

    def __init__(self, connect: Callable[[], Book], tell: Callable[[str], None] = lambda _words: None) -> None:
        self._connect, self._told = connect, tell
        self._lock = threading.Condition()
        self._waiting: dict[str, Change] = {}
        self._writing: dict[str, Change] = {}
        self._outcome: dict[str, _Failure | None] = {}  # of what is being written: None once it is committed
        self._committing: tuple[int, tuple[Change, ...]] | None = None  # number and content of a transaction that may or may not be on disk
        self._calls: deque[Callable[[], object]] = deque()  # who is still to be told
        self._idle: dict[str, Change] = {}
        self._aside: dict[str, _Failure] = {}
        self._tries: dict[str, int] = {}
        self._first = self._last = self._failed = self._tried = 0.0
        self.rounds = 0
        self._rush = self._all = self._closing = self._loose = self._concluding = False
        self._trouble = ""
        self._book: Book | None = None
        self._thread = self._started()

    def _started(self) -> threading.Thread:
        thread = threading.Thread(target=self._live, name="keeper", daemon=True)
        thread.start()
        return thread

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
            self._wake()

    def hurry(self) -> None:
        """Wait no longer for more of the same: what was typed is finished."""
        with self._lock:
            self._rush = self._rush or bool(self._waiting)
            self._wake()

    def _wake(self) -> None:
        """Have the thread look again, a new one where it has died."""
        if not self._thread.is_alive() and not self._closing:
            self._thread = self._started()
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
        return not self.unwritten

    @property
    def unwritten(self) -> tuple[Change, ...]:
        """Changes that are not on disk, oldest first; what can be made again from the book is not among them."""
        with self._lock:
            under_way = {k: c for k, c in self._writing.items() if not c.idle and self._outcome.get(k, _UNKNOWN) is not None}
            return tuple({**{k: f.change for k, f in self._aside.items()}, **under_way, **self._waiting}.values())

    @property
    def trouble(self) -> str:
        """What stands in the way of everything, "" for nothing."""
        with self._lock:
            if not self._trouble and not self._thread.is_alive() and not self._closing and self.unwritten:
                return _DIED
            return self._trouble

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
            self._wake()
            while self._waiting or self._writing or self._idle or self._concluding:
                left = end - time.monotonic()
                if left <= 0 or (self.trouble and self.rounds > rounds):
                    return False
                self._lock.wait(min(left, _LOOK))
                self._wake()
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

    def _live(self) -> None:
        """Work until the end, whatever fails on the way."""
        done = False
        while not done:
            try:
                self._work()
                done = True
            except Exception as error:  # nothing else keeps what was made
                try:
                    done = self._stumbled(error)
                except Exception:  # not even that: go on all the same
                    time.sleep(_AGAIN)
                    done = self._closing
        with contextlib.suppress(Exception):  # where it ended by an error, it still holds the book
            self._let_go()

    def _stumbled(self, error: Exception) -> bool:
        """Tell that what waits is not kept yet, and wait a moment, so that an error that lasts is not met in a circle.

        Returns:
            Whether this was the last attempt.
        """
        with self._lock:
            waits = bool(self._waiting or self._writing or self._aside)
            self._trouble = f"{_words(self._book, error)}. It is tried again." if waits else ""
            self._failed, self._concluding = time.monotonic(), False
            self.rounds += 1
            self._lock.notify_all()
        _report(error)
        self._tell(partial(self._told, self._trouble))
        with self._lock:
            if not self._closing:
                self._lock.wait(_AGAIN)
            return self._closing

    def _work(self) -> None:
        self._recover()
        while self._wait():
            if self._writing:
                self._conclude(self._write())
            else:
                self._settle()
        self._settle()
        self._let_go()

    def _recover(self) -> None:
        """Sort out what an error left under way, and tell whom it kept from hearing."""
        with self._lock:
            self._sort_out()
            clear = bool(self._trouble) and not self._waiting and not self._aside
            if clear:
                self._trouble = ""
        if clear:
            self._calls.appendleft(partial(self._told, ""))
        self._call()

    def _call(self) -> None:
        while self._calls:
            self._tell(self._calls.popleft())

    def _write(self) -> str:
        """Write what was taken up; hands back what stands in the way of all of it, "" for nothing."""
        failures = list[_Failure]()
        try:
            self._book = self._book or self._connect()
            self._book.still_there()
            self._resolve(self._book)
            for group in _groups([c for c in self._writing.values() if c.key not in self._outcome]):
                failures += self._written(self._book, group)
            whole = next((f.words for f in failures if f.kind == "whole"), "")
        except Exception as error:  # whatever it is: nothing else keeps what was made
            whole = _words(self._book, error)
            self._let_go()
            if not isinstance(error, EmberError) and not passing(error):
                _report(error)
        if any(f.kind != "lasting" for f in failures):  # a fresh connection knows nothing of what ailed this one
            self._let_go()
        self._outcome.update((f.change.key, f) for f in failures if f.kind != "whole")
        return whole

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
                        keys = tuple(self._idle)[:_PORTION]  # what is urgent waits for no long row of what is not
                        self._writing = {key: self._idle.pop(key) for key in keys}
                        self._all = self._all and bool(self._idle)
                    return True
                self._lock.wait(min(due - now, _AGAIN) if self._aside or due < _NEVER else None)
            return False

    def _due(self) -> float:
        """When something is to be done."""
        if self._waiting:
            if self._trouble and not self._rush:
                return self._failed + _AGAIN
            return 0.0 if self._rush else min(self._last + PATIENCE, self._first + _LONGEST)
        if self._idle or self._loose:
            return 0.0 if self._all and self._idle else self._last + _IDLE
        self._rush = False
        return _NEVER

    def _again(self, now: float, *, whatever: bool = False) -> None:
        """What only waits for a better moment is tried again from time to time."""
        single = {k: f.change for k, f in self._aside.items() if f.kind != "lasting"}
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
            words = _words(book, error)
            self._resolve(book)
            if not _works(book):
                return [_Failure(change, words, "whole") for change in group]
            left = [change for change in group if change.key not in self._outcome]
            if len(group) == 1 and left:
                return [_Failure(group[0], words, "single")]
        return [failure for change in left for failure in self._written(book, (change,))]

    def _together(self, book: Book, group: Sequence[Change]) -> list[_Failure]:
        self._loose = True
        if group[0].alone:
            failure = _tried(group[0], book)
            if failure is None:
                self._outcome[group[0].key] = None
            return [failure] if failure else []
        with transaction(book.connection):
            found = [_within(change, book) for change in group]
            serial = book.count_write()
            self._committing = serial, tuple(c for c, failure in zip(group, found, strict=True) if failure is None)
        self._committed()
        book.note_write(serial)
        return [failure for failure in found if failure is not None]

    def _committed(self) -> None:
        """The last transaction is on disk."""
        if self._committing is not None:
            self._outcome.update((c.key, None) for c in self._committing[1] if self._writing.get(c.key) is c)
            self._committing = None

    def _resolve(self, book: Book) -> None:
        """Where an error came between a transaction and the word that it is committed, the book knows: nothing is written twice."""
        if self._committing is not None and book.serial >= self._committing[0]:
            self._committed()
        self._committing = None

    def _settle(self) -> None:
        """Bring what was written last into the book itself, so that little ever lies in the file beside it."""
        self._loose = False
        if self._book is not None:
            with contextlib.suppress(sqlite3.Error):  # somebody reads: the next time
                self._book.settle()

    def _let_go(self) -> None:
        book, self._book = self._book, None
        if book is not None:
            with contextlib.suppress(sqlite3.Error):
                book.close()

    def _conclude(self, trouble: str) -> None:
        """Say what came of it; what could not be written stays."""
        with self._lock:
            self._concluding = True
            self._sort_out()
            if trouble:
                self._failed = time.monotonic()
        self._calls.appendleft(partial(self._told, trouble or " ".join(self.aside)))
        self._call()  # first: whoever waits in `flush` finds it told already
        with self._lock:
            self._trouble, self._concluding = trouble, False
            self.rounds += 1
            self._lock.notify_all()

    def _sort_out(self) -> None:
        """Put each change of those under way where it belongs: it is on disk, set aside, or waits again."""
        batch, outcome = self._writing, self._outcome
        again = {k: c for k, c in batch.items() if k not in outcome}
        for key, failure in outcome.items():
            if failure and failure.kind == "odd" and self._tries.get(key, 0) + 1 >= _TRIES:
                outcome[key] = replace(failure, kind="lasting")
        aside = {
            k: f for k, f in outcome.items() if f and k not in self._waiting and not f.change.idle
        }  # what can be made again is not missed
        heard = [(c, outcome[k]) for k, c in batch.items() if k in outcome and c.settled is not None]
        self._calls.extend(partial(c.settled, f.words if f else "") for c, f in heard if c.settled and (f is None or f.kind == "lasting"))
        self._idle = {**{k: c for k, c in again.items() if c.idle}, **self._idle}
        self._waiting = {**{k: c for k, c in again.items() if not c.idle}, **self._waiting}  # what came meanwhile is newer
        self._aside.update(aside)
        self._tries = {k: self._tries.get(k, 0) + (k in aside) for k in (*self._aside, *self._waiting)}
        self._writing, self._outcome = {}, {}

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
        if isinstance(error, (sqlite3.Error, EmberError)):
            return _Failure(change, _words(book, error), "lasting")
        _report(error)
        return _Failure(change, _words(book, error), "odd")
    return None


def _words(book: Book | None, error: BaseException) -> str:
    if isinstance(error, BookError):
        return f"{error.reason}. {error.remedy}".strip()
    if isinstance(error, EmberError):
        return str(error)
    if book is not None and isinstance(error, (sqlite3.Error, OSError)):
        return _words(None, book_error(book.path, error))
    return f"A fault of the program stands in the way ({type(error).__name__}: {error})"


def _report(error: Exception) -> None:
    """An error that nobody expected goes where all of them go, and is not hidden by having been survived."""
    threading.excepthook(threading.ExceptHookArgs((type(error), error, error.__traceback__, threading.current_thread())))
