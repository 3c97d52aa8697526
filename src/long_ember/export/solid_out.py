"""Solids for other programs: STL and OBJ."""

from __future__ import annotations

import numpy as np

from long_ember.arrays import Array, Index
from long_ember.errors import NoAnswer
from long_ember.features import Piece
from long_ember.geometry import Body, Mesh, piece_bodies

__all__ = ["SOLID_KINDS", "solid_bytes"]

SOLID_KINDS = ("stl", "obj")
_HAIR = 0.004  # mm, far below what a hammer or a printer can do
_SLIVER = 0.002  # mm; thinner triangles would be lost in a file of single precision


def solid_bytes(piece: Piece, kind: str) -> bytes:
    """The finished piece as one closed solid in mm.

    Args:
        piece: verified, with at least one feature.
        kind: stl (binary) or obj.

    Raises:
        ValueError: for another kind.
        NoAnswer: the piece is empty.
    """
    if kind not in SOLID_KINDS:
        raise ValueError(kind)
    if not piece.features:
        raise NoAnswer("The piece is empty.", "Add a feature first.")
    import trimesh  # a second to load: only when a solid is written

    points, triangles = _whole(piece_bodies(piece))
    # In the precision of the file some corners fall together: triangles that lose their area thereby are left out.
    made = trimesh.Trimesh(points.astype(np.float32), triangles, process=True)
    made.update_faces(made.nondegenerate_faces())
    content = made.export(file_type=kind)
    return content if isinstance(content, bytes) else str(content).encode("utf-8")


def _whole(bodies: tuple[Body, ...]) -> tuple[Array, Index]:
    """All shells united, so that what is printed or machined has no walls inside."""
    from manifold3d import Manifold, OpType
    from manifold3d import Mesh as Raw

    solids = [Manifold(Raw(_grown(b.mesh).astype(np.float32), b.mesh.triangles.astype(np.uint32))) for b in bodies]
    # Shells of one feature overlap by a hair too and are united one by one; a bore is a shell turned inside out and stays with its own.
    parts = [part for solid in solids for part in (solid.decompose() if min(p.volume() for p in solid.decompose()) > 0 else [solid])]
    raw = Manifold.batch_boolean(parts, OpType.Add).simplify(_SLIVER).to_mesh()
    return np.asarray(raw.vert_properties[:, :3], dtype=float), np.asarray(raw.tri_verts, dtype=np.int64)


def _grown(mesh: Mesh) -> Array:
    """Corners pushed outwards by a hair, so that bodies which only touch become one instead of leaving a slit between them."""
    a, b, c = (mesh.points[mesh.triangles[:, i]] for i in range(3))
    normal = np.cross(b - a, c - a)
    total = np.zeros_like(mesh.points)
    for i in range(3):
        np.add.at(total, mesh.triangles[:, i], normal)
    size = np.linalg.norm(total, axis=1)[:, None]
    grown: Array = mesh.points + total / np.maximum(size, 1e-12) * _HAIR
    return grown
