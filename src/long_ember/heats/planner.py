"""Find the order of operations that costs least, see `packing.Cost`, among all that keep the musts."""

from __future__ import annotations

import math
from collections.abc import Callable, Generator
from functools import cache
from heapq import nsmallest

from long_ember.heats.packing import EMPTY, FULL, Packer, State, begun, cools_between, least_extra

__all__ = ["Plan", "found_before", "planning"]

_EXACT = 9  # steps up to which every order is looked through
_WIDEST = 100_000
_STEPS = 64  # trial placings, or sums of what is left, between which the window goes on
_WORK = 15_000  # trial placings: counted, not timed, so that every machine finds the same plan
_PROVEN = 16  # steps up to which the best order is proven, where that takes no more than so many trial placings
_MOST_PROOF = 40_000
_FAR = 14  # places that a step is moved to either side to better a plan

Plan = tuple[int, ...]
# (state, cost, done) of `Packer.prefixes`, and the order so far as a chain of (last step, chain)
_Node = tuple[tuple[State, float, int], "tuple[int, object] | None"]


_found: dict[tuple[object, ...], Plan] = {}


def found_before(packer: Packer) -> bool:
    """Whether the best order has been looked for before, and is at hand."""
    return packer.signature in _found


def planning(packer: Packer) -> Generator[None, None, Plan]:
    """The order that costs least, as far as the search goes, in small portions: whoever stops asking has cancelled it.

    Exactly for few steps, else the best of beam search and small moves; never worse than the greedy order. The last answers are remembered.
    """
    key = packer.signature
    if key not in _found:
        best = tuple(packer.greedy())
        yield
        if len(best) > 1:
            beam = yield from _beam(packer)
            if beam and packer.total(beam) < packer.total(best) - 1e-9:
                best = beam
            if len(best) > _EXACT:
                best = yield from _moved(packer, best)
            if len(best) <= _PROVEN:
                best = yield from _proven(packer, best)
        if len(_found) > 256:
            _found.pop(next(iter(_found)))
        _found[key] = best
    return _found[key]


