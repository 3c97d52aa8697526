"""Scale a design: lengths × s, areas × s², mass and effort × s³ (computations, section 9), to a factor or to a target."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial

import numpy as np

from long_ember.document.answering import answer
from long_ember.document.edits import Edit, checked
from long_ember.errors import EmberError, NoAnswer
from long_ember.features import Piece
from long_ember.geometry import silhouette
from long_ember.heats import ForgeSettings, sequence
from long_ember.sections import Section
from long_ember.stock import reckon
from long_ember.units import Line, say

__all__ = ["SCREWS", "TARGETS", "scale_for", "scaled", "scaling_notes"]

_LEAST, _MOST = 0.05, 20.0
_BENCH = ForgeSettings()
# Clearance holes of screws that are sold, mm (ISO 273, medium fit).
SCREWS = {3.4: "M3", 4.5: "M4", 5.5: "M5", 6.6: "M6", 9.0: "M8", 11.0: "M10", 13.5: "M12", 17.5: "M16", 22.0: "M20"}
TARGETS: dict[str, Callable[[Piece, ForgeSettings], float]] = {
    "cut": lambda piece, forge: answer(piece, forge=forge).reckoning.chosen,
    "mass": lambda piece, _bench: reckon(piece).mass,
    "bar": lambda piece, _bench: piece.bar.thickness,
    "size": lambda piece, _bench: float(np.ptp(np.vstack(silhouette(piece)), axis=0).max()) if piece.features else 0.0,
}


def scaled(piece: Piece, factor: float) -> Edit:
    """The whole design larger or smaller: bar, sections and lengths; angles, turns, shares and counts stay.

    Args:
        piece: verified.
        factor: 0.05 to 20.

    Raises:
        NoAnswer: the factor is out of range, or a size leaves what its field can hold.
    """
    if not _LEAST <= factor <= _MOST:
        raise NoAnswer(f"A design is scaled by {_LEAST:g} to {_MOST:g}.", "Choose a factor in between.")
    features = tuple(f.scaled(factor) for f in piece.features)
    standing = tuple(s.scaled(factor) for s in piece.standing)
    after = checked(replace(piece, bar=piece.bar.scaled(factor), features=features, standing=standing))
    return Edit(f"Scale by {factor:.3g}", piece, after)


def _cut_of(piece: Piece, forge: ForgeSettings, *, order: tuple[int, ...] = ()) -> float:
    """Cut length with the order of work that the design had at its old size."""
    return sequence(piece, forge=forge, order=order, quick=True)[0].chosen


def scale_for(piece: Piece, target: str, value: float, *, forge: ForgeSettings = _BENCH) -> float:
    """The factor that brings a piece to a target.

    Args:
        piece: verified.
        target: cut (mm), mass (g), bar (mm thick) or size (mm over all, as it is drawn).
        value: wanted.
        forge: fire and hammer: they set the heats, and so what scales off.

    Raises:
        NoAnswer: no factor in range reaches it.
    """
    now = TARGETS[target](piece, forge)
    measured = partial(_cut_of, order=sequence(piece, forge=forge)[1].order) if target == "cut" else TARGETS[target]
    if now <= 0 or value <= 0:
        raise NoAnswer("There is nothing to scale yet.", "Add a feature first.")
    power = 1 / 3 if target == "mass" else 1.0
    factor = float((value / now) ** power)
    for _ in range(24):  # trim and parting do not scale, and the number of heats jumps
        try:
            found = measured(scaled(piece, factor).after, forge)
        except EmberError as error:
            raise NoAnswer(f"No scale of this design reaches it: {error}", "Choose another target.") from error
        if abs(found / value - 1) < 1e-6:
            break
        factor = float(factor * (value / found) ** power)
    if abs(TARGETS[target](scaled(piece, factor).after, forge) / value - 1) < 2e-3:
        return factor
    raise NoAnswer("No scale of this design reaches it exactly: the heats jump there.", "Choose a target a little off.")


def scaling_notes(before: Piece, after: Piece, bars: tuple[Section, ...]) -> tuple[Line, ...]:
    """What no longer makes sense once it is scaled, in sentences.

    Args:
        before: the design as it was.
        after: the design scaled.
        bars: sections that are sold.
    """
    notes: list[Line] = []
    if bars and not any(_same(after.bar, bar) for bar in bars):
        near = min(bars, key=lambda b: abs(b.area - after.bar.area) + (0 if b.shape == after.bar.shape else 1e6))
        notes.append(say("This bar is not sold; the nearest of its kind is {} × {}.", near.width, near.thickness))
    for i, (old, new) in enumerate(zip(before.features, after.features, strict=True)):
        name = f"{new.title} {i + 1}"
        diameter, was = getattr(new, "diameter", None), getattr(old, "diameter", None)
        if new.kind == "hole" and isinstance(diameter, float) and isinstance(was, float):
            fits = next((screw for size, screw in SCREWS.items() if abs(was - size) < 0.26), "")
            if fits and all(abs(diameter - size) > 0.26 for size in SCREWS):
                notes.append(say(f"{name}: {{}} was right for {fits}; {{}} fits no screw that is sold.", was, diameter))
        if new.kind == "thread":
            notes.append(say(f"{name}: a scaled thread fits no nut; choose the nearest standard one."))
        thin = min((size for n in ("thickness", "tip") if isinstance(size := getattr(new, n, None), float)), default=1.0)
        if 0 < thin < 0.8:
            notes.append(say(f"{name}: {{}} is too thin to forge.", thin))
    return tuple(notes)


def _same(one: Section, other: Section) -> bool:
    return one.shape == other.shape and abs(one.width - other.width) < 0.05 and abs(one.thickness - other.thickness) < 0.05
