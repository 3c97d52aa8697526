"""Forging work turned into fractions of a heat (computations, section 14), for all operations at once."""

from __future__ import annotations

import math
from collections.abc import Sequence
from functools import lru_cache

import numpy as np

from long_ember.arrays import Array, ordered
from long_ember.frozen import NamedTuple, dataclass
from long_ember.physics.cooling_tables import DENSITY, STILL_AIR, at_anvil, cooling, end_losses
from long_ember.physics.flow import flow_stress

__all__ = [
    "CARRY",
    "COLD_YIELD",
    "RAM",
    "SLEDGE",
    "YOUNG",
    "Hammer",
    "Load",
    "Slice",
    "cold_moment",
    "draw_factor",
    "shares",
    "spring_back",
    "strain",
    "twist_force",
    "upset_factor",
    "window",
    "windows",
]

CARRY = 3.0  # s from the fire to the anvil
_MOST_STRAIN = 0.15  # of one blow
_BITE = 12.0  # mm of bar under the face
COLD_YIELD, YOUNG = 300.0, 210e3  # MPa of mild steel as it is sold, which is stronger than its grade promises; EN 1993-1-1 for E


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
    """A slice of the worked zone: finished volume mm³, section area mm² and perimeter mm, strain, work factor, and how it lies (`lying`)."""

    volume: float
    area: float
    perimeter: float
    strain: float
    factor: float
    lies: float = 0.25


class Load(NamedTuple):
    """What one operation asks of a heat.

    Args:
        start: °C leaving the fire.
        stop: °C to stop at.
        slices: of the work that displaces steel.
        power: W that reach the steel.
        rate: blows a second.
        seconds: of the work that takes its time whatever the hammer: handling, counted blows, turning a wrench.
        finish: °C to stop that work at: drawn steel is trued and rounded at a falling heat.
        section: area mm², perimeter mm and how it lies of the bar whose window those seconds come out of.
        hot_length: mm of bar that is hot.
        side: bar thickness, mm.
    """

    start: float
    stop: float
    slices: tuple[Slice, ...]
    power: float
    rate: float
    seconds: float
    finish: float
    section: tuple[float, float, float]
    hot_length: float
    side: float


def strain(before: tuple[float, float], after: tuple[float, float]) -> float:
    """Equivalent strain of a slice that becomes as wide and thick as asked, its volume kept (computations, section 14).

    ε = √(⅔·(ε_w² + ε_t² + ε_l²)), ε_l = −ε_w − ε_t: ln(A₀/A₁) for even drawing, 1.155·ln(t₀/t₁) for pure widening.

    Args:
        before: width and thickness, mm.
        after: the same.

    >>> round(strain((12, 12), (24, 3)), 3), round(strain((12, 12), (48, 3)), 3)
    (1.386, 1.601)
    """
    w, t = math.log(after[0] / before[0]), math.log(after[1] / before[1])
    return math.sqrt(2 / 3 * (w * w + t * t + (w + t) ** 2))


def draw_factor(width: float, height: float, bite: float = _BITE, *, widens: bool = False) -> float:
    """1.155·Q·1.15/(1 − s): Tomlinson and Stringer's spread s and the bite-to-height factor Q.

    Args:
        width: mm, of the section half way.
        height: mm.
        bite: mm.
        widens: spread is what is wanted: nothing of it is lost.
    """
    ratio = min(max(bite / width, 0.25), 1.5)
    spread = 0.14 + 0.36 * ratio - 0.054 * ratio**2
    q = 1 + 0.25 * (bite / height - 1) if bite >= height else min(1 + 0.2 * (height / bite - 1), 2.57)
    return 1.155 * q * 1.15 / (1.0 if widens else 1 - spread)


def upset_factor(diameter: float, height: float) -> float:
    """(1 + 0.1 d/h)·1.4, friction and barrelling of a free upset."""
    return (1 + 0.1 * diameter / height) * 1.4


def windows(
    start: Array, stop: Array, area: Array, perimeter: Array, hot_length: Array, side: Array, carbon: float, lies: Array | None = None
) -> Array:
    """Seconds at the anvil, after the carry, before each bar falls below `stop` °C; lengths in mm, all (n,)."""
    air = cooling(STILL_AIR, carbon)
    kept = DENSITY * area / perimeter * 1e-3
    arrived = np.interp(np.interp(start, air.celsius, air.time) - CARRY / kept, air.time, air.celsius)
    fall = _fall(arrived, stop, lies if lies is not None else np.full(len(area), 0.25), carbon)[0]
    return np.asarray(kept * np.maximum(fall, 0.0) * end_losses(hot_length, side))


