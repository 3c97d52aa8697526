"""A plan as plain text, and as data."""

from __future__ import annotations

from typing import Any

from long_ember.document import Answer
from long_ember.features import feature_sum
from long_ember.heats import Errand, Heat, cautions, door_notes, gauges, thin_note
from long_ember.physics import band
from long_ember.units import Measure

__all__ = ["plan_data", "plan_text"]


def plan_text(found: Answer, measure: Measure) -> str:
    """The whole plan as plain text."""
    return "\n\n".join("\n".join(block) for block in (_head(found, measure), _marks(found, measure), _heats(found, measure),
                                                      _cuts(found, measure), _cautions(found, measure)))  # fmt: skip


def _head(found: Answer, m: Measure) -> list[str]:
    r, piece = found.reckoning, found.piece
    lines = [
        f"{piece.name}: {piece.bar.label(m)}, {piece.steel.title.lower()}",
        f"{r.cut_line().show(m)} (its features alone take {m.length(r.bare)})",
        f"Mass {m.mass(r.mass)} finished, {m.mass(r.stock_mass)} cut",
        f"Finished {' x '.join(m.length(x) for x in found.over_all)} over all as drawn from the side: along, up, across",
    ]
    for zone in r.zones:
        lines.extend(f"  {zone.feature.title}: {line.show(m)}" for line in feature_sum(zone.feature, zone.place))
    for stand in piece.composition.stands if piece.standing else ():
        lines.extend(f"  {stand.feature.title}: {line.show(m)}" for line in stand.lines)
    lines.extend(f"  {line.show(m)}" for line in r.sum_lines())
    lines.extend(f"  {zone.feature.title}: {zone.feature.note}" for zone in r.all_zones if zone.feature.note)
    names = {step.feature.id: f"{step.name}: " for step in found.plan.steps if not step.operation.own}
    return lines + [
        f"{_SIGNS[check.level]} {check.word}: {'' if zone is None else names.get(zone.feature.id, f'{zone.feature.title}: ')}{check.line.show(m)}"
        for zone, check in found.checks
        if not check.caution
    ]


_SIGNS = {"note": "-", "warn": "!", "stop": "!!"}  # that any terminal can show


def _marks(found: Answer, m: Measure) -> list[str]:
    rows = [f"  {m.length(k.at):>14}   {k.kind}: {k.before or 'waste'} | {k.after or 'waste'}" for k in found.marks]
    drawn = [f"  {m.length(k.at):>14}   {k.kind}: {k.before}" for k in found.drawn_marks]
    head = [f"Marks on the drawn bar from end {found.piece.datum}, straight and cold"] if drawn else []
    return [f"Marks from end {found.piece.datum}, cold", *rows, *head, *drawn]


def _heats(found: Answer, m: Measure) -> list[str]:
    plan = found.plan
    low, likely, high = (round(x) for x in plan.minutes)
    lines = [f"Heats: {plan.count}, {likely} min; 9 of 10 pieces take {plan.low} to {plan.high} heats, {low} to {high} min"]
    for frame in plan.frames:
        if isinstance(frame, Errand):
            lines.append(f"  {frame.title}: {frame.line.show(m)}")
            continue
        lines.append(_heat_title(frame, m))
        lines.extend(f"     {work.line.show(m)} ({work.step.method.title})" for work in frame.work)
        lines.extend(f"     door: {line.show(m)}" for line in door_notes(plan, frame))
        if (thin := thin_note(plan, frame)) is not None:
            lines.append(f"     {thin.show(m)}")
        lines.extend(f"     check {gauge.line.show(m)}" for gauge in gauges(frame, found.reckoning))
    lines.extend(f"! {why}: {rule.reason} {plan.instead(rule, n)}".rstrip() for rule, n, why in plan.flags)
    return lines


def _heat_title(heat: Heat, m: Measure) -> str:
    if heat.cold:
        return "  Cold:"
    where = {"middle": "the middle", "all": "all of it"}.get(heat.fire, f"end {heat.fire}")
    hot = "" if heat.fire == "all" else f", {m.about(heat.long)} hot"
    return f"  {heat.number}. {where} in the fire{hot}, hold end {heat.held}, {band(heat.hot).word}, stop at {m.temperature(heat.stop)}"


def _cuts(found: Answer, m: Measure) -> list[str]:
    cuts = found.cuts
    if cuts is None:
        return [f"Cut list: {found.cut_problem}"]
    rows = [f"  bar {b.number}: {len(b.lengths)} x {m.length(cuts.piece)}, {m.length(b.remnant)} left" for b in cuts.bars]
    return [f"Cut list: {cuts.quantity} from {len(cuts.bars)} x {m.length(cuts.bar_length)}", *rows]


def _cautions(found: Answer, m: Measure) -> list[str]:
    return ["Take care", *(f"  {line.show(m)}" for line in cautions(found.piece, found.reckoning, found.plan))]


def plan_data(found: Answer) -> dict[str, Any]:
    """The whole plan for another program: lengths in mm, masses in kg, temperatures in °C."""
    r, piece, m = found.reckoning, found.piece, Measure("mm", ascii=True)
    low, high = r.band
    return {
        "name": piece.name,
        "bar": piece.bar.label(m),
        "material": piece.material,
        "cut": r.cut,
        "sawn": r.sawing.choice,
        "likely": r.likely,
        "safe": r.safe,
        "confidence": r.sawing.confidence,
        "cut_low": low,
        "cut_high": high,
        "bare": r.bare,
        "mass": r.mass,
        "stock_mass": r.stock_mass,
        "over_all": list(found.over_all),
        "zones": [
            {"feature": z.feature.title, "id": z.feature.id, "start": z.start, "end": z.end, "note": z.feature.note} for z in r.zones
        ],
        "marks": [{"at": k.at, "kind": k.kind, "before": k.before, "after": k.after} for k in found.marks],
        "standing": [
            {"feature": s.feature.title, "id": s.feature.id, "start": s.start, "end": s.end, "covered": s.covered, "note": s.feature.note}
            for s in (piece.composition.stands if piece.standing else ())
        ],
        "drawn_marks": [{"at": k.at, "kind": k.kind, "of": k.before} for k in found.drawn_marks],
        "heats": [_heat_data(heat, m) for heat in found.plan.heats],
        "heats_low": found.plan.low,
        "heats_high": found.plan.high,
        "minutes": list(found.plan.minutes),
        "errands": [{"key": e.key, "what": e.line.show(m), "seconds": e.seconds, "hot": e.hot} for e in found.plan.errands],
        "bars": None if found.cuts is None else [{"lengths": list(b.lengths), "remnant": b.remnant} for b in found.cuts.bars],
        "cut_problem": found.cut_problem,
        "checks": [check.line.show(m) for _zone, check in found.checks if not check.caution],
        "check_levels": [check.level for _zone, check in found.checks if not check.caution],
        "cautions": [line.show(m) for line in cautions(piece, r, found.plan)],
    }


def _heat_data(heat: Heat, m: Measure) -> dict[str, Any]:
    return {
        "number": heat.number,
        "fire": heat.fire,
        "zone": list(heat.zone),
        "hot": heat.hot,
        "stop": heat.stop,
        "work": [work.line.show(m) for work in heat.work],
        "tools": list(heat.tools),
    }
