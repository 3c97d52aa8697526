"""Cut: this piece from bought bars, or jobs from rack and shop: bars as rows at one scale, pieces with their saw marks, what is left hatched."""

from __future__ import annotations

from functools import partial
from itertools import groupby

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QBrush, QFontMetricsF, QHideEvent, QPainter, QPaintEvent, QPen, QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QScrollArea, QStackedWidget, QToolButton, QVBoxLayout, QWidget

from long_ember.cutting import CutBar, CutList
from long_ember.desk.job_desk import JobDesk
from long_ember.desk.session import Session
from long_ember.desk.turns import Portions
from long_ember.document import FieldAddress
from long_ember.fields import specs
from long_ember.records import Job
from long_ember.ui.actions.bookwork import BookWork
from long_ember.ui.cut.job_view import JobView
from long_ember.ui.drawing.paint import text_box
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import theme_of
from long_ember.ui.widgets.buttons import emptied, linked
from long_ember.ui.widgets.field_grid import FieldGrid
from long_ember.ui.widgets.sight import TabsInSight
from long_ember.units import many

__all__ = ["CutView", "PieceCuts"]

_ROW = 112


class _Bars(QWidget):
    """Equal bars are drawn once with their count."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setAccessibleName("Bars to cut")
        following = Portions(session.loop, session.turns, "cut bars")
        session.refreshed.connect(lambda: following.follow(len(session.piece.features), self._resize))
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
        painter.fillRect(event.rect(), theme_of(session).colour("paper"))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        cuts = session.answer.cuts
        if cuts is None:
            text_box(painter, session.answer.cut_problem, QPointF(self.width() / 2, 60), font(19), theme_of(session), role="muted")
            return
        for i, (bar, count) in enumerate(self.groups()):
            self._bar(painter, QRectF(110, 16 + i * _ROW, self.width() - 140, 44), cuts, bar, count)

    def _bar(self, painter: QPainter, rect: QRectF, cuts: CutList, bar: CutBar, count: int) -> None:
        session, theme, m = self._session, theme_of(self._session), self._session.measure
        scale = rect.width() / cuts.bar_length
        painter.setPen(theme.colour("ink"))
        painter.setFont(font(24, 600))
        painter.drawText(QRectF(24, rect.top(), 80, 44), Qt.AlignmentFlag.AlignVCenter, f"{count} ×")
        used = QRectF(rect.topLeft(), QPointF(rect.left() + (bar.starts[-1] + cuts.piece) * scale, rect.bottom()))
        painter.fillRect(used, theme.colour("muted"))  # saw cuts, between what lies over it
        painter.setBrush(QBrush(theme.colour("muted"), Qt.BrushStyle.BDiagPattern))  # slow to paint: only what is left
        painter.setPen(QPen(theme.colour("muted"), 1.2))
        painter.drawRect(QRectF(used.topRight(), rect.bottomRight()))
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


class PieceCuts(QWidget):
    """One piece, so many of it, from bought bars of one length.

    Signals:
        export_asked: the list is wanted as CSV.
    """

    export_asked = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.grid = FieldGrid(session, [FieldAddress("order", n, part=True) for n in specs(session.piece.order)])
        self.grid.setMaximumWidth(840)
        self.summary = QLabel()
        self.summary.setFont(font(20, 500))
        self.summary.setWordWrap(True)
        self.export = QPushButton("Cut list as CSV…")
        self.export.setFont(font(17, 500))
        self.export.clicked.connect(self.export_asked)
        self.bars = _Bars(session)
        area = QScrollArea()
        area.setWidget(self.bars)
        area.setAccessibleName("Bars of the cut list")
        area.setWidgetResizable(True)
        row = QHBoxLayout()
        row.addWidget(self.grid, 3)
        row.addStretch(1)
        row.addWidget(
            linked("Bars of the shop…", partial(session.shop_asked.emit, "bars"), "What a new piece begins with"),
            0,
            Qt.AlignmentFlag.AlignBottom,
        )
        row.addWidget(self.export, 0, Qt.AlignmentFlag.AlignBottom)
        column = QVBoxLayout(self)
        column.setContentsMargins(24, 10, 24, 0)
        column.setSpacing(14)
        column.addLayout(row)
        column.addWidget(self.summary)
        column.addWidget(area, 1)
        self._later = Portions(session.loop, session.turns, "sum of the bars")
        session.refreshed.connect(self._answered)
        self._say()

    def _answered(self) -> None:
        """Other words have the whole window laid out: a key of a large piece does not wait for that."""
        self._later.follow(len(self._session.piece.features), self._say)

    def _say(self) -> None:
        m, cuts, piece = self._session.measure, self._session.answer.cuts, self._session.piece
        self.export.setEnabled(cuts is not None)
        if cuts is None:
            self.summary.setText("")
            return
        per_mm = piece.bar.area * piece.steel.density
        kerf = sum(len(b.starts) for b in cuts.bars) * cuts.kerf
        self.summary.setText(
            f"Buy {many(len(cuts.bars), 'bar')} of {m.length(cuts.bar_length)}, {piece.bar.label(m)}: {m.mass(cuts.bought * per_mm)}. "
            f"In pieces {m.length(cuts.used)}; not in a piece {m.length(cuts.waste)}, {m.percent(cuts.waste / cuts.bought)}, "
            f"of which saw cuts {m.length(kerf)}. Sawn at {m.length(cuts.piece)}, {self._session.answer.reckoning.choice_line().show(m)}."
        )


def short(name: str, most: int = 32) -> str:
    """A name that fits on a button."""
    return name if len(name) <= most else f"{name[: most - 1].rstrip()}…"


class CutView(QWidget):
    """The sawing screen: this piece, or one or more jobs together.

    Signals:
        turned: from the piece to jobs or back, or to other jobs.
    """

    turned = Signal()

    def __init__(self, work: BookWork) -> None:
        super().__init__()
        self._work = work
        self.piece = PieceCuts(work.session)
        self.desk = JobDesk(work)
        self.jobs = JobView(self.desk)
        self.stack = QStackedWidget()
        self.stack.addWidget(self.piece)
        self.stack.addWidget(self.jobs)
        row = QWidget()
        self.head = QHBoxLayout(row)
        self.head.setContentsMargins(16, 8, 16, 0)
        self.head.setSpacing(6)
        strip = QScrollArea()  # a dozen jobs are wider than the window
        strip.setWidget(row)
        strip.setWidgetResizable(True)
        strip.setFixedHeight(58)
        strip.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        strip.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        TabsInSight(self)
        self.tabs: dict[str, QToolButton] = {}
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(strip)
        column.addWidget(self.stack, 1)
        work.library.changed.connect(self.refresh)
        work.session.refreshed.connect(self._shop_changed)
        self._tabs_renewed()

    @property
    def title(self) -> str:
        """What is cut, "" for the piece on the bench."""
        names = [job.name for i, job in self.desk.jobs.items() if i in self.desk.chosen]
        return f"Cutting for {short(' and '.join(names), 70)}" if self.on_jobs and names else ""

    @property
    def on_jobs(self) -> bool:
        """Jobs are looked at, not the piece on the bench: undo takes back what was done to the book."""
        return self.stack.currentWidget() is self.jobs

    def refresh(self) -> None:
        """What the book and the shop have now."""
        if self.isVisible():
            self._tabs_renewed()
            if self.on_jobs:
                self.desk.renew()
                self.turned.emit()  # a job may have another name now, or be gone

    def _shop_changed(self) -> None:
        """Other units, costs or a fire of another shop; while the piece is typed nothing of the book is read."""
        if self.isVisible() and self.on_jobs:
            self.desk.renew()
            self.jobs.renew()

    def show_jobs(self, ids: tuple[str, ...]) -> None:
        """Look at jobs together; none: at the piece on the bench."""
        self.desk.choose(ids)
        self.stack.setCurrentWidget(self.jobs if self.desk.chosen else self.piece)
        if not self.desk.chosen:
            self.desk.stop()
        self._check()
        self.turned.emit()

    def _tabs_renewed(self) -> None:
        """A toggle for the piece, and one for every job that is not done."""
        names = {"": "This piece", **{i: short(j.name) for i, j in self._work_jobs().items()}}
        if {key: tab.text() for key, tab in self.tabs.items()} == names:
            return
        emptied(self.head)
        self.tabs = {}
        for key, words in names.items():
            tab = self.tabs[key] = QToolButton()
            tab.setText(words)
            tab.setCheckable(True)
            tab.setFont(font(17, 500))
            tab.setMinimumHeight(38)
            tab.setToolTip("The piece on the bench alone" if not key else "Several jobs can be cut together")
            tab.clicked.connect(partial(self._pressed, key))
            self.head.addWidget(tab)
        self.head.addStretch(1)
        self._check()

    def _work_jobs(self) -> dict[str, Job]:
        jobs = self.desk.jobs
        return {i: j for i, j in jobs.items() if j.state != "done" or i in self.desk.chosen}

    def _check(self) -> None:
        for key, tab in self.tabs.items():
            tab.setChecked(key in self.desk.chosen if key else not self.on_jobs)

    def _pressed(self, key: str, _checked: bool = False) -> None:
        chosen = self.desk.chosen if self.on_jobs else ()
        if not key:
            self.show_jobs(())
        else:
            self.show_jobs(tuple(i for i in self.tabs if i and (i in chosen) != (i == key)))

    def showEvent(self, _event: QShowEvent) -> None:
        """The book may have changed while another screen was in sight."""
        self.refresh()

    def hideEvent(self, _event: QHideEvent) -> None:
        """Nobody looks: no search goes on."""
        self.desk.leave()
