"""Curls and scrolls: a spiral path with an even taper along it."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import replace
from typing import Any, ClassVar, Self

from long_ember import fields
from long_ember.errors import NoAnswer
from long_ember.features.base import Check, Formed, Operation, Outer, Place, span_sum, stock_line
from long_ember.features.bend import draw_tip
from long_ember.features.curves import spiral_points, turn_gap
from long_ember.features.effort import bend_moment, trueing
from long_ember.features.shape import Shape, Span, Spiral
from long_ember.features.turning import bend_range, bent, depth, on_spiral
from long_ember.fields import facing_words, toward_words
from long_ember.frozen import dataclass
from long_ember.sections import Blend, Section, flat, square
from long_ember.units import Line, Quantity, say

__all__ = ["Curl", "Scroll"]

_FORMS = (("archimedean", "even spacing"), ("logarithmic", "opening"), ("clothoid", "easing into the bar"))
_NAMES = {"archimedean": "Archimedean", "logarithmic": "logarithmic", "clothoid": "clothoid"}


@dataclass(frozen=True, kw_only=True)
class _Spiralled(Formed, Outer):
    curves: ClassVar[bool] = True
    inner: float = fields.length("Inner radius", 8.0, tip="Centre of the bar, at the eye of the scroll.")
    outer: float = fields.length("Outer radius", 30.0, mark="radius", tip="Centre of the bar, where it joins.")
    turns: float = fields.number("Turns", 1.75, low=0.25, high=6.0)
    tip: Section | None = fields.section("Tip section", square(5.0), optional=True, tip="What the end is drawn to; empty leaves the bar.")
    form: str = fields.choice("Form", "archimedean", *_FORMS)
    facing: float = fields.facing()
    end: str = fields.choice("End", "blunt", ("blunt", "blunt"), ("fishtail", "fishtail"), ("leaf", "bevelled leaf"))
    spread: float = fields.length("End width", 16.0, tip="Greatest width of a fishtail or leaf.")
    bevel: float = fields.percent("Bevel", 0.0, high=0.8, tip="How much the outer edge is thinned after rolling; 0 for none.")

    def fitted(self, bar: Section) -> Self:
        """A flat is thinned and keeps its width."""
        made = super().fitted(bar)
        return replace(made, tip=flat(bar.width, made.tip.thickness)) if bar.shape == "flat" and made.tip is not None else made

    def standing(self) -> Self:
        """On steel that is drawn already."""
        return replace(self, tip=None, end="blunt")

    @property
    def idle(self) -> frozenset[str]:
        """A blunt end has no width of its own."""
        return frozenset({"spread"}) if self.end == "blunt" else frozenset()

    def spiral(self) -> Spiral:
        """The path, eye first."""
        if self.outer <= self.inner:
            raise NoAnswer("A scroll opens outwards: the outer radius must be larger than the inner.", "Enlarge the outer radius.")
        return Spiral(self.form, self.inner, self.outer, 2 * math.pi * self.turns, 1, facing=math.radians(self.facing))

    def developed(self, place: Place) -> float:
        """Bar that the spiral uses by the bend rule, mm, before its edge is bevelled."""
        path = self.spiral()
        tip, root = (depth(s.blend, self.facing) for s in (self.tip or place.bar, place.bar))
        return on_spiral(path.form, path.r0, path.r1, path.angle, tip, root, place.rule)

    def outside(self, place: Place) -> float:
        """Outside diameter, mm: from where it joins the bar to the outermost turn across the eye."""
        root = depth(place.bar.blend, self.facing)
        _s, points, _heading = spiral_points(self.form, self.inner, self.outer, 2 * math.pi * self.turns, 241)
        end = points[-1] / math.hypot(*points[-1])
        return float(-(points @ end).min() + math.hypot(*points[-1])) + root.whole

    def _drawn(self, place: Place) -> tuple[Span, ...]:
        """An even taper, a spread end on it, before it is rolled."""
        tip, length = (self.tip or place.bar).blend, self.developed(place)
        flare = 0.0 if self.end == "blunt" else min(self.spread, length / 3)
        return *self._end(tip, flare), Span(length - flare, tip, place.bar.blend)

    def tip_first(self, place: Place) -> Shape:
        """An even taper rolled along the spiral."""
        return bent(self._drawn(place), (self.spiral(),))

    def stock_range(self, place: Place) -> tuple[float, float]:
        """mm, between the tightest and the most generous bend rule."""
        return bend_range(self, place)

    def _end(self, tip: Blend, flare: float) -> tuple[Span, ...]:
        """A fishtail opens to its width as it thins; a leaf swells and closes again."""
        if self.end == "blunt":
            return ()
        thin = tip.t * 0.6
        wide = Blend(max(self.spread, tip.w), thin, 1.0)
        if self.end == "fishtail":
            return (Span(flare, wide, tip),)
        return Span(flare / 2, Blend(wide.w * 0.1, thin, 1.0), wide), Span(flare / 2, wide, tip)

    def sum_lines(self, place: Place) -> tuple[Line, ...]:
        """Path length by the closed form, then the volume of the taper along it."""
        path = self.spiral()
        text = f"Path, {_NAMES[self.form]}: radius {{}} to {{}} in {{}} = {{}}"
        first = say(text, self.inner, self.outer, Quantity(self.turns, "turns"), path.length)
        rule = say("By the bend rule it uses {} of bar", self.developed(place))
        spans = [span_sum("End" if i else "Steel", s.reversed(), place.steel) for i, s in enumerate(reversed(self._drawn(place)))]
        whole = (stock_line(self, place),) if len(spans) > 1 else ()
        return first, rule, *spans, *whole, say("Outside diameter: {}", self.outside(place))

    def checks(self, place: Place) -> tuple[Check, ...]:
        """Turns that touch."""
        first, last = (depth(blend, self.facing).whole for blend in self._ends(place))
        gap = turn_gap(self.form, self.inner, self.outer, 2 * math.pi * self.turns, first, last)
        closing = self.closing(place)
        if self.bevel and gap - closing < 1.5:
            text = "Bevelling the outer edge lengthens it and closes the scroll by about {}: of {} clear too little is left. Roll it that much opener."
            return (Check("warn", say(text, closing, max(gap, 0.0))), *self.buried(place))
        if gap < 0:
            text = "The turns run into each other by {}: enlarge the outer radius or take off turns."
            return (Check("warn", say(text, -gap)), *self.buried(place))
        if gap < 1.5:
            return (Check("note", say("Only {} clear between turns: they may touch when trued.", gap)), *self.buried(place))
        return self.buried(place)

    def _ends(self, place: Place) -> tuple[Blend, Blend]:
        """Sections at the eye and where it joins: on the drawn bar, those it finds there."""
        if place.ends is None:
            return (self.tip or place.bar).blend, place.bar.blend
        return place.ends if self.toward == "A" else (place.ends[1], place.ends[0])

    def closing(self, place: Place) -> float:
        """How much the gap between turns closes when the outer edge is bevelled, mm.

        The edge lengthens by ε ≈ ½·ln(1/(1 − bevel)); added curvature ≈ ε ÷ width (computations, section 3), so a radius r becomes
        r/(1 + r·ε/w); the difference over one turn is taken at the outer radius.
        """
        strain = 0.5 * math.log(1 / (1 - self.bevel))
        deep = depth(place.bar.blend, self.facing).whole  # in the plane of the scroll: from its inner edge to its outer
        return self.outer - self.outer / (1 + self.outer * strain / deep)

    def operations(self, place: Place) -> tuple[Operation, ...]:
        """Draw, then roll from the tip."""
        verb = "curl" if self.kind == "curl" else "scroll"
        text = f"Roll the {verb} {toward_words(self.facing)} from the tip, {{}} out to a radius of {{}}."
        tip = (self.tip or place.bar).blend
        work = bend_moment(tip.toward(place.bar.blend, 0.5), depth(tip.toward(place.bar.blend, 0.5), self.facing).whole, 360 * self.turns)
        line = say(text, Quantity(self.turns, "turns"), self.outer)
        quarters = 4 * self.turns
        roll = Operation(verb, line, "path", "time", 700, ("hammer", "anvil edge", "scroll gauge"), settings=quarters, effort=work)
        found = list(draw_tip(self.tip, self.developed(place), place))
        if self.end != "blunt":
            line = say(f"Spread the end to a {self.end}, {{}} wide.", self.spread)
            grown = tip.area * self.spread * math.log(max(self.spread / max(tip.w, 0.1), 1.1)) * 2
            found.append(
                Operation("spread", line, "section", "time", 850, ("cross peen", "anvil"), effort=grown, blows=trueing(self.spread))
            )
        found.append(roll)
        if self.bevel:
            line = say("Bevel the outer edge, starting at the tip; the scroll closes as you go.")
            found.append(
                Operation(
                    "texture",
                    line,
                    "path",
                    "time",
                    800,
                    ("hammer", "small anvil"),
                    blows=2 * trueing(self.developed(place)),
                    way="scroll-bevel",
                )
            )
        return tuple(found)

    def summary(self) -> Line:
        """Turns and outer radius."""
        return say("{}, radius {}, " + facing_words(self.facing), Quantity(self.turns, "turns"), self.outer)


@dataclass(frozen=True, kw_only=True)
class Scroll(_Spiralled):
    """A scroll.

    Args:
        inner: centreline radius at the eye, mm.
        outer: centreline radius where it joins the bar, mm.
        turns: number of turns.
        tip: section at the eye, None as the bar.
        form: archimedean, logarithmic or clothoid.
        facing: degrees about the bar, 0 up.
        end: blunt, fishtail or leaf.
        spread: greatest width of a spread end, mm.
        bevel: share of the outer edge's thickness taken off after rolling.
    """

    kind: ClassVar[str] = "scroll"
    stands: ClassVar[str] = "form"
    title: ClassVar[str] = "Scroll"
    also: ClassVar[tuple[str, ...]] = ("volute", "spiral", "ribbon end", "fishtail scroll")
    named: ClassVar[Mapping[str, Mapping[str, Any]]] = {"fishtail scroll": {"end": "fishtail"}}


@dataclass(frozen=True, kw_only=True)
class Curl(_Spiralled):
    """A small tight scroll at a tip, turned before anything behind it; fields as for a scroll."""

    kind: ClassVar[str] = "curl"
    stands: ClassVar[str] = "form"
    title: ClassVar[str] = "Curl"
    also: ClassVar[tuple[str, ...]] = ("finial", "rat's tail end", "penny curl")
    inner: float = fields.length("Inner radius", 5.0, tip="Centre of the bar, at the tip.")
    outer: float = fields.length("Outer radius", 20.0, mark="radius", tip="Centre of the bar, where it joins.")
    turns: float = fields.number("Turns", 1.0, low=0.25, high=6.0)
