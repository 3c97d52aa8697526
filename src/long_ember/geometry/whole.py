"""A whole piece as one closed solid, for other programs: one skin from end A to end B, holes cut out, branches joined on."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from long_ember.arrays import Array, Index
from long_ember.features import Shape, Span
from long_ember.geometry.figures import level_poses
from long_ember.geometry.framing import Frames, Pose
from long_ember.geometry.meshing import Mesh, along, branch_pose, fan, flipped, path_frames, placed_rings, prism, span_rings
from long_ember.sections import Blend

__all__ = ["whole_solid"]

_COUNT = 48  # corners of every outline: multiples of 7.5 degrees meet the corners of each
_DETAIL = 1 / 3  # bends in steps of two degrees: they keep their volume to 2 in 10,000
_HAIR = 0.001  # mm, by which a branch is let into what it stands on; far below what a hammer or a printer can do
_PULLED = 0.0002  # mm, by which end A is drawn in, and a step is less than square


def whole_solid(shapes: Sequence[tuple[str, Shape]]) -> Mesh:
    """A chain of shapes as one closed surface of exactly its outlines; where a bar lies in itself, both count.

    Args:
        shapes: id and form of each from end A to end B; the longest straight feature lies level.
    """
    from manifold3d import Manifold, OpType  # only when a solid is written

    poses = level_poses(shapes)
    whole = _manifold(_skin([(shape, pose) for (_id, shape), pose in zip(shapes, poses, strict=True)]))
    limbs = [limb for (_id, shape), pose in zip(shapes, poses, strict=True) for limb in _limbs(shape, pose)]
    if limbs:
        whole = Manifold.batch_boolean([whole, *(_manifold(_grown(limb)) for limb in limbs)], OpType.Add)
    cutters = [prism(void, shape).placed(pose) for (_id, shape), pose in zip(shapes, poses, strict=True) for void in shape.voids]
    if cutters:
        whole -= Manifold.batch_boolean([_manifold(c) for c in cutters], OpType.Add)
    raw = whole.to_mesh64()
    corners = np.asarray(raw.tri_verts, dtype=np.int64)
    return Mesh(np.asarray(raw.vert_properties[:, :3], dtype=float), corners[:, [0, 1, 2, 2]])


def _manifold(solid: Mesh) -> Any:
    from manifold3d import Manifold, Mesh64

    return Manifold(Mesh64(np.ascontiguousarray(solid.points), solid.triangles.astype(np.uint64)))


def _skin(placed: Sequence[tuple[Shape, Pose]]) -> Mesh:
    """Outlines along the whole chain as one closed surface, and inside it the bore of every stretch that has one."""
    outer: list[Array] = []
    bores: list[list[Array]] = []
    for shape, pose in placed:
        path = path_frames(shape, _DETAIL)
        for span, u, phase, own in along(shape, path):
            outer.append(_rings(span, u, phase, own, pose))
            if span.start.bore or span.end.bore:
                a, b = (Blend(max(end.bore, 1e-6), max(end.bore, 1e-6), np.pi / 4, "ellipse") for end in (span.start, span.end))
                inner = Span(span.length, a, b)
                rings = _rings(inner, u, phase, own, pose)
                for ring in rings:
                    if np.ptp(ring, axis=0).max() < _PULLED:
                        ring[:] = ring.mean(axis=0)  # a bore that runs out ends in one point, in any precision
                if bores and np.allclose(bores[-1][-1][-1].mean(axis=0), rings[0].mean(axis=0), atol=1e-6):
                    bores[-1].append(rings)
                else:
                    bores.append([rings])
    skin, inside = _strip(outer), [_strip(run) for run in bores]
    by = _toward(skin[0], skin[1])  # the end of a closed eye must not share corners with its beginning
    for strip in (*(bore for bore in inside if np.abs(bore[0].mean(axis=0) - skin[0].mean(axis=0)).max() < 1e-6), skin):
        strip[0] += by
    return _hollowed(skin, inside)


def _toward(ring: Array, other: Array) -> Array:
    """A hair's way from one outline's middle to another's, (3,)."""
    way = other.mean(axis=0) - ring.mean(axis=0)
    return np.asarray(way / max(float(np.linalg.norm(way)), 1e-9) * min(_PULLED, float(np.linalg.norm(way)) / 2))


