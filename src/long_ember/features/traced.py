"""A course of straights and bends followed from a drawing (computations, section 3)."""

from __future__ import annotations

import math
import re
from dataclasses import replace
from typing import ClassVar, Self

from long_ember import fields
from long_ember.errors import NoAnswer
from long_ember.features.base import Check, Formed, Operation, Place, stock_line
from long_ember.features.effort import bend_moment
from long_ember.features.shape import Arc, Corner, Segment, Shape, Span, Straight, chained
from long_ember.features.turning import bend_range, bent, depth, on_arc
from long_ember.frozen import dataclass
from long_ember.units import Line, Quantity, say

__all__ = ["Traced", "course_text", "read_course"]

_STEP = (  # what is read seldom is compiled when it is read
    r"^(?:(?P<straight>\d+(?:\.\d+)?)|r(?P<radius>\d+(?:\.\d+)?) (?P<angle>-?\d+(?:\.\d+)?)|c(?P<corner>-?\d+(?:\.\d+)?))$"
)


def read_course(course: str) -> tuple[Segment, ...]:
    """Segments of a course: `40; r25 90; 60; c-30; 20`, straights in mm, radius of the centreline in mm with degrees, corners in degrees.

    Raises:
        NoAnswer: naming the step that can't be read.
    """
    found: list[Segment] = []
    for i, text in enumerate(course.split(";"), 1):
        match = re.match(_STEP, " ".join(text.split()))
        if match is None:
            raise NoAnswer(
                f"Step {i} of the course, {text.strip()!r}, can't be read.", "Write straights and bends: 40; r25 90; 60; r25 -45; 20"
            )
        if match["straight"]:
            found.append(Straight(float(match["straight"])))
        elif match["corner"]:
            found.append(Corner(math.radians(float(match["corner"]))))
        else:
            angle = math.radians(float(match["angle"]))
            found.append(Arc(abs(angle) * float(match["radius"]), angle))
    if any(not isinstance(s, Corner) and s.length <= 0 for s in found) or isinstance(found[0], Corner) or isinstance(found[-1], Corner):
        raise NoAnswer("A course begins and ends with a length, and no length is 0.", "Write straights and bends: 40; r25 90; 60")
    if any(isinstance(s, Corner) and abs(s.angle) > math.radians(150) for s in found):
        raise NoAnswer("A sharp corner of more than 150° doubles the bar back on itself.", "Use a bend with a radius.")
    return tuple(found)


def course_text(segments: tuple[Segment, ...]) -> str:
    """A course as it is typed; rounded to 0.01 mm; a turn on a large radius is rounded finer, for a hundredth of a degree of it is long."""
    words = []
    for s in segments:
        if isinstance(s, Straight):
            words.append(f"{s.length:.2f}")
        elif isinstance(s, Corner):
            words.append(f"c{math.degrees(s.angle):.2f}")
        elif isinstance(s, Arc):
            words.append(f"r{abs(s.length / s.angle):.2f} {math.degrees(s.angle):.4f}")
    return "; ".join(w for w in words if w)


