"""The linear programme over patterns, kept warm: how many bars are cut by each, so that every piece is made (HiGHS)."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Any

import numpy as np

from long_ember.arrays import Array, Index
from long_ember.cutting.problem import Bar, Problem
from long_ember.errors import EmberError
from long_ember.frozen import dataclass

__all__ = ["CountBox", "Master", "Relaxed", "highs", "trimmed"]

_ANOTHER = 1 / 4096  # of a thousandth: among plans of equal money the one with fewer bars
_DEAR = 20.0  # times the dearest bar: what a piece costs that is not made


@dataclass(frozen=True, slots=True)
class CountBox:
    """At least and at most how many bars of each supply."""

    low: tuple[int, ...]
    high: tuple[int, ...]

    @property
    def point(self) -> bool:
        """Every count is settled."""
        return self.low == self.high

    def cut(self, supply: int, low: int, high: int) -> CountBox:
        """The same with other counts of one supply."""
        one, other = list(self.low), list(self.high)
        one[supply], other[supply] = low, high
        return CountBox(tuple(one), tuple(other))


@dataclass(frozen=True, slots=True)
class Relaxed:
    """What the linear programme says.

    Args:
        money: thousandths, those for what is not made counted.
        worth: duals of the pieces, thousandths each.
        extra: duals of the supplies.
        shares: bars of every pattern.
        counts: bars of every supply.
        missing: pieces that are not made.
    """

    money: float
    worth: Array
    extra: Array
    shares: Array
    counts: Array
    missing: float


def highs() -> Any:
    """HiGHS, one thread, silent."""
    import highspy

    made = highspy.Highs()
    for key, value in (("output_flag", False), ("threads", 1), ("presolve", "off"), ("solver", "simplex")):
        made.setOptionValue(key, value)
    return made


class Master:
    """Patterns and the linear programme over them.

    Args:
        problem: pieces and bars.
    """

    def __init__(self, problem: Problem) -> None:
        self.problem = problem
        self.pieces, self.supplies = len(problem.demands), len(problem.supplies)
        self.bars: list[Bar] = []
        self._known: set[Bar] = set()
        self._weights: Index = np.array(problem.weights, dtype=np.int64)
        # Pieces in the patterns, one after the other: which, how many, and where each pattern begins.
        self._which, self._many, self._begins = (np.zeros(0, dtype=np.int64) for _ in range(3))
        self._lp = highs()
        most = float(self._lp.getInfinity())
        self._most = most
        demands = np.array(problem.demands, dtype=float)
        nothing, none = np.zeros(0, dtype=np.int32), np.zeros(0)
        self._lp.addRows(self.pieces, demands, np.full(self.pieces, most), 0, np.zeros(self.pieces, dtype=np.int32), nothing, none)
        self._lp.addRows(
            self.supplies, np.zeros(self.supplies), np.full(self.supplies, most), 0, np.zeros(self.supplies, dtype=np.int32), nothing, none
        )
        dear = _DEAR * max(float(max(problem.costs(s)[-1] for s in range(self.supplies))), 1.0)
        # First a column for every piece that is not made, then an empty bar of every supply.
        for row in range(self.pieces):
            self._lp.addCol(dear, 0.0, most, 1, np.array([row], dtype=np.int32), np.ones(1))
        for s in range(self.supplies):
            self._lp.addCol(float(problem.costs(s)[0]), 0.0, most, 1, np.array([self.pieces + s], dtype=np.int32), np.ones(1))
        self._fixed = self.pieces + self.supplies

    def add(self, bars: Iterable[Bar]) -> int:
        """Take patterns over; returns how many were new."""
        fresh = [b for b in dict.fromkeys(bars) if b not in self._known]
        if not fresh:
            return 0
        self._known.update(fresh)
        self.bars.extend(fresh)
        counts = np.array([b.counts for b in fresh], dtype=np.int64).reshape(len(fresh), self.pieces)
        of = np.array([b.supply for b in fresh], dtype=np.int64)
        used = counts @ self._weights
        costs = np.array([self.problem.cost(b.supply, u) + _ANOTHER for b, u in zip(fresh, used.tolist(), strict=True)])
        at, which = np.nonzero(counts)
        self._begins = np.concatenate((self._begins, len(self._which) + np.searchsorted(at, np.arange(len(fresh)))))
        self._which, self._many = np.concatenate((self._which, which)), np.concatenate((self._many, counts[at, which]))
        full = np.hstack((counts, (of[:, None] == np.arange(self.supplies)).astype(np.int64)))
        at, rows = np.nonzero(full)
        starts = np.searchsorted(at, np.arange(len(fresh))).astype(np.int32)
        self._lp.addCols(len(fresh), costs, np.zeros(len(fresh)), np.full(len(fresh), self._most), len(rows), starts, rows.astype(np.int32),
                         full[at, rows].astype(float))  # fmt: skip
        return len(fresh)

    def within(self, box: CountBox) -> None:
        """So many bars of each supply."""
        for s, (low, high) in enumerate(zip(box.low, box.high, strict=True)):
            self._lp.changeRowBounds(self.pieces + s, float(low), float(high))

    def able(self, rest: Index) -> Index:
        """How many bars of each pattern still make nothing beyond the `rest` of the pieces."""
        return np.minimum.reduceat(rest[self._which] // self._many, self._begins) if self.bars else np.zeros(0, dtype=np.int64)

    def bound(self, low: Array, high: Array) -> None:
        """At least and at most how many bars are cut by each pattern."""
        index = np.arange(self._fixed, self._fixed + len(self.bars), dtype=np.int32)
        self._lp.changeColsBounds(len(index), index, low, np.minimum(high, self._most))

    def free(self) -> None:
        """Any number of bars by each pattern."""
        self.bound(np.zeros(len(self.bars)), np.full(len(self.bars), self._most))

    def solve(self) -> Relaxed | None:
        """Solve it; None where the counts can't be had.

        Raises:
            EmberError: the solver gave up.
        """
        import highspy

        self._lp.run()
        status = self._lp.getModelStatus()
        if status == highspy.HighsModelStatus.kUnknown:  # a basis too many: from scratch it comes out
            self._lp.clearSolver()
            self._lp.run()
            status = self._lp.getModelStatus()
        if status == highspy.HighsModelStatus.kInfeasible:
            return None
        if status != highspy.HighsModelStatus.kOptimal:
            raise EmberError(f"The linear programme ended with: {self._lp.modelStatusToString(status)}")
        solution = self._lp.getSolution()
        values, duals = np.array(solution.col_value), np.array(solution.row_dual)
        return Relaxed(
            self._lp.getObjectiveValue(), np.maximum(duals[: self.pieces], 0.0), duals[self.pieces :], values[self._fixed :],
            np.array(solution.row_value)[self.pieces :], float(values[: self.pieces].sum()),
        )  # fmt: skip


def trimmed(problem: Problem, bars: Sequence[Bar]) -> tuple[Bar, ...]:
    """Bars without the pieces made beyond what is wanted, and without empty ones."""
    over = [sum(b.counts[i] for b in bars) - d for i, d in enumerate(problem.demands)]
    made = []
    for bar in bars:
        counts = list(bar.counts)
        for i, spare in enumerate(over):
            off = min(spare, counts[i])
            counts[i] -= off
            over[i] -= off
        if any(counts):
            made.append(Bar(bar.supply, tuple(counts)))
    return tuple(made)