def _rings(span: Span, u: Array, phase: Array, own: Frames, pose: Pose) -> Array:
    """The outlines of a span in space, (n, count, 3)."""
    n = len(u)
    return pose.place(placed_rings(span_rings(span, u, phase, _COUNT), own).reshape(-1, 3)).reshape(n, _COUNT, 3)


def _strip(runs: Sequence[Array]) -> Array:
    """Runs of outlines end to end; where one goes on as the other ends they share an outline, elsewhere a hair's length leads from one to the other.

    A face across the bar would fold over itself where each outline stands out beyond the other somewhere.
    """
    found = [runs[0]]
    for run in runs[1:]:
        if np.abs(run[0] - found[-1][-1]).max() < 1e-5:
            found.append(run[1:])
        else:
            found.append(np.concatenate((run[:1] + _toward(run[0], run[1]), run[1:])))
    return np.concatenate(found)


def _hollowed(outer: Array, bores: Sequence[Array]) -> Mesh:
    """A skin with its end faces; a bore that reaches an end leaves a ring there, one that does not is closed off."""
    ends = [outer[0].mean(axis=0), outer[-1].mean(axis=0)]
    points, faces, at = [outer.reshape(-1, 3)], [_sides(len(outer), 0)], outer.shape[0] * _COUNT
    last = at - _COUNT
    open_at = [False, False]
    for bore in bores:
        first, final = at, at + (len(bore) - 1) * _COUNT
        points.append(bore.reshape(-1, 3))
        faces.append(flipped(_sides(len(bore), at)))
        for end, (ring, own, turn) in enumerate(((0, first, False), (last, final, True))):
            if np.abs(bore[-1 if turn else 0].mean(axis=0) - ends[end]).max() < 1e-6:
                open_at[end] = True
                face = _between(ring, own)
                faces.append(flipped(face) if turn else face)
            else:
                faces.append(flipped(fan(_COUNT)) + own if turn else fan(_COUNT) + own)
        at += bore.shape[0] * _COUNT
    if not open_at[0]:
        faces.append(flipped(fan(_COUNT)))
    if not open_at[1]:
        faces.append(fan(_COUNT) + last)
    return Mesh(np.concatenate(points), np.concatenate(faces))


def _sides(n: int, start: int) -> Index:
    at = np.arange(n - 1)[:, None] * _COUNT + np.arange(_COUNT)
    after = np.arange(n - 1)[:, None] * _COUNT + (np.arange(_COUNT) + 1) % _COUNT
    sides = np.stack((at, after, after + _COUNT, at + _COUNT), axis=-1)
    sides[1::2] = np.roll(sides[1::2], 1, axis=-1)  # diagonals change sides from row to row, see the sweep of a shape
    return sides.reshape(-1, 4) + start


def _between(outer: int, inner: int) -> Index:
    """The ring between two outlines in one plane, seen from end A."""
    i, j = np.arange(_COUNT), (np.arange(_COUNT) + 1) % _COUNT
    return np.stack((outer + j, outer + i, inner + i, inner + j), axis=-1)


def _limbs(shape: Shape, pose: Pose) -> list[Mesh]:
    """Every branch of a shape, and theirs, as closed solids in space."""
    found = []
    path = path_frames(shape, _DETAIL)
    for branch in shape.branches:
        own = pose.then(branch_pose(branch, path))
        limb = _skin([(branch.shape, own)])
        # Run backwards a branch is its own mirror image: its faces are turned out again.
        found.append(limb if limb.volume > 0 else Mesh(limb.points, flipped(limb.faces)))
        found.extend(_limbs(branch.shape, own))
    return found


def _grown(solid: Mesh) -> Mesh:
    """Corners pushed outwards by a hair, so that a limb that only touches becomes one with what it stands on."""
    a, b, c = (solid.points[solid.triangles[:, i]] for i in range(3))
    normal = np.cross(b - a, c - a)
    total = np.zeros_like(solid.points)
    for i in range(3):
        np.add.at(total, solid.triangles[:, i], normal)
    size = np.linalg.norm(total, axis=1)[:, None]
    return Mesh(solid.points + total / np.maximum(size, 1e-12) * _HAIR, solid.faces)
