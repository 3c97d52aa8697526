"""Geometry: paths into points, features into figures and solids, stages of half-done work."""

from long_ember.geometry.figure import Figure, Part, figure, piece_bodies, piece_figure, seen_figure
from long_ember.geometry.frames import Pose, frames
from long_ember.geometry.mesh import Body, Mesh, bodies, end_pose, joined, mesh
from long_ember.geometry.project import PLAN, SIDE, Seen, seen, turned
from long_ember.geometry.stages import DONE, UNDONE, Progress, stage_shape
from long_ember.geometry.trace import Trace, trace

__all__ = [
    "DONE", "PLAN", "SIDE", "UNDONE", "Body", "Figure", "Mesh", "Part", "Pose", "Progress", "Seen", "Trace", "bodies", "end_pose",
    "figure", "frames", "joined", "mesh", "piece_bodies", "piece_figure", "seen", "seen_figure", "stage_shape", "trace", "turned",
]  # fmt: skip
