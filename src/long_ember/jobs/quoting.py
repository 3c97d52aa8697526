"""What a job costs and earns: material with its waste, fire, consumables, hours, rejects, overheads; for one, a bundle and the batch."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import astuple, replace

from long_ember.errors import NoAnswer
from long_ember.frozen import dataclass
from long_ember.heats import fixtures
from long_ember.jobs.buying import SheetCut, sheet_cuts, sheet_money
from long_ember.jobs.cut_layout import laid
from long_ember.jobs.needs import Need, needs, needs_of_piece
from long_ember.jobs.problems import Holdings, PieceCount, counts_of, rules_of
from long_ember.records import Job, SavedBar, SavedCutList
from long_ember.sections import Section
from long_ember.units import many

__all__ = ["Cost", "Effort", "PiecePrice", "Quote", "about", "effort", "piece_prices", "quote", "value_of"]

_RIVET, _HANDLE = 4.0, 15.0  # min to set a rivet, peen a tenon or close a link, and to fit a handle; the judgement of this program
_MOST = 120  # pieces that a batch is simulated for; more go on at the pace of the last ones
_TAIL = 20
_WASTE = 0.08  # of a bar, for a piece that is priced alone


@dataclass(frozen=True, slots=True)
class Effort:
    """Hours for some pieces.

    Args:
        work: at fire, anvil and bench.
        fire: of fire.
        finishing: afterwards.
        least: how much less the work takes in the quickest of 20 such lots.
        most: how much more in the slowest.
    """

    work: float = 0.0
    fire: float = 0.0
    finishing: float = 0.0
    least: float = 0.0
    most: float = 0.0

    def __add__(self, other: Effort) -> Effort:
        return Effort(*(a + b for a, b in zip(astuple(self), astuple(other), strict=True)))

    @property
    def hours(self) -> float:
        """Hours of all that is worked."""
        return self.work + self.finishing


@dataclass(frozen=True, slots=True)
class Cost:
    """One line of a quote.

    Args:
        key: material, fuel, fittings, work, finishing, overheads, rejects.
        words: what it is.
        money: in the shop's money.
        how: the sum, in words.
    """

    key: str
    words: str
    money: float
    how: str


@dataclass(frozen=True)
class Quote:
    """A job in money.

    Args:
        costs: line by line.
        hours: of work, rejects counted.
        fire: hours of fire.
        least: hours if it goes well: 9 of 10 such jobs lie between this and `most`.
        most: hours if it does not.
        own: money for the smith's hours, which earnings are reckoned without.
        steady: money that does not depend on the hours: steel, fittings.
        margin: share put on top.
        asked: for the whole job; 0: nothing was asked yet.
        unknown: what has no price, in words.
    """

    costs: tuple[Cost, ...]
    hours: float
    fire: float
    least: float
    most: float
    own: float
    steady: float
    margin: float
    asked: float
    unknown: tuple[str, ...]

    @property
    def cost(self) -> float:
        """Money for all of it."""
        return math.fsum(c.money for c in self.costs)

    @property
    def price(self) -> float:
        """Money, with the margin on top."""
        return self.cost * (1 + self.margin)

    @property
    def spent(self) -> float:
        """What is paid out to others: everything but the smith's own hours. Below it the job loses money."""
        return self.cost - self.own

    def at(self, money: float, hours: float) -> float:
        """A cost, if the job takes so many hours: fire, work and overheads grow with them."""
        return self.steady + (money - self.steady) * hours / self.hours if self.hours else money

    def between(self, money: float) -> tuple[float, float]:
        """Money for a cost if it goes well, and if it does not."""
        return self.at(money, self.least), self.at(money, self.most)

    def spread(self, money: float) -> str:
        """A cost with how far it may go, in words."""
        low, high = (about(x) for x in self.between(money))
        return f"about {about(money)}" if low == high else f"about {about(money)}, between {low} and {high}"

    def hourly(self, price: float, hours: float | None = None) -> float:
        """Earned for an hour's work at a price, if the job takes so many hours; 0 where no hour is known."""
        hours = self.hours if hours is None else hours
        return (price - self.at(self.spent, hours)) / hours if hours else 0.0


def about(money: float) -> str:
    """An estimate in money, to three figures.

    >>> about(291.86), about(1234.5), about(4.567)
    ('292', '1,230', '4.57')
    """
    if not money:
        return "0"
    digits = 2 - math.floor(math.log10(abs(money)))
    return f"{round(money, min(digits, 2)):,.{min(max(digits, 0), 2)}f}"


def value_of(material: str, section: Section, holdings: Holdings, *, rise: float = 0.0) -> float:
    """Money for a mm of bar: the cheapest that it is sold at, 0 where nobody knows.

    Args:
        material: key.
        section: of the bar.
        holdings: with the catalogue.
        rise: share by which bars become dearer.
    """
    rates = [p.price / p.length for p in holdings.prices if (p.material, p.section) == (material, section) and p.sold and p.price]
    return min(rates, default=0.0) * (1 + rise)


