"""Heats: the filmstrip, the order of work, the piece at any moment, and what to do, with what, what to check, and why now."""

from __future__ import annotations

from collections.abc import Generator
from functools import partial

from PySide6.QtCore import Qt, QTimer, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QScrollArea, QSizePolicy, QVBoxLayout, QWidget

from long_ember.desk.session import Session
from long_ember.desk.turns import MANY, Portions
from long_ember.document import pick_method
from long_ember.export.heat_words import frame_heading, frame_words, plan_words
from long_ember.fields import choices_of
from long_ember.heats import Frame, Heat, methods_for
from long_ember.portions import all_portions
from long_ember.ui.heats.heat_film import FRAME_H, FRAME_W, PAUSE, Film
from long_ember.ui.heats.heat_order import ORDER_H, OrderStrip
from long_ember.ui.heats.heat_stage import HeatStage
from long_ember.ui.style.fonts import font
from long_ember.ui.widgets.buttons import linked, worded
from long_ember.ui.widgets.entry import ChoiceBox
from long_ember.ui.widgets.passages import Passages

__all__ = ["HeatsView"]


def _sideways(widget: QWidget, height: int) -> QScrollArea:
    area = QScrollArea()
    area.setWidget(widget)
    area.setWidgetResizable(True)
    area.setFixedHeight(height)
    area.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    return area


