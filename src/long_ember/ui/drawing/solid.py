"""Solids drawn without a graphics card, far faces first: shaded by their tilt while they move, by the true normals of the steel when they rest."""

from __future__ import annotations

import math
from collections.abc import Generator, Sequence
from functools import lru_cache

import numpy as np
from PySide6.QtCore import QPointF, QRect, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QImage, QPainter

from long_ember.arrays import Array, Index, Mask
from long_ember.geometry import Body
from long_ember.portions import all_portions
from long_ember.ui.drawing.paint import View
from long_ember.ui.style.theme import Theme

__all__ = ["Solid", "fine_painting", "paint_solid", "rough_picture"]

_LEVELS = 48  # of shade
_CREASE = math.cos(math.radians(35))  # faces that meet at more are parted by an edge
_STEPS, _MOST = 3.0, 5  # levels of shade that one facet may span, and into how many a face is cut each way at most
_AT_ONCE, _CORNERS = 150, 4000  # facets painted, and corners rounded, in one portion
_ROWS = 120  # px of a picture brought down in one portion
_LIGHT = np.array([-0.35, 0.75, 0.56])  # from the upper left, over the shoulder


class Solid:
    """The faces of a piece gathered once, to be turned many times.

    Args:
        bodies: one for each feature.
        hot: for each body, which of its points glow; none where all of it is cold.
        glow: their colour.
    """

    def __init__(self, bodies: Sequence[Body], hot: Sequence[Mask] = (), glow: str = "") -> None:
        counts = np.cumsum([0, *(len(b.mesh.points) for b in bodies)])
        self.ids = [b.id for b in bodies]
        self.points = np.vstack([b.mesh.points for b in bodies]) if bodies else np.zeros((0, 3))
        self._faces = np.vstack([b.mesh.faces + c for b, c in zip(bodies, counts, strict=False)]) if bodies else np.zeros((0, 4), dtype=int)
        self._owner = np.repeat(np.arange(len(bodies)), [len(b.mesh.faces) for b in bodies])
        self.glow = glow
        if hot:  # glowing faces are one part more, of a colour of its own
            burning = np.concatenate(hot)[self._faces].all(axis=1)
            self._owner = np.where(burning, len(bodies), self._owner)
        a, b, c, d = (self.points[self._faces[:, i]] for i in range(4))
        normal = np.cross(c - a, d - b) + np.cross(b - a, c - a)
        self._normal = normal / np.maximum(np.linalg.norm(normal, axis=1), 1e-12)[:, None]
        self._corners: Array | None = None

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
        return points[:, :2], self._faces[front], self._owner[front], _level(normal[front])

    def _rounded(self) -> Generator[None, None, Array]:
        """Normals of the steel at the corners of every face, (m, 4, 3): the mean of the faces that meet there without an edge between them."""
        if self._corners is None:
            flat = self._faces.ravel()
            order = np.argsort(flat, kind="stable")
            counts = np.bincount(flat, minlength=len(self.points))
            starts = np.concatenate(([0], np.cumsum(counts)))
            normals = self._normal
            total, mine = np.repeat(normals, 4, axis=0), np.repeat(np.arange(len(self._faces)), 4)
            for i in range(int(counts.max(initial=0))):  # the i-th face at each point, for many corners at once
                meeting = np.flatnonzero(i < counts[flat])
                for first in range(0, len(meeting), _CORNERS):
                    at = meeting[first : first + _CORNERS]
                    other = order[starts[flat[at]] + i] // 4
                    near, beside = normals[mine[at]], normals[other]
                    close = np.einsum("ij,ij->i", near, beside) >= _CREASE
                    total[at[close]] += beside[close]
                    yield
            size = np.linalg.norm(total, axis=1)
            self._corners = (total / np.maximum(size, 1e-9)[:, None]).reshape(-1, 4, 3)
            yield
        return self._corners

    def facets(self, view: Array) -> Generator[None, None, tuple[Array, Index, Index]]:
        """The faces turned toward the eye cut so small that each has one shade, from the far end, found in portions.

        Returns:
            Corners (k, 4, 2) mm, owner (k,), shade level (k,).
        """
        rounded = yield from self._rounded()
        points = self.points @ view.T
        front = np.flatnonzero((self._normal @ view.T)[:, 2] > 1e-6)
        corners, light = points[self._faces[front]], _light(rounded[front] @ view.T)
        cuts = np.clip(np.ceil(np.ptp(light, axis=1) * _LEVELS / _STEPS), 1, _MOST).astype(int)
        yield
        found: list[tuple[Array, Index, Array]] = []
        for cut in np.unique(cuts):
            which = cuts == cut
            u = np.linspace(0.0, 1.0, cut + 1)
            left = corners[which, None, 0] * (1 - u)[:, None] + corners[which, None, 3] * u[:, None]
            right = corners[which, None, 1] * (1 - u)[:, None] + corners[which, None, 2] * u[:, None]
            net = left[:, :, None] * (1 - u)[:, None] + right[:, :, None] * u[:, None]
            dark = light[which, None, 0] * (1 - u) + light[which, None, 3] * u
            bright = light[which, None, 1] * (1 - u) + light[which, None, 2] * u
            shade = dark[:, :, None] * (1 - u) + bright[:, :, None] * u
            quads = np.stack((net[:, :-1, :-1], net[:, :-1, 1:], net[:, 1:, 1:], net[:, 1:, :-1]), axis=3).reshape(-1, 4, 3)
            middle = (shade[:, :-1, :-1] + shade[:, :-1, 1:] + shade[:, 1:, 1:] + shade[:, 1:, :-1]).ravel() / 4
            found.append((quads, np.repeat(self._owner[front][which], cut * cut), middle))
            yield
        if not found:
            return np.zeros((0, 4, 2)), np.zeros(0, dtype=int), np.zeros(0, dtype=int)
        quads, owner, shades = (np.concatenate(parts) for parts in zip(*found, strict=True))
        far = np.argsort(quads[:, :, 2].mean(axis=1), kind="stable")
        return quads[far, :, :2], owner[far], np.minimum((shades[far] * _LEVELS).astype(int), _LEVELS - 1)


