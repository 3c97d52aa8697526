"""Simulated smiths: do bands hold, and how fast does the log teach? Seeded, so that every run is the same."""

from __future__ import annotations

import json
import math
import sys
from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace
from datetime import date, timedelta
from pathlib import Path
from statistics import NormalDist
from typing import Any, NamedTuple

import numpy as np

from long_ember.beliefs import FACTORS, Belief, number_of
from long_ember.demo import demo_parcel
from long_ember.features import KINDS, Allowances, Piece
from long_ember.fields import fields_out
from long_ember.heats import ForgeSettings, ForgingPlan, sequence
from long_ember.learning import basis_of, calibrated
from long_ember.records import LogEntry
from long_ember.sections import Section, flat, round_, square
from long_ember.stock import Reckoning, Sawing

__all__ = ["COUNTS", "FEW_HEATS", "OUTSIDE", "Held", "Score", "oracle", "rule_made", "score", "smiths"]

COUNTS = (0, 1, 2, 5, 10)  # pieces logged when the next plan is looked at
FEW_HEATS = 9  # heats; the figures to reach (`learning.md`) were found with plans of no more, on nearly all of the same pieces
_FIRE = Allowances(source="fire")
_QUANTILES = tuple(NormalDist().inv_cdf((i + 0.5) / 25) for i in range(25))
_WORK, _MINUTES, _SHARE, _MM = 0.10, 0.08, 0.003, 0.7  # how one piece differs from the next

# Truths that no prior expects: scale of a dirty fire, a slow hand, bends that take little bar.
OUTSIDE = {"scale": math.log(4.0), "work": math.log(2.2), "bend": 0.36 - 0.43}


def rule_made() -> tuple[Piece, ...]:
    """Nine pieces that no demo shows, made by rule."""

    def made(bar: Section, *rows: tuple[str, dict[str, Any]]) -> Piece:
        features = tuple(
            KINDS[kind](id=f"f{i}", **sizes).fitted(bar) if not sizes else KINDS[kind](id=f"f{i}", **sizes)
            for i, (kind, sizes) in enumerate(rows)
        )
        return Piece(bar=bar, features=features, allowances=_FIRE)

    return (
        made(square(8), ("point", {"length": 30.0}), ("run", {"length": 80.0}), ("twist", {"length": 60.0, "turns": 1.5}), ("run", {"length": 40.0}),
             ("hook", {"inside": 25.0, "toward": "B", "tip": square(4)})),
        made(round_(10), ("eye", {"inside": 14.0}), ("run", {"length": 120.0}), ("point", {"length": 50.0, "toward": "B"})),
        made(square(16), ("taper", {"length": 120.0, "tip": 6.0}), ("run", {"length": 60.0}), ("bend", {"radius": 20.0}), ("run", {"length": 90.0})),
        made(square(10), ("scroll", {}), ("run", {"length": 150.0}), ("twist", {"length": 90.0, "turns": 2.0}), ("run", {"length": 60.0}),
             ("scroll", {"toward": "B"})),
        made(flat(25, 6), ("spread", {"width": 36.0, "thickness": 3.5, "length": 50.0}), ("run", {"length": 120.0}), ("hole", {"diameter": 8.0, "method": "punched"}),
             ("run", {"length": 30.0})),
        made(square(12), ("bend", {"radius": 12.0}), ("run", {"length": 200.0}), ("bend", {"radius": 12.0}), ("run", {"length": 60.0}),
             ("point", {"length": 40.0, "toward": "B"})),
        made(round_(12), ("scarf", {}), ("run", {"length": 60.0}), ("bend", {"angle": 340.0, "radius": 45.0}), ("scarf", {"toward": "B"})),
        made(square(20), ("upset", {}), ("run", {"length": 90.0}), ("taper", {"length": 160.0, "tip": 8.0, "toward": "B"})),
        made(square(6), ("curl", {}) if "curl" in KINDS else ("point", {}), ("run", {"length": 70.0}), ("twist", {"length": 40.0, "turns": 1.0}),
             ("run", {"length": 30.0}), ("point", {"length": 35.0, "toward": "B"})),
    )  # fmt: skip


