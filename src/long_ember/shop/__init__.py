"""The shop: its habits, kit and smiths, and what it keeps."""

from long_ember.shop.catalogue import OFFERS, common_bars, mass_per_metre
from long_ember.shop.choice import Candidate, Source, candidate_bars, preferred, rank
from long_ember.shop.kit import KIT, missing_tools, tool_words
from long_ember.shop.records import RECORDS, Job, JobLine, Price, RackItem, Record, record_kind
from long_ember.shop.settings import RECENT, Settings
from long_ember.shop.shop import DENOMINATORS, STARTING, Shop, Smith

__all__ = [
    "DENOMINATORS", "KIT", "OFFERS", "RECENT", "RECORDS", "STARTING", "Candidate", "Job", "JobLine", "Price", "RackItem", "Record", "Settings", "Shop", "Smith", "Source", "candidate_bars", "common_bars", "mass_per_metre",
    "missing_tools", "preferred", "rank", "record_kind", "tool_words",
]  # fmt: skip
