"""The open piece with its history: the one place that emits changes."""

from __future__ import annotations

import weakref
from collections.abc import Callable
from dataclasses import dataclass, replace

from long_ember.document.edits import Edit
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
        saved: the piece as it last was on disk.
    """

    def __init__(self, piece: Piece) -> None:
        piece.verify()
        self.changed = Signal()
        self.saved = piece
        self._piece = piece
        self._steps: list[Edit] = []
        self._at = 0

    @property
    def piece(self) -> Piece:
        """The piece as it is now."""
        return self._piece

    @property
    def dirty(self) -> bool:
        """There are changes that are not on disk."""
        return self._piece != self.saved

    @property
    def undo_title(self) -> str:
        """What Undo would take back, "" for nothing."""
        return self._steps[self._at - 1].title if self._at else ""

    @property
    def redo_title(self) -> str:
        """What Redo would do again, "" for nothing."""
        return self._steps[self._at].title if self._at < len(self._steps) else ""

    def apply(self, edit: Edit) -> None:
        """Carry out an edit; edits of one gesture are one step."""
        if edit.after == self._piece:
            return
        del self._steps[self._at :]
        last = self._steps[-1] if self._steps else None
        if last is not None and edit.gesture and last.gesture == edit.gesture:
            edit = replace(edit, before=last.before)
            self._steps.pop()
        if edit.before != edit.after:
            self._steps.append(edit)
        self._at = len(self._steps)
        self._show(edit.after, edit.focus)

    def end_gesture(self) -> None:
        """The next edit starts a step of its own."""
        if self._at and self._steps[self._at - 1].gesture:
            self._steps[self._at - 1] = replace(self._steps[self._at - 1], gesture="")

    def abandon(self, gesture: str) -> None:
        """Take a gesture back as if it had never begun; nothing is left to redo."""
        if self._at and self._steps[self._at - 1].gesture == gesture:
            step = self._steps.pop()
            self._at -= 1
            self._show(step.before, step.focus)

    def undo(self) -> None:
        """Take the last step back."""
        if self._at:
            self.end_gesture()
            self._at -= 1
            step = self._steps[self._at]
            self._show(step.before, step.focus)

    def redo(self) -> None:
        """Do the next step again."""
        if self._at < len(self._steps):
            step = self._steps[self._at]
            self._at += 1
            self._show(step.after, step.focus)

    def replace(self, piece: Piece) -> None:
        """Open another piece: a new history."""
        piece.verify()
        self._steps, self._at, self.saved = [], 0, piece
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
