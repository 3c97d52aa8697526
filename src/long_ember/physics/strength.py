"""Strength, for comparing one piece with another and for nothing else (computations, section 10).

None of this is a rating: it leaves out flaws, welds, notches, fatigue, temper, wear, dynamic loads and everything a licensed engineer asks about.
"""

from __future__ import annotations

import math

import numpy as np

from long_ember.arrays import Array
from long_ember.errors import NoAnswer
from long_ember.frozen import dataclass

__all__ = ["CurvedBeam", "curved_beam", "plastic_load", "stake_load"]


def plastic_load(modulus: float, arm: float, yield_stress: float = 235.0) -> float:
    """Force at which a shank bends for good, N: M = Z·σ, F = M/arm.

    Args:
        modulus: plastic section modulus, mm³.
        arm: from the force to the section, mm.
        yield_stress: N/mm²; the same for both of what is compared.

    >>> round(plastic_load(12**3 / 4, 100), 1)
    1015.2
    """
    if arm <= 0:
        raise NoAnswer("A force with no arm bends nothing.", "Give the distance from the load to the section.")
    return modulus * yield_stress / arm


def stake_load(width: float, driven: float, above: float, unit_weight: float = 18e-6, passive: float = 3.0) -> float:
    """Sideways force at which the ground about a short stake gives way, N: H = γ·b·L³·K_p / (2·(e + L)), Broms, free head in sand.

    Only the ratio of two stakes in the same ground means anything: no ground is like another.

    Args:
        width: of the stake across the pull, mm.
        driven: L, mm.
        above: e, height of the pull over the ground, mm.
        unit_weight: of the ground, N/mm³.
        passive: coefficient of passive earth pressure.

    Raises:
        NoAnswer: it is not driven at all.

    >>> round(stake_load(20, 400, 100) / stake_load(20, 200, 100), 3)
    4.8
    """
    if driven <= 0 or above < 0:
        raise NoAnswer("A stake that is not driven holds nothing.", "Give how deep it goes, and how high it is pulled.")
    return unit_weight * width * driven**3 * passive / (2 * (above + driven))


@dataclass(frozen=True)
class CurvedBeam:
    """A hook's section under a pull through its centre line of curvature's centre (Winkler and Bach).

    Args:
        neutral: radius of the neutral axis, mm.
        inside: stress at the inside per N of pull, N/mm².
        outside: at the outside, negative.
    """

    neutral: float
    inside: float
    outside: float


def curved_beam(outline: Array, inside: float) -> CurvedBeam:
    """Stresses in the bow of a hook that carries 1 N through the centre of its curve.

    Args:
        outline: of the section, (n, 2) mm: across, and outwards from the centre of the curve.
        inside: radius to its inner face, mm.

    σ(r) = 1/A + M·(r_n − r)/(A·(r̄ − r_n)·r) with M = r̄ and r_n = A / ∫dA/r, by slices across the section.

    Raises:
        NoAnswer: the inner radius is not positive.
    """
    if inside <= 0:
        raise NoAnswer("A sharp inside has no curved-beam stress: it is a notch.", "Give the bend an inside radius.")
    radius, width = _slices(outline, inside)
    step = radius[1] - radius[0]
    area = float(width.sum() * step)
    middle = float((width * radius).sum() * step) / area
    neutral = area / float((width / radius).sum() * step)
    apart = max(middle - neutral, 1e-9)
    low, high = inside, inside + float(np.ptp(outline[:, 1]))

    def stress(r: float) -> float:
        return 1 / area + middle * (neutral - r) / (area * apart * r)

    return CurvedBeam(neutral, stress(low), stress(high))


def _slices(outline: Array, inside: float, count: int = 2000) -> tuple[Array, Array]:
    """Middle radii of thin slices, and how wide the outline is there."""
    low, high = float(outline[:, 1].min()), float(outline[:, 1].max())
    y = low + (np.arange(count) + 0.5) * (high - low) / count
    a, b = outline, np.roll(outline, -1, axis=0)
    left, right = np.full(count, np.inf), np.full(count, -np.inf)
    for (x0, y0), (x1, y1) in zip(a.tolist(), b.tolist(), strict=True):
        if math.isclose(y0, y1):
            continue
        here = (y >= min(y0, y1)) & (y <= max(y0, y1))
        x = x0 + (y - y0) * (x1 - x0) / (y1 - y0)
        left, right = np.where(here, np.minimum(left, x), left), np.where(here, np.maximum(right, x), right)
    return inside + y - low, np.maximum(right - left, 0.0)
