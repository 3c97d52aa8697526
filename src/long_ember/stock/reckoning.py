"""From a piece to its cut length, zones, marks and mass."""

from __future__ import annotations

import math
from collections.abc import Generator, Mapping
from dataclasses import replace
from functools import cached_property

import numpy as np

from long_ember.arrays import Array, quantile
from long_ember.beliefs import FACTORS, NINE_TENTHS, PRIOR, Belief, normal_draws, number_of
from long_ember.features import Check, Feature, Piece, Place, Shape, checks_of, loft_doubt, range_of, shape_of, stock_of
from long_ember.frozen import NamedTuple, dataclass
from long_ember.stock.believing import influences
from long_ember.units import Line, Quantity, say

__all__ = ["Doubt", "Reckoning", "Sawing", "Zone", "odds", "reckon", "round_up", "with_scale"]

_SCALE, _WORK, _SAW = (number_of(key) for key in ("scale", "work", "saw"))
_NEWTON, _MOST_TAKEN = 6, 3.0
_TYPED = 0.25  # ln: a figure that the smith has typed is no certainty
_PARTED = 0.3  # standard deviation of what parting takes, as a share of it; the judgement of this program


class Zone(NamedTuple):
    """The interval of the cold bar that becomes one feature. mm from end A of the cut bar, scale allowance included."""

    feature: Feature
    place: Place
    start: float
    end: float
    stock: float
    scale: float

    @property
    def length(self) -> float:
        """Length marked on the bar, mm."""
        return self.end - self.start

    @property
    def shape(self) -> Shape:
        """The feature's finished form."""
        return shape_of(self.feature, self.place)


@dataclass(frozen=True, slots=True)
class Doubt:
    """One thing that makes the cut length uncertain.

    Args:
        name: of it.
        low: mm of bar that it is good for at least in 9 of 10 pieces.
        likely: mm that is reckoned with.
        high: mm at most.
        factor: number of the factor that it hangs on, −1 for one of its own.
        slope: mm for one unit of the factor.
        deviation: of one of its own, its standard deviation, mm.
    """

    name: str
    low: float
    likely: float
    high: float
    factor: int = -1
    slope: float = 0.0
    deviation: float = 0.0


class Sawing(NamedTuple):
    """The length that is sawn.

    Args:
        choice: likely or safe.
        confidence: share of pieces that the safe length is enough for.
        margin: mm that the shop adds to it.
    """

    choice: str = "likely"
    confidence: float = 0.95
    margin: float = 0.0


