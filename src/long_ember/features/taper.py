"""Tapers: square, round, octagon and chisel (computations, section 2)."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import replace
from typing import Any, ClassVar

from long_ember import fields
from long_ember.errors import NoAnswer
from long_ember.features.base import Check, Operation, Outer, Place, span_sum, volume_line
from long_ember.features.effort import finishing, trueing
from long_ember.features.shape import Corner, Shape, Span, Straight, profile
from long_ember.frozen import dataclass
from long_ember.sections import SHAPES, Blend, Section
from long_ember.units import Line, one, say

__all__ = ["Taper", "thinning", "tip_blend"]

_FORMS = (
    ("square", "square"), ("round", "round"), ("octagon", "octagon"), ("chisel", "chisel: one plane"), ("flat", "flat: both ways"),
    ("one-sided", "one-sided: one face stays level"),
    ("edge", "on edge: the width falls"), ("edge-sided", "one edge: the other stays straight"),
)  # fmt: skip


_ON_EDGE = ("edge", "edge-sided")
_CUTS = ("chisel", "one-sided")
_SIDED = ("one-sided", "edge-sided")
_TELLS = 0.05  # mm by which width and thickness are told apart
_SLICES = 16  # of a taper with rounded corners


def tip_blend(form: str, size: float, root: Blend, wide: float = 0.0, thick: float = 0.0) -> Blend:
    """The section at the thin end of a taper.

    Args:
        form: square, round, octagon, chisel (the width is kept, the thickness falls to `size`), flat (width `wide`), one-sided, edge or
            edge-sided (the width falls to `size`).
        size: mm.
        root: the section at the thick end.
        wide: width at the tip, mm, for flat; 0 keeps the bar's.
        thick: thickness at the tip, mm, on edge; 0 keeps the bar's.
    """
    if form in _ON_EDGE:
        return Blend(size, thick or root.t, 1.0)
    if form in ("chisel", "flat", "one-sided"):
        return Blend(wide if form == "flat" and wide else root.w, size, 1.0)
    return Blend(size, size, SHAPES[form].factor, SHAPES[form].form)


def thinning(thin: Blend, thick: Blend, length: float, between: int) -> list[tuple[float, Blend]]:
    """Sections along a straight-sided taper: mm from its thin end, and the section there.

    Args:
        thin: at its thin end.
        thick: at its thick end.
        length: mm.
        between: how many, beside its two ends.
    """
    return [(i / (between + 1) * length, thin.toward(thick, i / (between + 1))) for i in range(between + 2)]


@dataclass(frozen=True, kw_only=True)
class Taper(Outer):
    """Bar drawn down evenly to a smaller end.

    Args:
        length: finished length, mm.
        tip: size of the thin end, mm.
        form: square, round, octagon, chisel, flat, one-sided, edge or edge-sided.
        wide: width at the tip of a flat taper, mm.
        root: section at the thick end, None as the bar.
        facing: side that slopes on a one-sided taper, degrees about the bar.
        thick: thickness at the tip of a taper on edge, mm; 0 keeps it: steel driven in from the edges may thicken the bar.
        rounding: radius of its corners, mm; for outlines with corners.
    """

    kind: ClassVar[str] = "taper"
    title: ClassVar[str] = "Taper"
    also: ClassVar[tuple[str, ...]] = ("drawn end", "tang", "chisel end", "chisel point", "wedge")
    named: ClassVar[Mapping[str, Mapping[str, Any]]] = {
        "chisel end": {"form": "chisel"},
        "chisel point": {"form": "chisel"},
        "wedge": {"form": "chisel"},
    }
    length: float = fields.length("Length", 90.0, mark="length", tip="Finished, cold.")
    tip: float = fields.length("Tip", 3.0, mark="tip", tip="Size across the thin end.")
    form: str = fields.choice("Form", "square", *_FORMS)
    wide: float = fields.length("Tip width", 0.0, zero=True, tip="For a taper flat both ways; 0 keeps the width.")
    root: Section | None = fields.section("Root", None, optional=True, tip="Section at the thick end; empty is the bar.")
    facing: float = fields.facing("Slopes")
    thick: float = fields.length("Tip thickness", 0.0, zero=True, tip="For a taper on edge; 0 keeps the bar's, more lets it grow.", late=6)
    rounding: float = fields.length(
        "Rounded edges", 0.0, zero=True, tip="Radius of the corners; half the thickness rounds the edges over.", late=6
    )

    @property
    def keen(self) -> int:
        """Return how surely it is what a tool works with, see `Feature.keen`."""
        return 3 if self.form in _CUTS or (self.form == "flat" and self.wide >= 3 * self.tip) else 1

    @property
    def idle(self) -> frozenset[str]:
        """What its form does not ask for."""
        asked = {"wide": self.form == "flat", "thick": self.form in _ON_EDGE, "facing": self.form in _SIDED,
                 "rounding": self.form not in ("round", "octagon")}  # fmt: skip
        return frozenset(name for name, needed in asked.items() if not needed)

    def tip_first(self, place: Place) -> Shape:
        """One straight-sided span from the tip to the bar."""
        root = (self.root or place.bar).blend
        if self.root and self.root.area > place.bar.area * 1.0001:
            raise NoAnswer("The root of a taper can't be larger than its bar.", "Make the root smaller, or use an upset.")
        if self.tip > (root.w if self.form in _ON_EDGE else root.t) * (
            1 + 1e-9
        ):  # a size that was converted may be a hair more than itself
            raise NoAnswer(
                "A taper can't end thicker than the bar it is drawn from.",
                "Make the tip smaller, or use an upset.",
            )
        tip = tip_blend(self.form, self.tip, root, self.wide, self.thick)
        spans = self._rounded(tip, root)
        if self.form not in _SIDED:
            return Shape(spans, (Straight(self.length),))
        # The middle of a taper with one level face runs at half its slope: the whole leans where it joins the bar.
        turn, falls = math.radians(self.facing), root.t - self.tip
        if self.form == "edge-sided":
            turn, falls = (-math.pi / 2 if math.sin(turn) < -0.5 else math.pi / 2), root.w - self.tip
        return Shape(spans, (Straight(self.length), Corner(math.atan2(falls, 2 * self.length), turn)))

    def _rounded(self, tip: Blend, root: Blend) -> tuple[Span, ...]:
        """One straight-sided span; with its corners rounded, slices that each have the area left to them."""
        if not self.rounding or tip.form != "rectangle":
            return (Span(self.length, tip, root),)
        if root.form != "rectangle":
            raise NoAnswer("Edges are rounded on a taper with corners.", "Leave the rounding out, or taper it square or flat.")
        rows = []
        for i in range(_SLICES + 1):
            here = tip.toward(replace(root, k=1.0), i / _SLICES)
            r = min(self.rounding, here.w / 2, here.t / 2)
            rows.append(replace(here, k=1 - (4 - math.pi) * r * r / (here.w * here.t)))
        return profile(self.length, rows)

    def sum_lines(self, place: Place) -> tuple[Line, ...]:
        """The exact volume of a straight-sided taper, from the thick end."""
        spans = self.tip_first(place).spans
        if len(spans) == 1:
            return (span_sum("Taper", spans[0].reversed(), place.bar),)
        volume = math.fsum(s.volume for s in spans)
        return (volume_line("Taper with its edges rounded to {}, in slices", volume, place.bar, self.rounding),)

    def checks(self, place: Place) -> tuple[Check, ...]:
        """Thin points burn."""
        if self.tip >= 4:
            return self.buried(place)
        text = "A tip of {} burns off before the bar behind it is hot: point last into the fire, first out."
        return Check("note", say(text, self.tip), caution=True), *self.buried(place)

    def operations(self, place: Place) -> tuple[Operation, ...]:
        """Point first, then work back."""
        steps = {"round": " Square, then octagon, then round.", "octagon": " Square first, then the corners."}
        rounded = " Round its edges." if self.rounding else ""
        if self.form in _ON_EDGE:
            straight = ", one edge straight" if self.form == "edge-sided" else ""
            grows = " and {} thick" if self.thick else ""
            values = (self.length, self.tip, *((self.thick,) if self.thick else ()))
            line = say(
                f"Draw it down on edge{straight}, {{}} long to {{}} wide{grows}; flatten what bulges after each pass.{rounded}", *values
            )
        else:
            name = {"one-sided": "taper with one level face", "flat": "flat taper"}.get(self.form, f"{self.form} taper")
            tip = self.tip_first(place).spans[0].start
            unlike = abs(tip.w - tip.t) > _TELLS
            ends = "{} wide and {} thick at the tip" if unlike else "{}"
            sizes = (tip.w, tip.t) if unlike else (self.tip,)
            line = say(f"Draw {one(name)}, {{}} long to {ends}.{steps.get(self.form, '')}{rounded}", self.length, *sizes)
        outline = self.form if self.form in ("round", "octagon") else "square"
        blows = finishing(outline, self.length) + (2 * trueing(self.length) if self.rounding else 0.0)
        return (
            Operation.drawn(
                "draw",
                place.bar,
                line,
                ("hammer", "anvil", "callipers"),
                way="edge-taper" if self.form in _ON_EDGE else "taper",
                blows=blows,
            ),
        )

    def summary(self) -> Line:
        """Length and tip."""
        return say(f"{self.form}, {{}} to {{}}", self.length, self.tip)
