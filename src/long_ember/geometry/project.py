"""Outlines of solids as seen from a direction: fast enough for every keystroke, exact for bars that do not point at the eye. mm."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from functools import cached_property

import numpy as np

from long_ember.arrays import Array, Mask
from long_ember.features import Arc, Helix, Shape, Spiral
from long_ember.frozen import dataclass
from long_ember.geometry.framing import START, Pose, frames
from long_ember.geometry.meshing import branch_pose, void_outline
from long_ember.geometry.tracing import ARC_STEP, sections_at, stations, stations_in_sight

__all__ = ["PLAN", "SIDE", "Aspect", "Seen", "look_at", "seen", "turned"]

SIDE = np.eye(3)  # rows: to the right, upwards, toward the eye
PLAN = np.array([[1.0, 0.0, 0.0], [0.0, 0.0, -1.0], [0.0, 1.0, 0.0]])


def turned(yaw: float, pitch: float) -> Array:
    """The view after turning the piece about the upright by `yaw` and tipping it toward the eye by `pitch`, rad; (3, 3)."""
    cy, sy, cp, sp = math.cos(yaw), math.sin(yaw), math.cos(pitch), math.sin(pitch)
    spin = np.array([[cy, 0.0, sy], [0.0, 1.0, 0.0], [-sy, 0.0, cy]])
    tip = np.array([[1.0, 0.0, 0.0], [0.0, cp, -sp], [0.0, sp, cp]])
    return np.asarray(tip @ spin)


@dataclass(frozen=True, eq=False)
class Aspect:
    """A shape as it looks from one direction, from where it begins: kept with the shape, since most parts only move along while one is typed.

    Args:
        s: developed length along the centreline, (n,).
        centre: centreline, (n, 2).
        left: outline to the left of travel, (n, 2).
        right: outline to the right, (n, 2).
        faces: sections at its ends that are turned toward the eye, each (m, 2).
        limbs: outlines of branches.
        rims: of holes.
        depth: of its middle, toward the eye.
        box: x0, y0, x1, y1.
        wound: its outline may lie over itself.
        kept: what the painter makes of it.
    """

    s: Array
    centre: Array
    left: Array
    right: Array
    faces: tuple[Array, ...]
    limbs: tuple[Array, ...]
    rims: tuple[Array, ...]
    depth: float
    box: Array
    wound: bool
    kept: dict[int, object]


@dataclass(frozen=True, eq=False)
class Seen:
    """One feature as seen, mm, y upwards.

    Args:
        id: of the feature.
        shape: what is seen.
        aspect: how it looks.
        start: x, y of its A end.
        depth: distance of its middle toward the eye.
    """

    id: str
    shape: Shape
    aspect: Aspect
    start: tuple[float, float]
    depth: float

    @property
    def s(self) -> Array:
        """Developed length along the centreline, (n,), mm."""
        return self.aspect.s

    @cached_property
    def centre(self) -> Array:
        """Centreline, (n, 2), mm."""
        return self.aspect.centre + self.start

    @cached_property
    def left(self) -> Array:
        """Outline to the left of travel, (n, 2), mm."""
        return self.aspect.left + self.start

    @cached_property
    def right(self) -> Array:
        """Outline to the right of travel, (n, 2), mm."""
        return self.aspect.right + self.start

    @property
    def reach(self) -> float:
        """Straight distance between its ends as seen, mm."""
        return math.hypot(*self.aspect.centre[-1].tolist())

    @property
    def heading(self) -> float:
        """Direction from end to end as seen, rad."""
        dx, dy = self.aspect.centre[-1].tolist()
        return math.atan2(dy, dx)

    @property
    def box(self) -> tuple[float, float, float, float]:
        """x0, y0, x1, y1, mm."""
        (x, y), (a, b, c, d) = self.start, self.aspect.box.tolist()
        return a + x, b + y, c + x, d + y

    def at(self, s: float) -> Array:
        """The point of the centreline at developed length `s`, (2,)."""
        return np.array([np.interp(s, self.s, self.aspect.centre[:, i]) for i in (0, 1)]) + self.start


@dataclass(frozen=True, eq=False)
class _Line:
    """A shape's frames with its sections, in its own frame: everything that a view turns.

    Args:
        s: developed length, (n,).
        points: centreline, (n, 3).
        along: (n, 3).
        sides: half the thickness times its direction and half the width times its own, twist and mitre included, (n, 2, 3).
        oval: the section has no corners, (n,).
        rims: of holes, in the middle of the bar, (k, 3) each.
    """

    s: Array
    points: Array
    along: Array
    sides: Array
    oval: Mask
    rims: tuple[Array, ...]


def _rims(shape: Shape) -> tuple[Array, ...]:
    """Holes stand in straight bar, so their rims lie across its first direction."""
    found = []
    for void in shape.voids:
        outline = void_outline(void)
        x, z = np.vstack((outline, outline[:1])).T
        x = x + void.centre
        zero = np.zeros_like(x)
        found.append(np.column_stack((x, zero, z) if void.axis == "thickness" else (x, z, zero)))
    return tuple(found)


def _line(shape: Shape) -> _Line:
    kept: dict[str, _Line] = shape.__dict__.setdefault("_line", {})
    if "line" not in kept:
        path = frames(shape, stations_in_sight(shape), ARC_STEP)
        t, w, k, phase = sections_at(shape.spans, np.clip(path.s, 0, shape.length))
        cos, sin, up, front = np.cos(phase)[:, None], np.sin(phase)[:, None], path.axes[:, 1], path.axes[:, 2]
        sides = np.stack(((cos * up - sin * front) * t[:, None] / 2, (cos * front + sin * up) * w[:, None] / 2), axis=1)
        lean = np.einsum("nki,ni->nk", sides, path.mitre)[..., None] * path.mitre[:, None]
        sides = sides + lean * (path.stretch - 1)[:, None, None]
        kept["line"] = _Line(path.s, path.points, path.axes[:, 0], sides, k < 0.95, _rims(shape))
    return kept["line"]


_DIPS, _MOST = 0.95, 12  # a bend that comes this near to pointing at the eye shows the section there; how many at most
_SQUARE = np.array([(1.0, 1.0), (1.0, -1.0), (-1.0, -1.0), (-1.0, 1.0)])
_ROUND = np.column_stack((np.cos(a := np.linspace(0, 2 * np.pi, 17)[:-1]), np.sin(a)))
_KEPT = 4  # directions remembered for each shape
_STEEP = 0.995  # share of a step that is seen; a bar turned further to the eye shows the face of its end


def seen(shapes: Sequence[tuple[str, Shape]], starts: Array, turns: Array) -> tuple[Seen, ...]:
    """Shapes as seen.

    Args:
        shapes: (feature id, shape).
        starts: where each begins in the view, (n, 3) mm: to the right, upwards, toward the eye.
        turns: from each one's own frame into the view, (n, 3, 3).
    """
    found = []
    for (identity, shape), (x, y, z), turn in zip(shapes, starts.tolist(), turns, strict=True):
        aspect = look_at(shape, turn)
        found.append(Seen(identity, shape, aspect, (x, y), z + aspect.depth))
    return tuple(found)


def look_at(shape: Shape, turn: Array) -> Aspect:
    """How a shape looks after its frame is turned by `turn`; the last few are kept."""
    kept: dict[bytes, Aspect] = shape.__dict__.setdefault("_aspects", {})
    key = turn.tobytes()
    if key not in kept:
        while len(kept) >= _KEPT:
            del kept[next(iter(kept))]
        kept[key] = _looked_at(shape, turn)
    return kept[key]


def _looked_at(shape: Shape, turn: Array) -> Aspect:
    limbs: list[Array] = []
    own: tuple[_Line, Array, Array, Array, tuple[Array, ...]] | None = None
    for line, pose in _members(shape, START):
        turned_by = pose.axes @ turn
        points, along = line.points @ turned_by + pose.at @ turn, line.along @ turned_by[:, :2]
        offset = _offsets(along, line.sides @ turned_by[:, :2], line.oval)
        left, right = points[:, :2] + offset, points[:, :2] - offset
        faces = _faces(points, along, line, turned_by)
        if own is None:
            own = (line, points, left, right, faces)
        else:
            limbs.extend((np.vstack((left, right[::-1])), *faces))
    assert own is not None
    line, points, left, right, faces = own
    box = np.concatenate((np.minimum(left.min(axis=0), right.min(axis=0)), np.maximum(left.max(axis=0), right.max(axis=0))))
    rims = tuple((p @ turn)[:, :2] for p in line.rims)
    depth = float(points[len(points) // 2, 2])
    return Aspect(line.s, points[:, :2], left, right, faces, tuple(limbs), rims, depth, _around(box, (*faces, *limbs)), _winds(shape), {})


def _winds(shape: Shape) -> bool:
    """More than a plain bend: seen from some sides its outline crosses itself."""
    return any(isinstance(s, (Spiral, Helix)) or (isinstance(s, Arc) and abs(s.angle) > 2.5) for s in shape.path)


def _faces(points: Array, along: Array, line: _Line, turn: Array) -> tuple[Array, ...]:
    """Sections that show: those at the ends, and those where the bar points more at the eye than beside them, each (m, 2)."""
    size = np.hypot(along[:, 0], along[:, 1])
    near = np.minimum(np.concatenate(([2.0], size[:-1])), np.concatenate((size[1:], [2.0])))
    places = np.flatnonzero((size <= near) & (size < _DIPS)).tolist()
    places = sorted({*places[:: max(1, len(places) // _MOST)], *(i for i in (0, len(size) - 1) if size[i] < _STEEP)})
    if not places:
        return ()
    corners = (line.sides[places] @ turn)[..., :2]
    return tuple(points[i, :2] + (_ROUND if line.oval[i] else _SQUARE) @ pair for i, pair in zip(places, corners, strict=True))


def _around(box: Array, more: Sequence[Array]) -> Array:
    """A box that holds more points too."""
    if not more:
        return box
    points = np.vstack((*more, box.reshape(2, 2)))
    return np.concatenate((points.min(axis=0), points.max(axis=0)))


def _members(shape: Shape, pose: Pose) -> Iterator[tuple[_Line, Pose]]:
    """A shape and its branches, each with its pose."""
    yield _line(shape), pose
    if shape.branches:
        path = frames(shape, stations(shape), ARC_STEP)
        for branch in shape.branches:
            yield from _members(branch.shape, pose.then(branch_pose(branch, path)))


def _offsets(along: Array, sides: Array, oval: Mask) -> Array:
    """From the centreline to the left edge, (n, 2): half of what the section measures across the direction of travel."""
    size = np.hypot(along[:, 0], along[:, 1])
    clear = size > 0.02
    # Where the bar points at the eye it keeps the last direction that was seen.
    ahead = np.maximum.accumulate(np.where(clear, np.arange(len(size)), -1))
    ahead = np.where(ahead < 0, int(np.argmax(clear)), ahead)
    way = along[ahead] / np.maximum(size[ahead], 1e-9)[:, None]
    across = np.column_stack((-way[:, 1], way[:, 0]))
    a, b = np.einsum("nkj,nj->kn", sides, across)
    half = np.where(oval, np.hypot(a, b), np.abs(a) + np.abs(b))
    return np.asarray(across * half[:, None])
