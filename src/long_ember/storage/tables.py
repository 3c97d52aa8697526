"""Rack, prices and log as CSV: written plainly, read from whatever a spreadsheet makes of it, refused by line and column."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable
from pathlib import Path
from typing import Any

from long_ember.errors import EmberError, FileProblem, PieceFileError
from long_ember.fields import Field, specs
from long_ember.frozen import dataclass
from long_ember.records import LogEntry, Price, RackItem
from long_ember.storage.book import new_id
from long_ember.storage.parcel import Parcel
from long_ember.units import Measure

__all__ = ["TABLES", "read_table", "table_csv"]

_LARGEST = 4_000_000  # bytes
_MOST_ROWS = 20_000
_MOST_PROBLEMS = 30
TABLES: dict[str, type[RackItem] | type[Price] | type[LogEntry]] = {"rack": RackItem, "price": Price, "log": LogEntry}
# What an entry of the log says in a table; its sizes, rejects and what it is held against travel as JSON.
_LOGGED = (
    "piece", "name", "number", "day", "heats", "minutes", "good", "came", "off", "over_all", "sawn", "blank", "mass", "smith", "fire",
    "planned_heats", "planned_minutes", "note",
)  # fmt: skip
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
    "piece": ("piece id", "id"),
    "name": ("piece", "name"),
    "number": ("which of its kind", "no", "no."),
    "day": ("day", "date", "forged"),
    "heats": ("heats",),
    "minutes": ("minutes", "min", "time"),
    "good": ("good", "good ones"),
    "came": ("it came", "came"),
    "off": ("by", "off"),
    "over_all": ("length along it", "over all"),
    "sawn": ("sawn", "sawn at"),
    "blank": ("bar before", "bar before g", "blank"),
    "mass": ("piece after", "piece after g", "mass"),
    "smith": ("smith",),
    "fire": ("fire",),
    "planned_heats": ("heats planned",),
    "planned_minutes": ("minutes planned",),
    "note": ("note", "how it came out"),
}
_NEEDED = {"rack": ("section", "length"), "price": ("section", "length", "price"), "log": ("name", "heats")}
_UNIT = re.compile(r"[\[(/,]?\s*\b(mm|cm|m|in|inch|inches|ft|feet)\b\.?\s*[\])]?$")
_DECIMAL = re.compile(r"\s*[\d.]*\d,\d+\s*[a-z%\"]*\s*")
_SURELY_DECIMAL = re.compile(r"\s*\d+,(\d|\d\d|\d{4,})\s*[a-z%\"]*\s*")
_UNITS = {"inch": "in", "inches": "in", "feet": "ft"}


def _fields_of(kind: str) -> dict[str, Field]:
    known = specs(TABLES[kind])
    return {name: known[name] for name in _LOGGED} if kind == "log" else known


def table_csv(records: Iterable[RackItem | Price | LogEntry], kind: str, measure: Measure) -> str:
    """A table with a head; lengths in mm or decimal inches, the unit in the head."""
    wanted = _fields_of(kind)
    target = io.StringIO()
    writer = csv.writer(target, lineterminator="\r\n")
    heads = ((_NAMES[name][0], spec.head(measure)) for name, spec in wanted.items())
    writer.writerow([f"{name} ({unit})" if unit else name for name, unit in heads])
    for record in records:
        writer.writerow([spec.cell(getattr(record, name), measure) for name, spec in wanted.items()])
    return target.getvalue()


@dataclass(frozen=True)
class _Column:
    """Where a field stands, and the unit its head names."""

    index: int
    name: str
    head: str
    unit: str


def read_table(path: Path, measure: Measure) -> Parcel:
    """Rack, prices or log from a CSV file.

    Args:
        path: of the file; with a heats column it holds a log, with a price column prices, without either the rack.
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
    needed = _NEEDED["log"] if kind == "log" else _NEEDED["price"]
    # Between commas a quoted 1,500 may be a thousand and a half or fifteen hundred: only 1,5 shows that commas are decimal.
    sign = _DECIMAL if mark != "," else _SURELY_DECIMAL
    comma = any(sign.fullmatch(cell) for _i, row in rows[1:] for cell in row)
    problems: list[FileProblem] = []
    found: list[tuple[str, RackItem | Price | LogEntry]] = []
    for line, row in rows[1:]:
        values = {
            c.name: v for c in columns for v in [_cell(row, line, c, TABLES[kind], measure, comma, problems, needed)] if v is not None
        }
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
    names = {c.name for c in found}
    kind = "log" if "heats" in names else "price" if "price" in names else "rack"
    missing = [n for n in _NEEDED[kind] if all(c.name != n for c in found)]
    if missing:
        seen = f" Seen, and not understood: {', '.join(unknown[:8])}." if unknown else ""
        raise _fault(f"line {line}", f"no column is called {' or '.join(repr(m) for m in missing)}.{seen}")
    wanted = _fields_of(kind)
    return [c for c in found if c.name in wanted], kind


def _cell(row: list[str], line: int, column: _Column, cls: Any, measure: Measure, comma: bool, problems: list[FileProblem],
          needed: tuple[str, ...]) -> Any:  # fmt: skip
    """A cell's value; None, with the fault noted, when it can't be read."""
    spec = specs(cls)[column.name]
    text = row[column.index].strip() if column.index < len(row) else ""
    if not text:
        if column.name in needed:
            problems.append(FileProblem(f"line {line}, column {column.head!r}", "is empty"))
            return None
        return getattr(cls(), column.name)
    try:
        return spec.from_cell(text, column.unit or measure.unit, comma)
    except EmberError as error:
        problems.append(FileProblem(f"line {line}, column {column.head!r}", f"{text[:60]!r}: {error}"))
        return None
