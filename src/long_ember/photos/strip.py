"""The strip of steel in a picture: from a few points along its middle to its middle line and thickness, by its edges.

Across the way that was pressed the brightness is looked at: the two places where it changes most, one on either side and about as far apart as
their neighbours', are the edges. The way itself is the one of least cost through all that was found (dynamic programming), so that a speck of rust or
a shadow beside the steel does not pull it away.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from long_ember.arrays import Array
from long_ember.frozen import NamedTuple
from long_ember.photos.picture import Grey, Ground, scaled_by

__all__ = ["StripPoint", "follow_strip", "scaled_by_bar"]

_STEP = 1.5  # mm between places that are looked at
_MOST = 1500  # of them
_WIDE = 1.6  # times the expected thickness, that is looked at on either side
_SAMPLES = 81  # across
_CANDIDATES = 6  # edges kept on each side
_SMOOTH = 1.2  # samples
_STRETCH = 0.8  # thicknesses either way, over which a bar's own thickness is measured
_CLEAR = 0.2
_FINE = 401  # samples across it
_NEAR = 0.15  # thicknesses from where the strip's edge was found
_ASIDE = 0.3  # what a middle beside what was pressed costs, for a thickness
_BEND, _SIZE = 0.35, 0.6  # what a jump of the middle, and of the thickness, costs, as shares of the thickness


class StripPoint(NamedTuple):
    """A place along the strip.

    Args:
        middle: mm.
        thickness: mm across; 0 where no edges were found.
        sure: how clear the edges are, 0 to 1.
    """

    middle: tuple[float, float]
    thickness: float
    sure: float


def follow_strip(grey: Grey, ground: Ground, pressed: Array, thickness: float) -> tuple[StripPoint, ...]:
    """The middle of the strip along points that were pressed.

    Args:
        grey: the picture.
        ground: its scale.
        pressed: (n, 2) px, about along the middle, from end to end.
        thickness: mm that the bar is about.
    """
    way = _way(ground.points(np.asarray(pressed, dtype=float)))
    if len(way) < 3:
        return tuple(StripPoint((float(x), float(y)), 0.0, 0.0) for x, y in way)
    along = np.gradient(way, axis=0)
    along /= np.maximum(np.hypot(*along.T), 1e-9)[:, None]
    across = np.column_stack((-along[:, 1], along[:, 0]))
    offsets = np.linspace(-_WIDE, _WIDE, _SAMPLES) * thickness
    places = way[:, None, :] + across[:, None, :] * offsets[None, :, None]
    light = _sampled(grey.light, ground.pixels(places.reshape(-1, 2))).reshape(len(way), _SAMPLES)
    change = np.gradient(_blurred(light), axis=1)
    dark, bright = (_edges(sign * change, offsets, thickness) for sign in (1.0, -1.0))
    # Steel is darker than the ground all along, or brighter: whichever is the clearer. A gap between two turns is neither.
    middles, sizes, clear = max(dark, bright, key=lambda found: float(found[2].max(axis=1).sum()))
    chosen = _cheapest(middles, sizes, clear, thickness)
    rows = np.arange(len(way))
    shift, wide, sure = middles[rows, chosen], sizes[rows, chosen], clear[rows, chosen]
    shift, wide = _steadied(shift, sure), _steadied(wide, sure)
    found = way + across * shift[:, None]
    return tuple(StripPoint((float(x), float(y)), float(w), float(s)) for (x, y), w, s in zip(found, wide, sure, strict=True))


def scaled_by_bar(grey: Grey, one: Sequence[float], other: Sequence[float], thickness: float) -> Ground:
    """A picture taken straight from above, by the thickness of the bar: its edges are looked for near the two points, along a short stretch.

    Args:
        grey: the picture.
        one: point at one edge of a stretch that is as thick as the bar, px.
        other: point at the other edge, straight across, px.
        thickness: mm between the edges.

    Raises:
        NoAnswer: the points are one.
    """
    rough = scaled_by(one, other, thickness)
    a, b = rough.points(np.asarray((one, other), dtype=float))
    along = np.array([-(b - a)[1], (b - a)[0]]) * _STRETCH
    seen = follow_strip(grey, rough, rough.pixels((a + b) / 2 + np.array([-1.0, 0.0, 1.0])[:, None] * along), thickness)
    found = [p.thickness for p in seen if p.thickness > 0 and p.sure > _CLEAR]
    if len(found) < 3:
        return rough  # no clear edges: what was pressed counts
    at = np.array([p.middle for p in seen])
    run = at[-1] - at[0]
    unit = np.array([-run[1], run[0]]) / max(float(np.hypot(*run)), 1e-9)
    # The strip is looked at in steps; its mean profile tells the two edges finer.
    offsets = np.linspace(-1.0, 1.0, _FINE) * thickness
    places = at[:, None, :] + unit * offsets[None, :, None]
    light = _sampled(grey.light, rough.pixels(places.reshape(-1, 2))).reshape(len(at), _FINE).mean(axis=0)
    steep, half = np.abs(np.gradient(light)), float(np.median(found)) / 2
    low, high = (_steepest(offsets, steep, edge, thickness * _NEAR) for edge in (-half, half))
    return Ground(rough.matrix @ np.diag((1.0, 1.0, (high - low) / thickness)))


def _steepest(offsets: Array, steep: Array, edge: float, near: float) -> float:
    """Where the brightness changes most within `near` of an edge: the middle of the steep part, weighed by its steepness."""
    there = np.abs(offsets - edge) <= near
    top = offsets[there][int(np.argmax(steep[there]))]
    close = np.abs(offsets - top) <= near / 2
    weight = steep[close] ** 2
    return float((offsets[close] * weight).sum() / max(float(weight.sum()), 1e-12))


def _way(points: Array) -> Array:
    """A smooth way through points, at even steps: what is pressed is a bend, not a corner."""
    from scipy.interpolate import CubicHermiteSpline  # loaded with the first picture

    keep = np.concatenate(([True], np.hypot(*np.diff(points, axis=0).T) > 1e-6)) if len(points) > 1 else np.array([True])
    points = points[keep]
    if len(points) < 2:
        return points
    ends = np.concatenate(([0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))))
    count = int(min(max(ends[-1] / _STEP, 8), _MOST))
    s = np.linspace(0.0, ends[-1], count)
    # Between two points a cubic with the slopes of their neighbours (Catmull and Rom), which bends as a hand would draw it.
    slopes = np.column_stack([np.gradient(points[:, i], ends) for i in (0, 1)])
    return np.asarray(CubicHermiteSpline(ends, points, slopes)(s))


def _sampled(light: Array, at: Array) -> Array:
    """Brightness between pixels, those about the place weighed; beyond the rim that of the rim."""
    from scipy.ndimage import map_coordinates  # loaded with the first picture

    return np.asarray(map_coordinates(light, (at[:, 1], at[:, 0]), order=1, mode="nearest"))


def _blurred(light: Array) -> Array:
    """Smoothed along the strip and across it: noise is not an edge."""
    from scipy.ndimage import gaussian_filter  # loaded with the first picture

    return np.asarray(gaussian_filter(light, (1.0, _SMOOTH), mode="nearest"))


def _edges(change: Array, offsets: Array, thickness: float) -> tuple[Array, Array, Array]:
    """Middles, thicknesses and clearness of pairs of edges, each (n, candidates²): where it falls, and behind that where it rises.

    Args:
        change: of brightness across, (n, samples).
        offsets: of the samples, mm.
        thickness: mm, about.
    """
    (falls, down), (rises, up) = _peaks(-change, offsets), _peaks(change, offsets)
    one, other = (m.ravel() for m in np.meshgrid(np.arange(_CANDIDATES), np.arange(_CANDIDATES), indexing="ij"))
    low, high = falls[:, one], rises[:, other]
    size = high - low
    usable = (size > 0.12 * thickness) & (size < 1.9 * thickness)
    top = np.maximum(np.abs(change).max(axis=1, keepdims=True), 1e-9)
    clear = np.where(usable, np.sqrt(down[:, one] * up[:, other]) / top, 0.0)
    return (low + high) / 2, np.where(usable, size, thickness), clear


def _peaks(change: Array, offsets: Array) -> tuple[Array, Array]:
    """The strongest peaks across, (n, candidates): where, mm, and how strong."""
    step = offsets[1] - offsets[0]
    peak = np.zeros_like(change)
    inner = change[:, 1:-1]
    peak[:, 1:-1] = np.where((inner >= change[:, :-2]) & (inner > change[:, 2:]) & (inner > 0), inner, 0.0)
    best = np.argsort(-peak, axis=1)[:, :_CANDIDATES]
    rows = np.arange(len(change))[:, None]
    # The top of a parabola through a peak and its neighbours: finer than the samples.
    left, mid, right = (change[rows, np.clip(best + d, 0, change.shape[1] - 1)] for d in (-1, 0, 1))
    bow = left - 2 * mid + right
    with np.errstate(divide="ignore", invalid="ignore"):
        fine = np.where(np.abs(bow) > 1e-12, 0.5 * (left - right) / bow, 0.0)
    return offsets[best] + np.clip(fine, -0.5, 0.5) * step, peak[rows, best]


def _cheapest(middles: Array, sizes: Array, clear: Array, thickness: float) -> Array:
    """The pair of edges at every place, so that all together cost least."""
    own = 1.0 - clear + _ASIDE * np.abs(middles) / thickness
    total, back = own[0], np.zeros(middles.shape, dtype=int)
    for i in range(1, len(middles)):
        jump = np.abs(middles[i][None, :] - middles[i - 1][:, None]) / (_BEND * thickness)
        grow = np.abs(sizes[i][None, :] - sizes[i - 1][:, None]) / (_SIZE * thickness)
        whole = total[:, None] + jump + grow
        back[i] = whole.argmin(axis=0)
        total = whole.min(axis=0) + own[i]
    chosen = np.zeros(len(middles), dtype=int)
    chosen[-1] = int(total.argmin())
    for i in range(len(middles) - 1, 0, -1):
        chosen[i - 1] = back[i, chosen[i]]
    return chosen


def _steadied(values: Array, sure: Array) -> Array:
    """Smoothed along the way, what is unclear by its clear neighbours."""
    from scipy.ndimage import gaussian_filter1d  # loaded with the first picture

    weight = np.maximum(sure, 1e-3)
    width = 2.0
    return np.asarray(gaussian_filter1d(values * weight, width, mode="nearest") / gaussian_filter1d(weight, width, mode="nearest"))
