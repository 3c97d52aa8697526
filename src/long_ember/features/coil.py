"""Coils, flat and helical, and the offset pair of bends (computations, section 3)."""

from __future__ import annotations

import math
from collections.abc import Container, Mapping
from dataclasses import replace
from typing import Any, ClassVar, Self

from long_ember import fields
from long_ember.errors import NoAnswer
from long_ember.features.base import Check, Formed, Operation, Outer, Place, dec, stock_line
from long_ember.features.effort import STRAIGHTEN, bend_moment
from long_ember.features.shape import Arc, Helix, Shape, Span, Spiral, Straight, chained
from long_ember.features.turning import bend_range, bent, depth, developed_line, on_arc, on_helix, on_spiral
from long_ember.fields import facing_words, toward_words
from long_ember.frozen import dataclass
from long_ember.sections import Section
from long_ember.units import Line, Quantity, say

__all__ = ["Coil", "Offset"]


@dataclass(frozen=True, kw_only=True)
class Coil(Formed, Outer):
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
    curves: ClassVar[bool] = True
    stands: ClassVar[str] = "form"
    title: ClassVar[str] = "Coil"
    also: ClassVar[tuple[str, ...]] = ("spring", "helix", "corkscrew", "hot plate coil", "snail", "cage winding")
    named: ClassVar[Mapping[str, Mapping[str, Any]]] = {"hot plate coil": {"form": "flat"}, "snail": {"form": "flat"}}
    form: str = fields.choice("Form", "helical", ("helical", "rising"), ("flat", "flat"))
    inside: float = fields.length("Inside diameter", 40.0, zero=True, mark="diameter", tip="Of its first turn; a flat coil may begin at 0.")
    turns: float = fields.number("Turns", 3.0, low=0.25, high=60.0)
    gap: float = fields.length("Gap", 2.0, zero=True, tip="Clear between turns.")
    hand: str = fields.choice("Hand", "right", ("right", "right"), ("left", "left"), mirror={"left": "right", "right": "left"})
    facing: float = fields.facing()

    @property
    def closes(self) -> bool:
        """Flat turns that touch lie against what they begin with."""
        return self.form == "flat" and self.gap == 0

    @property
    def idle(self) -> frozenset[str]:
        """A flat coil has no hand."""
        return frozenset({"hand"}) if self.form == "flat" else frozenset()

    def path(self, place: Place) -> Helix | Spiral:
        """The centreline."""
        facing, deep = math.radians(self.facing), depth(place.bar.blend, self.facing)
        r0 = self.inside / 2 + deep.inner
        if self.form == "helical":
            pitch = depth(place.bar.blend, self.facing + 90).whole + self.gap
            if not self.inside and self.turns > 1:
                raise NoAnswer("A rising coil winds round something: it needs an inside diameter.", "Give it one, or make the coil flat.")
            return Helix(r0, pitch, self.turns, 1 if self.hand == "right" else -1, facing)
        r1 = r0 + (deep.whole + self.gap) * self.turns
        return Spiral("archimedean", r0, r1, 2 * math.pi * self.turns, 1, facing=facing)

    def developed(self, place: Place) -> float:
        """Bar that it uses by the bend rule, mm."""
        path, deep = self.path(place), depth(place.bar.blend, self.facing)
        if isinstance(path, Spiral):
            return on_spiral(path.form, path.r0, path.r1, path.angle, deep, deep, place.rule)
        # A helix of radius r and pitch p curves by r ÷ (r² + (p/2π)²).
        curved = path.radius / (path.radius**2 + (path.pitch / (2 * math.pi)) ** 2)
        return on_helix(path.length, curved, self.inside / 2, deep, place.rule)

    def outside(self, place: Place) -> float:
        """Outside diameter, mm: of a flat coil where it is widest, from its last turn to the one half a turn before."""
        whole = depth(place.bar.blend, self.facing).whole
        if self.form == "helical":
            return self.inside + 2 * whole
        return self.inside + 2 * whole + (whole + self.gap) * max(2 * self.turns - 0.5, self.turns)

    def tip_first(self, place: Place) -> Shape:
        """Bar wound up, its steel by the bend rule."""
        bar = place.bar.blend
        return bent((Span(self.developed(place), bar, bar),), (self.path(place),))

    def stock_range(self, place: Place) -> tuple[float, float]:
        """mm, between the tightest and the most generous bend rule."""
        return bend_range(self, place)

    def sum_lines(self, place: Place) -> tuple[Line, ...]:
        """N·√((πD)² + p²), or the spiral."""
        path = self.path(place)
        if isinstance(path, Helix):
            text = "Helix: L² = {}²·((3.1416·{})² + {}²), L = {}"
            first = say(text, Quantity(self.turns, "number"), dec(2 * path.radius), dec(path.pitch), path.length)
        else:
            text = "Spiral: radius {} to {} in {} = {}"
            first = say(text, path.r0, path.r1, Quantity(self.turns, "turns"), path.length)
        rule = say("By the bend rule it uses {} of bar", self.developed(place))
        return first, rule, stock_line(self, place), say("Outside diameter: {}", self.outside(place))

    def checks(self, place: Place) -> tuple[Check, ...]:
        """Tight coils; a coil is not a rated spring."""
        found = [Check("note", say("Wind each turn in one colour: a cold spot kinks. A coil here is a shape, not a rated spring."))]
        if self.form == "helical" and self.inside < 2 * depth(place.bar.blend, self.facing).whole:
            found.append(Check("warn", say("A coil of {} inside is tight for this bar: wind it hot on a mandrel.", self.inside)))
        return (*found, *self.buried(place))

    def operations(self, place: Place) -> tuple[Operation, ...]:
        """Wind on a mandrel."""
        turns, side = Quantity(self.turns, "turns"), toward_words(self.facing)
        if self.inside:
            line, tools = say(f"Wind {{}} {side} on a mandrel of {{}}.", turns, self.inside), ("mandrel", "vice", "scroll fork")
        else:
            line, tools = (
                say(f"Close {{}} {side} on itself, from the middle outwards; true it flat.", turns),
                ("anvil edge", "vice", "hammer"),
            )
        work = bend_moment(place.bar.blend, depth(place.bar.blend, self.facing).whole, 360 * self.turns)
        return (
            Operation(
                "scroll",
                line,
                "path",
                "time",
                700,
                tools,
                settings=4 * self.turns,
                effort=work,
                way="coil" if self.inside else "closed-coil",
            ),
        )

    def summary(self) -> Line:
        """Turns and inside diameter."""
        return say("{}, {} inside", Quantity(self.turns, "turns"), self.inside)


