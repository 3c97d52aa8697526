"""What leaves the program at full size: marks, the story stick, templates, jigs."""

from long_ember.fullsize.drawing import LAYERS, Drawing, DrawnHole, DrawnLine, Label, outline_drawing, side_by_side
from long_ember.fullsize.jig import Jig, Spring, jigs_of, overbent
from long_ember.fullsize.marking import Marking, carry_line, face_of, marking_out, overhang_line
from long_ember.fullsize.stick import story_sticks
from long_ember.fullsize.templates import EDGES, Curved, curved_of, taper_blends, templates_of

__all__ = [
    "EDGES",
    "LAYERS",
    "Curved",
    "Drawing",
    "DrawnHole",
    "DrawnLine",
    "Jig",
    "Label",
    "Marking",
    "Spring",
    "carry_line",
    "curved_of",
    "face_of",
    "jigs_of",
    "marking_out",
    "outline_drawing",
    "overbent",
    "overhang_line",
    "side_by_side",
    "story_sticks",
    "taper_blends",
    "templates_of",
]  # fmt: skip
