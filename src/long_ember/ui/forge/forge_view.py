"""Forge: one heat fills the screen. One action forward, one back; everything else is a single press, or hidden until it is asked for."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import replace
from functools import partial

from PySide6.QtCore import QRectF, Qt, QTimer, Signal
from PySide6.QtGui import QCloseEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPixmap, QResizeEvent, QWheelEvent
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QTextBrowser, QWidget

from long_ember.document import Answer, Edit, answer
from long_ember.errors import EmberError
from long_ember.export.heat_words import frame_words
from long_ember.features import Piece
from long_ember.forging import (
    Sizing,
    another_heat,
    begin_forging,
    clock_of,
    fire_seconds,
    forged_entry,
    forward,
    give_up,
    go_back,
    put_aside,
    renewed,
    sizings,
    take_up,
    verdict,
)
from long_ember.heats import Heat, Moment, moment
from long_ember.instruments import INSTRUMENTS, Heard
from long_ember.learning import made_before, planned_entry
from long_ember.records import CAUSES, Forging, Iron
from long_ember.storage import new_id, piece_from_text, piece_to_text
from long_ember.ui.actions.bookwork import BookWork
from long_ember.ui.forge.forge_paint import SUN, HeatTold, clock_rect, paint_clock, paint_picture, paint_words, picture_rect, told_of
from long_ember.ui.forge.panels import Choosing, Measuring, Overlay
from long_ember.ui.forge.tone import say_aloud, sound
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import DARK, LIGHT, Theme, stylesheet

__all__ = ["ForgeView"]

_TICK = 250  # ms; the clocks count seconds
_GLOW_STEP = 20.0  # °C after which the picture is painted anew
_STAGES = 10  # of a heat's work, that are drawn
_LOOKS = (LIGHT, DARK, SUN)
_SELDOM = ("pause", "speak", "look", "tones")
_KEYS = {
    Qt.Key.Key_Space: "forward", Qt.Key.Key_Right: "forward", Qt.Key.Key_Return: "forward", Qt.Key.Key_Enter: "forward", Qt.Key.Key_PageDown: "forward",
    Qt.Key.Key_Left: "back", Qt.Key.Key_Backspace: "back", Qt.Key.Key_PageUp: "back",
    Qt.Key.Key_A: "again", Qt.Key.Key_W: "wrong", Qt.Key.Key_M: "measure", Qt.Key.Key_P: "pause", Qt.Key.Key_D: "details", Qt.Key.Key_L: "look",
    Qt.Key.Key_S: "speak", Qt.Key.Key_T: "tones",
}  # fmt: skip


class ForgeView(QWidget):
    """The screen at the anvil, a window of its own.

    Signals:
        ended: everything is done: the log entry that was counted, and what to do when it is logged.
        closed: the screen was left.
    """

    ended = Signal(object, object)
    closed = Signal()

    def __init__(self, work: BookWork, now: Callable[[], float] = time.time) -> None:
        super().__init__(None, Qt.WindowType.Window)
        self._work, self._session, self.now = work, work.session, now
        self.setWindowTitle("Long Ember: Forge")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(640, 400)
        self.run: Forging | None = None
        self.run_id = ""
        self._before: Forging | None = None
        self._answer: Answer | None = None
        self.theme: Theme = DARK if self._session.settings.theme == "dark" else LIGHT
        self.tones, self.note = True, ""
        self.seen = ""  # what the pyrometer says
        self._still: tuple[object, QPixmap] | None = None  # the words
        self._seen: tuple[object, QPixmap] | None = None  # the steel
        self._told: tuple[object, HeatTold] | None = None
        self._glow, self._edge = 0.0, 0.0  # °C of the picture as painted; s until which the edge is lit
        self._rang: tuple[int, int, str] | None = None
        self._timer = QTimer(self, interval=_TICK)
        self._timer.timeout.connect(self._tick)
        self.text = QTextBrowser(self)
        self.text.hide()
        self._wheel = 0.0
        self._buttons_row = QWidget(self)
        row = QHBoxLayout(self._buttons_row)
        row.setContentsMargins(8, 0, 8, 6)
        self.buttons: dict[str, QPushButton] = {}
        for key, words, tip in (
            ("back", "‹  Back", "Left, the wheel up, a press on the left edge"), ("again", "Another heat (A)", "The same once more, from the fire"),
            ("wrong", "Went wrong (W)", "Give this one up, and say why"), ("measure", "Measure (M)", "Hold a size against the plan"),
            ("pause", "Pause (P)", "The clocks stand still"), ("speak", "Speak (S)", "The desktop's speech service reads the heat"),
            ("look", "Light, dark, sun (L)", "The look"), ("tones", "Tones (T)", "A soft tone and a lit edge when it is time, or neither"), ("details", "More (D)", "Everything about this heat"), ("forward", "Next  ›", "Space, Right, the wheel down, a press anywhere"),
        ):  # fmt: skip
            button = self.buttons[key] = QPushButton(words)
            button.setToolTip(tip)
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)  # the keys are the screen's
            button.clicked.connect(partial(self.do, key))
            row.addWidget(button, 2 if key == "forward" else 1)
        self._more_buttons(False)
        self.look_as(self.theme)

    # --- what is forged

    def open(self, wanted: int = 1, irons: int = 1, rhythm: str = "") -> None:
        """The piece on the bench: from where it stood, or from its first step.

        Args:
            wanted: pieces to make.
            irons: in the fire at once.
            rhythm: of a batch that is asked for, "" where the piece is merely opened.
        """
        session = self._session
        known = [(i, r) for i, r in self._work.library.records(Forging).items() if r.piece == session.piece_id]
        text = piece_to_text(session.piece)
        begin = partial(self._begin, text, wanted, irons, rhythm or "piece")
        if not known:
            begin()
            return
        self.run_id, run = max(known, key=lambda pair: pair[1].last)
        self._before = run
        self._answer = self._answer_of(run.text)
        anew = "Begin the batch, and let the old one go" if rhythm else "Begin anew"
        ways: list[tuple[str, Callable[[], None]]]
        if run.over:
            title = f"{run.name}: what was forged is not in the log yet."
            ways = [("Log it", partial(self.end, run)), (anew, begin)]
        elif run.text != text:
            title = f"{run.name}: the plan has changed since you began."
            ways = [
                ("Finish by the old plan", self._go_on),
                ("Go on with the new plan", partial(self._renew, session.piece)),
                (anew, begin),
            ]
        elif rhythm:
            title = f"{run.name}: one is being forged already."
            ways = [("Go on with it", self._go_on), (anew, begin)]
        else:
            self.run = run
            self._go_on()
            return
        if not run.over:
            self.run = run
        Choosing(self, title, ways, self._size()).open_over()

    def _begin(self, text: str, wanted: int = 1, irons: int = 1, rhythm: str = "piece") -> None:
        session = self._session
        plan = session.answer.plan
        self._answer = session.answer
        if not plan.frames:
            self.note = "No heats yet: plain bar needs no fire. Escape goes back."
            self.update()
            return
        self.run_id = self.run_id or new_id()  # begun anew it takes the place of what was there
        self._put(begin_forging(session.piece_id, session.piece.name, text, plan, self.now(), wanted=wanted, irons=min(irons, wanted), rhythm=rhythm))  # fmt: skip
        self._timer.start()

    def _go_on(self) -> None:
        assert self.run is not None
        self._put(take_up(self.run, self.now()))
        self._timer.start()

    def _renew(self, piece: Piece) -> None:
        """The same step of another plan, as far as it has that many."""
        assert self.run is not None
        text = piece_to_text(piece)
        found = self._answer_of(text)
        if not found.plan.frames:
            self.note = "The new plan has no heats: this one goes on by the old."
        else:
            self._answer = found
            self.run = renewed(self.run, text, found.plan, self.now())
        self._go_on()

    def _answer_of(self, text: str) -> Answer:
        session = self._session
        if text == piece_to_text(session.piece):
            return session.answer
        return answer(piece_from_text(text), ruler=session.shop.division, forge=session.forge)

    def _put(self, run: Forging) -> None:
        """The state as it is now, kept at once: a power cut loses no more than the heat in hand."""
        self.run = run
        if self._session.piece_id:
            title = "Go on at the anvil"
            self._work.put_records(title, {self.run_id: (self._before, run)}, gesture=f"{self.run_id}.forging")
            self._before = run
        self._still = None
        self.update()

    @property
    def plan(self) -> Answer:
        """What the piece that is forged comes to."""
        assert self._answer is not None
        return self._answer

    @property
    def asked(self) -> QWidget | None:
        """What is asked over the screen just now: it comes first."""
        return next((p for p in self.findChildren(Overlay) if p.isVisible()), None)

    # --- one press each

    def do(self, what: str, _checked: bool = False) -> None:
        """One of the actions, by its key."""
        if self.run is None or self.asked is not None:
            return
        {"forward": self.forward, "back": self.back, "again": self.again, "wrong": self.wrong, "measure": self.measure, "pause": self.pause,
         "details": self.details, "look": self.look, "speak": self.speak, "tones": self.toggle_tones}[what]()  # fmt: skip

    def forward(self) -> None:
        """Out of the fire, or on."""
        if self.run is None or self.text.isVisible():
            self._hide_details()
            return
        self.note = ""
        self._put(forward(self.run, self.plan.plan, self.now()))
        if self.run.over:
            self.end(self.run)

    def back(self) -> None:
        """The last press was one too many."""
        if self.run is not None:
            self.note = ""
            self._put(go_back(self.run, self.plan.plan, self.now()))

    def again(self) -> None:
        """Another heat on the same."""
        if self.run is not None:
            self.note = "The same once more."
            self._put(another_heat(self.run, self.plan.plan, self.now()))

    def wrong(self) -> None:
        """Why the piece in hand is given up."""
        ways = [(words, partial(self.reject, cause)) for cause, words in CAUSES]
        Choosing(self, "What went wrong?", ways, self._size()).open_over()

    def reject(self, cause: str) -> None:
        """Give the piece in hand up."""
        if self.run is not None:
            self.note = f"Rejected: {dict(CAUSES)[cause]}. The next one begins."
            self._put(give_up(self.run, self.plan.plan, self.now(), cause))

    def pause(self) -> None:
        """The clocks stand still, or go on."""
        if self.run is not None:
            self._put(take_up(self.run, self.now()) if self.run.paused else put_aside(self.run, self.now()))

    def details(self) -> None:
        """Everything about this heat, or the large words again."""
        if self.text.isVisible():
            self._hide_details()
            return
        told = frame_words(self.plan, self.plan.plan.frames[self.frame], self._session.measure, self._session.shop.kit)
        words = "".join(words for part in told for words in part)
        self.text.setHtml(words.replace("font-size:21px", f"font-size:{round(self._size() * 1.35)}px"))
        self.text.document().setDocumentMargin(24)
        self.text.setGeometry(self._free().toAlignedRect())
        self.text.show()
        self.text.raise_()
        self._more_buttons(True)

    def _hide_details(self) -> None:
        self.text.hide()
        self._more_buttons(False)

    def _more_buttons(self, shown: bool) -> None:
        """What is seldom wanted comes with the details."""
        for key in _SELDOM:
            self.buttons[key].setVisible(shown)

    def look(self) -> None:
        """Light, dark, or for the sun on the glass."""
        names = [t.name for t in _LOOKS]
        self.look_as(_LOOKS[(names.index(self.theme.name) + 1) % len(_LOOKS)])

    def look_as(self, theme: Theme) -> None:
        """One of the looks."""
        self.theme, self._still = theme, None
        self.setStyleSheet(
            stylesheet(theme)
            + f"\n[place=panel] {{ background: {theme.panel}; border: 2px solid {theme.rim}; border-radius: 10px; }} [place=panel] QLabel {{ background: transparent; }}"
        )
        self.update()

    def toggle_tones(self) -> None:
        """With a soft tone when the iron is hot and when the window is over, or without."""
        self.tones = not self.tones
        self.note = "Tones and the lit edge are on." if self.tones else "Tones and the lit edge are off."
        self._still = None
        self.update()

    def speak(self) -> None:
        """The heat read aloud."""
        told = self.told
        sizes = ", ".join(f"{what} {value}" for value, what in told.sizes)
        words = ". ".join(part for part in (told.head, *told.words, f"Hold {told.hold}" if told.hold else "", sizes, told.mind) if part)
        self.note = "" if say_aloud(words) else "There is no speech service here: install speech-dispatcher, and it reads the heat."
        self._still = None
        self.update()

    def measure(self) -> None:
        """A size of what is worked now, or has just been worked."""
        sizes = [s for frame in (self.frame, self.frame - 1) if frame >= 0 for s in sizings(self.plan.plan, frame)]
        if not sizes:
            self.note = "Nothing has its size yet: go on, and measure when the work is done."
            self._still = None
            self.update()
            return
        hot = self.iron.phase == "anvil"
        Measuring(self, sizes, self._session.measure, self.plan.piece.bar.thickness, hot, self.measured, self._size()).open_over()

    def measured(self, size: Sizing, value: float, hot: bool) -> None:
        """What a size means; the rest can go on from the piece as it is now."""
        if self.run is None:
            return
        plan, m = self.plan.plan, self._session.measure
        celsius = self._clock_celsius() if hot else 20.0
        found = verdict(plan, self.frame, size, value, celsius, self._session.forge, self._session.shop.division)
        read = f" ({m.length(value)} hot)" if hot else ""
        self.note = f"{found.line.show(m)}{read}"
        kept = size.taken(value if not hot else size.planned + found.off)
        self._put(replace(self.run, sizes=(*(s for s in self.run.sizes if (s.feature, s.name) != (size.feature, size.name)), kept)))
        if found.edit is not None:
            Choosing(self, self.note, (("Go on with that", partial(self._replan, found.edit)), ("Leave the plan", lambda: None)),
                     self._size()).open_over()  # fmt: skip

    def _replan(self, edit: Edit) -> None:
        """The piece as it is now, in the book too."""
        session = self._session
        try:
            if session.piece == edit.before:
                session.apply(edit)
        except EmberError as error:
            self.note = str(error)
            return
        self._renew(edit.after)

    def read(self, reading: Heard) -> None:
        """What an instrument says: the pedal goes on, a calliper's length is held against the plan, the pyrometer stands beside the clock."""
        if self.run is None or reading.value is None:
            return
        panel = next((p for p in self.findChildren(Measuring) if p.isVisible()), None)
        if reading.kind == "pedal":
            self.do("forward")
        elif reading.kind == "calliper":
            if panel is None:
                self.do("measure")
                panel = next((p for p in self.findChildren(Measuring) if p.isVisible()), None)
            if panel is not None:
                panel.read(reading.value)
        elif reading.kind in ("pyrometer", "oven"):
            self.seen = f"{INSTRUMENTS[reading.kind][0]} {self._session.measure.temperature(round(reading.value))}"
            self.update(clock_rect(self.width(), self.height()).toAlignedRect())
        elif reading.kind == "scale":
            self.tell(f"Scale: {self._session.measure.mass(reading.value)}")

    def tell(self, words: str) -> None:
        """Say something in the place of what comes next."""
        self.note, self._still = words, None
        self.update()

    def end(self, run: Forging) -> None:
        """Done: the log entry lies filled with what was counted."""
        session = self._session
        entries = self._work.library.log_of(session.piece_id).values() if session.piece_id else ()
        planned = planned_entry(self.plan.piece, session.piece_id, self.plan.plan, made_before(entries, session.piece_id) + 1,
                                session.shop.smith, ruler=session.shop.division,
                                over_all=sum(s.length for _id, s in self.plan.piece.shapes))  # fmt: skip
        entry = forged_entry(run, planned)
        self._timer.stop()
        self.run = None
        self.close()
        self.ended.emit(entry, partial(self._let_go, self._before))

    def _let_go(self, run: Forging | None) -> None:
        """It is in the log now: until then a power cut would lose what was counted."""
        if run is not None:
            self._work.put_records("Done at the anvil", {self.run_id: (run, None)}, gesture=f"{self.run_id}.forging")

    # --- what is in hand

    @property
    def iron(self) -> Iron:
        """The iron in hand."""
        assert self.run is not None
        return self.run.open[self.run.active]

    @property
    def frame(self) -> int:
        """The step in hand."""
        assert self.run is not None
        return self.run.open[self.run.active].frame

    @property
    def told(self) -> HeatTold:
        """What the screen says."""
        key = (self.plan, self.frame, self._session.measure)
        if self._told is None or self._told[0] != key:
            self._told = key, told_of(self.plan, self.frame, self._session.measure, self._session.shop.kit)
        return self._told[1]

    def _clock_celsius(self) -> float:
        assert self.run is not None
        return clock_of(self.plan.plan, self.run.open[self.run.active], self.now()).celsius

    def _moment(self) -> Moment:
        """The piece as it is now, glowing as it should."""
        assert self.run is not None
        plan, iron = self.plan.plan, self.run.open[self.run.active]
        frame = plan.frames[iron.frame]
        share = 0.0
        clock = clock_of(plan, iron, self.now())
        if iron.phase == "anvil" and isinstance(frame, Heat) and clock.work:
            share = min(int(clock.seconds / clock.work * _STAGES) / _STAGES, 0.999)  # every stage that is drawn is kept
        found = moment(plan, iron.frame + share)
        hot = isinstance(frame, Heat) and not frame.cold and iron.phase in ("fire", "anvil")
        return replace(found, zone=frame.glowing if hot and isinstance(frame, Heat) else (0.0, 0.0), celsius=clock.celsius if hot else 0.0)

    # --- painting

    def _size(self) -> int:
        return max(round(self.height() / 32), 15)

    def _free(self) -> QRectF:
        return QRectF(0, 0.075 * self.height(), self.width(), 0.845 * self.height())

    def paintEvent(self, event: QPaintEvent) -> None:
        """Words and picture from where they are kept; the clock anew."""
        painter, theme = QPainter(self), self.theme
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        width, height = float(self.width()), float(self.height())
        if self.run is None or self._answer is None:
            painter.fillRect(self.rect(), theme.colour("paper"))
            painter.setPen(theme.colour("ink"))
            painter.setFont(font(round(height / 22), 600))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, self.note or "Nothing is being forged.")
            return
        key = (self.run, self.frame, self.size(), theme.name, self.note, self._session.measure)
        if self._still is None or self._still[0] != key:
            self._still = key, self._stood_still(width, height)
        painter.drawPixmap(0, 0, self._still[1])
        self._paint_steel(painter, picture_rect(width, height))
        iron, now, plan = self.run.open[self.run.active], self.now(), self.plan.plan
        frame = plan.frames[iron.frame]
        others = [self.seen] if self.seen else []
        others += [
            self._other(i, now) for i, other in enumerate(self.run.open) if i != self.run.active and other.phase in ("fire", "anvil")
        ]
        paint_clock(
            painter,
            clock_of(plan, iron, now),
            frame,
            iron.phase,
            others,
            clock_rect(width, height),
            theme,
            self._session.measure,
            paused=self.run.paused,
        )
        if self._edge > now:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.colour("fault"))
            for edge in (
                QRectF(0, 0, width, 10),
                QRectF(0, height - 10, width, 10),
                QRectF(0, 0, 10, height),
                QRectF(width - 10, 0, 10, height),
            ):
                painter.drawRect(edge)

    def _stood_still(self, width: float, height: float) -> QPixmap:
        assert self.run is not None
        ratio = self.devicePixelRatioF()
        picture = QPixmap(round(width * ratio), round(height * ratio))
        picture.setDevicePixelRatio(ratio)
        picture.fill(self.theme.colour("paper"))
        painter = QPainter(picture)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        paint_words(painter, self.told, self._count(), width, height, self.theme, self.note)
        painter.end()
        return picture

    def _paint_steel(self, painter: QPainter, place: QRectF) -> None:
        """The picture, painted anew when the glow or the stage is another one."""
        now = self._moment()
        key = (self.plan, now.index, now.share, round(now.celsius / _GLOW_STEP), place.getRect(), self.theme.name)
        if self._seen is None or self._seen[0] != key:
            ratio = self.devicePixelRatioF()
            picture = QPixmap(round(place.width() * ratio), round(place.height() * ratio))
            picture.setDevicePixelRatio(ratio)
            picture.fill(self.theme.colour("paper"))
            brush = QPainter(picture)
            brush.setRenderHint(QPainter.RenderHint.Antialiasing)
            paint_picture(brush, self.plan, now, QRectF(0, 0, place.width(), place.height()), self.theme)
            brush.end()
            self._seen, self._glow = (key, picture), now.celsius
        painter.drawPixmap(place.topLeft(), self._seen[1])

    def _count(self) -> str:
        """The piece, how many are good, and the pace against the plan."""
        assert self.run is not None
        run, rejected = self.run, sum(r.count for r in self.run.rejects)
        parts = [run.name]
        if run.wanted > 1:
            parts.append(f"no. {self.iron.number}, {run.good} of {run.wanted - rejected} good")
        if rejected:
            parts.append(f"{rejected} rejected")
        if run.made:
            parts.append(f"{run.spent / 60 / run.made:.0f} min each, planned {self.plan.plan.minutes[1]:.0f}")
        return ", ".join(parts)

    def _other(self, index: int, now: float) -> str:
        """Another iron in a few words: which is ready next."""
        assert self.run is not None
        iron = self.run.open[index]
        if iron.phase == "anvil":
            return f"No. {iron.number} lies at the anvil"
        left = iron.since + fire_seconds(self.plan.plan, iron.frame) - now
        return f"No. {iron.number} is hot" if left <= 0 else f"No. {iron.number} ready in {round(left)} s"

    def _tick(self) -> None:
        """A quarter of a second later: the clock, and when the glow has changed enough the picture; a tone when it is time."""
        if self.run is None or self._answer is None or self.run.paused or self.run.over:
            return
        now, iron = self.now(), self.run.open[self.run.active]
        clock = clock_of(self.plan.plan, iron, now)
        if abs(clock.celsius - self._glow) >= _GLOW_STEP:
            self.update(picture_rect(self.width(), self.height()).toAlignedRect())
        self.update(clock_rect(self.width(), self.height()).toAlignedRect())
        mark = (iron.number, iron.frame, iron.phase)
        if clock.ready and self._rang != mark:
            self._rang = mark
            if self.tones:
                self._edge = now + 1.5
                sound()
            self.update()
        elif 0 < self._edge <= now:
            self._edge = 0.0
            self.update()

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Words as large as there is room."""
        high = max(round(self.height() * 0.065), 34)
        self._buttons_row.setGeometry(0, self.height() - high - 6, self.width(), high + 6)
        for button in self.buttons.values():
            button.setFont(font(max(round(high * 0.30), 11), 600))
            button.setMinimumHeight(high)
        self.text.setFont(font(self._size()))
        self.text.setGeometry(self._free().toAlignedRect())
        self._still = None

    # --- hands

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """One key each; Escape leaves, and nothing is lost."""
        if event.key() in (Qt.Key.Key_Escape, Qt.Key.Key_F11):
            if self.text.isVisible():
                self._hide_details()
            else:
                self.close()
        elif (what := _KEYS.get(Qt.Key(event.key()))) and not event.isAutoRepeat():
            self.do(what)
        else:
            super().keyPressEvent(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """The right two thirds go on, the left third goes back: nothing needs aim."""
        self.do("back" if event.position().x() < self.width() / 3 else "forward")

    def wheelEvent(self, event: QWheelEvent) -> None:
        """One notch is one step."""
        self._wheel += event.angleDelta().y()
        if abs(self._wheel) >= 120:
            self.do("forward" if self._wheel < 0 else "back")
            self._wheel = 0.0

    def closeEvent(self, event: QCloseEvent) -> None:
        """Put aside where it stands."""
        self._timer.stop()
        if self.run is not None and not self.run.over:
            self._put(put_aside(self.run, self.now()))
        self.closed.emit()
        event.accept()
