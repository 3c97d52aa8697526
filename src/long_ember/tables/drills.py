"""Twist drills that are sold: by fraction, number, letter and millimetre."""

from __future__ import annotations

from fractions import Fraction

__all__ = ["DRILLS", "drill_near", "drill_words"]

# Numbers 1 to 60 and letters A to Z in thousandths of an inch, and tenths of them (ASME B94.11M).
_NUMBERS = (
    2280, 2210, 2130, 2090, 2055, 2040, 2010, 1990, 1960, 1935, 1910, 1890, 1850, 1820, 1800, 1770, 1730, 1695, 1660, 1610, 1590, 1570, 1540, 1520, 1495,
    1470, 1440, 1405, 1360, 1285, 1200, 1160, 1130, 1110, 1100, 1065, 1040, 1015, 995, 980, 960, 935, 890, 860, 820, 810, 785, 760, 730, 700, 670, 635,
    595, 550, 520, 465, 430, 420, 410, 400,
)  # fmt: skip
_LETTERS = (
    2340, 2380, 2420, 2460, 2500, 2570, 2610, 2660, 2720, 2770, 2810, 2900, 2950, 3020, 3160, 3230, 3320, 3390, 3480, 3580, 3680, 3770, 3860, 3970, 4040,
    4130,
)  # fmt: skip

_FRACTIONS = {str(Fraction(n, 64)): n / 64 * 25.4 for n in range(4, 65)}
_METRIC = {f"{n / 2:g} mm": n / 2 for n in range(2, 81)} | {
    f"{n / 10:g} mm": n / 10 for n in (33, 42, 68, 102)
}  # and the tap drills between

# name, mm; small ones first.
DRILLS: tuple[tuple[str, float], ...] = tuple(sorted(
    [*_FRACTIONS.items(), *((f"no. {i + 1}", t * 0.00254) for i, t in enumerate(_NUMBERS)), *((f"letter {chr(65 + i)}", t * 0.00254) for i, t in enumerate(_LETTERS)),
     *_METRIC.items()], key=lambda row: row[1],
))  # fmt: skip


def drill_words(name: str) -> str:
    """A drill as it is asked for: fractions as fractions, with their mark."""
    return f"{name.replace('/', chr(0x2044))}″" if name[0].isdigit() and "mm" not in name else name


def drill_near(mm: float, unit: str) -> tuple[str, float] | None:
    """The drill sold in a unit that lies nearest to a size, none where none does: in a hole too small the tap breaks, in one too large the thread strips.

    Args:
        mm: wanted.
        unit: mm or in.

    Returns:
        Its name and size, mm.
    """
    kind = [(name, size) for name, size in DRILLS if ("mm" in name) == (unit == "mm") and 0.97 * mm <= size <= 1.04 * mm]
    return min(kind, key=lambda row: abs(row[1] - mm) + (0.01 if row[1] < mm else 0.0), default=None)
