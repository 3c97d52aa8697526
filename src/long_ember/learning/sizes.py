"""What a measured size of a finished piece says of the figures in doubt (computations, section 15)."""

from __future__ import annotations

import math
from dataclasses import replace
from typing import Any

from long_ember.beliefs import number_of
from long_ember.errors import NoAnswer
from long_ember.features import Feature, Piece, Place, stock_of
from long_ember.features.spread import Spread
from long_ember.features.twist import Twist
from long_ember.fields import Length, specs
from long_ember.records import Sized, Told
from long_ember.stock import influences, usual_figure
from long_ember.stock.trial import capture_measured, shortening_measured

__all__ = ["measurable", "told_by"]

_READ = 0.5  # mm that a length is read wrong with a rule
_CALLIPERS = 0.3  # mm that a width is read wrong
# How far one piece lies from the next, besides: of k, of the shortening, of the capture (as for test pieces).
_BETWEEN = {"bend": 0.03, "twist": 0.05, "capture": 0.03}
_BEND = number_of("bend")


def measurable(feature: Feature) -> list[tuple[str, str, float]]:
    """Sizes of a feature that can be measured when it is cold: field, label, and what is planned, mm."""
    known = ((name, spec.label, getattr(feature, name)) for name, spec in specs(feature).items() if isinstance(spec, Length))
    return [(name, label, float(value)) for name, label, value in known if name not in feature.idle and value]


def told_by(piece: Piece, size: Sized) -> Told | None:
    """What one size says, by what was planned with; None where it says nothing of a figure in doubt.

    Args:
        piece: as it was reckoned when its bar was marked, see `believed`.
        size: that was measured.
    """
    try:
        feature, place = piece.found(size.feature)
    except KeyError:
        return None
    try:
        if isinstance(feature, Twist) and size.name == "length":
            return _twisted(feature, place, size)
        if isinstance(feature, Spread) and size.name == "width":
            return _spread(feature, place, size)
        if feature.curves and size.name in ("radius", "inside"):
            return _curved(feature, place, size)
        return _leg(piece, size)
    except NoAnswer:  # nothing that could have come of this plan
        return None


def _twisted(feature: Twist, place: Place, size: Sized) -> Told:
    before = feature.before(place)
    section = feature.section(place)
    share, other = (shortening_measured(section, feature.turns, before, size.value + by) for by in (0.0, _READ))
    return _told("twist", share - usual_figure(feature, "shortening"), other - share, size)


def _spread(feature: Spread, place: Place, size: Sized) -> Told:
    share, other = (capture_measured(place.bar, size.value + by, feature.thickness) for by in (0.0, _CALLIPERS))
    return _told("capture", share - usual_figure(feature, "capture"), other - share, size)


def _curved(feature: Feature, place: Place, size: Sized) -> Told | None:
    """The bar in the curve is what was marked: a wider curve has taken less bar for its size, so k is smaller than the rule has it there."""
    sizes: list[dict[str, Any]] = [{size.name: mm} for mm in (size.planned, size.value, size.value + _CALLIPERS)]
    marked, came, read = (stock_of(replace(feature, **one), place) for one in sizes)
    slope = _slope(replace(feature, **sizes[1]), place)
    return _told("bend", place.rule.shift + (marked - came) / slope, abs(read - came) / slope, size) if slope else None


def _leg(piece: Piece, size: Sized) -> Told | None:
    """A straight length beside one curve: what it is longer the curve has taken less."""
    at = piece.index(size.feature)
    if at < 0 or size.name != "length" or piece.features[at].kind != "run":
        return None
    beside = [i for i in (at - 1, at + 1) if 0 <= i < len(piece.features) and piece.features[i].curves]
    if len(beside) != 1:
        return None
    slope = _slope(piece.features[beside[0]], piece.place(beside[0]))
    return _told("bend", piece.rule.shift - (size.value - size.planned) / slope, _READ / slope, size) if slope else None


def _slope(feature: Feature, place: Place) -> float:
    return math.fsum(i.slope for i in influences(feature, place) if i.factor == _BEND)


def _told(factor: str, value: float, read: float, size: Sized) -> Told:
    words = f"{size.title}: {size.label.lower()}"
    return Told(factor=factor, value=value, deviation=min(math.hypot(read, _BETWEEN[factor]), 1.0), words=words)
