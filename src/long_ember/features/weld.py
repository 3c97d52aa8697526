"""Scarfs, welded extensions and laid-on steel (computations, section 8)."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import ClassVar, Self

from long_ember import fields
from long_ember.errors import NoAnswer
from long_ember.features.base import Check, Feature, Operation, Outer, Place, dec, span_sum, stock_line, volume_line
from long_ember.features.limb import Limbs, limb_checks, limb_operations, limb_removed, limb_shapes
from long_ember.features.shape import Branch, Shape, Span, Straight, chained
from long_ember.frozen import dataclass
from long_ember.sections import Section, flat, square
from long_ember.units import Line, Quantity, say

__all__ = ["Extension", "LaidOn", "Scarf"]

_ARC = "An arc blinds and burns, its fume is poison: mask, gloves, covered skin, air; keep to your local rules for welding."
_FIRE = "Flux spatters and fumes, welding heat dazzles: eye protection against glare, air, sleeves down."


def _weld(text: str, verb: str = "weld") -> Operation:
    """The first light blows are all that a welding heat leaves time for; a second heat makes sure."""
    tools = ("flux", "wire brush", "hammer", "second pair of tongs")
    return Operation(verb, say(text), "whole", "time", 1200, tools, seconds=0.8 if verb == "close" else 1.6, alone=True)


@dataclass(frozen=True, kw_only=True)
class Scarf(Outer):
    """An end thickened and scarfed for a lap weld.

    Args:
        length: of the scarf, mm.
        lip: thickness left at its lip, mm.
        loss: bar that the weld burns and the hammer takes, in bar thicknesses.
    """

    kind: ClassVar[str] = "scarf"
    title: ClassVar[str] = "Scarf"
    also: ClassVar[tuple[str, ...]] = ("lap weld", "forge weld", "fire weld", "link weld", "ring weld")
    length: float = fields.length("Length", 18.0, mark="length", tip="About one and a half thicknesses.")
    lip: float = fields.length("Lip", 2.0, mark="tip")
    loss: float = fields.number("Weld loss", 1.0, low=0.0, high=3.0, tip="In bar thicknesses: 1.5 to 2 for a lap shared by two ends.")

    @property
    def closes(self) -> bool:
        """Two of them lie over each other."""
        return True

    def tip_first(self, place: Place) -> Shape:
        """A wedge from the lip to the bar."""
        if self.lip >= place.bar.thickness:
            raise NoAnswer("The lip is as thick as the bar: that is no scarf.", "Make the lip thinner.")
        bar = place.bar.blend
        thin = replace(bar, t=self.lip, bore=0.0)
        return Shape((Span(self.length, thin, bar),), (Straight(self.length),))

    def removed(self, place: Place) -> float:
        """What burns and scales at welding heat, mm³."""
        return self.loss * place.bar.thickness * place.bar.area

    def stock_range(self, place: Place) -> tuple[float, float]:
        """mm, from half the loss to two thicknesses."""
        wedge = self.tip_first(place).volume / place.bar.area
        t = place.bar.thickness
        return wedge + min(self.loss, 0.5) * t, wedge + max(self.loss, 2.0) * t

    def sum_lines(self, place: Place) -> tuple[Line, ...]:
        """Wedge and loss."""
        wedge = span_sum("Scarf", self.tip_first(place).spans[0].reversed(), place.bar)
        loss = say("Weld loss: {} × {} = {}", Quantity(self.loss, "number"), dec(place.bar.thickness), self.loss * place.bar.thickness)
        return wedge, loss, stock_line(self, place)

    def checks(self, place: Place) -> tuple[Check, ...]:
        """Welding fume and glare."""
        return Check("note", say(_FIRE), caution=True), *self.buried(place)

    def operations(self, place: Place) -> tuple[Operation, ...]:
        """Upset, scarf, weld."""
        line = say("Upset the end, then scarf it {} long to a lip of {}, rounded so that slag runs out.", self.length, self.lip)
        return (
            Operation("draw", line, "section", "draw", 900, ("hammer", "anvil edge"), way="scarf"),
            _weld("Flux, bring both scarfs to a welding heat, lap and weld with quick light blows, lip first.", "close"),
        )

    def summary(self) -> Line:
        """Length and loss."""
        return say("{} long, loss {} thicknesses", self.length, Quantity(self.loss, "number"))


@dataclass(frozen=True, kw_only=True)
class Extension(Outer):
    """Another bar welded on as the end of this one.

    Args:
        section: of the other bar.
        length: of it that stands beyond the weld, mm.
        beyond: features of the other bar from its tip inwards.
        lap: of the weld, mm.
        loss: in bar thicknesses, from this bar.
        weld: fire (lapped), or arc (end to end: no scarf, no lap, no loss).
    """

    kind: ClassVar[str] = "extension"
    title: ClassVar[str] = "Extension"
    also: ClassVar[tuple[str, ...]] = ("welded end", "reins", "handle weld", "shank weld", "drawn or welded reins")
    section: Section = fields.section("Other bar", square(10.0), mark="section")
    length: float = fields.length("Length", 120.0, mark="length", tip="Of the other bar beyond the weld.")
    beyond: Limbs = fields.limb("Features on it", tip="Features of the other bar from its tip inwards, beyond its plain length.")
    lap: float = fields.length("Lap", 18.0, tip="Where both bars are one.")
    loss: float = fields.number("Weld loss", 1.0, low=0.0, high=3.0, tip="In bar thicknesses.")
    weld: str = fields.choice("Welded", "fire", ("fire", "in the fire"), ("arc", "by arc, cold, end to end"), late=6)

    @property
    def idle(self) -> frozenset[str]:
        """An arc needs no lap and loses nothing."""
        return frozenset({"lap", "loss"}) if self.weld == "arc" else frozenset()

    def tip_first(self, place: Place) -> Shape:
        """The other bar with its own features, then the lap running into this one."""
        other, bar = self.section.blend, place.bar.blend
        if self.weld == "arc":
            plain = Shape((Span(self.length, other, other),), (Straight(self.length),))
            return chained([*limb_shapes(self.beyond, self.section, place.rule), plain]) if self.beyond else plain
        own = Shape((Span(self.length, other, other), Span(self.lap, other, bar)), (Straight(self.length + self.lap),))
        return chained([*limb_shapes(self.beyond, self.section, place.rule), own]) if self.beyond else own

    def added(self, place: Place) -> float:
        """The other bar and its half of the lap, mm³."""
        whole = self.tip_first(place)
        return whole.volume - (0.0 if self.weld == "arc" else whole.spans[-1].volume / 2)

    def removed(self, place: Place) -> float:
        """Weld loss of this bar, mm³."""
        if self.weld == "arc":
            return 0.0
        return self.loss * place.bar.thickness * place.bar.area

    def sum_lines(self, place: Place) -> tuple[Line, ...]:
        """Half the lap and the loss; the other bar apart."""
        if self.weld == "arc":
            length = (self.added(place) + limb_removed(self.beyond, self.section, place.rule)) / self.section.area
            return say("Cut from the other bar: {}", length), say("Stock: none of this bar, the weld is end to end")
        lap = self.tip_first(place).spans[-1].volume
        cut = self.added(place) + limb_removed(self.beyond, self.section, place.rule)
        other = cut / self.section.area + self.loss * self.section.thickness
        return (
            volume_line("Half of the lap, {} long", lap / 2, place.bar, self.lap),
            say("Weld loss: {} × {} = {}", Quantity(self.loss, "number"), dec(place.bar.thickness), self.loss * place.bar.thickness),
            say("Cut from the other bar: {}, its own loss included", other),
            stock_line(self, place),
        )

    def checks(self, place: Place) -> tuple[Check, ...]:
        """Unlike bars; fume."""
        found = [Check("note", say(_ARC if self.weld == "arc" else _FIRE), caution=True)]
        ratio = self.section.area / place.bar.area
        if self.weld == "fire" and not 0.4 <= ratio <= 2.5:
            found.append(
                Check("warn", say("The two bars are of very unlike size: the thin one burns first. Upset the thin or draw the thick."))
            )
        found.extend(limb_checks(self.beyond, self.section, place.rule))
        return (*found, *self.buried(place))

    def operations(self, place: Place) -> tuple[Operation, ...]:
        """Scarf both, weld, then what is forged on the other bar."""
        if self.weld == "arc":
            line = say("Bevel both ends, weld them end to end, grind the bead flush; let it cool slowly.")
            tools = ("arc welder", "grinder", "clamp")
            arc = Operation("weld", line, "whole", "time", 0, tools, seconds=240.0, cold=True, way="arc")
            return (*limb_operations("Other bar", self.beyond, self.section, place.rule), arc)
        line = say("Scarf both bars over {}.", self.lap)
        return (
            Operation("draw", line, "section", "time", 900, ("hammer", "anvil edge"), seconds=30.0, way="scarf"),
            _weld("Flux, weld the two bars, then draw the lap to size."),
            *limb_operations("Other bar", self.beyond, self.section, place.rule),
        )

    def summary(self) -> Line:
        """The other bar."""
        return say(f"{self.section.shape} {{}}, {{}} long", self.section.thickness, self.length)


@dataclass(frozen=True, kw_only=True)
class LaidOn(Feature):
    """A plate of another steel laid on a face and welded: edges, faces of tools.

    Args:
        plate: section of what is laid on.
        length: mm.
        own: features of what is laid on, from the A end.
    """

    kind: ClassVar[str] = "laid-on"
    title: ClassVar[str] = "Laid-on steel"
    also: ClassVar[tuple[str, ...]] = ("steeled edge", "faced", "bit", "overlay", "cladding")
    plate: Section = fields.section("Laid on", flat(12.0, 4.0), mark="section")
    length: float = fields.length("Length", 50.0, mark="length")
    own: Limbs = fields.limb("Features on it", tip="Features of what is laid on, from the feature's A end; they may not be longer than it.")

    @property
    def keen(self) -> int:
        """Return how surely it is what a tool works with, see `Feature.keen`."""
        return 4

    def fitted(self, bar: Section) -> Self:
        """As wide as the bar, a third as thick."""
        return replace(self, plate=flat(bar.width, max(bar.thickness / 3, 0.5)), length=bar.width * 4)

    def shape(self, place: Place) -> Shape:
        """The bar with the plate on its upper face."""
        if self.plate.width > 1.5 * place.bar.width:
            raise NoAnswer("The plate overhangs the bar by half its width.", "Use a narrower plate.")
        bar, plate = place.bar.blend, self.plate.blend
        on = Shape((Span(self.length, plate, plate),), (Straight(self.length),))
        if self.own:
            shapes = limb_shapes(self.own, self.plate, place.rule)
            rest = self.length - sum(s.length for s in shapes)
            if rest < 0:
                raise NoAnswer("The features of what is laid on are longer than it.", "Lengthen it, or make them shorter.")
            tail = [Shape((Span(rest, plate, plate),), (Straight(rest),))] if rest > 0 else []
            on = chained([*shapes, *tail])
        branch = Branch(0.0, bar.inner(0.0) + plate.inner(math.pi), 0.0, False, on, "laid on")
        return Shape((Span(self.length, bar, bar),), (Straight(self.length),), (), (branch,))

    def added(self, place: Place) -> float:
        """The plate, mm³."""
        return self.shape(place).branches[0].shape.volume

    def sum_lines(self, place: Place) -> tuple[Line, ...]:
        """Bar one for one; the plate apart."""
        cut = (self.added(place) + limb_removed(self.own, self.plate, place.rule)) / self.plate.area
        plate = say("Laid on: {} of its own bar = {}", cut, Quantity(self.added(place), "volume"))
        return span_sum("Bar", self.shape(place).spans[0], place.bar), plate, stock_line(self, place)

    def checks(self, place: Place) -> tuple[Check, ...]:
        """Order of hardening, fume."""
        return (
            Check("note", say(_FIRE), caution=True),
            Check("note", say("Weld on before shaping; harden and temper last, by the laid-on steel.")),
            *limb_checks(self.own, self.plate, place.rule),
        )

    def operations(self, place: Place) -> tuple[Operation, ...]:
        """Barb, weld."""
        line = say("Clean both faces, raise barbs with a chisel, tack the plate on hot.")
        return (
            Operation("draw", line, "section", "time", 900, ("chisel", "wire brush", "hammer"), seconds=30.0),
            _weld("Flux, weld the plate from the middle outwards."),
            *limb_operations("Laid on", self.own, self.plate, place.rule),
        )

    def summary(self) -> Line:
        """Plate and length."""
        return say("{} × {}, {} long", self.plate.width, self.plate.thickness, self.length)
