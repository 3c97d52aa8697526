"""The whole piece part of the way: what is drawn, and what is bent and pierced on it so far."""

from __future__ import annotations

from collections.abc import Generator, Mapping

from long_ember.features import Shape, shape_of, stock_of
from long_ember.features.composing import DrawnBar, Laid, Stand, chain, laid_out
from long_ember.features.standing import Standing
from long_ember.frozen import NamedTuple
from long_ember.geometry import Progress, partly, stage_shape, tip_of
from long_ember.portions import all_portions
from long_ember.stock import Reckoning, Zone

__all__ = ["StagePart", "staged", "staged_parts"]


_HAIR = 1e-9  # of a whole
_AT_ONCE = 4  # features in one portion


class StagePart(NamedTuple):
    """One part of the piece as it is now.

    Args:
        id: of the feature.
        shape: its form.
        start: mm on the cut bar from end A, where its steel begins.
        end: where it ends.
    """

    id: str
    shape: Shape
    start: float
    end: float


def staged(reckoning: Reckoning, progress: Mapping[str, Progress]) -> tuple[StagePart, ...]:
    """Every part from end A to end B.

    Args:
        reckoning: of the piece.
        progress: of every feature by id, those that stand on the drawn bar too.
    """
    return all_portions(staged_parts(reckoning, progress))


def staged_parts(reckoning: Reckoning, progress: Mapping[str, Progress]) -> Generator[None, None, tuple[StagePart, ...]]:
    """The same in portions, see `staged`."""
    row = []
    for i, z in enumerate(reckoning.zones):
        row.append((z.feature.id, stage_shape(z.feature, z.place, progress[z.feature.id])))
        if i % _AT_ONCE == 0:
            yield
    # A hole is there once it is through; a bend once it is begun.
    begun = [
        z
        for z in reckoning.standing
        if progress[z.feature.id].path > (1.0 - _HAIR if z.feature.stands == "work" or z.feature.recuts else 0.0)
    ]
    if not begun:
        return tuple(StagePart(i, shape, z.start, z.end) for (i, shape), z in zip(row, reckoning.zones, strict=True))
    drawn = DrawnBar(row)
    forms, works = [], []
    for zone in begun:
        low, high = (_drawn_at(drawn, reckoning, at) for at in (zone.start, zone.end))
        stand = Stand(Standing(feature=zone.feature), low, high, zone.place, 0)
        if zone.feature.recuts:
            forms.append(laid_out(stand, low, high, zone.shape))
        elif zone.feature.covers:
            forms.append(_laid(zone, low, high, progress[zone.feature.id].path))
        else:
            works.append((stand, (low + high) / 2))
        yield
    found, at = [], 0.0
    taken = {f.id: f.end - f.start for f in forms}
    for identity, shape in chain(drawn, sorted(forms, key=lambda f: f.start), works):
        end = at + taken.get(identity, shape.length)
        found.append(StagePart(identity, shape, _bar_at(drawn, reckoning, at), _bar_at(drawn, reckoning, end)))
        at = end
    return tuple(found)


def _laid(zone: Zone, low: float, high: float, fraction: float) -> Laid:
    own = shape_of(zone.feature, zone.place)
    whole = own.length / stock_of(zone.feature, zone.place)  # what bending makes of each mm that it covers
    length = (high - low) * (1 + (whole - 1) * fraction)
    return Laid(zone.feature.id, low, high, partly(own, fraction, length, tip_of(zone.feature)), sum(s.turns for s in own.spans) * fraction)


def _drawn_at(drawn: DrawnBar, reckoning: Reckoning, at: float) -> float:
    """A place of the cut bar (mm from end A) on the bar as it is drawn by now, by the steel before it."""
    for zone, (_id, shape), edge in zip(reckoning.zones, drawn.row, drawn.edges, strict=False):
        if at <= zone.end or zone is reckoning.zones[-1]:
            share = min(max((at - zone.start) / zone.length, 0.0), 1.0) if zone.length else 0.0
            return edge + drawn.length_of(shape, share)
    return drawn.length


def _bar_at(drawn: DrawnBar, reckoning: Reckoning, at: float) -> float:
    """The other way round: mm on the cut bar from end A."""
    index, share = drawn.share_at(at)
    zone = reckoning.zones[index]
    return zone.start + share * zone.length
