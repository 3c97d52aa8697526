"""Splits: a bar cut into two tines and opened (computations, section 6)."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import replace
from typing import Any, ClassVar, Self

from long_ember import fields
from long_ember.errors import NoAnswer
from long_ember.features.base import Check, DrawnTo, Operation, Outer, Place, dec, place_of, shape_of, stock_line
from long_ember.features.effort import STRAIGHTEN, bend_moment, finishing, pushed
from long_ember.features.limb import Limbs, limb_checks, limb_operations, limb_removed, limb_shapes, limb_stock
from long_ember.features.shape import Arc, Branch, Shape, Span, Straight, chained
from long_ember.features.turning import bent, depth, on_arc
from long_ember.frozen import dataclass
from long_ember.sections import Blend, Section, flat
from long_ember.units import Line, Quantity, say

__all__ = ["Split"]

_NO_ROOT = 0.05  # mm; a root shorter than that is none
_SLENDER, _SLENDER_LOADED = 40.0, 25.0  # longest tine in thicknesses, and where it carries something
_ALONG = 20.0  # mm that a hot chisel is set along
_BEFORE = frozenset({"upset", "weld", "spread", "setdown", "draw", "split", "punch", "texture"})  # while the tine is straight


@dataclass(frozen=True, kw_only=True)
class Split(Outer):
    """An end cut along the bar and opened to a Y or a T.

    Args:
        cut: length of the cut, mm.
        kerf: width lost in the cut, mm; a hot chisel loses almost nothing.
        across: which way the tines open: the thickness (up and down) or the width (front and back).
        angle: each tine opens from straight, degrees; 45 makes a Y, 90 a T.
        radius: inside radius where a tine turns, mm.
        tip: section each tine without features of its own is drawn to, None leaves it.
        upper: features of the upper (front) tine from its tip inwards.
        lower: features of the lower (back) tine.
        root: solid bar behind the crotch that is worked with it, mm.
        method: chisel (hot) or saw (cold).
        carries: nothing, or load where something hangs or rests on its tines.
    """

    kind: ClassVar[str] = "split"
    title: ClassVar[str] = "Split"
    stands: ClassVar[str] = "form"
    recuts: ClassVar[bool] = True
    of_bar: ClassVar[tuple[str, ...]] = ("toward", "root")
    also: ClassVar[tuple[str, ...]] = ("tines", "fork", "Y", "T", "fishtail split", "slit", "forked end", "cradle", "arms")
    named: ClassVar[Mapping[str, Mapping[str, Any]]] = {"t": {"angle": 90.0}}
    cut: float = fields.length("Cut", 60.0, mark="length", tip="Length of the cut, on the bar.")
    kerf: float = fields.length("Kerf", 1.0, zero=True, tip="Lost in the cut: a saw takes 1 to 2 mm, a hot chisel almost nothing.")
    across: str = fields.choice("Opens", "thickness", ("thickness", "up and down"), ("width", "front and back"))
    angle: float = fields.angle("Each opens", 45.0, low=1.0, high=120.0, tip="45 makes a Y, 90 a T.")
    radius: float = fields.length("Inside radius", 6.0, zero=True)
    tip: Section | None = fields.section("Tip section", None, optional=True, tip="What each tine is drawn to; empty leaves it.")
    upper: Limbs = fields.limb("Upper tine", tip="Features of the tine that opens up, or to the front, from its tip inwards.")
    lower: Limbs = fields.limb("Lower tine", tip="Features of the tine that opens down, or to the back, from its tip inwards.")
    root: float = fields.length("Root", 8.0, tip="Solid bar behind the crotch that is worked with it.")
    method: str = fields.choice("Cut by", "chisel", ("chisel", "hot chisel"), ("saw", "sawing, cold"), late=6)
    carries: str = fields.choice("Carries", "nothing", ("nothing", "nothing"), ("load", "something rests or hangs on the tines"), late=6)

    def fitted(self, bar: Section) -> Self:
        """Cut five thicknesses deep."""
        ratio = bar.thickness / 12
        return replace(self, cut=60 * ratio, radius=6 * ratio, root=8 * ratio)

    def standing(self) -> Self:
        """On steel that is drawn already, which is its root."""
        return replace(self, root=_NO_ROOT / 5)

    def mirrored(self) -> Self:
        """Where the tines open to the sides, the front one becomes the back one."""
        made = super().mirrored()
        return replace(made, upper=made.lower, lower=made.upper) if self.across == "width" else made

    def tine(self, place: Place) -> Blend:
        """The section of each tine as cut: half of what the kerf leaves."""
        bar = place.bar.blend
        depth = bar.t if self.across == "thickness" else bar.w
        if self.kerf >= depth:
            raise NoAnswer("The kerf is as wide as the bar.", "Make the kerf smaller.")
        if place.bar.form_is_round:
            raise NoAnswer("A split is reckoned in square, flat, hexagon and octagon bar.", "Flatten the end first.")
        half = (depth - self.kerf) / 2
        k = bar.k  # each half keeps its share of the outline
        return replace(bar, t=half, k=k) if self.across == "thickness" else replace(bar, w=half, k=k)

    def tine_bar(self, place: Place) -> Section:
        """The tine as a bar of its own, for the features on it: flat, of the tine's size and area."""
        tine = self.tine(place)
        return flat(tine.w * tine.k, tine.t) if tine.w * tine.k >= tine.t else flat(tine.t, tine.w * tine.k)

    def _furnished(self, place: Place, facing: float, features: Limbs) -> Shape:
        """A tine with features of its own: they begin at its tip, plain bar makes up the rest, then it turns away from the crotch."""
        bar, turn = self.tine_bar(place), math.radians(self.angle)
        deep = depth(bar.blend, math.degrees(facing))
        used = on_arc(turn, self.radius, deep, place.rule)
        rest = self.cut - limb_stock(features, bar, place.rule) - used
        if rest < 0:
            raise NoAnswer("The cut is too short for the features of its tine.", "Cut deeper, or make them smaller.")
        root = bent((Span(used, bar.blend, bar.blend),), (Arc(turn * (self.radius + deep.inner), turn, facing),))
        plain = [Shape((Span(rest, bar.blend, bar.blend),), (Straight(rest),))] if rest > 0 else []
        return chained([*limb_shapes(features, bar, place.rule), *plain, root]).mirrored()

    def _tine_shape(self, place: Place, facing: float, features: Limbs = ()) -> Shape:
        """One tine from the crotch outwards: it turns away, then runs on, drawn to its tip."""
        if features:
            return self._furnished(place, facing, features)
        start = self.tine(place)
        end = self.tip.blend if self.tip else start
        span = Span(1.0, start, end)
        length = self.cut * start.area / span.volume  # volume is kept when the tine is drawn
        turn, deep = math.radians(self.angle), depth(start, math.degrees(facing))
        used = on_arc(turn, self.radius, deep, place.rule)
        if used >= length:
            raise NoAnswer("The tines are too short to open that far round that radius.", "Cut deeper, or make the radius smaller.")
        there = start.toward(end, used / length)
        root = bent((Span(used, start, there),), (Arc(turn * (self.radius + deep.inner), turn, facing),))
        return chained([root, Shape((Span(length - used, there, end),), (Straight(length - used),))])

    def _tines(self, place: Place) -> tuple[tuple[Shape, Limbs], ...]:
        """Form and own features of the upper and of the lower tine."""
        upper, lower = shape_of(self, place).branches
        return (upper.shape, self.upper), (lower.shape, self.lower)

    def tip_first(self, place: Place) -> Shape:
        """The root, and two tines that leave its outer end."""
        bar, tine = place.bar.blend, self.tine(place)
        facing = 0.0 if self.across == "thickness" else math.pi / 2
        off = (tine.t if self.across == "thickness" else tine.w) / 2 + self.kerf / 2
        branches = []
        for sign, name in ((1, "upper"), (-1, "lower")):
            # Run toward the tip the front changes sides, so the tine that leaves to the front turns to the back of its own frame.
            own = facing if sign > 0 else facing + math.pi
            if self.across == "width":
                own = facing + math.pi if sign > 0 else facing
            up, front = (sign * off, 0.0) if self.across == "thickness" else (0.0, sign * off)
            branches.append(Branch(0.0, up, front, True, self._tine_shape(place, own, self.upper if sign > 0 else self.lower), name))
        return Shape((Span(self.root, bar, bar),), (Straight(self.root),), (), tuple(branches))

    def _lengths(self, place: Place) -> tuple[float, float]:
        """Of the upper and the lower tine as forged, mm."""
        (upper, _own), (lower, _lower) = self._tines(place)
        return upper.length, lower.length

    def removed(self, place: Place) -> float:
        """The kerf, and what the tines' own features take, mm³."""
        kerf = max(self.cut * (place.bar.area - 2 * self.tine(place).area), 0.0)
        return kerf + sum(limb_removed(f, self.tine_bar(place), place.rule) for f in (self.upper, self.lower))

    def sum_lines(self, place: Place) -> tuple[Line, ...]:
        """Each tine's section and length."""
        tine = self.tine(place)
        round_about = 2 * math.sqrt(tine.area / math.pi)
        area = Quantity(tine.area, "area")
        return (
            say("Each tine: {} × {} = {}, as much as {} round", dec(tine.w), dec(tine.t), area, round_about),
            say("Forged, the upper is {} long from the crotch, the lower {}", *self._lengths(place)),
            *(() if self.root < _NO_ROOT else (say("Root and cut: {} + {} = {}", self.root, self.cut, self.root + self.cut),)),
            stock_line(self, place),
        )

    def checks(self, place: Place) -> tuple[Check, ...]:
        """Thin tines, the crotch."""
        tine, found = self.tine(place), []
        least = min(tine.w, tine.t)
        longest = max(self._lengths(place))
        if longest > (_SLENDER_LOADED if self.carries == "load" else _SLENDER) * least:
            text = "Tines of {} are thin for their length of {}: they sag hot and bend in use."
            found.append(Check("warn", say(text, least, longest)))
        text = "Drill a hole where the cut ends or round the chisel's corner: a sharp crotch tears. Never work the crotch below orange."
        found.append(Check("note", say(text)))
        for own in (self.upper, self.lower):
            found.extend(limb_checks(own, self.tine_bar(place), place.rule))
        return (*found, *self.buried(place))

    def spots(self, place: Place) -> tuple[tuple[float, str], ...]:
        """Where the cut ends."""
        share = self.cut / (self.cut + self.root)
        return ((share if self.toward == "A" else 1 - share, "centre pop, cut ends"),)

    def operations(self, place: Place) -> tuple[Operation, ...]:
        """Split, draw the tines, open."""
        if self.method == "saw":
            line = say("Saw {} down the middle, cold; drill where the cut ends first.", self.cut)
            split = Operation(
                "split", line, "section", "time", 0, ("saw", "vice", "centre punch"), seconds=2.0 * self.cut, cold=True, way="saw"
            )
        else:
            line = say("Split {} from both sides, on a cutting plate.", self.cut)
            tools = ("hot chisel or saw", "cutting plate", "centre punch")
            # The chisel leaves a wedge a quarter as wide as the bar is thick.
            work = pushed(place.bar.thickness**2 * self.cut / 8)
            split = Operation("split", line, "section", "time", 850, tools, effort=work, settings=self.cut / _ALONG)
        tine = self.tine_bar(place)
        opening = 2 * bend_moment(tine.blend, tine.thickness if self.across == "thickness" else tine.width, self.angle)
        opened = say("Open each tine {}; dress the crotch over the anvil edge.", Quantity(self.angle, "angle"))
        found = [split]
        if self.tip:
            line = say(f"Draw each tine to {self.tip.shape} {{}}.", self.tip.thickness)
            drawn, bar = finishing(self.tip.shape, self.cut), place_of(self.tine_bar(place), True, False, place.rule)
            tines = tuple((DrawnTo(drawn=shape), bar) for shape, own in self._tines(place) if not own)
            found.append(Operation.drawn("draw", bar.bar, line, ("hammer", "anvil edge"), limbs=tines, blows=2 * drawn))
        names = ("Upper tine", "Lower tine") if self.across == "thickness" else ("Front tine", "Back tine")
        own = [
            o
            for name, limb in zip(names, (self.upper, self.lower), strict=True)
            for o in limb_operations(name, limb, self.tine_bar(place), place.rule)
        ]
        found.extend(o for o in own if o.verb in _BEFORE)
        found.append(
            Operation(
                "bend", opened, "whole", "time", 880, ("fork or vice", "hammer"), settings=2, effort=opening, blows=STRAIGHTEN, way="open"
            )
        )
        return (*found, *(o for o in own if o.verb not in _BEFORE))

    def summary(self) -> Line:
        """Cut and angle."""
        return say("{} deep, {} each way", self.cut, Quantity(self.angle, "angle"))
