"""Curls and scrolls: a spiral path with an even taper along it."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import ClassVar

from long_ember.errors import NoAnswer
from long_ember.features import fields
from long_ember.features.base import Check, Operation, Outer, Place, span_sum
from long_ember.features.bend import FACING, draw_tip, facing_sign
from long_ember.features.curves import turn_gap
from long_ember.features.shape import Shape, Span, Spiral
from long_ember.sections import Section, square
from long_ember.units import Line, Quantity, say

__all__ = ["Curl", "Scroll"]

_FORMS = (("archimedean", "even spacing"), ("logarithmic", "opening"), ("clothoid", "easing into the bar"))
_NAMES = {"archimedean": "Archimedean", "logarithmic": "logarithmic", "clothoid": "clothoid"}


@dataclass(frozen=True, kw_only=True)
class _Spiralled(Outer):
    inner: float = fields.length("Inner radius", 8.0, tip="Centre of the bar, at the eye of the scroll.")
    outer: float = fields.length("Outer radius", 30.0, mark="radius", tip="Centre of the bar, where it joins.")
    turns: float = fields.number("Turns", 1.75, low=0.25, high=6.0)
    tip: Section | None = fields.section("Tip section", square(5.0), optional=True, tip="What the end is drawn to; empty leaves the bar.")
    form: str = fields.choice("Form", "archimedean", *_FORMS)
    facing: str = fields.choice("Facing", "up", *FACING)

    def spiral(self) -> Spiral:
        """The path, eye first."""
        if self.outer <= self.inner:
            raise NoAnswer("A scroll opens outwards: the outer radius must be larger than the inner.", "Enlarge the outer radius.")
        return Spiral(self.form, self.inner, self.outer, 2 * math.pi * self.turns, facing_sign(self.facing))

    def tip_first(self, place: Place) -> Shape:
        """An even taper rolled along the spiral."""
        path = self.spiral()
        tip = (self.tip or place.bar).blend
        return Shape((Span(path.length, tip, place.bar.blend),), (path,))

    def sum_lines(self, place: Place) -> tuple[Line, ...]:
        """Path length by the closed form, then the volume of the taper along it."""
        path = self.spiral()
        text = f"Path, {_NAMES[self.form]}: radius {{}} to {{}} in {{}} = {{}}"
        first = say(text, self.inner, self.outer, Quantity(self.turns, "turns"), path.length)
        return first, span_sum("Steel", self.tip_first(place).spans[0].reversed(), place.bar)

    def checks(self, place: Place) -> tuple[Check, ...]:
        """Turns that touch."""
        tip = self.tip or place.bar
        gap = turn_gap(self.form, self.inner, self.outer, 2 * math.pi * self.turns, tip.thickness, place.bar.thickness)
        if gap < 0:
            text = "The turns run into each other by {}: enlarge the outer radius or take off turns."
            return (Check("warn", say(text, -gap)), *self.buried(place))
        if gap < 1.5:
            return (Check("note", say("Only {} clear between turns: they may touch when trued.", gap)), *self.buried(place))
        return self.buried(place)

    def operations(self, place: Place) -> tuple[Operation, ...]:
        """Draw, then roll from the tip."""
        verb = "curl" if self.kind == "curl" else "scroll"
        text = f"Roll the {verb} {self.facing} from the tip, {{}} out to a radius of {{}}."
        seconds = 12.0 + 14.0 * self.turns
        line = say(text, Quantity(self.turns, "turns"), self.outer)
        roll = Operation(verb, line, "path", "time", 700, ("hammer", "anvil edge", "scroll gauge"), seconds=seconds)
        return ((draw_tip(self.tip, self.spiral().length),) if self.tip else ()) + (roll,)

    def summary(self) -> Line:
        """Turns and outer radius."""
        return say("{}, radius {}, " + self.facing, Quantity(self.turns, "turns"), self.outer)


@dataclass(frozen=True, kw_only=True)
class Scroll(_Spiralled):
    """A scroll.

    Args:
        inner: centreline radius at the eye, mm.
        outer: centreline radius where it joins the bar, mm.
        turns: number of turns.
        tip: section at the eye, None as the bar.
        form: archimedean, logarithmic or clothoid.
        facing: up or down.
    """

    kind: ClassVar[str] = "scroll"
    title: ClassVar[str] = "Scroll"
    also: ClassVar[tuple[str, ...]] = ("volute", "spiral", "ribbon end")


@dataclass(frozen=True, kw_only=True)
class Curl(_Spiralled):
    """A small tight scroll at a tip, turned before anything behind it; fields as for a scroll."""

    kind: ClassVar[str] = "curl"
    title: ClassVar[str] = "Curl"
    also: ClassVar[tuple[str, ...]] = ("finial", "rat's tail end", "penny curl")
    inner: float = fields.length("Inner radius", 5.0, tip="Centre of the bar, at the tip.")
    outer: float = fields.length("Outer radius", 20.0, mark="radius", tip="Centre of the bar, where it joins.")
    turns: float = fields.number("Turns", 1.0, low=0.25, high=6.0)
