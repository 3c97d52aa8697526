"""Tapers: square, round, octagon and chisel (computations, section 2)."""

from __future__ import annotations

import math
from typing import ClassVar

from long_ember import fields
from long_ember.errors import NoAnswer
from long_ember.features.base import Check, Operation, Outer, Place, span_sum
from long_ember.features.shape import Corner, Shape, Span, Straight
from long_ember.frozen import dataclass
from long_ember.sections import SHAPES, Blend, Section
from long_ember.units import Line, say

__all__ = ["Taper", "tip_blend"]

_FORMS = (
    ("square", "square"), ("round", "round"), ("octagon", "octagon"), ("chisel", "chisel, one plane"), ("flat", "flat both ways"),
    ("one-sided", "one-sided, one face stays level"),
)  # fmt: skip


def tip_blend(form: str, size: float, root: Blend, wide: float = 0.0) -> Blend:
    """The section at the thin end of a taper.

    Args:
        form: square, round, octagon, chisel (the width is kept, the thickness falls to `size`), flat (width `wide`), one-sided.
        size: mm.
        root: the section at the thick end.
        wide: width at the tip, mm, for flat; 0 keeps the bar's.
    """
    if form in ("chisel", "flat", "one-sided"):
        return Blend(wide if form == "flat" and wide else root.w, size, 1.0)
    return Blend(size, size, SHAPES[form].factor, SHAPES[form].form)


@dataclass(frozen=True, kw_only=True)
class Taper(Outer):
    """Bar drawn down evenly to a smaller end.

    Args:
        length: finished length, mm.
        tip: size of the thin end, mm.
        form: square, round, octagon, chisel, flat or one-sided.
        wide: width at the tip of a flat taper, mm.
        root: section at the thick end, None as the bar.
        facing: side that slopes on a one-sided taper, degrees about the bar.
    """

    kind: ClassVar[str] = "taper"
    title: ClassVar[str] = "Taper"
    also: ClassVar[tuple[str, ...]] = ("drawn end", "chisel end", "wedge")
    length: float = fields.length("Length", 90.0, mark="length", tip="Finished, cold.")
    tip: float = fields.length("Tip", 3.0, mark="tip", tip="Size across the thin end.")
    form: str = fields.choice("Form", "square", *_FORMS)
    wide: float = fields.length("Tip width", 0.0, zero=True, tip="For a taper flat both ways; 0 keeps the width.")
    root: Section | None = fields.section("Root", None, optional=True, tip="Section at the thick end; empty is the bar.")
    facing: float = fields.facing("Slopes")

    def tip_first(self, place: Place) -> Shape:
        """One straight-sided span from the tip to the bar."""
        root = (self.root or place.bar).blend
        if self.root and self.root.area > place.bar.area * 1.0001:
            raise NoAnswer("The root of a taper can't be larger than its bar.", "Make the root smaller, or use an upset.")
        if self.tip > root.t * (1 + 1e-9):  # a size that was converted may be a hair more than itself
            raise NoAnswer(
                "A taper can't end thicker than the bar it is drawn from.",
                "Make the tip smaller, or use an upset.",
            )
        span = Span(self.length, tip_blend(self.form, self.tip, root, self.wide), root)
        if self.form != "one-sided":
            return Shape((span,), (Straight(self.length),))
        # The middle of a taper with one level face runs at half its slope: the whole leans where it joins the bar.
        return Shape((span,), (Straight(self.length), Corner(math.atan2(root.t - self.tip, 2 * self.length), math.radians(self.facing))))

    def sum_lines(self, place: Place) -> tuple[Line, ...]:
        """The exact volume of a straight-sided taper, from the thick end."""
        return (span_sum("Taper", self.tip_first(place).spans[0].reversed(), place.bar),)

    def checks(self, place: Place) -> tuple[Check, ...]:
        """Thin points burn."""
        if self.tip >= 4:
            return self.buried(place)
        text = "A tip of {} burns off before the bar behind it is hot: point last into the fire, first out."
        return Check("note", say(text, self.tip), caution=True), *self.buried(place)

    def operations(self, place: Place) -> tuple[Operation, ...]:
        """Point first, then work back."""
        steps = {"round": " Square, then octagon, then round.", "octagon": " Square first, then the corners."}
        line = say(f"Draw a {self.form} taper, {{}} long to {{}}.{steps.get(self.form, '')}", self.length, self.tip)
        stop = 750 if self.tip <= 8 and place.bar.thickness <= 8 else 850
        return (Operation("draw", line, "section", "draw", stop, ("hammer", "anvil", "callipers"), way="taper"),)

    def summary(self) -> Line:
        """Length and tip."""
        return say(f"{self.form}, {{}} to {{}}", self.length, self.tip)
