"""Whether the joins of an assembly fit: clearance, grip, and the shank a rivet needs (computations, section 5)."""

from __future__ import annotations

import math
from collections.abc import Sequence

from long_ember.assemblies.joining import Anchor, Assembled
from long_ember.features.head import cap_volume
from long_ember.frozen import dataclass
from long_ember.records.assembly import JOINS, Join
from long_ember.units import Line, Quantity, say

__all__ = ["Fit", "fits", "head_length", "shank_of"]

_SEEN = 0.1  # of the ruler's division
# mm that a few strokes of a file, or a drift, take off or open: so much too large is no reason to make it anew.
_EASED = {"tenon": 0.15, "rivet": 0.1, "pin": 0.1, "link": 0.3}
_EASING = {
    "tenon": "a stroke or two of the file eases it, or drive the hole over a drift.", "rivet": "ream the hole or file the shank: it goes in.",
    "pin": "file it until it turns freely.", "link": "a few strokes of the file and it goes in.",
}  # fmt: skip
_WIDE, _HIGH = 1.75, 0.7  # of a domed head, in shanks: the 14 by 5.6 head of the 8 rivet in the reference


@dataclass(frozen=True)
class Fit:
    """One join, looked at.

    Args:
        title: what is joined.
        verdict: fits, look (it can be made, with care), or wrong.
        lines: sums and reasons.
    """

    title: str
    verdict: str
    lines: tuple[Line, ...]


def head_length(shank: float) -> float:
    """Length of round shank that makes one domed head of 1.75 by 0.7 shanks, mm.

    >>> round(head_length(8.0), 2)
    10.4
    """
    return cap_volume(_WIDE * shank, _HIGH * shank) / (math.pi * shank**2 / 4)


def fits(found: Assembled, *, ruler: float = 1.0) -> tuple[Fit, ...]:
    """Return every join of an assembly, looked at as a smith would, in its order.

    Args:
        found: the assembly.
        ruler: mm, the division of the shop's ruler: nobody marks or sees a tenth of it.
    """
    made = []
    for i, (join, anchors) in enumerate(found.joints):
        title = JOINS[join.kind][0].capitalize()
        if i in found.faults:
            made.append(Fit(title, "wrong", (say(_plain(found.faults[i])),)))
            continue
        verdict, lines = _LOOK[join.kind](join, anchors, ruler * _SEEN)
        if found.apart.get(i, 0.0) > 0.5:
            verdict, lines = "wrong", [*lines, say("The two places do not meet: they are {} apart.", found.apart[i])]
        made.append(Fit(title, verdict, tuple(lines)))
    return tuple(made)


def _plain(text: str) -> str:
    return text.replace("{", "(").replace("}", ")")


def _corner(anchor: Anchor) -> float:
    """The size that has to pass through a round hole."""
    return anchor.across if anchor.form == "round" else math.hypot(anchor.across, anchor.bar or anchor.across)


def _clearance(pin: Anchor, hole: Anchor) -> float:
    """How much larger the hole is than what goes through it, mm."""
    inside = pin.across if hole.form != "round" else _corner(pin)
    return hole.across - inside


def _passes(clear: float, size: float, least: float, most: float, lines: list[Line], what: str, kind: str, seen: float) -> str:
    """Return a verdict on a clearance; the sum is written to `lines`.

    Args:
        clear: mm.
        size: of what goes in, mm.
        least: clearance with which it goes in after it has scaled, mm.
        most: with which it still sits well, mm.
        lines: of the sum.
        what: goes in, in words.
        kind: of fit, a key of `_EASED`.
        seen: mm that nobody sees.
    """
    eased = max(_EASED[kind], seen)
    if -eased <= clear < 0:
        lines.append(say(f"{what} is {{}} larger than its hole: {_EASING[kind]}", Quantity(-clear, "fine")))
        return "look"
    if clear < 0:
        lines.append(say(f"{what} does not go in: it is {{}} too large.", Quantity(-clear, "fine")))
        return "wrong"
    lines.append(say("Clearance {} on {}.", Quantity(clear, "fine"), Quantity(size, "fine")))
    if clear < least:
        lines.append(say(f"Under {{}}: {what.lower()} is tight once it has scaled; file it, or open the hole.", Quantity(least, "fine")))
        return "look"
    if clear > most:
        lines.append(say("More than {}: it sits loose and comes crooked when it is riveted or loaded.", Quantity(most, "fine")))
        return "look"
    return "fits"


def _worse(*verdicts: str) -> str:
    return max(verdicts, key=("fits", "look", "wrong").index)


