"""The plan of a piece: operations in order, packed into heats, with what they cost and how far that is to be trusted."""

from __future__ import annotations

import math
from collections.abc import Generator
from copy import copy
from functools import cached_property, partial

import numpy as np

from long_ember.arrays import Array, quantile
from long_ember.beliefs import normal_draws, number_of
from long_ember.features import ORDER_SCHOOLS, Arc, Check, Piece, shape_of
from long_ember.frozen import dataclass
from long_ember.heats.doorway import door_ties
from long_ember.heats.errands import Errand, Frame, framed
from long_ember.heats.heat import Heat, heat_by_heat
from long_ember.heats.operations import WELDS, ForgeSettings, stepping
from long_ember.heats.packing import Filled, OrderCost, Packer, on_long_bar
from long_ember.heats.planner import found_before, planning
from long_ember.heats.rules import Rule, Ties, ties
from long_ember.heats.step import Step
from long_ember.heats.timing import Times, learned, times_of
from long_ember.physics import cold_moment, scale_loss, spring_back, twist_force
from long_ember.portions import all_portions
from long_ember.stock import Reckoning, believed, reckon, round_up, with_scale
from long_ember.units import Line, Quantity, own_words, say

__all__ = ["ForgingPlan", "hand_force", "planning_of", "replanned", "scale_expected", "scale_share", "sequence", "sequenced"]

_BENCH = ForgeSettings()
_SETTLED = 1e-3  # times in the fire
_ENDLESS = 1e9  # heats; work that no number of heats ends
_ROUNDS = 60
_WORK, _PACE, _PRACTICE, _KIN = (number_of(key) for key in ("work", "pace", "practice", "kin"))
_MINUTES = 0.08  # ln, of the minutes of one piece against the next, beside its heats; the judgement of this program
_WHOLE = 0.3  # heats: what rounding to whole ones does, as a standard deviation
_END = 40.0  # mm: an end no further than that from what is worked lies in the fire too
_BESIDE = 0.25  # bar thicknesses that lie hot on each side of a stretch that may not buckle
_MOST_SCALE = 0.2  # of the hot steel, in one heat
_FAR_OFF = 2.5  # times the allowance
_HARD, _TOO_HARD = 200.0, 350.0  # N for each hand
_HANDS = "the wrench needs about {}, {} at each hand if it is {} long"
_WRENCH = 600.0  # mm
_BENDS_COLD = 0.3  # % of carbon, above it a bar as rolled is apt to crack
_UNDER = 1 - 1e-9  # a size that was converted may be a hair off itself
_SPRINGS = 1.0  # degrees, less is not seen


