"""Tables as CSV for a spreadsheet."""

from __future__ import annotations

import csv
import io

from long_ember.cutting import CutList
from long_ember.features import Piece
from long_ember.plain import cell
from long_ember.units import Measure

__all__ = ["cut_list_csv"]


def cut_list_csv(piece: Piece, cuts: CutList, measure: Measure) -> str:
    """One row a sawn piece, then one a remnant; lengths in mm and as shown in the shop.

    Args:
        piece: names the material and section.
        cuts: the plan.
        measure: the shop's way to show lengths.
    """
    plain = Measure(measure.unit, measure.denominator, ascii=True)
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(["bar", "cut", "what", "section", "material", "start_mm", "length_mm", "start", "length", "mass_g"])
    section, density = piece.bar.label(plain), piece.steel.density * piece.bar.area

    def row(bar: int, cut: int | str, what: str, start: float, length: float) -> None:
        figures = [f"{start:.3f}", f"{length:.3f}", plain.length(start), plain.length(length), f"{length * density:.1f}"]
        writer.writerow([bar, cut, cell(what), section, piece.steel.title, *figures])

    for bar in cuts.bars:
        for i, (start, length) in enumerate(zip(bar.starts, bar.lengths, strict=True), 1):
            row(bar.number, i, piece.name, start, length)
        if bar.remnant > 0:
            row(bar.number, "", "remnant", cuts.bar_length - cuts.head - bar.remnant, bar.remnant)
    return out.getvalue()
