"""The shopping list of jobs, and their blanks on sheets."""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterable, Mapping

from long_ember.choosing import is_sheet
from long_ember.cutting import Rect, Sheet, SheetPlan, placed
from long_ember.frozen import dataclass
from long_ember.jobs.needs import Need, needs
from long_ember.jobs.problems import Holdings
from long_ember.materials import MATERIALS
from long_ember.records import FITTINGS, Job, Price, RackItem, SavedCutList
from long_ember.units import Measure

__all__ = ["Purchase", "SheetCut", "purchases", "sheet_cuts", "sheet_money"]


@dataclass(frozen=True, slots=True)
class Purchase:
    """One line of the shopping list.

    Args:
        group: steel, sheet, or the kind of fitting in words.
        name: what.
        quantity: how many, or how much.
        unit: "" for pieces.
        price: of one; 0 where nobody said.
        seller: where.
        why: what it is for.
        rough: the quantity is a guess.
    """

    group: str
    name: str
    quantity: float
    unit: str
    price: float
    seller: str
    why: str
    rough: bool = False

    @property
    def money(self) -> float:
        """Money for all of it."""
        return self.quantity * self.price


@dataclass(frozen=True)
class SheetCut:
    """Blanks of one material and thickness on their sheets."""

    material: str
    thickness: float
    plans: tuple[SheetPlan, ...]

    @property
    def area(self) -> float:
        """In blanks, mm²."""
        return math.fsum(p.area for p in self.plans)

    @property
    def waste(self) -> float:
        """Share of what is cut into that is in no blank."""
        return 1 - self.area / math.fsum(p.used * p.sheet.width for p in self.plans)


def sheet_cuts(jobs: Mapping[str, Job], holdings: Holdings) -> tuple[SheetCut, ...]:
    """Blanks of jobs on what lies on the rack and what is sold: a sheet is a flat bar as wide as the sheet.

    Where the catalogue has no sheet of that thickness the shop's usual one is bought, without a price.

    Raises:
        NoAnswer: a blank is larger than any sheet.
    """
    wanted: dict[tuple[str, float], list[Rect]] = {}
    for job_id, job in jobs.items():
        for b in job.blanks if job_id not in holdings.sheared else ():
            wanted.setdefault((b.material, b.thickness), []).append(Rect(b.name, b.length, b.width, int(b.count), b.grain == "any"))
    shop = holdings.shop
    found = []
    for (material, thickness), rects in wanted.items():
        sheets = [
            Sheet(r.words, r.length, r.section.width, 0.0, holdings.free(i), i)
            for i, r in holdings.rack.items()
            if _of(r, material, thickness) and holdings.free(i)
        ]
        sold = [
            Sheet(p.seller or "bought", p.length, p.section.width, p.price)
            for p in holdings.prices
            if _of(p, material, thickness) and p.sold
        ]
        sheets += sold or [Sheet("bought", shop.sheet_length, shop.sheet_width)]
        found.append(SheetCut(material, thickness, placed(rects, sheets, gap=shop.kerf, margin=shop.margin_sheet)))
    return tuple(found)


def _of(item: RackItem | Price, material: str, thickness: float) -> bool:
    """It is a sheet of that material and thickness."""
    return is_sheet(item.section) and item.material == material and abs(item.section.thickness - thickness) < 0.01


def sheet_money(found: Iterable[SheetCut], m: Measure) -> tuple[float, tuple[str, ...]]:
    """Money for sheets, and which have no price; a rest of a third of a sheet or more goes back to the rack and is not charged."""
    money, unknown = [], []
    for cut in found:
        for plan in cut.plans:
            share = plan.used / plan.sheet.length
            money.append(plan.sheet.price * (share if share <= 2 / 3 else 1.0))
            if not plan.sheet.price:
                unknown.append(f"Sheet {m.length(cut.thickness)}: no price in the catalogue")
    return math.fsum(money), tuple(dict.fromkeys(unknown))


def purchases(jobs: Mapping[str, Job], holdings: Holdings, sheet: SavedCutList, sheets: Iterable[SheetCut]) -> tuple[Purchase, ...]:
    """What has to be bought: bars, sheets, and what the stores do not have.

    Args:
        jobs: by id.
        holdings: what they draw on.
        sheet: their cut list.
        sheets: their blanks of sheet.

    Raises:
        NoAnswer: something a job asks for is not there.
    """
    m = holdings.shop.measure
    found = []
    wanted = sheet.bars if sheet.state == "planned" else ()
    bars = Counter((b.material, b.section, b.length, b.price, b.source) for b in wanted if not b.rack)
    for (material, section, length, price, source), number in bars.items():
        name = f"{section.label(m)}, {MATERIALS[material].title.lower()}, {m.length(length)}"
        found.append(Purchase("steel", name, float(number), "", price, "" if source == "bought" else source, "bars"))
    for cut in sheets:
        bought = Counter(p.sheet for p in cut.plans if p.sheet.count is None)
        for one, number in bought.items():
            name = (
                f"Sheet {m.length(cut.thickness)}, {MATERIALS[cut.material].title.lower()}, {m.length(one.length)} by {m.length(one.width)}"
            )
            found.append(Purchase("sheet", name, float(number), "", one.price, "" if one.name == "bought" else one.name, "blanks"))
    for need in _all_needs(jobs, holdings):
        if need.to_buy:
            found.append(Purchase(FITTINGS[need.kind], need.name, need.to_buy, need.unit, need.price, "", need.why, need.rough))
    return tuple(found)


def _all_needs(jobs: Mapping[str, Job], holdings: Holdings) -> list[Need]:
    """Needs of all jobs; the stores are there once for all of them."""
    added: dict[tuple[str, str, str], list[Need]] = {}
    for job in jobs.values():
        for need in needs(job, holdings):
            added.setdefault((need.kind, need.name, need.unit), []).append(need)
    found = []
    for rows in added.values():
        one = rows[0]
        quantity = max(n.quantity for n in rows) if one.once or one.kind == "other" else math.fsum(n.quantity for n in rows)
        why = "; ".join(dict.fromkeys(n.why for n in rows))
        found.append(Need(one.name, one.kind, quantity, one.unit, one.price, why, one.there, one.minutes, one.rough))
    return found
