"""Mark: the cold bar edge to edge with every mark, running from the end the tape hooks on."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QLabel, QScrollArea, QVBoxLayout, QWidget

from long_ember.desk.session import Session
from long_ember.document import FieldAddress
from long_ember.export.heat_words import frame_title
from long_ember.frozen import dataclass
from long_ember.stock import Mark, chains
from long_ember.ui.drawing.paint import line_height, text_box, write
from long_ember.ui.drawing.tape import paint_drawn, paint_tape
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import theme_of
from long_ember.ui.widgets.entry import ChoiceField

__all__ = ["MarkView"]

_ROW, _HEAD, _TAPE = 40, 236, 206
_COLUMNS = (0, 190, 380, 560, 870)


@dataclass(frozen=True)
class _Table:
    """A bar with its marks, and a row for each.

    Args:
        top: px.
        title: over the bar, "" for none.
        heads: of the columns.
        marks: one a row.
        paint: draws the bar.
    """

    top: float
    title: str
    heads: tuple[str, ...]
    marks: tuple[Mark, ...]
    paint: Callable[..., None]

    @property
    def bottom(self) -> float:
        """px."""
        return self.top + _HEAD + 24 + _ROW * len(self.marks)


class _Board(QWidget):
    """The bar with its rows; under it the drawn bar with its own, where something stands on it."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._tables: tuple[_Table, ...] = ()
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setAccessibleName("Marks on the cold bar")
        for signal in (session.refreshed, session.selected, session.restyled):
            signal.connect(self._renew)
        self._renew()

    def _renew(self) -> None:
        answer = self._session.answer
        end = f"From end {self._session.piece.datum}"
        r = answer.reckoning
        title = f"Saw {self._session.measure.length(r.cut)}, {r.choice_line().show(self._session.measure)}" if answer.marks else ""
        first = _Table(0.0, title, (end, "From last mark", "Measures hot", "Mark", "Between"), answer.marks, paint_tape)
        self._tables = (first,)
        if answer.drawn_marks:
            heads = (end, "From last mark", "Measures hot", "Mark", "For")
            title = "The drawn bar, straight still: marked cold, before it is bent or twisted"
            self._tables += (_Table(first.bottom + 20, title, heads, answer.drawn_marks, paint_drawn),)
        self.setMinimumSize(QSize(900, int(self._tables[-1].bottom)))
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Each bar, then one row a mark; only what is in sight."""
        painter, theme = QPainter(self), theme_of(self._session)
        painter.fillRect(event.rect(), theme.colour("paper"))
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
        for table in self._tables:
            if event.rect().top() < table.top + _HEAD and event.rect().bottom() > table.top:
                target = QRectF(30, table.top, self.width() - 60, _TAPE - 6)
                table.paint(painter, self._session, target, theme, chosen=self._session.selection)
                write(painter, table.title, 30, table.top + 2, font(18, 600), theme.colour("ink"))
                self._head(painter, table)
            between = chains(table.marks, self._session.measure)
            for i, (mark, chain) in enumerate(zip(table.marks, between, strict=True)):
                y = table.top + _HEAD + i * _ROW
                if event.rect().top() - _ROW < y < event.rect().bottom():
                    self._row(painter, y, mark, chain)

    def _head(self, painter: QPainter, table: _Table) -> None:
        painter.setFont(font(15, 500))
        painter.setPen(theme_of(self._session).colour("muted"))
        for x, words in zip(_COLUMNS, table.heads, strict=True):
            painter.drawText(QRectF(30 + x, table.top + _TAPE, 200, 24), Qt.AlignmentFlag.AlignLeft, words)

    def _row(self, painter: QPainter, y: float, mark: Mark, chain: float) -> None:
        theme, m = theme_of(self._session), self._session.measure
        cells = (m.length(mark.at), m.length(chain), m.length(mark.hot), mark.kind, self._about(mark))
        painter.setPen(QPen(theme.colour("line"), 1))
        painter.drawLine(QPointF(30, y), QPointF(self.width() - 30, y))
        for i, (x, cell) in enumerate(zip(_COLUMNS, cells, strict=True)):
            face = font(24 if i == 0 else 18, 600 if i == 0 else 400)
            write(painter, cell, 30 + x, y + (_ROW - line_height(face)) / 2, face, theme.colour("ink"))

    def _about(self, mark: Mark) -> str:
        """What it lies between or within; on the drawn bar what it is for, and the heat in which it is used."""
        if mark.of:
            heat = self._session.answer.first_worked(mark.of)
            return f"{mark.before}, {frame_title(heat).lower()}" if heat is not None else mark.before
        if mark.before == mark.after:
            return f"in the {mark.before.lower()}"
        return f"{mark.before} and {mark.after}" if mark.before and mark.after else f"{mark.before or mark.after}, trim beyond"


class MarkView(QWidget):
    """The marking screen."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.board = _Board(session)
        area = QScrollArea()
        area.setWidget(self.board)
        area.setWidgetResizable(True)
        area.setAccessibleName("Bars with their marks")
        self.datum = ChoiceField(session, FieldAddress("", "datum"))
        label = QLabel("Hook the tape on")
        label.setFont(font(16))
        label.setBuddy(self.datum)
        note = QLabel(
            "Cold lengths. Chalk burns off: use a centre pop, a nick, or anvil pencil. “Measures hot” is for a bar at yellow heat."
        )
        note.setFont(font(15))
        note.setWordWrap(True)
        note.setProperty("role", "muted")
        row = QHBoxLayout()
        row.setContentsMargins(30, 8, 30, 0)
        row.addWidget(label)
        row.addWidget(self.datum)
        row.addSpacing(20)
        row.addWidget(note, 1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(row)
        column.addWidget(area, 1)
