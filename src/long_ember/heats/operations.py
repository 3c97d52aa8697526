"""The piece's operations with their zone on the bar, their method, and the share of a heat each needs."""

from __future__ import annotations

import math
from dataclasses import field

from long_ember.features import ORDER_SCHOOLS, Feature, Operation, Piece, Place, Planning, Span, operations_of, shape_of, stock_of
from long_ember.frozen import dataclass
from long_ember.heats.craft import CRAFT, HELPERS, Method, methods_for
from long_ember.heats.rules import Rule
from long_ember.heats.step import Step, step_key
from long_ember.materials import MILD, Material
from long_ember.physics import FIRES, RAM, SLEDGE, Hammer, Load, Slice, draw_factor, shares, upset_factor
from long_ember.sections import Blend
from long_ember.stock import Reckoning, Zone

__all__ = ["ROUGH", "WELDS", "ForgeSettings", "fire_end", "hot_zone", "range_of_heat", "steps"]

_FACE, _THROUGH_TOOL = 0.78, 0.55  # blow efficiencies, computations, section 14
_SLICES = 8
_TOUCH = 0.01  # mm
WELDS = frozenset({"weld", "close"})
ROUGH = (0.5, 2.7)  # 90 % band of an uncalibrated shop (computations, section 15)
_COLD_TO_HOLD = 150.0  # mm of cold bar at both ends: it is held at either
_USUAL = tuple((s.key, s.options[0][0]) for s in ORDER_SCHOOLS)


@dataclass(frozen=True, slots=True)
class ForgeSettings:
    """What the heats are reckoned with.

    Args:
        hot_length: mm of bar that the fire heats evenly.
        hammer: and the arm behind it.
        fire: key of `FIRES`.
        opening: mm that the mouth of a closed forge lets through; 0 for an open hearth.
        slow: how much longer heating takes than the bare equation says (computations, section 12).
        irons: bars in the fire at once.
        overhead: s a heat for reaching, looking, putting down.
        ram: kg of a power hammer's falling mass, 0 for none.
        striker: somebody swings a sledge.
        kit: keys of what the shop has; None: everything but a striker and a power hammer.
        schools: key and choice, see `ORDER_SCHOOLS`.
        own: rules of the shop's own, as `Rule`s.
        band: least and greatest of what a plan may take, as multiples; see computations, section 15.
        measured: by how much this smith's logged work takes longer than reckoned.
        curve: share of the minutes that a piece takes when twice as many have been made.
    """

    hot_length: float = 200.0
    hammer: Hammer = field(default_factory=Hammer)
    fire: str = "gas"
    opening: float = 0.0
    slow: float = 1.8
    irons: int = 1
    overhead: float = 25.0
    ram: float = 0.0
    striker: bool = False
    kit: frozenset[str] | None = None
    schools: tuple[tuple[str, str], ...] = _USUAL
    own: tuple[Rule, ...] = ()
    band: tuple[float, float] = ROUGH
    measured: float = 1.0
    curve: float = 0.9

    def __post_init__(self) -> None:
        if self.fire not in FIRES:
            raise ValueError(f"no such fire: {self.fire}")

    @property
    def able(self) -> frozenset[str] | None:
        """The kit with who and what strikes."""
        helpers = {name for name, there in zip(HELPERS, (self.striker, self.ram > 0), strict=True) if there}
        return frozenset(self.kit | helpers) if self.kit is not None else None if not helpers else _EVERYTHING | helpers

    @property
    def rough(self) -> bool:
        """Nothing is logged yet."""
        return self.band == ROUGH

    def strikers(self, strikes: str) -> tuple[Hammer, ...]:
        """Hammers at work: the smith's, a striker's beside it, or the ram."""
        if strikes == "ram":
            return (Hammer(self.ram or RAM.mass, RAM.speed, RAM.tempo, RAM.duty, self.hammer.skill),)
        return (self.hammer, SLEDGE) if strikes == "striker" else (self.hammer,)

    def school(self, planning: Planning, key: str) -> str:
        """The side taken in a school: the piece's, or else the shop's."""
        chosen: str = getattr(planning, key)
        return chosen if chosen != "shop" else dict(self.schools).get(key, "")


_EVERYTHING = frozenset(n for craft in CRAFT.values() for m in craft.methods for n in m.needs if n not in HELPERS)


def steps(piece: Piece, reckoning: Reckoning, forge: ForgeSettings) -> tuple[Step, ...]:
    """All operations in bar order; those whose shares of a heat are not known yet are reckoned in one pass."""
    kept = _shares(piece, reckoning, forge)
    ranks = {s.id: i for i, s in enumerate(piece.standing, 1) if s.feature.skin}
    found: list[Step] = []
    for i, (zone, needs) in enumerate(zip(reckoning.all_zones, kept, strict=True)):
        position, over, seat = (i, 0, float(i)) if i < len(reckoning.zones) else _seated(zone, reckoning)
        for order, (operation, (need, method)) in enumerate(zip(operations_of(zone.feature, zone.place), needs, strict=True)):
            rank = ranks.get(zone.feature.id, 0)
            found.append(Step(len(found), position, zone.feature, operation, order, zone.start, zone.end, need, method, over, seat, rank))
    return tuple(found)


