"""Forging work turned into fractions of a heat (computations, section 14), for all operations at once."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import lru_cache
from typing import NamedTuple

import numpy as np

from long_ember.arrays import Array
from long_ember.frozen import dataclass
from long_ember.physics.cooling_tables import ANVIL, DENSITY, STILL_AIR, cooling, end_losses
from long_ember.physics.flow import flow_stress

__all__ = ["CARRY", "RAM", "SLEDGE", "Hammer", "Load", "Slice", "draw_factor", "shares", "twist_force", "upset_factor", "window", "windows"]

CARRY = 3.0  # s from the fire to the anvil
_MOST_STRAIN = 0.15  # of one blow
_BITE = 12.0  # mm of bar under the face


@dataclass(frozen=True, slots=True)
class Hammer:
    """A smith with a hammer; only the product of energy, tempo and duty matters (computations, section 15).

    Args:
        mass: kg.
        speed: m/s at the blow.
        tempo: blows a minute.
        duty: share of the time spent striking.
        skill: 1 experienced, 0.65 relaxed, 0.45 beginner.
    """

    mass: float = 1.3
    speed: float = 7.5
    tempo: float = 110.0
    duty: float = 0.75
    skill: float = 1.0

    @property
    def rate(self) -> float:
        """Blows a second, averaged over the heat."""
        return self.tempo / 60 * self.duty * self.skill

    def power(self, efficiency: float) -> float:
        """Useful W, averaged over the heat."""
        return efficiency * 0.5 * self.mass * self.speed**2 * self.rate


SLEDGE = Hammer(mass=4.0, speed=7.5, tempo=50.0)  # a striker's, beside the smith's own hammer; a usual one, nobody has measured it here
RAM = Hammer(mass=25.0, speed=4.5, tempo=180.0, duty=0.6)  # a small power hammer; its mass is the shop's


class Slice(NamedTuple):
    """A slice of the worked zone: finished volume mm³, section area mm² and perimeter mm, strain and work factor."""

    volume: float
    area: float
    perimeter: float
    strain: float
    factor: float


class Load(NamedTuple):
    """What one operation asks of a heat.

    Args:
        start: °C leaving the fire.
        stop: °C to stop at.
        slices: of the work, where it is limited by energy; a time-limited one has a single slice, of which only the section counts.
        power: W that reach the steel.
        rate: blows a second.
        seconds: where it is limited by time, else 0.
        hot_length: mm of bar that is hot.
        side: bar thickness, mm.
    """

    start: float
    stop: float
    slices: tuple[Slice, ...]
    power: float
    rate: float
    seconds: float
    hot_length: float
    side: float


def draw_factor(width: float, height: float, bite: float = _BITE) -> float:
    """1.155·Q·1.15/(1 − s): Tomlinson and Stringer's spread s and the bite-to-height factor Q."""
    ratio = min(max(bite / width, 0.25), 1.5)
    spread = 0.14 + 0.36 * ratio - 0.054 * ratio**2
    q = 1 + 0.25 * (bite / height - 1) if bite >= height else min(1 + 0.2 * (height / bite - 1), 2.57)
    return 1.155 * q * 1.15 / (1 - spread)


def upset_factor(diameter: float, height: float) -> float:
    """(1 + 0.1 d/h)·1.4, friction and barrelling of a free upset."""
    return (1 + 0.1 * diameter / height) * 1.4


def windows(start: Array, stop: Array, area: Array, perimeter: Array, hot_length: Array, side: Array, carbon: float) -> Array:
    """Seconds at the anvil, after the carry, before each bar falls below `stop` °C; lengths in mm, all (n,)."""
    air, anvil = cooling(STILL_AIR, carbon), cooling(ANVIL, carbon)
    kept = DENSITY * area / perimeter * 1e-3
    arrived = np.interp(np.interp(start, air.celsius, air.time) - CARRY / kept, air.time, air.celsius)
    fall = np.interp(arrived, anvil.celsius, anvil.time) - np.interp(stop, anvil.celsius, anvil.time)
    return np.asarray(kept * np.maximum(fall, 0.0) * end_losses(hot_length, side))


def window(start: float, stop: float, area: float, perimeter: float, hot_length: float, side: float, carbon: float) -> float:
    """Seconds at the anvil, after the carry, before the bar falls below `stop` °C. Lengths in mm."""
    a, b, c, d, e, f = np.array([[start], [stop], [area], [perimeter], [hot_length], [side]], dtype=float)
    return float(windows(a, b, c, d, e, f, carbon)[0])


def shares(loads: Sequence[Load], carbon: float, resistance: float = 1.0) -> list[float]:
    """Heats that each operation takes, in one pass over all slices.

    Heats = Σ V·ε·K / [power·ρ(A/P)·(J(T_start) − J(T_min))], but no blow strains more than 0.15, so thin steel takes its number
    of blows however strong the hammer; what is limited by time takes its seconds out of the window.

    Args:
        loads: of one material.
        carbon: weight per cent.
        resistance: of the material to forging, against mild steel.

    Returns:
        Fractions of a heat; infinite where the steel is too cold to start.
    """
    if not loads:
        return []
    owner = np.repeat(np.arange(len(loads)), [len(load.slices) for load in loads])
    volume, area, perimeter, strain, factor = np.array([s for load in loads for s in load.slices], dtype=float).reshape(-1, 5).T
    start, stop, power, rate, seconds, hot, side = np.array([(x.start, x.stop, *x[3:]) for x in loads], dtype=float).T
    table = cooling(ANVIL, carbon)
    give = np.interp(start, table.celsius, table.yielded) - np.interp(stop, table.celsius, table.yielded)
    fall = np.interp(start, table.celsius, table.time) - np.interp(stop, table.celsius, table.time)
    kept = DENSITY * area / perimeter * 1e-3
    with np.errstate(divide="ignore", invalid="ignore"):
        energy = volume * 1e-9 * strain * factor * resistance / (power[owner] * kept * np.maximum(give, 0.0)[owner])
        blows = volume * strain / (_MOST_STRAIN * _BITE * area) / (rate[owner] * kept * np.maximum(fall, 0.0)[owner])
        found = np.bincount(owner, np.nan_to_num(np.maximum(energy, blows), nan=0.0, posinf=math.inf), minlength=len(loads))
        timed = seconds > 0
        if timed.any():
            first = np.searchsorted(owner, np.flatnonzero(timed))
            left = windows(start[timed], stop[timed], area[first], perimeter[first], hot[timed], side[timed], carbon)
            found[timed] = np.where(left > 0, seconds[timed] / left, math.inf)
    return [float(x) for x in found]


@lru_cache(maxsize=256)
def twist_force(modulus: float, celsius: float, carbon: float, *, lever: float = 0.3) -> float:
    """N for each hand on a two-handed wrench: plastic torque = modulus·σ/√3 (Nadai), σ at a rate of 1/s.

    Args:
        modulus: plastic torsion modulus of the section, mm³: a³/3 for a square, πd³/12 for a round.
        celsius: of the steel.
        carbon: weight per cent.
        lever: from the bar to each hand, m.

    >>> round(twist_force(12**3 / 3, 1000, 0.15))
    63
    """
    stress = float(flow_stress(np.array([celsius]), carbon, strain=0.5, rate=1.0)[0])
    return modulus * stress / math.sqrt(3) * 1e-3 / (2 * lever)
