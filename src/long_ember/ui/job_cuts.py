"""The cut list of a job: every bar of every section at one scale, pieces with their names, saw marks and what is left."""

from __future__ import annotations

import math
import time
from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QFontMetricsF, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QDialog, QHBoxLayout, QLabel, QScrollArea, QVBoxLayout, QWidget

from long_ember.cutting import CutPlan, fit
from long_ember.cutting import cutting as plans
from long_ember.document.jobs import BarCuts, Cutting, how_good, job_problems, saw_cuts
from long_ember.errors import EmberError
from long_ember.export import cuts_csv
from long_ember.materials import MATERIALS
from long_ember.shop import Job, Price, RackItem
from long_ember.storage import write_atomic
from long_ember.ui.bookwork import BookWork
from long_ember.ui.buttons import worded
from long_ember.ui.dialogs import explain, save_name
from long_ember.ui.fonts import font
from long_ember.ui.paint import text_box, write
from long_ember.ui.session import Session
from long_ember.ui.waiting import wait_for

__all__ = ["JobCuts", "first_plans"]

_SECONDS = 4.0  # for each section

_HEAD, _ROW, _LEFT = 62.0, 92.0, 16.0


class _Bars(QWidget):
    """Bars under the heading of their section."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.found: list[tuple[Cutting, CutPlan]] = []
        self.setAccessibleName("Bars to cut")

    def show_plans(self, found: list[tuple[Cutting, CutPlan]]) -> None:
        """Other plans."""
        self.found = found
        bars = sum(len(plan.bars) for _c, plan in found)
        self.setMinimumSize(QSize(860, int(_HEAD * max(len(found), 2) + _ROW * bars + 20)))
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Everything at one scale."""
        painter, theme, m = QPainter(self), self._session.theme, self._session.measure
        painter.fillRect(event.rect(), theme.colour("paper"))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        longest = max((plan.problem.supplies[b.supply].length for _c, plan in self.found for b in plan.bars), default=0.0)
        if not longest:
            text_box(
                painter, "No pieces in this job yet: add some beside it.", QPointF(self.width() / 2, 60), font(19), theme, role="muted"
            )
            return
        scale, y = (self.width() - 2 * _LEFT) / longest, 4.0
        for cutting, plan in self.found:
            title = f"{cutting.section.label(m)}, {MATERIALS[cutting.material].title.lower()}"
            count = f"{len(plan.bars)} bar{'s' if len(plan.bars) != 1 else ''}"
            write(painter, title, _LEFT, y + 4, font(19, 600), theme.colour("ink"))
            wide = QFontMetricsF(font(19, 600)).horizontalAdvance(title)
            write(painter, f"{count}; {how_good(plan)}", _LEFT + wide + 16, y + 8, font(15, 500), theme.colour("muted"))
            letters = {w.name: chr(65 + i % 26) for i, w in enumerate(cutting.problem.wanted)}
            told = "; ".join(f"{letters[w.name]} {w.name}, {w.quantity} of {m.length(w.length)}" for w in cutting.problem.wanted)
            write(painter, told, _LEFT, y + 30, font(15, 500), theme.colour("ink"))
            y += _HEAD
            for number, bar in enumerate(saw_cuts(plan), 1):
                self._bar(painter, number, bar, y, scale, letters)
                y += _ROW

    def _bar(self, painter: QPainter, number: int, bar: BarCuts, top: float, scale: float, letters: dict[str, str]) -> None:
        theme, m = self._session.theme, self._session.measure
        rack = bar.supply.count is not None
        rect = QRectF(_LEFT, top, bar.supply.length * scale, 38)
        painter.setBrush(Qt.BrushStyle.BDiagPattern if bar.keep else Qt.BrushStyle.Dense6Pattern)
        painter.setPen(QPen(theme.colour("muted"), 1.2, Qt.PenStyle.DashLine if rack else Qt.PenStyle.SolidLine))
        painter.drawRect(rect)
        for i, cut in enumerate(bar.cuts):
            box = QRectF(rect.left() + cut.start * scale, top, (cut.stop - cut.start) * scale, rect.height())
            painter.setBrush(theme.colour("steel" if i % 2 == 0 else "steel_alt"))
            painter.setPen(QPen(theme.colour("edge"), 1.2))
            painter.drawRect(box)
            painter.setPen(theme.colour("ink"))
            painter.setFont(font(15, 500))
            fits = QFontMetricsF(font(15, 500)).horizontalAdvance(cut.name) < box.width() - 10
            painter.drawText(box, Qt.AlignmentFlag.AlignCenter, cut.name if fits else letters[cut.name])
        end = "goes back to the rack" if bar.keep else "waste"
        words = f"{number}  {bar.supply.name}, {m.length(bar.supply.length)}: {m.length(bar.left)} left, {end}"
        write(painter, words, _LEFT, top + 40, font(15), theme.colour("muted"))
        saws = ", ".join(m.length(cut.stop, bare=True) for cut in bar.cuts)
        text = f"saw at {saws} {'mm' if m.unit == 'mm' else 'inches'} from the end, on the far side of the line"
        write(painter, QFontMetricsF(font(16, 500)).elidedText(text, Qt.TextElideMode.ElideRight, self.width() - 2 * _LEFT), _LEFT, top + 60,
              font(16, 500), theme.colour("ink"))  # fmt: skip


