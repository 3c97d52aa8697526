"""Jobs for other programs and for the saw: cut list, shopping list and quote as CSV, all of it as JSON."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Iterable
from typing import Any

from long_ember.jobs.plan import JobPlan
from long_ember.plain import cell
from long_ember.units import Measure

__all__ = ["cut_list_schema", "cuts_csv", "job_json", "quote_csv", "shopping_csv"]

_PLAIN = Measure("mm", ascii=True)
_FORMAT, _VERSION = "long-ember-cut-list", 1


def _table(head: list[str], rows: Iterable[list[Any]]) -> str:
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(head)
    writer.writerows([[cell(x) if isinstance(x, str) else x for x in row] for row in rows])
    return out.getvalue()


def _mm(value: float) -> str:
    return f"{value:.1f}"


def _money(value: float) -> str:
    return f"{value:.2f}"


def cuts_csv(plan: JobPlan) -> str:
    """One row for each blank on its bar, then for each on its sheet; mm from the end that is sawn from, on a sheet from one edge too."""
    head = [
        "material",
        "section",
        "bar",
        "of",
        "bar_mm",
        "label",
        "piece",
        "job",
        "from_mm",
        "to_mm",
        "sawn",
        "left_mm",
        "across_from_mm",
        "across_to_mm",
    ]
    rows: list[list[Any]] = []
    for number, (lay, codes) in enumerate(zip(plan.layouts, plan.codes, strict=True), 1):
        bar = lay.bar
        for at, code in zip(lay.cuts, codes, strict=True):
            job = plan.jobs[at.cut.job].name if at.cut.job in plan.jobs else ""
            rows.append([bar.material, bar.section.label(_PLAIN), number, bar.source, _mm(bar.length), code, at.cut.name, job, _mm(at.start),
                         _mm(at.stop), at.cut.sawn, _mm(lay.left), "", ""])  # fmt: skip
    sheets = ((cut, one) for cut in plan.sheet_cuts for one in cut.plans)
    for number, (cut, one) in enumerate(sheets, 1):
        for b in one.blanks:
            rows.append([cut.material, f"sheet {_mm(cut.thickness)}", number, one.sheet.name, _mm(one.sheet.length), "", b.name, "", _mm(b.x),
                         _mm(b.x + b.length), "", _mm(one.rest), _mm(b.y), _mm(b.y + b.width)])  # fmt: skip
    return _table(head, rows)


def shopping_csv(plan: JobPlan) -> str:
    """One row for each thing to buy."""
    rows = [[p.group, p.name, f"{p.quantity:g}", p.unit, _money(p.price), _money(p.money), p.seller, p.why] for p in plan.purchases]
    return _table(["group", "what", "quantity", "unit", "price", "money", "seller", "for"], rows)


def quote_csv(plan: JobPlan) -> str:
    """One row for each cost of each job, then what one of each piece is sold at."""
    rows: list[list[Any]] = []
    for job_id, job in plan.jobs.items():
        q = plan.quote(job_id)
        rows += [[job.name, c.words, _money(c.money), c.how] for c in q.costs]
        low, high = (_money(x) for x in q.between(q.cost))
        rows += [
            [job.name, "All costs", _money(q.cost), f"between {low} and {high}; {q.hours:.1f} h, between {q.least:.1f} and {q.most:.1f} h"],
            [job.name, "Price", _money(q.price), f"{q.margin:.0%} on top"],
        ]
        rows += [[job.name, f"{p.name}, one alone", _money(p.one), ""] for p in plan.prices(job_id)]
        rows += [[job.name, f"{p.name}, each of {job.bundle}", _money(p.bundle), ""] for p in plan.prices(job_id)]
        rows += [[job.name, f"{p.name}, each of {p.number}", _money(p.batch), ""] for p in plan.prices(job_id)]
    return _table(["job", "what", "money", "how"], rows)


def job_json(plan: JobPlan) -> str:
    """Everything, see the file formats: lengths in mm, money in the shop's own."""
    data = {
        "format": _FORMAT, "version": _VERSION, "jobs": [job.name for job in plan.jobs.values()], "state": plan.cut_list.state,
        "bars": [_bar(number, plan) for number in range(len(plan.layouts))],
        "sheets": [
            {"material": cut.material, "thickness": cut.thickness, "area": round(cut.area, 2), "waste": round(cut.waste, 4),
             "sheets": [{"of": p.sheet.name, "length": p.sheet.length, "width": p.sheet.width, "used": round(p.used, 3),
                         "blanks": [{"name": b.name, "x": b.x, "y": b.y, "length": b.length, "width": b.width, "turned": b.turned} for b in p.blanks]}
                        for p in cut.plans]} for cut in plan.sheet_cuts
        ],
        "shopping": [{"group": p.group, "what": p.name, "quantity": p.quantity, "unit": p.unit, "price": p.price, "money": round(p.money, 2),
                      "seller": p.seller, "for": p.why} for p in plan.purchases],
        "quotes": [_quote(job_id, plan) for job_id in plan.jobs],
    }  # fmt: skip
    return json.dumps(data, ensure_ascii=False, indent=1)


