"""Features of a tine or of a bar welded on: a small piece from its tip inwards, with what is laid on its drawn bar."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import replace

from long_ember.errors import NoAnswer
from long_ember.features.base import BendRule, Check, Feature, Operation, Place, checks_of, operations_of, places, shape_of, stock_of
from long_ember.features.composing import Composition, composed
from long_ember.features.shape import Shape
from long_ember.features.standing import Standing
from long_ember.sections import Section
from long_ember.units import Line

__all__ = ["Limbs", "limb_checks", "limb_operations", "limb_removed", "limb_shapes", "limb_stock"]

Limbs = tuple[Feature | Standing, ...]  # features of the row from the tip inwards, and what is laid on them, anywhere among them


def _row(parts: Limbs, bar: Section, rule: BendRule) -> list[tuple[Feature, Place]]:
    features = [p for p in parts if isinstance(p, Feature)]
    return list(zip(features, places(features, bar, rule, (True, False)), strict=True))


def _composed(parts: Limbs, bar: Section, rule: BendRule) -> Composition | None:
    """What is laid on a limb, on its drawn bar; None where nothing is.

    Raises:
        NoAnswer: something has no form, or can't stand where it is wanted.
    """
    standing = [p for p in parts if isinstance(p, Standing)]
    if not standing:
        return None
    row = [(f, shape_of(f, p)) for f, p in _row(parts, bar, rule)]
    if not row:
        raise NoAnswer("Nothing is drawn there yet that anything could stand on.", "Add bar first.")
    return composed(row, standing, rule)


def _placed(parts: Limbs, bar: Section, rule: BendRule) -> Iterator[tuple[Feature, Place]]:
    """Everything with its place: the row, then what stands on it."""
    yield from _row(parts, bar, rule)
    composition = _composed(parts, bar, rule)
    for stand in composition.stands if composition is not None else ():
        yield stand.feature, stand.place


def limb_shapes(parts: Limbs, bar: Section, rule: BendRule) -> list[Shape]:
    """Their forms from the tip inwards.

    Raises:
        NoAnswer: naming the one that has none, or that can't stand where it is wanted.
    """
    found = []
    for i, (feature, place) in enumerate(_row(parts, bar, rule), 1):
        try:
            found.append(shape_of(feature, place))
        except NoAnswer as error:
            raise NoAnswer(f"On the tine or bar, {feature.title.lower()} {i}: {error.reason}", error.remedy) from None
    try:
        composition = _composed(parts, bar, rule)
    except NoAnswer as error:
        raise NoAnswer(f"On the tine or bar: {error.reason}", error.remedy) from None
    return found if composition is None else [shape for _identity, shape in composition.shapes]


def limb_stock(parts: Limbs, bar: Section, rule: BendRule) -> float:
    """Length of `bar` they take, mm: what is laid on takes none."""
    return math.fsum(stock_of(f, p) for f, p in _row(parts, bar, rule))


def limb_removed(parts: Limbs, bar: Section, rule: BendRule) -> float:
    """Volume cut away less volume added, mm³."""
    return math.fsum(f.removed(p) - f.added(p) for f, p in _placed(parts, bar, rule))


def limb_checks(parts: Limbs, bar: Section, rule: BendRule) -> tuple[Check, ...]:
    """Their checks."""
    return tuple(c for f, p in _placed(parts, bar, rule) for c in checks_of(f, p))


def _of(name: str, line: Line) -> Line:
    """A line with the limb it speaks of."""
    return Line(f"{name}: {line.text[:1].lower()}{line.text[1:]}", line.values)


def limb_operations(name: str, parts: Limbs, bar: Section, rule: BendRule) -> tuple[Operation, ...]:
    """Their operations, each with the steel of the limb that it works on."""
    return tuple(
        replace(operation, line=_of(name, operation.line), effect="path", limbs=operation.limbs or ((feature, place),))
        for feature, place in _placed(parts, bar, rule)
        for operation in operations_of(feature, place)
    )
