"""Order rules as data: which verb comes before which, where, how strongly, and why."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from typing import NamedTuple

from long_ember.features import VERBS, Outer
from long_ember.heats.operations import Step

__all__ = ["RULES", "Rule", "Tie", "Ties", "ties"]

_BENT = frozenset({"bend", "hook", "curl", "scroll", "eye"})
_DRAWN = frozenset({"draw", "setdown", "upset", "spread"})
_PIERCED = frozenset({"punch", "drill"})
_ANY = frozenset(VERBS)


@dataclass(frozen=True, slots=True)
class Rule:
    """One rule of order.

    Args:
        id: stable name.
        strength: must or better.
        reason: one sentence, shown to the smith.
        before: verbs that come first.
        after: verbs that follow.
        where: which pairs of places it ties, a key of `_WHERE`.
        apart: the two may not share a heat.
    """

    id: str
    strength: str
    reason: str
    before: frozenset[str]
    after: frozenset[str]
    where: str
    apart: bool = False


@dataclass(frozen=True, slots=True)
class Tie:
    """A rule at work between two steps, by their numbers."""

    rule: Rule
    before: int
    after: int


RULES: tuple[Rule, ...] = (
    Rule(
        "own-order", "must", "A feature is drawn before it is turned.",
        _ANY, _ANY, "same",
    ),
    Rule(
        "draw-first", "must", "All drawing and upsetting at both ends before any bend, scroll or twist: the bar is still straight.",
        _DRAWN, _BENT | {"twist"}, "any",
    ),
    Rule(
        "curl-first", "must", "The curl before the bend behind it, and cooled first: afterwards it can't be reached and gets crushed.",
        frozenset({"curl", "scroll"}), frozenset({"hook", "bend"}), "behind", apart=True,
    ),
    Rule(
        "middle-first", "must", "Holes and eyes in the middle before the ends are scrolled: the bar still lies flat.",
        _PIERCED | {"eye"}, frozenset({"scroll", "curl"}), "middle-end",
    ),
    Rule(
        "grips", "must", "Twist while vice and wrench can still grip on both sides.",
        frozenset({"twist"}), _BENT, "near", apart=True,
    ),
    Rule(
        "split-first", "must", "The cut before the bend or scroll beside it: a bent end can't be split on the plate.",
        frozenset({"split"}), _BENT, "near",
    ),
    Rule(
        "weld-first", "must", "Welds before bends and twists: the joint is hammered, and what is finished would be spoilt.",
        frozenset({"weld"}), _BENT | {"twist"}, "any",
    ),
    Rule(
        "close-last", "must", "A ring is bent before it is closed, and welded while its ends lie against each other.",
        _BENT, frozenset({"close"}), "any",
    ),
    Rule(
        "part-late", "better", "Part off late: until then the long bar is its own handle.",
        _DRAWN | _BENT | {"twist", "weld", "split", "punch", "texture"}, frozenset({"cut"}), "any",
    ),
    Rule(
        "cold-last", "must", "Threads and filed edges last: hammer and fire would spoil them.",
        _DRAWN | _BENT | {"twist", "weld", "close", "split", "punch", "texture"}, frozenset({"thread", "file"}), "any",
    ),
    Rule(
        "heavy-first", "better", "Heavy welding or drawing beside a hole before the hole.",
        frozenset({"weld", "draw", "spread"}), _PIERCED, "near",
    ),
    Rule(
        "texture-late", "better", "Surface work late, while the piece is warm: drawing would hammer it out again.",
        _DRAWN, frozenset({"texture"}), "any",
    ),
    Rule(
        "upset-first", "better", "The upset before the drawing beside it: the cold bar behind it stays stiff.",
        frozenset({"upset"}), frozenset({"draw", "setdown"}), "near",
    ),
    Rule(
        "holes-before-bend", "better", "Holes before the bend: the bar still lies flat on the bolster or the drill table.",
        _PIERCED, frozenset({"hook", "bend"}), "any",
    ),
)  # fmt: skip


class _Seat(NamedTuple):
    """What the rules look at: all that does not change while a dimension is typed."""

    number: int
    verb: str
    position: int
    order: int
    inwards: int


def _behind(first: _Seat, second: _Seat, last: int) -> bool:
    """`second` stands between `first` and the far end of the bar, within two features."""
    return 0 < (second.position - first.position) * first.inwards <= 2


def _middle_end(first: _Seat, second: _Seat, last: int) -> bool:
    return 0 < first.position < last and second.position in (0, last)


def _near(first: _Seat, second: _Seat, last: int) -> bool:
    return 0 < abs(first.position - second.position) <= 2


_WHERE: dict[str, Callable[[_Seat, _Seat, int], bool]] = {
    "same": lambda a, b, last: a.position == b.position and a.order < b.order,
    "any": lambda a, b, last: a.position != b.position,
    "behind": _behind,
    "middle-end": _middle_end,
    "near": _near,
}


@dataclass(frozen=True, eq=False)
class Ties:
    """All ties of a piece, and what follows from them; remembered while only dimensions change.

    Args:
        pairs: every tie.
        waits: by step, the steps that come before it.
        frees: by step, the steps that wait for it.
        apart: by step, the steps it may not share a heat with.
        because: by step, the rules that hold it back, without repeats; a feature's own order is left out.
    """

    pairs: tuple[Tie, ...]
    waits: tuple[frozenset[int], ...]
    frees: tuple[tuple[int, ...], ...]
    apart: tuple[frozenset[int], ...]
    because: tuple[tuple[Rule, ...], ...]


def ties(steps: tuple[Step, ...], rules: tuple[Rule, ...] = RULES) -> Ties:
    """Every pair of steps that a rule ties; a `better` that would close a circle is left out.

    Args:
        steps: all operations of the piece.
        rules: musts are kept as they are; they never contradict each other for the features known.
    """
    return _ties(tuple(_seat(s) for s in steps), rules)


def _seat(step: Step) -> _Seat:
    toward = step.feature.toward if isinstance(step.feature, Outer) else ""
    return _Seat(step.number, step.operation.verb, step.position, step.order, {"A": 1, "B": -1, "": 0}[toward])


@lru_cache(maxsize=64)
def _ties(seats: tuple[_Seat, ...], rules: tuple[Rule, ...]) -> Ties:
    pairs = _all_pairs(seats, rules)
    mine = [[t for t in pairs if t.after == s.number] for s in seats]
    return Ties(
        pairs,
        tuple(frozenset(t.before for t in own) for own in mine),
        tuple(tuple({t.after: None for t in pairs if t.before == s.number}) for s in seats),
        tuple(frozenset(t.before for t in own if t.rule.apart) for own in mine),
        tuple(tuple(dict.fromkeys(t.rule for t in own if t.rule.id != "own-order")) for own in mine),
    )


def _all_pairs(seats: tuple[_Seat, ...], rules: tuple[Rule, ...]) -> tuple[Tie, ...]:
    last = max((s.position for s in seats), default=0)
    found: list[Tie] = []
    follows: dict[int, set[int]] = {s.number: set() for s in seats}
    for rule in sorted(rules, key=lambda r: r.strength != "must"):
        for a, b in _pairs(rule, seats, last):
            if rule.strength != "must" and _reaches(follows, b.number, a.number):
                continue
            follows[a.number].add(b.number)
            found.append(Tie(rule, a.number, b.number))
    return tuple(found)


def _pairs(rule: Rule, seats: tuple[_Seat, ...], last: int) -> list[tuple[_Seat, _Seat]]:
    where = _WHERE[rule.where]
    seconds = [s for s in seats if s.verb in rule.after]
    return [(a, b) for a in seats if a.verb in rule.before for b in seconds if a is not b and where(a, b, last)]


def _reaches(follows: dict[int, set[int]], start: int, goal: int) -> bool:
    seen, stack = {start}, [start]
    while stack:
        at = stack.pop()
        if at == goal:
            return True
        stack.extend(follows[at] - seen)
        seen |= follows[at]
    return False
