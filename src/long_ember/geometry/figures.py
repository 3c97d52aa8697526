"""Join the features' traces into the figure of a whole piece."""

from __future__ import annotations

import math
from collections.abc import Generator, Sequence
from functools import cached_property
from typing import Generic, TypeVar

import numpy as np

from long_ember.arrays import Array
from long_ember.features import Piece, Shape, Straight
from long_ember.frozen import dataclass
from long_ember.geometry.framing import START, Pose
from long_ember.geometry.meshing import Body, bodies, end_pose, outside
from long_ember.geometry.project import SIDE, Seen, look_at, seen
from long_ember.geometry.tracing import Trace, trace

__all__ = [
    "Figure",
    "Part",
    "drafting",
    "figure",
    "figuring",
    "level_bodies",
    "level_poses",
    "piece_bodies",
    "piece_figure",
    "piece_poses",
    "seen_figure",
    "sizing",
]

Box = tuple[float, float, float, float]
_ROUGH = 4  # detail for bounds: a bend's box is within 1 % of its size


@dataclass(frozen=True)
class Part:
    """One feature where it stands in the figure, mm, y upwards.

    The points are reckoned when they are first asked for: most drawing needs only the shape and its place.

    Args:
        id: of the feature.
        shape: what is drawn.
        heading: rad at its A end.
        start: x, y of its A end.
    """

    id: str
    shape: Shape
    heading: float
    start: tuple[float, float]

    def placed(self, points: Array) -> Array:
        """Points of the part's own frame, (n, 2), in the figure."""
        return _turn(points, self.heading) + self.start

    @property
    def s(self) -> Array:
        """Developed length along the centreline, (n,), mm."""
        return trace(self.shape).s

    @cached_property
    def centre(self) -> Array:
        """Centreline, (n, 2), mm."""
        return self.placed(trace(self.shape).points)

    @cached_property
    def left(self) -> Array:
        """Outline to the left of travel, (n, 2), mm."""
        return self.placed(trace(self.shape).points + trace(self.shape).offset)

    @cached_property
    def right(self) -> Array:
        """Outline to the right of travel, (n, 2), mm."""
        return self.placed(trace(self.shape).points - trace(self.shape).offset)

    def slice(self, start: float, stop: float) -> Array:
        """The outline between two developed lengths, mm, closed, (n, 2)."""
        keep = (self.s > start) & (self.s < stop)
        a, b = self.across(start), self.across(stop)
        left = np.vstack((a[0], self.left[keep], b[0]))
        right = np.vstack((a[1], self.right[keep], b[1]))
        return np.vstack((left, right[::-1]))

    def at(self, s: float) -> Array:
        """The point of the centreline at developed length `s` from the part's A end, (2,)."""
        return np.array([np.interp(s, self.s, self.centre[:, 0]), np.interp(s, self.s, self.centre[:, 1])])

    @property
    def reach(self) -> float:
        """Length as seen, mm: its own, for a straight part."""
        return self.shape.length

    def across(self, s: float) -> tuple[Array, Array]:
        """The two edge points at `s`, left and right, each (2,)."""
        pair = [np.array([np.interp(s, self.s, side[:, i]) for i in (0, 1)]) for side in (self.left, self.right)]
        return pair[0], pair[1]

    def end(self, last: bool) -> tuple[Array, Array]:
        """The two edge points at its A end, or at its B end, left and right, each (2,)."""
        seen = trace(self.shape)
        at = -1 if last else 0
        pair = self.placed(np.array([seen.points[at] + seen.offset[at], seen.points[at] - seen.offset[at]]))
        return pair[0], pair[1]


P = TypeVar("P", bound=Part | Seen)


