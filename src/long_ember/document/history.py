"""Steps that can be taken back: made while someone works, or read from the book when they are wanted."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from long_ember.document.edits import Edit
from long_ember.features import Piece
from long_ember.frozen import dataclass

__all__ = ["LONGEST", "History", "PastStep", "StoredEdit"]

LONGEST = 300  # steps


@dataclass(frozen=True, slots=True, eq=False)
class StoredEdit:
    """An edit of an earlier session; its pieces are read when it is undone or redone.

    Args:
        title: shown in Undo and Redo.
        focus: id of the feature to look at.
        read: gives the piece before (True) or after (False).
    """

    title: str
    focus: str
    read: Callable[[bool], Piece]
    gesture: str = ""

    @property
    def before(self) -> Piece:
        """The piece as it was."""
        return self.read(True)

    @property
    def after(self) -> Piece:
        """The piece as it became."""
        return self.read(False)


@dataclass(frozen=True, slots=True, eq=False)
class PastStep:
    """An edit with a number that no other step of the piece ever had, so that a store knows what it has.

    Args:
        serial: the number.
        edit: what was done.
    """

    serial: int
    edit: Edit | StoredEdit

    @property
    def title(self) -> str:
        """Shown in Undo and Redo."""
        return self.edit.title

    @property
    def gesture(self) -> str:
        """Steps of one gesture are one."""
        return self.edit.gesture

    def joined(self, earlier: PastStep) -> PastStep | None:
        """As one with the step before; None where the piece is as it was."""
        assert isinstance(self.edit, Edit)  # what an earlier session kept is never joined
        edit = replace(self.edit, before=earlier.edit.before)
        return replace(self, edit=edit) if edit.before != edit.after else None


@dataclass(frozen=True, slots=True, eq=False)
class History:
    """The steps of a piece.

    Args:
        steps: oldest first.
        at: how many of them are done; the rest can be redone.
    """

    steps: tuple[PastStep, ...] = ()
    at: int = 0
