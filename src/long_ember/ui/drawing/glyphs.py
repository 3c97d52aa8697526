"""Pictures of features and verbs, drawn from the same geometry as the piece itself."""

from __future__ import annotations

import math
from dataclasses import replace
from functools import lru_cache

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPixmap

from long_ember.features import KINDS, Outer, Piece, Shape, Span, Straight, shape_of
from long_ember.geometry import Figure, Part, figure, level_bodies, seen_figure, turned
from long_ember.sections import square
from long_ember.ui.drawing.paint import View, look, paint_part
from long_ember.ui.drawing.solid import Solid, paint_solid
from long_ember.ui.style.theme import Theme

__all__ = ["glyphs_shown", "keep_glyphs_back", "paint_kind", "paint_kind_solid", "paint_verb"]

_back = False


def keep_glyphs_back(back: bool) -> None:
    """While a window first shows the piece, the small pictures beside it wait: a dozen shapes are reckoned for them."""
    global _back
    _back = back


def glyphs_shown() -> bool:
    """The small pictures are drawn."""
    return not _back


_STUB = 16.0  # mm of plain bar on each inner side, so that a glyph shows where the bar goes on


@lru_cache(maxsize=64)
def _sample(kind: str) -> Figure[Part]:
    return figure(_shapes(kind))


def _shapes(kind: str) -> list[tuple[str, Shape]]:
    feature = KINDS[kind](id=kind)
    bar = square(12.0)
    stub = Shape((Span(_STUB, bar.blend, bar.blend),), (Straight(_STUB),))
    outer = isinstance(feature, Outer)
    piece = Piece(bar=bar, features=(replace(feature, id=kind),))
    place = replace(piece.place(0), first=outer, last=False)
    shapes = [] if outer else [("before", stub)]
    return [*shapes, (kind, shape_of(feature, place)), ("after", stub)]


def paint_kind(painter: QPainter, kind: str, target: QRectF, theme: Theme, *, strong: bool = False) -> None:
    """A feature kind's default shape with a stub of bar, fitted into `target`; the picture is kept."""
    if _back:
        return
    ratio = painter.device().devicePixelRatioF()
    picture = _picture(kind, target.width(), target.height(), theme, strong, ratio)
    painter.drawPixmap(target.topLeft(), picture)


@lru_cache(maxsize=256)
def _picture(kind: str, width: float, height: float, theme: Theme, strong: bool, ratio: float) -> QPixmap:
    picture = QPixmap(math.ceil(width * ratio), math.ceil(height * ratio))
    picture.setDevicePixelRatio(ratio)
    picture.fill(Qt.GlobalColor.transparent)
    painter = QPainter(picture)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    sample = _sample(kind)
    view = View.fitting(sample.bounds, QRectF(1, 1, width - 2, height - 2), most=0.62)
    for part in sample.parts:
        mine = part.id == kind
        fill = "chosen" if mine and strong else "steel_alt" if mine else "paper"
        paint_part(painter, part, view, look(theme, fill, "ink" if mine else "muted", 1.3 if mine else 1.0))
    painter.end()
    return picture


def paint_kind_solid(painter: QPainter, kind: str, target: QRectF, theme: Theme, *, strong: bool = False) -> None:
    """A feature kind's default shape as a solid with a stub of bar, fitted into `target`; the picture is kept."""
    painter.drawPixmap(
        target.topLeft(), _solid_picture(kind, target.width(), target.height(), theme, strong, painter.device().devicePixelRatioF())
    )


@lru_cache(maxsize=128)
def _solid_picture(kind: str, width: float, height: float, theme: Theme, strong: bool, ratio: float) -> QPixmap:
    picture = QPixmap(math.ceil(width * ratio), math.ceil(height * ratio))
    picture.setDevicePixelRatio(ratio)
    picture.fill(Qt.GlobalColor.transparent)
    shapes, look = _shapes(kind), turned(math.radians(-30), math.radians(28))
    view = View.fitting(seen_figure(shapes, look).bounds, QRectF(2, 2, width - 4, height - 4), most=1.6)
    painter = QPainter(picture)
    paint_solid(painter, Solid(level_bodies(shapes)), look, view, theme, QRectF(0, 0, width, height), chosen=kind if strong else "")
    painter.end()
    return picture


