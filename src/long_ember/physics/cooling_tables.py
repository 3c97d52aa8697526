"""Cooling of a hot bar (computations, section 12). °C at the edges, K inside; SI units throughout."""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from long_ember.arrays import Array
from long_ember.frozen import dataclass
from long_ember.physics.flow import flow_stress

__all__ = ["ANVIL", "STILL_AIR", "Cooling", "HeatSink", "at_anvil", "cooling", "end_losses", "integral", "lying", "specific_heat"]


SIGMA = 5.670374e-8  # W/m²K⁴, Stefan-Boltzmann
EMISSIVITY = 0.8  # scaled steel
CONVECTION = 15.0  # W/m²K, natural convection with some air movement
DENSITY = 7850.0  # kg/m³, EN 1993-1-2
AMBIENT = 293.15  # K
_GRID = 2.0  # °C


@dataclass(frozen=True, slots=True)
class HeatSink:
    """How the bar loses heat besides air: W/m²K over a share of its perimeter and of the time."""

    name: str
    h: float = 0.0
    share: float = 0.0


STILL_AIR = HeatSink("still air")
_ON_ANVIL = 0.4  # of the time
# One face in four on the anvil for 40 % of the time, 400 W/m²K.
ANVIL = HeatSink("at the anvil", 400.0, 0.25 * _ON_ANVIL)
_CLASS = 0.05  # of the perimeter, by which contacts are told apart


def lying(width: float, thickness: float) -> float:
    """Share of its perimeter by which a bar lies on the anvil: the wide face of a flat, w/2(w + t) (computations, section 14).

    In steps of 0.05, since each has tables of its own; a quarter for squares and rounds, at most a half.

    >>> lying(12, 12), lying(25, 6)
    (0.25, 0.4)
    """
    wide = max(width, thickness)
    return round(round(wide / (2 * (width + thickness)) / _CLASS) * _CLASS, 2) if wide else 0.25


def at_anvil(share: float) -> HeatSink:
    """The anvil under a bar that lies on it by a share of its perimeter, see `lying`."""
    return ANVIL if share == 0.25 else HeatSink(f"at the anvil by {share:.2f}", 400.0, share * _ON_ANVIL)


def specific_heat(celsius: Array) -> Array:
    """c(T) in J/kgK after EN 1993-1-2, section 3.4.1.2.

    >>> float(specific_heat(np.array([1000.0]))[0])
    650.0
    """
    t = np.asarray(celsius, dtype=float)
    low = 425 + 0.773 * t - 1.69e-3 * t**2 + 2.22e-6 * t**3
    mid = 666 + 13002 / np.maximum(738 - t, 3.0)
    high = 545 + 17820 / np.maximum(t - 731, 4.0)
    return np.select([t < 600, t < 735, t < 900], [low, mid, high], 650.0)


@dataclass(frozen=True)
class Cooling:
    """Tables on a 2 °C grid from 300 °C up, for one contact and carbon content.

    Args:
        celsius: temperature, (n,).
        time: τ(T) = ∫c/q dT, J/kg per W/m², so that seconds = ρ(A/P)·Δτ, (n,).
        yielded: J(T) = ∫c/(qσ) dT, the same divided by flow stress in Pa, (n,).
    """

    celsius: Array
    time: Array
    yielded: Array

    def seconds(self, start: float, stop: float, area: float, perimeter: float) -> float:
        """Time to cool from `start` to `stop` °C; section in mm² and mm."""
        tau = float(np.interp(start, self.celsius, self.time) - np.interp(stop, self.celsius, self.time))
        return DENSITY * area / perimeter * 1e-3 * max(tau, 0.0)

    def after(self, seconds: float, start: float, area: float, perimeter: float) -> float:
        """Temperature, °C, `seconds` after leaving at `start` °C."""
        tau = float(np.interp(start, self.celsius, self.time)) - seconds / (DENSITY * area / perimeter * 1e-3)
        return float(np.interp(tau, self.time, self.celsius))


@lru_cache(maxsize=32)
def cooling(contact: HeatSink, carbon: float = 0.15) -> Cooling:
    """Tables for a contact; trapezium rule on the grid."""
    celsius = np.arange(300.0, 1302.0, _GRID)
    kelvin = celsius + 273.15
    lost = EMISSIVITY * SIGMA * (kelvin**4 - AMBIENT**4) + (CONVECTION + contact.h * contact.share) * (kelvin - AMBIENT)
    rate = specific_heat(celsius) / lost
    stress = flow_stress(celsius, carbon) * 1e6
    return Cooling(celsius, integral(rate, _GRID), integral(rate / stress, _GRID))


def integral(y: Array, step: float) -> Array:
    """Running integral of samples `step` apart, by the trapezium rule; begins at 0."""
    return np.concatenate(([0.0], np.cumsum((y[1:] + y[:-1]) / 2 * step)))


def end_losses(hot_length: Array, side: Array) -> Array:
    """Share of the window left to short hot zones that also lose heat along the bar (computations, section 12).

    Args:
        hot_length: mm.
        side: bar thickness, mm.

    >>> end_losses(np.array([20.0, 200.0]), np.array([12.0, 12.0])).round(2).tolist()
    [0.7, 1.0]
    """
    return np.clip(1 - 1.08 * np.exp(-0.459 * hot_length**0.865 / side**0.629), 0.05, 1.0)
