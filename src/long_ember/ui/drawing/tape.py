"""The bar with its marks, as a tape is laid along it."""

from __future__ import annotations

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from long_ember.desk.session import Session
from long_ember.ui.drawing.paint import line_height, text_box, text_rect, text_width, write
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import Theme

__all__ = ["paint_tape"]


def paint_tape(painter: QPainter, session: Session, target: QRectF, theme: Theme, *, chosen: str = "") -> None:
    """The bar with its marks at true proportions; running lengths stagger so that none covers another."""
    answer, m = session.answer, session.measure
    cut, depth = max(answer.reckoning.cut, 1e-6), min(56.0, max(14.0, target.width() / answer.reckoning.cut * answer.piece.bar.width))
    bar = QRectF(target.left(), target.top() + 96, target.width(), depth)
    flip = answer.piece.datum == "B"

    def x(at: float) -> float:
        return bar.right() - at / cut * bar.width() if flip else bar.left() + at / cut * bar.width()

    painter.fillRect(bar, theme.colour("steel"))
    for i, zone in enumerate(answer.reckoning.zones):
        left, right = bar.left() + zone.start / cut * bar.width(), bar.left() + zone.end / cut * bar.width()
        box = QRectF(left, bar.top(), right - left, depth)
        role = "chosen" if zone.feature.id == chosen else "steel" if i % 2 == 0 else "steel_alt"
        painter.fillRect(box, theme.colour(role))
        _name(painter, zone.feature.title, box, theme)
    painter.setPen(QPen(theme.colour("edge"), 1.6))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(bar)
    boxes = _boxes([(x(mark.at), m.length(mark.at)) for mark in answer.marks], bar.top(), target)
    _ticks(painter, theme, [(x(mark.at), box.bottom()) for mark, box in zip(answer.marks, boxes, strict=True)], bar)
    for mark, box in zip(answer.marks, boxes, strict=True):
        text_box(painter, m.length(mark.at), box.center(), font(17, 600), theme)
    hook = "A" if not flip else "B"
    side = bar.left() if not flip else bar.right()
    text_box(
        painter, f"tape from {hook}", QPointF(side + (46 if not flip else -46), bar.bottom() + 18), font(15, 600), theme, role="accent"
    )
    text_box(painter, f"cut {m.length(cut)}", QPointF(bar.center().x(), bar.bottom() + 18), font(16, 600), theme)


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
