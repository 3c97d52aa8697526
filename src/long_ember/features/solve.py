"""Turn a sum round: leave one size free and find it from the bar given to the feature."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace
from typing import Any

from long_ember.errors import NoAnswer
from long_ember.features.base import Feature, Place, stock_of
from long_ember.fields import Length, Number, specs

__all__ = ["free_names", "root_of", "size_of", "solve_for", "with_size"]

_SCAN = 48  # places looked at between a hundredth and a hundred times the value at hand
_SPREAD = 100.0
_CLOSE = (0.0, -0.12, -0.07, -0.04, -0.02, -0.01, 0.01, 0.02, 0.04, 0.07, 0.12)  # looked at more closely about the value at hand


def free_names(feature: Feature) -> tuple[str, ...]:
    """Fields that may be left free: lengths, and sections by their size; then angles, turns and other numbers."""
    free = [
        (name, spec) for name, spec in specs(feature).items() if name not in feature.idle and spec.size(getattr(feature, name)) is not None
    ]
    return tuple(name for name, _spec in sorted(free, key=lambda one: isinstance(one[1], Number) and not isinstance(one[1], Length)))


def size_of(feature: Feature, name: str) -> float:
    """A free field as one number, in mm or its own unit."""
    return specs(feature)[name].size(getattr(feature, name)) or 0.0


def with_size(feature: Feature, name: str, size: float) -> Feature:
    """The feature with a free field set; a section keeps its proportions."""
    changes: dict[str, Any] = {name: specs(feature)[name].with_size(getattr(feature, name), size)}
    return replace(feature, **changes)


def solve_for(feature: Feature, place: Place, name: str, stock: float) -> Feature:
    """The feature with the field `name` changed so that it takes `stock` mm of bar.

    Args:
        feature: with a value in the field, where the search begins.
        place: where it stands.
        name: one of `free_names`.
        stock: bar given to it, mm.

    Raises:
        NoAnswer: when no size of the field takes just that much bar.
    """
    label = specs(feature)[name].label.lower()

    def excess(size: float) -> float:
        return stock_of(with_size(feature, name, size), place) - stock

    size = root_of(excess, size_of(feature, name) or place.bar.thickness)
    if size is None:
        raise NoAnswer(
            f"No {label} makes this {feature.title.lower()} take just that much bar.", "Leave another size free, or give it another length."
        )
    return with_size(feature, name, size)


def root_of(excess: Callable[[float], float], near: float) -> float | None:
    """Where `excess` crosses 0, nearest to `near`. None when it never does.

    Sizes without an answer are passed over, and the edge of what has an answer is looked for, since a crossing may lie just inside it.
    """
    wide = {near * _SPREAD ** (2 * i / _SCAN - 1) for i in range(_SCAN + 1)}
    sizes = sorted(wide | {near * (1 + share) for share in _CLOSE})
    known: list[tuple[float, float]] = []
    crossings: list[tuple[float, float, float]] = []
    before: tuple[float, float | None] | None = None
    for size in sizes:
        value = _tried(excess, size)
        steps = [(size, value)]
        if before is not None and (before[1] is None) != (value is None):
            steps.insert(0, _edge(excess, before, (size, value)))
        before = (size, value)
        for at, there in steps:
            if there is None:
                known.clear()
                continue
            if there == 0:
                return at
            if known and (known[-1][1] < 0) != (there < 0):
                crossings.append((abs(math.log(math.sqrt(known[-1][0] * at) / near)), known[-1][0], at))
            known.append((at, there))
    if not crossings:
        return None
    _distance, low, high = min(crossings)
    found = _bisected(excess, low, high)
    return None if found is None else _plain(found)


def _edge(
    excess: Callable[[float], float], one: tuple[float, float | None], other: tuple[float, float | None]
) -> tuple[float, float | None]:
    """The last size with an answer between one that has it and one that has not."""
    good, bad = (one, other) if one[1] is not None else (other, one)
    for _ in range(36):
        middle = (good[0] + bad[0]) / 2
        value = _tried(excess, middle)
        if value is None:
            bad = (middle, None)
        else:
            good = (middle, value)
    return good


def _plain(size: float) -> float:
    """A root that is a plain figure but for rounding, as that figure."""
    for digits in range(5):
        if abs(round(size, digits) - size) <= 1e-10 * abs(size):
            return round(size, digits)
    return size


def _tried(excess: Callable[[float], float], size: float) -> float | None:
    try:
        return excess(size)
    except NoAnswer:
        return None


def _bisected(excess: Callable[[float], float], low: float, high: float) -> float | None:
    below = excess(low) < 0
    for _ in range(80):
        middle = (low + high) / 2
        value = _tried(excess, middle)
        if value is None:
            return None
        if (value < 0) == below:
            low = middle
        else:
            high = middle
        if high - low <= 1e-13 * high:
            break
    return (low + high) / 2
