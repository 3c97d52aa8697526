"""Forging work turned into fractions of a heat (heat model, section 3)."""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import lru_cache

from long_ember.physics.cooling import ANVIL, STILL_AIR, cooling, end_loss

__all__ = ["Hammer", "Slice", "draw_factor", "heats_of_work", "upset_factor", "window"]

CARRY = 3.0  # s from the fire to the anvil


@dataclass(frozen=True, slots=True)
class Hammer:
    """A smith with a hammer; only the product of energy, tempo and duty matters (heat model, section 4).

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

    def power(self, efficiency: float) -> float:
        """Useful W, averaged over the heat."""
        return efficiency * 0.5 * self.mass * self.speed**2 * self.tempo / 60 * self.duty * self.skill


@dataclass(frozen=True, slots=True)
class Slice:
    """A slice of the worked zone: finished volume mm³, section area mm² and perimeter mm, strain and work factor."""

    volume: float
    area: float
    perimeter: float
    strain: float
    factor: float


def draw_factor(width: float, height: float, bite: float = 12.0) -> float:
    """1.155·Q·1.15/(1 − s): Tomlinson and Stringer's spread s and the bite-to-height factor Q."""
    ratio = min(max(bite / width, 0.25), 1.5)
    spread = 0.14 + 0.36 * ratio - 0.054 * ratio**2
    q = 1 + 0.25 * (bite / height - 1) if bite >= height else min(1 + 0.2 * (height / bite - 1), 2.57)
    return 1.155 * q * 1.15 / (1 - spread)


def upset_factor(diameter: float, height: float) -> float:
    """(1 + 0.1 d/h)·1.4, friction and barrelling of a free upset."""
    return (1 + 0.1 * diameter / height) * 1.4


def window(start: float, stop: float, area: float, perimeter: float, hot_length: float, side: float, carbon: float) -> float:
    """Seconds at the anvil, after the carry, before the bar falls below `stop` °C. Lengths in mm."""
    return _long_window(start, stop, area, perimeter, carbon) * end_loss(hot_length, side)


@lru_cache(maxsize=4096)
def _long_window(start: float, stop: float, area: float, perimeter: float, carbon: float) -> float:
    arrived = cooling(STILL_AIR, carbon).after(CARRY, start, area, perimeter)
    return cooling(ANVIL, carbon).seconds(arrived, stop, area, perimeter)


def heats_of_work(slices: list[Slice], start: float, stop: float, carbon: float, power: float) -> float:
    """Heats = Σ V·ε·K / [power·ρ(A/P)·(J(T_start) − J(T_min))].

    Returns:
        A fraction of a heat; infinite when the bar is too cold to start.
    """
    table, total = cooling(ANVIL, carbon), 0.0
    for part in slices:
        give = table.deformation(start, stop, part.area, part.perimeter)
        if give <= 0:
            return math.inf
        total += part.volume * 1e-9 * part.strain * part.factor / (power * give)
    return total
