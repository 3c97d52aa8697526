"""Mass and centre of gravity of solids, from their meshes."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from long_ember.arrays import Array
from long_ember.frozen import dataclass
from long_ember.geometry.meshing import Body, Mesh

__all__ = ["Balance", "balance", "together"]


@dataclass(frozen=True)
class Balance:
    """How heavy something is, and where.

    Args:
        mass: g.
        centre: of gravity, (3,) mm.
    """

    mass: float
    centre: tuple[float, float, float]


def balance(bodies: Sequence[Body], density: float, mass: float | None = None) -> Balance:
    """Mass and centre of gravity of a piece.

    Args:
        bodies: its solids.
        density: g/mm³.
        mass: g where it is known better than the mesh knows it.

    Tetrahedra from the origin to every face: V = a·(b×c)/6, centroid (a + b + c)/4; exact for the mesh.
    """
    volume, moment = 0.0, np.zeros(3)
    for body in bodies:
        v, m = _moments(body.mesh)
        volume, moment = volume + v, moment + m
    if volume <= 0:
        return Balance(0.0, (0.0, 0.0, 0.0))
    x, y, z = (moment / volume).tolist()
    return Balance(volume * density if mass is None else mass, (x, y, z))


def _moments(mesh: Mesh) -> tuple[float, Array]:
    a, b, c = (mesh.points[mesh.triangles[:, i]] for i in range(3))
    volumes = np.einsum("ni,ni->n", a, np.cross(b, c)) / 6
    return float(volumes.sum()), np.asarray((volumes[:, None] * (a + b + c)).sum(axis=0) / 4)


def together(parts: Sequence[Balance]) -> Balance:
    """Several things as one."""
    mass = sum(p.mass for p in parts)
    if mass <= 0:
        return Balance(0.0, (0.0, 0.0, 0.0))
    x, y, z = (np.array([p.mass * np.array(p.centre) for p in parts]).sum(axis=0) / mass).tolist()
    return Balance(mass, (x, y, z))
