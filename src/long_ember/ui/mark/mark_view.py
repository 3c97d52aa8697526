"""Mark: the cold bar edge to edge with every mark: where, how, on which face, for what and when, and how its length is carried."""

from __future__ import annotations

from collections.abc import Callable, Generator
from functools import partial

from PySide6.QtCore import QPointF, QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QLabel, QScrollArea, QVBoxLayout, QWidget

from long_ember.desk.session import Session
from long_ember.desk.turns import MANY
from long_ember.document import Answer, FieldAddress
from long_ember.export.heat_words import frame_title
from long_ember.frozen import dataclass
from long_ember.fullsize import Marking, carry_line, marking_out, overhang_line
from long_ember.stock import chains
from long_ember.ui.drawing.late_picture import LatePicture
from long_ember.ui.drawing.paint import line_height, text_box, text_width, write
from long_ember.ui.drawing.tape import drawn_painting, tape_painting
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import theme_of
from long_ember.ui.widgets.buttons import worded
from long_ember.ui.widgets.entry import ChoiceBox, ChoiceField

__all__ = ["MarkView"]

_ROW, _HEAD, _TAPE = 58, 244, 214
_COLUMNS = (0.0, 0.132, 0.247, 0.36, 0.467, 0.70)  # shares of the width, each column with a second line under it
_SIDE = 30


@dataclass(frozen=True)
class _Table:
    """A bar with its marks, and a row for each.

    Args:
        top: px.
        title: over the bar, "" for none.
        rows: one a mark.
        chains: mm from the mark before, as they are shown.
        paint: draws the bar.
    """

    top: float
    title: str
    rows: tuple[Marking, ...]
    chains: tuple[float, ...]
    paint: Callable[..., Generator[None, None, None]]

    @property
    def bottom(self) -> float:
        """px."""
        return self.top + _HEAD + 24 + _ROW * len(self.rows)


