"""Pack an order of operations into heats, and what an order costs."""

from __future__ import annotations

import math
from bisect import insort
from collections.abc import Iterable, Sequence
from copy import copy

from long_ember.features import VERBS, Outer, Piece
from long_ember.frozen import dataclass
from long_ember.heats.operations import ForgeSettings, fire_end, hot_zone
from long_ember.heats.rules import Rule, Ties
from long_ember.heats.step import Step
from long_ember.stock import Reckoning

__all__ = [
    "EMPTY",
    "FULL",
    "HOPELESS",
    "SPARE",
    "Filled",
    "OrderCost",
    "Packer",
    "State",
    "begun",
    "cools_between",
    "least_extra",
    "on_long_bar",
]

FULL = 1.15  # heats that a smith gets out of one by hurrying (computations, section 14)
HOPELESS = 30.0  # heats; more than that is as good as never
SPARE = 60.0  # mm past the limit that a shared heat may stretch, since its far end is worked first
# What a plan weighs beside its heats, in heats: judgement, not measured. Half a minute to turn a bar end for end, seconds for a tool,
# a cooling and a fresh heat from cold for cold work in between.
_SWAP, _TOOL, _COLD = 0.25, 0.06, 0.6
_BETWEEN = 0.001  # a mm heated between two places that share a heat: it scales for nothing, and takes the fire longer
_BLACK = 450  # °C; what stops below is done at a black heat
_WAS_HOT = 1.0  # in the place of the share used, of cold work after a heat
_DIP = 4.0  # s to dip a curl, a neck or a wall inside a heat (computations, section 14)


@dataclass(frozen=True, slots=True)
class OrderCost:
    """What an order costs.

    Args:
        heats: times out of the fire.
        swaps: times the bar is turned end for end.
        tools: changes from one main tool to another.
        colds: coolings for cold work between heats.
        between: mm of bar that lie in the fire only because they are between two places of work.
        broken: betters that do not hold, with the step each would hold back.
    """

    heats: int
    swaps: int
    tools: int
    colds: int
    between: float
    broken: tuple[tuple[Rule, int], ...]

    @property
    def total(self) -> float:
        """All of it, in heats; the planner makes it least."""
        extra = _SWAP * self.swaps + _TOOL * self.tools + _COLD * self.colds + _BETWEEN * self.between
        return self.heats + extra + sum(r.weight for r, _n in self.broken)


# The heat being filled, as a plain tuple because a search makes tens of thousands: share used of the window of the step last put, temperature
# floor, hot zone from and to, a step that wants it for itself, cold, a bit for each step in it, end in the fire ("" while either would do),
# end last in the fire, main tool, and that window in seconds: a bend has seconds left where the drawing before it has none. Of cold work the
# first says whether the bar has been in the fire: what is heated again has to cool in between, what is not would cool anyway.
State = tuple[float, int, float, float, bool, bool, int, str, str, str, float]
EMPTY: State = (math.inf, 0, 0.0, 0.0, True, True, 0, "", "", "", 1.0)


def on_long_bar(piece: Piece) -> str:
    """End at which the piece hangs on its long bar until it is parted off, A or B; "" where it is sawn off before."""
    cut = next((f for f in piece.features if f.kind == "part-off"), None)
    if isinstance(cut, Outer):
        return cut.toward
    return "B" if piece.allowances.parting else ""


class Filled:
    """A heat of the plan: one or more steps, or a part of one."""

    __slots__ = ("cold", "items", "used", "zone")

    def __init__(self, step: Step, start: float, stop: float, used: float, zone: tuple[float, float]) -> None:
        self.items = [(step, start, stop)]
        self.used, self.zone, self.cold = used, zone, step.operation.cold

    def add(self, step: Step, used: float, zone: tuple[float, float]) -> None:
        """Let `step` share it."""
        self.items.append((step, 0.0, 1.0))
        self.used, self.zone = used, zone


