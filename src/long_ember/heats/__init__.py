"""Operations, order rules, and the heat-by-heat sequence."""

from long_ember.heats.cautions import cautions
from long_ember.heats.operations import HOT_LIMIT, Step, steps
from long_ember.heats.rules import RULES, Rule, Tie, Ties, ties
from long_ember.heats.sequence import Heat, Sequence, Work, sequence

__all__ = ["HOT_LIMIT", "RULES", "Heat", "Rule", "Sequence", "Step", "Tie", "Ties", "Work", "cautions", "sequence", "steps", "ties"]
