"""Outlines of blanks at true scale: SVG to print and cut by, DXF for machines."""

from __future__ import annotations

import io
from html import escape

import numpy as np

from long_ember.arrays import Array
from long_ember.blanks import Outline

__all__ = ["outline_dxf", "outline_svg"]

_MARGIN, _BAR = 10.0, 50.0  # mm round the outline; length of the check bar


def outline_svg(outline: Outline, title: str) -> str:
    """An SVG in mm: cuts in black, bend lines dashed, and a bar of 50 mm to check the print with."""
    low, (long, wide) = outline.edge.min(axis=0), outline.size
    width, height = max(long, _BAR) + 2 * _MARGIN, wide + 2 * _MARGIN + 14

    def path(points: Array, close: bool) -> str:
        moved = (points - low) * (1, -1) + (_MARGIN, _MARGIN + wide)
        words = " L ".join(f"{x:.4f} {y:.4f}" for x, y in moved.tolist())
        return f"M {words}{' Z' if close else ''}"

    rows = [(path(p, True), "") for p in (outline.edge, *outline.holes)]
    rows += [(path(p, False), "") for p in outline.slits]
    rows += [(path(p, len(p) > 2), ' stroke-dasharray="3 2"') for p in outline.bends]
    y = height - 8
    rows.append((f"M {_MARGIN} {y} h {_BAR} m 0 -2 v 4 m {-_BAR} 0 v -4", ""))
    body = "\n".join(f'  <path d="{d}"{extra}/>' for d, extra in rows)
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:.3f}mm" height="{height:.3f}mm" viewBox="0 0 {width:.3f} {height:.3f}">\n'
        f"  <title>{escape(title)}</title>\n"
        f'  <g fill="none" stroke="black" stroke-width="0.25">\n{body}\n  </g>\n'
        f'  <text x="{_MARGIN + _BAR + 3}" y="{y + 1.5}" font-size="4">this bar measures 50 mm</text>\n</svg>\n'
    )


def outline_dxf(outline: Outline) -> str:
    """A DXF in mm with layers CUT and BEND."""
    from ezdxf.document import Drawing  # a second to load: only when a drawing is written

    document = Drawing.new("R2010")
    document.units = 4  # mm
    document.layers.add("CUT")
    document.layers.add("BEND", color=5)
    space = document.modelspace()
    for points, layer, close in (
        *((p, "CUT", True) for p in (outline.edge, *outline.holes)), *((p, "CUT", False) for p in outline.slits),
        *((p, "BEND", len(p) > 2) for p in outline.bends),
    ):  # fmt: skip
        space.add_lwpolyline(np.asarray(points).tolist(), close=close, dxfattribs={"layer": layer})
    stream = io.StringIO()
    document.write(stream)
    return stream.getvalue()
