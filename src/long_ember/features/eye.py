"""Eyes and rings turned on a bar (computations, section 3)."""

from __future__ import annotations

import math
from typing import ClassVar

from long_ember import fields
from long_ember.features.base import Check, Operation, Outer, Place, span_sum
from long_ember.features.bend import draw_tip
from long_ember.features.shape import Arc, Shape, Span
from long_ember.fields import facing_words
from long_ember.frozen import dataclass
from long_ember.sections import Section
from long_ember.units import Line, Quantity, say

__all__ = ["Eye"]


@dataclass(frozen=True, kw_only=True)
class Eye(Outer):
    """A ring turned at the end of the bar.

    Args:
        inside: inside diameter, mm.
        sweep: degrees; 360 closes it.
        trim: mm of bar cut off when the tip is trued.
        tip: section at the end, None as the bar.
        facing: degrees about the bar, 0 up.
    """

    kind: ClassVar[str] = "eye"
    stands: ClassVar[str] = "form"
    title: ClassVar[str] = "Eye"
    also: ClassVar[tuple[str, ...]] = ("ring", "loop", "turned eye")
    inside: float = fields.length("Inside diameter", 20.0, mark="diameter")
    sweep: float = fields.angle("Sweep", 360.0, low=90.0, high=360.0, tip="360 closes the eye.")
    trim: float = fields.length("Trim", 0.0, zero=True, tip="Cut off when the tip is trued.")
    tip: Section | None = fields.section("Tip section", None, optional=True, tip="What the end is drawn to; empty leaves the bar.")
    facing: float = fields.facing()

    def thickness(self, place: Place) -> float:
        """Mean thickness round the eye, mm."""
        facing = math.radians(self.facing)
        return ((self.tip or place.bar).blend.across(facing) + place.bar.blend.across(facing)) / 2

    def tip_first(self, place: Place) -> Shape:
        """An arc on the centreline: π(ID + t)·sweep/360."""
        length_ = math.pi * (self.inside + self.thickness(place)) * self.sweep / 360
        span = Span(length_, (self.tip or place.bar).blend, place.bar.blend)
        return Shape((span,), (Arc(length_, math.radians(self.sweep), math.radians(self.facing)),))

    def removed(self, place: Place) -> float:
        """The trimmed tip, mm³."""
        return self.trim * (self.tip or place.bar).area

    def sum_lines(self, place: Place) -> tuple[Line, ...]:
        """Circumference at mid thickness, then volume, then what to take past the anvil edge."""
        t, form = self.thickness(place), self.tip_first(place)
        text = "Round the middle: 3.1416 × ({} + {}) × {}/360 = {}"
        values = (Quantity(self.inside, "decimal"), Quantity(t, "decimal"), Quantity(self.sweep, "number"))
        stock = (form.volume + self.removed(place)) / place.bar.area
        steel = span_sum("Steel", form.spans[0].reversed(), place.bar)
        return (
            say(text, *values, form.length),
            steel,
            *((say("With a trim of {}: {}", self.trim, stock),) if self.trim else ()),
            say("At the anvil: take {} past the edge once drawn.", form.length + self.trim),
        )

    def checks(self, place: Place) -> tuple[Check, ...]:
        """Eyes too tight for their bar; eyes that carry loads."""
        text = "An eye that carries a load gets no rating here: ask local codes and a licensed engineer."
        found = [Check("note", say(text), caution=True)]
        if self.inside < self.thickness(place):
            found.append(Check("warn", say("An eye of {} inside is smaller than its bar is thick: drift it instead.", self.inside)))
        return (*found, *self.buried(place))

    def operations(self, place: Place) -> tuple[Operation, ...]:
        """Draw, then turn the eye."""
        line = say("Turn the eye " + facing_words(self.facing) + " to {} inside.", self.inside)
        turn = Operation("eye", line, "whole" if self.trim else "path", "time", 700, ("anvil edge", "horn", "mandrel"), seconds=25.0)
        return ((draw_tip(self.tip, self.tip_first(place).length),) if self.tip else ()) + (turn,)

    def summary(self) -> Line:
        """Inside diameter and sweep."""
        return say("{} inside, {}", self.inside, Quantity(self.sweep, "angle"))
