"""Stock: candidate bars as cross-sections of their true size, what the piece asks of them, and the cut length in doubt."""

from __future__ import annotations

import math
from collections.abc import Generator
from functools import partial

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QBrush, QHideEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap, QPolygonF, QShowEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QScrollArea, QToolButton, QVBoxLayout, QWidget

from long_ember.choosing import Candidate, candidate_bars, chance_words, in_hand, mass_per_metre, preferred, profiled, ranked
from long_ember.desk.turns import Portions
from long_ember.document import quick_answering, set_bar
from long_ember.errors import EmberError
from long_ember.materials import MATERIALS
from long_ember.portions import all_portions
from long_ember.records import RECORDS
from long_ember.stock import reckon
from long_ember.ui.actions.bookwork import BookWork
from long_ember.ui.drawing.paint import text_box, write
from long_ember.ui.drawing.section_paint import paint_section
from long_ember.ui.stock.doubt_panel import DoubtPanel
from long_ember.ui.stock.weigh_panel import WeighPanel
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import theme_of
from long_ember.ui.widgets.buttons import linked, worded

__all__ = ["StockView"]

_WIDE, _HIGH, _GAP = 232, 286, 10
_ROOM = 60  # px for the section itself
_LEVEL, _STRIP = 15.0, 32.0  # px: half the bar in the small picture of the piece, and the most that is drawn of what is heavier
_MOST = 40  # cards; nobody looks at the two hundredth bar


