"""Put the operations in order and pack them into heats."""

from __future__ import annotations

import math
from bisect import insort
from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np

from long_ember.features import VERBS, Check, Piece, operations_of
from long_ember.geometry import DONE, UNDONE, Progress
from long_ember.heats.operations import WELDS, Bench, Step, hot_zone, range_of_heat, steps
from long_ember.heats.rules import Rule, Ties, ties
from long_ember.physics import window
from long_ember.stock import Reckoning, reckon, with_scale
from long_ember.units import say

__all__ = ["FULL", "Heat", "Sequence", "Work", "sequence"]

FULL = 1.15  # heats that a smith gets out of one by hurrying (heat model, section 3)
_ROUGH = (0.5, 2.7)  # 90 % band of an uncalibrated shop (heat model, section 4)
_HOPELESS = 30.0  # heats; more than that is as good as never
_SPARE = 60.0  # mm past the limit that a shared heat may stretch, since its far end is worked first
_BENCH = Bench()
_REACH = 250.0  # mm from an end that still goes into the fire from that end


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


@dataclass(frozen=True, eq=False)
class Sequence:
    """The plan: heats in order, and cold steps between them.

    Args:
        piece: what is forged.
        reckoning: the marks that the hot zones stand on.
        packed: steps by heat.
        low: fewest heats to expect.
        high: most heats to expect.
        ties: the rules at work.
        checks: what can't be done as planned.
        exposure: times each feature (by id) lies in the fire, one partly heated by its share.
    """

    piece: Piece
    reckoning: Reckoning
    packed: tuple[_Open, ...]
    low: int
    high: int
    ties: Ties
    checks: tuple[Check, ...]
    exposure: tuple[tuple[str, float], ...] = ()

    @property
    def count(self) -> int:
        """Heats, cold steps not counted."""
        return sum(not item.cold for item in self.packed)

    @cached_property
    def heats(self) -> tuple[Heat, ...]:
        """Heats and cold steps in full, made when they are first looked at: while a dimension is typed only the count is."""
        return _heats(self.piece, self.reckoning, self.packed, self.ties)


class _Open:
    """A heat being filled, begun with all or part of one step."""

    __slots__ = ("alone", "cold", "floor", "items", "longest", "used", "zone")

    def __init__(self, step: Step, start: float, stop: float, used: float, zone: tuple[float, float], longest: float) -> None:
        operation = step.operation
        self.items = [(step, start, stop)]
        self.longest = longest
        self.used, self.zone, self.alone, self.cold, self.floor = used, zone, operation.alone, operation.cold, operation.stop_below

    def takes(self, step: Step, need: float, zone: tuple[float, float], apart: frozenset[int]) -> bool:
        """Whether `step` can share this heat."""
        operation = step.operation
        if self.cold or operation.cold:  # hot and cold never share a step of the plan
            return self.cold and operation.cold
        if self.used + need > FULL or operation.stop_below > self.floor or self.alone or operation.alone:
            return False
        hull = max(self.zone[1], zone[1]) - min(self.zone[0], zone[0])
        return hull <= self.longest + _SPARE and not (apart and any(s.number in apart for s, _a, _b in self.items))

    def add(self, step: Step, need: float, zone: tuple[float, float]) -> None:
        """Let `step` share this heat."""
        self.items.append((step, 0.0, 1.0))
        self.used += need
        self.zone = (min(self.zone[0], zone[0]), max(self.zone[1], zone[1]))
        self.floor = step.operation.stop_below


