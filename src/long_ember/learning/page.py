"""What the log has taught, laid out to be looked at: factor by factor, entry by entry, piece by piece."""

from __future__ import annotations

import math
from collections.abc import Generator, Sequence

from long_ember.beliefs import FACTORS, GRID, NINE_TENTHS, PRIOR, Belief, Factor
from long_ember.features import Piece
from long_ember.frozen import NamedTuple
from long_ember.heats import ForgeSettings, sequence
from long_ember.learning.changes import figure_words
from long_ember.learning.evidence import heats_seen
from long_ember.learning.lessons import calibrated, held_of, taught
from long_ember.records import LogEntry
from long_ember.units import Measure

__all__ = ["Lesson", "Mover", "Narrowing", "Residual", "lessons_of", "movers", "residuals", "shrinking"]

_MM = Measure()
_LOOKED = 40  # entries that are left out one by one, the last ones
_STEPS = 16  # lengths of the log that the band is reckoned for


class Lesson(NamedTuple):
    """One factor, before and after.

    Args:
        factor: which.
        value: what is held of it; in its own unit, ln of a multiple.
        spread: standard deviation of that.
        usual: in words.
        yours: in words.
        sure: how sure, in words.
    """

    factor: Factor
    value: float
    spread: float
    usual: str
    yours: str
    sure: str

    @property
    def known(self) -> bool:
        """The log says something of it."""
        return self.spread < 0.98 * self.factor.spread


def lessons_of(belief: Belief, measure: Measure = _MM) -> tuple[Lesson, ...]:
    """Every factor with the usual and what the log has made of it.

    Args:
        belief: of the smith, at the fire.
        measure: how a length is shown.
    """
    found = []
    for factor, value in zip(FACTORS, belief.mean, strict=True):
        spread = belief.spread(factor.key)
        wide = NINE_TENTHS * spread
        if factor.multiple:
            usual, sure = "1.00 times", f"9 of 10: {math.exp(value - wide):.2f} to {math.exp(value + wide):.2f}"
        else:
            low, high = (figure_words(factor, x, measure) for x in (value - wide, value + wide))
            high = high.split(" ")[0] if "%" in high else high  # the unit once, but never none
            usual, sure = "as reckoned", f"9 of 10: {low.split(' ')[0]} to {high}"
        found.append(Lesson(factor, value, spread, usual, figure_words(factor, value, measure), sure))
    return tuple(found)


class Mover(NamedTuple):
    """An entry, and what it does to a factor.

    Args:
        entry: its number among those given.
        without: what would be held of the factor without it.
        by: how far it moves it, in the factor's usual deviations; more than 0 upwards.
    """

    entry: int
    without: float
    by: float


def movers(entries: Sequence[LogEntry], key: str, smith: str, fire: str) -> Generator[None, None, tuple[Mover, ...]]:
    """Find the entries that moved a factor most, an entry a portion: each is left out in turn, of the last 40.

    Args:
        entries: of the log.
        key: of the factor.
        smith: at the anvil.
        fire: in which.
    """
    entries = tuple(entries)
    factor = next(f for f in FACTORS if f.key == key)
    held = taught(entries, smith, fire).belief(smith, fire).of(key)
    found = []
    for i in range(max(len(entries) - _LOOKED, 0), len(entries)):
        if entries[i].set_aside:
            continue
        yield
        without = held_of(entries[:i] + entries[i + 1 :], smith, fire).belief(smith, fire).of(key)
        found.append(Mover(i, without, (held - without) / factor.spread))
    return tuple(sorted((m for m in found if abs(m.by) > 0.005), key=lambda m: -abs(m.by)))


class Narrowing(NamedTuple):
    """What a plan was like after so many entries.

    Args:
        entries: that were there.
        low: mm of bar, 9 of 10 want more.
        likely: mm.
        high: mm, 9 of 10 want less.
        heats: least, likely and most.
    """

    entries: int
    low: float
    likely: float
    high: float
    heats: tuple[int, int, int]


def shrinking(piece: Piece, entries: Sequence[LogEntry], forge: ForgeSettings, smith: str) -> Generator[None, None, tuple[Narrowing, ...]]:
    """Find how the band of a piece has narrowed as the log grew, a plan a portion.

    Args:
        piece: on the bench.
        entries: of the log.
        forge: of the shop, untaught.
        smith: at the anvil.
    """
    entries = tuple(entries)
    count = len(entries)
    wanted = sorted({round(count * i / (_STEPS - 1)) for i in range(_STEPS)})
    found = []
    for number in wanted:
        yield
        reckoning, plan = sequence(piece, forge=calibrated(forge, entries[:number], smith), quick=True)
        low, high = reckoning.band
        found.append(Narrowing(number, low, reckoning.likely, high, (plan.low, plan.count, plan.high)))
    return tuple(found)


class Residual(NamedTuple):
    """What an entry took against what is held now.

    Args:
        entry: its number among those given.
        name: of the piece.
        expected: heats, by what is held now.
        took: heats.
        planned: heats, when it was planned.
    """

    entry: int
    name: str
    expected: int
    took: int
    planned: int


def residuals(entries: Sequence[LogEntry], belief: Belief = PRIOR, smith: str = "") -> tuple[Residual, ...]:
    """Heats that were counted, beside what would be planned now.

    Args:
        entries: of the log.
        belief: of the smith.
        smith: whose entries.
    """
    at = min(range(len(GRID)), key=lambda i: abs(GRID[i] - belief.of("work")))
    return tuple(
        Residual(t.entry, entries[t.entry].name, t.curve[at], t.heats, entries[t.entry].planned_heats)
        for t in heats_seen(entries, smith)
        if not smith or t.smith == smith
    )
