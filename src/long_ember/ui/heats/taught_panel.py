"""What the log has taught: each figure in doubt, the usual and yours, how sure, and which entries moved it; with pictures."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import replace

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QDialog, QHBoxLayout, QLabel, QListWidget, QListWidgetItem, QTabWidget, QVBoxLayout, QWidget

from long_ember.beliefs import NINE_TENTHS
from long_ember.desk.session import Session
from long_ember.desk.turns import Portions
from long_ember.fields import day_words
from long_ember.learning import Lesson, Mover, Narrowing, Residual, figure_words, lessons_of, movers, reject_rate, residuals, shrinking
from long_ember.records import LogEntry
from long_ember.ui.actions.bookwork import BookWork
from long_ember.ui.drawing.paint import text_width, write
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import theme_of
from long_ember.ui.widgets.buttons import worded

__all__ = ["TaughtPanel"]

_REACH = 3.0  # usual deviations either way that the picture of a figure shows
_NOTHING = "Nothing is logged yet. What you write down under Log stands here, figure by figure: the usual, yours, and how sure."


class _Picture(QWidget):
    """A picture that a function paints: it is handed the painter and the box."""

    def __init__(self, session: Session, name: str) -> None:
        super().__init__()
        self._session = session
        self.paint: Callable[[QPainter, QRectF], None] | None = None
        self.setAccessibleName(name)
        self.setMinimumHeight(150)

    def sizeHint(self) -> QSize:
        """As wide as there is room."""
        return QSize(560, 240)

    def paintEvent(self, event: QPaintEvent) -> None:
        """On paper."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme_of(self._session).colour("paper"))
        if self.paint is not None:
            self.paint(painter, QRectF(self.rect()).adjusted(14, 12, -14, -12))


