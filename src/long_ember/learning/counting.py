"""Good ones and rejects, as the log counts them."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterable

from long_ember.frozen import NamedTuple
from long_ember.learning.lessons import reject_rate
from long_ember.records import CAUSES, LogEntry

__all__ = ["Tally", "begin_for", "tally"]

_CAUSES = dict(CAUSES)


class Tally(NamedTuple):
    """What has come of a piece so far.

    Args:
        good: that came out.
        spoilt: that did not, by cause.
    """

    good: int
    spoilt: Counter[str]

    @property
    def words(self) -> str:
        """`12 good, 2 rejected (1 burnt, 1 cracked)`."""
        rejected = sum(self.spoilt.values())
        causes = ", ".join(f"{n} {_CAUSES.get(cause, cause)}" for cause, n in self.spoilt.most_common())
        return f"{self.good} good" + (f", {rejected} rejected ({causes})" if rejected else "")


def tally(entries: Iterable[LogEntry], piece_id: str, job_id: str = "") -> Tally:
    """Good ones and rejects of a piece, test pieces left out.

    Args:
        entries: of the log.
        piece_id: of the piece.
        job_id: of one job; "" for all.
    """
    good, spoilt = 0, Counter[str]()
    for e in entries:
        if e.piece == piece_id and not e.trial and (not job_id or e.job == job_id):
            good += int(e.good)
            for reject in e.rejects:
                spoilt[reject.cause] += int(reject.count)
    return Tally(good, spoilt)


def begin_for(wanted: int, entries: Iterable[LogEntry], piece_id: str) -> int:
    """How many to begin for so many good ones, by the rejects that the log counts.

    Args:
        wanted: good ones.
        entries: of the log.
        piece_id: of the piece.
    """
    return math.ceil(wanted / (1 - min(reject_rate(entries, piece_id), 0.9)) - 1e-9)
