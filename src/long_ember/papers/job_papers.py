"""Papers about jobs: cut list with boxes to tick, labels for the blanks, what to buy, the quote for the customer."""

from __future__ import annotations

from long_ember.fields import day_words
from long_ember.jobs.cut_layout import bars_of
from long_ember.jobs.needs import amount
from long_ember.jobs.plan import JobPlan
from long_ember.jobs.words import area_words, bar_words, saw_words, sheet_words
from long_ember.materials import MATERIALS
from long_ember.papers.flow import Flow
from long_ember.papers.ink import GREY, Lettering, PaperSize, Printed, box, line
from long_ember.papers.letters import fitted, width
from long_ember.papers.pictures import bar_picture, sheet_picture
from long_ember.papers.subject import Choices, Subject
from long_ember.records import FITTINGS
from long_ember.units import Measure, many

__all__ = ["customer_lines", "cut_sheet", "label_rows", "labels", "quote_paper", "shopping"]

_COLUMNS, _ROWS = 3, 9  # of labels on a page


def _head(flow: Flow, plan: JobPlan, title: str) -> None:
    flow.title(title)
    for job in plan.jobs.values():
        flow.text(", ".join(w for w in (job.name, f"due {day_words(job.due)}" if job.due else "", job.note) if w), 11)


def cut_sheet(s: Subject, size: PaperSize, c: Choices) -> Printed:
    """The cut list bar by bar, with a box to tick for every cut; of a piece alone its own bars."""
    m, flow = s.measure, Flow(size, s.head("Cut list"))
    if s.plan is None:
        return _cuts_of_piece(s, flow)
    plan = s.planned
    _head(flow, plan, "Cut list")
    if plan.sawing_words:
        flow.text(plan.sawing_words)
    longest = max((b.length for b in plan.cut_list.bars), default=1.0)
    for (material, section), numbers in bars_of(plan.cut_list).items():
        flow.heading(f"{section.label(m)}, {MATERIALS[material].title.lower()}: {many(len(numbers), 'bar')}", 40)
        for number in numbers:
            lay, codes = plan.layouts[number], plan.codes[number]
            made = flow.block().text(f"Bar {number + 1}. {bar_words(lay, m)}", 10, 500)
            if c["pictures"] == "yes":
                made.space(1).draw(bar_picture(lay, codes, flow.room, longest, m), height=9)
            made.text(saw_words(lay, m), 9)
            flow.put(
                made.ticks(
                    [(f"{code} {at.cut.name} {m.length(at.cut.length)}", at.cut.sawn) for at, code in zip(lay.cuts, codes, strict=True)],
                    9.5,
                ),
                3,
            )
    for cut in plan.sheet_cuts:
        flow.heading(
            f"Sheet {m.length(cut.thickness)}, {MATERIALS[cut.material].title.lower()}: {area_words(cut.area, m)} in blanks, {m.percent(cut.waste)} waste",
            60,
        )
        for one in cut.plans:
            ink, tall = sheet_picture(one, flow.room, 60)
            made = flow.block().draw(ink, height=tall + 1).text(sheet_words(one, m), 9.5, x=4)
            for b in one.blanks:
                made.ticks(
                    [(f"{b.name}: {m.length(b.length)} by {m.length(b.width)}, at {m.length(b.x)} along, {m.length(b.y)} across", False)],
                    9.5,
                    4,
                )
            flow.put(made, 3)
    flow.text("Gloves off at the saw, eyes and ears covered; break the burrs. Offcuts back to the rack, marked with what they are.", 9)
    return flow.printed()


def _cuts_of_piece(s: Subject, flow: Flow) -> Printed:
    answer, m = s.made, s.measure
    flow.title(f"{answer.piece.name}: cut list")
    cuts = answer.cuts
    if cuts is None:
        flow.text(answer.cut_problem, 12)
        return flow.printed()
    flow.text(f"{answer.piece.bar.label(m)}, {answer.piece.steel.title.lower()}: {cuts.quantity} × {m.length(cuts.piece)}, {answer.reckoning.choice_line().show(m)}, "
              f"from {many(len(cuts.bars), 'bar')} of {m.length(cuts.bar_length)}", 11, 500)  # fmt: skip
    for number, bar in enumerate(cuts.bars, 1):
        # Where the saw cuts, on the far side of each line.
        edges = [start + long for start, long in zip(bar.starts, bar.lengths, strict=True)]
        scale = flow.room / cuts.bar_length
        ink = [box(0, 0, flow.room, 8, 0.3), *(line(at * scale, 0, at * scale, 8, 0.4) for at in edges)]
        made = (
            flow.block()
            .text(f"Bar {number}: {many(len(bar.lengths), 'piece')}, {m.length(bar.remnant)} left", 10, 500)
            .space(1)
            .draw(list(ink), height=9)
        )
        flow.put(made.ticks([(m.length(at), False) for at in edges], 9.5), 3)
    flow.text("Saw at these lengths from one end, on the far side of the line. Eyes and ears covered; break the burrs.", 9)
    return flow.printed()


