"""The storyboard: the piece at any moment, large, with a slider to scrub through the whole sequence."""

from __future__ import annotations

from collections.abc import Generator

import numpy as np
from PySide6.QtCore import QPointF, QRect, QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QSlider, QVBoxLayout, QWidget

from long_ember.desk.session import Session
from long_ember.desk.turns import MANY
from long_ember.document import Answer
from long_ember.geometry import Figure, Part
from long_ember.heats import Heat, Moment, length_now, marks_left, moment, sizes_now
from long_ember.physics import band
from long_ember.ui.drawing.heat_paint import (
    StageFigure,
    focus,
    marks_painting,
    moment_painting,
    paint_held,
    paint_window,
    stage_figuring,
    stage_solid,
)
from long_ember.ui.drawing.late_picture import LatePicture
from long_ember.ui.drawing.paint import View, arrow_line, text_box, text_width, write
from long_ember.ui.drawing.smooth import Hand, SmoothSolid
from long_ember.ui.drawing.solid import Solid
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import theme_of
from long_ember.ui.widgets.buttons import worded

__all__ = ["STEPS", "HeatStage"]

STEPS = 20  # of the slider, for each frame
_LINES = 3
_REST = 160  # ms
_WHOLE = 300.0  # px, of the small picture of the whole


def _fitting(words: str, room: float) -> list[str]:
    """Words in one line, or in two where there is no room for one: broken after a comma."""
    if text_width(words, font(15, 500)) <= room or ", " not in words:
        return [words]
    head, _comma, rest = words.partition(", ")
    return [head + ",", rest]


