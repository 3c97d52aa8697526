"""Better plans: column generation with a knapsack over all bar lengths at once, and a bound that proves how good a plan is.

Gilmore and Gomory (1961, 1963) for the columns, Farley (1990) for the bound; the linear and integer programmes are HiGHS's.
"""

from __future__ import annotations

import math
import random
import time
from collections.abc import Generator
from dataclasses import dataclass, replace

import numpy as np

from long_ember.arrays import Array, Index, Mask
from long_ember.cutting.fitting import fit
from long_ember.cutting.problem import Bar, Problem, verify
from long_ember.errors import EmberError, NoAnswer

__all__ = ["CutPlan", "best_cut", "cutting"]

_ROUNDS = 400
_DIVES, _DEEP = 4, 12
_MONEY = 4096  # one bar more counts as one of these parts of a thousandth
_LIMIT = 1.0  # s for the integer master
_PATTERNS, _NODES = 20_000, 200_000
_SCALE = 1 << 20  # of duals, for a bound in whole numbers


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

    @property
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
    return best


def cutting(problem: Problem) -> Generator[CutPlan, None, None]:
    """Plans, each at least as good as the one before; the first at once. Whoever stops asking has cancelled the search.

    Raises:
        NoAnswer: when the bars there are do not hold all pieces.
    """
    best = CutPlan(problem, _checked(problem, fit(problem)))
    yield best
    columns = list(dict.fromkeys(best.bars))
    price = _Price((), {}, 0)
    for _round in range(_ROUNDS):
        duals, caps, _share = _relaxed(problem, columns)
        fresh, found = _priced(problem, duals, caps)
        if not price.duals or found.bound > price.bound:
            price = found
        best = CutPlan(problem, best.bars, max(best.bound, found.bound))
        yield best
        fresh = [c for c in fresh if c not in columns]
        if best.proven or not fresh:
            break
        columns.extend(fresh)
    if not best.proven:
        best = _better(best, _whole(problem, columns)[0])
        yield best
    for turn in range(_DIVES):
        if best.proven:
            return
        best = _better(best, _dive(problem, columns, turn))
        yield best
    if not best.proven:
        yield _settled(best, price)


