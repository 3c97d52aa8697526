"""Work on the surface and the edges: chamfers, bevels, lines, texture, touch mark."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import ClassVar, Self

from long_ember import fields
from long_ember.errors import NoAnswer
from long_ember.features.base import Check, Feature, Operation, Place, dec, span_sum, stock_line, volume_line
from long_ember.features.effort import pushed, size, trueing
from long_ember.features.shape import Shape, Span, Straight
from long_ember.frozen import dataclass
from long_ember.sections import Blend, Section
from long_ember.units import Line, Quantity, say

__all__ = ["Bevel", "Chamfer", "Surface", "folded"]


@dataclass(frozen=True, kw_only=True)
class Chamfer(Feature):
    """Edges hammered or filed off.

    Args:
        length: mm.
        leg: of each chamfer, mm.
        method: hammered (the steel goes lengthwise) or filed (it is lost).
    """

    kind: ClassVar[str] = "chamfer"
    title: ClassVar[str] = "Chamfer"
    stands: ClassVar[str] = "form"
    recuts: ClassVar[bool] = True
    also: ClassVar[tuple[str, ...]] = ("chamfered edges", "broken edges", "stopped chamfer", "arris")
    length: float = fields.length("Length", 60.0, mark="length")
    leg: float = fields.length("Leg", 2.0, tip="Of each chamfer, along the face.")
    method: str = fields.choice("Made by", "hammered", ("hammered", "hammering"), ("filed", "filing or grinding"))

    def lost(self) -> float:
        """Area of the four corners, mm²."""
        return 2 * self.leg**2

    def shape(self, place: Place) -> Shape:
        """Parallel bar with its corners broken."""
        bar = place.bar
        if bar.shape not in ("square", "flat"):
            raise NoAnswer("Chamfers need corners: square or flat bar.", "Leave them out, or change the bar.")
        if 2 * self.leg >= bar.thickness:
            raise NoAnswer("The chamfers meet in the middle of a face.", "Make the leg smaller.")
        blend = replace(bar.blend, k=(bar.blend.area - self.lost()) / (bar.width * bar.thickness))
        return Shape((Span(self.length, blend, blend),), (Straight(self.length),))

    def removed(self, place: Place) -> float:
        """Filings, mm³."""
        return self.lost() * self.length if self.method == "filed" else 0.0

    def sum_lines(self, place: Place) -> tuple[Line, ...]:
        """Section less its corners."""
        text = "({} − 2·{}²) × {}"
        values = (Quantity(place.bar.area, "area"), dec(self.leg), dec(self.length))
        return volume_line(text, self.shape(place).volume, place.bar, *values), stock_line(self, place)

    def operations(self, place: Place) -> tuple[Operation, ...]:
        """Hammer hot or file cold."""
        if self.method == "filed":
            line = say("File the edges to a leg of {} over {}.", self.leg, self.length)
            return (Operation("file", line, "whole", "time", 0, ("file", "vice"), seconds=2.0 * self.length, cold=True),)
        line = say("Hammer the edges to a leg of {} over {}, turning; stop the ends cleanly.", self.leg, self.length)
        return (Operation("draw", line, "section", "time", 800, ("hammer", "anvil", "gauge"), blows=4 * trueing(self.length), way="edges"),)

    def summary(self) -> Line:
        """Leg and length."""
        return say("{} over {}", self.leg, self.length)


@dataclass(frozen=True, kw_only=True)
class Bevel(Feature):
    """A cutting or decorative edge forged along flat bar.

    Args:
        length: mm.
        width: of the bevel across the bar, mm.
        edge: thickness left at the edge, mm.
        edges: one (the front), back, or both.
    """

    kind: ClassVar[str] = "bevel"
    title: ClassVar[str] = "Bevel"
    stands: ClassVar[str] = "form"
    recuts: ClassVar[bool] = True
    also: ClassVar[tuple[str, ...]] = ("blade", "edge", "scraper", "knife bevel", "draw knife")
    length: float = fields.length("Length", 80.0, mark="length")
    width: float = fields.length("Bevel width", 8.0, tip="Across the bar.")
    edge: float = fields.length("Edge", 1.5, mark="tip", tip="Thickness left at the edge; leave 1 mm or more to harden.")
    edges: str = fields.choice("On", "one", ("one", "the front edge"), ("back", "the back edge"), ("both", "both edges"),
                              mirror={"one": "back", "back": "one"})  # fmt: skip

    @property
    def keen(self) -> int:
        """Return how surely it is what a tool works with, see `Feature.keen`."""
        return 3

    def fitted(self, bar: Section) -> Self:
        """A third of the bar's width."""
        return replace(self, width=bar.width / 3, edge=bar.thickness / 6, length=bar.width * 5)

    def lost(self, place: Place) -> float:
        """Area drawn out of the section, mm²."""
        return self.width * (place.bar.thickness - self.edge) / 2 * (2 if self.edges == "both" else 1)

    def shape(self, place: Place) -> Shape:
        """A section of the same width, thinner on the mean."""
        bar = place.bar
        if bar.shape not in ("square", "flat"):
            raise NoAnswer("A bevel is reckoned in flat or square bar.", "Flatten the bar first.")
        if self.edge >= bar.thickness:
            raise NoAnswer("The edge is as thick as the bar.", "Make it thinner.")
        if self.width * (2 if self.edges == "both" else 1) > bar.width:
            raise NoAnswer("The bevel is wider than the bar.", "Make it narrower.")
        form = f"wedge {self.width / bar.width:.9f} {self.edge / bar.thickness:.9f} {_EDGES[self.edges]}"
        blend = replace(bar.blend, k=(bar.area - self.lost(place)) / (bar.width * bar.thickness), form=form)
        return Shape((Span(self.length, blend, blend),), (Straight(self.length),))

    def sum_lines(self, place: Place) -> tuple[Line, ...]:
        """Section less the wedge."""
        text = "({} − {}) × {}"
        values = (Quantity(place.bar.area, "area"), Quantity(self.lost(place), "area"), dec(self.length))
        return volume_line(text, self.shape(place).volume, place.bar, *values), stock_line(self, place)

    def checks(self, place: Place) -> tuple[Check, ...]:
        """A bevel curves the bar."""
        if self.edges == "both":
            return ()
        # The edge lengthens by what is drawn out of it, the back stays: curvature ≈ (ε_edge − ε_back) ÷ width.
        strain = math.log(place.bar.thickness / ((place.bar.thickness + self.edge) / 2))
        radius = place.bar.width / strain
        text = "Drawing one edge bends the bar edgeways, to a radius of {} if nothing is done: bend it the other way first."
        return (Check("note", say(text, radius)),)

    def operations(self, place: Place) -> tuple[Operation, ...]:
        """Draw the edge."""
        line = say("Forge the bevel, {} wide, down to {} at the edge; keep the back straight.", self.width, self.edge)
        return (
            Operation.drawn(
                "draw",
                place.bar,
                line,
                ("hammer", "anvil edge", "callipers"),
                way="bevel",
                blows=trueing(self.length),
            ),
        )

    def summary(self) -> Line:
        """Width and edge."""
        return say("{} wide to {}", self.width, self.edge)


