"""How long the bar and its stretches are by now, while one feature after another is worked."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from long_ember.arrays import Array
from long_ember.features import operations_of
from long_ember.geometry import UNDONE, Progress, stage_shape
from long_ember.stock import Reckoning

__all__ = ["WORTH_TRIMMING", "BarSoFar", "trimmed_off"]

WORTH_TRIMMING = 3.0  # mm: less than that is filed


class BarSoFar:
    """The zones of a bar at a stage; a step changes one, and only that one is looked at again.

    Bar that is only heated with its neighbours loses its scale as their work goes on.

    Args:
        reckoning: of the piece.
        progress: of every feature by id.
    """

    def __init__(self, reckoning: Reckoning, progress: Mapping[str, Progress]) -> None:
        zones = self._zones = reckoning.zones
        self._at = {z.feature.id: i for i, z in enumerate(zones)}
        self._forked = {z.feature.id for z in zones if z.shape.branches}
        self._worked = {
            z.feature.id: self._part(z.feature.id, progress[z.feature.id]) for z in reckoning.all_zones if z.feature.kind != "run"
        }
        self._start, self._end = np.array([(z.start, z.end) for z in zones]).reshape(-1, 2).T
        self._long = np.array([stage_shape(z.feature, z.place, progress[z.feature.id]).length for z in zones])
        self._losing = np.array([z.stock if progress[z.feature.id].along else long for z, long in zip(zones, self._long, strict=True)])
        self._share = np.array([self._part(z.feature.id, progress[z.feature.id]) for z in zones])
        self._runs = np.array([z.feature.kind == "run" for z in zones], dtype=bool)
        self._loss = np.array([z.length / z.stock - 1 if z.stock else 0.0 for z in zones])
        self._spare = reckoning.spare

    def go_on(self, identity: str, progress: Progress) -> None:
        """A feature is so far by now."""
        if identity in self._worked:
            self._worked[identity] = self._part(identity, progress)
        if (i := self._at.get(identity)) is not None:
            zone = self._zones[i]
            self._long[i], self._share[i] = stage_shape(zone.feature, zone.place, progress).length, self._part(identity, progress)
            self._losing[i] = zone.stock if progress.along else self._long[i]  # a stretch at a time: what is bar still loses its scale yet

    def _part(self, identity: str, progress: Progress) -> float:
        """How much of a feature's scale is lost by now."""
        if identity in self._forked and progress.path < 1:  # slit, drawn out, opened
            return (progress.section + progress.limbs + progress.path) / 3
        return max(progress.work if progress.along else progress.section, progress.path)

    @property
    def lengths(self) -> Array:
        """Of each zone along its middle, (zones,) mm cold: with the scale still to be lost on it."""
        meanwhile = sum(self._worked.values()) / len(self._worked) if self._worked else 1.0
        return np.asarray(self._long + self._losing * self._loss * (1 - np.where(self._runs, meanwhile, self._share)))

    def stretch(self, low: float, high: float, gone: float) -> float:
        """How long a stretch of the cold bar is, along its middle, mm.

        Args:
            low: mm from end A of the cold bar.
            high: the same.
            gone: mm that are cut off the end that was too long.
        """
        if not self._zones:
            return high - low
        beyond = [max(min(high, self._zones[0].start) - low, 0.0), max(high - max(low, self._zones[-1].end), 0.0)]
        at = 0 if self._spare == "A" else 1
        beyond[at] = max(beyond[at] - gone, 0.0)
        size = self._end - self._start
        within = np.maximum(np.minimum(high, self._end) - np.maximum(low, self._start), 0.0) / np.where(size > 0, size, 1.0)
        return sum(beyond) + float(within @ self.lengths)


def trimmed_off(reckoning: Reckoning, progress: Mapping[str, Progress]) -> float:
    """What has been cut off of what is over, mm: all of it once the end that it hangs on is begun, see `errands`."""
    if reckoning.over < WORTH_TRIMMING or not reckoning.zones:
        return 0.0
    end = reckoning.zones[0 if reckoning.spare == "A" else -1]
    there = [z for z in reckoning.all_zones if z is end or (z.start < end.end and z.end > end.start)]
    return reckoning.over if any(progress[z.feature.id] != UNDONE for z in there if operations_of(z.feature, z.place)) else 0.0
