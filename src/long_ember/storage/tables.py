"""Rack and prices as CSV: written plainly, read from whatever a spreadsheet makes of it, refused by line and column."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from long_ember.document import read_value, show_value
from long_ember.errors import EmberError, FileProblem, PieceFileError
from long_ember.features import FieldSpec, specs
from long_ember.materials import MATERIALS
from long_ember.plain import cell, clean
from long_ember.records import Price, RackItem
from long_ember.storage.book import new_id
from long_ember.storage.parcel import Parcel
from long_ember.units import MM_PER, Measure

__all__ = ["TABLES", "read_table", "table_csv"]

_LARGEST = 4_000_000  # bytes
_MOST_ROWS = 20_000
_MOST_PROBLEMS = 30
TABLES: dict[str, type[RackItem] | type[Price]] = {"rack": RackItem, "price": Price}
_NAMES = {
    "material": ("material", "steel", "metal", "grade"),
    "section": ("section", "bar", "size", "stock", "profile", "dimension"),
    "length": ("length", "bar length", "long"),
    "count": ("count", "quantity", "qty", "pieces", "number", "pcs"),
    "source": ("kind", "type", "source"),
    "place": ("place", "location", "where", "bin", "shelf"),
    "price": ("price", "cost", "price per bar", "each"),
    "seller": ("seller", "supplier", "shop", "dealer", "vendor"),
    "sold": ("sold", "sold here", "available"),
}
_NEEDED = {"rack": ("section", "length"), "price": ("section", "length", "price")}
_UNIT = re.compile(r"[\[(/,]?\s*\b(mm|cm|m|in|inch|inches|ft|feet)\b\.?\s*[\])]?$")
_DECIMAL = re.compile(r"\s*[\d.]*\d,\d+\s*[a-z%\"]*\s*")
_SURELY_DECIMAL = re.compile(r"\s*\d+,(\d|\d\d|\d{4,})\s*[a-z%\"]*\s*")
_UNITS = {"inch": "in", "inches": "in", "feet": "ft"}


def table_csv(records: Iterable[RackItem | Price], kind: str, measure: Measure) -> str:
    """A table with a head; lengths in mm or decimal inches, the unit in the head."""
    wanted = specs(TABLES[kind])
    target = io.StringIO()
    writer = csv.writer(target, lineterminator="\r\n")
    writer.writerow([f"{_NAMES[name][0]} ({measure.unit})" if spec.kind == "length" else _NAMES[name][0] for name, spec in wanted.items()])
    for record in records:
        writer.writerow([_cell_out(spec, getattr(record, name), measure) for name, spec in wanted.items()])
    return target.getvalue()


def _cell_out(spec: FieldSpec, value: Any, measure: Measure) -> str:
    if spec.kind == "length":
        return f"{value / MM_PER[measure.unit]:.6f}".rstrip("0").rstrip(".")
    if spec.kind == "number":
        return f"{value:.10g}"
    if spec.kind == "text":
        return cell(str(value))
    return show_value(spec, value, Measure("mm", ascii=True))


@dataclass(frozen=True)
class _Column:
    """Where a field stands, and the unit its head names."""

    index: int
    name: str
    head: str
    unit: str


def read_table(path: Path, measure: Measure) -> Parcel:
    """Rack or prices from a CSV file.

    Args:
        path: of the file; with a price column it holds prices, without one the rack.
        measure: its unit holds for lengths whose head and cell name none.

    Raises:
        PieceFileError: with every fault by line and column; nothing is half read.
    """
    try:
        with path.open("rb") as file:
            content = file.read(_LARGEST + 1)
    except OSError as error:
        raise PieceFileError(str(path), (FileProblem("$", error.strerror or str(error)),)) from error
    if len(content) > _LARGEST:
        raise PieceFileError(str(path), (FileProblem("$", f"is larger than {_LARGEST // 1_000_000} MB"),))
    try:
        return _read(_decoded(content), measure)
    except _Faults as faults:
        raise PieceFileError(str(path), tuple(faults.found)) from None


class _Faults(Exception):
    def __init__(self, found: list[FileProblem]) -> None:
        self.found = found


def _fault(where: str, message: str) -> _Faults:
    return _Faults([FileProblem(where, message)])


def _decoded(content: bytes) -> str:
    wide = content[:2] in (b"\xff\xfe", b"\xfe\xff")
    for encoding in ("utf-16",) if wide else ("utf-8-sig", "cp1252"):  # the last is what older spreadsheets write
        try:
            text = content.decode(encoding)
        except UnicodeDecodeError:
            continue
        if "\0" not in text:
            return text
    raise _fault("$", "is no text: save it as CSV, UTF-8, from the spreadsheet")


def _read(text: str, measure: Measure) -> Parcel:
    first = next((line for line in text.splitlines() if line.strip()), "")
    mark = max(";\t,|", key=first.count)
    try:
        rows = [
            (i, row)
            for i, row in enumerate(csv.reader(io.StringIO(text, newline=""), delimiter=mark, skipinitialspace=True), 1)
            if any(c.strip() for c in row)
        ]
    except csv.Error as error:
        raise _fault("$", f"is no CSV: {error}") from error
    if not rows:
        raise _fault("$", "is empty: the first line must name the columns, for example section; length (mm); count")
    if len(rows) > _MOST_ROWS:
        raise _fault("$", f"has more than {_MOST_ROWS} lines")
    columns, kind = _columns(rows[0][1], rows[0][0])
    # Between commas a quoted 1,500 may be a thousand and a half or fifteen hundred: only 1,5 shows that commas are decimal.
    sign = _DECIMAL if mark != "," else _SURELY_DECIMAL
    comma = any(sign.fullmatch(cell) for _i, row in rows[1:] for cell in row)
    problems: list[FileProblem] = []
    found: list[tuple[str, RackItem | Price]] = []
    for line, row in rows[1:]:
        values = {c.name: v for c in columns for v in [_cell(row, line, c, TABLES[kind], measure, comma, problems)] if v is not None}
        if len(problems) > _MOST_PROBLEMS:
            problems.append(FileProblem("$", "and more of the same; the rest was not looked at"))
            break
        if len(values) == len(columns):
            found.append((new_id(), TABLES[kind](**values)))
    if problems:
        raise _Faults(problems)
    return Parcel(records=tuple(found))


def _columns(heads: list[str], line: int) -> tuple[list[_Column], str]:
    found: list[_Column] = []
    unknown: list[str] = []
    for index, head in enumerate(heads):
        words = " ".join(head.lower().replace("_", " ").split())
        unit = _UNIT.search(words)
        bare = words[: unit.start()].strip(" ([,/") if unit and unit.start() else words
        name = next((field for field, names in _NAMES.items() if bare in names), None)
        if name and any(c.name == name for c in found):
            raise _fault(f"line {line}, column {head.strip()!r}", f"is the second column for the {name}")
        if name:
            found.append(_Column(index, name, head.strip(), _UNITS.get(unit[1], unit[1]) if unit else ""))
        elif words:
            unknown.append(head.strip())
    kind = "price" if any(c.name == "price" for c in found) else "rack"
    missing = [n for n in _NEEDED[kind] if all(c.name != n for c in found)]
    if missing:
        seen = f" Seen, and not understood: {', '.join(unknown[:8])}." if unknown else ""
        raise _fault(f"line {line}", f"no column is called {' or '.join(repr(m) for m in missing)}.{seen}")
    wanted = specs(TABLES[kind])
    return [c for c in found if c.name in wanted], kind


def _cell(row: list[str], line: int, column: _Column, cls: Any, measure: Measure, comma: bool, problems: list[FileProblem]) -> Any:
    """A cell's value; None, with the fault noted, when it can't be read."""
    spec = specs(cls)[column.name]
    text = row[column.index].strip() if column.index < len(row) else ""
    if not text and spec.kind not in ("text",):
        if column.name in _NEEDED["price"]:
            problems.append(FileProblem(f"line {line}, column {column.head!r}", "is empty"))
            return None
        return _default(cls, column.name)
    try:
        return _value(spec, column, text, measure, comma)
    except EmberError as error:
        problems.append(FileProblem(f"line {line}, column {column.head!r}", f"{text[:60]!r}: {error}"))
        return None


def _default(cls: Any, name: str) -> Any:
    return getattr(cls(), name)


def _value(spec: FieldSpec, column: _Column, text: str, measure: Measure, comma: bool) -> Any:
    if spec.kind == "text":
        return clean(text[1:] if text[:1] == "'" else text)
    if column.name == "material":
        key = next((m.key for m in MATERIALS.values() if text.lower() in (m.key, m.title.lower())), None)
        if key is None:
            raise EmberError("is no material we know: " + ", ".join(m.title.lower() for m in MATERIALS.values()))
        return key
    if spec.kind == "choice":
        text = text.lower()
    elif comma:
        text = _with_point(text)
    elif spec.kind == "number" and re.search(r"\d,\d", text):
        raise EmberError("a comma could be a decimal or a thousand: write it with a point, or separate the columns by semicolons")
    unit = column.unit or measure.unit
    if spec.kind == "length" and unit not in ("mm", "in") and re.fullmatch(r"[\d.]+", text):
        text = f"{text} {unit}"
    return read_value(spec, text, Measure(unit if unit in ("mm", "in") else measure.unit), 0.0)


def _with_point(text: str) -> str:
    """A number written with a decimal comma, in a table where others are."""
    if re.search(r"\d\.\d", text) and not re.search(r"\d,\d", text):
        raise EmberError("a point could be a decimal or a thousand, since other cells have decimal commas")
    if re.search(r"\d,\d", text):
        text = re.sub(r"(?<=\d)\.(?=\d{3}\b)", "", text)
        text = re.sub(r"(?<=\d),(?=\d)", ".", text)
    return text