def _beam(packer: Packer) -> Generator[None, None, Plan]:
    """Orders grown step by step; of those that have done the same and stand alike only the cheapest, and of all the most promising."""
    count, needs = len(packer.steps), packer.needs
    width = _WIDEST if count <= _EXACT else max(10, _WORK // (count * 6))
    left = [1.0 if row[3] else need / FULL for row, need in zip(packer.rows, needs, strict=True)]
    ready = _readiness(packer.tied.hard, count)
    level: list[_Node] = [((EMPTY, 0.0, 0), None)]
    work = 0
    for _depth in range(count):
        best: dict[tuple[object, ...], _Node] = {}
        for at, chain in level:
            for n in ready(at[2]):
                after = packer.after(at, n)
                state, cost, done = after
                work += 1
                if work % _STEPS == 0:
                    yield
                key = (done, state[6], state[8], state[9])
                known = best.get(key)
                if known is None or cost < known[0][1]:
                    best[key] = (after, (n, chain))
        level = list(best.values())
        if len(level) > width:
            level = yield from _most_promising(level, left, width)
        yield
    return _unchained(min(level, key=lambda node: node[0][1])[1]) if level else ()


def _proven(packer: Packer, best: Plan) -> Generator[None, None, Plan]:
    """The order that costs least, by dynamic programming over what is done, what is in the heat, and what was last.

    What stands alike is kept where it costs less or leaves more of the heat; what can't come below the best known order is dropped: the
    rest costs at least its long operations' own heats, the seconds of the others in the longest window, a change for each other tool, a
    cooling where work goes on after cold work and a turn for the other end.
    """
    count, limit = len(packer.steps), packer.total(best)
    ready, rest = _readiness(packer.tied.hard, count), _rest_of(packer)
    level: dict[tuple[int, int, int, str], list[_Node]] = {(0, 0, -1, ""): [((EMPTY, 0.0, 0), None)]}
    work = 0
    for _depth in range(count):
        grown: dict[tuple[int, int, int, str], list[_Node]] = {}
        for nodes in level.values():
            for at, chain in nodes:
                for n in ready(at[2]):
                    after = packer.after(at, n)
                    state, cost, done = after
                    work += 1
                    if work % _STEPS == 0:
                        yield
                        if work > _MOST_PROOF:
                            return best
                    if cost + rest(done, state) >= limit - 1e-9:
                        continue
                    known = grown.setdefault((done, state[6], n, state[8]), [])
                    if any(c[0][1] <= cost + 1e-12 and c[0][0][0] <= state[0] + 1e-12 for c in known):
                        continue
                    known[:] = [c for c in known if not (cost <= c[0][1] and state[0] <= c[0][0][0])]
                    known.append((after, (n, chain)))
        if not grown:
            return best
        level = grown
    found = min((node for nodes in level.values() for node in nodes), key=lambda node: node[0][1])
    return _unchained(found[1])


def _rest_of(packer: Packer) -> Callable[[int, State], float]:
    """What the steps that are left cost at least, in heats."""
    count = len(packer.steps)
    cold = [row[4] for row in packer.rows]
    own = [0 if cold[n] else begun(packer.needs[n]) if packer.rows[n][3] or packer.needs[n] > FULL else 0 for n in range(count)]
    seconds = [0.0 if cold[n] or own[n] else packer.needs[n] * packer.windows[n] for n in range(count)]

    @cache
    def known(left: int) -> tuple[float, float, float, bool, frozenset[str], frozenset[str]]:
        numbers = [n for n in range(count) if left >> n & 1]
        longest = max((packer.windows[n] for n in numbers if seconds[n]), default=1.0)
        tools, ends = (frozenset(str(packer.rows[n][i]) for n in numbers) for i in (9, 8))
        return (
            float(sum(own[n] for n in numbers)),
            math.fsum(seconds[n] for n in numbers),
            longest,
            any(not cold[n] for n in numbers),
            tools,
            ends - {""},
        )

    whole = (1 << count) - 1

    def rest(done: int, state: State) -> float:
        heats, shared, longest, hot, tools, ends = known(whole & ~done)
        used, held, tool, lasted = state[0], state[8], state[9], state[10]
        room = max(FULL * longest - used * lasted, 0.0) if not state[4] and not state[5] else 0.0
        # Every long operation may leave its last heat to others, too.
        more = (shared - room - heats * FULL * longest) / (FULL * longest)
        return (
            heats
            + max(more, 0.0)
            + least_extra(hot and cools_between(state), bool(held) and bool(ends - {held}), len(tools - {tool}) if tool else 0)
        )

    return rest


def _most_promising(level: list[_Node], left: list[float], width: int) -> Generator[None, None, list[_Node]]:
    """Those with the least cost so far, and heats that the rest takes at the least."""
    rest: dict[int, float] = {}
    for (_state, _cost, done), _chain in level:
        if done not in rest:
            rest[done] = sum(x for n, x in enumerate(left) if not done >> n & 1)
            if not len(rest) % _STEPS:
                yield
    return nsmallest(width, level, key=lambda node: node[0][1] + max(0.0, rest[node[0][2]] - max(0.0, 1 - node[0][0][0] / FULL)))


def _readiness(hard: tuple[int, ...], count: int) -> Callable[[int], tuple[int, ...]]:
    """Which steps can come next, remembered by what is done."""

    @cache
    def ready(done: int) -> tuple[int, ...]:
        return tuple(n for n in range(count) if not done >> n & 1 and not hard[n] & ~done)

    return ready


def _unchained(chain: object) -> Plan:
    found: list[int] = []
    while isinstance(chain, tuple):
        found.append(chain[0])
        chain = chain[1]
    return tuple(reversed(found))


def _moved(packer: Packer, order: Plan) -> Generator[None, None, Plan]:
    """Single steps moved while that betters the plan."""
    best, work, pause, better = list(order), 0, _STEPS, True
    steps = packer.prefixes(best)
    while better and work < _WORK:
        better = False
        for n in list(best):
            at = best.index(n)
            rest = best[:at] + best[at + 1 :]
            for to in range(max(0, at - _FAR), min(len(rest), at + _FAR) + 1):
                if to == at or not _allowed(packer, rest, min(at, to), to, n):
                    continue
                found, tried = _tail(packer, steps[min(at, to)], [*rest[min(at, to) : to], n, *rest[to:]], steps[-1][1])
                work += tried
                if work >= pause:
                    pause = work + _STEPS
                    yield
                if found < steps[-1][1] - 1e-9:
                    best, better = [*rest[:to], n, *rest[to:]], True
                    steps = packer.prefixes(best)
                    break
            if work > _WORK:
                break
    return tuple(best)


def _tail(packer: Packer, at: tuple[State, float, int], order: list[int], limit: float) -> tuple[float, int]:
    """What an order costs in all when it goes on like this; no further than `limit`."""
    for i, n in enumerate(order):
        at = packer.after(at, n)
        if at[1] >= limit:
            return at[1], i + 1
    return at[1], len(order)


def _allowed(packer: Packer, rest: list[int], same: int, to: int, n: int) -> bool:
    """Whether step `n`, put at place `to` of the others, keeps the musts; the places before `same` are as they were."""
    hard = packer.tied.hard
    if any(hard[m] >> n & 1 for m in rest[same:to]):
        return False
    return not any(hard[n] >> m & 1 for m in rest[to:])
