"""The cut length in doubt: bare, likely and safe, and what each tolerance and allowance adds (computations, section 8)."""

from __future__ import annotations

import contextlib
import math
from collections.abc import Sequence
from dataclasses import replace
from statistics import NormalDist
from typing import Any

import numpy as np

from long_ember.arrays import Array
from long_ember.errors import NoAnswer
from long_ember.features import Feature, Place, stock_of
from long_ember.fields import specs
from long_ember.frozen import dataclass
from long_ember.stock.reckoning import Doubt, Reckoning, round_up

__all__ = ["Safe", "doubt_width", "first_order", "forged_doubts", "safe_length", "sampled"]

_SEED, _SAMPLES = 20, 20_000


@dataclass(frozen=True)
class Safe:
    """A cut length that is not short, with the chosen confidence.

    Args:
        bare: by volume alone, mm.
        likely: with scale, trim and parting, mm.
        safe: not short with the confidence, with the shop's margin, mm.
        cut: safe, rounded up to the ruler, mm.
        confidence: share of pieces that are not short.
        margin: the shop's own, mm.
        shares: what each doubt contributes to the variance, largest first; they add up to 1, or are empty where nothing is in doubt.
        short: chance that the likely length, rounded up, comes out short.
    """

    bare: float
    likely: float
    safe: float
    cut: float
    confidence: float
    margin: float
    shares: tuple[tuple[Doubt, float], ...]
    short: float

    @property
    def worst(self) -> Doubt | None:
        """The one doubt that costs most; None where there is none."""
        return self.shares[0][0] if self.shares else None


def forged_doubts(reckoning: Reckoning, tolerance: float) -> tuple[Doubt, ...]:
    """What each dimension that comes out a little full or a little thin adds; one doubt for each.

    Args:
        reckoning: of the piece.
        tolerance: mm on every finished length, width and thickness, either way.
    """
    found = []
    for i, zone in enumerate(reckoning.zones, 1):
        for label, change in _dimensions(zone.feature, zone.place, tolerance):
            low, high = sorted((zone.stock - change, zone.stock + change))
            found.append(Doubt(f"{zone.feature.title} {i}: {label}", max(low, 0.0), zone.stock, high))
    return tuple(found)


def _dimensions(feature: Feature, place: Place, tolerance: float) -> tuple[tuple[str, float], ...]:
    """Label of each dimension, and mm of stock more when it comes out larger by the tolerance; kept with the feature, like its shape."""
    kept = feature.__dict__.get("_dimensions")
    if kept is None or kept[0] is not place or kept[1] != tolerance:
        now, found = stock_of(feature, place), []
        for name, spec in specs(feature).items():
            larger = spec.grown(getattr(feature, name), tolerance)
            if larger is None:
                continue
            changes: dict[str, Any] = {name: larger}
            with contextlib.suppress(NoAnswer):  # at the edge of what it can be: nothing to propagate
                change = stock_of(replace(feature, **changes), place) - now
                if abs(change) > 1e-6:
                    found.append((spec.label.lower(), change))
        kept = feature.__dict__["_dimensions"] = (place, tolerance, tuple(found))
    dimensions: tuple[tuple[str, float], ...] = kept[2]
    return dimensions


def safe_length(reckoning: Reckoning, *, confidence: float = 0.95, margin: float = 0.0, tolerance: float = 0.0, seed: int = _SEED) -> Safe:
    """Likely and safe lengths by seeded Monte Carlo over triangular distributions; the same seed gives the same answer.

    Args:
        reckoning: of the piece.
        confidence: share of pieces that shall not be short, 0.5 to 0.999.
        margin: mm that the shop adds besides.
        tolerance: mm on forged sizes, see `forged_doubts`.
        seed: of the random numbers.

    Raises:
        ValueError: a confidence outside its range.
    """
    if not 0.5 <= confidence <= 0.999:
        raise ValueError("a confidence from 50 to 99.9 per cent is expected")
    doubts = (*reckoning.doubts, *forged_doubts(reckoning, tolerance))
    lengths = reckoning.likely + sampled(doubts, seed=seed)
    safe = max(float(np.quantile(lengths, confidence)), reckoning.likely) + margin
    spread = [_variance(d) for d in doubts]
    total = math.fsum(spread)
    shares = sorted(((d, v / total) for d, v in zip(doubts, spread, strict=True) if v > 0), key=lambda pair: -pair[1]) if total else []
    short = float((lengths > reckoning.cut + 1e-9).mean())
    return Safe(reckoning.bare, reckoning.likely, safe, round_up(safe, reckoning.ruler), confidence, margin, tuple(shares), short)


def sampled(doubts: Sequence[Doubt], *, seed: int = _SEED, samples: int = _SAMPLES) -> Array:
    """How far the doubts together push the length past likely, mm, (samples,)."""
    generator = np.random.default_rng(seed)
    pushed = np.zeros(samples)
    for d in doubts:
        if d.high > d.low:
            pushed += generator.triangular(d.low, min(max(d.likely, d.low), d.high), d.high, samples) - d.likely
    return pushed


def doubt_width(reckoning: Reckoning, *, tolerance: float = 0.0, seed: int = _SEED) -> float:
    """How wide the middle nine tenths of all cut lengths lie, mm."""
    low, high = np.quantile(sampled((*reckoning.doubts, *forged_doubts(reckoning, tolerance)), seed=seed), (0.05, 0.95))
    return float(high - low)


def first_order(reckoning: Reckoning, *, confidence: float = 0.95, tolerance: float = 0.0) -> float:
    """The safe length by means and variances alone, mm: the second method.

    A triangular distribution has the mean (a + b + c)/3 and the variance (a² + b² + c² − ab − ac − bc)/18; the sum of many is near normal.
    """
    doubts = (*reckoning.doubts, *forged_doubts(reckoning, tolerance))
    mean = math.fsum((d.low + d.likely + d.high) / 3 - d.likely for d in doubts)
    sigma = math.sqrt(math.fsum(_variance(d) for d in doubts))
    return reckoning.likely + mean + NormalDist().inv_cdf(confidence) * sigma


def _variance(d: Doubt) -> float:
    a, b, c = d.low, d.likely, d.high
    return max((a * a + b * b + c * c - a * b - a * c - b * c) / 18, 0.0)
