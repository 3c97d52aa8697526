"""Painting shared by the drawing, the glyphs, the filmstrip and the printed sheet."""

from __future__ import annotations

import math
from collections.abc import Generator, Iterable, Sequence
from dataclasses import replace
from functools import lru_cache

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QFont, QFontMetricsF, QPainter, QPen, QPolygonF, QStaticText, QTransform

from long_ember.arrays import Array
from long_ember.features import Shape, Span, Void
from long_ember.frozen import dataclass
from long_ember.geometry import Aspect, Figure, Part, Seen, trace, void_outline
from long_ember.portions import all_portions
from long_ember.ui.style.fonts import font, font_key
from long_ember.ui.style.theme import Theme, fill_box

__all__ = [
    "Look",
    "View",
    "arrow_line",
    "figure_painting",
    "gaps",
    "line_height",
    "look",
    "outline_polygon",
    "paint_balance",
    "paint_figure",
    "paint_part",
    "polygon",
    "straight_profile",
    "text_box",
    "text_rect",
    "text_width",
    "write",
]


_AT_ONCE = 8  # features drawn in one portion


def gaps(at: Array, line: Array) -> Array:
    """How far a point, (2,), is from each straight of a line, (n, 2); (n − 1,)."""
    along = np.diff(line, axis=0)
    u = np.clip(((at - line[:-1]) * along).sum(1) / np.maximum((along**2).sum(1), 1e-12), 0, 1)
    return np.asarray(np.hypot(*(line[:-1] + along * u[:, None] - at).T))


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
        return p * (self.scale, -self.scale) + (self.x, self.y)

    @staticmethod
    def fitting(bounds: tuple[float, float, float, float], target: QRectF, most: float = 1e9) -> View:
        """The view that shows `bounds` as large as `target` allows, in its middle."""
        x0, y0, x1, y1 = bounds
        scale = min(target.width() / max(x1 - x0, 1e-6), target.height() / max(y1 - y0, 1e-6), most)
        middle = target.center()
        return View(scale, middle.x() - (x0 + x1) / 2 * scale, middle.y() + (y0 + y1) / 2 * scale)


@dataclass(frozen=True, slots=True, eq=False)
class Look:
    """How one part is drawn: made once by `look`, because pens and brushes are dear to make in Python."""

    fill: QBrush
    edge: QPen
    thin: QPen
    dashed: QPen
    solid: QBrush


@lru_cache(maxsize=256)
def look(theme: Theme, fill: str, edge: str = "edge", width: float = 1.0) -> Look:
    """A look by colour roles; a `fill` that starts with # is a colour itself.

    A width of exactly 1 is Qt's fast line: anything wider costs two to three times as much.
    """
    colour = theme.colour(edge)
    solid = Qt.BrushStyle.SolidPattern  # named, or every gradient would be looked at first
    brush = QBrush(QColor(fill) if fill.startswith("#") else theme.colour(fill), solid)
    return Look(brush, _pen(colour, width), _pen(colour, 1.0), _pen(colour, 1.0, Qt.PenStyle.DashLine), QBrush(colour, solid))


@lru_cache(maxsize=4)
def _tried(theme: Theme) -> Look:
    """How a part is drawn whose size is typed and not taken yet."""
    return replace(look(theme, "panel", "accent", 2.6), edge=_pen(theme.colour("accent"), 2.6, Qt.PenStyle.DashLine))


def polygon(points: Array) -> QPolygonF:
    """A polygon of pixel points, (n, 2)."""
    return QPolygonF([QPointF(x, y) for x, y in points.tolist()])


def straight_profile(spans: Sequence[Span], x: float, middle: float, along: float, across: float) -> list[QPointF]:
    """Outline of a straight stretch, px: as thick as its sections, never thinner than a line that can be seen.

    Args:
        spans: from its A end.
        x: px of that end.
        middle: px, of its middle line.
        along: px for a millimetre of its length.
        across: px for a millimetre of its thickness.
    """
    top, low = list[QPointF](), list[QPointF]()
    for span in spans:
        for thick, at in ((span.start.t, x), (span.end.t, x + span.length * along)):
            half = max(thick * across / 2, 1.5)
            top.append(QPointF(at, middle - half))
            low.append(QPointF(at, middle + half))
        x += span.length * along
    return top + low[::-1]


def outline_polygon(shape: Shape, detail: int) -> QPolygonF:
    """A shape's outline in its own frame, mm; kept with the shape."""
    kept: dict[int, QPolygonF] = shape.__dict__.setdefault("_outlines", {})
    if detail not in kept:
        t = trace(shape, detail)
        kept[detail] = polygon(np.vstack((t.points + t.offset, (t.points - t.offset)[::-1])))
    return kept[detail]


def _limb_polygons(shape: Shape, detail: int) -> list[QPolygonF]:
    kept: dict[int, list[QPolygonF]] = shape.__dict__.setdefault("_limbs", {})
    if detail not in kept:
        kept[detail] = [polygon(limb) for limb in trace(shape, detail).limbs]
    return kept[detail]


