"""Tapers: square, round, octagon and chisel (forge reference, section 2)."""

from __future__ import annotations

from dataclasses import dataclass
from typing import ClassVar

from long_ember.errors import NoAnswer
from long_ember.features import fields
from long_ember.features.base import Check, Operation, Outer, Place, span_sum
from long_ember.features.shape import Shape, Span, Straight
from long_ember.sections import SHAPES, Blend
from long_ember.units import Line, say

__all__ = ["Taper", "tip_blend"]

_FORMS = ("square", "round", "octagon", "chisel")


def tip_blend(form: str, size: float, root: Blend) -> Blend:
    """The section at the thin end of a taper.

    Args:
        form: square, round, octagon, or chisel (the width is kept, the thickness falls to `size`).
        size: mm.
        root: the section at the thick end.
    """
    if form == "chisel":
        return Blend(root.w, size, 1.0)
    return Blend(size, size, SHAPES[form].factor)


@dataclass(frozen=True, kw_only=True)
class Taper(Outer):
    """Bar drawn down evenly to a smaller end.

    Args:
        length: finished length, mm.
        tip: size of the thin end, mm.
        form: square, round, octagon or chisel.
    """

    kind: ClassVar[str] = "taper"
    title: ClassVar[str] = "Taper"
    also: ClassVar[tuple[str, ...]] = ("point", "drawn end", "chisel end", "wedge", "spike")
    length: float = fields.length("Length", 90.0, mark="length", tip="Finished, cold.")
    tip: float = fields.length("Tip", 3.0, mark="tip", tip="Size across the thin end.")
    form: str = fields.choice("Form", "square", *((f, f) for f in _FORMS))

    def tip_first(self, place: Place) -> Shape:
        """One straight-sided span from the tip to the bar."""
        root = place.bar.blend
        if self.tip > place.bar.thickness:
            raise NoAnswer(
                "A taper can't end thicker than the bar it is drawn from.",
                "Make the tip smaller, or use an upset.",
            )
        return Shape((Span(self.length, tip_blend(self.form, self.tip, root), root),), (Straight(self.length),))

    def sum_lines(self, place: Place) -> tuple[Line, ...]:
        """The exact volume of a straight-sided taper, from the thick end."""
        return (span_sum("Taper", self.tip_first(place).spans[0].reversed(), place.bar),)

    def checks(self, place: Place) -> tuple[Check, ...]:
        """Thin points burn."""
        if self.tip >= 4:
            return ()
        text = "A tip of {} burns off before the bar behind it is hot: point last into the fire, first out."
        return (Check("note", say(text, self.tip), caution=True),)

    def operations(self, place: Place) -> tuple[Operation, ...]:
        """Point first, then work back."""
        steps = {"round": " Square, then octagon, then round.", "octagon": " Square first, then the corners."}
        line = say(f"Draw a {self.form} taper, {{}} long to {{}}.{steps.get(self.form, '')}", self.length, self.tip)
        stop = 750 if self.tip <= 8 and place.bar.thickness <= 8 else 850
        return (Operation("draw", line, "section", "draw", stop, ("hammer", "anvil", "callipers")),)

    def summary(self) -> Line:
        """Length and tip."""
        return say(f"{self.form}, {{}} to {{}}", self.length, self.tip)
