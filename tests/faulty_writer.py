"""Errors injected into every function that runs in the thread that writes a book, one after another, found by tracing."""

import contextlib
import shutil
import sys
import threading
from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path
from types import CodeType, FrameType
from typing import Any
from unittest import mock

from long_ember.errors import EmberError
from long_ember.features import Piece
from long_ember.features.run import Run
from long_ember.storage import Change, Keeper, open_book, writer

HOOK = Piece(name="Hook", features=(Run(id="a", length=100.0),))
_OURS = "/long_ember/"
Spot = tuple[CodeType, str]  # a function, and "call" or "return"


class Injected(Exception):
    """What is injected."""


@contextlib.contextmanager
def traced(spot: Spot | None, seen: set[Spot], after: int) -> Iterator[Callable[[], bool]]:
    """Note what runs in threads begun meanwhile; raise once in one spot, when it was passed `after` times.

    Yields:
        Asks whether the error has been raised.
    """
    left, done = [after], [False]

    def follow(frame: FrameType, event: str, _value: Any) -> Any:
        if _OURS not in frame.f_code.co_filename or event not in ("call", "return"):
            return follow if event == "call" and _OURS in frame.f_code.co_filename else None
        seen.add((frame.f_code, event))
        if spot == (frame.f_code, event) and not done[0]:
            left[0] -= 1
            if left[0] < 0:
                done[0] = True
                raise Injected
        return follow

    threading.settrace(follow)
    try:
        yield lambda: done[0]
    finally:
        threading.settrace(None)  # type: ignore[arg-type]


def session(path: Path, spot: Spot | None, seen: set[Spot], *, after: int = 0) -> list[str]:
    """Edit a book through one error; returns what is wrong with what was kept."""
    faults: list[str] = []
    heard: list[str] = []
    settled: dict[str, str] = {}
    number = [0]

    def counting(book: Any) -> None:
        number[0] += 1  # what is written twice would be two
        book.put_fact("times", str(int(book.fact("times") or 0) + 1))

    with traced(spot, seen, after) as raised, mock.patch("threading.excepthook"):
        keeper = Keeper(writer(path), heard.append)
        for i in range(4):
            keeper.put(Change(f"piece/{i}", lambda book, i=i: book.put_piece(str(i), replace(HOOK, name=str(i))), i))
            keeper.put(Change(f"deed/{i}", counting, i, settled=lambda words, i=i: settled.__setitem__(str(i), words)))
            keeper.put(Change(f"description/{i}", lambda book, i=i: book.describe(str(i)), idle=True))
            keeper.flush(3.0)
            if keeper.unwritten and not keeper.trouble + "".join(keeper.aside):
                faults.append(f"{len(keeper.unwritten)} wait, and nothing is told")
        for i in range(10):
            keeper.put(Change(f"later/{i}", lambda book, i=i: book.put_piece(f"later {i}", replace(HOOK, note=str(i))), i))
        if not keeper.flush(5.0) and not keeper.flush(5.0):
            faults.append(f"not flushed: {keeper.trouble} {keeper.aside}")
        if spot is None or raised():
            killed = path.with_name("killed.ember")
            for end in ("", "-wal"):
                if path.with_name(path.name + end).exists():
                    shutil.copy(path.with_name(path.name + end), killed.with_name(killed.name + end))
            faults += wrong(killed, "after a kill")
        if not keeper.close():
            faults.append("not closed")
    faults += wrong(path, "at the end")
    if settled != dict.fromkeys("0123", ""):
        faults.append(f"settled: {settled}")
    if heard and heard[-1]:
        faults.append(f"the last word was {heard[-1]!r}")
    return faults


def wrong(path: Path, when: str) -> list[str]:
    """What a book lacks of what was done, or has too much of."""
    try:
        opened = open_book(path)
        book = opened.reader()
    except EmberError as error:
        return [f"{when}: {error}"]
    names, times = {e.id for e in book.entries()}, book.fact("times")
    opened.close()
    wanted = {*"0123", *(f"later {i}" for i in range(10))}
    return [f"{when}: {sorted(wanted ^ names)} are wrong"] * (names != wanted) + [f"{when}: {times} deeds instead of 4"] * (times != "4")


def spots(folder: Path) -> list[Spot]:
    """All functions of ours that run in the thread, with errors of the disk and without."""
    seen: set[Spot] = set()
    session(folder / "found.ember", None, seen)

    def fails(times: list[int], kind: type[Exception]) -> Callable[[Any], None]:
        def run(_book: Any) -> None:
            times[0] -= 1
            if times[0] >= 0:
                raise kind("disk I/O error")

        return run

    with traced(None, seen, 0), mock.patch("threading.excepthook"):
        keeper = Keeper(writer(folder / "failing.ember"))
        for kind in (OSError, ValueError):
            keeper.put(Change(kind.__name__, fails([1], kind)))
            keeper.flush(2.0)
            keeper.flush(2.0)
        keeper.close()
    return sorted(seen, key=lambda s: (s[0].co_filename, s[0].co_firstlineno, s[1]))


def every_spot(folder: Path, *, step: int = 1) -> tuple[int, list[str]]:
    """Inject into each; returns how many were tried, and the faults."""
    faults, tried = [], 0
    with mock.patch("long_ember.storage.keeper._AGAIN", 0.03):
        found = spots(folder)
        for i, (code, event) in enumerate(found[::step]):
            for after in (0, 2):
                tried += 1
                told = session(folder / f"{i}-{after}.ember", (code, event), set(), after=after)
                faults += [f"{code.co_qualname} at its {event} {after}: {fault}" for fault in told]
    return tried, faults


if __name__ == "__main__":
    import tempfile

    with tempfile.TemporaryDirectory() as name:
        number, found_faults = every_spot(Path(name))
    print(number, *found_faults, sep="\n")
    sys.exit(bool(found_faults))
