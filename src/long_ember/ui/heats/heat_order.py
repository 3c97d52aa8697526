"""The order of work as chips that can be dragged, and threads that show which rule ties which."""

from __future__ import annotations

import re
from collections.abc import Generator

from PySide6.QtCore import QPointF, QRect, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QFontMetricsF, QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QToolTip, QWidget

from long_ember.desk.session import Session
from long_ember.document import pin_order
from long_ember.heats import MATCHES, PINNED, Move, Rule, move_step, unpinned
from long_ember.ui.drawing.late_picture import LatePicture
from long_ember.ui.heats.heat_film import PAUSE
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import theme_of

__all__ = ["ORDER_H", "OrderStrip", "step_place", "step_words"]

_CHIP, _GAP, _ARCS, _TALL = 138.0, 8.0, 26.0, 60.0
ORDER_H = int(_ARCS + _TALL + 6)
_DRAG = 10  # px before a press becomes a drag


def step_words(session: Session, n: int) -> tuple[str, str]:
    """What a step does, and for which feature."""
    step = session.answer.plan.steps[n]
    operation = step.operation
    if operation.own:
        return step.name, "cold" if operation.cold else "at a black heat" if operation.black else "your own work"
    if operation.verb == "texture":
        return step.feature.title, f"on {step.position + 1}"
    # Of "drawing a taper" the first word: the line below says what.
    what = re.split(r" (?:an?|what) ", MATCHES.get(operation.way, MATCHES.get(operation.verb, operation.verb)))[0]
    return what[:1].upper() + what[1:], step.name


def step_place(session: Session, n: int) -> str:
    """How far from which end of the bar it is worked: the order goes by that."""
    plan, m = session.answer.plan, session.measure
    step, cut = plan.steps[n], plan.reckoning.cut
    if step.operation.own and step.over.bit_count() == len(plan.reckoning.zones):
        return "all of it"
    low, high = (step.start, step.end) if step.start + step.end <= cut else (cut - step.end, cut - step.start)
    end = "A" if step.start + step.end <= cut else "B"
    return f"{end} {m.length(round(max(low, 0.0)), bare=True)} to {m.length(round(high))}"


