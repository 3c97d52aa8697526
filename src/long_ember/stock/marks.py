"""Marks on the cold bar, measured from a named end (forge reference, section 11)."""

from __future__ import annotations

from dataclasses import dataclass

from long_ember.physics import expansion
from long_ember.stock.reckoning import Reckoning

__all__ = ["HOT", "Mark", "marks"]

HOT = 1000.0  # °C, yellow heat, for the "measures hot" column


@dataclass(frozen=True, slots=True)
class Mark:
    """One mark.

    Args:
        at: mm from the datum end, cold.
        chain: mm from the mark before.
        hot: what `at` measures at yellow heat, mm.
        kind: how it is made; chalk is gone at heat.
        before: title of the feature on the datum side, "" at the end of the bar.
        after: title of the feature beyond it.
    """

    at: float
    chain: float
    hot: float
    kind: str
    before: str
    after: str


def marks(reckoning: Reckoning, datum: str = "A") -> tuple[Mark, ...]:
    """Zone boundaries as running and chain dimensions.

    Args:
        reckoning: of the piece.
        datum: end the tape hooks on, A or B.
    """
    zones = reckoning.zones
    if not zones:
        return ()
    edges = [zones[0].start, *(z.end for z in zones)]
    names = ["", *(z.feature.title for z in zones), ""]
    if datum == "B":
        edges, names = [reckoning.cut - e for e in reversed(edges)], names[::-1]
    found, last = [], 0.0
    for i, at in enumerate(edges):
        if at < 0.05 or at > reckoning.cut - 0.05:
            continue  # that is the end of the bar itself
        kind = "centre pop" if names[i] and names[i + 1] else "trim line, chisel nick"
        found.append(Mark(at, at - last, at * (1 + expansion(HOT)), kind, names[i], names[i + 1]))
        last = at
    return tuple(found)