def _line_polygons(shape: Shape, detail: int) -> list[QPolygonF]:
    kept: dict[int, list[QPolygonF]] = shape.__dict__.setdefault("_lines", {})
    if detail not in kept:
        kept[detail] = [polygon(line) for line in trace(shape, detail).lines]
    return kept[detail]


def _pen(colour: QColor, width: float, style: Qt.PenStyle = Qt.PenStyle.SolidLine) -> QPen:
    pen = QPen(colour, width, style, Qt.PenCapStyle.RoundCap, Qt.PenJoinStyle.RoundJoin)
    pen.setCosmetic(True)  # as wide on screen whatever the scale
    return pen


def _paint_seen(painter: QPainter, parts: Iterable[tuple[Seen, Look]], view: View) -> Generator[None, None, None]:
    """Features as seen from a direction: outline, branches, and the faces of ends that point at the eye."""
    skip = 1 if view.scale > 1.1 else 2 if view.scale > 0.55 else 4  # fine enough for any drawing of that scale
    before = painter.worldTransform()
    painter.setWorldTransform(QTransform(view.scale, 0, 0, -view.scale, view.x, view.y), True)
    x0, y0, style = 0.0, 0.0, None
    for i, (part, wanted) in enumerate(parts, 1):
        if i % _AT_ONCE == 0:
            yield
        x, y = part.start
        painter.translate(x - x0, y - y0)  # a third of what a transform of its own costs
        x0, y0 = x, y
        if wanted is not style:
            style = wanted
            painter.setPen(style.edge)
            painter.setBrush(style.fill)
        outlines, rims = _seen_polygons(part.aspect, skip)
        if part.aspect.wound:
            for outline in outlines:
                painter.drawPolygon(outline, _WINDING)
        else:  # naming the rule costs as much as drawing
            for outline in outlines:
                painter.drawPolygon(outline)
        if rims:
            painter.setPen(style.dashed)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            for rim in rims:
                painter.drawPolyline(rim)
            style = None
    painter.setWorldTransform(before)


def _seen_polygons(aspect: Aspect, skip: int) -> tuple[list[QPolygonF], list[QPolygonF]]:
    """Filled outlines and rims of holes, mm from where the part begins; made once for each aspect."""
    if skip not in aspect.kept:
        main = np.vstack((_thinned(aspect.left, skip), _thinned(aspect.right, skip)[::-1]))
        filled = [polygon(main), *(polygon(p) for p in (*aspect.limbs, *aspect.faces))]
        aspect.kept[skip] = (filled, [polygon(rim) for rim in aspect.rims])
    made: tuple[list[QPolygonF], list[QPolygonF]] = aspect.kept[skip]  # type: ignore[assignment]
    return made


_WINDING = Qt.FillRule.WindingFill


def _thinned(points: Array, skip: int) -> Array:
    """Every few points of a long row, its last one kept; short rows are corners and stay whole."""
    return points if skip == 1 or len(points) < 12 else np.vstack((points[:-1:skip], points[-1:]))


def paint_part(painter: QPainter, part: Part, view: View, style: Look) -> None:
    """One feature: filled outline, helix lines, holes.

    Everything is kept in the part's own frame and placed by the painter's transform, so that typing a
    dimension remakes only the outline of the feature that changed.
    """
    shape, detail = part.shape, 1 if view.scale > 1.1 else 2 if view.scale > 0.55 else 4
    before = painter.worldTransform()
    painter.setWorldTransform(_placing(part, view), True)
    painter.setPen(style.edge)
    painter.setBrush(style.fill)
    painter.drawPolygon(outline_polygon(shape, detail))
    for limb in _limb_polygons(shape, detail):
        painter.drawPolygon(limb)
    if any(span.turns for span in shape.spans):
        painter.setPen(style.thin)
        for line in _line_polygons(shape, detail):
            painter.drawPolyline(line)
    for void in shape.voids:
        _paint_void(painter, shape, void, style)
    painter.setWorldTransform(before)


def _placing(part: Part, view: View) -> QTransform:
    """From the part's own frame to pixels."""
    cos, sin = math.cos(part.heading) * view.scale, math.sin(part.heading) * view.scale
    return QTransform(cos, -sin, -sin, -cos, view.x + part.start[0] * view.scale, view.y - part.start[1] * view.scale)


def _paint_void(painter: QPainter, shape: Shape, void: Void, style: Look) -> None:
    """A hole in a straight part, in its own frame."""
    if void.axis == "width":  # it runs towards the eye
        painter.setPen(style.thin)
        painter.setBrush(style.solid)
        painter.drawPolygon([QPointF(void.centre + x, y) for x, y in void_outline(void).tolist()])
        return
    painter.setPen(style.dashed)
    half = max(span.start.t for span in shape.spans) / 2
    for x in (void.centre - void.diameter / 2, void.centre + void.diameter / 2):
        painter.drawLine(QPointF(x, -half), QPointF(x, half))


