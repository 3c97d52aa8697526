"""What a curve uses of the bar: the bend rule along arcs, spirals and helices (computations, section 3)."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from functools import lru_cache

from long_ember.features.base import BendRule, Feature, Place, shape_of, stock_of
from long_ember.features.curves import spiral_length, spiral_turning
from long_ember.features.shape import Segment, Shape, Span, loft_doubt
from long_ember.frozen import NamedTuple
from long_ember.sections import Blend
from long_ember.units import Line, Quantity, say

__all__ = ["Depth", "bend_factor", "bend_range", "bent", "depth", "developed_line", "mean_depth", "on_arc", "on_helix", "on_spiral"]

_THINNEST = 1e-9  # mm, of the very tip of a point
_TIGHTEST, _WIDEST = 0.33, 0.5  # k of what is honest to expect where nothing is measured


class Depth(NamedTuple):
    """A section in the plane of a bend, mm.

    Args:
        whole: from the inner face to the outer.
        inner: from the inner face to the centroid; half the whole, but for half-round bar.
    """

    whole: float
    inner: float


def depth(blend: Blend, facing: float) -> Depth:
    """Depth of a section in a bend that faces `facing` degrees about the bar."""
    turn = math.radians(facing)
    return Depth(blend.across(turn), blend.inner(turn))


def mean_depth(one: Depth, other: Depth) -> Depth:
    """Half way from one to the other."""
    return Depth((one.whole + other.whole) / 2, (one.inner + other.inner) / 2)


def bend_factor(rule: BendRule, inside: float, thickness: float) -> float:
    """k in: developed length = angle·(inside radius + k·thickness).

    Args:
        rule: k-factor (0.5 from R = 2t, falling linearly to 0.33 at R = 0), centreline (0.5 always),
            inside (inside lengths plus one thickness a right angle: k = 2/π), or what a test piece told.
        inside: inside radius R, mm.
        thickness: t in the plane of the bend, mm.

    >>> bend_factor(BendRule('k-factor'), 24, 12)
    0.5
    """
    if rule.measured is not None:
        return rule.measured
    if rule.school == "inside":
        return 2 / math.pi + rule.shift
    if rule.school == "centreline":
        return 0.5 + rule.shift
    return 0.33 + 0.17 * min(max(inside, 0.0) / (2 * max(thickness, _THINNEST)), 1.0) + rule.shift


def on_arc(turn: float, inside: float, deep: Depth, rule: BendRule) -> float:
    """Bar that a round bend uses, mm: turn·(R + 2k·inner), which is R + k·t where the centroid lies in the middle.

    Args:
        turn: rad.
        inside: inside radius R, mm.
        deep: of the section in the plane of the bend.
        rule: in force.
    """
    return turn * (inside + 2 * bend_factor(rule, inside, deep.whole) * deep.inner)


def on_helix(length: float, curved: float, inside: float, deep: Depth, rule: BendRule) -> float:
    """Bar that a coil uses, mm.

    Args:
        length: of its middle line, mm.
        curved: curvature of that line, 1/mm.
        inside: radius of the mandrel, mm.
        deep: of the section in the plane of the turns.
        rule: in force.
    """
    return length - length * curved * (1 - 2 * bend_factor(rule, inside, deep.whole)) * deep.inner


@lru_cache(maxsize=256)
def on_spiral(form: str, r0: float, r1: float, angle: float, first: Depth, last: Depth, rule: BendRule) -> float:
    """Bar that a spiral uses, mm: its middle line less ∫ (1 − 2k)·inner dψ, by the midpoint rule over its turning ψ.

    Args:
        form: archimedean, logarithmic or clothoid.
        r0: radius of the middle line at the inner end, mm.
        r1: at the outer end, mm.
        angle: rad.
        first: depth of the section at the inner end; it runs evenly to `last`.
        last: at the outer end.
        rule: in force.
    """
    length = spiral_length(form, r0, r1, angle)
    if rule.measured is None and rule.school == "centreline" and not rule.shift:
        return length
    lost = 0.0
    for share, radius, turned in spiral_turning(form, r0, r1, angle):
        whole, inner = (a + (b - a) * share for a, b in zip(first, last, strict=True))
        inner = min(inner, radius)  # tighter than its own half: the bar has no inside left
        lost += (1 - 2 * bend_factor(rule, radius - inner, whole)) * inner * turned
    return length - lost


def bent(spans: Sequence[Span], path: Sequence[Segment], turns: float = 0.0) -> Shape:
    """Straight bar along a curve: thinned or swelled so that its steel is kept.

    Args:
        spans: as drawn, over the length that the curve uses.
        path: that the middle line follows.
        turns: of twist besides, spread evenly over the bar.
    """
    covered = math.fsum(span.length for span in spans)
    long = math.fsum(segment.length for segment in path) / covered
    made = (Span(s.length * long, s.start.scaled(1 / long), s.end.scaled(1 / long), s.turns + turns * s.length / covered) for s in spans)
    return Shape(tuple(made), tuple(path))


def bend_range(feature: Feature, place: Place) -> tuple[float, float]:
    """Least and greatest stock of what follows the bend rule, mm: between the tightest and the most generous k, or a measured one's spread."""
    rule = place.rule
    least, most = _TIGHTEST, _WIDEST
    if rule.measured is not None:
        least, most = rule.measured - rule.spread, rule.measured + rule.spread
    found = [stock_of(feature, place)]
    found += [_stock(feature, replace(place, rule=BendRule(rule.school, k))) for k in (least, most)]
    unsure = loft_doubt(shape_of(feature, place)) / place.steel.area
    return min(found) - unsure, max(found) + unsure


def _stock(feature: Feature, place: Place) -> float:
    """As `stock_of`, but not remembered: these places are only asked about."""
    return (feature.shape(place).volume + feature.removed(place) - feature.added(place)) / place.steel.area


def developed_line(sweep: float, inside: float, deep: Depth, place: Place, result: float) -> Line:
    """The developed length of a round bend as a sum."""
    k = bend_factor(place.rule, inside, deep.whole)
    text = "Developed: {} × 3.1416/180 × ({} + {}·{}) = {}"
    values = (Quantity(sweep, "number"), Quantity(inside, "decimal"), Quantity(k, "number"), Quantity(2 * deep.inner, "decimal"))
    return say(text, *values, result)