class TaughtPanel(QDialog):
    """Stays open beside the screens; what is set aside here can be taken back in the Book."""

    def __init__(self, work: BookWork, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._work, self._session = work, work.session
        self.setWindowTitle("What the log has taught")
        self.resize(1120, 720)
        self.head = self._words(17, 500)
        self.list = QListWidget()
        self.list.setWordWrap(True)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setFont(font(17))
        self.list.setSpacing(2)
        self.list.setAccessibleName("Figures in doubt")
        self.list.setMinimumWidth(400)
        self.list.currentRowChanged.connect(lambda _row: self._show_figure())
        self.picture = _Picture(self._session, "The usual against yours")
        self.told = self._words(16)
        self.movers = QListWidget()
        self.movers.setFont(font(16))
        self.movers.setAccessibleName("Entries that moved it most")
        self.aside = worded("Set aside", self._set_aside, "The chosen entry teaches nothing; press again to let it teach")
        figure = QWidget()
        column = QVBoxLayout(figure)
        column.addWidget(self.picture, 2)
        column.addWidget(self.told)
        column.addWidget(self.movers, 2)
        column.addWidget(self.aside, alignment=Qt.AlignmentFlag.AlignLeft)
        self.band = _Picture(self._session, "The band, entry by entry")
        self.pieces = _Picture(self._session, "Heats by piece, against what would be planned now")
        self.over_time = _Picture(self._session, "Plan against done")
        self.tabs = QTabWidget()
        self.tabs.setFont(font(16))
        for page, title in (
            (figure, "This figure"),
            (self.band, "The band"),
            (self.pieces, "Piece by piece"),
            (self.over_time, "Plan and done"),
        ):
            self.tabs.addTab(page, title)
        self.tabs.currentChanged.connect(lambda _index: self._show_pictures())
        row = QHBoxLayout()
        row.addWidget(self.list, 2)
        row.addWidget(self.tabs, 3)
        foot = QHBoxLayout()
        foot.addWidget(worded("Log what happened…", self._log, "Another entry, of the piece on the bench"))
        foot.addWidget(
            worded("Write the log to a file…", lambda: work.ask_records("log", ""), "CSV for a spreadsheet, JSON with everything")
        )
        foot.addStretch(1)
        foot.addWidget(worded("Close", self.accept))
        whole = QVBoxLayout(self)
        whole.addWidget(self.head)
        whole.addLayout(row, 1)
        whole.addLayout(foot)
        self._seen: tuple[object, ...] = ()  # what is shown is of
        self._moving = Portions(self._session.loop, self._session.turns, "movers")
        self._narrowing = Portions(self._session.loop, self._session.turns, "narrowing")
        self._session.refreshed.connect(self._follow)
        self._session.restyled.connect(self.renew)
        self.renew()

    def done(self, result: int) -> None:
        """Nobody looks any more."""
        self._moving.leave()
        self._narrowing.leave()
        super().done(result)

    def _follow(self) -> None:
        """After a key: what it did not change is not reckoned again, however long the log is."""
        session = self._session
        seen = (session.log, session.forge.belief, session.measure, *self._smith)
        if seen != self._seen:
            self.renew()
        elif self.tabs.currentIndex() == 1:
            self._show_pictures()

    def _words(self, size: int, weight: int = 400) -> QLabel:
        label = QLabel()
        label.setFont(font(size, weight))
        label.setWordWrap(True)
        return label

    @property
    def _smith(self) -> tuple[str, str]:
        return self._session.shop.smith, self._session.shop.fire

    def renew(self) -> None:
        """Everything as the log has it now."""
        session = self._session
        entries, belief = session.log, session.forge.belief
        self._seen = (entries, belief, session.measure, *self._smith)
        count = sum(not e.set_aside for e in entries)
        who = f" of {self._smith[0]}" if self._smith[0] else ""
        rejects = reject_rate(entries)
        self.head.setText(
            f"{count} {'entry' if count == 1 else 'entries'} teach{'es' if count == 1 else ''}, by the hand{who} at this fire. About {rejects:.0%} of pieces are rejected."
            f" The shaded band holds 9 of 10."
            if entries
            else _NOTHING
        )
        self._lessons = lessons_of(belief, session.measure)
        at = max(self.list.currentRow(), 0)
        self.list.blockSignals(True)
        self.list.clear()
        for lesson in self._lessons:
            words = (
                f"{lesson.factor.title}\n   {lesson.yours}; {lesson.sure}"
                if lesson.known
                else f"{lesson.factor.title}\n   as usual; nothing logged says more"
            )
            self.list.addItem(QListWidgetItem(words))
        self.list.setCurrentRow(at)
        self.list.blockSignals(False)
        self._show_figure()
        self._show_pictures()

    @property
    def lesson(self) -> Lesson:
        """The chosen figure."""
        return self._lessons[max(self.list.currentRow(), 0)]

    def _show_figure(self) -> None:
        lesson, entries = self.lesson, self._session.log
        self.told.setText(f"{lesson.factor.words} The usual: {lesson.usual}. Yours: {lesson.yours}, {lesson.sure}.")
        self.picture.paint = lambda painter, box: self._paint_bells(painter, box, lesson)
        self.picture.update()
        self._list_movers(())
        if lesson.known:
            self.movers.clear()
            self.movers.addItem("Each entry is left out in turn…")
            self._moving.start(movers(entries, lesson.factor.key, *self._smith), self._list_movers)
        else:
            self._moving.leave()

    def _list_movers(self, found: Sequence[Mover]) -> None:
        """Show which entries moved the chosen figure, and those set aside."""
        lesson, entries = self.lesson, self._session.log
        aside = [i for i, e in enumerate(entries) if e.set_aside]
        self.movers.clear()
        self._rows = [m.entry for m in found] + aside
        for mover in found:
            entry = entries[mover.entry]
            way = "up" if mover.by > 0 else "down"
            without = figure_words(lesson.factor, mover.without, self._session.measure)
            self.movers.addItem(f"{_entry_name(entry)}: moves it {way}; without it {without}")
        self.movers.addItems([f"{_entry_name(entries[i])}: set aside, teaches nothing" for i in aside])
        if not self._rows:
            self.movers.addItem("No entry says anything of it yet.")
        self.aside.setEnabled(bool(self._rows))

    def _log(self) -> None:
        from long_ember.ui.heats.log_panel import LogPanel

        LogPanel(self._work, self).exec()

    def _set_aside(self) -> None:
        row = self.movers.currentRow()
        if not 0 <= row < len(self._rows):
            row = 0
        entry = self._session.log[self._rows[row]]
        found = next((i for i, e in self._work.library.log_of(entry.piece).items() if e == entry), "")
        if found:
            self._work.put_record(found, replace(entry, set_aside=not entry.set_aside), entry)

    def _show_band(self, steps: Sequence[Narrowing]) -> None:
        self.band.paint = lambda painter, box: self._paint_band(painter, box, steps)
        self.band.update()

    def _show_pictures(self) -> None:
        session, index = self._session, self.tabs.currentIndex()
        if index == 1:
            if session.piece.features:
                self._narrowing.start(shrinking(session.piece, session.log, session.shop.forge, session.shop.smith), self._show_band)
            else:
                self._show_band(())
        elif index in (2, 3):
            found = residuals(session.log, session.forge.belief, session.shop.smith)
            page = self.pieces if index == 2 else self.over_time
            paint = self._paint_pieces if index == 2 else self._paint_time
            page.paint = lambda painter, box: paint(painter, box, found)
            page.update()

    # --- pictures

    def _colours(self) -> tuple[QColor, QColor, QColor, QColor]:
        theme = theme_of(self._session)
        return theme.colour("ink"), theme.colour("muted"), theme.colour("accent"), theme.colour("line")

    def _paint_bells(self, painter: QPainter, box: QRectF, lesson: Lesson) -> None:
        """The usual as a dotted bell, yours as a full one, each of the same area."""
        ink, muted, accent, line = self._colours()
        spread = lesson.factor.spread
        low, high = (
            min(-_REACH * spread, lesson.value - _REACH * lesson.spread),
            max(_REACH * spread, lesson.value + _REACH * lesson.spread),
        )
        base = box.bottom() - 26

        def x(value: float) -> float:
            return box.left() + (value - low) / (high - low) * box.width()

        def bell(middle: float, wide: float) -> QPolygonF:
            tall = (base - box.top() - 24) * min(lesson.spread, spread) / wide
            points = [
                QPointF(x(v), base - tall * math.exp(-0.5 * ((v - middle) / wide) ** 2))
                for v in (low + (high - low) * i / 200 for i in range(201))
            ]
            return QPolygonF(points)

        painter.setPen(QPen(line, 1))
        painter.drawLine(QPointF(box.left(), base), QPointF(box.right(), base))
        band = QRectF(x(lesson.value - NINE_TENTHS * lesson.spread), box.top() + 20, 0, base - box.top() - 20)
        band.setRight(x(lesson.value + NINE_TENTHS * lesson.spread))
        shade = QColor(accent)
        shade.setAlpha(30)
        painter.fillRect(band, shade)
        painter.setPen(QPen(muted, 1.6, Qt.PenStyle.DashLine))
        painter.drawPolyline(bell(0.0, spread))
        painter.setPen(QPen(accent, 2.4))
        painter.drawPolyline(bell(lesson.value, lesson.spread))
        face = font(14, 500)
        for value, text, colour, top in ((0.0, "usual", muted, base + 4), (lesson.value, f"yours: {lesson.yours}", ink, box.top() - 4)):
            wide = text_width(text, face)
            write(painter, text, min(max(x(value) - wide / 2, box.left()), box.right() - wide), top, face, colour)

    def _paint_band(self, painter: QPainter, box: QRectF, steps: Sequence[Narrowing]) -> None:
        """Cut lengths of the piece on the bench, as the log grew."""
        ink, muted, accent, line = self._colours()
        m = self._session.measure
        if not steps:
            write(painter, "An empty bar has no length yet.", box.left(), box.top(), font(16), muted)
            return
        low, high = min(s.low for s in steps), max(s.high for s in steps)
        last = max(steps[-1].entries, 1)
        area = box.adjusted(90, 26, -10, -40)

        def at(entries: float, mm: float) -> QPointF:
            return QPointF(area.left() + entries / last * area.width(), area.bottom() - (mm - low) / max(high - low, 1e-6) * area.height())

        write(painter, f"{self._session.piece.name}: cut lengths that 9 of 10 pieces want", box.left(), box.top() - 6, font(16, 600), ink)
        shade = QColor(accent)
        shade.setAlpha(50)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(shade)
        painter.drawPolygon(QPolygonF([at(s.entries, s.high) for s in steps] + [at(s.entries, s.low) for s in reversed(steps)]))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(accent, 2.4))
        painter.drawPolyline(QPolygonF([at(s.entries, s.likely) for s in steps]))
        face = font(14, 500)
        for mm in dict.fromkeys((steps[0].high, steps[0].low, steps[-1].likely)):
            painter.setPen(QPen(line, 1))
            painter.drawLine(at(0, mm), at(last, mm))
            write(painter, m.length(mm), box.left(), at(0, mm).y() - 10, face, muted)
        for s in dict.fromkeys((steps[0], steps[len(steps) // 2], steps[-1])):
            text = f"{s.entries} logged"
            wide = text_width(text, face)
            write(
                painter, text, min(max(at(s.entries, low).x() - wide / 2, area.left()), box.right() - wide), area.bottom() + 6, face, muted
            )
        text = f"Heats: {steps[0].heats[0]} to {steps[0].heats[2]} at first, {steps[-1].heats[0]} to {steps[-1].heats[2]} now, likely {steps[-1].heats[1]}"
        write(painter, text, box.left(), box.bottom() - 14, face, ink)

    def _paint_pieces(self, painter: QPainter, box: QRectF, found: Sequence[Residual]) -> None:
        """Each piece in a row: what it took against what would be planned now; a dot an entry, on the line it is as planned."""
        ink, muted, accent, line = self._colours()
        names = list(dict.fromkeys(r.name for r in found))
        if not names:
            write(painter, "No heats are counted yet.", box.left(), box.top(), font(16), muted)
            return
        write(painter, "Heats taken, against what would be planned now", box.left(), box.top() - 6, font(16, 600), ink)
        area = box.adjusted(210, 46, -20, -6)
        middle = area.center().x()
        ratios = {r: math.log(max(r.took, 0.5) / max(r.expected, 0.5)) for r in found}
        reach = max(0.5, *(abs(v) for v in ratios.values()))
        row = min(area.height() / len(names), 44.0)
        face = font(15, 500)
        painter.setPen(QPen(line, 1))
        painter.drawLine(QPointF(middle, area.top() - 6), QPointF(middle, area.top() + row * len(names)))
        for text, side in (("fewer", -1), ("as planned", 0), ("more", 1)):
            wide = text_width(text, font(14))
            x = middle + side * area.width() / 2 - (wide / 2 if not side else wide if side > 0 else 0)
            write(painter, text, x, area.top() - 26, font(14), muted)
        for i, name in enumerate(names):
            y = area.top() + row * (i + 0.5)
            write(painter, name[:26], box.left(), y - 11, face, ink)
            painter.setPen(QPen(accent, 1.6))
            for r in found:
                if r.name == name:
                    painter.drawEllipse(QPointF(middle + ratios[r] / reach * area.width() / 2, y), 5, 5)

    def _paint_time(self, painter: QPainter, box: QRectF, found: Sequence[Residual]) -> None:
        """Heats planned and taken, entry by entry: they come together as the log grows."""
        ink, muted, accent, line = self._colours()
        if not found:
            write(painter, "No heats are counted yet.", box.left(), box.top(), font(16), muted)
            return
        shown = found[-60:]
        most = max(max(r.took, r.planned) for r in shown)
        area = box.adjusted(40, 40, -10, -30)
        write(painter, "Heats: open rings as planned, full dots as taken", box.left(), box.top() - 6, font(16, 600), ink)
        face = font(14, 500)
        for heats in sorted({0, most // 2, most}):
            y = area.bottom() - heats / most * area.height()
            painter.setPen(QPen(line, 1))
            painter.drawLine(QPointF(area.left(), y), QPointF(area.right(), y))
            write(painter, str(heats), box.left(), y - 10, face, muted)
        for i, r in enumerate(shown):
            x = area.left() + (i + 0.5) / len(shown) * area.width()
            planned, took = (QPointF(x, area.bottom() - n / most * area.height()) for n in (r.planned, r.took))
            painter.setPen(QPen(muted, 1.4))
            painter.drawLine(planned, took)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawEllipse(planned, 6, 6)
            painter.setPen(QPen(accent, 1.4))
            painter.setBrush(accent)
            painter.drawEllipse(took, 4, 4)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        write(painter, "first logged", area.left(), area.bottom() + 8, face, muted)
        text = "last"
        write(painter, text, area.right() - text_width(text, face), area.bottom() + 8, face, muted)


def _entry_name(e: LogEntry) -> str:
    day = f", {day_words(e.day)}" if e.day else ""
    return f"{e.name} no. {e.number}{day}"
