"""The cutting problems of a job: its pieces by material and section, on what lies on the rack and what is sold."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from long_ember.cutting import Problem, Rules, Supply, Wanted
from long_ember.document.answer import swift
from long_ember.errors import NoAnswer
from long_ember.features import Piece
from long_ember.heats import Bench
from long_ember.sections import Section
from long_ember.shop import Job, Price, RackItem, Shop

__all__ = ["Cutting", "job_problems"]


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
