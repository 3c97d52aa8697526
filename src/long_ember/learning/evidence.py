"""What log entries say of the figures in doubt (computations, section 15)."""

from __future__ import annotations

import itertools
import math
from collections.abc import Iterable, Sequence
from dataclasses import replace

from long_ember.beliefs import FACTORS, GRID, PRIOR, Belief, Observed, Taken, number_of
from long_ember.features import Piece
from long_ember.heats import ForgingPlan, sequence
from long_ember.learning.experience import kinds_known
from long_ember.records import Basis, Lean, LogEntry, Manner

__all__ = ["basis_of", "heats_seen", "measures", "planned_entry", "seen_in"]

_MINUTES = 0.1  # ln: minutes of one piece against the next, and what a look at the clock is off by
_READ = 0.4  # mm that a length is read wrong
_WEIGHED = 0.7  # g that two weighings are off together
_CUT_AWAY = 0.15  # of what is cut away and not weighed, its standard deviation
_ROUGH = 0.04  # mm for each mm: "so much short" is said in round figures
_WORK, _PACE, _SAW, _PRACTICE, _KIN = (number_of(key) for key in ("work", "pace", "saw", "practice", "kin"))
_MODEL = 0.06  # of the scale: what the model of it leaves open from piece to piece
_MORE = 0.25  # and of what further heats than the plan's took: which work they were for, nobody wrote down
_APART = 0.7  # ln of work, either way, between which plans are compared
_USUAL_PRACTICE, _USUAL_KIN = math.log2(0.9), math.log2(0.97)
_LN2 = math.log(2.0)  # minutes are compared as ln, practice as log2


def basis_of(piece: Piece, plan: ForgingPlan, *, ruler: float = 1.0) -> Basis:
    """What the plan would have been without any lessons, with all that an entry of it is held against.

    Args:
        piece: as it is planned.
        plan: of it, in the order that was forged.
        ruler: mm.
    """
    # Held against the model of the fire, whatever the smith has typed for this piece.
    piece = replace(piece, allowances=replace(piece.allowances, source="fire"))
    at = [_reckoned(piece, plan, ruler, x) for x in (0.0, -_APART, _APART)]
    usual = at[0]
    curve = [usual.packer.count(usual.order, math.exp(x)) for x in GRID]
    leans: dict[int, float] = {}
    for doubt in usual.reckoning.doubts:
        if doubt.factor >= 0 and doubt.factor != _SAW:
            leans[doubt.factor] = leans.get(doubt.factor, 0.0) + doubt.slope
    cold, hot, scale = zip(*((_cold(p), p.times.total / 60 - _cold(p), p.reckoning.scale / p.reckoning.area) for p in at), strict=True)
    apart = at[2].count - at[1].count
    # Heats that come with more work are those of drawing and upsetting: they last longer, and more bar lies in the fire, than a bend's.
    each = [max((x[2] - x[1]) / apart, 0.0) if apart else x[0] / max(usual.count, 1) for x in (hot, scale)]
    r = usual.reckoning
    heavy = r.area * r.density
    return Basis(
        heats=usual.count, curve=run_lengths(curve), hot=hot[0], cold=cold[0], length=r.likely, scale=scale[0], more_minutes=each[0],
        more_scale=each[1], taken=r.scaling[1], removed=r.removed * r.density + (2 * r.trim + r.parting) * heavy, heavy=heavy,
        leans=tuple(Lean(factor=FACTORS[n].key, amount=round(a, 6)) for n, a in sorted(leans.items())),
        manners=tuple(Manner(verb=v, share=round(share, 4)) for v, share in sorted(usual.manners.items())),
    )  # fmt: skip


def planned_entry(
    piece: Piece, piece_id: str, plan: ForgingPlan, number: int, smith: str, *, ruler: float = 1.0, over_all: float = 0.0
) -> LogEntry:
    """An entry that says nothing yet: what was planned, and what it will be held against.

    Args:
        piece: as it is planned.
        piece_id: in the book.
        plan: of it.
        number: which of its kind.
        smith: at the anvil.
        ruler: mm.
        over_all: mm, planned length of the finished piece along its middle.
    """
    return LogEntry(
        piece=piece_id, name=piece.name, number=number, smith=smith, fire=plan.forge.fire, planned_heats=plan.count,
        planned_minutes=round(plan.minutes[1], 1), planned_sawn=plan.reckoning.cut, planned_over_all=round(over_all, 3),
        basis=(basis_of(piece, plan, ruler=ruler),),
    )  # fmt: skip


