"""What the log teaches about the smith's heats and learning (computations, section 15)."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import replace

from long_ember.frozen import dataclass
from long_ember.heats import ForgeSettings
from long_ember.records import LogEntry

__all__ = ["RECALLED", "Lesson", "calibrated", "lesson", "made_before", "overrun"]

_SURE = 1.5  # ×/÷, of a shop calibrated from its own log
_ENOUGH = 5  # logged pieces for it
_PULL = 3.0  # pieces that the usual value weighs against the log
_LEAST, _MOST = 0.3, 3.0
_CURVE = 0.9
_LAST = 10  # pieces that a quote looks back on
RECALLED = 5000  # entries that teach: who hammered before them was another smith
_FOR_SLOPES, _OF_ONE = 2000, 12  # entries, and of one piece, that the learning curve is drawn through


@dataclass(frozen=True, slots=True)
class Lesson:
    """What a log teaches.

    Args:
        measured: by how much this smith's work takes longer than reckoned.
        band: least and greatest multiples of a plan.
        curve: share of the minutes when twice as many have been made.
        entries: that could be used.
    """

    measured: float
    band: tuple[float, float]
    curve: float
    entries: int


def _median(values: list[float]) -> float:
    from statistics import median  # slow to load, and a new shop has no log

    return median(values)


def lesson(entries: Iterable[LogEntry], rough: tuple[float, float]) -> Lesson:
    """Median of what plans were off by, pulled to the usual while there is little of it.

    Blow energy, tempo and duty can't be told apart in a log, so one factor stands for all of them.

    Args:
        entries: of one smith or shop, in the order they were logged; the last 5,000 count.
        rough: band while nothing is known.
    """
    entries = tuple(entries)[-RECALLED:]
    ratios = [math.log(r) for e in entries if (r := e.ratio) is not None]
    count = len(ratios)
    if not count:
        return Lesson(1.0, rough, _CURVE, 0)
    middle = _median(ratios) * count / (count + _PULL)
    share = min(count / _ENOUGH, 1.0)
    band = (rough[0] ** (1 - share) * (1 / _SURE) ** share, rough[1] ** (1 - share) * _SURE**share)
    return Lesson(min(max(math.exp(middle), _LEAST), _MOST), band, _learning(entries), count)


def _learning(entries: tuple[LogEntry, ...]) -> float:
    """Median slope of log minutes over log number, within each piece (Theil and Sen), as the share at twice the number."""
    by_piece: dict[str, list[tuple[float, float]]] = {}
    for e in entries[-_FOR_SLOPES:]:
        if e.minutes and e.planned_minutes:
            by_piece.setdefault(e.piece, []).append((math.log2(e.number), math.log2(e.minutes / e.planned_minutes * e.factor)))
    few = {piece: points[-_OF_ONE:] for piece, points in by_piece.items()}
    slopes = [
        (y1 - y0) / (x1 - x0) for points in few.values() for i, (x0, y0) in enumerate(points) for x1, y1 in points[i + 1 :] if x1 != x0
    ]
    if not slopes:
        return _CURVE
    usual = math.log2(_CURVE)
    pulled = usual + (_median(slopes) - usual) * len(slopes) / (len(slopes) + _PULL)
    return float(min(max(2.0**pulled, 0.7), 1.0))


def calibrated(forge: ForgeSettings, entries: Iterable[LogEntry]) -> ForgeSettings:
    """The bench as the shop's own log has it."""
    found = lesson(entries, forge.band)
    return replace(forge, measured=found.measured, band=found.band, curve=found.curve) if found.entries else forge


def overrun(entries: Iterable[LogEntry]) -> float:
    """By how much minutes at fire and anvil outrun what was planned for them: the middle of the last ten pieces, pulled to 1 while there are few.

    What the plans had already learned is in the minutes planned, so this is what they still miss.

    Args:
        entries: in the order they were logged.
    """
    ratios = [math.log(e.minutes / e.planned_minutes) for e in entries if e.minutes and e.planned_minutes][-_LAST:]
    if not ratios:
        return 1.0
    return min(max(math.exp(_median(ratios) * len(ratios) / (len(ratios) + _PULL)), _LEAST), _MOST)


def made_before(entries: Iterable[LogEntry], piece_id: str) -> int:
    """How many of a piece the log speaks of."""
    return max((e.number for e in entries if e.piece == piece_id), default=0)