@dataclass(frozen=True, kw_only=True)
class Traced(Formed):
    """Bar bent along a course in one plane, as a drawing gives it.

    Args:
        course: straights and bends of the centreline, see `read_course`.
        facing: degrees about the bar, positive bends go there.
    """

    kind: ClassVar[str] = "traced"
    curves: ClassVar[bool] = True
    stands: ClassVar[str] = "form"
    title: ClassVar[str] = "Traced curve"
    also: ClassVar[tuple[str, ...]] = ("drawing", "template", "pattern", "imported curve", "bend schedule", "full-size drawing")
    course: str = fields.course("Course", "40; r30 60; 30; r20 -60; 40")
    facing: float = fields.facing()

    def scaled(self, factor: float) -> Self:
        """With every straight and radius of its course scaled."""
        course = tuple(replace(s, length=s.length * factor) if isinstance(s, (Straight, Arc)) else s for s in read_course(self.course))
        return replace(super().scaled(factor), course=course_text(course))

    def steps(self, place: Place) -> tuple[tuple[Segment, float], ...]:
        """Each step of the course with the bar that it uses by the bend rule, mm."""
        found: list[tuple[Segment, float]] = []
        for s in read_course(self.course):
            used = s.length
            if isinstance(s, Arc):
                deep = depth(place.bar.blend, self.facing + (0 if s.angle > 0 else 180))
                used = on_arc(abs(s.angle), max(abs(s.length / s.angle) - deep.inner, 0.0), deep, place.rule)
            found.append((s, used))
        return tuple(found)

    def shape(self, place: Place) -> Shape:
        """Plain bar along the course, which is that of its middle line."""
        turn, bar = math.radians(self.facing), place.bar.blend
        parts = []
        for s, used in self.steps(place):
            if isinstance(s, Arc):
                parts.append(bent((Span(used, bar, bar),), (Arc(s.length, s.angle, turn),)))
            elif isinstance(s, Corner):
                parts.append(Shape((), (Corner(s.angle, turn),)))
            else:
                parts.append(Shape((Span(s.length, bar, bar),), (s,)))
        return chained(parts)

    def stock_range(self, place: Place) -> tuple[float, float]:
        """mm, between the tightest and the most generous bend rule."""
        return bend_range(self, place)

    def schedule(self, place: Place) -> tuple[Line, ...]:
        """Each bend with where it begins along the bar."""
        found, at = [], 0.0
        for s, used in self.steps(place):
            if isinstance(s, Arc):
                angle, radius = Quantity(math.degrees(s.angle), "angle"), abs(s.length / s.angle)
                found.append(say("At {} bend {} round a middle radius of {}, ending at {}", at, angle, radius, at + used))
            elif isinstance(s, Corner):
                found.append(say("At {} turn {} sharp", at, Quantity(math.degrees(s.angle), "angle")))
            at += used
        return tuple(found)

    def spots(self, place: Place) -> tuple[tuple[float, str], ...]:
        """Where each bend begins."""
        steps = self.steps(place)
        total, at, found = math.fsum(used for _s, used in steps), 0.0, []
        for s, used in steps:
            if not isinstance(s, Straight) and at > 0:
                found.append((at / total, "centre pop, bend begins"))
            at += used
        return tuple(found)

    def sum_lines(self, place: Place) -> tuple[Line, ...]:
        """Developed length, then the bend schedule."""
        steps = self.steps(place)
        straight = math.fsum(used for s, used in steps if isinstance(s, Straight))
        bends = math.fsum(used for s, used in steps if isinstance(s, Arc))
        return (
            say("Straights {} + bends, by the bend rule, {} = {}", straight, bends, straight + bends),
            *self.schedule(place),
            stock_line(self, place),
        )

    def checks(self, place: Place) -> tuple[Check, ...]:
        """Bends tighter than the bar allows."""
        t = place.bar.blend.across(math.radians(self.facing))
        radii = [abs(s.length / s.angle) for s in read_course(self.course) if isinstance(s, Arc)]
        if radii and min(radii) < 1.5 * t:
            text = "The tightest bend has a middle radius of {}: under one and a half thicknesses the inside wrinkles."
            return (Check("warn", say(text, min(radii))),)
        return ()

    def operations(self, place: Place) -> tuple[Operation, ...]:
        """Bend to a full-size drawing."""
        bends = sum(not isinstance(s, Straight) for s in read_course(self.course))
        line = say("Bend to the full-size drawing: {} bends, checked against it after each.", Quantity(bends, "number"))
        tools = ("fork or jig", "horn", "chalk drawing on the plate")
        turned = math.degrees(math.fsum(abs(s.angle) for s in read_course(self.course) if isinstance(s, (Arc, Corner))))
        work = bend_moment(place.bar.blend, depth(place.bar.blend, self.facing).whole, turned)
        return (Operation("bend", line, "path", "time", 700, tools, settings=bends, effort=work),)

    def summary(self) -> Line:
        """How many bends."""
        steps = read_course(self.course)
        bends = sum(not isinstance(s, Straight) for s in steps)
        return say("{} bends, {}", Quantity(bends, "number"), math.fsum(s.length for s in steps if not isinstance(s, Corner)))
