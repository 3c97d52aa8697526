"""Stock: volumes into cut length, allowances and doubt, marks, mass."""

from typing import TYPE_CHECKING

from long_ember.late import late
from long_ember.stock.believing import Influence, believed, influences, usual_figure, usual_of
from long_ember.stock.marking import HOT, Mark, chains, drawn_marks, marks
from long_ember.stock.reckoning import Doubt, Reckoning, Sawing, Zone, odds, reckon, round_up, with_scale

if TYPE_CHECKING:
    from long_ember.stock.doubt import doubt_shares, doubt_width, first_order
    from long_ember.stock.trial import Question, Trial, measured, questions, trial_piece
else:
    __getattr__ = late(
        __name__,
        {
            "doubt": ("doubt_shares", "doubt_width", "first_order"),
            "trial": ("Question", "Trial", "measured", "questions", "trial_piece"),
        },
    )

__all__ = [
    "HOT", "Doubt", "Influence", "Mark", "Question", "Reckoning", "Sawing", "Trial", "Zone", "believed", "chains", "doubt_shares", "doubt_width", "drawn_marks",
    "first_order", "influences", "marks", "measured", "odds", "questions", "reckon", "round_up", "trial_piece", "usual_figure", "usual_of", "with_scale",
]  # fmt: skip
