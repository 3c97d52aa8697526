"""Follow a drawn line: points into straights and arcs within a tolerance. mm and rad."""

from __future__ import annotations

import math

import numpy as np

from long_ember.arrays import Array
from long_ember.features import Arc, Corner, Segment, Straight

__all__ = ["follow"]

_SMOOTH = math.radians(4)  # a change of direction below this is taken for a drawing's own roughness
_STRAIGHT = 1e4  # mm; a larger radius is a straight


def follow(points: Array, tolerance: float = 0.2) -> tuple[Segment, ...]:
    """Straights, arcs and sharp corners that stay within `tolerance` of a polyline.

    Each stretch is made as long as it can be, by doubling and halving; then every joint is either smooth or a corner.

    Args:
        points: (n, 2) mm, in order.
        tolerance: mm.

    Returns:
        Segments from the first point to the last; together as long as the curve within the tolerance.
    """
    points = _distinct(points)
    pieces: list[tuple[float, float, float, float]] = []  # heading in, heading out, length, angle
    at = 0
    while at < len(points) - 1:
        stop = _reach(points, at, tolerance)
        pieces.append(_piece(points[at : stop + 1]))
        at = stop
    found: list[Segment] = []
    for i, (start, _end, length, angle) in enumerate(pieces):
        if i:
            turn = _wrapped(start - pieces[i - 1][1])
            if abs(turn) > _SMOOTH:
                found.append(Corner(turn))
        found.append(Straight(length) if angle == 0 else Arc(length, angle))
    return _merged(found)


def _distinct(points: Array) -> Array:
    keep = np.concatenate(([True], np.hypot(*np.diff(points, axis=0).T) > 1e-9))
    return np.asarray(points[keep], dtype=float)


def _reach(points: Array, at: int, tolerance: float) -> int:
    """The last point that one straight or arc from `at` still fits."""
    step, good = 1, at + 1
    while at + step < len(points) and _fits(points[at : at + step + 1], tolerance):
        good, step = at + step, step * 2
    low, high = good, min(at + step, len(points) - 1)
    if _fits(points[at : high + 1], tolerance):
        return high
    while high - low > 1:
        middle = (low + high) // 2
        if _fits(points[at : middle + 1], tolerance):
            low = middle
        else:
            high = middle
    return low


def _fits(points: Array, tolerance: float) -> bool:
    if len(points) <= 2:
        return True
    # Two steps that meet at a visible angle are a corner, however short they are.
    ways = np.arctan2(*np.diff(points, axis=0).T[::-1])
    if np.abs((np.diff(ways) + np.pi) % (2 * np.pi) - np.pi).max() > math.radians(25):
        return False
    centre, radius = _circle(points)
    if radius > _STRAIGHT:
        a, b = points[0], points[-1]
        along = (b - a) / max(float(np.hypot(*(b - a))), 1e-12)
        return bool(np.abs((points - a) @ np.array([-along[1], along[0]])).max() <= tolerance)
    return bool(np.abs(np.hypot(*(points - centre).T) - radius).max() <= tolerance)


def _circle(points: Array) -> tuple[Array, float]:
    """The circle through the first, the middle and the last point."""
    a, b, c = points[0], points[len(points) // 2], points[-1]
    (bx, by), (cx, cy) = b - a, c - a
    d = 2 * (bx * cy - by * cx)
    if abs(d) < 1e-12:
        return a, math.inf
    ux, uy = (cy * (bx * bx + by * by) - by * (cx * cx + cy * cy)) / d, (bx * (cx * cx + cy * cy) - cx * (bx * bx + by * by)) / d
    return a + np.array([ux, uy]), math.hypot(ux, uy)


def _piece(points: Array) -> tuple[float, float, float, float]:
    """Heading at both ends, length, angle (0 for a straight)."""
    centre, radius = _circle(points) if len(points) > 2 else (points[0], math.inf)
    dx, dy = points[-1] - points[0]
    chord = math.atan2(dy, dx)
    if radius > _STRAIGHT:
        return chord, chord, math.hypot(dx, dy), 0.0
    spokes = points - centre
    turns = np.angle(np.exp(1j * np.diff(np.arctan2(spokes[:, 1], spokes[:, 0]))))
    angle = float(turns.sum())
    first = math.atan2(spokes[0, 1], spokes[0, 0]) + math.copysign(math.pi / 2, angle)
    return first, first + angle, abs(angle) * radius, angle


def _wrapped(angle: float) -> float:
    return (angle + math.pi) % (2 * math.pi) - math.pi


def _merged(segments: list[Segment]) -> tuple[Segment, ...]:
    """Neighbouring straights as one."""
    found: list[Segment] = []
    for s in segments:
        if isinstance(s, Straight) and found and isinstance(found[-1], Straight):
            found[-1] = Straight(found[-1].length + s.length)
        else:
            found.append(s)
    return tuple(found)
