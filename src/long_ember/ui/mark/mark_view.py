"""Mark: the cold bar edge to edge with every mark, running from the end the tape hooks on."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QLabel, QScrollArea, QVBoxLayout, QWidget

from long_ember.desk.session import Session
from long_ember.document import FieldAddress
from long_ember.stock import Mark
from long_ember.ui.drawing.paint import line_height, text_box, write
from long_ember.ui.drawing.tape import paint_tape
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import theme_of
from long_ember.ui.widgets.entry import ChoiceField

__all__ = ["MarkView"]

_ROW = 40
_COLUMNS = ((0, "From end {}"), (190, "From last mark"), (380, "Measures hot"), (560, "Mark"), (790, "Between"))


class _Board(QWidget):
    """Tape and rows."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setAccessibleName("Marks on the cold bar")
        for signal in (session.refreshed, session.selected, session.restyled):
            signal.connect(self._resize)
        self._resize()

    def _resize(self) -> None:
        self.setMinimumSize(QSize(1000, 260 + _ROW * len(self._session.answer.marks)))
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        """The tape, then one row a mark."""
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
        if event.rect().top() < 210:
            paint_tape(painter, self._session, QRectF(30, 0, self.width() - 60, 200), theme, chosen=self._session.selection)
            self._head(painter)
        for i, mark in enumerate(self._session.answer.marks):
            if event.rect().top() - _ROW < 236 + i * _ROW < event.rect().bottom():
                self._row(painter, 236 + i * _ROW, mark)

    def _head(self, painter: QPainter) -> None:
        painter.setFont(font(15, 500))
        painter.setPen(theme_of(self._session).colour("muted"))
        for x, words in _COLUMNS:
            painter.drawText(QRectF(30 + x, 206, 200, 24), Qt.AlignmentFlag.AlignLeft, words.format(self._session.piece.datum))

    def _row(self, painter: QPainter, y: float, mark: Mark) -> None:
        theme, m = theme_of(self._session), self._session.measure
        between = (
            f"in the {mark.before.lower()}"
            if mark.before == mark.after
            else f"{mark.before} and {mark.after}"
            if mark.before and mark.after
            else f"{mark.before or mark.after}, trim beyond"
        )
        cells = (m.length(mark.at), m.length(mark.chain), m.length(mark.hot), mark.kind, between)
        painter.setPen(QPen(theme.colour("line"), 1))
        painter.drawLine(QPointF(30, y), QPointF(self.width() - 30, y))
        for i, ((x, _words), cell) in enumerate(zip(_COLUMNS, cells, strict=True)):
            face = font(24 if i == 0 else 18, 600 if i == 0 else 400)
            write(painter, cell, 30 + x, y + (_ROW - line_height(face)) / 2, face, theme.colour("ink"))


class MarkView(QWidget):
    """The marking screen."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.board = _Board(session)
        area = QScrollArea()
        area.setWidget(self.board)
        area.setWidgetResizable(True)
        self.datum = ChoiceField(session, FieldAddress("", "datum"))
        label = QLabel("Hook the tape on")
        label.setFont(font(16))
        label.setBuddy(self.datum)
        note = QLabel(
            "Cold lengths. Chalk burns off: use a centre pop, a nick, or anvil pencil. “Measures hot” is for a bar at yellow heat."
        )
        note.setFont(font(15))
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
