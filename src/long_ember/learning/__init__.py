"""What the log teaches, and how far a plan can be trusted."""

from typing import TYPE_CHECKING

from long_ember.late import late
from long_ember.learning.changes import changed, figure_words
from long_ember.learning.evidence import basis_of, heats_seen, planned_entry, seen_in
from long_ember.learning.experience import made_before, practised
from long_ember.learning.lessons import RECALLED, calibrated, reject_rate, taught

if TYPE_CHECKING:
    from long_ember.learning.counting import Tally, begin_for, tally
    from long_ember.learning.page import Lesson, Mover, Narrowing, Residual, lessons_of, movers, residuals, shrinking
    from long_ember.learning.sizes import measurable, told_by
    from long_ember.learning.trials import trial_entry
else:
    __getattr__ = late(
        __name__,
        {
            "counting": ("Tally", "begin_for", "tally"),
            "page": ("Lesson", "Mover", "Narrowing", "Residual", "lessons_of", "movers", "residuals", "shrinking"),
            "sizes": ("measurable", "told_by"),
            "trials": ("trial_entry",),
        },
    )

__all__ = [
    "RECALLED",
    "Lesson",
    "Mover",
    "Narrowing",
    "Residual",
    "Tally",
    "basis_of",
    "begin_for",
    "calibrated",
    "changed",
    "figure_words",
    "heats_seen",
    "lessons_of",
    "made_before",
    "measurable",
    "movers",
    "planned_entry",
    "practised",
    "reject_rate",
    "residuals",
    "seen_in",
    "shrinking",
    "tally",
    "taught",
    "told_by",
    "trial_entry",
]  # fmt: skip
