"""Spread ends: palms, spades, leaves, fishtails (computations, section 7)."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from itertools import pairwise
from typing import Any, ClassVar, Self

from long_ember import fields
from long_ember.errors import NoAnswer
from long_ember.features.base import Check, Operation, Outer, Place, dec, stock_line, volume_line
from long_ember.features.effort import size, trueing
from long_ember.features.run import widened
from long_ember.features.shape import Shape, Span, Straight, exact, profile
from long_ember.features.surface import folded
from long_ember.frozen import dataclass
from long_ember.sections import Blend, Section
from long_ember.units import Line, Quantity, say

__all__ = ["OUTLINES", "Spread"]

_TRIAL = 0.01  # of what is narrower than the widest, that the volume is tried with
_STEPS = 32


@dataclass(frozen=True, slots=True)
class SpreadOutline:
    """A family of outlines.

    Args:
        words: what it is called.
        width: width ÷ greatest width at a fraction of the length from the tip; also given the length ÷ width.
        area: area ÷ (length × width), from length ÷ width.
        formula: the area in words.
    """

    words: str
    width: Callable[[float, float], float]
    area: Callable[[float], float]
    formula: str


def _lens(u: float, q: float) -> float:
    """Two arcs that meet at both ends; q = length ÷ width, at least 1."""
    r = (q * q + 1) / 4  # of each arc, in widths
    return 2 * (math.sqrt(max(r * r - (q * (u - 0.5)) ** 2, 0.0)) - r + 0.5)


def _lens_area(q: float) -> float:
    r = (q * q + 1) / 4
    half = math.asin(min(q / (2 * r), 1.0))
    return 2 * (r * r * half - q / 2 * (r - 0.5)) / q


def _round_tip(u: float, q: float) -> float:
    """A half circle as wide as the whole, then parallel."""
    x = u * q
    return 1.0 if x >= 0.5 else 2 * math.sqrt(max(0.25 - (0.5 - x) ** 2, 0.0))


def _ellipse(u: float, at: float) -> float:
    """A quarter of an ellipse on each side, 1 at `u` = 0 and 0 at `at`."""
    return math.sqrt(max(1 - (u / at) ** 2, 0.0))


OUTLINES: dict[str, SpreadOutline] = {
    "palm": SpreadOutline("palm: parallel with a round end", _round_tip, lambda q: 1 - 0.5 / q + math.pi / 8 / q, "L·W − W²/2 + 3.14·W²/8"),
    "lens": SpreadOutline("lens: two arcs", _lens, _lens_area, "2·(R²·asin(L/2R) − L/2·(R − W/2)), R = (L² + W²)/4W"),
    "diamond": SpreadOutline("diamond", lambda u, q: 1 - abs(2 * u - 1), lambda q: 0.5, "L·W/2"),
    "heart": SpreadOutline(
        "heart: widest at a third from the bar", lambda u, q: u / 0.65 if u < 0.65 else _ellipse(u - 0.65, 0.35),
        lambda q: 0.65 / 2 + 0.35 * math.pi / 4, "0.65·L·W/2 + 0.35·3.14·L·W/4",
    ),
    "spade": SpreadOutline(
        "spade: rounded tip, parallel behind", lambda u, q: _ellipse(0.5 - u, 0.5) if u < 0.5 else 1.0,
        lambda q: 0.5 + 0.5 * math.pi / 4, "L·W/2 + 3.14·L·W/8",
    ),
    "teardrop": SpreadOutline(
        "teardrop: round at the tip", lambda u, q: _round_tip(u, q) if u * q < 0.5 else (1 - u) / (1 - 0.5 / q),
        lambda q: math.pi / 8 / q + (1 - 0.5 / q) / 2, "3.14·W²/8 + W·(L − W/2)/2",
    ),
    "fishtail": SpreadOutline("fishtail: widest at the tip", lambda u, q: 1 - 0.6 * u, lambda q: 0.7, "0.7·L·W"),
    "measured": SpreadOutline("measured: widths from the tip", lambda u, q: 1.0, lambda q: 1.0, "trapezia between the widths"),
}  # fmt: skip


@dataclass(frozen=True, kw_only=True)
class Spread(Outer):
    """An end spread wide and thin.

    Args:
        outline: a key of `OUTLINES`.
        length: mm.
        width: greatest width, mm.
        thickness: mean thickness, mm.
        widths: measured from tip to bar at even steps, mm; for the measured outline.
        capture: share of the displaced steel that goes sideways.
        work: plain, scalloped, veined or folded.
        fuller: diameter of the fuller that makes scallops, mm.
    """

    kind: ClassVar[str] = "spread"
    struck: ClassVar[bool] = True
    title: ClassVar[str] = "Spread"
    since: ClassVar[int] = 4
    also: ClassVar[tuple[str, ...]] = (
        "palm",
        "spade",
        "leaf",
        "fishtail",
        "fish tail",
        "paddle",
        "lens",
        "flatten",
        "flattened",
        "pull plate",
        "heart",
        "pad",
    )
    named: ClassVar[Mapping[str, Mapping[str, Any]]] = {
        "leaf": {"outline": "lens"},
        "pull plate": {"outline": "palm"},
        "fish tail": {"outline": "fishtail"},
    }
    outline: str = fields.choice("Outline", "palm", *((k, o.words) for k, o in OUTLINES.items()))
    length: float = fields.length("Length", 40.0, mark="length")
    width: float = fields.length("Width", 24.0, mark="width", tip="At its widest.")
    thickness: float = fields.length("Thickness", 4.0, mark="tip", tip="Mean thickness.")
    widths: tuple[float, ...] = fields.lengths(
        "Measured widths", (8.0, 18.0, 24.0, 16.0), tip="From tip to bar at even steps, separated by semicolons."
    )
    capture: float = fields.percent(
        "Goes sideways", 0.80, tip="Share of the displaced steel that widens it, the capture; the rest lengthens. A test piece fixes it."
    )
    work: str = fields.choice(
        "Worked", "plain", ("plain", "plain"), ("scalloped", "scalloped edge"), ("veined", "veined"), ("folded", "folded along the middle")
    )
    fuller: float = fields.length("Fuller", 10.0, tip="Diameter of the fuller for scallops: one scallop a diameter.")

    @property
    def idle(self) -> frozenset[str]:
        """Widths of a measured outline only, and its greatest of the others; the fuller of scallops only."""
        found = {"widths": self.outline != "measured", "width": self.outline == "measured", "fuller": self.work != "scalloped"}
        return frozenset(name for name, out in found.items() if out)

    def fitted(self, bar: Section) -> Self:
        """Twice as wide as the bar and a third as thick."""
        r = math.sqrt(bar.area) / 12
        return replace(self, length=40 * r, width=24 * r, thickness=min(4 * r, bar.thickness * 0.6))

    def _measured(self) -> tuple[float, ...]:
        if len(self.widths) < 2 or max(self.widths) <= 0:
            raise NoAnswer("The measured outline needs two widths or more, one of them above 0.", "Try 8; 18; 24; 16")
        return self.widths

    def _greatest(self) -> float:
        return max(self._measured()) if self.outline == "measured" else self.width

    def area(self) -> float:
        """Outline area, mm²."""
        if self.outline == "measured":
            rows = self._measured()
            return self.length / (len(rows) - 1) * sum((a + b) / 2 for a, b in pairwise(rows))
        return OUTLINES[self.outline].area(self.length / self.width) * self.length * self.width

    def _width_at(self, u: float) -> float:
        if self.outline == "measured":
            rows = self._measured()
            i = min(int(u * (len(rows) - 1)), len(rows) - 2)
            return rows[i] + (rows[i + 1] - rows[i]) * (u * (len(rows) - 1) - i)
        return OUTLINES[self.outline].width(u, self.length / self.width) * self.width

    def tip_first(self, place: Place) -> Shape:
        """Slices of the outline; the neck at the bar keeps a quarter of the width."""
        if self.outline in ("lens", "palm", "teardrop") and self.length < self.width:
            raise NoAnswer("That outline is at least as long as it is wide.", "Lengthen it, or choose diamond or fishtail.")
        if self.thickness >= place.bar.thickness * 1.5:
            raise NoAnswer("Spread steel is thinner than its bar.", "Make it thinner, or choose a thicker bar.")
        steps, wide = _STEPS, self._greatest()
        if self.outline == "measured":
            steps = (len(self._measured()) - 1) * 8
        widths = [max(self._width_at(i / steps), wide * (0.25 if i / steps > 0.5 else 0.02)) for i in range(steps + 1)]
        volume = self.area() * self.thickness
        spans = self._spans(widths)
        # Neck and chords hold another volume than the outline. Where it is widest it is left as it is, so that the walls of a hole are true.
        room = [1 - w / max(widths) for w in widths]
        trial = self._spans([w * (1 - _TRIAL * r) for w, r in zip(widths, room, strict=True)])
        whole, less = (math.fsum(s.volume for s in found) for found in (spans, trial))
        share = _TRIAL * (whole - volume) / (whole - less) if whole > less else 0.0
        spans = self._spans([w * (1 - share * r) for w, r in zip(widths, room, strict=True)])
        return Shape(exact(spans, volume), (Straight(self.length),))

    def _spans(self, widths: Sequence[float]) -> tuple[Span, ...]:
        return profile(self.length, [self._section(w) for w in widths])

    def _section(self, wide: float) -> Blend:
        """Flat, or folded along the middle into a V of 120 degrees: as wide as its wings leave it, as high as they rise."""
        if self.work != "folded":
            return Blend(wide, self.thickness, 1.0)
        return folded(wide, self.thickness)

    def reach(self, place: Place) -> float:
        """Width this bar reaches at that thickness, mm: what is displaced goes sideways by the capture."""
        return widened(place.bar, self.thickness, self.capture)

    def sum_lines(self, place: Place) -> tuple[Line, ...]:
        """Area × thickness, and the width the bar reaches."""
        area = Quantity(self.area(), "area")
        return (
            volume_line(f"Outline {OUTLINES[self.outline].formula} = {{}}, × {{}}", self.area() * self.thickness, place.bar, area, dec(self.thickness)),
            say("The bar reaches {} wide at that thickness, {} of the steel going sideways", self.reach(place), Quantity(self.capture, "percent")),
            stock_line(self, place),
        )  # fmt: skip

    def checks(self, place: Place) -> tuple[Check, ...]:
        """Right by volume and still too narrow: the widest place decides."""
        found, wide, reach = [], self._greatest(), self.reach(place)
        if reach < wide * 0.99:
            text = "The steel is enough, the width is not: this bar reaches {}, {} of the {} wanted. Upset the end first, or take a larger bar."
            found.append(Check("warn", say(text, reach, Quantity(round(reach / wide, 2), "percent"), wide)))
        if self.work == "scalloped":
            count = max(1, round(self.length / self.fuller))
            text = "{} scallops a side with a fuller of {}: one a diameter leaves peaks between them."
            found.append(Check("note", say(text, Quantity(count, "number"), self.fuller)))
        if self.thickness < 3:
            found.append(Check("note", say("Thin leaves burn: keep it out of the hottest fire, and spread it in short heats.")))
        return (*found, *self.buried(place))

    def operations(self, place: Place) -> tuple[Operation, ...]:
        """Narrow first, then thin; then the edge work."""
        wide = self._greatest()
        line = say(
            f"Spread to a {self.outline}, {{}} long, {{}} wide, {{}} thick: fuller across, then plane.", self.length, wide, self.thickness
        )
        found = [
            Operation("spread", line, "section", "draw", 850, ("cross peen or fuller", "anvil", "callipers"), blows=trueing(self.length))
        ]
        texts = {
            "scalloped": "Fuller the edge into scallops, from the tip.",
            "veined": "Chisel the veins, the middle one first.",
            "folded": "Fold along the middle over the step or a swage; chisel lines come before the fold.",
        }
        if self.work in texts:
            tools = ("veining chisel or fuller", "soft block")
            large = size(place.bar.blend)
            found.append(
                Operation("texture", say(texts[self.work]), "path", "time", 800, tools, seconds=self.length * large, way=self.work)
            )
        return tuple(found)

    def summary(self) -> Line:
        """Outline and size."""
        return say(f"{self.outline}, {{}} × {{}}", self.length, self._greatest())
