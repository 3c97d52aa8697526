"""What evidence makes of the prior: the work on a grid, the rest by Gauss and Newton over all that was seen (computations, section 15).

Everything is reckoned anew from all evidence, so its order does not matter, and taking a piece of it out is as if it had never been.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Sequence
from typing import Any

import numpy as np

from long_ember.arrays import Array, Index
from long_ember.beliefs.belief import WORK_SCATTER, Belief
from long_ember.beliefs.factors import FACTORS, number_of
from long_ember.frozen import NamedTuple, dataclass

__all__ = ["GRID", "Observed", "Posterior", "Taken", "posterior"]

GRID = tuple(round(-2.0 + 0.05 * i, 2) for i in range(81))  # ln of how much longer the work takes
# How evenly a hand works: times the usual scatter of work and lengths from piece to piece. Beforehand each is as likely as the next, far out
# to both sides: a few chosen round the usual one make bands too wide for whoever works so, and too narrow for whoever does not.
_EVEN = (0.5, 0.7, 1.0, 1.4, 2.0, 2.8, 4.0)
_MISCOUNT = 0.02  # chance that the heats were not counted right
_FAR = 3.0  # deviations; what lies further off weighs less, and the further the less: one slip or a typed nought too many hardly counts
_BAND = 1.6448536  # of a factor's spread beforehand: one entry alone never moves it further (`_held_back`)
_ALONE = 6  # entries, up to which one of them may be alone in what it says
_HALVES = 12
_PASSES = 3  # over all factors: holding one back may move another
_MOST_TAKEN = 3.0
_ROUNDS, _ROBUST = 12, 3
_TWO = 2  # lengths, from which they tell how one differs from the next: two that disagree are no reason to be sure of either
_FEW = 3  # entries, before which how one piece differs from the next is taken as usual (`learning.md`)
_SURE = np.where(np.array(_EVEN) == 1.0, 0.0, -np.inf)  # it is as usual
_PLENTY = 60  # entries, from which the heats tell by themselves how even a hand is
_WORK, _SCALE = number_of("work"), number_of("scale")


class Taken(NamedTuple):
    """Heats that a piece took.

    Args:
        smith: who forged it.
        curve: heats that the plan counts for each point of `GRID`.
        heats: that it took.
        entry: number of the log entry that says so.
    """

    smith: str
    curve: tuple[int, ...]
    heats: int
    entry: int = -1


class Observed(NamedTuple):
    """A figure that was seen: target = Σ coefficient·factor + bar·(exp(taken·exp(scale factor + growth·work)) − 1), give or take.

    Args:
        target: what was seen, less what is certain.
        deviation: standard deviation of reading it, and of what the model leaves open.
        linear: number of a factor and its coefficient.
        smith: whose work and pace it tells of.
        fire: whose scale.
        bar: mm of bar that scales; 0 where nothing hangs on that.
        taken: share of it that all heats take, as a logarithm, by the usual figures.
        growth: power of the work by which it grows, where heats were not counted; 0 where they were.
        kind: minutes, length, mass, or figure.
        between: standard deviation of one piece's length against the next, as usual; how much wider they scatter is learned.
    """

    target: float
    deviation: float
    linear: tuple[tuple[int, float], ...]
    smith: str = ""
    fire: str = ""
    bar: float = 0.0
    taken: float = 0.0
    growth: float = 0.0
    kind: str = "figure"
    between: float = 0.0


@dataclass(frozen=True)
class Posterior:
    """What is held when all evidence is in.

    Args:
        columns: factor and whose it is, in the order of `mean`.
        mean: of every column.
        covariance: of all columns.
        scatter: ln, of the work from piece to piece, by smith.
        length_scatter: multiple of the usual.
        entries: log entries behind it.
        far: entry and by how many deviations it lies off, for those that weigh less.
    """

    columns: tuple[tuple[int, str], ...]
    mean: Array
    covariance: Array
    scatter: dict[str, float]
    length_scatter: float
    entries: int
    far: tuple[tuple[int, float], ...]

    def belief(self, smith: str, fire: str) -> Belief:
        """What is held of one smith at one fire; the usual of whatever nothing was seen of.

        Args:
            smith: at the anvil.
            fire: key of it.
        """
        places = {column: i for i, column in enumerate(self.columns)}
        own = [places.get((n, _owner(n, smith, fire)), -1) for n in range(len(FACTORS))]
        mean = tuple(float(self.mean[i]) if i >= 0 else 0.0 for i in own)
        covariance = tuple(
            tuple(
                float(self.covariance[i, j]) if i >= 0 and j >= 0 else FACTORS[a].spread ** 2 if a == b else 0.0 for b, j in enumerate(own)
            )
            for a, i in enumerate(own)
        )
        return Belief(mean, covariance, self.scatter.get(smith, WORK_SCATTER), self.length_scatter, self.entries)


def _owner(number: int, smith: str, fire: str) -> str:
    return {"smith": smith, "fire": fire}.get(FACTORS[number].whose, "")


def posterior(taken: Sequence[Taken], rows: Sequence[tuple[int, Observed]], entries: int = 0) -> Posterior:
    """The belief after all evidence.

    Args:
        taken: heats.
        rows: minutes, lengths, masses and figures, each with the number of the log entry that says so; −1 for none.
        entries: how many log entries it comes from.
    """
    seen = [observed for _entry, observed in rows]
    columns = sorted(
        {(_WORK, t.smith) for t in taken}
        | {(n, _owner(n, s.smith, s.fire)) for s in seen for n, _c in s.linear}
        | {(_SCALE, s.fire) for s in seen if s.bar}
        | {(_WORK, s.smith) for s in seen if s.bar and s.growth}
    )
    places = {column: i for i, column in enumerate(columns)}
    start = np.zeros(len(columns))
    variance = np.array([FACTORS[n].spread ** 2 for n, _whose in columns])
    scatter: dict[str, float] = {}
    tables = {smith: _held_table([t for t in taken if t.smith == smith]) for smith in dict.fromkeys(t.smith for t in taken)}
    told = {smith: _summed(table) for smith, table in tables.items()}  # of how even each hand is, by its heats
    heats = sum(told.values(), np.zeros(len(_EVEN)))
    by_lengths = np.zeros(len(_EVEN))
    for turn in range(2):
        for smith, table in tables.items():
            at = places[_WORK, smith]
            few = sum(t.smith == smith for t in taken) < _FEW
            start[at], variance[at], scatter[smith] = _work(table, _SURE if few else by_lengths)
        fitted = _Fit(columns, places, start, variance, seen, [entry for entry, _observed in rows], heats)
        mean, covariance, widened, far = fitted.solve()
        if turn or not np.any(fitted.lengths_tell) or len(taken) > _PLENTY:
            break
        by_lengths = fitted.lengths_tell
    odd = [
        (t.entry, off)
        for smith in scatter
        for t, off in _off([t for t in taken if t.smith == smith], float(mean[places[_WORK, smith]]), scatter[smith])
        if abs(off) > _FAR
    ]
    return Posterior(tuple(columns), mean, covariance, scatter, widened, entries, (*odd, *far))


def _off(taken: Sequence[Taken], work: float, scatter: float) -> list[tuple[Taken, float]]:
    """By how many deviations the heats taken lie from where the plan counts as many, or comes nearest to it."""
    grid, kinds = np.array(GRID), dict.fromkeys((t.curve, t.heats) for t in taken)
    found = {}
    for curve, heats in kinds:
        apart = np.abs(np.array(curve) - heats)
        near = grid[apart == apart.min()]
        found[curve, heats] = float(near[np.argmin(np.abs(near - work))] - work) / scatter
    return [(t, found[t.curve, t.heats]) for t in taken]


def _held_table(taken: Sequence[Taken]) -> Array:
    """Return the table of one smith's heats; one entry that alone would move the work beyond what is likely beforehand is held back."""
    table, most = _tables(taken), _BAND * FACTORS[_WORK].spread
    if len(taken) > _ALONE or abs(_work(table, _SURE)[0]) <= most:
        return table
    for i in range(len(taken)):
        weights = [1.0] * len(taken)
        weights[i] = 0.0
        if abs(_work(_tables(taken, weights), _SURE)[0]) > most:
            continue  # others say so too
        low, high = 0.0, 1.0
        for _half in range(_HALVES):
            weights[i] = (low + high) / 2
            low, high = (low, weights[i]) if abs(_work(_tables(taken, weights), _SURE)[0]) > most else (weights[i], high)
        weights[i] = low
        return _tables(taken, weights)
    return table


