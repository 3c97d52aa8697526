"""Solids drawn without a graphics card: faces shaded by their tilt, far ones first."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import lru_cache

import numpy as np
from PySide6.QtCore import QPointF, QRect, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QImage, QPainter

from long_ember.arrays import Array, Index
from long_ember.geometry import Body
from long_ember.ui.drawing.paint import View
from long_ember.ui.style.theme import Theme

__all__ = ["Solid", "paint_solid"]

_LEVELS = 24  # of shade
_LIGHT = np.array([-0.35, 0.75, 0.56])  # from the upper left, over the shoulder


class Solid:
    """The faces of a piece gathered once, to be turned many times.

    Args:
        bodies: one for each feature.
    """

    def __init__(self, bodies: Sequence[Body]) -> None:
        counts = np.cumsum([0, *(len(b.mesh.points) for b in bodies)])
        self.ids = [b.id for b in bodies]
        self.points = np.vstack([b.mesh.points for b in bodies]) if bodies else np.zeros((0, 3))
        self._faces = np.vstack([b.mesh.faces + c for b, c in zip(bodies, counts, strict=False)]) if bodies else np.zeros((0, 4), dtype=int)
        self._owner = np.repeat(np.arange(len(bodies)), [len(b.mesh.faces) for b in bodies])
        a, b, c, d = (self.points[self._faces[:, i]] for i in range(4))
        normal = np.cross(c - a, d - b) + np.cross(b - a, c - a)
        self._normal = normal / np.maximum(np.linalg.norm(normal, axis=1), 1e-12)[:, None]

    @property
    def count(self) -> int:
        """Faces, hidden ones included."""
        return len(self._faces)

    def seen(self, view: Array) -> tuple[Array, Index, Index, Index]:
        """Points (n, 2) mm, and the faces turned toward the eye from the far end: indices (m, 4), owner (m,), shade level (m,)."""
        points = self.points @ view.T
        normal = self._normal @ view.T
        front = np.flatnonzero(normal[:, 2] > 1e-6)
        depth = points[self._faces[front], 2].mean(axis=1)
        front = front[np.argsort(depth, kind="stable")]
        light = 0.5 + 0.5 * np.clip(normal[front] @ (_LIGHT / np.linalg.norm(_LIGHT)), 0, 1)
        return points[:, :2], self._faces[front], self._owner[front], np.minimum((light * _LEVELS).astype(int), _LEVELS - 1)


@lru_cache(maxsize=64)
def _shades(colour: str, dark: bool) -> tuple[QBrush, ...]:
    """One brush for each level of light: toward ink in the shade, toward white in the light."""
    base, low = QColor(colour), QColor("#101010" if dark else "#57534d")
    found = []
    for i in range(_LEVELS):
        u = i / (_LEVELS - 1)
        mixed = [low.redF() + (base.redF() * 1.06 - low.redF()) * u, low.greenF() + (base.greenF() * 1.06 - low.greenF()) * u,
                 low.blueF() + (base.blueF() * 1.06 - low.blueF()) * u]  # fmt: skip
        found.append(QBrush(QColor.fromRgbF(*(min(max(m, 0.0), 1.0) for m in mixed))))
    return tuple(found)


def paint_solid(
    painter: QPainter, solid: Solid, look: Array, view: View, theme: Theme, target: QRectF, *, chosen: str = "", fine: bool = True
) -> None:
    """The piece in `target`, px.

    Args:
        painter: of the paper.
        solid: what is drawn.
        look: (3, 3), rows as in `geometry.SIDE`.
        view: mm to px.
        theme: colours.
        target: the part of the paper that may be drawn on.
        chosen: id of the chosen feature.
        fine: drawn at twice the size and brought down, for smooth edges; while it turns it need not be.
    """  # fmt: skip
    factor = painter.device().devicePixelRatioF() * (2 if fine else 1)
    box = target.toAlignedRect()
    image = QImage(math.ceil(box.width() * factor), math.ceil(box.height() * factor), QImage.Format.Format_ARGB32_Premultiplied)
    image.fill(Qt.GlobalColor.transparent)
    brush = QPainter(image)
    brush.setPen(Qt.PenStyle.NoPen)
    _draw(brush, solid, look, View(view.scale * factor, (view.x - box.left()) * factor, (view.y - box.top()) * factor), theme, chosen)
    brush.end()
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, fine)
    painter.drawImage(box, image, QRect(0, 0, image.width(), image.height()))


def _draw(painter: QPainter, solid: Solid, look: Array, view: View, theme: Theme, chosen: str) -> None:
    points, faces, owner, shade = solid.seen(look)
    used = np.zeros(len(points), dtype=bool)
    used[faces] = True
    where = (np.cumsum(used) - 1)[faces]
    dots = [QPointF(x, y) for x, y in view.points(points[used]).tolist()]
    roles = [theme.chosen if identity == chosen else theme.steel if i % 2 == 0 else theme.steel_alt for i, identity in enumerate(solid.ids)]
    palettes = [_shades(colour, theme.name == "dark") for colour in roles]
    draw, brush = painter.drawConvexPolygon, painter.setBrush
    last: QBrush | None = None
    for (a, b, c, d), part, level in zip(where.tolist(), owner.tolist(), shade.tolist(), strict=True):
        want = palettes[part][level]
        if want is not last:
            brush(want)
            last = want
        draw([dots[a], dots[b], dots[c], dots[d]] if c != d else [dots[a], dots[b], dots[c]])
