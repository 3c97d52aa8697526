"""Which bar: sizes that are sold, every bar that would do with its reasons, and a piece held against a known one."""

from typing import TYPE_CHECKING

from long_ember.choosing.sizes import catalogue, common_bars, is_sheet, mass_per_metre
from long_ember.late import late

if TYPE_CHECKING:
    from long_ember.choosing.choice import Candidate, Source, candidate_bars, chance_words, in_hand, preferred, profiled, rank, ranked
    from long_ember.choosing.comparing import CAUTION, USES, halves, versus
else:
    __getattr__ = late(
        __name__,
        {
            "choice": ("Candidate", "Source", "candidate_bars", "chance_words", "in_hand", "preferred", "profiled", "rank", "ranked"),
            "comparing": ("CAUTION", "USES", "halves", "versus"),
        },
    )

__all__ = [
    "CAUTION",
    "USES",
    "Candidate",
    "Source",
    "candidate_bars",
    "catalogue",
    "chance_words",
    "common_bars",
    "halves",
    "in_hand",
    "is_sheet",
    "mass_per_metre",
    "preferred",
    "profiled",
    "rank",
    "ranked",
    "versus",
]  # fmt: skip
