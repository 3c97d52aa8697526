"""Cut list, simple form: one length, one bought length, first-fit decreasing, integers only."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

from long_ember.errors import NoAnswer
from long_ember.frozen import dataclass

__all__ = ["LATTICE", "CutBar", "CutList", "cut_list", "first_fit"]

LATTICE = 320  # steps a mm: holds 0.1 mm (32) and 1/64 in (127) exactly


@dataclass(frozen=True, slots=True)
class CutBar:
    """One bought bar: the pieces sawn from it, their start marks, and what is left, mm."""

    number: int
    lengths: tuple[float, ...]
    starts: tuple[float, ...]
    remnant: float


@dataclass(frozen=True, slots=True)
class CutList:
    """The plan. Waste is everything bought that is not in a piece, mm.

    Args:
        piece: length of one piece, mm.
        quantity: pieces.
        bar_length: mm.
        kerf: mm.
        end_trim: mm at each end of a bar.
        bars: in order.
    """

    piece: float
    quantity: int
    bar_length: float
    kerf: float
    end_trim: float
    bars: tuple[CutBar, ...]

    @property
    def head(self) -> float:
        """Length lost at each end of a bar before it is used: the trim and its cut, mm."""
        return self.end_trim + self.kerf if self.end_trim else 0.0

    @property
    def bought(self) -> float:
        """Total length bought, mm."""
        return len(self.bars) * self.bar_length

    @property
    def used(self) -> float:
        """Length in pieces, mm."""
        return math.fsum(length for bar in self.bars for length in bar.lengths)

    @property
    def waste(self) -> float:
        """Bought but not in a piece, mm."""
        return self.bought - self.used


def first_fit(weights: Sequence[int], capacity: int) -> list[list[int]]:
    """First-fit decreasing.

    Args:
        weights: of the items, each at most `capacity`.
        capacity: of a bin.

    Returns:
        Item numbers by bin, largest first.
    """
    order = sorted(range(len(weights)), key=lambda i: (-weights[i], i))
    bins: list[list[int]] = []
    room: list[int] = []
    slot, last = 0, -1
    for i in order:
        # Among equal weights the first bin that fits never moves back, so the search goes on where it was.
        slot = slot if weights[i] == last else 0
        last = weights[i]
        while slot < len(room) and room[slot] < last:
            slot += 1
        if slot == len(bins):
            bins.append([])
            room.append(capacity)
        bins[slot].append(i)
        room[slot] -= last
    return bins


def cut_list(length: float, quantity: int, bar_length: float, kerf: float, end_trim: float = 0.0) -> CutList:
    """Cut `quantity` pieces from bought bars.

    Each piece weighs length + kerf; the capacity is the usable bar + kerf, because the last cut is free when
    the piece ends at the bar's end. Pieces and kerf round up to the lattice and bars down, so no bar is overrun.

    Raises:
        NoAnswer: when one piece is longer than a bar.
    """
    plan = CutList(length, quantity, bar_length, kerf, end_trim, ())
    piece, cut = math.ceil(length * LATTICE - 1e-6), math.ceil(kerf * LATTICE - 1e-6)
    usable = math.floor((bar_length - 2 * plan.head) * LATTICE + 1e-6)
    if piece > usable:
        raise NoAnswer("One piece is longer than what a bought bar gives.", "Enter a longer bought bar on the Cut screen.")
    bins = first_fit([piece + cut] * quantity, usable + cut)
    return replace(plan, bars=tuple(_bar(plan, n, len(items)) for n, items in enumerate(bins, 1)))


def _bar(plan: CutList, number: int, pieces: int) -> CutBar:
    starts = tuple(plan.head + i * (plan.piece + plan.kerf) for i in range(pieces))
    left = plan.bar_length - plan.head - starts[-1] - plan.piece - plan.kerf
    return CutBar(number, (plan.piece,) * pieces, starts, max(0.0, left))