def material_money(bars: Iterable[SavedBar], job_id: str, holdings: Holdings, *, rise: float = 0.0) -> tuple[float, float, tuple[str, ...]]:
    """Money for a job's part of bars, by the length of its pieces on each, how much of it is waste, and what has no price.

    Bought bars cost their price and rack bars what they would cost to buy; what goes back to the rack is worth as much a mm as a new bar.
    """
    rules, money, waste, unknown = rules_of(holdings.shop), [], [], []
    for bar in bars:
        length = math.fsum(c.length for c in bar.cuts)
        mine = math.fsum(c.length for c in bar.cuts if c.job == job_id)
        if not mine:
            continue
        value = value_of(bar.material, bar.section, holdings, rise=rise)
        rate = bar.price * (1 + rise) / bar.length if bar.price and not bar.rack else value
        if not rate:
            unknown.append(f"{bar.section.label(holdings.shop.measure)}: no price in the catalogue")
            continue
        lay = laid(bar, rules)
        spent = rate * (bar.length - (lay.left if lay.keep else 0.0)) * mine / length
        money.append(spent)
        waste.append(spent - rate * mine)
    return math.fsum(money), math.fsum(waste), tuple(dict.fromkeys(unknown))


def effort(piece_id: str, number: int, holdings: Holdings) -> Effort:
    """Hours for so many of a piece: fire and anvil as a batch in the shop's rhythm, sawing, measuring and finish; waits cost nobody's time.

    The times are the sequence's, as the log has corrected them: heats by heats that were counted, minutes by minutes. Whoever has made the piece
    before is faster; 9 of 10 such lots lie within `least` and `most`.

    Args:
        piece_id: of the piece.
        number: how many.
        holdings: with the shop, its log and the piece.
    """
    if number < 1:
        return Effort()
    made, forging = _made(piece_id, number, holdings)
    low, high = holdings.answer(piece_id).plan.stretch(number)
    return replace(made, least=forging * (1 - low) / 3600, most=forging * (high - 1) / 3600)


def _made(piece_id: str, number: int, holdings: Holdings) -> tuple[Effort, float]:
    """The likely hours for so many of a piece, and the s of them at fire and anvil; kept with its plan, as a quote asks for them at every key."""
    plan = holdings.answer(piece_id).plan
    kept: dict[tuple[int, float], tuple[Effort, float]] = plan.__dict__.setdefault("_efforts", {})
    key = number, holdings.shop.finishing
    if key not in kept:
        kept[key] = _reckoned(piece_id, number, holdings)
    return kept[key]


def _reckoned(piece_id: str, number: int, holdings: Holdings) -> tuple[Effort, float]:
    plan = holdings.answer(piece_id).plan
    around = math.fsum(e.seconds for e in plan.errands if not e.waits) * number
    total, fire = holdings.batch(piece_id, min(number, _MOST))
    if number > _MOST:
        few = holdings.batch(piece_id, _MOST - _TAIL)
        each = tuple((a - b) / _TAIL for a, b in zip((total, fire), few, strict=True))
        total, fire = total + each[0] * (number - _MOST), fire + each[1] * (number - _MOST)
    set_up = math.fsum(w.fixture.minutes * 60 for w in fixtures(plan, number) if w.pays)
    saved = math.fsum(w.saved * 60 for w in fixtures(plan, number) if w.pays)
    forging = max(total - saved, total / 2)
    work = forging + around + set_up
    return Effort(work / 3600, fire / 3600, holdings.shop.finishing * number / 60), forging


def quote(job_id: str, job: Job, holdings: Holdings, sheet: SavedCutList, *, rise: float = 0.0) -> Quote:
    """Reckon a job.

    Args:
        job_id: of the job, as on the cut list.
        job: what is wanted.
        holdings: what it draws on.
        sheet: its cut list, which other jobs may share.
        rise: share by which bars and sheets become dearer.

    Raises:
        NoAnswer: something the job asks for is not there.
    """
    shop, counts = holdings.shop, counts_of(job, holdings)
    planned = sheet.bars if sheet.state == "planned" else ()
    bars, waste, unknown = material_money((*holdings.sawn, *planned), job_id, holdings, rise=rise)
    sheets, unpriced = sheet_money(_sheets(job_id, job, holdings), shop.measure)
    steel = bars + sheets * (1 + rise)
    sold = _all_effort({i: c.sold for i, c in counts.items()}, holdings)
    begun = _all_effort({i: c.begun for i, c in counts.items()}, holdings)
    joining = _joining(job, holdings)
    found = needs(job, holdings)
    fittings, missing = _fittings_money(found)
    good = _good_share(counts, holdings)
    # What is rejected is not finished.
    work, fire = sold.work + joining, sold.fire
    hours = work + sold.finishing
    extra_work, extra_fire = max(0.0, begun.work - sold.work), max(0.0, begun.fire - sold.fire)
    rejects = steel * (1 - good) + extra_fire * shop.fuel + extra_work * (shop.hour + shop.overhead)
    share = f"{waste / bars:.1%} of the bars waste and saw cuts" if bars else "no bars"
    costs = (
        Cost("material", "Steel", steel * good, share),
        Cost("fuel", "Fire", fire * shop.fuel, f"{fire:.1f} h at {shop.fuel:,.2f} an hour"),
        Cost("fittings", "Fittings and consumables", fittings, many(sum(not n.once and n.kind != "other" for n in found), "kind")),
        Cost("work", "Work", work * shop.hour, f"{work:.1f} h at {shop.hour:,.2f} an hour"),
        Cost("finishing", "Finishing", sold.finishing * shop.hour, f"{sold.finishing:.1f} h at {shop.hour:,.2f} an hour"),
        Cost("overheads", "Overheads", hours * shop.overhead, f"{hours:.1f} h at {shop.overhead:,.2f} an hour"),
        Cost("rejects", "Rejects", rejects, f"{many(sum(c.begun - c.sold for c in counts.values()), 'piece')} begun besides"),
    )
    margin = shop.market if job.sale == "market" else shop.wholesale
    whole = hours + extra_work
    return Quote(costs, whole, fire + extra_fire, whole - begun.least, whole + begun.most, whole * shop.hour, steel + fittings, margin, job.asked,
                 (*unknown, *unpriced, *missing))  # fmt: skip


