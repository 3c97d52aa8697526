"""Working from a cut list: where every cut comes, what a move costs, what is ticked off, and what is on the rack afterwards."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterable, Mapping
from dataclasses import replace

from long_ember.cutting import Bar, Problem, Rules, Supply, Wanted, verify
from long_ember.cutting.problem import CREDIT, OFFCUT, WHOLE
from long_ember.errors import NoAnswer
from long_ember.frozen import dataclass
from long_ember.jobs.buying import SheetCut
from long_ember.records import CutPiece, RackItem, SavedBar, SavedCutList
from long_ember.sections import Section, flat
from long_ember.units import Line, Quantity, many, say

__all__ = [
    "BarLayout",
    "PlacedBlank",
    "astray",
    "bar_layouts",
    "bars_of",
    "differences",
    "finished",
    "laid",
    "locked",
    "money_of",
    "moved",
    "moved_words",
    "opened",
    "ticked",
    "ticked_bar",
]  # fmt: skip


@dataclass(frozen=True, slots=True)
class PlacedBlank:
    """One blank where it lies: from and to, mm from the end that is sawn from."""

    cut: CutPiece
    start: float
    stop: float


@dataclass(frozen=True)
class BarLayout:
    """A bar with its blanks where they lie.

    Args:
        bar: of the cut list.
        cuts: in the order they are sawn.
        left: mm behind the last cut, the trimmed end taken off.
        keep: what is left goes back to the rack.
        over: mm that the pieces are too long for the bar, 0 where they fit.
    """

    bar: SavedBar
    cuts: tuple[PlacedBlank, ...]
    left: float
    keep: bool
    over: float


def laid(bar: SavedBar, rules: Rules) -> BarLayout:
    """Where the blanks of a bar lie: those forged on the bar first, each followed by its own cut; the last saw cut is free where nothing is left.

    Kept with the bar: a tick on one of hundreds changes nothing of the others.
    """
    kept: tuple[Rules, BarLayout] | None = bar.__dict__.get("_laid")
    if kept is None or kept[0] != rules:
        kept = bar.__dict__["_laid"] = (rules, _laid(bar, rules))
    return kept[1]


def _laid(bar: SavedBar, rules: Rules) -> BarLayout:
    head = rules.trim + rules.kerf if rules.trim else 0.0
    at, cuts = head, []
    for cut in bar.cuts:
        cuts.append(PlacedBlank(cut, at, at + cut.length))
        at += cut.length + cut.loss
    end = bar.length - head
    held = max((c.stop + c.cut.loss for c in cuts if c.cut.held), default=0.0)
    last = cuts[-1].stop + (cuts[-1].cut.loss if cuts[-1].cut.held else 0.0) if cuts else 0.0
    over = max(last - end, held + rules.hold - end if held else 0.0, 0.0)
    left = max(0.0, end - at)
    return BarLayout(bar, tuple(cuts), left, bool(left) and left >= rules.keep, over if over > 1e-6 else 0.0)


def _ordered(cuts: Iterable[CutPiece]) -> tuple[CutPiece, ...]:
    """In the order they are sawn: what is sawn already, then what is forged on the bar, then the longest."""
    return tuple(sorted(cuts, key=lambda c: (not c.sawn, not c.held, -c.length)))


def bar_layouts(sheet: SavedCutList, rules: Rules) -> tuple[BarLayout, ...]:
    """Every bar of a cut list with its blanks where they lie."""
    return tuple(laid(bar, rules) for bar in sheet.bars)


def bars_of(sheet: SavedCutList) -> dict[tuple[str, Section], list[int]]:
    """Numbers of the bars by material and section, in order."""
    found: dict[tuple[str, Section], list[int]] = {}
    for i, bar in enumerate(sheet.bars):
        found.setdefault((bar.material, bar.section), []).append(i)
    return found


def verified(sheet: SavedCutList, rules: Rules) -> None:
    """Look a cut list over by the independent checker, section by section.

    Raises:
        EmberError: with what is wrong.
    """
    for numbers in bars_of(sheet).values():
        verify(*as_problem([sheet.bars[i] for i in numbers], rules))


def as_problem(bars: Iterable[SavedBar], rules: Rules) -> tuple[Problem, tuple[Bar, ...]]:
    """Bars of one section as a problem and a plan for it, to be looked over or reckoned with.

    Raises:
        NoAnswer: a piece is longer than any of the bars.
    """
    bars = tuple(b for b in bars if b.cuts)
    kinds = list(dict.fromkeys(c.same for b in bars for c in b.cuts))
    names = {c.same: c.name for b in bars for c in b.cuts}
    number = Counter(c.same for b in bars for c in b.cuts)
    lying, sold = (
        Counter((b.rack, b.source, b.length) for b in bars if b.rack),
        list(dict.fromkeys((b.source, b.length, b.price) for b in bars if not b.rack)),
    )
    wanted = tuple(Wanted(names[k], k[1], number[k], k[2], k[3]) for k in kinds)
    supplies = (
        *(Supply(source, length, 0.0, n) for (_r, source, length), n in lying.items()),
        *(Supply(s, length, p) for s, length, p in sold),
    )
    places = [*lying, *sold]
    plan = tuple(
        Bar(places.index((b.rack, b.source, b.length) if b.rack else (b.source, b.length, b.price)),
            tuple(sum(c.same == k for c in b.cuts) for k in kinds)) for b in bars
    )  # fmt: skip
    return Problem(wanted, supplies, rules), plan


def money_of(bars: Iterable[SavedBar], rules: Rules, value: float) -> float:
    """What bars cost in the shop's money: bought ones their price, less half the value of a remnant that is kept; rack ones a share of what is spent.

    The same that the search goes by, see `Problem.costs`.

    Args:
        bars: with their pieces.
        rules: of cutting.
        value: money for a mm of bought bar.
    """
    total = []
    for bar in bars:
        if bar.cuts:
            lay = laid(bar, rules)
            kept = lay.left if lay.keep else 0.0
            share = OFFCUT if bar.offcut else WHOLE
            total.append(share * value * (bar.length - kept) if bar.rack else bar.price - CREDIT * value * kept)
    return math.fsum(total)


# --- changes, each gives another cut list


def moved(sheet: SavedCutList, source: int, cut: int, target: int, rules: Rules) -> SavedCutList:
    """One blank on another bar.

    Args:
        sheet: the cut list.
        source: number of its bar.
        cut: number of the blank on it.
        target: number of the other bar; an empty bar that is left behind goes.
        rules: of cutting.

    Raises:
        NoAnswer: the other bar is of another section, has no room, or one of them is locked or sawn already.
    """
    one, other = sheet.bars[source], sheet.bars[target]
    blank = one.cuts[cut]
    if (one.material, one.section) != (other.material, other.section):
        raise NoAnswer(f"{blank.name} is not made of that bar.", "Drop it on a bar of its own section.")
    if source == target:
        return sheet
    _free(one, other)
    if blank.sawn:
        raise NoAnswer(f"{blank.name} is sawn already.", "Take its tick off first, if it is not.")
    made = replace(other, cuts=_ordered((*other.cuts, blank)))
    if laid(made, rules).over:
        raise NoAnswer(f"There is no room for {blank.name} on that bar.", "Move something off it first.")
    rest = replace(one, cuts=(*one.cuts[:cut], *one.cuts[cut + 1 :]))
    bars = list(sheet.bars)
    bars[source], bars[target] = rest, made
    return replace(sheet, bars=tuple(b for b in bars if b.cuts))


def opened(sheet: SavedCutList, source: int, cut: int, supplies: Iterable[SavedBar], rules: Rules) -> SavedCutList:
    """One blank on a bar of its own: the shortest that holds it, what lies on the rack first.

    Args:
        sheet: the cut list.
        source: number of its bar.
        cut: number of the blank on it.
        supplies: empty bars that are to be had.
        rules: of cutting.

    Raises:
        NoAnswer: no bar holds it, or it is locked or sawn already.
    """
    one = sheet.bars[source]
    blank = one.cuts[cut]
    _free(one)
    if blank.sawn:
        raise NoAnswer(f"{blank.name} is sawn already.", "Take its tick off first, if it is not.")
    fit = [
        bar
        for s in supplies
        if (s.material, s.section) == (one.material, one.section)
        for bar in (replace(s, cuts=(blank,)),)
        if not laid(bar, rules).over
    ]
    if not fit:
        raise NoAnswer(f"No other bar holds {blank.name}.", "Add one to the rack or the catalogue.")
    made = min(fit, key=lambda b: (not b.rack, b.length))
    bars = [
        b for b in (*sheet.bars[:source], replace(one, cuts=(*one.cuts[:cut], *one.cuts[cut + 1 :])), *sheet.bars[source + 1 :]) if b.cuts
    ]
    return replace(sheet, bars=(*bars, made))


def _free(*bars: SavedBar) -> None:
    if any(b.locked for b in bars):
        raise NoAnswer("That bar is locked.", "Unlock it first.")


def locked(sheet: SavedCutList, index: int) -> SavedCutList:
    """A bar locked, or free again."""
    bar = sheet.bars[index]
    return sheet.with_bar(index, replace(bar, locked=not bar.locked))


def ticked(sheet: SavedCutList, index: int, cut: int) -> SavedCutList:
    """A blank ticked off as sawn, or not sawn after all."""
    bar = sheet.bars[index]
    cuts = list(bar.cuts)
    cuts[cut] = replace(cuts[cut], sawn=not cuts[cut].sawn)
    return sheet.with_bar(index, replace(bar, cuts=tuple(cuts)))


def ticked_bar(sheet: SavedCutList, index: int) -> SavedCutList:
    """The next blank of a bar that is not sawn is ticked off; when all are, none is."""
    bar = sheet.bars[index]
    at = next((i for i, c in enumerate(bar.cuts) if not c.sawn), None)
    if at is not None:
        return ticked(sheet, index, at)
    return sheet.with_bar(index, replace(bar, cuts=tuple(replace(c, sawn=False) for c in bar.cuts)))


def finished(sheet: SavedCutList, rack: Mapping[str, RackItem], rules: Rules, ids: Iterable[str],
             sheets: Iterable[SheetCut] = ()) -> tuple[SavedCutList, dict[str, RackItem]]:  # fmt: skip
    """Everything is sawn: the cut list as it then stands, and what changes on the rack.

    Bars and sheets from the rack are taken off it; remnants worth keeping are put there as offcuts. Rack entries that run out stay, with a count of 0.

    Args:
        sheet: the cut list.
        rack: by id.
        rules: of cutting.
        ids: for new entries.
        sheets: blanks of sheet that are cut with it.

    Raises:
        NoAnswer: a bar is no longer on the rack.
    """
    plans = [(cut, plan) for cut in sheets for plan in cut.plans]
    changes: dict[str, RackItem] = {}
    taken = [*(b.rack for b in sheet.bars), *(plan.sheet.key for _cut, plan in plans)]
    for rack_id, number in Counter(i for i in taken if i).items():
        item = rack.get(rack_id)
        if item is None or item.count < number:
            there = 0 if item is None else int(item.count)
            raise NoAnswer(
                f"The cut list takes {number} of a bar of which the rack has {there}.", "Correct the rack, or plan the cut list anew."
            )
        changes[rack_id] = replace(item, count=int(item.count) - number)
    left = [RackItem(material=lay.bar.material, section=lay.bar.section, length=_down(lay.left), source="offcut", place="from the saw")
            for lay in bar_layouts(sheet, rules) if lay.keep]  # fmt: skip
    left += [RackItem(material=cut.material, section=flat(plan.sheet.width, cut.thickness), length=_down(plan.rest), source="offcut", place="from the shears")
             for cut, plan in plans if plan.rest >= max(rules.keep, 1.0)]  # fmt: skip
    fresh = iter(ids)
    for offcut in left:
        there_now = {**rack, **changes}
        like = next((i for i, r in there_now.items() if replace(r, place="", count=1) == replace(offcut, place="", count=1)), None)
        if like is None:
            changes[next(fresh)] = offcut
        else:
            changes[like] = replace(there_now[like], count=int(there_now[like].count) + 1)
    bars = tuple(replace(b, cuts=tuple(replace(c, sawn=True) for c in b.cuts)) for b in sheet.bars)
    return replace(sheet, state="sawn", bars=bars), changes


def _down(mm: float) -> float:
    """Bars round down to a tenth of a mm."""
    return math.floor(mm * 10 + 1e-6) / 10


# --- does it still hold?


def differences(sheet: SavedCutList, wanted: Mapping[tuple[str, str], tuple[str, float, int]]) -> tuple[str, ...]:
    """Where a cut list no longer is what its jobs ask for, in words; nothing where it is.

    Args:
        sheet: the cut list.
        wanted: name, length in mm and number, by piece and job.
    """
    placed: Counter[tuple[str, str]] = Counter()
    lengths: dict[tuple[str, str], set[float]] = {}
    names: dict[tuple[str, str], str] = {}
    for (piece, job, name, length), number in (row for bar in sheet.bars for row in bar.tally.items()):
        placed[piece, job] += number
        lengths.setdefault((piece, job), set()).add(length)
        names[piece, job] = name
    found = []
    for key in dict.fromkeys((*wanted, *placed)):
        name, length, number = wanted.get(key, (names.get(key, ""), 0.0, 0))
        missing = number - placed[key]
        if missing:
            found.append(f"{name}: {abs(missing)} {'missing' if missing > 0 else 'too many'}")
        elif any(abs(x - length) > 0.05 for x in lengths.get(key, ())):
            found.append(f"{name}: its cut length has changed")
    return tuple(found)


def astray(sheet: SavedCutList, free: Mapping[str, int]) -> tuple[str, ...]:
    """Bars of a cut list that the rack no longer has for it, in words.

    Args:
        sheet: the cut list.
        free: bars on the rack that nobody else counts on, by id.
    """
    found = []
    for rack_id, number in Counter(b.rack for b in sheet.bars if b.rack).items():
        if free.get(rack_id, 0) < number:
            bar = next(b for b in sheet.bars if b.rack == rack_id)
            found.append(f"{bar.source}: {number} taken, {free.get(rack_id, 0)} there")
    return tuple(found)


def moved_words(before: SavedCutList, after: SavedCutList, rules: Rules, value: float, *, lead: str = "Moved") -> Line:
    """What a change costs: money, bars, the largest remnant.

    Args:
        before: the cut list.
        after: with the change.
        rules: of cutting.
        value: money for a mm of bought bar of the section that changes; 0 where no price is known.
        lead: what it begins with.
    """
    gone, come = Counter(before.bars) - Counter(after.bars), Counter(after.bars) - Counter(before.bars)
    money = money_of(come.elements(), rules, value) - money_of(gone.elements(), rules, value)
    bars = len(after.bars) - len(before.bars)
    largest = [max((lay.left for lay in bar_layouts(s, rules)), default=0.0) for s in (before, after)]
    words = []
    if value:
        words.append("costs the same" if abs(money) < 0.005 else f"{abs(money):,.2f} {'dearer' if money > 0 else 'cheaper'}")
    if bars:
        words.append(f"{many(abs(bars), 'bar')} {'more' if bars > 0 else 'fewer'}")
    text = ", ".join(words) or "no bar more or fewer"
    return say(f"{lead}: {text}; the largest remnant is {{}}, it was {{}}.", Quantity(largest[1]), Quantity(largest[0]))
