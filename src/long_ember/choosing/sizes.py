"""Bars that are commonly sold, in mm and in inches; a shop adds its own under Prices."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cache

from long_ember.records.rack import Price
from long_ember.sections import Section, flat, half_round, hexagon, octagon, round_, square, tube

__all__ = ["catalogue", "common_bars", "is_sheet", "mass_per_metre"]

_MM = (6, 8, 10, 12, 14, 16, 18, 20, 22, 25, 28, 30, 32, 35, 40, 45, 50, 60)
_FLATS_MM = (
    (12, 3), (16, 3), (20, 3), (20, 5), (25, 3), (25, 5), (25, 6), (25, 8), (30, 5), (30, 6), (30, 8), (30, 10), (40, 5), (40, 6), (40, 8),
    (40, 10), (40, 12), (50, 5), (50, 6), (50, 8), (50, 10), (50, 12), (60, 6), (60, 8), (60, 10), (80, 8), (80, 10), (100, 10),
)  # fmt: skip
_IN = (1 / 4, 5 / 16, 3 / 8, 7 / 16, 1 / 2, 5 / 8, 3 / 4, 7 / 8, 1, 9 / 8, 5 / 4, 3 / 2, 7 / 4, 2)
_FLATS_IN = (
    (1 / 2, 1 / 8), (3 / 4, 1 / 8), (3 / 4, 1 / 4), (1, 1 / 8), (1, 3 / 16), (1, 1 / 4), (1, 3 / 8), (5 / 4, 1 / 4), (5 / 4, 3 / 8), (3 / 2, 1 / 4),
    (3 / 2, 3 / 8), (3 / 2, 1 / 2), (2, 1 / 4), (2, 3 / 8), (2, 1 / 2), (3, 1 / 4), (3, 3 / 8), (3, 1 / 2), (4, 3 / 8),
)  # fmt: skip
_HALF_MM, _HALF_IN = (10, 12, 16, 20, 25, 30), (3 / 8, 1 / 2, 5 / 8, 3 / 4, 1)
_TUBES_MM = ((17.2, 2.3), (21.3, 2.6), (26.9, 2.6), (33.7, 3.2), (42.4, 3.2), (48.3, 3.2))
_TUBES_IN = ((3 / 4, 1 / 8), (1, 1 / 8), (5 / 4, 1 / 8), (3 / 2, 1 / 8))


def is_sheet(section: Section) -> bool:
    """A flat so wide that it is sheet or plate: blanks are cut from it, nobody forges it as a bar."""
    return section.shape == "flat" and section.width >= 200 and section.width >= 25 * section.thickness


@cache
def common_bars(offer: str) -> tuple[Section, ...]:
    """Square, round, hexagon, octagon, flat and half-round bars and tubes by mm, in or both, small ones first; none for `own`."""
    found: list[Section] = []
    if offer in ("mm", "both"):
        found += [make(float(s)) for s in _MM for make in (square, round_)]
        found += [make(float(s)) for s in _MM if s in (12, 16, 20, 25, 32) for make in (hexagon, octagon)]
        found += [flat(float(w), float(t)) for w, t in _FLATS_MM]
        found += [*(half_round(float(d)) for d in _HALF_MM), *(tube(d, wall) for d, wall in _TUBES_MM)]
    if offer in ("in", "both"):
        found += [make(s * 25.4) for s in _IN for make in (square, round_)]
        found += [make(s * 25.4) for s in _IN if s in (1 / 2, 3 / 4, 1) for make in (hexagon, octagon)]
        found += [flat(w * 25.4, t * 25.4) for w, t in _FLATS_IN]
        found += [*(half_round(d * 25.4) for d in _HALF_IN), *(tube(d * 25.4, wall * 25.4) for d, wall in _TUBES_IN)]
    return tuple(sorted(found, key=lambda s: (s.area, s.shape)))


def catalogue(offer: str, prices: Mapping[str, Price], length: float) -> dict[str, Price]:
    """The shop's own sizes and prices, and the common sizes it has said nothing about, by section.

    Args:
        offer: mm, in, both or own.
        prices: the shop's own, by id.
        length: mm, of a bar as bought, for common sizes.

    Returns:
        By id; a common size has an id of its own that stays the same.
    """
    known = {p.section for p in prices.values() if p.material == Price().material}
    common = {_key(s): Price(section=s, length=length) for s in common_bars(offer) if s not in known}
    order = {shape: i for i, shape in enumerate(("square", "round", "flat", "hexagon", "octagon", "half-round", "tube"))}
    rows = {**prices, **common}.items()
    return dict(sorted(rows, key=lambda row: (order.get(row[1].section.shape, 9), row[1].section.area, row[1].section.width)))


def _key(section: Section) -> str:
    return f"size-{section.shape}-{section.width:g}-{section.wall or section.thickness:g}".replace(".", "_")


def mass_per_metre(section: Section, density: float) -> float:
    """kg/m of a bar.

    Args:
        section: of the bar.
        density: g/mm³.

    >>> round(mass_per_metre(square(12), 7.85e-3), 4)
    1.1304
    """
    return section.area * density
