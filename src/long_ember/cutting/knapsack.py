"""Most worth on a bar of every length at once: a bounded knapsack over whole lengths, in whole numbers (Gilmore and Gomory, 1963)."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cached_property

import numpy as np

from long_ember.arrays import Index, Mask
from long_ember.cutting.problem import Bar, Problem

__all__ = ["SCALE", "Knapsack", "doubled"]

SCALE = 1 << 20  # of what a piece is worth, so that a bound can be reckoned in whole numbers
_LOWEST = np.int64(-(1 << 60))
_MANY, _WIDE = 25, 4_000_000  # pieces from which every one is given a pattern of its own; entries of the tables for it
_SPREAD = 3  # patterns of one bar and supply that are taken over at once


def doubled(count: int) -> list[int]:
    """Numbers whose sums are everything from 0 to `count`: 1, 2, 4 … and the rest."""
    found, step = [], 1
    while count > 0:
        found.append(min(step, count))
        count -= found[-1]
        step *= 2
    return found


def _counted(taken: Sequence[tuple[int, int, int, Mask]], used: int, number: int) -> tuple[int, ...]:
    found = [0] * number
    for piece, copies, shift, chosen in reversed(taken):
        if used >= shift and chosen[used - shift]:
            found[piece] += copies
            used -= shift
    return tuple(found)


class _Table:
    """Most worth for every exact length used, and how it is reached."""

    def __init__(self, room: int) -> None:
        self.best: Index = np.full(room + 1, _LOWEST, dtype=np.int64)
        self.best[0] = 0
        self.taken: list[tuple[int, int, int, Mask]] = []  # piece, copies, shift, where they were taken

    def take(self, piece: int, copies: int, shift: int, worth: int) -> None:
        """Allow so many copies more."""
        other = self.best[:-shift] + worth
        chosen = other > self.best[shift:]
        np.copyto(self.best[shift:], other, where=chosen)
        self.taken.append((piece, copies, shift, chosen))

    def copy(self) -> _Table:
        """Another one, to go on from here."""
        other = _Table(0)
        other.best, other.taken = self.best.copy(), list(self.taken)
        return other

    def counts(self, used: int, number: int) -> tuple[int, ...]:
        """Pieces of the best pattern that uses exactly so much."""
        return _counted(self.taken, used, number)


class _Reach:
    """Most worth up to every length, and the exact length that gives it; the table goes on being filled afterwards."""

    def __init__(self, table: _Table) -> None:
        self.reach: Index = np.maximum.accumulate(table.best)
        risen = np.concatenate((np.ones(1, dtype=bool), self.reach[1:] > self.reach[:-1]))
        self.where: Index = np.maximum.accumulate(np.where(risen, np.arange(len(self.reach)), 0))
        self._taken = table.taken[:]

    def counts(self, used: int, number: int) -> tuple[int, ...]:
        """Pieces of the pattern that uses exactly so much."""
        return _counted(self._taken, used, number)


class Knapsack:
    """The patterns that are worth most beyond what they cost, for every supply.

    Args:
        problem: pieces and bars.
    """

    def __init__(self, problem: Problem) -> None:
        self.problem = problem
        self.costs = [problem.costs(s) for s in range(len(problem.supplies))]
        self._held = [i for i, held in enumerate(problem.held) if held]
        self._free = [i for i, held in enumerate(problem.held) if not held]

    @cached_property
    def scaled(self) -> list[Index]:
        """Costs by length used, times `SCALE`."""
        return [c * SCALE for c in self.costs]

    def priced(self, worth: Sequence[int], demands: Sequence[int]) -> tuple[list[list[Bar]], list[int]]:
        """The best patterns of every supply, and what the best of each is worth beyond its cost.

        Args:
            worth: of a piece, times `SCALE`.
            demands: how many of each a pattern may hold at most.

        Returns:
            Patterns by supply, best first, none where a bar holds nothing; and the greatest gain by supply, the empty bar counted.
        """
        bars: list[list[Bar]] = []
        gains: list[int] = []
        for supply, table in enumerate(self._tables(worth, demands)):
            room = self.problem.rooms[supply]
            if table is None:
                bars.append([])
                gains.append(-int(self.scaled[supply][0]))
                continue
            gain = table.best[: room + 1] - self.scaled[supply]
            gains.append(int(gain.max()))
            found: list[Bar] = []
            for at in self._tops(gain):
                if at:
                    bar = Bar(supply, table.counts(at, len(worth)))
                    if bar not in found:
                        found.append(bar)
            bars.append(found)
        return bars, gains

    @staticmethod
    def _tops(gain: Index) -> list[int]:
        """Where the gain is greatest, and where it is greatest well away from there."""
        first = int(gain.argmax())
        found, gap = [first], max(1, len(gain) // 12)
        part = gain.copy()
        for _ in range(_SPREAD - 1):
            part[max(0, found[-1] - gap) : found[-1] + gap] = _LOWEST
            at = int(part.argmax())
            if part[at] <= _LOWEST // 2:
                break
            found.append(at)
        return found

    def with_each(self, worth: Sequence[int], demands: Sequence[int], least: Sequence[float]) -> list[Bar]:
        """For every piece the best pattern that holds it once, where it gains more than `least` of its supply; with many pieces this saves many rounds.

        Bought bars only, and nothing that is forged on the bar.
        """
        room = max(self.problem.rooms)
        number = len(worth)
        if self._held or number < _MANY or number * room > _WIDE:
            return []
        ahead, behind = self._prefixes(range(number), worth, demands), self._prefixes(range(number - 1, -1, -1), worth, demands)
        found: dict[Bar, None] = {}
        for supply, there in enumerate(self.problem.supplies):
            size = self.problem.rooms[supply]
            if there.count is not None or size <= 0:
                continue
            for i in range(number):
                inside = size - self.problem.weights[i]
                if not demands[i] or inside < 0 or not worth[i]:
                    continue
                # The piece itself, the pieces before it up to some length and those behind it in the rest.
                before, after = ahead[i], behind[number - 1 - i]
                at = int((before.reach[: inside + 1] + after.reach[inside::-1][: inside + 1]).argmax())
                start, end = int(before.where[at]), int(after.where[inside - at])
                gain = int(before.reach[at] + after.reach[inside - at]) + worth[i] - int(self.scaled[supply][start + end + size - inside])
                if gain > least[supply]:
                    counts = [a + b for a, b in zip(before.counts(start, number), after.counts(end, number), strict=True)]
                    counts[i] = 1
                    found[Bar(supply, tuple(counts))] = None
        return list(found)

    def _prefixes(self, order: Sequence[int], worth: Sequence[int], demands: Sequence[int]) -> list[_Reach]:
        """Tables of nothing, of the first piece, of the first two and so on."""
        table = _Table(max(self.problem.rooms))
        found = []
        for i in order:
            found.append(_Reach(table))
            self._fill(table, (i,), worth, demands)
        return found

    def _tables(self, worth: Sequence[int], demands: Sequence[int]) -> list[_Table | None]:
        """A table for every supply: one for all of them, or with what is forged on the bar first, up to its limit."""
        rooms, limits = self.problem.rooms, self.problem.limits
        longest = max(max(rooms), 0)
        first = _Table(longest)
        self._fill(first, self._held, worth, demands)
        if not self._held:
            self._fill(first, self._free, worth, demands)
            return [first if room > 0 else None for room in rooms]
        by_limit: dict[int, _Table] = {}
        for room, limit in zip(rooms, limits, strict=True):
            if room > 0 and limit not in by_limit:
                table = first.copy()
                table.best[max(limit, 0) + 1 :] = _LOWEST
                self._fill(table, self._free, worth, demands)
                by_limit[limit] = table
        return [by_limit[limit] if room > 0 else None for room, limit in zip(rooms, limits, strict=True)]

    def _fill(self, table: _Table, pieces: Sequence[int], worth: Sequence[int], demands: Sequence[int]) -> None:
        room = len(table.best) - 1
        for i in pieces:
            weight = self.problem.weights[i]
            for copies in doubled(min(demands[i], room // weight)):
                table.take(i, copies, weight * copies, worth[i] * copies)
