"""Finished and half-finished forms as points to draw."""

from long_ember.geometry.figure import Figure, Part, figure, piece_figure
from long_ember.geometry.stages import DONE, UNDONE, Progress, stage_shape
from long_ember.geometry.trace import Trace, trace

__all__ = ["DONE", "UNDONE", "Figure", "Part", "Progress", "Trace", "figure", "piece_figure", "stage_shape", "trace"]
