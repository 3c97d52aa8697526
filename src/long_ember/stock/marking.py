"""Marks on the cold bar, measured from a named end (computations, section 11)."""

from __future__ import annotations

import itertools
from collections.abc import Iterable

from long_ember.features import Piece, own_marks
from long_ember.frozen import dataclass
from long_ember.physics import expansion
from long_ember.stock.reckoning import Reckoning
from long_ember.units import Measure

__all__ = ["HOT", "Mark", "chains", "drawn_marks", "marks"]

_HAIR = 0.05  # mm; marks nearer than this are one
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
        after: title of the feature beyond it; the same as `before` for a mark within a feature.
        of: id of what stands there, for a mark on the drawn bar.
        sides: ids of the features on the datum side and beyond, "" at the end of the bar; the same twice for a mark within one.
    """

    at: float
    chain: float
    hot: float
    kind: str
    before: str
    after: str
    of: str = ""
    sides: tuple[str, str] = ("", "")


def marks(reckoning: Reckoning, datum: str = "A", own: Iterable[tuple[str, float, str]] = ()) -> tuple[Mark, ...]:
    """Zone boundaries, and what features want marked within their zones, as running and chain dimensions.

    Args:
        reckoning: of the piece.
        datum: end the tape hooks on, A or B.
        own: marks that the smith's own operations want, see `own_marks`.
    """
    zones = reckoning.zones
    if not zones:
        return ()
    # Where nothing is cut off beyond an end the saw's cut is its mark.
    waste = {0: reckoning.trim, len(zones): reckoning.trim + reckoning.parting}
    ids = ["", *(z.feature.id for z in zones), ""]
    rows = [
        (edge, _kind(a, b), a, b, pair)
        for i, (edge, (a, b), pair) in enumerate(zip(_edges(reckoning), _pairs(reckoning), itertools.pairwise(ids), strict=True))
        if waste.get(i, 1.0) > _HAIR
    ]
    for z in zones:
        spots = (*z.feature.spots(z.place), *((share, words) for identity, share, words in own if identity == z.feature.id))
        inner = ((z.start + share * z.length, words) for share, words in spots)
        # What comes within a hair of the zone's own end is marked there already.
        pair = (z.feature.id, z.feature.id)
        rows.extend((at, words, z.feature.title, z.feature.title, pair) for at, words in inner if z.start + _HAIR < at < z.end - _HAIR)
    if datum == "B":
        rows = [(reckoning.cut - at, words, b, a, pair[::-1]) for at, words, a, b, pair in rows]
    found, last = [], 0.0
    for at, words, before, after, pair in sorted(rows, key=lambda row: row[0]):
        if at < _HAIR or at > reckoning.cut - _HAIR:
            continue  # that is the end of the bar itself
        found.append(Mark(at, at - last, at * (1 + expansion(HOT)), words, before, after, "", pair))
        last = at
    return tuple(found)


def chains(found: Iterable[Mark], measure: Measure) -> tuple[float, ...]:
    """Chain lengths as they are shown, mm: differences of the running lengths as those are shown, so that they add up on the bar.

    Args:
        found: marks in order.
        measure: that they are shown in.
    """
    running = [0.0, *(measure.rounded(mark.at) for mark in found)]
    return tuple(b - a for a, b in itertools.pairwise(running))


def _edges(reckoning: Reckoning) -> list[float]:
    return [reckoning.zones[0].start, *(z.end for z in reckoning.zones)]


def _pairs(reckoning: Reckoning) -> list[tuple[str, str]]:
    names = ["", *(z.feature.title for z in reckoning.zones), ""]
    # Two alike side by side are told apart by their places: one name twice means a mark within one feature.
    return [(f"{a} {i}", f"{b} {i + 1}") if a == b else (a, b) for i, (a, b) in enumerate(itertools.pairwise(names))]


def _kind(before: str, after: str) -> str:
    return "centre pop" if before and after else "trim line, chisel nick"


def drawn_marks(piece: Piece) -> tuple[Mark, ...]:
    """Marks on the drawn bar, straight still: where forms begin and end, where works come; mm from the piece's datum end.

    Args:
        piece: verified.
    """
    if not piece.standing:
        return ()
    own = own_marks(piece.planning.own)
    length, rows = piece.composition.drawn.length, list[tuple[float, str, str, str]]()
    for stand in piece.composition.stands:
        who = (stand.feature.title, stand.feature.id)
        rows += [(stand.start + share * stand.covered, words, *who) for i, share, words in own if i == stand.feature.id]
        if stand.feature.skin:
            rows += [(stand.start, "pencil, where it begins", *who), (stand.end, "pencil, where it ends", *who)]
        elif stand.feature.stands == "work":
            rows += [(stand.start + share * stand.covered, words, *who) for share, words in stand.feature.spots(stand.place)]
        else:
            rows += [(stand.start, "light punch, where it begins", *who), (stand.end, "light punch, where it ends", *who)]
    if piece.datum == "B":
        rows = [(length - at, words, title, identity) for at, words, title, identity in rows]
    found, last = [], 0.0
    for at, words, title, identity in sorted(rows):
        if _HAIR <= at <= length - _HAIR:
            found.append(Mark(at, at - last, at * (1 + expansion(HOT)), words, title, title, identity, (identity, identity)))
            last = at
    return tuple(found)