def _tables(taken: Sequence[Taken], weights: Sequence[float] = ()) -> Array:
    """Log likelihood of the heats that were counted, (scatters, grid): a row for each of `_EVEN`, with the prior of the work.

    Args:
        taken: heats.
        weights: how much each counts; none: all alike.

    Heats are whole numbers and the plan's count rises with the work in steps, so it is reckoned on a grid.
    """
    grid = np.array(GRID)
    step = grid[1] - grid[0]
    prior = -0.5 * (grid / FACTORS[_WORK].spread) ** 2
    alike = Counter[tuple[tuple[int, ...], int]]()  # many of one piece took as many heats
    for t, weight in zip(taken, weights or [1.0] * len(taken), strict=True):
        alike[t.curve, t.heats] += weight  # type: ignore[assignment]
    curves = np.array([curve for curve, _heats in alike])
    heats = np.array([count for _curve, count in alike])[:, None]
    times = np.array(list(alike.values()), dtype=float)
    exact, near = (curves == heats).astype(float), np.exp(-np.abs(curves - heats))
    logs = []
    for sigma in (WORK_SCATTER * even for even in _EVEN):
        reach = math.ceil(3 * sigma / step)
        kernel = np.exp(-0.5 * (np.arange(-reach, reach + 1) * step / sigma) ** 2)
        kernel /= kernel.sum()
        # Beyond its ends the grid goes on as it is there.
        wide = np.pad(exact, ((0, 0), (reach, reach)), mode="edge")
        smooth = np.lib.stride_tricks.sliding_window_view(wide, len(kernel), axis=1) @ kernel
        logs.append(times @ np.log((1 - _MISCOUNT) * smooth + _MISCOUNT * (0.1 + 0.9 * near)) + prior)
    return np.array(logs)