def _reckoned(piece: Piece, plan: ForgingPlan, ruler: float, work: float) -> ForgingPlan:
    """The plan without lessons, for a smith whose work takes exp(`work`) times as long."""
    mean = tuple(work if n == _WORK else 0.0 for n in range(len(FACTORS)))
    return sequence(piece, ruler=ruler, forge=replace(plan.forge, belief=Belief(mean=mean)), order=plan.order, quick=True)[1]


def _cold(plan: ForgingPlan) -> float:
    return math.fsum(w + a for w, a, item in zip(plan.times.work, plan.times.around, plan.packed, strict=True) if item.cold) / 60


def run_lengths(curve: Sequence[int]) -> str:
    """Whole numbers as how often each stands in turn.

    >>> run_lengths([2, 2, 3]), spelled("2*2 3*1")
    ('2*2 3*1', (2, 2, 3))
    """
    return " ".join(f"{value}*{len(list(group))}" for value, group in itertools.groupby(curve))


def spelled(text: str) -> tuple[int, ...]:
    """The whole numbers again; none where the text is not one of these."""
    found: list[int] = []
    for word in text.split():
        value, _star, count = word.partition("*")
        if not (value.isdigit() and count.isdigit()):
            return ()
        found += [int(value)] * min(int(count), len(GRID))
    return tuple(found)


def heats_seen(entries: Iterable[LogEntry], smith: str = "") -> list[Taken]:
    """Heats that pieces took; of entries without a basis the planned heats stand for the count of the plan.

    Args:
        entries: of the log.
        smith: who forged what names nobody.
    """
    found = []
    for i, e in enumerate(entries):
        curve = () if e.set_aside else _curve(e)
        if curve:
            found.append(Taken(e.smith or smith, curve, int(e.heats), i))
    return found


def _curve(e: LogEntry) -> tuple[int, ...]:
    """Heats as the work takes longer, kept with the entry; nothing where no heats were counted or planned."""
    kept: tuple[int, ...] | None = e.__dict__.get("_curve")
    if kept is None:
        kept = spelled(e.basis[0].curve) if e.basis and e.heats else ()
        if len(kept) != len(GRID) and e.heats and e.planned_heats:
            usual = e.planned_heats / e.factor
            kept = tuple(max(math.ceil(usual * math.exp(x) - 0.15), 1) for x in GRID)
        if len(kept) != len(GRID) or not kept[-1]:
            kept = ()
        e.__dict__["_curve"] = kept
    return kept


def seen_in(entries: Iterable[LogEntry], smith: str = "", fire: str = "") -> list[tuple[int, Observed]]:
    """Minutes, lengths, masses and measured figures of entries, each against the plan without lessons, with the number of its entry.

    Args:
        entries: of the log.
        smith: who forged what names nobody.
        fire: in which.
    """
    found: list[tuple[int, Observed]] = []
    entries = tuple(entries)
    for i, (e, known) in enumerate(zip(entries, kinds_known(entries, smith), strict=True)):
        if not e.set_aside:
            whole = e.smith and e.fire and not known
            found.extend((i, o if whole else _placed(o, smith, fire, known)) for o in _observed(e))
    return found


def measures(e: LogEntry) -> bool:
    """Whether an entry says something of a length, a size or a mass."""
    return not e.set_aside and any(o.kind != "minutes" for o in _observed(e))


def _placed(o: Observed, smith: str, fire: str, known: float) -> Observed:
    """What an entry says, by whom and where; of minutes, with what its manner of work was known."""
    o = o._replace(smith=o.smith or smith, fire=o.fire or fire)
    return (
        o._replace(target=o.target - _LN2 * _USUAL_KIN * known, linear=(*o.linear, (_KIN, _LN2 * known)))
        if o.kind == "minutes" and known
        else o
    )


