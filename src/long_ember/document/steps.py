"""What can be taken back, of a piece and of the book alike."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Generic, Protocol, Self, TypeVar

__all__ = ["Steps"]


class _Step(Protocol):
    @property
    def title(self) -> str: ...

    @property
    def gesture(self) -> str: ...

    def joined(self, earlier: Self) -> Self | None: ...


_S = TypeVar("_S", bound=_Step)


class Steps(Generic[_S]):
    """What was done, oldest first, and how much of it stands.

    Args:
        longest: so many are kept.
        steps: done before.
        at: how many of them stand.
    """

    def __init__(self, longest: int, steps: Iterable[_S] = (), at: int = 0) -> None:
        self._longest, self._all, self.at, self._open = longest, list(steps), at, False

    @property
    def all(self) -> tuple[_S, ...]:
        """Every step, those that can be done again last."""
        return tuple(self._all)

    @property
    def last(self) -> _S | None:
        """What would be taken back."""
        return self._all[self.at - 1] if self.at else None

    @property
    def next(self) -> _S | None:
        """What would be done again."""
        return self._all[self.at] if self.at < len(self._all) else None

    @property
    def undo_title(self) -> str:
        """Of the last step, "" for none."""
        return self.last.title if self.last is not None else ""

    @property
    def redo_title(self) -> str:
        """Of the next step, "" for none."""
        return self.next.title if self.next is not None else ""

    def in_gesture(self, gesture: str) -> bool:
        """The last step is of this gesture, and it is not over."""
        return bool(gesture) and self._open and self.last is not None and self.last.gesture == gesture

    def add(self, step: _S) -> None:
        """A step was done: one with the last where both are of one gesture; what could have been done again can't any more."""
        del self._all[self.at :]
        made: _S | None = step
        if self.in_gesture(step.gesture):
            made = step.joined(self._all.pop())  # none where it only took the other back
        if made is not None:
            self._all.append(made)
            del self._all[: -self._longest]
        self.at, self._open = len(self._all), True

    def close(self) -> None:
        """The next step is one of its own."""
        self._open = False

    def back(self) -> None:
        """The last step was taken back."""
        self.at -= 1
        self.close()

    def forth(self) -> None:
        """The next step was done again."""
        self.at += 1
        self.close()
