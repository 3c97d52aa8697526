"""Where a piece runs into itself: a scroll into its own stem, a coil into the bar beside it. mm."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from long_ember.arrays import Array, Index
from long_ember.features import Piece, Shape, shape_of
from long_ember.geometry.figure import piece_poses
from long_ember.geometry.frames import Pose, frames
from long_ember.geometry.mesh import branch_pose
from long_ember.geometry.trace import ARC_STEP, sections_at, stations

__all__ = ["Contact", "contacts"]

_CLEAR = 0.15  # of the two half thicknesses: lighter touching is what a hammer sets right
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
    shapes = [(f.id, shape_of(f, piece.place(i))) for i, f in enumerate(piece.features)]
    rows = _balls(shapes, piece_poses(shapes))
    points, radius, along, owner = rows
    found: dict[tuple[int, int], float] = {}
    closing = {i for i, f in enumerate(piece.features) if f.kind in ("eye", "scarf")}  # made to lie against their neighbour
    for i in range(len(points) - 1):
        others = slice(i + 1, None)
        gap = np.linalg.norm(points[others] - points[i], axis=1)
        reach = radius[others] + radius[i]
        hit = (owner[others] != owner[i]) & (np.abs(along[others] - along[i]) > _APART * reach) & (gap < (1 - _CLEAR) * reach)
        for j in (np.flatnonzero(hit) + i + 1).tolist():
            a, b = int(owner[i]), int(owner[j])
            if (a in closing or b in closing) and (abs(a - b) <= 1 or {a, b} <= closing):
                continue
            key = (min(a, b), max(a, b))
            found[key] = max(found.get(key, 0.0), float(radius[i] + radius[j] - np.linalg.norm(points[i] - points[j])))
    return tuple(Contact(shapes[a][0], shapes[b][0], depth) for (a, b), depth in sorted(found.items()))


def _balls(shapes: Sequence[tuple[str, Shape]], poses: Sequence[Pose]) -> tuple[Array, Array, Array, Index]:
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
    if not columns:
        return np.zeros((0, 3)), np.zeros(0), np.zeros(0), np.zeros(0, dtype=int)
    points, radius, along, owner = (np.concatenate(c) for c in zip(*columns, strict=True))
    return points, radius, along, owner


def _strung(shape: Shape, pose: Pose, start: float, number: int) -> tuple[Array, Array, Array, Index]:
    thick = max(min(b.t, b.w) for span in shape.spans for b in (span.start, span.end))
    wanted = np.arange(0, shape.length, max(thick / 2, 1.0))
    path = frames(shape, wanted, ARC_STEP * 2)
    t, w, _k, _phase = sections_at(shape.spans, np.clip(path.s, 0, shape.length))
    return pose.place(path.points), np.minimum(t, w) / 2, path.s + start, np.full(len(path.s), number)
