"""Stock: volumes into cut length, allowances, marks, mass."""

from long_ember.stock.marks import HOT, Mark, marks
from long_ember.stock.reckoning import Doubt, Reckoning, Zone, reckon, round_up, with_scale

__all__ = ["HOT", "Doubt", "Mark", "Reckoning", "Zone", "marks", "reckon", "round_up", "with_scale"]