def _light(normals: Array) -> Array:
    """How bright steel is that faces this way, 0 to 1; the last axis of `normals` is one direction."""
    return np.asarray(0.5 + 0.5 * np.clip(normals @ (_LIGHT / np.linalg.norm(_LIGHT)), 0, 1))


def _level(normals: Array) -> Index:
    return np.asarray(np.minimum((_light(normals) * _LEVELS).astype(int), _LEVELS - 1))


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


def paint_solid(painter: QPainter, solid: Solid, look: Array, view: View, theme: Theme, target: QRectF, *, chosen: str = "") -> None:
    """The piece in `target`, px, drawn at twice the size and brought down, for smooth edges.

    Args:
        painter: of the paper.
        solid: what is drawn.
        look: (3, 3), rows as in `geometry.SIDE`.
        view: mm to px.
        theme: colours.
        target: the part of the paper that may be drawn on.
        chosen: id of the chosen feature.
    """
    image, box, near = _image(painter.device().devicePixelRatioF(), target, view, 2)
    all_portions(_fine(image, solid, look, near, theme, chosen))
    painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    painter.drawImage(box, image, image.rect())


def rough_picture(
    ratio: float, solid: Solid, look: Array, view: View, theme: Theme, target: QRectF, chosen: str = ""
) -> tuple[QImage, QRect]:  # fmt: skip
    """The same at once, each face in one shade, for a solid that moves; see `fine_painting`."""
    image, box, near = _image(ratio, target, view, 1)
    brush = QPainter(image)
    brush.setPen(Qt.PenStyle.NoPen)
    _draw(brush, solid, look, near, theme, chosen)
    brush.end()
    image.setDevicePixelRatio(ratio)
    return image, box