class Score(NamedTuple):
    """What came of plans after so many logged pieces, as shares of 1.

    Args:
        band: cut lengths that lay in their band.
        short: safe lengths that came out short.
        heats: plans within one heat of the truth.
        close: likely lengths within 1 % of what was wanted.
        width: of the band, as a share of the length.
        minutes: minutes that lay in their band.
        expected: chance that the belief itself gives the heats to be within one.
        hoped: and the cut to be within 1 %.
        number: of plans looked at.
    """

    band: float
    short: float
    heats: float
    close: float
    width: float
    minutes: float
    expected: float
    hoped: float
    number: int


class Held(NamedTuple):
    """How one plan held.

    Args:
        band: the cut length lay in its band.
        short: the safe length came out short.
        heats: within one heat of the truth.
        close: the likely length within 1 % of what was wanted.
        width: of the band, as a share of the length.
        minutes: in their band.
        expected: chance that the belief gives the heats to be within one.
        hoped: and the cut to be within 1 %.
        planned: heats.
    """

    band: bool
    short: bool
    heats: bool
    close: bool
    width: float
    minutes: bool
    expected: float
    hoped: float
    planned: int


class _Outcome(NamedTuple):
    heats: int
    minutes: float
    wanted: float
    scale: float


class _Smith:
    """One smith, as nobody knows them: factors, and what differs from piece to piece."""

    def __init__(self, truth: Sequence[float], random: np.random.Generator, scatter: float) -> None:
        self.truth, self.random, self.scatter = Belief(mean=tuple(truth)), random, scatter

    def forge(self, piece: Piece, plan: ForgingPlan) -> _Outcome:
        """What becomes of a piece: reckoned with the true figures, then with what differs from piece to piece."""
        reckoning, real = sequence(piece, forge=replace(plan.forge, belief=self.truth), order=plan.order, quick=True)
        z = self.random.standard_normal(4)
        heats = real.packer.count(real.order, math.exp(_WORK * self.scatter * z[0]))
        ratio = heats / real.count if real.count else 1.0
        scale = reckoning.scale / reckoning.area * ratio
        likely = reckoning.likely - reckoning.scale / reckoning.area + scale
        wanted = likely + self.scatter * (_SHARE * likely * z[1] + _MM * z[2])
        minutes = real.minutes[1]
        cold = (
            math.fsum(w + a for w, a, item in zip(real.times.work, real.times.around, real.packed, strict=True) if item.cold)
            / 60
            * real.gained()
        )
        return _Outcome(heats, (cold + (minutes - cold) * ratio) * math.exp(_MINUTES * z[3]), wanted, scale)


def _entry(piece: Piece, plan: ForgingPlan, out: _Outcome, smith: str) -> LogEntry:
    """What the smith writes down: heats, minutes, how much was over, and two weighings."""
    sawn = plan.reckoning.cut
    off = round(sawn - out.wanted)
    basis = basis_of(piece, plan)
    blank = sawn * basis.heavy
    mass = blank - out.scale * basis.heavy - basis.removed - max(off, 0) * basis.heavy
    return LogEntry(
        piece=piece.name, name=piece.name, heats=out.heats, minutes=round(out.minutes, 1), smith=smith, fire=plan.forge.fire,
        came="long" if off > 0 else "short" if off < 0 else "right", off=float(abs(off)), planned_sawn=sawn, blank=round(blank), mass=max(round(mass), 0),
        basis=(basis,),
    )  # fmt: skip


def _typo(entry: LogEntry, random: np.random.Generator, at: int) -> LogEntry:
    """Write one figure of the second entry ten times too large."""
    if at != 1:
        return entry
    name = ("heats", "minutes", "off", "mass")[int(random.integers(4))]
    wrong = replace(entry, **{name: getattr(entry, name) * 10})
    return replace(wrong, came="short") if name == "off" and wrong.off else wrong


def _wrong_unit(entry: LogEntry, _random: np.random.Generator, at: int) -> LogEntry:
    """Write the second entry's length in millimetres where inches were meant."""
    return replace(entry, came="short", off=max(entry.off, 1.0) * 25.4) if at == 1 else entry