def _sheets(job_id: str, job: Job, holdings: Holdings) -> tuple[SheetCut, ...]:
    """A job's blanks on bought sheets: they are worth what those cost, whether they lie on the rack or not, and after they are cut."""
    whole = replace(holdings, sheared=frozenset())
    try:
        return sheet_cuts({job_id: job}, replace(whole, rack={}))
    except NoAnswer:  # larger than any that is sold: then it lies on the rack
        return sheet_cuts({job_id: job}, whole)


def _good_share(counts: dict[str, PieceCount], holdings: Holdings) -> float:
    """Share of the steel that is in pieces which are sold."""
    lengths = {i: holdings.answer(i).reckoning.cut for i in counts}
    begun = math.fsum(lengths[i] * c.begun for i, c in counts.items())
    return math.fsum(lengths[i] * c.sold for i, c in counts.items()) / begun if begun else 1.0


def _all_effort(numbers: dict[str, int], holdings: Holdings) -> Effort:
    found = Effort()
    for piece_id, number in numbers.items():
        found = found + effort(piece_id, number, holdings)
    return found


def _joining(job: Job, holdings: Holdings) -> float:
    """Hours to join the assemblies."""
    minutes = 0.0
    for row in job.sets:
        assembly = holdings.assemblies.get(row.assembly)
        if assembly is not None:
            minutes += int(row.quantity) * (_RIVET * len(assembly.joins) + (_HANDLE if assembly.handle != "none" else 0.0))
    return minutes / 60


def _fittings_money(found: Iterable[Need]) -> tuple[float, list[str]]:
    """Money for what stays on the work or is used up, and what has no price. Bits, mandrels and jigs are kept: they are overheads."""
    used = [n for n in found if not n.once and n.kind != "other"]
    return math.fsum(n.money for n in used), [f"{n.name}: no price in the stores" for n in used if not n.price]


@dataclass(frozen=True, slots=True)
class PiecePrice:
    """What one of a piece is sold at, alone, in a bundle and in this job.

    Args:
        piece: id.
        name: of the piece.
        one: alone.
        bundle: each of so many.
        batch: each of as many as the job wants.
        number: that the job wants.
    """

    piece: str
    name: str
    one: float
    bundle: float
    batch: float
    number: int


def piece_prices(job: Job, holdings: Holdings, *, rise: float = 0.0) -> tuple[PiecePrice, ...]:
    """Prices of every piece of a job by itself; joining, fittings of the job and sheet are in the quote.

    Args:
        job: what is wanted.
        holdings: what it draws on.
        rise: share by which bars become dearer.
    """
    found = []
    for piece_id, count in counts_of(job, holdings).items():
        if count.sold:
            one, bundle, many = (_each(piece_id, n, job, holdings, rise) for n in (1, int(job.bundle), count.sold))
            found.append(PiecePrice(piece_id, holdings.piece(piece_id).name, one, bundle, many, count.sold))
    return tuple(found)


def _each(piece_id: str, number: int, job: Job, holdings: Holdings, rise: float) -> float:
    """Price of one of so many: the spares for rejects are spread over them as a share, not in whole pieces."""
    shop, piece = holdings.shop, holdings.piece(piece_id)
    begun = 1 / (1 - job.rejects)
    steel = (holdings.answer(piece_id).reckoning.cut + shop.kerf) * value_of(piece.material, piece.bar, holdings, rise=rise) * (1 + _WASTE)
    took, _forging = _made(piece_id, number, holdings)
    used, _missing = _fittings_money(needs_of_piece(piece_id, number, holdings))
    each = (took.fire * shop.fuel + took.hours * (shop.hour + shop.overhead)) / number
    margin = shop.market if job.sale == "market" else shop.wholesale
    return ((steel + each) * begun + used / number) * (1 + margin)
