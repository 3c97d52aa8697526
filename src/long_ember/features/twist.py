"""Twists and how much they shorten (computations, section 4)."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import replace
from typing import Any, ClassVar

from long_ember import fields
from long_ember.errors import NoAnswer
from long_ember.features.base import Check, Formed, Operation, Place
from long_ember.features.effort import drawing_stop, finishing
from long_ember.features.shape import Shape, Span, Straight
from long_ember.frozen import dataclass
from long_ember.sections import Section
from long_ember.units import Line, Quantity, say

__all__ = ["Twist", "stock_before_twist", "twisted_length"]


def twisted_length(stock: float, turns: float, gyration2: float, fraction: float = 1.0) -> float:
    """Length after twisting.

    The bound L = √(L_s² − (2πN)²·r_g²) keeps the mean fibre length; real hot twists shorten by a
    `fraction` of it (default 0.35, honest range 0 to 1).

    Args:
        stock: mm before.
        turns: N.
        gyration2: polar radius of gyration squared, mm².
        fraction: of the bound.

    >>> round(twisted_length(100, 2, 12**2 / 6), 2)
    78.8
    """
    c2 = (2 * math.pi * turns) ** 2 * gyration2
    if stock * stock < c2:
        raise NoAnswer("The bar is too short for that many turns.", "Take off turns or allow more length.")
    return stock - fraction * (stock - math.sqrt(stock * stock - c2))


def stock_before_twist(finished: float, turns: float, gyration2: float, fraction: float) -> float:
    """Stock length L_s that twists to `finished`: the positive root of
    (1 − 2f)·L_s² − 2(1 − f)·L·L_s + L² + f²c² = 0, written so that no term cancels.

    Raises:
        NoAnswer: when no stock length gives it.
    """
    c2 = (2 * math.pi * turns) ** 2 * gyration2
    f = fraction
    # The twisted length is least, (1 − f)·c, where the bound reaches 0: anything shorter has no stock.
    if finished <= (1 - f) * math.sqrt(c2):
        raise NoAnswer(
            f"{turns:g} turns do not fit in that length of this bar.",
            "Take off turns, lengthen the twist, or choose a thinner bar.",
        )
    root = math.sqrt(max(f * f * (finished**2 - (1 - 2 * f) * c2), 0.0))
    return (finished**2 + f * f * c2) / ((1 - f) * finished + root)


@dataclass(frozen=True, kw_only=True)
class Twist(Formed):
    """A twisted length of bar.

    Args:
        length: finished length, mm.
        turns: full turns.
        hand: left, right, or reversed half way.
        flattened: section the bar is flattened to before it is twisted, None for the bar.
        shortening: share of the greatest possible shortening that is expected, 0 to 1.
    """

    kind: ClassVar[str] = "twist"
    stands: ClassVar[str] = "form"
    title: ClassVar[str] = "Twist"
    also: ClassVar[tuple[str, ...]] = ("barley twist", "wrung bar", "cable", "quarter twist", "half twist", "full twist")
    named: ClassVar[Mapping[str, Mapping[str, Any]]] = {
        "quarter twist": {"turns": 0.25}, "half twist": {"turns": 0.5}, "full twist": {"turns": 1.0},
    }  # fmt: skip
    length: float = fields.length("Length", 100.0, mark="length", tip="Finished, after it has shortened.")
    turns: float = fields.number("Turns", 1.5, low=0.125, high=60.0, tip="One turn is 360°.")
    hand: str = fields.choice("Hand", "right", ("right", "right"), ("left", "left"), ("reversed", "reversed half way"),
                             mirror={"left": "right", "right": "left"})  # fmt: skip
    shortening: float = fields.percent("Shortening", 0.35, tip="Share of the greatest possible; a test piece fixes it.")
    flattened: Section | None = fields.section(
        "Flattened to", None, optional=True, tip="Flattened before it is twisted; empty twists the bar."
    )

    def fitted(self, bar: Section) -> Twist:
        """Long enough for its turns whatever the bar's width."""
        return replace(self, length=max(math.ceil(bar.width * 100 / 12 / 5) * 5.0, 10.0))

    def section(self, place: Place) -> Section:
        """What is twisted."""
        return self.flattened or place.bar

    def before(self, place: Place, fraction: float | None = None) -> float:
        """Length of the section before it is twisted, mm."""
        share = self.shortening if fraction is None else fraction
        return stock_before_twist(self.length, self.turns, self.section(place).gyration2, share)

    def stock(self, place: Place, fraction: float | None = None) -> float:
        """Stock length, mm."""
        return self.before(place, fraction) * self.section(place).area / place.steel.area

    def shape(self, place: Place) -> Shape:
        """Steel is kept: what the twist loses in length it gains in section."""
        if self.flattened and self.flattened.area > place.bar.area * 1.0001:
            raise NoAnswer("Flattening leaves no more section than the bar has.", "Make it thinner or narrower.")
        blend = self.section(place).blend.scaled(self.before(place) / self.length)
        if self.hand == "reversed":
            half = self.length / 2
            return Shape((Span(half, blend, blend, self.turns / 2), Span(half, blend, blend, -self.turns / 2)), (Straight(self.length),))
        turns = self.turns if self.hand == "right" else -self.turns
        return Shape((Span(self.length, blend, blend, turns),), (Straight(self.length),))

    def stock_range(self, place: Place) -> tuple[float, float]:
        """mm, from no shortening at all to the full bound."""
        return self.length * self.section(place).area / place.steel.area, self.stock(place, 1.0)

    def spots(self, place: Place) -> tuple[tuple[float, str], ...]:
        """Where a reversed twist turns round."""
        return ((0.5, "centre pop, twist turns round"),) if self.hand == "reversed" else ()

    def sum_lines(self, place: Place) -> tuple[Line, ...]:
        """The bound, then the share of it in force."""
        stock, section = self.before(place), self.section(place)
        bound = twisted_length(stock, self.turns, section.gyration2)
        gyration = Quantity(section.gyration2, "area")
        return (
            say("Greatest shortening of {}: L² = {}² − (6.2832·{})²·{}, L = {}", stock, Quantity(stock, "decimal"),
                Quantity(self.turns, "number"), gyration, bound),
            say("Expected {} of it: {} − {}·({} − {}) = {} finished", Quantity(self.shortening, "percent"), Quantity(stock, "decimal"),
                Quantity(self.shortening, "number"), Quantity(stock, "decimal"), Quantity(bound, "decimal"), self.length),
            say("Stock: {}, between {} and {}", self.stock(place), *self.stock_range(place)),
        )  # fmt: skip

    def checks(self, place: Place) -> tuple[Check, ...]:
        """A helix steeper than the steel likes."""
        corner = math.hypot(self.section(place).width, self.section(place).thickness) / 2  # half the diagonal
        lean = math.degrees(math.atan(2 * math.pi * self.turns * corner / self.length))
        found = list[Check]()
        if lean > 45:
            text = "The corners lean {}: more than 45° tears unless the heat is even and high."
            found.append(Check("warn", say(text, Quantity(lean, "angle"))))
        if self.section(place).shape in ("round", "tube"):
            found.append(Check("warn", say("A twist does not show in round bar: square or flatten it first, or take another bar.")))
        return tuple(found)

    def operations(self, place: Place) -> tuple[Operation, ...]:
        """One even heat of its own."""
        words = "half one way, half the other" if self.hand == "reversed" else f"{self.hand}-handed"
        line = say(f"Twist {{}} {words} over {{}}; straighten.", Quantity(self.turns, "turns"), self.length)
        seconds = 5.0 + 4.0 * self.turns  # straightened below the twisting heat, which costs none of it
        twist = Operation(
            "twist",
            line,
            "whole",
            "time",
            800,
            ("vice", "twisting wrench"),
            seconds=seconds,
            alone=True,
            section=self.section(place),
        )
        if self.flattened is None:
            return (twist,)
        flatten = say("Flatten to {} × {} over {}.", self.flattened.width, self.flattened.thickness, self.before(place))
        return Operation(
            "draw",
            flatten,
            "section",
            "draw",
            drawing_stop(place.bar.thickness),
            ("hammer", "anvil", "callipers"),
            blows=finishing("flat", self.before(place)),
        ), twist

    def summary(self) -> Line:
        """Length, turns, hand."""
        return say("{}, {} " + self.hand, self.length, Quantity(self.turns, "turns"))
