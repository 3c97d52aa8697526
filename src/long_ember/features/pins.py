"""Runs pinned to a landmark: their length follows, so that what stands beside them stays where it was wanted."""

from __future__ import annotations

from dataclasses import replace

from long_ember.errors import NoAnswer
from long_ember.features.base import shape_of
from long_ember.features.piece import Piece
from long_ember.features.run import Run, SectionChange
from long_ember.features.tenon import Tenon
from long_ember.features.upset import Upset

__all__ = ["with_pinned_runs"]

_SHOULDERED = (SectionChange, Tenon, Upset)


def with_pinned_runs(piece: Piece) -> Piece:
    """The piece with every pinned run as long as its landmark asks.

    Lengths are finished and follow the centreline. A pinned run moves what stands behind it (pinned from end A, a shoulder, or the
    centre) or before it (pinned from end B) so that its middle comes to the place named.

    Raises:
        NoAnswer: when there is no room, naming the run.
    """
    features = list(piece.features)
    for i, feature in enumerate(piece.features):
        if isinstance(feature, Run) and feature.pin != "none":
            length = _length(piece, i, feature)
            if length <= 0:
                what = "There is no room for the pinned run: what it holds would have to overlap."
                raise NoAnswer(what, "Enlarge the distance, or take the pin off.", feature.id)
            if abs(length - feature.length) > 1e-9:
                features[i] = replace(feature, length=length)
                piece = replace(piece, features=tuple(features))
    return piece


def _length(piece: Piece, index: int, run: Run) -> float:
    sizes = [shape_of(f, piece.place(i)).length for i, f in enumerate(piece.features)]
    before, after = sum(sizes[:index]), sum(sizes[index + 1 :])
    held = index - 1 if run.pin == "end-B" else index + 1
    if not 0 <= held < len(sizes):
        raise NoAnswer(
            "A pinned run holds what stands beside it, and nothing stands there.", "Add a feature there, or take the pin off.", run.id
        )
    half = sizes[held] / 2
    if run.pin == "end-A":
        return run.at - before - half
    if run.pin == "end-B":
        return run.at - after - half
    if run.pin == "centre":  # as much before the middle of what is held as behind it
        return after - before - sizes[held]
    shoulder = max((i for i in range(index) if isinstance(piece.features[i], _SHOULDERED)), default=None)
    if shoulder is None:
        raise NoAnswer("There is no shoulder before this run.", "Pin it to an end, or add a set-down, tenon or upset before it.", run.id)
    return run.at - sum(sizes[shoulder + 1 : index]) - half
