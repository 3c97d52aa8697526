"""Cut lists."""

from long_ember.cutting.plan import LATTICE, CutBar, CutList, cut_list, first_fit

__all__ = ["LATTICE", "CutBar", "CutList", "cut_list", "first_fit"]