def _work(table: Array, even: Array) -> tuple[float, float, float]:
    """Mean and variance of ln work, and its scatter from piece to piece.

    Args:
        table: see `_tables`.
        even: log of how likely each of `_EVEN` is by all else.
    """
    grid = np.array(GRID)
    table = table + even[:, None]
    weight = np.exp(table - table.max())
    weight /= weight.sum()
    along = weight.sum(axis=0)
    mean = float(along @ grid)
    variance = float(along @ (grid - mean) ** 2)
    scatter = WORK_SCATTER * math.sqrt(float(weight.sum(axis=1) @ np.square(_EVEN)))
    return mean, max(variance, ((grid[1] - grid[0]) / 2) ** 2), scatter


def _summed(logs: Array) -> Array:
    """ln of the sum along each row."""
    most = logs.max(axis=1)
    return np.asarray(most + np.log(np.exp(logs - most[:, None]).sum(axis=1)))


def _spread(slope: Array, covariance: Array) -> Array:
    """Variance of what each row tells, (n,)."""
    return np.asarray(((slope @ covariance) * slope).sum(axis=1))


class _Fit:
    """Least squares over everything that was seen, about the prior."""

    def __init__(self, columns: Sequence[tuple[int, str]], places: dict[tuple[int, str], int], start: Array, variance: Array,
                 seen: Sequence[Observed], entries: list[int], even: Array) -> None:  # fmt: skip
        self.even, self.lengths_tell = even, np.zeros(len(_EVEN))
        self.start, self.variance = start, variance
        count = len(seen)
        self.linear = np.zeros((count, len(columns)))
        self.target, self.deviation = (np.array([getattr(s, name) for s in seen], dtype=float) for name in ("target", "deviation"))
        self.bar, self.taken, self.growth = (np.array([getattr(s, name) for s in seen], dtype=float) for name in ("bar", "taken", "growth"))
        # A column that is not there stands for 0, at the end.
        self.scale_at = np.array([places.get((_SCALE, s.fire), -1) for s in seen], dtype=int)
        self.work_at = np.array([places.get((_WORK, s.smith), -1) if s.bar and s.growth else -1 for s in seen], dtype=int)
        self.between = np.array([s.between for s in seen], dtype=float)
        self.entry = entries
        for row, s in enumerate(seen):
            for number, coefficient in s.linear:
                self.linear[row, places[number, _owner(number, s.smith, s.fire)]] += coefficient

    def solve(self) -> tuple[Array, Array, float, tuple[tuple[int, float], ...]]:
        """Mean, covariance, how much wider lengths scatter than usual, and what lies far off."""
        mean, weight, wider = self.start.copy(), np.ones(len(self.target)), 1.0
        off = np.zeros(len(self.target))
        covariance = np.diag(self.variance)
        deviation: Any = self.deviation
        for _turn in range(_ROBUST):
            deviation = np.hypot(self.deviation, wider * self.between)
            mean, covariance = self._fitted(mean, weight, deviation)
            value, slope = self._told(mean)
            left = self.target - value
            # A row that draws the fit to itself leaves little: held against what all the others would have made one expect.
            own = np.clip(1 - _spread(slope, covariance) * weight / deviation**2, 0.02, 1.0)
            off = left / (deviation * np.sqrt(own))
            weight = np.square(_FAR / np.maximum(np.abs(off), _FAR))
            wider = self._scatter(value, slope, mean, weight) if np.count_nonzero(self.between) >= _TWO else 1.0
        mean, covariance = self._held_back(mean, covariance, weight, deviation)
        covariance = self._torn(mean, covariance, off, deviation)
        far = tuple((self.entry[i], float(off[i])) for i in np.flatnonzero(np.abs(off) > _FAR) if self.entry[i] >= 0)
        return mean, covariance, wider, far

    def _fitted(self, mean: Array, weight: Array, deviation: Array) -> tuple[Array, Array]:
        """Return mean and covariance by Gauss and Newton, begun at `mean`; rows weigh `weight`."""
        covariance: Array = np.diag(self.variance)
        for _round in range(_ROUNDS):
            value, slope = self._told(mean)
            scaled = slope * (weight / deviation**2)[:, None]
            covariance = np.asarray(np.linalg.inv(np.diag(1 / self.variance) + scaled.T @ slope), dtype=np.float64)
            better = covariance @ (self.start / self.variance + scaled.T @ (self.target - value + slope @ mean))
            change = float(np.abs(better - mean).max(initial=0.0))
            mean = np.asarray(better, dtype=np.float64)
            if change < 1e-6:
                break
        return mean, covariance

    def _held_back(self, mean: Array, covariance: Array, weight: Array, deviation: Array) -> tuple[Array, Array]:
        """Return the fit in which no entry alone moves a factor beyond its band of before: others must say so too."""
        most = _BAND * np.sqrt(self.variance)
        passes = [column for _pass in range(_PASSES) for column in range(len(most))]
        for column in passes:
            if abs(mean[column] - self.start[column]) <= most[column] * (1 + 1e-6):
                continue
            rows = np.flatnonzero(self._told(mean)[1][:, column])
            # All that an entry says: what it weighed may move a figure that only its length touches.
            entries = np.array(self.entry)
            groups = [np.flatnonzero(entries == entry) for entry in dict.fromkeys(self.entry[i] for i in rows) if entry >= 0]
            if len(groups) > _ALONE:
                continue
            for own in groups:
                if self._moved(self.start, weight, deviation, own, 0.0, column) > most[column]:
                    continue  # others say so too
                low, high = 0.0, 1.0
                for _half in range(_HALVES):
                    share = (low + high) / 2
                    over = self._moved(self.start, weight, deviation, own, share, column) > most[column]
                    low, high = (low, share) if over else (share, high)
                weight = weight.copy()
                weight[own] *= low
                mean, covariance = self._fitted(self.start.copy(), weight, deviation)
                break
        return mean, covariance

    def _torn(self, mean: Array, covariance: Array, off: Array, deviation: Array) -> Array:
        """Return the covariance, wider where one of a few entries contradicts the others: it may be they that are wrong."""
        entries = {entry for entry in self.entry if entry >= 0}
        torn = {self.entry[i] for i in np.flatnonzero(np.abs(off) > _FAR) if self.entry[i] >= 0}
        if not torn or len(entries) > _ALONE:
            return covariance
        chance, most = 0.5 ** max(len(entries) - 1, 1), _BAND * np.sqrt(self.variance)
        for entry in torn:
            alone = np.array([1.0 if e in (entry, -1) else 0.0 for e in self.entry])
            apart = np.clip(self._fitted(self.start.copy(), alone, deviation)[0] - mean, -most, most)
            covariance = covariance + chance * np.outer(apart, apart)
        return covariance

    def _moved(self, mean: Array, weight: Array, deviation: Array, own: Index, share: float, column: Any) -> float:
        """Return how far a factor moves when some rows weigh so much less."""
        less = weight.copy()
        less[own] *= share
        return abs(float((self._fitted(mean.copy(), less, deviation)[0] - self.start)[column]))

    def _scatter(self, value: Array, slope: Array, mean: Array, weight: Array) -> float:
        """How much wider lengths scatter than usual: one of a few, by how likely each makes all that was seen, with the factors integrated out."""
        off = self.target - value + slope @ (mean - self.start)
        logs = []
        for times in _EVEN:
            deviation = np.hypot(self.deviation, times * self.between)
            scaled = slope * (weight / deviation**2)[:, None]
            inside = np.diag(1 / self.variance) + scaled.T @ slope
            pulled = scaled.T @ off
            square = float((weight * (off / deviation) ** 2).sum() - pulled @ np.linalg.solve(inside, pulled))
            logs.append(-float(np.log(deviation).sum()) - 0.5 * (np.linalg.slogdet(inside)[1] + square))
        self.lengths_tell = np.array(logs) - max(logs)
        both = self.lengths_tell + self.even
        share = np.exp(both - both.max())
        return math.sqrt(float(share @ np.square(_EVEN) / share.sum()))

    def _told(self, mean: Array) -> tuple[Array, Array]:
        """What should be seen, and how it changes with each column."""
        padded = np.append(mean, 0.0)
        # Bounded, so that no step on the way leaves what can be reckoned.
        taken = np.minimum(self.taken * np.exp(padded[self.scale_at] + self.growth * padded[self.work_at]), _MOST_TAKEN)
        scaled, steep = self.bar * np.expm1(taken), self.bar * taken * np.exp(taken)
        slope = self.linear.copy()
        rows = np.arange(len(scaled))
        for at, power in ((self.scale_at, np.ones(len(scaled))), (self.work_at, self.growth)):
            there = (at >= 0) & (self.bar != 0)
            slope[rows[there], at[there]] += (power * steep)[there]
        return self.linear @ mean + scaled, slope
