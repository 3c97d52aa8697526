"""One operation of one feature, in its place on the bar."""

from __future__ import annotations

import itertools
from dataclasses import replace
from functools import lru_cache

from long_ember.features import Feature, Operation
from long_ember.frozen import NamedTuple
from long_ember.geometry import DONE, Progress
from long_ember.heats.craft import Method, craft_of

__all__ = ["Step", "advanced", "step_key"]


class Step(NamedTuple):
    """One operation of one feature; a named tuple, since dozens are made at every keystroke.

    Args:
        number: position in the list of all operations; order rules refer to it.
        position: in the row of the feature; of the one at its middle where it stands on the drawn bar.
        feature: the feature.
        operation: what is done.
        order: of the operation within its feature.
        start: mm from end A of the bar, scale allowance left out, where its zone begins.
        end: where it ends.
        need: share of a heat; more than 1 takes several. Infinite: too thin to work at all.
        window: s at the anvil in a heat of its own; 0 when cold.
        method: how it is done with the kit at hand.
        over: of what stands on the drawn bar, a bit for each feature of the row that it covers; 0 for features of the row.
        seat: where it stands, counted in features of the row; between two whole numbers for what stands on one.
        rank: of work on the surface, its place in the smith's order, from 1; 0 for all else.
        effort: share of a heat that its work alone takes; `need` is more where the fire or the steel asks for more heats.
        least: heats that it takes however fast the hand is.
        begins: end of the bar that it begins nearer to, A or B, where it is taken in several goes.
        pace: of what is finished a stretch at a time because it is longer than the fire, shares of its work from that end on with the share
            of its steel that is finished by then.
    """

    number: int
    position: int
    feature: Feature
    operation: Operation
    order: int
    start: float
    end: float
    need: float
    window: float
    method: Method
    over: int = 0
    seat: float = 0.0
    rank: int = 0
    effort: float = 0.0
    least: float = 0.0
    begins: str = "A"
    pace: tuple[tuple[float, float], ...] = ()

    @property
    def name(self) -> str:
        """What it is called: by its place in the row, or by what it stands on."""
        if self.operation.own:
            return self.operation.called
        return f"{self.feature.title} on {self.position + 1}" if self.over else f"{self.feature.title} {self.position + 1}"

    def touches(self, position: int) -> bool:
        """Whether it is done on a feature of the row, by its position, or on what stands on that."""
        return bool(self.over >> position & 1) if self.over else self.position == position

    @property
    def key(self) -> str:
        """What pins, overrules and chosen methods refer to."""
        return f"own/{self.operation.own}" if self.operation.own else step_key(self.feature, self.order)

    def reached(self, start: float, stop: float) -> tuple[float, float]:
        """Stretch of the bar that lies in the fire for a part of it, mm from end A: all of it, or what is taken in one go.

        Args:
            start: share of it that is done before.
            stop: share of it that is done after.
        """
        start, stop, long = self.finished(start), self.finished(stop), self.end - self.start
        if self.operation.goes > 1:
            begun = start if self.operation.along else 0.0
        elif self.least > 1:  # longer than the fire: it moves along, and heats as much as it can
            within = max(stop - start, 1 / self.least)
            begun = min(start, 1 - within)
            stop = begun + within
        else:
            return self.start, self.end
        return (
            (self.start + begun * long, self.start + stop * long)
            if self.begins == "A"
            else (self.end - stop * long, self.end - begun * long)
        )

    @property
    def by_stretches(self) -> bool:
        """Whether each stretch is finished before the next: what would buckle, and what is longer than the fire heats."""
        return self.operation.along or bool(self.pace)

    def finished(self, share: float) -> float:
        """Share of its steel that is finished when so much of its work is done."""
        for (work, steel), (more, further) in itertools.pairwise(self.pace):
            if share <= more:
                return steel + (further - steel) * (share - work) / (more - work) if more > work else further
        return share

    @property
    def tools(self) -> tuple[str, ...]:
        """The method's tools, and what the operation wants besides."""
        return _tools(self.operation, self.method)


def advanced(progress: Progress, step: Step, stop: float, finished: bool) -> Progress:
    """How far a feature is when a step of it is done to a share.

    Args:
        progress: before.
        step: what is done.
        stop: share of it that is done.
        finished: nothing is left to do on the feature.
    """
    if finished:
        return DONE
    if step.operation.effect == "section" and step.operation.limbs and progress.section >= 1:  # the tines of what is slit already
        return replace(progress, limbs=stop)
    if step.operation.effect == "section":
        along = (1 if step.begins == "A" else -1) if step.by_stretches else 0
        return replace(progress, section=step.finished(stop), along=along, work=stop if along else 0.0)
    # A feature that is only bent thins or swells as it bends.
    return replace(progress, section=max(progress.section, stop), path=stop, along=0)


def step_key(feature: Feature, order: int) -> str:
    """Feature id, a stroke, and the operation's number within the feature."""
    return f"{feature.id}/{order}"


@lru_cache(maxsize=512)
def _tools(operation: Operation, method: Method) -> tuple[str, ...]:
    answered = {word for m in craft_of(operation.manner).methods for tool in m.tools for word in tool.split(" or ")}
    rest = (t for t in operation.tools if answered.isdisjoint(t.split(" or ")))
    return tuple(dict.fromkeys((*method.tools, *rest)))
