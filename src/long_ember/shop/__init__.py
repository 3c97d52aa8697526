"""The shop: its habits, kit and smiths, and what it keeps."""

from typing import TYPE_CHECKING

from long_ember.late import late
from long_ember.shop.assembly import HANDLES, JOINS, LETTERS, ROLES, Assembly, AssemblyPart, Join
from long_ember.shop.catalogue import OFFERS, catalogue, common_bars, is_sheet, mass_per_metre
from long_ember.shop.cutsheet import CutPiece, CutSheet, JobRef, SheetBar, promised_bars
from long_ember.shop.job import FITTINGS, Fitting, Job, JobBlank, JobLine, JobSet, StoreItem, spares
from long_ember.shop.kit import KIT, missing_tools, tool_words
from long_ember.shop.log import RECALLED, Lesson, LogEntry, calibrated, lesson, made_before, overrun
from long_ember.shop.order import OwnRule
from long_ember.shop.records import PLURALS, RECORDS, Price, RackItem, Record, pieces_of, record_kind, with_ids
from long_ember.shop.settings import RECENT, Settings
from long_ember.shop.shop import DENOMINATORS, STARTING, Shop, Smith

if TYPE_CHECKING:
    from long_ember.shop.choice import Candidate, Source, candidate_bars, chance_words, preferred, profile, rank
    from long_ember.shop.comparing import CAUTION, USES, halves, versus
    from long_ember.shop.fitting import Fit, fits, head_length
    from long_ember.shop.joining import Assembled, Placed, assembled, meeting_places
else:
    __getattr__ = late(
        __name__,
        {
            "choice": ("Candidate", "Source", "candidate_bars", "chance_words", "preferred", "profile", "promised_bars", "rank"),
            "comparing": ("CAUTION", "USES", "halves", "versus"),
            "fitting": ("Fit", "fits", "head_length"),
            "joining": ("Assembled", "Placed", "assembled", "meeting_places"),
        },
    )

__all__ = [
    "CAUTION",
    "DENOMINATORS",
    "FITTINGS",
    "HANDLES",
    "JOINS",
    "KIT",
    "LETTERS",
    "OFFERS",
    "PLURALS",
    "RECALLED",
    "RECENT",
    "RECORDS",
    "ROLES",
    "STARTING",
    "USES",
    "Assembled",
    "Assembly",
    "AssemblyPart",
    "Candidate",
    "CutPiece",
    "CutSheet",
    "Fit",
    "Fitting",
    "Job",
    "JobBlank",
    "JobLine",
    "JobRef",
    "JobSet",
    "Join",
    "Lesson",
    "LogEntry",
    "OwnRule",
    "Placed",
    "Price",
    "RackItem",
    "Record",
    "Settings",
    "SheetBar",
    "Shop",
    "Smith",
    "Source",
    "StoreItem",
    "assembled",
    "calibrated",
    "candidate_bars",
    "catalogue",
    "chance_words",
    "common_bars",
    "fits",
    "halves",
    "head_length",
    "is_sheet",
    "lesson",
    "made_before",
    "mass_per_metre",
    "meeting_places",
    "missing_tools",
    "overrun",
    "pieces_of",
    "preferred",
    "profile",
    "promised_bars",
    "rank",
    "record_kind",
    "spares",
    "tool_words",
    "versus",
    "with_ids",
]  # fmt: skip
