"""Stock: volumes into cut length, allowances and doubt, marks, mass."""

from typing import TYPE_CHECKING

from long_ember.late import late
from long_ember.stock.marking import HOT, Mark, drawn_marks, marks
from long_ember.stock.reckoning import Doubt, Reckoning, Zone, reckon, round_up, with_scale

if TYPE_CHECKING:
    from long_ember.stock.doubt import Safe, doubt_width, first_order, forged_doubts, safe_length
    from long_ember.stock.trial import Question, Trial, measured, questions, trial_piece
else:
    __getattr__ = late(
        __name__,
        {
            "doubt": ("Safe", "doubt_width", "drawn_marks", "first_order", "forged_doubts", "safe_length"),
            "trial": ("Question", "Trial", "measured", "questions", "trial_piece"),
        },
    )

__all__ = [
    "HOT", "Doubt", "Mark", "Question", "Reckoning", "Safe", "Trial", "Zone", "doubt_width", "drawn_marks", "first_order", "forged_doubts", "marks", "measured",
    "questions", "reckon", "round_up", "safe_length", "trial_piece", "with_scale",
]  # fmt: skip