class OrderStrip(QWidget):
    """One chip for each operation, in the order of the plan.

    Left and Right choose, Ctrl with them moves, P holds or lets go, Escape gives a drag up.

    Signals:
        chosen: another operation, by its number.
    """

    chosen = Signal(int)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.current = -1
        self._press: QPointF | None = None
        self._drag: int | None = None
        self._move: Move | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("Order of work")
        self._late = LatePicture(session, self, "chips", self._painting)
        self._pause = QTimer(self, singleShot=True, interval=PAUSE + 25)
        self._pause.timeout.connect(self._caught_up)
        session.refreshed.connect(self._renew)
        session.restyled.connect(self._late.now)
        self._caught_up()

    def _renew(self) -> None:
        self._late.leave()
        self._pause.start()

    def _caught_up(self) -> None:
        order = self._session.answer.plan.order
        self.setMinimumSize(QSize(int(max(len(order), 1) * (_CHIP + _GAP) + 2 * _GAP), ORDER_H))
        if self.current not in order:
            self.current = order[0] if order else -1
        if self.isVisible():
            self._late.late()
        else:
            self._late.now()

    def choose(self, n: int) -> None:
        """Choose an operation."""
        if n != self.current:
            self.current = n
            self.chosen.emit(n)
            self._late.now()

    def show_step(self, n: int) -> None:
        """Mark an operation that was chosen elsewhere."""
        self.current = n
        self._late.now()

    def chip_rect(self, place: int) -> QRectF:
        """Where the chip at a place of the order stands, px."""
        return QRectF(_GAP + place * (_CHIP + _GAP), _ARCS, _CHIP, _TALL)

    def _place_at(self, x: float) -> int:
        return int(min(max((x - _GAP / 2) // (_CHIP + _GAP), 0), len(self._session.answer.plan.order) - 1))

    # --- moving

    def shift(self, by: int) -> None:
        """Do the chosen operation earlier or later."""
        plan = self._session.answer.plan
        if self.current in plan.order:
            self._land(move_step(plan, self.current, plan.order.index(self.current) + by))

    def _land(self, move: Move) -> None:
        session = self._session
        if move.refused:
            session.said.emit(move.refused, True)
            return
        before = session.answer.plan
        if move.order == before.order:
            return
        session.attempt(pin_order, move.pins, "Move an operation")
        landed = move.landed(before, session.answer.plan)
        around = "" if landed.order == move.order else " and the rest planned round it"
        session.said.emit(f"Pinned there{around}: {landed.words}", bool(landed.musts))

    def toggle_pin(self) -> None:
        """Hold the chosen operation where it is between its neighbours, or let it go."""
        plan = self._session.answer.plan
        if self.current not in plan.order:
            return
        pinned = {p.step for p in plan.piece.planning.pins}
        if plan.steps[self.current].key in pinned:
            self._session.attempt(pin_order, unpinned(plan, self.current), "Let an operation go")
        else:
            self._session.attempt(pin_order, move_step(plan, self.current, plan.order.index(self.current)).pins, "Pin an operation")

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Choose, and perhaps begin a drag."""
        order = self._session.answer.plan.order
        if order and self.chip_rect(place := self._place_at(event.position().x())).contains(event.position()):
            self._press = event.position()
            self.choose(order[place])

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Show where a dragged chip would land, and what that costs."""
        if self._press is None:
            return
        if self._drag is None and (event.position() - self._press).manhattanLength() < _DRAG:
            return
        place = self._place_at(event.position().x())
        if place != self._drag:
            self._drag = place
            self._move = move_step(self._session.answer.plan, self.current, place)
            self._session.said.emit(self._move.words, bool(self._move.refused or self._move.musts))
            self._late.now()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Land a dragged chip."""
        move, self._press, self._drag, self._move = self._move, None, None, None
        if move is not None:
            self._land(move)
        self._late.now()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Choose, move, hold."""
        key, order = Qt.Key(event.key()), self._session.answer.plan.order
        step = {Qt.Key.Key_Right: 1, Qt.Key.Key_Left: -1}.get(key, 0)
        if step and self.current in order:
            if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
                self.shift(step)
            else:
                at = order.index(self.current) + step
                if 0 <= at < len(order):
                    self.choose(order[at])
        elif key == Qt.Key.Key_P:
            self.toggle_pin()
        elif key == Qt.Key.Key_Escape and self._drag is not None:
            self._press = self._drag = self._move = None
            self._session.said.emit("", False)
            self._late.now()
        else:
            super().keyPressEvent(event)

    def event(self, event: object) -> bool:
        """The rules of the chip under the pointer as a tip."""
        if isinstance(event, QHelpEvent):
            order = self._session.answer.plan.order
            place = self._place_at(event.pos().x()) if order else -1
            words = self._tip(order[place]) if order and self.chip_rect(place).contains(QPointF(event.pos())) else ""
            QToolTip.showText(event.globalPos(), words, self)
            return True
        return bool(super().event(event))  # type: ignore[arg-type]

    def _tip(self, n: int) -> str:
        plan = self._session.answer.plan
        lines = [plan.steps[n].operation.line.show(self._session.measure)]
        signs = {"broken": "!", "given up": "~"}
        lines.extend(f"{signs.get(why, '–')} {why}: {rule.reason} {plan.instead(rule, n)}".strip() for rule, m, why in plan.flags if m == n)
        lines.extend(rule.reason for rule in plan.ties.because[n])
        return "\n".join(dict.fromkeys(lines))

    # --- painting

    def paintEvent(self, event: QPaintEvent) -> None:
        """What is ready, or all of it at once."""
        self._late.paint(event.rect())

    def _painting(self, painter: QPainter, wanted: QRect, _late: bool) -> Generator[None, None, None]:
        """Chips, and the threads of the chosen one."""
        session, seen = self._session, QRectF(wanted)
        theme, plan = theme_of(session), session.answer.plan
        painter.fillRect(wanted, theme.colour("paper"))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        places = {n: i for i, n in enumerate(plan.order)}
        flagged = {
            n: "!" if why == "broken" else "~" for _r, n, why in sorted(plan.flags, key=lambda f: f[2] == "broken") if why != "overruled"
        }
        pinned = {p.step for p in plan.piece.planning.pins}
        for n, place in places.items():
            rect = self.chip_rect(place)
            if rect.adjusted(-_GAP, -_ARCS, _GAP, 0).intersects(seen):
                self._chip(painter, rect, n, place, flagged=flagged.get(n, ""), pinned=plan.steps[n].key in pinned)
                yield
        if self.current in places:
            self._threads(painter, places, seen)
        if self._drag is not None and self.current in places:
            rect = self.chip_rect(self._drag)
            x = rect.right() + _GAP / 2 if self._drag > places[self.current] else rect.left() - _GAP / 2
            painter.setPen(QPen(theme.colour("accent"), 4))
            painter.drawLine(QPointF(x, rect.top() - 4), QPointF(x, rect.bottom() + 4))

    def _chip(self, painter: QPainter, rect: QRectF, n: int, place: int, *, flagged: str, pinned: bool) -> None:
        theme, here = theme_of(self._session), n == self.current
        painter.setPen(QPen(theme.colour("accent" if here else "line"), 2.5 if here else 1.0))
        painter.setBrush(theme.colour("panel"))
        painter.drawRoundedRect(rect.adjusted(1.5, 1.5, -1.5, -1.5), 7, 7)
        what, whose = step_words(self._session, n)
        room = rect.width() - 16 - (16 if flagged else 0) - (14 if pinned else 0)
        for text, face, top, role in (
            (f"{place + 1} {what}", font(14, 600), 2, "ink"),
            (whose, font(13), 20, "muted"),
            (step_place(self._session, n), font(13, 500), 38, "muted"),
        ):
            painter.setFont(face)
            painter.setPen(theme.colour(role))
            short = QFontMetricsF(face).elidedText(text, Qt.TextElideMode.ElideRight, room)
            painter.drawText(
                QRectF(rect.left() + 8, rect.top() + top, room, 19), Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignLeft, short
            )
        x = rect.right() - 8
        if flagged:
            painter.setFont(font(19, 700))
            painter.setPen(theme.colour("fault" if flagged == "!" else "muted"))
            painter.drawText(QRectF(x - 10, rect.top() + 2, 12, 22), Qt.AlignmentFlag.AlignCenter, flagged)
            x -= 16
        if pinned:  # a nail through the chip
            painter.setPen(QPen(theme.colour("ink"), 2))
            painter.setBrush(theme.colour("ink"))
            painter.drawEllipse(QPointF(x - 5, rect.top() + 11), 3.5, 3.5)
            painter.drawLine(QPointF(x - 5, rect.top() + 11), QPointF(x - 5, rect.top() + 24))

    def _threads(self, painter: QPainter, places: dict[int, int], seen: QRectF) -> None:
        """Arcs from the chosen chip to those that a rule ties it to: full for a must, dashed for what is better and both ends in sight."""
        theme = theme_of(self._session)
        found: dict[int, Rule] = {}
        for tie in self._session.answer.plan.ties.pairs:
            other = tie.before if tie.after == self.current else tie.after if tie.before == self.current else -1
            if other in places and (other not in found or tie.rule.strength == "must"):
                found[other] = tie.rule
        x0 = self.chip_rect(places[self.current]).center().x()
        painter.setBrush(Qt.BrushStyle.NoBrush)
        beyond: set[float] = set()
        for other, rule in found.items():
            x1 = self.chip_rect(places[other]).center().x()
            firm = rule.strength == "must"
            if not seen.left() <= x1 <= seen.right():
                # One line to each side stands for all that end out of sight: they would run past everything, and take long to draw.
                x1 = min(max(x1, seen.left() - _CHIP), seen.right() + _CHIP)
                if not firm or x1 in beyond:
                    continue
                beyond.add(x1)
            style = Qt.PenStyle.SolidLine if firm else Qt.PenStyle.DashLine
            painter.setPen(QPen(theme.colour("accent" if rule is PINNED else "ink" if firm else "muted"), 1.6, style))
            high = min(_ARCS - 4, 8 + abs(x1 - x0) / 24)
            path = QPainterPath(QPointF(x0, _ARCS))
            path.cubicTo(QPointF(x0, _ARCS - 1.3 * high), QPointF(x1, _ARCS - 1.3 * high), QPointF(x1, _ARCS))
            painter.drawPath(path)
            painter.setBrush(painter.pen().color())
            painter.drawEllipse(QPointF(x1, _ARCS), 2.5, 2.5)
            painter.setBrush(Qt.BrushStyle.NoBrush)
