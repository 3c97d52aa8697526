"""The piece's operations with their zone on the bar, their method, and the share of a heat each needs."""

from __future__ import annotations

import itertools
import math
from collections.abc import Generator
from dataclasses import field, replace
from functools import lru_cache

from long_ember.beliefs import PRIOR, Belief
from long_ember.features import (
    BLACK,
    ORDER_SCHOOLS,
    WHOLE,
    Feature,
    Operation,
    Outer,
    Piece,
    Place,
    Planning,
    Shape,
    Span,
    operations_of,
    shape_of,
    stock_of,
)
from long_ember.frozen import NamedTuple, dataclass
from long_ember.geometry import tip_of
from long_ember.heats.craft import CRAFT, HELPERS, Method, methods_for
from long_ember.heats.rules import Rule
from long_ember.heats.step import Step, step_key
from long_ember.materials import MILD, Material
from long_ember.physics import FIRES, RAM, SLEDGE, Hammer, Load, Slice, draw_factor, lying, shares, strain, upset_factor
from long_ember.sections import Blend
from long_ember.stock import Reckoning, Sawing, Zone
from long_ember.units import own_words, say

__all__ = ["COLD_TO_HOLD", "WELDS", "Door", "ForgeSettings", "fire_end", "hot_zone", "range_of_heat", "stepping"]

_FACE, _THROUGH_TOOL = 0.78, 0.55  # blow efficiencies, computations, section 14
_SLICES = 8
_TOUCH = 0.01  # mm
_OWN = 1000  # number, within its feature, of the first of the smith's own operations
_LESS, _FLAT, _NO_STRAIN = 0.98, 1.3, 1e-3
WELDS = frozenset({"weld", "close"})
_CURVE, _KIN = 0.9, 0.97  # usual share of the minutes when twice as many have been made, and twice as many others with the same work
_FINISH = 700  # °C for mild steel: trueing and rounding go on below the drawing heat
COLD_TO_HOLD = 100.0  # mm of cold bar at both ends, room for tongs clear of the heat: it is held at either
_USUAL = tuple((s.key, s.options[0][0]) for s in ORDER_SCHOOLS)


class Door(NamedTuple):
    """What a closed forge lets in, mm.

    Args:
        height: least side of its mouth; 0 for an open hearth.
        width: the other side; 0 for the same.
        depth: from the mouth to the back wall; 0 where the bar can go out at the back.
    """

    height: float = 0.0
    width: float = 0.0
    depth: float = 0.0

    @property
    def widest(self) -> float:
        """Its longer side, mm."""
        return max(self.width, self.height)


class Practised(NamedTuple):
    """What a smith has made before.

    Args:
        number: which of its kind the next one is, from 1.
        kinds: manners of work, and how many other pieces were made with each.
    """

    number: int = 1
    kinds: tuple[tuple[str, int], ...] = ()


