"""One heat, or one cold step, in full: what is done, where it lies in the fire, how it is held, how the piece looks before and after."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Generator, Mapping
from functools import cached_property

from long_ember.features import Piece, operations_of
from long_ember.frozen import dataclass
from long_ember.geometry import DONE, UNDONE, Progress
from long_ember.heats.bar_so_far import BarSoFar, trimmed_off
from long_ember.heats.gripping import Grip, grip
from long_ember.heats.operations import COLD_TO_HOLD, ForgeSettings
from long_ember.heats.packing import FULL, SPARE, Filled, on_long_bar
from long_ember.heats.rules import Rule, Ties
from long_ember.heats.step import Step, advanced
from long_ember.heats.timing import heat_range, windows_of
from long_ember.stock import Reckoning
from long_ember.units import Line, own_words

__all__ = ["Heat", "Work", "heat_by_heat"]


_HAMMERED = frozenset({"draw", "setdown", "upset", "spread"})
_MINUTE = 90.0  # s from which minutes are told
_HALVINGS = 12  # rounds in which a hot length is found on the bar that it is drawn from


@dataclass(frozen=True, slots=True)
class Work:
    """Part of a step done in one heat.

    Args:
        step: the step.
        start: fraction of it that is done before.
        stop: fraction of it that is done after.
        because: rules that hold it back.
        part: which of its heats this is, from 1.
        parts: heats that it is spread over.
        dips: what is dipped before it, by name.
        blows: about how many it takes in this heat, 0 for work that is none of the hammer's.
        seconds: about how long it takes in this heat.
    """

    step: Step
    start: float
    stop: float
    because: tuple[Rule, ...]
    part: int = 1
    parts: int = 1
    dips: tuple[str, ...] = ()
    blows: float = 0.0
    seconds: float = 0.0

    @property
    def line(self) -> Line:
        """What to do in this heat: what is dipped first, the operation, and which part of it."""
        line, first, part = self.step.operation.line, "", ""
        if self.dips:
            first = own_words(f"Dip the {' and the '.join(self.dips)}, 3 to 5 s; the rest keeps its heat. ")
        if self.parts > 1:
            part = f" Part {self.part} of {self.parts}."
            if self.part == 1 and self.step.by_stretches:
                part = f" Part 1 of {self.parts}: finish a stretch at a time, from its end toward {self.step.begins} on."
            if self.step.operation.goes > 1:
                part = f" Step {self.part} of {self.parts}: {self._stretch}"
        return Line(f"{first}{line.text}{part}{self._long}", line.values)

    @property
    def _stretch(self) -> str:
        """What alone may be hot, where more of it would buckle."""
        step = self.step
        if step.operation.along:
            if self.part == 1:
                return f"only its stretch toward end {step.begins} is hot, the rest stays cold and stiff."
            return f"only the next stretch toward end {'B' if step.begins == 'A' else 'A'} is hot; straighten before it goes on."
        return "only the end is hot." if self.part == 1 else "what has grown and a short stretch behind it is hot; straighten first."

    @property
    def _long(self) -> str:
        """How much it is: blows where the hammer does it, else seconds or minutes."""
        if self.blows >= 1:
            return f" About {_rounded(self.blows)} blows."
        if self.seconds >= _MINUTE:
            return f" About {round(self.seconds / 60)} min."
        return f" About {_rounded(self.seconds)} s." if self.seconds >= 1 else ""


@dataclass(frozen=True)
class Heat:
    """Once out of the fire, or one cold step.

    Args:
        number: from 1; cold steps are not counted and have 0.
        fire: what lies in the fire: A, B, middle or all; "" when cold.
        held: end that is held, A or B.
        hung: it hangs on the long bar by that end: the piece is not parted off yet.
        zone: hot length on the cold bar, mm from end A.
        hot: °C leaving the fire.
        stop: °C below which to stop.
        work: what is done, in falling temperature.
        seconds: window at the anvil.
        need: share of the window the work needs.
        before: progress of every feature by id.
        after: the same when the heat is over.
        reckoning: of the piece, for what is as long as it is by then.
        most: mm that the fire heats at once.
    """

    number: int
    fire: str
    held: str
    hung: bool
    zone: tuple[float, float]
    hot: float
    stop: float
    work: tuple[Work, ...]
    seconds: float
    need: float
    before: dict[str, Progress]
    after: dict[str, Progress]
    reckoning: Reckoning
    most: float = math.inf

    @cached_property
    def free(self) -> float:
        """mm of cold steel at the held end, as long as it is by then; infinite on the long bar."""
        if self.hung:
            return math.inf
        cut = self.reckoning.cut
        part = (self.zone[1], cut) if self.held == "B" else (0.0, self.zone[0])
        return self._stretch(self.before, *part)

    @cached_property
    def outside(self) -> float:
        """mm of cold steel beyond the fire at the end that is not held, as long as it is by then."""
        low, high = self.glowing
        return self._stretch(self.before, *((0.0, low) if self.held == "B" else (high, self.reckoning.cut)))

    def beyond(self, work: Work) -> float:
        """mm from the mark of a bend or shoulder, at the held side of its zone, to the free end: what overhangs, as long as it is by then."""
        zone = next(z for z in self.reckoning.all_zones if z.feature.id == work.step.feature.id)
        return self.reach(work, zone.end if self.held == "B" else zone.start)

    def reach(self, work: Work, at: float) -> float:
        """mm from a place of the cold bar, mm from end A, to the free end, as long as that is when a work of this heat is begun."""
        low, high = (0.0, at) if self.held == "B" else (at, self.reckoning.cut)
        done = {w.step.feature.id: self.after[w.step.feature.id] for w in self.work[: self.work.index(work)] if not w.step.operation.own}
        return self._stretch({**self.before, **done}, low, high)

    def _stretch(self, progress: Mapping[str, Progress], low: float, high: float) -> float:
        return BarSoFar(self.reckoning, progress).stretch(low, high, trimmed_off(self.reckoning, self.after))

    @cached_property
    def long(self) -> float:
        """mm of hot steel, as long as it is by then; no more than the fire heats: the rest of what is drawn so long waits its turn."""
        return min(self._stretch(self.before, *self.zone), self.most)

    @cached_property
    def glowing(self) -> tuple[float, float]:
        """What glows of the zone, mm on the cold bar from end A: the end that lies in the fire first, as long as the fire heats."""
        low, high = self.zone
        whole = self._stretch(self.before, low, high)
        if whole - self.most < 1.0:
            return low, high
        share = {"A": 0.0, "B": 1.0}.get(self.fire, 0.5)  # of what is too long, that lies toward end A
        kept, lost = 0.0, high - low  # mm of the zone between which the right cut lies
        cut = (whole - self.most) / whole * lost
        for _half in range(_HALVINGS):  # what is drawn lies unevenly on the cold bar
            over = self._stretch(self.before, low + share * cut, high - (1 - share) * cut) - self.most
            if abs(over) < 0.5:
                break
            kept, lost = (cut, lost) if over > 0 else (kept, cut)
            cut = (kept + lost) / 2
        return low + share * cut, high - (1 - share) * cut

    @property
    def cold(self) -> bool:
        """Not a heat at all: drill, file, thread."""
        return not self.fire

    @property
    def tools(self) -> tuple[str, ...]:
        """Everything to have at hand, without repeats."""
        return tuple(dict.fromkeys(t for w in self.work for t in w.step.tools))

    @property
    def ready(self) -> tuple[str, ...]:
        """What to set before the steel leaves the fire, without repeats."""
        return tuple(dict.fromkeys(w.step.method.ready for w in self.work if w.step.method.ready))

    @property
    def own_handle(self) -> bool:
        """The cold bar is long enough to hold without tongs."""
        return self.hung or self.grip.how == "handle"

    @cached_property
    def grip(self) -> Grip:
        """What there is to hold at the held end."""
        return grip(self.reckoning, self.before, self.held, self.free)


def heat_by_heat(
    piece: Piece, reckoning: Reckoning, packed: tuple[Filled, ...], tied: Ties, forge: ForgeSettings
) -> Generator[None, None, tuple[Heat, ...]]:
    """Every heat and cold step, with the progress of all features before and after it; in small portions."""
    last = {z.feature.id: len(operations_of(z.feature, z.place)) - 1 for z in reckoning.all_zones}
    progress = {identity: UNDONE if number >= 0 else DONE for identity, number in last.items()}
    bar = BarSoFar(reckoning, progress)
    heats: list[Heat] = []
    count = Counter(s.number for item in packed for s, _a, _b in item.items), Counter[int]()
    number, seconds, hung = 0, iter(windows_of(piece, packed)), on_long_bar(piece)
    for item in packed:
        yield
        number += not item.cold
        before = dict(progress)
        for step, _start, stop in item.items:
            if step.operation.own:
                continue  # it changes no shape that is drawn
            identity = step.feature.id
            progress[identity] = advanced(progress[identity], step, stop, stop == 1 and step.order == last[identity])
        work = tuple(_work(item, at, tied, count, forge) for at in range(len(item.items)))
        lasts = 0.0 if item.cold else next(seconds)
        # A heat that several share may stretch a little: its far end is worked first.
        most = forge.hot_length * FULL if len(item.items) == 1 else forge.hot_length + SPARE
        heats.append(_heat(piece, reckoning, item, 0 if item.cold else number, work, lasts, hung, bar, before, dict(progress), most))
        for identity in {step.feature.id for step, _start, _stop in item.items}:
            bar.go_on(identity, progress[identity])
        if any(w.step.operation.verb == "cut" and w.part == w.parts for w in work):
            hung = ""
    return tuple(heats)


def _rounded(number: float) -> int:
    """To what anybody counts: ones up to ten, fives up to fifty, tens beyond."""
    step = 1 if number < 10 else 5 if number < 50 else 10
    return max(round(number / step) * step, 1)


def _work(item: Filled, at: int, tied: Ties, count: tuple[Counter[int], Counter[int]], forge: ForgeSettings) -> Work:
    step, start, stop = item.items[at]
    parts, begun = count
    begun[step.number] += 1
    dips = dict.fromkeys(s.feature.title.lower() for s, _a, _b in item.items[:at] if tied.dips[step.number] >> s.number & 1)
    operation = step.operation
    if operation.cold:
        seconds, hammered = operation.seconds * step.method.pace * (stop - start), False
    else:
        seconds = step.effort * step.window * (stop - start) if math.isfinite(step.effort) else 0.0
        hammered = operation.verb in _HAMMERED
    blows = seconds * sum(hammer.rate for hammer in forge.strikers(step.method.strikes)) if hammered else 0.0
    return Work(step, start, stop, tied.because[step.number], begun[step.number], parts[step.number], tuple(dips), blows, seconds)


def _heat(piece: Piece, reckoning: Reckoning, item: Filled, number: int, work: tuple[Work, ...], seconds: float, hung: str,
          bar: BarSoFar, before: dict[str, Progress], after: dict[str, Progress], most: float) -> Heat:  # fmt: skip
    cut = reckoning.cut
    fire, held = _held(item.zone, cut, piece.bar.thickness)
    if fire == "middle":  # either end can be held
        gone = trimmed_off(reckoning, after)
        cold = {end: bar.stretch(*part, gone) for end, part in (("A", (0.0, item.zone[0])), ("B", (item.zone[1], cut)))}
        held = _better(cold, reckoning, before)
    if hung:  # the bar beyond the cut is the handle, whatever lies at that end of the piece
        fire, held = "middle" if fire == hung else fire.replace("all", "B" if hung == "A" else "A"), hung
    if not number:
        return Heat(0, "", held, bool(hung), item.zone, 20.0, 20.0, work, 0.0, 0.0, before, after, reckoning)
    hot, low = heat_range(item, piece.steel)
    return Heat(number, fire, held, bool(hung), item.zone, hot, low, work, seconds, item.used, before, after, reckoning, most)


def _better(cold: Mapping[str, float], reckoning: Reckoning, before: Mapping[str, Progress]) -> str:
    """The end to hold it by: its own handle, else the better for tongs, and of two alike the longer. By end, mm of cold bar by now."""
    longer = "A" if cold["A"] > cold["B"] else "B"
    if min(cold.values()) < COLD_TO_HOLD:
        return longer
    worth = {end: grip(reckoning, before, end, length).worth for end, length in cold.items()}
    return longer if worth["A"] == worth["B"] else max(worth, key=lambda end: worth[end])


def _held(zone: tuple[float, float], cut: float, thickness: float) -> tuple[str, str]:
    """What lies in the fire, and the end with more cold bar to hold it by."""
    at_a, at_b = zone[0] <= thickness, zone[1] >= cut - thickness
    held = "B" if cut - zone[1] >= zone[0] else "A"
    if at_a and at_b:
        return "all", held
    return ("A", "B") if at_a else ("B", "A") if at_b else ("middle", held)
