"""Many of one piece: the timetable of smith and irons, who waits for whom, and what is worth setting up."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtCore import QRectF, QSize, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QDialog, QHBoxLayout, QLabel, QScrollArea, QTabWidget, QVBoxLayout, QWidget

from long_ember.desk.session import Session
from long_ember.features import ORDER_SCHOOLS
from long_ember.heats import Batch, ForgingPlan, batch, fixtures, sequence, stations_of
from long_ember.learning import begin_for, made_before, tally
from long_ember.ui.drawing.paint import text_box, write
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import heat_colour, theme_of
from long_ember.ui.widgets.buttons import worded
from long_ember.ui.widgets.entry import ChoiceBox
from long_ember.units import Measure

__all__ = ["BatchPanel"]

_ROW, _LEFT, _MOST = 26.0, 96.0, 200
_ROOM = 116.0  # px for a word or two
_COMPARED = (1, 2, 3, 4)  # irons


def _each(plan: ForgingPlan) -> float:
    """Seconds of sawing, measuring and finishing that each further piece takes."""
    return sum(errand.each for errand in plan.errands if not errand.waits)


def _station_rows(plan: ForgingPlan, found: Batch, m: Measure, muted: str) -> str:
    """Where the smith stands, stage by stage: how long in all and for each, and when the first piece comes and the last one goes."""
    count = len(found.finished)
    cells = [
        f"<tr><td style='color:{muted}; padding-right:18px'>{title}</td>"
        + "".join(f"<td align='right' style='color:{muted}; padding-right:22px'>{head}</td>" for head in ("each", "all", "from", "to"))
        + "</tr>"
        for title in ("Station",)
    ]
    for station in stations_of(plan, found):
        name = f"Heat {station.heat}, {station.where}" if station.heat else f"Cold, {station.where}"
        times = (m.seconds(station.work / count), m.minutes(station.work), m.minutes(station.first), m.minutes(station.last))
        cells.append(
            f"<tr><td style='padding:3px 18px 3px 0'>{name}</td>"
            + "".join(f"<td align='right' style='padding:3px 22px 3px 0'>{time}</td>" for time in times)
            + "</tr>"
        )
    around = [e for e in plan.errands if not e.waits]
    for errand in around:
        whole = errand.seconds + errand.each * (count - 1)
        cells.append(
            f"<tr><td style='padding:3px 18px 3px 0'>{errand.title}</td><td align='right' style='padding:3px 22px 3px 0'>{m.seconds(errand.each)}</td>"
            f"<td align='right' style='padding:3px 22px 3px 0'>{m.minutes(whole)}</td><td></td><td></td></tr>"
        )
    return f"<table>{''.join(cells)}</table>"


class _Table(QWidget):
    """A row for the smith and one for each piece, minutes along the top; the irons glow while they lie in the fire."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.batch: Batch | None = None
        self.setAccessibleName("Timetable")

    def show_batch(self, found: Batch) -> None:
        """Another timetable."""
        self.batch = found
        minutes = found.total / 60
        self.setMinimumSize(QSize(int(_LEFT + max(660.0, minutes * 11)), int((len(found.finished) + 2) * _ROW + 34)))
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Everything at one scale of time."""
        painter, theme, found = QPainter(self), theme_of(self._session), self.batch
        painter.fillRect(event.rect(), theme.colour("paper"))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if found is None or not found.turns:
            text_box(painter, "No heats: nothing to plan.", self.rect().center(), font(18), theme, role="muted")  # type: ignore[arg-type]
            return
        wide = self.width() - _LEFT - 16
        scale = wide / found.total

        def x(seconds: float) -> float:
            return _LEFT + seconds * scale

        step = next(s for s in (1, 2, 5, 10, 15, 30, 60, 120, 240, 480, 1e9) if s * 60 * scale >= 52)
        minute = 0.0
        while minute * 60 <= found.total and step < 1e9:
            painter.setPen(QPen(theme.colour("line"), 1))
            painter.drawLine(int(x(minute * 60)), 24, int(x(minute * 60)), self.height())
            write(painter, f"{minute:g} min", x(minute * 60) + 3, 2, font(13), theme.colour("muted"))
            minute += step
        self._row(painter, 0, "Smith")
        for a, b in found.gaps:
            rect = QRectF(x(a), 30, max((b - a) * scale, 1), _ROW - 6)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(theme.colour("muted"), 1, Qt.PenStyle.DotLine))
            painter.drawRect(rect)
        heats = self._session.answer.plan.heats
        for turn in found.turns:
            painter.setPen(QPen(theme.colour("edge"), 1))
            painter.setBrush(theme.colour("steel"))
            painter.drawRect(QRectF(x(turn.start), 30, max((turn.end - turn.start) * scale, 1), _ROW - 6))
            top = 30 + (turn.piece + 1) * _ROW
            heat = heats[turn.stage]
            if turn.ready > turn.into:
                painter.setBrush(heat_colour(750))
                painter.drawRect(QRectF(x(turn.into), top, max((turn.ready - turn.into) * scale, 1), _ROW - 6))
            if turn.lies > 0.5:
                painter.setBrush(heat_colour(heat.hot))
                painter.drawRect(QRectF(x(turn.ready), top, max(turn.lies * scale, 1), _ROW - 6))
            painter.setBrush(theme.colour("steel"))
            painter.drawRect(QRectF(x(turn.start), top, max((turn.end - turn.start) * scale, 1), _ROW - 6))
        # Explained where it is seen first: once each.
        told = [
            (max(found.gaps, key=lambda g: g[1] - g[0]), 30.0, "you wait for the fire") if found.gaps else None,
            next(
                (((t.ready, t.start), 30 + (t.piece + 1) * _ROW, "it waits for you") for t in found.turns if t.lies * scale > _ROOM), None
            ),
        ]
        for entry in told:
            if entry is not None and (entry[0][1] - entry[0][0]) * scale > _ROOM:
                write(painter, entry[2], x(entry[0][0]) + 4, entry[1] + 1, font(13, 600), theme.colour("ink"))
        for piece in range(len(found.finished)):
            self._row(painter, piece + 1, f"Piece {piece + 1}")

    def _row(self, painter: QPainter, row: int, words: str) -> None:
        write(painter, words, 8, 29 + row * _ROW, font(15, 500), theme_of(self._session).colour("ink"))


class BatchPanel(QDialog):
    """How many, how many irons, piece by piece or stage by stage."""

    forge_asked = Signal(int, int, str)

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.setWindowTitle("Batch")
        self.resize(980, 680)
        self.pieces, self.irons, self.rhythm = (ChoiceBox(session) for _ in range(3))
        wanted = int(session.piece.order.quantity)
        for n in sorted({1, 2, 4, 6, 8, 10, 12, 16, 20, 30, 40, 60, 100, _MOST, min(wanted, _MOST)}):
            self.pieces.addItem(f"{n} pieces" if n > 1 else "1 piece", n)
        self.pieces.setCurrentIndex(self.pieces.findData(min(wanted, _MOST) if wanted > 1 else 6))
        for n in range(1, 7):
            self.irons.addItem(f"{n} irons in the fire" if n > 1 else "1 iron in the fire", n)
        self.irons.setCurrentIndex(self.irons.findData(min(session.forge.irons, 6)))
        for value, words in next(s for s in ORDER_SCHOOLS if s.key == "rhythm").options:
            self.rhythm.addItem(words, value)
        self.rhythm.setCurrentIndex(max(self.rhythm.findData(session.forge.school(session.piece.planning, "rhythm")), 0))
        row = QHBoxLayout()
        for box, name in ((self.pieces, "Pieces"), (self.irons, "Irons in the fire"), (self.rhythm, "Rhythm")):
            box.setFont(font(17, 500))
            box.setMinimumHeight(40)
            box.setAccessibleName(name)
            box.activated.connect(self.renew)
            row.addWidget(box, 2 if box is self.rhythm else 1)
        self.summary, self.fixtures = QLabel(), QLabel()
        for label, size in ((self.summary, 18), (self.fixtures, 16)):
            label.setFont(font(size, 500 if size > 16 else 400))
            label.setWordWrap(True)
            label.setTextFormat(Qt.TextFormat.RichText)
        self.compared = QLabel()
        self.compared.setFont(font(16))
        self.compared.setTextFormat(Qt.TextFormat.RichText)
        self.compared.setAccessibleName("Rhythms, irons and a striker compared")
        self.compared.linkActivated.connect(self._take)
        self.table = _Table(session)
        area = QScrollArea()
        area.setWidget(self.table)
        area.setWidgetResizable(True)
        self.stations = QLabel()
        self.stations.setFont(font(16))
        self.stations.setTextFormat(Qt.TextFormat.RichText)
        self.stations.setAccessibleName("Stations")
        self.stations.setAlignment(Qt.AlignmentFlag.AlignTop)
        along = QScrollArea()
        along.setWidget(self.stations)
        along.setWidgetResizable(True)
        pages = QTabWidget()
        pages.setFont(font(16))
        pages.addTab(area, "Timetable")
        pages.addTab(along, "Stations")
        key = QLabel(
            "Dotted: you wait for the fire. Red: it lies in the fire. Bright: it is ready and waits for you, and scales. Grey: you work it."
        )
        key.setFont(font(15))
        key.setProperty("role", "muted")
        key.setWordWrap(True)
        last = QHBoxLayout()
        last.addStretch(1)
        last.addWidget(worded("Forge them…", self._forge, "At the anvil, so many, with these irons and in this rhythm"))
        last.addWidget(worded("Close", self.accept))
        column = QVBoxLayout(self)
        column.addLayout(row)
        column.addWidget(self.summary)
        column.addWidget(self.compared)
        column.addWidget(pages, 1)
        column.addWidget(key)
        column.addWidget(self.fixtures)
        column.addLayout(last)
        session.refreshed.connect(self.renew)
        self.renew()

    def _comparison(self, count: int, irons: int, rhythm: str) -> str:
        """Every rhythm with so many irons, and with a striker where there is none, as hours side by side; one press takes it."""
        session, plan, m = self._session, self._session.answer.plan, self._session.measure
        theme = theme_of(session)
        rows = [(words.split(":")[0], value, plan) for value, words in next(s for s in ORDER_SCHOOLS if s.key == "rhythm").options]
        if not session.forge.striker and plan.count:
            helped = sequence(session.piece, ruler=session.shop.division, forge=replace(session.forge, striker=True), quick=True)[1]
            if helped.count < plan.count:
                rows.append(("with a striker", rhythm, helped))
        found = {(i, n): batch(p, count, irons=n, rhythm=r).whole for i, (_w, r, p) in enumerate(rows) for n in _COMPARED}
        best = min(found.values())
        cells = []
        for i, (words, value, of) in enumerate(rows):
            row = f"<td style='padding:2px 18px 2px 0'>{words[:1].upper()}{words[1:]}</td>"
            for n in _COMPARED:
                time = m.minutes(found[i, n])
                mark = "\u2713 " if (n, value) == (irons, rhythm) and of is plan else ""
                text = f"<b>{time}</b>" if found[i, n] <= best + 1 else time
                link = f"<a href='{value} {n}' style='color:{theme.ink}; text-decoration:none'>{mark}{text}</a>" if of is plan else text
                row += f"<td style='padding:2px 22px 2px 0'>{link}</td>"
            cells.append(f"<tr>{row}</tr>")
        head = "".join(f"<td style='padding-right:22px; color:{theme.muted}'>{n} iron{'s' if n > 1 else ''}</td>" for n in _COMPARED)
        return f"<table><tr><td></td>{head}</tr>{''.join(cells)}</table>"

    def _forge(self) -> None:
        count, irons, rhythm = self.pieces.currentData(), self.irons.currentData(), self.rhythm.currentData()
        self.accept()
        self.forge_asked.emit(int(count), int(irons), str(rhythm))

    def _take(self, link: str) -> None:
        """What was pressed in the comparison."""
        rhythm, irons = link.split()
        self.rhythm.setCurrentIndex(self.rhythm.findData(rhythm))
        self.irons.setCurrentIndex(self.irons.findData(int(irons)))
        self.renew()

    def renew(self, _index: int = 0) -> None:
        """Reckon the batch as it is asked for, and the other rhythm beside it."""
        session, plan = self._session, self._session.answer.plan
        count, irons, rhythm = self.pieces.currentData(), self.irons.currentData(), self.rhythm.currentData()
        made = made_before(session.log, session.piece_id)
        found = batch(plan, count, irons=irons, rhythm=rhythm)
        self.table.show_batch(found)
        self.compared.setText(self._comparison(count, irons, rhythm))
        m = session.measure
        self.stations.setText(_station_rows(plan, found, m, theme_of(session).muted))
        low, high = plan.stretch(count)
        words = [
            f"<b>{m.minutes(found.whole)}</b> in all, 9 of 10 times {m.minutes(found.total * low + found.around)} to {m.minutes(found.total * high + found.around)};"
            f" <b>{m.minutes(found.each)}</b> a piece.",
            f"At fire and anvil {m.minutes(found.total)}, of which you wait {m.minutes(found.idle)}; sawing, marking, measuring and finishing"
            f" {m.minutes(found.around)}: set up once, then {m.minutes(_each(plan))} each.",
        ]
        if found.burns:
            words.append(f"<b>!</b> An iron lies ready for {m.minutes(found.longest)}: pull it to the edge of the fire, or put in fewer.")
        so_far = tally(session.log, session.piece_id)
        if made:
            words.append(f"Logged so far: {so_far.words}.")
        begun = begin_for(count, session.log, session.piece_id)
        if begun > count and so_far.spoilt:
            words.append(f"For {count} good ones begin {begun}.")
        self.summary.setText(" ".join(words))
        rows = [
            f"{w.fixture.words}: {w.fixture.minutes:g} min to set up, saves about {w.saved:.0f} min over {w.uses} uses"
            + (", worth it" if w.pays else "") for w in fixtures(plan, count)
        ]  # fmt: skip
        self.fixtures.setText("Could be set up: " + "; ".join(rows) + "." if rows else "")