def _careless(entry: LogEntry, random: np.random.Generator, _at: int) -> LogEntry:
    """Read lengths, weights and the clock three times as badly as an orderly smith, and miscount one heat in five."""
    off = {"short": -1.0, "long": 1.0, "right": 0.0}[entry.came] * entry.off + round(random.normal(0.0, 3.0))
    heats = max(entry.heats + int(random.choice((-1, 1))), 1) if random.random() < 0.2 else entry.heats
    minutes = round(entry.minutes * math.exp(random.normal(0.0, 0.2)), 1)
    mass = max(round(entry.mass + random.normal(0.0, 4.0)), 1)
    return replace(
        entry, came="long" if off > 0 else "short" if off < 0 else "right", off=abs(off), heats=heats, minutes=minutes, mass=mass
    )


SLIPS: dict[str, Callable[[LogEntry, np.random.Generator, int], LogEntry]] = {
    "ten times typo": _typo, "wrong unit": _wrong_unit, "careless": _careless,
}  # fmt: skip


def smiths(number: int, pool: Sequence[Piece], *, seed: int = 17, scatter: float = 1.0, outside: bool = False, looked: int = 6,
           counts: Sequence[int] = COUNTS, scene: str = "") -> Iterator[tuple[int, list[Held]]]:  # fmt: skip
    """Forge and log with so many smiths; for every count of logged pieces, how some plans held.

    Args:
        number: of smiths.
        pool: pieces that they forge.
        seed: of everything random.
        scatter: times the usual difference from piece to piece.
        outside: true figures outside the priors.
        looked: pieces looked at for every count.
        counts: of logged pieces.
        scene: what goes wrong in the log: a key of `SLIPS`, "two smiths" under one name, or "sawn before": all bars sawn before the first lesson.
    """
    random = np.random.default_rng(seed)
    spreads = np.array([f.spread for f in FACTORS])
    bench = ForgeSettings(sawing=Sawing("safe"))
    for _one in range(number):
        truth = spreads * random.standard_normal(len(FACTORS))
        truth[number_of("practice")] = 0.0
        if outside:
            for key, value in OUTSIDE.items():
                truth[number_of(key)] = value
        smith = _Smith(truth.tolist(), random, scatter)
        hands = [smith]
        if scene == "two smiths":
            hands.append(_Smith((truth + 0.5 * spreads * random.standard_normal(len(FACTORS))).tolist(), random, scatter))
        log: list[LogEntry] = []
        for count in counts:
            while len(log) < count:
                piece = pool[int(random.integers(len(pool)))]
                plan = sequence(piece, forge=calibrated(bench, [] if scene == "sawn before" else log, "S"), quick=True)[1]
                made = _entry(piece, plan, hands[len(log) % len(hands)].forge(piece, plan), "S")
                if scene in SLIPS:
                    made = SLIPS[scene](made, random, len(log))
                log.append(replace(made, day=date(2026, 1, 1) + timedelta(days=len(log))))
            forge = calibrated(bench, log, "S")
            held: list[Held] = []
            for at in random.permutation(len(pool))[:looked]:
                piece = pool[int(at)]
                reckoning, plan = sequence(piece, forge=forge, quick=True)
                held.append(_held(reckoning, plan, hands[len(held) % len(hands)].forge(piece, plan)))
            yield count, held


def score(number: int, pool: Sequence[Piece], **how: object) -> dict[int, tuple[Score, Score]]:
    """The same, summed up by count of logged pieces: all plans, and those of at most `FEW_HEATS` heats."""
    rows: dict[int, list[Held]] = {}
    for count, held in smiths(number, pool, **how):  # type: ignore[arg-type]
        rows.setdefault(count, []).extend(held)
    return {count: _summed(held) for count, held in rows.items()}


def _summed(held: Sequence[Held]) -> tuple[Score, Score]:
    """All of them, and those of at most `FEW_HEATS` heats."""
    both = held, [h for h in held if h.planned <= FEW_HEATS]
    means = [np.array(part, dtype=float).mean(axis=0) for part in both]
    whole, light = (Score(m[0], m[1], m[2], m[3], m[4], m[5], m[6], m[7], len(part)) for m, part in zip(means, both, strict=True))
    return whole, light


