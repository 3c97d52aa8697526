"""What earlier versions wrote, as this one writes it; whatever is not recognised stays as it is, for the reader to refuse."""

from __future__ import annotations

import json
from collections.abc import Iterator
from typing import Any

from long_ember.errors import EntryError
from long_ember.features.spread import Spread
from long_ember.fields import parse_day, specs
from long_ember.records.kit import KIT, grown
from long_ember.units import Measure

__all__ = ["upgraded", "upgraded_piece", "upgraded_record", "upgraded_shop"]

_WIDTHS = specs(Spread)["widths"]
_USUAL = list(Spread.widths)
_WORDS = {"yes": True, "no": False, "apart": True, "may": False}


def _flags(data: Any, *names: str) -> None:
    """Words that meant yes or no, up to version 3 of the book."""
    for name in names:
        if isinstance(data, dict) and isinstance(data.get(name), str):
            data[name] = _WORDS.get(data[name], data[name])


def _rows(data: Any, name: str) -> Iterator[Any]:
    found = data.get(name) if isinstance(data, dict) else None
    return iter(found if isinstance(found, list) else ())


def _day(data: Any, name: str, words: str) -> None:
    """A day that was free text: what can't be read as one goes to the head of the note."""
    text = data.get(name) if isinstance(data, dict) else None
    if not isinstance(text, str):
        return
    data[name] = None
    if text.strip():
        try:
            data[name] = parse_day(text).isoformat()
        except EntryError:
            note = data.get("note")
            data["note"] = f"{words} {text.strip()}. {note if isinstance(note, str) else ''}".strip()


def upgraded_record(kind: str, data: Any) -> None:
    """A record of a book up to version 3, or of a parcel of version 1, changed in place."""
    if kind == "price":
        _flags(data, "sold")
    elif kind == "job":
        _day(data, "due", "Due")
    elif kind == "log":
        _day(data, "day", "Forged")
    elif kind == "cuts":
        for bar in _rows(data, "bars"):
            _flags(bar, "locked")
            for cut in _rows(bar, "cuts"):
                _flags(cut, "held", "sawn")


def upgraded_shop(data: Any) -> None:
    """A shop of the same time, changed in place."""
    _flags(data, "striker")
    if isinstance(data, dict) and isinstance(data.get("kit"), list) and all(isinstance(key, str) for key in data["kit"]):
        data["kit"] = [*grown(data["kit"]), *(key for key in data["kit"] if key not in KIT)]
    for rule in _rows(data, "rules"):
        _flags(rule, "apart")


def upgraded(kind: str, body: str) -> str:
    """The body of a record, or of the shop, as it is kept in a book."""
    try:
        data = json.loads(body)
    except ValueError:
        return body
    upgraded_shop(data) if kind == "shop" else upgraded_record(kind, data)
    return json.dumps(data, ensure_ascii=False)


def upgraded_piece(data: Any) -> None:
    """A piece file up to version 3, changed in place: measured widths were one text, in mm where it named no unit."""
    for feature in _features(data):
        widths = feature.get("widths")
        if feature.get("kind") == "spread" and isinstance(widths, str):
            try:
                feature["widths"] = list(_WIDTHS.parse(widths, Measure("mm"), 0.0)) or _USUAL
            except EntryError:  # it was kept, but could never be used: the outline was another one
                feature["widths"] = _USUAL


def _features(data: Any) -> Iterator[dict[str, Any]]:
    """Features of a piece or of a limb, and those of their limbs."""
    for name in ("features", "upper", "lower", "beyond", "own"):
        for feature in _rows(data, name):
            if isinstance(feature, dict):
                yield feature
                yield from _features(feature)
