"""The cutting problems of jobs: their pieces by material and section, on what lies on the rack and what is sold."""

from __future__ import annotations

from collections import Counter
from collections.abc import Generator, Iterable, Mapping, Sequence
from dataclasses import field, replace
from functools import cached_property

from long_ember.cutting import Bar, CutPlan, Problem, Rules, Supply, Wanted
from long_ember.cutting.problem import OFFCUT, WHOLE
from long_ember.document.answering import Answer, quick_answering
from long_ember.errors import NoAnswer
from long_ember.features import Piece
from long_ember.features.cut import PartOff
from long_ember.frozen import dataclass
from long_ember.heats import ForgeSettings, batch
from long_ember.learning import practised
from long_ember.portions import all_portions
from long_ember.records import Assembly, CutPiece, Job, JobRef, LogEntry, Price, RackItem, SavedBar, SavedCutList, Shop, spares
from long_ember.sections import Section

__all__ = ["Cutting", "Holdings", "PieceCount", "counts_of", "how_good", "job_problems", "loss_of", "rules_of", "sheet_of"]


@dataclass(frozen=True)
class Holdings:
    """Everything a job draws on.

    Args:
        pieces: by id.
        assemblies: by id.
        rack: by id.
        prices: the catalogue.
        shop: ruler, saw cut, trim, what must be held, usual length, costs.
        forge: for the scale in the cut lengths, and for the times.
        log: how often a piece was made before.
        promised: bars of the rack, by id, that cut lists of other jobs count on.
        sawn: bars of cut lists that are finished: what is on them is not asked for again.
        sheared: ids of jobs whose blanks of sheet are cut.
    """

    pieces: Mapping[str, Piece]
    assemblies: Mapping[str, Assembly]
    rack: Mapping[str, RackItem]
    prices: Sequence[Price]
    shop: Shop
    forge: ForgeSettings
    log: Sequence[LogEntry] = ()
    promised: Mapping[str, int] = field(default_factory=dict)
    sawn: tuple[SavedBar, ...] = ()
    sheared: frozenset[str] = frozenset()
    _answers: dict[str, Answer] = field(default_factory=dict, repr=False, compare=False)

    @cached_property
    def done(self) -> Counter[tuple[str, str]]:
        """Blanks that are sawn already, by piece and job."""
        return Counter((c.piece, c.job) for bar in self.sawn for c in bar.cuts)

    def free(self, rack_id: str) -> int:
        """How many of a bar on the rack nobody else counts on."""
        return max(0, int(self.rack[rack_id].count) - self.promised.get(rack_id, 0))

    def piece(self, piece_id: str) -> Piece:
        """One of the pieces.

        Raises:
            NoAnswer: it is not there.
        """
        piece = self.pieces.get(piece_id)
        if piece is None:
            raise NoAnswer(f"The job asks for a piece that is not in the book: {piece_id}.", "Take its line out of the job.")
        return piece

    def answer(self, piece_id: str) -> Answer:
        """All that follows from one of the pieces, reckoned once.

        Raises:
            NoAnswer: it is not there, or has no features.
        """
        return all_portions(self.answering(piece_id))

    def answering(self, piece_id: str) -> Generator[None, None, Answer]:
        """The same in portions, see `answer`."""
        if piece_id not in self._answers:
            piece = self.piece(piece_id)
            if not piece.features:
                raise NoAnswer(
                    f"{piece.name} has no features yet, so it has no cut length.", "Add a feature to it, or take it out of the job."
                )
            self._answers[piece_id] = yield from _reckoning(
                piece, self.shop.division, replace(self.forge, practised=practised(self.log, self.shop.smith, piece_id))
            )
        return self._answers[piece_id]

    def batch(self, piece_id: str, number: int) -> tuple[float, float]:
        """Seconds that the smith is there for so many of a piece, in the shop's rhythm, and until the fire is no longer needed.

        Whoever has made the piece before is faster, as the log has it.
        """
        plan = self.answer(piece_id).plan
        kept: dict[int, tuple[float, float]] = plan.__dict__.setdefault("_batches", {})  # it hangs on nothing but the plan
        if number not in kept:
            rhythm = plan.forge.school(plan.piece.planning, "rhythm") or "piece"
            found = batch(plan, number, irons=min(plan.forge.irons, number), rhythm=rhythm)
            hot = [t.end for t in found.turns if not plan.packed[t.stage].cold]
            kept[number] = found.total, max(hot, default=0.0)
        return kept[number]


