"""Holes, drilled or punched (forge reference, section 6)."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import ClassVar

from long_ember.errors import NoAnswer
from long_ember.features import fields
from long_ember.features.base import Check, Feature, Operation, Place
from long_ember.features.shape import Shape, Span, Straight, Void, hole_volume
from long_ember.units import Line, Quantity, say

__all__ = ["Hole"]


@dataclass(frozen=True, kw_only=True)
class Hole(Feature):
    """A round hole in a length of bar.

    Args:
        diameter: mm.
        length: mm of bar given to it; the hole sits in the middle.
        method: drilled (all of it is chips) or punched (a slug; the rest swells the bar).
        axis: the hole runs through the thickness or through the width.
        slug: share of the hole's volume that a punch takes out.
    """

    kind: ClassVar[str] = "hole"
    title: ClassVar[str] = "Hole"
    also: ClassVar[tuple[str, ...]] = ("punch", "drill", "bore", "screw hole", "rivet hole")
    diameter: float = fields.length("Diameter", 6.0, mark="diameter")
    length: float = fields.length("Length", 30.0, mark="length", tip="Bar given to the hole, half on each side.")
    method: str = fields.choice("Made by", "drilled", ("drilled", "drilling, cold"), ("punched", "punching, hot"))
    axis: str = fields.choice("Through", "thickness", ("thickness", "the thickness"), ("width", "the width"))
    slug: float = fields.percent("Slug", 0.30, tip="Share of the hole a punch takes out; the rest swells the bar.")

    def volume(self, place: Place) -> float:
        """Volume of the hole, mm³."""
        through = place.bar.thickness if self.axis == "thickness" else place.bar.width
        return hole_volume(self.diameter, through, round_bar=place.bar.shape == "round")

    def _across(self, place: Place) -> float:
        return place.bar.width if self.axis == "thickness" else place.bar.thickness

    def shape(self, place: Place) -> Shape:
        """Parallel bar with a hole; punched, the sides swell by what the slug did not take."""
        if self.diameter >= self._across(place):
            raise NoAnswer(
                "The hole is as wide as the bar: no wall is left beside it.",
                "Make the hole smaller, upset the bar first, or turn an eye.",
            )
        if self.diameter >= self.length:
            raise NoAnswer("The hole is longer than the bar given to it.", "Give it more length.")
        void = Void(self.length / 2, self.diameter, self.axis, self.volume(place))
        return Shape(self._spans(place, void.volume), (Straight(self.length),), (void,))

    def _spans(self, place: Place, volume: float) -> tuple[Span, ...]:
        bar = place.bar.blend
        if self.method == "drilled" or self.slug == 1:
            return (Span(self.length, bar, bar),)
        swollen = min(self.length, 2 * self.diameter)
        other = bar.t if self.axis == "thickness" else bar.w
        growth = 2 * (1 - self.slug) * volume / (bar.k * other * swollen)
        peak = replace(bar, w=bar.w + growth) if self.axis == "thickness" else replace(bar, t=bar.t + growth)
        up, plain = Span(swollen / 2, bar, peak), Span((self.length - swollen) / 2, bar, bar)
        return (plain, up, up.reversed(), plain) if plain.length > 0 else (up, up.reversed())

    def removed(self, place: Place) -> float:
        """Chips, or the slug."""
        return self.volume(place) * (1.0 if self.method == "drilled" else self.slug)

    def sum_lines(self, place: Place) -> tuple[Line, ...]:
        """What the hole takes out; the bar length stays."""
        volume, out = Quantity(self.volume(place), "volume"), Quantity(self.removed(place), "volume")
        lines = [say("Hole {}: {}, of which {} comes out", self.diameter, volume, out)]
        if self.method == "punched":
            lines.append(say("The other {} swells the bar beside the hole", Quantity(volume.value - out.value, "volume")))
        return (*lines, say("Stock: {}, the length does not change", self.length))

    def checks(self, place: Place) -> tuple[Check, ...]:
        """Thin walls; slugs fly."""
        wall, found = (self._across(place) - self.diameter) / 2, []
        if wall < min(self.diameter / 2, place.bar.thickness / 2):
            found.append(Check("warn", say("Only {} of wall beside the hole: the sides tear or bulge.", wall)))
        if self.method == "punched":
            found.append(Check("note", say("Punch slugs fly and punch heads mushroom: eyes, gloves, dress the punch."), caution=True))
        return tuple(found)

    def operations(self, place: Place) -> tuple[Operation, ...]:
        """Punch hot or drill cold."""
        if self.method == "drilled":
            line = say("Drill {}, cold; centre pop first.", self.diameter)
            return (Operation("drill", line, "whole", "time", 0, ("drill", "centre punch", "clamp"), seconds=90.0, cold=True),)
        line = say("Punch {} from both sides, knock the slug through.", self.diameter)
        return (Operation("punch", line, "whole", "punch", 850, ("punch", "bolster", "water can")),)

    def summary(self) -> Line:
        """Diameter and method."""
        return say(f"{{}} {self.method}, in {{}}", self.diameter, self.length)