@dataclass(frozen=True, slots=True)
class ForgeSettings:
    """What the heats are reckoned with.

    Args:
        hot_length: mm of bar that the fire heats evenly.
        hammer: and the arm behind it.
        fire: key of `FIRES`.
        door: what a closed forge lets in; of no size for an open hearth.
        slow: how much longer heating takes than the bare equation says (computations, section 12).
        irons: bars in the fire at once.
        overhead: s a heat for reaching, looking, putting down.
        ram: kg of a power hammer's falling mass, 0 for none.
        striker: somebody swings a sledge.
        touch: a touch mark is struck into every piece.
        kit: keys of what the shop has; None: everything but a striker and a power hammer.
        schools: key and choice, see `ORDER_SCHOOLS`.
        own: rules of the shop's own, as `Rule`s.
        belief: what is held of the figures in doubt: this smith's work and pace, this fire's scale.
        measured: the same from those entries of the log alone that measured a length, a size or a mass; None: as `belief`.
        sawing: which length is sawn, and how sure it is to be.
        practised: what the smith has made before.
    """

    hot_length: float = 200.0
    hammer: Hammer = field(default_factory=Hammer)
    fire: str = "gas"
    door: Door = Door()
    slow: float = 1.8
    irons: int = 1
    overhead: float = 25.0
    ram: float = 0.0
    striker: bool = False
    touch: bool = False
    kit: frozenset[str] | None = None
    schools: tuple[tuple[str, str], ...] = _USUAL
    own: tuple[Rule, ...] = ()
    belief: Belief = PRIOR
    measured: Belief | None = None
    sawing: Sawing = Sawing()
    practised: Practised = Practised()

    def __post_init__(self) -> None:
        if self.fire not in FIRES:
            raise ValueError(f"no such fire: {self.fire}")

    @property
    def able(self) -> frozenset[str] | None:
        """The kit with who and what strikes."""
        return _able(self.kit, self.striker, self.ram > 0)

    @property
    def lengths(self) -> Belief:
        """What lengths are reckoned with: heats that nobody measured a length with say nothing of one."""
        return self.belief if self.measured is None else self.measured

    @property
    def curve(self) -> float:
        """Share of the minutes that a piece takes when twice as many have been made."""
        return float(min(max(_CURVE * 2.0 ** self.belief.of("practice"), 0.6), 1.0))

    @property
    def kin(self) -> float:
        """Share of the minutes when twice as many other pieces have been made with the same manner of work."""
        return float(min(max(_KIN * 2.0 ** self.belief.of("kin"), 0.8), 1.0))

    def sawn(self, piece: Piece) -> Sawing:
        """The length that is sawn of a piece: its own choice, or the shop's."""
        own = piece.allowances.saw
        return self.sawing if own in ("shop", self.sawing.choice) else self.sawing._replace(choice=own)

    def strikers(self, strikes: str) -> tuple[Hammer, ...]:
        """Hammers at work: the smith's, a striker's beside it, or the ram."""
        return _striking(self.hammer, self.ram, strikes)

    def school(self, planning: Planning, key: str) -> str:
        """The side taken in a school: the piece's, or else the shop's."""
        chosen: str = getattr(planning, key)
        return chosen if chosen != "shop" else dict(self.schools).get(key, "")


def _striking(hammer: Hammer, ram: float, strikes: str) -> tuple[Hammer, ...]:
    if strikes == "ram":
        return (Hammer(ram or RAM.mass, RAM.speed, RAM.tempo, RAM.duty, hammer.skill),)
    return (hammer, SLEDGE) if strikes == "striker" else (hammer,)


@lru_cache(maxsize=128)
def _strength(hammer: Hammer, ram: float, strikes: str, face: bool) -> tuple[float, float]:
    """Useful W, averaged over the heat, and blows a second of all that strike; under the face, or through a tool."""
    hammers = _striking(hammer, ram, strikes)
    return sum(h.power(_FACE if face else _THROUGH_TOOL) for h in hammers), sum(h.rate for h in hammers)


@lru_cache(maxsize=64)
def _able(kit: frozenset[str] | None, *there: bool) -> frozenset[str] | None:
    helpers = {name for name, here in zip(HELPERS, there, strict=True) if here}
    return frozenset(kit | helpers) if kit is not None else None if not helpers else _EVERYTHING | helpers


_EVERYTHING = frozenset(n for craft in CRAFT.values() for m in craft.methods for n in m.needs if n not in HELPERS)


def stepping(piece: Piece, reckoning: Reckoning, forge: ForgeSettings) -> Generator[None, None, tuple[Step, ...]]:
    """All operations in bar order, in portions; those whose shares of a heat are not known yet are reckoned in one pass."""
    kept = yield from _shares(piece, reckoning, forge)
    yield
    own = _own(piece, reckoning, forge) if piece.planning.own or forge.touch else {}
    ranks = {s.id: i for i, s in enumerate(piece.standing, 1) if s.feature.skin}
    found: list[Step] = []
    for i, (zone, needs) in enumerate(zip(reckoning.all_zones, kept, strict=True)):
        position, over, seat = (i, 0, float(i)) if i < len(reckoning.zones) else _seated(zone, reckoning)
        nearer = "A" if zone.start <= reckoning.cut - zone.end else "B"
        for order, (asked, shared) in enumerate(zip(operations_of(zone.feature, zone.place), needs, strict=True)):
            need, window, method, effort, least = shared
            rank, operation = ranks.get(zone.feature.id, 0), _as_done(asked, method)
            # What is rolled up is rolled from its tip, whatever lies beyond.
            begins = tip_of(zone.feature) if operation.effect == "path" and isinstance(zone.feature, Outer) else nearer
            step = Step(
                len(found), position, zone.feature, operation, order, zone.start, zone.end, need, window, method, over, seat, rank,
                effort, least, begins,
            )  # fmt: skip
            if least > 1 and operation.goes <= 1 and operation.effect == "section" and not operation.limbs:
                step = step._replace(pace=_pace(zone, operation, begins))
            found.append(step)
        for turn, (operation, need, window) in enumerate(own.get(zone.feature.id, ())):
            method = _method(zone.feature, _OWN + turn, operation, piece, forge)
            found.append(
                Step(
                    len(found),
                    position,
                    zone.feature,
                    operation,
                    _OWN + turn,
                    zone.start,
                    zone.end,
                    need,
                    window,
                    method,
                    over,
                    seat,
                    0,
                    need,
                )
            )
    if reckoning.zones:
        first, everything = reckoning.zones[0], (1 << len(reckoning.zones)) - 1
        for turn, (operation, need, window) in enumerate(own.get(WHOLE, ())):
            method = _method(first.feature, _OWN + turn, operation, piece, forge)
            found.append(
                Step(
                    len(found), 0, first.feature, operation, _OWN + turn, 0.0, reckoning.cut, need, window, method, everything, 0.0, 0, need
                )
            )
    return tuple(found)


