"""Turn a sum round: leave one size free and find it from the bar given to the feature."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace

from long_ember.errors import NoAnswer
from long_ember.features.base import Feature, Place, stock_of
from long_ember.features.fields import specs
from long_ember.sections import SHAPES, Section

__all__ = ["free_names", "root_of", "size_of", "solve_for", "with_size"]

_SCAN = 48  # places looked at between a hundredth and a hundred times the value at hand
_SPREAD = 100.0


def free_names(feature: Feature) -> tuple[str, ...]:
    """Fields that may be left free: lengths, and sections by their size."""
    return tuple(n for n, s in specs(feature).items() if s.kind == "length" or (s.kind == "section" and getattr(feature, n) is not None))


def size_of(feature: Feature, name: str) -> float:
    """A free field as one number, mm."""
    value = getattr(feature, name)
    return value.width if isinstance(value, Section) else float(value)


def with_size(feature: Feature, name: str, size: float) -> Feature:
    """The feature with a free field set; a section keeps its proportions."""
    value = getattr(feature, name)
    if not isinstance(value, Section):
        return replace(feature, **{name: size})  # type: ignore[arg-type]
    f = size / value.width
    flat = SHAPES[value.shape].two_sizes and not SHAPES[value.shape].hollow
    thick = value.thickness * f if flat else size * SHAPES[value.shape].ratio
    return replace(feature, **{name: replace(value, width=size, thickness=thick, corner=value.corner * f, wall=value.wall * f)})  # type: ignore[arg-type]


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
    """Where `excess` crosses 0, nearest to `near`; places without an answer are passed over. None when it never does."""
    sizes = sorted({near * _SPREAD ** (2 * i / _SCAN - 1) for i in range(_SCAN + 1)} | {near})
    known: list[tuple[float, float]] = []
    crossings: list[tuple[float, float, float]] = []
    for size in sizes:
        value = _tried(excess, size)
        if value is None:
            continue
        if value == 0:
            return size
        if known and (known[-1][1] < 0) != (value < 0):
            a = known[-1][0]
            crossings.append((abs(math.log(math.sqrt(a * size) / near)), a, size))
        known.append((size, value))
    if not crossings:
        return None
    _distance, low, high = min(crossings)
    return _bisected(excess, low, high)


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
