"""The cross-section of a bar, drawn true to size by the same points as its solid."""

from __future__ import annotations

from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainter, QPen

from long_ember.geometry import section_outline
from long_ember.sections import Section
from long_ember.ui.drawing.paint import View, polygon
from long_ember.ui.style.theme import Theme

__all__ = ["paint_section"]


def paint_section(painter: QPainter, section: Section, middle: QPointF, scale: float, theme: Theme) -> None:
    """A section about a point.

    Args:
        painter: to paint with.
        section: to draw, its width across.
        middle: px.
        scale: px per mm.
        theme: colours.
    """
    view = View(scale, middle.x(), middle.y())
    painter.setPen(QPen(theme.colour("edge"), 1.2))
    for points, role in zip(section_outline(section), ("steel", "paper"), strict=False):
        painter.setBrush(theme.colour(role))
        painter.drawPolygon(polygon(view.points(points)))
