"""What the eye sees: colour words for temperatures, and how much longer hot steel measures."""

from __future__ import annotations

import numpy as np

from long_ember.frozen import dataclass

__all__ = ["BANDS", "TEMPERS", "Band", "band", "expansion", "glow", "temper"]

# What hot steel looks like: °C, red, green, blue.
_GLOW = np.array(
    [[470, 60, 20, 16], [600, 110, 20, 14], [740, 170, 34, 16], [850, 214, 66, 20], [930, 240, 112, 26], [1020, 250, 158, 44],
     [1120, 254, 200, 92], [1250, 255, 240, 190]]
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class Band:
    """A colour word and the temperatures, °C, for which smiths use it in dim light; old scales disagree by 50 to 150."""

    word: str
    low: float
    high: float


# Computations, section 17.
BANDS = (
    Band("first visible red", 470, 550),
    Band("dark red", 550, 680),
    Band("cherry", 680, 800),
    Band("light red", 800, 880),
    Band("orange", 880, 970),
    Band("yellow", 970, 1060),
    Band("light yellow", 1060, 1180),
    Band("white", 1180, 1400),
)
# Oxide colours on bright steel, ± 10 °C.
TEMPERS = (
    Band("pale straw", 215, 230),
    Band("straw", 230, 247),
    Band("brown", 247, 268),
    Band("purple", 268, 289),
    Band("blue", 289, 312),
    Band("pale blue", 312, 340),
    Band("grey", 340, 600),
)


def band(celsius: float) -> Band:
    """The colour word for a temperature.

    >>> band(1150).word
    'light yellow'
    """
    return next((b for b in reversed(BANDS) if celsius >= b.low), Band("black", 0, 470))


def temper(celsius: float) -> Band:
    """The oxide colour on bright steel at a tempering temperature.

    >>> temper(280).word
    'purple'
    """
    return next((b for b in reversed(TEMPERS) if celsius >= b.low), Band("bright", 0, 215))


def expansion(celsius: float) -> float:
    """Elongation from cold, as a fraction (EN 1993-1-2, 3.4.1.1: 2e-5·θ − 6.2e-3 from 860 to 1200 °C).

    >>> round(expansion(1000), 4)
    0.0138
    """
    if celsius >= 860:
        return 2e-5 * celsius - 6.2e-3
    if celsius >= 750:
        return 1.1e-2
    return 1.2e-5 * celsius + 0.4e-8 * celsius**2 - 2.416e-4


def glow(celsius: float) -> tuple[int, int, int]:
    """The glow of steel at a temperature, °C, as red, green and blue of 255.

    >>> glow(930)
    (240, 112, 26)
    """
    red, green, blue = (int(np.interp(celsius, _GLOW[:, 0], _GLOW[:, i])) for i in (1, 2, 3))
    return red, green, blue