def paint_figure(painter: QPainter, figure: Figure[Part] | Figure[Seen], view: View, theme: Theme, *, chosen: str = "") -> None:
    """The whole piece at once, see `figure_painting`."""
    all_portions(figure_painting(painter, figure, view, theme, chosen=chosen))


def figure_painting(
    painter: QPainter,
    figure: Figure[Part] | Figure[Seen],
    view: View,
    theme: Theme,
    *,
    chosen: str = "",
    pointed: str = "",
    tried: bool = False,
) -> Generator[None, None, None]:
    """The whole piece in portions, the chosen feature last and with a heavier edge; broken while its size is only tried."""
    ranks = {pointed: 1, chosen: 2}  # the chosen one stays chosen under the pointer

    def style(i: int, identity: str) -> Look:
        rank, fill = ranks.get(identity, 0), "steel" if i % 2 == 0 else "steel_alt"
        return (
            (_tried(theme) if tried else look(theme, "chosen", "accent", 2.6)) if rank == 2 else look(theme, fill, "edge", 1.0 + 1.4 * rank)
        )

    rows: list[tuple[int, Part | Seen]] = list(enumerate(figure.parts))
    seen = [(part, style(i, part.id)) for i, part in rows if isinstance(part, Seen)]
    if seen:
        yield from _paint_seen(painter, sorted(seen, key=lambda pair: pair[0].depth), view)
        return
    for n, (i, part) in enumerate(sorted(rows, key=lambda row: ranks.get(row[1].id, 0)), 1):
        if n % _AT_ONCE == 0:
            yield
        if isinstance(part, Part):
            paint_part(painter, part, view, style(i, part.id))


def text_box(painter: QPainter, text: str, at: QPointF, face: QFont, theme: Theme, *, role: str = "ink", back: bool = True) -> QRectF:
    """Text centred on a point, on a scrap of paper so that lines behind it do not disturb."""
    box = text_rect(text, at, face)
    if back:
        fill_box(painter, box, theme.colour("paper", 230))
    write(painter, text, box.left() + 4, box.top(), face, theme.colour(role))
    return box


def write(painter: QPainter, text: str, x: float, top: float, face: QFont, colour: QColor) -> None:
    """Text of one line in one of the shipped faces, from its left upper corner; laid out once and kept."""
    painter.setFont(face)
    painter.setPen(colour)
    painter.drawStaticText(QPointF(x, top), _static(text, *font_key(face)))


def line_height(face: QFont) -> float:
    """Height of one line, px."""
    return _text_size("", *font_key(face))[1]


@lru_cache(maxsize=4096)
def _static(text: str, size: int, weight: int) -> QStaticText:
    """A text laid out once: most figures of a drawing stay the same from one keystroke to the next."""
    made = QStaticText(text)
    made.setTextFormat(Qt.TextFormat.PlainText)
    made.prepare(QTransform(), font(size, weight))
    return made


def text_rect(text: str, at: QPointF, face: QFont) -> QRectF:
    """The space that `text_box` takes."""
    width, height = _text_size(text, *font_key(face))
    return QRectF(at.x() - width / 2, at.y() - height / 2, width, height)


def text_width(text: str, face: QFont) -> float:
    """How far a text in one of the shipped faces reaches, px."""
    return _text_size(text, *font_key(face))[0] - 8


@lru_cache(maxsize=8192)
def _text_size(text: str, size: int, weight: int) -> tuple[float, float]:
    metrics = QFontMetricsF(font(size, weight))
    return metrics.horizontalAdvance(text) + 8, metrics.height()


def paint_balance(painter: QPainter, at: QPointF, theme: Theme) -> None:
    """The mark of a centre of gravity: a circle with a cross."""
    painter.setPen(QPen(theme.colour("accent"), 2.0))
    painter.setBrush(theme.colour("panel"))
    painter.drawEllipse(at, 9, 9)
    painter.drawLine(at + QPointF(-9, 0), at + QPointF(9, 0))
    painter.drawLine(at + QPointF(0, -9), at + QPointF(0, 9))


_LONG, _SLIM = 7.7, 0.288  # of an arrowhead: px, and half its width in lengths


def arrow_line(painter: QPainter, a: QPointF, b: QPointF, colour: QColor, width: float = 1.0) -> None:
    """A dimension line with slim arrowheads at both ends."""
    painter.setPen(QPen(colour, width))
    painter.drawLine(a, b)
    dx, dy = b.x() - a.x(), b.y() - a.y()
    size = math.hypot(dx, dy) or 1.0
    x, y = dx / size * _LONG, dy / size * _LONG
    painter.setBrush(colour)
    for tip, sign in ((a, 1.0), (b, -1.0)):
        back = QPointF(tip.x() + sign * x, tip.y() + sign * y)
        side = QPointF(-y * _SLIM, x * _SLIM)
        painter.drawPolygon((tip, back + side, back - side))
    painter.setBrush(Qt.BrushStyle.NoBrush)
