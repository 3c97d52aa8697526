"""Grooves: the neck made with a fuller (computations, sections 0 and 1)."""

from __future__ import annotations

import math
from collections.abc import Container
from dataclasses import replace
from functools import cache
from typing import ClassVar, Self

from long_ember import fields
from long_ember.errors import NoAnswer
from long_ember.features.base import Check, Feature, Operation, Place, stock_line
from long_ember.features.effort import ISOLATE, drawing_stop
from long_ember.features.shape import Shape, Straight, exact, profile
from long_ember.frozen import dataclass
from long_ember.sections import Blend, Section, outline_between
from long_ember.units import Line, Quantity, say

__all__ = ["Neck"]

_STEPS = 12
_POINTS = 80  # of the quadrature


@cache
def _gauss() -> tuple[tuple[float, float], ...]:
    """Places and weights of Gauss's rule on −1 to 1."""
    import numpy as np

    places, weights = np.polynomial.legendre.leggauss(_POINTS)
    return tuple(zip(places.tolist(), weights.tolist(), strict=True))


@dataclass(frozen=True, kw_only=True)
class Neck(Feature):
    """A groove sunk from two sides, or all round, with a fuller.

    Args:
        size: what is left between the grooves, mm.
        fuller: diameter of the fuller, mm.
        sides: two, all round, or edges (a flat is narrowed).
        passes: one, or two (set off early, thinned when what lies beyond it is done).
    """

    kind: ClassVar[str] = "neck"
    title: ClassVar[str] = "Neck"
    stands: ClassVar[str] = "work"
    recuts: ClassVar[bool] = True
    own_first: ClassVar[bool] = True
    also: ClassVar[tuple[str, ...]] = ("fuller", "groove", "waist", "shoulder groove", "butcher")
    size: float = fields.length("Left standing", 7.0, mark="tip", tip="Between the grooves.")
    fuller: float = fields.length("Fuller", 12.0, tip="Diameter of the fuller.")
    sides: str = fields.choice("Sunk", "two", ("two", "from two sides"), ("all", "all round"), ("edges", "from both edges"))

    passes: str = fields.choice("Made in", "one", ("one", "one pass"), ("two", "two: set off early, thinned last"), late=6)

    def suited(self, bar: Section, said: Container[str]) -> Self:
        """What is left of a flat that is more than its thickness is left of its width."""
        across = "sides" not in said and bar.shape == "flat" and bar.thickness <= self.size < bar.width
        return replace(self, sides="edges") if across else self

    def width(self, place: Place) -> float:
        """Length of the groove, a chord of the fuller, mm."""
        depth = self._depth(place)
        if depth <= 0:
            edges = self.sides == "two" and place.bar.blend.form == "rectangle" and place.bar.width > self.size
            raise NoAnswer(
                "A neck must be thinner than the bar.",
                f"Make what is left standing smaller{', or sink it from both edges' if edges else ''}.",
            )
        if self.sides == "edges" and place.bar.blend.form != "rectangle":
            raise NoAnswer("Edges are fullered on square or flat bar.", "Flatten it there first, or sink the neck from two sides.")
        r = self.fuller / 2
        return 2 * r if depth >= r else 2 * math.sqrt(r * r - (r - depth) ** 2)

    def _depth(self, place: Place) -> float:
        """How deep each groove is, mm."""
        return ((place.bar.width if self.sides == "edges" else place.bar.thickness) - self.size) / 2

    def _left(self, place: Place, depth: float) -> Blend:
        """The section where the grooves are `depth` mm deep: all round it keeps its outline, from two sides they cut two flats in it."""
        bar, bore = place.bar.blend, min(place.bar.bore, self.size * 0.9)
        if self.sides == "all":
            return Blend(bar.w - 2 * depth, bar.t - 2 * depth, bar.k, bar.form, bore)
        if self.sides == "edges":
            return Blend(bar.w - 2 * depth, bar.t, bar.k, bar.form, bore)
        left = bar.t - 2 * depth
        if bar.form == "rectangle" or depth <= 0:
            return Blend(bar.w, left, bar.k, bar.form, bore)
        k = (outline_between(place.bar, depth) + math.pi / 4 * place.bar.bore**2) / (bar.w * left)
        return Blend(bar.w, left, k, "barrel" if bar.form == "ellipse" else bar.form, bore)

    def shape(self, place: Place) -> Shape:
        """A circular groove, drawn in slices."""
        length, r = self.width(place), self.fuller / 2
        depth, sunk = self._depth(place), []
        for i in range(_STEPS + 1):
            x = length * (i / _STEPS - 0.5)
            sunk.append(max(depth - r + math.sqrt(max(r * r - x * x, 0.0)), 0.0))
        rows = [self._left(place, d) for d in sunk]
        return Shape(exact(profile(length, rows), self.volume(place)), (Straight(length),))

    def volume(self, place: Place) -> float:
        """What stands between the grooves, mm³.

        The depth d(x) = √(r² − x²) − c with c = r − depth over the chord 2X. In closed form where the section is k·w·(t − 2d), or
        k·(w − 2d)(t − 2d) all round; where two flats are cut in a rounded or many-sided section, by Gauss's rule over x = r·sin φ, exact to rounding.
        """
        bar, r, x = place.bar.blend, self.fuller / 2, self.width(place) / 2
        if self.sides == "edges":
            bar = replace(bar, w=bar.t, t=bar.w)
        c = r - self._depth(place)
        if self.sides == "two" and bar.form != "rectangle":
            reach = math.asin(min(x / r, 1.0))
            return reach * math.fsum(
                weight * self._left(place, max(r * math.cos(reach * at) - c, 0.0)).area * r * math.cos(reach * at)
                for at, weight in _gauss()
            )
        arc = x * math.sqrt(max(r * r - x * x, 0.0)) + r * r * math.asin(min(x / r, 1.0))
        first, second = arc - 2 * c * x, 2 * (r * r * x - x**3 / 3) - 2 * c * arc + 2 * c * c * x
        outline = bar.w * bar.t * 2 * x - 2 * bar.w * first
        if self.sides == "all":
            outline += 4 * second - 2 * bar.t * first
        return bar.k * outline - math.pi / 4 * min(bar.bore, self.size * 0.9) ** 2 * 2 * x

    def sum_lines(self, place: Place) -> tuple[Line, ...]:
        """The volume between the arcs."""
        text = "Groove of a fuller {}, {} left, {} wide, between the arcs: {}"
        volume = Quantity(self.shape(place).volume, "volume")
        return say(text, self.fuller, self.size, self.width(place), volume), stock_line(self, place)

    def checks(self, place: Place) -> tuple[Check, ...]:
        """A neck that is cut through."""
        if self.size >= 0.35 * (place.bar.width if self.sides == "edges" else place.bar.thickness):
            return (Check("note", say("Keep the neck thick until what lies beyond it is finished.")),)
        return (Check("warn", say("Only {} are left: a neck this thin burns or breaks off while you work beyond it.", self.size)),)

    def operations(self, place: Place) -> tuple[Operation, ...]:
        """Fuller, turning."""
        how = "from both edges, on edge; true the faces" if self.sides == "edges" else "turning after each pair of blows"
        line = say(f"Fuller to {{}}, {how}.", self.size)
        tools = ("fullers or guillotine", "hammer", "callipers")
        if self.passes == "two":
            rest = self.size + self._depth(place)  # half of each groove is left for the end
            first = say("Set the neck off with the fuller, to {}: the rest when what lies beyond it is done.", rest)
            thin = Operation("setdown", line, "whole", "time", drawing_stop(place.bar.thickness), tools, blows=ISOLATE / 2, way="thin")
            return Operation.drawn("setdown", place.bar, first, tools, blows=ISOLATE / 2, way="isolate"), thin
        return (Operation.drawn("setdown", place.bar, line, tools, blows=ISOLATE, way="neck"),)

    def summary(self) -> Line:
        """What is left."""
        return say("{} left, fuller {}", self.size, self.fuller)
