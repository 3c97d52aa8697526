"""Cut: bought bars as rows at one scale, pieces with their saw marks, what is left hatched."""

from __future__ import annotations

from itertools import groupby

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFontMetricsF, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QScrollArea, QVBoxLayout, QWidget

from long_ember.cutting import CutBar, CutList
from long_ember.document import Slot
from long_ember.features import specs
from long_ember.ui.fonts import font
from long_ember.ui.inspector import FieldGrid
from long_ember.ui.paint import text_box
from long_ember.ui.session import Session

__all__ = ["CutView"]

_ROW = 112


class _Bars(QWidget):
    """Equal bars are drawn once with their count."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setAccessibleName("Bars to cut")
        session.refreshed.connect(self._resize)
        session.restyled.connect(self.update)
        self._resize()

    def groups(self) -> list[tuple[CutBar, int]]:
        """A bar and how many are cut like it."""
        cuts = self._session.answer.cuts
        if cuts is None:
            return []
        return [(g[0], len(g)) for _key, rows in groupby(cuts.bars, key=lambda b: b.starts) for g in [list(rows)]]

    def _resize(self) -> None:
        self.setMinimumSize(QSize(800, 30 + _ROW * max(1, len(self.groups()))))
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        """One row for each kind of bar."""
        painter, session = QPainter(self), self._session
        painter.fillRect(event.rect(), session.theme.colour("paper"))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        cuts = session.answer.cuts
        if cuts is None:
            text_box(painter, session.answer.cut_problem, QPointF(self.width() / 2, 60), font(19), session.theme, role="muted")
            return
        for i, (bar, count) in enumerate(self.groups()):
            self._bar(painter, QRectF(110, 16 + i * _ROW, self.width() - 140, 44), cuts, bar, count)

    def _bar(self, painter: QPainter, rect: QRectF, cuts: CutList, bar: CutBar, count: int) -> None:
        session, theme, m = self._session, self._session.theme, self._session.measure
        scale = rect.width() / cuts.bar_length
        painter.setPen(theme.colour("ink"))
        painter.setFont(font(24, 600))
        painter.drawText(QRectF(24, rect.top(), 80, 44), Qt.AlignmentFlag.AlignVCenter, f"{count} ×")
        painter.setBrush(Qt.BrushStyle.BDiagPattern)
        painter.setPen(QPen(theme.colour("muted"), 1.2))
        painter.drawRect(rect)
        for i, start in enumerate(bar.starts):
            box = QRectF(rect.left() + start * scale, rect.top(), cuts.piece * scale, rect.height())
            painter.setBrush(theme.colour("steel" if i % 2 == 0 else "steel_alt"))
            painter.setPen(QPen(theme.colour("edge"), 1.2))
            painter.drawRect(box)
            if box.width() > 74:
                painter.setPen(theme.colour("ink"))
                painter.setFont(font(15, 500))
                painter.drawText(box, Qt.AlignmentFlag.AlignCenter, m.length(cuts.piece))
        painter.setPen(theme.colour("muted"))
        painter.setFont(font(15))
        words = f"{len(bar.starts)} × {session.piece.name}; {m.length(bar.remnant)} left"
        painter.drawText(QRectF(rect.left(), rect.bottom() + 4, rect.width(), 22), Qt.AlignmentFlag.AlignLeft, words)
        saws = ", ".join(m.length(start + cuts.piece, bare=True) for start in bar.starts)
        saws = f"saw at {saws} {'mm' if m.unit == 'mm' else 'inches'} from the end, on the far side of the line"
        painter.setPen(theme.colour("ink"))
        short = QFontMetricsF(font(17, 500)).elidedText(saws, Qt.TextElideMode.ElideRight, rect.width())
        painter.setFont(font(17, 500))
        painter.drawText(QRectF(rect.left(), rect.bottom() + 24, rect.width(), 24), Qt.AlignmentFlag.AlignLeft, short)


class CutView(QWidget):
    """The sawing screen."""

    export_asked = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.grid = FieldGrid(session, [Slot("order", n, part=True) for n in specs(session.piece.order)])
        self.grid.setMaximumWidth(720)
        self.summary = QLabel()
        self.summary.setFont(font(20, 500))
        self.summary.setWordWrap(True)
        self.export = QPushButton("Cut list as CSV…")
        self.export.setFont(font(17, 500))
        self.export.clicked.connect(self.export_asked)
        self.bars = _Bars(session)
        area = QScrollArea()
        area.setWidget(self.bars)
        area.setWidgetResizable(True)
        row = QHBoxLayout()
        row.addWidget(self.grid, 3)
        row.addStretch(1)
        row.addWidget(self.export, 0, Qt.AlignmentFlag.AlignBottom)
        column = QVBoxLayout(self)
        column.setContentsMargins(24, 10, 24, 0)
        column.setSpacing(14)
        column.addLayout(row)
        column.addWidget(self.summary)
        column.addWidget(area, 1)
        session.refreshed.connect(self._say)
        self._say()

    def _say(self) -> None:
        m, cuts, piece = self._session.measure, self._session.answer.cuts, self._session.piece
        self.export.setEnabled(cuts is not None)
        if cuts is None:
            self.summary.setText("")
            return
        per_mm = piece.bar.area * piece.steel.density
        bars = f"{len(cuts.bars)} bar" + ("s" if len(cuts.bars) != 1 else "")
        kerf = sum(len(b.starts) for b in cuts.bars) * cuts.kerf
        self.summary.setText(
            f"Buy {bars} of {m.length(cuts.bar_length)}, {piece.bar.label(m)}: {m.mass(cuts.bought * per_mm)}. "
            f"In pieces {m.length(cuts.used)}; not in a piece {m.length(cuts.waste)}, {m.percent(cuts.waste / cuts.bought)}, "
            f"of which saw cuts {m.length(kerf)}."
        )
