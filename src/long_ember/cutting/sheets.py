"""Rectangles on sheets, in rows across the sheet that a shear can follow; simple on purpose."""

from __future__ import annotations

import math
from collections.abc import Sequence

from long_ember.errors import NoAnswer
from long_ember.frozen import dataclass

__all__ = ["Lying", "Rect", "Sheet", "SheetPlan", "placed"]


@dataclass(frozen=True, slots=True)
class Rect:
    """Blanks of one size.

    Args:
        name: what they are.
        length: mm, along the sheet unless they are turned.
        width: mm.
        count: how many.
        turns: they may be turned by a quarter: no grain to mind.
    """

    name: str
    length: float
    width: float
    count: int
    turns: bool = True


@dataclass(frozen=True, slots=True)
class Sheet:
    """Sheets of one size.

    Args:
        name: where they come from.
        length: mm, along the grain.
        width: mm.
        price: of one; 0 where it is not known, or it lies on the rack.
        count: how many there are; None: as many as are bought.
        key: what the caller knows them by.
    """

    name: str
    length: float
    width: float
    price: float = 0.0
    count: int | None = None
    key: str = ""


@dataclass(frozen=True, slots=True)
class Lying:
    """One blank on its sheet: its corner nearest the origin, and its size along and across the sheet, mm."""

    name: str
    x: float
    y: float
    length: float
    width: float
    turned: bool


@dataclass(frozen=True)
class SheetPlan:
    """One sheet with its blanks.

    Args:
        sheet: it is cut from.
        blanks: where they lie.
        used: mm along the sheet that are cut into, margin counted; beyond it the sheet is whole.
    """

    sheet: Sheet
    blanks: tuple[Lying, ...]
    used: float

    @property
    def area(self) -> float:
        """In blanks, mm²."""
        return math.fsum(b.length * b.width for b in self.blanks)

    @property
    def waste(self) -> float:
        """Share of the part that is cut into which is in no blank."""
        return 1 - self.area / (self.used * self.sheet.width)

    @property
    def rest(self) -> float:
        """mm of whole sheet that are left."""
        return self.sheet.length - self.used


class _Row:
    """Blanks side by side across the sheet."""

    def __init__(self, x: float, deep: float) -> None:
        self.x, self.deep, self.y = x, deep, 0.0
        self.blanks: list[Lying] = []


class _Open:
    """A sheet that is being filled."""

    def __init__(self, sheet: Sheet, gap: float, margin: float) -> None:
        self.sheet, self.gap, self.margin = sheet, gap, margin
        self.rows: list[_Row] = []

    def put(self, name: str, length: float, width: float, turned: bool) -> bool:
        """Lay a blank into the first row that has room for it, or begin a row."""
        across = self.sheet.width - 2 * self.margin
        for row in self.rows:
            if length <= row.deep + 1e-9 and row.y + width <= across + 1e-9:
                return self._lay(row, name, length, width, turned)
        x = max((r.x + r.deep + self.gap for r in self.rows), default=self.margin)
        if x + length > self.sheet.length - self.margin + 1e-9 or width > across + 1e-9:
            return False
        self.rows.append(_Row(x, length))
        return self._lay(self.rows[-1], name, length, width, turned)

    def _lay(self, row: _Row, name: str, length: float, width: float, turned: bool) -> bool:
        row.blanks.append(Lying(name, row.x, self.margin + row.y, length, width, turned))
        row.y += width + self.gap
        return True

    def plan(self) -> SheetPlan:
        """As it is filled."""
        end = max(r.x + r.deep for r in self.rows) + self.gap
        return SheetPlan(self.sheet, tuple(b for r in self.rows for b in r.blanks), min(end, self.sheet.length))


def placed(rects: Sequence[Rect], sheets: Sequence[Sheet], *, gap: float = 2.0, margin: float = 5.0) -> tuple[SheetPlan, ...]:
    """Lay blanks on sheets, the deepest first, what lies on the rack before what is bought; the best of three ways to turn them.

    Args:
        rects: what is wanted.
        sheets: to lay them on, those with a count first.
        gap: mm lost between two blanks.
        margin: mm trimmed off each edge.

    Raises:
        NoAnswer: a blank is larger than any sheet, or the sheets there are do not hold all.
    """
    for r in rects:
        if not (r.length > 0 and r.width > 0 and r.count >= 0):
            raise NoAnswer(f"{r.name}: a blank needs a length and a width.", "Correct it.")
        if not any(_ways(r, s, margin) for s in sheets if s.count != 0):
            raise NoAnswer(f"{r.name} is larger than any sheet.", "Add a larger sheet, turn its grain free, or make it of two.")
    tries = [found for way in ("as-is", "shallow", "deep") if (found := _try(rects, sheets, gap, margin, way)) is not None]
    if not tries:
        raise NoAnswer("The sheets on the rack do not hold all blanks, and none is bought.", "Add a sheet to the catalogue, or make fewer.")
    return min(tries, key=lambda plan: (sum(p.sheet.price for p in plan), sum(p.used * p.sheet.width for p in plan)))


def _ways(rect: Rect, sheet: Sheet, margin: float) -> list[tuple[float, float, bool]]:
    """How a blank can lie on a sheet: along, across, turned."""
    ways = [(rect.length, rect.width, False), *([(rect.width, rect.length, True)] if rect.turns and rect.length != rect.width else [])]
    return [w for w in ways if w[0] <= sheet.length - 2 * margin + 1e-9 and w[1] <= sheet.width - 2 * margin + 1e-9]


def _try(rects: Sequence[Rect], sheets: Sequence[Sheet], gap: float, margin: float, way: str) -> tuple[SheetPlan, ...] | None:
    def turned(rect: Rect, sheet: Sheet) -> tuple[float, float, bool] | None:
        ways = _ways(rect, sheet, margin)
        if not ways:
            return None
        return ways[0] if way == "as-is" else min(ways, key=lambda w: w[0]) if way == "shallow" else max(ways, key=lambda w: w[0])

    left = [s.count for s in sheets]
    opened: list[_Open] = []

    def deepest(rect: Rect) -> float:
        either = (rect.length, rect.width) if rect.turns and way != "as-is" else (rect.length,)
        return min(either) if way == "shallow" else max(either)

    for rect in sorted(rects, key=lambda r: (-deepest(r), -r.width, r.name)):
        for _ in range(rect.count):
            if any((w := turned(rect, o.sheet)) is not None and o.put(rect.name, *w) for o in opened):
                continue
            able = [i for i, s in enumerate(sheets) if left[i] != 0 and turned(rect, s) is not None]
            if not able:
                return None
            i = min(able, key=lambda i: (left[i] is None, sheets[i].price, sheets[i].length * sheets[i].width))
            count = left[i]
            left[i] = None if count is None else count - 1
            opened.append(_Open(sheets[i], gap, margin))
            w = turned(rect, sheets[i])
            assert w is not None
            opened[-1].put(rect.name, *w)
    return tuple(o.plan() for o in opened)
