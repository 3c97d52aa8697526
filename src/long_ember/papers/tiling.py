"""A full-size drawing on as many sheets as it takes: each overlaps its neighbours, with crosses at the same places of the drawing on both."""

from __future__ import annotations

import itertools
import math

import numpy as np

from long_ember.arrays import Array
from long_ember.errors import NoAnswer
from long_ember.fullsize.drawing import LAYERS, Drawing, Label
from long_ember.papers.flow import MARGIN, Masthead, page_frame
from long_ember.papers.ink import GREY, Ink, Lettering, Page, PaperSize, Printed, Stroke, box, line
from long_ember.papers.letters import MM_PER_PT

__all__ = ["OVERLAP", "clipped", "on_one_sheet", "tile_room", "tiled"]

OVERLAP = 12.0  # mm that two sheets have in common
_TOP, _FOOT = 9.0, 9.0  # mm, of what stands on every sheet
_ARM, _LEAST = 4.0, 60.0  # mm: of a cross, and of a sheet's room that is worth printing on
_COLOUR = {"GUIDE": GREY}
_CAP = 0.7  # height of a capital against the size of the letters
_MOST = 150  # sheets that a drawing may spread over
_LARGEST = 5000.0  # mm, of a sheet that readers of PDF accept


def tiled(drawing: Drawing, size: PaperSize, head: Masthead) -> Printed:
    """The drawing on paper of one size, on one sheet where it fits.

    Args:
        drawing: at full size.
        size: of the paper, turned as it is to lie; nothing is scaled to it.
        head: of every sheet.

    Raises:
        NoAnswer: the paper is too small to hold anything beside its margins, or it would take hundreds of sheets.
    """
    wide, high = tile_room(size)
    if min(wide, high) < _LEAST:
        raise NoAnswer("This paper is too small for a template.", "Take A4, Letter or larger.")
    x0, y0, x1, y1 = drawing.bounds
    across, down = _count(x1 - x0, wide), _count(y1 - y0, high)
    if across * down > _MOST:
        raise NoAnswer(
            f"At full size {drawing.name} is {max(x1 - x0, y1 - y0) / 1000:.1f} m long: {across} by {down} sheets of this paper.",
            "Take the SVG or DXF, or strike it on the floor with a string.",
        )
    sheets: list[list[Ink]] = []
    for row in range(down):
        for column in range(across):
            # The window on the drawing that this sheet shows, y upwards.
            left, top = x0 + column * (wide - OVERLAP), y1 - row * (high - OVERLAP)
            window = (left, top - high, left + wide, top)
            ink = clipped(drawing, window, MARGIN - left, MARGIN + _TOP + top)
            if ink and across * down > 1:
                ink += _registered(window, (x0, y1), (wide - OVERLAP, high - OVERLAP), (across, down), (row, column), size)
            if ink:  # a sheet with nothing on it is not printed
                sheets.append(ink)
    pages = [Page(size.width, size.height, (*page_frame(size, head, n, len(sheets)), *ink)) for n, ink in enumerate(sheets, 1)]
    return Printed(head.title, tuple(pages), ((drawing.name, 0),))


def tile_room(size: PaperSize) -> tuple[float, float]:
    """Width and height of a sheet that a drawing can lie on, mm."""
    return size.width - 2 * MARGIN, size.height - 2 * MARGIN - _TOP - _FOOT


def on_one_sheet(drawing: Drawing, head: Masthead) -> Printed:
    """The drawing on one sheet that is large enough for it.

    Raises:
        NoAnswer: it is longer than any sheet.
    """
    x0, y0, x1, y1 = drawing.bounds
    wide, high = max(x1 - x0 + 2 * MARGIN, 190.0), y1 - y0 + 2 * MARGIN + _TOP + _FOOT
    if max(wide, high) > _LARGEST:
        raise NoAnswer(f"At full size it is {max(wide, high) / 1000:.1f} m long; one sheet can be 5 m.", "Print it tiled, or take the SVG.")
    size = PaperSize("sheet", "one large sheet", wide, high)
    ink = clipped(drawing, (x0 - 1, y0 - 1, x1 + 1, y1 + 1), MARGIN - x0, MARGIN + _TOP + y1)
    return Printed(head.title, (Page(wide, high, (*page_frame(size, head, 1, 1), *ink)),), ((drawing.name, 0),))


def _count(long: float, room: float) -> int:
    return 1 if long <= room else math.ceil((long - OVERLAP) / (room - OVERLAP) - 1e-9)


