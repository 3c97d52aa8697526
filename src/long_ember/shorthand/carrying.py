"""A piece written anew keeps what was settled about it: features that are still there keep their ids, and with them pins, own work and measured figures."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from difflib import SequenceMatcher

from long_ember.features import Feature, Piece

__all__ = ["carried"]


def carried(piece: Piece, before: Piece) -> Piece:
    """A piece under the ids of the one that it takes the place of, as far as their shapes follow each other alike.

    Args:
        piece: as it was written.
        before: as it was planned.
    """
    names = _alike(before.features, piece.features) | _alike([s.feature for s in before.standing], [s.feature for s in piece.standing])
    taken = set(names.values())
    free = (name for i in range(1, 10_000) if (name := f"f{i}") not in taken)
    for feature in (*piece.features, *(s.feature for s in piece.standing)):
        if feature.id not in names:
            names[feature.id] = next(free)
    features = tuple(replace(f, id=names[f.id]) for f in piece.features)
    standing = tuple(replace(s, feature=replace(s.feature, id=names[s.id]), on=names.get(s.on, s.on)) for s in piece.standing)
    there = set(names.values())
    planning = before.planning
    if any(
        f.id not in there for f in (*before.features, *(s.feature for s in before.standing))
    ):  # an order with a gap says nothing any more
        planning = replace(planning, pins=(), overrules=(), methods=())
    measured = tuple(m for m in before.measured if not m.feature or m.feature in there)
    return replace(piece, features=features, standing=standing, planning=planning, measured=measured)


def _alike(before: Sequence[Feature], after: Sequence[Feature]) -> dict[str, str]:
    """Old ids by new ones, of shapes that follow each other in both."""
    matcher = SequenceMatcher(None, [f.kind for f in before], [f.kind for f in after], autojunk=False)
    return {after[block.b + i].id: before[block.a + i].id for block in matcher.get_matching_blocks() for i in range(block.size)}