class _Canvas(QWidget):
    """The piece at a moment."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.at = 0.0
        self.turned = False
        self._hand = Hand(-0.5, 0.45)
        self._solid: tuple[Answer, float, Solid] | None = None
        self._shown: tuple[Answer, float, StageFigure] | None = None
        self._late = LatePicture(session, self, "stage", self._painting)
        self._smooth = SmoothSolid(session, self, self._late.now)
        self._rest = QTimer(self, singleShot=True, interval=_REST)
        self._rest.timeout.connect(self._late.now)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setMinimumSize(440, 180)
        self.setAccessibleName("The piece at this moment")
        session.restyled.connect(self._late.now)

    @property
    def now(self) -> Moment | None:
        """The moment that is shown."""
        plan = self._session.answer.plan
        return moment(plan, self.at) if plan.frames else None

    def shown(self, now: Moment) -> Generator[None, None, StageFigure]:
        """The piece as it is then, in portions."""
        answer, at, kept = self._session.answer, self.at, self._shown
        if kept is None or kept[0] is not answer or kept[1] != at:
            kept = self._shown = (answer, at, (yield from stage_figuring(answer, now.progress)))
        return kept[2]

    def paintEvent(self, event: QPaintEvent) -> None:
        """What is ready, or all of it at once."""
        self._late.paint(event.rect())

    def _painting(self, painter: QPainter, _wanted: QRect, late: bool) -> Generator[None, None, None]:
        """Shape, glow, grip, marks left, length now; the window being used up."""
        if late:
            yield from self._session.answer.plan.framing()
        theme, now = theme_of(self._session), self.now
        painter.fillRect(self.rect(), theme.colour("paper"))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if now is None:
            for i, words in enumerate(
                ("No heats yet: plain bar needs no fire.", "Add a taper or a bend on Shape, and the order of work stands here.")
            ):
                text_box(painter, words, QPointF(self.width() / 2, 80 + 32 * i), font(19), theme, role="muted")
            return
        answer = self._session.answer
        shown = yield from self.shown(now)
        hot = isinstance(now.frame, Heat) and not now.frame.cold
        target = QRectF(40, 92, self.width() - 80, self.height() - 92 - (104 if hot else 58))
        if self.turned:
            yield from self._turned(painter, shown, now, target, late)
            yield
            self._say(painter, now, target.width())
            self._paint_window(painter, now)
            return
        bounds = focus(answer, now, shown)
        close = self._close(bounds, shown, target)
        yield
        view = yield from moment_painting(painter, answer, now, shown, target, theme, bounds if close else None)
        yield
        left = marks_left(answer.plan, now.progress)
        yield from marks_painting(painter, shown, left, view, theme)
        yield
        if close:  # where that is on the whole, with the end that is held
            place = QRectF(self.width() - _WHOLE - 24, 8, _WHOLE - 36, 52)
            painter.fillRect(place.adjusted(-12, -8, 48, 12), theme.colour("paper"))
            whole = yield from moment_painting(painter, answer, now, shown, place, theme)
            yield
            if isinstance(now.frame, Heat):
                paint_held(painter, shown, now.frame, whole, theme)
                yield
            painter.setPen(QPen(theme.colour("accent"), 1.5))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            a, b = whole.point(np.array(bounds[:2])), whole.point(np.array(bounds[2:]))
            painter.drawRect(QRectF(a, b).normalized().adjusted(-3, -3, 3, 3))
        elif isinstance(now.frame, Heat):
            paint_held(painter, shown, now.frame, view, theme)
        yield
        told = self._say(painter, now, self.width() - (_WHOLE if close else 0) - 60)
        if left:
            text = f"{len(left)} mark{'s' if len(left) > 1 else ''} still to use"
            write(painter, text, 24, 30 + 21 * told, font(14, 500), theme.colour("muted"))
        yield
        self._measure(painter, target, shown, None if close else view, length_now(answer.reckoning, now.progress))
        self._paint_window(painter, now)

    def _say(self, painter: QPainter, now: Moment, room: float) -> int:
        """How hot it is and the sizes that it has now; how many lines of them."""
        theme, m = theme_of(self._session), self._session.measure
        words = f"{m.temperature(now.celsius)}, {band(now.celsius).word}" if now.celsius else "cold"
        write(painter, words, 24, 6, font(17, 600), theme.colour("ink"))
        lines = sizes_now(self._session.answer.reckoning, now)
        told = [part for line in lines[:2] for part in _fitting(line.show(m), room)][:_LINES]
        for i, words in enumerate(told):
            write(painter, words, 24, 30 + 21 * i, font(15, 500), theme.colour("ink"))
        return len(told)

    def _paint_window(self, painter: QPainter, now: Moment) -> None:
        """The window at the anvil, being used up."""
        theme, m = theme_of(self._session), self._session.measure
        if isinstance(now.frame, Heat) and not now.frame.cold:
            paint_window(painter, now.frame, QRectF(24, self.height() - 46, self.width() - 48, 16), theme, now.share)
            seconds = now.frame.seconds
            left_of = max(0.0, seconds - seconds * min(now.frame.need, 1.0) * now.share)
            text = f"{m.seconds(left_of)} left of {m.seconds(seconds)} at the anvil; the tick is where the work should be done"
            write(painter, text, 24, self.height() - 24, font(14, 500), theme.colour("ink"))

    def _turned(self, painter: QPainter, shown: StageFigure, now: Moment, target: QRectF, late: bool) -> Generator[None, None, None]:
        """The same as a solid, hot where it is hot."""
        answer = self._session.answer
        if self._solid is None or self._solid[:2] != (answer, self.at):
            self._solid = (answer, self.at, (yield from stage_solid(shown, now)))
        solid, look = self._solid[2], self._hand.look
        points = (solid.points @ look.T)[:, :2]
        low, high = points.min(axis=0), points.max(axis=0)
        view = View.fitting((*low.tolist(), *high.tolist()), target.adjusted(0, -30, 0, 20), most=6.0)
        if late:
            yield from self._smooth.painting(painter, solid, look, view, QRectF(self.rect()))
        else:
            self._smooth.paint(painter, solid, look, view, QRectF(self.rect()), moving=self._rest.isActive())

    def turn(self, yaw: float, pitch: float) -> None:
        """Turn about the upright and tip, rad."""
        self._hand.turn(yaw, pitch)
        self._rest.start()
        self._late.now()

    def wait(self) -> None:
        """There will be another plan in a moment: what is under way is not wanted."""
        self._late.leave()

    def renew(self) -> None:
        """Another plan: of many heats the moment follows it in portions."""
        if self.isVisible() and len(self._session.answer.plan.packed) > MANY:
            self._late.late()
        else:
            self.changed()

    def changed(self) -> None:
        """Another moment, or another look."""
        self._late.leave()
        self._late.now()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take hold of the solid."""
        self._hand.take(event.position() if self.turned else None)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Turn it."""
        if event.buttons() and (by := self._hand.drag(event.position())):
            self.turn(*by)

    def _close(self, bounds: tuple[float, float, float, float], shown: Figure[Part], target: QRectF) -> bool:
        """What is worked would be small on the whole piece: it is shown by itself."""
        a, b, c, d = shown.bounds
        x0, y0, x1, y1 = bounds
        whole = min(target.width() / max(c - a, 1e-6), target.height() / max(d - b, 1e-6))
        near = min(target.width() / max(x1 - x0, 1e-6), target.height() / max(y1 - y0, 1e-6))
        return near > 1.4 * whole

    def _measure(self, painter: QPainter, target: QRectF, shown: Figure[Part], view: View | None, along: float) -> None:
        """The length over all under the piece, and how long it is along its middle where it is no longer straight."""
        theme, m = theme_of(self._session), self._session.measure
        over = shown.bounds[2] - shown.bounds[0]
        straight = abs(over - sum(p.shape.length for p in shown.parts)) < 1.0
        words = f"{m.length(along)} long, cold" if straight else f"{m.length(over)} over all, {m.length(along)} along its middle, cold"
        if view is None:
            text_box(painter, f"All of it {words}", QPointF(target.center().x(), target.bottom() + 30), font(15, 500), theme)
            return
        a, b, y = view.x + shown.bounds[0] * view.scale, view.x + shown.bounds[2] * view.scale, target.bottom() + 20
        arrow_line(painter, QPointF(a, y), QPointF(b, y), theme.colour("muted"))
        text_box(painter, words, QPointF((a + b) / 2, y + 16), font(15, 500), theme)


class HeatStage(QWidget):
    """The canvas over its slider.

    Signals:
        moved: another frame has been scrubbed to, by its index.
    """

    moved = Signal(int)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.canvas = _Canvas(session)
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setAccessibleName("Moment of the sequence")
        self.slider.setToolTip("Scrub through the work; arrow keys move in small steps, Page keys by a heat")
        self.slider.setMinimumHeight(34)
        self.slider.setPageStep(STEPS)
        self.slider.valueChanged.connect(self._scrubbed)
        self.turned_button = worded("Turned", self._look, "As a solid that a drag turns; hot where it is hot")
        self.turned_button.setCheckable(True)
        self.turned_button.setProperty("small", True)
        self.turned_button.setMinimumHeight(32)
        under = QHBoxLayout()
        under.setContentsMargins(0, 0, 16, 0)
        under.addWidget(self.slider, 1)
        under.addWidget(self.turned_button)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        column.addWidget(self.canvas, 1)
        column.addLayout(under)

    @property
    def frame_index(self) -> int:
        """Of the frame that is shown."""
        now = self.canvas.now
        return now.index if now is not None else 0

    def drawing(self) -> Generator[None, None, None]:
        """The piece at its moment by a new plan, in portions, before it is painted."""
        if (now := self.canvas.now) is not None:
            yield from self.canvas.shown(now)

    def renew(self) -> None:
        """The plan is another one; the moment stays where it was as far as it can."""
        count = len(self._session.answer.plan.frames)
        self.slider.blockSignals(True)
        self.slider.setRange(0, max(count, 1) * STEPS)
        self.slider.blockSignals(False)
        self.canvas.at = min(self.canvas.at, float(count))
        self.canvas.renew()

    def show_frame(self, index: int) -> None:
        """Go to where a frame begins, unless it is shown already."""
        if index != self.frame_index or self.canvas.at == 0:
            self.canvas.at = float(index)
            self.slider.blockSignals(True)
            self.slider.setValue(index * STEPS)
            self.slider.blockSignals(False)
            self.canvas.changed()

    def _look(self) -> None:
        self.canvas.turned = self.turned_button.isChecked()
        self.canvas.changed()

    def _scrubbed(self, value: int) -> None:
        before = self.frame_index
        self.canvas.at = value / STEPS
        self.canvas.turn(0.0, 0.0)  # smooth edges wait until the slider rests
        if self.frame_index != before:
            self.moved.emit(self.frame_index)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Keys are the slider's."""
        self.slider.keyPressEvent(event)
