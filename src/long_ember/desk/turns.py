"""Who may work next of all that is put off while somebody types: one at a time, the one that waits before the one that has just had a turn."""

from __future__ import annotations

import time

__all__ = ["PORTION", "Turns"]

PORTION = 0.004  # s of work at a time: with what the window does besides it stays under 8 ms
_SAME_PASS = 0.0008  # s; two turns closer to each other would hold the window as one
_ASKS = 0.05  # s after which whoever no longer asks waits no more


class Turns:
    """A gate that everything put off goes through, whoever keeps its timer."""

    def __init__(self) -> None:
        self._ended, self._last = 0.0, ""
        self._waiting: dict[str, float] = {}

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

    def left(self, who: str) -> None:
        """It wants no turn any more."""
        self._waiting.pop(who, None)
