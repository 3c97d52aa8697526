"""The heat sheet: one row a heat with its picture, what to do with boxes to tick, and room for what really happened. A4, for the wall."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QPen

from long_ember.desk.session import Session
from long_ember.export.heat_words import band_words, frame_lines, heat_facts
from long_ember.heats import Errand, Frame, Heat, cautions, gauges
from long_ember.ui.drawing.heat_paint import paint_frame
from long_ember.ui.paper.printing import Page, write_pages
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import PAPER

__all__ = ["write_heat_sheet"]

_NUMBER, _PICTURE, _ROOM, _TICK = 64.0, 150.0, 108.0, 15.0  # px: heat number, picture, what happened, tick box
_LEAST = 66.0  # px, a row's height
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
        f"{session.piece.bar.label(m)}, {session.piece.steel.title.lower()}, cut {m.length(answer.reckoning.cut)}, {answer.reckoning.choice_line().show(m)}. "
        f"{band_words(answer)}.", 17, 500,
    )  # fmt: skip
    for group in _groups(plan.frames):
        _row(page, session, group)
    page.y += 6
    page.text("Take care", 16, 600)
    for line in cautions(session.piece, answer.reckoning, plan):
        page.text(line.show(m), 12, indent=14)


def _groups(frames: tuple[Frame, ...]) -> list[list[int]]:
    """Frames that share a row: the heats of one long operation."""
    found: list[list[int]] = []
    before: int | None = None
    for i, frame in enumerate(frames):
        alone = frame.work[0].step.number if isinstance(frame, Heat) and not frame.cold and len(frame.work) == 1 else None
        if alone is not None and alone == before:
            found[-1].append(i)
        else:
            found.append([i])
        before = alone
    return found


def _facts(session: Session, frame: Heat) -> list[tuple[str, int, int]]:
    """Grip, colours, window, tools, checks: as few lines as they can be read in."""
    m = session.measure
    first, *rest = heat_facts(session.answer, frame, m, session.shop.kit)
    facts = [(f"{first}. {'. '.join(rest[:-1])}.".replace("; the work", ", the work"), 12, 400), (rest[-1], 12, 400)] if rest[1:] else [
        (f"{first}. {rest[-1]}", 12, 400)
    ]  # fmt: skip
    checks = [g.line.show(m) for g in gauges(frame, session.answer.reckoning)]
    return [*facts, *([("Check: " + "; ".join(checks), 12, 500)] if checks else [])]


def _row(page: Page, session: Session, group: list[int]) -> None:
    """Number, boxes, work, checks, picture, blanks; never broken across two pages. An errand is a line with a box."""
    painter, m = page.painter, session.measure
    index = group[-1]
    frame = session.answer.plan.frames[index]
    errand = isinstance(frame, Errand)
    left = _NUMBER + (0 if errand else _PICTURE + 14)
    wide = page.width - left - (0 if errand else _ROOM + 18)
    words = [line.split(" Part ")[0] + (f" In {len(group)} heats." if len(group) > 1 else "") for line in frame_lines(frame, m)]
    ticks = min(len(group), 8)
    inset = ticks * (_TICK + 4) + 6
    lines = [(line, 14 if errand else 16, 500) for line in words]
    facts = _facts(session, frame) if isinstance(frame, Heat) else []
    heights = [_height(text, size, weight, wide - (inset if size > 12 else 0)) for text, size, weight in (*lines, *facts)]
    tall = sum(heights) + 8 if errand else max(sum(heights) + 14, _LEAST)
    page.need(tall + 4)
    top = page.y
    painter.setPen(QPen(PAPER.colour("line"), 1.0))
    painter.drawLine(QPointF(0, top), QPointF(page.width, top))
    if isinstance(frame, Heat):
        number = str(frame.number) if len(group) == 1 else f"{frame.number - len(group) + 1}\u2013{frame.number}"
        painter.setPen(PAPER.colour("ink"))
        painter.setFont(font(16 if frame.cold else 34 if len(number) < 3 else 24, 700))
        painter.drawText(QRectF(0, top + 6, _NUMBER, 44), Qt.AlignmentFlag.AlignLeft, "cold" if frame.cold else number)
        paint_frame(painter, session.answer, index, QRectF(_NUMBER, top + 6, _PICTURE, min(tall - 12, 90.0)), PAPER)
    y = top + (3 if errand else 6)
    for (text, size, weight), height in zip((*lines, *facts), heights, strict=True):
        if size > 12:
            painter.setPen(QPen(PAPER.colour("ink"), 1.4))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            for i in range(ticks):
                painter.drawRect(QRectF(left + i * (_TICK + 4), y + 3, _TICK, _TICK))
        painter.setPen(PAPER.colour("ink"))
        painter.setFont(font(size, weight))
        shift = inset if size > 12 else 0.0
        painter.drawText(QRectF(left + shift, y, wide - shift, height + 2), int(Qt.TextFlag.TextWordWrap), text)
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
