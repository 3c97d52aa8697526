"""Paint the piece at a stage, glowing where it is hot, with the held end and the marks still to use."""

from __future__ import annotations

import math
from collections.abc import Generator

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QLinearGradient, QPainter, QPen

from long_ember.arrays import Array
from long_ember.document import Answer
from long_ember.frozen import dataclass
from long_ember.geometry import Figure, Part, Progress, drafting, figure, level_bodies, point_stations, sweeping, trace
from long_ember.heats import Heat, Moment, StagePart, moment, staged_parts
from long_ember.portions import all_portions
from long_ember.ui.drawing.paint import View, look, paint_part, polygon
from long_ember.ui.drawing.solid import Solid
from long_ember.ui.style.theme import Theme, heat_colour

__all__ = [
    "StageFigure",
    "focus",
    "frame_painting",
    "marks_painting",
    "moment_painting",
    "paint_held",
    "paint_marks",
    "paint_moment",
    "paint_window",
    "stage_figure",
    "stage_figuring",
    "stage_solid",
]

_GLOWS = 470.0  # °C
_AT_ONCE = 8  # features painted in one portion
_SEEN = 0.5  # mm of bar
_NEAR = 0.05  # of the room's width: boxes of parts are that rough


@dataclass(frozen=True)
class StageFigure(Figure[Part]):
    """The whole piece part of the way.

    Args:
        now: its parts with the bar that they are made of, in the order of `parts`.
    """

    now: tuple[StagePart, ...] = ()


def stage_figure(answer: Answer, progress: dict[str, Progress]) -> StageFigure:
    """The whole piece with each feature as far as `progress` says."""
    return all_portions(stage_figuring(answer, progress))


def stage_figuring(answer: Answer, progress: dict[str, Progress]) -> Generator[None, None, StageFigure]:
    """The same in portions, see `stage_figure`."""
    now = yield from staged_parts(answer.reckoning, progress)
    shapes = [(p.id, p.shape) for p in now]
    yield from drafting(shapes)
    return StageFigure(figure(shapes).parts, now=now)


def frame_painting(painter: QPainter, answer: Answer, index: int, target: QRectF, theme: Theme) -> Generator[None, None, None]:
    """A frame of the filmstrip, in portions: what is worked as large as it fits, glowing as it came out of the fire, the rest in outline."""
    begun, over = moment(answer.plan, index), answer.plan.frames[index].after
    shown = yield from stage_figuring(answer, over)
    room = target.adjusted(-8, -4, 8, 4)
    painter.setClipRect(room)
    yield from moment_painting(painter, answer, begun, shown, target, theme, focus(answer, begun, shown), room)
    painter.setClipping(False)


def focus(answer: Answer, now: Moment, shown: StageFigure) -> tuple[float, float, float, float]:
    """Bounds of what is worked at a moment, mm, with as much beside it as the bar is thick twice; of the whole where nothing is."""
    if not isinstance(now.frame, Heat) or not now.frame.work:
        return shown.bounds
    low, high = now.frame.zone
    found: list[Array] = []
    for zone, part in zip(shown.now, shown.parts, strict=True):
        if min(zone.end, high) - max(zone.start, low) > _SEEN:
            share = part.shape.length / max(zone.end - zone.start, 1e-9)
            found.append(part.slice(max(low - zone.start, 0.0) * share, min(high - zone.start, zone.end - zone.start) * share))
            found += [part.placed(limb) for limb in trace(part.shape).limbs]  # tines, as far open as they are
    if not found:
        return shown.bounds
    points, beside = np.vstack(found), 2 * answer.piece.bar.thickness
    (x0, y0), (x1, y1) = points.min(axis=0) - beside / 2, points.max(axis=0) + beside / 2
    a, b, c, d = shown.bounds
    return max(float(x0) - beside, a), max(float(y0), b), min(float(x1) + beside, c), min(float(y1), d)


