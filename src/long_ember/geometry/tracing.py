"""Sample one feature's shape in the plane of the drawing: points, directions, half thicknesses. All mm and rad.

Bends that leave the plane are laid into it; `mesh` has the true shape.
"""

from __future__ import annotations

import itertools
import math
from functools import cached_property

import numpy as np

from long_ember.arrays import Array, Mask, ordered
from long_ember.features import Arc, Branch, Corner, Helix, Segment, Shape, Span, Spiral, Straight
from long_ember.frozen import dataclass
from long_ember.geometry.framing import spiral_plane

__all__ = ["Trace", "sections_at", "stations", "trace"]


ARC_STEP = math.radians(6)
_TWIST_SAMPLES = 24  # a turn
_MOST = 480
_SHOULDER, _BESIDE = 0.01, 1e-6  # mm: a step that can be seen, and how far behind a place the next begins


@dataclass(frozen=True)
class Trace:
    """A feature sampled in its own frame: it starts at the origin heading along +x.

    Args:
        s: developed length, (n,).
        points: centreline, (n, 2).
        offset: from the centreline to the left edge as seen in the plane of the bends, (n, 2).
        heading: rad at the far end.
        lines: visible helix or facet lines, each (m, 2).
        limbs: outlines of branches, each (m, 2).
    """

    s: Array
    points: Array
    offset: Array
    heading: float
    lines: tuple[Array, ...]
    limbs: tuple[Array, ...] = ()

    @cached_property
    def rim(self) -> Array:
        """Both edges, and those of the branches, (2n, 2), mm."""
        return np.vstack((self.points + self.offset, self.points - self.offset, *self.limbs))


def trace(shape: Shape, detail: int = 1) -> Trace:
    """Sample a shape; the answer is kept with the shape, which never changes.

    Args:
        shape: what to sample.
        detail: 1 is fine enough for any drawing; 4 takes steps four times as long, for small pictures.
    """
    kept: dict[int, Trace] = shape.__dict__.setdefault("_traces", {})
    if detail not in kept:
        # A straight shape has the same few samples at any detail.
        kept[detail] = trace(shape) if detail != 1 and _straight(shape) else _trace(shape, detail)
    return kept[detail]


def _straight(shape: Shape) -> bool:
    return all(isinstance(seg, Straight) for seg in shape.path) and not any(span.turns for span in shape.spans)


def _level(shape: Shape) -> Trace:
    """One straight length without twist or branches, which most of a piece is: its joints are all there is to sample."""
    s, half = [0.0], [shape.spans[0].start.t / 2]
    for span in shape.spans:
        if abs(span.start.t / 2 - half[-1]) > _SHOULDER:  # it jumps there
            s.append(s[-1])
            half.append(span.start.t / 2)
        s.append(s[-1] + span.length)
        half.append(span.end.t / 2)
    s[-1] = shape.path[0].length
    points, offset = np.zeros((len(s), 2)), np.zeros((len(s), 2))
    points[:, 0], offset[:, 1] = s, half
    return Trace(points[:, 0], points, offset, 0.0, ())


def _trace(shape: Shape, detail: int) -> Trace:
    if len(shape.path) == 1 and not shape.branches and _straight(shape):
        return _level(shape)
    total = shape.length
    s, points, heading, stretch, turn = _walk(shape.path, stations_in_sight(shape, detail), ARC_STEP * detail)
    normal = np.column_stack((-np.sin(heading), np.cos(heading))) * stretch[:, None]
    t, w, k, phase = sections_at(shape.spans, np.clip(s, 0, total))
    half = _silhouette(t, w, k, phase)
    lines = _helix(points, normal, t, w, k, phase) if any(span.turns for span in shape.spans) else ()
    limbs = [limb for b in shape.branches for limb in _limbs(b, s, points, heading, detail)]
    return Trace(s, points, normal * half[:, None], turn, lines, tuple(limbs))


def _limbs(branch: Branch, s: Array, points: Array, heading: Array, detail: int) -> list[Array]:
    """A branch's outline where it leaves the centreline, and those of its own branches."""
    at = np.array([np.interp(branch.at, s, points[:, i]) for i in (0, 1)])
    angle = float(np.interp(branch.at, s, heading))
    at += branch.up * np.array([-math.sin(angle), math.cos(angle)])
    own = trace(branch.shape, detail)
    cos, sin = math.cos(angle), math.sin(angle)
    flip = -1.0 if branch.back else 1.0  # run backwards the branch is its own mirror image, so that up stays up
    turn = np.array([[cos * flip, sin * flip], [-sin, cos]])
    outline = np.vstack((own.points + own.offset, (own.points - own.offset)[::-1]))
    return [part @ turn + at for part in (outline, *own.limbs)]


def stations(shape: Shape, detail: float = 1) -> Array:
    """Developed lengths that the path alone would not sample, (n,), mm: span ends and twist steps."""
    ends, places = 0.0, [0.0]
    for span in shape.spans:
        steps = min(_MOST, max(1, math.ceil(abs(span.turns) * _TWIST_SAMPLES / detail)))
        places.extend(ends + span.length * (i + 1) / steps for i in range(steps))
        ends += span.length
    return np.array(places)