@dataclass(frozen=True, eq=False)
class ForgingPlan:
    """The plan: heats in order, and cold steps between them.

    Args:
        piece: what is forged.
        reckoning: the marks that the hot zones stand on.
        forge: what it is reckoned with.
        packer: prices this and other orders.
        order: their numbers in the order of the plan.
        packed: steps by heat.
        low: fewest heats to expect.
        high: most heats to expect.
        ties: the rules at work.
        checks: what can't be done as planned.
        bare: the marks before anything scales.
        exposure: times each feature (by id) lies in the fire, one partly heated by its share.
        thorough: the planner has looked for the best order; otherwise it is the one that was there, or a quick one.
    """

    piece: Piece
    reckoning: Reckoning
    forge: ForgeSettings
    packer: Packer
    order: tuple[int, ...]
    packed: tuple[Filled, ...]
    low: int
    high: int
    ties: Ties
    checks: tuple[Check, ...]
    bare: Reckoning
    exposure: tuple[tuple[str, float], ...] = ()
    thorough: bool = True

    @property
    def count(self) -> int:
        """Heats, cold steps not counted."""
        return sum(not item.cold for item in self.packed)

    @cached_property
    def heats(self) -> tuple[Heat, ...]:
        """Heats and cold steps in full, made when they are first looked at: while a dimension is typed only the count is."""
        return all_portions(self._heat_by_heat())

    def _heat_by_heat(self) -> Generator[None, None, tuple[Heat, ...]]:
        return heat_by_heat(self.piece, self.reckoning, self.packed, self.ties, self.forge)

    def framing(self) -> Generator[None, None, tuple[Frame, ...]]:
        """`frames`, in small portions where they have not been looked at yet."""
        if "heats" not in self.__dict__:
            self.__dict__["heats"] = yield from self._heat_by_heat()
        yield
        return self.frames

    @cached_property
    def frames(self) -> tuple[Frame, ...]:
        """The heats with everything around them: sawing, waits, heat treatment, measuring cold, finish."""
        return framed(self.piece, self.reckoning, self.heats)

    @property
    def errands(self) -> tuple[Errand, ...]:
        """What is done around the heats."""
        return tuple(f for f in self.frames if isinstance(f, Errand))

    @cached_property
    def times(self) -> Times:
        """Seconds of every heat and cold step."""
        return times_of(self.piece, self.packed, self.forge)

    @cached_property
    def minutes(self) -> tuple[float, float, float]:
        """Minutes of forging, the errands left out: 5 of 100 pieces take less than the first, the middle one is likely, 5 take more than the last."""
        cold = sum(w + a for w, a, item in zip(self.times.work, self.times.around, self.packed, strict=True) if item.cold) / 60
        hot = self.times.total / 60 - cold
        drawn = (cold + hot * self.drawn(1)) * self._hands()
        low, high = quantile(drawn, (0.05, 0.95))
        return float(low), (cold + hot) * self.gained(), float(high)

    @cached_property
    def manners(self) -> dict[str, float]:
        """Manners of work by their share of the time at anvil and bench."""
        found: dict[str, float] = {}
        for item, seconds in zip(self.packed, self.times.work, strict=True):
            weights = [
                min(max(s.operation.seconds if item.cold else s.need * (stop - start), 1e-9), _ENDLESS) for s, start, stop in item.items
            ]
            whole = math.fsum(weights)
            for (step, _start, _stop), weight in zip(item.items, weights, strict=True):
                found[step.operation.verb] = found.get(step.operation.verb, 0.0) + seconds * weight / whole
        whole = math.fsum(found.values())
        return {verb: seconds / whole for verb, seconds in found.items()} if whole else {}

    @cached_property
    def known(self) -> float:
        """How well its manners of work are known from other pieces: Σ share · log2(1 + pieces made with it)."""
        kinds = dict(self.forge.practised.kinds)
        return math.fsum(share * math.log2(1 + kinds.get(verb, 0)) for verb, share in self.manners.items())

    def gained(self, later: int = 0) -> float:
        """Share of the first one's minutes that the next of its kind takes, a multiple.

        Args:
            later: pieces of the kind that are made before it is.
        """
        forge = self.forge
        return learned(forge.practised.number + later, forge.curve) * float(forge.kin**self.known)

    def _hands(self) -> Array:
        """The same with all that is in doubt of it, (n,) multiples."""
        draws, number = self.forge.belief.draws, math.log2(self.forge.practised.number)
        if not number and not self.known:
            return np.ones(len(draws))
        return np.asarray(self.gained() * 2.0 ** (draws[:, _PRACTICE] * number + draws[:, _KIN] * self.known))

    def drawn(self, pieces: int) -> Array:
        """How much longer than likely the hot work may take, (n,) multiples: the factors drawn together, with what differs from piece to piece.

        Args:
            pieces: that share the factors; what differs between them evens out.
        """
        belief, normal = self.forge.belief, normal_draws()
        root = math.sqrt(max(pieces, 1))
        work = belief.draws[:, _WORK] + belief.work_scatter / root * normal[:, -3]
        low, high = belief.work_band
        count = max(self.count, 1)
        own = math.hypot(_MINUTES, _WHOLE / count)
        # Heats come in whole ones: as the plan counts them at either end of the band, and evenly between.
        less, more = (math.log(max(n, 0.5) / count) / math.log(w) for n, w in ((self.low, low), (self.high, high)))
        return np.asarray(np.exp(work * np.where(work < 0, less, more) + belief.draws[:, _PACE] + own / root * normal[:, -1]))

    def stretch(self, pieces: int) -> tuple[float, float]:
        """Multiples of the likely hot time that 9 of 10 such batches lie between; kept with the plan, as a quote asks for it at every key."""
        kept: dict[int, tuple[float, float]] = self.__dict__.setdefault("_stretches", {})
        if pieces not in kept:
            low, high = quantile(self.drawn(pieces), (0.05, 0.95))
            kept[pieces] = float(low), float(high)
        return kept[pieces]

    @property
    def steps(self) -> tuple[Step, ...]:
        """All operations, in bar order."""
        return self.packer.steps

    @cached_property
    def cost(self) -> OrderCost:
        """What the order costs, item by item."""
        return self.packer.cost(self.order)

    def instead(self, rule: Rule, n: int) -> str:
        """What stands in the way of a rule that does not hold, by the names of the features; "" where nothing does."""
        place = {m: i for i, m in enumerate(self.order)}
        firsts = [t.before for t in (*self.ties.pairs, *self.ties.broken) if t.rule is rule and t.after == n]
        firsts += [m for mask, _weight, soft in self.ties.soft[n] if soft is rule for m in self.order if mask >> m & 1]
        late = [self.steps[m].name for m in dict.fromkeys(firsts) if place[m] > place[n]]
        return f"Here {self.steps[n].name} comes before {_listed(list(dict.fromkeys(late)))}." if late else ""

    @cached_property
    def flags(self) -> tuple[tuple[Rule, int, str], ...]:
        """Rules that do not hold in this order, with the step each would hold back, and why: broken, given up or overruled."""
        found = [(t.rule, t.after, "broken") for t in self.ties.broken]
        found.extend((rule, n, "given up") for rule, n in self.cost.broken)
        found.extend((t.rule, t.after, "overruled") for t in self.ties.overruled)
        return tuple(dict.fromkeys(found))


