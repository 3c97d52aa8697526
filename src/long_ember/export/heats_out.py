"""The sequence for the wall and for other programs: CSV with blank columns for what really happened, and JSON."""

from __future__ import annotations

import csv
import io
import json
from typing import Any

from long_ember.document import Answer
from long_ember.heats import Errand, Frame, gauges
from long_ember.physics import band
from long_ember.plain import cell
from long_ember.units import Measure

__all__ = ["HEATS_FORMAT", "heats_csv", "heats_json"]

HEATS_FORMAT = "long-ember heats"
_BLANK = ("done", "heats taken", "minutes", "came out")


def heats_csv(answer: Answer, measure: Measure) -> str:
    """One row for each thing to do, errands too; the last four columns are blank, to be filled in at the anvil.

    Args:
        answer: of the piece.
        measure: the shop's way to show lengths in the words; figures are mm, °C and s.
    """
    plain = Measure(measure.unit, measure.denominator, ascii=True)
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow([
        "heat", "step", "what", "part", "method", "fire", "held", "hot_from_mm", "hot_to_mm", "hot_c", "colour", "stop_below_c", "seconds", "share_of_heat",
        "tools", "check", *_BLANK,
    ])  # fmt: skip
    for frame in answer.plan.frames:
        row = _row(frame)
        check = cell("; ".join(g.line.show(plain) for g in gauges(frame, answer.reckoning)))
        blanks = ["" for _ in _BLANK]
        figures = [row["fire"], row["held"], *(f"{x:.1f}" for x in row["zone"] or ()), *([] if row["zone"] else ["", ""]),
                   row["hot"], row["colour"], row["stop"], row["seconds"], row["share"]]  # fmt: skip
        if isinstance(frame, Errand):
            writer.writerow([row["heat"], 1, cell(frame.line.show(plain)), "", "", *figures, ", ".join(frame.tools), check, *blanks])
            continue
        for i, work in enumerate(frame.work, 1):
            what = cell(work.line.show(plain))
            part = "" if work.start == 0 and work.stop == 1 else f"{work.start:.0%} to {work.stop:.0%}"
            told = check if i == len(frame.work) else ""
            writer.writerow([row["heat"], i, what, part, work.step.method.title, *figures, ", ".join(work.step.tools), told, *blanks])
    return out.getvalue()


def heats_json(answer: Answer, measure: Measure) -> str:
    """The same as data: lengths in mm, temperatures in °C, times in s; version 2 has errands, grips, methods, checks, times and cost."""
    plain = Measure(measure.unit, measure.denominator, ascii=True)
    plan = answer.plan
    frames = []
    for frame in plan.frames:
        checks = [
            {"what": g.line.show(plain), "with": g.tool, "cold": list(g.cold), "hot": list(g.hot)} for g in gauges(frame, answer.reckoning)
        ]
        work: list[dict[str, Any]] = []
        if isinstance(frame, Errand):
            work.append({"what": frame.line.show(plain), "tools": list(frame.tools), "cautions": list(frame.cautions)})
        else:
            work.extend(
                {
                    "what": w.line.show(plain), "step": w.step.key, "feature": w.step.feature.id, "verb": w.step.operation.verb,
                    "method": w.step.method.title, "from": w.start, "to": w.stop, "tools": list(w.step.tools), "ready": w.step.method.ready,
                    "because": [{"rule": r.id, "strength": r.strength, "reason": r.reason} for r in w.because],
                }
                for w in frame.work
            )  # fmt: skip
        frames.append({**_row(frame), "work": work, "checks": checks})
    low, likely, high = plan.minutes
    data = {
        "format": HEATS_FORMAT, "version": 2, "piece": answer.piece.name, "cut": answer.reckoning.cut, "count": plan.count, "low": plan.low,
        "high": plan.high, "minutes": {"low": round(low, 1), "likely": round(likely, 1), "high": round(high, 1)},
        "cost": {
            "heats": plan.cost.heats, "swaps": plan.cost.swaps, "tools": plan.cost.tools, "colds": plan.cost.colds,
            "between": round(plan.cost.between, 1),
        },
        "flags": [{"rule": r.id, "step": plan.steps[n].key, "state": why, "reason": r.reason} for r, n, why in plan.flags], "heats": frames,
    }  # fmt: skip
    return json.dumps(data, ensure_ascii=False, indent=1, allow_nan=False) + "\n"


def _row(frame: Frame) -> dict[str, Any]:
    if isinstance(frame, Errand):
        hot = round(frame.hot) if frame.hot else ""
        glow = band(frame.hot).word if frame.hot >= 470 else ""
        return {
            "heat": frame.key,
            "fire": "",
            "held": "",
            "zone": None,
            "hot": hot,
            "colour": glow,
            "stop": "",
            "seconds": round(frame.seconds),
            "share": "",
        }
    warm = not frame.cold
    return {
        "heat": frame.number if warm else "cold",
        "fire": frame.fire,
        "held": frame.held,
        "zone": list(frame.zone),
        "hot": round(frame.hot) if warm else "",
        "colour": band(frame.hot).word if warm else "",
        "stop": round(frame.stop) if warm else "",
        "seconds": round(frame.seconds) if warm else "",
        "share": round(min(frame.need, 9.99), 2) if warm else "",
    }