def _bar(number: int, plan: JobPlan) -> dict[str, Any]:
    lay = plan.layouts[number]
    bar = lay.bar
    return {
        "bar": number + 1, "material": bar.material, "section": bar.section.label(_PLAIN), "of": bar.source, "length": bar.length, "price": bar.price,
        "rack": bool(bar.rack), "locked": bar.locked, "left": round(lay.left, 3), "keep": lay.keep,
        "cuts": [{"label": code, "piece": c.cut.name, "job": plan.jobs[c.cut.job].name if c.cut.job in plan.jobs else "", "from": round(c.start, 3),
                  "to": round(c.stop, 3), "sawn": c.cut.sawn} for c, code in zip(lay.cuts, plan.codes[number], strict=True)],
    }  # fmt: skip


def _quote(job_id: str, plan: JobPlan) -> dict[str, Any]:
    q, job = plan.quote(job_id), plan.jobs[job_id]
    return {
        "job": job.name, "costs": {c.key: round(c.money, 2) for c in q.costs}, "cost": round(q.cost, 2), "margin": q.margin, "price": round(q.price, 2),
        "asked": q.asked, "cost_between": [round(x, 2) for x in q.between(q.cost)], "hours": round(q.hours, 3), "hours_between": [round(q.least, 3), round(q.most, 3)], "fire_hours": round(q.fire, 3), "an_hour_earns": round(q.hourly(q.asked or q.price), 2),
        "an_hour_earns_between": [round(q.hourly(q.asked or q.price, hours), 2) for hours in (q.most, q.least)],
        "unknown": list(q.unknown),
        "pieces": [{"piece": p.name, "one": round(p.one, 2), "bundle": round(p.bundle, 2), "batch": round(p.batch, 2), "number": p.number}
                   for p in plan.prices(job_id)],
    }  # fmt: skip


def cut_list_schema() -> dict[str, Any]:
    """JSON Schema of what `job_json` writes."""
    text, number, yes, mm = (
        {"type": "string"},
        {"type": "number"},
        {"type": "boolean"},
        {"type": "number", "minimum": 0, "description": "mm"},
    )
    money = {"type": "number", "description": "in the shop's own money"}

    def row(**properties: Any) -> dict[str, Any]:
        return {"type": "object", "properties": properties, "required": list(properties), "additionalProperties": False}

    def rows(of: dict[str, Any]) -> dict[str, Any]:
        return {"type": "array", "items": of}

    cut = {"label": text, "piece": text, "job": text, "from": mm, "to": mm, "sawn": yes}
    bar = row(bar={"type": "integer", "minimum": 1}, material=text, section=text, of=text, length=mm, price=money, rack=yes, locked=yes, left=mm, keep=yes,
              cuts=rows(row(**cut)))  # fmt: skip
    blank = row(name=text, x=mm, y=mm, length=mm, width=mm, turned=yes)
    sheet = row(of=text, length=mm, width=mm, used=mm, blanks=rows(blank))
    sheets = row(
        material=text,
        thickness=mm,
        area={"type": "number", "description": "mm²"},
        waste={"type": "number", "maximum": 1},
        sheets=rows(sheet),
    )
    bought = {"group": text, "what": text, "quantity": number, "unit": text, "price": money, "money": money, "seller": text, "for": text}
    price = row(piece=text, one=money, bundle=money, batch=money, number={"type": "integer", "minimum": 1})
    quote = row(job=text, costs={"type": "object", "additionalProperties": money}, cost=money, margin=number, price=money, asked=money, cost_between=rows(money), hours=number, hours_between=rows(number),
                fire_hours=number, an_hour_earns_between=rows(money), an_hour_earns=money, unknown=rows(text), pieces=rows(price))  # fmt: skip
    top = row(format={"const": _FORMAT}, version={"const": _VERSION}, jobs=rows(text), state={"enum": ["planned", "sawn"]}, bars=rows(bar),
              sheets=rows(sheets), shopping=rows(row(**bought)), quotes=rows(quote))  # fmt: skip
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", "title": "Long Ember cut list", **top}
