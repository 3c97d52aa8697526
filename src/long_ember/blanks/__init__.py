"""Blanks from sheet and plate: cups, petals, plates, washers, strips with bends (computations, section 7)."""

from long_ember.blanks.base import Blank, Outline, round_edge
from long_ember.blanks.flatwork import BasePlate, BentStrip, Washer
from long_ember.blanks.hollow import Cup, Petals

__all__ = ["BLANKS", "BasePlate", "BentStrip", "Blank", "Cup", "Outline", "Petals", "Washer", "round_edge"]

# The one list of blanks: a new kind is a class and a name here.
BLANKS: dict[str, type[Blank]] = {cls.kind: cls for cls in (Cup, Petals, BasePlate, BentStrip, Washer)}
