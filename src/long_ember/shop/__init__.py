"""The shop: its habits, kit and smiths, and what it keeps."""

from long_ember.shop.kit import KIT, missing_tools, tool_words
from long_ember.shop.records import RECORDS, Job, JobLine, Price, RackItem, Record, record_kind
from long_ember.shop.settings import RECENT, Settings
from long_ember.shop.shop import DENOMINATORS, STARTING, Shop, Smith

__all__ = [
    "DENOMINATORS", "KIT", "RECENT", "RECORDS", "STARTING", "Job", "JobLine", "Price", "RackItem", "Record", "Settings", "Shop", "Smith",
    "missing_tools", "record_kind", "tool_words",
]  # fmt: skip
