"""A drawing in millimetres, at full size: lines on layers, holes, words. What paper, SVG and DXF have in common."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np

from long_ember.arrays import Array
from long_ember.blanks import Outline
from long_ember.frozen import dataclass

__all__ = ["LAYERS", "Drawing", "DrawnHole", "DrawnLine", "Label", "outline_drawing", "side_by_side"]

# layer: stroke on paper in mm, dash in mm, colour number in a DXF.
LAYERS: dict[str, tuple[float, tuple[float, float] | tuple[()], int]] = {
    "CUT": (0.35, (), 7),
    "BEND": (0.25, (3.0, 2.0), 5),
    "MARK": (0.25, (), 1),
    "GUIDE": (0.15, (1.0, 1.5), 8),
}
_LETTER = 0.55  # mean width of a letter against its height, for bounds


@dataclass(frozen=True, eq=False)
class DrawnLine:
    """A line.

    Args:
        points: (n, 2), mm, y upwards.
        layer: key of `LAYERS`.
        closed: the last point is joined to the first.
    """

    points: Array
    layer: str = "CUT"
    closed: bool = False


@dataclass(frozen=True)
class DrawnHole:
    """A true circle.

    Args:
        x: mm.
        y: mm.
        diameter: mm.
        layer: key of `LAYERS`.
    """

    x: float
    y: float
    diameter: float
    layer: str = "CUT"


@dataclass(frozen=True)
class Label:
    """Words.

    Args:
        x: mm.
        y: of the baseline, mm, upwards.
        text: one line.
        high: of the letters, mm.
        anchor: −1 begins at x, 0 has its middle there, 1 ends there.
        turn: degrees, counter-clockwise.
    """

    x: float
    y: float
    text: str
    high: float = 3.0
    anchor: int = -1
    turn: float = 0.0


@dataclass(frozen=True, eq=False)
class Drawing:
    """What is cut out, laid against the steel, or drilled by.

    Args:
        name: what it is.
        note: how it is used, "" for nothing.
        lines: strokes.
        holes: circles.
        labels: words.
    """

    name: str
    note: str = ""
    lines: tuple[DrawnLine, ...] = ()
    holes: tuple[DrawnHole, ...] = ()
    labels: tuple[Label, ...] = ()

    @property
    def bounds(self) -> tuple[float, float, float, float]:
        """x0, y0, x1, y1, mm: of lines, holes and about the words."""
        points = [line.points for line in self.lines]
        points += [
            np.array([(h.x - h.diameter / 2, h.y - h.diameter / 2), (h.x + h.diameter / 2, h.y + h.diameter / 2)]) for h in self.holes
        ]
        for label in self.labels:
            long = len(label.text) * label.high * _LETTER
            begin = -(label.anchor + 1) / 2 * long
            turn = np.radians(label.turn)
            along, up = np.array([np.cos(turn), np.sin(turn)]), np.array([-np.sin(turn), np.cos(turn)])
            at = np.array([label.x, label.y])
            points.append(np.array([at + along * begin, at + along * (begin + long), at + along * begin + up * label.high]))
        every = np.vstack(points)
        low, high = every.min(axis=0), every.max(axis=0)
        return float(low[0]), float(low[1]), float(high[0]), float(high[1])

    def moved(self, dx: float, dy: float) -> Drawing:
        """The same elsewhere."""
        return replace(
            self,
            lines=tuple(replace(line, points=np.asarray(line.points + np.array((dx, dy)))) for line in self.lines),
            holes=tuple(replace(h, x=h.x + dx, y=h.y + dy) for h in self.holes),
            labels=tuple(replace(label, x=label.x + dx, y=label.y + dy) for label in self.labels),
        )


def side_by_side(
    drawings: list[Drawing], name: str, room: float, gap: float = 12.0, page: tuple[float, float] = (math.inf, 0.0)
) -> Drawing:
    """Drawings on one sheet, row by row, each with its name under it.

    Args:
        drawings: at least one.
        name: of the whole.
        room: mm, that a row may be long; a single one may be longer.
        gap: mm between two.
        page: mm that one sheet is deep, and that two have in common: a row that fits on one is not cut in two.
    """
    rows: list[list[Drawing]] = [[]]
    used = 0.0
    for one in drawings:
        named = _named(one)
        x0, _y0, x1, _y1 = named.bounds
        if rows[-1] and used + x1 - x0 > room:
            rows.append([])
            used = 0.0
        rows[-1].append(named)
        used += x1 - x0 + gap
    placed: list[Drawing] = []
    y = 0.0
    for row in rows:
        deep = max(b[3] - b[1] for b in (d.bounds for d in row))
        high, common = page
        if math.isfinite(high) and deep <= high - common:
            begun = math.floor(-y / (high - common) + 1e-9)
            if -y + deep > begun * (high - common) + high:
                y = -(begun + 1) * (high - common) - common
        x = 0.0
        for one in row:
            x0, _y0, x1, y1 = one.bounds
            placed.append(one.moved(x - x0, y - y1))
            x += x1 - x0 + gap
        y -= deep + gap
    return Drawing(name, "", tuple(line for d in placed for line in d.lines), tuple(h for d in placed for h in d.holes), tuple(x for d in placed for x in d.labels))  # fmt: skip


def _named(one: Drawing) -> Drawing:
    x0, y0, _x1, _y1 = one.bounds
    words = [Label(x0, y0 - 6.0, one.name, 3.6)]
    words += [Label(x0, y0 - 11.0 - 4.2 * i, line, 2.6) for i, line in enumerate(one.note.split("\n")) if line]
    return replace(one, labels=(*one.labels, *words))


def outline_drawing(outline: Outline, name: str, note: str = "") -> Drawing:
    """A blank of sheet or plate: cuts, bend lines dashed, marks thin."""
    lines = [DrawnLine(p, "CUT", True) for p in (outline.edge, *outline.holes)]
    lines += [DrawnLine(p, "CUT") for p in outline.slits]
    lines += [DrawnLine(p, "BEND", len(p) > 2) for p in outline.bends]
    lines += [DrawnLine(p, "MARK", len(p) > 2) for p in outline.marks]
    return Drawing(name, note, tuple(lines))
