"""Stock: volumes into cut length, allowances and doubt, marks, mass."""

from long_ember.stock.doubt import Safe, first_order, forged_doubts, safe_length
from long_ember.stock.marks import HOT, Mark, marks
from long_ember.stock.reckoning import Doubt, Reckoning, Zone, reckon, round_up, with_scale

__all__ = [
    "HOT", "Doubt", "Mark", "Reckoning", "Safe", "Zone", "first_order", "forged_doubts", "marks", "reckon", "round_up", "safe_length", "with_scale",
]  # fmt: skip