@dataclass(frozen=True)
class Reckoning:
    """The answer about the bar.

    Args:
        zones: in order from end A.
        standing: what bends and pierces the drawn bar, each over the bar that it covers; it takes none of its own.
        finished: finished volume, mm³.
        removed: volume cut away, mm³.
        added: volume brought by other bars, mm³.
        scale: volume lost to scale, mm³.
        trim: mm at each end.
        parting: mm.
        doubts: what makes the cut length uncertain.
        density: g/mm³.
        ruler: mm; the likely length is rounded up to it.
        area: of the bar, mm².
        belief: what is held of the factors in doubt.
        sawing: which length is sawn.
        growth: power of the work by which scale grows: 1 where all of it comes from work of several heats.
        scale_own: ln, standard deviation of a scale that is the smith's own figure, or measured for this piece; None: as is held of the fire.
        spare: end at which what is sawn beyond the likely length lies: there it is trimmed.
    """

    zones: tuple[Zone, ...]
    finished: float
    removed: float
    added: float
    scale: float
    trim: float
    parting: float
    doubts: tuple[Doubt, ...]
    density: float
    ruler: float
    area: float
    standing: tuple[Zone, ...] = ()
    belief: Belief = PRIOR
    sawing: Sawing = Sawing()
    growth: float = 1.0
    scale_own: float | None = None
    spare: str = "B"

    @cached_property
    def all_zones(self) -> tuple[Zone, ...]:
        """Zones of the bar, and of what stands on it."""
        return (*self.zones, *self.standing)

    @cached_property
    def scaling(self) -> tuple[float, float]:
        """Bar that scales, mm, and the share of it that all heats take, as a logarithm: scale is bar·(exp(share) − 1), as for each zone."""
        grown = [(z.stock, z.scale) for z in self.zones if z.scale > 0]
        if not grown:
            return 0.0, 0.0
        # The same scale, and the same rise where a heat takes more.
        whole = math.fsum(g for _s, g in grown)
        rise = math.fsum((s + g) * math.log1p(g / s) for s, g in grown) / whole
        taken = max(2 * (rise - 1), 1e-9)
        for _round in range(_NEWTON):
            taken = max(taken - (taken / -math.expm1(-taken) - rise) / _steep(taken), 1e-9)
        return whole / math.expm1(taken), taken

    @cached_property
    def bare(self) -> float:
        """Cut length by volume alone, mm."""
        return math.fsum(z.stock for z in self.zones)

    @cached_property
    def likely(self) -> float:
        """Cut length with scale, trim and parting, mm."""
        return math.fsum(z.length for z in self.zones) + 2 * self.trim + self.parting

    @cached_property
    def cut(self) -> float:
        """The length to saw: safe or likely as it is chosen, rounded up to the ruler, mm."""
        return round_up(self.chosen, self.ruler)

    @property
    def chosen(self) -> float:
        """The length that is sawn before it is rounded up, mm."""
        return self.safe if self.sawing.choice == "safe" and self.zones else self.likely

    @property
    def over(self) -> float:
        """mm that are sawn beyond the likely length."""
        return max(self.cut - self.likely, 0.0)

    def laid(self, spare: str) -> Reckoning:
        """The same with what is over at an end, A or B."""
        shift = self.over if spare == "A" else 0.0
        if spare == self.spare or not shift:
            return self if spare == self.spare else replace(self, spare=spare)
        zones, standing = (tuple(z._replace(start=z.start + shift, end=z.end + shift) for z in row) for row in (self.zones, self.standing))
        made = replace(self, zones=zones, standing=standing, spare=spare)
        made.__dict__.update(
            {k: v for k, v in self.__dict__.items() if k in ("wanted", "safe", "band", "bare", "likely", "cut", "scaling")}
        )
        return made

    @cached_property
    def wanted(self) -> Array:
        """Lengths that pieces of this plan would have wanted, (n,) mm: the factors drawn together, with what differs from piece to piece."""
        belief, normal = self.belief, normal_draws()
        found = np.full(len(normal), self.likely)
        slopes = np.zeros(len(FACTORS))
        own = 0.0
        for doubt in self.doubts:
            if doubt.factor >= 0:
                slopes[doubt.factor] += doubt.slope
            own += doubt.deviation**2
        draws = belief.draws
        if slopes.any():
            found += draws @ slopes
        grown = self.scale / self.area if self.area else 0.0
        if grown and self.doubts:
            # What the fire takes grows with the heats, and those with the work.
            work = draws[:, _WORK] + belief.work_scatter * normal[:, -3]
            bar, taken = self.scaling
            scale = draws[:, _SCALE] if self.scale_own is None else self.scale_own * normal[:, _SCALE]
            found += bar * np.expm1(np.minimum(taken * np.exp(scale + self.growth * work), _MOST_TAKEN)) - grown
        if self.doubts:
            found += math.sqrt(own) * normal[:, -1] + belief.length_deviation(self.likely) * normal[:, -2]
        return np.asarray(np.maximum(found, 0.0))

    @cached_property
    def band(self) -> tuple[float, float]:
        """Cut lengths that 9 of 10 pieces lie between, mm."""
        low, high = quantile(self.wanted, (0.05, 0.95)) if self.zones else (self.likely, self.likely)
        return float(low), float(high)

    @cached_property
    def safe(self) -> float:
        """A length that is not short in the share of pieces asked for, with the shop's margin, mm."""
        if not self.zones or not self.doubts:
            return self.likely + self.sawing.margin
        enough = float(quantile(self.wanted, (self.sawing.confidence,))[0])
        return max(enough, self.likely) + self.sawing.margin

    def short(self, length: float) -> float:
        """Chance that a length, mm, comes out short."""
        return float((self.wanted > length + 1e-9).mean()) if self.zones else 0.0

    @property
    def mass(self) -> float:
        """Mass of the finished piece, g."""
        return self.finished * self.density

    @property
    def stock_mass(self) -> float:
        """Mass of the cut bar, g."""
        return self.cut * self.area * self.density

    def sum_lines(self) -> tuple[Line, ...]:
        """The cut length as a sum."""
        scale = self.scale / self.area
        return (
            say("Features, by volume: {}", self.bare),
            say("Scale: {}", scale),
            say(f"Trim, both ends{_AS_LOGGED if self.belief.of('saw') else ''}: {{}}", 2 * self.trim),
            say("Parting: {}", self.parting),
            say("Likely: {} + {} + {} + {} = {}", self.bare, scale, 2 * self.trim, self.parting, self.likely),
            *self._safe_lines(),
            say("Rounded up to the ruler ({}): {}", Quantity(self.ruler, "entry"), Quantity(self.cut, "entry")),
            say("9 of 10 pieces want between {} and {}", *self.band),
        )

    def choice_line(self) -> Line:
        """Which length is sawn, how sure it is, and the other one."""
        if self.sawing.choice == "safe":
            return say(f"safe: {odds(self.sawing.confidence)} not short; likely {{}}", round_up(self.likely, self.ruler))
        short = self.short(self.cut)
        return say(f"likely: {odds(short)} come out short; safe {{}}", round_up(self.safe, self.ruler))

    def cut_line(self) -> Line:
        """What is sawn, which length that is, and its band."""
        which, (low, high) = self.choice_line(), self.band
        return say(f"Cut {{}}, {which.text}; 9 of 10 want between {{}} and {{}}", self.cut, *which.values, low, high)

    def _safe_lines(self) -> tuple[Line, ...]:
        share = Quantity(self.sawing.confidence, "percent")
        if not self.zones:
            return ()
        chosen = "" if self.sawing.choice == "safe" else ", not chosen"
        return (say(f"Safe{chosen}: {{}} more, enough for {{}} of pieces: {{}}", self.safe - self.likely, share, self.safe),)

    def checking(self) -> Generator[None, None, None]:
        """Have the features look at their dimensions, one after the other: `checks` finds it done."""
        for zone in self.all_zones:
            checks_of(zone.feature, zone.place)
            yield

    def checks(self) -> tuple[tuple[Zone, Check], ...]:
        """All features' checks with their zones."""
        return tuple((z, c) for z in self.all_zones for c in checks_of(z.feature, z.place))


