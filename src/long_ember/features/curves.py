"""Developed lengths of the curves a bar follows (computations, section 3). Lengths mm, angles rad."""

from __future__ import annotations

import math

import numpy as np

from long_ember.arrays import Array

__all__ = [
    "archimedean_length",
    "clothoid_length",
    "logarithmic_length",
    "spiral_length",
    "spiral_points",
    "spiral_turning",
    "turn_gap",
]


def archimedean_length(r0: float, r1: float, angle: float) -> float:
    """Arc length of r = r₀ + bθ between the radii `r0` and `r1` over `angle`.

    Closed form of ∫√(r² + b²) dθ; where b is tiny beside r the series 1 + b²/2r² is exact to double precision.

    >>> round(archimedean_length(8, 30, 3.5 * math.pi), 3)
    210.231
    """
    b = (r1 - r0) / angle
    if abs(b) < 1e-6 * max(r0, r1):
        return angle * (r0 + r1) / 2

    def primitive(r: float) -> float:
        return (r * math.sqrt(r * r + b * b) + b * b * math.asinh(r / abs(b))) / (2 * b)

    return primitive(r1) - primitive(r0)


def logarithmic_length(r0: float, r1: float, angle: float) -> float:
    """Arc length of the spiral r = r₀·e^(βθ), mm.

    >>> round(logarithmic_length(8, 30, 3.5 * math.pi), 3)
    184.334
    """
    beta = math.log(r1 / r0) / angle
    if abs(beta) < 1e-9:
        return angle * (r0 + r1) / 2
    return math.sqrt(1 + beta * beta) / beta * (r1 - r0)


def clothoid_length(r0: float, r1: float, angle: float) -> float:
    """Arc length of a curve whose curvature runs linearly from 1/`r0` to 1/`r1` while turning by `angle`.

    >>> round(clothoid_length(30, 8, 3.5 * math.pi), 3)
    138.891
    """
    return 2 * angle / (1 / r0 + 1 / r1)


_LENGTHS = {"archimedean": archimedean_length, "logarithmic": logarithmic_length, "clothoid": clothoid_length}


def spiral_length(form: str, r0: float, r1: float, angle: float) -> float:
    """Developed length of a spiral by the name of its form, mm."""
    return _LENGTHS[form](r0, r1, angle)


def spiral_turning(form: str, r0: float, r1: float, angle: float, count: int = 96) -> list[tuple[float, float, float]]:
    """A spiral in short arcs from its inner end, closed forms at every joint.

    Returns:
        For each arc: share of the spiral's length at its middle, radius of curvature (mm), and turning (rad).
    """
    s, _points, heading = spiral_points(form, r0, r1, angle, count + 1)
    step, turned = np.diff(s), np.diff(heading)
    shares = (s[:-1] + s[1:]) / 2 / s[-1]
    return list(zip(shares.tolist(), (step / turned).tolist(), turned.tolist(), strict=True))


def spiral_points(form: str, r0: float, r1: float, angle: float, count: int) -> tuple[Array, Array, Array]:
    """Points along a spiral from its inner end, turning left.

    Args:
        form: archimedean, logarithmic or clothoid.
        r0: inner radius, mm.
        r1: outer radius, mm.
        angle: rad.
        count: number of points.

    Returns:
        Arc length (count,), points (count, 2), heading in rad (count,).
    """
    u = np.linspace(0.0, 1.0, count)
    if form == "clothoid":
        return _clothoid_points(1 / r0, 1 / r1, 2 * angle / (1 / r0 + 1 / r1), u)
    theta = u * angle
    if form == "archimedean":
        b = (r1 - r0) / angle
        r = r0 + b * theta
        slope = np.full_like(r, b)
        s = _archimedean_s(r, b) if abs(b) >= 1e-6 * max(r0, r1) else theta * r0
    else:
        beta = math.log(r1 / r0) / angle
        r = r0 * np.exp(beta * theta)
        slope = beta * r
        s = np.sqrt(1 + beta**2) / beta * (r - r0) if abs(beta) >= 1e-9 else theta * r0
    points = np.column_stack((r * np.cos(theta), r * np.sin(theta)))
    return s, points, theta + np.arctan2(r, slope)


def _archimedean_s(r: Array, b: float) -> Array:
    primitive = (r * np.sqrt(r * r + b * b) + b * b * np.arcsinh(r / abs(b))) / (2 * b)
    return np.asarray(primitive - primitive[0])


def _clothoid_points(k0: float, k1: float, length: float, u: Array) -> tuple[Array, Array, Array]:
    # Each step is integrated by two-point Gauss-Legendre: error far below a drawing's pixel.
    step = np.diff(u)[:, None]
    nodes = u[:-1, None] + step * (0.5 + np.array([-1.0, 1.0]) / (2 * math.sqrt(3)))
    turn = length * (k0 * nodes + (k1 - k0) * nodes**2 / 2)
    moves = np.stack((np.cos(turn).mean(1), np.sin(turn).mean(1)), axis=1) * step * length
    points = np.vstack((np.zeros((1, 2)), np.cumsum(moves, axis=0)))
    return u * length, points, length * (k0 * u + (k1 - k0) * u**2 / 2)


def turn_gap(form: str, r0: float, r1: float, angle: float, t0: float, t1: float) -> float:
    """Least clear gap between neighbouring turns of a spiral, mm; infinite below one turn.

    Measured between points whose headings differ by a full turn, less the half thicknesses there.

    Args:
        form, r0, r1, angle: as for `spiral_points`.
        t0: thickness at the inner end, mm.
        t1: thickness at the outer end, mm.
    """
    s, points, heading = spiral_points(form, r0, r1, angle, 241)
    target = heading + 2 * math.pi
    inside = target <= heading[-1]
    if not inside.any():
        return math.inf
    other = np.column_stack([np.interp(target[inside], heading, points[:, i]) for i in (0, 1)])
    thickness = t0 + (t1 - t0) * s / s[-1]
    half = (thickness[inside] + np.interp(target[inside], heading, thickness)) / 2
    return float((np.hypot(*(other - points[inside]).T) - half).min())
