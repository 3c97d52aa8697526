"""The hero drawing as data: where bar, zones, piece, threads and dimensions stand for one view. Painting is in canvas."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import replace

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF

from long_ember.arrays import Array
from long_ember.document import Answer, FieldAddress
from long_ember.features import Arc, Helix, Spiral
from long_ember.fields import specs
from long_ember.frozen import dataclass
from long_ember.geometry import Figure, Part, Seen, piece_figure
from long_ember.ui.drawing.paint import View, gaps, straight_profile, text_rect
from long_ember.ui.style.fonts import font
from long_ember.units import Measure

__all__ = ["UNDER_DRAWN", "Dimension", "DrawnBox", "Scene", "ZoneBox"]

_SMALLEST = 46.0  # px; parts that look smaller carry no dimension unless they are chosen
_SIDE, _ABOVE, _GAP, _BELOW = 44.0, 66.0, 40.0, 40.0  # px around bar and piece for dimensions
_BAR_DEEP = 20.0  # px, at most, of the bars over a piece that is turned
_DRAWN_GAP, _DRAWN_BELOW, UNDER_DRAWN = (
    22.0,
    28.0,
    6.0,
)  # px from the bar to the drawn bar; from that to the piece; and to the stroke under what stands on it


@dataclass(frozen=True, slots=True)
class ZoneBox:
    """A feature's interval on the bar."""

    id: str
    rect: QRectF


@dataclass(frozen=True, slots=True)
class DrawnBox:
    """A feature of the row, or what stands on it, on the drawn bar.

    Args:
        id: of the feature.
        rect: px.
        outline: of a feature of the row, px; empty for what stands there.
    """

    id: str
    rect: QRectF
    outline: tuple[QPointF, ...] = ()


@dataclass(frozen=True, slots=True)
class Dimension:
    """One dimension standing on the drawing; clicking its text edits it."""

    address: FieldAddress
    text: str
    box: QRectF
    ends: tuple[QPointF, QPointF]
    arrows: bool


