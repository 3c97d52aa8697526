"""What the bar is made of."""

from __future__ import annotations

from dataclasses import dataclass

__all__ = ["MATERIALS", "Material"]


@dataclass(frozen=True, slots=True)
class Material:
    """A bar material.

    Args:
        key: name in files.
        title: name on screen.
        density: g/mm³.
        carbon: weight per cent, drives the flow stress.
        start: °C, leaving the fire.
        source: where the figures come from.
    """

    key: str
    title: str
    density: float
    carbon: float
    start: float
    source: str


MATERIALS: dict[str, Material] = {
    m.key: m
    for m in (
        Material("mild-steel", "Mild steel", 7.85e-3, 0.15, 1150, "density: EN 1993-1-1; carbon: low-carbon structural bar"),
        Material("wrought-iron", "Wrought iron", 7.70e-3, 0.05, 1250, "handbook value with slag; worked near welding heat"),
        Material("medium-carbon", "Medium-carbon steel", 7.85e-3, 0.45, 1120, "EN 10083 class C45, middle of the range"),
        Material("high-carbon", "High-carbon tool steel", 7.84e-3, 0.90, 1020, "generic 0.9 % carbon; burns if worked hotter"),
    )
}
