"""Solids for other programs: STL and OBJ."""

from __future__ import annotations

import numpy as np

from long_ember.errors import NoAnswer
from long_ember.features import Piece
from long_ember.geometry import whole_solid

__all__ = ["SOLID_KINDS", "solid_bytes"]

SOLID_KINDS = ("stl", "obj")


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

    solid = whole_solid(piece.shapes)
    # In the precision of the file some corners fall together: triangles that have only two left are left out.
    made = trimesh.Trimesh(solid.points.astype(np.float32), solid.triangles, process=True)
    a, b, c = made.faces.T
    made.update_faces((a != b) & (b != c) & (c != a))
    content = made.export(file_type=kind)
    return content if isinstance(content, bytes) else str(content).encode("utf-8")
