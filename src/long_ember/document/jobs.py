"""The cutting problems of a job: its pieces by material and section, on what lies on the rack and what is sold."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from long_ember.cutting import CutPlan, Problem, Rules, Supply, Wanted
from long_ember.document.answer import swift
from long_ember.errors import NoAnswer
from long_ember.features import Piece
from long_ember.heats import Bench
from long_ember.sections import Section
from long_ember.shop import Job, Price, RackItem, Shop

__all__ = ["BarCuts", "Cutting", "SawCut", "how_good", "job_problems", "saw_cuts"]


@dataclass(frozen=True, slots=True)
class SawCut:
    """One piece on its bar: name, and from where to where it lies, mm from the end that is sawn from."""

    name: str
    start: float
    stop: float


@dataclass(frozen=True, slots=True)
class BarCuts:
    """One bar of a plan.

    Args:
        supply: what it is and where it comes from.
        cuts: pieces in the order they are sawn, those forged on the bar first, then the longest.
        left: mm.
        keep: what is left goes back to the rack.
    """

    supply: Supply
    cuts: tuple[SawCut, ...]
    left: float
    keep: bool


def how_good(plan: CutPlan) -> str:
    """How far a cheaper plan could go, in words."""
    if plan.proven:
        return "no cheaper plan exists"
    return f"a cheaper plan could save {plan.gap:.1%} at most" if plan.bound > 0 else "usable; nobody has looked for a cheaper plan yet"


def saw_cuts(plan: CutPlan) -> tuple[BarCuts, ...]:
    """Every bar of a plan with its pieces where they lie."""
    problem, found = plan.problem, []
    order = sorted(range(len(problem.wanted)), key=lambda i: (not problem.held[i], -problem.wanted[i].length))
    for bar in plan.bars:
        at = problem.rules.trim + problem.rules.kerf if problem.rules.trim else 0.0
        cuts = []
        for i in order:
            for _ in range(bar.counts[i]):
                cuts.append(SawCut(problem.wanted[i].name, at, at + problem.wanted[i].length))
                at += problem.wanted[i].length + problem.rules.kerf
        left = problem.remnant(bar.supply, problem.used(bar)) * problem.step
        found.append(BarCuts(problem.supplies[bar.supply], tuple(cuts), left, left >= problem.rules.keep))
    return tuple(found)


@dataclass(frozen=True)
class Cutting:
    """What is cut of one material and section.

    Args:
        material: key.
        section: of the bar.
        problem: pieces and bars.
    """

    material: str
    section: Section
    problem: Problem


def job_problems(
    job: Job,
    pieces: Mapping[str, Piece],
    rack: Iterable[RackItem],
    prices: Iterable[Price],
    shop: Shop,
    *,
    bench: Bench,
    keep: float = 150.0,
) -> tuple[Cutting, ...]:
    """One problem for each material and section of a job.

    A piece that is forged on the bar is held by it; its cut length has its own spare. Saw cut and end trim are the shop's. A section with
    no bought length in the catalogue is bought in the shop's usual length, without a price.

    Args:
        job: pieces × quantities, spares too.
        pieces: by id.
        rack: what lies there, of any material.
        prices: the catalogue.
        shop: ruler, saw cut, trim, usual length.
        bench: for the scale in the cut lengths.
        keep: mm; a shorter remnant is waste.

    Raises:
        NoAnswer: a piece of the job is not there, or is longer than any bar.
    """
    wanted: dict[tuple[str, Section], list[Wanted]] = {}
    for line in job.lines:
        piece = pieces.get(line.piece)
        if piece is None:
            raise NoAnswer(f"The job asks for a piece that is not in the book: {line.piece}.", "Take its line out of the job.")
        cut = swift(piece, ruler=shop.division, bench=bench).reckoning.cut
        count = int(line.quantity) + int(line.spare)
        wanted.setdefault((piece.material, piece.bar), []).append(Wanted(piece.name, cut, count))
    rack, prices = tuple(rack), tuple(prices)
    rules = Rules(shop.kerf, shop.end_trim, 0.0, keep)
    return tuple(Cutting(m, s, Problem(tuple(w), _supplies(m, s, rack, prices, shop), rules)) for (m, s), w in wanted.items())


def _supplies(material: str, section: Section, rack: tuple[RackItem, ...], prices: tuple[Price, ...], shop: Shop) -> tuple[Supply, ...]:
    lying = [
        Supply(f"{r.source} on the rack{', ' + r.place if r.place else ''}", r.length, 0.0, int(r.count))
        for r in rack
        if (r.material, r.section) == (material, section) and r.count
    ]
    sold = [
        Supply(p.seller or "bought", p.length, p.price)
        for p in prices
        if (p.material, p.section) == (material, section) and p.sold == "yes"
    ]
    return (*lying, *(sold or [Supply("bought", shop.bar_length, 0.0)]))
