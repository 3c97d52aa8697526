"""The shop's habits: units, ruler, theme."""

from __future__ import annotations

from dataclasses import dataclass

from long_ember.units import MM_PER, Measure

__all__ = ["DENOMINATORS", "Settings"]

DENOMINATORS = (16, 32, 64)


@dataclass(frozen=True, slots=True)
class Settings:
    """What is kept between sessions.

    Args:
        unit: mm or in, for bare numbers and for display.
        denominator: finest inch fraction shown.
        theme: light or dark.
    """

    unit: str = "mm"
    denominator: int = 16
    theme: str = "light"

    @property
    def measure(self) -> Measure:
        """How lengths are shown."""
        return Measure(self.unit, self.denominator)

    @property
    def ruler(self) -> float:
        """mm; cut lengths round up to it: 1 mm, or the finest fraction shown."""
        return 1.0 if self.unit == "mm" else MM_PER["in"] / self.denominator
