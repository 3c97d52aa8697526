"""Operations, order rules, and the heat-by-heat sequence."""

from long_ember.heats.cautions import cautions
from long_ember.heats.operations import Bench, Step, steps
from long_ember.heats.rules import RULES, Rule, Tie, Ties, ties
from long_ember.heats.sequence import Heat, Sequence, Work, sequence

__all__ = ["RULES", "Bench", "Heat", "Rule", "Sequence", "Step", "Tie", "Ties", "Work", "cautions", "sequence", "steps", "ties"]
