"""Join the features' traces into the figure of a whole piece."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from long_ember.features import Piece, Shape, Straight, shape_of
from long_ember.geometry.trace import Array, trace

__all__ = ["Figure", "Part", "figure", "piece_figure"]


@dataclass(frozen=True)
class Part:
    """One feature as drawn, mm, y upwards.

    Args:
        id: of the feature.
        shape: what is drawn.
        left: outline to the left of travel, (n, 2).
        right: outline to the right, (n, 2).
        centre: centreline, (n, 2).
        s: developed length along it, (n,).
        lines: helix lines, each (m, 2).
    """

    id: str
    shape: Shape
    left: Array
    right: Array
    centre: Array
    s: Array
    lines: tuple[Array, ...]

    @property
    def outline(self) -> Array:
        """Closed polygon, (2n, 2)."""
        return np.vstack((self.left, self.right[::-1]))

    def at(self, s: float) -> Array:
        """The point of the centreline at developed length `s` from the part's A end, (2,)."""
        return np.array([np.interp(s, self.s, self.centre[:, 0]), np.interp(s, self.s, self.centre[:, 1])])

    def across(self, s: float) -> tuple[Array, Array]:
        """The two edge points at `s`, left and right, each (2,)."""
        pair = [np.array([np.interp(s, self.s, side[:, i]) for i in (0, 1)]) for side in (self.left, self.right)]
        return pair[0], pair[1]


@dataclass(frozen=True)
class Figure:
    """All parts of a piece from end A to end B, the longest straight lying level."""

    parts: tuple[Part, ...]

    @cached_property
    def bounds(self) -> tuple[float, float, float, float]:
        """x0, y0, x1, y1 in mm."""
        if not self.parts:
            return (0.0, 0.0, 1.0, 1.0)
        points = np.vstack([p.outline for p in self.parts])
        low, high = points.min(axis=0), points.max(axis=0)
        return float(low[0]), float(low[1]), float(high[0]), float(high[1])


def figure(shapes: Sequence[tuple[str, Shape]]) -> Figure:
    """Chain shapes end to end.

    Args:
        shapes: (feature id, shape) from end A to end B.
    """
    heading, at, headings, starts = 0.0, np.zeros(2), [], []
    for _id, shape in shapes:
        local = trace(shape)
        headings.append(heading)
        starts.append(at)
        at = at + _turn(local.points[-1:], heading)[0]
        heading += local.heading
    level = _level(shapes, headings)
    parts = [
        _part(identity, shape, float(h) - level, _turn(start[None, :], -level)[0])
        for (identity, shape), h, start in zip(shapes, headings, starts, strict=True)
    ]
    return Figure(tuple(parts))


def _part(identity: str, shape: Shape, heading: float, start: Array) -> Part:
    local = trace(shape)
    centre = _turn(local.points, heading) + start
    offset = _turn(local.normal, heading) * local.half[:, None]
    lines = tuple(_turn(line, heading) + start for line in local.lines)
    return Part(identity, shape, centre + offset, centre - offset, centre, local.s, lines)


def _turn(points: Array, angle: float) -> Array:
    if angle == 0.0:
        return points
    cos, sin = math.cos(angle), math.sin(angle)
    return np.asarray(points @ np.array([[cos, sin], [-sin, cos]]))


def _level(shapes: Sequence[tuple[str, Shape]], headings: list[float]) -> float:
    """Heading of the longest straight feature: it is laid level, so the drawing keeps still while bends change."""
    best, level = 0.0, 0.0
    for (_id, shape), heading in zip(shapes, headings, strict=True):
        if len(shape.path) == 1 and isinstance(shape.path[0], Straight) and shape.length > best + 1e-9:
            best, level = shape.length, heading
    return level


def piece_figure(piece: Piece) -> Figure:
    """The finished piece."""
    return figure([(f.id, shape_of(f, piece.place(i))) for i, f in enumerate(piece.features)])