@dataclass(frozen=True)
class Figure(Generic[P]):
    """All parts of a piece from end A to end B, the longest straight lying level.

    Args:
        parts: as drawn.
        steady: x0, y0, x1, y1 that count as its bounds whatever the outline, mm; None where the outline counts.
        pivot: x, y that keep still in space while the piece is turned.
    """

    parts: tuple[P, ...]
    steady: Box | None = None
    pivot: tuple[float, float] = (0.0, 0.0)

    @cached_property
    def bounds(self) -> tuple[float, float, float, float]:
        """x0, y0, x1, y1 in mm."""
        if not self.parts:
            return (0.0, 0.0, 1.0, 1.0)
        if self.steady is not None:
            return self.steady
        low, high = self.boxes[:, :2].min(axis=0), self.boxes[:, 2:].max(axis=0)
        return float(low[0]), float(low[1]), float(high[0]), float(high[1])

    @cached_property
    def boxes(self) -> Array:
        """x0, y0, x1, y1 of every part, (n, 4), mm; all points are turned in one pass over arrays."""
        if isinstance(self.parts[0], Seen):
            return np.array([p.box for p in self.parts if isinstance(p, Seen)])
        flat = [p for p in self.parts if isinstance(p, Part)]
        traces = [trace(p.shape, _ROUGH) for p in flat]
        counts = [len(t.rim) for t in traces]
        points = np.concatenate([t.rim for t in traces])
        angles = np.repeat(np.array([p.heading for p in flat]), counts)
        cos, sin = np.cos(angles), np.sin(angles)
        begin = np.repeat(np.array([p.start for p in flat]), counts, axis=0)
        placed = np.column_stack((points[:, 0] * cos - points[:, 1] * sin, points[:, 0] * sin + points[:, 1] * cos)) + begin
        starts = np.cumsum([0, *counts[:-1]])
        return np.hstack((np.minimum.reduceat(placed, starts), np.maximum.reduceat(placed, starts)))


def figure(shapes: Sequence[tuple[str, Shape]]) -> Figure[Part]:
    """Chain shapes end to end.

    Args:
        shapes: (feature id, shape) from end A to end B.
    """
    headings, starts = _chain([trace(shape) for _id, shape in shapes])
    level = _level(shapes, headings)
    cos, sin = math.cos(-level), math.sin(-level)
    return Figure(tuple(
        Part(identity, shape, heading - level, (x * cos - y * sin, x * sin + y * cos))
        for (identity, shape), heading, (x, y) in zip(shapes, headings, starts, strict=True)
    ))  # fmt: skip


def _chain(traces: Sequence[Trace]) -> tuple[list[float], list[tuple[float, float]]]:
    """Heading and starting point of each trace, the first at the origin."""
    heading, x, y = 0.0, 0.0, 0.0
    headings, starts = [], []
    for local in traces:
        headings.append(heading)
        starts.append((x, y))
        cos, sin, (dx, dy) = math.cos(heading), math.sin(heading), local.points[-1].tolist()
        x, y = x + dx * cos - dy * sin, y + dx * sin + dy * cos
        heading += local.heading
    return headings, starts


def _turn(points: Array, angle: float) -> Array:
    cos, sin = math.cos(angle), math.sin(angle)
    return np.asarray(points @ np.array([[cos, sin], [-sin, cos]]))


def _level(shapes: Sequence[tuple[str, Shape]], headings: list[float]) -> float:
    """Heading of the longest straight feature: it is laid level, so the drawing keeps still while bends change."""
    best, level = 0.0, 0.0
    for (_id, shape), heading in zip(shapes, headings, strict=True):
        if len(shape.path) == 1 and isinstance(shape.path[0], Straight) and shape.length > best + 1e-9:
            best, level = shape.length, heading
    return level


def piece_figure(piece: Piece, view: Array | None = None, *, steady: Box | None = None) -> Figure[Part] | Figure[Seen]:
    """The finished piece: flat in the plane of its bends where it has one, otherwise as seen from the side, or in `view`.

    Args:
        piece: verified.
        view: (3, 3), rows as in `SIDE`; None for the side.
        steady: x0, y0, x1, y1 about the pivot that count as its bounds, mm: while it is turned, the drawing must not breathe.
    """
    shapes = piece.shapes
    if view is None and all(shape.planar for _id, shape in shapes):
        return figure(shapes)
    return seen_figure(shapes, SIDE if view is None else view, steady=steady)


def piece_bodies(piece: Piece) -> tuple[Body, ...]:
    """The finished piece as solids, its longest straight feature level."""
    return level_bodies(piece.shapes)


def level_bodies(shapes: Sequence[tuple[str, Shape]]) -> tuple[Body, ...]:
    """Shapes chained in space as solids, the longest straight feature level."""
    return bodies(shapes, _level_axes(shapes, piece_poses(shapes)))


def level_poses(shapes: Sequence[tuple[str, Shape]]) -> list[Pose]:
    """Where each shape of a chain begins, its longest straight feature level, as in `level_bodies`."""
    level = Pose(np.zeros(3), _level_axes(shapes, piece_poses(shapes)).T)
    return [level.then(pose) for pose in piece_poses(shapes)]


