"""The cut list of a job on the terminal: bar by bar, as text, JSON or CSV."""

from __future__ import annotations

import csv
import io
import json
from argparse import Namespace
from typing import Any

from long_ember.cli.book import book_of, measure_of
from long_ember.cutting import CutPlan, best_cut
from long_ember.document.jobs import Cutting, job_problems
from long_ember.errors import EmberError
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
        print(_csv(found), end="")
    else:
        print("\n\n".join(_text(c, plan, measure) for c, plan in found))
    return 0


def _rows(plan: CutPlan) -> list[dict[str, Any]]:
    """Bars with their pieces, the mark of every saw cut from one end, and what is left, mm."""
    problem, rows = plan.problem, []
    for number, bar in enumerate(plan.bars, 1):
        supply = problem.supplies[bar.supply]
        at = problem.rules.trim + problem.rules.kerf if problem.rules.trim else 0.0
        cuts = []
        order = sorted(range(len(bar.counts)), key=lambda i: (not problem.held[i], -problem.wanted[i].length))
        for i in order:
            for _ in range(bar.counts[i]):
                cuts.append({"piece": problem.wanted[i].name, "from": at, "to": at + problem.wanted[i].length})
                at += problem.wanted[i].length + problem.rules.kerf
        left = problem.remnant(bar.supply, problem.used(bar)) * problem.step
        rows.append({"bar": number, "of": supply.name, "length": supply.length, "price": supply.price, "cuts": cuts, "left": left,
                     "keep": left >= problem.rules.keep})  # fmt: skip
    return rows


def _data(cutting: Cutting, plan: CutPlan) -> dict[str, Any]:
    return {"material": cutting.material, "section": cutting.section.label(Measure("mm", ascii=True)), "proven": plan.proven,
            "gap": round(plan.gap, 6), "bars": _rows(plan)}  # fmt: skip


def _csv(found: list[tuple[Cutting, CutPlan]]) -> str:
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(["material", "section", "bar", "of", "bar_mm", "piece", "from_mm", "to_mm", "left_mm"])
    for cutting, plan in found:
        section = cutting.section.label(Measure("mm", ascii=True))
        for row in _rows(plan):
            for cut in row["cuts"]:
                writer.writerow([cutting.material, section, row["bar"], row["of"], f"{row['length']:.1f}", cut["piece"], f"{cut['from']:.1f}",
                                 f"{cut['to']:.1f}", f"{row['left']:.1f}"])  # fmt: skip
    return out.getvalue()


def _text(cutting: Cutting, plan: CutPlan, m: Measure) -> str:
    how = "no cheaper plan exists" if plan.proven else f"a cheaper plan could save {plan.gap:.1%} at most"
    lines = [f"{cutting.section.label(m)}, {MATERIALS[cutting.material].title.lower()}: {len(plan.bars)} bars; {how}"]
    for row in _rows(plan):
        lines.append(f"  bar {row['bar']}, {row['of']}, {m.length(row['length'])}:")
        lines.extend(f"    {m.length(cut['from']):>14} to {m.length(cut['to']):>14}   {cut['piece']}" for cut in row["cuts"])
        lines.append(f"    left {m.length(row['left'])}, {'keep it' if row['keep'] else 'waste'}")
    return "\n".join(lines)
