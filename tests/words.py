"""Everything the program says about the boathouse, as text: plans, heats, jobs, bars, assemblies. `./ember words` renews it, and the difference is read."""

from __future__ import annotations

import re
from pathlib import Path

from long_ember.assemblies import assembled, fits
from long_ember.choosing import USES, candidate_bars, chance_words, common_bars, halves, rank, versus
from long_ember.cli.cut import _quote, _shopping
from long_ember.cli.plan import plan_text
from long_ember.demo import demo_files, demo_parcel
from long_ember.document import answer
from long_ember.export.heat_words import frame_heading, frame_words, plan_words
from long_ember.heats import batch
from long_ember.jobs.plan import plan_jobs
from long_ember.jobs.problems import Holdings
from long_ember.records import Assembly, Job, Price, RackItem
from long_ember.storage import read_piece
from long_ember.units import Measure

__all__ = ["FOLDER", "said"]

FOLDER = Path(__file__).resolve().parent / "fixtures" / "words"
_TOLD_HEAT_BY_HEAT = ("lantern-bracket", "boat-hook-head", "caulking-iron", "door-pull")
_IN_INCHES = ("mooring-staple", "gate-pintle")


def _plain(html: str) -> str:
    return re.sub(r"<[^>]+>", "", re.sub(r"</(p|li|h\d)>|<br>", "\n", html)).strip()


def said() -> dict[str, str]:
    """The texts by name."""
    parcel = demo_parcel()
    pieces = {path.stem: read_piece(path) for path in demo_files()}
    records, shop = dict(parcel.records), parcel.shop
    assert shop is not None
    found: dict[str, str] = {}
    for name, piece in pieces.items():
        m = Measure("in" if name in _IN_INCHES else "mm", ascii=True)
        a = answer(piece, ruler=shop.division, forge=shop.forge)
        texts = [plan_text(a, m), plan_words(a, m)]
        if name in _TOLD_HEAT_BY_HEAT:
            texts += [
                _plain("".join((frame_heading(a, frame), *(w for part in frame_words(a, frame, m, tuple(shop.kit)) for w in part))))
                for frame in a.plan.frames
            ]
        for number, irons, rhythm in ((1, 1, "piece"), (12, 2, "piece"), (12, 3, "stage")):
            made = batch(a.plan, number, irons=irons, rhythm=rhythm)
            texts.append(f"{number} of it, {irons} irons, {rhythm} by {rhythm}: {made.total / 60:.1f} min in {len(made.turns)} turns")
        found[name] = "\n\n".join(texts)
    rack = {i: r for i, r in records.items() if isinstance(r, RackItem)}
    prices = [p for p in records.values() if isinstance(p, Price)]
    assemblies = {i: x for i, x in records.items() if isinstance(x, Assembly)}
    m = Measure("mm", ascii=True)
    holdings = Holdings(pieces, assemblies, rack, prices, shop, shop.forge)
    for identity in ("job-1", "job-2"):
        job = records[identity]
        assert isinstance(job, Job)
        plan = plan_jobs({identity: job}, holdings)
        found[identity] = f"{_shopping(plan, m)}\n\n{_quote(plan, m)}"
    by_kind = {"rack": list(rack.values()), "price": prices}
    for name in ("gate-pintle", "boat-hook-head"):
        piece = pieces[name]
        rows = rank(piece, candidate_bars(by_kind, piece, "mm"))[:12]
        texts = [
            f"{c.source.section.label(m)}: cut {c.cut:.3f}, effort {c.effort:.4f}, {c.mass:.2f} g, waste {c.waste:.4f}, cost {c.cost or 0.0:.4f}, score {c.score:.4f}, {chance_words(c.chance)}; {' '.join(c.why)}"
            for c in rows
        ]
        texts += [f"{use}: {line.show(m)}" for use in USES for line in versus(piece, pieces["oar-cradle"], use)]
        texts.append(f"halves {', '.join(f'{x:.3f} g' for x in halves(piece))}")
        found[f"bars-{name}"] = "\n".join(texts)
    pairs = (("lantern-bracket", "mooring-staple"), ("mooring-ring", "oar-cradle"))
    found["versus"] = "\n".join(
        f"{one}, {use}: {line.show(m)}" for one, other in pairs for use in USES for line in versus(pieces[one], pieces[other], use)
    )
    texts = []
    for assembly in assemblies.values():
        whole = assembled(assembly, pieces)
        texts.append(assembly.name)
        texts += [f"  {fit.title}, {fit.verdict}: {line.show(m)}" for fit in fits(whole) for line in fit.lines]
        for name, weight in (*((part.name, part.weight) for part in whole.placed), ("whole", whole.weight)):
            texts.append(f"  {name}: {weight.mass:.2f} g at {', '.join(f'{x:.2f}' for x in weight.centre)}")
    found["sizes"] = "\n".join(
        f"{bar.label(Measure('in' if offer == 'in' else 'mm', ascii=True))}: {bar.area:.3f}"
        for offer in ("mm", "in")
        for bar in common_bars(offer)
    )
    found["assemblies"] = "\n".join(texts)
    return found