def sequence(piece: Piece, *, ruler: float = 1.0, bench: Bench = _BENCH) -> tuple[Reckoning, Sequence]:
    """Reckon a piece, order its operations and pack them into heats.

    The scale allowance depends on how often each feature lies in the fire, so the piece is reckoned without scale,
    packed, and reckoned again; the heats then stand on the marks of the second reckoning.
    Every must of the rules is kept; among what is free, work that fits the heat at hand comes first.

    Raises:
        NoAnswer: when a feature has no form.
    """
    bare = reckon(piece, ruler=ruler, doubts=False)
    all_steps = steps(piece, bare, bench)
    tied = ties(all_steps)
    packer = _Packer(all_steps, tied, bare.cut, piece.bar.thickness, bench.hot_length)
    packed = packer.pack()
    exposure = _exposure(packed, bare)
    final = with_scale(bare, piece, dict(exposure))
    _relocate(packed, bare, final)
    order = [step for item in packed for step, start, _stop in item.items if start == 0]
    low, high = (packer.count(order, factor) for factor in _ROUGH)
    return final, Sequence(piece, final, tuple(packed), low, high, tied, _checks(all_steps, piece), exposure)


def _relocate(packed: list[_Open], before: Reckoning, after: Reckoning) -> None:
    """Bring hot zones from the marks of one reckoning to those of another."""
    old, new = ([0.0, *(z.start for z in r.zones), *(z.end for z in r.zones[-1:]), r.cut] for r in (before, after))
    zones = np.interp(np.array([item.zone for item in packed]).reshape(-1, 2), old, new)
    for item, (a, b) in zip(packed, zones.tolist(), strict=True):
        item.zone = (a, b)


def _exposure(packed: list[_Open], reckoning: Reckoning) -> tuple[tuple[str, float], ...]:
    hot = np.array([item.zone for item in packed if not item.cold]).reshape(-1, 2)
    zones = np.array([(z.start, z.end) for z in reckoning.zones]).reshape(-1, 2)
    shared = np.minimum(zones[:, 1:], hot[:, 1]) - np.maximum(zones[:, :1], hot[:, 0])
    times = (np.maximum(shared, 0.0) / (zones[:, 1:] - zones[:, :1])).sum(axis=1)
    return tuple((z.feature.id, n) for z, n in zip(reckoning.zones, times.tolist(), strict=True))


def _checks(all_steps: tuple[Step, ...], piece: Piece) -> tuple[Check, ...]:
    found = []
    steel = piece.steel
    if steel.note:
        hardens = f" Hardens in {steel.hardening}." if steel.hardening in ("oil", "water", "air") else ""
        found.append(Check("note", say(f"{steel.title}: {steel.note}{hardens}"), caution=True))
    if not steel.modelled:
        found.append(Check("note", say(f"{steel.title}: the heat model is for steel, so heats here are a guess by likeness.")))
    for step in all_steps:
        if math.isinf(step.need):
            text = f"{step.feature.title} {step.position + 1}: too thin to work before it is cold. Heat hotter or shorten."
            if step.operation.verb in WELDS:
                text = (
                    f"{step.feature.title} {step.position + 1}: this material is not forge welded. Choose another, or join it another way."
                )
            found.append(Check("warn", say(text)))
    return tuple(found)


