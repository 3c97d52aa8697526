"""The cut list of a job for other programs and for the saw."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable

from long_ember.cutting import CutPlan
from long_ember.document.jobs import Cutting, saw_cuts
from long_ember.export.csv_out import plain_cell
from long_ember.units import Measure

__all__ = ["cuts_csv"]


def cuts_csv(found: Iterable[tuple[Cutting, CutPlan]]) -> str:
    """One row for each piece on its bar; lengths in mm from the end that is sawn from."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(["material", "section", "bar", "of", "bar_mm", "piece", "from_mm", "to_mm", "left_mm"])
    for cutting, plan in found:
        section = cutting.section.label(Measure("mm", ascii=True))
        for number, bar in enumerate(saw_cuts(plan), 1):
            for cut in bar.cuts:
                writer.writerow([cutting.material, section, number, plain_cell(bar.supply.name), f"{bar.supply.length:.1f}", plain_cell(cut.name),
                                 f"{cut.start:.1f}", f"{cut.stop:.1f}", f"{bar.left:.1f}"])  # fmt: skip
    return out.getvalue()
