"""Centrelines in space: points and frames along a shape's path. mm and rad."""

from __future__ import annotations

import math

import numpy as np

from long_ember.arrays import Array, ordered
from long_ember.features import Arc, Corner, Helix, Segment, Shape, Spiral, Straight
from long_ember.features.curves import spiral_points
from long_ember.frozen import dataclass

__all__ = ["START", "Frames", "Pose", "end_of", "frames", "spiral_plane"]


@dataclass(frozen=True, eq=False)
class Pose:
    """A place in space with the bar's own directions.

    Args:
        at: (3,) mm.
        axes: (3, 3), rows: along the bar, up (thickness), front (width).
    """

    at: Array
    axes: Array

    def place(self, points: Array) -> Array:
        """Points of the local frame, (n, 3), mm, in space."""
        return np.asarray(points @ self.axes + self.at)

    def then(self, inner: Pose) -> Pose:
        """A pose given in this one's frame, in space."""
        return Pose(inner.at @ self.axes + self.at, inner.axes @ self.axes)

    @property
    def inverse(self) -> Pose:
        """This one's own frame as seen from where it stands: `pose.then(pose.inverse)` is no move at all."""
        return Pose(-self.at @ self.axes.T, self.axes.T)


START = Pose(np.zeros(3), np.eye(3))


@dataclass(frozen=True, eq=False)
class Frames:
    """A path sampled in space.

    Args:
        s: developed length, (n,).
        points: (n, 3).
        axes: (n, 3, 3), rows as in `Pose`.
        stretch: (n,) how much longer a section is across a mitre, 1 elsewhere.
        mitre: (n, 3) direction the mitre is stretched in, zero elsewhere.
    """

    s: Array
    points: Array
    axes: Array
    stretch: Array
    mitre: Array


def frames(shape: Shape, wanted: Array, arc_step: float) -> Frames:
    """Sample a path.

    The frame turns with every bend about the axis of that bend and never about the bar itself, so up stays up along straight bar.

    Args:
        shape: whose path.
        wanted: developed lengths that must be among the samples, (m,) mm.
        arc_step: largest step of turning, rad.
    """
    pose, start = START, 0.0
    blocks: list[tuple[Array, Array, Array, Array, Array]] = []
    for segment in shape.path:
        if isinstance(segment, Corner):
            half, whole = _turn(segment.angle / 2, segment.facing), _turn(segment.angle, segment.facing)
            if blocks:
                blocks[-1] = tuple(a[:-1] for a in blocks[-1])  # type: ignore[assignment]
            lean = np.array([0.0, math.cos(segment.facing), math.sin(segment.facing)]) @ half @ pose.axes
            stretch = np.array([1 / math.cos(segment.angle / 2)])
            blocks.append((np.array([start]), pose.at[None], (half @ pose.axes)[None], stretch, lean[None]))
            pose = Pose(pose.at, whole @ pose.axes)
            continue
        s, points, axes = _samples(segment, wanted - start, arc_step)
        keep = slice(1 if blocks else 0, None)
        placed = (s + start)[keep], pose.place(points)[keep], (axes @ pose.axes)[keep]
        blocks.append((*placed, np.ones(len(placed[0])), np.zeros((len(placed[0]), 3))))
        pose, start = pose.then(Pose(points[-1], axes[-1])), start + segment.length
    return Frames(*(np.concatenate(column) for column in zip(*blocks, strict=True)))


def end_of(shape: Shape, arc_step: float) -> Pose:
    """Where what follows a path begins, in the frame of its beginning; a corner at its end is turned whole, and not half as in its mitre."""
    pose = START
    for segment in shape.path:
        if isinstance(segment, Corner):
            pose = Pose(pose.at, _turn(segment.angle, segment.facing) @ pose.axes)
        elif isinstance(segment, Straight):
            pose = Pose(pose.at + segment.length * pose.axes[0], pose.axes)
        elif isinstance(segment, Arc):
            heading, radius = segment.angle, segment.length / segment.angle
            out = radius * (1 - math.cos(heading))
            at = np.array([radius * math.sin(heading), out * math.cos(segment.facing), out * math.sin(segment.facing)])
            pose = pose.then(Pose(at, _turn(heading, segment.facing)))
        else:
            _s, points, axes = _samples(segment, _NONE, arc_step)
            pose = pose.then(Pose(points[-1], axes[-1]))
    return pose


_NONE = np.empty(0)