class Scene:
    """Layout of one answer in a widget of a given size.

    Args:
        answer: what is shown.
        measure: how numbers are shown.
        size: px.
        view: None to fit everything.
        chosen: selected feature, whose dimensions come first.
        look: direction the piece is seen from, None for the side.
        steady: see `piece_figure`.
        apart: the piece is as large as there is room, whatever the bar's scale.
    """

    def __init__(
        self, answer: Answer, measure: Measure, size: tuple[float, float], view: View | None, chosen: str,
        look: Array | None = None, *, steady: tuple[float, float, float, float] | None = None, apart: bool = False,
    ) -> None:  # fmt: skip
        self.answer, self.measure, self.chosen = answer, measure, chosen
        self.figure: Figure[Part] | Figure[Seen] = piece_figure(answer.piece, look, steady=steady)
        self.parts: tuple[Part | Seen, ...] = self.figure.parts
        self.cut = max(answer.reckoning.cut, 1.0)
        self.depth = answer.piece.bar.width
        drawn = answer.piece.composition.drawn if answer.piece.standing else None
        self._drawn = (drawn.length, drawn.thickest) if drawn is not None else (0.0, 0.0)
        self.paper, self._apart, self._larger = QRectF(0, 0, *size), apart, 1.0
        self.fit = self._fit(size)
        self.view = view or self.fit
        self.figure_view = self._figure_view()
        self.zones = self._zones()
        self.drawn = self._drawn_boxes()
        self.part_boxes = self._part_boxes()
        self.dimensions = self._dimensions()

    def _fit(self, size: tuple[float, float]) -> View:
        x0, y0, x1, y1 = self.figure.bounds
        width, height = size
        long, deep = self._drawn
        room = max(height - _ABOVE - (_DRAWN_GAP + _DRAWN_BELOW if long else _GAP) - _BELOW, 40.0)
        wide = width - 2 * _SIDE
        scale = min(wide / max(self.cut, x1 - x0, long), room / (self.depth + deep + (y1 - y0)))
        if self._apart:
            scale = min(wide / max(self.cut, long), _BAR_DEEP / (self.depth + deep))
            left = room + _BELOW / 2 - scale * (self.depth + deep)
            self._larger = min(wide / max(x1 - x0, 1e-6), left / max(y1 - y0, 1e-6)) / max(scale, 1e-3)
        return View(max(scale, 1e-3), width / 2 - self.cut / 2 * scale, _ABOVE + self.depth / 2 * scale)

    def _figure_view(self) -> View:
        """The piece hangs under the middle of the bar, at the same scale where it is drawn flat."""
        x0, _y0, x1, y1 = self.figure.bounds
        s, ratio = self.view.scale, self.view.scale / self.fit.scale
        top = self.view.y + self.depth / 2 * s
        top += _DRAWN_GAP + self._drawn[1] * s + _DRAWN_BELOW if self._drawn[0] else _GAP * max(1.0, min(ratio, 3.0))
        large = s * self._larger
        return View(large, self.view.x + self.cut / 2 * s - (x0 + x1) / 2 * large, top + y1 * large)

    def _part_boxes(self) -> list[QRectF]:
        """The space each part takes, px."""
        self._tops: dict[str, tuple[float, float]] = {}
        if not self.parts:
            return []
        boxes, v = self.figure.boxes, self.figure_view
        corners = np.column_stack((v.points(boxes[:, (0, 3)]), v.points(boxes[:, (2, 1)])))
        corners[:, 2:] -= corners[:, :2]
        rows = corners.tolist()
        for part, (x, y, wide, _high) in zip(self.parts, rows, strict=True):
            self._tops.setdefault(part.id, (x + wide / 2, y))
        return [QRectF(*row) for row in rows]

    def bar_rect(self, start: float, end: float) -> QRectF:
        """A length of the bar seen from above, mm from end A, in px."""
        s, v = self.view.scale, self.view
        return QRectF(v.x + start * s, v.y - self.depth / 2 * s, (end - start) * s, self.depth * s)

    def _zones(self) -> list[ZoneBox]:
        return [ZoneBox(z.feature.id, self.bar_rect(z.start, z.end)) for z in self.answer.reckoning.zones]

    def _drawn_boxes(self) -> list[DrawnBox]:
        """The drawn bar under the bar, straight still: features of the row, then what stands on them."""
        if not self._drawn[0]:
            return []
        composition, s, v = self.answer.piece.composition, self.view.scale, self.view
        drawn, (length, deep) = composition.drawn, self._drawn
        left = v.x + (self.cut - length) / 2 * s
        middle = v.y + (self.depth + deep) / 2 * s + _DRAWN_GAP
        top = middle - deep / 2 * s

        def box(low: float, high: float) -> QRectF:
            return QRectF(left + low * s, top, (high - low) * s, deep * s)

        row = [
            DrawnBox(identity, box(low, high), tuple(straight_profile(shape.spans, left + low * s, middle, s, s)))
            for (identity, shape), low, high in zip(drawn.row, drawn.edges, drawn.edges[1:], strict=False)
        ]
        return row + [DrawnBox(stand.standing.id, box(stand.start, stand.end)) for stand in composition.stands]

    def threads(self) -> list[tuple[str, QLineF]]:
        """For each feature a line from the middle of its zone's lower edge to the top of the part it becomes, by way of the drawn bar."""
        v, scale = self.view, self.view.scale
        low = v.y + self.depth / 2 * scale
        middles = [(z.feature.id, v.x + (z.start + z.end) / 2 * scale) for z in self.answer.reckoning.zones]
        if not self.drawn:
            return [(identity, QLineF(x, low, *self._tops[identity])) for identity, x in middles]
        row = {box.id: box.rect for box in self.drawn}
        onto = [(identity, QLineF(x, low, row[identity].center().x(), row[identity].top())) for identity, x in middles]
        down = [(i, QLineF(r.center().x(), r.bottom() + UNDER_DRAWN, *self._tops[i])) for i, r in row.items() if i in self._tops]
        return onto + down

    def hit(self, at: QPointF) -> str:
        """The feature under a point, on the bar or on the piece, "" for none."""
        for zone in self.zones:
            if zone.rect.adjusted(0, -6, 0, 6).contains(at):
                return zone.id
        for box in reversed(self.drawn):  # what stands there before what it stands on
            if box.rect.adjusted(0, -4, 0, 4 + UNDER_DRAWN).contains(at):
                return box.id
        v = self.figure_view
        p = np.array([(at.x() - v.x) / v.scale, (v.y - at.y()) / v.scale])
        reach = 7 / v.scale
        best, nearest = "", np.inf
        for part in self.parts:
            excess = _distance(p, part)
            if excess < min(nearest, reach):
                best, nearest = part.id, excess
        return best

    def dimension_at(self, at: QPointF) -> Dimension | None:
        """The dimension whose text is under a point."""
        return next((d for d in self.dimensions if d.box.adjusted(-3, -4, 3, 4).contains(at)), None)

    def _dimensions(self) -> list[Dimension]:
        """The chosen feature's dimensions first, then one for each other feature where there is room."""
        found: list[Dimension] = []
        solid = {p.id: box for p, box in zip(self.parts, self.part_boxes, strict=True)}
        for identity in sorted(solid, key=lambda i: i != self.chosen):
            own, parts = solid[identity], [p for p in self.parts if p.id == identity]
            if identity != self.chosen and max(own.width(), own.height()) < _SMALLEST:
                continue
            others = [box for i, box in solid.items() if i != identity]
            for address, mark, value in self._marked(identity):
                if mark == "length" and len(parts) > 1:  # bent in pieces: it has its length on the drawn bar
                    found.extend(self._on_drawn(address, self._text(mark, value)))
                    continue
                part = self._where(parts, mark)
                tries = self._tries(part, address, mark, value)
                clear = next((d for d in tries if self.paper.contains(d.box) and not _blocked(d.box, found, others)), None)
                if clear is None and identity == self.chosen:
                    again = list(self._tries(part, address, mark, value))
                    clear = next((d for d in again if not _blocked(d.box, found, [])), None) or _moved(again[0], found)
                    clear = _kept(clear, self.paper)
                if clear is not None:
                    found.append(clear)
        return found

    def _marked(self, identity: str) -> list[tuple[FieldAddress, str, object]]:
        """The fields of a feature that the drawing dimensions: all of them when it is chosen, otherwise the first."""
        feature = self.answer.piece.feature(identity)
        if feature is None:
            return []
        marked = [
            (FieldAddress(identity, n), feature.marked(s.mark), getattr(feature, n))
            for n, s in specs(feature).items() if s.mark and n not in feature.idle
        ]  # fmt: skip
        marked = [m for m in marked if m[2] is not None and (identity == self.chosen or m[1] != "section")]
        return marked if identity == self.chosen else marked[:1]

    def _where(self, parts: list[Part | Seen], mark: str) -> Part | Seen:
        """The part of a feature that one of its dimensions stands at: a tip at its end, all else at the longest."""
        if mark == "tip":
            return parts[-1 if getattr(self.answer.piece.feature(parts[0].id), "toward", "A") == "B" else 0]
        return max(parts, key=lambda p: p.shape.length)

    def _on_drawn(self, address: FieldAddress, text: str) -> list[Dimension]:
        """A length along the drawn bar, where it is in sight and wide enough to be read."""
        box = next((b.rect for b in self.drawn if b.id == address.owner), None)
        if box is None:
            return []
        words, middle = text_rect(text, box.center(), font(16, 600)), box.center()
        if words.width() + 12 > box.width():
            return []
        return [Dimension(address, text, words, (QPointF(box.left(), middle.y()), QPointF(box.right(), middle.y())), True)]

    def _tries(self, part: Part | Seen, address: FieldAddress, mark: str, value: object) -> Iterator[Dimension]:
        """Places for one dimension, best first."""
        text = self._text(mark, value)
        plain = not any(isinstance(seg, (Arc, Spiral, Helix)) for seg in part.shape.path)
        if mark == "length" and plain and not part.shape.branches and part.reach > 0.2 * part.shape.length:
            yield from (self._length(part, address, text, side) for side in (1, -1))
        elif mark in ("radius", "diameter", "width"):
            yield from self._leaders(part, address, text)
        else:
            yield from (self._tag(part, address, text, mark, reach) for reach in (1.0, -1.0, 1.8))

    def _tag(self, part: Part | Seen, address: FieldAddress, text: str, mark: str, reach: float) -> Dimension:
        """A word beyond the tip it speaks of, or under (or over) the middle of the part."""
        feature = self.answer.piece.feature(part.id)
        size = text_rect(text, QPointF(), font(16, 600))
        if mark == "tip":
            ends = (part.centre[-1], part.centre[-2]) if getattr(feature, "toward", "A") == "B" else (part.centre[0], part.centre[1])
            at, before = self.figure_view.point(ends[0]), self.figure_view.point(ends[1])
            dx, dy = _unit(at - before)
            spot = at + QPointF(dx * (size.width() / 2 + 12), dy * (size.height() / 2 + 12)) * reach
        else:
            at = self.figure_view.point(part.at(part.shape.length / 2))
            spot = at + QPointF(0, 36 + _half(part) * self.view.scale) * reach
        return Dimension(address, text, text_rect(text, spot, font(16, 600)), (at, spot), False)

    def _text(self, mark: str, value: object) -> str:
        if mark == "section":
            return value.label(self.measure)  # type: ignore[attr-defined, no-any-return]
        assert isinstance(value, (int, float))
        shown = self.measure.length(value)
        return {"radius": f"R {shown}", "diameter": f"Ø {shown}", "width": f"{shown} wide"}.get(mark, shown)

    def _length(self, part: Part | Seen, address: FieldAddress, text: str, side: int) -> Dimension:
        """A dimension line beside a straight part, on its lower side or, for `side` −1, on its upper."""
        v = self.figure_view
        cos, sin = math.cos(part.heading), math.sin(part.heading)
        ux, uy = (sin, cos) if cos >= 0 else (-sin, -cos)  # across the part, downwards on screen
        reach = (_half(part) * v.scale + 20) * side
        a = QPointF(v.x + part.start[0] * v.scale + ux * reach, v.y - part.start[1] * v.scale + uy * reach)
        b = a + QPointF(cos, -sin) * (part.reach * v.scale)
        middle = (a + b) / 2
        box = text_rect(text, middle, font(16, 600))
        if abs(ux) >= 0.7:
            middle += QPointF(math.copysign(box.width() / 2 + 6, ux * side), 0)
        elif box.width() > abs(b.x() - a.x()) - 18:
            middle += QPointF(ux, uy) * (18 * side)
        return Dimension(address, text, text_rect(text, middle, font(16, 600)), (a, b), True)

    def _leaders(self, part: Part | Seen, address: FieldAddress, text: str) -> list[Dimension]:
        """Text inside the curve where it fits, otherwise outside it, below, above or beside."""
        at, middle = self.figure_view.point(part.at(part.shape.length / 2)), self.figure_view.point(_inside(part))
        box, face = self.part_boxes[self.parts.index(part)], font(16, 600)
        size = text_rect(text, middle, face)
        spots = [QPointF(middle.x(), box.bottom() + 20), QPointF(box.left() - size.width() / 2 - 12, middle.y()),
                 QPointF(box.right() + size.width() / 2 + 12, middle.y()), QPointF(middle.x(), box.top() - 20)]  # fmt: skip
        if any(isinstance(seg, Arc) for seg in part.shape.path):
            dx, dy = _unit(middle - at)
            far = ((middle.x() - at.x()) ** 2 + (middle.y() - at.y()) ** 2) ** 0.5
            spots.insert(0, at + QPointF(dx, dy) * max(far, size.width() / 2 + 24))
        return [Dimension(address, text, text_rect(text, spot, face), (at, spot), False) for spot in spots]


