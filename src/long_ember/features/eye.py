"""Eyes and rings turned on a bar (computations, section 3)."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import ClassVar, Self

from long_ember import fields
from long_ember.features.base import Check, Formed, Operation, Outer, Place, dec, span_sum
from long_ember.features.bend import draw_tip
from long_ember.features.effort import CLOSE, bend_moment
from long_ember.features.shape import Arc, Shape, Span
from long_ember.features.turning import Depth, bend_range, bent, depth, developed_line, mean_depth, on_arc
from long_ember.fields import toward_words
from long_ember.frozen import dataclass
from long_ember.sections import Section
from long_ember.units import Line, Quantity, say

__all__ = ["Eye"]


@dataclass(frozen=True, kw_only=True)
class Eye(Formed, Outer):
    """A ring turned at the end of the bar.

    Args:
        inside: inside diameter, mm.
        sweep: degrees; 360 closes it.
        trim: mm of bar cut off when the tip is trued.
        tip: section at the end, None as the bar.
        facing: degrees about the bar, 0 up.
    """

    kind: ClassVar[str] = "eye"
    curves: ClassVar[bool] = True
    stands: ClassVar[str] = "form"
    title: ClassVar[str] = "Eye"
    also: ClassVar[tuple[str, ...]] = ("ring", "loop", "turned eye")
    inside: float = fields.length("Inside diameter", 20.0, mark="diameter")
    sweep: float = fields.angle("Sweep", 360.0, low=90.0, high=360.0, tip="360 closes the eye.")
    trim: float = fields.length("Trim", 0.0, zero=True, tip="Cut off when the tip is trued.")
    tip: Section | None = fields.section("Tip section", None, optional=True, tip="What the end is drawn to; empty leaves the bar.")
    facing: float = fields.facing()

    def standing(self) -> Self:
        """On steel that is drawn already, and not cut there."""
        return replace(self, tip=None, trim=0.0)

    @property
    def closes(self) -> bool:
        """Its tip lies against its root."""
        return True

    def _deep(self, place: Place) -> Depth:
        """Mean depth round the eye."""
        return mean_depth(depth((self.tip or place.bar).blend, self.facing), depth(place.bar.blend, self.facing))

    def _drawn(self, place: Place) -> Span:
        """The bar before it is turned, as long as the bend rule says."""
        length = on_arc(math.radians(self.sweep), self.inside / 2, self._deep(place), place.rule)
        return Span(length, (self.tip or place.bar).blend, place.bar.blend)

    def outside(self, place: Place) -> float:
        """Outside diameter where the bar is as thick as its mean, mm."""
        return self.inside + 2 * self._deep(place).whole

    def tip_first(self, place: Place) -> Shape:
        """An arc on the centreline, its steel by the bend rule."""
        turn = math.radians(self.sweep)
        return bent((self._drawn(place),), (Arc(turn * (self.inside / 2 + self._deep(place).inner), turn, math.radians(self.facing)),))

    def stock_range(self, place: Place) -> tuple[float, float]:
        """mm, between the tightest and the most generous bend rule."""
        return bend_range(self, place)

    def removed(self, place: Place) -> float:
        """The trimmed tip, mm³."""
        return self.trim * (self.tip or place.bar).area

    def sum_lines(self, place: Place) -> tuple[Line, ...]:
        """Developed length by the bend rule, then volume, then what to take past the anvil edge."""
        drawn = self._drawn(place)
        stock = (drawn.volume + self.removed(place)) / place.steel.area
        return (
            developed_line(self.sweep, self.inside / 2, self._deep(place), place, drawn.length),
            span_sum("Steel", drawn.reversed(), place.steel),
            *((say("With a trim of {}: {}", self.trim, stock),) if self.trim else ()),
            say("At the anvil: take {} past the edge once drawn.", drawn.length + self.trim),
            say("Outside diameter: {} + 2·{} = {}", dec(self.inside), dec(self._deep(place).whole), self.outside(place)),
        )

    def checks(self, place: Place) -> tuple[Check, ...]:
        """Eyes too tight for their bar; eyes that carry loads."""
        text = "An eye that carries a load gets no rating here: ask local codes and a licensed engineer."
        found = [Check("note", say(text), caution=True)]
        if self.inside < self._deep(place).whole:
            found.append(Check("warn", say("An eye of {} inside is smaller than its bar is thick: drift it instead.", self.inside)))
        return (*found, *self.buried(place))

    def operations(self, place: Place) -> tuple[Operation, ...]:
        """Draw, then turn the eye."""
        line = say("Turn the eye " + toward_words(self.facing) + " to {} inside.", self.inside)
        work = bend_moment(self._drawn(place).start.toward(place.bar.blend, 0.5), self._deep(place).whole, self.sweep)
        tools = ("anvil edge", "horn", "mandrel")
        effect = "whole" if self.trim else "path"
        turn = Operation("eye", line, effect, "time", 700, tools, settings=self.sweep / 90, effort=work, blows=CLOSE)
        return (*draw_tip(self.tip, self._drawn(place).length, place), turn)

    def summary(self) -> Line:
        """Inside diameter and sweep."""
        return say("{} inside, {}", self.inside, Quantity(self.sweep, "angle"))