def paint_verb(painter: QPainter, verb: str, target: QRectF, theme: Theme, role: str) -> None:
    """The sign of a screen in the rail."""
    painter.setPen(QPen(theme.colour(role), 2.0, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    x, y, w, h = target.x(), target.y(), target.width(), target.height()
    for line in _VERBS[verb]:
        painter.drawPolyline([QPointF(x + px * w, y + py * h) for px, py in line])


_HOOK = ((0.05, 0.3), (0.6, 0.3), (0.78, 0.36), (0.88, 0.52), (0.84, 0.72), (0.68, 0.82), (0.5, 0.76))
_ANVIL = ((0.02, 0.36), (0.24, 0.36), (0.24, 0.3), (0.98, 0.3), (0.98, 0.48), (0.74, 0.54), (0.64, 0.7), (0.84, 0.86), (0.84, 0.96), (0.26, 0.96), (0.26, 0.86), (0.46, 0.7), (0.4, 0.56), (0.02, 0.36))  # fmt: skip
_VERBS: dict[str, tuple[tuple[tuple[float, float], ...], ...]] = {
    "forge": (_ANVIL, ((0.4, 0.22), (0.94, 0.02))),
    "shape": (_HOOK, ((0.05, 0.44), (0.55, 0.44), (0.7, 0.5), (0.74, 0.6), (0.66, 0.68), (0.5, 0.64)), ((0.05, 0.3), (0.05, 0.44))),
    "stock": (((0.05, 0.15), (0.4, 0.15), (0.4, 0.5), (0.05, 0.5), (0.05, 0.15)), ((0.6, 0.3), (0.68, 0.17), (0.78, 0.13), (0.88, 0.17), (0.96, 0.3),
              (0.88, 0.43), (0.78, 0.47), (0.68, 0.43), (0.6, 0.3)), ((0.05, 0.68), (0.95, 0.68), (0.95, 0.86), (0.05, 0.86), (0.05, 0.68))),
    "mark": (((0.0, 0.4), (1.0, 0.4), (1.0, 0.65), (0.0, 0.65), (0.0, 0.4)), ((0.25, 0.4), (0.25, 0.2)), ((0.5, 0.4), (0.5, 0.2)),
             ((0.82, 0.4), (0.82, 0.2)), ((0.25, 0.8), (0.5, 0.8))),
    "heats": (((0.5, 0.05), (0.68, 0.3), (0.78, 0.55), (0.72, 0.8), (0.5, 0.93), (0.28, 0.8), (0.22, 0.58), (0.34, 0.42), (0.42, 0.55),
               (0.5, 0.05)),),
    "cut": (((0.0, 0.25), (1.0, 0.25)), ((0.0, 0.5), (1.0, 0.5)), ((0.0, 0.25), (0.0, 0.5)), ((1.0, 0.25), (1.0, 0.5)),
            ((0.38, 0.15), (0.38, 0.6)), ((0.72, 0.15), (0.72, 0.6)), ((0.1, 0.8), (0.2, 0.7), (0.3, 0.8), (0.4, 0.7), (0.5, 0.8),
            (0.6, 0.7), (0.7, 0.8), (0.8, 0.7), (0.9, 0.8))),
    "book": (((0.5, 0.2), (0.3, 0.1), (0.05, 0.14), (0.05, 0.82), (0.3, 0.78), (0.5, 0.9), (0.7, 0.78), (0.95, 0.82), (0.95, 0.14),
              (0.7, 0.1), (0.5, 0.2)), ((0.5, 0.2), (0.5, 0.9)), ((0.17, 0.34), (0.38, 0.38)), ((0.17, 0.52), (0.38, 0.56)),
             ((0.62, 0.38), (0.83, 0.34)), ((0.62, 0.56), (0.83, 0.52))),
}  # fmt: skip
