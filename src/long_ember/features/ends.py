"""Ends without a bend: point, ball, nub, end hole (computations, sections 2 and 5)."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import ClassVar

from long_ember import fields
from long_ember.errors import NoAnswer
from long_ember.features.base import Check, Operation, Outer, Place, dec, span_sum, stock_line, stock_of, volume_line
from long_ember.features.effort import BALL, ISOLATE, finishing, goes
from long_ember.features.shape import Shape, Span, Straight, exact, profile
from long_ember.frozen import dataclass
from long_ember.sections import SHAPES, Blend
from long_ember.units import Line, Quantity, one, say

__all__ = ["Ball", "EndHole", "Nub", "Point"]

_STEPS = 16
_NECKED = 1.0001  # bar thicknesses up to which a ball is set off from the bar, not upset
_NUB = 16.0  # blows that round an end over


@dataclass(frozen=True, kw_only=True)
class Point(Outer):
    """Bar drawn to a true point.

    Args:
        length: finished length, mm.
        form: square, round or octagon.
    """

    kind: ClassVar[str] = "point"
    title: ClassVar[str] = "Point"
    also: ClassVar[tuple[str, ...]] = ("spike", "needle", "tip", "pick", "nail point", "pointed end")
    length: float = fields.length("Length", 40.0, mark="length", tip="Finished, cold, to the very tip.")
    form: str = fields.choice("Form", "square", ("square", "square"), ("round", "round"), ("octagon", "octagon"))

    @property
    def keen(self) -> int:
        """Return how surely it is what a tool works with, see `Feature.keen`."""
        return 2

    def tip_first(self, place: Place) -> Shape:
        """A span from nothing to the bar."""
        root = place.bar.blend
        form = SHAPES[self.form]
        tip = Blend(0.0, 0.0, form.factor, form.form, 0.0)
        return Shape((Span(self.length, tip, root),), (Straight(self.length),))

    def sum_lines(self, place: Place) -> tuple[Line, ...]:
        """A third of the finished length in square or round bar."""
        return span_sum("Point", self.tip_first(place).spans[0].reversed(), place.bar), stock_line(self, place)

    def checks(self, place: Place) -> tuple[Check, ...]:
        """Points burn."""
        text = "A point burns off before the bar behind it is hot: last into the fire, first out."
        return Check("note", say(text), caution=True), *self.buried(place)

    def operations(self, place: Place) -> tuple[Operation, ...]:
        """Point first."""
        steps = {"round": " Square, then octagon, then round.", "octagon": " Square first, then the corners."}
        line = say(f"Draw {one(f'{self.form} point')}, {{}} long: the tip first, then work back.{steps.get(self.form, '')}", self.length)
        return (
            Operation.drawn(
                "draw",
                place.bar,
                line,
                ("hammer", "anvil", "callipers"),
                way="point",
                blows=finishing(self.form, self.length),
            ),
        )

    def summary(self) -> Line:
        """Length."""
        return say(f"{self.form}, {{}} long", self.length)


@dataclass(frozen=True, kw_only=True)
class Ball(Outer):
    """A ball on the end of the bar.

    Args:
        diameter: mm.
    """

    kind: ClassVar[str] = "ball"
    struck: ClassVar[bool] = True
    title: ClassVar[str] = "Ball"
    also: ClassVar[tuple[str, ...]] = ("knob", "bead", "bobble", "ball end", "round end", "sphere")
    diameter: float = fields.length("Diameter", 20.0, mark="diameter")

    def necked(self, place: Place) -> bool:
        """It is set off from the bar: nothing has to be upset for it."""
        return self.diameter <= place.bar.thickness * _NECKED

    def volume(self) -> float:
        """πD³/6, mm³."""
        return math.pi * self.diameter**3 / 6

    def tip_first(self, place: Place) -> Shape:
        """A sphere to where the bar enters it, then as much bar as the rest of the sphere holds: a ball takes the steel of a whole ball.

        The bar enters where the sphere is as thick as the bar, or at four fifths of its size.
        """
        r, neck, end = self._entered(place)
        # Steps of equal angle: even steps would cut the pole off.
        stop = math.acos(max(1 - end / r, -1.0))
        xs = [r * (1 - math.cos(stop * i / _STEPS)) for i in range(_STEPS + 1)]
        sizes = [2 * math.sqrt(max(r * r - (x - r) ** 2, 0.0)) for x in xs]
        blends = [Blend(d, d, math.pi / 4, "ellipse") for d in sizes]
        spans = tuple(Span(b - a, p, q) for a, b, p, q in zip(xs, xs[1:], blends, blends[1:], strict=False))
        cap = self._cap(place)
        behind = Span(cap / (math.pi * neck * neck), blends[-1], blends[-1])
        spans = (*exact(spans, self.volume() - cap), behind)
        return Shape(spans, (Straight(math.fsum(s.length for s in spans)),))

    def _entered(self, place: Place) -> tuple[float, float, float]:
        """Radius of the ball, radius of what enters it, and where, from the outer pole; mm."""
        r = self.diameter / 2
        neck = min(math.sqrt(place.bar.area / math.pi), 0.8 * r)
        return r, neck, r + math.sqrt(r * r - neck * neck)

    def _cap(self, place: Place) -> float:
        """Part of the ball that lies behind where the bar enters, mm³: π·h²·(3r − h)/3."""
        r, _neck, end = self._entered(place)
        h = 2 * r - end
        return math.pi * h * h * (3 * r - h) / 3

    def sum_lines(self, place: Place) -> tuple[Line, ...]:
        """πD³/6 ÷ the bar, and the convention."""
        text = "A whole ball counts: the bar enters it {} from its pole, and the {} that lie behind stand as bar"
        return (
            volume_line("Ball: 3.1416 × {}³/6", self.volume(), place.bar, dec(self.diameter)),
            say(text, self._entered(place)[2], Quantity(self._cap(place), "volume")),
            stock_line(self, place),
        )

    def checks(self, place: Place) -> tuple[Check, ...]:
        """Too long to upset in one go; too small for the bar."""
        found = []
        free = stock_of(self, place) / place.bar.thickness
        if goes(free) > 1 and not self.necked(place):
            text = "{} thicknesses of bar go into this ball: more than 3 bend over. Planned a stretch at a time, a heat each; folded, it takes fewer."
            found.append(Check("note", say(text, Quantity(free, "cubes"))))
        if self.necked(place):
            found.append(Check("note", say("A ball no larger than the bar is necked off, not upset: the steel counts the same.")))
        return (*found, *self.buried(place))

    def operations(self, place: Place) -> tuple[Operation, ...]:
        """Upset, then round."""
        tools = ("anvil", "ball swage", "callipers")
        if self.necked(place):
            line = say("Isolate the ball by a double set-down over the anvil's edge, then work the corners in to {}.", self.diameter)
            return (Operation("setdown", line, "section", "time", 850, tools, blows=ISOLATE + BALL, way="round-ball"),)
        line = say("Upset the end and work the corners in to a ball of {}.", self.diameter)
        steps = goes(stock_of(self, place) / place.bar.thickness)
        return (Operation("upset", line, "section", "upset", 900, tools, blows=BALL, way="ball", goes=steps),)

    def summary(self) -> Line:
        """Diameter."""
        return say("{} across", self.diameter)


@dataclass(frozen=True, kw_only=True)
class Nub(Outer):
    """A rounded end: half an ellipsoid over the bar's own section.

    Args:
        height: how far it stands, mm.
    """

    kind: ClassVar[str] = "nub"
    struck: ClassVar[bool] = True
    title: ClassVar[str] = "Nub"
    also: ClassVar[tuple[str, ...]] = ("dome", "rounded end", "bullet end", "dressed end")
    height: float = fields.length("Height", 6.0, mark="length", tip="From where the bar begins to round over.")

    def volume(self, place: Place) -> float:
        """⅔ of the bar's section × height, mm³."""
        return 2 / 3 * place.bar.area * self.height

    def tip_first(self, place: Place) -> Shape:
        """A dome in slices."""
        rows = [math.sin(i / _STEPS * math.pi / 2) for i in range(_STEPS + 1)]
        blends = [place.bar.blend.scaled(max(r, 0.0) ** 2) for r in rows]
        return Shape(exact(profile(self.height, blends), self.volume(place)), (Straight(self.height),))

    def sum_lines(self, place: Place) -> tuple[Line, ...]:
        """Two thirds of the bar."""
        text = "Half an ellipsoid: 2/3 × {} × {}"
        area = Quantity(place.bar.area, "area")
        return volume_line(text, self.volume(place), place.bar, area, dec(self.height)), stock_line(self, place)

    def checks(self, place: Place) -> tuple[Check, ...]:
        """Only where the end is free."""
        return self.buried(place)

    def operations(self, place: Place) -> tuple[Operation, ...]:
        """Round the end over."""
        line = say("Round the end over, {} high.", self.height)
        return (Operation.drawn("draw", place.bar, line, ("hammer", "anvil"), blows=_NUB),)

    def summary(self) -> Line:
        """Height."""
        return say("{} high", self.height)


