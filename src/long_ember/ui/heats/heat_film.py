"""The filmstrip: one frame for each heat, cold step and errand."""

from __future__ import annotations

from collections.abc import Generator

from PySide6.QtCore import QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QFontMetricsF, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap
from PySide6.QtWidgets import QWidget

from long_ember.desk.session import Session
from long_ember.desk.turns import Portions
from long_ember.export.heat_words import frame_title
from long_ember.heats import Errand, Frame, Step
from long_ember.portions import all_portions
from long_ember.ui.drawing.heat_paint import frame_painting
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import theme_of

__all__ = ["FRAME_H", "FRAME_W", "PAUSE", "Film"]

FRAME_W, FRAME_H = 172, 122
PAUSE = 60  # ms
_WORDS = {"setdown": "set down", "close": "weld", "thread": "thread"}


def _verb(step: Step) -> str:
    verb = step.operation.verb
    return step.name if step.operation.own else step.feature.title.lower() if verb == "texture" else _WORDS.get(verb, verb)


class Film(QWidget):
    """The frames; Left and Right move, Home and End go to either end.

    Signals:
        chosen: another frame, by its index.
    """

    chosen = Signal(int)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session, self.current = session, 0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Heats in order")
        self._pictures: dict[tuple[int, bool], QPixmap] = {}
        self._stale: dict[int, QPixmap] = {}  # shown until the new one is made
        self._wanted: list[int] = []
        self._work: tuple[str, ...] = ()
        self._making = Portions(session.loop, session.turns, "film")
        # The frames wait for a pause in the typing; the chosen heat below them follows every keystroke of a piece that is soon reckoned.
        self._pause = QTimer(self)
        self._pause.setSingleShot(True)
        self._pause.setInterval(PAUSE)
        self._settling = Portions(session.loop, session.turns, "frames")
        self._pause.timeout.connect(lambda: self._settling.start(self._settled()))
        session.refreshed.connect(self._renew)
        session.restyled.connect(self._restyle)
        self._renew()
        all_portions(self._settled())

    def _restyle(self) -> None:
        self._making.leave()
        self._pictures.clear()
        self._stale.clear()
        self.update()

    def _renew(self) -> None:
        self._making.leave()
        self._settling.leave()
        plan = self._session.answer.plan
        work = (self._session.piece.name, *(step.key for item in plan.packed for step, _start, _stop in item.items))
        if work == self._work:
            self._stale |= {index: picture for (index, _here), picture in self._pictures.items()}
        else:  # another piece, or another order: what was there would mislead
            self._stale.clear()
        self._work = work
        self._pictures.clear()
        self._pause.start()

    def _settled(self) -> Generator[None, None, None]:
        """As many frames as there are by now; in portions."""
        plan = self._session.answer.plan
        count = len((yield from plan.framing())) if self.isVisible() else len(plan.packed)
        self._resize(count)
        self.current = min(self.current, max(0, count - 1))
        self.update()

    def _resize(self, count: int) -> None:
        self.setMinimumSize(QSize(max(1, count) * FRAME_W + 16, FRAME_H + 4))

    def showEvent(self, event: object) -> None:
        """Now the errands count too."""
        self._resize(len(self._session.answer.plan.frames))

    @property
    def frames(self) -> tuple[Frame, ...]:
        """Heats, cold steps and errands in order."""
        return self._session.answer.plan.frames

    def show_current(self, index: int) -> None:
        """Choose a frame."""
        self.current = index
        self.chosen.emit(index)
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Choose the frame under the pointer."""
        index = int((event.position().x() - 8) // FRAME_W)
        if 0 <= index < len(self.frames):
            self.show_current(index)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Next and previous, first and last."""
        last = len(self.frames) - 1
        step = {Qt.Key.Key_Right: self.current + 1, Qt.Key.Key_Left: self.current - 1, Qt.Key.Key_Home: 0, Qt.Key.Key_End: last}
        to = step.get(Qt.Key(event.key()), -1)
        if 0 <= to <= last:
            self.show_current(to)
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        """The frames in sight, each from its picture; the chosen one is made at once, the others one after the other."""
        painter, missing = QPainter(self), []
        for i, frame in enumerate(self.frames):
            rect = self._rect(i)
            if not rect.intersects(QRectF(event.rect())):
                continue
            key = (i, i == self.current)
            if key not in self._pictures and (i == self.current or self._pause.isActive()) and not self._stale.get(i):
                self._pictures[key] = all_portions(self._picture(rect, i, frame))
            picture = self._pictures.get(key) or self._stale.get(i)
            if picture is not None:
                painter.drawPixmap(rect.topLeft(), picture)
            if key not in self._pictures:
                missing.append(i)
        self._wanted = [*missing, *(i for i in self._wanted if i not in missing and (i, i == self.current) not in self._pictures)]
        if missing and not self._pause.isActive() and not self._making.busy:
            self._making.start(self._made())

    def _rect(self, index: int) -> QRectF:
        return QRectF(8 + index * FRAME_W, 2, FRAME_W - 8, FRAME_H)

    def _made(self) -> Generator[None, None, None]:
        """The pictures that are wanted, one after the other."""
        frames = self.frames
        while self._wanted and self.isVisible():
            i = self._wanted.pop(0)
            here = i == self.current
            if i < len(frames) and (i, here) not in self._pictures:
                self._pictures[i, here] = yield from self._picture(self._rect(i), i, frames[i])
                self._stale.pop(i, None)
                self.update(self._rect(i).toAlignedRect())
                yield

    def _picture(self, rect: QRectF, index: int, frame: Frame) -> Generator[None, None, QPixmap]:
        ratio, theme, here = self.devicePixelRatioF(), theme_of(self._session), index == self.current
        picture = QPixmap(round(rect.width() * ratio), round(rect.height() * ratio))
        picture.setDevicePixelRatio(ratio)
        picture.fill(theme.colour("paper"))
        painter = QPainter(picture)
        try:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            box = QRectF(0, 0, rect.width(), rect.height())
            errand = isinstance(frame, Errand)
            painter.setPen(
                QPen(
                    theme.colour("accent" if here else "line"),
                    3 if here else 1,
                    Qt.PenStyle.DotLine if errand and not here else Qt.PenStyle.SolidLine,
                )
            )
            painter.setBrush(theme.colour("paper" if errand else "panel"))
            painter.drawRoundedRect(box.adjusted(2, 2, -2, -2), 6, 6)
            yield from frame_painting(painter, self._session.answer, index, box.adjusted(14, 10, -14, -34), theme)
            yield
            painter.setPen(theme.colour("ink"))
            painter.setFont(font(15, 600))
            painter.drawText(box.adjusted(10, 0, -8, -7), Qt.AlignmentFlag.AlignBottom | Qt.AlignmentFlag.AlignLeft, frame_title(frame))
            if not isinstance(frame, Errand):
                painter.setFont(font(14))
                painter.setPen(theme.colour("muted"))
                words = ", ".join(dict.fromkeys(_verb(w.step) for w in frame.work))
                room = box.adjusted(8 + QFontMetricsF(font(15, 600)).horizontalAdvance(frame_title(frame)) + 12, 0, -12, -8)
                painter.drawText(
                    room,
                    Qt.AlignmentFlag.AlignBottom | Qt.AlignmentFlag.AlignRight,
                    QFontMetricsF(font(14)).elidedText(words, Qt.TextElideMode.ElideRight, room.width()),
                )
        finally:
            painter.end()
        return picture
