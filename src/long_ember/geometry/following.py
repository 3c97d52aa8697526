"""Follow a drawn line: points into straights, arcs and sharp corners. mm and rad.

Along a course of straights and arcs the heading is a straight-sided function of the length: level on a straight, sloping on an arc,
jumping at a corner. So the heading is simplified, not the points: bends then run smoothly into each other by themselves.
"""

from __future__ import annotations

import itertools
import math

import numpy as np

from long_ember.arrays import Array, Index
from long_ember.features import Arc, Corner, Segment, Straight

__all__ = ["follow"]

_CORNER = math.radians(14)  # a sharper change of direction between two steps is a corner
_LEVEL = math.radians(0.25)  # turning less than this is a straight
_ROUGH = tuple(math.radians(d) for d in (4.0, 2.0, 1.0, 0.5, 0.25, 0.12))  # of the heading, tried in turn
_SLIGHT = math.radians(3)  # turning that may be the drawing's own roughness
_FLAT = 3000.0  # mm; a larger radius is a straight to any smith
_STEP, _MOST = 0.25, 3000  # mm between samples, and how many at most


def follow(points: Array, tolerance: float = 0.25) -> tuple[Segment, ...]:
    """Segments that stay within `tolerance` of a polyline, as few as the first roughness of the heading that does so gives.

    Args:
        points: (n, 2) mm, in order, at least two of them apart.
        tolerance: mm.

    Returns:
        Straights, arcs and corners, as long together as the polyline.
    """
    points = _distinct(points)
    steps = np.diff(points, axis=0)
    heading = np.unwrap(np.arctan2(steps[:, 1], steps[:, 0]))
    turns = np.diff(heading)
    cuts = [0, *(np.flatnonzero(np.abs(turns) > _CORNER) + 1).tolist(), len(points) - 1]
    found: list[Segment] = []
    last = 0.0
    for a, b in itertools.pairwise(cuts):
        knots, values = _smooth(points[a : b + 1], heading[a:b], tolerance)
        if a:
            turn = (float(values[0]) - last + math.pi) % (2 * math.pi) - math.pi
            found.append(Corner(turn))
        found.extend(_segments(knots, values))
        last = float(values[-1])
    return tuple(found)


def _distinct(points: Array) -> Array:
    keep = np.concatenate(([True], np.hypot(*np.diff(points, axis=0).T) > 1e-9))
    return np.asarray(points[keep], dtype=float)


def _smooth(points: Array, heading: Array, tolerance: float) -> tuple[Array, Array]:
    """Knots of the heading over the length of a stretch without corners."""
    ends = np.concatenate(([0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))))
    total = float(ends[-1])
    count = int(min(max(total / _STEP, 12), _MOST))
    s = (np.arange(count) + 0.5) * total / count
    wanted = heading[np.clip(np.searchsorted(ends, s) - 1, 0, len(heading) - 1)]
    target = np.column_stack([np.interp(s + total / count / 2, ends, points[:, i]) for i in (0, 1)])
    knots, values = np.array([0.0, total]), np.full(2, float(wanted.mean()))
    for rough in _ROUGH:
        knots = _knots(s, wanted, total, rough)
        values = _fitted(knots, s, wanted, np.arange(len(knots)))
        if _strays(knots, values, s, target, points[0]) <= tolerance:
            break
    # What hardly turns is a straight, if the drawing allows it.
    tied = np.concatenate(([0], np.cumsum(np.abs(np.diff(values)) > _SLIGHT)))
    level = _fitted(knots, s, wanted, tied)
    return (knots, level) if _strays(knots, level, s, target, points[0]) <= tolerance else (knots, values)


def _strays(knots: Array, values: Array, s: Array, target: Array, start: Array) -> float:
    """How far the course leaves the drawing at most, mm."""
    heading = np.interp(s, knots, values)
    walked = start + np.cumsum(np.column_stack((np.cos(heading), np.sin(heading))) * (knots[-1] / len(s)), axis=0)
    return float(np.hypot(*(walked - target).T).max())


def _knots(s: Array, heading: Array, total: float, rough: float) -> Array:
    """Where the heading changes its slope: farthest points first, until none is farther off than `rough`."""
    kept = {0, len(s) - 1}
    stack = [(0, len(s) - 1)]
    while stack:
        a, b = stack.pop()
        if b - a < 2:
            continue
        line = heading[a] + (heading[b] - heading[a]) * (s[a : b + 1] - s[a]) / (s[b] - s[a])
        off = np.abs(heading[a : b + 1] - line)
        i = int(off.argmax())
        if off[i] > rough:
            kept.add(a + i)
            stack.extend(((a, a + i), (a + i, b)))
    inner = s[sorted(kept)][1:-1]
    return np.concatenate(([0.0], inner, [total]))


def _fitted(knots: Array, s: Array, heading: Array, tied: Index) -> Array:
    """Values at the knots whose straight-sided function is nearest to the heading (least squares); knots tied together share one value."""
    hats = np.column_stack([np.interp(s, knots, (tied == group).astype(float)) for group in range(int(tied[-1]) + 1)])
    return np.asarray(np.linalg.lstsq(hats, heading, rcond=None)[0][tied])


def _segments(knots: Array, values: Array) -> list[Segment]:
    found: list[Segment] = []
    for length, turn in zip(np.diff(knots).tolist(), np.diff(values).tolist(), strict=True):
        if abs(turn) >= _LEVEL and length < abs(turn) * _FLAT:
            found.append(Arc(length, turn))
        elif found and isinstance(found[-1], Straight):
            found[-1] = Straight(found[-1].length + length)
        else:
            found.append(Straight(length))
    return found