def _observed(e: LogEntry) -> list[Observed]:
    """What one entry says, kept with it."""
    kept: list[Observed] | None = e.__dict__.get("_observed")
    if kept is None:
        kept = [Observed(t.value, max(t.deviation, 1e-4), ((number_of(t.factor), 1.0),), e.smith, e.fire) for t in e.told]
        minutes = _minutes(e)
        if minutes is not None:
            kept.append(minutes)
        if e.basis:
            kept.extend(_lengths(e, e.basis[0]))
        e.__dict__["_observed"] = kept
    return kept


def _minutes(e: LogEntry) -> Observed | None:
    """ln of the minutes it took against those of as many heats; what the heats leave open is the pace."""
    if not e.minutes:
        return None
    if e.basis:
        basis = e.basis[0]
        hot = _grown(basis.hot, basis.more_minutes, basis, e)
        if hot <= 0:
            return None
        planned, share = hot + basis.cold, hot / (hot + basis.cold)
    elif e.planned_minutes:
        planned, share = e.planned_minutes / (1.0 if e.heats and not e.planned_heats else e.factor), 1.0
        if e.heats and e.planned_heats:
            planned = e.planned_minutes * e.heats / e.planned_heats
    else:
        return None
    linear = [(_PACE, share), (_PRACTICE, math.log(e.number))]
    if not e.heats:
        linear.append((_WORK, share))
    target = math.log(e.minutes / planned) - _USUAL_PRACTICE * math.log(e.number)
    return Observed(target, _MINUTES, tuple(linear), e.smith, e.fire, kind="minutes")


def _grown(planned: float, each: float, basis: Basis, e: LogEntry) -> float:
    """What as many heats as were counted come to; as planned where nobody counted."""
    return max(planned + each * (e.heats - basis.heats), 0.2 * planned) if e.heats else planned


def _scaling(basis: Basis, e: LogEntry) -> tuple[float, float, float]:
    """Bar that scales, the share of it that the heats taken take, as a logarithm, and how that grows with the work where nobody counted them."""
    if not basis.scale or not basis.taken:
        return 0.0, 0.0, 0.0
    bar = basis.scale / math.expm1(basis.taken)
    each = basis.more_scale / (bar * math.exp(basis.taken))  # of the logarithm, with each heat more
    if e.heats:
        return bar, max(basis.taken + each * (e.heats - basis.heats), 0.2 * basis.taken), 0.0
    return bar, basis.taken, each * basis.heats / basis.taken


def _lengths(e: LogEntry, basis: Basis) -> list[Observed]:
    """What was sawn less what was over, and what was weighed, against the length without lessons."""
    if e.bar is not None:  # of another bar than planned: its lengths say nothing of this plan
        return []
    bar, taken, growth = _scaling(basis, e)
    model = math.hypot(_MODEL * bar * math.expm1(taken), _MORE * bar * (math.expm1(taken) - math.expm1(basis.taken)))
    found = []
    off = e.length_off
    sawn = e.sawn or e.planned_sawn
    if off is not None and sawn:
        wanted = sawn - off
        read = math.hypot(_READ, _ROUGH * off if e.came in ("short", "long") else 0.0, model)
        linear = tuple((number_of(lean.factor), lean.amount) for lean in basis.leans)
        rows = (*linear, (_SAW, 1.0))
        found.append(
            Observed(
                wanted - (basis.length - basis.scale),
                read,
                rows,
                e.smith,
                e.fire,
                bar,
                taken,
                growth,
                "length",
                PRIOR.length_deviation(wanted),
            )
        )
    if e.blank and e.mass and bar and basis.heavy and not e.spoilt:
        lost = (e.blank - e.mass) / basis.heavy
        away = basis.removed / basis.heavy
        # What is over and cut off is weighed with the rest of it.
        extra = off if off is not None and off > 0 else 0.0
        over = math.hypot(_READ, _ROUGH * extra) if extra else 0.0
        read = math.hypot(_WEIGHED / basis.heavy, _CUT_AWAY * away, over, model)
        found.append(Observed(lost - away - extra, read, (), e.smith, e.fire, bar, taken, growth, "mass"))
    return found
