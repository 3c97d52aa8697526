"""What the bar is made of, and where each figure comes from."""

from __future__ import annotations

from long_ember.frozen import dataclass

__all__ = ["MATERIALS", "MILD", "Material"]

_COLD = 400.0  # °C; below it nothing is called forging, and no material's own limit applies
_WELD_SPAN = 80.0  # °C that a welding heat may fall before the weld no longer takes


@dataclass(frozen=True, slots=True)
class Material:
    """A bar material.

    Args:
        key: name in files.
        title: name on screen.
        density: g/mm³.
        carbon: weight per cent, drives the flow stress of steel.
        start: °C, leaving the fire; above it the material burns, or its grain grows.
        low: °C below which it is not worked hot.
        weld: °C of a forge weld; 0 where it is not forge welded.
        hardening: none, water, oil, air, age, or unknown.
        flow: resistance to forging against mild steel at like heat.
        modelled: the heat model was made for it; otherwise heats are a guess by likeness.
        note: what to mind.
        source: where the figures come from.
    """

    key: str
    title: str
    density: float
    carbon: float
    start: float
    low: float
    weld: float
    hardening: str
    flow: float
    modelled: bool
    note: str
    source: str

    def stop(self, asked: float, *, weld: bool = False) -> float:
        """Temperature to stop at, °C, for work that stops at `asked` °C in mild steel."""
        if weld:
            return self.weld - _WELD_SPAN
        if asked <= _COLD:
            return asked
        if self.modelled:
            return min(max(asked, self.low), self.start - 30)
        share = (asked - MILD.low) / (MILD.start - MILD.low)
        return min(max(self.low + share * (self.start - self.low), self.low), self.start - 20)


MILD = Material(
    "mild-steel", "Mild steel", 7.85e-3, 0.15, 1150, 700, 1290, "none", 1.0, True, "",
    "density and specific heat: EN 1993-1-1 and -1-2; carbon: low-carbon structural bar; heats: computations, section 14",
)  # fmt: skip

MATERIALS: dict[str, Material] = {
    m.key: m
    for m in (
        MILD,
        Material("wrought-iron", "Wrought iron", 7.70e-3, 0.05, 1250, 850, 1300, "none", 0.9, True,
                 "Work it near welding heat: colder, it splits along its fibres.", "handbook value with slag"),
        Material("medium-carbon", "Medium-carbon steel, 0.45 %", 7.85e-3, 0.45, 1120, 800, 1200, "oil", 1.0, True,
                 "Cool slowly after forging. Harden by the maker's sheet.", "EN 10083 class C45, middle of the range"),
        Material("high-carbon", "High-carbon tool steel, 0.9 %", 7.84e-3, 0.90, 1020, 800, 1100, "oil", 1.1, True,
                 "Burns if worked hotter, cracks if worked colder. Normalise before hardening.", "generic 0.9 % carbon, EN ISO 4957 class C90U"),
        Material("spring-steel", "Spring steel, 0.6 % silicon", 7.85e-3, 0.60, 1080, 830, 0, "oil", 1.15, True,
                 "Unknown springs: test a coupon before trusting a temper.", "EN 10089, silicon spring grades, middle of the range"),
        Material("air-hardening", "Air-hardening tool steel", 7.75e-3, 1.00, 1050, 900, 0, "air", 1.6, True,
                 "Hardens while it cools on the floor: cool in lime or the fire, reheat before each break.", "EN ISO 4957 cold-work class, generic"),
        Material("unknown-steel", "Unknown steel, from scrap", 7.85e-3, 0.60, 1050, 850, 0, "unknown", 1.15, True,
                 "Forge it as if it were tool steel, and test a coupon before hardening. It may be plated, leaded or cracked.",
                 "assumed: a guess that burns nothing and cracks little"),
        Material("stainless", "Stainless steel, 18/8", 7.93e-3, 0.05, 1150, 900, 0, "none", 1.6, True,
                 "Twice as stiff under the hammer. Clean the scale off or it rusts; fume of chrome: vent.", "EN 10088-1 grade class 1.43xx"),
        Material("copper", "Copper", 8.94e-3, 0.0, 850, 500, 0, "none", 0.35, False,
                 "Works cold too; anneal at dull red. Short between 300 and 500 °C with some kinds.", "handbook; density EN 1652 Cu-ETP"),
        Material("bronze", "Bronze for forging", 8.40e-3, 0.0, 800, 600, 0, "none", 0.45, False,
                 "No colour warns you before it crumbles: work below cherry in the shade. Fume of zinc if it is brass: vent.",
                 "handbook, silicon bronze class"),
        Material("aluminium", "Aluminium for forging", 2.71e-3, 0.0, 480, 350, 0, "age", 0.25, False,
                 "Does not glow: judge by a pine stick or soap that chars. It melts without warning.", "handbook, EN AW-6000 class"),
    )
}  # fmt: skip
