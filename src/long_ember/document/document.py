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
        tried: it is only tried: nothing is kept of it until it is settled.
    """

    before: Piece
    after: Piece
    first: int
    removed: int
    added: int
    focus: str = ""
    tried: bool = False


class Document:
    """A piece that can be edited, undone and redone; an edit may be tried, as while a size is typed, before it is settled or withdrawn.

    Attributes:
        changed: emits one `PieceChange` for each finished edit, and only if the piece differs.
    """

    def __init__(self, piece: Piece, history: History | None = None) -> None:
        piece.verify()
        self.changed = Signal()
        self._piece = piece
        self._trial: Edit | None = None
        self._take(history or History())

    def _take(self, history: History) -> None:
        self._steps = Steps(LONGEST, history.steps, history.at)
        self._serial = max((step.serial for step in history.steps), default=0)

    @property
    def piece(self) -> Piece:
        """The piece as it is now, with what is tried."""
        return self._trial.after if self._trial is not None else self._piece

    @property
    def settled(self) -> Piece:
        """The piece without what is tried."""
        return self._piece

    @property
    def trying(self) -> bool:
        """An edit is tried, and neither settled nor withdrawn."""
        return self._trial is not None

    def attempt(self, edit: Edit) -> None:
        """Show what would come of an edit of the settled piece; it takes the place of what was tried before."""
        before = self.piece
        self._trial = edit if edit.after != self._piece else None
        if self.piece != before:
            self.changed.emit(_change(before, self.piece, edit.focus, tried=True))

    def settle(self) -> None:
        """What is tried is a step from now on."""
        if self._trial is not None:
            edit, self._trial = self._trial, None
            self._step(edit)
            self.changed.emit(_change(edit.after, edit.after, edit.focus))

    def withdraw(self) -> None:
        """What is tried is as if it had never been."""
        if self._trial is not None:
            edit, self._trial = self._trial, None
            self.changed.emit(_change(edit.after, self._piece, edit.focus, tried=True))

    @property
    def history(self) -> History:
        """The steps as they are now."""
        return History(self._steps.all, self._steps.at)

    @property
    def drafted(self) -> History:
        """The same with what is tried as one more step: kept while it is typed, for whoever is cut short."""
        if self._trial is None:
            return self.history
        steps = (*self._steps.all[: self._steps.at], PastStep(self._next_serial(), self._trial))[-LONGEST:]
        return History(steps, len(steps))

    @property
    def steps_taken(self) -> tuple[int, int]:
        """How many steps stand, and the number of the latest that was taken: another after anything that was done or taken back."""
        return self._steps.at, self._serial

    @property
    def undo_title(self) -> str:
        """What Undo would take back, "" for nothing."""
        return self._trial.title if self._trial is not None else self._steps.undo_title

    @property
    def redo_title(self) -> str:
        """What Redo would do again, "" for nothing."""
        return self._steps.redo_title

    def apply(self, edit: Edit) -> None:
        """Carry out an edit; edits of one gesture are one step. What is tried is settled first."""
        self.settle()
        if edit.after != self._piece:
            self._step(edit)
            self.changed.emit(_change(edit.before, edit.after, edit.focus))

    def _step(self, edit: Edit) -> None:
        self._serial = self._next_serial()
        self._steps.add(PastStep(self._serial, edit))
        self._piece = edit.after

    def _next_serial(self) -> int:
        return max(self._serial + 1, time.time_ns() // 1000)  # of its own even in a history begun anew

    def end_gesture(self) -> None:
        """The next edit starts a step of its own."""
        self._steps.close()

    def undo(self) -> None:
        """Take the last step back.

        Raises:
            EmberError: the step was kept by an earlier session and can't be read; nothing has changed.
        """
        self.settle()
        step = self._steps.last
        if step is not None:
            before = step.edit.before
            self._steps.back()
            self._show(before, step.edit.focus)

    def redo(self) -> None:
        """Do the next step again; raises like `undo`."""
        self.settle()
        step = self._steps.next
        if step is not None:
            after = step.edit.after
            self._steps.forth()
            self._show(after, step.edit.focus)

    def replace(self, piece: Piece, history: History | None = None) -> None:
        """Open another piece with its own history."""
        piece.verify()
        self.settle()
        self._take(history or History())
        self._show(piece, "")

    def _show(self, piece: Piece, focus: str) -> None:
        before, self._piece = self._piece, piece
        self.changed.emit(_change(before, piece, focus))


def _change(before: Piece, after: Piece, focus: str, *, tried: bool = False) -> PieceChange:
    old, new = before.features, after.features
    first = next((i for i, (a, b) in enumerate(zip(old, new, strict=False)) if a != b), min(len(old), len(new)))
    tail = 0
    while tail < min(len(old), len(new)) - first and old[-1 - tail] == new[-1 - tail]:
        tail += 1
    return PieceChange(before, after, first, len(old) - first - tail, len(new) - first - tail, focus, tried)