def stations_in_sight(shape: Shape, detail: float = 1) -> Array:
    """The same for an outline: where one span ends thinner than the next begins, both sides of the shoulder, (n,), mm."""
    ends, found = 0.0, [stations(shape, detail)]
    for before, span in itertools.pairwise(shape.spans):
        ends += before.length
        if max(abs(span.start.t - before.end.t), abs(span.start.w - before.end.w)) > _SHOULDER:
            found.append(np.array([ends + _BESIDE]))
    return np.sort(np.concatenate(found)) if len(found) > 1 else found[0]


def _walk(path: tuple[Segment, ...], wanted: Array, arc_step: float) -> tuple[Array, Array, Array, Array, float]:
    at, heading, start = np.zeros(2), 0.0, 0.0
    rows: list[Array] = []
    for segment in path:
        if isinstance(segment, Corner):
            if rows:  # the straight before it ends here: replace its last sample by the mitre
                rows[-1] = rows[-1][:-1]
            turn = segment.angle * _side(segment.facing)
            rows.append(np.array([[start, at[0], at[1], heading + turn / 2, 1 / math.cos(turn / 2)]]))
            heading += turn
            continue
        local = _samples(segment, wanted - start, arc_step)
        cos, sin = math.cos(heading), math.sin(heading)
        turned = local[:, 1:3] @ np.array([[cos, sin], [-sin, cos]]) + at
        block = np.column_stack((local[:, 0] + start, turned, local[:, 3] + heading, np.ones(len(local))))
        rows.append(block[1:] if rows else block)
        at, heading, start = turned[-1], heading + float(local[-1, 3]), start + segment.length
    table = np.vstack(rows)
    return table[:, 0], table[:, 1:3], table[:, 3], table[:, 4], heading


def _samples(segment: Segment, wanted: Array, arc_step: float) -> Array:
    """Rows of s, x, y, heading in the segment's own frame."""
    inside = wanted[(wanted > 1e-9) & (wanted < segment.length - 1e-9)]
    if isinstance(segment, Straight):
        s = np.concatenate(([0.0], inside, [segment.length]))
        return np.column_stack((s, s, np.zeros_like(s), np.zeros_like(s)))
    if isinstance(segment, Arc):
        return _arc(segment.length, segment.angle * _side(segment.facing), inside, arc_step)
    if isinstance(segment, Helix):
        return _arc(segment.length, 2 * math.pi * segment.turns * _side(segment.facing), inside, arc_step)
    assert isinstance(segment, Spiral)
    return _spiral(segment, arc_step)


def _arc(length: float, angle: float, inside: Array, arc_step: float) -> Array:
    steps = max(2, math.ceil(abs(angle) / arc_step))
    s = ordered(np.concatenate((np.linspace(0, length, steps + 1), inside)))
    heading, radius = angle * s / length, length / angle
    return np.column_stack((s, radius * np.sin(heading), radius * (1 - np.cos(heading)), heading))


def _spiral(spiral: Spiral, arc_step: float) -> Array:
    s, x, y, heading = spiral_plane(spiral, arc_step)
    side = _side(spiral.facing)
    return np.column_stack((s, x, y * side, heading * side))


def _side(facing: float) -> int:
    """+1 for what rises above the bar, −1 for what falls below it; what leaves the plane is laid upwards."""
    return 1 if math.cos(facing) > -1e-9 else -1


def sections_at(spans: tuple[Span, ...], s: Array) -> tuple[Array, Array, Array, Array]:
    """Thickness, width, shape factor and twist phase (rad) at developed lengths, each (n,)."""
    ends = np.cumsum([0.0] + [span.length for span in spans])
    index = np.clip(np.searchsorted(ends, s, side="left") - 1, 0, len(spans) - 1)
    table = np.array([(a.t, b.t, a.w, b.w, a.k, b.k) for a, b in ((x.start, x.end) for x in spans)])
    u = (s - ends[index]) / np.maximum(ends[index + 1] - ends[index], 1e-12)
    rows = table[index]
    before = np.concatenate(([0.0], np.cumsum([x.turns for x in spans])))
    turns = np.array([x.turns for x in spans])
    phase = 2 * math.pi * (before[index] + turns[index] * u)
    t, w, k = (rows[:, i] + (rows[:, i + 1] - rows[:, i]) * u for i in (0, 2, 4))
    return t, w, k, phase


def _silhouette(t: Array, w: Array, k: Array, phase: Array) -> Array:
    """Half height of a turned section: exact for rectangles, the plain half thickness for the others."""
    turned = (t * np.abs(np.cos(phase)) + w * np.abs(np.sin(phase))) / 2
    return np.where(k > 0.95, turned, t / 2)


def _helix(points: Array, normal: Array, t: Array, w: Array, k: Array, phase: Array) -> tuple[Array, ...]:
    lines: list[Array] = []
    corners = ((1, 1), (1, -1), (-1, 1), (-1, -1))
    for right, up in corners:
        shrink = np.where(k > 0.95, 1.0, math.sqrt(0.5))  # on a round bar the line lies on the surface
        across, height = right * w / 2 * shrink, up * t / 2 * shrink
        y = height * np.cos(phase) + across * np.sin(phase)
        toward = across * np.cos(phase) - height * np.sin(phase)
        lines.extend(_runs(points + normal * y[:, None], toward > 0))
    return tuple(lines)


def _runs(points: Array, keep: Mask) -> list[Array]:
    edges = np.flatnonzero(np.diff(np.concatenate(([False], keep, [False])).astype(np.int8)))
    return [points[a:b] for a, b in zip(edges[::2], edges[1::2], strict=True) if b - a > 1]