def _fall(start: Array, stop: Array, lies: Array, carbon: float) -> tuple[Array, Array]:
    """Δτ and ΔJ of the cooling tables from `start` to `stop` °C at the anvil, each by the tables of how it lies; all (n,)."""
    time, given = np.zeros(len(start)), np.zeros(len(start))
    for share in ordered(lies):
        mine, table = lies == share, cooling(at_anvil(float(share)), carbon)
        a, b = start[mine], stop[mine]
        time[mine] = np.interp(a, table.celsius, table.time) - np.interp(b, table.celsius, table.time)
        given[mine] = np.interp(a, table.celsius, table.yielded) - np.interp(b, table.celsius, table.yielded)
    return time, given


def window(start: float, stop: float, area: float, perimeter: float, hot_length: float, side: float, carbon: float,
           lies: float = 0.25) -> float:  # fmt: skip
    """Seconds at the anvil, after the carry, before the bar falls below `stop` °C. Lengths in mm."""
    a, b, c, d, e, f, g = np.array([[start], [stop], [area], [perimeter], [hot_length], [side], [lies]], dtype=float)
    return float(windows(a, b, c, d, e, f, carbon, g)[0])


def shares(loads: Sequence[Load], carbon: float, resistance: float = 1.0) -> list[tuple[float, float]]:
    """Heats that each operation takes, and its window, in one pass over all slices.

    Heats = Σ V·ε·K / [power·ρ(A/P)·(J(T_start) − J(T_min))], but no blow strains more than 0.15, so thin steel takes its number
    of blows however strong the hammer; what takes its time whatever the hammer takes its seconds out of the window.

    Args:
        loads: of one material.
        carbon: weight per cent.
        resistance: of the material to forging, against mild steel.

    Returns:
        Fractions of a heat, infinite where the steel is too cold to start; and seconds at the anvil.
    """
    if not loads:
        return []
    start, stop, power, rate, seconds, finish, hot, side = np.array([(*x[:2], *x[3:7], *x[8:]) for x in loads], dtype=float).T
    area, perimeter, lies = np.array([x.section for x in loads], dtype=float).T
    left = windows(start, stop, area, perimeter, hot, side, carbon, lies)
    longer = windows(start, finish, area, perimeter, hot, side, carbon, lies) if (finish != stop).any() else left
    with np.errstate(divide="ignore", invalid="ignore"):
        found = np.where(seconds > 0, np.where(left > 0, seconds / longer, math.inf), 0.0)
        rows = [s for load in loads for s in load.slices]
        if rows:
            owner = np.repeat(np.arange(len(loads)), [len(load.slices) for load in loads])
            volume, area, perimeter, strained, factor, lies = np.array(rows, dtype=float).T
            fall, give = _fall(start[owner], stop[owner], lies, carbon)
            kept = DENSITY * area / perimeter * 1e-3
            energy = volume * 1e-9 * strained * factor * resistance / (power[owner] * kept * np.maximum(give, 0.0))
            blows = volume * strained / (_MOST_STRAIN * _BITE * area) / (rate[owner] * kept * np.maximum(fall, 0.0))
            found = found + np.bincount(owner, np.nan_to_num(np.maximum(energy, blows), nan=0.0, posinf=math.inf), minlength=len(loads))
    return [(float(x), float(y)) for x, y in zip(found, left, strict=True)]


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


def cold_moment(modulus: float) -> float:
    """N·m that bend a bar of mild steel cold: its plastic moment.

    Args:
        modulus: plastic section modulus, mm³: b·h²/4 for a bar of width b and depth h.

    >>> round(cold_moment(10 * 10**2 / 4))
    75
    """
    return COLD_YIELD * modulus * 1e-3


def spring_back(radius: float, depth: float) -> float:
    """Share of its angle that a bend made cold in mild steel springs back.

    The plastic moment of a rectangle, 1.5 times its elastic one, is taken off elastically: Δ(1/R) = M/(E·I) = 3σ/(E·h).

    Args:
        radius: of the middle line, mm.
        depth: in the plane of the bend, mm.

    >>> round(spring_back(100, 6), 3)
    0.071
    """
    return min(3 * COLD_YIELD * radius / (YOUNG * depth), 1.0)
