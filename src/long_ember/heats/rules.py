"""Order rules as data: which operations come before which, where, how strongly, and why."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterable
from functools import lru_cache
from typing import NamedTuple

from long_ember.features import VERBS, Outer, Overrule, Pin, shape_of
from long_ember.frozen import dataclass
from long_ember.heats.step import Step
from long_ember.stock import Reckoning

__all__ = ["MATCHES", "PINNED", "RULES", "WHERE", "Rule", "Tie", "Ties", "ties"]

_BENT = frozenset({"bend", "hook", "curl", "scroll", "eye"})
_DRAWN = frozenset({"draw", "setdown", "upset", "spread"})
_PIERCED = frozenset({"punch", "drill"})
_ANY = frozenset(VERBS)
_HOT = frozenset(VERBS) - {"drill", "tap", "thread", "file"}

# What a rule can speak of: every verb, and the ways that are told apart.
MATCHES = {
    "draw": "drawing", "point": "drawing a point", "taper": "drawing a taper", "spread": "spreading", "setdown": "setting down", "neck": "necking", "isolate": "setting off a neck",
    "upset": "upsetting", "head": "heading", "ball": "forming a ball", "weld": "welding on", "close": "welding a ring", "split": "splitting",
    "punch": "punching", "drift": "drifting", "twist": "twisting", "eye": "turning an eye", "curl": "curling", "scroll": "scrolling", "bend": "bending",
    "hook": "turning a hook", "texture": "surface work", "lines": "chiselling lines", "touch-mark": "the touch mark", "cut": "parting off", "crop": "cutting off what is over",
    "drill": "drilling", "tap": "tapping", "thread": "threading", "file": "filing",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class Rule:
    """One rule of order.

    Args:
        id: stable name.
        strength: must, better, or either: then it holds only for those of its school.
        reason: one sentence, shown to the smith.
        before: verbs or ways that come first.
        after: verbs or ways that follow.
        where: which pairs of places it ties, a key of `WHERE`.
        apart: the two may not share a heat.
        weight: of a better, in heats: what breaking it may save at most.
        school: key and choice under which it holds, as "first=point"; "" always.
    """

    id: str
    strength: str
    reason: str
    before: frozenset[str]
    after: frozenset[str]
    where: str
    apart: bool = False
    weight: float = 0.3
    school: str = ""


@dataclass(frozen=True, slots=True)
class Tie:
    """A rule at work between two steps, by their numbers."""

    rule: Rule
    before: int
    after: int


PINNED = Rule("pinned", "must", "You pinned this order.", frozenset(), frozenset(), "any")
_OWN = Rule("own-order", "must", "A feature is drawn before it is turned.", _ANY, _ANY, "same")

RULES: tuple[Rule, ...] = (
    _OWN,
    Rule("steel-first", "must", "What is bent or pierced there is drawn first: its place is measured on the drawn bar.", _ANY, _ANY, "under"),
    Rule("as-laid", "must", "Works on one stretch follow each other as you have laid them on.", _ANY, _ANY, "listed"),
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
        "grips", "must", "Twist in an even heat of its own while vice and wrench can still grip on both sides.",
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
        "lines-first", "must", "Chisel lines before anything is folded or bent beside them: afterwards the chisel can't reach.",
        frozenset({"lines", "stamp"}), _BENT | {"folded"}, "near",
    ),
    Rule(
        "cold-last", "must", "Threads and filed edges last: hammer and fire would spoil them.",
        _DRAWN | _BENT | {"twist", "weld", "close", "split", "punch", "texture"}, frozenset({"thread", "file"}), "any",
    ),
    Rule(
        "tap-last", "must", "Tap when nothing goes into the fire beside it any more: scale and hammer spoil a thread.",
        _HOT - {"cut"}, frozenset({"tap"}), "near",
    ),
    Rule(
        "part-late", "better", "Part off late: until then the long bar is its own handle.",
        _DRAWN | _BENT | {"twist", "weld", "split", "punch", "texture"}, frozenset({"cut"}), "any", weight=0.6,
    ),
    Rule(
        "heavy-first", "better", "Heavy welding or drawing beside a hole before the hole.",
        frozenset({"weld", "draw", "spread", "setdown", "upset"}), _PIERCED, "near", weight=0.8,
    ),
    Rule(
        "ball-first", "better", "A ball before the drawing beside it: upsetting wants the full bar behind it.",
        frozenset({"ball", "head"}), _DRAWN, "near", weight=0.5,
    ),
    Rule(
        "upset-first", "better", "The upset before the drawing beside it: the cold bar behind it stays stiff.",
        frozenset({"upset"}), frozenset({"draw", "setdown"}), "near", weight=0.5,
    ),
    Rule(
        "tip-first", "better", "Point first, then the taper behind it, working back from the tip.",
        frozenset({"point", "taper"}), frozenset({"taper", "setdown"}), "behind",
    ),
    Rule(
        "crop-soon", "better", "What is over is cut off in the heat that made it, before anything is bent or twisted.",
        frozenset({"crop"}), _BENT | {"twist", "texture"}, "any", weight=0.6,
    ),
    Rule(
        "isolate-first", "better", "The neck is set off before what lies beside it is worked: its shoulder keeps the steel apart.",
        frozenset({"isolate"}), frozenset({"spread", "ball", "draw", "point", "taper", "setdown"}), "near", weight=0.5,
    ),
    Rule(
        "neck-late", "better", "The neck stays thick until the leaf or ball beside it is finished.",
        frozenset({"spread", "ball", "point", "taper"}), frozenset({"neck"}), "near", weight=0.5,
    ),
    Rule(
        "holes-before-bend", "better", "Holes before the bend: the bar still lies flat on the bolster or the drill table.",
        _PIERCED | {"tap"}, frozenset({"hook", "bend"}), "any",
    ),
    Rule(
        "ends-first", "better", "The ends are rolled before the bar is bent in the middle: bent, it swings and no longer lies in the fire.",
        frozenset({"scroll", "curl", "eye", "hook"}), frozenset({"bend"}), "any",
    ),
    Rule(
        "risk-first", "better", "The riskiest work first, so that a failure costs least.",
        frozenset({"split", "weld"}), _DRAWN | {"texture", "twist"}, "any", weight=0.1,
    ),
    Rule(
        "turn-last", "better", "Twists after all other straight work: nothing hammers them flat.",
        frozenset({"split", "punch", "lines", "stamp"}), frozenset({"twist"}), "any",
    ),
    Rule(
        "texture-late", "better", "Surface work late, while the piece is warm: drawing would hammer it out again.",
        _DRAWN, frozenset({"texture"}), "any",
    ),
    Rule(
        "touch-last", "better", "The touch mark near the end, then finish while the piece is warm.",
        _HOT - {"texture"}, frozenset({"touch-mark", "planish"}), "any", weight=0.15,
    ),
    Rule(
        "point-first", "either", "Point before head, as this shop does it.",
        frozenset({"point", "taper"}), frozenset({"head", "upset", "ball"}), "apart-ends", weight=1.5, school="first=point",
    ),
    Rule(
        "head-first", "either", "Head before point, as this shop does it.",
        frozenset({"head", "upset", "ball"}), frozenset({"point", "taper"}), "apart-ends", weight=1.5, school="first=head",
    ),
    Rule(
        "thick-first", "either", "Thickest part first, as this shop does it when it is cold: it warms the anvil.",
        _DRAWN, _DRAWN, "thicker", weight=1.5, school="warming=thick",
    ),
)  # fmt: skip


class _Seat(NamedTuple):
    """What the rules look at: all that does not change while a dimension is typed."""

    number: int
    verb: str
    way: str
    position: float
    over: int
    order: int
    inwards: int
    key: str
    bulk: int
    rank: int


def _behind(first: _Seat, second: _Seat, last: int) -> bool:
    """`second` stands between `first` and the far end of the bar, within two features."""
    return 0 < (second.position - first.position) * first.inwards <= 2


def _middle_end(first: _Seat, second: _Seat, last: int) -> bool:
    return 0 < round(first.position) < last and round(second.position) in (0, last)


def _near(first: _Seat, second: _Seat, last: int) -> bool:
    return 0 < abs(first.position - second.position) <= 2


# key: words, and whether two places are meant.
WHERE: dict[str, tuple[str, Callable[[_Seat, _Seat, int], bool]]] = {
    "any": ("anywhere on the piece", lambda a, b, last: a.position != b.position),
    "near": ("within two features of each other", _near),
    "behind": ("behind it, further from its tip", _behind),
    "middle-end": ("the first in the middle, the second at an end", _middle_end),
    "apart-ends": ("at opposite ends", lambda a, b, last: {a.position, b.position} == {0, last} and last > 0),
    "same": ("within one feature", lambda a, b, last: a.position == b.position and a.over == b.over and a.order < b.order),
    "under": ("the second stands on the first", lambda a, b, last: not a.over and bool(b.over >> int(a.position) & 1)),
    "listed": ("on the same steel, in the order they are laid on", lambda a, b, last: bool(a.over & b.over) and 0 < a.rank < b.rank),
    "thicker": ("the first the thicker", lambda a, b, last: a.bulk > b.bulk),
}


@dataclass(frozen=True, eq=False)
class Ties:
    """All ties of a piece, and what follows from them; remembered while only dimensions change.

    Args:
        pairs: every tie at work.
        waits: by step, the steps that come before it where the order is made without weighing.
        frees: by step, the steps that wait for it.
        hard: by step, a bit for each step that must come before it.
        soft: by step, the betters that hold it back: a bit for each step before, the weight, the rule.
        apart: by step, a bit for each step it may not share a heat with.
        because: by step, the rules that hold it back, without repeats; a feature's own order is left out.
        broken: musts that the pins or other musts leave no room for.
        overruled: ties that the smith has set aside.
    """

    pairs: tuple[Tie, ...]
    waits: tuple[frozenset[int], ...]
    frees: tuple[tuple[int, ...], ...]
    hard: tuple[int, ...]
    soft: tuple[tuple[tuple[int, float, Rule], ...], ...]
    apart: tuple[int, ...]
    because: tuple[tuple[Rule, ...], ...]
    broken: tuple[Tie, ...]
    overruled: tuple[Tie, ...]


def ties(
    steps: tuple[Step, ...], reckoning: Reckoning, *, schools: Iterable[tuple[str, str]] = (), own: Iterable[Rule] = (),
    pins: Iterable[Pin] = (), overrules: Iterable[Overrule] = (),
) -> Ties:  # fmt: skip
    """Every pair of steps that a rule ties.

    A pin goes before a must and a must before a better: what would close a circle is left out, a must with a flag.
    A feature's own order holds always.

    Args:
        steps: all operations of the piece.
        reckoning: of the piece; only the school of the thickest part looks at it.
        schools: key and choice of those in force.
        own: the shop's own rules.
        pins: operations whose order the smith holds.
        overrules: rules set aside.
    """
    sides = {f"{key}={choice}" for key, choice in schools}
    rules = (*(r for r in RULES if not r.school or r.school in sides), *own)
    thick = any(r.where == "thicker" for r in rules)
    seats = tuple(_seat(s, _bulk(s, reckoning) if thick else 0) for s in steps)
    return _ties(seats, rules, tuple(p.step for p in pins), frozenset((o.rule, o.step) for o in overrules))


_INWARDS = {"A": 1, "B": -1, "": 0}


def _seat(step: Step, bulk: int) -> _Seat:
    toward = step.feature.toward if isinstance(step.feature, Outer) else ""
    operation = step.operation
    return _Seat(step.number, operation.verb, operation.way, step.seat, step.over, step.order, _INWARDS[toward], step.key, bulk, step.rank)


def _bulk(step: Step, reckoning: Reckoning) -> int:
    """Mean finished section, in sixteenths of the bar's."""
    if step.over:
        return 0  # it makes nothing thicker or thinner
    zone = reckoning.zones[step.position]
    shape = shape_of(step.feature, zone.place)
    return round(16 * shape.volume / shape.length / zone.place.bar.area) if shape.length else 0


