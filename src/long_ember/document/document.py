"""The open piece with its history: the one place that emits changes."""

from __future__ import annotations

import time

from long_ember.document.edits import Edit
from long_ember.document.history import LONGEST, History, PastStep
from long_ember.document.steps import Steps
from long_ember.features import Piece
from long_ember.frozen import dataclass
from long_ember.signals import Signal

__all__ = ["Document", "PieceChange"]


@dataclass(frozen=True, slots=True)
class PieceChange:
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
        changed: emits one `PieceChange` for each finished edit, and only if the piece differs.
    """

    def __init__(self, piece: Piece, history: History | None = None) -> None:
        piece.verify()
        self.changed = Signal()
        self._piece = piece
        self._take(history or History())

    def _take(self, history: History) -> None:
        self._steps = Steps(LONGEST, history.steps, history.at)
        self._serial = max((step.serial for step in history.steps), default=0)

    @property
    def piece(self) -> Piece:
        """The piece as it is now."""
        return self._piece

    @property
    def history(self) -> History:
        """The steps as they are now."""
        return History(self._steps.all, self._steps.at)

    @property
    def undo_title(self) -> str:
        """What Undo would take back, "" for nothing."""
        return self._steps.undo_title

    @property
    def redo_title(self) -> str:
        """What Redo would do again, "" for nothing."""
        return self._steps.redo_title

    def apply(self, edit: Edit) -> None:
        """Carry out an edit; edits of one gesture are one step."""
        if edit.after == self._piece:
            return
        self._serial = max(self._serial + 1, time.time_ns() // 1000)  # of its own even in a history begun anew
        self._steps.add(PastStep(self._serial, edit))
        self._show(edit.after, edit.focus)

    def end_gesture(self) -> None:
        """The next edit starts a step of its own."""
        self._steps.close()

    def abandon(self, gesture: str) -> None:
        """Take a gesture back as if it had never begun; nothing is left to redo."""
        step = self._steps.last
        if step is not None and self._steps.in_gesture(gesture):
            self._steps.drop()
            self._show(step.edit.before, step.edit.focus)

    def undo(self) -> None:
        """Take the last step back.

        Raises:
            EmberError: the step was kept by an earlier session and can't be read; nothing has changed.
        """
        step = self._steps.last
        if step is not None:
            before = step.edit.before
            self._steps.back()
            self._show(before, step.edit.focus)

    def redo(self) -> None:
        """Do the next step again; raises like `undo`."""
        step = self._steps.next
        if step is not None:
            after = step.edit.after
            self._steps.forth()
            self._show(after, step.edit.focus)

    def replace(self, piece: Piece, history: History | None = None) -> None:
        """Open another piece with its own history."""
        piece.verify()
        self._take(history or History())
        self._show(piece, "")

    def _show(self, piece: Piece, focus: str) -> None:
        before, self._piece = self._piece, piece
        self.changed.emit(_change(before, piece, focus))


def _change(before: Piece, after: Piece, focus: str) -> PieceChange:
    old, new = before.features, after.features
    first = next((i for i, (a, b) in enumerate(zip(old, new, strict=False)) if a != b), min(len(old), len(new)))
    tail = 0
    while tail < min(len(old), len(new)) - first and old[-1 - tail] == new[-1 - tail]:
        tail += 1
    return PieceChange(before, after, first, len(old) - first - tail, len(new) - first - tail, focus)
