"""The heat sheet: one row a heat with its picture, what to do with boxes to tick, and room for what really happened. A4, for the wall."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QPen

from long_ember.heats import Heat, cautions
from long_ember.ui.fonts import font
from long_ember.ui.heat_paint import paint_stage, stage_figure
from long_ember.ui.heats_view import heat_facts, portion
from long_ember.ui.printing import Page, write_pages
from long_ember.ui.session import Session
from long_ember.ui.theme import PAPER

__all__ = ["write_heat_sheet"]

_NUMBER, _PICTURE, _ROOM, _TICK = 58.0, 186.0, 112.0, 15.0  # px: heat number, picture, what happened, tick box
_LEAST = 92.0  # px, a row's height
_BLANKS = ("heats", "minutes", "came out")


def write_heat_sheet(path: Path, session: Session) -> None:
    """Write the sheet; the old file stays if that fails.

    Raises:
        SaveError: when the file can't be written.
    """
    write_pages(path, f"{session.piece.name}: heats", lambda page: _fill(page, session))


def _fill(page: Page, session: Session) -> None:
    answer, m = session.answer, session.measure
    plan = answer.plan
    page.text(session.piece.name, 26, 700)
    page.text(
        f"{session.piece.bar.label(m)}, {session.piece.steel.title.lower()}, cut {m.length(answer.reckoning.cut)}. "
        f"{plan.count} heats, rough: {plan.low} to {plan.high}.", 17, 500,
    )  # fmt: skip
    for heat in plan.heats:
        _row(page, session, heat)
    page.y += 6
    page.text("Take care", 16, 600)
    for line in cautions(session.piece, answer.reckoning, plan):
        page.text(line.show(m), 13, indent=14)


def _row(page: Page, session: Session, heat: Heat) -> None:
    """Number, picture, work, blanks; never broken across two pages."""
    painter, m = page.painter, session.measure
    left = _NUMBER + _PICTURE + 14
    wide = page.width - left - _ROOM - 26
    lines = [(w.step.operation.line.show(m) + portion(w.start, w.stop), 17, 500) for w in heat.work]
    facts = [(fact, 12, 400) for fact in heat_facts(heat, m, session.shop.kit)]
    heights = [_height(text, size, weight, wide - (_TICK + 8 if size > 12 else 0)) for text, size, weight in (*lines, *facts)]
    tall = max(sum(heights) + 16, _LEAST)
    page.need(tall + 4)
    top = page.y
    painter.setPen(QPen(PAPER.colour("line"), 1.0))
    painter.drawLine(QPointF(0, top), QPointF(page.width, top))
    painter.setPen(PAPER.colour("ink"))
    painter.setFont(font(16 if heat.cold else 34, 700))
    painter.drawText(QRectF(0, top + 8, _NUMBER, 44), Qt.AlignmentFlag.AlignLeft, "cold" if heat.cold else str(heat.number))
    box = QRectF(_NUMBER, top + 8, _PICTURE, min(tall - 16, 110.0))
    paint_stage(painter, session.answer, stage_figure(session.answer, heat.after), heat, box, PAPER)
    y = top + 8
    for (text, size, weight), height in zip((*lines, *facts), heights, strict=True):
        inset = 0.0
        if size > 12:
            inset = _TICK + 8
            painter.setPen(QPen(PAPER.colour("ink"), 1.4))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(left, y + 3, _TICK, _TICK))
        painter.setPen(PAPER.colour("ink"))
        painter.setFont(font(size, weight))
        painter.drawText(QRectF(left + inset, y, wide - inset, height + 2), int(Qt.TextFlag.TextWordWrap), text)
        y += height
    _blanks(page, top, tall)
    page.y = top + tall


def _blanks(page: Page, top: float, tall: float) -> None:
    """Lines to write on: what the heat really took."""
    painter, x = page.painter, page.width - _ROOM
    step = (tall - 12) / len(_BLANKS)
    painter.setFont(font(11))
    for i, words in enumerate(_BLANKS):
        base = top + 6 + (i + 1) * step - 4
        painter.setPen(PAPER.colour("muted"))
        painter.drawText(QRectF(x, base - 15, 52, 16), Qt.AlignmentFlag.AlignLeft, words)
        painter.setPen(QPen(PAPER.colour("ink"), 0.8))
        painter.drawLine(QPointF(x + 54, base), QPointF(page.width, base))


def _height(text: str, size: int, weight: int, wide: float) -> float:
    box = QFontMetricsF(font(size, weight)).boundingRect(QRectF(0, 0, wide, 1e5), int(Qt.TextFlag.TextWordWrap), text)
    return max(box.height(), size * 1.3) + 3
