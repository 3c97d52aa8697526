"""Cut lists."""

from typing import TYPE_CHECKING

from long_ember.cutting.plan import LATTICE, CutBar, CutList, cut_list, first_fit
from long_ember.late import late

if TYPE_CHECKING:
    from long_ember.cutting.fitting import fit
    from long_ember.cutting.problem import Bar, Problem, Rules, Supply, Wanted, verify
    from long_ember.cutting.search import CutPlan, best_cut, cutting
    from long_ember.cutting.sheets import Rect, Sheet, SheetPlan, placed
else:
    __getattr__ = late(
        __name__,
        {
            "fitting": ("fit",),
            "problem": ("Bar", "Problem", "Rules", "Supply", "Wanted", "verify"),
            "search": ("CutPlan", "best_cut", "cutting"),
            "sheets": ("Rect", "Sheet", "SheetPlan", "placed"),
        },
    )

__all__ = [
    "LATTICE", "Bar", "CutBar", "CutList", "CutPlan", "Problem", "Rect", "Rules", "Sheet", "SheetPlan", "Supply", "Wanted", "best_cut", "cut_list", "cutting", "first_fit", "fit", "placed", "verify",
]  # fmt: skip
