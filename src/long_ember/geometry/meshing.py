"""Solids as closed triangle and quad meshes: a section swept along the frames of a path, holes cut out. mm."""

from __future__ import annotations

import math
from collections.abc import Generator, Iterable, Iterator, Sequence
from dataclasses import replace
from functools import cached_property, lru_cache

import numpy as np

from long_ember.arrays import Array, Index, ordered
from long_ember.features import Branch, Shape, Span, Void
from long_ember.frozen import dataclass
from long_ember.geometry.framing import START, Frames, Pose, end_of, frames
from long_ember.geometry.tracing import ARC_STEP, stations
from long_ember.portions import all_portions
from long_ember.sections import Blend, Section

__all__ = [
    "Body", "Mesh", "along", "blend_outline", "bodies", "branch_pose", "end_pose", "fan", "flipped", "joined", "mesh", "outside", "path_frames", "placed_rings", "point_stations", "prism", "ring",
    "section_outline", "span_rings", "void_outline",
]  # fmt: skip

_ROUND = 24  # corners of a round section
_MORPH = 12  # steps along a span whose outline changes
_MIXED = 48  # corners where one outline runs into another: multiples of 7.5° meet the corners of every outline


@dataclass(frozen=True, eq=False)
class Mesh:
    """A closed surface.

    Args:
        points: (n, 3) mm.
        faces: (m, 4) indices, anticlockwise from outside; a triangle repeats its last corner.
    """

    points: Array
    faces: Index

    @cached_property
    def triangles(self) -> Index:
        """(k, 3) indices; no triangle is without area because it repeats a corner."""
        first, second = self.faces[:, [0, 1, 2]], self.faces[:, [0, 2, 3]]
        return np.concatenate((first, second[second[:, 1] != second[:, 2]]))

    @cached_property
    def volume(self) -> float:
        """Enclosed volume by the divergence theorem, mm³."""
        a, b, c = (self.points[self.triangles[:, i]] for i in range(3))
        return float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum() / 6)

    def placed(self, pose: Pose) -> Mesh:
        """The mesh of a local frame, in space."""
        return Mesh(pose.place(self.points), self.faces)


def joined(meshes: Sequence[Mesh]) -> Mesh:
    """Several meshes as one, their shells side by side."""
    if not meshes:
        return Mesh(np.zeros((0, 3)), np.zeros((0, 4), dtype=np.int64))
    starts = np.cumsum([0, *(len(m.points) for m in meshes[:-1])])
    return Mesh(np.vstack([m.points for m in meshes]), np.vstack([m.faces + s for m, s in zip(meshes, starts, strict=True)]))


@lru_cache(maxsize=64)
def _outline(form: str, count: int) -> Array:
    """An outline of unit width and thickness as (count, 2) corners (up, front), its centroid at the origin."""
    angle = 2 * np.pi * np.arange(count) / count
    if form == "half":
        return _centred(_half(count))
    if form.startswith("wedge"):
        corners = _wedge(form)
        return corners if count == len(corners) else _centred(_rays(corners, count))
    if form == "ellipse":
        radius = np.full(count, 0.5)
    else:
        sides = {"rectangle": 4, "hexagon": 6, "octagon": 8}[form]
        angle = angle + (np.pi / sides if count == sides else 0.0)  # a flat up: as many corners as sides lie between the flats
        off = (angle + np.pi / sides) % (2 * np.pi / sides) - np.pi / sides  # from the nearest flat's middle
        radius = 0.5 / np.cos(off)
    return np.column_stack((radius * np.cos(angle), radius * np.sin(angle)))


def _half(count: int) -> Array:
    """A half disc of unit width and height: rays from its centroid to the flat below or the arc above."""
    angle = 2 * np.pi * np.arange(count) / count
    up, front = np.cos(angle), np.sin(angle)
    high = 2 / (3 * np.pi)  # of the centroid over the flat, in a disc of radius 1/2
    flat = np.where(up < -1e-12, high / np.maximum(-up, 1e-12), 1e9)
    arc = -high * up + np.sqrt(0.25 - (high * front) ** 2)
    radius = np.minimum(flat, arc)
    return np.column_stack((radius * up * 2, radius * front))


