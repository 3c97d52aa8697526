"""Heats: a filmstrip, one frame a heat; under it the chosen heat with what to do, with what, and why now."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QLabel, QScrollArea, QVBoxLayout, QWidget

from long_ember.geometry import Figure, Part
from long_ember.heats import Heat, cautions
from long_ember.physics import band
from long_ember.shop import tool_words
from long_ember.ui.buttons import worded
from long_ember.ui.fonts import font
from long_ember.ui.heat_paint import paint_stage, paint_window, stage_figure
from long_ember.ui.paint import text_box
from long_ember.ui.session import Session
from long_ember.units import Measure

__all__ = ["HeatsView", "heat_facts", "heat_title", "portion"]

_FRAME_W, _FRAME_H = 188, 128
_PAUSE = 60  # ms


def heat_title(heat: Heat) -> str:
    """`Heat 3`, or what a cold step is called."""
    return "Cold step" if heat.cold else f"Heat {heat.number}"


def heat_facts(heat: Heat, m: Measure, kit: tuple[str, ...]) -> list[str]:
    """Where it lies in the fire, how hot, how long it lasts."""
    if heat.cold:
        return ["Let it cool, or do it before the fire is lit.", tool_words(heat.tools, kit)]
    where = {"middle": "the middle of the bar", "all": "all of the bar"}.get(heat.fire, f"end {heat.fire}")
    start, stop = band(heat.hot), band(heat.stop)
    far = f"hold end {heat.held}, {m.length(heat.free)} cold" + ("" if heat.own_handle else ", with tongs")
    return [
        f"Fire: {where}, {m.length(heat.zone[1] - heat.zone[0])} hot; {far}",
        f"Colour: {start.word}, {m.temperature(heat.hot)}; stop at {stop.word}, {m.temperature(heat.stop)}",
        f"Time at the anvil: about {m.seconds(heat.seconds)}, rough: half to double; the work takes {min(heat.need, 9.99):.0%} of it",
        tool_words(heat.tools, kit),
    ]


class _Film(QWidget):
    """The frames; Left and Right move."""

    chosen = Signal(int)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session, self.current = session, 0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Heats in order")
        self._figures: dict[int, Figure[Part]] = {}
        # The frames wait for a pause in the typing; the chosen heat below them follows every keystroke.
        self._pause = QTimer(self)
        self._pause.setSingleShot(True)
        self._pause.setInterval(_PAUSE)
        self._pause.timeout.connect(self.update)
        session.refreshed.connect(self._renew)
        session.restyled.connect(self.update)
        self._renew()

    def _renew(self) -> None:
        self._figures.clear()
        count = len(self._session.answer.plan.packed)
        self.setMinimumSize(QSize(max(1, count) * _FRAME_W + 16, _FRAME_H + 6))
        self.current = min(self.current, max(0, count - 1))
        self._pause.start()

    def show_current(self, index: int) -> None:
        """Choose a heat."""
        self.current = index
        self.chosen.emit(index)
        self.update()

    def figure_after(self, index: int) -> Figure[Part]:
        """The piece when heat `index` is over, made when it is first seen."""
        if index not in self._figures:
            answer = self._session.answer
            self._figures[index] = stage_figure(answer, answer.plan.heats[index].after)
        return self._figures[index]

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Choose the heat under the pointer."""
        index = int((event.position().x() - 8) // _FRAME_W)
        if 0 <= index < len(self._session.answer.plan.packed):
            self.show_current(index)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Next and previous."""
        step = {Qt.Key.Key_Right: 1, Qt.Key.Key_Left: -1}.get(Qt.Key(event.key()), 0)
        if step and 0 <= self.current + step < len(self._session.answer.plan.packed):
            self.show_current(self.current + step)
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        """The frames in sight."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        answer = self._session.answer
        for i, heat in enumerate(answer.plan.heats):
            rect = QRectF(8 + i * _FRAME_W, 2, _FRAME_W - 8, _FRAME_H)
            if rect.intersects(QRectF(event.rect())):
                self._frame(painter, rect, i, heat)

    def _frame(self, painter: QPainter, rect: QRectF, index: int, heat: Heat) -> None:
        theme, here = self._session.theme, index == self.current
        painter.setPen(QPen(theme.colour("accent" if here else "line"), 3 if here else 1))
        painter.setBrush(theme.colour("panel"))
        painter.drawRoundedRect(rect.adjusted(2, 2, -2, -2), 6, 6)
        paint_stage(painter, self._session.answer, self.figure_after(index), heat, rect.adjusted(14, 12, -14, -40), theme)
        painter.setPen(theme.colour("ink"))
        painter.setFont(font(16, 600))
        painter.drawText(rect.adjusted(12, 0, -8, -8), Qt.AlignmentFlag.AlignBottom | Qt.AlignmentFlag.AlignLeft, heat_title(heat))
        painter.setFont(font(14))
        painter.setPen(theme.colour("muted"))
        verb = heat.work[-1].step.operation.verb.replace("setdown", "set down")
        painter.drawText(rect.adjusted(8, 0, -14, -9), Qt.AlignmentFlag.AlignBottom | Qt.AlignmentFlag.AlignRight, verb)


class _Stage(QWidget):
    """The chosen heat: shape before above, after below, time as a bar."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.heat: Heat | None = None
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setMinimumWidth(560)
        session.restyled.connect(self.update)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Before, after, window."""
        painter, theme, heat = QPainter(self), self._session.theme, self.heat
        painter.fillRect(self.rect(), theme.colour("paper"))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if heat is None:
            text_box(painter, "No heats yet: plain bar needs no fire.", QPointF(self.width() / 2, 80), font(19), theme, role="muted")
            return
        answer = self._session.answer
        half = (self.height() - 64) / 2
        for top, words, progress, glow in ((0.0, "out of the fire", heat.before, True), (half, "when it is over", heat.after, False)):
            shown = stage_figure(answer, progress)
            paint_stage(painter, answer, shown, heat, QRectF(24, top + 30, self.width() - 48, half - 40), theme, glow=glow)
            painter.setFont(font(15, 500))
            painter.setPen(theme.colour("muted"))
            painter.drawText(QRectF(24, top + 4, 300, 22), Qt.AlignmentFlag.AlignLeft, "before" if heat.cold and glow else words)
        if not heat.cold:
            paint_window(painter, heat, QRectF(24, self.height() - 46, self.width() - 48, 18), theme)
            painter.setFont(font(15, 500))
            painter.setPen(theme.colour("ink"))
            seconds = self._session.measure.seconds(heat.seconds)
            words = f"{seconds} at the anvil, rough: half to double; the tick is where the work should be done"
            painter.drawText(QRectF(24, self.height() - 24, self.width() - 48, 22), Qt.AlignmentFlag.AlignLeft, words)


class HeatsView(QWidget):
    """The sequence screen.

    Signals:
        sheet_asked: the heat sheet is wanted as PDF.
        table_asked: the sequence is wanted as a table.
    """

    sheet_asked = Signal()
    table_asked = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.film = _Film(session)
        self._area = QScrollArea()
        self._area.setWidget(self.film)
        self._area.setWidgetResizable(True)
        self._area.setFixedHeight(_FRAME_H + 22)
        self._area.setFocusProxy(self.film)
        self.stage = _Stage(session)
        self.text = QLabel()
        self.text.setWordWrap(True)
        self.text.setFont(font(17))
        self.text.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.text.setTextFormat(Qt.TextFormat.RichText)
        self.text.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        text_area = QScrollArea()
        text_area.setWidget(self.text)
        text_area.setWidgetResizable(True)
        text_area.setMinimumWidth(400)
        self.sheet_button = worded("Heat sheet as PDF", self.sheet_asked.emit)
        self.table_button = worded("As CSV or JSON", self.table_asked.emit)
        buttons = QHBoxLayout()
        buttons.addWidget(self.sheet_button, 1)
        buttons.addWidget(self.table_button, 1)
        right = QVBoxLayout()
        right.addWidget(text_area, 1)
        right.addLayout(buttons)
        row = QHBoxLayout()
        row.setContentsMargins(0, 6, 16, 8)
        row.addWidget(self.stage, 3)
        row.addLayout(right, 2)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 4, 0, 0)
        column.addWidget(self._area)
        column.addLayout(row, 1)
        # Laying rich text out anew takes longer than a keystroke may: while someone types it follows with the frames.
        self._pause = QTimer(self, singleShot=True, interval=_PAUSE)
        self._pause.timeout.connect(self._tell)
        self.film.chosen.connect(self._show)
        session.refreshed.connect(self._refresh)

    def _refresh(self) -> None:
        for button in (self.sheet_button, self.table_button):
            button.setEnabled(bool(self._session.answer.plan.packed))
        if self.isVisible():  # out of sight, nothing is laid out
            self._look(self.film.current)
            self._pause.start()

    def _show(self, index: int) -> None:
        """A heat, with its words."""
        self._look(index)
        self._tell()

    def _look(self, index: int) -> None:
        heats = self._session.answer.plan.heats
        self.stage.heat = heats[index] if index < len(heats) else None
        self.stage.update()
        self._area.ensureVisible(8 + index * _FRAME_W + _FRAME_W // 2, 20, _FRAME_W, 0)

    def _tell(self) -> None:
        words = self._words(self.stage.heat)
        if words != self.text.text():
            self.text.setText(words)

    def showEvent(self, event: object) -> None:
        """Catch up with what changed out of sight."""
        self._show(self.film.current)

    def _words(self, heat: Heat | None) -> str:
        session = self._session
        m = session.measure
        always = "".join(f"<li>{c.show(m)}</li>" for c in cautions(session.piece, session.answer.reckoning, session.answer.plan))
        care = f"<p><b>Take care</b></p><ul style='margin-left:-18px'>{always}</ul>"
        if heat is None:
            return care
        steps = "".join(
            f"<li style='margin-bottom:6px'>{w.step.operation.line.show(m)}<i>{portion(w.start, w.stop)}</i></li>" for w in heat.work
        )
        facts = "".join(f"<p style='margin:3px 0'>{fact}</p>" for fact in heat_facts(heat, m, self._session.shop.kit))
        rules = dict.fromkeys(rule for w in heat.work for rule in w.because)
        why = "".join(f"<li>{'Must' if r.strength == 'must' else 'Better'}: {r.reason}</li>" for r in rules)
        why = f"<p><b>Why now</b></p><ul style='margin-left:-18px'>{why}</ul>" if why else ""
        return f"<p style='font-size:24px'><b>{heat_title(heat)}</b></p><ol style='margin-left:-18px'>{steps}</ol>{facts}{why}{care}"


def portion(start: float, stop: float) -> str:
    """Which part of a long operation this heat is."""
    if start == 0 and stop == 1:
        return ""
    parts = round(1 / (stop - start))
    return f" Part {round(stop * parts)} of {parts}."