def _dive(problem: Problem, columns: list[Bar], turn: int) -> tuple[Bar, ...] | None:
    """Bars settled a few at a time, the linear programme solved anew for the rest; `turn` picks another way at every fork.

    Columns that it meets on the way are left in `columns`.
    """
    draw, bars, rest, mine = random.Random(turn), list[Bar](), problem, list(columns)
    while sum(rest.demands):
        mine = [c for c in mine if all(n <= d for n, d in zip(c.counts, rest.demands, strict=True)) and rest.supplies[c.supply].count != 0]
        try:
            mine.extend(dict.fromkeys(b for b in fit(rest) if b not in mine))
        except NoAnswer:
            return None
        for _round in range(_DEEP):
            duals, caps, shares = _relaxed(rest, mine)
            fresh = [c for c in _priced(rest, duals, caps)[0] if c not in mine]
            if not fresh:
                break
            mine.extend(fresh)
            columns.extend(c for c in fresh if c not in columns)
        shares = _relaxed(rest, mine)[2]
        whole = [(c, int(x + 1e-6)) for c, x in zip(mine, shares.tolist(), strict=True) if x >= 1 - 1e-6]
        if not whole:
            ranked = sorted(range(len(mine)), key=lambda k: -shares[k])[: 1 + min(turn, 3)]
            whole = [(mine[draw.choice(ranked)], 1)]
        for column, number in whole:
            taken = min(number, *(d // n for n, d in zip(column.counts, rest.demands, strict=True) if n))
            if taken:
                bars.extend([column] * taken)
                rest = _without(rest, column, taken)
    return tuple(bars)


def _without(problem: Problem, column: Bar, times: int) -> Problem:
    """What is left to cut when some bars are settled."""
    wanted = tuple(replace(w, quantity=w.quantity - n * times) for w, n in zip(problem.wanted, column.counts, strict=True))
    supplies = list(problem.supplies)
    count = supplies[column.supply].count
    if count is not None:
        supplies[column.supply] = replace(supplies[column.supply], count=count - times)
    return replace(problem, wanted=wanted, supplies=tuple(supplies))


def _better(best: CutPlan, found: tuple[Bar, ...] | None) -> CutPlan:
    if found is None or best.problem.total(found) >= best.problem.total(best.bars):
        return best
    return CutPlan(best.problem, _checked(best.problem, found), best.bound)


def _settled(best: CutPlan, price: _Price) -> CutPlan:
    """Every pattern that a cheaper plan could use, and the best plan of them: that proves it, if there are not too many."""
    problem = best.problem
    patterns = _patterns(problem, price, best.money - 1 - price.bound)
    if patterns is None:
        return best
    found, exact = _whole(problem, patterns, below=best.money - 1)
    best = _better(best, found)
    return CutPlan(problem, best.bars, best.money) if exact else best


def _checked(problem: Problem, bars: tuple[Bar, ...]) -> tuple[Bar, ...]:
    verify(problem, bars)
    return bars


def _cost(problem: Problem, column: Bar) -> float:
    return problem.cost(column.supply, problem.used(column)) + 1 / _MONEY


def _rows(problem: Problem, columns: list[Bar]) -> tuple[Array, Array, list[int]]:
    """Rows of pieces wanted, then of supplies that are counted."""
    counted = [s for s, x in enumerate(problem.supplies) if x.count is not None]
    made = np.array([c.counts for c in columns], dtype=float).T
    taken = np.array([[float(c.supply == s) for c in columns] for s in counted]).reshape(len(counted), len(columns))
    return made, taken, counted


def _relaxed(problem: Problem, columns: list[Bar]) -> tuple[Array, dict[int, float], Array]:
    """Duals of the pieces and of the counted supplies of the linear programme over the columns there are, and how many of each it takes."""
    from scipy.optimize import linprog  # takes a second to load

    made, taken, counted = _rows(problem, columns)
    costs = [_cost(problem, c) for c in columns]
    limit = np.array([float(problem.supplies[s].count or 0) for s in counted])
    solved = linprog(
        costs, A_ub=np.vstack((-made, taken)), b_ub=np.concatenate((-np.array(problem.demands, dtype=float), limit)), method="highs"
    )
    if solved.status != 0:
        raise EmberError(f"The linear programme ended with: {solved.message}")
    marginals = -np.asarray(solved.ineqlin.marginals)
    count = len(problem.demands)
    caps = dict(zip(counted, np.maximum(marginals[count:], 0.0).tolist(), strict=True))
    return np.maximum(marginals[:count], 0.0), caps, np.asarray(solved.x)


@dataclass(frozen=True)
class _Price:
    """Duals that overcharge nobody: of the pieces, what a counted supply gains at most, and the money that no plan goes below."""

    duals: tuple[float, ...]
    gains: dict[int, float]
    bound: int


def _priced(problem: Problem, duals: Array, caps: dict[int, float]) -> tuple[list[Bar], _Price]:
    """The columns that the duals ask for, one a supply, and what the duals prove."""
    whole = np.floor(duals * _SCALE).astype(np.int64)
    fresh: list[Bar] = []
    gains: dict[int, int] = {}  # by supply, the most that a bar's pieces are worth beyond what it costs, in whole numbers
    ratio = 1.0
    for supply, table in _tables(problem, whole):
        costs = np.array([problem.cost(supply, u) for u in range(len(table.best))], dtype=np.int64) * _SCALE
        gain = table.best - costs
        at = int(np.argmax(gain))
        gains[supply] = int(gain[at])
        if problem.supplies[supply].count is None:
            ratio = max(ratio, float(np.max(table.best / np.maximum(costs, 1))))
        if gain[at] > caps.get(supply, 0.0) * _SCALE + 1e-6 * _SCALE and at:
            fresh.append(Bar(supply, table.counts(at)))
    # Farley: divided by the worst ratio the duals are feasible for what is bought; the counted supplies pay for what they still gain.
    fair = tuple(float(x) / ratio / _SCALE for x in whole)
    paid: dict[int, float] = {}
    for supply, table in _tables(problem, whole):
        if problem.supplies[supply].count is not None:
            costs = np.array([problem.cost(supply, u) for u in range(len(table.best))], dtype=float)
            paid[supply] = max(0.0, float(np.max(table.best / ratio / _SCALE - costs)))
    bound = sum(x * d for x, d in zip(fair, problem.demands, strict=True)) - sum(
        g * (problem.supplies[s].count or 0) for s, g in paid.items()
    )
    return fresh, _Price(fair, paid, math.ceil(bound - 1e-3 - 1e-9 * abs(bound)))


def _patterns(problem: Problem, price: _Price, slack: float) -> list[Bar] | None:
    """All patterns whose reduced cost is at most `slack`: no cheaper plan uses another. None when there are too many."""
    found: list[Bar] = []
    order = sorted(range(len(problem.weights)), key=lambda i: (not problem.held[i], problem.weights[i]))
    room = max(problem.rooms)
    prefix = [np.zeros(room + 1)]
    for i in order:
        best, weight = prefix[-1].copy(), problem.weights[i]
        for copies in _doubled(min(problem.demands[i], room // weight)):
            shift = weight * copies
            if shift <= room:
                best[shift:] = np.maximum(best[shift:], best[: room + 1 - shift] + price.duals[i] * copies)
        prefix.append(np.maximum.accumulate(best))
    tables = [p.tolist() for p in prefix]
    work = 0
    for supply, size in enumerate(problem.rooms):
        gain = price.gains.get(supply, 0.0)
        costs = [problem.cost(supply, u) for u in range(max(size, 0) + 1)]
        counts = [0] * len(order)
        stack: list[tuple[int, int, float, int]] = [(len(order), 0, 0.0, -1)]  # items left, used, worth, copies of the item just set
        while stack:
            left, used, worth, copies = stack.pop()
            work += 1
            if work > _NODES or len(found) > _PATTERNS:
                return None
            if copies >= 0:
                counts[order[left]] = copies
            if worth + tables[left][size - used] < costs[used] + gain - slack - 1e-6:
                continue
            if left == 0:
                if used and costs[used] + gain - worth <= slack + 1e-6:
                    found.append(Bar(supply, tuple(counts)))
                continue
            i = order[left - 1]
            limit = problem.limits[supply] if problem.held[i] else size
            held = sum(counts[j] * problem.weights[j] for j in order[left:] if problem.held[j])
            most = min(problem.demands[i], (size - used) // problem.weights[i])
            if problem.held[i]:
                most = min(most, max(0, limit - held) // problem.weights[i])
            stack.extend((left - 1, used + n * problem.weights[i], worth + n * price.duals[i], n) for n in range(most + 1))
    return found


class _Table:
    """Most worth for every exact length used, and how it is reached."""

    def __init__(self, best: Index, taken: list[tuple[int, int, Mask]], count: int) -> None:
        self.best, self._taken, self._count = best, taken, count

    def counts(self, used: int) -> tuple[int, ...]:
        """Pieces of the best pattern that uses exactly so much."""
        found = [0] * self._count
        for piece, copies, chosen in reversed(self._taken):
            if chosen[used]:
                found[piece] += copies
                used -= int(self._weights[piece]) * copies
        return tuple(found)

    _weights: tuple[int, ...] = ()


def _tables(problem: Problem, worth: Index) -> Generator[tuple[int, _Table], None, None]:
    """A knapsack for every supply; one for all of them where nothing has to be held."""
    hold = any(problem.held) and problem.rules.hold > 0
    if not hold:
        whole = _knapsack(problem, worth, max(problem.rooms), None)
        for supply, room in enumerate(problem.rooms):
            if room > 0:
                part = _Table(whole.best[: room + 1], [(p, c, t[: room + 1]) for p, c, t in whole._taken], len(problem.weights))
                part._weights = problem.weights
                yield supply, part
        return
    for supply, room in enumerate(problem.rooms):
        if room > 0:
            yield supply, _knapsack(problem, worth, room, problem.limits[supply])


def _knapsack(problem: Problem, worth: Index, room: int, limit: int | None) -> _Table:
    """Bounded knapsack over whole lengths, by doubling copies; what is forged on the bar goes in first and up to `limit`."""
    lowest = np.int64(-(1 << 60))
    best = np.full(room + 1, lowest, dtype=np.int64)
    best[0] = 0
    taken: list[tuple[int, int, Mask]] = []
    order = sorted(range(len(problem.weights)), key=lambda i: not problem.held[i])
    for place, i in enumerate(order):
        if limit is not None and not problem.held[i] and (place == 0 or problem.held[order[place - 1]]):
            best[max(limit, 0) + 1 :] = lowest
        weight = problem.weights[i]
        for copies in _doubled(min(problem.demands[i], room // weight)):
            shift = weight * copies
            if shift > room:
                continue
            other = np.full(room + 1, lowest, dtype=np.int64)
            other[shift:] = best[: room + 1 - shift] + worth[i] * copies
            chosen = other > best
            best = np.where(chosen, other, best)
            taken.append((i, copies, chosen))
    if limit is not None and all(problem.held):
        best[max(limit, 0) + 1 :] = lowest
    found = _Table(best, taken, len(problem.weights))
    found._weights = problem.weights
    return found


def _doubled(count: int) -> list[int]:
    """Numbers whose sums are everything from 0 to `count`: 1, 2, 4 … and the rest."""
    found, step = [], 1
    while count > 0:
        found.append(min(step, count))
        count -= found[-1]
        step *= 2
    return found


def _whole(problem: Problem, columns: list[Bar], *, below: int | None = None) -> tuple[tuple[Bar, ...] | None, bool]:
    """The best plan in whole bars over the columns there are; pieces made beyond what is wanted are taken off again.

    Args:
        problem: to solve.
        columns: patterns it may use.
        below: look only for plans that cost at most so much.

    Returns:
        The plan, None when there is none, and whether the search came to its end.
    """
    if not columns:
        return None, True
    from scipy.optimize import Bounds, LinearConstraint, milp

    made, taken, counted = _rows(problem, columns)
    limit = np.array([float(problem.supplies[s].count or 0) for s in counted])
    demands = np.array(problem.demands, dtype=float)
    rows = [LinearConstraint(made, lb=demands)]
    if counted:
        rows.append(LinearConstraint(taken, ub=limit))
    costs = np.array([_cost(problem, c) for c in columns])
    if below is not None:
        rows.append(LinearConstraint(costs.reshape(1, -1), ub=below + 0.5))
    solved = milp(
        costs,
        constraints=rows,
        integrality=np.ones(len(columns)),
        bounds=Bounds(0, np.inf),
        options={"time_limit": _LIMIT, "mip_rel_gap": 0.0},
    )
    if solved.x is None:
        return None, solved.status == 2  # 2: there is none
    over = [round(x) for x in (made @ np.round(solved.x) - demands).tolist()]
    bars: list[Bar] = []
    for column, number in zip(columns, np.round(solved.x).astype(int).tolist(), strict=True):
        for _ in range(number):
            counts = list(column.counts)
            for i, spare in enumerate(over):
                off = min(spare, counts[i])
                counts[i] -= off
                over[i] -= off
            if any(counts):
                bars.append(Bar(column.supply, tuple(counts)))
    return tuple(bars), solved.status == 0
