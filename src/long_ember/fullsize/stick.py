"""The story stick: a strip as long as the bar, cut out and laid against it, with every mark where it belongs."""

from __future__ import annotations

import numpy as np

from long_ember.document import Answer
from long_ember.fullsize.drawing import Drawing, DrawnLine, Label
from long_ember.fullsize.marking import Marking, marking_out
from long_ember.units import Measure

__all__ = ["story_sticks"]

_WIDE, _TICK, _NEAR = 64.0, 9.0, 4.0  # mm: of the strip, of a mark's short line, within which two words would cover each other
_HIGH = 2.6  # mm, of the letters
_LEADER = 4.4  # mm, that words step aside


def story_sticks(answer: Answer, measure: Measure, *, least: bool = False) -> tuple[Drawing, ...]:
    """A strip for the bar, and one for the drawn bar where something stands on it.

    Args:
        answer: of the piece, with at least one feature.
        measure: of the words.
        least: only what must be marked on the cold bar, with the trims.
    """
    end = answer.piece.datum
    found = [_strip(marking_out(answer), answer.reckoning.cut, f"Bar, hooked on at end {end}", measure, least)]
    drawn = marking_out(answer, drawn=True)
    if drawn:
        found.append(_strip(drawn, answer.piece.composition.drawn.length, f"Drawn bar, straight still, from end {end}", measure, least))
    return tuple(found)


def _strip(rows: tuple[Marking, ...], length: float, name: str, m: Measure, least: bool) -> Drawing:
    edge = np.array([(0.0, 0.0), (length, 0.0), (length, _WIDE), (0.0, _WIDE)])
    lines, labels = [DrawnLine(edge, "CUT", True)], []
    taken = -_NEAR
    for row in rows:
        if least and not row.least:
            continue
        at = row.mark.at
        lines.append(DrawnLine(np.array([(at, _WIDE), (at, _WIDE - _TICK)]), "MARK"))
        words = max(at + 1.0, taken + _NEAR)  # to the right of its line; further where the one before is near
        if words + _HIGH > length:
            words = min(at - _HIGH - 0.8, length - _HIGH - 0.8)
        lines.append(DrawnLine(np.array([(at, _WIDE - _TICK), (words + _HIGH / 2, _WIDE - _TICK - _LEADER)]), "GUIDE"))
        labels.append(Label(words + _HIGH, 1.5, _short(f"{m.length(at)}  {row.use}"), _HIGH, -1, 90.0))
        taken = words
    note = f"{m.length(length)} long. Cut out, hook it on where the tape would be, and carry every line over with a scriber."
    return Drawing(name, note, tuple(lines), (), tuple(labels))


def _short(words: str) -> str:
    most = int((_WIDE - _TICK - _LEADER - 2) / (_HIGH * 0.5))
    return words if len(words) <= most else words[: most - 1].rstrip(" ,:") + "…"
