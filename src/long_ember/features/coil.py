"""Coils, flat and helical, and the offset pair of bends (computations, section 3)."""

from __future__ import annotations

import math
from typing import ClassVar

from long_ember import fields
from long_ember.errors import NoAnswer
from long_ember.features.base import Check, Feature, Operation, Outer, Place, dec, stock_line
from long_ember.features.bend import bend_factor, developed_line
from long_ember.features.shape import Arc, Helix, Shape, Span, Spiral, Straight
from long_ember.fields import facing_words
from long_ember.frozen import dataclass
from long_ember.units import Line, Quantity, say

__all__ = ["Coil", "Offset"]


@dataclass(frozen=True, kw_only=True)
class Coil(Outer):
    """Turns of bar side by side: flat like a clock spring, or rising like a coil spring.

    Args:
        form: flat or helical.
        inside: inside diameter of the coil (of its first turn when flat), mm.
        turns: number of turns.
        gap: clear between turns, mm.
        hand: right or left, helical only.
        facing: degrees about the bar, 0 up.
    """

    kind: ClassVar[str] = "coil"
    stands: ClassVar[str] = "form"
    title: ClassVar[str] = "Coil"
    also: ClassVar[tuple[str, ...]] = ("spring", "helix", "corkscrew", "hot plate coil", "snail", "cage winding")
    form: str = fields.choice("Form", "helical", ("helical", "rising"), ("flat", "flat"))
    inside: float = fields.length("Inside diameter", 40.0, mark="diameter")
    turns: float = fields.number("Turns", 3.0, low=0.25, high=60.0)
    gap: float = fields.length("Gap", 2.0, zero=True, tip="Clear between turns.")
    hand: str = fields.choice("Hand", "right", ("right", "right"), ("left", "left"), mirror={"left": "right", "right": "left"})
    facing: float = fields.facing()

    def path(self, place: Place) -> Helix | Spiral:
        """The centreline."""
        facing, blend = math.radians(self.facing), place.bar.blend
        deep, wide = blend.across(facing), blend.across(facing + math.pi / 2)
        r0 = (self.inside + deep) / 2
        if self.form == "helical":
            return Helix(r0, wide + self.gap, self.turns, 1 if self.hand == "right" else -1, facing)
        r1 = r0 + (deep + self.gap) * self.turns
        return Spiral("archimedean", r0, r1, 2 * math.pi * self.turns, 1, facing=facing)

    def tip_first(self, place: Place) -> Shape:
        """Bar wound up, its section kept."""
        path, bar = self.path(place), place.bar.blend
        return Shape((Span(path.length, bar, bar),), (path,))

    def sum_lines(self, place: Place) -> tuple[Line, ...]:
        """N·√((πD)² + p²), or the spiral."""
        path = self.path(place)
        if isinstance(path, Helix):
            text = "Helix: L² = {}²·((3.1416·{})² + {}²), L = {}"
            first = say(text, Quantity(self.turns, "number"), dec(2 * path.radius), dec(path.pitch), path.length)
        else:
            text = "Spiral: radius {} to {} in {} = {}"
            first = say(text, path.r0, path.r1, Quantity(self.turns, "turns"), path.length)
        return first, stock_line(self, place)

    def checks(self, place: Place) -> tuple[Check, ...]:
        """Tight coils; a coil is not a rated spring."""
        found = [Check("note", say("Wind each turn in one colour: a cold spot kinks. A coil here is a shape, not a rated spring."))]
        if self.inside < 2 * place.bar.blend.across(math.radians(self.facing)):
            found.append(Check("warn", say("A coil of {} inside is tight for this bar: wind it hot on a mandrel.", self.inside)))
        return (*found, *self.buried(place))

    def operations(self, place: Place) -> tuple[Operation, ...]:
        """Wind on a mandrel."""
        line = say(f"Wind {{}} {facing_words(self.facing)} on a mandrel of {{}}.", Quantity(self.turns, "turns"), self.inside)
        tools = ("mandrel", "vice", "scroll fork")
        return (Operation("scroll", line, "path", "time", 700, tools, seconds=10.0 + 12.0 * self.turns, way="coil"),)

    def summary(self) -> Line:
        """Turns and inside diameter."""
        return say("{}, {} inside", Quantity(self.turns, "turns"), self.inside)


