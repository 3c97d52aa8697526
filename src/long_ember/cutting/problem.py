"""What is to be cut from what, in whole numbers: pieces and saw cuts round up, bars round down."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import cached_property, reduce
from operator import mul

import numpy as np

from long_ember.arrays import Index
from long_ember.cutting.plan import LATTICE
from long_ember.errors import EmberError, NoAnswer
from long_ember.frozen import dataclass

__all__ = ["CREDIT", "OFFCUT", "WHOLE", "Bar", "Problem", "Rules", "Supply", "Wanted", "verify"]

_COARSE = 10  # steps a mm where the fine lattice makes the tables too long
_LONGEST = 60_000  # steps of a bar
# Of the cheapest price a length: for a remnant worth keeping, for what is used of an offcut, and of a whole bar on the rack.
CREDIT, OFFCUT, WHOLE = 0.5, 0.1, 0.25
_PENNIES = 1000  # steps of money: prices to a thousandth


@dataclass(frozen=True, slots=True)
class Wanted:
    """Pieces of one length.

    Args:
        name: what they are.
        length: mm.
        quantity: how many.
        held: forged on the bar: it is cut first, and the bar behind it must be long enough to hold.
        loss: mm lost where it is cut off, hot or with another tool; None: the saw cut of the rules.
    """

    name: str
    length: float
    quantity: int
    held: bool = False
    loss: float | None = None


@dataclass(frozen=True, slots=True)
class Supply:
    """Bars of one length.

    Args:
        name: where they come from.
        length: mm.
        price: of one, in the shop's money; 0 for what lies on the rack.
        count: how many there are; None: as many as are bought.
        touch: of what is on the rack, share of the cheapest price that using it counts as: more for whole bars, so that offcuts go first.
    """

    name: str
    length: float
    price: float
    count: int | None = None
    touch: float = OFFCUT


@dataclass(frozen=True, slots=True)
class Rules:
    """How it is cut.

    Args:
        kerf: mm lost in each cut.
        trim: mm cut off each end of a bar first.
        hold: mm of bar that must be left behind pieces forged on it.
        keep: mm; a shorter remnant is waste.
    """

    kerf: float = 2.0
    trim: float = 0.0
    hold: float = 0.0
    keep: float = 150.0


@dataclass(frozen=True, slots=True)
class Bar:
    """One bar of a plan: its supply and how many of each piece, by their numbers."""

    supply: int
    counts: tuple[int, ...]


@dataclass(frozen=True)
class Problem:
    """A cutting problem.

    Args:
        wanted: pieces; a quantity of 0 asks for nothing.
        supplies: bars; a bought one without a price counts by its length.
        rules: of cutting.

    Raises:
        NoAnswer: naming what can't be.
    """

    wanted: tuple[Wanted, ...]
    supplies: tuple[Supply, ...]
    rules: Rules

    def __post_init__(self) -> None:
        for w in self.wanted:
            if not (math.isfinite(w.length) and w.length > 0) or w.quantity < 0 or (w.loss is not None and not 0 <= w.loss < math.inf):
                raise NoAnswer(f"{w.name}: a piece needs a length, and neither its quantity nor its cut can be less than 0.", "Correct it.")
        for s in self.supplies:
            if (
                not (math.isfinite(s.length) and s.length > 0)
                or (s.count is not None and s.count < 0)
                or s.price < 0
                or not 0 <= s.touch < CREDIT
            ):
                raise NoAnswer(f"{s.name}: a bar needs a length, and neither its count nor its price can be less than 0.", "Correct it.")
        rules = (self.rules.kerf, self.rules.trim, self.rules.hold, self.rules.keep)
        if any(not math.isfinite(x) or x < 0 for x in rules):
            raise NoAnswer("Saw cut, trim, hold and least remnant can't be less than 0.", "Correct them.")
        for w, weight, held in zip(self.wanted, self.weights, self.held, strict=True):
            if all(weight > (limit if held else room) for room, limit in zip(self.rooms, self.limits, strict=True)):
                raise NoAnswer(f"{w.name} is longer than any bar gives.", "Add a longer bar, or make it of two.")

    @cached_property
    def step(self) -> float:
        """mm of one unit."""
        fine = [math.ceil(w.length * LATTICE - 1e-6) for w in self.wanted] + [
            math.ceil(x * LATTICE - 1e-6)
            for x in (self.rules.kerf, self.rules.trim, self.rules.hold, *(w.loss for w in self.wanted if w.loss is not None)) if x
        ]  # fmt: skip
        unit = reduce(math.gcd, (*fine, *(math.floor(s.length * LATTICE + 1e-6) for s in self.supplies)), 0) or LATTICE
        if max((s.length for s in self.supplies), default=0.0) * LATTICE / unit <= _LONGEST:
            return unit / LATTICE
        return 1 / _COARSE

    def _up(self, mm: float) -> int:
        return math.ceil(mm / self.step - 1e-6)

    @cached_property
    def kerf(self) -> int:
        """In units."""
        return self._up(self.rules.kerf)

    @cached_property
    def weights(self) -> tuple[int, ...]:
        """Each piece with its cut, in units."""
        return tuple(self._up(w.length) + (self.kerf if w.loss is None else self._up(w.loss)) for w in self.wanted)

    @cached_property
    def held(self) -> tuple[bool, ...]:
        """Forged on the bar."""
        return tuple(w.held for w in self.wanted)

    @cached_property
    def demands(self) -> tuple[int, ...]:
        """How many of each."""
        return tuple(int(w.quantity) for w in self.wanted)

    @cached_property
    def rooms(self) -> tuple[int, ...]:
        """What a bar of each supply holds, in units: its usable length and one cut more, because the last cut is free."""
        head = 2 * (self.rules.trim + self.rules.kerf) if self.rules.trim else 0.0
        return tuple(math.floor((s.length - head) / self.step + 1e-6) + self.kerf for s in self.supplies)

    @cached_property
    def limits(self) -> tuple[int, ...]:
        """The same for pieces forged on the bar: none of their cuts is free, and something to hold is left behind the last of them."""
        return tuple(room - self.kerf - self._up(self.rules.hold) for room in self.rooms)

    @cached_property
    def value(self) -> float:
        """Cheapest money for a unit of bought bar; 1 where nothing has a price."""
        rates = [self.price(i) / s.length * self.step for i, s in enumerate(self.supplies) if s.count is None]
        return min(rates, default=_PENNIES * self.step)

    def price(self, supply: int) -> int:
        """Of one bar, in thousandths; a bought one that has no price counts by its length in mm."""
        s = self.supplies[supply]
        if s.count is not None:
            return round(s.price * _PENNIES)
        priced = any(x.price for x in self.supplies if x.count is None)
        return round((s.price if priced else s.length) * _PENNIES)

    def remnant(self, supply: int, used: int) -> int:
        """Units left when `used` units are cut from a bar."""
        return max(0, self.rooms[supply] - used - self.kerf)

    def costs(self, supply: int) -> Index:
        """Money for one bar by the units cut from it, in thousandths: its price less the credit for a remnant worth keeping.

        Never falls as more is used. An offcut costs a little of what is spent of it, or a plan would earn by touching it.
        """
        return self._costs[supply]

    @cached_property
    def _costs(self) -> tuple[Index, ...]:
        return tuple(self._cost_table(s) for s in range(len(self.supplies)))

    def _cost_table(self, supply: int) -> Index:
        room = max(self.rooms[supply], 0)
        left = np.maximum(room - self.kerf - np.arange(room + 1), 0)
        kept = np.where(left * self.step >= self.rules.keep, left, 0)
        if self.supplies[supply].count is None:
            bought: Index = self.price(supply) - np.floor(CREDIT * self.value * kept).astype(np.int64)
            return bought
        spent = np.maximum(room - self.kerf - kept, 0)
        lying: Index = self.price(supply) + np.ceil(self.supplies[supply].touch * self.value * spent).astype(np.int64)
        return lying

    def cost(self, supply: int, used: int) -> int:
        """Money for one bar of which so many units are cut, in thousandths."""
        return int(self._costs[supply][used])

    def used(self, bar: Bar) -> int:
        """Units cut from a bar."""
        return sum(map(mul, bar.counts, self.weights))

    def total(self, bars: Sequence[Bar]) -> tuple[int, int, int, int]:
        """What a plan is judged by: money in thousandths, bars, ways to cut one (each sets the saw's stop anew), less the largest remnant."""
        used = [(b.supply, self.used(b)) for b in bars]
        money = sum(self.cost(s, u) for s, u in used)
        return money, len(bars), len(set(bars)), -max((self.remnant(s, u) for s, u in used), default=0)


def verify(problem: Problem, bars: Sequence[Bar]) -> None:
    """Look a plan over, independently of how it was made: every piece once, no bar exceeded, no more offcuts than there are.

    Lengths are added up anew in mm.

    Raises:
        EmberError: with what is wrong.
    """
    rules = problem.rules
    for i, wanted in enumerate(problem.wanted):
        made = sum(b.counts[i] for b in bars)
        if made != wanted.quantity:
            raise EmberError(f"{wanted.name}: {made} of {wanted.quantity}")
    for s, supply in enumerate(problem.supplies):
        taken = sum(b.supply == s for b in bars)
        if supply.count is not None and taken > supply.count:
            raise EmberError(f"{supply.name}: {taken} taken, {supply.count} there")
    head = 2 * (rules.trim + rules.kerf) if rules.trim else 0.0
    for bar in bars:
        there = problem.supplies[bar.supply]
        placed = [(n, w, rules.kerf if w.loss is None else w.loss) for n, w in zip(bar.counts, problem.wanted, strict=True) if n]
        length = math.fsum(n * (w.length + loss) for n, w, loss in placed)
        on_bar = math.fsum(n * (w.length + loss) for n, w, loss in placed if w.held)
        last = max(
            (loss for _n, w, loss in placed if not w.held), default=0.0
        )  # the last cut is free, but not behind a piece forged on the bar
        if not placed or length - last + head > there.length + 1e-6:
            raise EmberError(f"{there.name}: {length - last + head:.3f} mm on {there.length:.3f}")
        if on_bar and on_bar + head + rules.hold > there.length + 1e-6:
            raise EmberError(f"{there.name}: nothing left to hold")
