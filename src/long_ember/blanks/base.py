"""What every blank has in common: an outline to cut, lines to bend along, area, mass and its sum."""

from __future__ import annotations

import math
from typing import ClassVar

import numpy as np

from long_ember.arrays import Array
from long_ember.errors import NoAnswer
from long_ember.features import Check
from long_ember.fields import check_fields
from long_ember.frozen import dataclass
from long_ember.units import Line, Quantity, gauge_words, say

__all__ = ["Blank", "Outline", "round_edge", "slit"]


@dataclass(frozen=True, eq=False)
class Outline:
    """What is drawn on the sheet, mm.

    Args:
        edge: outer outline, (n, 2), closed by itself.
        holes: outlines cut out, each (m, 2).
        slits: lines cut, each (k, 2).
        bends: lines to bend along, each (k, 2).
        kerf: area that the slits take, mm².
        marks: lines that are only marked: where a bevel begins, each (k, 2).
    """

    edge: Array
    holes: tuple[Array, ...] = ()
    slits: tuple[Array, ...] = ()
    bends: tuple[Array, ...] = ()
    kerf: float = 0.0
    marks: tuple[Array, ...] = ()

    @property
    def area(self) -> float:
        """Outline less holes by the shoelace formula, less what the slits take, mm²."""
        return _shoelace(self.edge) - math.fsum(_shoelace(h) for h in self.holes) - self.kerf

    @property
    def size(self) -> tuple[float, float]:
        """Length and width of the rectangle it is cut from, mm."""
        low, high = self.edge.min(axis=0), self.edge.max(axis=0)
        return float(high[0] - low[0]), float(high[1] - low[1])


def _shoelace(points: Array) -> float:
    x, y = points[:, 0], points[:, 1]
    return abs(float(np.dot(x, np.roll(y, -1)) - np.dot(y, np.roll(x, -1)))) / 2


def round_edge(diameter: float, x: float = 0.0, y: float = 0.0, corners: int = 360) -> Array:
    """A circle as corners of the circle's own area, (corners, 2)."""
    grow = math.sqrt(math.pi / (corners / 2 * math.sin(2 * math.pi / corners)))
    angle = 2 * np.pi * np.arange(corners) / corners
    return np.column_stack((x + diameter / 2 * grow * np.cos(angle), y + diameter / 2 * grow * np.sin(angle)))


def slit(x0: float, y0: float, x1: float, y1: float) -> Array:
    """A straight line from one point to another, (2, 2), mm."""
    return np.array([(x0, y0), (x1, y1)])


@dataclass(frozen=True, kw_only=True)
class Blank:
    """A blank; each kind is a frozen subclass with declared fields, like a feature."""

    kind: ClassVar[str] = ""
    title: ClassVar[str] = ""
    also: ClassVar[tuple[str, ...]] = ()

    def __post_init__(self) -> None:
        check_fields(self)

    @property
    def gauge(self) -> float:
        """Thickness of the sheet, mm."""
        return float(getattr(self, "thickness"))  # noqa: B009 - every kind declares it

    def outline(self) -> Outline:
        """What is cut.

        Raises:
            NoAnswer: when the sizes contradict each other.
        """
        raise NoAnswer(f"{type(self).__name__} has no outline.", "")

    def cut_away(self) -> float:
        """Volume taken off after it is cut, mm³: bevels."""
        return 0.0

    def words(self) -> tuple[Line, ...]:
        """The sum, without area and mass."""
        return ()

    def checks(self) -> tuple[Check, ...]:
        """What to mind."""
        return ()

    def steps(self) -> tuple[Line, ...]:
        """What to do, in order."""
        return ()

    def sum_lines(self, density: float) -> tuple[Line, ...]:
        """The sum with area, rectangle and mass.

        Args:
            density: g/mm³.
        """
        outline = self.outline()
        length, width = outline.size
        area = outline.area
        waste = 1 - area / (length * width)
        named = gauge_words(self.gauge)
        return (
            *self.words(),
            *((say(f"Sheet {named}: {{}} thick", Quantity(self.gauge, "fine")),) if named else ()),
            say("Cut from a rectangle of {} × {}, waste {}", length, width, Quantity(waste, "percent")),
            say("Area {} × {} = {}", Quantity(area, "area"), self.gauge, Quantity(area * self.gauge * density, "mass")),
            *self._bevelled(area, density),
        )

    def _bevelled(self, area: float, density: float) -> tuple[Line, ...]:
        away = self.cut_away()
        if not away:
            return ()
        text = "Bevels take {}: {} finished"
        return (say(text, Quantity(away, "volume"), Quantity((area * self.gauge - away) * density, "mass")),)