def shopping(s: Subject, size: PaperSize, _c: Choices) -> Printed:
    """The shopping list with boxes."""
    plan, flow = s.planned, Flow(size, s.head("To buy"))
    _head(flow, plan, "To buy")
    for p in plan.purchases:
        money = f"   {p.money:,.2f}" if p.price else ""
        made = flow.block().ticks([(f"{amount(p.quantity, p.unit, p.rough)} of {p.name}{money}", False)], 12)
        flow.put(made.text(", ".join(w for w in (p.seller, p.why) if w), 9, x=7, colour=GREY), 1.5)
    if not plan.purchases:
        flow.text("Nothing has to be bought.", 12)
    else:
        flow.text(f"Together {sum(p.money for p in plan.purchases):,.2f} for what has a price.", 12, 600)
    if plan.ready:
        flow.heading("Have ready")
        for n in plan.ready:
            flow.put(flow.block().ticks([(f"{n.quantity:g} of {n.name}: {FITTINGS[n.kind]} ({n.why})", False)], 10), 0.5)
    return flow.printed()


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


def quote_paper(s: Subject, size: PaperSize, _c: Choices) -> Printed:
    """The quote for the customer: what is made and what it costs, nothing of the shop's own sums."""
    plan, m, flow = s.planned, s.measure, Flow(size, s.head("Quote"))
    for n, (job_id, job) in enumerate(plan.jobs.items()):
        if n:
            flow.new_page()
        flow.text(plan.holdings.shop.name, 12, 500)
        flow.title(f"Quote: {job.name}")
        flow.text(", ".join(w for w in (f"due {day_words(job.due)}" if job.due else "", job.note) if w) or " ", 11, gap=4)
        for name, number, share in customer_lines(plan, job_id):
            _money_row(flow, f"{number} × {name}", share)
        for row in job.sets:
            assembly = plan.holdings.assemblies.get(row.assembly)
            if assembly is not None:
                flow.text(f"put together as {row.quantity} × {assembly.name}", 10, x=4)
        for b in job.blanks:
            flow.text(f"with {b.count} × {b.name}, {m.length(b.length)} by {m.length(b.width)}", 10, x=4)
        for f in job.fittings:
            flow.text(f"with {amount(f.quantity, f.unit, False)} {f.name}", 10, x=4)
        q = plan.quote(job_id)
        flow.rule()
        _money_row(flow, "Together", q.asked or q.price, 15, 700)
        flow.text(" ", 14)
        flow.text("Forged by hand: sizes differ a little from piece to piece. What people climb on, hang from or lean on is made to the local rules, "
                  "and checked by whoever is licensed to.", 9)  # fmt: skip
    return flow.printed()


def _money_row(flow: Flow, words: str, money: float, size: float = 12, weight: int = 500) -> None:
    told = f"{money:,.2f}"
    made = flow.block().text(words, size, weight, room=flow.room - width(told, size, weight) - 6)
    made.ink.append(Lettering(flow.room, made.ink[0].y if isinstance(made.ink[0], Lettering) else 0.0, told, size, weight, 1))
    flow.put(made, 1.5)


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
        size = f"{m.length(b.length)} by {m.length(b.width)}"
        rows.append((f"{number}", size, b.name, of, " and ".join(job.name for job in plan.jobs.values())))
    return rows


def labels(s: Subject, size: PaperSize, _c: Choices) -> Printed:
    """A label for every blank, to be cut apart: its short name large, its size, what it is, of what, for which job."""
    flow = Flow(size, s.head("Labels"))
    across = _COLUMNS if size.width < size.height else _COLUMNS + 1
    wide = flow.room / across
    tall = min((flow.bottom - flow.y - 4) / _ROWS, 30.0)
    rows = label_rows(s.planned, s.measure)
    for n in range(0, len(rows), across):
        made = flow.block()
        for k, (code, length, name, of, job) in enumerate(rows[n : n + across]):
            x = k * wide
            made.ink.append(box(x + 0.6, 0.6, wide - 1.2, tall - 1.2, 0.15, "", GREY, (1.5, 1.2)))
            made.ink.append(Lettering(x + 3, 9.0, code, 20, 700))
            room = wide - 6 - width(code, 20, 700) - 3
            made.ink.append(
                Lettering(
                    x + wide - 3,
                    8.2,
                    fitted(length, room, 13 if width(length, 13, 600) < room else 9, 600),
                    13 if width(length, 13, 600) < room else 9,
                    600,
                    1,
                )
            )
            for i, (text, high) in enumerate(((name, 10), (of, 8), (job, 8))):
                made.ink.append(
                    Lettering(x + 3, 14.5 + i * 4.6, fitted(text, wide - 6, high, 600 if not i else 400), high, 600 if not i else 400)
                )
        made.height = tall
        flow.put(made, 0.0)
    if not rows:
        flow.text("No blank is cut for this job yet.", 12)
    return flow.printed()
