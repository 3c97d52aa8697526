"""The piece's operations with their zone on the bar and the share of a heat each needs."""

from __future__ import annotations

import math
from dataclasses import dataclass, field
from typing import NamedTuple

from long_ember.features import Feature, Operation, Piece, Place, Span, operations_of, shape_of, stock_of
from long_ember.materials import MILD, Material
from long_ember.physics import Hammer, Slice, draw_factor, heats_of_work, upset_factor, window
from long_ember.sections import Blend
from long_ember.stock import Reckoning

__all__ = ["WELDS", "Bench", "Step", "hot_zone", "range_of_heat", "steps"]

_FACE, _THROUGH_TOOL = 0.78, 0.55  # blow efficiencies, heat model section 3
_SLICES = 8
WELDS = frozenset({"weld", "close"})


@dataclass(frozen=True, slots=True)
class Bench:
    """What the heats are reckoned with.

    Args:
        hot_length: mm of bar that the fire heats evenly.
        hammer: and the arm behind it.
    """

    hot_length: float = 200.0
    hammer: Hammer = field(default_factory=Hammer)


class Step(NamedTuple):
    """One operation of one feature; a named tuple, since dozens are made at every keystroke.

    Args:
        number: position in the list of all operations; order rules refer to it.
        position: of the feature in the piece.
        feature: the feature.
        operation: what is done.
        order: of the operation within its feature.
        start: mm from end A of the bar, scale allowance left out, where its zone begins.
        end: where it ends.
        need: share of a heat; more than 1 takes several. Infinite: too thin to work at all.
    """

    number: int
    position: int
    feature: Feature
    operation: Operation
    order: int
    start: float
    end: float
    need: float


def steps(piece: Piece, reckoning: Reckoning, bench: Bench) -> tuple[Step, ...]:
    """All operations in bar order."""
    found: list[Step] = []
    for i, zone in enumerate(reckoning.zones):
        needs = _needs(zone.feature, zone.place, piece.steel, bench)
        for order, (operation, need) in enumerate(zip(operations_of(zone.feature, zone.place), needs, strict=True)):
            found.append(Step(len(found), i, zone.feature, operation, order, zone.start, zone.end, need))
    return tuple(found)


def _needs(feature: Feature, place: Place, material: Material, bench: Bench) -> tuple[float, ...]:
    """Shares of a heat, kept with the feature for the place, material and bench at hand."""
    kept = feature.__dict__.get("_shares")
    if kept is None or kept[0] is not place or kept[1] is not material or (kept[2] is not bench and kept[2] != bench):
        shares = tuple(_need(feature, place, o, material, bench) for o in operations_of(feature, place))
        kept = (place, material, bench, shares)
        feature.__dict__["_shares"] = kept
    found: tuple[float, ...] = kept[3]
    return found


def range_of_heat(operation: Operation, material: Material) -> tuple[float, float]:
    """Temperatures that the heat model works with, °C: the material's own, or mild steel's by likeness where it has no model."""
    weld = operation.verb in WELDS
    if not material.modelled:
        return MILD.start, float(operation.stop_below)
    return (material.weld if weld else material.start), material.stop(operation.stop_below, weld=weld)


def hot_zone(step: Step, cut: float, thickness: float) -> tuple[float, float]:
    """The length of bar to heat: the zone and one thickness each side, within the bar. mm from end A."""
    return max(0.0, step.start - thickness), min(cut, step.end + thickness)


def _perimeter(blend: Blend) -> float:
    # Exact for squares, flats, rounds and regular polygons, whose perimeter is 4·area/size.
    return 2 * (blend.w + blend.t) * blend.k


def _need(feature: Feature, place: Place, operation: Operation, material: Material, bench: Bench) -> float:
    if operation.cold:
        return 0.0
    if operation.verb in WELDS and not material.weld:
        return math.inf
    (start, stop), carbon, bar = range_of_heat(operation, material), material.carbon, place.bar
    length = stock_of(feature, place)
    if operation.work == "time":
        thin = min((span.start.toward(span.end, 0.5) for span in shape_of(feature, place).spans), key=lambda b: b.area)
        blend = thin.toward(bar.blend, 0.5)
        seconds = window(start, stop, blend.area, _perimeter(blend), min(length + 2 * bar.thickness, bench.hot_length),
                         bar.thickness, carbon)  # fmt: skip
        need = operation.seconds / seconds if seconds > 0 else math.inf
    else:
        power = bench.hammer.power(_FACE if operation.work == "draw" else _THROUGH_TOOL)
        need = heats_of_work(_slices(feature, place, operation), start, stop, carbon, power) * material.flow
    return max(need, length / bench.hot_length - 0.15)


def _slices(feature: Feature, place: Place, operation: Operation) -> list[Slice]:
    bar, spans = place.bar, shape_of(feature, place).spans
    if operation.work == "draw":
        return [s for span in spans for s in _drawn(span, bar.blend)]
    if operation.work == "upset":
        before, after = stock_of(feature, place), shape_of(feature, place).length
        factor = upset_factor(bar.thickness, after)
        return [Slice(before * bar.area, bar.area, bar.perimeter, math.log(max(before / after, 1.0)), factor)]
    hole = shape_of(feature, place).voids[0]
    t = bar.thickness if hole.axis == "thickness" else bar.width
    area, round_ = math.pi * hole.diameter**2 / 4, math.pi * hole.diameter
    # Work ÷ flow stress in mm³, at half duty (heat model, section 3).
    effort = 2 * (2 / 3 * area * t * 3 * 1.3 + 0.5 * round_ * (t / 3) ** 2 * 0.7)
    return [Slice(effort, bar.area, bar.perimeter, 1.0, 1.0)]


def _drawn(span: Span, bar: Blend) -> list[Slice]:
    found = []
    for i in range(_SLICES):
        blend = span.start.toward(span.end, (i + 0.5) / _SLICES)
        if blend.area >= bar.area * 0.9999:
            continue
        mean = bar.toward(blend, 0.5)
        factor = draw_factor(mean.w, mean.t)
        strain = math.log(bar.area / blend.area)
        found.append(Slice(blend.area * span.length / _SLICES, mean.area, _perimeter(mean), strain, factor))
    return found