@lru_cache(maxsize=64)
def _wedge(form: str) -> Array:
    """A bar of unit size thinned at its front edge (1), its back edge (−1) or both (2), about its centroid."""
    share, edge, edges = (float(word) for word in form.split()[1:])
    thin = [(0.5, 0.5 - share), (edge / 2, 0.5), (-edge / 2, 0.5), (-0.5, 0.5 - share)]
    other = [(-up, -front) for up, front in thin] if edges == 2 else [(-0.5, -0.5), (0.5, -0.5)]
    corners = np.array([*thin, *other])
    return _centred(corners[::-1] * (1, -1) if edges < 0 else corners)


def _centred(corners: Array) -> Array:
    """A closed outline about the centroid of its area, so that a bend of its middle line keeps its volume."""
    (y, z), (v, u) = corners.T, np.roll(corners, -1, axis=0).T
    cross = y * u - v * z
    return np.asarray(corners - np.array([((y + v) * cross).sum(), ((z + u) * cross).sum()]) / (3 * cross.sum()))


def _rays(corners: Array, count: int) -> Array:
    """Where rays from the centroid at even angles leave a convex outline, (count, 2)."""
    angle = 2 * np.pi * np.arange(count) / count
    ways = np.column_stack((np.cos(angle), np.sin(angle)))
    a, edge = corners, np.roll(corners, -1, axis=0) - corners
    normal = np.column_stack((edge[:, 1], -edge[:, 0]))
    reach = (a * normal).sum(axis=1)[None] / np.where(np.abs(d := ways @ normal.T) < 1e-12, np.inf, d)
    return np.asarray(ways * np.where(reach > 1e-12, reach, np.inf).min(axis=1)[:, None])


_FOLD = ("inside", "left foot", "left heel", "apex", "right heel", "right foot")


def _fold(blend: Blend) -> Array:
    """An upturned V, its inner corner first so that its face can be fanned from there; corners as in `_FOLD`."""
    y, z, thick = blend.t / 2, blend.w / 2, blend.k * blend.t
    return np.array([(y - thick, 0.0), (-y, -z), (thick - y, -z), (y, 0.0), (thick - y, z), (-y, z)])


def _divided(corners: Array, count: int) -> Array:
    """A closed outline with `count` corners, its own among them, as many on each side."""
    each, share = count // len(corners), np.arange(count // len(corners))[:, None] / (count // len(corners))
    sides = [a + (b - a) * share for a, b in zip(corners, np.roll(corners, -1, axis=0), strict=True)]
    assert each * len(corners) == count
    return np.concatenate(sides)


def _corners(form: str) -> int:
    if form.startswith("wedge"):
        return len(_wedge(form))
    return {"rectangle": 4, "hexagon": 6, "octagon": 8, "half": _MIXED, "fold": len(_FOLD), "barrel": _MIXED}.get(form, _ROUND)


