"""Threads that dies are sold for: nominal sizes with their pitches (ISO 261, ASME B1.1)."""

from __future__ import annotations

from fractions import Fraction

__all__ = ["COARSE_IN", "COARSE_MM", "FINE_IN", "FINE_MM", "largest_thread", "pitches_of"]

# Nominal size in mm and pitch.
COARSE_MM = (
    (3, 0.5), (4, 0.7), (5, 0.8), (6, 1.0), (8, 1.25), (10, 1.5), (12, 1.75), (14, 2.0), (16, 2.0), (18, 2.5), (20, 2.5), (22, 2.5), (24, 3.0),
    (30, 3.5), (36, 4.0),
)  # fmt: skip
FINE_MM = ((8, 1.0), (10, 1.25), (12, 1.25), (14, 1.5), (16, 1.5), (18, 1.5), (20, 1.5), (24, 2.0))
# Nominal size in inches and threads an inch.
COARSE_IN = (
    ("1/4", 20), ("5/16", 18), ("3/8", 16), ("7/16", 14), ("1/2", 13), ("9/16", 12), ("5/8", 11), ("3/4", 10), ("7/8", 9), ("1", 8),
)  # fmt: skip
FINE_IN = (
    ("1/4", 28), ("5/16", 24), ("3/8", 24), ("7/16", 20), ("1/2", 20), ("9/16", 18), ("5/8", 18), ("3/4", 16), ("7/8", 14), ("1", 12),
)  # fmt: skip
_SAME = 0.03  # mm; 5/16 in and 8 mm lie further apart


def pitches_of(diameter: float) -> tuple[float, ...]:
    """Pitches that are cut on a nominal diameter, mm, coarse first; none where it is no size of a series.

    Args:
        diameter: mm.

    >>> pitches_of(12.0), pitches_of(12.7), pitches_of(11.3)
    ((1.75, 1.25), (1.9538461538461538, 1.27), ())
    """
    metric = [p for d, p in (*COARSE_MM, *FINE_MM) if abs(d - diameter) < _SAME]
    inch = [25.4 / tpi for name, tpi in (*COARSE_IN, *FINE_IN) if abs(float(Fraction(name)) * 25.4 - diameter) < _SAME]
    return tuple(metric or inch)


def largest_thread(most: float, *, inch: bool = False) -> tuple[float, float]:
    """The largest size of at most so many mm with its coarse pitch, mm; the smallest where none is.

    Args:
        most: mm.
        inch: of the inch series.

    >>> largest_thread(10.7)
    (10.0, 1.5)
    >>> largest_thread(10.7, inch=True)
    (9.525, 1.5875)
    """
    rows = (
        [(float(Fraction(name) * Fraction("25.4")), 25.4 / tpi) for name, tpi in COARSE_IN]
        if inch
        else [(float(d), p) for d, p in COARSE_MM]
    )
    return max((row for row in rows if row[0] <= most + _SAME), default=rows[0])
