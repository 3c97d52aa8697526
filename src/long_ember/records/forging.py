"""A piece, or a batch of them, that is being forged: where each iron stands, what was counted and measured so far."""

from __future__ import annotations

from long_ember import fields
from long_ember.fields import check_fields
from long_ember.frozen import dataclass
from long_ember.records.log import Reject, Sized

__all__ = ["PHASES", "Forging", "Iron"]

PHASES = (
    ("wait", "waits for room in the fire"), ("fire", "in the fire"), ("anvil", "at the anvil"), ("do", "at the bench"), ("done", "done"),
)  # fmt: skip
_LATE = 1e11  # s since 1970; far beyond any clock


@dataclass(frozen=True, kw_only=True)
class Iron:
    """One piece that is being made.

    Args:
        number: which of the batch, from 1.
        frame: step of its sequence, from 0.
        phase: where it is.
        since: s since 1970.
        heats: times out of the fire so far.
    """

    number: int = fields.count("Which", 1, high=10000)
    frame: int = fields.count("Step", 0, low=0, high=10000)
    phase: str = fields.choice("It is", "do", *PHASES)
    since: float = fields.number("Since", 0.0, low=0.0, high=_LATE, unit="s")
    heats: int = fields.count("Heats", 0, low=0, high=10000)

    def __post_init__(self) -> None:
        check_fields(self)


@dataclass(frozen=True, kw_only=True)
class Forging:
    """What is at the anvil now; kept at every step, so that it goes on tomorrow where it stood.

    Args:
        piece: id in the book.
        name: what it was called.
        text: the piece as it was when the forging began: a plan that changes meanwhile is asked about.
        wanted: pieces to make.
        irons: bars in the fire at once.
        rhythm: piece by piece, or stage by stage.
        open: the pieces that are begun, and those that wait for it.
        active: index of the one in hand.
        good: finished.
        rejects: given up, with the cause.
        sizes: measured on the way.
        spent: s at fire and anvil, pauses left out.
        heats: times out of the fire, of the pieces that are finished.
        last: s since 1970 of the last step.
        paused: nobody works on it now.
    """

    piece: str = fields.record("Piece", "piece")
    name: str = fields.text("Name")
    text: str = fields.text("As it was planned")
    wanted: int = fields.count("Wanted", 1, high=10000)
    irons: int = fields.count("Irons in the fire", 1, high=12)
    rhythm: str = fields.choice("A batch goes", "piece", ("piece", "piece by piece"), ("stage", "stage by stage"))
    open: tuple[Iron, ...] = fields.rows("Pieces begun", Iron)
    active: int = fields.count("In hand", 0, low=0, high=10000)
    good: int = fields.count("Good ones", 0, low=0, high=10000)
    rejects: tuple[Reject, ...] = fields.rows("Rejects", Reject)
    sizes: tuple[Sized, ...] = fields.rows("Sizes measured", Sized)
    spent: float = fields.number("At fire and anvil", 0.0, low=0.0, high=1e9, unit="s")
    heats: int = fields.count("Heats of those that are done", 0, low=0, high=1000000)
    last: float = fields.number("Last step", 0.0, low=0.0, high=_LATE, unit="s")
    paused: bool = fields.flag("Paused", False, "at work", "put aside")

    def __post_init__(self) -> None:
        check_fields(self)

    @property
    def over(self) -> bool:
        """Nothing is left to do."""
        return all(iron.phase == "done" for iron in self.open)

    @property
    def made(self) -> int:
        """Pieces that are through, good or not."""
        return self.good + sum(reject.count for reject in self.rejects)