def _pace(zone: Zone, operation: Operation, begins: str) -> tuple[tuple[float, float], ...]:
    """See `Step.pace`: the thin end of a taper takes little steel and much work. What is slit or welded on is no section of the bar."""
    if zone.shape.branches or zone.feature.added(zone.place) > 0:
        return ()
    slices = _slices(zone.feature, zone.place, operation)[:: 1 if begins == "A" else -1]
    work = list(itertools.accumulate((s.volume * s.strain * s.factor for s in slices), initial=0.0))
    steel = list(itertools.accumulate((s.volume for s in slices), initial=0.0))
    return tuple((w / work[-1], s / steel[-1]) for w, s in zip(work, steel, strict=True)) if work[-1] > 0 else ((0.0, 0.0), (1.0, 1.0))


def _own(piece: Piece, reckoning: Reckoning, forge: ForgeSettings) -> dict[str, list[tuple[Operation, float, float]]]:
    """The smith's own operations by the feature that they are done on, each with its share of a heat and its window.

    What was done on a feature that is gone is done on the whole piece.
    """
    places = {z.feature.id: z.place for z in reckoning.all_zones}
    zones = {z.feature.id: (z.start, z.end) for z in reckoning.all_zones}
    found: dict[str, list[tuple[Operation, float, float]]] = {}
    hot: list[tuple[str, Operation, Load | None]] = []
    asked = [
        (work.on, work.operation(place))
        for work in piece.planning.own
        if (place := places.get(work.on) or (reckoning.zones[0].place if reckoning.zones else None)) is not None
    ]
    for on, operation in (*asked, *_touch(piece, reckoning, forge)):
        place = places.get(on) or reckoning.zones[0].place
        start, stop = range_of_heat(operation, piece.steel)
        low, high = zones.get(on, (0.0, reckoning.cut))
        bar, seconds = place.bar, operation.seconds + operation.blows / forge.hammer.rate
        section = bar.area, bar.perimeter, lying(bar.width, bar.thickness)
        long = min(high - low + 2 * bar.thickness, forge.hot_length)
        load = Load(start, stop, (), 1.0, 1.0, seconds, stop, section, long, bar.thickness)
        hot.append((on if on in places else WHOLE, operation, None if operation.cold else load))
    needs = iter(shares([load for _on, _o, load in hot if load is not None], piece.steel.carbon, piece.steel.flow))
    for on, operation, hot_load in hot:
        share, window = next(needs) if hot_load is not None else (0.0, 0.0)
        found.setdefault(on, []).append((operation, share, window))
    return found


def _touch(piece: Piece, reckoning: Reckoning, forge: ForgeSettings) -> list[tuple[str, Operation]]:
    """The shop's touch mark, on the widest feature that is worked hot, where the piece has none of its own and it is not waived."""
    marked = any(getattr(z.feature, "work", "") == "touch-mark" for z in reckoning.all_zones)
    worked = [z for z in reckoning.zones if any(not o.cold for o in operations_of(z.feature, z.place))]
    if not forge.touch or marked or piece.planning.touch != "shop" or not worked:
        return []
    widest = max(worked, key=lambda z: max(max(s.start.w, s.end.w) for s in z.shape.spans))
    line = say(own_words(f"Strike the touch mark into the {widest.feature.title.lower()}, one blow, then finish while it is warm."))
    tools = ("touch mark", "heavy hammer")
    return [
        (
            widest.feature.id,
            Operation("texture", line, "", "time", 800, tools, seconds=5.0, way="touch-mark", own="touch", called="Touch mark"),
        )
    ]


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