def ring(blend: Blend, count: int) -> Array:
    """A section's outline as `count` corners, (count, 2) mm (up, front), of exactly the section's area without its bore."""
    if blend.form == "rectangle" and count in (4, 8):
        return _rectangle(blend, count)
    if blend.form == "rectangle" and blend.k < 0.9999:
        return np.roll(_divided(np.roll(_rectangle(blend, 8), 1, axis=0), count), -count // 16, axis=0)  # from the middle of the upper side
    if blend.form == "fold":
        return _fold(blend) if count == len(_FOLD) else _divided(np.roll(_fold(blend), -_FOLD.index("apex"), axis=0), count)
    if blend.form == "barrel":
        angle = 2 * np.pi * np.arange(count) / count
        reach = np.minimum(blend.w / 2, blend.t / 2 / np.maximum(np.abs(np.cos(angle)), 1e-12))
        points = np.column_stack((np.cos(angle), np.sin(angle))) * reach[:, None]
        return np.asarray(points * math.sqrt(blend.k * blend.t * blend.w / _area(points)))
    points = _outline(blend.form, count) * (blend.t, blend.w)
    return np.asarray(points * math.sqrt(max(blend.k * blend.t * blend.w, 0.0) / max(_area(points), 1e-12)))


def section_outline(section: Section, corners: int = 0) -> tuple[Array, ...]:
    """A section's outline across the bar and, for a tube, its bore: each (n, 2) mm, x across, y up.

    Args:
        section: of the bar.
        corners: of a round outline; 0 for as many as the solids have.
    """
    edge = blend_outline(section.blend, corners)
    if not section.wall:
        return (edge,)
    return edge, edge * (1 - 2 * section.wall / section.width)


def blend_outline(blend: Blend, corners: int = 96) -> Array:
    """The outline of a section anywhere along a piece: (n, 2) mm, x across, y up; see `section_outline`."""
    count = _corners(blend.form)
    if blend.form == "rectangle" and blend.k < 0.9999:
        count = 8
    elif corners and count == _ROUND:
        count = corners
    return ring(replace(blend, bore=0.0), count)[:, ::-1]


def _rectangle(blend: Blend, count: int) -> Array:
    """Four corners, or eight when they are broken or rounded: the chamfer takes what the shape factor says is missing."""
    y, z = blend.t / 2, blend.w / 2
    if count == 4:
        return np.array([(y, -z), (y, z), (-y, z), (-y, -z)]) * math.sqrt(max(blend.k, 0.0))
    c = min(math.sqrt(max(1 - blend.k, 0.0) * blend.t * blend.w / 2), y, z)
    # Anticlockwise from up: the same sense as the other outlines.
    return np.array([(y, z - c), (y - c, z), (c - y, z), (-y, z - c), (-y, c - z), (c - y, -z), (y - c, -z), (y, c - z)])


def _area(points: Array) -> float:
    a, b = points, np.roll(points, -1, axis=0)
    return float((a[:, 0] * b[:, 1] - a[:, 1] * b[:, 0]).sum() / 2)


def _count(span: Span) -> int:
    a, b = span.start, span.end
    if a.form == "fold" or b.form == "fold":
        return len(_FOLD)
    if a.form != b.form:
        return _MIXED
    if a.form == "rectangle":
        return 4 if min(a.k, b.k) > 0.9999 else 8
    return _corners(a.form)


def span_rings(span: Span, u: Array, phase: Array, count: int = 0) -> Array:
    """Outlines at fractions `u` of a span, turned by the twist, (n, count, 2) mm.

    Args:
        span: of the shape.
        u: from its A end, (n,).
        phase: rad, (n,).
        count: corners; 0 for as many as its outlines need.
    """
    count = count or _count(span)
    first, last = ring(span.start, count), ring(span.end, count)
    rings = first + (last - first) * u[:, None, None]
    w, t, k = (getattr(span.start, n) + (getattr(span.end, n) - getattr(span.start, n)) * u for n in ("w", "t", "k"))
    a, b = rings, np.roll(rings, -1, axis=1)
    area = (a[..., 0] * b[..., 1] - a[..., 1] * b[..., 0]).sum(axis=1) / 2
    if "half" in (span.start.form, span.end.form) and span.start.form != span.end.form:
        rings = np.array([_centred(r) if size > 1e-9 else r for r, size in zip(rings, area, strict=True)])
    rings = rings * np.sqrt(np.maximum(k * w * t, 1e-12) / np.maximum(area, 1e-12))[:, None, None]
    if span.turns and not (span.start.form == span.end.form == "ellipse" and span.start.w == span.start.t):
        # Between two outlines turned by δ a straight-sided solid is thinner in its middle: (2 + cos δ)/3 of the section.
        rings = rings * math.sqrt(3 / (2 + math.cos(float(np.abs(np.diff(phase)).max(initial=0.0)))))
        cos, sin = np.cos(phase)[:, None], np.sin(phase)[:, None]
        rings = np.stack((rings[..., 0] * cos + rings[..., 1] * sin, rings[..., 1] * cos - rings[..., 0] * sin), axis=-1)
    return np.asarray(rings)


def placed_rings(rings: Array, path: Frames) -> Array:
    """Outlines, (n, m, 2), where they stand along frames, (n, m, 3) mm; leaning and stretched across a mitre."""
    offset = rings[..., :1] * path.axes[:, None, 1] + rings[..., 1:] * path.axes[:, None, 2]
    lean = np.einsum("nmk,nk->nm", offset, path.mitre)[..., None] * path.mitre[:, None]
    return np.asarray(path.points[:, None] + offset + lean * (path.stretch - 1)[:, None, None])


def _swept(rings: Array, path: Frames) -> Mesh:
    """A closed tube of rings along frames."""
    n, m, _two = rings.shape
    points = placed_rings(rings, path).reshape(-1, 3)
    at = np.arange(n - 1)[:, None] * m + np.arange(m)
    after = np.arange(n - 1)[:, None] * m + (np.arange(m) + 1) % m
    sides = np.stack((at, after, after + m, at + m), axis=-1)
    # Diagonals change sides from row to row: on a twisted bar one kind alone would cut into every side.
    sides[1::2] = np.roll(sides[1::2], 1, axis=-1)
    caps = fan(m)
    return Mesh(points, np.concatenate((sides.reshape(-1, 4), flipped(caps), caps + (n - 1) * m)))


def flipped(faces: Index) -> Index:
    """Faces seen from the other side; a triangle still repeats its last corner."""
    return np.where((faces[:, 2] == faces[:, 3])[:, None], faces[:, [1, 0, 2, 2]], faces[:, ::-1])


@lru_cache(maxsize=64)
def fan(m: int) -> Index:
    """A ring's face as quads: fans of four corners, a triangle where one is left."""
    rows = []
    i = 1
    while i < m - 1:
        rows.append((0, i, i + 1, i + 2) if i + 2 < m else (0, i, i + 1, i + 1))
        i += 2
    return np.array(rows, dtype=np.int64)


def mesh(shape: Shape) -> Mesh:
    """The solid of a shape in its own frame; kept with the shape, which never changes."""
    return all_portions(sweeping(shape))


def sweeping(shape: Shape) -> Generator[None, None, Mesh]:
    """The same in portions: a span at a time."""
    kept: dict[str, Mesh] = shape.__dict__.setdefault("_mesh", {})
    if "mesh" not in kept:
        path = path_frames(shape)
        yield
        shells = yield from _shells(shape, path)
        if shape.voids:
            kept["mesh"] = yield from _cut(shells, shape, path)
        else:
            kept["mesh"] = yield from _together(shells, shape, path)
    return kept["mesh"]


def outside(shape: Shape) -> Generator[None, None, Array]:
    """Points that a shape reaches out to, (n, 3) mm in its own frame, a span at a time; kept with the shape.

    Holes take nothing off how far it reaches, so none is cut: that takes ten times as long.
    """
    kept: dict[str, Array] = shape.__dict__.setdefault("_outside", {})
    if "points" not in kept:
        path, found = path_frames(shape), []
        yield
        for span, u, phase, own in along(shape, path):
            found.append(placed_rings(span_rings(span, u, phase), own).reshape(-1, 3))
            yield
        for branch in shape.branches:
            points = yield from outside(branch.shape)
            found.append(branch_pose(branch, path).place(points))
        kept["points"] = np.vstack(found)
    return kept["points"]


def _together(shells: list[Mesh], shape: Shape, path: Frames) -> Generator[None, None, Mesh]:
    parts = [*shells, *(Mesh(m.points, flipped(m.faces)) for m in _bores(shape, path))]
    for branch in shape.branches:
        parts.append((yield from sweeping(branch.shape)).placed(branch_pose(branch, path)))
    return joined(parts)


def path_frames(shape: Shape, detail: float = 1.0) -> Frames:
    """Frames at every station that the solid needs: where outlines run into each other a linear sweep would not keep the area.

    Args:
        shape: whose path.
        detail: of the steps; 1 is fine enough for any drawing, less is finer.
    """
    wanted, at = [stations(shape, detail / 2)], 0.0
    for span in shape.spans:
        broken = span.start.form == "rectangle" and span.start.k < 0.9999 and span.start != span.end  # corners do not grow as the sides do
        if broken or span.start.form != span.end.form or span.start.k != span.end.k or span.start.bore != span.end.bore:
            steps = round(_MORPH / detail)
            wanted.append(at + span.length * np.arange(1, steps) / steps)
        at += span.length
    return frames(shape, ordered(np.concatenate(wanted)), ARC_STEP * detail)


def _shells(shape: Shape, path: Frames) -> Generator[None, None, list[Mesh]]:
    """Each span as a closed solid, bores left out of account."""
    found = []
    for span, u, phase, own in along(shape, path):
        found.append(_swept(span_rings(span, u, phase), own))
        yield
    return found


def _bores(shape: Shape, path: Frames) -> list[Mesh]:
    """What is hollow, as solids."""
    found = []
    for span, u, phase, own in along(shape, path):
        if span.start.bore or span.end.bore:
            inner = [Blend(max(b.bore, 1e-6), max(b.bore, 1e-6), math.pi / 4, "ellipse") for b in (span.start, span.end)]
            bore = Span(span.length, inner[0], inner[1])
            found.append(_swept(span_rings(bore, u, phase), own))
    return found


def along(shape: Shape, path: Frames) -> Iterator[tuple[Span, Array, Array, Frames]]:
    """Each span with the fractions, twist phases and frames that lie in it."""
    ends = np.cumsum([0.0, *(span.length for span in shape.spans)])
    turned = np.cumsum([0.0, *(span.turns for span in shape.spans)])
    for i, span in enumerate(shape.spans):
        keep = (path.s >= ends[i] - 1e-9) & (path.s <= ends[i + 1] + 1e-9)
        own = Frames(path.s[keep], path.points[keep], path.axes[keep], path.stretch[keep], path.mitre[keep])
        u = np.clip((own.s - ends[i]) / span.length, 0.0, 1.0)
        yield span, u, 2 * math.pi * (turned[i] + span.turns * u), own


def branch_pose(branch: Branch, path: Frames) -> Pose:
    """Where a branch begins."""
    i = int(np.argmin(np.abs(path.s - branch.at)))
    axes = path.axes[i] * np.array([[-1.0], [1.0], [-1.0]]) if branch.back else path.axes[i]
    return Pose(path.points[i] + branch.up * path.axes[i, 1] + branch.front * path.axes[i, 2], axes)


def end_pose(shape: Shape) -> Pose:
    """Where the next feature begins, in this one's frame."""
    kept: dict[str, Pose] = shape.__dict__.setdefault("_end", {})
    if "pose" not in kept:
        kept["pose"] = end_of(shape, ARC_STEP)
    return kept["pose"]


# --- holes


def _cut(shells: list[Mesh], shape: Shape, path: Frames) -> Generator[None, None, Mesh]:
    """The solid less its voids, by booleans of manifolds."""
    from manifold3d import Manifold, OpType  # only pieces with holes in view need it
    from manifold3d import Mesh as Raw

    def body(m: Mesh) -> Manifold:
        return Manifold(Raw(m.points.astype(np.float32), m.triangles.astype(np.uint32), tolerance=1e-4))

    cutter = Manifold.batch_boolean([body(m) for m in (*_bores(shape, path), *(prism(v, shape) for v in shape.voids))], OpType.Add)
    yield
    left = []
    for shell in shells:
        left.append(body(shell) - cutter)
        left[-1].num_tri()  # it is reckoned when it is first asked for
        yield
    for branch in shape.branches:
        left.append(body((yield from sweeping(branch.shape)).placed(branch_pose(branch, path))))
    whole = Manifold.batch_boolean(left, OpType.Add)
    raw = whole.to_mesh()
    points, triangles = np.asarray(raw.vert_properties[:, :3], dtype=float), np.asarray(raw.tri_verts, dtype=np.int64)
    return Mesh(points, triangles[:, [0, 1, 2, 2]])


def void_outline(void: Void) -> Array:
    """The mouth of a hole about its middle, (n, 2) mm: along the bar and across it; of its own area."""
    half_x, half_y = void.diameter / 2, (void.across or void.diameter) / 2
    angle = 2 * np.pi * np.arange(_MIXED) / _MIXED
    if void.form == "round":
        # Of the circle's own area, so that the mesh keeps the arithmetic's volume.
        grow = math.sqrt(math.pi / (_MIXED / 2 * math.sin(2 * math.pi / _MIXED)))
        return np.asarray(np.column_stack((np.cos(angle) * half_x, np.sin(angle) * half_y)) * grow)
    if void.form == "slot":
        long, r = max(half_x, half_y) - min(half_x, half_y), min(half_x, half_y)
        along_x = half_x >= half_y
        shift = np.where(np.cos(angle) >= 0, long, -long) if along_x else np.where(np.sin(angle) >= 0, long, -long)
        return np.column_stack((np.cos(angle) * r + (shift if along_x else 0), np.sin(angle) * r + (0 if along_x else shift)))
    square = np.array([(1.0, 1.0), (-1.0, 1.0), (-1.0, -1.0), (1.0, -1.0)])
    corners = square if void.form == "square" else np.array([(1.0, 0.0), (0.0, 1.0), (-1.0, 0.0), (0.0, -1.0)]) * math.sqrt(2)
    return np.asarray(corners * (half_x, half_y))


def prism(void: Void, shape: Shape) -> Mesh:
    """What a hole takes: a prism along its axis, a cone for a countersink; longer than the bar is deep, so that faces never coincide."""
    reach = 0.6 * max(max(s.start.t, s.end.t, s.start.w, s.end.w) for s in shape.spans)
    outline = void_outline(void)
    top = max((s.start.t if void.axis == "thickness" else s.start.w) for s in shape.spans) / 2
    levels = [(-reach, 1.0), (reach, 1.0)]
    if void.depth:
        levels = [(top - void.depth, 1.0), (reach, 1.0)]
    if void.sink:
        wide = void.sink / void.diameter
        deep = (void.sink - void.diameter) / 2  # a right angle between the sides
        levels = [levels[0], (top - deep, 1.0), (top, wide), (reach, wide)]
    rows = np.array([[(x * f + void.centre, h, y * f) for x, y in outline] for h, f in levels])
    if void.axis == "width":
        rows = rows[..., [0, 2, 1]] * (1, -1, 1)
    return _stacked(rows)


def _stacked(rows: Array) -> Mesh:
    """Rings one over another as a closed solid, turned right side out."""
    n, m, _three = rows.shape
    at = np.arange(n - 1)[:, None] * m + np.arange(m)
    after = np.arange(n - 1)[:, None] * m + (np.arange(m) + 1) % m
    sides = np.stack((at, after, after + m, at + m), axis=-1).reshape(-1, 4)
    caps = fan(m)
    made = Mesh(rows.reshape(-1, 3), np.concatenate((sides, flipped(caps), caps + (n - 1) * m)))
    return made if made.volume > 0 else Mesh(made.points, flipped(made.faces))


# --- a whole piece


@dataclass(frozen=True, eq=False)
class Body:
    """One feature's solid where it stands in the piece."""

    id: str
    mesh: Mesh


def point_stations(shape: Shape) -> Array:
    """Where along its developed length each point of a shape's mesh lies, mm, (n,): at the nearest place of its middle line."""
    path, points = path_frames(shape), mesh(shape).points
    apart = ((points[:, None] - path.points[None]) ** 2).sum(axis=2)
    return np.asarray(path.s[apart.argmin(axis=1)])


def bodies(shapes: Iterable[tuple[str, Shape]], level: Array | None = None) -> tuple[Body, ...]:
    """Chain shapes end to end in space.

    Args:
        shapes: (feature id, shape) from end A to end B.
        level: rotation of the whole, (3, 3).
    """
    pose, found = START if level is None else Pose(np.zeros(3), level.T), []
    for identity, shape in shapes:
        found.append(Body(identity, mesh(shape).placed(pose)))
        pose = pose.then(end_pose(shape))
    return tuple(found)
