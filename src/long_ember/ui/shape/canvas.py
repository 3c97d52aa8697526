"""The hero: cold bar with zones and marks above, finished piece below, joined zone by zone."""

from __future__ import annotations

import math
from collections.abc import Generator
from functools import partial

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRect, QRectF, QSize, Qt, QTimer
from PySide6.QtGui import (
    QBrush,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
    QPolygonF,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QHBoxLayout, QToolButton, QWidget

from long_ember.arrays import Array
from long_ember.desk.session import Session
from long_ember.desk.turns import MANY, Portions
from long_ember.errors import EmberError
from long_ember.features import Piece
from long_ember.fields import Length
from long_ember.geometry import PLAN, SIDE, figuring, level_bodies, piece_bodies, sweeping, void_outline
from long_ember.ui.drawing.late_picture import LatePicture
from long_ember.ui.drawing.paint import View, arrow_line, figure_painting, paint_balance, text_box, text_rect
from long_ember.ui.drawing.scene import UNDER_DRAWN, Dimension, Scene
from long_ember.ui.drawing.smooth import Hand, SmoothSolid
from long_ember.ui.drawing.solid import Solid
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import fill_box, theme_of
from long_ember.ui.widgets.entry import EntryField

__all__ = ["BarCanvas"]


_TURNS = {
    Qt.Key.Key_Left: (-math.pi / 12, 0.0), Qt.Key.Key_Right: (math.pi / 12, 0.0), Qt.Key.Key_Up: (0.0, -math.pi / 12),
    Qt.Key.Key_Down: (0.0, math.pi / 12),
}  # fmt: skip
_REST = 180  # ms
_TANGLED = 16  # threads; more of them only tangle when they curve, and cost a millisecond


class _Looks(QWidget):
    """Side, plan, turned: three words over the drawing."""

    def __init__(self, canvas: BarCanvas, session: Session) -> None:
        super().__init__(canvas)
        self._session = session
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)  # so that a new drawing beneath does not repaint the buttons
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(4)
        self._buttons = {}
        for side, (words, tip) in _SIDES.items():
            button = QToolButton()
            button.setText(words)
            button.setToolTip(tip)
            button.setCheckable(True)
            button.setFont(font(14, 500))
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.clicked.connect(partial(canvas.look_from, side))
            row.addWidget(button)
            self._buttons[side] = button
        self.mark("side")

    def paintEvent(self, event: QPaintEvent) -> None:
        """Paper between the buttons."""
        fill_box(QPainter(self), event.rect(), theme_of(self._session).colour("paper"))

    def mark(self, side: str) -> None:
        """Show which one is in force."""
        for name, button in self._buttons.items():
            button.setChecked(name == side)


_SIDES = {
    "side": ("Side", "See the piece from the side"),
    "plan": ("Plan", "See the piece from above"),
    "turn": ("Turned", "See the solid; drag it, or Shift with the arrow keys, to turn it"),
}