def _tenon(_join: Join, anchors: Sequence[Anchor], seen: float) -> tuple[str, list[Line]]:
    pin, hole = anchors
    lines: list[Line] = []
    verdict = _passes(_clearance(pin, hole), pin.across, 0.1, 0.1 * pin.across + 0.3, lines, "The tenon", "tenon", seen)
    out = pin.depth - hole.depth
    if -seen <= out < 0:
        out = 0.0  # flush, for all that a ruler shows
    if out < 0:
        lines.append(say("{} long through {} of steel: {} too short.", pin.depth, hole.depth, -out))
        return "wrong", lines
    if not getattr(pin.feature, "upset", 0.0):
        lines.append(say("{} − {}: {} stand out.", pin.depth, hole.depth, out))
        return verdict, lines
    equal = math.sqrt(4 * pin.area / math.pi)  # a square tenon makes the same head as a round one of its area
    head, filling = head_length(equal), max(hole.area - pin.area, 0.0) / pin.area * hole.depth
    lines.append(say("Stands out {} − {} = {}; a full domed head takes {} and filling the hole {}, together {}.",
                     pin.depth, hole.depth, out, head, filling, head + filling))  # fmt: skip
    if not 0.65 * head + filling <= out <= 1.35 * head + filling:  # flat heads take less, high ones more
        lines.append(say(f"Too {'short' if out < head + filling else 'long'} for a sound head."))
        verdict = _worse(verdict, "look")
    return verdict, lines


def _rivet_parts(join: Join, anchors: Sequence[Anchor]) -> tuple[float, float, float]:
    """Grip, filling of the holes and heads of a rivet, in mm of its shank."""
    d = join.diameter
    filling = math.fsum(max(hole.area / (math.pi * d * d / 4) - 1, 0.0) * hole.depth for hole in anchors)
    grip = math.fsum(a.depth for a in anchors)
    if join.head != "flush":
        return grip, filling, {"one": 1, "both": 2}[join.head] * head_length(d)
    # A cone of 90° from twice the shank, less the shank within it.
    wide = next((a.sink for a in reversed(anchors) if a.sink), 2 * d)
    high = (wide - d) / 2
    return grip, filling, math.pi * high / 12 * (wide**2 + wide * d + d * d) / (math.pi * d * d / 4) - high


def shank_of(join: Join, anchors: Sequence[Anchor]) -> float:
    """Length to cut a rivet's shank to, mm: grip, filling and heads."""
    return math.fsum(_rivet_parts(join, anchors))


def _rivet(join: Join, anchors: Sequence[Anchor], seen: float) -> tuple[str, list[Line]]:
    d = join.diameter
    lines: list[Line] = []
    verdict = "fits"
    for hole in anchors:
        verdict = _worse(verdict, _passes(hole.across - d, d, 0.1, 0.1 * d + 0.4, lines, "The rivet", "rivet", seen))
    grip, filling, heads = _rivet_parts(join, anchors)
    if join.head == "flush" and not any(a.sink for a in anchors):
        lines.append(say("None of the holes is countersunk yet: {} across.", 2 * d))
        verdict = _worse(verdict, "look")
    lines.append(say("Grip {}, filling {}, heads {}: cut the shank {} long.", grip, filling, heads, grip + filling + heads))
    if grip > 5 * d:
        lines.append(say("A grip of more than 5 shanks bows as it is set: take a thicker rivet, or set it hot."))
        verdict = _worse(verdict, "look")
    return verdict, lines


def _pin(_join: Join, anchors: Sequence[Anchor], seen: float) -> tuple[str, list[Line]]:
    pin, eye = anchors
    lines: list[Line] = []
    verdict = _passes(_clearance(pin, eye), pin.across, 0.3, 0.15 * pin.across + 0.5, lines, "The pin", "pin", seen)
    if pin.depth < eye.depth - seen:
        lines.append(say("The pin, {} long, does not reach through an eye {} wide.", pin.depth, eye.depth))
        verdict = "wrong"
    return verdict, lines


def _link(_join: Join, anchors: Sequence[Anchor], seen: float) -> tuple[str, list[Line]]:
    ring, crown = anchors
    lines: list[Line] = []
    verdict = _passes(crown.across - ring.depth, ring.depth, 1.0, math.inf, lines, "The ring's bar", "link", seen)
    deep = crown.depth - ring.bar
    if deep < -seen:
        lines.append(say("The staple is {} deep inside, the ring's bar {}: it does not go under.", crown.depth, ring.bar))
        verdict = "wrong"
    swing = ring.across - crown.bar
    if swing < 1:
        lines.append(say("The ring is {} inside, the staple's bar {}: it does not swing.", ring.across, crown.bar))
        verdict = "wrong"
    else:
        lines.append(
            say("The ring, {} inside, swings round {} with {} to spare; {} left below it.", ring.across, crown.bar, swing, max(deep, 0.0))
        )
    lines.append(say("Close or weld the ring once it hangs in the staple: afterwards it does not go on."))
    return verdict, lines


_LOOK = {"tenon": _tenon, "rivet": _rivet, "pin": _pin, "link": _link}
