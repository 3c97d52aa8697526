"""Blows that shaping takes whatever the hammer, and the moment of a bend (computations, section 14)."""

from __future__ import annotations

import math

from long_ember.sections import Blend

__all__ = [
    "BALL", "CLOSE", "GO", "HEAD", "ISOLATE", "SHOULDER", "STRAIGHTEN", "bend_moment", "drawing_stop", "finishing", "goes", "jumped", "punched", "pushed",
    "size", "trueing",
]  # fmt: skip

# Usual counts, at 82 effective blows a minute.
ISOLATE, BALL, STRAIGHTEN, CLOSE, HEAD, SHOULDER = 24.0, 36.0, 6.0, 4.0, 6.0, 8.0
_PASS, _TRUE, _EACH = 8.0, 4.0, 20.0  # blows a pass for every 20 mm: to octagon or round; to true or planish
_PASSES = {"octagon": 1, "round": 2, "hexagon": 2}
_OUTLINES = {"ellipse": "round", "octagon": "octagon", "hexagon": "hexagon"}
_FREE, GO = 3.0, 2.5  # thicknesses of hot bar that upset in one go, and that are taken in each where they would buckle
_THIN = 8.0  # mm
_SIZE = 12.0  # mm; times of details are those of a bar of this size
_HELD = 3.0  # σ under a punch or a stamp, against that of free work


def drawing_stop(thickness: float) -> int:
    """°C below which mild steel is not drawn: thin bar is, longer (computations, section 14).

    Args:
        thickness: of the bar, mm.
    """
    return 750 if thickness <= _THIN else 850


def finishing(outline: str, length: float) -> float:
    """Blows to bring drawn steel to its outline and true it: 8 a pass for every 20 mm (octagon one, round two); 4 to true square or flat.

    Args:
        outline: square, flat, round, octagon…, or the form of a `Blend`.
        length: mm.

    >>> finishing("square", 40), finishing("round", 40)
    (8.0, 32.0)
    """
    passes = _PASSES.get(_OUTLINES.get(outline, outline), 0)
    return (_PASS * passes or _TRUE) * length / _EACH


def goes(free: float) -> int:
    """Steps that an upset takes: more than three thicknesses of free hot bar buckle (computations, section 5).

    Args:
        free: hot length that is upset ÷ thickness.

    >>> goes(3.0), goes(3.1), goes(5.2)
    (1, 2, 3)
    """
    return 1 if free <= _FREE else math.ceil(free / GO)


def trueing(length: float) -> float:
    """Blows to true or planish one face, 4 for every 20 mm."""
    return _TRUE * length / _EACH


def bend_moment(blend: Blend, depth: float, degrees: float) -> float:
    """Work of a bend ÷ flow stress, mm³: M_p·θ/σ with M_p = σ·b·h²/4.

    Args:
        blend: the section that is bent.
        depth: of it in the plane of the bend, h, mm; b is what its area leaves for the width.
        degrees: turned.

    >>> round(bend_moment(Blend(12, 12, 1), 12, 90), 1)
    678.6
    """
    return blend.area * depth / 4 * math.radians(abs(degrees))


def punched(area: float, rim: float, thickness: float) -> float:
    """Work ÷ flow stress of punching hot, mm³, at half duty: ⅔·A·t·3·1.3 + ½·rim·(t/3)²·0.7, twice.

    Args:
        area: of the punch, mm².
        rim: round it, mm.
        thickness: of the bar there, mm.
    """
    return 2 * (2 / 3 * area * thickness * 3 * 1.3 + 0.5 * rim * (thickness / 3) ** 2 * 0.7)


def size(blend: Blend) -> float:
    """Times that a bar is as large as one of 12 square, by the root of its area: details are cut as deep as it is large."""
    return math.sqrt(max(blend.area, 0.0)) / _SIZE


def pushed(volume: float) -> float:
    """Work ÷ flow stress of sinking or pushing as much steel, mm³ of both: three times that of free work."""
    return _HELD * volume


def jumped(blend: Blend, length: float, grows: float) -> float:
    """Work ÷ flow stress of thickening a length of bar in its middle, mm³: V·ln(ratio)·1.4.

    Args:
        blend: the bar.
        length: of it, mm.
        grows: section afterwards ÷ before.
    """
    return blend.area * length * math.log(grows) * 1.4
