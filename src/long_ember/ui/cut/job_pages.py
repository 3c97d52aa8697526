"""What to buy for jobs, and what they cost and earn."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from functools import partial

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QBrush, QFontMetricsF, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLabel, QLineEdit, QScrollArea, QVBoxLayout, QWidget

from long_ember.desk.job_desk import JobDesk
from long_ember.errors import EmberError
from long_ember.jobs.needs import amount
from long_ember.jobs.plan import JobPlan
from long_ember.jobs.quoting import Quote, about
from long_ember.records import FITTINGS, Job
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import theme_of
from long_ember.ui.widgets.buttons import worded
from long_ember.ui.widgets.entry import ChoiceBox
from long_ember.ui.widgets.model_form import ModelForm
from long_ember.units import parse_number

__all__ = ["BuyPage", "PricePage"]


def _label(text: str, size: int = 16, weight: int = 400, role: str = "", *, right: bool = False) -> QLabel:
    label = QLabel(text)
    label.setFont(font(size, weight))
    label.setTextFormat(Qt.TextFormat.PlainText)
    label.setProperty("role", role)
    label.setMinimumHeight(round(size * 1.4))  # a page that just fits does not press its lines together
    if right:
        label.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
    else:
        label.setWordWrap(True)
    return label


@contextmanager
def _filled(area: QScrollArea) -> Iterator[QVBoxLayout]:
    """A fresh column for a scroll area, which takes it when it is full: an empty one would be given no height, and press what comes into it."""
    inner = QWidget()
    column = QVBoxLayout(inner)
    column.setContentsMargins(24, 8, 24, 16)
    column.setSpacing(6)
    yield column
    column.addStretch(1)
    area.setWidget(inner)


def _table(column: QVBoxLayout, title: str, rows: Iterable[tuple[str, ...]], right: tuple[int, ...], stretch: int) -> None:
    """A heading and aligned rows; columns in `right` hold figures."""
    column.addWidget(_label(title, 19, 600))
    grid = QGridLayout()
    grid.setHorizontalSpacing(22)
    grid.setVerticalSpacing(5)
    grid.setColumnStretch(stretch, 1)
    for y, row in enumerate(rows):
        for x, text in enumerate(row):
            label = _label(text, 16, 600 if x == 0 else 400, "muted" if x > 1 and x not in right else "", right=x in right)
            label.setWordWrap(x == stretch)
            grid.addWidget(label, y, x)
    column.addLayout(grid)
    column.addSpacing(12)


class BuyPage(QScrollArea):
    """The shopping list, what comes off the rack, what to have ready."""

    def __init__(self, desk: JobDesk) -> None:
        super().__init__()
        self._desk = desk
        self.setWidgetResizable(True)
        self.setAccessibleName("To buy")

    def renew(self) -> None:
        """Another plan."""
        plan = self._desk.plan
        with _filled(self) as column:
            if plan is None:
                column.addWidget(_label(self._desk.instead or "Choose a job above.", 18, role="muted"))
            else:
                self._fill(column, plan)

    def _fill(self, column: QVBoxLayout, plan: JobPlan) -> None:
        m = self._desk.work.session.measure
        bought = plan.purchases
        buy = [(amount(p.quantity, p.unit, p.rough), p.name, p.seller or p.group, p.why, f"{p.price:,.2f}" if p.price else "no price",
                 f"{p.money:,.2f}" if p.price else "") for p in bought]  # fmt: skip
        if buy:
            _table(column, "To buy", buy, (0, 4, 5), 3)
            unpriced = sum(not p.price for p in bought)
            told = f"Together {sum(p.money for p in bought):,.2f}"
            column.addWidget(_label(f"{told}, and {unpriced} without a price" if unpriced else told, 18, 600))
            column.addSpacing(14)
        else:
            column.addWidget(_label("Nothing has to be bought.", 18, role="muted"))
        bars = plan.cut_list.bars if plan.cut_list.state == "planned" else ()
        taken = Counter((b.source, b.section, b.length) for b in bars if b.rack)
        rows = [(str(n), f"{section.label(m)}, {m.length(length)}", source) for (source, section, length), n in taken.items()]
        lying = Counter(
            (p.sheet.name, cut.thickness, p.sheet.length, p.sheet.width) for cut in plan.sheet_cuts for p in cut.plans if p.sheet.key
        )
        rows += [
            (str(n), f"Sheet {m.length(thick)}, {m.length(length)} by {m.length(width)}", name)
            for (name, thick, length, width), n in lying.items()
        ]
        if rows:
            _table(column, "Off the rack", rows, (0,), 2)
        if plan.ready:
            _table(column, "Have ready", [(f"{n.quantity:g}", n.name, f"{FITTINGS[n.kind]}; {n.why}") for n in plan.ready], (0,), 2)
        there = [n for needs in plan.needs.values() for n in needs if n.there and not n.to_buy and not n.once]
        if there:
            _table(
                column,
                "From the stores",
                [(amount(n.quantity, n.unit, n.rough), n.name, f"{n.there:g} {n.unit} there") for n in there],
                (0,),
                1,
            )


class PriceBar(QWidget):
    """The price as a bar: what goes where, the margin hatched at its end, and where break-even and the price asked fall."""

    def __init__(self, desk: JobDesk) -> None:
        super().__init__()
        self._session = desk.work.session
        self.quote: Quote | None = None
        self.setMinimumSize(QSize(500, 118))
        self.setAccessibleName("Where the price goes")

    def paintEvent(self, event: QPaintEvent) -> None:
        """Zones in their order."""
        painter, theme, q = QPainter(self), theme_of(self._session), self.quote
        painter.fillRect(event.rect(), theme.colour("paper"))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        whole = max(q.price, q.asked) if q is not None else 0.0
        if q is None or whole <= 0:
            return
        box = QRectF(24, 40, self.width() - 48, 44)
        zones = [*((c.words, c.money) for c in q.costs), ("On top", q.price - q.cost)]
        x = box.left()
        for n, (words, money) in enumerate(zones):
            wide = box.width() * money / whole
            part = QRectF(x, box.top(), wide, box.height())
            painter.setPen(QPen(theme.colour("edge"), 1.2))
            painter.setBrush(theme.colour("steel" if n % 2 == 0 else "steel_alt"))
            if n == len(zones) - 1:
                painter.setBrush(QBrush(theme.colour("muted"), Qt.BrushStyle.BDiagPattern))
            if wide > 0.5:
                painter.drawRect(part)
            for size in (15, 12):
                if QFontMetricsF(font(size, 500)).horizontalAdvance(words) < wide - 8:
                    painter.setPen(theme.colour("ink"))
                    painter.setFont(font(size, 500))
                    if n == len(zones) - 1:
                        painter.fillRect(QRectF(part.center().x() - QFontMetricsF(font(size, 500)).horizontalAdvance(words) / 2 - 4,
                                                part.center().y() - 11, QFontMetricsF(font(size, 500)).horizontalAdvance(words) + 8, 22),
                                         theme.colour("paper"))  # fmt: skip
                    painter.drawText(part, Qt.AlignmentFlag.AlignCenter, words)
                    break
            x += wide
        if q.asked > q.price:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(theme.colour("muted"), 1.2, Qt.PenStyle.DashLine))
            rest = QRectF(x, box.top(), box.right() - x, box.height())
            painter.drawRect(rest)
            painter.setFont(font(15))
            if QFontMetricsF(font(15)).horizontalAdvance("above the price reckoned") < rest.width() - 8:
                painter.drawText(rest, Qt.AlignmentFlag.AlignCenter, "above the price reckoned")
        self._mark(painter, box, box.left() + box.width() * q.spent / whole, f"break-even about {about(q.spent)}", below=True)
        if q.asked:
            self._mark(painter, box, box.left() + box.width() * q.asked / whole, f"asked {q.asked:,.2f}", below=False)

    def _mark(self, painter: QPainter, box: QRectF, x: float, words: str, *, below: bool) -> None:
        theme = theme_of(self._session)
        painter.setPen(QPen(theme.colour("accent"), 2))
        painter.setBrush(theme.colour("accent"))
        tip, base = (box.bottom() + 2, box.bottom() + 12) if below else (box.top() - 2, box.top() - 12)
        painter.drawPolygon(QPolygonF([QPointF(x, tip), QPointF(x - 7, base), QPointF(x + 7, base)]))
        painter.setPen(theme.colour("ink"))
        painter.setFont(font(15, 600))
        wide = QFontMetricsF(font(15, 600)).horizontalAdvance(words)
        left = min(max(x - wide / 2, 24), self.width() - 24 - wide)
        painter.drawText(QPointF(left, base + 16 if below else base - 4), words)


class PricePage(QWidget):
    """Costs, price, what an hour earns; prices of one, a bundle and the batch."""

    def __init__(self, desk: JobDesk) -> None:
        super().__init__()
        self._desk = desk
        self._form: ModelForm | None = None
        self._form_of = ""
        self._typing = False
        self.rise = 0.0
        self.which = ChoiceBox(desk.work.session)
        self.which.setFont(font(17))
        self.which.setAccessibleName("Job that is priced")
        self.which.activated.connect(lambda _index: self._renewed())
        self.bar = PriceBar(desk)
        self.earned = _label("", 24, 600)
        self.even = _label("", 16, role="muted")
        self.dearer = QLineEdit("0 %")
        self.dearer.setFont(font(17, 500))
        self.dearer.setMinimumHeight(36)
        self.dearer.setMaximumWidth(110)
        self.dearer.setAccessibleName("If steel becomes dearer by")
        self.dearer.textEdited.connect(self._dearer)
        self.costs = QScrollArea()
        self.costs.setWidgetResizable(True)
        self.side = QVBoxLayout()
        self.side.setContentsMargins(12, 8, 24, 8)
        self.side.setSpacing(10)
        what_if = QHBoxLayout()
        what_if.addWidget(_label("If steel becomes dearer by", 16, role="muted"), 1)
        what_if.addWidget(self.dearer)
        self.side.addWidget(self.which)
        self.side.addLayout(what_if)
        self.side.addWidget(
            worded(
                "Costs of the shop…",
                lambda: desk.work.session.shop_asked.emit("costs"),
                "What an hour of work and of fire costs, and what is put on top",
            )
        )
        self.side.addStretch(1)
        side = QWidget()
        side.setLayout(self.side)
        side.setFixedWidth(360)
        head = QVBoxLayout()
        head.setContentsMargins(24, 6, 24, 0)
        head.addWidget(self.earned)
        head.addWidget(self.even)
        row = QHBoxLayout()
        row.addWidget(self.costs, 1)
        row.addWidget(side)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addLayout(head)
        column.addWidget(self.bar)
        column.addLayout(row, 1)

    @property
    def job_id(self) -> str:
        """The job that is priced."""
        return str(self.which.currentData() or "")

    def renew(self) -> None:
        """Another plan."""
        plan, before = self._desk.plan, self.job_id
        self.which.clear()
        for job_id, job in plan.jobs.items() if plan is not None else ():
            self.which.addItem(job.name, job_id)
        self.which.setCurrentIndex(max(0, self.which.findData(before)))
        self.which.setVisible(self.which.count() > 1)
        self._renewed()

    def _renewed(self) -> None:
        plan = self._desk.plan
        job = plan.jobs.get(self.job_id) if plan is not None else None
        self.dearer.setEnabled(job is not None)
        self._renew_form(job)
        if plan is None or job is None:
            self.bar.quote = None
            self.bar.update()
            self.earned.setText("")
            self.even.setText(self._desk.instead or "Choose a job above.")
            self.costs.setWidget(QWidget())
            return
        q = plan.quote(self.job_id, rise=self.rise)
        self.bar.quote = q
        self.bar.update()
        self._say(q)
        with _filled(self.costs) as column:
            self._fill(column, plan, job, q)

    def _fill(self, column: QVBoxLayout, plan: JobPlan, job: Job, q: Quote) -> None:
        rows = [(c.words, f"{c.money:,.2f}", c.how) for c in q.costs]
        hours = f"{q.hours:.1f} h of work, between {q.least:.1f} and {q.most:.1f} h"
        rows += [("All costs", f"{q.cost:,.2f}", f"{q.spread(q.cost)}; {hours}"), ("Price", f"{q.price:,.2f}", f"{q.margin:.0%} on top")]
        _table(column, "What it costs", rows, (1,), 2)
        prices = plan.prices(self.job_id, rise=self.rise)
        head = ("Piece", "one alone", f"each of {job.bundle}", "each of this job")
        _table(column, "By the piece, with everything but joining, sheet and the job's own fittings",
               [head, *((p.name, f"{p.one:,.2f}", f"{p.bundle:,.2f}", f"{p.number} at {p.batch:,.2f}") for p in prices)], (1, 2, 3), 0)  # fmt: skip
        if q.cost:
            less, more = (abs(money / q.cost - 1) for money in q.between(q.cost))
            told = f"They stand on the hours above: {less:.0%} lower if the work goes well, {more:.0%} higher if it does not."
            column.addWidget(_label(told, 15, role="muted"))
        if plan.sawing_words:
            column.addWidget(_label(plan.sawing_words, 15, role="muted"))
        for words in q.unknown:
            column.addWidget(_label(f"Not counted: {words}.", 15, role="muted"))

    def _say(self, q: Quote) -> None:
        shop = self._desk.work.session.shop
        asked = q.asked or q.price
        if not q.hours:
            self.earned.setText(f"{asked:,.2f}")
        else:
            what = "asked" if q.asked else "as reckoned"
            low, high = about(q.hourly(asked, q.most)), about(q.hourly(asked, q.least))
            self.earned.setText(f"{asked:,.2f} {what}: an hour earns about {about(q.hourly(asked))}, between {low} and {high}")
        words = [f"Break-even is {q.spread(q.spent)}: below it the job loses money."]
        if shop.hour:
            words.append(f"Your rate of {shop.hour:,.2f} an hour is met from {q.spread(q.cost)}.")
        else:
            words.append("An hour's work has no price yet: Book, Shop, Costs.")
        self.even.setText(" ".join(words))

    def _renew_form(self, job: Job | None) -> None:
        if self._typing or (self._form is not None and job is not None and self._form.model == job and self._form_of == self.job_id):
            return
        self._form_of = self.job_id
        if self._form is not None:
            self.side.removeWidget(self._form)
            self._form.hide()
            self._form.deleteLater()
            self._form = None
        if job is not None:
            self._form = ModelForm(self._desk.work.session, job, only=("asked", "sale", "rejects", "bundle"))
            self._form.changed.connect(partial(self._changed, self.job_id))
            self.side.insertWidget(1, self._form)

    @property
    def form(self) -> ModelForm | None:
        """The job's entries that decide its price."""
        return self._form

    def _changed(self, job_id: str, job: Job) -> None:
        before = self._desk.jobs.get(job_id)
        self._typing = True
        try:
            self._desk.work.put_record(job_id, job, before)
        finally:
            self._typing = False

    def _dearer(self, text: str) -> None:
        try:
            rise = parse_number(text.strip().removesuffix("%"), example="10") / 100
            if not -1 < rise <= 10:
                raise EmberError("Steel can't become cheaper by all it costs.")
        except EmberError as error:
            self._desk.work.session.said.emit(str(error), True)
            return
        self._desk.work.session.said.emit("", False)
        self.rise = rise
        self._renewed()