def _listed(names: list[str]) -> str:
    """`one`, `one and two`, `one, two and three`."""
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"


def sequence(piece: Piece, *, ruler: float = 1.0, forge: ForgeSettings = _BENCH, order: tuple[int, ...] = (), quick: bool = False,
             full: bool = False, recall: bool = False) -> tuple[Reckoning, ForgingPlan]:  # fmt: skip
    """Reckon a piece, order its operations and pack them into heats.

    The scale allowance depends on how often each feature lies in the fire, and that on the length of bar; the piece is
    packed and reckoned in turn until its length settles.

    Args:
        piece: verified.
        ruler: mm.
        forge: fire, hammer, kit, schools.
        order: with `quick`, an order to keep, if it still holds all musts.
        quick: do not search for the best order: for a keystroke, or where many plans of one piece are compared.
        full: search all the same where `order` does not fit.
        recall: with `quick`, take the best order where it has been found before.

    Raises:
        NoAnswer: when a feature has no form.
    """
    return all_portions(sequenced(piece, ruler=ruler, forge=forge, order=order, quick=quick, full=full, recall=recall))


def sequenced(piece: Piece, *, ruler: float = 1.0, forge: ForgeSettings = _BENCH, order: tuple[int, ...] = (), quick: bool = False,
               full: bool = False, recall: bool = False) -> Generator[None, None, tuple[Reckoning, ForgingPlan]]:  # fmt: skip
    """The same in portions, see `sequence`."""
    piece = believed(piece, forge.lengths)
    packer, bare, tied = yield from _packer(piece, ruler, forge)
    yield
    thorough = not quick or (recall and found_before(packer)) or (full and not packer.keeps(order))
    if thorough:
        order = yield from planning(packer)
    elif not packer.keeps(order):
        order = tuple(packer.greedy())
    yield
    return (yield from _settled(piece, forge, packer, bare, tied, order, thorough))


def planning_of(plan: ForgingPlan) -> Generator[None, None, tuple[int, ...]]:
    """The search for the best order in small portions, see `planner.planning`."""
    return planning(plan.packer)


def replanned(plan: ForgingPlan, order: tuple[int, ...]) -> tuple[Reckoning, ForgingPlan]:
    """A plan in the best order, once that is found; where it is the one that was there, with everything that was made of it.

    Args:
        plan: in the order that was there.
        order: keeps every must, as `planning_of` finds it.
    """
    if order == plan.order:
        same = copy(plan)
        same.__dict__["thorough"] = True
        return plan.reckoning, same
    return all_portions(_settled(plan.piece, plan.forge, plan.packer, plan.bare, plan.ties, order, True))


def _packer(piece: Piece, ruler: float, forge: ForgeSettings) -> Generator[None, None, tuple[Packer, Reckoning, Ties]]:
    bare = reckon(piece, ruler=ruler, doubts=False, belief=forge.lengths, sawing=forge.sawn(piece))
    yield
    found, plan = (yield from stepping(piece, bare, forge)), piece.planning
    yield
    schools = tuple((s.key, forge.school(plan, s.key)) for s in ORDER_SCHOOLS)
    hung = on_long_bar(piece)
    tie = partial(
        ties, found, bare, schools=schools, own=forge.own, pins=plan.pins, overrules=plan.overrules, described=plan.own, hung=hung
    )
    tied = tie()
    if forge.door.height and (besides := door_ties(found, tied, bare, piece.bar.thickness, forge.door, hung)):
        tied = tie(found=besides)
    return Packer(found, tied, bare, piece.bar.thickness, forge, hung), bare, tied


