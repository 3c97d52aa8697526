"""Painting shared by the drawing, the glyphs, the filmstrip and the printed sheet."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QFont, QFontMetricsF, QPainter, QPen, QPolygonF

from long_ember.geometry import Figure, Part
from long_ember.geometry.trace import Array
from long_ember.ui.theme import Theme

__all__ = ["Look", "View", "arrow_line", "paint_figure", "paint_part", "polygon", "text_box", "text_rect"]


@dataclass(frozen=True, slots=True)
class View:
    """From millimetres, y upwards, to pixels, y downwards."""

    scale: float
    x: float
    y: float

    def point(self, p: Array) -> QPointF:
        """One point."""
        return QPointF(self.x + float(p[0]) * self.scale, self.y - float(p[1]) * self.scale)

    def points(self, p: Array) -> Array:
        """Many points, (n, 2)."""
        return np.column_stack((self.x + p[:, 0] * self.scale, self.y - p[:, 1] * self.scale))

    @staticmethod
    def fitting(bounds: tuple[float, float, float, float], target: QRectF, most: float = 1e9) -> View:
        """The view that shows `bounds` as large as `target` allows, in its middle."""
        x0, y0, x1, y1 = bounds
        scale = min(target.width() / max(x1 - x0, 1e-6), target.height() / max(y1 - y0, 1e-6), most)
        middle = target.center()
        return View(scale, middle.x() - (x0 + x1) / 2 * scale, middle.y() + (y0 + y1) / 2 * scale)


@dataclass(frozen=True, slots=True)
class Look:
    """How one part is drawn."""

    fill: QColor
    edge: QColor
    width: float = 1.4


def polygon(points: Array) -> QPolygonF:
    """A polygon of pixel points, (n, 2)."""
    return QPolygonF([QPointF(x, y) for x, y in points.tolist()])


def paint_part(painter: QPainter, part: Part, view: View, look: Look) -> None:
    """One feature: filled outline, helix lines, holes."""
    painter.setPen(QPen(look.edge, look.width, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin))
    painter.setBrush(QBrush(look.fill))
    painter.drawPolygon(polygon(view.points(part.outline)), Qt.FillRule.WindingFill)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    if part.lines:
        painter.setPen(QPen(look.edge, max(1.0, look.width * 0.8)))
        for line in part.lines:
            painter.drawPolyline(polygon(view.points(line)))
    for void in part.shape.voids:
        _paint_void(painter, part, view, look, void.centre, void.diameter, void.axis)


def _paint_void(painter: QPainter, part: Part, view: View, look: Look, at: float, diameter: float, axis: str) -> None:
    if axis == "width":  # it runs towards the eye
        painter.setPen(QPen(look.edge, look.width))
        painter.setBrush(QBrush(look.edge))
        radius = diameter / 2 * view.scale
        painter.drawEllipse(view.point(part.at(at)), radius, radius)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        return
    painter.setPen(QPen(look.edge, look.width, Qt.PenStyle.DashLine))
    for s in (at - diameter / 2, at + diameter / 2):
        one, other = part.across(s)
        painter.drawLine(view.point(one), view.point(other))


def paint_figure(painter: QPainter, figure: Figure, view: View, theme: Theme, *, chosen: str = "", pointed: str = "") -> None:
    """The whole piece, the chosen feature last and with a heavier edge."""
    last = None
    for i, part in enumerate(figure.parts):
        if part.id == chosen:
            last = part
            continue
        fill = theme.colour("steel" if i % 2 == 0 else "steel_alt")
        paint_part(painter, part, view, Look(fill, theme.colour("edge"), 2.4 if part.id == pointed else 1.4))
    if last is not None:
        paint_part(painter, last, view, Look(theme.colour("chosen"), theme.colour("accent"), 2.6))


def text_box(painter: QPainter, text: str, at: QPointF, face: QFont, theme: Theme, *, role: str = "ink", back: bool = True) -> QRectF:
    """Text centred on a point, on a scrap of paper so that lines behind it do not disturb."""
    box = text_rect(text, at, face)
    if back:
        painter.fillRect(box, theme.colour("paper", 230))
    painter.setFont(face)
    painter.setPen(theme.colour(role))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, text)
    return box


def text_rect(text: str, at: QPointF, face: QFont) -> QRectF:
    """The space that `text_box` takes."""
    metrics = QFontMetricsF(face)
    width, height = metrics.horizontalAdvance(text) + 8, metrics.height()
    return QRectF(at.x() - width / 2, at.y() - height / 2, width, height)


def arrow_line(painter: QPainter, a: QPointF, b: QPointF, colour: QColor, width: float = 1.0) -> None:
    """A dimension line with slim arrowheads at both ends."""
    painter.setPen(QPen(colour, width))
    painter.drawLine(a, b)
    angle = math.atan2(b.y() - a.y(), b.x() - a.x())
    painter.setBrush(QBrush(colour))
    for tip, sign in ((a, 1.0), (b, -1.0)):
        painter.drawPolygon(QPolygonF(list(_head(tip, angle, sign))))
    painter.setBrush(Qt.BrushStyle.NoBrush)


def _head(tip: QPointF, angle: float, sign: float) -> Iterable[QPointF]:
    yield tip
    for side in (-0.28, 0.28):
        yield QPointF(tip.x() + sign * 8 * math.cos(angle + side), tip.y() + sign * 8 * math.sin(angle + side))