def _reckoning(piece: Piece, ruler: float, forge: ForgeSettings) -> Generator[None, None, Answer]:
    """The answer, kept with the piece for the shop at hand: a tick on the cut list changes nothing of it."""
    kept = piece.__dict__.get("_reckoned")
    if kept is None or kept[0] != ruler or not (kept[1] is forge or kept[1] == forge):
        kept = piece.__dict__["_reckoned"] = (ruler, forge, (yield from quick_answering(piece, ruler=ruler, forge=forge)))
    found: Answer = kept[2]
    return found


@dataclass(frozen=True, slots=True)
class PieceCount:
    """How many of a piece: wanted for the customer, and begun with those that will be rejected."""

    sold: int
    begun: int


def counts_of(job: Job, holdings: Holdings) -> dict[str, PieceCount]:
    """Pieces of a job by their ids, the parts of its assemblies among them.

    Raises:
        NoAnswer: an assembly is not there.
    """
    lines = [(line.piece, PieceCount(int(line.quantity), job.begun(line))) for line in job.lines]
    for row in job.sets:
        assembly = holdings.assemblies.get(row.assembly)
        if assembly is None:
            raise NoAnswer(f"The job asks for an assembly that is not in the book: {row.assembly}.", "Take its line out of the job.")
        many = int(row.quantity)
        for part in dict.fromkeys(p.piece for p in assembly.parts):
            number = many * sum(p.piece == part for p in assembly.parts)
            lines.append((part, PieceCount(number, number + spares(number, job.rejects))))
    found: dict[str, PieceCount] = {}
    for piece_id, count in lines:
        before = found.get(piece_id, PieceCount(0, 0))
        found[piece_id] = PieceCount(before.sold + count.sold, before.begun + count.begun)
    return found


@dataclass(frozen=True)
class Cutting:
    """What is cut of one material and section.

    Args:
        material: key.
        section: of the bar.
        problem: pieces and bars.
        parts: ids of the pieces, as in the problem's `wanted`.
        racks: ids of rack entries, as in its `supplies`; "" where bars are bought.
        jobs: how many of each piece are for which job, in the order of `parts`.
    """

    material: str
    section: Section
    problem: Problem
    parts: tuple[str, ...]
    racks: tuple[str, ...]
    jobs: tuple[tuple[tuple[str, int], ...], ...]

    @cached_property
    def key(self) -> tuple[str, Section]:
        """Material and section."""
        return self.material, self.section


def rules_of(shop: Shop) -> Rules:
    """How the shop cuts."""
    return Rules(shop.kerf, shop.end_trim, shop.hold, shop.keep)


def loss_of(piece: Piece) -> float | None:
    """mm lost where a piece that is forged on the bar is cut off it; None where it is sawn off first."""
    parted = [f for f in piece.features if isinstance(f, PartOff)]
    if not parted and not piece.allowances.parting:
        return None
    return piece.allowances.parting + sum(f.loss for f in parted)


def job_problems(jobs: Mapping[str, Job], holdings: Holdings, *, kept: Iterable[SavedBar] = ()) -> tuple[Cutting, ...]:
    """One problem for each material and section of some jobs.

    A piece that is parted off is forged on the bar: its cut length holds its own loss, and behind the last of them on a bar the shop's length to
    hold is left. A section with no bought length in the catalogue is bought in the shop's usual length, without a price.

    Args:
        jobs: by id, with their spares.
        holdings: what they draw on.
        kept: bars that stay as they are: their pieces are not asked for again, nor is their place on the rack free.

    Raises:
        NoAnswer: a piece of a job is not there, or is longer than any bar.
    """
    kept = tuple(kept)
    wanted: dict[tuple[str, Section], list[tuple[Wanted, str, tuple[tuple[str, int], ...]]]] = {}
    for piece_id, shares in _shares(jobs, holdings, kept).items():
        piece, cut, loss = holdings.piece(piece_id), holdings.answer(piece_id).reckoning.cut, loss_of(holdings.piece(piece_id))
        count = sum(n for _job, n in shares)
        row = Wanted(piece.name, cut - (loss or 0.0), count, loss is not None, loss)
        if count:
            wanted.setdefault((piece.material, piece.bar), []).append((row, piece_id, shares))
    found = []
    for (material, section), rows in wanted.items():
        racks, supplies = zip(*_supplies(material, section, holdings, kept), strict=True)
        problem = Problem(tuple(w for w, _i, _s in rows), supplies, rules_of(holdings.shop))
        found.append(Cutting(material, section, problem, tuple(i for _w, i, _s in rows), racks, tuple(s for _w, _i, s in rows)))
    return tuple(found)