def fine_painting(
    ratio: float, solid: Solid, look: Array, view: View, theme: Theme, target: QRectF, chosen: str
) -> Generator[None, None, tuple[QImage, QRect]]:
    """The same as a picture that is painted portion by portion, where nothing may be held up.

    Args:
        ratio: of the paper's pixels to px.
        solid: what is drawn; the rest as in `paint_solid`.

    Returns:
        The picture in the paper's pixels, and where it belongs.
    """
    image, box, near = _image(ratio, target, view, 2)
    yield
    yield from _fine(image, solid, look, near, theme, chosen)
    small = QImage(round(box.width() * ratio), round(box.height() * ratio), image.format())
    small.fill(Qt.GlobalColor.transparent)
    for top in range(0, small.height(), _ROWS):
        strip = QRect(0, top, small.width(), min(_ROWS, small.height() - top))
        painter = QPainter(small)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawImage(strip, image, QRect(0, 2 * top, 2 * strip.width(), 2 * strip.height()))
        painter.end()
        yield
    small.setDevicePixelRatio(ratio)
    return small, box


def _image(ratio: float, target: QRectF, view: View, times: int) -> tuple[QImage, QRect, View]:
    """An empty picture so many times as fine as the paper, where it belongs there, and mm to its pixels."""
    factor, box = ratio * times, target.toAlignedRect()
    image = QImage(math.ceil(box.width() * factor), math.ceil(box.height() * factor), QImage.Format.Format_ARGB32_Premultiplied)
    image.fill(Qt.GlobalColor.transparent)
    return image, box, View(view.scale * factor, (view.x - box.left()) * factor, (view.y - box.top()) * factor)


def _palettes(solid: Solid, theme: Theme, chosen: str) -> list[tuple[QBrush, ...]]:
    roles = [theme.chosen if identity == chosen else theme.steel if i % 2 == 0 else theme.steel_alt for i, identity in enumerate(solid.ids)]
    return [_shades(colour, theme.name == "dark") for colour in (*roles, *([solid.glow] if solid.glow else ()))]


def _fine(image: QImage, solid: Solid, look: Array, view: View, theme: Theme, chosen: str) -> Generator[None, None, None]:
    """Every facet in its shade."""
    quads, owner, shade = yield from solid.facets(look)
    yield
    palettes, whole = _palettes(solid, theme, chosen), view.points(quads.reshape(-1, 2)).reshape(-1, 8)
    for first in range(0, len(whole), _AT_ONCE):
        painter = QPainter(image)
        painter.setPen(Qt.PenStyle.NoPen)
        draw, brush = painter.drawConvexPolygon, painter.setBrush
        last: QBrush | None = None
        rows = zip(*(part[first : first + _AT_ONCE].tolist() for part in (whole, owner, shade)), strict=True)
        for (ax, ay, bx, by, cx, cy, dx, dy), part, level in rows:
            want = palettes[part][level]
            if want is not last:
                brush(want)
                last = want
            draw([QPointF(ax, ay), QPointF(bx, by), QPointF(cx, cy), QPointF(dx, dy)])
        painter.end()
        yield


def _draw(painter: QPainter, solid: Solid, look: Array, view: View, theme: Theme, chosen: str) -> None:
    points, faces, owner, shade = solid.seen(look)
    used = np.zeros(len(points), dtype=bool)
    used[faces] = True
    where = (np.cumsum(used) - 1)[faces]
    dots = [QPointF(x, y) for x, y in view.points(points[used]).tolist()]
    palettes = _palettes(solid, theme, chosen)
    draw, brush = painter.drawConvexPolygon, painter.setBrush
    last: QBrush | None = None
    for (a, b, c, d), part, level in zip(where.tolist(), owner.tolist(), shade.tolist(), strict=True):
        want = palettes[part][level]
        if want is not last:
            brush(want)
            last = want
        draw([dots[a], dots[b], dots[c], dots[d]] if c != d else [dots[a], dots[b], dots[c]])
