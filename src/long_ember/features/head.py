"""Heads of nails, bolts and rivets (computations, section 5)."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import replace
from typing import Any, ClassVar, Self

from long_ember import fields
from long_ember.errors import NoAnswer
from long_ember.features.base import Check, Operation, Outer, Place, dec, stock_line, stock_of, volume_line
from long_ember.features.effort import HEAD, goes
from long_ember.features.shape import Shape, Span, Straight, exact, profile
from long_ember.frozen import dataclass
from long_ember.sections import SHAPES, Blend, Section
from long_ember.units import Line, Quantity, say

__all__ = ["Head", "cap_volume", "clearance"]

_FORMS = (
    ("cap", "rivet, domed"), ("countersunk", "rivet, countersunk"), ("rose", "nail, facetted"), ("pyramid", "pyramid"),
    ("square", "bolt, square"), ("hexagon", "bolt, hexagon"), ("disc", "nail, flat"),
)  # fmt: skip
_CORNERED = ("pyramid", "square", "hexagon")


def cap_volume(diameter: float, height: float) -> float:
    """Spherical cap over a circle of `diameter`, mm³: πh(3a² + h²)/6.

    >>> round(cap_volume(14, 5.6), 2)
    522.98
    """
    return math.pi * height * (3 * (diameter / 2) ** 2 + height**2) / 6


def clearance(hole: float, shank: float, grip: float) -> float:
    """Length of shank that fills the hole's clearance when the rivet is set, mm.

    >>> round(clearance(8.4, 8, 16), 2)
    1.64
    """
    return (hole**2 - shank**2) / shank**2 * grip


@dataclass(frozen=True, kw_only=True)
class Head(Outer):
    """A head made on the end of the bar, which is its shank.

    Args:
        form: cap, countersunk, rose, pyramid, square, hexagon or disc.
        diameter: size across the head (across flats for bolts), mm.
        height: mm.
        hole: diameter of the hole the shank is set in, mm; 0 when nothing is filled.
        grip: thickness the rivet holds together, mm.
    """

    kind: ClassVar[str] = "head"
    struck: ClassVar[bool] = True
    title: ClassVar[str] = "Head"
    also: ClassVar[tuple[str, ...]] = ("rivet head", "rose head", "nail head", "bolt head", "countersunk head", "pyramid")
    named: ClassVar[Mapping[str, Mapping[str, Any]]] = {
        "rose head": {"form": "rose"},
        "nail head": {"form": "rose"},
        "bolt head": {"form": "square"},
        "countersunk head": {"form": "countersunk"},
    }
    form: str = fields.choice("Form", "cap", *_FORMS)
    diameter: float = fields.length("Across", 21.0, mark="diameter", tip="Across the head; across the flats of a bolt.")
    height: float = fields.length("Height", 8.0, mark="length")
    hole: float = fields.length("Hole", 0.0, zero=True, tip="Diameter of the hole a rivet is set in; 0 when nothing is filled.")
    grip: float = fields.length("Grip", 0.0, zero=True, tip="Thickness that a rivet holds together.")

    def marked(self, mark: str) -> str:
        """Only a round head has a diameter."""
        return "width" if mark == "diameter" and self.form in _CORNERED else mark

    def fitted(self, bar: Section) -> Self:
        """A head half as wide again as the bar."""
        wide = max(bar.width, bar.thickness)
        return replace(self, diameter=float(math.ceil(1.75 * wide)), height=float(math.ceil(wide * 0.65)))

    def volume(self, place: Place) -> float:
        """Of the head alone, by the closed form of its figure, mm³."""
        d, h = self.diameter, self.height
        neck = min(place.bar.area, 0.95 * self._base())
        if self.form == "cap":
            return cap_volume(d, h)
        if self.form == "countersunk":  # a frustum down to the shank
            return h / 3 * (self._base() + neck + math.sqrt(self._base() * neck))
        if self.form in ("rose", "pyramid"):  # a rose head is cut off at a third of its base
            top = (d / 3) ** 2 if self.form == "rose" else 0.0
            return h / 3 * (d * d + top + math.sqrt(d * d * top))
        return self._base() * h

    def _outline(self) -> tuple[float, str]:
        shape = {"rose": "square", "pyramid": "square", "square": "square", "hexagon": "hexagon"}.get(self.form, "round")
        return SHAPES[shape].factor, SHAPES[shape].form

    def _base(self) -> float:
        return self._outline()[0] * self.diameter**2

    def fill(self, place: Place) -> float:
        """Shank that fills the hole, mm."""
        return clearance(self.hole, 2 * math.sqrt(place.bar.area / math.pi), self.grip) if self.hole else 0.0

    def tip_first(self, place: Place) -> Shape:
        """The head's figure, its face outwards, and the shank that fills the hole."""
        if self._base() <= place.bar.area:
            raise NoAnswer("A head must be wider than its shank.", "Enlarge it, or use a tenon.")
        shank = 2 * math.sqrt(place.bar.area / math.pi)
        if self.hole and self.hole < shank * 0.999:
            raise NoAnswer("The shank does not go through that hole.", "Enlarge the hole, or choose a thinner bar.")
        spans = exact(self._spans(place), self.volume(place))
        fill = self.fill(place)
        if fill > 0:
            wide = place.bar.blend.scaled((self.hole / shank) ** 2)
            length = fill * place.bar.area / wide.area
            spans = (*spans, Span(length, wide, wide))
        return Shape(spans, (Straight(math.fsum(s.length for s in spans)),))

    def _spans(self, place: Place) -> tuple[Span, ...]:
        k, form = self._outline()
        base = Blend(self.diameter, self.diameter, k, form)
        if self.form == "cap":
            r = ((self.diameter / 2) ** 2 + self.height**2) / (2 * self.height)
            heights = [self.height * (i / 10) ** 2 for i in range(11)]
            sizes = [2 * math.sqrt(max(r * r - (r - x) ** 2, 0.0)) for x in heights]
            blends = [Blend(d, d, k, form) for d in sizes]
            return tuple(Span(b - a, p, q) for a, b, p, q in zip(heights, heights[1:], blends, blends[1:], strict=False))
        if self.form == "countersunk":
            return (Span(self.height, base, base.scaled(min(place.bar.area / base.area, 0.95))),)
        if self.form in ("rose", "pyramid"):
            top = self.diameter / 3 if self.form == "rose" else 0.0
            return (Span(self.height, Blend(top, top, k, form), base),)
        return profile(self.height, (base, base))

    def sum_lines(self, place: Place) -> tuple[Line, ...]:
        """The head's volume, then what fills the hole."""
        texts = {
            "cap": "Cap: 3.1416·{1}·(3·({0}/2)² + {1}²)/6", "countersunk": "Cone frustum, {0} down to the shank, {1} high",
            "rose": "Frustum, {0} square to a third of it, {1} high", "pyramid": "Pyramid: {0}² × {1}/3",
            "square": "Square: {0}² × {1}", "hexagon": "Hexagon: 0.866·{0}² × {1}", "disc": "Disc: 0.785·{0}² × {1}",
        }  # fmt: skip
        text = texts[self.form].replace("{0}", "{d}").replace("{1}", "{h}")
        order = [w[0] for w in text.split("{")[1:]]
        values = [dec(self.diameter) if w == "d" else dec(self.height) for w in order]
        lines = [volume_line(text.replace("{d}", "{}").replace("{h}", "{}"), self.volume(place), place.bar, *values)]
        if self.hole:
            shank = 2 * math.sqrt(place.bar.area / math.pi)
            fill_values = (dec(self.hole), dec(shank), dec(shank), dec(self.grip), self.fill(place))
            lines.append(say("Filling the hole: ({}² − {}²)/{}² × {} = {}", *fill_values))
        return (*lines, stock_line(self, place))

    def checks(self, place: Place) -> tuple[Check, ...]:
        """Longer than three thicknesses buckles."""
        free, found = stock_of(self, place) / place.bar.thickness, []
        if goes(free) > 1:
            text = "{} thicknesses of shank go into this head: more than 3 bend over. Planned a stretch at a time, a heat each."
            found.append(Check("note", say(text, Quantity(free, "cubes"))))
        if self.form in ("cap", "countersunk"):
            found.append(Check("note", say("Rivet linked parts before cutting them apart; a cup is half bent, riveted, then closed.")))
        return (*found, *self.buried(place))

    def _facets(self) -> float:
        """Blows that its sides and its top take, two for each."""
        return 2.0 * {"rose": 5, "pyramid": 4, "square": 4, "hexagon": 6}.get(self.form, 2)

    def operations(self, place: Place) -> tuple[Operation, ...]:
        """Head in the header."""
        name = dict(_FORMS)[self.form].replace(",", "")
        line = say(f"Upset and form the head ({name}), {{}} across, {{}} high.", self.diameter, self.height)
        return (
            Operation(
                "upset",
                line,
                "section",
                "upset",
                900,
                ("header or vice", "hammer", "rivet set"),
                blows=HEAD + self._facets(),
                way="head",
                goes=goes(stock_of(self, place) / place.bar.thickness),
            ),
        )

    def summary(self) -> Line:
        """Form and size."""
        return say(f"{dict(_FORMS)[self.form]}, {{}} × {{}}", self.diameter, self.height)