def _seated(zone: Zone, reckoning: Reckoning) -> tuple[int, int, float]:
    """What a standing feature stands on: position of the feature at its middle, a bit for each that it covers, and where among them."""
    middle = (zone.start + zone.end) / 2
    over, host, seat = 0, 0, 0.0
    for i, below in enumerate(reckoning.zones):
        if below.start < zone.end - _TOUCH and below.end > zone.start + _TOUCH:
            over |= 1 << i
        if below.start <= middle <= below.end:
            host, seat = i, i + 0.98 * ((middle - below.start) / max(below.length, _TOUCH) - 0.5)
    return host, over or 1 << host, seat


_Shares = tuple[tuple[float, Method], ...]


def _shares(piece: Piece, reckoning: Reckoning, forge: ForgeSettings) -> list[_Shares]:
    """Shares of a heat with the method, kept with each feature for the place, material, bench and planning at hand."""
    found: list[_Shares] = []
    fresh: list[tuple[int, list[Method], list[Load | None]]] = []
    steel, planning = piece.steel, piece.planning
    for i, zone in enumerate(reckoning.all_zones):
        kept = zone.feature.__dict__.get("_shares")
        if (
            kept is not None
            and kept[0] is zone.place
            and kept[1] is steel
            and kept[3] is planning
            and (kept[2] is forge or kept[2] == forge)
        ):
            found.append(kept[4])
            continue
        operations = operations_of(zone.feature, zone.place)
        methods = [_method(zone.feature, n, o, piece, forge) for n, o in enumerate(operations)]
        loads = [_load(zone.feature, zone.place, o, m, steel, forge) for o, m in zip(operations, methods, strict=True)]
        fresh.append((i, methods, loads))
        found.append(())
    needs = iter(shares([load for _i, _m, loads in fresh for load in loads if load is not None], steel.carbon, steel.flow))
    for i, methods, loads in fresh:
        zone = reckoning.all_zones[i]
        longest = (zone.stock or zone.length) / forge.hot_length - 0.15
        operations = operations_of(zone.feature, zone.place)
        found[i] = tuple(
            (_need(operation, next(needs) * forge.measured if load is not None else None, longest, steel), method)
            for operation, method, load in zip(operations, methods, loads, strict=True)
        )
        zone.feature.__dict__["_shares"] = (zone.place, steel, forge, planning, found[i])
    return found


def _need(operation: Operation, share: float | None, longest: float, material: Material) -> float:
    if operation.cold:
        return 0.0
    if operation.verb in WELDS and not material.weld:
        return math.inf
    return max(share or 0.0, longest)


def _method(feature: Feature, order: int, operation: Operation, piece: Piece, forge: ForgeSettings) -> Method:
    """The smith's own choice, or the school's, or the first that the kit allows."""
    key, planning = step_key(feature, order), piece.planning
    wanted = next((p.method for p in planning.methods if p.step == key), "")
    if not wanted and operation.manner in ("bend", "head"):
        wanted = forge.school(planning, {"bend": "bends", "head": "heads"}[operation.manner])
    return methods_for(operation.manner, forge.able, wanted, piece.bar.area)[0]


def range_of_heat(operation: Operation, material: Material) -> tuple[float, float]:
    """Temperatures that the heat model works with, °C: the material's own, or mild steel's by likeness where it has no model."""
    weld = operation.verb in WELDS
    if not material.modelled:
        return MILD.start, float(operation.stop_below)
    return (material.weld if weld else material.start), material.stop(operation.stop_below, weld=weld)


def hot_zone(start: float, end: float, cut: float, thickness: float) -> tuple[float, float]:
    """The length of bar to heat: the zone and one thickness each side, within the bar. mm from end A."""
    return max(0.0, start - thickness), min(cut, end + thickness)


def fire_end(low: float, high: float, cut: float) -> str:
    """End that goes into the fire for a hot zone, A or B; "" where the bar is long enough to hold either. mm from end A."""
    if min(low, cut - high) >= _COLD_TO_HOLD:
        return ""
    return "A" if cut - high >= low else "B"


def _perimeter(blend: Blend) -> float:
    # Exact for squares, flats, rounds and regular polygons, whose perimeter is 4·area/size.
    return 2 * (blend.w + blend.t) * blend.k


def _load(feature: Feature, place: Place, operation: Operation, method: Method, material: Material, forge: ForgeSettings) -> Load | None:
    """What an operation asks of a heat; None for cold work and for welds that can't be."""
    if operation.cold or (operation.verb in WELDS and not material.weld):
        return None
    start, stop = range_of_heat(operation, material)
    bar, length = place.bar, stock_of(feature, place)
    hammers = forge.strikers(method.strikes)
    efficiency = _FACE if operation.work == "draw" else _THROUGH_TOOL
    power, rate = sum(h.power(efficiency) for h in hammers), sum(h.rate for h in hammers)
    hot = min(length + 2 * bar.thickness, forge.hot_length)
    if operation.work != "time":
        return Load(start, stop, tuple(_slices(feature, place, operation)), power, rate, 0.0, hot, bar.thickness)
    thin = min((span.start.toward(span.end, 0.5) for span in shape_of(feature, place).spans), key=lambda b: b.area)
    blend = thin.toward(bar.blend, 0.5)
    mean = Slice(0.0, blend.area, _perimeter(blend), 0.0, 0.0)
    return Load(start, stop, (mean,), power, rate, operation.seconds * method.pace, hot, bar.thickness)


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
    # Work ÷ flow stress in mm³, at half duty (computations, section 14).
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