class _Board(QWidget):
    """The bar with its rows; under it the drawn bar with its own, where something stands on it."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._tables: tuple[_Table, ...] = ()
        self._made: tuple[object, ...] = ()
        self.least = self.mate = False
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setAccessibleName("Marks on the cold bar")
        self._late = LatePicture(session, self, "marks", self._painting)
        session.refreshed.connect(self._answered)
        for signal in (session.selected, session.restyled):
            signal.connect(self.renew)
        self.renew()

    def _answered(self) -> None:
        """Many marks are made and painted when the answer has been: no key waits for them."""
        if self.isVisible() and len(self._session.answer.marks) > MANY:
            self._late.late(self._making)
        else:
            self.renew()

    def _making(self) -> Generator[None, None, None]:
        yield
        self._make(self._session.answer)
        yield
        self._spread()

    def renew(self) -> None:
        """Other marks, or others to be shown; made when they are looked at."""
        self._late.leave()
        self._spread()
        self._late.now()

    def _spread(self) -> None:
        """As much room as they take."""
        answer, m = self._session.answer, self._session.measure
        rows = len(answer.marks) + len(answer.drawn_marks)
        if self.least:  # which of them is known only when they are made; otherwise that waits until they are looked at
            self._make(answer)
            rows = sum(len(table.rows) for table in self._tables)
        tables = 1 + bool(answer.drawn_marks)
        self.setMinimumSize(QSize(880, tables * (_HEAD + 44) + _ROW * rows))
        self.setAccessibleDescription("; ".join(m.length(mark.at) for mark in answer.marks))

    def _make(self, answer: Answer) -> None:
        m, r = self._session.measure, answer.reckoning
        known = answer.plan.thorough or self.least  # while the order is looked for, the key does not wait for what hangs on it
        key = (answer, m, self.least)
        if self._made == key:
            return
        self._made = key
        title = f"Saw {m.length(r.cut)}, {r.choice_line().show(m)}" if answer.marks else ""
        first = self._table(0.0, title, marking_out(answer, heats=known), tape_painting)
        self._tables = (first,)
        if answer.drawn_marks:
            title = "The drawn bar, straight still: marked cold, before it is bent or twisted"
            self._tables += (self._table(first.bottom + 20, title, marking_out(answer, drawn=True, heats=known), drawn_painting),)

    def _table(self, top: float, title: str, rows: tuple[Marking, ...], paint: Callable[..., Generator[None, None, None]]) -> _Table:
        kept = tuple(row for row in rows if not self.least or row.least)
        return _Table(top, title, kept, chains([row.mark for row in kept], self._session.measure), paint)

    def paintEvent(self, event: QPaintEvent) -> None:
        """What is ready, or all that is in sight."""
        self._late.paint(event.rect())

    def _painting(self, painter: QPainter, wanted: QRect, _late: bool) -> Generator[None, None, None]:
        """Each bar, then one row a mark; only what is in sight."""
        theme = theme_of(self._session)
        painter.fillRect(wanted, theme.colour("paper"))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if not self._session.answer.marks:
            text_box(
                painter,
                "Nothing to mark yet. Add a feature on the Shape screen.",
                QPointF(self.width() / 2, 90),
                font(19),
                theme,
                role="muted",
            )
            return
        self._make(self._session.answer)
        for table in self._tables:
            if wanted.top() < table.top + _HEAD and wanted.bottom() > table.top:
                target = QRectF(_SIDE, table.top, self.width() - 2 * _SIDE, _TAPE - 6)
                yield from table.paint(
                    painter, self._session, target, theme, [row.mark for row in table.rows], chosen=self._session.selection
                )
                write(painter, table.title, _SIDE, table.top + 2, font(18, 600), theme.colour("ink"))
                self._head(painter, table)
            for i, (row, chain) in enumerate(zip(table.rows, table.chains, strict=True)):
                y = table.top + _HEAD + i * _ROW
                if wanted.top() - _ROW < y < wanted.bottom():
                    yield
                    self._row(painter, y, row, chain)

    @property
    def _columns(self) -> list[float]:
        """Where each column begins, px from the margin."""
        return [share * (self.width() - 2 * _SIDE) for share in _COLUMNS]

    def _head(self, painter: QPainter, table: _Table) -> None:
        end = self._session.piece.datum
        heads = (
            f"From end {end}",
            "From last",
            f"From end {'B' if end == 'A' else 'A'}",
            "Hot",
            "How, on which face",
            "What for, when; how to carry it",
        )
        painter.setFont(font(15, 500))
        painter.setPen(theme_of(self._session).colour("muted"))
        for x, words in zip(self._columns, heads, strict=True):
            painter.drawText(QRectF(_SIDE + x, table.top + _TAPE, 320, 24), Qt.AlignmentFlag.AlignLeft, words)

    def _row(self, painter: QPainter, y: float, row: Marking, chain: float) -> None:
        theme, m, shop = theme_of(self._session), self._session.measure, self._session.shop
        painter.setPen(QPen(theme.colour("line"), 1))
        painter.drawLine(QPointF(_SIDE, y), QPointF(self.width() - _SIDE, y))
        when = f", {frame_title(row.heat).lower()}" if row.heat is not None else ""
        over = overhang_line(row, shop.anvil, shop.edge)
        below = [f"{m.cubes(row.cubes)} cubes", "", "", "", row.mirrored if self.mate else row.face]
        below.append("; ".join(way.show(m) for way in (carry_line(row, chain, shop.dividers), over) if way is not None))
        cells = (m.length(row.mark.at), m.length(chain), m.length(row.far), m.length(row.mark.hot), row.mark.kind, f"{row.use}{when}")
        columns = self._columns
        for i, (x, cell, under) in enumerate(zip(columns, cells, below, strict=True)):
            room = (columns[i + 1] if i + 1 < len(columns) else self.width() - 2 * _SIDE) - x - 10
            size = 24 if i == 0 else 18
            while size > 12 and text_width(cell, font(size, 600 if i == 0 else 500 if i == 5 else 400)) > room:
                size -= 1
            face = font(size, 600 if i == 0 else 500 if i == 5 else 400)
            write(painter, cell, _SIDE + x, y + 17 - line_height(face) / 2, face, theme.colour("ink"))
            if under:
                small = next((s for s in (15, 14, 13, 12) if text_width(under, font(s)) <= room), 12)
                write(painter, under, _SIDE + x, y + 34, font(small), theme.colour("muted"))
        if row.cold and not self.least:
            write(painter, "◆", _SIDE - 20, y + 8, font(16, 600), theme.colour("accent"))


class MarkView(QWidget):
    """The marking screen.

    Signals:
        print_asked: a kind of paper is wanted, by its key.
    """

    print_asked = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.board = _Board(session)
        area = QScrollArea()
        area.setWidget(self.board)
        area.setWidgetResizable(True)
        area.setAccessibleName("Bars with their marks")
        self.datum = ChoiceField(session, FieldAddress("", "datum"))
        self.which, self.hand = ChoiceBox(session), ChoiceBox(session)
        for words, value in (("all marks", "all"), ("only those marked cold ◆", "least")):
            self.which.addItem(words, value)
        for words, value in (("as planned", "own"), ("its mate, mirrored", "mate")):
            self.hand.addItem(words, value)
        self.which.activated.connect(self._choose)
        self.hand.activated.connect(self._choose)
        row = QHBoxLayout()
        row.setContentsMargins(_SIDE, 8, _SIDE, 0)
        for words, box in (("Hook the tape on", self.datum), ("Show", self.which), ("Hand", self.hand)):
            label = QLabel(words)
            label.setFont(font(16))
            label.setBuddy(box)
            box.setFont(font(16))
            box.setAccessibleName(words)
            box.setSizeAdjustPolicy(box.SizeAdjustPolicy.AdjustToContents)
            box.setMinimumWidth(104)
            box.setMinimumContentsLength(6)
            row.addWidget(label)
            row.addWidget(box)
            row.addSpacing(14)
        row.addStretch(1)
        for words, key, tip in (
            ("At full size…", "stick", "A story stick to lay against the bar, templates, jigs"),
            ("Print…", "marks", "These marks on paper"),
        ):
            row.addWidget(worded(words, partial(self.print_asked.emit, key), tip))
        note = QLabel("Cold lengths; “Hot” is what they measure at yellow heat. Chalk burns off: use a centre pop, a nick, or anvil pencil, never on the outside of a bend. "
                      "◆ must be marked on the cold bar: when it is used, neither end still has its length.")  # fmt: skip
        note.setFont(font(15))
        note.setWordWrap(True)
        note.setContentsMargins(_SIDE, 0, _SIDE, 4)
        note.setProperty("role", "muted")
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(row)
        column.addWidget(area, 1)
        column.addWidget(note)

    def _choose(self) -> None:
        self.board.least, self.board.mate = self.which.currentData() == "least", self.hand.currentData() == "mate"
        self.board.renew()
