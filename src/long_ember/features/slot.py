"""Slot punched and drifted to an eye (computations, section 6)."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import ClassVar, Self

from long_ember import fields
from long_ember.errors import NoAnswer
from long_ember.features.base import Check, Feature, Operation, Place, dec, stock_line, stock_of
from long_ember.features.shape import Shape, Straight, Void, profile
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
    """

    kind: ClassVar[str] = "drifted-eye"
    title: ClassVar[str] = "Drifted eye"
    stands: ClassVar[str] = "work"
    recuts: ClassVar[bool] = True
    also: ClassVar[tuple[str, ...]] = ("slot", "slot punch", "tool eye", "hammer eye", "pass-through", "drift")
    diameter: float = fields.length("Eye", 14.0, mark="diameter")
    slot: float = fields.length("Slot", 0.0, zero=True, tip="Length of the slot; 0 takes the one that opens without stretch.")
    punch: float = fields.length("Punch width", 4.0)
    slug: float = fields.percent("Slug", 0.30, tip="Share of the slot a punch takes out; a hot slit takes none.")

    def fitted(self, bar: Section) -> Self:
        """An eye as wide as the bar, from a punch a third of it."""
        return replace(self, diameter=bar.width * 14 / 12, punch=bar.width / 3)

    def opened(self) -> float:
        """Length of the slot in force, mm."""
        if self.slot:
            return self.slot
        return (math.pi * self.diameter - math.pi * self.punch) / 2 + self.punch

    def stretch(self) -> float:
        """Rim of the eye ÷ rim of the slot."""
        return math.pi * self.diameter / rim(self.opened(), self.punch)

    def walls(self, place: Place) -> tuple[float, float]:
        """Side wall beside the slot and beside the eye, mm: what stretches thins."""
        before = (place.bar.width - self.punch) / 2
        return before, before / max(self.stretch(), 1.0)

    def shape(self, place: Place) -> Shape:
        """The bar swelling round the eye."""
        if place.bar.shape not in ("square", "flat"):
            raise NoAnswer("A drifted eye is reckoned in square and flat bar.", "Flatten the bar there first.")
        if self.punch >= place.bar.width or self.punch > self.opened():
            raise NoAnswer("The punch is as wide as the bar, or wider than its slot is long.", "Use a narrower punch or a wider bar.")
        if self.punch >= self.diameter:
            raise NoAnswer("The eye is no wider than the punch: there is nothing to drift.", "Use a hole instead.")
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
        return (
            say("Rim of the slot: 2·({} − {}) + 3.1416·{} = {}", dec(s), dec(p), dec(p), rim(s, p)),
            say("Rim of the eye: 3.1416·{} = {}, stretched {}", dec(self.diameter), math.pi * self.diameter, Quantity(self.stretch() - 1, "percent")),
            say("Side walls: {} beside the slot, {} beside the eye; {} over all", before, after, self.diameter + 2 * after),
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
        if stretch < -0.05:
            found.append(Check("warn", say("The slot is longer than the eye needs: the eye comes out oval. Shorten the slot.")))
        if after < place.bar.thickness / 4:
            found.append(Check("warn", say("Only {} of wall beside the eye: upset the bar first, or punch narrower.", after)))
        text = "Punch slugs fly and punch heads mushroom: eyes, gloves, dress the punch. Drift from both sides."
        return (*found, Check("note", say(text), caution=True))

    def operations(self, place: Place) -> tuple[Operation, ...]:
        """Slot, then drift."""
        slot = say("Slot punch {} long with a punch of {}, from both sides.", self.opened(), self.punch)
        drift = say("Drift to {} from both sides; dress the walls on the drift.", self.diameter)
        return (
            Operation("punch", slot, "section", "punch", 850, ("slot punch", "bolster", "water can")),
            Operation("eye", drift, "whole", "time", 850, ("drift", "bolster", "hammer"), seconds=40.0, way="drift"),
        )

    def summary(self) -> Line:
        """Eye from its slot."""
        return say("{} from a slot of {}", self.diameter, self.opened())
