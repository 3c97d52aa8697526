"""Upsets at an end or in the middle (computations, section 5)."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import ClassVar

from long_ember import fields
from long_ember.errors import NoAnswer
from long_ember.features.base import Check, Feature, Operation, Place, Side, span_sum, stock_of
from long_ember.features.effort import STRAIGHTEN, goes
from long_ember.features.run import run_out
from long_ember.features.shape import Shape, Straight
from long_ember.frozen import dataclass
from long_ember.sections import SHAPES, Section, square
from long_ember.units import Line, Quantity, say

__all__ = ["Upset"]


@dataclass(frozen=True, kw_only=True)
class Upset(Feature):
    """Bar thickened by driving it together.

    Args:
        section: the section reached.
        length: mm at that section.
        blend: mm of run-out to the bar on each side that adjoins it.
    """

    kind: ClassVar[str] = "upset"
    title: ClassVar[str] = "Upset"
    minds: ClassVar[bool] = True
    also: ClassVar[tuple[str, ...]] = ("upset end", "jump up", "swell", "bulk", "thicken")
    section: Section = fields.section("Section", square(16.0), tip="What the bar swells to, for example 16 sq.", mark="section")
    length: float = fields.length("Length", 20.0, mark="length")
    blend: float = fields.length("Run-out", 10.0, zero=True, tip="Sloped length back to the bar.")

    def fitted(self, bar: Section) -> Upset:
        """A third thicker than the bar, in the bar's own shape."""
        shape, wide = SHAPES[bar.shape], math.ceil(bar.width * 4 / 3)
        if shape.two_sizes and not shape.hollow:
            new = Section(bar.shape, wide, math.ceil(bar.thickness * 4 / 3))
        else:
            new = Section(bar.shape, wide, wide * shape.ratio, wall=bar.wall * wide / bar.width)
        ratio = bar.thickness / 12
        return replace(self, section=new, length=self.length * ratio, blend=self.blend * ratio)

    def shape(self, place: Place) -> Shape:
        """Run-out, thick part, run-out."""
        if self.section.area <= place.bar.area:
            raise NoAnswer("An upset must be larger than the bar.", "Enlarge its section, or use a set-down instead.")
        spans = run_out(self.section.blend, self.length, self.blend, place)
        return Shape(spans, (Straight(math.fsum(s.length for s in spans)),))

    def faces(self, place: Place) -> tuple[Side, Side]:
        """Its own section, either way."""
        side = Side(self.section.blend, slopes=self.blend > 0)
        return side, side

    def free_length(self, place: Place) -> float:
        """Hot length upset, in cubes: bar thicknesses."""
        return stock_of(self, place) / place.bar.thickness

    def sum_lines(self, place: Place) -> tuple[Line, ...]:
        """One line a span and the total in thicknesses."""
        spans = self.shape(place).spans
        lines = [span_sum("Thick part" if s.start == s.end else "Run-out", s, place.bar) for s in spans]
        total, cubes = stock_of(self, place), Quantity(self.free_length(place), "cubes")
        return (*lines, say("Stock: {}, {} × the thickness of the bar", total, cubes))

    def checks(self, place: Place) -> tuple[Check, ...]:
        """Longer than three thicknesses buckles."""
        free = self.free_length(place)
        if goes(free) == 1:
            return ()
        text = (
            "{} thicknesses of hot bar buckle in one go (3 is the limit): planned a stretch at a time, a heat each, straightened between."
        )
        return (Check("note", say(text, Quantity(free, "cubes"))),)

    def operations(self, place: Place) -> tuple[Operation, ...]:
        """Upset, keep straight."""
        text = f"Upset to {self.section.shape} {{}} for {{}}; cool what must not swell, straighten as you go."
        line = say(text, self.section.thickness, self.length)
        steps, tools = goes(self.free_length(place)), ("anvil or floor block", "water can", "callipers")
        return (Operation("upset", line, "section", "upset", 900, tools, blows=STRAIGHTEN * steps, goes=steps, along=True),)

    def summary(self) -> Line:
        """Section and length."""
        return say(f"{self.section.shape} {{}}, {{}} long", self.section.thickness, self.length)