@dataclass(frozen=True, kw_only=True)
class EndHole(Outer):
    """A hole drilled into the end of the bar, along it.

    Args:
        diameter: mm.
        depth: mm.
        tap: nominal diameter of a thread cut into it, mm; 0 for none.
    """

    kind: ClassVar[str] = "end-hole"
    since: ClassVar[int] = 6
    title: ClassVar[str] = "End hole"
    also: ClassVar[tuple[str, ...]] = ("axial hole", "bored end", "socket", "ferrule hole", "tapped end")
    diameter: float = fields.length("Diameter", 6.0, mark="diameter")
    depth: float = fields.length("Depth", 25.0, mark="length", tip="Along the bar.")
    tap: float = fields.length("Tapped", 0.0, zero=True, tip="Nominal diameter of a thread cut into it; 0 for none.")

    def tip_first(self, place: Place) -> Shape:
        """Bar with a bore."""
        bar = place.bar.blend
        if self.diameter >= place.bar.thickness:
            raise NoAnswer("The hole is as wide as the bar is thick: no wall is left.", "Make it smaller, or take a larger bar.")
        if self.diameter <= bar.bore:
            raise NoAnswer("The bar is hollow already, and wider.", "Make it larger, or leave it out.")
        blend = replace(bar, bore=self.diameter)
        return Shape((Span(self.depth, blend, blend),), (Straight(self.depth),))

    def removed(self, place: Place) -> float:
        """Chips, mm³."""
        return math.pi / 4 * (self.diameter**2 - place.bar.bore**2) * self.depth

    def sum_lines(self, place: Place) -> tuple[Line, ...]:
        """What comes out; the bar length stays."""
        chips = say("Hole: 0.785·{}² × {} = {} comes out", dec(self.diameter), dec(self.depth), Quantity(self.removed(place), "volume"))
        return chips, say("Stock: {}, the length does not change", self.depth)

    def checks(self, place: Place) -> tuple[Check, ...]:
        """Thin walls; a hole that a tap does not fit."""
        wall, found = (place.bar.thickness - self.diameter) / 2, []
        if wall < self.diameter / 4:
            found.append(Check("warn", say("Only {} of wall round the hole: it splits when something is driven in.", wall)))
        if self.depth > 8 * self.diameter:
            found.append(
                Check("note", say("{} is deep for a drill of {}: clear the chips often, start it true.", self.depth, self.diameter))
            )
        return (*found, *self.buried(place))

    def operations(self, place: Place) -> tuple[Operation, ...]:
        """Drill, tap; cold."""
        line = say("Drill {} into the end, {} deep, cold; centre pop first, hold it upright.", self.diameter, self.depth)
        tools = ("drill", "centre punch", "vice")
        found = [Operation("drill", line, "whole", "time", 0, tools, seconds=60.0 + 4.0 * self.depth, cold=True)]
        if self.tap:
            words = say("Tap the end to {}, cold; oil, half a turn back for each turn.", self.tap)
            found.append(Operation("tap", words, "whole", "time", 0, ("tap and wrench", "vice", "oil"), seconds=120.0, cold=True))
        return tuple(found)

    def summary(self) -> Line:
        """Diameter and depth."""
        return say("{} drilled, {} deep", self.diameter, self.depth)
