"""Where a piece runs into itself: a scroll into its own stem, a coil into the bar beside it. mm."""

from __future__ import annotations

import itertools
from collections.abc import Generator, Sequence

import numpy as np

from long_ember.arrays import Array, Index
from long_ember.features import Piece, Shape
from long_ember.frozen import dataclass
from long_ember.geometry.figures import piece_poses
from long_ember.geometry.framing import Pose, frames
from long_ember.geometry.meshing import branch_pose
from long_ember.geometry.tracing import ARC_STEP, sections_at, stations
from long_ember.portions import all_portions

__all__ = ["Contact", "contacts", "looked_for"]

_CLEAR = 0.15  # of the two half thicknesses: lighter touching is what a hammer sets right
_MOST = 4000  # balls of one feature: of a bar of 100 m as many as of a gate
_APART = 2.2  # half thicknesses along the bar; nearer neighbours always touch


@dataclass(frozen=True, slots=True)
class Contact:
    """Two features that stand in the same place.

    Args:
        first: id of the feature nearer end A.
        second: id of the other.
        depth: how far they run into each other, mm.
    """

    first: str
    second: str
    depth: float


def contacts(piece: Piece) -> tuple[Contact, ...]:
    """Every pair of features that run into each other, the deepest place of each pair.

    The bar is taken as balls strung along its centreline, as thick as the bar is thin; turns of one feature are its own check's business.
    """
    return all_portions(looked_for(piece))


def looked_for(piece: Piece) -> Generator[None, None, tuple[Contact, ...]]:
    """The same in portions of about a millisecond; what it returns is what `contacts` gives."""
    shapes = piece.shapes
    yield
    points, radius, along, owner = yield from _balls(shapes, piece_poses(shapes))
    found: dict[tuple[int, int], float] = {}
    closing = {i for i, (identity, _shape) in enumerate(shapes) if (feature := piece.feature(identity)) is not None and feature.closes}
    first, second = yield from _neighbours(points, float(radius.max(initial=0.0)) * 2)
    reach = radius[first] + radius[second]
    gap = np.linalg.norm(points[first] - points[second], axis=1)
    apart = np.abs(along[first] - along[second]) > _APART * reach
    hit = (owner[first] != owner[second]) & apart & (gap < (1 - _CLEAR) * reach)
    for a, b, depth in zip(owner[first[hit]].tolist(), owner[second[hit]].tolist(), (reach - gap)[hit].tolist(), strict=True):
        if (a in closing or b in closing) and (abs(a - b) <= 1 or {a, b} <= closing):
            continue
        key = (min(a, b), max(a, b))
        found[key] = max(found.get(key, 0.0), depth)
    return tuple(Contact(shapes[a][0], shapes[b][0], depth) for (a, b), depth in sorted(found.items()))


def _neighbours(points: Array, reach: float) -> Generator[None, None, tuple[Index, Index]]:
    """Pairs of points that may lie within reach of each other, looked up by the cube of space that they lie in.

    Args:
        points: (n, 3).
        reach: mm, the side of a cube.

    Returns:
        Their numbers, (m,) each; every pair once.
    """
    if len(points) < 2 or reach <= 0:
        return np.zeros(0, dtype=int), np.zeros(0, dtype=int)
    cubes = np.floor((points - points.min(axis=0)) / reach).astype(np.int64)
    size = cubes.max(axis=0) + 3
    keys = ((cubes[:, 0] + 1) * size[1] + cubes[:, 1] + 1) * size[2] + cubes[:, 2] + 1
    order = np.argsort(keys, kind="stable")
    kept = keys[order]
    firsts, seconds = [], []
    for dx, dy, dz in itertools.product((-1, 0, 1), repeat=3):
        step = (dx * size[1] + dy) * size[2] + dz
        if step < 0:
            continue
        low, high = np.searchsorted(kept, keys + step, "left"), np.searchsorted(kept, keys + step, "right")
        number = high - low
        mine = np.repeat(np.arange(len(points)), number)
        other = order[np.arange(len(mine)) - np.repeat(np.cumsum(number) - number, number) + np.repeat(low, number)]
        keep = mine < other if step == 0 else np.ones(len(mine), dtype=bool)
        firsts.append(mine[keep])
        seconds.append(other[keep])
        yield
    return np.concatenate(firsts), np.concatenate(seconds)


def _balls(shapes: Sequence[tuple[str, Shape]], poses: Sequence[Pose]) -> Generator[None, None, tuple[Array, Array, Array, Index]]:
    """Centres (n, 3), radii (n,), developed length from end A (n,) and feature number (n,)."""
    columns: list[tuple[Array, Array, Array, Index]] = []
    start = 0.0
    for number, ((_id, shape), pose) in enumerate(zip(shapes, poses, strict=True)):
        columns.append(_strung(shape, pose, start, number))
        path = frames(shape, stations(shape), ARC_STEP) if shape.branches else None
        for branch in shape.branches:
            if path is not None and branch.name != "laid on":
                columns.append(_strung(branch.shape, pose.then(branch_pose(branch, path)), start + branch.at, number))
        start += shape.length
        yield
    if not columns:
        return np.zeros((0, 3)), np.zeros(0), np.zeros(0), np.zeros(0, dtype=int)
    points, radius, along, owner = (np.concatenate(c) for c in zip(*columns, strict=True))
    return points, radius, along, owner


def _strung(shape: Shape, pose: Pose, start: float, number: int) -> tuple[Array, Array, Array, Index]:
    thick = max(min(b.t, b.w) for span in shape.spans for b in (span.start, span.end))
    wanted = np.arange(0, shape.length, max(thick / 2, 1.0, shape.length / _MOST))
    path = frames(shape, wanted, ARC_STEP * 2)
    t, w, _k, _phase = sections_at(shape.spans, np.clip(path.s, 0, shape.length))
    return pose.place(path.points), np.minimum(t, w) / 2, path.s + start, np.full(len(path.s), number)