class _Circle:
    """A growing order: who comes before whom, through others too."""

    def __init__(self, count: int) -> None:
        self.after = [0] * count  # bits of all that follow

    def add(self, first: int, second: int) -> bool:
        """Whether `first` can come before `second`; then it does."""
        if first == second or self.after[second] >> first & 1:
            return False
        if not self.after[first] >> second & 1:
            new = self.after[second] | 1 << second
            self.after = [a | new if i == first or a >> first & 1 else a for i, a in enumerate(self.after)]
        return True


@lru_cache(maxsize=128)
def _ties(seats: tuple[_Seat, ...], rules: tuple[Rule, ...], pins: tuple[str, ...], overrules: frozenset[tuple[str, str]]) -> Ties:
    last, count = max((int(s.position) for s in seats if not s.over), default=0), len(seats)
    found, broken, overruled = list[Tie](), list[Tie](), list[Tie]()
    circle, soft = _Circle(count), list[Tie]()
    by_key = {s.key: s.number for s in seats}
    chain = [by_key[k] for k in pins if k in by_key]
    pinned = [Tie(PINNED, a, b) for a, b in itertools.pairwise(chain)]
    strict = [r for r in rules if r.strength == "must"]
    must = [t for r in strict for t in _pairs(r, seats, last)]
    for tie in (*(t for t in must if t.rule is _OWN), *pinned, *(t for t in must if t.rule is not _OWN)):
        if tie.rule is not _OWN and _set_aside(tie, seats, overrules):
            overruled.append(tie)
        elif circle.add(tie.before, tie.after):
            found.append(tie)
        elif tie.rule is not PINNED:
            broken.append(tie)
    firm = list(circle.after)
    hard = list(found)
    for tie in (t for r in rules if r.strength != "must" for t in _pairs(r, seats, last)):
        if _set_aside(tie, seats, overrules):
            overruled.append(tie)
            continue
        if not firm[tie.after] >> tie.before & 1:
            soft.append(tie)
        if circle.add(tie.before, tie.after):
            found.append(tie)
    return _knit(count, tuple(found), hard, soft, tuple(broken), tuple(overruled))


