"""One piece against another that has proved itself: weight, and strength compared; never a rating (computations, section 10)."""

from __future__ import annotations

import math

import numpy as np

from long_ember.arrays import Array
from long_ember.errors import NoAnswer
from long_ember.features import Arc, Piece, Shape, Span
from long_ember.frozen import NamedTuple
from long_ember.geometry import blend_outline
from long_ember.physics.strength import curved_beam, plastic_load, stake_load
from long_ember.units import Line, Quantity, own_words, say

__all__ = ["CAUTION", "USES", "halves", "versus"]

USES = (("shank", "as a bar that is bent"), ("hook", "as a hook that is pulled open"), ("stake", "as a stake or spike in the ground"))
CAUTION = (
    "Only a comparison of two shapes in the same steel: flaws, welds, notches, temper, shocks and wear are left out. Nothing here says what a "
    "piece may carry. For anything that carries, lifts, holds people or hangs overhead follow local codes and ask a licensed engineer."
)


class _Bow(NamedTuple):
    title: str
    outline: Array
    inside: float


def halves(piece: Piece) -> tuple[float, float]:
    """Mass of the half toward end A and of the half toward end B, by developed length, g."""
    shapes = [shape for _identity, shape in piece.shapes]
    middle, at, first = math.fsum(s.length for s in shapes) / 2, 0.0, 0.0
    for shape in shapes:
        first -= math.fsum(v.volume for v in shape.voids if at + v.centre < middle)
        first += math.fsum(b.shape.volume for b in shape.branches if at + b.at < middle)
        for span in shape.spans:
            share = min(max((middle - at) / span.length, 0.0), 1.0) if span.length else 0.0
            first += Span(span.length * share, span.start, span.start.toward(span.end, share)).volume if share else 0.0
            at += span.length
    density = piece.steel.density
    return first * density, (math.fsum(s.volume for s in shapes) - first) * density


def versus(piece: Piece, known: Piece, use: str, driven: float = 300.0, above: float = 100.0) -> tuple[Line, ...]:
    """How a piece stands against a known one, in lines with their figures.

    Args:
        piece: planned.
        known: of the smith's, that has held.
        use: a key of `USES`.
        driven: mm of a stake in the ground, for both.
        above: mm over the ground that it is pulled at, for both.
    """
    lines = list(_weights(piece, known))
    moduli = [p.bar.plastic_bending for p in (piece, known)]
    if use == "shank":
        loads = [plastic_load(z, 100.0) for z in moduli]
        lines.append(say("The plain bar bends for good at {} times the force, at the same distance: plastic moduli {} and {}.",
                         _times(loads), *(Quantity(z, "volume") for z in moduli)))  # fmt: skip
    elif use == "hook":
        lines += _hooks(piece, known)
    else:
        ground = [stake_load(max(p.bar.width, p.bar.thickness), driven, above) for p in (piece, known)]
        steel = [plastic_load(z, max(above, 1.0)) for z in moduli]
        lines.append(
            say(
                "In the same ground, driven {} and pulled {} above it, the ground gives way at {} times the force.",
                driven,
                above,
                _times(ground),
            )
        )
        lines.append(
            say("The stake itself bends for good at {} times the force. Which comes first depends on the ground: try it.", _times(steel))
        )
    return tuple(lines)


def _times(pair: list[float]) -> Quantity:
    """To two figures: the model is not better than that."""
    return Quantity(float(f"{pair[0] / max(pair[1], 1e-12):.2g}"), "number")


def _weights(piece: Piece, known: Piece) -> tuple[Line, ...]:
    one, other = halves(piece), halves(known)
    parts = [_change(sum(one), sum(other)), _change(one[0], other[0]), _change(one[1], other[1])]
    text = f"It weighs {{}}, the other {{}}: {parts[0][0]}; its A half {parts[1][0]}, its B half {parts[2][0]}."
    return (say(text, Quantity(sum(one), "mass"), Quantity(sum(other), "mass"), *(q for _t, values in parts for q in values)),)


def _change(one: float, other: float) -> tuple[str, tuple[Quantity, ...]]:
    ratio = one / other - 1 if other else 0.0
    if abs(ratio) < 0.005:
        return "the same", ()
    return f"{{}} {'heavier' if ratio > 0 else 'lighter'}", (Quantity(abs(ratio), "percent"),)


def _hooks(piece: Piece, known: Piece) -> list[Line]:
    bows = [_tightest(p) for p in (piece, known)]
    if bows[0] is None or bows[1] is None:
        return [say(f"{'This piece' if bows[0] is None else 'The other piece'} has no bow to compare.")]
    stress = []
    for bow in bows:
        assert bow is not None
        try:
            stress.append(curved_beam(bow.outline, bow.inside).inside)
        except NoAnswer as error:
            return [say(own_words(f"{bow.title}: {error.reason} {error.remedy}"))]
    text = (
        "The same pull makes {} times the stress at the inside of its bow ("
        + own_words(bows[0].title)
        + ", {} inside radius; the other {})."
    )
    return [say(text, _times(stress), bows[0].inside, bows[1].inside)]


def _tightest(piece: Piece) -> _Bow | None:
    """The bow of a hook, bend or eye that stresses its inside most for one pull, with the section it has there."""
    found: list[tuple[float, _Bow]] = []
    for identity, shape in piece.shapes:
        feature, index = piece.feature(identity), piece.index(identity)
        if feature is not None and feature.kind in ("hook", "bend", "eye", "coil"):
            title, at = f"{feature.title} {index + 1}" if index >= 0 else feature.title, 0.0
            for segment in shape.path:
                if isinstance(segment, Arc) and segment.angle:
                    bow = _bow(title, shape, segment, at + segment.length / 2)
                    found.append((curved_beam(bow.outline, max(bow.inside, 0.01)).inside, bow))
                at += segment.length
    return max(found, key=lambda row: row[0])[1] if found else None


def _bow(title: str, shape: Shape, arc: Arc, at: float) -> _Bow:
    start = 0.0
    for span in shape.spans:
        if at <= start + span.length + 1e-9:
            break
        start += span.length
    blend = span.start.toward(span.end, min(max((at - start) / span.length, 0.0), 1.0) if span.length else 0.0)
    cos, sin = math.cos(arc.facing), math.sin(arc.facing)
    front, up = blend_outline(blend).T
    # Outwards is away from what the bend faces.
    outline = np.column_stack((front * cos - up * sin, -(up * cos + front * sin)))
    return _Bow(title, outline, abs(arc.length / arc.angle) - float(np.ptp(outline[:, 1])) / 2)
