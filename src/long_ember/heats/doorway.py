"""What goes into a closed forge: its mouth and its depth against the piece as it is by then."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence

import numpy as np

from long_ember.arrays import Array
from long_ember.frozen import NamedTuple
from long_ember.geometry import DONE, UNDONE, Part, Progress, figure, trace
from long_ember.heats.operations import Door, fire_end, hot_zone
from long_ember.heats.rules import BENT_IN, GOES_IN, Tie, Ties
from long_ember.heats.staging import StagePart, staged
from long_ember.heats.step import Step, advanced
from long_ember.stock import Reckoning

__all__ = ["Room", "door_ties", "room"]

_WAYS = 12  # directions in which it can be put in, over half a turn
_BENT = frozenset({"bend", "hook", "curl", "scroll", "eye", "coil"})
_FITS = 1.0 + 1e-9


class Room(NamedTuple):
    """What has to go into the fire for one hot zone, turned as it goes in best; mm.

    Args:
        width: across the way in.
        depth: along it, from the nearest hot place to what lies furthest in.
        share: of what the door allows; more than 1 does not go in.
    """

    width: float
    depth: float
    share: float

    @property
    def fits(self) -> bool:
        """It goes in."""
        return self.share <= _FITS


def room(door: Door, parts: Sequence[StagePart], zone: tuple[float, float], end: str) -> Room:
    """The room that a hot zone needs in a closed forge.

    Everything from the hot zone to the end that goes in lies inside, as it is drawn; it is turned in steps of 15° until it goes in best.

    Args:
        door: with a height.
        parts: of the piece as it is.
        zone: mm on the cut bar from end A.
        end: A, B, or all of it.
    """
    low = 0.0 if end in ("A", "all") else zone[0]
    high = math.inf if end in ("B", "all") else zone[1]
    shown = figure([(p.id, p.shape) for p in parts])
    points = np.vstack(
        [_outline(p, now, low, high) for now, p in zip(parts, shown.parts, strict=True) if now.start < high and now.end > low]
    )
    turns = np.arange(_WAYS) * math.pi / _WAYS
    reach = np.ptp(points @ np.array([np.cos(turns), np.sin(turns)]), axis=0)
    width, depth = np.roll(reach, -_WAYS // 2), reach
    share = np.maximum(width / door.widest, depth / door.depth if door.depth else 0.0)
    # Any way in that fits will do; where none does, it is told of the narrowest, since that is how it would be tried.
    best = int(np.argmin(width + np.where(share > _FITS, 1.0 + width.max(), 0.0)))
    return Room(float(width[best]), float(depth[best]), float(share[best]))


def _outline(part: Part, now: StagePart, low: float, high: float) -> Array:
    """Both edges of as much of a part as lies between two places of the cut bar, and its branches where it lies there whole; (n, 2) mm."""
    wide = now.end - now.start
    first, last = (min(max((at - now.start) / wide, 0.0), 1.0) if wide > 0 else share for at, share in ((low, 0.0), (high, 1.0)))
    drawn = trace(part.shape)
    s = drawn.s
    at = np.concatenate(([first * s[-1]], s[(s > first * s[-1]) & (s < last * s[-1])], [last * s[-1]]))
    edges = [np.column_stack([np.interp(at, s, side[:, i]) for i in (0, 1)]) for side in (part.left, part.right)]
    limbs = [part.placed(limb) for limb in drawn.limbs] if first == 0 and last == 1 else []
    return np.vstack((*edges, *limbs))


def door_ties(steps: tuple[Step, ...], tied: Ties, reckoning: Reckoning, thickness: float, door: Door, hung: str) -> tuple[Tie, ...]:
    """What has to be heated before a bend after which it no longer goes in, and what only goes in when something is bent first.

    Each operation is looked at as the piece is when all is done that must come before it, once with a bend and once without.

    Args:
        steps: all operations.
        tied: by the other rules.
        reckoning: of the piece.
        thickness: mm, of the bar.
        door: of the forge, with a height.
        hung: end at which it hangs on the long bar, "" for neither.
    """
    bends = [s for s in steps if s.operation.verb in _BENT and s.operation.effect != "section"]
    if not bends or _all_goes_in(door, reckoning):
        return ()
    firsts = _before(tied)
    kept: dict[tuple[int, tuple[float, float], str], Room] = {}

    def need(step: Step, done: int) -> Room:
        zone = hot_zone(step.start, step.end, reckoning.cut, thickness)
        ends = ({"A": "B", "B": "A"}[hung],) if hung else (fire_end(*zone, reckoning.cut) or "AB")
        found = []
        for end in "".join(ends):
            key = done, zone, end
            if key not in kept:
                kept[key] = room(door, staged(reckoning, _progress(steps, done, reckoning)), zone, end)
            found.append(kept[key])
        return min(found, key=lambda r: r.share)

    ties: list[Tie] = []
    for step in steps:
        if step.operation.cold:
            continue
        done = firsts[step.number]
        plain = need(step, done).fits
        helps: list[tuple[float, Tie]] = []
        for bend in bends:
            if bend.feature is step.feature or done >> bend.number & 1:
                continue
            then = need(step, done | firsts[bend.number] & ~(1 << step.number) | 1 << bend.number)
            if plain and not then.fits:
                ties.append(Tie(GOES_IN, step.number, bend.number))
            elif not plain and then.fits and not firsts[bend.number] >> step.number & 1:
                helps.append((then.share, Tie(BENT_IN, bend.number, step.number)))
        ties.extend(tie for _share, tie in sorted(helps, key=lambda h: h[0])[:1])
    return tuple(ties)


def _all_goes_in(door: Door, reckoning: Reckoning) -> bool:
    """Straight and finished it goes in whole: nothing to look into."""
    if door.depth and reckoning.cut > door.depth:
        return False
    return room(door, staged(reckoning, {z.feature.id: DONE for z in reckoning.all_zones}), (0.0, reckoning.cut), "all").fits


def _before(tied: Ties) -> list[int]:
    """By step, a bit for each that must come before it, through others too."""
    found = list(tied.hard)
    for _round in found:
        wider = [mask | _union(found[n] for n in range(len(found)) if mask >> n & 1) for mask in found]
        if wider == found:
            break
        found = wider
    return found


def _union(masks: Iterable[int]) -> int:
    found = 0
    for mask in masks:
        found |= mask
    return found


def _progress(steps: tuple[Step, ...], done: int, reckoning: Reckoning) -> dict[str, Progress]:
    """How far every feature is when just these steps are done."""
    last = {s.feature.id: s.order for s in steps if not s.operation.own}
    progress = {z.feature.id: UNDONE if z.feature.id in last else DONE for z in reckoning.all_zones}
    for step in steps:
        if done >> step.number & 1 and not step.operation.own:
            identity = step.feature.id
            progress[identity] = advanced(progress[identity], step, 1.0, step.order == last[identity])
    return progress
