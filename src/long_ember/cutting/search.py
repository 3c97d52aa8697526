"""Better plans, and a bound that proves how good a plan is.

Column generation (Gilmore and Gomory, 1961, 1963) with Lagrange's bound in whole numbers; branching on how many bars of each supply are cut;
dives that settle bars a few at a time; at last all patterns that a cheaper plan could use, and the integer programme over them. HiGHS solves the
linear and integer programmes.
"""

from __future__ import annotations

import heapq
import math
import random
import time
from collections.abc import Generator, Iterable, Sequence
from dataclasses import replace
from functools import cached_property

import numpy as np

from long_ember.arrays import Array, Index
from long_ember.cutting.fitting import fit
from long_ember.cutting.knapsack import SCALE, Knapsack
from long_ember.cutting.master import CountBox, Master, Relaxed, trimmed
from long_ember.cutting.patterns import patterns
from long_ember.cutting.problem import Bar, Problem, verify
from long_ember.cutting.ties import tidied
from long_ember.cutting.whole import Helper
from long_ember.errors import NoAnswer
from long_ember.frozen import dataclass

__all__ = ["CutPlan", "best_cut", "cutting"]

_ROUNDS = 600
_DEEP, _DEEPEST = 2, 12  # rounds of new patterns between two settled bars of a dive; at most, before a step is taken back
_TURNS = 12  # steps taken back in a dive
_DIVES = 400
_FIRST_DIVES = 2  # on the way from the root to a cell
_LIMIT = 20.0  # s for an integer programme
_NEAR = 1e-6


@dataclass(frozen=True)
class CutPlan:
    """A plan and how good it is.

    Args:
        problem: what was asked.
        bars: the plan.
        bound: money, in thousandths, that no plan goes below; 0 while nothing is known.
    """

    problem: Problem
    bars: tuple[Bar, ...]
    bound: int = 0

    @cached_property
    def money(self) -> int:
        """Of the plan, in thousandths."""
        return self.problem.total(self.bars)[0]

    @property
    def proven(self) -> bool:
        """No plan costs less."""
        return self.money <= self.bound

    @property
    def gap(self) -> float:
        """Share of the money that a better plan could save at most."""
        return 0.0 if self.proven or self.money <= 0 else (self.money - self.bound) / self.money


def best_cut(problem: Problem, seconds: float = 5.0) -> CutPlan:
    """The best plan found in about so many seconds; every one is looked over by `verify` first.

    Raises:
        NoAnswer: when the bars there are do not hold all pieces.
    """
    end, plans = time.monotonic() + seconds, cutting(problem)
    best = next(plans)
    while time.monotonic() < end and (better := next(plans, None)) is not None:
        best = better
    plans.close()
    return best


def cutting(problem: Problem) -> Generator[CutPlan, None, None]:
    """Plans, each at least as good as the one before; the first at once. Whoever stops asking has cancelled the search.

    Raises:
        NoAnswer: when the bars there are do not hold all pieces.
    """
    first = fit(problem)
    verify(problem, first)
    yield CutPlan(problem, first)
    if sum(problem.demands):
        search = _Search(problem, first)
        try:
            yield from search.run()
        finally:
            search.helper.stop()


@dataclass(order=True)
class _Cell:
    """Counts of bars, and the money that no plan with them goes below.

    Args:
        bound: thousandths.
        serial: among equals the oldest first.
        box: counts.
        worth: duals that prove the bound, times `SCALE`.
        gains: by supply, times `SCALE`.
        exact: Σ worth − Σ counts × gains, times `SCALE`; the bound before it was rounded.
        dives: made in it and in the cells it was split from.
        settled: its patterns were listed in vain.
    """

    bound: int
    serial: int
    box: CountBox
    worth: tuple[int, ...] = ()
    gains: tuple[int, ...] = ()
    exact: int = 0
    dives: int = 0
    settled: bool = False