def _settled(piece: Piece, forge: ForgeSettings, packer: Packer, bare: Reckoning, tied: Ties, order: tuple[int, ...],
             thorough: bool) -> Generator[None, None, tuple[Reckoning, ForgingPlan]]:  # fmt: skip
    """Pack, and let scale and length follow each other until they stand still."""
    low, high = (packer.count(order, factor) for factor in forge.belief.work_band)
    if low:
        high = max(high, low + 1)  # a heat is lost to more than slow work: a band has a width
    packed = tuple(packer.fill(order))
    share = scale_share(piece, forge)
    times, zones = _exposure(packed, bare, piece, share)
    yield
    for item, (first, last) in zip(packed, zones, strict=True):
        item.zone = (first, last)
    fires = packed
    if forge.measured is not None:  # scale as often as they lie in the fire who measured what was left
        fires = tuple(packer.paced(forge.lengths.times("work") / forge.belief.times("work")).fill(order))
        times, zones = _exposure(fires, bare, piece, share)
        for item, (first, last) in zip(fires, zones, strict=True):
            item.zone = (first, last)
        yield
    exposure = tuple((z.feature.id, n) for z, n in zip(bare.zones, times, strict=True))
    at = with_scale(bare, piece, dict(exposure), share=share, growth=_several(fires))
    yield
    at = at.laid(_spare(piece, packer, order))
    shift = at.over if at.spare == "A" else 0.0
    for item in packed:  # what is over lies in the fire with the end that it hangs on
        first, last = item.zone
        item.zone = first + shift if first else 0.0, at.cut if last >= at.likely else last + shift
    checks = _checks(packer.steps, piece, forge, at)
    return at, ForgingPlan(piece, at, forge, packer, order, packed, low, high, tied, checks, bare, exposure, thorough)


def _spare(piece: Piece, packer: Packer, order: tuple[int, ...]) -> str:
    """The end that is made last, or not at all: there the smith trims. On the long bar that is where it hangs."""
    hung = on_long_bar(piece)
    if hung:
        return hung
    ends = {"A": 0, "B": len(piece.features) - 1}
    when = {end: next((i for i, n in enumerate(order) if packer.steps[n].touches(at)), len(order)) for end, at in ends.items()}
    if when["A"] == when["B"]:
        return "A" if piece.datum == "B" else "B"
    return max(when, key=lambda end: when[end])


def _several(packed: tuple[Filled, ...]) -> float:
    """Share of what lies in the fire that does so for work of several heats: that grows with the work, the rest does not."""
    hot = [(item.zone[1] - item.zone[0], any(stop - start < 1.0 for _s, start, stop in item.items)) for item in packed if not item.cold]
    whole = sum(length for length, _several in hot)
    return sum(length for length, several in hot if several) / whole if whole else 1.0


def _exposure(packed: tuple[Filled, ...], bare: Reckoning, piece: Piece, share: float) -> tuple[list[float], list[list[float]]]:
    """How often each feature lies in the fire, and the hot zones on the bar that is longer by what scales off, mm from end A.

    A longer bar has longer hot zones, and those scale a little more: a few rounds settle it.
    """
    count, thick, kept = len(bare.zones), piece.bar.thickness, 1 - share
    stock = np.array([z.stock for z in bare.zones])
    # What is worked, not what it stands on: a bend in a long bar takes only its own stretch into the fire.
    reached = [[s.reached(start, stop) for s, start, stop in i.items] for i in packed]
    worked = np.array([(min(low for low, _high in r), max(high for _low, high in r)) for r in reached]).reshape(-1, 2)
    # A stretch that would buckle is heated alone, for next to nothing beyond it.
    goes = np.array([any(s.operation.goes > 1 for s, _a, _b in i.items) for i in packed], dtype=bool)
    beside, near = np.where(goes, thick * _BESIDE, thick), np.where(goes, thick, _END)
    before, beyond = _left_cold(packed, bare, worked[:, 0] - beside, worked[:, 1] + beside)
    hung = on_long_bar(piece)  # there the bar goes on
    at_a = (before <= near) & (before <= beyond) & (hung != "A")
    at_b = (beyond <= near) & (beyond < before) & (hung != "B")
    short = bare.trim + np.concatenate(([0.0], np.cumsum(stock)))
    hot = np.array([not item.cold for item in packed], dtype=bool)
    times = np.zeros(count)
    for turn in range(_ROUNDS):
        edges = bare.trim + np.concatenate(([0.0], np.cumsum(stock / kept**times)))
        cut = round_up(float(edges[-1]) + bare.trim + bare.parting, bare.ruler)
        low, high = np.interp(worked, short, edges).T
        zones = np.column_stack((np.where(at_a, 0.0, np.maximum(low - beside, 0.0)), np.where(at_b, cut, np.minimum(high + beside, cut))))
        shared = np.minimum(edges[1:, None], zones[hot, 1]) - np.maximum(edges[:-1, None], zones[hot, 0])
        wide = np.diff(edges)
        wide[wide <= 0.0] = np.inf  # a stretch lost in the last figures of a bar of 100 m is in no fire
        found = (np.maximum(shared, 0.0) / wide[:, None]).sum(axis=1)
        if np.abs(found - times).max(initial=0.0) < _SETTLED:
            break
        times = found if turn < 3 else (times + found) / 2  # a longer zone catches less of its neighbour's heat: it might swing for ever
    return times.tolist(), zones.tolist()