def first_plans(work: BookWork, job: Job) -> list[tuple[Cutting, CutPlan]]:
    """A usable plan for each material and section of a job.

    Raises:
        EmberError: a piece is gone, or is longer than any bar; the bars there are do not hold all.
    """
    library, session = work.library, work.session
    book = library.reader()
    pieces = {line.piece: book.piece(line.piece) for line in job.lines if library.entry(line.piece)}
    rack = [r for r in library.records("rack").values() if isinstance(r, RackItem)]
    prices = [p for p in library.records("price").values() if isinstance(p, Price)]
    found = job_problems(job, pieces, rack, prices, session.shop, bench=session.bench)
    return [(cutting, CutPlan(cutting.problem, fit(cutting.problem))) for cutting in found]


class JobCuts(QDialog):
    """A usable plan at once; a better one when it is asked for."""

    def __init__(self, work: BookWork, job: Job, found: list[tuple[Cutting, CutPlan]]) -> None:
        super().__init__(work.window)
        self._work, self._job = work, job
        self.setWindowTitle(f"Cut list: {job.name}")
        self.resize(1100, 700)
        self.bars = _Bars(work.session)
        area = QScrollArea()
        area.setWidget(self.bars)
        area.setWidgetResizable(True)
        told = QLabel("Dashed bars lie on the rack, the others are bought. Spares are counted in. Nothing is taken off the rack yet.")
        told.setFont(font(16))
        told.setProperty("role", "muted")
        told.setWordWrap(True)
        self.better = worded("Look for a cheaper plan", self.look, "Some seconds a section; it can be left")
        self.table = worded("As CSV…", self._ask_table, "One row a piece, lengths in mm")
        row = QHBoxLayout()
        row.addWidget(told, 1)
        for button in (self.better, self.table, worded("Close", self.accept)):
            row.addWidget(button)
        column = QVBoxLayout(self)
        column.addWidget(area, 1)
        column.addLayout(row)
        self.show_plans(found)

    @property
    def found(self) -> list[tuple[Cutting, CutPlan]]:
        """The plans that are shown."""
        return self.bars.found

    def show_plans(self, found: list[tuple[Cutting, CutPlan]]) -> None:
        """Other plans."""
        self.bars.show_plans(found)
        self.better.setEnabled(any(not plan.proven for _c, plan in found))
        self.table.setEnabled(bool(found))

    def look(self) -> None:
        """Look for cheaper plans in a thread; leaving it keeps what stands."""
        shown = list(self.found)

        def run(step: Callable[[int, int], None]) -> list[tuple[Cutting, CutPlan]]:
            made = []
            for i, (cutting, plan) in enumerate(shown):
                end = math.inf
                for better in plans(cutting.problem):
                    step(i, len(shown))
                    if better.bound and end == math.inf:  # the solver has been loaded: that alone may take seconds
                        end = time.monotonic() + _SECONDS
                    plan = better if better.money <= plan.money else plan
                    if time.monotonic() > end:
                        break
                made.append((cutting, plan))
            return made

        wait_for(self, "Looking for cheaper cuts", "Nothing cheaper was found", run, self.show_plans)

    def _ask_table(self) -> None:
        path = save_name(self, "Cut list as CSV", Path.home() / "cut-list.csv", "CSV (*.csv)")
        if path is not None:
            self.write(path)

    def write(self, path: Path) -> bool:
        """Write the plans as CSV; a refusal is explained."""
        try:
            write_atomic(path, cuts_csv(self.found))
        except EmberError as error:
            explain(self, "The cut list was not written", str(error))
            return False
        self._work.session.said.emit(f"The cut list is in {path.name}.", False)
        return True
