"""The starts that come with the program: a file like any that travels between books."""

from __future__ import annotations

from functools import cache
from pathlib import Path

from long_ember.records import Start
from long_ember.storage.parcel import read_parcel_file

__all__ = ["STARTS_FILE", "starts"]

STARTS_FILE = Path(__file__).parent.parent / "assets" / "starts.json"


@cache
def starts() -> tuple[Start, ...]:
    """In the order of their families."""
    return tuple(record for _identity, record in read_parcel_file(STARTS_FILE).records if isinstance(record, Start))
