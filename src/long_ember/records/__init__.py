"""What a book keeps, as declared: the shop, and every kind of record. Nothing is reckoned here."""

from long_ember.records.assembly import HANDLES, JOINS, LETTERS, ROLES, Assembly, AssemblyPart, Join
from long_ember.records.cutlist import CutPiece, JobRef, SavedBar, SavedCutList, promised_bars, sawn_lengths
from long_ember.records.forging import PHASES, Forging, Iron
from long_ember.records.job import FITTINGS, Fitting, Job, JobBlank, JobLine, JobSet, StoreItem, spares
from long_ember.records.kit import KIT, holder_words, missing_tools, tool_words
from long_ember.records.log import CAUSES, Basis, Lean, LogEntry, Manner, Pictured, Reject, Sized, Told
from long_ember.records.order import OwnRule
from long_ember.records.rack import OFFERS, PLURALS, RECORDS, Price, RackItem, Record, kind_of, pieces_of, record_kind, with_ids
from long_ember.records.settings import RECENT, Settings
from long_ember.records.shop import DENOMINATORS, STARTING, Shop, Smith
from long_ember.records.start import FAMILIES, Start, StartSize

__all__ = [
    "CAUSES",
    "DENOMINATORS",
    "FAMILIES",
    "FITTINGS",
    "HANDLES",
    "JOINS",
    "KIT",
    "LETTERS",
    "OFFERS",
    "PHASES",
    "PLURALS",
    "RECENT",
    "RECORDS",
    "ROLES",
    "STARTING",
    "Assembly",
    "AssemblyPart",
    "Basis",
    "CutPiece",
    "Fitting",
    "Forging",
    "Iron",
    "Job",
    "JobBlank",
    "JobLine",
    "JobRef",
    "JobSet",
    "Join",
    "Lean",
    "LogEntry",
    "Manner",
    "OwnRule",
    "Pictured",
    "Price",
    "RackItem",
    "Record",
    "Reject",
    "SavedBar",
    "SavedCutList",
    "Settings",
    "Shop",
    "Sized",
    "Smith",
    "Start",
    "StartSize",
    "StoreItem",
    "Told",
    "holder_words",
    "kind_of",
    "missing_tools",
    "pieces_of",
    "promised_bars",
    "record_kind",
    "sawn_lengths",
    "spares",
    "tool_words",
    "with_ids",
]  # fmt: skip