def _left_cold(packed: tuple[Filled, ...], bare: Reckoning, low: Array, high: Array) -> tuple[Array, Array]:
    """How long the bar is on either side of a stretch when it goes into the fire, mm: what has been drawn there before is longer than its bar.

    Args:
        packed: heats and cold steps in order.
        bare: their zones before anything scales.
        low: where each stretch begins, mm from end A of the cold bar.
        high: where it ends.
    """
    if not bare.zones:
        return np.maximum(low, 0.0), np.maximum(bare.cut - high, 0.0)
    last = {step.position: i for i, item in enumerate(packed) for step, _start, _stop in item.items if not step.over}
    done = np.array([last.get(i, len(packed)) for i in range(len(bare.zones))])
    longer = np.array([0.0 if z.shape.branches else z.shape.length - z.stock for z in bare.zones])
    grown = np.cumsum(np.where(done < np.arange(len(packed))[:, None], longer, 0.0), axis=1)
    grown = np.column_stack((np.zeros(len(packed)), grown))  # at the beginning of each zone, and at the end of the last
    ends = bare.trim + np.concatenate(([0.0], np.cumsum([z.stock for z in bare.zones])))

    def more(at: Array) -> Array:
        i = np.clip(np.searchsorted(ends, at, "right") - 1, 0, len(ends) - 2)
        share = np.clip((at - ends[i]) / np.maximum(ends[i + 1] - ends[i], 1e-9), 0.0, 1.0)
        row = np.arange(len(at))
        return np.asarray(grown[row, i] * (1 - share) + grown[row, i + 1] * share)

    return np.maximum(low + more(low), 0.0), np.maximum(bare.cut - high + grown[:, -1] - more(high), 0.0)


def _checks(found: tuple[Step, ...], piece: Piece, forge: ForgeSettings, reckoning: Reckoning) -> tuple[Check, ...]:
    checks = []
    steel = piece.steel
    if steel.note:
        hardens = f" Hardens in {steel.hardening}." if steel.hardening in ("oil", "water", "air") else ""
        checks.append(Check("note", say(f"{steel.title}: {steel.note}{hardens}"), caution=True))
    if not steel.modelled:
        checks.append(Check("note", say(f"{steel.title}: the heat model is for steel, so heats here are a guess by likeness.")))
    hot = any(not s.operation.cold for s in found)
    typed = piece.allowances.source == "typed"
    expected = scale_expected(piece, forge) if hot and steel.modelled and typed else 0.0
    if expected > _FAR_OFF * piece.allowances.scale:
        text = "You allow {} of scale each heat; of a bar of this size the model expects about {} in your fire."
        checks.append(Check("note", say(text, Quantity(piece.allowances.scale, "percent"), Quantity(expected, "percent"))))
    long: set[str] = set()  # features of which it is told that they are longer than the fire
    for step in found:
        if math.isinf(step.need):
            text = "too thin to work before it is cold. Heat hotter or shorten."
            if step.operation.verb in WELDS:
                text = "this material is not forge welded. Choose another, or join it another way."
            checks.append(Check("stop", say(f"{_named(step)}: {text}"), step=step.number))
        checks.extend(Check(level, line, step=step.number) for level, line in _told(step, piece, forge, reckoning))
        if not step.operation.cold and step.operation.goes <= 1 and step.least > 1 and step.feature.id not in long:
            long.add(step.feature.id)
            zone = next(z for z in reckoning.all_zones if z.feature is step.feature)
            text = f"{_named(step)}: {{}} long, and your fire heats {{}} evenly: worked in parts, each with a heat of its own."
            checks.append(Check("note", say(text, max(zone.stock or zone.length, zone.shape.length), forge.hot_length), step=step.number))
    return tuple(checks)