_EDGES = {"one": 1, "back": -1, "both": 2}
_WORKS = (
    ("lines", "chiselled lines"), ("texture", "hammer texture"), ("touch-mark", "touch mark"), ("planish", "planished"), ("stamp", "stamps"),
    ("veins", "veins"), ("scallops", "scalloped edge"), ("dots", "sunk dots"), ("file-marks", "file marks"), ("fold", "fold: along the middle"),
)  # fmt: skip
_FACES = (
    ("up", "the upper face"), ("down", "the lower face"), ("both", "upper and lower face"), ("front", "the front edge"), ("back", "the back edge"),
    ("edges", "both edges"), ("all", "all round"),
)  # fmt: skip
_MANY = {"both": 2, "edges": 2, "all": 4}  # faces, where it is more than one


@dataclass(frozen=True, slots=True)
class _Told:
    """One work on the surface.

    Args:
        text: what to do; `{faces}` is where, `{count}` how many where it is counted.
        tools: to have at hand.
        pace: seconds for each mm of each face on a bar of 12 square.
        way: manner of the operation, "" for that of its own name.
        stop: °C below which it is left.
        each: seconds to set each one where it is counted, 0 where it is not.
    """

    text: str
    tools: tuple[str, ...]
    pace: float
    way: str = ""
    stop: int = 800
    each: float = 0.0


_TOLD = {
    "lines": _Told("Chisel the lines on {faces}, deepest first; before anything is folded over them.", ("line chisel", "soft block"), 0.8),
    "texture": _Told("Texture {faces} with the peen at falling heat, all alike.", ("peen hammer", "anvil"), 0.4),
    "touch-mark": _Told(
        "Strike the touch mark into {faces} near the end, one blow, then finish while warm.", ("touch mark", "heavy hammer"), 0.2
    ),
    "planish": _Told("Planish {faces} at falling heat, light blows, wet anvil.", ("planishing hammer", "anvil", "water"), 0.3, stop=600),
    "stamp": _Told("Stamp {count} into {faces}, spaced with dividers.", ("stamps", "dividers", "soft block"), 0.6, each=3.0),
    "veins": _Told("Chisel the veins into {faces}, the middle one first.", ("veining chisel or fuller", "soft block"), 0.5, way="veined"),
    "scallops": _Told("Fuller the edge into scallops, from the tip.", ("fuller", "anvil edge"), 0.3, way="scalloped"),
    "dots": _Told("Sink {count} into {faces}, spaced with dividers.", ("punch", "dividers", "soft block"), 0.3, way="stamp", each=2.5),
    "file-marks": _Told("File the marks across {faces}, cold, all at one angle.", ("file", "vice"), 1.5, way="file"),
    "fold": _Told(
        "Fold along the middle over the step or a swage; lines and veins are in it already.", ("swage", "soft block"), 0.4, way="folded"
    ),
}
_STAMP = 12.0  # mm³ that one stamp or dot displaces in a bar of 12 square
_WING = math.radians(30)  # each wing of a fold rises