class Packer:
    """The numbers of all steps that packing and planning look at.

    Args:
        steps: all operations.
        tied: the rules at work.
        reckoning: the zones on the bar.
        thickness: mm, of the bar.
        forge: the fire's even heat.
        hung: end at which it hangs on the long bar, see `on_long_bar`.
    """

    def __init__(
        self, steps: tuple[Step, ...], tied: Ties, reckoning: Reckoning, thickness: float, forge: ForgeSettings, hung: str = ""
    ) -> None:
        self.steps, self.tied, self.longest = steps, tied, forge.hot_length + SPARE
        cut = reckoning.cut
        hot = [hot_zone(s.start, s.end, cut, thickness) for s in steps]
        free = {s.number for s in steps if any(r.id == "free-end" for r in tied.because[s.number])}
        ends = [
            fire_end(low, high, cut) if s.number in free or not hung else "A" if hung == "B" else "B"
            for s, (low, high) in zip(steps, hot, strict=True)
        ]
        self.needs = [min(s.need, HOPELESS) for s in steps]  # a hopeless step is flagged by a check
        # What is taken in more heats than its work asks for fills none of them.
        self.fills = [min(s.effort / s.need, 1.0) if s.least and s.need < HOPELESS else 1.0 for s in steps]
        self.windows = [s.window or 1.0 for s in steps]
        # Struck end on, bar that is hot beyond what should swell gives way: what is upset shares a heat only where that is no longer for it.
        self.short, self.beside = sum(1 << s.number for s in steps if s.operation.verb == "upset"), thickness
        self.even = sum(1 << s.number for s in steps if s.operation.goes > 1)
        self.rows = [
            (
                o.stop_below,
                *hot[s.number],
                o.alone,
                o.cold,
                tied.apart[s.number],
                tied.dips[s.number],
                1 << s.number,
                "" if o.cold else ends[s.number],
                next(iter(s.method.tools), ""),
            )
            for s in steps
            for o in (s.operation,)
        ]

    @property
    def signature(self) -> tuple[object, ...]:
        """Everything the planner's answer depends on."""
        return (
            self.tied,
            tuple(self.needs),
            tuple(self.fills),
            tuple(self.windows),
            tuple(self.rows),
            self.longest,
            self.short,
            self.beside,
            self.even,
        )

    def put(self, state: State, n: int, need: float) -> tuple[State, bool, int, float]:
        """Do step `n` next.

        Returns:
            The heat then being filled, whether the step shares it, heats begun for it, and swaps, tools and colds in heats.
        """
        used, top, from_, to, lone, was_cold, inside, fire, held, last, lasted = state
        floor, low, high, alone, cold, apart, dips, bit, end, tool = self.rows[n]
        extra = _TOOL if tool != last and last else 0.0
        if end:
            if held and end != held:
                extra += _SWAP
            held = end
        lasts = self.windows[n]
        # At a black heat nothing of the work before counts: it is done as the piece cools.
        shared_use = need if floor < _BLACK else (used * lasted + (_DIP if dips & inside else 0.0)) / lasts + need
        # Hot and cold never share a step of the plan, and nobody holds the hot end.
        if cold or was_cold:
            shared = cold and was_cold
        elif shared_use > FULL or floor > top or lone or alone or (end and fire and end != fire) or apart & inside:
            shared = False
        else:
            begins, ends = low if low < from_ else from_, high if high > to else to
            # What lies apart is heated with the bar between: the fire reaches no further than it heats evenly.
            shared = ends - begins <= self.longest - min(_idle(begins, ends, low, high, from_, to), SPARE)
            if shared and (inside | bit) & self.short:
                own = (low, high) if bit & self.short else (from_, to)
                shared = begins >= own[0] - self.beside and ends <= own[1] + self.beside
        if shared:
            begins, ends = low if low < from_ else from_, high if high > to else to
            if cold:
                shared_use = used if used == _WAS_HOT else 0.0
            else:
                extra += _BETWEEN * _idle(begins, ends, low, high, from_, to)
            return (shared_use, floor, begins, ends, False, cold, inside | bit, end or fire, held, tool, lasts), True, 0, extra
        if cold:
            return (_WAS_HOT, floor, low, high, False, True, bit, "", held, tool, lasts), False, 0, extra
        if was_cold and used == _WAS_HOT:
            extra += _COLD
        parts = begun(need)
        # All but the last are worked to their end: what is left of the last is for the next operation. Steps of an upset are alike.
        last_share = need / parts if bit & self.even else need - parts + 1
        return (last_share * self.fills[n], floor, low, high, alone, False, bit, end, held, tool, lasts), False, parts, extra

    def greedy(self) -> list[int]:
        """An order that keeps every rule it can without weighing: what fits the heat at hand comes first."""
        order: list[int] = []
        state = EMPTY
        ranks = [(s.operation.cold, VERBS.index(s.operation.verb), s.number) for s in self.steps]  # cold last, then by verb
        blockers = [set(w) for w in self.tied.waits]
        ready = sorted(ranks[n] for n, w in enumerate(blockers) if not w)
        while ready:
            at = next((i for i, (_c, _v, n) in enumerate(ready) if self.put(state, n, self.needs[n])[1]), 0) if order else 0
            if ready[at][0] and not ready[0][0]:
                at = 0  # cold work waits while there is hot work to do
            best = ready.pop(at)[2]
            order.append(best)
            state = self.put(state, best, self.needs[best])[0]
            for n in self.tied.frees[best]:
                blockers[n].discard(best)
                if not blockers[n]:
                    insort(ready, ranks[n])
        return order

    def keeps(self, order: Sequence[int]) -> bool:
        """Whether an order holds every step once and keeps every must."""
        if len(order) != len(self.steps) or sorted(order) != list(range(len(self.steps))):
            return False
        done = 0
        for n in order:
            if self.tied.hard[n] & ~done:
                return False
            done |= 1 << n
        return True

    def total(self, order: Iterable[int]) -> float:
        """What an order costs, in heats: the same as `cost(order).total`, without naming anything."""
        return self.prefixes(order)[-1][1]

    def prefixes(self, order: Iterable[int]) -> list[tuple[State, float, int]]:
        """The heat being filled, what it has cost so far, and a bit for each step done: before the first step and after each."""
        at: tuple[State, float, int] = (EMPTY, 0.0, 0)
        found = [at]
        for n in order:
            at = self.after(at, n)
            found.append(at)
        return found

    def after(self, at: tuple[State, float, int], n: int) -> tuple[State, float, int]:
        """One step further, see `prefixes`."""
        state, total, done = at
        state, _shared, heats, extra = self.put(state, n, self.needs[n])
        total += heats + extra
        for mask, weight, _rule in self.tied.soft[n]:
            if mask & ~done:
                total += weight
        return state, total, done | 1 << n

    def cost(self, order: Iterable[int]) -> OrderCost:
        """What an order costs, item by item."""
        state, done, heats, swaps, tools, colds, between, broken = EMPTY, 0, 0, 0, 0, 0, 0.0, list[tuple[Rule, int]]()
        for n in order:
            used, _floor, low, high, _lone, was_cold, _inside, _fire, held, tool, _lasted = state
            state, shared, begun, _extra = self.put(state, n, self.needs[n])
            if shared and not state[5]:
                between += _idle(state[2], state[3], self.rows[n][1], self.rows[n][2], low, high)
            heats += begun
            swaps += bool(held) and state[8] != held
            tools += bool(tool) and state[9] != tool
            colds += was_cold and used == _WAS_HOT and not state[5]
            broken.extend((rule, n) for mask, _w, rule in self.tied.soft[n] if mask & ~done)
            done |= 1 << n
        return OrderCost(heats, swaps, tools, colds, between, tuple(broken))

    def count(self, order: Iterable[int], factor: float) -> int:
        """Heats for an order when all work takes `factor` times as long."""
        state, heats = EMPTY, 0
        for n in order:
            step = self.steps[n]
            state, _shared, begun, _extra = self.put(state, n, min(max(step.effort * factor, step.least), HOPELESS))
            heats += begun
        return heats

    def paced(self, factor: float) -> Packer:
        """Return the packer of a smith whose work takes `factor` times as long."""
        steps = tuple(s._replace(effort=s.effort * factor, need=max(s.effort * factor, s.least)) for s in self.steps)
        found = copy(self)
        found.steps, found.needs = steps, [min(s.need, HOPELESS) for s in steps]
        found.fills = [min(s.effort / s.need, 1.0) if s.least and s.need < HOPELESS else 1.0 for s in steps]
        return found

    def fill(self, order: Iterable[int]) -> list[Filled]:
        """The heats and cold steps of an order."""
        packed: list[Filled] = []
        state = EMPTY
        for n in order:
            step = self.steps[n]
            state, shared, parts, _extra = self.put(state, n, self.needs[n])
            zone = state[2], state[3]
            if shared and packed:
                packed[-1].add(step, state[0], zone)
                continue
            if parts <= 1:
                packed.append(Filled(step, 0.0, 1.0, state[0], zone))
                continue
            even = self.even >> n & 1
            need, used = (float(parts), state[0]) if even else (self.needs[n], self.fills[n])
            packed.extend(Filled(step, i / need, (i + 1) / need, used, zone) for i in range(parts - 1))
            packed.append(Filled(step, (parts - 1) / need, 1.0, state[0], zone))
        return packed


def _idle(begins: float, ends: float, low: float, high: float, from_: float, to: float) -> float:
    """mm between two hot zones that lie apart and share a heat that begins and ends there."""
    return max(ends - begins - (high - low) - (to - from_), 0.0)


def begun(need: float) -> int:
    """Heats that a step begun on its own is spread over."""
    return max(1, math.ceil(need - (FULL - 1)))


def cools_between(state: State) -> bool:
    """What is heated next was hot before, and cools between for cold work."""
    return state[5] and state[0] == _WAS_HOT


def least_extra(cooling: bool, turning: bool, tools: int) -> float:
    """What a cooling, a turn end for end and changes of tool cost, in heats."""
    return _COLD * cooling + _SWAP * turning + _TOOL * tools