def _named(step: Step) -> str:
    return own_words(step.name)


def _told(step: Step, piece: Piece, forge: ForgeSettings, reckoning: Reckoning) -> list[tuple[str, Line]]:
    """A twist beyond one smith, a bend without heat."""
    told: list[tuple[str, Line]] = []
    force = hand_force(step, piece)
    if force:
        end = (
            ": not alone. A longer wrench, or a second smith."
            if force > _TOO_HARD
            else ": hard. Take a longer one."
            if force > _HARD
            else "."
        )
        needs = Quantity(force * _WRENCH / 1000, "torque"), Quantity(force, "force"), _WRENCH
        told.append(("warn" if force > _TOO_HARD else "note", say(f"{_named(step)}: {_HANDS}{end}", *needs)))
    if step.method.cold and step.operation.effort and step.operation.settings:
        told.extend(_bent_cold(step, piece, reckoning))
    return told


def _bent_cold(step: Step, piece: Piece, reckoning: Reckoning) -> list[tuple[str, Line]]:
    """What a bend without heat asks of the smith and of the steel, and how far it springs back."""
    place = next(z.place for z in reckoning.all_zones if z.feature is step.feature)
    arcs = [segment for segment in shape_of(step.feature, place).path if isinstance(segment, Arc)]
    turned = math.radians(90 * step.operation.settings)
    modulus = step.operation.effort / turned
    deep = 4 * modulus / place.bar.area
    told: list[tuple[str, Line]] = []
    steel = piece.steel
    if not steel.modelled or steel.carbon > _BENDS_COLD:
        told.append(
            (
                "warn",
                say(f"{_named(step)}: {steel.title} is not mild steel: bent cold it may crack or fly. Anneal it first, or bend it hot."),
            )
        )
    moment = cold_moment(modulus)
    force = moment / (2 * _WRENCH / 1000)
    if force > _TOO_HARD:
        text = "cold it takes about {}: more than one smith has on a lever of {}. Bend it hot, or in a bender."
        told.append(("warn", say(f"{_named(step)}: {text}", Quantity(moment, "torque"), _WRENCH)))
    if arcs:
        radius = min(abs(a.length / a.angle) for a in arcs if a.angle)
        if radius - deep / 2 < deep * _UNDER:
            told.append(
                ("warn", say(f"{_named(step)}: bent cold round less than its own thickness of {{}} the outside cracks. Bend it hot.", deep))
            )
        back = spring_back(max(abs(a.length / a.angle) for a in arcs if a.angle), deep) * math.degrees(turned)
        if back >= _SPRINGS:
            text = f"{_named(step)}: it springs back by about {{}}: go that much further, and try it with an offcut."
            told.append(("note", say(text, Quantity(back, "angle"))))
    return told


def hand_force(step: Step, piece: Piece) -> float:
    """N for each hand on a wrench of 600 mm; 0 where nothing is twisted. Midway between leaving the fire and stopping."""
    section = step.operation.section
    if section is None:
        return 0.0
    middle = (piece.steel.start + piece.steel.stop(step.operation.stop_below)) / 2
    return twist_force(section.plastic_torsion, middle, piece.steel.carbon) * piece.steel.flow


def scale_share(piece: Piece, forge: ForgeSettings) -> float:
    """Share of the hot steel that is reckoned lost in each heat: the smith's figure, or the model's for this bar and fire, as the log has taught it."""
    if piece.allowances.source == "typed" or not piece.steel.modelled:
        return piece.allowances.scale
    return min(scale_expected(piece, forge) * forge.lengths.times("scale"), _MOST_SCALE)


def scale_expected(piece: Piece, forge: ForgeSettings) -> float:
    """Share of the hot steel that the model expects to scale off in one heat, to hold the allowance against."""
    bar = piece.bar
    return scale_loss(bar.area, bar.perimeter, fire=forge.fire, stop=min(piece.steel.start, 1230.0), factor=forge.slow)