def paint_moment(
    painter: QPainter, answer: Answer, now: Moment, shown: StageFigure, target: QRectF, theme: Theme,
    bounds: tuple[float, float, float, float] | None = None, room: QRectF | None = None,
) -> View:  # fmt: skip
    """A stage in `target`; the hot zone in the colour that it has now.

    Args:
        painter: to paint with.
        answer: of the piece.
        now: the moment.
        shown: the piece then.
        target: px.
        theme: its colours.
        bounds: mm, of what is to be seen, the rest in outline; None for all of it, at a scale that the whole bar fits.
        room: px, that is all that shows; what lies out of it is not painted.
    """
    return all_portions(moment_painting(painter, answer, now, shown, target, theme, bounds, room))


def moment_painting(
    painter: QPainter, answer: Answer, now: Moment, shown: StageFigure, target: QRectF, theme: Theme,
    bounds: tuple[float, float, float, float] | None = None, room: QRectF | None = None,
) -> Generator[None, None, View]:  # fmt: skip
    """The same in portions, see `paint_moment`."""
    if bounds is None:
        view = View.fitting(shown.bounds, target, most=target.width() / max(answer.reckoning.cut * 1.02, 1.0))
    else:
        view = View.fitting(bounds, target, most=target.height() / (2.5 * answer.piece.bar.thickness))
    worked = {w.step.feature.id for w in now.frame.work} if isinstance(now.frame, Heat) else set()
    if room is None or not shown.parts:
        seen = [True] * len(shown.parts)
    else:
        (x0, y0), (x1, y1) = view.points(shown.boxes[:, :2]).T, view.points(shown.boxes[:, 2:]).T
        near = _NEAR * room.width()
        seen = (
            (x0 <= room.right() + near) & (x1 >= room.left() - near) & (y1 <= room.bottom() + near) & (y0 >= room.top() - near)
        ).tolist()
    for i, (zone, part) in enumerate(zip(shown.now, shown.parts, strict=True)):
        if not seen[i]:
            continue
        if i % _AT_ONCE == 0:
            yield
        chosen = part.id in worked and now.celsius < _GLOWS
        aside = bounds is not None and bool(worked) and not chosen and (zone.end <= now.frame_zone[0] or zone.start >= now.frame_zone[1])
        steel = "paper" if aside else "steel" if i % 2 == 0 else "steel_alt"
        paint_part(
            painter, part, view, look(theme, "chosen", "accent", 2.0) if chosen else look(theme, steel, "muted" if aside else "edge")
        )
    if now.celsius < _GLOWS:
        return view
    glow = heat_colour(now.celsius)
    for i, (zone, part, there) in enumerate(zip(shown.now, shown.parts, seen, strict=True)):
        if not there:
            continue
        if i % _AT_ONCE == 0:
            yield
        low, high = max(zone.start, now.zone[0]), min(zone.end, now.zone[1])
        if high - low > 0.999 * (zone.end - zone.start):
            paint_part(painter, part, view, look(theme, glow.name(), "edge", 1.6 if part.id in worked else 1.0))
        elif high > low:
            share = part.shape.length / (zone.end - zone.start)
            painter.setPen(QPen(theme.colour("edge"), 1.6 if part.id in worked else 1.0))
            painter.setBrush(glow)
            painter.drawPolygon(
                polygon(view.points(part.slice((low - zone.start) * share, (high - zone.start) * share))), Qt.FillRule.WindingFill
            )
            for line in trace(part.shape).lines:
                painter.drawPolyline(polygon(view.points(part.placed(line))))
    return view


def stage_solid(shown: StageFigure, now: Moment) -> Generator[None, None, Solid]:
    """The piece at a moment as a solid, glowing where it is hot; found in portions."""
    for part in shown.now:
        yield from sweeping(part.shape)  # kept with it
        yield
    bodies = level_bodies([(p.id, p.shape) for p in shown.now])
    yield
    if now.celsius < _GLOWS:
        return Solid(bodies)
    hot = []
    for part in shown.now:
        at = part.start + point_stations(part.shape) * ((part.end - part.start) / max(part.shape.length, 1e-9))
        hot.append((at >= now.zone[0] - _SEEN) & (at <= now.zone[1] + _SEEN))
        yield
    return Solid(bodies, hot, heat_colour(now.celsius).name())