def clipped(drawing: Drawing, window: tuple[float, float, float, float], dx: float, dy: float) -> list[Ink]:
    """What of a drawing lies in a window, as ink: x + dx, dy − y."""
    found: list[Ink] = []
    for one in drawing.lines:
        wide, dash, _number = LAYERS[one.layer]
        points = np.vstack((one.points, one.points[:1])) if one.closed else one.points
        whole = _inside(one.points, window)
        runs = [points] if whole else _runs(points, window)
        colour = _COLOUR.get(one.layer, "#000000")
        found += [Stroke(_placed(run, dx, dy), False, wide, "", dash, colour) for run in runs if len(run) > 1]
    for hole in drawing.holes:
        wide, dash, _number = LAYERS[hole.layer]
        turn = np.linspace(0, 2 * np.pi, 145)
        points = np.column_stack((hole.x + hole.diameter / 2 * np.cos(turn), hole.y + hole.diameter / 2 * np.sin(turn)))
        found += [
            Stroke(_placed(run, dx, dy), False, wide, "", dash) for run in ([points] if _inside(points, window) else _runs(points, window))
        ]
    a, b, c, d = window
    found += [_lettered(label, dx, dy) for label in drawing.labels if a <= label.x <= c and b <= label.y <= d]
    return found


def _lettered(label: Label, dx: float, dy: float) -> Lettering:
    return Lettering(label.x + dx, dy - label.y, label.text, label.high / MM_PER_PT / _CAP, 500, label.anchor, turn=label.turn)


def _placed(points: Array, dx: float, dy: float) -> Array:
    return np.asarray(points * (1, -1) + (dx, dy))


def _inside(points: Array, window: tuple[float, float, float, float]) -> bool:
    a, b, c, d = window
    return bool((points[:, 0] >= a).all() and (points[:, 0] <= c).all() and (points[:, 1] >= b).all() and (points[:, 1] <= d).all())


def _runs(points: Array, window: tuple[float, float, float, float]) -> list[Array]:
    """The parts of a line that lie in a window, each (n, 2): every stretch cut by the method of Liang and Barsky."""
    a, b, c, d = window
    found: list[list[Array]] = []
    for p, q in itertools.pairwise(points):
        t0, t1 = 0.0, 1.0
        for delta, low, high, at in ((q[0] - p[0], a, c, p[0]), (q[1] - p[1], b, d, p[1])):
            if abs(delta) < 1e-12:
                if not low <= at <= high:
                    t1 = -1.0
                continue
            near, far = sorted(((low - at) / delta, (high - at) / delta))
            t0, t1 = max(t0, near), min(t1, far)
        if t0 > t1:
            continue
        begin, end = p + (q - p) * t0, p + (q - p) * t1
        if found and t0 == 0.0 and np.array_equal(found[-1][-1], begin):
            found[-1].append(end)
        else:
            found.append([begin, end])
    return [np.array(run) for run in found]


def _registered(window: tuple[float, float, float, float], corner: tuple[float, float], step: tuple[float, float], count: tuple[int, int],
                at: tuple[int, int], size: PaperSize) -> list[Ink]:  # fmt: skip
    """Crosses in the middle of each overlap, at the same place of the drawing on every sheet that shows it; where to lay the next; a small map."""
    (left, bottom, right, top), (x0, y1), (dx, dy), (across, down), (row, column) = window, corner, step, count, at
    found: list[Ink] = [box(MARGIN, MARGIN + _TOP, right - left, top - bottom, 0.1, "", GREY, (1.0, 2.0))]
    xs = [x0 + k * dx + OVERLAP / 2 for k in range(1, across)] or [(left + right) / 2]
    ys = [y1 - k * dy - OVERLAP / 2 for k in range(1, down)]
    if not ys:
        ys = [top - 14.0, bottom + 14.0]
    elif across == 1:
        xs = [left + 14.0, right - 14.0]
    for x in xs:
        for y in ys:
            if left <= x <= right and bottom <= y <= top:
                px, py = MARGIN + x - left, MARGIN + _TOP + top - y
                found += [line(px - _ARM, py, px + _ARM, py, 0.2), line(px, py - _ARM, px, py + _ARM, 0.2)]
                found.append(Lettering(px + 1, py - 1, _name(round((x - x0) / dx), round((y1 - y) / dy)), 6, colour=GREY))
    words = [f"sheet {_name(column, row)}"]
    words += [f"{_name(column + 1, row)} to its right"] if column + 1 < across else []
    words += [f"{_name(column, row + 1)} under it"] if row + 1 < down else []
    foot = size.height - MARGIN
    found.append(Lettering(size.width / 2 + 8, foot - 1, ", ".join(words), 8, 600))
    cell = min(3.2, 24.0 / across, 6.0 / down)
    mx, my = size.width - MARGIN - 16 - across * cell, foot - 0.6 - down * cell
    for r in range(down):
        for c in range(across):
            found.append(box(mx + c * cell, my + r * cell, cell, cell, 0.15, "#bdbdbd" if (r, c) == (row, column) else ""))
    return found


def _name(column: int, row: int) -> str:
    """`B2`: the second sheet of the second row."""
    return f"{chr(65 + row % 26)}{column + 1}"