def _knit(
    count: int, found: tuple[Tie, ...], hard: list[Tie], soft: list[Tie], broken: tuple[Tie, ...], overruled: tuple[Tie, ...]
) -> Ties:
    mine: list[list[Tie]] = [[] for _ in range(count)]
    frees: list[dict[int, None]] = [{} for _ in range(count)]
    musts, apart = [0] * count, [0] * count
    weighed: list[dict[Rule, int]] = [{} for _ in range(count)]
    for tie in found:
        mine[tie.after].append(tie)
        frees[tie.before][tie.after] = None
    for tie in hard:
        musts[tie.after] |= 1 << tie.before
        if tie.rule.apart:
            apart[tie.after] |= 1 << tie.before
    for tie in soft:
        weighed[tie.after][tie.rule] = weighed[tie.after].get(tie.rule, 0) | 1 << tie.before
    return Ties(
        found,
        tuple(frozenset(t.before for t in own) for own in mine),
        tuple(tuple(f) for f in frees),
        tuple(musts),
        tuple(tuple((mask, rule.weight, rule) for rule, mask in w.items()) for w in weighed),
        tuple(apart),
        tuple(tuple(dict.fromkeys(t.rule for t in own if t.rule is not _OWN)) for own in mine),
        broken,
        overruled,
    )


def _set_aside(tie: Tie, seats: tuple[_Seat, ...], overrules: frozenset[tuple[str, str]]) -> bool:
    return (tie.rule.id, "") in overrules or (tie.rule.id, seats[tie.after].key) in overrules


def _pairs(rule: Rule, seats: tuple[_Seat, ...], last: int) -> list[Tie]:
    where = WHERE[rule.where][1]
    seconds = [s for s in seats if s.verb in rule.after or s.way in rule.after]
    firsts = [s for s in seats if s.verb in rule.before or s.way in rule.before]
    return [Tie(rule, a.number, b.number) for a in firsts for b in seconds if a is not b and where(a, b, last)]
