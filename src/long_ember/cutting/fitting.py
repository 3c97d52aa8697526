"""A usable plan at once: first-fit decreasing, offcuts before bought bars."""

from __future__ import annotations

from collections.abc import Sequence

from long_ember.cutting.problem import Bar, Problem
from long_ember.errors import NoAnswer

__all__ = ["fit"]


def fit(problem: Problem) -> tuple[Bar, ...]:
    """The best of first-fit decreasing with each bought length in turn, and with the one that suits each piece best.

    Raises:
        NoAnswer: when the bars there are do not hold all pieces.
    """
    bought = [i for i, s in enumerate(problem.supplies) if s.count is None]
    tries = [found for first in (*bought, None) if (found := _fit(problem, first)) is not None]
    if not tries:
        raise NoAnswer("The bars on the rack do not hold all pieces, and none is bought.", "Add a bought length, or make fewer.")
    return min(tries, key=problem.total)


def _fit(problem: Problem, first: int | None) -> tuple[Bar, ...] | None:
    """Largest piece first, into the first bar that has room; `first` is the bought length to open, None: the cheapest for it."""
    weights, held = problem.weights, problem.held
    # What is forged on the bar comes first: it needs the bar behind it.
    order = sorted(range(len(weights)), key=lambda i: (not held[i], -weights[i], i))
    open_: list[tuple[int, list[int], int]] = []  # supply, counts, used
    left = [s.count for s in problem.supplies]
    for i in order:
        wanted, slot = problem.demands[i], 0  # among equal pieces the first bar that has room never moves back
        while wanted:
            slot = next((k for k in range(slot, len(open_)) if _room(problem, open_[k][0], open_[k][2], i)), len(open_))
            if slot == len(open_):
                supply = _opened(problem, i, left, first)
                if supply is None:
                    return None
                count = left[supply]
                left[supply] = None if count is None else count - 1
                open_.append((supply, [0] * len(weights), 0))
            supply, counts, used = open_[slot]
            number = min(wanted, _room(problem, supply, used, i))
            counts[i] += number
            wanted -= number
            open_[slot] = (supply, counts, used + number * weights[i])
    return tuple(Bar(s, tuple(c)) for s, c, _u in open_)


def _room(problem: Problem, supply: int, used: int, piece: int) -> int:
    """How many of a piece still go on a bar."""
    room = problem.limits[supply] if problem.held[piece] else problem.rooms[supply]
    return max(0, room - used) // problem.weights[piece]


def _opened(problem: Problem, piece: int, left: Sequence[int | None], first: int | None) -> int | None:
    """The shortest offcut that holds the piece, or else a bought bar."""
    able = [s for s in range(len(left)) if left[s] != 0 and _room(problem, s, 0, piece)]
    offcuts = [s for s in able if left[s] is not None]
    if offcuts:
        return min(offcuts, key=lambda s: problem.rooms[s])
    if first in able:
        return first
    return min(able, key=lambda s: problem.price(s) / problem.rooms[s], default=None)
