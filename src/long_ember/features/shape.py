"""The finished form of a feature: section along its length (spans), the line it follows (path), holes (voids)."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import cached_property

from long_ember.features.curves import spiral_length
from long_ember.sections import Blend

__all__ = ["Arc", "Corner", "Segment", "Shape", "Span", "Spiral", "Straight", "Void", "hole_volume"]


@dataclass(frozen=True, slots=True)
class Span:
    """A stretch of bar between two sections.

    Args:
        length: mm along the centreline, finished and cold.
        start: section at the end nearer A.
        end: section at the end nearer B.
        turns: of twist over the span; positive is right-handed.
    """

    length: float
    start: Blend
    end: Blend
    turns: float = 0.0

    @property
    def volume(self) -> float:
        """L/6·(A₀ + 4A_mid + A₁), exact where w, t and k vary linearly (forge reference, section 2). mm³."""
        mid = self.start.toward(self.end, 0.5)
        return self.length / 6 * (self.start.area + 4 * mid.area + self.end.area)

    def reversed(self) -> Span:
        """The same stretch seen from the other end."""
        return replace(self, start=self.end, end=self.start)


@dataclass(frozen=True, slots=True)
class Straight:
    """A straight line of `length` mm."""

    length: float


@dataclass(frozen=True, slots=True)
class Arc:
    """A circular arc of `length` mm on the centreline turning by `angle` rad, positive to the left (up)."""

    length: float
    angle: float


@dataclass(frozen=True, slots=True)
class Corner:
    """A sharp change of direction by `angle` rad, without length."""

    angle: float
    length: float = 0.0


@dataclass(frozen=True, slots=True)
class Spiral:
    """A spiral between centreline radii r0 (inner) and r1 (outer), mm.

    Args:
        form: archimedean, logarithmic or clothoid.
        angle: rad turned in all, positive.
        turn: +1 to the left (up), −1 to the right.
        outward: from the inner end to the outer.
    """

    form: str
    r0: float
    r1: float
    angle: float
    turn: int
    outward: bool = True

    @property
    def length(self) -> float:
        """Developed length, mm."""
        return spiral_length(self.form, self.r0, self.r1, self.angle)


Segment = Straight | Arc | Corner | Spiral


@dataclass(frozen=True, slots=True)
class Void:
    """A hole: its centre from the feature's A end, diameter, the direction it runs, mm and mm³."""

    centre: float
    diameter: float
    axis: str
    volume: float


@dataclass(frozen=True)
class Shape:
    """A feature's form from its A end to its B end. Spans and path have the same total length."""

    spans: tuple[Span, ...]
    path: tuple[Segment, ...]
    voids: tuple[Void, ...] = ()

    @cached_property
    def length(self) -> float:
        """Developed length, mm."""
        return math.fsum(span.length for span in self.spans)

    @cached_property
    def volume(self) -> float:
        """Solid volume, mm³."""
        return math.fsum(s.volume for s in self.spans) - math.fsum(v.volume for v in self.voids)

    def mirrored(self) -> Shape:
        """The same form with its two ends exchanged; bends keep the side they face."""
        path = tuple(replace(s, outward=not s.outward) if isinstance(s, Spiral) else s for s in reversed(self.path))
        voids = tuple(replace(v, centre=self.length - v.centre) for v in self.voids)
        return Shape(tuple(s.reversed() for s in reversed(self.spans)), path, voids)


def hole_volume(diameter: float, through: float, *, round_bar: bool = False) -> float:
    """Volume of a round hole across a bar, mm³.

    Args:
        diameter: of the hole, mm.
        through: bar dimension along the hole, mm.
        round_bar: the bar is round, of diameter `through`; the crossing of two cylinders is
            integrated by the periodic trapezium rule, exact to rounding at 256 points.
    """
    if not round_bar:
        return math.pi / 4 * diameter**2 * through
    r, big, n = diameter / 2, through / 2, 256
    angles = (math.pi * i / n for i in range(n))
    total = math.fsum(math.cos(a) ** 2 * math.sqrt(max(big**2 - (r * math.sin(a)) ** 2, 0.0)) for a in angles)
    return 4 * r * r * math.pi / n * total