def folded(wide: float, thick: float) -> Blend:
    """A flat folded along its middle into a V of 120 degrees: as wide as its wings leave it, as high as they rise.

    Args:
        wide: mm, of the flat.
        thick: mm.
    """
    upright = thick / math.cos(_WING)
    high = upright + wide / 2 * math.sin(_WING)
    return Blend(wide * math.cos(_WING), high, upright / high, "fold")


@dataclass(frozen=True, kw_only=True)
class Surface(Feature):
    """Work that takes time and a place in the order, but no steel.

    Args:
        work: a key of `_TOLD`.
        length: of bar, mm.
        face: which it is on.
        count: dots or stamps; 0 for as many as there is room for.
    """

    kind: ClassVar[str] = "surface"
    title: ClassVar[str] = "Surface"
    stands: ClassVar[str] = "work"
    skin: ClassVar[bool] = True
    also: ClassVar[tuple[str, ...]] = (
        "texture", "touch mark", "chiselled lines", "veins", "stamp", "planish", "hammered finish", "sunk dots", "scallops", "fold", "file marks",
    )  # fmt: skip
    work: str = fields.choice("Work", "texture", *_WORKS)
    length: float = fields.length("Length", 40.0, mark="length")
    face: str = fields.choice("On", "up", *_FACES, mirror={"front": "back", "back": "front"}, late=6)
    count: int = fields.count("How many", 0, low=0, high=1000, tip="Dots or stamps; 0 for as many as there is room for.", late=6)

    @property
    def idle(self) -> frozenset[str]:
        """Only dots and stamps are counted, and a fold is of the whole."""
        found = {"count": not (self.work in _TOLD and _TOLD[self.work].each), "face": self.work in ("fold", "scallops")}
        return frozenset(name for name, out in found.items() if out)

    def told(self) -> str:
        """The work."""
        return self.work.replace("-", " ").capitalize()

    @property
    def mouth(self) -> float:
        """The stretch that it lies on, mm."""
        return self.length

    def worked(self, blend: Blend) -> Blend:
        """Folded, a flat becomes a V; nothing else changes a section."""
        if self.work != "fold" or blend.form != "rectangle" or blend.t * 2 > blend.w or not blend.t:
            return blend
        return folded(blend.w, blend.area / blend.w)

    def shape(self, place: Place) -> Shape:
        """The bar itself, or folded."""
        blend = self.worked(place.bar.blend)
        return Shape((Span(self.length, blend, blend),), (Straight(self.length),))

    def sum_lines(self, place: Place) -> tuple[Line, ...]:
        """Bar counts one for one."""
        return span_sum("Bar", Span(self.length, place.bar.blend, place.bar.blend), place.bar), stock_line(self, place)

    def checks(self, place: Place) -> tuple[Check, ...]:
        """A fold wants a flat."""
        if self.work == "fold" and self.worked(place.bar.blend) == place.bar.blend:
            return (Check("warn", say("This is too thick to fold along its middle: flatten it to at most half its width first.")),)
        return ()

    def operations(self, place: Place) -> tuple[Operation, ...]:
        """In the order that the smith lays them."""
        told = _TOLD[self.work]
        counted = f"{self.count} {'dots' if self.work == 'dots' else 'stamps'}" if self.count else "the row"
        text = told.text.format(faces=dict(_FACES)[self.face], count=counted)
        faces, large = _MANY.get(self.face, 1), size(place.bar.blend)
        if self.work == "file-marks":
            seconds = 5 + told.pace * self.length * large * faces
            return (Operation("file", say(text), "whole", "time", 0, told.tools, seconds=seconds, cold=True),)
        way, many = told.way or self.work, (self.count or self.length / (4 * large)) * faces
        if told.each:  # each is set, and as much is sunk as it is large
            work = pushed(_STAMP * large**3) * many
            return (
                Operation("texture", say(text), "whole", "time", told.stop, told.tools, seconds=told.each * many, effort=work, way=way),
            )
        if self.work == "planish":
            blows = 2 * faces * trueing(self.length) * max(large, 1.0)
            return (Operation("texture", say(text), "whole", "time", told.stop, told.tools, seconds=3.0, blows=blows, way=way),)
        # Cut or pushed as deep as the bar is large: the time goes with length × depth.
        seconds = 3 + told.pace * self.length * large * faces
        return (Operation("texture", say(text), "whole", "time", told.stop, told.tools, seconds=seconds, way=way),)

    def summary(self) -> Line:
        """What and how long."""
        return say(f"{{}}, {dict(_FACES)[self.face]}", self.length)
