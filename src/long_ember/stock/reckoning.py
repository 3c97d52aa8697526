"""From a piece to its cut length, zones, marks and mass."""

from __future__ import annotations

import contextlib
import math
from collections.abc import Mapping
from dataclasses import replace
from functools import cached_property
from typing import Any, NamedTuple

from long_ember.errors import NoAnswer
from long_ember.features import Check, Feature, Piece, Place, Shape, checks_of, range_of, shape_of, stock_of
from long_ember.frozen import dataclass
from long_ember.units import Line, Quantity, say

__all__ = ["Doubt", "Reckoning", "Zone", "reckon", "round_up", "with_scale"]

_SCALE_LOW, _SCALE_HIGH = 0.4, 2.0  # rich fire to air and a long soak (computations, section 16: 0.3-0.5 x, doubled by soaking)


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
    """How far one contribution may push the cut length: least, likely and greatest, mm."""

    name: str
    low: float
    likely: float
    high: float


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

    @cached_property
    def all_zones(self) -> tuple[Zone, ...]:
        """Zones of the bar, and of what stands on it."""
        return (*self.zones, *self.standing)

    @cached_property
    def bare(self) -> float:
        """Cut length by volume alone, mm."""
        return math.fsum(z.stock for z in self.zones)

    @cached_property
    def likely(self) -> float:
        """Cut length with scale, trim and parting, mm."""
        return math.fsum(z.length for z in self.zones) + 2 * self.trim + self.parting

    @property
    def cut(self) -> float:
        """The length to saw: likely, rounded up to the ruler, mm."""
        return round_up(self.likely, self.ruler)

    @cached_property
    def band(self) -> tuple[float, float]:
        """Least and greatest honest cut length, mm: first order, each doubt's deviation added in quadrature."""
        low = math.sqrt(math.fsum((d.likely - d.low) ** 2 for d in self.doubts))
        high = math.sqrt(math.fsum((d.high - d.likely) ** 2 for d in self.doubts))
        return self.likely - low, self.likely + high

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
            say("Trim, both ends: {}", 2 * self.trim),
            say("Parting: {}", self.parting),
            say("Likely: {} + {} + {} + {} = {}", self.bare, scale, 2 * self.trim, self.parting, self.likely),
            say("Rounded up to the ruler ({}): {}", Quantity(self.ruler, "entry"), Quantity(self.cut, "entry")),
            say("Between {} and {}, first order from what is in doubt", *self.band),
        )

    def checks(self) -> tuple[tuple[Zone, Check], ...]:
        """All features' checks with their zones."""
        return tuple((z, c) for z in self.all_zones for c in checks_of(z.feature, z.place))


def round_up(length: float, ruler: float) -> float:
    """Round a length up to the ruler, forgiving a millionth of a step.

    >>> round_up(634.2, 1.0)
    635.0
    """
    return math.ceil(length / ruler - 1e-6) * ruler


def reckon(piece: Piece, heats: Mapping[str, float] | None = None, *, ruler: float = 1.0, doubts: bool = True) -> Reckoning:
    """Reckon a piece.

    Args:
        piece: verified, see `Piece.verify`.
        heats: times each feature (by id) lies in the fire; scale is lost each time. None: no scale yet.
        ruler: mm.
        doubts: find what is in doubt too; a first pass does not need it.

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
        trim=piece.allowances.trim / 2,
        parting=piece.allowances.parting,
        doubts=(),
        density=piece.steel.density,
        ruler=ruler,
        area=piece.bar.area,
    )
    return with_scale(made, piece, heats or {}, doubts=doubts)


def with_scale(bare: Reckoning, piece: Piece, heats: Mapping[str, float], *, doubts: bool = True) -> Reckoning:
    """The same piece with its zones lengthened by what scales off in `heats`, see `reckon`."""
    kept, at, zones = 1 - piece.allowances.scale, bare.trim, []
    for zone in bare.zones:
        grown = zone.stock / kept ** heats.get(zone.feature.id, 0.0)
        zones.append(Zone(zone.feature, zone.place, at, at + grown, zone.stock, grown - zone.stock))
        at += grown
    scale = math.fsum(z.scale for z in zones)
    return replace(bare, zones=tuple(zones), scale=scale * bare.area, doubts=_doubts(piece, zones, scale) if doubts else (),
                   standing=_standing(piece, zones) if piece.standing else ())  # fmt: skip


def _standing(piece: Piece, zones: list[Zone]) -> tuple[Zone, ...]:
    """What stands on the drawn bar, each over the stretch of the cut bar that becomes what it covers."""
    found = []
    composition = piece.composition
    for stand, shares in zip(composition.stands, composition.shares, strict=True):
        ends = [zones[index].start + share * zones[index].length for index, share in shares]
        found.append(Zone(stand.feature, stand.place, ends[0], ends[1], 0.0, 0.0))
    return tuple(found)


def _range(piece: Piece, zone: Zone) -> tuple[float, float]:
    """Least and greatest honest stock length of a feature; what a test piece told narrows it while it is in force."""
    feature = zone.feature
    if not piece.measured:
        return range_of(feature, zone.place)
    known = next((m for m in piece.measured if m.feature == feature.id and getattr(feature, m.name, None) == m.value), None)
    if known is None:
        return range_of(feature, zone.place)
    found = [zone.stock]
    for value in (max(known.value - known.spread, 0.0), min(known.value + known.spread, 1.0)):
        changes: dict[str, Any] = {known.name: value}
        with contextlib.suppress(NoAnswer):  # the far end of the range may have no answer: then the likely one is its end
            found.append(stock_of(replace(feature, **changes), zone.place))
    return min(found), max(found)


def _doubts(piece: Piece, zones: list[Zone], scale: float) -> tuple[Doubt, ...]:
    doubts = [Doubt(z.feature.title, low, z.stock, high) for z in zones for low, high in (_range(piece, z),) if high > low]
    trim, parting, known = piece.allowances.trim, piece.allowances.parting, piece.measurement("scale")
    low, high = _SCALE_LOW, _SCALE_HIGH
    if known is not None and known.value and known.value == piece.allowances.scale:
        low, high = max(1 - known.spread / known.value, 0.0), 1 + known.spread / known.value
    doubts.append(Doubt("Scale", scale * low, scale, scale * high))
    doubts.append(Doubt("Trim", 0.0, trim, 2 * trim))
    doubts.append(Doubt("Parting", parting / 2, parting, 1.5 * parting))
    return tuple(doubts)
