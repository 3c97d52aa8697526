"""Bars and sheets with their blanks."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QBrush, QFontMetricsF, QPainter, QPen

from long_ember.cutting import SheetPlan
from long_ember.jobs.cut_layout import BarLayout
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import Theme
from long_ember.units import Measure

__all__ = ["paint_bar", "paint_sheet"]


def paint_bar(painter: QPainter, lay: BarLayout, codes: tuple[str, ...], box: QRectF, scale: float, theme: Theme, m: Measure, *,
              chosen: int = -1, lifted: int = -1) -> None:  # fmt: skip
    """A bar with its blanks, what is sawn ticked and what is left hatched."""
    painter.setBrush(QBrush(theme.colour("muted"), Qt.BrushStyle.BDiagPattern))
    painter.setPen(QPen(theme.colour("muted"), 1.2, Qt.PenStyle.DashLine if lay.bar.rack else Qt.PenStyle.SolidLine))
    painter.drawRect(box)
    for n, at in enumerate(lay.cuts):
        cut = at.cut
        part = QRectF(box.left() + at.start * scale, box.top(), max(cut.length * scale, 2.0), box.height())
        painter.setBrush(theme.colour("paper" if n == lifted else "steel" if n % 2 == 0 else "steel_alt"))
        painter.setPen(QPen(theme.colour("accent" if n == chosen else "edge"), 3.0 if n == chosen else 1.2))
        painter.drawRect(part)
        if n == lifted:
            continue
        painter.setPen(theme.colour("ink"))
        code = f"\u2713 {codes[n]}" if cut.sawn else codes[n]
        full = f"{code}  {cut.name}, {m.length(cut.length)}"
        for text, size in ((full, 15), (f"{code}  {m.length(cut.length)}", 15), (code, 15), (code, 12)):
            if QFontMetricsF(font(size, 500)).horizontalAdvance(text) < part.width() - 8:
                painter.setFont(font(size, 600 if cut.sawn else 500))
                painter.drawText(part, Qt.AlignmentFlag.AlignCenter, text)
                break


def paint_sheet(painter: QPainter, one: SheetPlan, room: QRectF, theme: Theme) -> None:
    """A sheet with its blanks; what is cut into and in no blank is hatched, the whole part left plain."""
    scale = min(room.width() / one.sheet.length, room.height() / one.sheet.width)

    def box(x: float, y: float, length: float, width: float) -> QRectF:
        return QRectF(room.left() + x * scale, room.top() + y * scale, length * scale, width * scale)

    painter.setPen(QPen(theme.colour("edge"), 1.2, Qt.PenStyle.DashLine if one.sheet.count is not None else Qt.PenStyle.SolidLine))
    painter.setBrush(theme.colour("panel"))
    painter.drawRect(box(0, 0, one.sheet.length, one.sheet.width))
    painter.setBrush(QBrush(theme.colour("muted"), Qt.BrushStyle.BDiagPattern))
    painter.drawRect(box(0, 0, one.used, one.sheet.width))
    painter.setBrush(theme.colour("steel"))
    for blank in one.blanks:
        painter.drawRect(box(blank.x, blank.y, blank.length, blank.width))
