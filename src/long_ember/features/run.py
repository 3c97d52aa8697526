"""Parallel bar: the straight run, the set-down, the edge-set stretch."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import ClassVar, Self

from long_ember import fields
from long_ember.errors import NoAnswer
from long_ember.features.base import Check, Feature, Operation, Place, Side, span_sum
from long_ember.features.effort import SHOULDER, finishing, trueing
from long_ember.features.shape import Shape, Span, Straight
from long_ember.frozen import dataclass
from long_ember.sections import Blend, Section, round_
from long_ember.units import Line, Quantity, say

__all__ = ["EdgeSet", "Run", "SectionChange", "run_out", "widened"]


@dataclass(frozen=True, kw_only=True)
class Run(Feature):
    """Bar left as it is.

    Args:
        length: mm; follows from the pin where there is one, see `pins.with_pinned_runs`.
        pin: none, end-A, end-B, shoulder or centre.
        at: mm from the landmark to the middle of the neighbour.
    """

    kind: ClassVar[str] = "run"
    title: ClassVar[str] = "Run"
    also: ClassVar[tuple[str, ...]] = ("straight", "shank", "parent bar")
    length: float = fields.length("Length", 60.0, mark="length")
    pin: str = fields.choice(
        "Pinned", "none", ("none", "no: its length counts"), ("end-A", "what follows, from end A"), ("end-B", "what precedes, from end B"),
        ("shoulder", "what follows, from the shoulder before"), ("centre", "what follows, in the middle"),
        tip="A pinned run takes the length that puts its neighbour where it is wanted.",
    )  # fmt: skip
    at: float = fields.length("At", 100.0, tip="Finished distance from the landmark to the middle of the neighbour.")

    @property
    def idle(self) -> frozenset[str]:
        """Nothing is pinned at a distance."""
        return frozenset({"at"}) if self.pin == "none" else frozenset()

    def shape(self, place: Place) -> Shape:
        """The bar itself."""
        return Shape((Span(self.length, place.bar.blend, place.bar.blend),), (Straight(self.length),))

    def sum_lines(self, place: Place) -> tuple[Line, ...]:
        """Unworked bar counts one for one."""
        return (say("Unworked bar: {} = {}", self.length, self.length),)

    def summary(self) -> Line:
        """Its length."""
        return say("{}", self.length)


def widened(bar: Section, thickness: float, capture: float) -> float:
    """Width that a bar reaches when it is flattened, mm: what is displaced goes sideways by the capture, the rest lengthwise.

    Args:
        bar: as it is.
        thickness: flattened to, mm.
        capture: share of 1.
    """
    return bar.width * (1 + (bar.area / bar.width / thickness - 1) * capture)


def run_out(new: Blend, length: float, slope: float, place: Place) -> tuple[Span, ...]:
    """A parallel stretch with a slope on each side to what adjoins it: the bar, or the section of a neighbour.

    Between two that both run out there is one slope, that of the one toward B.

    Args:
        new: its section.
        length: of it, mm.
        slope: length of each run-out, mm; 0 for square shoulders.
        place: where it stands.
    """
    spans = [Span(length, new, new)]
    for free, side, toward in ((place.first, place.before, "A"), (place.last, place.after, "B")):
        if free or not slope or (toward == "B" and side is not None and side.slopes):
            continue
        other = (side.blend if side is not None else None) or place.bar.blend
        if other == new:
            continue
        if toward == "A":
            spans.insert(0, Span(slope, other, new))
        else:
            spans.append(Span(slope, new, other))
    return tuple(spans)


@dataclass(frozen=True, kw_only=True)
class SectionChange(Feature):
    """Bar set down, or swelled, to another parallel section: tenons, shanks, shoulders.

    Args:
        section: the section forged.
        length: mm of parallel section.
        blend: mm of run-out to the bar on each side that adjoins it; 0 is a square shoulder.
        capture: share of the displaced steel that goes sideways, where it is wider than the bar.
    """

    kind: ClassVar[str] = "section-change"
    title: ClassVar[str] = "Set-down"
    minds: ClassVar[bool] = True
    also: ClassVar[tuple[str, ...]] = ("section change", "set down", "shoulder", "swage down", "draw", "draw out", "draw down")
    section: Section = fields.section("Section", round_(8.0), tip="What the bar becomes here, for example 8 rd.", mark="section")
    length: float = fields.length("Length", 25.0, mark="length")
    blend: float = fields.length("Run-out", 0.0, zero=True, tip="Sloped length back to the bar; 0 is a square shoulder.")
    capture: float = fields.percent(
        "Goes sideways",
        0.80,
        tip="Where it is wider than the bar: share of the displaced steel that widens it, the capture; the rest lengthens it.",
        late=6,
    )

    def shape(self, place: Place) -> Shape:
        """Run-out, parallel length, run-out."""
        spans = run_out(self.section.blend, self.length, self.blend, place)
        return Shape(spans, (Straight(math.fsum(s.length for s in spans)),))

    def faces(self, place: Place) -> tuple[Side, Side]:
        """Its own section, either way."""
        side = Side(self.section.blend, slopes=self.blend > 0)
        return side, side

    def sum_lines(self, place: Place) -> tuple[Line, ...]:
        """One line a span, then the total in cubes too."""
        spans = self.shape(place).spans
        lines = [span_sum("Parallel" if s.start == s.end else "Run-out", s, place.bar) for s in spans]
        total = math.fsum(s.volume for s in spans) / place.bar.area
        cubes = Quantity(total / place.bar.thickness, "cubes")
        return (*lines, say("Stock: {}, {} × the thickness of the bar", total, cubes))

    def checks(self, place: Place) -> tuple[Check, ...]:
        """Larger than the bar, or a bite too small to take."""
        found = []
        if self.section.area > place.bar.area * 1.0001:
            found.append(Check("warn", say("This section is larger than the bar: it must be upset, not set down.")))
        stock = math.fsum(s.volume for s in self.shape(place).spans) / place.bar.area
        if place.first != place.last and stock < place.bite * (1 - 1e-9):
            text = "Only {} of bar makes this, and the smallest bite is {}: leave more and cut off, or make it a tenon."
            found.append(Check("warn", say(text, stock, place.bite)))
        reach = widened(place.bar, self.section.thickness, self.capture)
        if self.section.width > place.bar.width * 1.001 and reach < self.section.width * 0.99:
            text = "The steel is enough, the width is not: this bar reaches {} of the {} wanted. Upset it first, or take a larger bar."
            found.append(Check("warn", say(text, reach, self.section.width)))
        return tuple(found)

    def operations(self, place: Place) -> tuple[Operation, ...]:
        """Set down between shoulders."""
        square_first = " Square, then octagon, then round." if self.section.shape == "round" else ""
        new = self.section
        if new.width != new.thickness:
            line = say(f"Set down to {new.shape}, {{}} wide and {{}} thick, for {{}}.", new.width, new.thickness, self.length)
        else:
            line = say(f"Set down to {new.shape} {{}} for {{}}.{square_first}", new.thickness, self.length)
        tools = ("hammer", "set hammer or guillotine", "callipers")
        return (
            Operation.drawn(
                "setdown",
                place.bar,
                line,
                tools,
                way="set-down",
                blows=2 * SHOULDER + finishing(new.shape, self.length),
            ),
        )

    def summary(self) -> Line:
        """Section and length."""
        if self.section.width != self.section.thickness and self.section.shape != "half-round":
            return say(f"{self.section.shape} {{}} × {{}}, {{}} long", self.section.width, self.section.thickness, self.length)
        return say(f"{self.section.shape} {{}}, {{}} long", self.section.thickness, self.length)


@dataclass(frozen=True, kw_only=True)
class EdgeSet(Feature):
    """A stretch of flat bar driven in from its edges: its width falls as its thickness grows.

    Args:
        length: finished length, mm.
        thickness: finished thickness, mm; the width follows by volume.
        longer: how much longer the stretch becomes, share of its bar.
    """

    kind: ClassVar[str] = "edge-set"
    since: ClassVar[int] = 6
    title: ClassVar[str] = "Edge-set"
    also: ClassVar[tuple[str, ...]] = ("set on edge", "narrowed flat", "hammered on edge", "boss on edge", "drawn on edge")
    length: float = fields.length("Length", 60.0, mark="length")
    thickness: float = fields.length("Thickness", 14.0, mark="tip", tip="What it grows to; the width follows from the steel.")
    longer: float = fields.percent("Lengthens", 0.10, tip="How much longer the stretch becomes; the rest thickens it.")

    def fitted(self, bar: Section) -> Self:
        """A fifth thicker than the bar."""
        return replace(self, thickness=round(bar.thickness * 1.2, 1), length=bar.width * 2.5)

    def width(self, place: Place) -> float:
        """Finished width, mm: what is left of the section ÷ thickness."""
        return place.bar.area / (1 + self.longer) / self.thickness

    def shape(self, place: Place) -> Shape:
        """Parallel, narrower and thicker."""
        bar = place.bar
        if bar.shape not in ("square", "flat"):
            raise NoAnswer("Setting on edge is reckoned for flat and square bar.", "Flatten the bar first.")
        if self.thickness < bar.thickness * (1 - 1e-9):
            raise NoAnswer("Driven in from its edges a flat grows thicker.", "Make it at least as thick as the bar, or use a set-down.")
        new = Blend(self.width(place), self.thickness, 1.0)
        return Shape((Span(self.length, new, new),), (Straight(self.length),))

    def stock_range(self, place: Place) -> tuple[float, float]:
        """mm, from twice the lengthening to none."""
        stock = self.length / (1 + self.longer)
        return self.length / (1 + 2 * self.longer), max(self.length, stock)

    def sum_lines(self, place: Place) -> tuple[Line, ...]:
        """The width that the steel leaves, then the bar."""
        text = "Width: {} ÷ (1 + {}) ÷ {} = {}"
        values = (Quantity(place.bar.area, "area"), Quantity(self.longer, "number"), Quantity(self.thickness, "decimal"), self.width(place))
        return say(text, *values), span_sum("Stretch", self.shape(place).spans[0], place.bar)

    def checks(self, place: Place) -> tuple[Check, ...]:
        """A thin flat folds over when it is struck on edge."""
        ratio = place.bar.width / place.bar.thickness
        if ratio <= 3:
            return ()
        text = "On edge, a flat {} times as wide as thick buckles: short bites, flatten after each pass, or hold it in a slot."
        return (Check("note", say(text, Quantity(round(ratio, 1), "number"))),)

    def operations(self, place: Place) -> tuple[Operation, ...]:
        """On edge, flattening between."""
        line = say(
            "Drive it in from both edges to {} wide over {}; it thickens to {}. Flatten after each pass.",
            self.width(place),
            self.length,
            self.thickness,
        )
        return (
            Operation.drawn(
                "draw",
                place.bar,
                line,
                ("hammer", "anvil", "callipers"),
                way="edge-set",
                blows=trueing(self.length),
            ),
        )

    def summary(self) -> Line:
        """Length and thickness."""
        return say("{} long, {} thick", self.length, self.thickness)