# The boathouse's own smith, as invented as the rest: pieces in the order that they were forged, and what is true of the hand and the fire.
_BOATHOUSE = (
    "mooring-staple",
    "mooring-ring",
    "mooring-staple",
    "lantern-bracket",
    "door-pull",
    "gate-pintle",
    "mooring-ring",
    "lantern-bracket",
    "caulking-iron",
)
_TRUE = {"work": 0.12, "pace": -0.1, "scale": -0.25, "bend": -0.012, "twist": -0.05, "saw": 0.3}


def oracle(number: int, pool: Sequence[Piece], *, seed: int = 5, scatter: float = 1.0) -> tuple[Score, Score]:
    """The same as `score` for plans that know hand and fire exactly, and only not how one piece differs from the next: nobody could do better."""
    random = np.random.default_rng(seed)
    spreads = np.array([f.spread for f in FACTORS])
    sure = tuple(tuple(1e-8 if i == j else 0.0 for j in range(len(FACTORS))) for i in range(len(FACTORS)))
    held = []
    for _one in range(number):
        truth = spreads * random.standard_normal(len(FACTORS))
        truth[number_of("practice")] = 0.0
        smith = _Smith(truth.tolist(), random, scatter)
        forge = ForgeSettings(belief=Belief(tuple(truth.tolist()), sure, _WORK * scatter, scatter), sawing=Sawing("safe"))
        for piece in pool:
            reckoning, plan = sequence(piece, forge=forge, quick=True)
            held.append(_held(reckoning, plan, smith.forge(piece, plan)))
    return _summed(held)


def _held(reckoning: Reckoning, plan: ForgingPlan, out: _Outcome) -> Held:
    low, high = reckoning.band
    quick, _likely, slow = plan.minutes
    return Held(
        low <= out.wanted <= high, out.wanted > reckoning.safe, abs(out.heats - plan.count) <= 1, abs(reckoning.likely / out.wanted - 1) <= 0.01,
        (high - low) / reckoning.likely, quick <= out.minutes <= slow, _expected(plan),
        float((abs(reckoning.likely / reckoning.wanted - 1) <= 0.01).mean()), plan.count,
    )  # fmt: skip


def _expected(plan: ForgingPlan) -> float:
    """Chance that a piece takes the planned heats or one more or less, by what is held of the work."""
    belief = plan.forge.belief
    wide = math.hypot(belief.spread("work"), belief.work_scatter)
    return sum(abs(plan.packer.count(plan.order, math.exp(wide * z)) - plan.count) <= 1 for z in _QUANTILES) / len(_QUANTILES)


def boathouse_log() -> list[dict[str, Any]]:
    """Entries of the demo's log, as their file keeps them."""
    parcel = demo_parcel()
    pieces = {item.id: item.piece for item in parcel.pieces}
    assert parcel.shop is not None
    smith = _Smith([_TRUE.get(f.key, 0.0) for f in FACTORS], np.random.default_rng(3), 1.0)
    log: list[LogEntry] = []
    for i, piece_id in enumerate(_BOATHOUSE):
        piece, name = pieces[piece_id], parcel.shop.smith
        plan = sequence(piece, forge=calibrated(parcel.shop.forge, log, name, piece_id))[1]
        number = 1 + sum(e.piece == piece_id for e in log)
        made = _entry(piece, plan, smith.forge(piece, plan), name)
        weighed = i % 2 == 1
        log.append(
            replace(
                made, piece=piece_id, number=number, day=date(2026, 9, 7) + timedelta(days=4 * i), planned_heats=plan.count,
                planned_minutes=round(plan.minutes[1], 1), minutes=round(made.minutes),
                blank=made.blank if weighed else 0.0, mass=made.mass if weighed else 0.0,
            )
        )  # fmt: skip
    return [fields_out(e) for e in log]


def main() -> int:
    """Write the demo's log."""
    path = Path(__file__).parent.parent / "src" / "long_ember" / "demo" / "log.json"
    path.write_text(json.dumps(boathouse_log(), indent=1, ensure_ascii=False) + "\n", encoding="utf-8")
    print(f"wrote {path.name}")
    return 0


if __name__ == "__main__":
    sys.exit(main())
