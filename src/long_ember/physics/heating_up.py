"""Heating a bar in the fire, and the scale it loses there (computations, sections 12 and 16). °C at the edges, K inside; SI units throughout."""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np

from long_ember.arrays import Array
from long_ember.frozen import dataclass
from long_ember.physics.cooling_tables import DENSITY, SIGMA, integral, specific_heat

__all__ = ["FIRES", "Fire", "Heating", "heating", "scale_loss", "soak"]

_GAS = 8.314462  # J/molK
_OXYGEN, _ACTIVATION, _IRON = 6.1, 169452.0, 3.26  # g²cm⁻⁴s⁻¹, J/mol, iron lost per oxygen gained: Païdassi (computations, section 16)
_GRID = 2.0  # °C
# Seconds at full heat that stand for the carry and the first blows: with them the figures of computations, section 16, for a prompt heat come out.
_AFTER = 15.0


@dataclass(frozen=True, slots=True)
class Fire:
    """A kind of fire: its temperature, °C, emissivity as the bar sees it, convection in W/m²K, and what it takes of the scale in air."""

    key: str
    celsius: float
    emissivity: float
    convection: float
    scale: float = 1.0


FIRES = {
    fire.key: fire
    for fire in (
        Fire("gas", 1250.0, 0.7, 30.0),
        Fire("coal", 1350.0, 0.8, 80.0, 0.4),  # a deep, neutral fire: 0.3 to 0.5 of what air takes
        Fire("charcoal", 1350.0, 0.8, 80.0, 0.4),  # taken as coal: nothing better is known
    )
}


@dataclass(frozen=True)
class Heating:
    """Tables on a 2 °C grid from 20 °C up to 20 °C below the fire.

    Args:
        celsius: temperature, (n,).
        time: ∫c/q dT, J/kg per W/m², so that seconds = ρ(A/P)·Δtime, (n,).
        oxide: ∫k_p·c/q dT, the square of the oxygen gained for each ρ(A/P), g²/cm⁴ per kg/m², (n,).
    """

    celsius: Array
    time: Array
    oxide: Array

    def seconds(self, start: float, stop: float, area: float, perimeter: float) -> float:
        """Time from `start` to `stop` °C, the soak left out; section in mm² and mm."""
        rise = float(np.interp(stop, self.celsius, self.time) - np.interp(start, self.celsius, self.time))
        return DENSITY * area / perimeter * 1e-3 * max(rise, 0.0)

    def gain(self, start: float, stop: float, area: float, perimeter: float) -> float:
        """Square of the oxygen gained meanwhile, g²/cm⁴."""
        rise = float(np.interp(stop, self.celsius, self.oxide) - np.interp(start, self.celsius, self.oxide))
        return DENSITY * area / perimeter * 1e-3 * max(rise, 0.0)


@lru_cache(maxsize=8)
def heating(fire: str) -> Heating:
    """Tables of a fire, see `FIRES`; trapezium rule on the grid.

    q = ε_f·σ(T_e⁴ − T⁴) + h(T_e − T).
    """
    kind = FIRES[fire]
    celsius = np.arange(20.0, kind.celsius - 18.0, _GRID)
    kelvin, hot = celsius + 273.15, kind.celsius + 273.15
    gained = kind.emissivity * SIGMA * (hot**4 - kelvin**4) + kind.convection * (hot - kelvin)
    rate = specific_heat(celsius) / gained
    return Heating(celsius, integral(rate, _GRID), integral(rate * _parabolic(kelvin), _GRID))


def soak(side: float) -> float:
    """Seconds until the heat has reached the middle: a²/(4α), α of hot steel 5.35e-6 m²/s (27.3 W/mK, 7850 kg/m³, 650 J/kgK).

    Args:
        side: bar thickness, mm.

    >>> round(soak(12), 1)
    6.7
    """
    return (side * 1e-3) ** 2 / (4 * 27.3 / (DENSITY * 650.0))


def _parabolic(kelvin: Array) -> Array:
    return np.asarray(_OXYGEN * np.exp(-_ACTIVATION / (_GAS * kelvin)))


def scale_loss(area: float, perimeter: float, *, fire: str, start: float = 800.0, stop: float = 1150.0, factor: float = 1.8,
               held: float = _AFTER) -> float:  # fmt: skip
    """Share of a section that scales off in one heat (parabolic oxidation, Païdassi).

    Args:
        area: mm².
        perimeter: mm.
        fire: key of `FIRES`; a rich or neutral fire takes less, see `Fire.scale`.
        start: °C going in.
        stop: °C coming out.
        factor: how much slower than the bare equation the shop's fire heats.
        held: seconds at `stop` beside.

    >>> [round(100 * scale_loss(a * a, 4 * a, fire="gas"), 1) for a in (6, 10, 16, 25)]
    [2.9, 2.0, 1.5, 1.1]
    """
    table = heating(fire)
    square = factor * table.gain(start, stop, area, perimeter) + held * float(_parabolic(np.array(stop + 273.15)))
    lost = _IRON * math.sqrt(square) * FIRES[fire].scale  # g/cm²
    return lost * perimeter * 0.1 / (DENSITY * 1e-3 * area * 0.01)