class _Packer:
    """Greedy order over the rules, and packing of an order into heats."""

    def __init__(self, all_steps: tuple[Step, ...], tied: Ties, cut: float, thickness: float, longest: float) -> None:
        self.steps, self.longest = all_steps, longest
        self.zones = [hot_zone(s, cut, thickness) for s in all_steps]
        self.needs = [_need(s, 1.0) for s in all_steps]
        self.floors = [s.operation.stop_below for s in all_steps]
        self.ranks = [(s.operation.cold, VERBS.index(s.operation.verb), s.number) for s in all_steps]  # cold last, then by verb
        self.tied, self.apart = tied, tied.apart

    def pack(self) -> list[_Open]:
        """The likely plan."""
        packed: list[_Open] = []
        blockers = [set(w) for w in self.tied.waits]
        ready = sorted(self.ranks[n] for n, w in enumerate(blockers) if not w)
        while ready:
            at = self._first_that_fits(ready, packed[-1]) if packed else 0
            if ready[at][0] and not ready[0][0]:
                at = 0  # cold work waits while there is hot work to do
            best = ready.pop(at)[2]
            self._place(packed, self.steps[best], self.needs[best])
            for n in self.tied.frees[best]:
                blockers[n].discard(best)
                if not blockers[n]:
                    insort(ready, self.ranks[n])
        return packed

    def _first_that_fits(self, ready: list[tuple[bool, int, int]], heat: _Open) -> int:
        if heat.alone and not heat.cold:
            return 0
        room, floor, cold, zones = FULL - heat.used, heat.floor, heat.cold, self.zones
        for i, (is_cold, _verb, n) in enumerate(ready):
            # What settles most cases is asked before the call.
            if is_cold != cold or (not cold and (self.needs[n] > room or self.floors[n] > floor)):
                continue
            if heat.takes(self.steps[n], self.needs[n], zones[n], self.apart[n]):
                return i
        return 0

    def count(self, order: list[Step], factor: float) -> int:
        """Heats for the same order when all work takes `factor` times as long."""
        total, used, floor, alone, cold, low, high = 0, math.inf, 0, True, False, 0.0, 0.0
        inside: list[int] = []
        for step in order:  # the same tests as `_Open.takes`, on plain numbers: this runs twice for every key
            number, operation = step.number, step.operation
            need, (start, end) = min(step.need * factor, _HOPELESS), self.zones[number]
            if operation.cold or cold:
                shared = cold and operation.cold
            else:
                shared = (
                    used + need <= FULL and operation.stop_below <= floor and not alone and not operation.alone
                    and max(high, end) - min(low, start) <= self.longest + _SPARE
                    and self.apart[number].isdisjoint(inside)
                )  # fmt: skip
            if shared:
                used, low, high, floor = used + need, min(low, start), max(high, end), operation.stop_below
                inside.append(number)
                continue
            parts = _parts(need)
            used, low, high, floor, alone, cold = need / parts, start, end, operation.stop_below, operation.alone, operation.cold
            inside = [number]
            total += 0 if cold else parts
        return total

    def _place(self, packed: list[_Open], step: Step, need: float) -> None:
        zone = self.zones[step.number]
        if packed and packed[-1].takes(step, need, zone, self.apart[step.number]):
            packed[-1].add(step, need, zone)
            return
        parts = _parts(need)
        packed.extend(_Open(step, i / parts, (i + 1) / parts, need / parts, zone, self.longest) for i in range(parts))


def _parts(need: float) -> int:
    """Heats that a step begun on its own is spread over."""
    return max(1, math.ceil(need - (FULL - 1)))


def _need(step: Step, factor: float) -> float:
    return min(step.need * factor, _HOPELESS)  # a hopeless step is flagged by a check; 30 heats is where a plan stops meaning anything


def _heats(piece: Piece, reckoning: Reckoning, packed: tuple[_Open, ...], tied: Ties) -> tuple[Heat, ...]:
    last = {z.feature.id: len(operations_of(z.feature, z.place)) - 1 for z in reckoning.zones}
    progress = {identity: UNDONE if number >= 0 else DONE for identity, number in last.items()}
    heats: list[Heat] = []
    number = 0
    for item in packed:
        cold = item.cold
        number += not cold
        before = dict(progress)
        for step, _start, stop in item.items:
            identity = step.feature.id
            progress[identity] = _advance(progress[identity], step, stop, stop == 1 and step.order == last[identity])
        work = tuple(Work(s, a, b, tied.because[s.number]) for s, a, b in item.items)
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
    last = min((s.operation for s, _a, _b in item.items), key=lambda o: o.stop_below)
    start, stop = range_of_heat(last, steel)
    seconds = window(start, stop, bar.area, bar.perimeter, item.zone[1] - item.zone[0], bar.thickness, steel.carbon)
    weld = last.verb in WELDS
    hot, low = (steel.weld if weld else steel.start), steel.stop(last.stop_below, weld=weld)
    return Heat(number, _fire(item.zone, reckoning.cut), item.zone, hot, low, work, seconds, item.used, before, after)


def _fire(zone: tuple[float, float], cut: float) -> str:
    from_a, from_b = zone[1], cut - zone[0]
    if min(from_a, from_b) > _REACH:
        return "middle"
    return "A" if from_a <= from_b else "B"
