"""Outlines of blanks and finished pieces at true scale: SVG to print and cut by, DXF for machines."""

from __future__ import annotations

import io
from html import escape

import numpy as np

from long_ember.arrays import Array
from long_ember.blanks import Outline
from long_ember.errors import NoAnswer
from long_ember.features import Piece
from long_ember.geometry import silhouette

__all__ = ["drawing_svg", "outline_dxf", "outline_svg"]

_MARGIN, _BAR = 10.0, 50.0  # mm round the outline; length of the check bar


def outline_svg(outline: Outline, title: str) -> str:
    """An SVG in mm: cuts in black, bend lines dashed, and a bar of 50 mm to check the print with."""
    rows = [(p, True, "") for p in (outline.edge, *outline.holes)]
    rows += [(p, False, "") for p in outline.slits]
    rows += [(p, len(p) > 2, ' stroke-dasharray="3 2"') for p in outline.bends]
    rows += [(p, len(p) > 2, ' stroke-width="0.15"') for p in outline.marks]
    return _sheet(rows, outline.edge.min(axis=0), outline.size, title)


def drawing_svg(piece: Piece) -> str:
    """An SVG in mm of the finished piece from the side at full size, with a bar of 50 mm to check the print with.

    Args:
        piece: verified, with at least one feature.

    Raises:
        NoAnswer: the piece is empty.
    """
    polygons = silhouette(piece)
    if not polygons:
        raise NoAnswer("The piece is empty.", "Add a feature first.")
    long, wide = np.ptp(np.vstack(polygons), axis=0).tolist()
    return _sheet([(p, True, "") for p in polygons], np.zeros(2), (long, wide), piece.name)


def _sheet(rows: list[tuple[Array, bool, str]], low: Array, size: tuple[float, float], title: str) -> str:
    """Lines, each closed or not and with attributes of its own, on paper that just holds them; `low` is their lower left corner."""
    long, wide = size
    width, height = max(long, _BAR) + 2 * _MARGIN, wide + 2 * _MARGIN + 14

    def path(points: Array, close: bool) -> str:
        moved = (points - low) * (1, -1) + (_MARGIN, _MARGIN + wide)
        words = " L ".join(f"{x:.4f} {y:.4f}" for x, y in moved.tolist())
        return f"M {words}{' Z' if close else ''}"

    y = height - 8
    drawn = [*((path(p, close), extra) for p, close, extra in rows), (f"M {_MARGIN} {y} h {_BAR} m 0 -2 v 4 m {-_BAR} 0 v -4", "")]
    body = "\n".join(f'  <path d="{d}"{extra}/>' for d, extra in drawn)
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:.3f}mm" height="{height:.3f}mm" viewBox="0 0 {width:.3f} {height:.3f}">\n'
        f"  <title>{escape(title)}</title>\n"
        f'  <g fill="none" stroke="black" stroke-width="0.25">\n{body}\n  </g>\n'
        f'  <text x="{_MARGIN + _BAR + 3}" y="{y + 1.5}" font-size="4">this bar measures 50 mm</text>\n</svg>\n'
    )


def outline_dxf(outline: Outline) -> str:
    """A DXF in mm with layers CUT, BEND and MARK."""
    from ezdxf.document import Drawing  # a second to load: only when a drawing is written

    document = Drawing.new("R2010")
    document.units = 4  # mm
    document.layers.add("CUT")
    document.layers.add("BEND", color=5)
    document.layers.add("MARK", color=8)
    space = document.modelspace()
    for points, layer, close in (
        *((p, "CUT", True) for p in (outline.edge, *outline.holes)), *((p, "CUT", False) for p in outline.slits),
        *((p, "BEND", len(p) > 2) for p in outline.bends), *((p, "MARK", len(p) > 2) for p in outline.marks),
    ):  # fmt: skip
        space.add_lwpolyline(np.asarray(points).tolist(), close=close, dxfattribs={"layer": layer})
    stream = io.StringIO()
    document.write(stream)
    return stream.getvalue()
