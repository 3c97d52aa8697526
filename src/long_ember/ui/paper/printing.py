"""The sheet for the wall: drawing, sum, marks, heats, cut list and cautions as a PDF on A4."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QMarginsF, QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QPageLayout, QPageSize, QPainter, QPdfWriter

from long_ember.choosing import CAUTION
from long_ember.desk.session import Session
from long_ember.document import Answer
from long_ember.errors import SaveError
from long_ember.export.heat_words import frame_title, heat_facts
from long_ember.features import feature_sum
from long_ember.heats import cautions
from long_ember.ui.drawing.paint import View, paint_figure
from long_ember.ui.drawing.scene import Scene
from long_ember.ui.drawing.tape import paint_drawn, paint_tape
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import PAPER

__all__ = ["Page", "write_pages", "write_sheet"]

_DPI = 96  # one unit of the painter is a CSS pixel, so screen sizes hold on paper
_LEADING = 1.35


class Page:
    """A cursor going down the pages."""

    def __init__(self, writer: QPdfWriter, painter: QPainter) -> None:
        self.writer, self.painter, self.y = writer, painter, 0.0
        self.width, self.height = float(writer.width()), float(writer.height())

    def need(self, height: float) -> None:
        """Begin a new page where `height` does not fit."""
        if self.y + height > self.height:
            self.writer.newPage()
            self.y = 0.0

    def text(self, text: str, size: int, weight: int = 400, indent: float = 0.0) -> None:
        """A paragraph."""
        face = font(size, weight)
        flags = int(Qt.TextFlag.TextWordWrap)
        box = QFontMetricsF(face).boundingRect(QRectF(0, 0, self.width - indent, 1e5), flags, text)
        height = max(box.height(), size * _LEADING)
        self.need(height)
        self.painter.setFont(face)
        self.painter.setPen(PAPER.colour("ink"))
        self.painter.drawText(QRectF(indent, self.y, self.width - indent, height + 2), flags, text)
        self.y += height + size * 0.25

    def picture(self, height: float, paint: Callable[[QRectF], None]) -> None:
        """A drawing across the page."""
        self.need(height)
        paint(QRectF(0, self.y, self.width, height))
        self.y += height


def write_sheet(path: Path, session: Session) -> None:
    """Write the sheet; the old file stays if that fails.

    Raises:
        SaveError: when the file can't be written.
    """
    write_pages(path, session.piece.name, lambda page: _fill(page, session))


def write_pages(path: Path, title: str, fill: Callable[[Page], None]) -> None:
    """Write a PDF on A4; the old file stays if that fails.

    Args:
        path: of the file.
        title: of the document.
        fill: paints the pages.

    Raises:
        SaveError: when the file can't be written.
    """
    try:
        handle, temporary = tempfile.mkstemp(prefix=f".{path.name}.", suffix=".part", dir=path.parent)
        os.close(handle)
    except OSError as error:
        raise SaveError(str(path), error.strerror or str(error)) from error
    try:
        _paint(temporary, title, fill)
        os.replace(temporary, path)
    except OSError as error:
        raise SaveError(str(path), error.strerror or str(error)) from error
    finally:
        Path(temporary).unlink(missing_ok=True)


def _paint(name: str, title: str, fill: Callable[[Page], None]) -> None:
    writer = QPdfWriter(name)
    writer.setResolution(_DPI)
    writer.setPageLayout(QPageLayout(QPageSize(QPageSize.PageSizeId.A4), QPageLayout.Orientation.Portrait, QMarginsF(14, 14, 14, 14),
                                     QPageLayout.Unit.Millimeter))  # fmt: skip
    writer.setTitle(title)
    painter = QPainter(writer)
    if not painter.isActive():
        raise OSError("the PDF could not be started")
    try:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        fill(Page(writer, painter))
    finally:
        painter.end()


def _fill(page: Page, session: Session) -> None:
    answer, m = session.answer, session.measure
    r = answer.reckoning
    low, high = r.band
    page.text(session.piece.name, 30, 700)
    page.text(f"{session.piece.bar.label(m)}, {session.piece.steel.title.lower()}. Cut {m.length(r.cut)}", 22, 600)
    chosen = r.choice_line().show(m)
    page.text(f"{chosen[:1].upper()}{chosen[1:]}. 9 of 10 pieces want between {m.length(low)} and {m.length(high)}; its features alone take {m.length(r.bare)}. "
              f"Finished {m.mass(r.mass)}. Heats {answer.plan.count}; 9 of 10 take {answer.plan.low} to {answer.plan.high}.", 15)  # fmt: skip
    if session.piece.note:
        page.text(session.piece.note, 15)
    page.picture(200, lambda box: paint_tape(page.painter, session, box.adjusted(30, 0, -30, 0), PAPER))
    page.picture(230, lambda box: _figure(page.painter, session, box))
    page.text(f"Marks from end {session.piece.datum}, cold", 18, 600)
    page.text("    ".join(m.length(mark.at) for mark in answer.marks), 17)
    if answer.drawn_marks:
        page.text(f"Marks on the drawn bar from end {session.piece.datum}, straight and cold", 18, 600)
        page.picture(200, lambda box: paint_drawn(page.painter, session, box.adjusted(30, 0, -30, 0), PAPER))
        page.text("    ".join(f"{m.length(mark.at)} {mark.before}" for mark in answer.drawn_marks), 17)
    _heats(page, answer, session)
    page.text("Sum", 18, 600)
    for zone in r.zones:
        for line in feature_sum(zone.feature, zone.place):
            page.text(f"{zone.feature.title}: {line.show(m)}", 13, indent=14)
    for stand in session.piece.composition.stands if session.piece.standing else ():
        for line in stand.lines:
            page.text(f"{stand.feature.title}: {line.show(m)}", 13, indent=14)
    for line in r.sum_lines():
        page.text(line.show(m), 13, indent=14)
    for zone in r.all_zones:
        if zone.feature.note:
            page.text(f"{zone.feature.title}: {zone.feature.note}", 15, indent=14)
    if session.comparison is not None and session.comparison[0] is session.piece:
        _piece, name, lines = session.comparison
        page.text(f"Compared with {name}", 18, 600)
        for line in lines:
            page.text(line.show(m), 15, indent=14)
        page.text(CAUTION, 14, indent=14)
    if answer.cuts is not None:
        page.text("Cut list", 18, 600)
        page.text(
            f"{answer.cuts.quantity} × {m.length(answer.cuts.piece)} from {len(answer.cuts.bars)} × {m.length(answer.cuts.bar_length)}", 16
        )


def _figure(painter: QPainter, session: Session, box: QRectF) -> None:
    scene = Scene(session.answer, session.measure, (box.width(), box.height()), None, "")
    view = View.fitting(scene.figure.bounds, box.adjusted(30, 20, -30, -20), most=3.0)
    paint_figure(painter, scene.figure, view, PAPER)
    painter.setPen(PAPER.colour("muted"))
    painter.setFont(font(13))
    painter.drawText(
        QPointF(box.left(), box.bottom() - 4), f"Drawn at {view.scale * 25.4 / _DPI:.2f} to 1; check with a rule before trusting it."
    )


def _heats(page: Page, answer: Answer, session: Session) -> None:
    m = session.measure
    page.text("Heats", 18, 600)
    for heat in answer.plan.heats:
        page.need(70)
        page.text(frame_title(heat), 16, 600, indent=26)
        page.painter.drawRect(QRectF(2, page.y - 21, 15, 15))
        for work in heat.work:
            page.text(work.line.show(m), 15, indent=26)
        page.text(
            ". ".join([f for f in heat_facts(answer, heat, m, session.shop.kit) if not f.startswith(("Time", "Tools"))]), 13, indent=26
        )
    page.text("Take care", 18, 600)
    for line in cautions(session.piece, answer.reckoning, answer.plan):
        page.text(line.show(m), 14, indent=14)
