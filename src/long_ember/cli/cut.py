"""Jobs on the terminal: cut list, shopping list and quote, as text, JSON or CSV."""

from __future__ import annotations

import time
from argparse import Namespace
from collections.abc import Sequence

from long_ember.cli.book import book_of, measure_of
from long_ember.cli.speak import print_lines
from long_ember.errors import EmberError
from long_ember.export import cuts_csv, job_json, quote_csv, shopping_csv
from long_ember.jobs.cut_layout import bars_of
from long_ember.jobs.needs import amount
from long_ember.jobs.plan import JobPlan, better_plans
from long_ember.jobs.quoting import about
from long_ember.materials import MATERIALS
from long_ember.records import Job, Shop
from long_ember.storage.holdings import holdings_of, job_plan, sheets_of
from long_ember.units import Measure

__all__ = ["cut_command", "planned_jobs"]


def planned_jobs(given: Namespace, names: Sequence[str], seconds: float) -> tuple[JobPlan, Shop, Measure]:
    """Jobs of the book with everything that follows from them, their shop, and how numbers are shown.

    Args:
        given: with the book.
        names: ids or names of jobs.
        seconds: how long to look for a cheaper plan, for each section.

    Raises:
        EmberError: there is no such job.
    """
    with book_of(given) as opened:
        book, measure = opened.reader(), measure_of(opened, given)
        shop = book.shop or Shop()
        there = book.records(Job)
        jobs: dict[str, Job] = {}
        for name in names:
            found = name if name in there else next((i for i, j in there.items() if j.name == name), None)
            if found is None:
                names = ", ".join(j.name for j in there.values()) or "none"
                raise EmberError(f"There is no job {name!r} in this book. Jobs: {names}.")
            jobs[found] = there[found]
        plan = job_plan(jobs, holdings_of(book, shop, jobs), sheets_of(book.records, jobs))[1]
    if not plan.own:
        end = time.monotonic() + seconds * max(1, len(plan.found))
        for better in better_plans(plan):
            plan = better
            if time.monotonic() > end:
                break
    return plan, shop, measure


def cut_command(given: Namespace) -> int:
    """Place jobs' pieces on bars; exit code 0."""
    plan, _shop, measure = planned_jobs(given, given.job, given.seconds)
    if given.json:
        print_lines(job_json(plan))
    elif given.csv:
        print_lines({"cuts": cuts_csv, "shopping": shopping_csv, "quote": quote_csv}[given.what](plan), end="")
    else:
        print_lines({"cuts": _cuts, "shopping": _shopping, "quote": _quote}[given.what](plan, measure))
    return 0


def _cuts(plan: JobPlan, m: Measure) -> str:
    parts = [f"Changed since: {words}." for words in plan.stale]
    for (material, section), bars in bars_of(plan.cut_list).items():
        good = plan.goodness(material, section)
        lines = [
            f"{section.label(m)}, {MATERIALS[material].title.lower()}: {len(bars)} bar{'s' if len(bars) != 1 else ''}{f'; {good}' if good else ''}"
        ]
        for number in bars:
            lay = plan.layouts[number]
            lines.append(f"  bar {number + 1}, {lay.bar.source}, {m.length(lay.bar.length)}:")
            lines.extend(f"    {m.length(at.start):>14} to {m.length(at.stop):>14}   {code:4} {at.cut.name}{'  sawn' if at.cut.sawn else ''}"
                         for at, code in zip(lay.cuts, plan.codes[number], strict=True))  # fmt: skip
            lines.append(f"    left {m.length(lay.left)}, {'keep it' if lay.keep else 'waste'}")
        parts.append("\n".join(lines))
    for cut in plan.sheet_cuts:
        lines = [
            f"Sheet {m.length(cut.thickness)}, {MATERIALS[cut.material].title.lower()}: {len(cut.plans)}; {cut.waste:.0%} of what is cut into is waste"
        ]
        lines += [
            f"    {b.name}: {m.length(b.length)} by {m.length(b.width)} at {m.length(b.x)}, {m.length(b.y)}"
            for p in cut.plans
            for b in p.blanks
        ]
        parts.append("\n".join(lines))
    if parts and plan.sawing_words:
        parts.append(plan.sawing_words)
    return "\n\n".join(parts) or "Nothing is cut from bar or sheet for this."


def _shopping(plan: JobPlan, _m: Measure) -> str:
    rows = [
        f"{amount(p.quantity, p.unit, p.rough):>12} {p.name}{f', {p.money:,.2f}' if p.price else ', no price'}   ({p.why})"
        for p in plan.purchases
    ]
    return "\n".join(rows) or "Nothing has to be bought."


def _quote(plan: JobPlan, _m: Measure) -> str:
    lines = []
    for job_id, job in plan.jobs.items():
        q = plan.quote(job_id)
        lines.append(job.name)
        lines += [f"  {c.words:28}{c.money:12,.2f}   {c.how}" for c in q.costs]
        lines.append(f"  {'All costs':28}{q.cost:12,.2f}")
        lines.append(f"  {'Price':28}{q.price:12,.2f}   {q.margin:.0%} on top")
        asked = q.asked or q.price
        lines.append(f"  {q.hours:.1f} h of work, between {q.least:.1f} and {q.most:.1f} h: all costs {q.spread(q.cost)}.")
        earned = f"about {about(q.hourly(asked))}, between {about(q.hourly(asked, q.most))} and {about(q.hourly(asked, q.least))}"
        lines.append(f"  At {asked:,.2f} an hour earns {earned}; break-even is {q.spread(q.spent)}.")
        lines += [
            f"  {p.name}: one {p.one:,.2f}, each of {job.bundle} {p.bundle:,.2f}, each of {p.number} {p.batch:,.2f}"
            for p in plan.prices(job_id)
        ]
        lines += [f"  Not counted: {words}" for words in q.unknown]
    return "\n".join(lines)
