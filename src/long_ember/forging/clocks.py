"""What the clocks at the anvil show: how far the iron in the fire is, how hot the one at the anvil still should be. A guide; the eye decides."""

from __future__ import annotations

import numpy as np

from long_ember.frozen import NamedTuple
from long_ember.heats import ForgingPlan, Heat, cooled, reheat
from long_ember.physics import CARRY, heating
from long_ember.records import Iron

__all__ = ["Clock", "clock_of", "fire_seconds"]


_COLD = 20.0  # °C


class Clock(NamedTuple):
    """A clock at a moment.

    Args:
        seconds: since the iron was put into the fire or taken out of it.
        whole: s that it needs in the fire, or that the window at the anvil lasts; 0 where no clock runs.
        work: s into the window by which the work should be done; 0 in the fire.
        celsius: about what it should have now, °C; 0 cold.
        ready: hot enough, or at the anvil: past its window.
    """

    seconds: float
    whole: float
    work: float
    celsius: float
    ready: bool

    @property
    def share(self) -> float:
        """How far it has run, 0 to 1."""
        return min(self.seconds / self.whole, 1.0) if self.whole else 0.0


def fire_seconds(plan: ForgingPlan, frame: int) -> float:
    """s in the fire before a heat, by section, fire and what warmth is left in it; 0 for what is done cold.

    Args:
        plan: the sequence.
        frame: from 0.
    """
    heat = plan.frames[frame]
    if not isinstance(heat, Heat) or heat.cold:
        return 0.0
    hot = [seconds for seconds, item in zip(plan.times.fire, plan.packed, strict=True) if not item.cold]
    return hot[heat.number - 1]


def _heated(plan: ForgingPlan, heat: Heat, seconds: float, whole: float) -> float:
    """About how hot it is so long in the fire, °C: along the fire's own heating curve, from what warmth was left in it."""
    table, cold = heating(plan.forge.fire), reheat(plan.piece, plan.forge, _COLD, heat.hot)
    hot = float(np.interp(heat.hot, table.celsius, table.time))
    warm = 1.0 - min(whole / cold, 1.0) if cold else 0.0
    done = min(seconds / whole, 1.0) if whole else 1.0
    return float(np.interp(hot * (warm + (1.0 - warm) * done), table.time, table.celsius))


def clock_of(plan: ForgingPlan, iron: Iron, now: float) -> Clock:
    """The clock of an iron.

    Args:
        plan: the sequence.
        iron: in the fire, at the anvil or elsewhere.
        now: s since 1970.
    """
    heat, seconds = plan.frames[iron.frame], max(now - iron.since, 0.0)
    if not isinstance(heat, Heat) or heat.cold or iron.phase not in ("fire", "anvil"):
        return Clock(seconds, 0.0, 0.0, 0.0, False)
    if iron.phase == "fire":
        whole = fire_seconds(plan, iron.frame)
        return Clock(seconds, whole, 0.0, _heated(plan, heat, seconds, whole), seconds >= whole)
    whole = CARRY + heat.seconds  # it cools on the way to the anvil too
    return Clock(seconds, whole, CARRY + heat.seconds * min(heat.need, 1.0), cooled(plan, heat, seconds), seconds >= whole)