def paint_held(painter: QPainter, shown: Figure[Part], heat: Heat, view: View, theme: Theme) -> None:
    """Tong jaws over the end that is held, or a hand's width where the bar is its own handle."""
    if not shown.parts:
        return
    part = shown.parts[0] if heat.held == "A" else shown.parts[-1]
    length = part.shape.length
    here, inner = (
        (part.across(0.0), part.across(min(length, 1.0)))
        if heat.held == "A"
        else (part.across(length), part.across(max(0.0, length - 1.0)))
    )
    tip, back = (view.point((pair[0] + pair[1]) / 2) for pair in (here, inner))
    angle = math.degrees(math.atan2(tip.y() - back.y(), tip.x() - back.x()))
    half = max(float(np.linalg.norm(here[0] - here[1])) * view.scale / 2, 3.0)
    painter.save()
    painter.translate(tip)
    painter.rotate(angle)
    painter.setPen(QPen(theme.colour("ink"), 2.5, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    reach = 34.0
    for side in (-1, 1):  # jaws over the bar, reins crossing behind it
        painter.drawPolyline(
            [QPointF(-14, side * (half + 3)), QPointF(6, side * (half + 3)), QPointF(18, side * 2), QPointF(reach, -side * 7)]
        )
    painter.restore()


def paint_marks(painter: QPainter, shown: Figure[Part], left: tuple[tuple[str, float], ...], view: View, theme: Theme) -> None:
    """Short strokes across the bar where something is still to begin, with a dot beside each so that it is seen at arm's length."""
    all_portions(marks_painting(painter, shown, left, view, theme))


def marks_painting(
    painter: QPainter, shown: Figure[Part], left: tuple[tuple[str, float], ...], view: View, theme: Theme
) -> Generator[None, None, None]:
    """The same in portions, see `paint_marks`."""
    parts = {p.id: p for p in reversed(shown.parts)}
    strokes: list[QLineF] = []
    dots: list[QPointF] = []
    for i, (identity, share) in enumerate(left):
        if i % _AT_ONCE == 0:
            yield
        part = parts.get(identity)
        if part is None:  # all of it is bent into something else by now
            continue
        one, other = part.across(share * part.shape.length) if 0 < share < 1 else part.end(share == 1)
        a, b = view.point(one), view.point(other)
        long = max(math.hypot(b.x() - a.x(), b.y() - a.y()), 1e-6)
        x, y = (b.x() - a.x()) / long, (b.y() - a.y()) / long
        strokes.append(QLineF(a.x() - 5 * x, a.y() - 5 * y, b.x() + 5 * x, b.y() + 5 * y))
        dots.append(QPointF(a.x() - 9 * x, a.y() - 9 * y))
    colour = theme.colour("accent")
    painter.setPen(QPen(colour, 2))
    painter.drawLines(strokes)
    painter.setPen(QPen(colour, 7, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
    painter.drawPoints(dots)


def paint_window(painter: QPainter, heat: Heat, target: QRectF, theme: Theme, share: float = 0.0) -> None:
    """The time in the heat as a bar of glow being used up, a tick where the work is done, and a needle where the hand is now."""
    gradient = QLinearGradient(target.left(), 0, target.right(), 0)
    for u in (0.0, 0.25, 0.5, 0.75, 1.0):
        gradient.setColorAt(u, heat_colour(heat.hot + (heat.stop - heat.hot) * u))
    painter.setPen(QPen(theme.colour("edge"), 1))
    painter.setBrush(gradient)
    painter.drawRoundedRect(target, 4, 4)
    done = target.width() * min(heat.need, 1.0)
    used = QRectF(target.left(), target.top(), done * share, target.height())
    painter.fillRect(used, theme.colour("panel"))
    painter.setPen(QPen(theme.colour("ink"), 3))
    x = target.left() + done
    painter.drawLine(QPointF(x, target.top() - 6), QPointF(x, target.bottom() + 6))
    if share > 0:
        painter.setPen(QPen(theme.colour("accent"), 3))
        painter.drawLine(QPointF(used.right(), target.top() - 9), QPointF(used.right(), target.bottom() + 9))
