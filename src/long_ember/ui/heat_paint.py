"""Paint the piece at a stage, glowing where it is hot."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QLinearGradient, QPainter, QPen

from long_ember.arrays import Array
from long_ember.document import Answer
from long_ember.geometry import Figure, Part, Progress, figure, stage_shape, trace
from long_ember.heats import Heat
from long_ember.ui.paint import View, look, paint_part, polygon
from long_ember.ui.theme import Theme, heat_colour

__all__ = ["paint_stage", "paint_window", "stage_figure"]


def stage_figure(answer: Answer, progress: dict[str, Progress]) -> Figure[Part]:
    """The whole piece with each feature as far as `progress` says."""
    zones = answer.reckoning.zones
    return figure([(z.feature.id, stage_shape(z.feature, z.place, progress[z.feature.id])) for z in zones])


def paint_stage(
    painter: QPainter, answer: Answer, shown: Figure[Part], heat: Heat, target: QRectF, theme: Theme, *, glow: bool = True
) -> None:
    """A stage in `target`, at a scale that the whole bar fits; the hot zone in the colour it leaves the fire with."""
    view = View.fitting(shown.bounds, target, most=target.width() / max(answer.reckoning.cut, 1.0))
    for i, part in enumerate(shown.parts):
        paint_part(painter, part, view, look(theme, "steel" if i % 2 == 0 else "steel_alt"))
    if not glow:
        return
    worked = {w.step.feature.id for w in heat.work}
    for zone, part in zip(answer.reckoning.zones, shown.parts, strict=True):
        low, high = max(zone.start, heat.zone[0]), min(zone.end, heat.zone[1])
        if heat.cold:
            if part.id in worked:
                paint_part(painter, part, view, look(theme, "chosen", "accent", 2.0))
        elif high - low > 0.999 * zone.length:
            paint_part(painter, part, view, look(theme, heat_colour(heat.hot).name(), "edge", 1.6 if part.id in worked else 1.0))
        elif high > low:
            share = part.shape.length / zone.length
            painter.setPen(QPen(theme.colour("edge"), 1.6 if part.id in worked else 1.0))
            painter.setBrush(heat_colour(heat.hot))
            painter.drawPolygon(
                polygon(view.points(_slice(part, (low - zone.start) * share, (high - zone.start) * share))), Qt.FillRule.WindingFill
            )
            for line in trace(part.shape).lines:
                painter.drawPolyline(polygon(view.points(part.placed(line))))


def _slice(part: Part, start: float, stop: float) -> Array:
    """The outline of a part between two developed lengths, closed."""
    keep = (part.s > start) & (part.s < stop)
    a, b = part.across(start), part.across(stop)
    left = np.vstack((a[0], part.left[keep], b[0]))
    right = np.vstack((a[1], part.right[keep], b[1]))
    return np.vstack((left, right[::-1]))


def paint_window(painter: QPainter, heat: Heat, target: QRectF, theme: Theme) -> None:
    """The time in the heat as a bar of glow being used up, and a tick where the work is done."""
    gradient = QLinearGradient(target.left(), 0, target.right(), 0)
    for u in (0.0, 0.25, 0.5, 0.75, 1.0):
        gradient.setColorAt(u, heat_colour(heat.hot + (heat.stop - heat.hot) * u))
    painter.setPen(QPen(theme.colour("edge"), 1))
    painter.setBrush(gradient)
    painter.drawRoundedRect(target, 4, 4)
    x = target.left() + target.width() * min(heat.need, 1.0)
    painter.setPen(QPen(theme.colour("ink"), 3))
    painter.drawLine(QPointF(x, target.top() - 6), QPointF(x, target.bottom() + 6))
