"""What the log teaches, and how far a plan can be trusted."""

from long_ember.learning.lessons import RECALLED, Lesson, calibrated, lesson, made_before, overrun

__all__ = ["RECALLED", "Lesson", "calibrated", "lesson", "made_before", "overrun"]
