"""Order rules as data: which operations come before which, where, how strongly, and why.

Where is decided by distance along the drawn bar and by which side of a bend something lies on, never by counting features.
"""

from __future__ import annotations

import bisect
import itertools
import math
from collections.abc import Callable, Iterable
from functools import lru_cache

import numpy as np

from long_ember.features import VERBS, Arc, Corner, Outer, Overrule, OwnWork, Pin, shape_of
from long_ember.frozen import NamedTuple, dataclass
from long_ember.heats.step import Step
from long_ember.stock import Reckoning, Zone

__all__ = ["BENT_IN", "GOES_IN", "MATCHES", "PINNED", "RULES", "WHERE", "Rule", "Tie", "Ties", "ties"]

_BENT = frozenset({"bend", "hook", "curl", "scroll", "eye"})
_DRAWN = frozenset({"draw", "setdown", "upset", "spread"})
_TAPERED = frozenset({"point", "taper", "edge-taper"})
_ROLLED = frozenset({"hook", "curl", "scroll", "eye"})
_COLD = frozenset({"drill", "tap", "thread", "file"})
_ANY = frozenset(VERBS)
_HOT = frozenset(VERBS) - _COLD

# What a rule can speak of: every verb, and the ways that are told apart.
MATCHES = {
    "draw": "drawing", "point": "drawing a point", "taper": "drawing a taper", "edge-taper": "drawing a taper on edge", "spread": "spreading",
    "setdown": "setting down", "set-down": "setting down a stretch", "neck": "necking", "isolate": "setting off a neck", "thin": "thinning a neck",
    "edge-set": "setting on edge", "edges": "breaking edges",
    "upset": "upsetting", "head": "heading", "ball": "forming a ball", "round-ball": "setting off a ball", "weld": "welding on",
    "close": "welding a ring", "split": "splitting", "punch": "punching", "drift": "drifting", "twist": "twisting", "eye": "turning an eye",
    "curl": "curling", "scroll": "scrolling", "coil": "winding a coil", "closed-coil": "closing a flat coil", "bend": "bending", "hook": "turning a hook", "texture": "surface work",
    "lines": "chiselling lines", "touch-mark": "the touch mark", "cut": "parting off", "crop": "cutting off what is over",
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
        dip: what comes first is dipped before the second, in the heat that they share.
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
    dip: bool = False


@dataclass(frozen=True, slots=True)
class Tie:
    """A rule at work between two steps, by their numbers."""

    rule: Rule
    before: int
    after: int


PINNED = Rule("pinned", "must", "You pinned this order.", frozenset(), frozenset(), "any")
# What `doorway` finds by looking at the piece as it is by then.
GOES_IN = Rule("goes-in", "must", "Heated before that bend: afterwards it no longer goes into your forge.", frozenset(), frozenset(), "any")
BENT_IN = Rule("bent-in", "must", "Bent first: as it is, it does not go into your forge.", frozenset(), frozenset(), "any")
_OWN = Rule("own-order", "must", "A feature is drawn before it is turned.", _ANY, _ANY, "same")

RULES: tuple[Rule, ...] = (
    _OWN,
    Rule("steel-first", "must", "What is bent or pierced there is drawn first: its place is measured on the drawn bar.", _ANY, _ANY, "under"),
    Rule("as-said", "must", "You said so where you described it.", _ANY, _ANY, "said"),
    Rule("as-laid", "must", "Works on one stretch follow each other as you have laid them on.", _ANY, _ANY, "listed"),
    Rule(
        "draw-first", "must", "Drawn before it is bent close by: beside a bend there is no room for the hammer.",
        _DRAWN, _BENT, "close",
    ),
    Rule(
        "draw-inside", "must", "What lies toward the tip is drawn before the bend behind it: afterwards it does not lie on the anvil.",
        _DRAWN, _BENT, "tipward",
    ),
    Rule(
        "curl-first", "must", "The curl before the bend behind it, and dipped first: afterwards it can't be reached and gets crushed.",
        frozenset({"curl", "scroll"}), frozenset({"hook", "bend"}), "tipward", dip=True,
    ),
    Rule(
        "tip-side", "must", "What lies toward the tip is bent before the hook, scroll or coil behind it: afterwards it can't be reached.",
        _BENT, _ROLLED, "tipward",
    ),
    Rule(
        "inside-coil", "must", "What lies toward the tip of a coil is bent before it is wound: the turns close round it.",
        _BENT | {"twist"}, frozenset({"coil", "closed-coil"}), "inside",
    ),
    Rule(
        "middle-first", "must", "Holes punched in the middle before the ends are scrolled: the bar still lies flat.",
        frozenset({"punch"}), frozenset({"scroll", "curl"}), "middle-end",
    ),
    Rule(
        "grips", "must", "Twist while vice and wrench can still grip straight bar on both sides.",
        frozenset({"twist"}), _BENT, "grip",
    ),
    Rule(
        "split-first", "must", "The cut before the bend or scroll beside it: a bent end can't be split on the plate.",
        frozenset({"split"}), _BENT, "near",
    ),
    Rule(
        "weld-first", "must", "A weld before what is bent or twisted near it: the joint is hammered, and what is finished would be spoilt.",
        frozenset({"weld"}), _BENT | {"twist"}, "near",
    ),
    Rule(
        "close-last", "must", "A ring is bent before it is closed, and welded while its ends lie against each other.",
        _BENT, frozenset({"close"}), "any",
    ),
    Rule(
        "lines-first", "must", "Lines and veins before anything is folded or bent beside them: afterwards the chisel can't reach.",
        frozenset({"lines", "stamp", "veined", "scalloped"}), _BENT | {"folded"}, "close",
    ),
    Rule(
        "roll-over", "must", "Its surface is worked before it is rolled or bent over: afterwards no tool reaches it.",
        frozenset({"texture"}), _BENT, "over",
    ),
    Rule(
        "heavy-close", "must", "Drawn before the hole right beside it: the hammer would close it.",
        _DRAWN | {"weld"}, frozenset({"punch"}), "close",
    ),
    Rule(
        "mark-after", "must", "Punched and drifted before anything is marked beside it: the drift would pull it out of shape.",
        frozenset({"punch"}), frozenset({"texture"}), "close",
    ),
    Rule(
        "drill-after", "must", "Drilled when the drawing beside it is done: the hammer would close the hole.",
        _DRAWN | {"weld", "split"}, frozenset({"drill"}), "near",
    ),
    Rule(
        "cold-last", "must", "Threads and filed edges when the hot work beside them is done: hammer and fire would spoil them.",
        _DRAWN | _BENT | {"twist", "weld", "close", "split", "punch", "texture"}, frozenset({"thread", "file"}), "near",
    ),
    Rule(
        "tap-last", "must", "Tap when nothing goes into the fire beside it any more: scale and hammer spoil a thread.",
        _HOT - {"cut"}, frozenset({"tap"}), "near",
    ),
    Rule(
        "free-end", "must", "Parted off first: as long as it hangs on the bar that end is not free.",
        frozenset({"cut"}), _ROLLED | {"head", "upset"}, "at-cut",
    ),
    Rule(
        "cold-together", "better", "Cold work together, when the hot work is done: the bar cools but once.",
        _HOT - {"cut"}, _COLD, "any", weight=0.4,
    ),
    Rule(
        "small-on-bar", "must", "Pierced while it hangs on the bar: parted off, so small a piece is held by nothing that a punch does not shift.",
        frozenset({"punch", "drift", "split"}), frozenset({"cut"}), "small",
    ),
    Rule(
        "part-late", "better", "Part off late: until then the long bar is its own handle.",
        _DRAWN | _BENT | {"twist", "weld", "split", "punch", "texture"}, frozenset({"cut"}), "not-at-cut", weight=0.6,
    ),
    Rule(
        "heavy-first", "better", "Heavy welding or drawing near a hole before the hole.",
        _DRAWN | {"weld"}, frozenset({"punch"}), "near", weight=0.8,
    ),
    Rule(
        "ball-first", "better", "What is upset before the drawing beside it: upsetting wants the full bar behind it.",
        frozenset({"ball", "head"}), _DRAWN, "near-unshanked", weight=0.5,
    ),
    Rule(
        "shank-first", "better", "The shank before its head: it goes through the header, which holds it while the head is struck.",
        frozenset({"draw", "setdown"}), frozenset({"head"}), "close", weight=0.5,
    ),
    Rule(
        "ball-off", "better", "The isolating set-down before the ball: its shoulder keeps the steel of the ball apart.",
        frozenset({"set-down", "isolate"}), frozenset({"round-ball"}), "close", weight=0.5,
    ),
    Rule(
        "upset-first", "better", "The upset before the drawing beside it: the cold bar behind it stays stiff.",
        frozenset({"upset"}), frozenset({"draw", "setdown"}), "near-unshanked", weight=0.5,
    ),
    Rule(
        "tip-first", "better", "Point first, then the taper behind it, working back from the tip.",
        _TAPERED, frozenset({"taper", "edge-taper", "setdown"}), "behind",
    ),
    Rule(
        "draw-twist", "better", "Drawn before the twist beside it: the hammer would flatten its end.",
        _DRAWN, frozenset({"twist"}), "close",
    ),
    Rule(
        "width-first", "better", "Width before thickness: narrowed on edge while it is thick enough not to buckle.",
        frozenset({"edge-set", "edge-taper"}), frozenset({"spread", "set-down"}), "close", weight=0.4,
    ),
    Rule(
        "round-late", "better", "Edges are rounded when the drawing beside them is done.",
        _TAPERED | {"spread", "set-down", "upset"}, frozenset({"edges"}), "close",
    ),
    Rule(
        "crop-soon", "better", "What is over is cut off in the heat that made it, before anything is bent or twisted.",
        frozenset({"crop"}), _BENT | {"twist", "texture"}, "near", weight=0.6,
    ),
    Rule(
        "isolate-first", "must", "The neck is set off before what lies beside it is worked: its shoulder keeps the steel apart.",
        frozenset({"isolate"}), _TAPERED | {"spread", "ball", "round-ball", "draw", "set-down"}, "close",
    ),
    Rule(
        "thin-last", "must", "A neck that is set off early is thinned last: it holds what is still worked beyond it.",
        _TAPERED | {"spread", "set-down", "ball", "round-ball", "texture", "punch"}, frozenset({"thin"}), "close",
    ),
    Rule(
        "neck-late", "better", "The neck stays thick until the leaf or ball beside it is finished.",
        _TAPERED | {"spread", "ball", "round-ball"}, frozenset({"neck"}), "close", weight=0.5,
    ),
    Rule(
        "holes-before-bend", "better", "Holes before the bend: the bar still lies flat on the bolster.",
        frozenset({"punch"}), frozenset({"hook", "bend"}), "near",
    ),
    Rule(
        "ends-first", "better", "The ends are rolled before the bar is bent in the middle: bent, it swings and no longer lies in the fire.",
        _ROLLED, frozenset({"bend"}), "end-middle",
    ),
    Rule(
        "straight-first", "better", "Drawn, spread and upset while the bar is straight: with a long leg bent up it does not lie on the anvil.",
        _DRAWN, frozenset({"bend"}), "long-legs", weight=1.2,
    ),
    Rule(
        "risk-first", "better", "The riskiest work first, so that a failure costs least.",
        frozenset({"split", "weld"}), _DRAWN | {"texture", "twist"}, "any", weight=0.1,
    ),
    Rule(
        "turn-last", "better", "Twists after other straight work near them: nothing hammers them flat.",
        frozenset({"split", "punch", "lines", "stamp"}), frozenset({"twist"}), "near",
    ),
    Rule(
        "texture-late", "better", "Surface work late, while the piece is warm: drawing or drifting would spoil it again.",
        _DRAWN | {"punch"}, frozenset({"texture"}), "near",
    ),
    Rule(
        "touch-last", "better", "The touch mark near the end, then finish while the piece is warm.",
        _HOT - {"texture"}, frozenset({"touch-mark", "planish"}), "any", weight=0.15,
    ),
    Rule(
        "point-first", "either", "Point before head, as this shop does it.",
        _TAPERED, frozenset({"head", "upset", "ball"}), "apart-ends", weight=1.5, school="first=point",
    ),
    Rule(
        "head-first", "either", "Head before point, as this shop does it.",
        frozenset({"head", "upset", "ball"}), _TAPERED, "apart-ends", weight=1.5, school="first=head",
    ),
    Rule(
        "thick-first", "either", "Thickest part first, as this shop does it when it is cold: it warms the anvil.",
        _DRAWN, _DRAWN, "thicker", weight=1.5, school="warming=thick",
    ),
    Rule(
        "stages", "either", "All drawing and upsetting before anything is bent or twisted, as this shop does it: the bar is still straight.",
        _DRAWN, _BENT | {"twist"}, "any", weight=1.5, school="ends=stage",
    ),
)  # fmt: skip


class _Seat(NamedTuple):
    """What the rules look at: all that does not change while a dimension is typed, as long as nothing comes closer or goes further off.

    Args:
        number: of the step.
        verb: what is done.
        way: which way.
        host: position in the row of what it is or stands on.
        over: a bit for each feature of the row that it covers, 0 in the row.
        order: of the operation within its feature.
        tip: A or B: the end that lies toward its tip.
        key: what pins and overrules refer to.
        bulk: mean finished section.
        rank: of work on the surface.
        feature: number of the feature, of the row or standing.
        own: its place among the smith's own operations on its feature, from 1; 0 for all else.
        follows: ids of features or own operations that come first.
        leads: id of what comes after, "" for nothing.
        of: what it goes by itself: id of its feature, or its own.
        outer: it is an end itself.
        middle: it lies far from both ends.
        swings: what is bent there has a long leg to either side.
    """

    number: int
    verb: str
    way: str
    host: int
    over: int
    order: int
    tip: str
    key: str
    bulk: int
    rank: int
    feature: int
    own: int
    follows: str
    leads: str
    of: str
    outer: bool
    middle: bool
    swings: bool


class _Lie(NamedTuple):
    """How features lie to each other, two numbers for each pair of features.

    Args:
        gap: `_OVER` … `_FAR`, the distance between them in classes, by the number of the one and of the other.
        side: −1 where the first lies toward A of the second, 1 toward B, 0 at the same place.
        last: position of the last feature of the row.
        small: parted off, the piece is shorter than hand and tongs allow.
    """

    gap: tuple[bytes, ...]
    side: tuple[tuple[int, ...], ...]
    last: int
    small: bool = False


# Distances along the drawn bar, mm and in thicknesses of the bar, whichever is more: room for the hammer beside a bend; for vice and
# wrench beside a twist; what is heated and reached in one go. The judgement of this program.
_OVER, _CLOSE, _GRIP, _NEAR, _FAR = range(5)
_REACH = ((_CLOSE, 40.0, 3.0), (_GRIP, 60.0, 5.0), (_NEAR, 100.0, 8.0))
_LEG = (100.0, 5.0)  # the same: bent up, it swings on the anvil
_UPRIGHT = math.radians(30)
_SMALL = (120.0, 10.0)  # mm and thicknesses: a piece that is shorter stays on the bar until it is pierced
_HAIR = 0.5  # mm


def _within(most: int) -> Callable[[_Seat, _Seat, _Lie], bool]:
    def test(first: _Seat, second: _Seat, lie: _Lie) -> bool:
        return first.feature != second.feature and lie.gap[first.feature][second.feature] <= most

    return test


def _tipward(first: _Seat, second: _Seat, lie: _Lie) -> bool:
    """The first lies between the second and the tip of the second, within reach."""
    return _inside(first, second, lie) and lie.gap[first.feature][second.feature] <= _NEAR


def _inside(first: _Seat, second: _Seat, lie: _Lie) -> bool:
    """The same at any distance."""
    return lie.side[first.feature][second.feature] == (-1 if second.tip == "A" else 1)


def _behind(first: _Seat, second: _Seat, lie: _Lie) -> bool:
    """The second lies further from the tip that both point to, within reach."""
    return (
        first.tip == second.tip
        and lie.side[second.feature][first.feature] == (1 if first.tip == "A" else -1)
        and lie.gap[first.feature][second.feature] <= _NEAR
    )


def _at_cut(cut: _Seat, other: _Seat, lie: _Lie) -> bool:
    """An end that comes free only when the piece is parted off beside it."""
    return cut.feature != other.feature and other.outer and other.tip == cut.tip and lie.gap[cut.feature][other.feature] <= _CLOSE


def _said(first: _Seat, second: _Seat, lie: _Lie) -> bool:
    """What the smith has said of an operation of their own: what it follows, what it leads; and one after the other as they are listed."""
    if first.number == second.number:
        return False
    if second.own and second.follows and second.follows == first.of:
        return True
    if first.own and first.leads and first.leads == second.of:
        return True
    alike = (first.feature, first.follows, first.leads) == (second.feature, second.follows, second.leads)
    return alike and 0 < first.own < second.own


# key: words, and whether two places are meant.
WHERE: dict[str, tuple[str, Callable[[_Seat, _Seat, _Lie], bool]]] = {
    "any": ("anywhere on the piece", lambda a, b, lie: a.feature != b.feature),
    "near": ("within 100 mm of each other, or eight thicknesses", _within(_NEAR)),
    "near-unshanked": (
        "within 100 mm of each other, or eight thicknesses; not a head right on its shank",
        lambda a, b, lie: _within(_NEAR)(a, b, lie) and not (a.way == "head" and _within(_CLOSE)(a, b, lie)),
    ),
    "grip": ("within 60 mm of each other, or five thicknesses", _within(_GRIP)),
    "close": ("within 40 mm of each other, or three thicknesses", _within(_CLOSE)),
    "over": ("on the same stretch", _within(_OVER)),
    "behind": ("behind it, further from its tip", _behind),
    "tipward": ("the first toward the tip of the second, within reach", _tipward),
    "inside": ("the first toward the tip of the second, at any distance", _inside),
    "middle-end": ("the first in the middle, the second at an end", lambda a, b, lie: 0 < a.host < lie.last and b.host in (0, lie.last)),
    "end-middle": ("the first near an end, the second far from both", lambda a, b, lie: b.middle and not a.middle),
    "long-legs": (
        "anywhere, the second with more than 100 mm of bar to either side, or five thicknesses, and bent by more than 30°",
        lambda a, b, lie: a.feature != b.feature and b.swings,
    ),
    "apart-ends": ("at opposite ends", lambda a, b, lie: {a.host, b.host} == {0, lie.last} and lie.last > 0),
    "at-cut": ("the second is an end that the cut sets free", _at_cut),
    "not-at-cut": ("away from the end that the cut sets free", lambda a, b, lie: a.feature != b.feature and not _at_cut(b, a, lie)),
    "small": (
        "on a piece shorter than 120 mm, or ten thicknesses",
        lambda a, b, lie: lie.small and a.feature != b.feature and not _at_cut(b, a, lie),
    ),
    "same": ("within one feature", lambda a, b, lie: a.feature == b.feature and a.order < b.order and not a.own and not b.own),
    "said": ("as you said of your own work", _said),
    "under": ("the second stands on the first", lambda a, b, lie: not a.over and bool(b.over >> a.host & 1)),
    "listed": ("on the same steel, in the order they are laid on", lambda a, b, lie: bool(a.over & b.over) and 0 < a.rank < b.rank),
    "thicker": ("the first the thicker", lambda a, b, lie: a.bulk > b.bulk),
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
        dips: by step, a bit for each step that is dipped before it when they share a heat.
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
    dips: tuple[int, ...]
    because: tuple[tuple[Rule, ...], ...]
    broken: tuple[Tie, ...]
    overruled: tuple[Tie, ...]


def ties(
    steps: tuple[Step, ...], reckoning: Reckoning, *, schools: Iterable[tuple[str, str]] = (), own: Iterable[Rule] = (),
    pins: Iterable[Pin] = (), overrules: Iterable[Overrule] = (), described: Iterable[OwnWork] = (), hung: str = "",
    found: tuple[Tie, ...] = (),
) -> Ties:  # fmt: skip
    """Every pair of steps that a rule ties.

    A pin goes before a must and a must before a better: what would close a circle is left out, a must with a flag.
    A feature's own order holds always.

    Args:
        steps: all operations of the piece.
        reckoning: of the piece: what lies where on the drawn bar.
        schools: key and choice of those in force.
        own: the shop's own rules.
        pins: operations whose order the smith holds.
        overrules: rules set aside.
        described: the smith's own operations.
        hung: end at which it hangs on the long bar, "" for neither.
        found: musts beside those of the rules.
    """
    sides = {f"{key}={choice}" for key, choice in schools}
    rules = (*(r for r in RULES if not r.school or r.school in sides), *own)
    thick = any(r.where == "thicker" for r in rules)
    lie, tips, middles, swings = _lying(reckoning, hung)
    numbers = {id(z.feature): i for i, z in enumerate(reckoning.all_zones)}
    said = {w.id: w for w in described}
    seats = tuple(
        _seat(s, numbers[id(s.feature)], (tips, middles, swings), _bulk(s, reckoning) if thick else 0, said.get(s.operation.own))
        for s in steps
    )
    return _ties(seats, lie, rules, tuple(p.step for p in pins), frozenset((o.rule, o.step) for o in overrules), found)


def _lying(reckoning: Reckoning, hung: str) -> tuple[_Lie, list[str], list[bool], list[bool]]:
    """How all features lie on the drawn bar, toward which end each one's tip points, which lie far from both ends, and which bend up a long leg.

    What hangs on the long bar has its tip at the other end, however near the cut it lies.
    """
    free = {"A": "B", "B": "A"}.get(hung, "")
    zones, thickness = reckoning.all_zones, max((z.place.bar.thickness for z in reckoning.zones), default=0.0)
    drawn = _drawn(reckoning)
    whole = max((high for _low, high in drawn), default=0.0)
    low, high = np.array(drawn).reshape(-1, 2).T
    gap = np.maximum(low[:, None] - high[None, :], low[None, :] - high[:, None])
    classes = np.searchsorted([-_HAIR, *(max(mm, times * thickness) for _number, mm, times in _REACH)], gap)
    away = (low + high)[:, None] - (low + high)[None, :]
    wide = high - low
    beside = (gap >= -_HAIR) | (np.abs(away) > np.minimum(wide[:, None], wide[None, :]))  # what lies mostly on the other is on neither side
    sides = np.where(beside, np.sign(away), 0).astype(int)
    gaps = tuple(bytes(row) for row in classes.astype(np.uint8))
    tips = [
        z.feature.toward if isinstance(z.feature, Outer) else free or ("A" if a + b <= whole else "B")
        for z, (a, b) in zip(zones, drawn, strict=True)
    ]
    far = max(_REACH[-1][1], _REACH[-1][2] * thickness)
    leg = max(_LEG[0], _LEG[1] * thickness)
    swings = [
        (hung == "A" or a > leg) and (hung == "B" or whole - b > leg) and _turned(z) > _UPRIGHT
        for z, (a, b) in zip(zones, drawn, strict=True)
    ]
    return (
        _Lie(gaps, tuple(map(tuple, sides.tolist())), len(reckoning.zones) - 1, whole < max(_SMALL[0], _SMALL[1] * thickness)),
        tips,
        [min(a, whole - b) > far for a, b in drawn],
        swings,
    )


def _turned(zone: Zone) -> float:
    """By how much the line after a feature points another way than before it, rad; an offset's two bends take each other back."""
    up = across = 0.0
    for segment in shape_of(zone.feature, zone.place).path:
        if isinstance(segment, (Arc, Corner)):
            up += segment.angle * math.cos(segment.facing)
            across += segment.angle * math.sin(segment.facing)
    return math.hypot(up, across)


def _drawn(reckoning: Reckoning) -> list[tuple[float, float]]:
    """Where each feature lies on the drawn bar, mm from end A, straight; what stands on it by its share of what it stands on."""
    found, edges = [], [0.0]
    for zone in reckoning.zones:
        edges.append(edges[-1] + zone.shape.length)
        found.append((edges[-2], edges[-1]))

    ends = [z.end for z in reckoning.zones]

    def at(place: float) -> float:
        i = min(bisect.bisect_left(ends, place), len(ends) - 1)
        zone, low, high = reckoning.zones[i], edges[i], edges[i + 1]
        share = (place - zone.start) / zone.length if zone.length else 0.0
        return low + min(max(share, 0.0), 1.0) * (high - low)

    return [*found, *((at(z.start), at(z.end)) for z in reckoning.standing)]


def _seat(step: Step, feature: int, lying: tuple[list[str], list[bool], list[bool]], bulk: int, own: OwnWork | None) -> _Seat:
    operation, (tips, middles, swings) = step.operation, lying
    # Where nothing else is said, it is done when what it is done on is there.
    follows = (own.after or (step.feature.id if own.on and own.before != own.on else "")) if own is not None else ""
    return _Seat(
        step.number, operation.verb, operation.way, step.position, step.over, step.order, tips[feature], step.key, bulk, step.rank, feature,
        step.order if own is not None else 0, follows, own.before if own is not None else "",
        operation.own or step.feature.id, isinstance(step.feature, Outer), middles[feature], swings[feature],
    )  # fmt: skip


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
def _ties(
    seats: tuple[_Seat, ...], lie: _Lie, rules: tuple[Rule, ...], pins: tuple[str, ...], overrules: frozenset[tuple[str, str]],
    besides: tuple[Tie, ...] = (),
) -> Ties:  # fmt: skip
    count = len(seats)
    found, broken, overruled = list[Tie](), list[Tie](), list[Tie]()
    circle, soft = _Circle(count), list[Tie]()
    by_key = {s.key: s.number for s in seats}
    chain = [by_key[k] for k in pins if k in by_key]
    pinned = [Tie(PINNED, a, b) for a, b in itertools.pairwise(chain)]
    strict = [r for r in rules if r.strength == "must"]
    must = [*(t for r in strict for t in _pairs(r, seats, lie)), *besides]
    for tie in (*(t for t in must if t.rule is _OWN), *pinned, *(t for t in must if t.rule is not _OWN)):
        if tie.rule is not _OWN and _set_aside(tie, seats, overrules):
            overruled.append(tie)
        elif circle.add(tie.before, tie.after):
            found.append(tie)
        elif tie.rule is not PINNED:
            broken.append(tie)
    firm = list(circle.after)
    hard = list(found)
    for tie in (t for r in rules if r.strength != "must" for t in _pairs(r, seats, lie)):
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
    musts, apart, dips = [0] * count, [0] * count, [0] * count
    weighed: list[dict[Rule, int]] = [{} for _ in range(count)]
    for tie in found:
        mine[tie.after].append(tie)
        frees[tie.before][tie.after] = None
    for tie in hard:
        musts[tie.after] |= 1 << tie.before
        if tie.rule.apart:
            apart[tie.after] |= 1 << tie.before
        if tie.rule.dip:
            dips[tie.after] |= 1 << tie.before
    for tie in soft:
        weighed[tie.after][tie.rule] = weighed[tie.after].get(tie.rule, 0) | 1 << tie.before
    return Ties(
        found,
        tuple(frozenset(t.before for t in own) for own in mine),
        tuple(tuple(f) for f in frees),
        tuple(musts),
        tuple(tuple((mask, rule.weight, rule) for rule, mask in w.items()) for w in weighed),
        tuple(apart),
        tuple(dips),
        tuple(tuple(dict.fromkeys(t.rule for t in own if t.rule is not _OWN)) for own in mine),
        broken,
        overruled,
    )


def _set_aside(tie: Tie, seats: tuple[_Seat, ...], overrules: frozenset[tuple[str, str]]) -> bool:
    return (tie.rule.id, "") in overrules or (tie.rule.id, seats[tie.after].key) in overrules


def _pairs(rule: Rule, seats: tuple[_Seat, ...], lie: _Lie) -> list[Tie]:
    where = WHERE[rule.where][1]
    seconds = [s for s in seats if s.verb in rule.after or s.way in rule.after]
    firsts = [s for s in seats if s.verb in rule.before or s.way in rule.before]
    return [Tie(rule, a.number, b.number) for a in firsts for b in seconds if a is not b and where(a, b, lie)]