class BarCanvas(QWidget):
    """Drawing with zoom (wheel, + and −), pan (drag), fit (F), selection by click, dimensions edited where they stand."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.side = "side"
        self._hand = Hand(math.radians(35), math.radians(-28))
        self._turning, self._held = False, (0.0, 0.0, 0.0, 0.0)
        self._in_hand = False  # turned since there was another answer
        self._solid: tuple[Piece, Solid] | None = None
        self._late = LatePicture(session, self, "drawing", self._painting)
        self._smooth = SmoothSolid(session, self, self._late.again)
        self._looks = _Looks(self, session)
        self._rest = QTimer(self, singleShot=True, interval=_REST)
        self._rest.timeout.connect(self._late.again)
        self._view: View | None = None
        self._scene: Scene | None = None
        self._pressed: QPointF | None = None
        self._panned = False
        self._drawn: Dimension | None = None  # that is being dragged
        self._entry: EntryField | None = None
        self._editing: Dimension | None = None
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Drawing: cold bar above, finished piece below")
        self._meshing = Portions(session.loop, session.turns, "meshes")
        session.refreshed.connect(self._renew)
        session.selected.connect(lambda: self._stale())
        session.hovered.connect(self._late.now)
        session.touched.connect(self._late.again)
        session.restyled.connect(self._late.now)

    def sizeHint(self) -> QSize:
        """Room for bar and piece."""
        return QSize(1100, 400)

    @property
    def scene(self) -> Scene:
        """The layout in force, made when it is first needed."""
        if self._scene is None:
            self._scene = self._laid_out()
        return self._scene

    def _laid_out(self) -> Scene:
        size, session = (float(self.width()), float(self.height())), self._session
        steady = self._held if self._turning else None
        return Scene(
            session.answer, session.measure, size, self._view, session.selection, self.look, steady=steady, apart=self.side == "turn"
        )

    @property
    def look(self) -> Array | None:
        """The direction the piece is seen from; None is the side, where a flat piece needs no turning."""
        return {"side": None, "plan": PLAN}.get(self.side, self._hand.look)

    def look_from(self, side: str) -> None:
        """See the piece from the side, from above (plan), or turned."""
        self.side = side
        self._looks.mark(side)
        self._stale()

    def turn(self, yaw: float, pitch: float) -> None:
        """Turn the piece about the upright and tip it, rad."""
        self._hand.turn(yaw, pitch)
        self._in_hand = True
        self.look_from("turn")

    def _renew(self) -> None:
        """The drawing of another answer: at once, but where that would hold the next key up."""
        self._in_hand = False
        self._meshing.leave()
        shown, pulled = self._scene, self._drawn is not None
        if shown is None or len(shown.parts) < MANY or pulled or _row(shown.answer.piece) != _row(self._session.answer.piece):
            self._stale()
        elif self.isVisible():
            self._late.late(self._drawing)
        else:
            self._scene = None
            self._late.leave()
            self._late.now()

    def _drawing(self) -> Generator[None, None, None]:
        yield from figuring(self._session.answer.piece, self.look)
        scene = self._laid_out()
        yield
        self._take(scene)

    def _take(self, scene: Scene | None) -> None:
        self._scene = scene
        self._meshing.leave()
        if self.side == "turn":
            self._rest.start()  # smooth edges wait until the hand rests
        if self._entry is not None and self._editing is not None:
            self._follow()

    def _stale(self) -> None:
        self._late.leave()
        self._take(None)
        self._late.now()

    # --- view

    def fit(self) -> None:
        """Show everything."""
        self._view = None
        self._stale()

    def zoom(self, factor: float, at: QPointF | None = None) -> None:
        """Zoom about a point, by default the middle."""
        at = at or QPointF(self.width() / 2, self.height() / 2)
        v, fit = self.scene.view, self.scene.fit
        scale = min(max(v.scale * factor, fit.scale * 0.5), fit.scale * 40)
        f = scale / v.scale
        self._view = View(scale, at.x() - (at.x() - v.x) * f, at.y() - (at.y() - v.y) * f)
        self._stale()

    def pan(self, dx: float, dy: float) -> None:
        """Move the drawing, px."""
        v = self.scene.view
        self._view = View(v.scale, v.x + dx, v.y + dy)
        self._stale()

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Fit again to the new size."""
        hint = self._looks.sizeHint()
        self._looks.move(self.width() - hint.width() - 10, self.height() - hint.height() - 4)
        self._stale()

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Zoom about the pointer."""
        self.zoom(1.0015 ** event.angleDelta().y(), event.position())

    # --- pointer

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Start a click, a pan, or the drag of a dimension."""
        self._pressed, self._panned = event.position(), False
        self._drawn = self.scene.dimension_at(event.position())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Pan, or point at a feature."""
        at = event.position()
        if self._pressed is not None and event.buttons():
            move = at - self._pressed
            if self._drawn is not None:
                if self._panned or move.manhattanLength() > 6:
                    self._panned = True
                    self._draw_to(self._drawn, move)
                return
            if self._panned or move.manhattanLength() > 6:
                if not self._panned:  # in the turned view a drag on the piece turns it; elsewhere, and with Shift, it pans
                    shift = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
                    (x0, y0, x1, y1), (px, py) = self.scene.figure.bounds, self.scene.figure.pivot
                    self._held = (x0 - px, y0 - py, x1 - px, y1 - py)
                    self._turning = self.side == "turn" and not shift and at.y() > self.scene.bar_rect(0, 1).bottom() + 8
                self._panned, self._pressed = True, at
                if self._turning:
                    self.turn(move.x() * 0.01, move.y() * 0.01)
                else:
                    self.pan(move.x(), move.y())
            return
        dimension = self.scene.dimension_at(at)
        self._session.set_hover(dimension.address.owner if dimension else self.scene.hit(at))
        self.setCursor(Qt.CursorShape.IBeamCursor if dimension else Qt.CursorShape.ArrowCursor)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """A click selects a feature or edits a dimension."""
        pressed, self._pressed = self._pressed, None
        drawn, self._drawn = self._drawn, None
        if drawn is not None and self._panned:
            self._session.settle()
            return
        if self._turning:
            self._turning = False
            self._stale()
        if pressed is None or self._panned:
            return
        dimension = self.scene.dimension_at(event.position())
        if dimension is not None:
            self._edit(dimension)
            return
        found = self.scene.hit(event.position())
        if found:
            self._session.select(found)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """Fit when the empty paper is double-clicked."""
        if not self.scene.hit(event.position()) and self.scene.dimension_at(event.position()) is None:
            self.fit()

    def leaveEvent(self, event: object) -> None:
        """Nothing is pointed at any more."""
        self._session.set_hover("")

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows select, with Shift they turn the piece, + − F zoom, Enter edits the first dimension."""
        keys = {Qt.Key.Key_Plus: 1.25, Qt.Key.Key_Equal: 1.25, Qt.Key.Key_Minus: 0.8}
        key = Qt.Key(event.key())
        if key in keys:
            self.zoom(keys[key])
        elif key == Qt.Key.Key_Escape and self._drawn is not None:
            self._drawn = self._pressed = None
            self._session.document.withdraw()
        elif key == Qt.Key.Key_F:
            self.fit()
        elif key in _TURNS and event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self.turn(*_TURNS[key])
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right) and not event.modifiers():
            self._step(-1 if key == Qt.Key.Key_Left else 1)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.scene.dimensions:
            self._edit(self.scene.dimensions[0])
        else:
            super().keyPressEvent(event)

    def _step(self, by: int) -> None:
        features = self._session.piece.features
        if features:
            row = _row(self._session.piece)
            at = row.index(self._session.selection) + by if self._session.selection in row else 0
            self._session.select(row[max(0, min(at, len(row) - 1))])

    # --- editing where it stands

    def _draw_to(self, dimension: Dimension, move: QPointF) -> None:
        """Drag a length or a radius: along its own arrow it grows, to the divisions of the ruler."""
        session = self._session
        settled = session.document.settled
        if dimension.address.gone(settled):
            return
        spec, model = dimension.address.spec(settled), dimension.address.model(settled)
        if not isinstance(spec, Length):
            return
        session.select(dimension.address.owner)
        one, other = dimension.ends
        along = other - one if other.x() >= one.x() else one - other
        long = math.hypot(along.x(), along.y()) or 1.0
        value = float(getattr(model, dimension.address.name)) + QPointF.dotProduct(move, along) / long / self.scene.figure_view.scale
        step = session.shop.division
        text = session.measure.edit_text(max(round(value / step), 1) * step)
        try:
            session.attempt_typed(dimension.address.edit(settled, text, session.measure))
            session.said.emit("", False)
        except EmberError as error:
            session.said.emit(str(error), True)

    def _edit(self, dimension: Dimension) -> None:
        self._session.select(dimension.address.owner)
        self._close_entry()
        self._editing = dimension
        self._entry = EntryField(self._session, dimension.address, self, size=17)
        self._entry.finished.connect(self._finish_entry)
        self._entry.editingFinished.connect(self._finish_entry)
        self._follow()
        self._entry.show()
        self._entry.setFocus()

    def _follow(self) -> None:
        """Keep the entry where its dimension now stands."""
        if self._entry is None or self._editing is None:
            return
        address = self._editing.address
        now = next((d for d in self.scene.dimensions if d.address == address), None)
        if now is None:
            self._finish_entry()
            return
        width = max(118, int(now.box.width()) + 40)
        centre = now.box.center()
        x = min(max(4, int(centre.x() - width / 2)), max(4, self.width() - width - 4))
        y = min(max(4, int(centre.y() - 19)), max(4, self.height() - 42))
        self._entry.setGeometry(x, y, width, 38)

    def _finish_entry(self) -> None:
        if self._entry is not None:
            self._close_entry()
            self.setFocus()

    def _close_entry(self) -> None:
        entry, self._entry, self._editing = self._entry, None, None
        if entry is not None:
            entry.blockSignals(True)
            entry.hide()
            entry.deleteLater()

    # --- painting

    def paintEvent(self, event: QPaintEvent) -> None:
        """What was painted in portions, or all of it at once."""
        self._late.paint(event.rect())

    def _painting(self, painter: QPainter, _wanted: QRect, _late: bool) -> Generator[None, None, None]:
        """Paper, threads, bar, piece, dimensions, in this order."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        fill_box(painter, self.rect(), theme_of(self._session).colour("paper"))
        if not self._session.piece.features:
            self._paint_empty(painter)
            return
        self._paint_threads(painter)
        yield
        self._paint_bar(painter)
        yield
        self._paint_drawn(painter)
        yield
        scene, session = self.scene, self._session
        if self.side != "turn" or not self._is_solid(scene) or not self._paint_solid(painter):
            yield from figure_painting(
                painter, scene.figure, scene.figure_view, theme_of(session), chosen=session.selection, pointed=session.hover,
                tried=session.document.trying,
            )  # fmt: skip
        yield
        self._paint_ends(painter)
        for dimension in scene.dimensions:
            self._paint_dimension(painter, dimension)
        self._paint_balance(painter)
        if session.document.trying:
            at = QPointF(self.width() / 2, self.height() - 18)
            text_box(painter, "As typed: Enter takes it, Esc puts it back", at, font(17, 600), theme_of(session), role="accent")

    def _is_solid(self, scene: Scene) -> bool:
        """Whether there is a solid of what is shown; many features are meshed in portions."""
        piece = scene.answer.piece
        if piece is not self._session.piece or (self._solid is not None and self._solid[0] is not piece and self._rest.isActive()):
            return False  # while keys come in, outlines do: the solid follows when they rest
        if self._solid is not None and self._solid[0] is piece:
            return True
        if len(scene.parts) < MANY:
            self._solid = (piece, Solid(piece_bodies(piece)))
            return True
        self._meshing.start(_solid(piece), self._meshed)
        return False

    def _meshed(self, solid: tuple[Piece, Solid]) -> None:
        self._solid = solid
        self._late.again()

    def _paint_solid(self, painter: QPainter) -> bool:
        """The solid, where it can be shown already."""
        assert self._solid is not None
        scene, session = self.scene, self._session
        target = QRectF(0, scene.bar_rect(0, 1).bottom() + 4, self.width(), self.height())
        target.setBottom(self.height())
        moving = self._turning or self._rest.isActive()
        return self._smooth.paint(
            painter,
            self._solid[1],
            self._hand.look,
            scene.figure_view,
            target,
            chosen=session.selection,
            moving=moving,
            turning=self._in_hand,
        )

    def _paint_empty(self, painter: QPainter) -> None:
        middle = QPointF(self.width() / 2, self.height() / 2)
        theme = theme_of(self._session)
        text_box(painter, "An empty bar. Press a shape below to forge the first feature,", middle, font(20, 500), theme)
        text_box(
            painter, "or open a worked example: File, Demo pieces, Lantern bracket.", middle + QPointF(0, 30), font(17), theme, role="muted"
        )

    def _paint_threads(self, painter: QPainter) -> None:
        theme, session = theme_of(self._session), self._session
        marked = (session.selection, session.hover)
        pairs = self.scene.threads()
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(theme.colour("line"), 1.0))
        if len(pairs) > _TANGLED:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
            painter.drawLines([line for identity, line in pairs if identity not in marked])
            painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        else:
            for identity, line in pairs:  # one by one: a path of many strokes is scanned as a whole, fifty times slower
                if identity not in marked:
                    painter.drawPath(_thread(line.p1(), line.p2()))
        painter.setPen(QPen(theme.colour("accent"), 2.2))
        for identity, line in pairs:
            if identity in marked:
                painter.drawPath(_thread(line.p1(), line.p2()))

    def _paint_bar(self, painter: QPainter) -> None:
        scene, theme, session = self.scene, theme_of(self._session), self._session
        whole = scene.bar_rect(0, scene.cut)
        fill_box(painter, whole, theme.colour("panel"))
        fill_box(painter, whole, QBrush(theme.colour("muted"), Qt.BrushStyle.BDiagPattern))  # trim and parting; zones cover the rest
        painter.setPen(Qt.PenStyle.NoPen)
        for role, zones in (("steel", scene.zones[::2]), ("steel_alt", scene.zones[1::2])):
            painter.setBrush(theme.colour(role))
            painter.drawRects([zone.rect for zone in zones])  # in one call: forty cost a millisecond
        here = [zone.rect for zone in scene.zones if zone.id == session.selection]
        for rect in here:
            fill_box(painter, rect, theme.colour("chosen"))
        self._paint_bar_holes(painter)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(theme.colour("edge"), 1.0))
        painter.drawRect(whole)
        painter.setPen(QPen(theme.colour("accent"), 2.0))
        painter.drawRects(here)
        self._paint_marks(painter, whole)

    def _paint_drawn(self, painter: QPainter) -> None:
        """The drawn bar, with a stroke under each stretch that something stands on."""
        theme, session = theme_of(self._session), self._session
        for i, box in enumerate(self.scene.drawn):
            marked = box.id in (session.selection, session.hover)
            if box.outline:
                here = box.id == session.selection
                painter.setPen(QPen(theme.colour("accent" if here else "edge"), 2.0 if here else 1.0))
                painter.setBrush(theme.colour("chosen" if here else "steel" if i % 2 == 0 else "steel_alt"))
                painter.drawPolygon(QPolygonF(list(box.outline)))
                continue
            painter.setPen(QPen(theme.colour("accent" if marked else "ink"), 4.0 if marked else 2.5))
            y = box.rect.bottom() + UNDER_DRAWN
            painter.drawLine(QPointF(box.rect.left() + 1, y), QPointF(box.rect.right() - 1, y))

    def _paint_bar_holes(self, painter: QPainter) -> None:
        scene = self.scene
        painter.setPen(QPen(theme_of(self._session).colour("edge"), 1.2, Qt.PenStyle.DotLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for zone, box in zip(scene.answer.reckoning.zones, scene.zones, strict=True):
            for void in zone.shape.voids:
                at = QPointF(box.rect.left() + void.centre / zone.shape.length * box.rect.width(), box.rect.center().y())
                outline = (void_outline(void) * scene.view.scale).tolist()
                painter.drawPolygon([at + QPointF(x, y) for x, y in outline])

    def _paint_marks(self, painter: QPainter, whole: QRectF) -> None:
        """Mark ticks above the bar with chain lengths between them, and the cut length over all."""
        scene, session, theme = self.scene, self._session, theme_of(self._session)
        y, small = whole.top() - 22, font(15, 500)
        pen = QPen(theme.colour("edge"), 1.0)
        edges = {round(x, 1) for box in scene.zones for x in (box.rect.left(), box.rect.right())}
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)  # upright lines are crisper without it, and cheaper
        painter.setPen(pen)
        painter.drawLines([QLineF(x, whole.top() - 28, x, whole.top()) for x in edges])
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
        for zone, box in zip(scene.answer.reckoning.zones, scene.zones, strict=True):
            strong = box.id in (session.selection, session.hover)
            if not strong and box.rect.width() < 30:
                continue
            text = session.measure.length(_between(scene, zone.start, zone.end), bare=session.measure.unit == "mm")
            if strong or text_rect(text, QPointF(), small).width() + 4 < box.rect.width():
                text_box(painter, text, QPointF(box.rect.center().x(), y), font(16, 600) if strong else small, theme,
                         role="accent" if strong else "ink", back=strong)  # fmt: skip
        top = whole.top() - 52
        for x in (whole.left(), whole.right()):
            painter.setPen(pen)
            painter.drawLine(QPointF(x, top - 6), QPointF(x, whole.top()))
        arrow_line(painter, QPointF(whole.left(), top), QPointF(whole.right(), top), theme.colour("edge"))
        text_box(
            painter, f"cut {session.measure.length(scene.answer.reckoning.cut)}", QPointF(whole.center().x(), top), font(17, 600), theme
        )

    def _paint_ends(self, painter: QPainter) -> None:
        scene, theme = self.scene, theme_of(self._session)
        bar = scene.bar_rect(0, scene.cut)
        for name, x in (("A", bar.left() - 16), ("B", bar.right() + 16)):
            text_box(painter, name, QPointF(x, bar.center().y()), font(17, 700), theme, role="muted", back=False)

    def _paint_balance(self, painter: QPainter) -> None:
        """Where the piece balances, once it has been weighed as it is."""
        session, look = self._session, self.look
        if session.balance is None or session.balance[0] is not self.scene.answer.piece:
            return
        centre = np.array(session.balance[1].centre)
        at = self.scene.figure_view.point((SIDE if look is None else look) @ centre)
        paint_balance(painter, at, theme_of(session))

    def _paint_dimension(self, painter: QPainter, dimension: Dimension) -> None:
        session, theme = self._session, theme_of(self._session)
        strong = dimension.address.owner in (session.selection, session.hover)
        role = "accent" if strong else "muted"
        if dimension.arrows:
            arrow_line(painter, *dimension.ends, theme.colour(role))
        else:
            painter.setPen(QPen(theme.colour(role), 1.0))
            painter.drawLine(*dimension.ends)
        text_box(
            painter, dimension.text, dimension.box.center(), font(16, 600 if strong else 500), theme, role="accent" if strong else "ink"
        )
        if strong:  # underlined: can be typed over
            painter.setPen(QPen(theme.colour("accent"), 1.0, Qt.PenStyle.DotLine))
            painter.drawLine(dimension.box.bottomLeft() + QPointF(4, -2), dimension.box.bottomRight() + QPointF(-4, -2))


def _thread(start: QPointF, end: QPointF) -> QPainterPath:
    """A curve that leaves the bar and reaches the piece upright."""
    path, bend = QPainterPath(start), (end.y() - start.y()) * 0.5
    path.cubicTo(QPointF(start.x(), start.y() + bend), QPointF(end.x(), end.y() - bend), end)
    return path


def _solid(piece: Piece) -> Generator[None, None, tuple[Piece, Solid]]:
    shapes = piece.shapes
    for _id, shape in shapes:
        yield from sweeping(shape)  # kept with it
        yield
    bodies = level_bodies(shapes)
    yield
    return piece, Solid(bodies)


def _row(piece: Piece) -> list[str]:
    return [*(f.id for f in piece.features), *(s.id for s in piece.standing)]


def _between(scene: Scene, start: float, end: float) -> float:
    """mm between two marks, as the difference of the running lengths that are shown."""
    m, cut = scene.measure, scene.answer.reckoning.cut
    if scene.answer.piece.datum == "B":
        start, end = cut - end, cut - start
    return m.rounded(end) - m.rounded(start)