_LIKELY = Sawing()
_AS_LOGGED = ", as your log has it"


def _steep(taken: float) -> float:
    """Derivative of x/(1 − exp(−x)), by its series: it is wanted to a few figures only."""
    return 0.5 + taken / 6 - taken**3 / 180


def odds(share: float) -> str:
    """A share in words of so many in a hundred, or in a thousand where that says more.

    >>> odds(0.95), odds(0.999), odds(0.004)
    ('95 of 100', '999 of 1000', '4 of 1000')
    """
    whole = 100 if 0.01 <= share <= 0.99 or share in (0.0, 1.0) else 1000
    return f"{round(share * whole)} of {whole}"


def round_up(length: float, ruler: float) -> float:
    """Round a length up to the ruler, forgiving a millionth of a step.

    >>> round_up(634.2, 1.0)
    635.0
    """
    return math.ceil(length / ruler - 1e-6) * ruler


def reckon(
    piece: Piece, heats: Mapping[str, float] | None = None, *, ruler: float = 1.0, doubts: bool = True, belief: Belief = PRIOR,
    sawing: Sawing = _LIKELY, scale: float | None = None,
) -> Reckoning:  # fmt: skip
    """Reckon a piece.

    Args:
        piece: verified, see `Piece.verify`.
        heats: times each feature (by id) lies in the fire; scale is lost each time. None: no scale yet.
        ruler: mm.
        doubts: find what is in doubt too; a first pass does not need it.
        belief: what is held of the factors in doubt; the piece is `believed` by it already.
        sawing: which length is sawn.
        scale: share of the hot steel lost in each heat; None: as the piece has it.

    Raises:
        NoAnswer: when a feature has no form.
    """
    places = [piece.place(i) for i in range(len(piece.features))]
    bare = tuple(Zone(f, p, 0.0, 0.0, stock_of(f, p), 0.0) for f, p in zip(piece.features, places, strict=True))
    pierced = math.fsum(s.feature.removed(s.place) for s in piece.composition.stands) if piece.standing else 0.0
    made = Reckoning(
        zones=bare,
        finished=math.fsum(shape_of(z.feature, z.place).volume for z in bare) - pierced,
        removed=math.fsum(z.feature.removed(z.place) for z in bare) + pierced,
        added=math.fsum(z.feature.added(z.place) for z in bare),
        scale=0.0,
        # What is sawn and trimmed off more than meant, as the log has it, lies where it is trimmed.
        trim=max(piece.allowances.trim + belief.of("saw"), 0.0) / 2,
        parting=piece.allowances.parting,
        doubts=(),
        density=piece.steel.density,
        ruler=ruler,
        area=piece.bar.area,
        belief=belief,
        sawing=sawing,
    )
    return with_scale(made, piece, heats or {}, doubts=doubts, share=scale)


