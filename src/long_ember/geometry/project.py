"""Outlines of solids as seen from a direction: fast enough for every keystroke, exact for bars that do not point at the eye. mm."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from long_ember.arrays import Array, Mask
from long_ember.features import Shape
from long_ember.geometry.frames import Frames, Pose, frames
from long_ember.geometry.mesh import branch_pose, ring
from long_ember.geometry.trace import ARC_STEP, sections_at, stations
from long_ember.sections import Blend

__all__ = ["PLAN", "SIDE", "Seen", "seen", "turned"]

SIDE = np.eye(3)  # rows: to the right, upwards, toward the eye
PLAN = np.array([[1.0, 0.0, 0.0], [0.0, 0.0, -1.0], [0.0, 1.0, 0.0]])


def turned(yaw: float, pitch: float) -> Array:
    """The view after turning the piece about the upright by `yaw` and tipping it toward the eye by `pitch`, rad; (3, 3)."""
    cy, sy, cp, sp = math.cos(yaw), math.sin(yaw), math.cos(pitch), math.sin(pitch)
    spin = np.array([[cy, 0.0, sy], [0.0, 1.0, 0.0], [-sy, 0.0, cy]])
    tip = np.array([[1.0, 0.0, 0.0], [0.0, cp, -sp], [0.0, sp, cp]])
    return np.asarray(tip @ spin)


@dataclass(frozen=True, eq=False)
class Seen:
    """One feature as seen, mm, y upwards.

    Args:
        id: of the feature.
        shape: what is seen.
        s: developed length along the centreline, (n,).
        centre: centreline, (n, 2).
        left: outline to the left of travel, (n, 2).
        right: outline to the right, (n, 2).
        faces: sections at its ends that are turned toward the eye, each (m, 2).
        limbs: outlines of branches.
        rims: of holes.
        depth: mean distance toward the eye.
        box: x0, y0, x1, y1.
    """

    id: str
    shape: Shape
    s: Array
    centre: Array
    left: Array
    right: Array
    faces: tuple[Array, ...]
    limbs: tuple[Array, ...]
    rims: tuple[Array, ...]
    depth: float
    box: Array

    @property
    def start(self) -> tuple[float, float]:
        """Its A end."""
        return float(self.centre[0, 0]), float(self.centre[0, 1])

    @cached_property
    def reach(self) -> float:
        """Straight distance between its ends as seen."""
        return float(np.hypot(*(self.centre[-1] - self.centre[0])))

    @cached_property
    def heading(self) -> float:
        """Direction from end to end as seen, rad."""
        dx, dy = self.centre[-1] - self.centre[0]
        return math.atan2(dy, dx)

    def at(self, s: float) -> Array:
        """The point of the centreline at developed length `s`, (2,)."""
        return np.array([np.interp(s, self.s, self.centre[:, i]) for i in (0, 1)])


@dataclass(frozen=True, eq=False)
class _Line:
    """A shape's frames with its sections, in its own frame: everything that a view turns.

    Args:
        s: developed length, (n,).
        points: centreline, (n, 3).
        along: (n, 3).
        sides: half the thickness times its direction and half the width times its own, twist and mitre included, (n, 2, 3).
        oval: the section has no corners, (n,).
        ends: outlines of the first and of the last section, (m, 3) each.
        rims: of holes, in the middle of the bar, (k, 3) each.
    """

    s: Array
    points: Array
    along: Array
    sides: Array
    oval: Mask
    ends: tuple[Array, Array]
    rims: tuple[Array, ...]


def _rims(shape: Shape) -> tuple[Array, ...]:
    """Holes stand in straight bar, so their rims lie across its first direction."""
    angle = np.linspace(0, 2 * math.pi, 33)
    found = []
    for void in shape.voids:
        x, z = void.centre + void.diameter / 2 * np.cos(angle), (void.across or void.diameter) / 2 * np.sin(angle)
        zero = np.zeros_like(x)
        found.append(np.column_stack((x, zero, z) if void.axis == "thickness" else (x, z, zero)))
    return tuple(found)


def _line(shape: Shape) -> _Line:
    kept: dict[str, _Line] = shape.__dict__.setdefault("_line", {})
    if "line" not in kept:
        path = frames(shape, stations(shape), ARC_STEP)
        t, w, k, phase = sections_at(shape.spans, np.clip(path.s, 0, shape.length))
        cos, sin, up, front = np.cos(phase)[:, None], np.sin(phase)[:, None], path.axes[:, 1], path.axes[:, 2]
        sides = np.stack(((cos * up - sin * front) * t[:, None] / 2, (cos * front + sin * up) * w[:, None] / 2), axis=1)
        lean = np.einsum("nki,ni->nk", sides, path.mitre)[..., None] * path.mitre[:, None]
        sides = sides + lean * (path.stretch - 1)[:, None, None]
        ends = tuple(_end(blend, path, i, float(phase[i])) for blend, i in ((shape.spans[0].start, 0), (shape.spans[-1].end, -1)))
        kept["line"] = _Line(path.s, path.points, path.axes[:, 0], sides, k < 0.95, (ends[0], ends[1]), _rims(shape))
    return kept["line"]


def _end(blend: Blend, path: Frames, index: int, phase: float) -> Array:
    points = ring(blend, _END_CORNERS.get(blend.form, 16))
    cos, sin = math.cos(phase), math.sin(phase)
    y, z = points[:, 0] * cos + points[:, 1] * sin, points[:, 1] * cos - points[:, 0] * sin
    return np.asarray(path.points[index] + y[:, None] * path.axes[index, 1] + z[:, None] * path.axes[index, 2])


_STEEP = 0.7  # share of a step that is seen; a bar turned nearer to the eye shows the face of its end
_END_CORNERS = {"rectangle": 4, "hexagon": 6, "octagon": 8, "half": 48}


def seen(shapes: Sequence[tuple[str, Shape]], poses: Sequence[Pose], view: Array) -> tuple[Seen, ...]:
    """Shapes at their poses as seen in `view`; everything is turned in one pass over arrays.

    Args:
        shapes: (feature id, shape).
        poses: where each begins.
        view: (3, 3), rows as in `SIDE`.
    """
    owners: list[int] = []
    rows: list[tuple[_Line, Pose]] = []
    for i, ((_id, shape), pose) in enumerate(zip(shapes, poses, strict=True)):
        for line, place in _members(shape, pose):
            owners.append(i)
            rows.append((line, place))
    if not rows:
        return ()
    counts = [len(line.s) for line, _pose in rows]
    turns = np.array([pose.axes @ view.T for _line, pose in rows])
    starts = np.array([view @ pose.at for _line, pose in rows])
    which = np.repeat(np.arange(len(rows)), counts)
    turn = turns[which]
    points = np.einsum("ni,nij->nj", np.concatenate([line.points for line, _p in rows]), turn) + starts[which]
    along = np.einsum("ni,nij->nj", np.concatenate([line.along for line, _p in rows]), turn[..., :2])
    sides = np.einsum("nki,nij->nkj", np.concatenate([line.sides for line, _p in rows]), turn[..., :2])
    offset = _offsets(along, sides, np.concatenate([line.oval for line, _p in rows]))
    left, right = points[:, :2] + offset, points[:, :2] - offset
    first = np.cumsum([0, *counts[:-1]])
    boxes = np.hstack((np.minimum(np.minimum.reduceat(left, first), np.minimum.reduceat(right, first)),
                       np.maximum(np.maximum.reduceat(left, first), np.maximum.reduceat(right, first))))  # fmt: skip
    steep = np.hypot(along[:, 0], along[:, 1]) < _STEEP
    made: list[list[Array]] = [[] for _ in shapes]
    found: list[Seen] = []
    for row, (owner, a) in enumerate(zip(owners, first.tolist(), strict=True)):
        b = a + counts[row]
        faces = tuple((p @ turns[row] + starts[row])[:, :2] for p, i in zip(rows[row][0].ends, (a, b - 1), strict=True) if steep[i])
        if owner == len(found):
            identity, shape = shapes[owner]
            middle = points[a:b]
            found.append(Seen(identity, shape, rows[row][0].s, middle[:, :2], left[a:b], right[a:b], faces, (),
                              tuple((p @ turns[row] + starts[row])[:, :2] for p in rows[row][0].rims), float(middle[len(middle) // 2, 2]),
                              _around(boxes[row], faces)))  # fmt: skip
        else:
            made[owner].extend((np.vstack((left[a:b], right[a:b][::-1])), *faces))
    return tuple(
        replace(one, limbs=tuple(extra), box=_around(one.box, extra)) if extra else one for one, extra in zip(found, made, strict=True)
    )


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
