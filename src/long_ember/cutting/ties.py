"""Among plans that cost the same: fewer bars, fewer ways to cut one, the largest remnant."""

from __future__ import annotations

import time
from collections import Counter
from collections.abc import Iterator, Sequence
from itertools import combinations

from long_ember.cutting.problem import Bar, Problem

__all__ = ["tidied"]


def tidied(problem: Problem, bars: Sequence[Bar], seconds: float = 0.25) -> tuple[Bar, ...]:
    """The plan after moves and exchanges of single pieces between two bars, as long as each makes it better by `Problem.total`.

    Args:
        problem: pieces and bars.
        bars: a plan.
        seconds: after which it is left as it is.
    """
    end = time.monotonic() + seconds
    best, total = list(bars), problem.total(bars)
    better = True
    while better:
        better = False
        for old, new in _moves(problem, best):
            if time.monotonic() > end:
                return tuple(best)
            made = list(best)
            for bar in old:
                made.remove(bar)
            made.extend(b for b in new if any(b.counts))
            if (found := problem.total(made)) < total:
                best, total, better = made, found, True
                break
    return tuple(best)


def _moves(problem: Problem, bars: Sequence[Bar]) -> Iterator[tuple[tuple[Bar, Bar], tuple[Bar, Bar]]]:
    """Two bars, and what becomes of them when one piece is moved or two are exchanged."""
    there = Counter(bars)
    pairs = [*combinations(there, 2), *((b, b) for b, n in there.items() if n > 1)]
    for one, other in pairs:
        for a, b in ((one, other), (other, one)):
            for i, n in enumerate(a.counts):
                if not n:
                    continue
                for j in (None, *(j for j, m in enumerate(b.counts) if m and (j > i if a is one else j < i))):
                    made = _put(_put(a, i, -1), j, 1), _put(_put(b, i, 1), j, -1)
                    if all(_holds(problem, bar) for bar in made):
                        yield (a, b), made


def _put(bar: Bar, piece: int | None, number: int) -> Bar:
    if piece is None:
        return bar
    counts = list(bar.counts)
    counts[piece] += number
    return Bar(bar.supply, tuple(counts))


def _holds(problem: Problem, bar: Bar) -> bool:
    held = sum(n * w for n, w, h in zip(bar.counts, problem.weights, problem.held, strict=True) if h)
    return problem.used(bar) <= problem.rooms[bar.supply] and (not held or held <= problem.limits[bar.supply])