_AT_ONCE = 10  # features whose loads are found in one portion
_Shares = tuple[tuple[float, float, Method, float, float], ...]  # need, window, method, effort, least: see `Step`


def _shares(piece: Piece, reckoning: Reckoning, forge: ForgeSettings) -> Generator[None, None, list[_Shares]]:
    """Shares of a heat with their windows and the method, kept with each feature for the place, material, bench and planning at hand."""
    found: list[_Shares] = []
    fresh: list[tuple[int, list[Method], list[Load | None]]] = []
    steel, planning, work = piece.steel, piece.planning, forge.belief.times("work")
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
        asked = operations_of(zone.feature, zone.place)
        methods = [_method(zone.feature, n, o, piece, forge) for n, o in enumerate(asked)]
        operations = [_as_done(o, m) for o, m in zip(asked, methods, strict=True)]
        loads = [_load(zone.feature, zone.place, o, m, steel, forge) for o, m in zip(operations, methods, strict=True)]
        fresh.append((i, methods, loads))
        found.append(())
        if len(fresh) % _AT_ONCE == 0:
            yield
    needs = iter(shares([load for _i, _m, loads in fresh for load in loads if load is not None], steel.carbon, steel.flow))
    for i, methods, loads in fresh:
        zone = reckoning.all_zones[i]
        longest = max(zone.stock or zone.length, zone.shape.length) / forge.hot_length - 0.15  # as it comes, or as it becomes
        found[i] = tuple(
            _shared(_as_done(operation, method), share * work if share is not None else 0.0, longest, steel, window, method)
            for operation, method, load in zip(operations_of(zone.feature, zone.place), methods, loads, strict=True)
            for share, window in (next(needs) if load is not None else (None, 0.0),)
        )
        zone.feature.__dict__["_shares"] = (zone.place, steel, forge, planning, found[i])
    return found


def _shared(
    operation: Operation, effort: float, longest: float, material: Material, window: float, method: Method
) -> tuple[float, float, Method, float, float]:
    if operation.cold:
        return 0.0, window, method, 0.0, 0.0
    if operation.verb in WELDS and not material.weld:
        return math.inf, window, method, math.inf, math.inf
    parts = float(math.ceil(longest)) if longest > 1 else longest  # what is longer than the fire is done in parts, each whole
    least = max(parts, float(operation.goes) if operation.goes > 1 else 0.0)
    return max(effort, least), window, method, effort, least


def _method(feature: Feature, order: int, operation: Operation, piece: Piece, forge: ForgeSettings) -> Method:
    """The smith's own choice, or the school's, or the first that the kit allows."""
    planning, wanted = piece.planning, ""
    if planning.methods:
        key = step_key(feature, order)
        wanted = next((p.method for p in planning.methods if p.step == key), "")
    if not wanted and operation.manner in ("bend", "head"):
        wanted = forge.school(planning, {"bend": "bends", "head": "heads"}[operation.manner])
    return methods_for(operation.manner, forge.able, wanted, piece.bar.area)[0]


def _as_done(operation: Operation, method: Method) -> Operation:
    """The operation as its method does it: a cold method takes no heat, and only its handling and sawing take time."""
    return operation if not method.cold or operation.cold else _cold(operation, method)


@lru_cache(maxsize=512)
def _cold(operation: Operation, method: Method) -> Operation:
    return replace(operation, cold=True, seconds=operation.seconds + operation.blows + method.handle(operation.settings), blows=0.0)


def range_of_heat(operation: Operation, material: Material) -> tuple[float, float]:
    """Temperatures that the heat model works with, °C: the material's own, or mild steel's by likeness where it has no model."""
    weld = operation.verb in WELDS
    if operation.black:
        return BLACK
    if not material.modelled:
        return MILD.start, float(operation.stop_below)
    return (material.weld if weld else material.start), material.stop(operation.stop_below, weld=weld)


