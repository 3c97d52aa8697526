"""Hollow things from flat sheet: rolled cups and petals."""

from __future__ import annotations

import math
from typing import ClassVar

import numpy as np

from long_ember import fields
from long_ember.blanks.base import Blank, Outline, round_edge, slit
from long_ember.errors import NoAnswer
from long_ember.features import Check
from long_ember.frozen import dataclass
from long_ember.units import Line, Quantity, say

__all__ = ["Cup", "Petals"]


@dataclass(frozen=True, kw_only=True)
class Cup(Blank):
    """A cup rolled round a candle, a pipe or a mandrel.

    Args:
        inside: diameter of what goes into it, mm.
        height: mm.
        thickness: of the sheet, mm.
        slack: clearance all round, mm on the diameter.
        lap: where the ends lie over each other, mm; 0 for ends that meet.
    """

    kind: ClassVar[str] = "cup"
    title: ClassVar[str] = "Rolled cup"
    also: ClassVar[tuple[str, ...]] = ("candle cup", "pipe socket", "ferrule", "sleeve", "collar", "ring from flat")
    inside: float = fields.length("Goes into it", 22.0, tip="Diameter of the candle or pipe.")
    height: float = fields.length("Height", 30.0)
    thickness: float = fields.sheet("Sheet", 2.0)
    slack: float = fields.length("Slack", 0.8, zero=True, tip="Clearance on the diameter.")
    lap: float = fields.length("Lap", 0.0, zero=True, tip="Where the ends lie over each other; 0 when they meet.")

    def wrapped(self) -> float:
        """Length that is rolled: round the middle of the sheet, mm."""
        return math.pi * (self.inside + self.slack + self.thickness) + self.lap

    def outline(self) -> Outline:
        """A strip."""
        length = self.wrapped()
        return Outline(np.array([(0.0, 0.0), (length, 0.0), (length, self.height), (0.0, self.height)]))

    def words(self) -> tuple[Line, ...]:
        """Circumference at mid thickness."""
        text = "Wrapped: 3.1416 × ({} + {} + {}) + {} = {}"
        sizes = (Quantity(v, "decimal") for v in (self.inside, self.slack, self.thickness, self.lap))
        return (say(text, *sizes, self.wrapped()),)

    def checks(self) -> tuple[Check, ...]:
        """Sheet too thick to roll small."""
        if self.inside < 5 * self.thickness:
            text = "Rolled under five thicknesses of {} the sheet kinks: anneal, and work it over a mandrel in steps."
            return (Check("warn", say(text, self.thickness)),)
        return ()

    def steps(self) -> tuple[Line, ...]:
        """Ends first."""
        return (
            say("Bend both ends first, over the mandrel: they do not follow by themselves."),
            say("Roll from both ends to the middle; true on a mandrel of {}.", self.inside + self.slack),
        )


@dataclass(frozen=True, kw_only=True)
class Petals(Blank):
    """A round blank slit into petals that stay joined at the middle.

    Args:
        diameter: of the blank, mm.
        count: petals.
        hub: diameter left solid in the middle, mm.
        hole: in the middle, mm; 0 for none.
        slit: width of each slit, mm.
        thickness: of the sheet, mm.
    """

    kind: ClassVar[str] = "petals"
    title: ClassVar[str] = "Petals"
    also: ClassVar[tuple[str, ...]] = ("rose", "flower", "drip pan petals", "leaves from sheet", "star")
    diameter: float = fields.length("Diameter", 80.0)
    count: int = fields.count("Petals", 5, low=2, high=60)
    hub: float = fields.length("Hub", 24.0, tip="Left solid in the middle.")
    hole: float = fields.length("Hole", 6.5, zero=True, tip="In the middle; 0 for none.")
    slit: float = fields.length("Slit", 1.5, zero=True, tip="Width of each slit.")
    thickness: float = fields.sheet("Sheet", 1.5)

    def web(self) -> float:
        """Junction that holds each petal: chord of the hub between two slits, mm."""
        return self.hub * math.sin(math.pi / self.count) - self.slit

    def outline(self) -> Outline:
        """Circle, hole, slits; and the ring the petals bend along."""
        if self.hub >= self.diameter:
            raise NoAnswer("The hub is as large as the blank: no petals are left.", "Make the hub smaller.")
        if self.hole >= self.hub:
            raise NoAnswer("The hole cuts the petals off: it is as large as the hub.", "Make the hole smaller.")
        if self.web() <= 0:
            raise NoAnswer("The slits meet at the hub and the petals fall off.", "Fewer petals, a larger hub or narrower slits.")
        holes = (round_edge(self.hole),) if self.hole else ()
        slits = []
        for i in range(self.count):
            angle = 2 * math.pi * i / self.count
            c, s = math.cos(angle), math.sin(angle)
            slits.append(slit(c * self.hub / 2, s * self.hub / 2, c * self.diameter / 2, s * self.diameter / 2))
        return Outline(round_edge(self.diameter), holes, tuple(slits), (round_edge(self.hub, corners=72),),
                       self.count * self.slit * (self.diameter - self.hub) / 2)  # fmt: skip

    def words(self) -> tuple[Line, ...]:
        """Petal and web."""
        return (
            say("Each petal: {} long, {} wide at its end", (self.diameter - self.hub) / 2, self.diameter * math.sin(math.pi / self.count)),
            say("Junction: {} × sin(180°/{}) − {} = {}", Quantity(self.hub, "decimal"), Quantity(self.count, "number"),
                Quantity(self.slit, "decimal"), self.web()),
        )  # fmt: skip

    def checks(self) -> tuple[Check, ...]:
        """Junctions too narrow to bend hot."""
        least = max(3 * self.thickness, 4.0)
        if self.web() < least:
            text = "The junction of each petal is {} wide: under {} it burns or tears when it is bent."
            return (Check("warn", say(text, self.web(), least)),)
        return ()

    def steps(self) -> tuple[Line, ...]:
        """Lines before folds."""
        return (
            say("Drill a small hole where each slit ends, then cut the slits."),
            say("Chisel the veins and thin the edges before any petal is folded over them."),
            say("Raise the petals along the ring, the inner layer first; the cup is half bent, riveted, then closed."),
        )
