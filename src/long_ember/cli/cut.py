"""The cut list of a job on the terminal: bar by bar, as text, JSON or CSV."""

from __future__ import annotations

import json
from argparse import Namespace
from typing import Any

from long_ember.cli.book import book_of, measure_of
from long_ember.cutting import CutPlan, best_cut
from long_ember.document.jobs import Cutting, how_good, job_problems, saw_cuts
from long_ember.errors import EmberError
from long_ember.export import cuts_csv
from long_ember.materials import MATERIALS
from long_ember.shop import Job, LogEntry, Price, RackItem, Shop, calibrated
from long_ember.units import Measure

__all__ = ["cut_command"]


def cut_command(given: Namespace) -> int:
    """Place a job's pieces on bars; exit code 0."""
    with book_of(given) as opened:
        book, measure = opened.reader(), measure_of(opened, given)
        shop = book.shop or Shop()
        jobs = {i: j for i, j in book.records("job").items() if isinstance(j, Job)}
        job = jobs.get(given.job) or next((j for j in jobs.values() if j.name == given.job), None)
        if job is None:
            names = ", ".join(j.name for j in jobs.values()) or "none"
            raise EmberError(f"There is no job {given.job!r} in this book. Jobs: {names}.")
        log = [e for e in book.records("log").values() if isinstance(e, LogEntry)]
        pieces = {line.piece: book.piece(line.piece) for line in job.lines}
        rack = [r for r in book.records("rack").values() if isinstance(r, RackItem)]
        prices = [p for p in book.records("price").values() if isinstance(p, Price)]
        cuttings = job_problems(job, pieces, rack, prices, shop, bench=calibrated(shop.bench, log))
    found = [(cutting, best_cut(cutting.problem, given.seconds)) for cutting in cuttings]
    if given.json:
        print(json.dumps({"job": job.name, "cuttings": [_data(c, plan) for c, plan in found]}, ensure_ascii=False, indent=1))
    elif given.csv:
        print(cuts_csv(found), end="")
    else:
        print("\n\n".join(_text(c, plan, measure) for c, plan in found))
    return 0


def _data(cutting: Cutting, plan: CutPlan) -> dict[str, Any]:
    bars = [
        {"bar": n, "of": b.supply.name, "length": b.supply.length, "price": b.supply.price, "left": b.left, "keep": b.keep,
         "cuts": [{"piece": c.name, "from": c.start, "to": c.stop} for c in b.cuts]} for n, b in enumerate(saw_cuts(plan), 1)
    ]  # fmt: skip
    return {"material": cutting.material, "section": cutting.section.label(Measure("mm", ascii=True)), "proven": plan.proven,
            "gap": round(plan.gap, 6), "bars": bars}  # fmt: skip


def _text(cutting: Cutting, plan: CutPlan, m: Measure) -> str:
    lines = [f"{cutting.section.label(m)}, {MATERIALS[cutting.material].title.lower()}: {len(plan.bars)} bars; {how_good(plan)}"]
    for number, bar in enumerate(saw_cuts(plan), 1):
        lines.append(f"  bar {number}, {bar.supply.name}, {m.length(bar.supply.length)}:")
        lines.extend(f"    {m.length(cut.start):>14} to {m.length(cut.stop):>14}   {cut.name}" for cut in bar.cuts)
        lines.append(f"    left {m.length(bar.left)}, {'keep it' if bar.keep else 'waste'}")
    return "\n".join(lines)
