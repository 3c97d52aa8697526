"""Flow stress of hot steel: Shida (1969), as given in the computations, section 13."""

from __future__ import annotations

import numpy as np

from long_ember.arrays import Array

__all__ = ["flow_stress"]


def flow_stress(celsius: Array, carbon: float, *, strain: float = 0.2, rate: float = 100.0) -> Array:
    """Mean resistance to deformation in MPa.

    Args:
        celsius: temperature; the formula holds from 700 to 1200 °C and is clipped to 600 to 1300.
        carbon: weight per cent, at most 1.2.
        strain: at most 0.7.
        rate: strain rate, 1/s; hand blows are about 100.

    >>> round(float(flow_stress(np.array([1000.0]), 0.1, strain=0.3, rate=10)[0]))
    141
    """
    t = (np.clip(celsius, 600, 1300) + 273.15) / 1000
    c = carbon
    n = 0.41 - 0.07 * c
    f = 1.3 * (strain / 0.2) ** n - 0.3 * (strain / 0.2)
    change = 0.95 * (c + 0.41) / (c + 0.32)
    hot = 0.28 * np.exp(5 / t - 0.01 / (c + 0.05))
    hot_m = (-0.019 * c + 0.126) * t + 0.075 * c - 0.050
    g = 30 * (c + 0.9) * (t - 0.95 * (c + 0.49) / (c + 0.42)) ** 2 + (c + 0.06) / (c + 0.09)
    cool = 0.28 * g * np.exp((c + 0.32) / (0.19 * (c + 0.41)) - 0.01 / (c + 0.05))
    cool_m = (0.081 * c - 0.154) * t - 0.019 * c + 0.207 + 0.027 / (c + 0.32)
    base, m = np.where(t >= change, hot, cool), np.where(t >= change, hot_m, cool_m)
    return np.asarray(base * f * (rate / 10) ** m * 9.807)
