"""What to do in which order and at which heat."""

from typing import TYPE_CHECKING

from long_ember.heats.craft import CRAFT, HELPERS, Craft, Fixture, Method, craft_of, methods_for
from long_ember.heats.errands import Errand, Frame
from long_ember.heats.heat import Heat, Work
from long_ember.heats.operations import Door, ForgeSettings, Practised
from long_ember.heats.packing import OrderCost, Packer
from long_ember.heats.planner import planning
from long_ember.heats.rules import MATCHES, PINNED, RULES, WHERE, Rule, Tie, Ties, ties
from long_ember.heats.sequencing import ForgingPlan, hand_force, planning_of, replanned, scale_expected, scale_share, sequence, sequenced
from long_ember.heats.step import Step
from long_ember.heats.timing import learned, reheat
from long_ember.heats.treatment import TREATMENTS
from long_ember.heats.warnings import cautions
from long_ember.late import late

if TYPE_CHECKING:
    from long_ember.heats.batching import RHYTHMS, Batch, Station, Turn, WorthIt, batch, fixtures, stations_of
    from long_ember.heats.gauging import Gauge, gauges, length_now, sizes_now
    from long_ember.heats.moves import Move, move_step, pin_all, unpinned
    from long_ember.heats.staging import StagePart, staged, staged_parts
    from long_ember.heats.storyboard import Moment, cooled, door_notes, grip_note, marks_left, moment, thin_note
else:
    __getattr__ = late(
        __name__,
        {
            "batching": ("RHYTHMS", "Batch", "Station", "Turn", "WorthIt", "batch", "fixtures", "stations_of"),
            "gauging": ("Gauge", "gauges", "length_now", "sizes_now"),
            "moves": ("Move", "move_step", "pin_all", "unpinned"),
            "staging": ("StagePart", "staged", "staged_parts"),
            "storyboard": ("Moment", "cooled", "door_notes", "grip_note", "marks_left", "moment", "thin_note"),
        },
    )

__all__ = [
    "CRAFT",
    "HELPERS",
    "MATCHES",
    "PINNED",
    "RHYTHMS",
    "RULES",
    "TREATMENTS",
    "WHERE",
    "Batch",
    "Craft",
    "Door",
    "Errand",
    "Fixture",
    "ForgeSettings",
    "ForgingPlan",
    "Frame",
    "Gauge",
    "Heat",
    "Method",
    "Moment",
    "Move",
    "OrderCost",
    "Packer",
    "Practised",
    "Rule",
    "StagePart",
    "Station",
    "Step",
    "Tie",
    "Ties",
    "Turn",
    "Work",
    "WorthIt",
    "batch",
    "cautions",
    "cooled",
    "craft_of",
    "door_notes",
    "fixtures",
    "gauges",
    "grip_note",
    "hand_force",
    "learned",
    "length_now",
    "marks_left",
    "methods_for",
    "moment",
    "move_step",
    "pin_all",
    "planning",
    "planning_of",
    "reheat",
    "replanned",
    "scale_expected",
    "scale_share",
    "sequence",
    "sequenced",
    "sizes_now",
    "staged",
    "staged_parts",
    "stations_of",
    "thin_note",
    "ties",
    "unpinned",
]  # fmt: skip
