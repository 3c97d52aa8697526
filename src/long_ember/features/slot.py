"""Slot punched and drifted to an eye (computations, section 6)."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import replace
from typing import Any, ClassVar, Self

from long_ember import fields
from long_ember.errors import NoAnswer
from long_ember.features.base import Check, Feature, Operation, Place, dec, stock_line, stock_of
from long_ember.features.effort import HEAD, punched
from long_ember.features.shape import Shape, Span, Straight, Void, profile
from long_ember.frozen import dataclass
from long_ember.sections import Section
from long_ember.units import Line, Quantity, say

__all__ = ["DriftedEye", "rim"]

_STEPS = 16


def rim(slot: float, punch: float) -> float:
    """Rim of a round-ended slot, mm: 2(s − p) + πp.

    >>> round(rim(28.56, 5), 1)
    62.8
    """
    return 2 * (slot - punch) + math.pi * punch


@dataclass(frozen=True, kw_only=True)
class DriftedEye(Feature):
    """A slot punched through and opened with a drift: tool eyes, pass-through joints.

    Args:
        diameter: of the finished eye, mm.
        slot: length of the slot, mm; 0 for the length that opens without stretching its rim.
        punch: width of the slot punch, mm.
        slug: share of the slot's volume that comes out.
        form: eye (round), slot (left as it is punched) or diamond (opened corner to corner, its outside dressed to match).
    """

    kind: ClassVar[str] = "drifted-eye"
    title: ClassVar[str] = "Drifted eye"
    stands: ClassVar[str] = "work"
    recuts: ClassVar[bool] = True
    also: ClassVar[tuple[str, ...]] = (
        "slot",
        "slot punch",
        "tool eye",
        "hammer eye",
        "pass-through",
        "drift",
        "slit and drift",
        "diamond eye",
    )
    named: ClassVar[Mapping[str, Mapping[str, Any]]] = {"diamond eye": {"form": "diamond"}, "slot punch": {"form": "slot"}}
    diameter: float = fields.length("Eye", 14.0, mark="diameter")
    slot: float = fields.length("Slot", 0.0, zero=True, tip="Length of the slot; 0 takes the one that opens without stretch.")
    punch: float = fields.length("Punch width", 4.0)
    slug: float = fields.percent("Slug", 0.30, tip="Share of the slot a punch takes out; a hot slit takes none.")
    form: str = fields.choice("Opened to", "eye", ("eye", "a round eye"), ("slot", "a slot, as punched"), ("diamond", "a diamond"), late=6)

    def fitted(self, bar: Section) -> Self:
        """An eye as wide as the bar, from a punch a third of it."""
        return replace(self, diameter=bar.width * 14 / 12, punch=bar.width / 3)

    @property
    def idle(self) -> frozenset[str]:
        """A slot that is given its length is as wide as its punch."""
        return frozenset({"diameter"}) if self.form == "slot" and self.slot else frozenset()

    def marked(self, mark: str) -> str:
        """Only a round eye has a diameter."""
        return "width" if mark == "diameter" and self.form != "eye" else mark

    def told(self) -> str:
        """A slot, or a diamond, where that is what it is opened to."""
        return {"slot": "Slot", "diamond": "Diamond eye"}.get(self.form, "")

    def opened(self) -> float:
        """Length of the slot in force, mm."""
        if self.slot:
            return self.slot
        if self.form == "diamond":  # its four sides, at a right angle between them
            return (2 * math.sqrt(2) * self.diameter - math.pi * self.punch) / 2 + self.punch
        if self.form == "slot":
            return 2 * self.diameter
        return (math.pi * self.diameter - math.pi * self.punch) / 2 + self.punch

    def stretch(self) -> float:
        """Rim of the eye ÷ rim of the slot; a diamond takes its sides from the slot, and a slot stays as it is."""
        if self.form != "eye":
            return 1.0
        return math.pi * self.diameter / rim(self.opened(), self.punch)

    def walls(self, place: Place) -> tuple[float, float]:
        """Side wall beside the slot and beside the eye, mm: what stretches thins."""
        before = (place.bar.width - self.punch) / 2
        return before, before / max(self.stretch(), 1.0)

    def diamond(self) -> tuple[float, float]:
        """Length along the bar, and lean of a side from it in rad, of the diamond whose rim is the slot's.

        Raises:
            NoAnswer: the slot is too short to open so far.
        """
        side, half = rim(self.opened(), self.punch) / 4, self.diameter / 2
        if half >= side * 0.999:
            text = "The slot is too short to open so far: its rim would lie straight across."
            raise NoAnswer(text, "Make the slot longer, or open it less.")
        return 2 * math.sqrt(side * side - half * half), math.asin(half / side)

    def shape(self, place: Place) -> Shape:
        """The bar swelling round the eye."""
        if place.bar.shape not in ("square", "flat"):
            raise NoAnswer("A drifted eye is reckoned in square and flat bar.", "Flatten the bar there first.")
        if self.punch >= place.bar.width or self.punch > self.opened():
            raise NoAnswer("The punch is as wide as the bar, or wider than its slot is long.", "Use a narrower punch or a wider bar.")
        if self.form == "slot":
            return self._slot(place)
        if self.punch >= self.diameter:
            raise NoAnswer("The eye is no wider than the punch: there is nothing to drift.", "Use a hole instead.")
        if self.form == "diamond":
            return self._diamond(place)
        _before, wall = self.walls(place)
        bar, r = place.bar.blend, self.diameter / 2
        length, wide = self.diameter + 2 * wall, self.diameter + 2 * wall
        rows = []
        for i in range(_STEPS + 1):
            x = length * (i / _STEPS - 0.5)
            bulge = 2 * math.sqrt(max((wide / 2) ** 2 - x * x, 0.0))
            rows.append(replace(bar, w=max(bar.w, bulge)))
        volume = math.pi * r * r * bar.t
        void = Void(length / 2, self.diameter, "thickness", volume)
        made = Shape(profile(length, rows), (Straight(length),), (void,))
        if made.volume <= 0:
            raise NoAnswer("The rim stretches until no wall is left beside the eye.", "Make the slot longer, or the eye smaller.")
        return made

    def _slot(self, place: Place) -> Shape:
        """Round-ended, as the punch leaves it; what its slug does not take swells both sides."""
        bar, long, wall = place.bar.blend, self.opened(), self.walls(place)[0]
        length, hole = long + 2 * wall, ((long - self.punch) * self.punch + math.pi / 4 * self.punch**2) * bar.t
        peak = replace(bar, w=bar.w + (1 - self.slug) * hole / (bar.k * bar.t * length) * 4 / 3)
        spans = (Span(length / 4, bar, peak), Span(length / 2, peak, peak), Span(length / 4, peak, bar))
        return Shape(spans, (Straight(length),), (Void(length / 2, long, "thickness", hole, "slot", self.punch),))

    def _diamond(self, place: Place) -> Shape:
        """Opened corner to corner, the outside parallel to its sides."""
        bar, (along, lean), wall = place.bar.blend, self.diamond(), self.walls(place)[1]
        length, out = along + 2 * wall / math.sin(lean), wall / math.cos(lean)
        rows = []
        for i in range(_STEPS + 1):
            x = abs(length * (i / _STEPS - 0.5))
            rows.append(replace(bar, w=max(bar.w, self.diameter * (1 - 2 * x / along) + 2 * out)))
        void = Void(
            length / 2, along / math.sqrt(2), "thickness", along * self.diameter / 2 * bar.t, "diamond", self.diameter / math.sqrt(2)
        )
        return Shape(profile(length, rows), (Straight(length),), (void,))

    def _spreading(self, place: Place) -> float:
        """Work of opening the slot on a drift ÷ flow stress, mm³: both walls bent and stretched, and as much again rubbed away on the drift."""
        wall, _after = self.walls(place)
        bent = wall / (self.diameter + wall)
        return 2 * 2 * wall * place.bar.thickness * self.opened() * (bent + math.log(max(self.stretch(), 1.0)))

    def margins(self, place: Place, to_end: float) -> tuple[Line, ...]:
        """Webs beside the slot and beyond it, as it is punched."""
        text = "Margins of the slot: {} on each side, {} from the slot to the end of the bar"
        return (say(text, Quantity(self.walls(place)[0], "fine"), to_end - self.opened() / 2),)

    def over_all(self, place: Place) -> float:
        """Width over the opened eye, mm."""
        return max(s.start.w for s in self.shape(place).spans)

    def spots(self, place: Place) -> tuple[tuple[float, str], ...]:
        """Both ends of the slot."""
        half = min(self.opened() / 2 / stock_of(self, place), 0.5)
        return (0.5 - half, "centre pop, slot end"), (0.5 + half, "centre pop, slot end")

    def removed(self, place: Place) -> float:
        """The slug, mm³."""
        s, p = self.opened(), self.punch
        return self.slug * ((s - p) * p + math.pi / 4 * p * p) * place.bar.thickness

    def sum_lines(self, place: Place) -> tuple[Line, ...]:
        """Rim, walls, outer width."""
        s, p, (before, after) = self.opened(), self.punch, self.walls(place)
        first = say("Rim of the slot: 2·({} − {}) + 3.1416·{} = {}", dec(s), dec(p), dec(p), rim(s, p))
        if self.form == "slot":
            return first, say("Webs: {} on each side of it; {} over all", before, self.over_all(place)), stock_line(self, place)
        if self.form == "diamond":
            text = "Diamond: each side a quarter of it, {}; {} across the bar, {} along it"
            sides = say(text, rim(s, p) / 4, self.diameter, self.diamond()[0])
            return first, sides, say("Webs: {} on each side of it; {} over all", after, self.over_all(place)), stock_line(self, place)
        return (
            first,
            say("Rim of the eye: 3.1416·{} = {}, stretched {}", dec(self.diameter), math.pi * self.diameter, Quantity(self.stretch() - 1, "percent")),
            say("Side walls: {} beside the slot, {} beside the eye; {} over all", Quantity(before, "fine"), Quantity(after, "fine"),
                self.diameter + 2 * after),
            stock_line(self, place),
        )  # fmt: skip

    def checks(self, place: Place) -> tuple[Check, ...]:
        """Stretch and walls."""
        found, (before, after) = [], self.walls(place)
        stretch = self.stretch() - 1
        if stretch > 0.02:
            none = (math.pi * self.diameter - math.pi * self.punch) / 2 + self.punch
            text = ("The rim stretches {} and its walls thin from {} to {}: drift from both sides by turns, cool a wall that runs ahead, "
                    "and work the thick one on. A slot of {} opens without stretch.")  # fmt: skip
            found.append(Check("note", say(text, Quantity(stretch, "percent"), before, after, none)))
        if self.form == "eye" and stretch < -0.05:
            found.append(Check("warn", say("The slot is longer than the eye needs: the eye comes out oval. Shorten the slot.")))
        if after < place.bar.thickness / 4:
            found.append(Check("warn", say("Only {} of wall beside the eye: upset the bar first, or punch narrower.", after)))
        text = "Punch slugs fly and punch heads mushroom: eyes, gloves, dress the punch. Drift from both sides."
        return (*found, Check("note", say(text), caution=True))

    def operations(self, place: Place) -> tuple[Operation, ...]:
        """Slot, then drift."""
        long = self.opened() - self.punch
        work = punched(long * self.punch + math.pi / 4 * self.punch**2, rim(self.opened(), self.punch), place.bar.thickness)
        slot = say("Slot punch {} long with a punch of {}, from both sides.", self.opened(), self.punch)
        if self.form == "slot":
            return (Operation("punch", slot, "whole", "time", 850, ("slot punch", "bolster", "water can"), effort=work),)
        drift = say("Drift to {} from both sides; dress the walls on the drift.", self.diameter)
        if self.form == "diamond":
            drift = say("Open it to a diamond, {} across, on a square drift; dress the outside square on the drift.", self.diameter)
        return (
            Operation("punch", slot, "section", "time", 850, ("slot punch", "bolster", "water can"), effort=work),
            Operation(
                "punch", drift, "whole", "time", 850, ("drift", "bolster", "hammer"), effort=self._spreading(place), blows=HEAD, way="drift"
            ),
        )

    def summary(self) -> Line:
        """Eye from its slot."""
        if self.form == "slot":
            return say("{} × {}", self.opened(), self.punch)
        if self.form == "diamond":
            return say("{} across, from a slot of {}", self.diameter, self.opened())
        return say("{} from a slot of {}", self.diameter, self.opened())
