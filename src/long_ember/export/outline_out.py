"""Full-size drawings for other programs and machines: SVG to print and cut by, DXF for cutters and drills."""

from __future__ import annotations

import io
from html import escape

import numpy as np

from long_ember.arrays import Array
from long_ember.errors import NoAnswer
from long_ember.features import Piece
from long_ember.fullsize.drawing import LAYERS, Drawing, DrawnLine
from long_ember.geometry import silhouette

__all__ = ["drawing_dxf", "drawing_svg", "piece_drawing"]

_MARGIN, _BAR = 10.0, 50.0  # mm round the drawing; length of the check bar


def piece_drawing(piece: Piece) -> Drawing:
    """The finished piece from the side.

    Args:
        piece: verified, with at least one feature.

    Raises:
        NoAnswer: the piece is empty.
    """
    polygons = silhouette(piece, 1)
    if not polygons:
        raise NoAnswer("The piece is empty.", "Add a feature first.")
    return Drawing(piece.name, "", tuple(DrawnLine(p, "CUT", True) for p in polygons))


def drawing_svg(drawing: Drawing) -> str:
    """An SVG in mm at full size, with a bar of 50 mm to check the print with."""
    x0, y0, x1, y1 = drawing.bounds
    width, height = max(x1 - x0, _BAR + 50) + 2 * _MARGIN, y1 - y0 + 2 * _MARGIN + 14

    def at(points: Array) -> Array:
        return np.asarray((points - (x0, y1)) * (1, -1) + _MARGIN)

    rows = []
    for one in drawing.lines:
        wide, dash, _number = LAYERS[one.layer]
        course = " L ".join(f"{x:.4f} {y:.4f}" for x, y in at(one.points).tolist())
        dashed = f' stroke-dasharray="{dash[0]:g} {dash[1]:g}"' if dash else ""
        rows.append(f'  <path class="{one.layer}" d="M {course}{" Z" if one.closed else ""}" stroke-width="{wide:g}"{dashed}/>')
    for hole in drawing.holes:
        (x, y), wide = at(np.array([(hole.x, hole.y)]))[0], LAYERS[hole.layer][0]
        rows.append(f'  <circle class="{hole.layer}" cx="{x:.4f}" cy="{y:.4f}" r="{hole.diameter / 2:.4f}" stroke-width="{wide:g}"/>')
    words = []
    for label in drawing.labels:
        x, y = at(np.array([(label.x, label.y)]))[0]
        turn = f' transform="rotate({-label.turn:g} {x:.3f} {y:.3f})"' if label.turn else ""
        anchor = ("start", "middle", "end")[label.anchor + 1]
        words.append(
            f'  <text x="{x:.3f}" y="{y:.3f}" font-size="{label.high / 0.7:.2f}" text-anchor="{anchor}"{turn}>{escape(label.text)}</text>'
        )
    y = height - 8
    body = "\n".join((*rows, f'  <path d="M {_MARGIN} {y} h {_BAR} m 0 -2 v 4 m {-_BAR} 0 v -4" stroke-width="0.25"/>'))
    texts = "\n".join((*words, f'  <text x="{_MARGIN + _BAR + 3}" y="{y + 1.5}" font-size="4">this bar measures 50 mm</text>'))
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:.3f}mm" height="{height:.3f}mm" viewBox="0 0 {width:.3f} {height:.3f}">\n'
        f"  <title>{escape(drawing.name)}</title>\n"
        f'  <g fill="none" stroke="black">\n{body}\n  </g>\n  <g font-family="Barlow, sans-serif" fill="black">\n{texts}\n  </g>\n</svg>\n'
    )


def drawing_dxf(drawing: Drawing) -> str:
    """A DXF in mm with a layer for what is cut, bent along, marked and drawn as a guide; holes are true circles, to be drilled by."""
    from ezdxf.document import Drawing as Document  # a second to load: only when a drawing is written

    document = Document.new("R2010")
    document.units = 4  # mm
    for layer, (_wide, _dash, number) in LAYERS.items():
        document.layers.add(layer, color=number)
    document.layers.add("TEXT", color=8)
    space = document.modelspace()
    for one in drawing.lines:
        space.add_lwpolyline(np.asarray(one.points).tolist(), close=one.closed, dxfattribs={"layer": one.layer})
    for hole in drawing.holes:
        space.add_circle((hole.x, hole.y), hole.diameter / 2, dxfattribs={"layer": hole.layer})
    for label in drawing.labels:
        text = space.add_text(label.text, height=label.high, rotation=label.turn, dxfattribs={"layer": "TEXT"})
        text.dxf.insert = (label.x, label.y)
        if label.anchor >= 0:
            text.dxf.halign, text.dxf.align_point = (1, 2)[label.anchor], (label.x, label.y)
    stream = io.StringIO()
    document.write(stream)
    return stream.getvalue()