class _Bars(QWidget):
    """The candidates in a row, best first; arrows choose, Enter takes."""

    chosen = Signal(int)
    taken = Signal()

    def __init__(self, work: BookWork) -> None:
        super().__init__()
        self._session = work.session
        self.candidates: tuple[Candidate, ...] = ()
        self.steps: tuple[tuple[float, float, float], ...] = ()
        self.current = 0
        self.exact = ""  # figures of the chosen one, reckoned in full
        self._reckoned: dict[int, str] = {}
        self._waiting: list[int] = []
        self._next = QTimer(self, singleShot=True, interval=0)
        self._reckoning = Portions(work.session.loop, work.session.turns, "figures of bars")
        self._next.timeout.connect(self._reckon_next)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Bars to choose from, best first")
        self.setToolTip(
            "Under each bar the piece along its length: what stays under the dashed line is drawn from the bar, what stands above it must be upset"
        )
        self._cards: dict[int, QPixmap] = {}
        self._session.restyled.connect(self._restyle)

    def _restyle(self) -> None:
        self._cards.clear()
        self.update()

    def offer(self, candidates: tuple[Candidate, ...], steps: tuple[tuple[float, float, float], ...]) -> None:
        """Replace the row; the same bar stays chosen."""
        self.leave()
        before = self.candidates[self.current].source.section if self.current < len(self.candidates) else None
        self.candidates, self.steps = candidates, steps
        self._reckoned.clear()
        self._waiting.clear()
        self._cards.clear()
        self.current = next((i for i, c in enumerate(candidates) if c.source.section == before), 0)
        self.setMinimumSize(QSize(len(candidates) * (_WIDE + _GAP) + _GAP, _HIGH))

    def painted(self) -> Generator[None, None, None]:
        """Paint the cards in sight, one a portion."""
        seen = QRectF(self.visibleRegion().boundingRect())
        for index in range(len(self.candidates)):
            if self.box(index).intersects(seen):
                self._card(index)
                yield
        self.update()

    def renew(self, index: int) -> None:
        """A card says something else."""
        self._cards.pop(index, None)
        self.update(self.box(index).toAlignedRect())

    def _card(self, index: int) -> QPixmap:
        """A card as it is painted once, until it says something else."""
        if index not in self._cards:
            box, ratio = self.box(index), self.devicePixelRatioF()
            made = QPixmap((box.size() * ratio).toSize())
            made.setDevicePixelRatio(ratio)
            made.fill(theme_of(self._session).colour("paper"))
            painter = QPainter(made)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.translate(-box.topLeft())
            self._paint_card(painter, index, self.candidates[index], self.scale)
            painter.end()
            self._cards[index] = made
        return self._cards[index]

    def box(self, index: int) -> QRectF:
        """Where a card stands, px."""
        return QRectF(_GAP + index * (_WIDE + _GAP), 2, _WIDE, _HIGH - 6)

    @property
    def scale(self) -> float:
        """px per mm: true size on this screen, smaller where the largest bar would not fit."""
        true = self.physicalDpiX() / 25.4
        largest = max((max(c.source.section.width, c.source.section.thickness) for c in self.candidates[:12]), default=1.0)
        return min(
            true, _ROOM * 1.7 / largest, _ROOM / max(max((c.source.section.thickness for c in self.candidates[:12]), default=1.0), 1.0)
        )

    def choose(self, index: int) -> None:
        """Choose one and bring it into sight."""
        if 0 <= index < len(self.candidates):
            before, self.current = self.current, index
            self.chosen.emit(index)
            for card in (before, index):
                self.renew(card)

    def taking(self, index: int) -> QRectF:
        """Where a card's own button stands, px."""
        box = self.box(index)
        return QRectF(box.right() - 100, box.bottom() - 38, 90, 30)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Choose; on the card's button take it at once."""
        index = int((event.position().x() - _GAP / 2) // (_WIDE + _GAP))
        self.choose(index)
        if index < len(self.candidates) and self.taking(index).contains(event.position()):
            self.taken.emit()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """Take it."""
        self.taken.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Choose and take."""
        step = {Qt.Key.Key_Right: 1, Qt.Key.Key_Left: -1}.get(Qt.Key(event.key()), 0)
        if step:
            self.choose(self.current + step)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.taken.emit()
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Only the cards in sight."""
        painter, theme = QPainter(self), theme_of(self._session)
        painter.fillRect(event.rect(), theme.colour("paper"))
        for i in range(len(self.candidates)):
            if self.box(i).intersects(QRectF(event.rect())):
                painter.drawPixmap(self.box(i).topLeft(), self._card(i))

    def _paint_card(self, painter: QPainter, index: int, c: Candidate, scale: float) -> None:
        theme, m, box = theme_of(self._session), self._session.measure, self.box(index)
        here, present = index == self.current, c.source.section == self._session.piece.bar
        painter.setPen(QPen(theme.colour("accent" if here else "line"), 2.5 if here else 1.0))
        painter.setBrush(theme.colour("panel"))
        painter.drawRoundedRect(box.adjusted(1, 1, -1, -1), 7, 7)
        middle = QPointF(box.center().x(), box.top() + 14 + _ROOM / 2)
        paint_section(painter, c.source.section, middle, scale, theme)
        if c.critical is not None:  # what is asked of it, dashed over the steel that is there
            w, t = c.critical.width * scale, c.critical.thickness * scale
            painter.setPen(QPen(theme.colour("accent"), 1.8, Qt.PenStyle.DashLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(middle.x() - w / 2, middle.y() - t / 2, w, t))
            write(painter, f"{c.critical.title}: {chance_words(c.chance)}", box.left() + 12, box.top() + 4, font(14), theme.colour("muted"))
        self._paint_profile(painter, QRectF(box.left() + 14, box.top() + _ROOM + 22, box.width() - 28, _STRIP), c)
        x, y = box.left() + 14, box.top() + _ROOM + _STRIP + 28
        write(painter, c.source.section.label(m), x, y, font(18, 600), theme.colour("ink"))
        per_metre = mass_per_metre(c.source.section, MATERIALS[c.source.material].density)
        place = "the present bar" if present else f"on the rack: {c.on_rack}" if c.on_rack else "to buy"
        write(painter, f"{m.line_mass(per_metre)}, {place}", x, y + 25, font(14), theme.colour("muted"))
        figures = self.exact if here and self.exact else self._figures(index, c)
        write(painter, figures, x, y + 45, font(14, 600) if here else font(13, 500), theme.colour("ink"))
        if not present:
            painter.setPen(QPen(theme.colour("accent"), 1.2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(self.taking(index), 6, 6)
            text_box(painter, "Take it", self.taking(index).center(), font(15, 600), theme, role="accent", back=False)
        if c.cost is not None:
            write(painter, f"costs {c.cost:,.2f}", x, self.taking(index).top() + 5, font(15, 500), theme.colour("ink"))
        painter.setFont(font(14))
        painter.setPen(theme.colour("ink"))
        words = "; ".join([w for w in c.why if not w.startswith(("on the rack", "to buy"))][:3]) or "serves as it is"
        flags = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop | Qt.TextFlag.TextWordWrap
        painter.drawText(QRectF(x, y + 67, box.width() - 24, 68), flags, words[:1].upper() + words[1:] + ".")

    def _figures(self, index: int, c: Candidate) -> str:
        """Bare length, mass and waste of a bar in sight; as the ranking has them, until the bar has been reckoned in full."""
        if index not in self._reckoned:
            self._waiting.append(index)
            self._next.start()
        m = self._session.measure
        return self._reckoned.get(index) or f"features {m.length(c.cut)}, {m.mass(c.mass)}, {c.waste:.0%} waste"

    def leave(self) -> None:
        """Nobody looks, or the piece is another: no bar is reckoned any more."""
        self._next.stop()
        self._reckoning.leave()

    def _reckon_next(self) -> None:
        """Bars in sight, in portions: a piece of forty features takes a while on each."""
        self._reckoning.start(self._in_full())

    def _in_full(self) -> Generator[None, None, None]:
        session, m = self._session, self._session.measure
        while self._waiting:
            index = self._waiting[0]  # it waits until it is done: whoever begins anew begins with it
            if index not in self._reckoned and index < len(self.candidates):
                c = self.candidates[index]
                try:
                    made = c.piece(session.piece)
                    yield
                    found = reckon(made, doubts=False)
                    self._reckoned[index] = f"features {m.length(found.bare)}, {m.mass(found.mass)}, {c.waste:.0%} waste"
                except EmberError:
                    self._reckoned[index] = "it can't be made of this bar"
                self.renew(index)
                yield
            self._waiting.pop(0)

    def _paint_profile(self, painter: QPainter, box: QRectF, c: Candidate) -> None:
        """The piece along its length: sizes against the bar's own, what is heavier than it hatched."""
        theme, length = theme_of(self._session), sum(step[0] for step in self.steps)
        if length <= 0:
            return
        area, x = c.source.section.area, box.left()
        outline = QPolygonF([QPointF(x, box.bottom())])
        for long, start, end in self.steps:
            for share, at in ((start, x), (end, x + long / length * box.width())):
                tall = _LEVEL * (1.0 if math.isnan(share) else math.sqrt(share / area))
                outline.append(QPointF(at, box.bottom() - min(tall, _STRIP)))
            x += long / length * box.width()
        outline.append(QPointF(x, box.bottom()))
        painter.setPen(QPen(theme.colour("edge"), 1.0))
        painter.setBrush(theme.colour("steel"))
        painter.drawPolygon(outline)
        level = box.bottom() - _LEVEL
        painter.setClipRect(QRectF(box.left(), box.top() - 4, box.width(), level - box.top() + 4))
        painter.setBrush(QBrush(theme.colour("accent"), Qt.BrushStyle.Dense4Pattern))
        painter.drawPolygon(outline)
        painter.setClipping(False)
        painter.setPen(QPen(theme.colour("accent"), 1.4, Qt.PenStyle.DashLine))
        painter.drawLine(QPointF(box.left(), level), QPointF(box.right(), level))


class StockView(QWidget):
    """Which bar, how much of it, how heavy it becomes."""

    def __init__(self, work: BookWork) -> None:
        super().__init__()
        self._work, self._session = work, work.session
        self.bars = _Bars(work)
        area = QScrollArea()
        area.setWidget(self.bars)
        area.setWidgetResizable(True)
        area.setFixedHeight(_HIGH + 14)
        area.setFocusPolicy(Qt.FocusPolicy.NoFocus)  # its bars have the keys
        area.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self._area = area
        self.only_rack = QToolButton()
        self.only_rack.setText("Only what is on the rack")
        self.only_rack.setCheckable(True)
        self.only_rack.setToolTip("Bars that lie there already, offcuts among them")
        self.only_rack.setFont(font(16, 500))
        self.only_rack.setMinimumHeight(38)
        self.only_rack.toggled.connect(self.refresh)
        self.take_button = worded("Take this bar", self.take, "Enter, or a double click on it; Ctrl+Z brings the old bar back", weight=600)
        self.trial_button = worded(
            "Test piece…",
            self._ask_trial,
            "A small plan of what is in doubt, of the present bar and the chosen one; what it measures makes this piece surer",
        )
        self.scale_button = worded("Scale the design…", work.ask_scale, "Every size in proportion, to another bar, length or weight")
        self.told = QLabel()
        self.told.setFont(font(16, 500))
        self.told.setMinimumHeight(42)
        self.told.setWordWrap(True)
        self.told.setMinimumWidth(120)
        self._said = ""
        head = QHBoxLayout()
        head.setContentsMargins(16, 4, 16, 0)
        head.addWidget(self.told, 1)
        head.addWidget(
            linked(
                "Bars of the shop…",
                partial(self._session.shop_asked.emit, "bars"),
                "Which sizes are looked through, and how long they are bought",
            )
        )
        for button in (self.only_rack, self.trial_button, self.scale_button, self.take_button):
            head.addWidget(button)
        self.doubt = DoubtPanel(self._session)
        self.weigh = WeighPanel(work)
        below = QHBoxLayout()
        below.setContentsMargins(16, 6, 16, 4)
        below.setSpacing(20)
        sure = QScrollArea()  # on a low screen it scrolls, rather than let the window grow beyond it
        sure.setWidget(self.doubt)
        sure.setWidgetResizable(True)
        sure.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        sure.setFrameShape(QScrollArea.Shape.NoFrame)
        sure.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        below.addWidget(sure, 5)
        aside = QScrollArea()  # a long comparison scrolls rather than be cut off
        aside.setWidget(self.weigh)
        aside.setWidgetResizable(True)
        aside.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        aside.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        below.addWidget(aside, 4)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(head)
        column.addWidget(area)
        column.addLayout(below, 1)
        self.bars.chosen.connect(self._look)
        self.bars.taken.connect(self.take)
        self._rest = QTimer(self, singleShot=True, interval=120)
        self._rest.timeout.connect(self._begin)
        self._ranking = Portions(self._session.loop, self._session.turns, "bars")
        self._session.refreshed.connect(self._soon)
        work.library.changed.connect(self._soon)

    def _soon(self) -> None:
        """The drawing and the cut length follow every key; bars are ranked once the hands rest."""
        self._leave()
        if self.isVisible():
            self._rest.start()

    def _leave(self) -> None:
        self._rest.stop()
        self._ranking.leave()
        self.bars.leave()
        self.weigh.leave()

    def _begin(self) -> None:
        self._ranking.start(self._in_parts())

    def showEvent(self, event: QShowEvent) -> None:
        """The piece may have changed while another screen was in sight."""
        self.refresh()
        self.bars.setFocus()

    def hideEvent(self, event: QHideEvent) -> None:
        """Out of sight nothing is ranked."""
        self._leave()
        super().hideEvent(event)

    def refresh(self) -> None:
        """Rank the bars anew."""
        self._leave()
        all_portions(self._in_parts())

    def _in_parts(self) -> Generator[None, None, None]:
        """The same, a part at a time."""
        if not self.isVisible():
            return
        session, library = self._session, self._work.library
        records = {kind: list(library.records(RECORDS[kind]).values()) for kind in ("rack", "price")}
        bars, reckoning = candidate_bars(records, session.piece, session.shop.offered), session.answer.reckoning
        found = yield from ranked(
            session.piece, bars, on_rack=self.only_rack.isChecked(), beyond=reckoning.chosen - reckoning.bare, belief=session.forge.lengths
        )
        yield
        profile = (yield from profiled(session.piece)) if session.piece.features else ()
        yield
        self.bars.offer(found[:_MOST], profile)
        yield from self.bars.painted()
        if not session.piece.features:
            self._said = "Add a feature first: then every bar can say how it would serve."
        elif not found:
            self._said = "Nothing on the rack is long enough. Take the filter off to see what could be bought."
        else:
            self._said = (
                preferred(found, session.piece.bar, session.measure)
                if len(found) > 1
                else f"One bar to choose from.{in_hand(found[0] if found else None, session.measure)}"
            )
        yield
        yield from self._looked_at(self.bars.current)
        yield
        self.doubt.refresh()
        yield
        self.weigh.refresh()

    def _look(self, index: int) -> None:
        all_portions(self._looked_at(index))

    def _looked_at(self, index: int) -> Generator[None, None, None]:
        """What comes of the bar that is looked at, reckoned in full."""
        session, m, candidates = self._session, self._session.measure, self.bars.candidates
        here = index < len(candidates) and candidates[index].source.section == session.piece.bar
        self.take_button.setEnabled(index < len(candidates) and not here)
        self.bars.exact, fault = "", ""
        if index < len(candidates) and session.piece.features:
            looked = candidates[index]
            try:
                found = session.answer
                if not here:
                    made = looked.piece(session.piece)
                    yield
                    order = session.answer.plan.order
                    found = yield from quick_answering(made, ruler=session.shop.division, forge=session.forge, order=order)
                self.bars.exact = f"cut {m.length(found.reckoning.cut)}, {found.plan.count} heats, {looked.waste:.0%} waste"
            except EmberError as error:
                fault = f"Of {looked.source.section.label(m)} it can't be made: {error}"
        self.told.setText(fault or self._said)
        self.bars.renew(index)
        box = self.bars.box(index)
        self._area.ensureVisible(round(box.center().x()), 10, _WIDE, 0)

    def take(self) -> None:
        """Make the piece of the chosen bar; what can't be is explained and nothing changes."""
        if self.bars.current < len(self.bars.candidates):
            source = self.bars.candidates[self.bars.current].source
            self._session.attempt(set_bar, source.section, source.material)

    def _ask_trial(self) -> None:
        """Of the present bar, and of the chosen or else the best other one."""
        own = self._session.piece.bar
        rows = self.bars.candidates[self.bars.current : self.bars.current + 1] + self.bars.candidates
        other = next((c.source.section for c in rows if c.source.section != own), None)
        self._work.ask_trial([own, other] if other is not None else [own])
