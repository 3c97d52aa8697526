"""What the doubt about a cut length is made of, and the second way to reckon it (computations, section 8)."""

from __future__ import annotations

import math
from statistics import NormalDist

from long_ember.beliefs import number_of
from long_ember.stock.reckoning import Doubt, Reckoning

__all__ = ["doubt_shares", "doubt_width", "first_order"]

_SCALE, _WORK = number_of("scale"), number_of("work")


def doubt_shares(reckoning: Reckoning) -> tuple[tuple[Doubt, float], ...]:
    """What each doubt contributes to the variance of the length, largest first; shares of 1, or nothing where nothing is in doubt."""
    spread = [_variance(d, reckoning) for d in reckoning.doubts]
    total = math.fsum(spread)
    if not total:
        return ()
    found = [(d, v / total) for d, v in zip(reckoning.doubts, spread, strict=True) if v > 0]
    return tuple(sorted(found, key=lambda pair: -pair[1]))


def doubt_width(reckoning: Reckoning) -> float:
    """How wide 9 of 10 cut lengths lie, mm."""
    low, high = reckoning.band
    return high - low


def first_order(reckoning: Reckoning, confidence: float) -> float:
    """The length that is enough for a share of pieces, by means and covariances alone, mm: the second method.

    Args:
        reckoning: of the piece.
        confidence: share of pieces.
    """
    variance = math.fsum(_variance(d, reckoning) for d in reckoning.doubts)
    covariance = reckoning.belief.covariance
    slopes = _slopes(reckoning)
    variance += math.fsum(a * b * covariance[i][j] for i, a in slopes.items() for j, b in slopes.items() if i != j)
    return reckoning.likely + NormalDist().inv_cdf(confidence) * math.sqrt(max(variance, 0.0))


def _slopes(reckoning: Reckoning) -> dict[int, float]:
    """mm for one unit of each factor; of scale and work to first order."""
    found: dict[int, float] = {}
    for d in reckoning.doubts:
        if d.factor >= 0:
            found[d.factor] = found.get(d.factor, 0.0) + d.slope
    grown = reckoning.scale / reckoning.area
    if grown:
        grown = _rising(reckoning)
        if reckoning.scale_own is None:
            found[_SCALE] = found.get(_SCALE, 0.0) + grown
        found[_WORK] = found.get(_WORK, 0.0) + grown * reckoning.growth
    return found


def _rising(reckoning: Reckoning) -> float:
    """mm more for one unit of ln of what a heat takes."""
    bar, taken = reckoning.scaling
    return bar * taken * math.exp(taken)


def _variance(doubt: Doubt, reckoning: Reckoning) -> float:
    """mm², of one contribution alone."""
    belief = reckoning.belief
    if doubt.factor >= 0:
        return doubt.slope**2 * belief.covariance[doubt.factor][doubt.factor]
    if doubt.deviation:
        return doubt.deviation**2
    if doubt.name == "Scale and heats":
        grown = _rising(reckoning)
        scale = belief.spread("scale") if reckoning.scale_own is None else reckoning.scale_own
        return grown**2 * (scale**2 + reckoning.growth**2 * (belief.spread("work") ** 2 + belief.work_scatter**2))
    return belief.length_deviation(reckoning.likely) ** 2
