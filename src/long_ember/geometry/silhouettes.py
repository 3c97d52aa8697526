"""The outline of a finished piece as a few polygons: small enough to be kept with it."""

from __future__ import annotations

import numpy as np

from long_ember.arrays import Array
from long_ember.features import Piece
from long_ember.geometry.figures import Part, piece_figure
from long_ember.geometry.project import Seen
from long_ember.geometry.tracing import trace

__all__ = ["silhouette"]

_DETAIL = 2  # of the drawing's steps


def silhouette(piece: Piece, detail: int = _DETAIL) -> tuple[Array, ...]:
    """Polygons that together cover the piece as seen from the side.

    Args:
        piece: verified.
        detail: 1 for full size, more for small pictures.

    Returns:
        Each (n, 2), mm, y upwards, the lower left corner of all of them at 0, 0.
    """
    polygons = [p for part in piece_figure(piece).parts for p in _outlines(part, detail)]
    if not polygons:
        return ()
    low = np.vstack(polygons).min(axis=0)
    return tuple(p - low for p in polygons)


def _outlines(part: Part | Seen, detail: int) -> list[Array]:
    if isinstance(part, Seen):
        aspect = part.aspect
        edges = np.vstack((aspect.left[::detail], aspect.left[-1:], aspect.right[-1:], aspect.right[::-detail], aspect.right[:1]))
        return [p + part.start for p in (edges, *aspect.limbs, *aspect.faces)]
    t = trace(part.shape, detail)
    edges = np.vstack((t.points + t.offset, (t.points - t.offset)[::-1]))
    return [part.placed(p) for p in (edges, *t.limbs)]