def with_scale(bare: Reckoning, piece: Piece, heats: Mapping[str, float], *, doubts: bool = True, share: float | None = None,
               growth: float = 1.0) -> Reckoning:  # fmt: skip
    """The same piece with its zones lengthened by what scales off in `heats`, see `reckon`."""
    kept, at, zones = 1 - (piece.allowances.scale if share is None else share), bare.trim, []
    for zone in bare.zones:
        grown = zone.stock / kept ** heats.get(zone.feature.id, 0.0)
        zones.append(Zone(zone.feature, zone.place, at, at + grown, zone.stock, grown - zone.stock))
        at += grown
    scale = math.fsum(z.scale for z in zones)
    return replace(bare, zones=tuple(zones), scale=scale * bare.area, doubts=_doubts(piece, zones, scale, bare.belief, growth) if doubts else (), growth=growth, scale_own=_scale_own(piece),
                   standing=_standing(piece, zones) if piece.standing else ())  # fmt: skip


def _standing(piece: Piece, zones: list[Zone]) -> tuple[Zone, ...]:
    """What stands on the drawn bar, each over the stretch of the cut bar that becomes what it covers."""
    found = []
    composition = piece.composition
    for stand, shares in zip(composition.stands, composition.shares, strict=True):
        ends = [zones[index].start + share * zones[index].length for index, share in shares]
        found.append(Zone(stand.feature, stand.place, ends[0], ends[1], 0.0, 0.0))
    return tuple(found)


def _doubts(piece: Piece, zones: list[Zone], scale: float, belief: Belief, growth: float) -> tuple[Doubt, ...]:
    """What makes the length uncertain: each factor once for all features that hang on it, then what is one feature's own."""
    slopes, alone = dict[int, float](), list[Doubt]()
    for zone in zones:
        feature, place = zone.feature, zone.place
        found = influences(feature, place)
        for influence in found:
            known = piece.measurement(influence.name, feature.id) if influence.name else None
            if known is not None and known.value == getattr(feature, influence.name):
                alone.append(_own_doubt(feature.title, zone.stock, abs(influence.slope) * max(known.spread / 2, 0.005)))
            elif influence.factor < 0:
                alone.append(_own_doubt(feature.title, zone.stock, abs(influence.slope) * influence.deviation))
            else:
                slopes[influence.factor] = slopes.get(influence.factor, 0.0) + influence.slope
        if found:
            unsure = loft_doubt(zone.shape) / place.steel.area
            low, high = zone.stock - unsure, zone.stock + unsure
        else:
            low, high = range_of(feature, place)
        if high - low > 1e-9:
            alone.append(_own_doubt(feature.title, zone.stock, (high - low) / 2 / NINE_TENTHS))
    doubts = []
    for number, slope in slopes.items():
        wide = abs(slope) * belief.spread(FACTORS[number].key) * NINE_TENTHS
        if wide > 1e-9:
            doubts.append(Doubt(FACTORS[number].title, -wide, 0.0, wide, number, slope))
    if scale:
        own = _scale_own(piece)
        wide = NINE_TENTHS * math.hypot(
            belief.spread("scale") if own is None else own, growth * belief.spread("work"), growth * belief.work_scatter
        )
        doubts.append(Doubt("Scale and heats", scale * math.exp(-wide), scale, scale * math.exp(wide)))
    if zones:
        wide = belief.spread("saw") * NINE_TENTHS
        doubts.append(Doubt(FACTORS[_SAW].title, -wide, 0.0, wide, _SAW, 1.0))
        whole = math.fsum(z.stock for z in zones)
        wide = belief.length_deviation(whole) * NINE_TENTHS
        doubts.append(Doubt("One piece and the next", -wide, 0.0, wide))
    if piece.allowances.parting:
        alone.append(_own_doubt("Parting", piece.allowances.parting, piece.allowances.parting * _PARTED))
    return (*doubts, *alone)


def _scale_own(piece: Piece) -> float | None:
    """ln, standard deviation of a scale that the smith has typed, or a test piece has told; None where it is the fire's."""
    if piece.allowances.source == "fire":
        return None
    known = piece.measurement("scale")
    if known is not None and known.value and known.value == piece.allowances.scale:
        return max(known.spread / known.value / 2, 0.02)
    return _TYPED


def _own_doubt(name: str, likely: float, deviation: float) -> Doubt:
    return Doubt(name, likely - deviation * NINE_TENTHS, likely, likely + deviation * NINE_TENTHS, deviation=deviation)
