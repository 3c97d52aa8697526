"""The open piece with its history: the one place that emits changes."""

from __future__ import annotations

import time
import weakref
from collections.abc import Callable
from dataclasses import dataclass, replace

from long_ember.document.edits import Edit
from long_ember.document.history import LONGEST, History, Step
from long_ember.features import Piece

__all__ = ["Change", "Document", "Signal"]


class Signal:
    """Call what has been connected; bound methods are held weakly, so that a closed view is forgotten."""

    def __init__(self) -> None:
        self._slots: list[weakref.WeakMethod[Callable[..., None]]] = []

    def connect(self, slot: Callable[..., None]) -> None:
        """Connect a bound method."""
        self._slots.append(weakref.WeakMethod(slot))

    def emit(self, *args: object) -> None:
        """Call every method whose owner is still alive, in the order they were connected."""
        self._slots = [ref for ref in self._slots if ref() is not None]
        for ref in list(self._slots):
            slot = ref()
            if slot is not None:
                slot(*args)


@dataclass(frozen=True, slots=True)
class Change:
    """What changed, as row ranges of the features.

    Args:
        before: the piece as it was.
        after: the piece as it is.
        first: first row that differs.
        removed: rows of `before` from there that are gone or different.
        added: rows of `after` from there that are new or different.
        focus: id of the feature to look at, "" for no preference.
    """

    before: Piece
    after: Piece
    first: int
    removed: int
    added: int
    focus: str = ""


class Document:
    """A piece that can be edited, undone and redone.

    Attributes:
        changed: emits one `Change` for each finished edit, and only if the piece differs.
    """

    def __init__(self, piece: Piece, history: History | None = None) -> None:
        piece.verify()
        self.changed = Signal()
        self._piece = piece
        self._take(history or History())

    def _take(self, history: History) -> None:
        self._steps, self._at = list(history.steps), history.at
        self._serial = max((step.serial for step in history.steps), default=0)

    @property
    def piece(self) -> Piece:
        """The piece as it is now."""
        return self._piece

    @property
    def history(self) -> History:
        """The steps as they are now."""
        return History(tuple(self._steps), self._at)

    @property
    def undo_title(self) -> str:
        """What Undo would take back, "" for nothing."""
        return self._steps[self._at - 1].edit.title if self._at else ""

    @property
    def redo_title(self) -> str:
        """What Redo would do again, "" for nothing."""
        return self._steps[self._at].edit.title if self._at < len(self._steps) else ""

    def apply(self, edit: Edit) -> None:
        """Carry out an edit; edits of one gesture are one step."""
        if edit.after == self._piece:
            return
        del self._steps[self._at :]
        last = self._steps[-1].edit if self._steps else None
        if last is not None and edit.gesture and last.gesture == edit.gesture:
            edit = replace(edit, before=last.before)
            self._steps.pop()
        if edit.before != edit.after:
            self._push(edit)
        self._at = len(self._steps)
        self._show(edit.after, edit.focus)

    def _push(self, edit: Edit) -> None:
        self._serial = max(self._serial + 1, time.time_ns() // 1000)  # of its own even in a history begun anew
        self._steps.append(Step(self._serial, edit))
        del self._steps[:-LONGEST]

    def end_gesture(self) -> None:
        """The next edit starts a step of its own."""
        last = self._steps[self._at - 1].edit if self._at else None
        if isinstance(last, Edit) and last.gesture:
            self._steps[self._at - 1] = replace(self._steps[self._at - 1], edit=replace(last, gesture=""))

    def abandon(self, gesture: str) -> None:
        """Take a gesture back as if it had never begun; nothing is left to redo."""
        if self._at and self._steps[self._at - 1].edit.gesture == gesture:
            step = self._steps.pop().edit
            self._at -= 1
            self._show(step.before, step.focus)

    def undo(self) -> None:
        """Take the last step back.

        Raises:
            EmberError: the step was kept by an earlier session and can't be read; nothing has changed.
        """
        if self._at:
            self.end_gesture()
            step = self._steps[self._at - 1].edit
            before = step.before
            self._at -= 1
            self._show(before, step.focus)

    def redo(self) -> None:
        """Do the next step again; raises like `undo`."""
        if self._at < len(self._steps):
            step = self._steps[self._at].edit
            after = step.after
            self._at += 1
            self._show(after, step.focus)

    def replace(self, piece: Piece, history: History | None = None) -> None:
        """Open another piece with its own history."""
        piece.verify()
        self._take(history or History())
        self._show(piece, "")

    def _show(self, piece: Piece, focus: str) -> None:
        before, self._piece = self._piece, piece
        self.changed.emit(_change(before, piece, focus))


def _change(before: Piece, after: Piece, focus: str) -> Change:
    old, new = before.features, after.features
    first = next((i for i, (a, b) in enumerate(zip(old, new, strict=False)) if a != b), min(len(old), len(new)))
    tail = 0
    while tail < min(len(old), len(new)) - first and old[-1 - tail] == new[-1 - tail]:
        tail += 1
    return Change(before, after, first, len(old) - first - tail, len(new) - first - tail, focus)
