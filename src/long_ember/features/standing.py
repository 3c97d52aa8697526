"""Forms and works that stand on the drawn bar: they bend or pierce what other features have made, and take no bar of their own."""

from __future__ import annotations

from dataclasses import replace
from functools import cached_property

from long_ember import fields
from long_ember.features.base import Feature, Outer
from long_ember.fields import check_fields
from long_ember.frozen import dataclass

__all__ = ["Standing"]


@dataclass(frozen=True, kw_only=True)
class Standing:
    """A form or a work with its place on the drawn bar. Distances run along the middle of the drawn bar, cold.

    Args:
        feature: what is done there.
        on: landmark: `A` or `B` for an end of the drawn bar, or the id of a feature in the row or of another standing form.
        edge: A, middle or B of the landmark; an end of the bar has none.
        along: which way the distance is measured, and a form goes on.
        at: mm from the landmark to where a form begins, or to the middle of a work.
    """

    feature: Feature
    on: str = fields.landmark("Measured from", tip="An end of the drawn bar, or something on it.")
    edge: str = fields.choice("Its", "A", ("A", "end toward A"), ("middle", "middle"), ("B", "end toward B"))
    along: str = fields.choice("Goes", "B", ("B", "toward B"), ("A", "toward A"))
    at: float = fields.length("Distance", 0.0, zero=True, tip="Along the middle of the drawn bar, straight and cold.")

    def __post_init__(self) -> None:
        check_fields(self)

    @cached_property
    def stood(self) -> Feature:
        """The feature as it stands: the bar's own sections, no bar of its own; an outer end lies where its distance is measured from."""
        made = self.feature.standing()
        return replace(made, toward="A" if self.along == "B" else "B") if isinstance(made, Outer) else made

    def scaled(self, factor: float) -> Standing:
        """The same `factor` times as large, and as far from its landmark."""
        return replace(self, feature=self.feature.scaled(factor), at=self.at * factor)

    def mirrored(self) -> Standing:
        """The same on the other of a pair."""
        return replace(self, feature=self.feature.mirrored())

    @property
    def id(self) -> str:
        """Of the feature: unique in the piece."""
        return self.feature.id