def sizing(piece: Piece) -> Generator[None, None, tuple[float, float, float]]:
    """Size of the box that the finished piece just fits in as it is drawn from the side, mm: along, up, and across; in small portions.

    Args:
        piece: verified; zeros for an empty one.
    """
    low, high = np.full(3, np.inf), np.full(3, -np.inf)
    for _id, shape in piece.shapes:
        end_pose(shape)  # kept: the chain itself costs little
        yield
    for (_id, shape), pose in zip(piece.shapes, level_poses(piece.shapes), strict=False):
        points = pose.place((yield from outside(shape))) @ SIDE.T
        low, high = np.minimum(low, points.min(axis=0)), np.maximum(high, points.max(axis=0))
    along, up, across = (high - low).tolist() if piece.shapes else (0.0, 0.0, 0.0)
    return along, up, across


def piece_poses(shapes: Sequence[tuple[str, Shape]]) -> list[Pose]:
    """Where each shape of a chain begins, in the frame of the first."""
    global _last
    before, known = _last
    own = [shape for _id, shape in shapes]
    same = next((i for i, (a, b) in enumerate(zip(own, before, strict=False)) if a is not b), min(len(own), len(before)))
    poses = known[: same + 1] or [START]
    while len(poses) < len(own):
        at = len(poses)
        poses.append(poses[-1].then(end_pose(own[at - 1])))
        # While a length is typed, what follows it only moves along.
        along = at == same + 1 and len(own) == len(known) and np.array_equal(poses[at].axes, known[at].axes)
        if along and all(a is b for a, b in zip(own[at:], before[at:], strict=True)):
            poses += _shifted(poses[at], known[at:])
    poses = poses[: len(own)]
    _last = (own, poses)
    return poses


_last: tuple[list[Shape], list[Pose]] = ([], [])  # the last one: typing changes one shape of it


def _shifted(pose: Pose, known: list[Pose]) -> list[Pose]:
    """What follows the first of `known` when that one stands at `pose`, turned as before."""
    by = pose.at - known[0].at
    return [Pose(p.at + by, p.axes) for p in known[1:]]


def seen_figure(shapes: Sequence[tuple[str, Shape]], view: Array, *, steady: Box | None = None) -> Figure[Seen]:
    """Shapes chained in space, as seen; the longest straight feature lies level, as in `figure`."""
    if not shapes:
        return Figure(())
    at, turns, look = _facing(shapes, view)
    parts = seen(shapes, at @ look, turns)
    # Turned about the middle of its joints, which costs nothing to find and keeps still in space.
    x, y, _z = (_middle(at) @ look).tolist()
    held = None if steady is None else (x + steady[0], y + steady[1], x + steady[2], y + steady[3])
    return Figure(parts, held, (x, y))


def _facing(shapes: Sequence[tuple[str, Shape]], view: Array) -> tuple[Array, Array, Array]:
    """Where each shape begins, (n, 3) mm; how it is turned into the view, (n, 3, 3); and how the whole is, laid level and then seen, (3, 3)."""
    poses = piece_poses(shapes)
    look = _level_axes(shapes, poses).T @ view.T
    return np.array([p.at for p in poses]), np.array([p.axes for p in poses]) @ look, look


def drafting(shapes: Sequence[tuple[str, Shape]]) -> Generator[None, None, None]:
    """What drawing shapes in a plane takes long for, in small portions; it is kept with them."""
    for _id, shape in shapes:
        for detail in (1, _ROUGH):
            trace(shape, detail)
            yield


def figuring(piece: Piece, view: Array | None = None) -> Generator[None, None, None]:
    """What `piece_figure` takes long for, in small portions; it is kept with the shapes.

    Args:
        piece: verified.
        view: as there.
    """
    shapes = piece.shapes
    if view is None and all(shape.planar for _id, shape in shapes):
        yield from drafting(shapes)
        return
    for _id, shape in shapes:
        end_pose(shape)
        yield
    _at, turns, _look = _facing(shapes, SIDE if view is None else view)
    for (_id, shape), turn in zip(shapes, turns, strict=True):
        look_at(shape, turn)
        yield


def _middle(at: Array) -> Array:
    return np.asarray((at.min(axis=0) + at.max(axis=0)) / 2)


def _level_axes(shapes: Sequence[tuple[str, Shape]], poses: Sequence[Pose]) -> Array:
    """Rotation that lays the longest straight feature level, its own up upwards; (3, 3)."""
    best, axes = 0.0, np.eye(3)
    for (_id, shape), pose in zip(shapes, poses, strict=True):
        if len(shape.path) == 1 and isinstance(shape.path[0], Straight) and shape.length > best + 1e-9:
            best, axes = shape.length, pose.axes
    return axes
