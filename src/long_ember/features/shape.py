"""The finished form of a feature: section along its length (spans), the line it follows (path), holes (voids)."""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import replace
from functools import cached_property

from long_ember.errors import NoAnswer
from long_ember.features.curves import spiral_length
from long_ember.frozen import dataclass
from long_ember.sections import Blend, Section

__all__ = [
    "Arc",
    "Branch",
    "Corner",
    "Helix",
    "Segment",
    "Shape",
    "Span",
    "Spiral",
    "Straight",
    "Void",
    "chained",
    "exact",
    "hole_volume",
    "loft_doubt",
    "profile",
]


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
        """L/6·(A₀ + 4A_mid + A₁), exact where w, t and k vary linearly (computations, section 2). mm³."""
        first, last = self.start, self.end
        if first is last:
            return self.length * first.area
        mid = first.toward(last, 0.5)
        return self.length / 6 * (first.area + 4 * mid.area + last.area)

    def reversed(self) -> Span:
        """The same stretch seen from the other end."""
        return replace(self, start=self.end, end=self.start)


@dataclass(frozen=True, slots=True)
class Straight:
    """A straight line of `length` mm."""

    length: float


@dataclass(frozen=True, slots=True)
class Arc:
    """A circular arc.

    Args:
        length: mm on the centreline.
        angle: rad turned, positive toward `facing`.
        facing: rad about the bar from up (the thickness) to the front (the width).
    """

    length: float
    angle: float
    facing: float = 0.0


@dataclass(frozen=True, slots=True)
class Corner:
    """A sharp change of direction by `angle` rad toward `facing` rad, without length."""

    angle: float
    facing: float = 0.0
    length: float = 0.0


@dataclass(frozen=True, slots=True)
class Spiral:
    """A spiral between centreline radii r0 (inner) and r1 (outer), mm.

    Args:
        form: archimedean, logarithmic or clothoid.
        angle: rad turned in all, positive.
        turn: +1 to the left (up), −1 to the right.
        outward: from the inner end to the outer.
        facing: rad, see `Arc`.
    """

    form: str
    r0: float
    r1: float
    angle: float
    turn: int
    outward: bool = True
    facing: float = 0.0

    @property
    def length(self) -> float:
        """Developed length, mm."""
        return spiral_length(self.form, self.r0, self.r1, self.angle)


@dataclass(frozen=True, slots=True)
class Helix:
    """A helical coil.

    Args:
        radius: of the centreline about the coil's axis, mm.
        pitch: rise a turn, mm.
        turns: number of turns.
        hand: +1 rises to the front of the plane it turns in, −1 to the back.
        facing: rad, see `Arc`.
    """

    radius: float
    pitch: float
    turns: float
    hand: int = 1
    facing: float = 0.0

    @property
    def length(self) -> float:
        """N·√((πD)² + p²), mm (computations, section 3)."""
        return self.turns * math.hypot(2 * math.pi * self.radius, self.pitch)


Segment = Straight | Arc | Corner | Spiral | Helix


@dataclass(frozen=True, slots=True)
class Void:
    """Something cut through a straight length.

    Args:
        centre: from the feature's A end, mm.
        diameter: size along the bar, mm.
        axis: thickness or width, the direction it runs.
        volume: mm³.
        form: round, slot, square, diamond.
        across: size across the bar where it differs, mm; 0 as `diameter`.
        sink: mouth of a countersink on the upper face, mm; 0 for none.
        depth: mm from the upper face; 0 right through.
    """

    centre: float
    diameter: float
    axis: str
    volume: float
    form: str = "round"
    across: float = 0.0
    sink: float = 0.0
    depth: float = 0.0


@dataclass(frozen=True, slots=True)
class Branch:
    """A tine, or a bar welded on, that leaves the feature's centreline.

    Args:
        at: mm from the feature's A end.
        up: mm off the centreline, in the direction of the thickness.
        front: mm off the centreline, in the direction of the width.
        back: it runs toward the feature's A end instead of its B end.
        shape: its own form, from its root.
        name: what it is called.
    """

    at: float
    up: float
    front: float
    back: bool
    shape: Shape
    name: str = ""


@dataclass(frozen=True)
class Shape:
    """A feature's form from its A end to its B end. Spans and path have the same total length."""

    spans: tuple[Span, ...]
    path: tuple[Segment, ...]
    voids: tuple[Void, ...] = ()
    branches: tuple[Branch, ...] = ()

    @cached_property
    def length(self) -> float:
        """Developed length, mm."""
        return self.spans[0].length if len(self.spans) == 1 else math.fsum([span.length for span in self.spans])

    @cached_property
    def volume(self) -> float:
        """Solid volume, mm³."""
        own = self.spans[0].volume if len(self.spans) == 1 else math.fsum([s.volume for s in self.spans])
        if self.voids:
            own -= math.fsum([v.volume for v in self.voids])
        return own + math.fsum([b.shape.volume for b in self.branches]) if self.branches else own

    @cached_property
    def planar(self) -> bool:
        """All of it lies in the plane of the drawing."""
        for segment in self.path:
            if isinstance(segment, Helix):
                return segment.pitch == 0
            if not isinstance(segment, Straight) and abs(math.sin(segment.facing)) > 1e-9:
                return False
        return all(b.front == 0 and b.shape.planar for b in self.branches)

    def mirrored(self) -> Shape:
        """The same form with its two ends exchanged; bends keep the side they face."""
        path = tuple(replace(s, outward=not s.outward) if isinstance(s, Spiral) else s for s in reversed(self.path))
        voids = tuple(replace(v, centre=self.length - v.centre) for v in self.voids)
        branches = tuple(replace(b, at=self.length - b.at, back=not b.back, shape=b.shape.flopped()) for b in self.branches)
        return Shape(tuple(s.reversed() for s in reversed(self.spans)), path, voids, branches)

    def flopped(self) -> Shape:
        """Its mirror image front to back: the other of a pair."""
        path = tuple(s if isinstance(s, Straight) else replace(s, facing=-s.facing) for s in self.path)
        path = tuple(replace(s, hand=-s.hand) if isinstance(s, Helix) else s for s in path)
        branches = tuple(replace(b, front=-b.front, shape=b.shape.flopped()) for b in self.branches)
        spans = tuple(Span(s.length, s.start.flopped(), s.end.flopped(), -s.turns) for s in self.spans)
        return Shape(spans, path, self.voids, branches)


