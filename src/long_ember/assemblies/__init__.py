"""Pieces that join: where they meet, what is between them, and how the whole balances."""

from long_ember.assemblies.fitting import Fit, fits, head_length
from long_ember.assemblies.joining import Assembled, Placed, assembled, meeting_places

__all__ = ["Assembled", "Fit", "Placed", "assembled", "fits", "head_length", "meeting_places"]
