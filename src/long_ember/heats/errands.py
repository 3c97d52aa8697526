"""What is done around the heats: sawing, marking, cooling, measuring cold, heat treatment, finish."""

from __future__ import annotations

import math
from collections.abc import Callable

from long_ember.features import FINISHES, Piece
from long_ember.frozen import dataclass
from long_ember.geometry import DONE, Progress
from long_ember.heats.bar_so_far import WORTH_TRIMMING
from long_ember.heats.heat import Heat
from long_ember.heats.treatment import treatment
from long_ember.physics import STILL_AIR, cooling
from long_ember.physics.cooling_tables import DENSITY
from long_ember.stock import Reckoning
from long_ember.units import Line, Quantity, own_words, say

__all__ = ["Errand", "Frame", "air_cooling", "framed"]

_HAND_WARM = 45.0  # °C
_WATER = 20.0  # s
_LOW_END = 300.0  # °C, where the cooling tables end


@dataclass(frozen=True)
class Errand:
    """One thing that is done between or around the heats.

    Args:
        key: bar, cool, measure, normalise, harden, temper, coupon, sheet or finish.
        title: in a word or two.
        line: what to do.
        seconds: until the next step; a wait is not work.
        each: of them, what every further piece of a batch takes: the rest is setting up, or waits for all of them together.
        tools: to have at hand.
        hot: °C, 0 where it is cold.
        waits: nobody works meanwhile.
        cautions: that belong to it.
        before: progress of every feature by id.
        after: the same: an errand changes no shape.
    """

    key: str
    title: str
    line: Line
    seconds: float
    each: float
    tools: tuple[str, ...]
    hot: float
    waits: bool
    cautions: tuple[str, ...]
    before: dict[str, Progress]
    after: dict[str, Progress]


Frame = Heat | Errand


def framed(piece: Piece, reckoning: Reckoning, heats: tuple[Heat, ...]) -> tuple[Frame, ...]:
    """Heats and cold steps with the errands between them, in order."""
    if not heats:
        return ()
    at = heats[0].before
    found: list[Frame] = [_bar(piece, reckoning, at)]
    trim = _trimmed(piece, reckoning)
    for i, heat in enumerate(heats):
        before = heats[i - 1] if i else None
        if trim is not None and any(w.step.touches(trim[0]) for w in heat.work):
            found.append(trim[1](heat.before))
            trim = None
        if before is not None and not before.cold:
            wait = _wait(piece, before, heat)
            if wait is not None:
                found.append(wait)
        found.append(heat)
    end = heats[-1].after
    if trim is not None:
        found.append(trim[1](end, plain=True))
    found.append(_measured(piece, heats[-1], end))
    found.extend(_treated(piece, reckoning, end))
    found.append(_finish(piece, end))
    return tuple(found)


def air_cooling(piece: Piece, start: float, stop: float = _HAND_WARM) -> float:
    """Seconds in still air from `start` to `stop` °C; below 300 °C by 20 W/m²K and 500 J/kgK."""
    if start <= stop:
        return 0.0
    area, perimeter = piece.bar.area, piece.bar.perimeter
    hot = cooling(STILL_AIR).seconds(max(start, _LOW_END), max(stop, _LOW_END), area, perimeter)
    cool = DENSITY * area / perimeter * 1e-3 * 500 / 20 * math.log((min(start, _LOW_END) - 20) / (min(stop, _LOW_END) - 20))
    return hot + cool


def _errand(key: str, title: str, line: Line, seconds: float, at: dict[str, Progress], *, tools: tuple[str, ...] = (), each: float = 0.0, hot: float = 0.0,
            waits: bool = False, cautions: tuple[str, ...] = ()) -> Errand:  # fmt: skip
    return Errand(key, title, line, seconds, each, tools, hot, waits, cautions, at, at)


def _bar(piece: Piece, reckoning: Reckoning, at: dict[str, Progress]) -> Errand:
    marks = f"Mark from end {piece.datum} and pop the marks deep enough to see hot."
    if any(f.kind == "part-off" for f in piece.features) or piece.allowances.parting:
        line = say(f"Leave it on the long bar, {{}} of it for the piece: it is its own handle. {marks}", reckoning.cut)
        return _errand("bar", "Bar", line, 180.0, at, each=40.0, tools=("rule", "centre punch"))
    line = say(f"Saw {{}} off the bar, cold; break the burrs. {marks}", reckoning.cut)
    return _errand("bar", "Saw and mark", line, 300.0, at, each=60.0, tools=("saw", "file", "rule", "centre punch"))


