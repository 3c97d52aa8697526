"""The heat sheet: one row a heat with its picture, what to do with boxes to tick, and room for what really happened. A4, for the wall."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QPen

from long_ember.heats import Errand, cautions, gauges
from long_ember.ui.fonts import font
from long_ember.ui.heat_paint import paint_frame
from long_ember.ui.heat_words import band_words, frame_lines, heat_facts
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
        f"{band_words(answer)}.", 17, 500,
    )  # fmt: skip
    for index in range(len(plan.frames)):
        _row(page, session, index)
    page.y += 6
    page.text("Take care", 16, 600)
    for line in cautions(session.piece, answer.reckoning, plan):
        page.text(line.show(m), 13, indent=14)


def _row(page: Page, session: Session, index: int) -> None:
    """Number, picture, work, checks, blanks; never broken across two pages. An errand is a line with a box."""
    painter, m = page.painter, session.measure
    frame = session.answer.plan.frames[index]
    errand = isinstance(frame, Errand)
    left = _NUMBER + _PICTURE + 14 if not errand else _NUMBER
    wide = page.width - left - (_ROOM + 26 if not errand else 0)
    lines = [(line, 17 if not errand else 14, 500) for line in frame_lines(frame, m)]
    facts = []
    if not errand:
        facts = [(fact, 12, 400) for fact in heat_facts(frame, m, session.shop.kit)]
        checks = [g.line.show(m) for g in gauges(frame, session.answer.reckoning)]
        facts.extend([("Check: " + "; ".join(checks), 12, 500)] if checks else [])
    heights = [_height(text, size, weight, wide - (_TICK + 8 if size > 12 else 0)) for text, size, weight in (*lines, *facts)]
    tall = sum(heights) + 12 if errand else max(sum(heights) + 16, _LEAST)
    page.need(tall + 4)
    top = page.y
    painter.setPen(QPen(PAPER.colour("line"), 1.0))
    painter.drawLine(QPointF(0, top), QPointF(page.width, top))
    if not isinstance(frame, Errand):
        painter.setPen(PAPER.colour("ink"))
        painter.setFont(font(16 if frame.cold else 34, 700))
        painter.drawText(QRectF(0, top + 8, _NUMBER, 44), Qt.AlignmentFlag.AlignLeft, "cold" if frame.cold else str(frame.number))
        paint_frame(painter, session.answer, index, QRectF(_NUMBER, top + 8, _PICTURE, min(tall - 16, 110.0)), PAPER)
    y = top + (8 if not errand else 5)
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
    if not errand:
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
