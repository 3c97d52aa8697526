"""Minutes at the fire and at the anvil (computations, section 14)."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from long_ember.features import Piece
from long_ember.frozen import dataclass
from long_ember.heats.operations import ForgeSettings, range_of_heat
from long_ember.heats.packing import Filled
from long_ember.materials import Material
from long_ember.physics import CARRY, heating, lying, soak, windows

__all__ = ["Times", "heat_range", "learned", "reheat", "times_of", "windows_of"]

_COLD = 20.0


@dataclass(frozen=True)
class Times:
    """Seconds, by heat or cold step.

    Args:
        fire: in the fire before it; 0 when cold.
        work: at the anvil or the bench, with the carry.
        around: reaching, looking, putting down.
    """

    fire: tuple[float, ...]
    work: tuple[float, ...]
    around: tuple[float, ...]

    @property
    def total(self) -> float:
        """Seconds for all of it, one iron in the fire."""
        return sum(self.fire) + sum(self.work) + sum(self.around)


def learned(number: int, curve: float) -> float:
    """Share of the first piece's time that the `number`th takes: number^log2(curve).

    >>> [round(learned(n, 0.9), 3) for n in (1, 2, 4)]
    [1.0, 0.9, 0.81]
    """
    return float(number ** math.log2(curve))


def reheat(piece: Piece, forge: ForgeSettings, start: float, stop: float) -> float:
    """Seconds in the fire from `start` to `stop` °C, with the soak."""
    bar = piece.bar
    return forge.slow * heating(forge.fire).seconds(start, stop, bar.area, bar.perimeter) + soak(bar.thickness)


def heat_range(item: Filled, steel: Material) -> tuple[float, float]:
    """°C that a heat leaves the fire with, the hottest that its work asks for, and at which its last work stops."""
    ranges = [range_of_heat(s.operation, steel) for s, _a, _b in item.items]
    return max(start for start, _stop in ranges), min(stop for _start, stop in ranges)


def windows_of(piece: Piece, packed: Sequence[Filled]) -> list[float]:
    """Seconds at the anvil of every heat, cold steps left out, in one pass."""
    bar, steel = piece.bar, piece.steel
    hot = [item for item in packed if not item.cold]
    if not hot:
        return []
    start, stop = np.array([heat_range(item, steel) for item in hot], dtype=float).T
    lengths = np.array([item.zone[1] - item.zone[0] for item in hot])
    area, perimeter, side, lies = (np.full(len(hot), x) for x in (bar.area, bar.perimeter, bar.thickness, lying(bar.width, bar.thickness)))
    found: list[float] = windows(start, stop, area, perimeter, lengths, side, steel.carbon, lies).tolist()
    return found


def times_of(piece: Piece, packed: Sequence[Filled], forge: ForgeSettings) -> Times:
    """Times of a plan. A part of the bar that has just been worked goes back into the fire at the temperature it was left at."""
    steel = piece.steel
    seconds = iter(windows_of(piece, packed))
    fire, work, around = list[float](), list[float](), list[float]()
    before: Filled | None = None
    left, pace = _COLD, forge.belief.times("pace")
    for item in packed:
        if item.cold:
            fire.append(0.0)
            work.append(sum(s.operation.seconds * s.method.pace for s, _a, _b in item.items))
            before, left = None, _COLD
        else:
            leaves, stops = heat_range(item, steel)
            warm = before is not None and before.zone[0] < item.zone[1] and item.zone[0] < before.zone[1]
            fire.append(pace * reheat(piece, forge, min(left, leaves - 1) if warm else _COLD, leaves))
            work.append(pace * (CARRY + next(seconds) * min(item.used, 1.0)))
            before, left = item, stops
        around.append(forge.overhead if item.cold else pace * forge.overhead)
    return Times(tuple(fire), tuple(work), tuple(around))