def hole_volume(diameter: float, bar: Section, axis: str) -> float:
    """Volume of a round hole through the middle of a bar, mm³.

    The depth of the bar is followed across the hole: constant in square and flat bar, falling beyond the flats of hexagon and
    octagon (closed form, piece by piece), and in round bar the crossing of two cylinders, integrated by the periodic trapezium rule,
    exact to rounding at 256 points.

    Args:
        diameter: of the hole, mm.
        bar: what it goes through.
        axis: thickness or width.

    Raises:
        NoAnswer: for a hole across the width of half-round bar, whose depth has no plain form.
    """
    if bar.shape == "half-round":
        if axis == "width":
            raise NoAnswer("A hole across the flat of half-round bar is not reckoned.", "Put it through the thickness.")
        return _crossing(diameter, bar.width) / 2
    if bar.shape in ("round", "tube"):
        return _crossing(diameter, bar.width) - (_crossing(diameter, bar.bore) if bar.bore else 0.0)
    through = bar.thickness if axis == "thickness" else bar.width
    sides = {"hexagon": 6, "octagon": 8}.get(bar.shape, 0)
    if not sides:
        return math.pi / 4 * diameter**2 * through
    flat, deep, slope = bar.width * math.tan(math.pi / sides) / 2, through, 2 * math.tan(2 * math.pi / sides)
    if sides == 6 and axis == "width":  # from corner to corner: deepest in the middle, falling at once
        flat, deep, slope = 0.0, 2 * bar.width / math.sqrt(3), 2 / math.sqrt(3)
    r = diameter / 2
    if r <= flat:
        return math.pi / 4 * diameter**2 * deep
    return 2 * (deep * _strip(r, 0.0, r) - slope * (_moment(r, flat, r) - flat * _strip(r, flat, r)))


def _strip(r: float, a: float, b: float) -> float:
    """∫ 2√(r²−z²) dz from a to b, mm²."""

    def primitive(z: float) -> float:
        return z * math.sqrt(max(r * r - z * z, 0.0)) + r * r * math.asin(min(max(z / r, -1.0), 1.0))

    return primitive(b) - primitive(a)


def _moment(r: float, a: float, b: float) -> float:
    """∫ 2z√(r²−z²) dz from a to b, mm³."""
    return 2 / 3 * (math.pow(max(r * r - a * a, 0.0), 1.5) - math.pow(max(r * r - b * b, 0.0), 1.5))


def _crossing(diameter: float, big: float) -> float:
    """Volume common to two round bars that cross at right angles, mm³; the smaller one may be either."""
    r, outer, n = min(diameter, big) / 2, max(diameter, big) / 2, 256
    angles = (math.pi * i / n for i in range(n))
    total = math.fsum(math.cos(a) ** 2 * math.sqrt(max(outer**2 - (r * math.sin(a)) ** 2, 0.0)) for a in angles)
    return 4 * r * r * math.pi / n * total


def chained(shapes: Sequence[Shape]) -> Shape:
    """Shapes end to end as one."""
    spans: list[Span] = []
    path: list[Segment] = []
    voids: list[Void] = []
    branches: list[Branch] = []
    at = 0.0
    for shape in shapes:
        spans.extend(shape.spans)
        path.extend(shape.path)
        voids.extend(replace(v, centre=v.centre + at) for v in shape.voids)
        branches.extend(replace(b, at=b.at + at) for b in shape.branches)
        at += shape.length
    return Shape(tuple(spans), tuple(path), tuple(voids), tuple(branches))


def profile(length: float, sections: Sequence[Blend]) -> tuple[Span, ...]:
    """Spans of equal length through `sections`, for outlines that no single taper can follow."""
    step = length / (len(sections) - 1)
    return tuple(Span(step, a, b) for a, b in itertools.pairwise(sections))


def loft_doubt(shape: Shape) -> float:
    """How far the steel of a shape may lie either way of its sum, mm³, because an outline runs into an unlike one.

    Nothing says how a square becomes round between two gauges: between shape factors as far apart as theirs, up to 5 % (computations, section 8).
    """
    return _LOFT * math.fsum(
        span.volume * min(abs(span.start.k - span.end.k) / (1 - math.pi / 4), 1.0)
        for span in shape.spans
        if span.start.form != span.end.form
    )


_LOFT = 0.05


def exact(spans: tuple[Span, ...], volume: float) -> tuple[Span, ...]:
    """The same outline with its sections scaled evenly, so that its volume is `volume` by the closed form, mm³."""
    factor = volume / math.fsum(span.volume for span in spans)
    return tuple(Span(s.length, s.start.scaled(factor), s.end.scaled(factor), s.turns) for s in spans)
