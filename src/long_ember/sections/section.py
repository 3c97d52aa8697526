"""Cross-sections of bar and of forged zones."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

from long_ember.errors import NoAnswer
from long_ember.units import Measure

__all__ = ["SHAPES", "Blend", "Section", "ShapeSpec", "flat", "hexagon", "octagon", "round_", "square"]


@dataclass(frozen=True, slots=True)
class ShapeSpec:
    """What distinguishes one shape of section.

    Args:
        factor: area ÷ (width × thickness), sharp corners.
        perimeter: mm from width and thickness in mm.
        gyration: polar radius of gyration squared, mm², from width and thickness.
        words: names a smith may type, the first is shown.
        two_sizes: needs width and thickness, not one size.
    """

    factor: float
    perimeter: Callable[[float, float], float]
    gyration: Callable[[float, float], float]
    words: tuple[str, ...]
    two_sizes: bool = False


def _rectangle_gyration(w: float, t: float) -> float:
    return (w * w + t * t) / 12


# Polygons with n sides across flats f: area n/4·tan(π/n)·f², polar gyration f²/24·(3 + tan²(π/n)).
SHAPES: dict[str, ShapeSpec] = {
    "square": ShapeSpec(1.0, lambda w, t: 4 * w, _rectangle_gyration, ("square", "sq")),
    "round": ShapeSpec(math.pi / 4, lambda w, t: math.pi * w, lambda w, t: w * w / 8, ("round", "rd", "rnd", "dia")),
    "flat": ShapeSpec(1.0, lambda w, t: 2 * (w + t), _rectangle_gyration, ("flat", "fl", "rect"), two_sizes=True),
    "hexagon": ShapeSpec(math.sqrt(3) / 2, lambda w, t: 2 * math.sqrt(3) * w, lambda w, t: w * w / 24 * (3 + 1 / 3), ("hexagon", "hex")),
    "octagon": ShapeSpec(
        2 * (math.sqrt(2) - 1),
        lambda w, t: 8 * (math.sqrt(2) - 1) * w,
        lambda w, t: w * w / 24 * (3 + (math.sqrt(2) - 1) ** 2),
        ("octagon", "oct"),
    ),
}


@dataclass(frozen=True, slots=True)
class Blend:
    """A section reduced to width, thickness (mm) and shape factor k, so that two can be blended: A = k·w·t."""

    w: float
    t: float
    k: float

    @property
    def area(self) -> float:
        """Area in mm²."""
        return self.k * self.w * self.t

    def toward(self, other: Blend, u: float) -> Blend:
        """The blend a fraction `u` of the way to `other`, each of w, t, k varying linearly."""
        return Blend(self.w + (other.w - self.w) * u, self.t + (other.t - self.t) * u, self.k + (other.k - self.k) * u)

    def scaled(self, area_factor: float) -> Blend:
        """Same proportions, area multiplied by `area_factor`."""
        f = math.sqrt(area_factor)
        return Blend(self.w * f, self.t * f, self.k)


@dataclass(frozen=True, slots=True)
class Section:
    """A bar section.

    Args:
        shape: a key of `SHAPES`.
        width: mm; the size across flats, or the diameter, where there is only one size.
        thickness: mm, at most the width.
        corner: corner radius in mm, square and flat only.

    Raises:
        NoAnswer: for sizes that no bar can have.

    >>> round(Section('hexagon', 12, 12).area, 3)
    124.708
    """

    shape: str
    width: float
    thickness: float
    corner: float = 0.0

    def __post_init__(self) -> None:
        if self.shape not in SHAPES:
            raise NoAnswer(f"There is no section called {self.shape!r}.", "Use one of " + ", ".join(SHAPES) + ".")
        if not 0 < self.thickness <= self.width < 1e4:
            raise NoAnswer("A section needs sizes above 0, thickness at most the width.", "Try 12 square or 25 x 6 flat.")
        if not SHAPES[self.shape].two_sizes and self.width != self.thickness:
            raise NoAnswer(f"A {self.shape} bar has one size.", "Use a flat for two sizes.")
        if self.corner and (self.shape not in ("square", "flat") or not 0 < self.corner <= self.thickness / 2):
            raise NoAnswer("The corner radius does not fit the section.", "Use at most half the thickness.")

    @property
    def area(self) -> float:
        """Area in mm² (forge reference, section 1)."""
        return SHAPES[self.shape].factor * self.width * self.thickness - (4 - math.pi) * self.corner**2

    @property
    def perimeter(self) -> float:
        """Perimeter in mm."""
        return SHAPES[self.shape].perimeter(self.width, self.thickness) - (8 - 2 * math.pi) * self.corner

    @property
    def gyration2(self) -> float:
        """Polar radius of gyration squared, mm² (sharp corners)."""
        return SHAPES[self.shape].gyration(self.width, self.thickness)

    @property
    def blend(self) -> Blend:
        """The section as width, thickness and shape factor."""
        return Blend(self.width, self.thickness, self.area / (self.width * self.thickness))

    def label(self, measure: Measure) -> str:
        """The section in words, for example `12 mm square` or `1 × 1/4 in flat`."""
        word = SHAPES[self.shape].words[0]
        if not SHAPES[self.shape].two_sizes:
            return f"{measure.length(self.width)} {word}"
        cross = "x" if measure.ascii else "×"
        return f"{measure.length(self.width, bare=True)} {cross} {measure.length(self.thickness)} {word}"

    def edit_text(self, measure: Measure) -> str:
        """The section as a person would type it; reading it back gives the same section to 0.001 mm."""
        word = SHAPES[self.shape].words[0]
        if not SHAPES[self.shape].two_sizes:
            return f"{measure.edit_text(self.width)} {word}"
        return f"{measure.edit_text(self.width)} x {measure.edit_text(self.thickness)} {word}"


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
