"""Put the operations in order and pack them into heats."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

from long_ember.features import Check, Piece
from long_ember.geometry import DONE, UNDONE, Progress
from long_ember.heats.operations import HOT_LIMIT, Step, hot_zone, steps
from long_ember.heats.rules import Rule, Tie, ties
from long_ember.physics import window
from long_ember.stock import Reckoning
from long_ember.units import say

__all__ = ["FULL", "Heat", "Sequence", "Work", "sequence"]

FULL = 1.15  # heats that a smith gets out of one by hurrying (heat model, section 3)
_ROUGH = (0.5, 2.7)  # 90 % band of an uncalibrated shop (heat model, section 4)
_REACH = 250.0  # mm from an end that still goes into the fire from that end
_VERBS = ("upset", "setdown", "draw", "punch", "twist", "eye", "curl", "scroll", "bend", "hook", "drill")


@dataclass(frozen=True, slots=True)
class Work:
    """Part of a step done in one heat: from a fraction of it to another."""

    step: Step
    start: float
    stop: float
    because: tuple[Rule, ...]


@dataclass(frozen=True)
class Heat:
    """Once out of the fire, or one cold step.

    Args:
        number: from 1; cold steps are not counted and have 0.
        fire: end in the fire: A, B or middle; "" when cold.
        zone: hot length on the cold bar, mm from end A.
        hot: °C leaving the fire.
        stop: °C below which to stop.
        work: what is done, in falling temperature.
        seconds: window at the anvil.
        need: share of the window the work needs.
        before: progress of every feature by id.
        after: the same when the heat is over.
    """

    number: int
    fire: str
    zone: tuple[float, float]
    hot: float
    stop: float
    work: tuple[Work, ...]
    seconds: float
    need: float
    before: dict[str, Progress]
    after: dict[str, Progress]

    @property
    def cold(self) -> bool:
        """Not a heat at all: saw, drill, file."""
        return not self.fire

    @property
    def tools(self) -> tuple[str, ...]:
        """Everything to have at hand, without repeats."""
        return tuple(dict.fromkeys(t for w in self.work for t in w.step.operation.tools))


@dataclass(frozen=True)
class Sequence:
    """The heats in order, how many to expect at least and at most, and the rules at work."""

    heats: tuple[Heat, ...]
    low: int
    high: int
    ties: tuple[Tie, ...]
    checks: tuple[Check, ...]

    @property
    def count(self) -> int:
        """Heats, cold steps not counted."""
        return sum(not h.cold for h in self.heats)

    def per_feature(self) -> dict[str, float]:
        """Times each feature lies in the fire, counting a feature partly heated by its share."""
        return dict(self._exposure)

    _exposure: tuple[tuple[str, float], ...] = ()


@dataclass(slots=True)
class _Open:
    """A heat being filled."""

    items: list[tuple[Step, float, float]]
    used: float
    zone: tuple[float, float]
    alone: bool

    def takes(self, step: Step, need: float, zone: tuple[float, float], apart: set[int]) -> bool:
        """Whether `step` can share this heat."""
        if self.alone or step.operation.alone or step.operation.cold or self.items[-1][0].operation.cold:
            return False
        hull = max(self.zone[1], zone[1]) - min(self.zone[0], zone[0])
        falling = step.operation.stop_below <= self.items[-1][0].operation.stop_below
        free = not apart & {s.number for s, _a, _b in self.items}
        return self.used + need <= FULL and hull <= HOT_LIMIT + 60 and falling and free


def sequence(piece: Piece, reckoning: Reckoning) -> Sequence:
    """Order and pack a piece's operations.

    Every must of the rules is kept; among what is free, work that fits the heat at hand comes first.
    """
    all_steps = steps(piece, reckoning)
    tied = ties(all_steps)
    heats = _heats(piece, reckoning, _pack(all_steps, tied, reckoning, piece, 1.0), tied)
    low, high = (sum(not h.items[0][0].operation.cold for h in _pack(all_steps, tied, reckoning, piece, f)) for f in _ROUGH)
    exposure = tuple((z.feature.id, _exposure(heats, z.start, z.end)) for z in reckoning.zones)
    return Sequence(heats, low, high, tied, _checks(all_steps, piece), exposure)


def _exposure(heats: tuple[Heat, ...], start: float, end: float) -> float:
    return sum(max(0.0, min(end, h.zone[1]) - max(start, h.zone[0])) / (end - start) for h in heats if not h.cold)


def _checks(all_steps: tuple[Step, ...], piece: Piece) -> tuple[Check, ...]:
    found = []
    for step in all_steps:
        if math.isinf(step.need):
            text = f"{step.feature.title} {step.position + 1}: too thin to work before it is cold. Heat hotter or shorten."
            found.append(Check("warn", say(text)))
    return tuple(found)


def _pack(all_steps: tuple[Step, ...], tied: tuple[Tie, ...], reckoning: Reckoning, piece: Piece, factor: float) -> list[_Open]:
    waits: dict[int, set[int]] = {s.number: set() for s in all_steps}
    apart: dict[int, set[int]] = {s.number: set() for s in all_steps}
    for tie in tied:
        waits[tie.after].add(tie.before)
        if tie.rule.apart:
            apart[tie.after].add(tie.before)
    zones = {s.number: hot_zone(s, reckoning.cut, piece.bar.thickness) for s in all_steps}
    packed: list[_Open] = []
    left = {s.number: s for s in all_steps}
    while left:
        ready = [s for n, s in left.items() if not waits[n] & left.keys()]
        step = _next(ready, packed, zones, apart, factor)
        _place(packed, step, zones[step.number], apart[step.number], factor)
        del left[step.number]
    return packed


def _next(ready: list[Step], packed: list[_Open], zones: dict[int, tuple[float, float]], apart: dict[int, set[int]], factor: float) -> Step:
    def rank(step: Step) -> tuple[bool, bool, int, int]:
        fits = bool(packed) and packed[-1].takes(step, _need(step, factor), zones[step.number], apart[step.number])
        return (step.operation.cold, not fits, _VERBS.index(step.operation.verb), step.number)

    return min(ready, key=rank)


def _need(step: Step, factor: float) -> float:
    return min(step.need * factor, 30.0)  # a hopeless step is flagged by a check; 30 heats is where a plan stops meaning anything


def _place(packed: list[_Open], step: Step, zone: tuple[float, float], apart: set[int], factor: float) -> None:
    need, alone = _need(step, factor), step.operation.alone or step.operation.cold
    if packed and packed[-1].takes(step, need, zone, apart):
        heat = packed[-1]
        heat.items.append((step, 0.0, 1.0))
        heat.used += need
        heat.zone = (min(heat.zone[0], zone[0]), max(heat.zone[1], zone[1]))
        return
    count = max(1, math.ceil(need - (FULL - 1)))
    for i in range(count):
        packed.append(_Open([(step, i / count, (i + 1) / count)], need / count, zone, alone))


def _heats(piece: Piece, reckoning: Reckoning, packed: list[_Open], tied: tuple[Tie, ...]) -> tuple[Heat, ...]:
    because: dict[int, tuple[Rule, ...]] = {}
    for tie in tied:
        if tie.rule.id != "own-order":
            because[tie.after] = tuple(dict.fromkeys((*because.get(tie.after, ()), tie.rule)))
    progress = {z.feature.id: UNDONE if z.feature.operations(z.place) else DONE for z in reckoning.zones}
    last = {z.feature.id: len(z.feature.operations(z.place)) - 1 for z in reckoning.zones}
    heats: list[Heat] = []
    number = 0
    for item in packed:
        cold = item.items[0][0].operation.cold
        number += not cold
        before = dict(progress)
        for step, _start, stop in item.items:
            identity = step.feature.id
            progress[identity] = _advance(progress[identity], step, stop, stop == 1 and step.order == last[identity])
        work = tuple(Work(s, a, b, because.get(s.number, ())) for s, a, b in item.items)
        heats.append(_heat(piece, reckoning, item, 0 if cold else number, work, before, dict(progress)))
    return tuple(heats)


def _advance(progress: Progress, step: Step, stop: float, finished: bool) -> Progress:
    if finished:
        return DONE
    effect = step.operation.effect
    if effect == "section":
        return replace(progress, section=stop)
    # A feature that is only bent thins or swells as it bends.
    return Progress(max(progress.section, stop), stop)


def _heat(piece: Piece, reckoning: Reckoning, item: _Open, number: int, work: tuple[Work, ...],
          before: dict[str, Progress], after: dict[str, Progress]) -> Heat:  # fmt: skip
    if not number:
        return Heat(0, "", item.zone, 20.0, 20.0, work, 0.0, 0.0, before, after)
    bar, steel = piece.bar, piece.steel
    stop = float(min(s.operation.stop_below for s, _a, _b in item.items))
    hot_length = item.zone[1] - item.zone[0]
    seconds = window(steel.start, stop, bar.area, bar.perimeter, hot_length, bar.thickness, steel.carbon)
    return Heat(number, _fire(item.zone, reckoning.cut), item.zone, steel.start, stop, work, seconds, item.used, before, after)


def _fire(zone: tuple[float, float], cut: float) -> str:
    from_a, from_b = zone[1], cut - zone[0]
    if min(from_a, from_b) > _REACH:
        return "middle"
    return "A" if from_a <= from_b else "B"
