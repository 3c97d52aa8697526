"""The bar with its marks, as a tape is laid along it."""

from __future__ import annotations

from collections.abc import Generator, Sequence

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from long_ember.desk.session import Session
from long_ember.stock import Mark, chains
from long_ember.ui.drawing.paint import line_height, straight_profile, text_box, text_rect, text_width, write
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import Theme
from long_ember.units import Measure

__all__ = ["drawn_painting", "tape_painting"]

_AT_ONCE = 10  # marks painted in one portion


def tape_painting(
    painter: QPainter, session: Session, target: QRectF, theme: Theme, marks: Sequence[Mark], *, chosen: str = ""
) -> Generator[None, None, None]:
    """The bar with its marks at true proportions, painted in portions; running lengths stagger so that none covers another."""
    answer, m = session.answer, session.measure
    cut, depth = max(answer.reckoning.cut, 1e-6), min(56.0, max(14.0, target.width() / answer.reckoning.cut * answer.piece.bar.width))
    bar = QRectF(target.left(), target.top() + 96, target.width(), depth)
    flip = answer.piece.datum == "B"

    def x(at: float) -> float:
        return bar.right() - at / cut * bar.width() if flip else bar.left() + at / cut * bar.width()

    painter.fillRect(bar, theme.colour("steel"))
    here: list[QRectF] = []
    for i, zone in enumerate(answer.reckoning.zones):
        left, right = bar.left() + zone.start / cut * bar.width(), bar.left() + zone.end / cut * bar.width()
        box = QRectF(left, bar.top(), right - left, depth)
        role = "chosen" if zone.feature.id == chosen else "steel" if i % 2 == 0 else "steel_alt"
        painter.fillRect(box, theme.colour(role))
        if zone.feature.id == chosen:
            here.append(box)
        _name(painter, zone.feature.title, box, theme)
    painter.setPen(QPen(theme.colour("edge"), 1.6))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(bar)
    painter.setPen(QPen(theme.colour("accent"), 2.4))
    painter.drawRects(here)
    yield
    yield from _measured(painter, m, [(x(mark.at), mark) for mark in marks], bar, target, theme, flip=flip)
    hook = "A" if not flip else "B"
    side = bar.left() if not flip else bar.right()
    text_box(
        painter, f"tape from {hook}", QPointF(side + (46 if not flip else -46), bar.bottom() + 38), font(15, 600), theme, role="accent"
    )
    text_box(painter, f"cut {m.length(cut)}", QPointF(bar.center().x(), bar.bottom() + 38), font(16, 600), theme)


def drawn_painting(
    painter: QPainter, session: Session, target: QRectF, theme: Theme, marks: Sequence[Mark], *, chosen: str = ""
) -> Generator[None, None, None]:
    """The drawn bar, straight still, with the marks of what is bent, twisted and pierced later; names stand under what they cover."""
    answer, m = session.answer, session.measure
    composition = answer.piece.composition
    drawn, flip = composition.drawn, answer.piece.datum == "B"
    length = max(drawn.length, 1e-6)
    deep = drawn.thickest
    scale = target.width() / length
    tall = min(1.0, 56.0 / (deep * scale))  # a short thick bar would fill the page
    middle = target.top() + 96 + deep * scale * tall / 2
    bar = QRectF(target.left(), middle - deep * scale * tall / 2, target.width(), deep * scale * tall)
    for i, (identity, shape) in enumerate(drawn.row):
        painter.setPen(QPen(theme.colour("accent"), 2.4) if identity == chosen else QPen(theme.colour("edge"), 1.4))
        painter.setBrush(theme.colour("chosen" if identity == chosen else "steel" if i % 2 == 0 else "steel_alt"))
        painter.drawPolygon(QPolygonF(straight_profile(shape.spans, bar.left() + drawn.edges[i] * scale, middle, scale, scale * tall)))

    def x(at: float) -> float:
        return bar.right() - at * scale if flip else bar.left() + at * scale

    yield
    yield from _measured(painter, m, [(x(mark.at), mark) for mark in marks], bar, target, theme, flip=flip)
    for stand in composition.stands:
        left, right = bar.left() + stand.start * scale, bar.left() + stand.end * scale
        role = "accent" if stand.standing.id == chosen else "ink"
        level = bar.bottom() + 26
        painter.setPen(QPen(theme.colour(role), 3.0))
        painter.drawLine(QLineF(left, level, right, level))
        text_box(painter, stand.feature.title, QPointF((left + right) / 2, level + 16), font(15, 600), theme, role=role)


def _measured(
    painter: QPainter, m: Measure, marks: list[tuple[float, Mark]], bar: QRectF, target: QRectF, theme: Theme, *, flip: bool
) -> Generator[None, None, None]:
    """Each mark through the bar, its running length over it, and under it from mark to mark, where there is room to say it."""
    boxes = _boxes([(x, m.length(mark.at)) for x, mark in marks], bar.top(), target)
    _ticks(painter, theme, [(x, box.bottom()) for (x, _mark), box in zip(marks, boxes, strict=True)], bar)
    for i, ((_x, mark), box) in enumerate(zip(marks, boxes, strict=True), 1):
        if i % _AT_ONCE == 0:
            yield
        painter.fillRect(box.adjusted(2, 0, -2, 0), theme.colour("paper"))  # over the ticks that go up past it
        text_box(painter, m.length(mark.at), box.center(), font(17, 600), theme)
    yield
    before = bar.right() if flip else bar.left()
    face = font(14)
    painter.setPen(theme.colour("muted"))
    for (x, _mark), chain in zip(marks, chains([mark for _x, mark in marks], m), strict=True):
        words = m.length(chain, bare=True)
        wide = text_width(words, face)
        if abs(x - before) > wide + 8:
            write(painter, words, (x + before) / 2 - wide / 2, bar.bottom() + 4, face, theme.colour("muted"))
        before = x


def _name(painter: QPainter, name: str, box: QRectF, theme: Theme) -> None:
    face = font(15, 500)
    wide = text_width(name, face)
    if wide + 10 < box.width() and box.height() > 18:
        middle = box.center()
        write(painter, name, middle.x() - wide / 2, middle.y() - line_height(face) / 2, face, theme.colour("ink"))


def _boxes(labels: list[tuple[float, str]], bottom: float, target: QRectF) -> list[QRectF]:
    """A place over the bar for every figure, at the lowest level where there is room, never beyond the paper."""
    boxes: list[QRectF] = []
    for x, text in labels:
        width = text_rect(text, QPointF(), font(17, 600)).width()
        left = min(max(x - width / 2, target.left() - 28), target.right() + 28 - width)
        near = [b for b in boxes if b.right() > left]
        tries = (QRectF(left, bottom - 26 - 24 * level, width, 22) for level in range(4))
        boxes.append(next((t for t in tries if not any(t.intersects(b) for b in near)), QRectF(left, bottom - 98, width, 22)))
    return boxes


def _ticks(painter: QPainter, theme: Theme, marks: list[tuple[float, float]], bar: QRectF) -> None:
    """Marks through the bar, each up to its figure; drawn together, because forty pens cost milliseconds."""
    painter.setPen(QPen(theme.colour("ink"), 2.0))
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
    painter.drawLines([QLineF(x, top, x, bar.bottom()) for x, top in marks])
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
    painter.setPen(QPen(theme.colour("ink"), 8.0, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
    painter.drawPoints([QPointF(x, bar.center().y()) for x, _top in marks])
