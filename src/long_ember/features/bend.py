"""Bends and hooks: developed length by the bend rule in force (computations, section 3)."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import replace
from typing import Any, ClassVar, Self

from long_ember import fields
from long_ember.errors import NoAnswer
from long_ember.features.base import Check, Formed, Operation, Outer, Place, span_sum
from long_ember.features.effort import HEAD, STRAIGHTEN, bend_moment, drawing_stop, finishing, jumped
from long_ember.features.shape import Arc, Corner, Segment, Shape, Span, Straight
from long_ember.features.turning import Depth, bend_range, bent, depth, developed_line, mean_depth, on_arc
from long_ember.fields import facing_words, toward_words
from long_ember.frozen import dataclass
from long_ember.sections import Section
from long_ember.units import Line, Quantity, say

__all__ = ["Bend", "Hook", "draw_tip"]


_HAIR = 1e-6  # mm
_UNDER = 1 - 1e-9  # a size that was converted may be a hair off itself


def draw_tip(tip: Section | None, over: float, place: Place) -> tuple[Operation, ...]:
    """Return the drawing that a tapered hook, scroll or eye needs before it is turned; none where the bar is so already."""
    bar = place.bar
    there = tip is not None and tip.shape == bar.shape and abs(tip.width - bar.width) + abs(tip.thickness - bar.thickness) < _HAIR
    if tip is None or there:
        return ()
    if tip.width == tip.thickness:
        line = say(f"Draw the end to {tip.shape} {{}} over {{}}.", tip.thickness, over)
    else:
        line = say(f"Draw the end to {tip.shape}, {{}} wide and {{}} thick, over {{}}.", tip.width, tip.thickness, over)
    return (Operation.drawn("draw", bar, line, ("hammer", "anvil", "callipers"), blows=finishing(tip.shape, over)),)


@dataclass(frozen=True, kw_only=True)
class Bend(Formed):
    """A bend, round or with its outside corner forged sharp.

    Args:
        angle: degrees turned.
        radius: inside radius, mm.
        corner: round, or a square corner outside (90 degrees only), forged sharp as it is or upset first.
        facing: degrees about the bar, 0 up.
    """

    kind: ClassVar[str] = "bend"
    curves: ClassVar[bool] = True
    stands: ClassVar[str] = "form"
    title: ClassVar[str] = "Bend"
    also: ClassVar[tuple[str, ...]] = ("corner", "angle", "elbow")
    named: ClassVar[Mapping[str, Mapping[str, Any]]] = {"corner": {"corner": "sharp"}}
    angle: float = fields.angle("Angle", 90.0, low=1.0, high=360.0)
    radius: float = fields.length("Inside radius", 24.0, zero=True, mark="radius")
    corner: str = fields.choice("Corner", "round", ("round", "round"), ("sharp", "sharp, forged full"), ("upset", "sharp, upset first"))
    facing: float = fields.facing()

    @property
    def idle(self) -> frozenset[str]:
        """A corner that is forged sharp has no radius."""
        return frozenset() if self.corner == "round" else frozenset({"radius"})

    def depth(self, place: Place) -> float:
        """Thickness in the plane of the bend, mm: the width when a flat is bent on edge."""
        return depth(place.bar.blend, self.facing).whole

    def developed(self, place: Place) -> float:
        """Stock the bend uses, mm."""
        deep = depth(place.bar.blend, self.facing)
        if self.corner != "round":
            return deep.whole  # outside legs a + b − t, with a = b = t taken into this zone
        return on_arc(math.radians(self.angle), self.radius, deep, place.rule)

    def shape(self, place: Place) -> Shape:
        """An arc, thinned or swelled so that its steel is what the bend rule says; or a square corner."""
        bar, turn, facing = place.bar.blend, math.radians(self.angle), math.radians(self.facing)
        t, inner = depth(bar, self.facing)
        if self.corner != "round":
            if self.angle != 90:
                raise NoAnswer("A sharp corner is reckoned at 90° only.", "Set the angle to 90, or choose a round corner.")
            span = Span(t, bar, bar)
            return Shape((span,), (Straight(t / 2), Corner(turn, facing), Straight(t / 2)))
        return bent((Span(self.developed(place), bar, bar),), (Arc(turn * (self.radius + inner), turn, facing),))

    def stock_range(self, place: Place) -> tuple[float, float]:
        """mm, between the tightest and the most generous bend rule."""
        return bend_range(self, place)

    def sum_lines(self, place: Place) -> tuple[Line, ...]:
        """The bend rule with its numbers."""
        if self.corner != "round":
            text = "Sharp corner: outside legs {} + {} − {} = {}"
            t = Quantity(self.depth(place), "decimal")
            return (say(text, t, t, t, self.developed(place)),)
        return (developed_line(self.angle, self.radius, depth(place.bar.blend, self.facing), place, self.developed(place)),)

    def checks(self, place: Place) -> tuple[Check, ...]:
        """Tighter than the section likes."""
        if self.corner != "round" or not self._tight(place):
            return ()
        if self._on_edge(place):
            text = "On edge, an inside radius of {} under twice the width of {} folds the inside: bend in small steps, flatten often."
            return (Check("warn", say(text, self.radius, self.depth(place))),)
        text = "Inside radius {} is under one thickness: the inside wrinkles and the outside thins. Bend hot and slowly."
        return (Check("warn", say(text, self.radius)),)

    def _on_edge(self, place: Place) -> bool:
        return self.depth(place) > 1.5 * place.bar.thickness

    def _tight(self, place: Place) -> bool:
        """Tighter than the section likes: bent as hot as it is drawn, and warned about."""
        return self.radius < (2 if self._on_edge(place) else 1) * self.depth(place) * _UNDER

    def operations(self, place: Place) -> tuple[Operation, ...]:
        """One bend."""
        work = bend_moment(place.bar.blend, self.depth(place), self.angle)
        if self.corner != "round":
            line = say("Bend {} and forge the outside corner full.", Quantity(self.angle, "angle"))
            # Driven full from both legs, hot: on each as many blows as it takes to set a head square, twice over.
            tools = ("vice", "hammer", "square")
            turn = Operation("bend", line, "path", "time", 850, tools, settings=1, effort=work, blows=4 * HEAD, way="corner")
            if self.corner != "upset":
                return (turn,)
            jump = say("Upset where the corner comes, to half as thick again over two thicknesses.")
            grown = jumped(place.bar.blend, 2 * place.bar.thickness, 1.5)
            first = Operation(
                "upset", jump, "section", "time", 900, ("anvil", "water can"), effort=grown, blows=STRAIGHTEN, way="corner-upset"
            )
            return first, turn
        line = say("Bend {} " + toward_words(self.facing) + " round an inside radius of {}.", Quantity(self.angle, "angle"), self.radius)
        stop = drawing_stop(place.bar.thickness) if self._tight(place) else 700
        return (Operation("bend", line, "path", "time", stop, ("horn or fork", "gauge"), settings=self.angle / 90, effort=work),)

    def summary(self) -> Line:
        """Angle, radius, side."""
        if self.corner != "round":
            return say("{} sharp, " + facing_words(self.facing), Quantity(self.angle, "angle"))
        return say("{} round {}, " + facing_words(self.facing), Quantity(self.angle, "angle"), self.radius)


@dataclass(frozen=True, kw_only=True)
class Hook(Formed, Outer):
    """A hook: a bowl with a straight tip, drawn down if a tip section is given.

    Args:
        inside: inside diameter of the bowl, mm.
        sweep: degrees turned.
        lip: straight length beyond the bowl, mm.
        tip: section at the end, None as the bar.
        facing: degrees about the bar, 0 up.
    """

    kind: ClassVar[str] = "hook"
    curves: ClassVar[bool] = True
    stands: ClassVar[str] = "form"
    title: ClassVar[str] = "Hook"
    also: ClassVar[tuple[str, ...]] = ("coat hook", "pot hook", "J hook", "crook", "bowl")
    inside: float = fields.length("Inside diameter", 40.0, mark="diameter")
    sweep: float = fields.angle("Sweep", 180.0, low=30.0, high=330.0)
    lip: float = fields.length("Lip", 15.0, zero=True, tip="Straight length beyond the bowl.")
    tip: Section | None = fields.section("Tip section", None, optional=True, tip="What the end is drawn to; empty leaves the bar.")
    facing: float = fields.facing()

    def standing(self) -> Self:
        """On steel that is drawn already."""
        return replace(self, tip=None)

    def _deep(self, place: Place) -> Depth:
        """Mean depth along the bowl."""
        return mean_depth(depth((self.tip or place.bar).blend, self.facing), depth(place.bar.blend, self.facing))

    def _drawn(self, place: Place) -> Span:
        """Lip and bowl before they are turned, one even taper."""
        bowl = on_arc(math.radians(self.sweep), self.inside / 2, self._deep(place), place.rule)
        return Span(self.lip + bowl, (self.tip or place.bar).blend, place.bar.blend)

    def tip_first(self, place: Place) -> Shape:
        """Lip, then bowl, one even taper along both."""
        turn = math.radians(self.sweep)
        arc = Arc(turn * (self.inside / 2 + self._deep(place).inner), turn, math.radians(self.facing))
        path: tuple[Segment, ...] = (Straight(self.lip), arc) if self.lip else (arc,)
        return bent((self._drawn(place),), path)

    def stock_range(self, place: Place) -> tuple[float, float]:
        """mm, between the tightest and the most generous bend rule."""
        return bend_range(self, place)

    def sum_lines(self, place: Place) -> tuple[Line, ...]:
        """Developed length, then volume."""
        drawn = self._drawn(place)
        lines = [developed_line(self.sweep, self.inside / 2, self._deep(place), place, drawn.length - self.lip)]
        if self.lip:
            lines.append(say("With the lip: {} + {} = {}", drawn.length - self.lip, self.lip, drawn.length))
        return (*lines, span_sum("Steel", drawn.reversed(), place.steel))

    def checks(self, place: Place) -> tuple[Check, ...]:
        """Hooks carry loads; the app never certifies one."""
        text = "A hook that carries a load or hangs over people: the reckoning gives no rating. Ask local codes and a licensed engineer."
        found = [Check("note", say(text), caution=True)]
        if self.inside < 2 * place.bar.thickness * _UNDER:
            found.append(Check("warn", say("A bowl of {} is tight for this bar: the tip may not close round it.", self.inside)))
        return (*found, *self.buried(place))

    def operations(self, place: Place) -> tuple[Operation, ...]:
        """Draw, then turn the bowl."""
        length_ = self._drawn(place).length
        line = say("Turn the hook " + toward_words(self.facing) + ", {} inside, through {}.", self.inside, Quantity(self.sweep, "angle"))
        work = bend_moment(self._drawn(place).start.toward(place.bar.blend, 0.5), self._deep(place).whole, self.sweep)
        tools = ("horn", "hammer", "gauge")
        hook = Operation("hook", line, "path", "time", 700, tools, settings=self.sweep / 90, effort=work)
        return (*draw_tip(self.tip, length_, place), hook)

    def summary(self) -> Line:
        """Bowl and sweep."""
        return say("{} inside, {} " + facing_words(self.facing), self.inside, Quantity(self.sweep, "angle"))