def hot_zone(start: float, end: float, cut: float, thickness: float) -> tuple[float, float]:
    """The length of bar to heat: the zone and one thickness each side, within the bar. mm from end A."""
    return max(0.0, start - thickness), min(cut, end + thickness)


def fire_end(low: float, high: float, cut: float) -> str:
    """End that goes into the fire for a hot zone, A or B; "" where the bar is long enough to hold either. mm from end A."""
    if min(low, cut - high) >= COLD_TO_HOLD:
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
    skill, (power, rate) = forge.hammer.skill, _strength(forge.hammer, forge.ram, method.strikes, operation.work == "draw")
    worked = operation.limbs or ((feature, place),)
    feature, place = worked[0]
    shape, bar = shape_of(feature, place), place.bar
    hot = min(stock_of(feature, place) + 2 * bar.thickness, forge.hot_length)
    section = _between(shape, bar.blend)
    slices = [s for one, there in worked for s in _slices(one, there, operation)]
    if operation.effort:
        slices.append(Slice(operation.effort, section[0], section[1], 1.0, 1.0, section[2]))
    # A weld is made by the first light blows, whoever strikes them.
    hands = operation.seconds if operation.verb in WELDS else (operation.seconds * method.pace + method.handle(operation.settings)) / skill
    seconds = hands + operation.blows / forge.hammer.rate
    finish = min(stop, material.stop(_FINISH)) if operation.work == "draw" else stop
    return Load(start, stop, tuple(slices), power, rate, seconds, finish, section, hot, bar.thickness)


def _between(shape: Shape, bar: Blend) -> tuple[float, float, float]:
    """Area, perimeter and lie of a section half way from the bar to the mean of a form: that is what cools while it is worked."""
    middles = [(s.start if s.start is s.end else s.start.toward(s.end, 0.5), s.length) for s in shape.spans]
    if len(middles) == 1:
        stout = middles[0][0]
        area, perimeter = stout.area, _perimeter(stout)
    else:
        area = math.fsum([b.area * length for b, length in middles]) / shape.length
        perimeter = math.fsum([_perimeter(b) * length for b, length in middles]) / shape.length
        stout = max(middles, key=lambda m: m[0].area * m[1])[0]
    stout = stout.toward(bar, 0.5)
    return (area + bar.area) / 2, (perimeter + _perimeter(bar)) / 2, lying(stout.w, stout.t)


def _slices(feature: Feature, place: Place, operation: Operation) -> list[Slice]:
    """Steel that is displaced; none where the operation says its effort itself."""
    if operation.work == "time":
        return []
    bar, spans = place.bar, shape_of(feature, place).spans
    if operation.work == "draw":
        return [s for span in spans for s in _shaped(span, bar.blend)]
    before, after = stock_of(feature, place), shape_of(feature, place).length
    return [Slice(before * bar.area, bar.area, bar.perimeter, math.log(max(before / after, 1.0)), upset_factor(bar.thickness, after))]


def _shaped(span: Span, bar: Blend) -> list[Slice]:
    """A span in slices, each with the strain of its way from the bar: drawn thinner, or widened, or flattened at the same area.

    What is both narrowed and thinned, the width by more, is narrowed first, on edge, and then thinned: both ways count.
    """
    found = []
    before = _sides(bar)
    count = 1 if span.start is span.end or span.start == span.end else _SLICES
    for i in range(count):
        blend = span.start.toward(span.end, (i + 0.5) / count)
        if blend.area <= 0:
            continue
        after = _sides(blend)
        narrowed = after[0] < before[0] * _LESS and after[1] < before[1] * _LESS
        way = [before, (after[0], before[1]), after] if narrowed and before[0] / before[1] > _FLAT else [before, after]
        strained = strain(way[0], way[1]) + (strain(way[1], way[2]) if len(way) > 2 else 0.0)
        if strained < _NO_STRAIN:
            continue
        mean = bar.toward(blend, 0.5)
        factor = draw_factor(mean.w, mean.t, widens=after[0] > before[0])
        found.append(Slice(blend.area * span.length / count, mean.area, _perimeter(mean), strained, factor, lying(mean.w, mean.t)))
    return found


def _sides(blend: Blend) -> tuple[float, float]:
    """Width and thickness of the rectangle of the same proportions and area: only then does drawing a square round the same come to ln(A₀/A₁)."""
    root = math.sqrt(blend.area / (blend.w * blend.t))
    return blend.w * root, blend.t * root