@dataclass(frozen=True, kw_only=True)
class Offset(Feature):
    """Two equal bends in opposite directions: the bar goes on parallel to itself.

    Args:
        offset: how far the bar is moved over, middle to middle, mm.
        angle: of each bend, degrees.
        radius: inside radius of each bend, mm.
        facing: degrees about the bar, 0 up.
    """

    kind: ClassVar[str] = "offset"
    stands: ClassVar[str] = "form"
    title: ClassVar[str] = "Offset"
    also: ClassVar[tuple[str, ...]] = ("joggle", "set", "crank", "dog-leg", "bend pair", "swan neck")
    offset: float = fields.length("Offset", 30.0, mark="radius", tip="From middle to middle.")
    angle: float = fields.angle("Angle", 45.0, low=5.0, high=90.0)
    radius: float = fields.length("Inside radius", 18.0, zero=True)
    facing: float = fields.facing()

    def _sizes(self, place: Place) -> tuple[float, float, float, float]:
        """Depth, centreline of one bend, its stock, and the straight between; mm."""
        t, turn = place.bar.blend.across(math.radians(self.facing)), math.radians(self.angle)
        centre = turn * (self.radius + t / 2)
        straight = (self.offset - 2 * (self.radius + t / 2) * (1 - math.cos(turn))) / math.sin(turn)
        if straight < 0:
            text = "The two bends alone move the bar further than that."
            raise NoAnswer(text, "Enlarge the offset, or make the angle or the radius smaller.")
        return t, centre, turn * (self.radius + bend_factor(place.rule, self.radius, t) * t), straight

    def shape(self, place: Place) -> Shape:
        """Bend, straight, bend back."""
        _t, centre, developed, straight = self._sizes(place)
        turn, facing, bar = math.radians(self.angle), math.radians(self.facing), place.bar.blend
        blend = bar.scaled(developed / centre)
        bend = Span(centre, blend, blend)
        middle = ((Span(straight, bar, bar),), (Straight(straight),)) if straight > 0 else ((), ())
        return Shape((bend, *middle[0], bend), (Arc(centre, turn, facing), *middle[1], Arc(centre, -turn, facing)))

    def sum_lines(self, place: Place) -> tuple[Line, ...]:
        """Two bends and the straight between."""
        t, _centre, developed, straight = self._sizes(place)
        text = "Both bends and the straight between: 2 × {} + {} = {}"
        whole = say(text, developed, straight, 2 * developed + straight)
        return developed_line(self.angle, self.radius, t, place, developed), whole, stock_line(self, place)

    def checks(self, place: Place) -> tuple[Check, ...]:
        """Too tight."""
        t = place.bar.blend.across(math.radians(self.facing))
        if self.radius < t:
            text = "Inside radius {} is under one thickness: the inside wrinkles and the outside thins. Bend hot and slowly."
            return (Check("warn", say(text, self.radius)),)
        return ()

    def operations(self, place: Place) -> tuple[Operation, ...]:
        """Both bends in one heat."""
        angle, words = Quantity(self.angle, "angle"), facing_words(self.facing)
        line = say(
            f"Offset {{}} {words}: bend {{}} and {{}} back; sight along the bar that both legs are parallel.", self.offset, angle, angle
        )
        return (Operation("bend", line, "path", "time", 700, ("horn or fork", "vice", "straight edge"), seconds=25.0),)

    def summary(self) -> Line:
        """How far and at what angle."""
        return say("{} at {}, " + facing_words(self.facing), self.offset, Quantity(self.angle, "angle"))