def _trimmed(piece: Piece, reckoning: Reckoning) -> tuple[int, Callable[..., Errand]] | None:
    """Cutting off what is over, and the feature before whose work it is done; None where there is nothing worth it, or it hangs on the long bar."""
    if reckoning.over < WORTH_TRIMMING or piece.allowances.parting or any(f.kind == "part-off" for f in piece.features):
        return None
    end = reckoning.spare
    at = 0 if end == "A" else len(reckoning.zones) - 1
    zone = reckoning.zones[at]

    def errand(progress: dict[str, Progress], *, plain: bool = False) -> Errand:
        if plain:
            line = say(f"Measure it, and saw off at end {end} what is over: about {{}} if all went as planned.", reckoning.over)
        else:
            text = f"Before end {end} is made, cut off there what is over, about {{}} if all went as planned; keep {{}} for {own_words(zone.feature.title.lower())}."
            line = say(text, reckoning.over, zone.length + reckoning.trim)
        return _errand("trim", "Trim", line, 60.0, progress, each=30.0, tools=("saw", "rule"))

    return at, errand


def _wait(piece: Piece, before: Heat, heat: Heat) -> Errand | None:
    """Cooling before cold work, or before work that would crush what has just been done."""
    if heat.cold:
        what, goal = "it", f"before you {heat.work[0].step.operation.verb}: tools lose their edge on hot steel, and it measures long"
    else:
        verbs = {w.step.operation.verb for w in before.work}
        rule = next((r for w in heat.work for r in w.because if r.apart and not verbs.isdisjoint(r.before)), None)
        if rule is None:
            return None
        verb = next(v for v in (w.step.operation.verb for w in reversed(before.work)) if v in rule.before)
        what, goal = f"the {verb}", "so that the next heat does not soften it"
    if piece.steel.hardening == "none":
        return _errand("cool", "Cool", say(f"Cool {what} in water {goal}."), _WATER, heat.before, tools=("water",), waits=True,
                       cautions=("Steam scalds: point first, hands to the side.",))  # fmt: skip
    stop = _HAND_WARM if heat.cold else 500.0
    seconds = air_cooling(piece, before.stop, stop)
    line = say(f"Let {what} cool in still air {goal}: about {{}}. Never in water, it would harden and crack.", Quantity(seconds, "minutes"))
    return _errand("cool", "Cool slowly", line, seconds, heat.before, waits=True, cautions=("Black steel still burns: mark it HOT.",))


def _measured(piece: Piece, last: Heat, at: dict[str, Progress]) -> Errand:
    cold, why = ("", "") if last.cold else (" when it is cold", " Hot it measures long, and plastic gauges melt.")
    done = all(p == DONE for p in at.values())
    line = say(f"Measure every part{cold}, and write down what came out.{why}" if done else f"Measure it{cold}.{why}")
    return _errand("measure", "Measure", line, 120.0, at, each=20.0, tools=("callipers", "rule", "square"))


def _treated(piece: Piece, reckoning: Reckoning, at: dict[str, Progress]) -> list[Errand]:
    stages = treatment(piece, reckoning)
    return [
        _errand(s.key, s.title, s.line, s.seconds, at, each=s.seconds if s.key == "harden" else 0.0, hot=s.hot, waits=s.key in ("normalise", "temper"), cautions=s.cautions,
                tools=("magnet", "tongs") if s.key == "harden" else ()) for s in stages
    ]  # fmt: skip


def _finish(piece: Piece, at: dict[str, Progress]) -> Errand:
    finish = piece.planning.finish
    line = say(FINISHES[finish][1] + ("" if finish == "food" else " For food, mouth or skin only a finish that its maker names for it."))
    oily = ("Rags with drying oil light themselves: lay them flat or drown them.",) if finish in ("oil", "wax", "food") else ()
    return _errand("finish", "Finish", line, 300.0, at, each=75.0, tools=("wire brush", "rag"),
                   cautions=oily)  # fmt: skip
