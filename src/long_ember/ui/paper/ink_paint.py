"""Ink on a screen or a printer: the very strokes and words that a PDF is made of."""

from __future__ import annotations

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QBrush, QColor, QPainter, QPen, QPolygonF

from long_ember.papers.ink import Lettering, Page
from long_ember.papers.letters import MM_PER_PT, width
from long_ember.ui.style.fonts import font

__all__ = ["paint_page"]

_FACE = 100  # px, that letters are made at and scaled from: sizes in pixels are whole numbers


def paint_page(painter: QPainter, page: Page, scale: float) -> None:
    """Paint a page, its upper left corner at the painter's origin.

    Args:
        painter: of a screen or a printer.
        page: what lies on it.
        scale: units of the painter a mm.
    """
    for one in page.ink:
        if isinstance(one, Lettering):
            _write(painter, one, scale)
            continue
        pen = QPen(Qt.PenStyle.NoPen)
        if one.wide:
            pen = QPen(QColor(one.colour), one.wide * scale)
            pen.setJoinStyle(Qt.PenJoinStyle.MiterJoin)
            pen.setCapStyle(Qt.PenCapStyle.FlatCap)
            if one.dash:
                pen.setDashPattern([length / one.wide for length in one.dash])
        painter.setPen(pen)
        painter.setBrush(QBrush(QColor(one.fill)) if one.fill else QBrush(Qt.BrushStyle.NoBrush))
        points = QPolygonF([QPointF(x, y) for x, y in (one.points * scale).tolist()])
        if one.closed:
            painter.drawPolygon(points)
        else:
            painter.drawPolyline(points)


def _write(painter: QPainter, one: Lettering, scale: float) -> None:
    size = one.size * MM_PER_PT * scale / _FACE
    painter.save()
    painter.translate(one.x * scale, one.y * scale)
    painter.rotate(-one.turn)
    painter.scale(size, size)
    painter.setPen(QColor(one.colour))
    painter.setFont(font(_FACE, one.weight))
    shift = (one.anchor + 1) / 2 * width(one.text, one.size, one.weight) * scale / size if one.anchor >= 0 else 0.0
    painter.drawText(QPointF(-shift, 0), one.text)
    painter.restore()
