"""Cross-sections of bar and of forged zones."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace
from functools import cached_property

from long_ember.errors import NoAnswer
from long_ember.frozen import dataclass
from long_ember.units import LEAST, THICKEST, Measure

__all__ = [
    "SHAPES",
    "Blend",
    "FoundSection",
    "Section",
    "ShapeSpec",
    "flat",
    "found_section",
    "half_round",
    "hexagon",
    "octagon",
    "outline_between",
    "round_",
    "square",
    "tube",
]


_ALIKE = 0.3  # mm, between width and thickness of what is told as round or square
_ROUNDING = 1e-12


@dataclass(frozen=True, slots=True)
class ShapeSpec:
    """What distinguishes one shape of section.

    Args:
        factor: area ÷ (width × thickness), sharp corners, no bore.
        perimeter: mm from width and thickness in mm.
        gyration: polar radius of gyration squared about the centroid, mm², from width and thickness.
        words: names a smith may type, the first is shown.
        form: outline of the ring, see `Blend`.
        two_sizes: needs width and thickness, not one size.
        ratio: thickness ÷ width where there is only one size.
        hollow: has a wall.
    """

    factor: float
    perimeter: Callable[[float, float], float]
    gyration: Callable[[float, float], float]
    words: tuple[str, ...]
    form: str
    two_sizes: bool = False
    ratio: float = 1.0
    hollow: bool = False


def _rectangle_gyration(w: float, t: float) -> float:
    return (w * w + t * t) / 12


# Polygons with n sides across flats f: area n/4·tan(π/n)·f², polar gyration f²/24·(3 + tan²(π/n)).
# Half round: polar moment about the circle's centre ÷ area is d²/8; the centroid lies 2d/3π off it.
SHAPES: dict[str, ShapeSpec] = {
    "square": ShapeSpec(1.0, lambda w, t: 4 * w, _rectangle_gyration, ("square", "sq"), "rectangle"),
    "round": ShapeSpec(math.pi / 4, lambda w, t: math.pi * w, lambda w, t: w * w / 8, ("round", "rd", "rnd", "dia"), "ellipse"),
    "flat": ShapeSpec(1.0, lambda w, t: 2 * (w + t), _rectangle_gyration, ("flat", "fl", "rect"), "rectangle", two_sizes=True),
    "hexagon": ShapeSpec(
        math.sqrt(3) / 2, lambda w, t: 2 * math.sqrt(3) * w, lambda w, t: w * w / 24 * (3 + 1 / 3), ("hexagon", "hex"), "hexagon"
    ),
    "octagon": ShapeSpec(
        2 * (math.sqrt(2) - 1),
        lambda w, t: 8 * (math.sqrt(2) - 1) * w,
        lambda w, t: w * w / 24 * (3 + (math.sqrt(2) - 1) ** 2),
        ("octagon", "oct"),
        "octagon",
    ),
    "half-round": ShapeSpec(
        math.pi / 4,
        lambda w, t: w * (1 + math.pi / 2),
        lambda w, t: w * w / 8 - (2 * w / (3 * math.pi)) ** 2,
        ("half-round", "half", "hr"),
        "half",
        ratio=0.5,
    ),
    "tube": ShapeSpec(
        math.pi / 4, lambda w, t: math.pi * w, lambda w, t: w * w / 8, ("tube", "pipe"), "ellipse", two_sizes=True, hollow=True
    ),
}


@dataclass(frozen=True, slots=True)
class Blend:
    """A section reduced to width, thickness and shape factor k, so that two can be blended: A = k·w·t − π/4·bore².

    Args:
        w: mm across.
        t: mm in the direction of the thickness.
        k: area of the outline ÷ (w·t).
        form: outline: rectangle, ellipse, hexagon, octagon, half, fold (an upturned V whose upright thickness is k of its height), or
            `wedge b e n`: thinned over the share b of the width to the share e of the thickness at the front (n 1), the back (−1) or both (2).
        bore: mm, diameter of a round hole along the middle.
    """

    w: float
    t: float
    k: float
    form: str = "rectangle"
    bore: float = 0.0

    @property
    def area(self) -> float:
        """Area in mm²."""
        return self.k * self.w * self.t - math.pi / 4 * self.bore**2

    @property
    def told(self) -> tuple[str, tuple[float, ...]]:
        """How it is said, with a place for each size, and those sizes, mm.

        >>> Blend(12.0, 12.0, 1.0).told, Blend(25.0, 6.0, 1.0).told
        (('{} square', (12.0,)), ('{} × {}', (25.0, 6.0)))
        """
        shape = {"ellipse": "round", "rectangle": "square"}.get(self.form, self.form if self.form in ("hexagon", "octagon") else "")
        if shape and abs(self.w - self.t) < _ALIKE:
            return f"{{}} {shape}", (self.t,)
        return "{} × {}", (self.w, self.t)

    def toward(self, other: Blend, u: float) -> Blend:
        """The blend a fraction `u` of the way to `other`, each of w, t, k, bore varying linearly."""
        return Blend(
            self.w + (other.w - self.w) * u,
            self.t + (other.t - self.t) * u,
            self.k + (other.k - self.k) * u,
            self.form if u < 0.5 else other.form,
            self.bore + (other.bore - self.bore) * u,
        )

    def flopped(self) -> Blend:
        """The outline mirrored front to back."""
        kind, *numbers = self.form.split()
        if kind != "wedge" or numbers[2] == "2":
            return self
        return Blend(self.w, self.t, self.k, f"wedge {numbers[0]} {numbers[1]} {-int(numbers[2])}", self.bore)

    def scaled(self, area_factor: float) -> Blend:
        """Same proportions, area multiplied by `area_factor`."""
        f = math.sqrt(area_factor)
        return Blend(self.w * f, self.t * f, self.k, self.form, self.bore * f)

    def across(self, facing: float) -> float:
        """Depth of the section in the plane of a bend that faces `facing` rad about the bar (0: up, the thickness), mm.

        Exact for rectangles up, down, front and back; between them the depth over corners. Others are as deep as they are thick.
        """
        if self.form != "rectangle" and self.w == self.t:
            return self.t
        up, front = abs(math.cos(facing)), abs(math.sin(facing))
        # Facing down is facing up: what the sine leaves of half a turn must not thicken the bar.
        return (up * self.t if up > _ROUNDING else 0.0) + (front * self.w if front > _ROUNDING else 0.0)

    def inner(self, facing: float) -> float:
        """From the centroid to the face that lies inside a bend, which faces `facing` rad about the bar, mm.

        Half the depth, but for half-round bar, whose centroid lies 4/3π of its thickness over the flat.
        """
        if self.form != "half":
            return self.across(facing) / 2
        up, front, low = math.cos(facing), math.sin(facing), 4 / (3 * math.pi) * self.t
        if up < -1e-12:
            return -low * up + self.w / 2 * abs(front)
        return math.hypot(self.t * up, self.w / 2 * front) - low * up


@dataclass(frozen=True)
class Section:
    """A bar section.

    Args:
        shape: a key of `SHAPES`.
        width: mm; the size across flats, or the diameter, where there is only one size.
        thickness: mm, at most the width; half the diameter of a half round.
        corner: corner radius in mm, or the leg of a broken corner; square and flat only.
        broken: corners are chamfered, not rounded.
        wall: mm, tube only.

    Raises:
        NoAnswer: for sizes that no bar can have.

    >>> round(Section('hexagon', 12, 12).area, 3)
    124.708
    """

    shape: str
    width: float
    thickness: float
    corner: float = 0.0
    broken: bool = False
    wall: float = 0.0

    def __post_init__(self) -> None:
        if self.shape not in SHAPES:
            raise NoAnswer(f"There is no section called {self.shape!r}.", "Use one of " + ", ".join(SHAPES) + ".")
        spec = SHAPES[self.shape]
        if not LEAST <= self.thickness <= self.width < THICKEST:
            raise NoAnswer(
                f"A section needs sizes from {LEAST:g} to {THICKEST:g} mm, thickness at most the width.", "Try 12 square or 25 x 6 flat."
            )
        if (not spec.two_sizes or spec.hollow) and not math.isclose(self.width * spec.ratio, self.thickness):
            raise NoAnswer(f"A {self.shape} bar has one size.", "Use a flat for two sizes.")
        if self.corner and (self.shape not in ("square", "flat") or not 0 < self.corner <= self.thickness / 2):
            raise NoAnswer("The corner does not fit the section.", "Use at most half the thickness, on square or flat bar.")
        if spec.hollow != bool(self.wall) or not 0 <= self.wall < self.width / 2:
            raise NoAnswer("A tube needs a wall of less than half its diameter, and only a tube has one.", "Try 21 x 2 tube.")

    @property
    def form_is_round(self) -> bool:
        """Round outside: round and half-round bar, tube."""
        return self.shape in ("round", "half-round", "tube")

    @property
    def bore(self) -> float:
        """Inside diameter of a tube, mm; 0 for solid bar."""
        return self.width - 2 * self.wall if self.wall else 0.0

    @cached_property
    def area(self) -> float:
        """Area in mm² (computations, section 1)."""
        lost = 2 * self.corner**2 if self.broken else (4 - math.pi) * self.corner**2
        return SHAPES[self.shape].factor * self.width * self.thickness - lost - math.pi / 4 * self.bore**2

    @property
    def perimeter(self) -> float:
        """Outer perimeter in mm."""
        saved = (8 - 4 * math.sqrt(2)) * self.corner if self.broken else (8 - 2 * math.pi) * self.corner
        return SHAPES[self.shape].perimeter(self.width, self.thickness) - saved

    @property
    def gyration2(self) -> float:
        """Polar radius of gyration squared, mm² (sharp corners; a bore is taken into account)."""
        return SHAPES[self.shape].gyration(self.width, self.thickness) + self.bore**2 / 8

    @property
    def plastic_torsion(self) -> float:
        """Plastic torsion modulus, mm³: torque ÷ shear yield stress, twice the sand hill over the section (Nadai; sharp corners).

        >>> round(Section('square', 12, 12).plastic_torsion / 12**3, 6)
        0.333333
        """
        w, t = self.width, self.thickness
        if self.shape in ("square", "flat"):
            return t * t * (3 * w - t) / 6
        if self.shape == "half-round":
            return _half_hill(w / 2)
        # A hill over a section with an inscribed circle: area × radius ÷ 3.
        return 2 / 3 * (SHAPES[self.shape].factor * w * w * w / 2 - math.pi / 8 * self.bore**3)

    @property
    def plastic_bending(self) -> float:
        """Plastic bending modulus in the plane of the thickness, mm³: moment ÷ yield stress (sharp corners; half round by equal areas)."""
        w, t = self.width, self.thickness
        if self.shape in ("square", "flat"):
            return w * t * t / 4
        if self.shape in ("round", "tube"):
            return (w**3 - self.bore**3) / 6
        if self.shape == "half-round":
            return _half_plastic(w / 2)
        # Regular polygons, flat up: twice the first moment of the upper half, from its trapezia.
        side = w * math.tan(math.pi / (6 if self.shape == "hexagon" else 8))
        if self.shape == "hexagon":
            return 2 * (w / 2) ** 2 / 6 * (2 * side + 2 * side)
        h = w / 2
        return 2 * (w * (side / 2) ** 2 / 2 + (h - side / 2) * (w * (h + side) / 6 + side * (2 * h + side / 2) / 6))

    @cached_property
    def blend(self) -> Blend:
        """The section as width, thickness and shape factor."""
        bore = self.bore
        outline = self.area + math.pi / 4 * bore**2
        return Blend(self.width, self.thickness, outline / (self.width * self.thickness), SHAPES[self.shape].form, bore)

    def scaled(self, factor: float) -> Section:
        """The same section `factor` times as large."""
        sizes: dict[str, float] = {name: getattr(self, name) * factor for name in ("width", "thickness", "corner", "wall")}
        return replace(self, **sizes)  # type: ignore[arg-type]

    def label(self, measure: Measure) -> str:
        """The section in words, for example `12 mm square` or `1 × 1/4 in flat`."""
        word = SHAPES[self.shape].words[0]
        corner = f", corners {'broken' if self.broken else 'round'} {measure.length(self.corner)}" if self.corner else ""
        if not SHAPES[self.shape].two_sizes:
            return f"{measure.length(self.width)} {word}{corner}"
        cross = "x" if measure.ascii else "×"
        return f"{measure.length(self.width, bare=True)} {cross} {measure.length(self.wall or self.thickness)} {word}{corner}"

    def edit_text(self, measure: Measure) -> str:
        """The section as a person would type it; reading it back gives the same section to 0.001 mm."""
        word = SHAPES[self.shape].words[0]
        corner = f" {'broken' if self.broken else 'corners'} {measure.edit_text(self.corner)}" if self.corner else ""
        if not SHAPES[self.shape].two_sizes:
            return f"{measure.edit_text(self.width)} {word}{corner}"
        return f"{measure.edit_text(self.width)} x {measure.edit_text(self.wall or self.thickness)} {word}{corner}"


@dataclass(frozen=True)
class FoundSection(Section):
    """A section as it is found somewhere on the drawn bar, between one shape and another.

    Args:
        found: what is there; sizes and shape are the nearest that have a name, and the thickness may be the greater.
    """

    found: Blend = Blend(1.0, 1.0, 1.0)

    def __post_init__(self) -> None:
        """Whatever was drawn is there."""

    @cached_property
    def area(self) -> float:
        """Area in mm²."""
        return self.found.area

    @cached_property
    def blend(self) -> Blend:
        """What is there."""
        return self.found

    @property
    def perimeter(self) -> float:
        """Outer perimeter in mm; exact for squares, flats, rounds and regular polygons, whose perimeter is 4·area ÷ size."""
        return 2 * (self.found.w + self.found.t) * self.found.k

    @property
    def gyration2(self) -> float:
        """Polar radius of gyration squared, mm²: that of a rectangle or an ellipse, by the share of their corners that is there."""
        return (
            (self.found.w**2 + self.found.t**2) / 12 * (0.75 + 0.25 * min(max((self.found.k - math.pi / 4) / (1 - math.pi / 4), 0.0), 1.0))
        )


def found_section(blend: Blend) -> Section:
    """A place of the drawn bar as a section.

    Args:
        blend: width, thickness, shape factor there.
    """
    even = math.isclose(blend.w, blend.t, rel_tol=1e-9)
    named = {"ellipse": "round" if even else "flat", "hexagon": "hexagon", "octagon": "octagon", "half": "half-round"}
    return FoundSection(named.get(blend.form, "square" if even else "flat"), blend.w, blend.t, found=blend)


def outline_between(section: Section, depth: float) -> float:
    """Area that is left of a section when `depth` mm is taken off its upper and its lower side straight across, mm²; a bore counts as hollow.

    Args:
        section: with a flat up where it has flats.
        depth: less than half the thickness.
    """
    w, t = section.width, section.thickness
    if section.shape in ("square", "flat"):
        return section.area - 2 * depth * w
    if section.shape in ("hexagon", "octagon"):
        sides = 6 if section.shape == "hexagon" else 8
        slope = math.tan(2 * math.pi / sides)  # of the side next to the flat: it falls by so much for each mm outwards
        flat, down = w * math.tan(math.pi / sides), w / 2 - (w * math.tan(math.pi / 8) / 2 if sides == 8 else 0.0)
        sloped = min(depth, down)
        lost = flat * sloped + sloped**2 / slope + max(depth - down, 0.0) * w
        return section.area - 2 * lost
    if section.shape == "half-round":
        r = w / 2
        return _disc_above(r, depth) - _disc_above(r, r - depth)
    return section.area - 2 * _disc_above(w / 2, t / 2 - depth)


def _disc_above(r: float, y: float) -> float:
    """Part of a disc of radius `r` that lies more than `y` over its middle, mm²."""
    return r * r * math.acos(min(max(y / r, -1.0), 1.0)) - y * math.sqrt(max(r * r - y * y, 0.0))


def _half_plastic(r: float) -> float:
    """Half disc of radius r, about the equal-area line at y₀: the first moments add to 0.35398·r³.

    y₀ from y√(r²−y²) + r²·asin(y/r) = πr²/4; moments from (r²−y²)^(3/2)·4/3 − 2r³/3, areas being equal.
    """
    y = 0.5 * r
    for _ in range(40):
        y -= (y * math.sqrt(r * r - y * y) + r * r * math.asin(y / r) - math.pi * r * r / 4) / (2 * math.sqrt(r * r - y * y))
    return 4 / 3 * math.pow(r * r - y * y, 1.5) - 2 / 3 * r**3


def _half_hill(r: float, steps: int = 400) -> float:
    """Twice the sand hill over a half disc: distance to the nearer of arc and flat, by the midpoint rule."""
    total = 0.0
    for i in range(steps):
        rho = (i + 0.5) / steps * r
        for j in range(steps // 2):
            angle = (j + 0.5) / (steps // 2) * math.pi
            total += min(r - rho, rho * math.sin(angle)) * rho
    return 2 * total * (r / steps) * (math.pi / (steps // 2))


def square(a: float) -> Section:
    """Square bar of side `a` mm."""
    return Section("square", a, a)


def round_(d: float) -> Section:
    """Round bar of diameter `d` mm."""
    return Section("round", d, d)


def flat(w: float, t: float) -> Section:
    """Flat bar; the larger of the two sizes in mm is the width."""
    return Section("flat", max(w, t), min(w, t))


def hexagon(f: float) -> Section:
    """Hexagon bar, `f` mm across flats."""
    return Section("hexagon", f, f)


def octagon(f: float) -> Section:
    """Octagon bar, `f` mm across flats."""
    return Section("octagon", f, f)


def half_round(d: float) -> Section:
    """Half-round bar, `d` mm wide over the flat."""
    return Section("half-round", d, d / 2)


def tube(d: float, wall: float) -> Section:
    """Tube of outside diameter `d` and wall `wall`, mm."""
    return Section("tube", d, d, wall=wall)