class HeatsView(QWidget):
    """The sequence screen.

    Signals:
        sheet_asked: the heat sheet is wanted on paper.
        table_asked: the sequence is wanted as a table.
        rules_asked: the rules of order are wanted.
        own_asked: work in the smith's own words is wanted.
        batch_asked: a batch is to be planned.
        log_asked: what happened is to be written down.
    """

    sheet_asked = Signal()
    table_asked = Signal()
    rules_asked = Signal()
    own_asked = Signal()
    batch_asked = Signal()
    log_asked = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.film, self.order, self.stage = Film(session), OrderStrip(session), HeatStage(session)
        self._film_area, self._order_area = _sideways(self.film, FRAME_H + 16), _sideways(self.order, ORDER_H + 12)
        self.summary = QLabel()
        self.summary.setFont(font(15, 500))
        self.summary.setProperty("role", "muted")
        self.summary.setWordWrap(True)
        self.summary.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self.method = ChoiceBox(session)
        self.method.setFont(font(16, 500))
        self.method.setMinimumHeight(38)
        self.method.setAccessibleName("Method for the operation")
        self.method.setToolTip("How the chosen operation is done; the kit decides what is offered")
        self.method.activated.connect(self._pick)
        self.passages = Passages()
        text_area = QScrollArea()
        text_area.setWidget(self.passages)
        text_area.setWidgetResizable(True)
        text_area.setMinimumWidth(360)
        text_area.setAccessibleName("What is done in this heat")
        self.buttons = {
            "rules": worded("Rules", self.rules_asked.emit, "Which rule holds where, schools, overrules"),
            "own": worded("Own work", self.own_asked.emit, "Operations in your own words: what, where, how long"),
            "batch": worded("Batch", self.batch_asked.emit, "Many of these: timetable, irons in the fire, fixtures"),
            "log": worded("Log", self.log_asked.emit, "Write down what it really took"),
            "sheet": worded("Sheet", self.sheet_asked.emit, "Print the sequence for the wall"),
            "table": worded("Table", self.table_asked.emit, "The sequence as CSV or JSON"),
        }
        # Each stands where it acts: what changes the order beside the order, what comes of the plan under its sum.
        ordering = QHBoxLayout()
        ordering.setContentsMargins(0, 0, 16, 0)
        ordering.addWidget(self._order_area, 1)
        beside = QVBoxLayout()
        beside.setSpacing(4)
        for key in ("rules", "own"):
            beside.addWidget(self.buttons[key])
        ordering.addLayout(beside)
        foot = QHBoxLayout()
        foot.setContentsMargins(16, 2, 16, 8)
        foot.setSpacing(6)
        self.shop_link = linked("", partial(session.shop_asked.emit, "fire"), "The fire, the hands and the kit that this is planned for")
        told = QVBoxLayout()
        told.setSpacing(0)
        told.addWidget(self.summary)
        told.addWidget(self.shop_link, 0, Qt.AlignmentFlag.AlignLeft)
        foot.addLayout(told, 1)
        for key in ("batch", "log", "sheet", "table"):
            foot.addWidget(self.buttons[key])
        right = QVBoxLayout()
        right.setSpacing(2)
        self.title = QLabel()
        self.title.setFont(font(28, 700))
        head = QHBoxLayout()
        head.setSpacing(12)
        head.addWidget(self.title)
        head.addWidget(self.method, 1)
        right.addLayout(head)
        right.addWidget(text_area, 1)
        row = QHBoxLayout()
        row.setContentsMargins(0, 2, 16, 0)
        row.addWidget(self.stage, 13)
        row.addLayout(right, 10)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 2, 0, 0)
        column.setSpacing(2)
        column.addWidget(self._film_area)
        column.addLayout(ordering)
        column.addLayout(row, 1)
        column.addLayout(foot)
        # Laying rich text out anew takes longer than a keystroke may: while someone types it follows with the frames.
        self._pause = QTimer(self, singleShot=True, interval=PAUSE + 50)
        self._telling = Portions(session.loop, session.turns, "words")
        self._pause.timeout.connect(lambda: self._telling.start(self._told()))
        self.film.chosen.connect(self._film_chosen)
        self.order.chosen.connect(self._order_chosen)
        self.stage.moved.connect(self._scrubbed)
        session.refreshed.connect(self._refresh)
        session.planning.connect(self._planning)
        self._behind = False  # the moment that is shown is the plan's before
        self._on_heat = True  # a heat was chosen, and no errand

    @property
    def words(self) -> str:
        """Everything that is said about the frame, as HTML."""
        return self.title.text() + self.passages.words

    @property
    def frame(self) -> Frame | None:
        """What is shown."""
        frames = self._session.answer.plan.frames
        return frames[self.film.current] if self.film.current < len(frames) else None

    def _enable(self) -> None:
        able = bool(self._session.answer.plan.packed)
        for widget in (*self.buttons.values(), self.stage.slider):
            widget.setEnabled(able)

    def _refresh(self) -> None:
        self._enable()
        if not self.isVisible():  # out of sight, nothing is laid out
            return
        self._telling.leave()
        self._pause.start()
        # Of many heats the moment that is shown waits until the keys rest, as the filmstrip does.
        self._behind = len(self._session.answer.plan.packed) > MANY
        if self._behind:
            self.stage.canvas.wait()
        else:
            self._catch_up()

    def _catch_up(self) -> None:
        """The moment that is shown, by the new plan."""
        self._stay()
        self.stage.renew()
        self._behind = False

    def _stay(self) -> None:
        """Stay with the chosen operation where a new order has moved it to another heat."""
        frame, n = self.frame, self.order.current
        if self._on_heat and (not isinstance(frame, Heat) or all(w.step.number != n for w in frame.work)):
            self._show_step(n)

    def _show_step(self, n: int) -> None:
        for i, frame in enumerate(self._session.answer.plan.frames):
            if isinstance(frame, Heat) and any(w.step.number == n for w in frame.work):
                self.film.current, self._on_heat = i, True
                self.film.update()
                self.stage.show_frame(i)
                break

    def showEvent(self, event: object) -> None:
        """Catch up with what changed out of sight."""
        self._enable()
        self.stage.renew()
        frames = self._session.answer.plan.frames
        if frames and not isinstance(self.frame, Heat) and self.film.current == 0:  # the first heat says more than the saw does
            self.film.current = next((i for i, f in enumerate(frames) if isinstance(f, Heat)), 0)
        self._film_chosen(self.film.current)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Escape gives the search up: the order that is there stands."""
        if event.key() == Qt.Key.Key_Escape and self._session.searching:
            self._session.cancel_search()
        else:
            super().keyPressEvent(event)

    def _film_chosen(self, index: int) -> None:
        self._on_heat = isinstance(self.frame, Heat)
        self.stage.show_frame(index)
        self._mark_step()
        self._follow()
        self._tell()

    def _mark_step(self) -> None:
        """The chip of what is done in the frame, or of what an errand is for."""
        frames = self._session.answer.plan.frames[self.film.current :]
        heat = next((f for f in frames if isinstance(f, Heat)), None)
        if heat is not None and self.order.current not in {w.step.number for w in heat.work}:
            self.order.show_step(heat.work[0].step.number)

    def _scrubbed(self, index: int) -> None:
        self.film.current = index
        self._on_heat = isinstance(self.frame, Heat)
        self.film.update()
        self._mark_step()
        self._follow()
        self._telling.leave()
        self._pause.start()

    def _order_chosen(self, n: int) -> None:
        self._show_step(n)
        self._follow()
        self._tell()

    def _follow(self) -> None:
        self._film_area.ensureVisible(8 + self.film.current * FRAME_W + FRAME_W // 2, 20, FRAME_W, 0)
        order = self._session.answer.plan.order
        if self.order.current in order:
            at = self.order.chip_rect(order.index(self.order.current)).center().toPoint()
            self._order_area.ensureVisible(at.x(), at.y(), 150, 0)

    def _planning(self, busy: bool) -> None:
        if busy and self.isVisible():
            self.summary.setText("Looking for a better order; what you see keeps every must. Escape stops it.")
        elif self.isVisible():
            self._pause.start()

    def _tell(self) -> None:
        self._telling.leave()
        all_portions(self._told())

    def _told(self) -> Generator[None, None, None]:
        """The words, the methods, what the plan comes to; in portions."""
        session = self._session
        answer, m = session.answer, session.measure
        if self._behind:
            yield from answer.plan.framing()
            yield from self.stage.drawing()
            self._catch_up()
            yield
        if session.answer is not answer:  # another came meanwhile, and tells its own
            return
        frame = self.frame
        _ = answer.plan.times
        yield
        near, behind = frame_words(answer, frame, m, session.shop.kit) if frame is not None else ([], [])
        self.title.setText(frame_heading(answer, frame) if frame is not None else "")
        yield
        yield from self.passages.tell([*((18, words) for words in near), *((17, words) for words in behind)])
        yield
        self.summary.setText(plan_words(answer, m) if answer.plan.packed else "")
        shop = session.shop
        hand = f", {shop.smiths[0].name}: {dict(choices_of(shop.smiths[0], 'skill'))[shop.smiths[0].skill]}" if shop.smiths else ""
        self.shop_link.setText(
            f"Planned for a {dict(choices_of(shop, 'fire'))[shop.fire]}, an even heat over {m.length(shop.hot_length)}{hand}"
        )
        yield
        self._offer(frame)

    def _offer(self, frame: Frame | None) -> None:
        """Methods for the chosen operation."""
        plan = self._session.answer.plan
        n = self.order.current
        chosen = isinstance(frame, Heat) and any(w.step.number == n for w in frame.work)
        self.method.setVisible(chosen)
        if not chosen:
            return
        step = plan.steps[n]
        found = methods_for(step.operation.manner, plan.forge.able, step.method.key, plan.piece.bar.area)
        offered = [(f"{step.name}: {method.title}", method.key) for method in found]
        if offered != [(self.method.itemText(i), self.method.itemData(i)) for i in range(self.method.count())]:
            self.method.clear()  # filled anew it has the whole window laid out
            for words, key in offered:
                self.method.addItem(words, key)
        self.method.setCurrentIndex(0)
        self.method.setEnabled(self.method.count() > 1)

    def _pick(self, index: int) -> None:
        step = self._session.answer.plan.steps[self.order.current]
        if index and self._session.attempt(pick_method, step.key, str(self.method.itemData(index))):
            self._tell()
