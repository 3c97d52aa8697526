"""Jobs on paper: cut list with boxes to tick, shopping list, quote for the customer, labels for the blanks. A4."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetricsF, QPen

from long_ember.cutting import SheetPlan
from long_ember.fields import day_words
from long_ember.jobs.cut_layout import bars_of
from long_ember.jobs.needs import amount
from long_ember.jobs.plan import JobPlan
from long_ember.materials import MATERIALS
from long_ember.records import FITTINGS
from long_ember.ui.drawing.cut_bars import area_words, bar_words, paint_bar, paint_sheet, saw_words, sheet_words
from long_ember.ui.paper.printing import Page, write_pages
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import PAPER
from long_ember.units import Measure, many

__all__ = ["PAPERS", "customer_lines", "label_rows", "write_cut_list", "write_labels", "write_quote", "write_shopping"]

_COLUMNS, _ROWS = 3, 9  # of labels on a page


def _head(page: Page, plan: JobPlan, title: str) -> None:
    page.text(title, 26, 700)
    for job in plan.jobs.values():
        page.text(", ".join(w for w in (job.name, f"due {day_words(job.due)}" if job.due else "", job.note) if w), 15)
    page.y += 8


def write_cut_list(path: Path, plan: JobPlan, m: Measure) -> None:
    """The cut list bar by bar, with a box to tick for every cut.

    Raises:
        SaveError: when the file can't be written.
    """

    def fill(page: Page) -> None:
        _head(page, plan, "Cut list")
        if plan.sawing_words:
            page.text(plan.sawing_words, 15)
        longest = max((b.length for b in plan.cut_list.bars), default=1.0)
        for (material, section), numbers in bars_of(plan.cut_list).items():
            page.need(120)
            page.text(f"{section.label(m)}, {MATERIALS[material].title.lower()}: {many(len(numbers), 'bar')}", 18, 600)
            for number in numbers:
                _bar(page, plan, number, longest, m)
        for cut in plan.sheet_cuts:
            page.text(
                f"Sheet {m.length(cut.thickness)}, {MATERIALS[cut.material].title.lower()}: {area_words(cut.area, m)} in blanks, {m.percent(cut.waste)} waste",
                18,
                600,
            )
            for one in cut.plans:
                page.picture(170, partial(_sheet, page, one))
                page.text(sheet_words(one, m), 14, indent=14)
                for b in one.blanks:
                    at = f"{m.length(b.x)} along, {m.length(b.y)} across"
                    _boxes(page, [(f"{b.name}: {m.length(b.length)} by {m.length(b.width)}, at {at}", False)], 14, 14)
        page.text("Gloves off at the saw, eyes and ears covered; break the burrs. Offcuts back to the rack, marked with what they are.", 12)

    write_pages(path, "Cut list", fill)


def _sheet(page: Page, one: SheetPlan, box: QRectF) -> None:
    paint_sheet(page.painter, one, box.adjusted(14, 4, 0, -10), PAPER)


def _bar(page: Page, plan: JobPlan, number: int, longest: float, m: Measure) -> None:
    lay, codes = plan.layouts[number], plan.codes[number]
    page.need(118)
    page.text(f"Bar {number + 1}. {bar_words(lay, m)}", 14, 500)
    scale = (page.width - 4) / longest
    paint_bar(page.painter, lay, codes, QRectF(2, page.y, lay.bar.length * scale, 26), scale, PAPER, m)
    page.y += 34
    page.text(saw_words(lay, m), 13)
    _boxes(
        page,
        [(f"{code} {at.cut.name} {m.length(at.cut.length)}", at.cut.sawn) for at, code in zip(lay.cuts, codes, strict=True)],
        13,
    )
    page.y += 8


def _boxes(page: Page, items: list[tuple[str, bool]], size: int, indent: float = 0.0) -> None:
    """Boxes to tick with their words, one after the other; a line is broken between two of them."""
    tall, x = size * 1.6, indent
    face = QFontMetricsF(font(size))
    page.need(tall)
    for words, done in items:
        wide = face.horizontalAdvance(words) + size + 24
        if x > indent and x + wide > page.width:
            page.y += tall
            page.need(tall)
            x = indent
        box = QRectF(x, page.y + 2, size, size)
        page.painter.setPen(QPen(PAPER.colour("ink"), 1.2))
        page.painter.setBrush(Qt.BrushStyle.NoBrush)
        page.painter.drawRect(box)
        if done:
            page.painter.drawLine(box.topLeft(), box.bottomRight())
            page.painter.drawLine(box.topRight(), box.bottomLeft())
        page.painter.setFont(font(size))
        page.painter.drawText(QRectF(x + size + 6, page.y, page.width - x - size - 6, tall), Qt.AlignmentFlag.AlignLeft, words)
        x += wide
    page.y += tall


def write_shopping(path: Path, plan: JobPlan, _m: Measure) -> None:
    """The shopping list with boxes.

    Raises:
        SaveError: when the file can't be written.
    """

    def fill(page: Page) -> None:
        _head(page, plan, "To buy")
        for p in plan.purchases:
            money = f"   {p.money:,.2f}" if p.price else ""
            _boxes(page, [(f"{amount(p.quantity, p.unit, p.rough)} of {p.name}{money}", False)], 17)
            page.text(", ".join(w for w in (p.seller, p.why) if w), 12, indent=26)
        if not plan.purchases:
            page.text("Nothing has to be bought.", 17)
        else:
            page.text(f"Together {sum(p.money for p in plan.purchases):,.2f} for what has a price.", 17, 600)
        if plan.ready:
            page.text("Have ready", 18, 600)
            for n in plan.ready:
                _boxes(page, [(f"{n.quantity:g} of {n.name}: {FITTINGS[n.kind]} ({n.why})", False)], 14)

    write_pages(path, "To buy", fill)


def customer_lines(plan: JobPlan, job_id: str) -> list[tuple[str, int, float]]:
    """What a customer is shown: pieces with their number and their share of the price, which add up to it.

    Shares go by what each piece is sold at in this job; joining, sheet and fittings are spread over them.
    """
    q, prices = plan.quote(job_id), plan.prices(job_id)
    asked = q.asked or q.price
    weights = [p.batch * p.number for p in prices]
    if not sum(weights):
        weights = [float(p.number) for p in prices]
    shares = [round(asked * w / sum(weights), 2) for w in weights]
    if shares:
        shares[-1] = round(asked - sum(shares[:-1]), 2)
    return [(p.name, p.number, share) for p, share in zip(prices, shares, strict=True)]


def write_quote(path: Path, plan: JobPlan, m: Measure) -> None:
    """The quote for the customer: what is made and what it costs, nothing of the shop's own sums.

    Raises:
        SaveError: when the file can't be written.
    """

    def fill(page: Page) -> None:
        for n, (job_id, job) in enumerate(plan.jobs.items()):
            if n:
                page.need(page.height)
            page.text(plan.holdings.shop.name, 17, 500)
            page.text(f"Quote: {job.name}", 28, 700)
            page.text(", ".join(w for w in (f"due {day_words(job.due)}" if job.due else "", job.note) if w) or " ", 15)
            page.y += 14
            for name, number, share in customer_lines(plan, job_id):
                _money_row(page, f"{number} × {name}", share)
            for row in job.sets:
                assembly = plan.holdings.assemblies.get(row.assembly)
                if assembly is not None:
                    page.text(f"put together as {row.quantity} × {assembly.name}", 14, indent=14)
            for b in job.blanks:
                page.text(f"with {b.count} × {b.name}, {m.length(b.length)} by {m.length(b.width)}", 14, indent=14)
            for f in job.fittings:
                page.text(f"with {amount(f.quantity, f.unit, False)} {f.name}", 14, indent=14)
            q = plan.quote(job_id)
            page.y += 6
            page.painter.setPen(QPen(PAPER.colour("ink"), 1.4))
            page.painter.drawLine(QPointF(0, page.y), QPointF(page.width, page.y))
            page.y += 6
            _money_row(page, "Together", q.asked or q.price, 20, 700)
            page.y += 30
            page.text("Forged by hand: sizes differ a little from piece to piece. What people climb on, hang from or lean on is made to the local rules, "
                      "and checked by whoever is licensed to.", 12)  # fmt: skip

    write_pages(path, "Quote", fill)


def _money_row(page: Page, words: str, money: float, size: int = 17, weight: int = 500) -> None:
    page.need(size * 2)
    top = page.y
    page.text(words, size, weight)
    page.painter.setFont(font(size, weight))
    page.painter.drawText(QRectF(0, top, page.width, size * 1.5), int(Qt.AlignmentFlag.AlignRight), f"{money:,.2f}")


def label_rows(plan: JobPlan, m: Measure) -> list[tuple[str, str, str, str, str]]:
    """A label for every blank of bar and of sheet: short name, size, what it is, of what, for which job."""
    rows = []
    for number, (lay, codes) in enumerate(zip(plan.layouts, plan.codes, strict=True), 1):
        bar = lay.bar
        of = f"{bar.section.label(m)}, {MATERIALS[bar.material].title.lower()}, bar {number}"
        for at, code in zip(lay.cuts, codes, strict=True):
            job = plan.jobs[at.cut.job].name if at.cut.job in plan.jobs else ""
            rows.append((code, m.length(at.cut.length), at.cut.name, of, job))
    blanks = [(cut, b) for cut in plan.sheet_cuts for one in cut.plans for b in one.blanks]
    for number, (cut, b) in enumerate(blanks, 1):
        of = f"sheet {m.length(cut.thickness)}, {MATERIALS[cut.material].title.lower()}"
        rows.append(
            (f"{number}", f"{m.length(b.length)} by {m.length(b.width)}", b.name, of, " and ".join(job.name for job in plan.jobs.values()))
        )
    return rows


def write_labels(path: Path, plan: JobPlan, m: Measure) -> None:
    """A label for every blank: its short name large, its size, what it is, of what, for which job.

    Raises:
        SaveError: when the file can't be written.
    """

    def fill(page: Page) -> None:
        wide, tall = page.width / _COLUMNS, page.height / _ROWS
        for n, (code, size, name, of, job) in enumerate(label_rows(plan, m)):
            place = n % (_COLUMNS * _ROWS)
            if n and not place:
                page.writer.newPage()
            box = QRectF(place % _COLUMNS * wide, place // _COLUMNS * tall, wide, tall).adjusted(3, 3, -3, -3)
            page.painter.setPen(QPen(PAPER.colour("line"), 0.8, Qt.PenStyle.DashLine))
            page.painter.drawRect(box)
            page.painter.setPen(PAPER.colour("ink"))
            page.painter.setFont(font(30, 700))
            page.painter.drawText(box.adjusted(10, 6, 0, 0), Qt.AlignmentFlag.AlignLeft, code)
            page.painter.setFont(font(20 if len(size) < 12 else 15, 600))
            page.painter.drawText(box.adjusted(0, 10, -10, 0), Qt.AlignmentFlag.AlignRight, size)
            for line, (text, high) in enumerate(((name, 15), (of, 12), (job, 12))):
                page.painter.setFont(font(high, 600 if line == 0 else 400))
                short = QFontMetricsF(font(high)).elidedText(text, Qt.TextElideMode.ElideRight, wide - 26)
                page.painter.drawText(box.adjusted(10, 46 + line * 20, -8, 0), Qt.AlignmentFlag.AlignLeft, short)

    write_pages(path, "Labels", fill)


# key: what it is, as a heading and as a file's name.
PAPERS = {
    "cuts": ("Cut list as PDF", "cut-list", write_cut_list),
    "labels": ("Labels for the blanks as PDF", "labels", write_labels),
    "shopping": ("Shopping list as PDF", "to-buy", write_shopping),
    "quote": ("Quote for the customer as PDF", "quote", write_quote),
}