def _turn(heading: float, facing: float) -> Array:
    """`_turned` of one heading, without arrays of one."""
    c, f, ch, sh = math.cos(facing), math.sin(facing), math.cos(heading), math.sin(heading)
    rows = (ch, sh * c, sh * f), (-c * sh, c * c * ch + f * f, c * f * (ch - 1)), (-f * sh, c * f * (ch - 1), f * f * ch + c * c)
    return np.array(rows)


def _samples(segment: Segment, wanted: Array, arc_step: float) -> tuple[Array, Array, Array]:
    """Developed length, points and axes of one segment in its own frame."""
    inside = wanted[(wanted > 1e-9) & (wanted < segment.length - 1e-9)]
    if isinstance(segment, Straight):
        s = np.concatenate(([0.0], inside, [segment.length]))
        return s, np.column_stack((s, np.zeros((len(s), 2)))), np.broadcast_to(np.eye(3), (len(s), 3, 3))
    if isinstance(segment, Helix):
        return _helix(segment, arc_step)
    if isinstance(segment, Arc):
        steps = max(2, math.ceil(abs(segment.angle) / arc_step))
        s = ordered(np.concatenate((np.linspace(0, segment.length, steps + 1), inside)))
        heading, radius = segment.angle * s / segment.length, segment.length / segment.angle
        x, y = radius * np.sin(heading), radius * (1 - np.cos(heading))
    else:
        assert isinstance(segment, Spiral)
        s, x, y, heading = spiral_plane(segment, arc_step)
    c, f = math.cos(segment.facing), math.sin(segment.facing)
    return s, np.column_stack((x, y * c, y * f)), _turned(heading, segment.facing)


def _turned(heading: Array, facing: float) -> Array:
    """Axes after turning by each `heading`, (n,) rad, toward `facing`; (n, 3, 3)."""
    c, f, ch, sh = math.cos(facing), math.sin(facing), np.cos(heading), np.sin(heading)
    along = np.stack((ch, sh * c, sh * f), axis=-1)
    up = np.stack((-c * sh, c * c * ch + f * f, c * f * (ch - 1)), axis=-1)
    front = np.stack((-f * sh, c * f * (ch - 1), f * f * ch + c * c), axis=-1)
    return np.stack((along, up, front), axis=-2)


def spiral_plane(spiral: Spiral, arc_step: float) -> tuple[Array, Array, Array, Array]:
    """Developed length, x, y and heading of a spiral in its own plane, from the origin along +x."""
    count = max(12, math.ceil(spiral.angle / arc_step))
    s, points, heading = spiral_points(spiral.form, spiral.r0, spiral.r1, spiral.angle, count)
    side = spiral.turn
    if spiral.outward:
        points = points - points[0]
    else:  # walked from the outside in it turns the other way, so it is flipped to the wanted side
        s, points, heading, side = s[-1] - s[::-1], points[::-1] - points[-1], heading[::-1] + math.pi, -spiral.turn
    first = float(heading[0])
    cos, sin = math.cos(first), math.sin(first)
    level = points @ np.array([[cos, -sin], [sin, cos]])
    return s, level[:, 0], level[:, 1] * side, (heading - first) * side


def _helix(helix: Helix, arc_step: float) -> tuple[Array, Array, Array]:
    count = max(12, math.ceil(2 * math.pi * helix.turns / arc_step))
    angle = np.linspace(0, 2 * math.pi * helix.turns, count)
    r, rise = helix.radius, helix.hand * helix.pitch / (2 * math.pi)
    size = math.hypot(r, rise)
    zero = np.zeros_like(angle)
    # In a frame whose second axis points to the coil's axis and whose third runs along it.
    points = np.column_stack((r * np.sin(angle), r * (1 - np.cos(angle)), rise * angle))
    along = np.column_stack((r * np.cos(angle), r * np.sin(angle), zero + rise)) / size
    inward = np.column_stack((-np.sin(angle), np.cos(angle), zero))
    third = np.cross(along, inward)
    level = np.array([along[0], inward[0], third[0]]).T  # brings the first direction onto +x
    c, f = math.cos(helix.facing), math.sin(helix.facing)
    roll = np.array([[1, 0, 0], [0, c, f], [0, -f, c]])
    to_bar = level @ roll
    up, front = c * inward - f * third, f * inward + c * third
    axes = np.stack((along @ to_bar, up @ to_bar, front @ to_bar), axis=1)
    return angle * size, points @ to_bar, axes
