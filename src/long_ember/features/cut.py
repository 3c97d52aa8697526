"""Parting the piece from the bar that was its handle (computations, section 8)."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, ClassVar

from long_ember import fields
from long_ember.features.base import Check, Operation, Outer, Place, dec, span_sum, stock_line
from long_ember.features.shape import Shape, Span, Straight
from long_ember.frozen import dataclass
from long_ember.units import Line, say

__all__ = ["PartOff"]

_METHODS = (("hot", "hot, on the hardy"), ("saw", "saw, cold"), ("chisel", "hot, with a chisel from both sides"))


@dataclass(frozen=True, kw_only=True)
class PartOff(Outer):
    """An end where the piece is cut from the long bar, late, and dressed.

    Args:
        stub: length that stays on the piece and is dressed, mm.
        loss: bar lost to the cut: kerf, or the wedge that a hot cut squeezes out and the file takes, mm.
        method: hot on the hardy, saw, or chisel.
    """

    kind: ClassVar[str] = "part-off"
    title: ClassVar[str] = "Part off"
    also: ClassVar[tuple[str, ...]] = ("cut off", "hot cut", "hardy cut", "nick and break", "saw off", "crop")
    named: ClassVar[Mapping[str, Mapping[str, Any]]] = {"saw off": {"method": "saw"}}
    stub: float = fields.length("Dressed end", 2.0, mark="length", tip="Stays on the piece, filed or hammered true.")
    loss: float = fields.length("Lost", 2.0, zero=True, tip="Kerf of the saw, or what a hot cut squeezes out and the file takes.")
    method: str = fields.choice("Cut", "hot", *_METHODS)

    def tip_first(self, place: Place) -> Shape:
        """The dressed end, as thick as the bar."""
        return Shape((Span(self.stub, place.bar.blend, place.bar.blend),), (Straight(self.stub),))

    def removed(self, place: Place) -> float:
        """What the cut takes, mm³."""
        return self.loss * place.bar.area

    def stock_range(self, place: Place) -> tuple[float, float]:
        """Half to one and a half times the loss."""
        return self.stub + self.loss / 2, self.stub + self.loss * 1.5

    def sum_lines(self, place: Place) -> tuple[Line, ...]:
        """Dressed end and loss."""
        whole = say("With the cut: {} + {} = {}", dec(self.stub), dec(self.loss), self.stub + self.loss)
        return span_sum("Dressed end", self.tip_first(place).spans[0], place.bar), whole, stock_line(self, place)

    def checks(self, place: Place) -> tuple[Check, ...]:
        """Burrs and flying ends."""
        text = (
            "The end that comes off is hot and flies: nobody in its line, leave a skin and break it. Burr off before you flatten over it."
        )
        return Check("note", say(text), caution=True), *self.buried(place)

    def operations(self, place: Place) -> tuple[Operation, ...]:
        """Late: until then the long bar is its own handle."""
        if self.method == "saw":
            line = say("Saw the piece off, file the end true over {}.", self.stub)
            return (Operation("cut", line, "whole", "time", 0, ("saw", "file", "vice"), seconds=60.0, cold=True, way="saw"),)
        line = say("Nick all round, cut nearly through, break off; dress the end over {}.", self.stub)
        tools = (
            ("hardy", "hammer", "tongs for the piece") if self.method == "hot" else ("hot chisel", "cutting plate", "tongs for the piece")
        )
        return (Operation("cut", line, "whole", "time", 850, tools, seconds=12.0),)

    def summary(self) -> Line:
        """Loss and method."""
        return say(f"{dict(_METHODS)[self.method].split(',')[0]}, {{}} lost", self.loss)