class _Dive:
    """Bars that are settled, and the way back.

    Args:
        rest: how many of each piece are still wanted.
        loose: 0 takes what is surest.
    """

    def __init__(self, rest: Index, loose: int) -> None:
        self.rest, self.loose = rest, loose
        self.settled: dict[int, int] = {}
        self._steps: list[list[tuple[int, int]]] = []  # patterns and how many bars of each, a step at a time
        self._banned: set[int] = set()
        self._turns, self._careful = 0, False

    def bounds(self, master: Master) -> tuple[Array, Array]:
        """What is settled stays; no pattern makes more than is still wanted."""
        low = self._low(len(master.bars))
        fits = master.able(self.rest)
        fits[list(self._banned)] = 0
        return low, low + fits

    def _low(self, number: int) -> Array:
        low = np.zeros(number)
        for k, n in self.settled.items():
            low[k] = n
        return low

    def commit(self, master: Master, solved: Relaxed, draw: random.Random) -> bool:
        """Settle what is whole, and at least one bar; False when no pattern fits any more."""
        share = solved.shares - self._low(len(solved.shares))
        bars = float(share.sum())
        many = 1 if bars < 12 or self._careful else int(bars // 8)
        step: list[tuple[int, int]] = []
        for strict in (bool(self.loose), False):
            for k in np.argsort(-share, kind="stable").tolist():
                sure = share[k] >= 1 - _NEAR
                if share[k] < _NEAR or (len(step) >= many and (not sure or self._careful)):
                    break
                if strict and not sure and draw.random() < 0.3:
                    continue
                counts = np.array(master.bars[k].counts)
                able = int((self.rest[counts > 0] // counts[counts > 0]).min())
                number = min(able, max(1, math.floor(share[k] + _NEAR)))
                if number >= 1:
                    self._settle(master, k, number)
                    step.append((k, number))
            if step:
                break
        self._steps.append(step)
        return bool(step)

    def _settle(self, master: Master, k: int, number: int) -> None:
        self.settled[k] = self.settled.get(k, 0) + number
        self.rest = self.rest - np.array(master.bars[k].counts) * number

    def back(self, master: Master) -> bool:
        """Take the last step back: of several bars only the surest is settled again, a single one is not taken again. False when it is enough."""
        self._turns += 1
        if not self._steps or self._turns > _TURNS:
            return False
        step = self._steps.pop()
        for k, number in step:
            self._settle(master, k, -number)
        if len(step) > 1:
            k, number = step[0]
            self._settle(master, k, number)
            self._steps.append([(k, number)])
        else:
            self._banned.add(step[0][0])
        self._careful = True
        return True


class _Search:
    """One search. Its steps yield a plan every few hundredths of a second, so that it can be left at any time."""

    def __init__(self, problem: Problem, first: Sequence[Bar]) -> None:
        self.problem = problem
        self.bars = tuple(first)
        self.total = problem.total(first)
        self.bound = 0
        self._plan = CutPlan(problem, self.bars)
        self.sack = Knapsack(problem)
        self.master = Master(problem)
        self.master.add(first)
        self.draw = random.Random(1)
        self.serial = 0
        self.helper = Helper()
        # All costs are multiples of it, so a bound may be rounded up to one.
        self.unit = int(np.gcd.reduce([int(np.gcd.reduce(c)) for c in self.sack.costs])) or 1

    @property
    def plan(self) -> CutPlan:
        """The best so far."""
        bound = min(self.bound, self.total[0])
        if self._plan.bars is not self.bars or self._plan.bound != bound:
            self._plan = CutPlan(self.problem, self.bars, bound)
        return self._plan

    def take(self, bars: Sequence[Bar]) -> None:
        """A plan was found."""
        made = trimmed(self.problem, bars)
        total = self.problem.total(made)
        if total < self.total:
            verify(self.problem, made)
            self.bars, self.total = made, total

    def root(self) -> CountBox:
        """Any number of bars, as far as the money of the best plan goes."""
        least = min(w for w, d in zip(self.problem.weights, self.problem.demands, strict=True) if d)
        pieces = sum(self.problem.demands)
        high = []
        for s, supply in enumerate(self.problem.supplies):
            room = self.problem.rooms[s]
            if room < least:
                high.append(0)
            elif supply.count is not None:
                high.append(min(supply.count, pieces))
            else:
                high.append(min(pieces, self.total[0] // max(self.problem.cost(s, least), 1)))
        return CountBox((0,) * len(high), tuple(high))

    def run(self) -> Generator[CutPlan, None, None]:
        """Branch on counts, the lowest bound first; then look closer into what is left."""
        heap, left = [_Cell(0, 0, self.root())], list[_Cell]()
        while heap:
            cell = heapq.heappop(heap)
            if cell.bound < self.total[0]:
                for _ in self.descend(cell, heap, left):
                    self.raised([cell, *heap[:1], *left])
                    yield self.plan
            self.raised([*heap[:1], *left])
            yield self.plan
            if self.bound >= self.total[0]:
                break
        yield from self.settle(left)
        self.take(tidied(self.problem, self.bars))
        yield self.plan

    def raised(self, cells: Iterable[_Cell]) -> None:
        """The bound of everything is the lowest of the cells in which a cheaper plan could be."""
        self.bound = max(self.bound, min([self.total[0], *(c.bound for c in cells)]))

    def descend(self, cell: _Cell, heap: list[_Cell], left: list[_Cell]) -> Generator[None, None, None]:
        """Bound one cell; where its bound is below the best plan, dive into it and split it."""
        solved = yield from self.relax(cell)
        if solved is None or cell.bound >= self.total[0]:
            return
        if cell.dives < _FIRST_DIVES:
            cell.dives += 1
            yield from self.dive(cell, 0 if cell.dives == 1 else 2)
            if cell.bound >= self.total[0]:
                return
        if cell.box.point:
            left.append(cell)
            self.helper.start()
            return
        for box in self.split(cell.box, solved):
            self.serial += 1
            heapq.heappush(heap, replace(cell, serial=self.serial, box=box))

    def split(self, box: CountBox, solved: Relaxed) -> list[CountBox]:
        """Two halves where a count is broken, bought bars first; otherwise the cell of these counts and what is below and above it."""
        counts = solved.counts
        broken = [(self.problem.supplies[s].count is not None, abs(x - math.floor(x) - 0.5), s) for s, x in enumerate(counts.tolist())
                  if abs(x - round(x)) > 1e-5 and box.low[s] < box.high[s]]  # fmt: skip
        if broken:
            s = min(broken)[2]
            at = math.floor(counts[s])
            return [box.cut(s, box.low[s], at), box.cut(s, at + 1, box.high[s])]
        s = max(range(len(box.low)), key=lambda s: box.high[s] - box.low[s])
        at = min(max(round(float(counts[s])), box.low[s]), box.high[s])
        boxes = [box.cut(s, at, at)]
        if at > box.low[s]:
            boxes.append(box.cut(s, box.low[s], at - 1))
        if at < box.high[s]:
            boxes.append(box.cut(s, at + 1, box.high[s]))
        return boxes

    def relax(self, cell: _Cell) -> Generator[None, None, Relaxed | None]:
        """New patterns until the linear programme of a cell wants no other, or its bound says enough; returns its solution, None where there is none."""
        master, demands = self.master, self.problem.demands
        master.within(cell.box)
        solved: Relaxed | None = None
        for _ in range(_ROUNDS):
            solved = master.solve()
            if solved is None:
                return None
            worth = [math.floor(x) for x in (solved.worth * SCALE).tolist()]
            bars, gains = self.sack.priced(worth, demands)
            self.prove(cell, worth, gains)
            fresh = master.add(b for s, found in enumerate(bars) for b in found if gains[s] + solved.extra[s] * SCALE > _NEAR * SCALE)
            if fresh:
                fresh += master.add(self.sack.with_each(worth, demands, [-x * SCALE + _NEAR * SCALE for x in solved.extra.tolist()]))
            yield
            if not fresh or cell.bound >= min(self.total[0], self.rounded(math.floor(solved.money * (1 - 1e-9)) * SCALE - SCALE)):
                break
        return solved

    def rounded(self, exact: int) -> int:
        """Money up to the next that a plan can cost."""
        return -(-exact // (SCALE * self.unit)) * self.unit

    def prove(self, cell: _Cell, worth: Sequence[int], gains: Sequence[int]) -> None:
        """Lagrange's bound: what the pieces are worth, less the most that every bar could be worth beyond its cost."""
        exact = sum(w * d for w, d in zip(worth, self.problem.demands, strict=True)) - sum(
            max(g * low, g * high) for g, low, high in zip(gains, cell.box.low, cell.box.high, strict=True)
        )
        if not cell.worth or exact > cell.exact:
            cell.worth, cell.gains, cell.exact = tuple(worth), tuple(gains), exact
        cell.bound = max(cell.bound, self.rounded(exact))

    # --- plans

    def dive(self, cell: _Cell, loose: int) -> Generator[None, None, None]:
        """Settle bars a few at a time and solve the rest anew; what went wrong is taken back, what can't be made at last is fitted in.

        Args:
            cell: counts to keep to.
            loose: 0 takes what the linear programme is surest of; more take another way now and then.
        """
        master = self.master
        master.within(cell.box)
        dive = _Dive(np.array(self.problem.demands, dtype=np.int64), loose)
        while dive.rest.any():
            solved: Relaxed | None = None
            for turn in range(_DEEPEST):
                master.bound(*dive.bounds(master))
                solved = master.solve()
                good = solved is not None and solved.missing < _NEAR and solved.money < self.total[0] - 0.5
                if solved is None or (good and turn >= _DEEP):
                    break
                yield
                worth = [math.floor(x) for x in (solved.worth * SCALE).tolist()]
                bars, gains = self.sack.priced(worth, dive.rest.tolist())
                if not master.add(b for s, found in enumerate(bars) for b in found if gains[s] + solved.extra[s] * SCALE > _NEAR * SCALE):
                    break
            yield
            if solved is None or not good:
                if not dive.back(master):
                    break
            elif not dive.commit(master, solved, self.draw):
                break
        master.free()
        made = [master.bars[k] for k, n in dive.settled.items() for _ in range(n)]
        if dive.rest.any():
            try:
                made.extend(fit(self.without(made, dive.rest)))
            except NoAnswer:
                return
        self.take(made)

    def without(self, bars: Sequence[Bar], rest: Index) -> Problem:
        """What is left to be cut when some bars are settled."""
        wanted = tuple(replace(w, quantity=int(n)) for w, n in zip(self.problem.wanted, rest.tolist(), strict=True))
        supplies = tuple(
            x if x.count is None else replace(x, count=x.count - sum(b.supply == s for b in bars))
            for s, x in enumerate(self.problem.supplies)
        )
        return replace(self.problem, wanted=wanted, supplies=supplies)

    # --- the end

    def settle(self, left: list[_Cell]) -> Generator[CutPlan, None, None]:
        """Look into the cells that are left, the lowest bound first: all patterns that a cheaper plan could use, and dives meanwhile."""
        dives = self.dives(left)
        while True:
            left[:] = [c for c in left if c.bound < self.total[0]]
            self.raised(left)
            yield self.plan
            if not left:
                return
            cell = min(left, key=lambda c: (c.settled, c.bound))
            if not cell.settled:
                for _ in self.whole(cell, dives):
                    yield self.plan
            elif next(dives, True):
                return

    def dives(self, left: list[_Cell]) -> Generator[None, None, None]:
        """One after the other into the cells that are left, another way each time."""
        for turn in range(_DIVES):
            if left:
                yield from self.dive(left[turn % len(left)], 3)

    def whole(self, cell: _Cell, dives: Generator[None, None, None]) -> Generator[None, None, None]:
        """The best plan of a cell by its patterns, as far as they can be listed; what is not found so raises its bound.

        A plan that costs at most so much more than the bound uses no pattern whose reduced cost is more than that.
        """
        slack = wide = 1 << 62  # `wide`: of so much there are too many patterns
        while cell.bound < self.total[0]:
            full = (self.total[0] - 1) * SCALE - cell.exact
            slack = min(slack, full)
            listed = patterns(self.problem, cell.worth, cell.gains, slack, cell.box)
            yield
            if listed is None:
                # Too many for now: a cheaper plan would leave fewer.
                wide, slack = slack, slack // 4
                yield from self.dive(cell, 3)
                if slack < full >> 8:
                    break
                continue
            below = min(self.total[0] - 1, (cell.exact + slack) // SCALE)
            self.helper.ask(self.problem, listed, cell.box, below, _LIMIT)
            while not self.helper.ready(0.0):
                if next(dives, True):
                    self.helper.ready(0.02)
                yield
            found, ended = self.helper.found()
            if found is not None:
                self.take(found)
            if not ended:
                break
            cell.bound = max(cell.bound, below + 1 if found is None else self.total[0])
            if slack > 0.8 * wide:
                break
            slack = (slack + wide) // 2
        cell.settled = True
