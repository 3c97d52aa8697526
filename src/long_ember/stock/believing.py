"""A piece as the log has taught to reckon it, and what each figure in doubt does to its bar (computations, section 8)."""

from __future__ import annotations

import contextlib
from dataclasses import replace
from typing import Any

from long_ember.beliefs import FACTORS, FIELDS, Belief, number_of
from long_ember.errors import NoAnswer
from long_ember.features import BendRule, Feature, Piece, Place, remembered, stock_of
from long_ember.fields import Number, specs
from long_ember.frozen import NamedTuple

__all__ = ["Influence", "believed", "influences", "usual_figure", "usual_of"]

_STEP = 0.02  # of k, either way, for the difference
_AHEAD = 0.004  # of shares
_OWN = 0.03  # standard deviation of a share that the smith has typed for one feature
_SHIFTED = ("bend", *FIELDS.values())


class Influence(NamedTuple):
    """What a figure in doubt does to the bar that a feature takes.

    Args:
        factor: number of the factor that stands for all of its kind; −1 for a figure of its own.
        slope: mm of bar for one unit of the factor.
        deviation: of a figure of its own, its standard deviation; 0 for a factor's.
        name: of the field, "" for the bend rule.
    """

    factor: int
    slope: float
    deviation: float = 0.0
    name: str = ""


def usual_of(feature: Feature, name: str) -> bool:
    """Whether a figure is as the program proposes it: then it is the shop's, and what the log teaches holds for it."""
    return bool(getattr(feature, name) == usual_figure(feature, name))


def usual_figure(feature: Feature, name: str) -> float:
    """The figure that the program proposes for a field, in its unit."""
    found: float = type(feature).__dataclass_fields__[name].default  # type: ignore[assignment]
    return found


def believed(piece: Piece, belief: Belief) -> Piece:
    """The piece with the figures that the log has taught in the place of the usual ones; the piece itself where it has taught none.

    What the smith has typed for one feature, or measured on a test piece for this piece alone, stays.
    """
    if not any(belief.of(key) for key in _SHIFTED):
        return piece
    kept = piece.__dict__.get("_believed")
    if kept is None or kept[0] != belief.mean:
        made = replace(
            piece, lean=belief.of("bend"), features=tuple(_shifted(f, belief) for f in piece.features),
            standing=tuple(replace(s, feature=_shifted(s.feature, belief)) for s in piece.standing),
        )  # fmt: skip
        with contextlib.suppress(NoAnswer):
            made.verify()
            kept = piece.__dict__["_believed"] = (belief.mean, made)
        if kept is None or kept[0] != belief.mean:  # taught so, it has no form: then it stays as it is planned
            kept = piece.__dict__["_believed"] = (belief.mean, piece)
    found: Piece = kept[1]
    return found


def _shifted(feature: Feature, belief: Belief) -> Feature:
    """A feature with what was taught; a copy in any case, because a feature keeps its answers for one place at a time."""
    kept = feature.__dict__.get("_believed")
    if kept is None or kept[0] != belief.mean:
        changes: dict[str, Any] = {}
        known = specs(feature)
        for name, key in FIELDS.items():
            if name in known and usual_of(feature, name):
                value = getattr(feature, name)
                value = value * belief.times(key) if FACTORS[number_of(key)].multiple else value + belief.of(key)
                spec = known[name]
                assert isinstance(spec, Number)
                changes[name] = min(max(value, spec.low), spec.high)
        made = replace(feature, **changes)
        made.__dict__["_usual"] = frozenset(changes)
        kept = feature.__dict__["_believed"] = (belief.mean, made)
    found: Feature = kept[1]
    return found


@remembered
def influences(feature: Feature, place: Place) -> tuple[Influence, ...]:
    """What the figures in doubt do to a feature's bar, by differences through its own reckoning; kept with the feature."""
    found = list[Influence]()
    if feature.curves:
        rule = place.rule
        around = [
            _stock(feature, replace(place, rule=BendRule(rule.school, None if rule.measured is None else rule.measured + d, rule.spread,
                                                         rule.shift + d)))
            for d in (-_STEP, _STEP)
        ]  # fmt: skip
        slope = (around[1] - around[0]) / (2 * _STEP)
        if rule.measured is None:
            found.append(Influence(number_of("bend"), slope))
        else:
            found.append(Influence(-1, slope, max(rule.spread / 2, 0.005)))
    known = specs(feature)
    for name, key in FIELDS.items():
        if name in known:
            slope = _slope(feature, place, name)
            if abs(slope) > 1e-9:
                number = number_of(key)
                multiple = getattr(feature, name) if FACTORS[number].multiple else 1.0
                usual = name in feature.__dict__["_usual"] if "_usual" in feature.__dict__ else usual_of(feature, name)
                found.append(Influence(number, slope * multiple, 0.0, name) if usual else Influence(-1, slope, _OWN, name))
    return tuple(found)


def _slope(feature: Feature, place: Place, name: str) -> float:
    """mm of bar for one more of a figure: by a small step up, or down where there is none."""
    value: float = getattr(feature, name)
    spec = specs(feature)[name]
    assert isinstance(spec, Number)
    for at in (min(value + _AHEAD, spec.high), max(value - _AHEAD, spec.low)):
        if at != value:
            with contextlib.suppress(NoAnswer):
                return (_stock(_varied(feature, name, at), place) - stock_of(feature, place)) / (at - value)
    return 0.0


def _varied(feature: Feature, name: str, value: float) -> Feature:
    """A feature with one figure a little different, within its limits: it is only asked for its bar, and the rest was checked before."""
    made = object.__new__(type(feature))
    own = feature.__dict__
    made.__dict__.update({key: own[key] for key in type(feature).__dataclass_fields__ if key in own})
    made.__dict__[name] = value
    return made


def _stock(feature: Feature, place: Place) -> float:
    """As `stock_of`, but not remembered: these are only asked about."""
    try:
        return (feature.shape(place).volume + feature.removed(place) - feature.added(place)) / place.steel.area
    except NoAnswer:
        return stock_of(feature, place)