def _shares(jobs: Mapping[str, Job], holdings: Holdings, kept: tuple[SavedBar, ...]) -> dict[str, tuple[tuple[str, int], ...]]:
    """How many of each piece are still to be placed for which job."""
    placed = Counter((c.piece, c.job) for bar in kept for c in bar.cuts)
    found: dict[str, list[tuple[str, int]]] = {}
    for job_id, job in jobs.items():
        for piece_id, count in counts_of(job, holdings).items():
            found.setdefault(piece_id, []).append(
                (job_id, max(0, count.begun - placed[piece_id, job_id] - holdings.done[piece_id, job_id]))
            )
    return {piece_id: tuple(rows) for piece_id, rows in found.items()}


def touch_of(item: RackItem) -> float:
    """Share of the price of new bar that using up something on the rack counts as: offcuts go before whole bars."""
    return OFFCUT if item.source == "offcut" else WHOLE


def _supplies(material: str, section: Section, holdings: Holdings, kept: tuple[SavedBar, ...]) -> list[tuple[str, Supply]]:
    taken = Counter(bar.rack for bar in kept if bar.rack)
    free = {i: holdings.free(i) - taken[i] for i, r in holdings.rack.items() if (r.material, r.section) == (material, section)}
    lying = [(i, Supply(r.words, r.length, 0.0, free[i], touch_of(r))) for i, r in holdings.rack.items() if free.get(i, 0) > 0]
    sold = [
        ("", Supply(p.seller or "bought", p.length, p.price))
        for p in holdings.prices
        if (p.material, p.section) == (material, section) and p.sold
    ]
    return [*lying, *(sold or [("", Supply("bought", holdings.shop.bar_length, 0.0))])]


def how_good(plan: CutPlan) -> str:
    """How far a cheaper plan could go, in words."""
    if plan.proven:
        return "no cheaper plan exists"
    return f"a cheaper plan could save {plan.gap:.1%} at most" if plan.bound > 0 else "usable; nobody has looked for a cheaper plan yet"


def _turn(problem: Problem, bar: Bar) -> tuple[object, ...]:
    """Offcuts are sawn first, then whole bars of the rack, then bought ones; equal bars one after the other."""
    supply = problem.supplies[bar.supply]
    return supply.count is None, supply.touch, supply.length, [-n for n in bar.counts]


def sheet_of(jobs: Mapping[str, Job], found: Iterable[tuple[Cutting, CutPlan]], *, kept: Iterable[SavedBar] = ()) -> SavedCutList:
    """A cut list from plans: every bar with its pieces in the order they are sawn, those forged on the bar first, then the longest.

    Equal bars follow each other, so that the saw's stop stays where it is; pieces are handed to the jobs in their order.
    """
    bars = list(kept)
    for cutting, plan in found:
        problem = plan.problem
        waiting = [iter([job for job, number in shares for _ in range(number)]) for shares in cutting.jobs]
        alike: dict[tuple[int, str], CutPiece] = {}  # blanks of one piece and job are one object, and so are equal bars
        same: dict[tuple[int, tuple[int, ...]], SavedBar] = {}
        order = sorted(range(len(problem.wanted)), key=lambda i: (not problem.held[i], -problem.wanted[i].length))
        for bar in sorted(plan.bars, key=lambda b: _turn(problem, b)):
            supply, cuts = problem.supplies[bar.supply], []
            for i in order:
                w = problem.wanted[i]
                for _ in range(bar.counts[i]):
                    key = i, next(waiting[i])
                    if key not in alike:
                        alike[key] = CutPiece(piece=cutting.parts[i], job=key[1], name=w.name, length=w.length, held=w.held,
                                              loss=problem.rules.kerf if w.loss is None else w.loss)  # fmt: skip
                    cuts.append(alike[key])
            key_of_bar = bar.supply, tuple(map(id, cuts))
            if key_of_bar not in same:
                same[key_of_bar] = SavedBar(material=cutting.material, section=cutting.section, rack=cutting.racks[bar.supply], source=supply.name,
                                length=supply.length, price=supply.price, cuts=tuple(cuts))  # fmt: skip
            bars.append(same[key_of_bar])
    name = " and ".join(job.name for job in jobs.values()) or "Cut list"
    return SavedCutList(name=name, jobs=tuple(JobRef(job=i) for i in jobs), bars=tuple(bars))
