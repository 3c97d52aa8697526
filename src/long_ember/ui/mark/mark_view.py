"""Mark: the cold bar edge to edge with every mark, running from the end the tape hooks on."""

from __future__ import annotations

from PySide6.QtCore import QLineF, QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QLabel, QScrollArea, QVBoxLayout, QWidget

from long_ember.document import Slot
from long_ember.stock import Mark
from long_ember.ui.desk.session import Session
from long_ember.ui.drawing.paint import line_height, text_box, text_rect, text_width, write
from long_ember.ui.widgets.entry import ChoiceField
from long_ember.ui.widgets.fonts import font
from long_ember.ui.widgets.theme import Theme

__all__ = ["MarkView", "paint_tape"]

_ROW = 40
_COLUMNS = ((0, "From end {}"), (190, "From last mark"), (380, "Measures hot"), (560, "Mark"), (790, "Between"))


def paint_tape(painter: QPainter, session: Session, target: QRectF, theme: Theme, *, chosen: str = "") -> None:
    """The bar with its marks at true proportions; running lengths stagger so that none covers another."""
    answer, m = session.answer, session.measure
    cut, depth = max(answer.reckoning.cut, 1e-6), min(56.0, max(14.0, target.width() / answer.reckoning.cut * answer.piece.bar.width))
    bar = QRectF(target.left(), target.top() + 96, target.width(), depth)
    flip = answer.piece.datum == "B"

    def x(at: float) -> float:
        return bar.right() - at / cut * bar.width() if flip else bar.left() + at / cut * bar.width()

    painter.fillRect(bar, theme.colour("steel"))
    for i, zone in enumerate(answer.reckoning.zones):
        left, right = bar.left() + zone.start / cut * bar.width(), bar.left() + zone.end / cut * bar.width()
        box = QRectF(left, bar.top(), right - left, depth)
        role = "chosen" if zone.feature.id == chosen else "steel" if i % 2 == 0 else "steel_alt"
        painter.fillRect(box, theme.colour(role))
        _name(painter, zone.feature.title, box, theme)
    painter.setPen(QPen(theme.colour("edge"), 1.6))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.drawRect(bar)
    boxes = _boxes([(x(mark.at), m.length(mark.at)) for mark in answer.marks], bar.top(), target)
    _ticks(painter, theme, [(x(mark.at), box.bottom()) for mark, box in zip(answer.marks, boxes, strict=True)], bar)
    for mark, box in zip(answer.marks, boxes, strict=True):
        text_box(painter, m.length(mark.at), box.center(), font(17, 600), theme)
    hook = "A" if not flip else "B"
    side = bar.left() if not flip else bar.right()
    text_box(
        painter, f"tape from {hook}", QPointF(side + (46 if not flip else -46), bar.bottom() + 18), font(15, 600), theme, role="accent"
    )
    text_box(painter, f"cut {m.length(cut)}", QPointF(bar.center().x(), bar.bottom() + 18), font(16, 600), theme)


def _name(painter: QPainter, name: str, box: QRectF, theme: Theme) -> None:
    face = font(15, 500)
    wide = text_width(name, face)
    if wide + 10 < box.width() and box.height() > 18:
        middle = box.center()
        write(painter, name, middle.x() - wide / 2, middle.y() - line_height(face) / 2, face, theme.colour("ink"))


def _boxes(labels: list[tuple[float, str]], bottom: float, target: QRectF) -> list[QRectF]:
    """A place over the bar for every figure, at the lowest level where there is room, never beyond the paper."""
    boxes: list[QRectF] = []
    for x, text in labels:
        width = text_rect(text, QPointF(), font(17, 600)).width()
        left = min(max(x - width / 2, target.left() - 28), target.right() + 28 - width)
        near = [b for b in boxes if b.right() > left]
        tries = (QRectF(left, bottom - 26 - 24 * level, width, 22) for level in range(4))
        boxes.append(next((t for t in tries if not any(t.intersects(b) for b in near)), QRectF(left, bottom - 98, width, 22)))
    return boxes


def _ticks(painter: QPainter, theme: Theme, marks: list[tuple[float, float]], bar: QRectF) -> None:
    """Marks through the bar, each up to its figure; drawn together, because forty pens cost milliseconds."""
    painter.setPen(QPen(theme.colour("ink"), 2.0))
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
    painter.drawLines([QLineF(x, top, x, bar.bottom()) for x, top in marks])
    painter.setRenderHint(QPainter.RenderHint.Antialiasing, True)
    painter.setPen(QPen(theme.colour("ink"), 8.0, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
    painter.drawPoints([QPointF(x, bar.center().y()) for x, _top in marks])


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
        painter, theme = QPainter(self), self._session.theme
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
        painter.setPen(self._session.theme.colour("muted"))
        for x, words in _COLUMNS:
            painter.drawText(QRectF(30 + x, 206, 200, 24), Qt.AlignmentFlag.AlignLeft, words.format(self._session.piece.datum))

    def _row(self, painter: QPainter, y: float, mark: Mark) -> None:
        theme, m = self._session.theme, self._session.measure
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
        self.datum = ChoiceField(session, Slot("", "datum"))
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
