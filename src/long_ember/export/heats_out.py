"""The sequence for the wall and for other programs: CSV with blank columns for what really happened, and JSON."""

from __future__ import annotations

import csv
import io
import json
from typing import Any

from long_ember.document import Answer
from long_ember.export.csv_out import plain_cell
from long_ember.heats import Heat
from long_ember.physics import band
from long_ember.units import Measure

__all__ = ["HEATS_FORMAT", "heats_csv", "heats_json"]

HEATS_FORMAT = "long-ember heats"
_BLANK = ("done", "heats taken", "minutes", "came out")


def heats_csv(answer: Answer, measure: Measure) -> str:
    """One row for each thing to do; the last four columns are blank, to be filled in at the anvil.

    Args:
        answer: of the piece.
        measure: the shop's way to show lengths in the words; figures are mm, °C and s.
    """
    plain = Measure(measure.unit, measure.denominator, ascii=True)
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow([
        "heat", "step", "what", "part", "fire", "hot_from_mm", "hot_to_mm", "hot_c", "colour", "stop_below_c", "seconds", "share_of_heat", "tools", *_BLANK,
    ])  # fmt: skip
    for heat in answer.plan.heats:
        row = _row(heat)
        for i, work in enumerate(heat.work, 1):
            what = plain_cell(work.step.operation.line.show(plain))
            share = "" if work.start == 0 and work.stop == 1 else f"{work.start:.0%} to {work.stop:.0%}"
            figures = [
                row["fire"],
                *(f"{x:.1f}" for x in row["zone"]),
                *(row[k] for k in ("hot", "colour", "stop")),
                row["seconds"],
                row["share"],
            ]
            writer.writerow([row["heat"], i, what, share, *figures, ", ".join(work.step.tools), *("" for _ in _BLANK)])
    return out.getvalue()


def heats_json(answer: Answer, measure: Measure) -> str:
    """The same as data: lengths in mm, temperatures in °C, times in s."""
    plain = Measure(measure.unit, measure.denominator, ascii=True)
    heats = []
    for heat in answer.plan.heats:
        work = [
            {
                "what": w.step.operation.line.show(plain), "feature": w.step.feature.id, "verb": w.step.operation.verb, "from": w.start, "to": w.stop,
                "tools": list(w.step.tools), "because": [{"rule": r.id, "strength": r.strength, "reason": r.reason} for r in w.because],
            }
            for w in heat.work
        ]  # fmt: skip
        heats.append({**_row(heat), "work": work})
    plan = answer.plan
    data = {
        "format": HEATS_FORMAT, "version": 1, "piece": answer.piece.name, "cut": answer.reckoning.cut, "count": plan.count, "low": plan.low,
        "high": plan.high, "heats": heats,
    }  # fmt: skip
    return json.dumps(data, ensure_ascii=False, indent=1, allow_nan=False) + "\n"


def _row(heat: Heat) -> dict[str, Any]:
    warm = not heat.cold
    return {
        "heat": heat.number if warm else "cold",
        "fire": heat.fire,
        "zone": list(heat.zone),
        "hot": round(heat.hot) if warm else "",
        "colour": band(heat.hot).word if warm else "",
        "stop": round(heat.stop) if warm else "",
        "seconds": round(heat.seconds) if warm else "",
        "share": round(min(heat.need, 9.99), 2) if warm else "",
    }
