"""What a smith has made before: how many of a piece, and how many others with the same manners of work (computations, section 15)."""

from __future__ import annotations

import math
from collections import Counter, defaultdict
from collections.abc import Iterable, Sequence
from datetime import date

from long_ember.heats import Practised
from long_ember.records import LogEntry

__all__ = ["kinds_known", "made_before", "practised"]

_WORTH = 0.1  # of a piece's time that a manner of work takes before the piece counts as practice in it


def made_before(entries: Iterable[LogEntry], piece_id: str) -> int:
    """How many of a piece the log speaks of."""
    return max((_last(e) for e in entries if e.piece == piece_id and not e.trial), default=0)


class _Experience:
    """What one smith has made, counted once for all pieces that are asked about."""

    def __init__(self, entries: Iterable[LogEntry], smith: str) -> None:
        self._made: dict[str, int] = {}
        self._all: Counter[str] = Counter()
        self._own: defaultdict[str, Counter[str]] = defaultdict(Counter)
        for e in entries:
            if not e.trial and (e.smith or smith) == smith:
                self._made[e.piece] = max(self._made.get(e.piece, 0), _last(e))
                for verb, made in _counts(e).items():
                    self._all[verb] += made
                    self._own[e.piece][verb] += made

    def before(self, piece_id: str) -> Practised:
        """The next of a piece."""
        own = self._own.get(piece_id, Counter[str]())
        others = ((verb, made - own[verb]) for verb, made in self._all.items())
        number = self._made.get(piece_id, 0) + 1 if piece_id else 1
        return Practised(number, tuple(sorted((verb, made) for verb, made in others if made)))


_last_asked: tuple[tuple[LogEntry, ...], str, _Experience] | None = None


def practised(entries: Iterable[LogEntry], smith: str, piece_id: str) -> Practised:
    """What a smith has made before the next of a piece. Kept for the entries last asked about: a job asks for each of its pieces.

    Args:
        entries: of the log.
        smith: who also forged what names nobody.
        piece_id: in the book; "" for one that was never made.
    """
    global _last_asked
    entries, kept = tuple(entries), _last_asked
    if kept is None or kept[:2] != (entries, smith):
        kept = _last_asked = entries, smith, _Experience(entries, smith)
    return kept[2].before(piece_id)


def kinds_known(entries: Sequence[LogEntry], smith: str = "") -> list[float]:
    """How well the manners of work of each entry were known on the day before it, from other pieces: Σ share · log2(1 + pieces made with it).

    It hangs on days alone, so that no order of the entries changes it. What has no day counts for nobody and knows nothing.

    Args:
        entries: of the log.
        smith: who forged what names nobody.
    """
    by_day: defaultdict[date, list[int]] = defaultdict(list)
    for i, e in enumerate(entries):
        if e.day is not None and e.basis and e.basis[0].manners and not e.trial:
            by_day[e.day].append(i)
    found = [0.0] * len(entries)
    whole: defaultdict[str, Counter[str]] = defaultdict(Counter)
    own: defaultdict[tuple[str, str], Counter[str]] = defaultdict(Counter)
    for day in sorted(by_day):
        for i in by_day[day]:
            e = entries[i]
            who = e.smith or smith
            all_of, mine = whole[who], own[who, e.piece]
            found[i] = math.fsum(m.share * math.log2(1 + all_of[m.verb] - mine[m.verb]) for m in e.basis[0].manners)
        for i in by_day[day]:
            e = entries[i]
            who, counts = e.smith or smith, _counts(e)
            whole[who].update(counts)
            own[who, e.piece].update(counts)
    return found


def _last(e: LogEntry) -> int:
    return e.number + max(int(e.good) + e.spoilt - 1, 0)


def _counts(e: LogEntry) -> dict[str, int]:
    """Pieces made, by each manner of work that took its part of them."""
    made = max(int(e.good) + e.spoilt, 1)
    return {m.verb: made for m in (e.basis[0].manners if e.basis else ()) if m.share >= _WORTH}
