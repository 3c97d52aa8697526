"""Who may work next of all that is put off while somebody types: one at a time, the one that waits before the one that has just had a turn."""

from __future__ import annotations

import time
import weakref
from collections.abc import Callable, Generator
from typing import Any

from long_ember.desk.loop import Loop
from long_ember.portions import all_portions

__all__ = ["MANY", "PORTION", "Portions", "Turns"]

PORTION = 0.002  # s of work at a time: with what the window does besides it stays under 8 ms
MANY = 16  # features, marks, cards or heats; painting more of them takes longer than a key may, so they follow the answer
_SAME_PASS = 0.0008  # s; two turns closer to each other would hold the window as one
_PAINTED = 0.012  # s within which an answer is painted
_ASKS = 0.05  # s after which whoever no longer asks waits no more


class Turns:
    """A gate that everything put off goes through, whoever keeps its timer."""

    def __init__(self) -> None:
        self._ended, self._last = 0.0, ""
        self._waiting: dict[str, float] = {}
        self._portions: weakref.WeakSet[Portions] = weakref.WeakSet()  # a panel that is closed takes its own along
        self.over = False  # the window is closed: nothing is begun any more

    def take(self, who: str) -> bool:
        """Whether it is `who`'s turn now; if not, ask again in the next pass of the loop."""
        now = time.perf_counter()
        others = any(name != who and now - asked < _ASKS for name, asked in self._waiting.items())
        if now - self._ended < _SAME_PASS or (who == self._last and others):
            self._waiting[who] = now
            return False
        self._waiting.pop(who, None)
        self._last = who
        return True

    def done(self) -> None:
        """The turn is over."""
        self._ended = time.perf_counter()

    def answered(self) -> None:
        """There is another answer: it is painted before anything goes on."""
        self._ended = time.perf_counter() + _PAINTED

    def left(self, who: str) -> None:
        """It wants no turn any more."""
        self._waiting.pop(who, None)

    def join(self, portions: Portions) -> None:
        """Something that takes turns here, as long as there is a window."""
        self._portions.add(portions)

    def rest(self) -> None:
        """Nobody looks any more, for good."""
        self.over = True
        for portions in tuple(self._portions):
            portions.leave()


class Portions:
    """One piece of work that is put off: done in portions between keys, and left when it is no longer wanted.

    Args:
        loop: gives it a clock.
        turns: the gate.
        who: its name at the gate.
    """

    def __init__(self, loop: Loop, turns: Turns, who: str) -> None:
        self._turns, self._who = turns, who
        self._timer = loop.timer(self._go_on, 0)
        self._work: Generator[None, None, Any] | None = None
        self._done: Callable[[Any], object] = _nothing
        turns.join(self)

    def start(self, work: Generator[None, None, Any], done: Callable[[Any], object] | None = None) -> None:
        """Begin another; what was under way is left.

        Args:
            work: yields between its portions.
            done: gets what it returns.
        """
        if self._turns.over:  # a timer of a screen that is closed, and not gone yet
            return
        self._work, self._done = work, done or _nothing
        self._timer.start()

    def begin(self, work: Generator[None, None, Any], at_once: int) -> None:
        """Begin another, whose end is its own: a little of it now, which is all of it where there is little, and the rest in portions.

        Args:
            work: yields between its portions.
            at_once: so many of them are done before this comes back.
        """
        self.leave()
        try:
            for _ in range(at_once):
                next(work)
        except StopIteration:
            return
        self.start(work)

    @property
    def busy(self) -> bool:
        """Something is under way."""
        return self._work is not None

    def follow(self, count: int, done: Callable[[], object]) -> None:
        """Do something small: at once, or when the answer has been painted where it is for many; the last one wanted counts.

        Args:
            count: of what it is done for, see `MANY`.
            done: does it.
        """
        if count > MANY:
            self.start(_pause(), lambda _none: done())
        else:
            self.leave()
            done()

    def finish(self) -> None:
        """All that is left of it now: somebody goes on from what it ends with."""
        work, done = self._work, self._done
        if work is not None:
            self.leave()
            done(all_portions(work))

    def leave(self) -> None:
        """It is not wanted any more."""
        self._timer.stop()
        self._turns.left(self._who)
        self._work = None

    def _go_on(self) -> None:
        work = self._work
        if work is None or not self._turns.take(self._who):
            return
        end = time.perf_counter() + PORTION
        try:
            while time.perf_counter() < end:
                next(work)
        except StopIteration as over:
            self.leave()
            self._done(over.value)
        except Exception:
            self.leave()
            raise
        finally:
            self._turns.done()


def _pause() -> Generator[None, None, None]:
    yield


def _nothing(_found: object) -> None:
    """Nobody waits for it."""
