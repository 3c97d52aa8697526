"""All patterns that a cheaper plan could use."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from long_ember.cutting.knapsack import SCALE, doubled
from long_ember.cutting.master import CountBox
from long_ember.cutting.problem import Bar, Problem

__all__ = ["patterns"]

_PATTERNS, _NODES = 20_000, 400_000


def patterns(problem: Problem, worth: Sequence[int], gains: Sequence[int], slack: int, box: CountBox) -> list[Bar] | None:
    """Patterns whose reduced cost is at most `slack`: no plan that is cheaper by it uses another. None when there are too many.

    Args:
        problem: pieces and bars.
        worth: of a piece, times `SCALE`.
        gains: the most that a bar of each supply is worth beyond its cost, times `SCALE`.
        slack: thousandths, times `SCALE`.
        box: bars of each supply; of those that are not used nothing is looked for.
    """
    found: list[Bar] = []
    order = sorted(range(len(problem.weights)), key=lambda i: (not problem.held[i], problem.weights[i]))
    room = max(problem.rooms)
    prefix = [np.zeros(room + 1, dtype=np.int64)]
    for i in order:
        best, weight = prefix[-1].copy(), problem.weights[i]
        for copies in doubled(min(problem.demands[i], room // weight)):
            shift = weight * copies
            best[shift:] = np.maximum(best[shift:], best[:-shift] + worth[i] * copies)
        prefix.append(np.maximum.accumulate(best))
    tables = [p.tolist() for p in prefix]
    work = 0
    for supply, size in enumerate(problem.rooms):
        if size <= 0 or not box.high[supply]:
            continue
        gain = gains[supply]
        costs = (problem.costs(supply) * SCALE).tolist()
        counts = [0] * len(order)
        stack: list[tuple[int, int, int, int]] = [(len(order), 0, 0, -1)]  # items left, used, worth, copies of the item just set
        while stack:
            left, used, value, copies = stack.pop()
            work += 1
            if work > _NODES or len(found) > _PATTERNS:
                return None
            if copies >= 0:
                counts[order[left]] = copies
            if value + tables[left][size - used] < costs[used] + gain - slack:
                continue
            if left == 0:
                if used and costs[used] + gain - value <= slack:
                    found.append(Bar(supply, tuple(counts)))
                continue
            i = order[left - 1]
            most = min(problem.demands[i], (size - used) // problem.weights[i])
            if problem.held[i]:
                held = sum(counts[j] * problem.weights[j] for j in order[left:] if problem.held[j])
                most = min(most, max(0, problem.limits[supply] - held) // problem.weights[i])
            stack.extend((left - 1, used + n * problem.weights[i], value + n * worth[i], n) for n in range(most + 1))
    return found
