"""Holes, drilled or punched (computations, section 6)."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import replace
from typing import Any, ClassVar, Self, cast

from long_ember import fields
from long_ember.errors import NoAnswer
from long_ember.features.base import Check, Feature, Operation, Place, shape_of
from long_ember.features.effort import HEAD, punched, pushed
from long_ember.features.shape import Shape, Span, Straight, Void, hole_volume
from long_ember.fields import specs
from long_ember.frozen import dataclass
from long_ember.units import Line, Quantity, say

__all__ = ["Hole"]

_FLAT = 1.2  # width ÷ thickness from which it matters which face is up


@dataclass(frozen=True, kw_only=True)
class Hole(Feature):
    """A round hole in a length of bar.

    Args:
        diameter: mm.
        length: mm of bar given to it; the hole sits in the middle.
        method: drilled (all of it is chips) or punched (a slug; the rest swells the bar).
        axis: the hole runs through the thickness or through the width.
        form: round, or drifted square or diamond; then the diameter is the side.
        sink: mouth of a countersink, mm; 0 for none.
        ball: diameter of the ball fuller that sinks it, mm: it moves the steel aside; 0 where a cone is cut.
        slug: share of the hole's volume that a punch takes out.
        tap: nominal diameter of a thread cut into it, mm; 0 for none. The chips of the thread itself are not reckoned.
    """

    kind: ClassVar[str] = "hole"
    stands: ClassVar[str] = "work"
    title: ClassVar[str] = "Hole"
    of_bar: ClassVar[tuple[str, ...]] = ("length",)
    also: ClassVar[tuple[str, ...]] = (
        "punch",
        "drill",
        "punch hole",
        "drill hole",
        "bore",
        "screw hole",
        "rivet hole",
        "countersink",
        "square hole",
        "diamond hole",
    )
    named: ClassVar[Mapping[str, Mapping[str, Any]]] = {
        "punch": {"method": "punched"},
        "punch hole": {"method": "punched"},
        "countersink": {"sink": 12.0},
        "square hole": {"form": "square", "method": "punched"},
        "diamond hole": {"form": "diamond", "method": "punched"},
    }
    diameter: float = fields.length("Diameter", 6.0, mark="diameter")
    length: float = fields.length("Length", 30.0, mark="length", tip="Bar given to the hole, half on each side.")
    method: str = fields.choice("Made by", "drilled", ("drilled", "drilling, cold"), ("punched", "punching, hot"))
    axis: str = fields.choice("Through", "thickness", ("thickness", "the thickness"), ("width", "the width"))
    slug: float = fields.percent("Slug", 0.30, tip="Share of the hole a punch takes out; the rest swells the bar.")
    form: str = fields.choice("Form", "round", ("round", "round"), ("square", "square drift"), ("diamond", "diamond drift"))
    sink: float = fields.length("Countersink", 0.0, zero=True, tip="Mouth of a countersink, 90°; 0 for none.")
    ball: float = fields.length(
        "Ball of its seat", 0.0, zero=True, tip="Diameter of a ball fuller that sinks the seat hot; 0 cuts a cone of 90°.", late=6
    )
    tap: float = fields.length("Tapped", 0.0, zero=True, tip="Nominal diameter of a thread cut into it; 0 for none.", late=True)

    @property
    def idle(self) -> frozenset[str]:
        """The slug of a drilled hole, the ball of one that has no seat."""
        found = {"slug": self.method == "drilled", "ball": not self.sink}
        return frozenset(name for name, out in found.items() if out)

    def marked(self, mark: str) -> str:
        """Only a round hole has a diameter."""
        return "width" if mark == "diameter" and self.form != "round" else mark

    @property
    def mouth(self) -> float:
        """Its mouth along the bar, mm."""
        return max(self.diameter * (math.sqrt(2) if self.form == "diamond" else 1.0), self.sink)

    def standing(self) -> Self:
        """With as much bar as a punched one swells."""
        values = {name: getattr(self, name) for name in specs(self)}
        return cast(Self, _StandingHole(**{**values, "id": self.id, "length": max(2 * self.diameter, 1.1 * self.mouth)}))

    def volume(self, place: Place) -> float:
        """Volume of the hole, mm³; a drift's size is its side."""
        if self.form == "round":
            return hole_volume(self.diameter, place.bar, self.axis)
        if place.bar.shape not in ("square", "flat"):
            raise NoAnswer("Square and diamond holes are reckoned in square and flat bar.", "Flatten the bar there, or make it round.")
        return self.diameter**2 * (place.bar.thickness if self.axis == "thickness" else place.bar.width)

    def sunk(self, place: Place) -> float:
        """What a countersink takes beside the hole, mm³: a frustum less the hole's cylinder."""
        if not self.sink:
            return 0.0
        if place.bar.shape not in ("square", "flat") or self.form != "round":
            raise NoAnswer("A countersink is reckoned for round holes in square and flat bar.", "Leave it out here.")
        d, m = self.diameter, self.sink
        depth = (m - d) / 2
        if self.ball and depth > 0:
            depth = self._seat_depth()
        if depth <= 0 or depth >= (place.bar.thickness if self.axis == "thickness" else place.bar.width):
            raise NoAnswer("A countersink is wider than its hole and shallower than the bar.", "Change its mouth.")
        if self.ball:  # the ball's cap between its mouth and where it meets the hole's wall, less the hole
            r, deep = self.ball / 2, self._seat_depth()
            high = r - math.sqrt(r * r - m * m / 4)
            whole, below = (math.pi * h * h * (3 * r - h) / 3 for h in (high, high - deep))
            return whole - below - math.pi / 4 * d * d * deep
        return math.pi * depth / 12 * (m * m + m * d + d * d) - math.pi / 4 * d * d * depth

    def _seat_depth(self) -> float:
        """From the face to where a ball fuller's seat meets the hole, mm.

        Raises:
            NoAnswer: the ball is smaller than the mouth that it should make.
        """
        r = self.ball / 2
        if self.ball < self.sink:
            raise NoAnswer("A ball makes no mouth wider than itself.", "Take a larger ball, or a smaller mouth.")
        return math.sqrt(r * r - self.diameter**2 / 4) - math.sqrt(r * r - self.sink**2 / 4)

    def _across(self, place: Place) -> float:
        return place.bar.width if self.axis == "thickness" else place.bar.thickness

    def shape(self, place: Place) -> Shape:
        """Parallel bar with a hole; punched, the sides swell by what the slug did not take."""
        span = self.mouth
        if span >= self._across(place):
            raise NoAnswer(
                "The hole is as wide as the bar: no wall is left beside it.",
                "Make the hole smaller, upset the bar first, or turn an eye.",
            )
        if span >= self.length:
            raise NoAnswer("The hole is longer than the bar given to it.", "Give it more length.")
        volume = self.volume(place)
        void = Void(self.length / 2, self.diameter, self.axis, volume + self.sunk(place), self.form, sink=self.sink)
        kept = volume * (1 - self.slug) if self.method == "punched" else 0.0
        return Shape(self._spans(place, kept + (self.sunk(place) if self.ball else 0.0)), (Straight(self.length),), (void,))

    def _spans(self, place: Place, kept: float) -> tuple[Span, ...]:
        """Parallel bar, swollen by what was only moved aside, mm³."""
        bar = place.bar.blend
        if kept <= 0:
            return (Span(self.length, bar, bar),)
        swollen = min(self.length, 2 * self.diameter)
        other = bar.t if self.axis == "thickness" else bar.w
        growth = 2 * kept / (bar.k * other * swollen)
        peak = replace(bar, w=bar.w + growth) if self.axis == "thickness" else replace(bar, t=bar.t + growth)
        up, plain = Span(swollen / 2, bar, peak), Span((self.length - swollen) / 2, bar, bar)
        return (plain, up, up.reversed(), plain) if plain.length > 0 else (up, up.reversed())

    def spots(self, place: Place) -> tuple[tuple[float, str], ...]:
        """Its middle."""
        return ((0.5, "centre pop, deep, for the hole"),)

    def removed(self, place: Place) -> float:
        """Chips, or the slug, mm³."""
        return self.volume(place) * (1.0 if self.method == "drilled" else self.slug) + (0.0 if self.ball else self.sunk(place))

    def sum_lines(self, place: Place) -> tuple[Line, ...]:
        """What the hole takes out; the bar length stays."""
        volume, sunk = self.volume(place), self.sunk(place)
        if self.method == "punched":
            slug = volume * self.slug
            lines = [say("Hole {}: {}, of which {} comes out", self.diameter, Quantity(volume, "volume"), Quantity(slug, "volume")),
                     say("The other {} swells the bar beside the hole", Quantity(volume - slug, "volume"))]  # fmt: skip
        else:
            lines = [say("Hole {}: {} comes out", self.diameter, Quantity(volume, "volume"))]
        if sunk > 0:
            text = "Seat of a ball fuller: {} are driven aside" if self.ball else "Countersink: {} comes out besides"
            lines.append(say(text, Quantity(sunk, "volume")))
        return (*lines, say("Stock: {}, the length does not change", self.length))

    def margins(self, place: Place, to_end: float) -> tuple[Line, ...]:
        """Walls beside the hole and beyond it."""
        wall = (self._across(place) - self.mouth) / 2
        return (say("Walls: {} on each side, {} from the hole to the end of the bar", Quantity(wall, "fine"), to_end - self.mouth / 2),)

    def checks(self, place: Place) -> tuple[Check, ...]:
        """Thin walls; slugs fly."""
        wide = self.diameter * (math.sqrt(2) if self.form == "diamond" else 1.0)
        wall, found = (self._across(place) - wide) / 2, []
        if self.form != "round" and self.method == "drilled":
            found.append(
                Check("note", say("Drill round to the size of the side first, then drift hot: the corners swell the bar a little."))
            )
        if wall < min(self.diameter / 2, place.bar.thickness / 2):
            found.append(Check("warn", say("Only {} of wall beside the hole: the sides tear or bulge.", wall)))
        if self.tap and not 0.75 * self.tap <= self.diameter < 0.95 * self.tap:
            text = "A thread of {} wants a hole of about {}: smaller breaks the tap, larger leaves no thread."
            found.append(Check("warn", say(text, self.tap, 0.85 * self.tap)))
        if self.method == "punched":
            found.append(Check("note", say("Punch slugs fly and punch heads mushroom: eyes, gloves, dress the punch."), caution=True))
        return tuple(found)

    def operations(self, place: Place) -> tuple[Operation, ...]:
        """Punch hot or drill cold."""
        tap = (self._tapped(),) if self.tap else ()
        cone = bool(self.sink) and not self.ball
        seat: tuple[Operation, ...] = ()
        if self.sink and self.ball:
            words = say("Sink the seat with a ball fuller of {} to a mouth of {}; drift the hole true again.", self.ball, self.sink)
            seat = (
                Operation(
                    "punch",
                    words,
                    "section",
                    "time",
                    850,
                    ("ball fuller", "bolster", "hammer"),
                    effort=pushed(self.sunk(place)),
                    blows=HEAD,
                    way="seat",
                ),
            )
        if self.method == "drilled":
            sink = " Countersink to {}." if cone else ""
            line = say("Drill {}, cold" + self._lying(place) + "; centre pop first." + sink, self.diameter, *((self.sink,) if cone else ()))
            seconds = 45.0 + shape_of(self, place).voids[0].volume / 15 + (10.0 if cone else 0.0)  # mm³ a second, at a drill press
            return (
                *seat,
                Operation("drill", line, "whole", "time", 0, ("drill", "centre punch", "clamp"), seconds=seconds, cold=True),
                *tap,
            )
        bore = shape_of(self, place).voids[0].diameter
        through = place.bar.thickness if self.axis == "thickness" else place.bar.width
        work = punched(math.pi / 4 * bore**2, math.pi * bore, through)
        drift = f" Drift it {self.form}." if self.form != "round" else ""
        sink = " When it is cold, countersink to {}." if cone else ""
        line = say(
            "Punch {} from both sides" + self._lying(place) + ", knock the slug through." + drift + sink,
            self.diameter,
            *((self.sink,) if cone else ()),
        )
        return (Operation("punch", line, "whole", "time", 850, ("punch", "bolster", "water can"), effort=work), *seat, *tap)

    def _lying(self, place: Place) -> str:
        """Which face of a flat is up, in words."""
        if place.bar.width <= place.bar.thickness * _FLAT:
            return ""
        return ", the wide face up" if self.axis == "thickness" else ", standing on edge"

    def _tapped(self) -> Operation:
        line = say("Tap to {}, cold; oil, half a turn back for each turn. Re-square the hole first.", self.tap)
        return Operation("tap", line, "whole", "time", 0, ("tap and wrench", "vice", "oil"), seconds=120.0, cold=True)

    def summary(self) -> Line:
        """Diameter and method."""
        return say(f"{{}} {self.method}, in {{}} of bar", self.diameter, self.length)


@dataclass(frozen=True, kw_only=True)
class _StandingHole(Hole):
    """A hole in what is drawn: no bar is given to it."""

    def summary(self) -> Line:
        """Its size."""
        text = super().summary().text
        return Line(text.rpartition(", in {}")[0] or text, super().summary().values[:1])