def _blocked(box: QRectF, found: list[Dimension], solid: list[QRectF]) -> bool:
    return any(box.intersects(d.box) for d in found) or any(box.intersects(other) for other in solid)


def _unit(d: QPointF) -> tuple[float, float]:
    size = (d.x() ** 2 + d.y() ** 2) ** 0.5
    return (d.x() / size, d.y() / size) if size > 1e-9 else (0.0, 1.0)


def _half(part: Part | Seen) -> float:
    """The part's greatest half thickness, mm."""
    if any(span.turns for span in part.shape.spans):
        return max(math.hypot(b.w, b.t) / 2 for span in part.shape.spans for b in (span.start, span.end))
    return max(b.t / 2 for span in part.shape.spans for b in (span.start, span.end))


def _inside(part: Part | Seen) -> Array:
    """The middle of a curve's points: on the inside of every bend and scroll."""
    low, high = part.centre.min(axis=0), part.centre.max(axis=0)
    return np.asarray((low + high) / 2)


def _moved(made: Dimension, found: list[Dimension]) -> Dimension:
    for step in range(1, 8):
        box = made.box.translated(0, 24.0 * step)
        if not any(box.intersects(d.box) for d in found):
            ends = made.ends if made.arrows else (made.ends[0], QPointF(box.center().x(), box.top()))
            return Dimension(made.address, made.text, box, ends, made.arrows)
    return made


def _kept(made: Dimension, paper: QRectF) -> Dimension:
    """A dimension whose text would hang over the edge, pulled back onto the paper."""
    dx = max(paper.left() + 4 - made.box.left(), 0.0) + min(paper.right() - 4 - made.box.right(), 0.0)
    dy = max(paper.top() + 4 - made.box.top(), 0.0) + min(paper.bottom() - 4 - made.box.bottom(), 0.0)
    return made if dx == dy == 0 else replace(made, box=made.box.translated(dx, dy))


def _distance(p: Array, part: Part | Seen) -> float:
    """How far a point is outside a part, mm; negative inside."""
    gap = gaps(p, part.centre)
    half = np.hypot(*((part.left - part.right) / 2).T)
    return float((gap - half[:-1]).min())
