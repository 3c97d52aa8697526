"""Geometry: paths into points, features into figures and solids, stages of half-done work."""

from long_ember.geometry.balancing import Balance, balance, together
from long_ember.geometry.contact import Contact, contacts, looked_for
from long_ember.geometry.figures import (
    Figure,
    Part,
    drafting,
    figure,
    figuring,
    level_bodies,
    level_poses,
    piece_bodies,
    piece_figure,
    seen_figure,
    sizing,
)
from long_ember.geometry.following import follow
from long_ember.geometry.framing import Pose, frames
from long_ember.geometry.meshing import (
    Body,
    Mesh,
    blend_outline,
    bodies,
    end_pose,
    joined,
    mesh,
    point_stations,
    section_outline,
    sweeping,
    void_outline,
)
from long_ember.geometry.project import PLAN, SIDE, Aspect, Seen, seen, turned
from long_ember.geometry.silhouettes import silhouette
from long_ember.geometry.stages import DONE, UNDONE, Progress, partly, stage_shape, tip_of
from long_ember.geometry.tracing import Trace, trace
from long_ember.geometry.whole import whole_solid

__all__ = [
    "DONE", "PLAN", "SIDE", "UNDONE", "Aspect", "Balance", "Body", "Contact", "Figure", "Mesh", "Part", "Pose", "Progress", "Seen", "Trace", "balance", "blend_outline", "bodies", "contacts", "drafting", "end_pose",
    "figure", "figuring", "follow", "frames", "joined", "level_bodies", "level_poses", "looked_for", "mesh", "partly", "piece_bodies", "piece_figure", "point_stations", "section_outline", "seen", "seen_figure", "silhouette", "sizing", "stage_shape", "sweeping", "tip_of", "together", "trace", "turned", "void_outline", "whole_solid",
]  # fmt: skip