@dataclass(frozen=True, kw_only=True)
class Offset(Formed):
    """Two equal bends in opposite directions: the bar goes on parallel to itself.

    Args:
        offset: how far the bar is moved over, middle to middle, mm.
        angle: of each bend, degrees.
        radius: inside radius of each bend, mm.
        facing: degrees about the bar, 0 up.
    """

    kind: ClassVar[str] = "offset"
    curves: ClassVar[bool] = True
    stands: ClassVar[str] = "form"
    title: ClassVar[str] = "Offset"
    also: ClassVar[tuple[str, ...]] = ("joggle", "jog", "set", "crank", "dog-leg", "bend pair", "swan neck")
    offset: float = fields.length("Offset", 30.0, mark="radius", tip="From middle to middle.")
    angle: float = fields.angle("Angle", 45.0, low=5.0, high=90.0)
    radius: float = fields.length("Inside radius", 18.0, zero=True)
    facing: float = fields.facing()

    def suited(self, bar: Section, said: Container[str]) -> Self:
        """Bends that are no wider than the offset itself leaves room for: it is made of them and the straight between."""
        most = (self.offset / (1 - math.cos(math.radians(self.angle))) - bar.blend.across(math.radians(self.facing))) / 2
        return self if "radius" in said or self.radius <= most else replace(self, radius=max(math.floor(most), 0.0))

    def _sizes(self, place: Place) -> tuple[tuple[float, float], tuple[float, float], float]:
        """Centreline of each bend, the stock of each, and the straight between; mm. The second faces the other way."""
        turn, both = math.radians(self.angle), [depth(place.bar.blend, self.facing + back) for back in (0, 180)]
        radii = [self.radius + deep.inner for deep in both]
        straight = (self.offset - sum(radii) * (1 - math.cos(turn))) / math.sin(turn)
        if straight < 0:
            text = "The two bends alone move the bar further than that."
            raise NoAnswer(text, "Enlarge the offset, or make the angle or the radius smaller.")
        first, second = (on_arc(turn, self.radius, deep, place.rule) for deep in both)
        return (turn * radii[0], turn * radii[1]), (first, second), straight

    def shape(self, place: Place) -> Shape:
        """Bend, straight, bend back."""
        centres, developed, straight = self._sizes(place)
        turn, facing, bar = math.radians(self.angle), math.radians(self.facing), place.bar.blend
        one, other = (
            bent((Span(long, bar, bar),), (Arc(centre, way, facing),))
            for long, centre, way in zip(developed, centres, (turn, -turn), strict=True)
        )
        middle = (Shape((Span(straight, bar, bar),), (Straight(straight),)),) if straight > 0 else ()
        return chained((one, *middle, other))

    def stock_range(self, place: Place) -> tuple[float, float]:
        """mm, between the tightest and the most generous bend rule."""
        return bend_range(self, place)

    def sum_lines(self, place: Place) -> tuple[Line, ...]:
        """Two bends and the straight between."""
        _centres, (first, second), straight = self._sizes(place)
        whole = say("Both bends and the straight between: {} + {} + {} = {}", first, straight, second, first + straight + second)
        deep = depth(place.bar.blend, self.facing)
        return developed_line(self.angle, self.radius, deep, place, first), whole, stock_line(self, place)

    def checks(self, place: Place) -> tuple[Check, ...]:
        """Too tight."""
        t = place.bar.blend.across(math.radians(self.facing))
        if self.radius < t:
            text = "Inside radius {} is under one thickness: the inside wrinkles and the outside thins. Bend hot and slowly."
            return (Check("warn", say(text, self.radius)),)
        return ()

    def operations(self, place: Place) -> tuple[Operation, ...]:
        """Both bends in one heat."""
        angle, words = Quantity(self.angle, "angle"), toward_words(self.facing)
        line = say(
            f"Offset {{}} {words}: bend {{}} and {{}} back; sight along the bar that both legs are parallel.", self.offset, angle, angle
        )
        work = bend_moment(place.bar.blend, depth(place.bar.blend, self.facing).whole, 2 * self.angle)
        tools = ("horn or fork", "vice", "straight edge")
        return (Operation("bend", line, "path", "time", 700, tools, settings=2, effort=work, blows=STRAIGHTEN),)

    def summary(self) -> Line:
        """How far and at what angle."""
        return say("{} at {}, " + facing_words(self.facing), self.offset, Quantity(self.angle, "angle"))
