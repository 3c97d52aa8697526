"""What lies on a paper: strokes and words in millimetres, whoever draws them: a PDF, a preview, a printer, an SVG."""

from __future__ import annotations

import math
import os
from collections.abc import Iterable, Sequence
from dataclasses import replace

import numpy as np

from long_ember.arrays import Array
from long_ember.frozen import dataclass

__all__ = ["BLACK", "GREY", "PALE", "PAPER_SIZES", "Ink", "Lettering", "Page", "PaperSize", "Printed", "Stroke", "box", "circle_line", "hatched", "line", "paper_here", "shifted", "usual_paper"]  # fmt: skip

BLACK, GREY, PALE = "#000000", "#5a5a5a", "#dedede"  # told apart on a printer without colour


@dataclass(frozen=True, eq=False)
class Stroke:
    """A line or an area.

    Args:
        points: (n, 2), mm from the upper left corner, y downwards.
        closed: the last point is joined to the first.
        wide: of the line, mm; 0 for none.
        fill: colour of the area as #rrggbb, "" for none.
        dash: lengths of stroke and gap, mm.
        colour: of the line.
    """

    points: Array
    closed: bool = False
    wide: float = 0.25
    fill: str = ""
    dash: tuple[float, float] | tuple[()] = ()
    colour: str = BLACK


@dataclass(frozen=True)
class Lettering:
    """One line of text.

    Args:
        x: mm.
        y: of the baseline, mm.
        text: without line breaks.
        size: pt.
        weight: 400, 500, 600 or 700.
        anchor: −1 begins at x, 0 has its middle there, 1 ends there.
        colour: of the letters.
        turn: degrees, counter-clockwise, about x, y.
    """

    x: float
    y: float
    text: str
    size: float = 10.0
    weight: int = 400
    anchor: int = -1
    colour: str = BLACK
    turn: float = 0.0


Ink = Stroke | Lettering


@dataclass(frozen=True)
class PaperSize:
    """A paper, upright.

    Args:
        key: name on the command line.
        title: name on screen.
        width: mm.
        height: mm.
    """

    key: str
    title: str
    width: float
    height: float

    def turned(self, landscape: bool) -> PaperSize:
        """Lying, or upright."""
        long, short = max(self.width, self.height), min(self.width, self.height)
        return replace(self, width=long if landscape else short, height=short if landscape else long)


PAPER_SIZES = {
    p.key: p
    for p in (
        PaperSize("a4", "A4", 210.0, 297.0),
        PaperSize("a3", "A3", 297.0, 420.0),
        PaperSize("letter", "Letter", 215.9, 279.4),
        PaperSize("tabloid", "Tabloid, 11 × 17 inch", 279.4, 431.8),
    )
}
_LETTER = frozenset(["US", "CA", "MX", "CL", "CO", "CR", "DO", "GT", "NI", "PA", "PH", "PR", "SV", "VE"])


def usual_paper(locale: str) -> str:
    """Key of the paper that is sold where a locale is spoken.

    >>> usual_paper("en_US.UTF-8"), usual_paper("de_AT"), usual_paper("C")
    ('letter', 'a4', 'a4')
    """
    return "letter" if locale.partition(".")[0].partition("@")[0].rpartition("_")[2] in _LETTER else "a4"


def paper_here() -> str:
    """Key of the paper that is sold where the person's own locale is spoken."""
    return usual_paper(next((os.environ[name] for name in ("LC_ALL", "LC_PAPER", "LANG") if os.environ.get(name)), "C"))


@dataclass(frozen=True)
class Page:
    """One side of paper.

    Args:
        width: mm.
        height: mm.
        ink: in the order that it is laid down.
        mark: what the list of contents calls it, "" for nothing.
    """

    width: float
    height: float
    ink: tuple[Ink, ...]
    mark: str = ""


@dataclass(frozen=True)
class Printed:
    """Pages that belong together.

    Args:
        title: of the whole.
        pages: at least one.
        contents: headings, each with its page from 0.
    """

    title: str
    pages: tuple[Page, ...]
    contents: tuple[tuple[str, int], ...] = ()


def line(
    x0: float, y0: float, x1: float, y1: float, wide: float = 0.25, colour: str = BLACK, dash: tuple[float, float] | tuple[()] = ()
) -> Stroke:
    """A straight line, mm."""
    return Stroke(np.array([(x0, y0), (x1, y1)]), wide=wide, colour=colour, dash=dash)


def box(x: float, y: float, width: float, height: float, wide: float = 0.25, fill: str = "", colour: str = BLACK,
        dash: tuple[float, float] | tuple[()] = ()) -> Stroke:  # fmt: skip
    """A rectangle by its upper left corner, mm."""
    corners = np.array([(x, y), (x + width, y), (x + width, y + height), (x, y + height)])
    return Stroke(corners, True, wide, fill, dash, colour)


def circle_line(x: float, y: float, radius: float, wide: float = 0.25, fill: str = "", colour: str = BLACK) -> Stroke:
    """A circle, mm."""
    turn = np.linspace(0, 2 * np.pi, 49)[:-1]
    return Stroke(np.column_stack((x + radius * np.cos(turn), y + radius * np.sin(turn))), True, wide, fill, (), colour)


def hatched(outline: Array, step: float = 1.6, wide: float = 0.18, colour: str = BLACK) -> list[Stroke]:
    """Slanting lines inside a closed outline: what colour says on a screen, told without it.

    Args:
        outline: (n, 2), mm.
        step: mm between two lines.
        wide: of a line, mm.
        colour: of the lines.
    """
    along = (outline[:, 0] + outline[:, 1]) / math.sqrt(2)
    found = []
    closed = np.vstack((outline, outline[:1]))
    u, v = (closed[:, 0] + closed[:, 1]) / math.sqrt(2), (closed[:, 1] - closed[:, 0]) / math.sqrt(2)
    for level in np.arange(math.ceil(along.min() / step) * step + step / 2, along.max(), step):
        over = (u[:-1] <= level) != (u[1:] <= level)
        share = (level - u[:-1][over]) / (u[1:][over] - u[:-1][over])
        cuts = np.sort(v[:-1][over] + share * (v[1:][over] - v[:-1][over]))
        for a, b in zip(cuts[::2], cuts[1::2], strict=False):
            ends = np.array([(level - a, level + a), (level - b, level + b)]) / math.sqrt(2)
            found.append(Stroke(ends, wide=wide, colour=colour))
    return found


def shifted(ink: Iterable[Ink], dx: float, dy: float, scale: float = 1.0) -> list[Ink]:
    """The same ink elsewhere, mm; smaller where it must be."""
    found: list[Ink] = []
    for one in ink:
        if isinstance(one, Lettering):
            found.append(replace(one, x=one.x * scale + dx, y=one.y * scale + dy, size=one.size * scale))
        else:
            found.append(replace(one, points=one.points * scale + (dx, dy), wide=one.wide * min(scale, 1.0)))
    return found


def extent(ink: Sequence[Ink]) -> tuple[float, float, float, float]:
    """x0, y0, x1, y1 of all strokes, mm; of no stroke nothing."""
    points = [one.points for one in ink if isinstance(one, Stroke)]
    if not points:
        return (0.0, 0.0, 0.0, 0.0)
    low, high = np.vstack(points).min(axis=0), np.vstack(points).max(axis=0)
    return float(low[0]), float(low[1]), float(high[0]), float(high[1])
