"""What test pieces say of the figures in doubt, for the whole shop (computations, sections 8 and 15)."""

from __future__ import annotations

import math
from collections.abc import Sequence
from datetime import date

from long_ember.beliefs import FIELDS
from long_ember.features import BendRule, Measured, Piece
from long_ember.features.turning import bend_factor, depth
from long_ember.heats import ForgeSettings, scale_expected
from long_ember.records import LogEntry, Told
from long_ember.stock import Question, usual_figure

__all__ = ["trial_entry"]


def trial_entry(
    piece: Piece, piece_id: str, found: Sequence[tuple[Question, Measured]], forge: ForgeSettings, smith: str, day: date
) -> LogEntry | None:
    """A test piece as an entry of the log; None where it says nothing of the shop's figures.

    Args:
        piece: whose features were tested.
        piece_id: of it.
        found: each question with what was measured.
        forge: fire in use.
        smith: at the anvil.
        day: it was measured.
    """
    told = tuple(t for t in (_told(piece, question, m, forge) for question, m in found) if t is not None)
    if not told:
        return None
    return LogEntry(
        piece=piece_id, name=f"Test piece for {piece.name}", day=day, smith=smith, fire=forge.fire, good=0, trial=True, told=told,
        note="; ".join(t.words for t in told),
    )  # fmt: skip


def _told(piece: Piece, question: Question, m: Measured, forge: ForgeSettings) -> Told | None:
    """How far a measured figure lies from the usual one. A spread counts as two standard deviations."""
    deviation = max(m.spread / 2, 0.002)
    if m.name == "bend":
        feature = question.tested
        if feature is None:
            return None
        radius, facing = getattr(feature, "radius", 0.0), getattr(feature, "facing", 0.0)
        usual = bend_factor(BendRule(piece.school), radius, depth(piece.bar.blend, facing).whole)
        return Told(factor="bend", value=m.value - usual, deviation=deviation, words="Test piece: bend factor")
    if m.name == "scale":
        expected = scale_expected(piece, forge)
        if m.value <= 0 or expected <= 0:
            return None
        spread = max(m.spread / m.value / 2, 0.05)
        return Told(factor="scale", value=math.log(m.value / expected), deviation=spread, words="Test piece: scale each heat")
    feature = piece.feature(m.feature)
    if feature is None or m.name not in FIELDS:
        return None
    return Told(
        factor=FIELDS[m.name],
        value=m.value - usual_figure(feature, m.name),
        deviation=deviation,
        words=f"Test piece: {feature.title.lower()}",
    )
