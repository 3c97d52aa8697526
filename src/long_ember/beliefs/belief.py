"""A belief: what is held of all factors at one time, for one smith at one fire."""

from __future__ import annotations

import math
from dataclasses import field
from functools import cached_property, lru_cache
from pathlib import Path

import numpy as np

from long_ember.arrays import Array
from long_ember.beliefs.factors import FACTORS, number_of
from long_ember.frozen import dataclass

__all__ = ["DRAWS", "NINE_TENTHS", "PRIOR", "WORK_SCATTER", "Belief", "normal_draws"]

DRAWS = 4096
# What NumPy's generator draws from seed 20, half of what is used: loading the generator takes a twentieth of the program's start.
_HALF = Path(__file__).parents[1] / "assets" / "normal_draws.f64"
_OTHERS = 3  # columns of normal draws beside the factors: scatter of the work, of the length, and what only one feature is in doubt about
WORK_SCATTER = 0.10  # ln, how far one piece's work differs from the next (`learning.md`)
_SHARE, _MM = 0.003, 0.7  # of the length, and mm, by which one piece differs from the next
NINE_TENTHS = 1.6448536  # standard deviations either way that hold nine in ten


def _none() -> tuple[float, ...]:
    return (0.0,) * len(FACTORS)


def _usual() -> tuple[tuple[float, ...], ...]:
    return tuple(tuple(f.spread**2 if i == j else 0.0 for j in range(len(FACTORS))) for i, f in enumerate(FACTORS))


@dataclass(frozen=True)
class Belief:
    """Means and covariance of the factors, in the order of `FACTORS`; multiples as logarithms.

    Args:
        mean: how far each lies from the usual.
        covariance: (n, n).
        work_scatter: ln, from piece to piece.
        length_scatter: multiple of the usual scatter of length from piece to piece.
        entries: of the log that stand behind it.
    """

    mean: tuple[float, ...] = field(default_factory=_none)
    covariance: tuple[tuple[float, ...], ...] = field(default_factory=_usual)
    work_scatter: float = WORK_SCATTER
    length_scatter: float = 1.0
    entries: int = 0

    def of(self, key: str) -> float:
        """How far a factor is held to lie from the usual, in its own unit; ln of a multiple."""
        return self.mean[number_of(key)]

    def spread(self, key: str) -> float:
        """Standard deviation of a factor, in its own unit; ln of a multiple."""
        n = number_of(key)
        return math.sqrt(max(self.covariance[n][n], 0.0))

    def times(self, key: str) -> float:
        """The multiple that a factor is held to be."""
        return math.exp(self.of(key))

    @property
    def work_band(self) -> tuple[float, float]:
        """Multiples of a plan's work that 9 of 10 pieces lie within."""
        s = math.hypot(self.spread("work"), self.work_scatter)
        return math.exp(-NINE_TENTHS * s), math.exp(NINE_TENTHS * s)

    @cached_property
    def draws(self) -> Array:
        """Factors about their mean, (`DRAWS`, n); the same numbers behind every band."""
        return _drawn(self.covariance)

    def length_deviation(self, length: float) -> float:
        """Standard deviation of a length from piece to piece, mm.

        Args:
            length: of bar, mm.
        """
        return self.length_scatter * math.hypot(_SHARE * length, _MM)


@lru_cache(maxsize=1)
def normal_draws() -> Array:
    """Standard normal numbers, (`DRAWS`, factors + 3): paired with their mirror images, each column of variance 1 and 0 in the middle."""
    half = np.fromfile(_HALF, "<f8").reshape(len(FACTORS) + _OTHERS, DRAWS // 2).T
    found = np.vstack((half, -half))
    return np.asarray(found / found.std(axis=0))


@lru_cache(maxsize=16)
def _drawn(covariance: tuple[tuple[float, ...], ...]) -> Array:
    values, vectors = np.linalg.eigh(np.array(covariance))
    # The even root: each factor keeps its own column of draws, however many others there are.
    root = (vectors * np.sqrt(np.maximum(values, 0.0))) @ vectors.T
    return np.asarray(normal_draws()[:, : len(FACTORS)] @ root.T)


PRIOR = Belief()
