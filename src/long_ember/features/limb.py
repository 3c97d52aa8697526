"""Features of a tine or of a bar welded on: a small piece from its tip inwards."""

from __future__ import annotations

import math
from dataclasses import replace

from long_ember.errors import NoAnswer
from long_ember.features.base import BendRule, Check, Feature, Operation, Place, checks_of, operations_of, places, shape_of, stock_of
from long_ember.features.shape import Shape
from long_ember.sections import Section
from long_ember.units import Line

__all__ = ["limb_checks", "limb_operations", "limb_removed", "limb_shapes", "limb_stock"]


def _placed(features: tuple[Feature, ...], bar: Section, rule: BendRule) -> list[tuple[Feature, Place]]:
    return list(zip(features, places(features, bar, rule, (True, False)), strict=True))


def limb_shapes(features: tuple[Feature, ...], bar: Section, rule: BendRule) -> list[Shape]:
    """Their forms from the tip inwards.

    Raises:
        NoAnswer: naming the one that has none.
    """
    found = []
    for i, (feature, place) in enumerate(_placed(features, bar, rule), 1):
        try:
            found.append(shape_of(feature, place))
        except NoAnswer as error:
            raise NoAnswer(f"On the tine or bar, {feature.title.lower()} {i}: {error.reason}", error.remedy) from None
    return found


def limb_stock(features: tuple[Feature, ...], bar: Section, rule: BendRule) -> float:
    """Length of `bar` they take, mm."""
    return math.fsum(stock_of(f, p) for f, p in _placed(features, bar, rule))


def limb_removed(features: tuple[Feature, ...], bar: Section, rule: BendRule) -> float:
    """Volume cut away less volume added, mm³."""
    return math.fsum(f.removed(p) - f.added(p) for f, p in _placed(features, bar, rule))


def limb_checks(features: tuple[Feature, ...], bar: Section, rule: BendRule) -> tuple[Check, ...]:
    """Their checks."""
    return tuple(c for f, p in _placed(features, bar, rule) for c in checks_of(f, p))


def _of(name: str, line: Line) -> Line:
    """A line with the limb it speaks of."""
    return Line(f"{name}: {line.text[:1].lower()}{line.text[1:]}", line.values)


def limb_operations(name: str, features: tuple[Feature, ...], bar: Section, rule: BendRule) -> tuple[Operation, ...]:
    """Their operations, each with the steel of the limb that it works on."""
    return tuple(
        replace(operation, line=_of(name, operation.line), effect="path", limbs=operation.limbs or ((feature, place),))
        for feature, place in _placed(features, bar, rule)
        for operation in operations_of(feature, place)
    )
