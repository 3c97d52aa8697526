"""Gauge numbers of sheet and wire, each with the system that it belongs to: 14 is four different thicknesses."""

from __future__ import annotations

import re

from long_ember.errors import EntryError

__all__ = ["GAUGES", "gauge_of", "gauge_words", "read_gauge"]

# Ounces a square foot that a number means, by the US standard gauge of 1893; sheet steel is reckoned at 41.82 lb a square foot and inch.
_OUNCES = {
    3: 160, 4: 150, 5: 140, 6: 130, 7: 120, 8: 110, 9: 100, 10: 90, 11: 80, 12: 70, 13: 60, 14: 50, 15: 45, 16: 40, 17: 36, 18: 32, 19: 28, 20: 24,
    21: 22, 22: 20, 23: 18, 24: 16, 25: 14, 26: 12, 27: 11, 28: 10, 29: 9, 30: 8,
}  # fmt: skip
_SWG = (
    324,
    300,
    276,
    252,
    232,
    212,
    192,
    176,
    160,
    144,
    128,
    116,
    104,
    92,
    80,
    72,
    64,
    56,
    48,
    40,
    36,
    32,
    28,
    24,
    22,
    20,
    18,
)  # thousandths
_BWG = (
    340,
    300,
    284,
    259,
    238,
    220,
    203,
    180,
    165,
    148,
    134,
    120,
    109,
    95,
    83,
    72,
    65,
    58,
    49,
    42,
    35,
    32,
    28,
    25,
    22,
    20,
    18,
)  # thousandths

# key: title, mm by number.
GAUGES: dict[str, tuple[str, dict[int, float]]] = {
    "ga": ("US standard gauge, sheet steel", {n: ounces / 16 / 41.82 * 25.4 for n, ounces in _OUNCES.items()}),
    "awg": ("American wire gauge, copper, brass, aluminium", {n: 0.005 * 92 ** ((36 - n) / 39) * 25.4 for n in range(31)}),
    "swg": ("Imperial standard wire gauge", {n: t * 0.0254 for n, t in enumerate(_SWG)}),
    "bwg": ("Birmingham gauge, tube walls", {n: t * 0.0254 for n, t in enumerate(_BWG)}),
}
_TYPED = r"(?i)\s*(?:(?:ga|gauge)\.?\s*)?(\d{1,2})\s*(ga|gauge|ga\.|awg|b&s|swg|bwg)?\s*"
_NAMES = {"gauge": "ga", "ga.": "ga", "b&s": "awg"}
_SAME = 0.006  # mm; as near as a thickness that was typed by its number is kept


def read_gauge(text: str) -> float | None:
    """The thickness that a gauge number means, mm; None for what is no gauge number.

    Args:
        text: `14 ga`, `gauge 14`, `14 awg`, `16 swg`, `12 bwg`.

    Raises:
        EntryError: the system has no such number.

    >>> round(read_gauge("14 ga"), 3), round(read_gauge("14 awg"), 3), read_gauge("14 mm")
    (1.898, 1.628, None)
    """
    match = re.fullmatch(_TYPED, text)
    if match is None or (match[2] is None and not text.strip().lower().startswith("ga")):
        return None
    key = (match[2] or "ga").lower()
    title, rows = GAUGES[_NAMES.get(key, key)]
    if int(match[1]) not in rows:
        raise EntryError(text, 0, f"the {title} goes from {min(rows)} to {max(rows)}", "14 ga, 16 swg, 18 awg, 2 mm")
    return rows[int(match[1])]


def gauge_of(mm: float, system: str = "ga") -> int | None:
    """The number that a thickness has in a system, None where it has none."""
    return next((n for n, t in GAUGES[system][1].items() if abs(t - mm) < _SAME), None)


def gauge_words(mm: float) -> str:
    """What a thickness is called where sheet is sold by gauge, "" for nothing: the first system that knows it, named.

    >>> gauge_words(1.897), gauge_words(2.0)
    ('14 ga, US standard', '')
    """
    short = {"ga": "ga, US standard", "awg": "awg", "swg": "swg", "bwg": "bwg"}
    return next((f"{n} {short[key]}" for key in GAUGES for n in (gauge_of(mm, key),) if n is not None), "")
