"""Bars of a cut list at one scale: blanks that can be dragged to other bars, locked, and ticked off as they are sawn."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFontMetricsF, QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QToolTip, QWidget

from long_ember.cutting import SheetPlan
from long_ember.desk.job_desk import JobDesk
from long_ember.errors import NoAnswer
from long_ember.frozen import dataclass
from long_ember.jobs.cut_layout import bars_of, locked, moved, opened, ticked, ticked_bar
from long_ember.jobs.plan import JobPlan
from long_ember.jobs.words import area_words, bar_words, saw_words, sheet_words
from long_ember.materials import MATERIALS
from long_ember.records import SavedCutList
from long_ember.sections import Section
from long_ember.ui.drawing.cut_bars import paint_bar, paint_sheet
from long_ember.ui.drawing.paint import text_box, write
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import Theme, theme_of
from long_ember.units import Measure, many

__all__ = ["JobBars"]

_HEAD, _ROW, _BAR = 54.0, 102.0, 42.0
_LEFT, _RIGHT = 128.0, 150.0  # px beside the bars: number and lock, and what is sawn
_SHEET_ROW = 190.0
_DRAG = 6.0  # px before a press becomes a drag


@dataclass(frozen=True)
class _Row:
    """A bar on the screen."""

    index: int
    box: QRectF  # of the bar itself


class JobBars(QWidget):
    """The bars. Arrows choose a blank, Space ticks it off, L locks its bar, Ctrl with Up or Down moves it, N gives it a bar of its own.

    Signals:
        looked: at a place that should be in sight.
    """

    looked = Signal(QPointF)

    def __init__(self, desk: JobDesk) -> None:
        super().__init__()
        self._desk, self._session = desk, desk.work.session
        self.current: tuple[int, int] = (0, 0)  # bar and blank
        self._press: QPointF | None = None
        self._drag: QPointF | None = None
        self._target = -2  # bar under the drag; -1 a bar of its own, -2 nowhere
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("Bars of the cut list")
        self._session.restyled.connect(self.update)

    @property
    def _plan(self) -> JobPlan | None:
        return self._desk.plan

    def renew(self) -> None:
        """Another plan."""
        plan, (bar, cut) = self._plan, self.current
        bars = plan.cut_list.bars if plan is not None else ()
        bar = min(bar, max(len(bars) - 1, 0))
        self.current = bar, min(cut, max(len(bars[bar].cuts) - 1, 0)) if bars else 0
        self.setMinimumSize(QSize(760, int(self._tall()) + 24))
        self.update()

    def _tall(self) -> float:
        plan = self._plan
        if plan is None:
            return 120.0
        sheets = sum(_HEAD + _SHEET_ROW * len(cut.plans) for cut in plan.sheet_cuts)
        return len(bars_of(plan.cut_list)) * _HEAD + len(plan.cut_list.bars) * _ROW + sheets

    def _laid(self) -> Iterator[tuple[float, tuple[str, Section], list[_Row]]]:
        """Every section with its heading's height and its bars."""
        plan = self._plan
        if plan is None:
            return
        scale, y = self._scale(), 8.0
        for key, numbers in bars_of(plan.cut_list).items():
            top = y
            y += _HEAD
            rows = []
            for i in numbers:
                rows.append(_Row(i, QRectF(_LEFT, y, plan.cut_list.bars[i].length * scale, _BAR)))
                y += _ROW
            yield top, key, rows

    def _scale(self) -> float:
        plan = self._plan
        longest = max((b.length for b in plan.cut_list.bars), default=1.0) if plan is not None else 1.0
        return (self.width() - _LEFT - _RIGHT) / longest

    def rows(self) -> list[_Row]:
        """All bars on the screen, from the top."""
        return [row for _top, _key, rows in self._laid() for row in rows]

    def blank_box(self, bar: int, cut: int) -> QRectF:
        """Where a blank is on the screen."""
        assert self._plan is not None
        row = next(r for r in self.rows() if r.index == bar)
        at, scale = self._plan.layouts[bar].cuts[cut], self._scale()
        return QRectF(row.box.left() + at.start * scale, row.box.top(), at.cut.length * scale, _BAR)

    def tick_box(self, bar: int) -> QRectF:
        """Where the button is that ticks the next blank of a bar off."""
        return self._tick_at(next(r for r in self.rows() if r.index == bar))

    def _tick_at(self, row: _Row) -> QRectF:
        return QRectF(self.width() - _RIGHT + 12, row.box.top() - 4, _RIGHT - 28, _BAR + 8)

    def lock_box(self, bar: int) -> QRectF:
        """Where the button is that locks a bar."""
        return self._lock_at(next(r for r in self.rows() if r.index == bar))

    @staticmethod
    def _lock_at(row: _Row) -> QRectF:
        return QRectF(54, row.box.top() - 2, _LEFT - 66, _BAR + 4)

    # --- painting

    def paintEvent(self, event: QPaintEvent) -> None:
        """Everything at one scale."""
        painter, theme, plan = QPainter(self), theme_of(self._session), self._plan
        painter.fillRect(event.rect(), theme.colour("paper"))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if plan is None or (not plan.cut_list.bars and not plan.sheet_cuts):
            words = self._desk.instead or (
                "Nothing of these jobs is cut from bar." if plan is not None else "Choose a job above, or add one in the Book."
            )
            text_box(painter, words, QPointF(self.width() / 2, 70), font(18), theme, role="muted")
            return
        m, y = self._session.measure, 8.0
        for top, (material, section), rows in self._laid():
            told = [*plan.legends[material, section], *([good] if (good := plan.goodness(material, section)) else [])]
            title = f"{section.label(m)}, {MATERIALS[material].title.lower()}: {many(len(rows), 'bar')}"
            write(painter, title, 16, top + 12, font(20, 600), theme.colour("ink"))
            shift = QFontMetricsF(font(20, 600)).horizontalAdvance(title) + 34
            short = QFontMetricsF(font(15)).elidedText("; ".join(told), Qt.TextElideMode.ElideRight, self.width() - shift - 20)
            write(painter, short, shift, top + 17, font(15), theme.colour("muted"))
            for row in rows:
                if row.box.adjusted(-_LEFT, -20, _RIGHT, _ROW).intersects(QRectF(event.rect())):
                    self._paint_row(painter, plan, row, theme, m)
                y = row.box.top() + _ROW - 8
        self._paint_sheets(painter, plan, y if plan.cut_list.bars else 8.0, theme, m)
        self._paint_drag(painter, plan, theme, m)

    def _paint_row(self, painter: QPainter, plan: JobPlan, row: _Row, theme: Theme, m: Measure) -> None:
        lay, box = plan.layouts[row.index], row.box
        bar = lay.bar
        here = row.index == self.current[0]
        if row.index == self._target or (here and self.hasFocus()):
            painter.setPen(QPen(theme.colour("accent"), 2.5 if row.index == self._target else 1.2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(6, box.top() - 12, self.width() - 12, _ROW - 3), 7, 7)
        painter.setPen(theme.colour("ink"))
        painter.setFont(font(22, 600))
        painter.drawText(QRectF(16, box.top(), 40, _BAR), Qt.AlignmentFlag.AlignVCenter, str(row.index + 1))
        self._button(painter, self._lock_at(row), "locked" if bar.locked else "lock", bar.locked, theme)
        lifted = self.current[1] if self._drag is not None and here else -1
        paint_bar(painter, lay, plan.codes[row.index], box, self._scale(), theme, m, chosen=self.current[1] if here else -1, lifted=lifted)
        write(painter, bar_words(lay, m), box.left(), box.bottom() + 2, font(15), theme.colour("fault" if lay.over else "muted"))
        wide = self.width() - box.left() - 24
        saw = QFontMetricsF(font(15, 500)).elidedText(saw_words(lay, m), Qt.TextElideMode.ElideRight, wide)
        write(painter, saw, box.left(), box.bottom() + 21, font(15, 500), theme.colour("ink"))
        done = sum(c.sawn for c in bar.cuts)
        following = next((n for n, c in enumerate(bar.cuts) if not c.sawn), None)
        label = "\u2713 all sawn" if following is None else f"Tick {plan.codes[row.index][following]} off"
        tick = self._tick_at(row)
        self._button(painter, tick, label, following is None, theme)
        write(painter, f"{done} of {len(bar.cuts)} sawn", tick.left() + 6, tick.bottom() + 2, font(14), theme.colour("muted"))

    @staticmethod
    def _button(painter: QPainter, box: QRectF, words: str, on: bool, theme: Theme) -> None:
        painter.setPen(QPen(theme.colour("accent" if on else "line"), 1.6 if on else 1.2))
        painter.setBrush(theme.colour("panel"))
        painter.drawRoundedRect(box, 6, 6)
        painter.setPen(theme.colour("ink" if on else "muted"))
        painter.setFont(font(15, 600 if on else 500))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)

    def _paint_sheets(self, painter: QPainter, plan: JobPlan, y: float, theme: Theme, m: Measure) -> None:
        """Blanks on their sheets, the whole part of a sheet left plain."""
        for cut in plan.sheet_cuts:
            title = f"Sheet {m.length(cut.thickness)}, {MATERIALS[cut.material].title.lower()}: {many(len(cut.plans), 'sheet')}"
            write(painter, title, 16, y + 12, font(20, 600), theme.colour("ink"))
            shift = QFontMetricsF(font(20, 600)).horizontalAdvance(title) + 34
            waste = f"{area_words(cut.area, m)} in blanks; {m.percent(cut.waste)} of what is cut into is waste"
            write(painter, waste, shift, y + 17, font(15), theme.colour("muted"))
            y += _HEAD
            for number, one in enumerate(cut.plans, 1):
                self._paint_sheet(painter, one, number, QRectF(_LEFT, y, self.width() - _LEFT - _RIGHT, _SHEET_ROW - 40), theme, m)
                y += _SHEET_ROW

    def _paint_sheet(self, painter: QPainter, one: SheetPlan, number: int, room: QRectF, theme: Theme, m: Measure) -> None:
        paint_sheet(painter, one, room, theme)
        painter.setPen(theme.colour("ink"))
        painter.setFont(font(22, 600))
        painter.drawText(QRectF(16, room.top(), 60, 40), Qt.AlignmentFlag.AlignLeft, str(number))
        kinds = ", ".join(f"{sum(b.name == n for b in one.blanks)} {n}" for n in dict.fromkeys(b.name for b in one.blanks))
        write(painter, sheet_words(one, m), room.left(), room.bottom() + 2, font(15), theme.colour("muted"))
        write(painter, f"{kinds}. The grain runs from left to right.", room.left(), room.bottom() + 20, font(15, 500), theme.colour("ink"))

    def _paint_drag(self, painter: QPainter, plan: JobPlan, theme: Theme, m: Measure) -> None:
        if self._drag is None:
            return
        cut = plan.cut_list.bars[self.current[0]].cuts[self.current[1]]
        ghost = QRectF(self._drag.x() - 30, self._drag.y() - _BAR / 2, max(cut.length * self._scale(), 40.0), _BAR)
        painter.setOpacity(0.85)
        painter.setBrush(theme.colour("chosen"))
        painter.setPen(QPen(theme.colour("accent"), 2))
        painter.drawRect(ghost)
        painter.setOpacity(1.0)
        words = f"{cut.name}, {m.length(cut.length)}"
        tag = QRectF(ghost.left(), ghost.top() - 28, QFontMetricsF(font(15, 600)).horizontalAdvance(words) + 16, 25)
        painter.setBrush(theme.colour("panel"))
        painter.drawRoundedRect(tag, 5, 5)
        painter.setPen(theme.colour("ink"))
        painter.setFont(font(15, 600))
        painter.drawText(tag, Qt.AlignmentFlag.AlignCenter, words)

    # --- the mouse

    def event(self, event: QEvent) -> bool:
        """Pointing at a blank tells what it is, where it lies and for whom."""
        if isinstance(event, QHelpEvent) and event.type() == QEvent.Type.ToolTip:
            found = self._blank_at(QPointF(event.pos()))
            QToolTip.showText(event.globalPos(), self.blank_words(*found) if found is not None else "", self)
            return True
        return super().event(event)

    def blank_words(self, bar: int, cut: int) -> str:
        """What a blank is, where it lies and for whom."""
        plan, m = self._plan, self._session.measure
        assert plan is not None
        at = plan.layouts[bar].cuts[cut]
        job = plan.jobs[at.cut.job].name if at.cut.job in plan.jobs else ""
        held = " Forged on the bar." if at.cut.held else ""
        return f"{plan.codes[bar][cut]} {at.cut.name}, {m.length(at.cut.length)}, from {m.length(at.start)} to {m.length(at.stop)}. {job}.{held}"

    def _blank_at(self, at: QPointF) -> tuple[int, int] | None:
        plan = self._plan
        for row in self.rows():
            if plan is not None and row.box.adjusted(0, -6, 0, 6).contains(at):
                mm = (at.x() - row.box.left()) / self._scale()
                cut = next((n for n, c in enumerate(plan.layouts[row.index].cuts) if c.start <= mm <= c.stop), None)
                return None if cut is None else (row.index, cut)
        return None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Choose a blank, press a button of a bar, or begin a drag."""
        at = event.position()
        for row in self.rows():
            if self._tick_at(row).contains(at):
                self._desk.attempt("Tick off what is sawn", partial(ticked_bar, index=row.index))
                return
            if self._lock_at(row).contains(at):
                self._desk.attempt("Lock a bar", partial(locked, index=row.index))
                return
        found = self._blank_at(at)
        if found is not None:
            self.current, self._press = found, at
            self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Drag a blank; the message line tells what it would cost to drop it here."""
        if self._press is None:
            self.setCursor(Qt.CursorShape.OpenHandCursor if self._blank_at(event.position()) else Qt.CursorShape.ArrowCursor)
            return
        if self._drag is None and (event.position() - self._press).manhattanLength() < _DRAG:
            return
        if self._drag is None:  # the plan may have become another one since the press
            found = self._blank_at(self._press)
            if found is None:
                self._press = None
                return
            self.current = found
            self._desk.rest()
        self._drag = event.position()
        target = next((r.index for r in self.rows() if r.box.top() - 12 <= self._drag.y() <= r.box.top() + _ROW - 18), -1)
        if target != self._target:
            self._target = target
            self._tell(target)
        self.update()

    def _tell(self, target: int) -> None:
        plan, bar = self._plan, self.current[0]
        if plan is None or target == bar:
            self._session.said.emit("", False)
            return
        try:
            made = self._made(target)
            self._session.said.emit(self._desk.words(plan.cut_list, made, "Here"), False)
        except NoAnswer as error:
            self._session.said.emit(str(error), True)

    def _made(self, target: int) -> SavedCutList:
        plan = self._plan
        assert plan is not None
        bar, cut = self.current
        if target < 0:
            return opened(plan.cut_list, bar, cut, self._desk.supplies(), plan.rules)
        return moved(plan.cut_list, bar, cut, target, plan.rules)

    def mouseReleaseEvent(self, _event: QMouseEvent) -> None:
        """Drop it."""
        dragged, target = self._drag is not None, self._target
        self._press, self._drag, self._target = None, None, -2
        if dragged and target != self.current[0]:
            self.move_to(target)
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """Tick a blank off."""
        found = self._blank_at(event.position())
        if found is not None:
            self.tick(*found)

    # --- deeds

    def move_to(self, target: int) -> bool:
        """Put the chosen blank on another bar; -1: on one of its own."""
        return self._desk.attempt("Move a blank", lambda _sheet: self._made(target), cost=True)

    def tick(self, bar: int, cut: int) -> bool:
        """Tick a blank off as sawn, or take its tick off."""
        return self._desk.attempt("Tick off what is sawn", partial(ticked, index=bar, cut=cut))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Choose, tick, lock and move by keys."""
        plan, (bar, cut) = self._plan, self.current
        if plan is None or not plan.cut_list.bars:
            super().keyPressEvent(event)
            return
        bars, key = plan.cut_list.bars, event.key()
        by = -1 if key == Qt.Key.Key_Up else 1 if key == Qt.Key.Key_Down else 0
        if by and event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            alike = [i for i, b in enumerate(bars) if (b.material, b.section) == (bars[bar].material, bars[bar].section)]
            at = alike.index(bar) + by
            if 0 <= at < len(alike):
                self.move_to(alike[at])
        elif by:
            order = [r.index for r in self.rows()]
            bar = order[min(max(order.index(bar) + by, 0), len(order) - 1)]
            self.current = bar, min(cut, len(bars[bar].cuts) - 1)
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self.current = bar, min(max(cut + (1 if key == Qt.Key.Key_Right else -1), 0), len(bars[bar].cuts) - 1)
        elif key == Qt.Key.Key_Space:
            self.tick(bar, cut)
        elif key == Qt.Key.Key_L:
            self._desk.attempt("Lock a bar", partial(locked, index=bar))
        elif key == Qt.Key.Key_N:
            self.move_to(-1)
        else:
            super().keyPressEvent(event)
            return
        if self._plan is not None and self._plan.cut_list.bars:
            self.looked.emit(self.blank_box(*self.current).center())
        self.update()
