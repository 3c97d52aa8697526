"""Papers from the terminal: what the print dialog makes, without a display."""

from __future__ import annotations

from argparse import Namespace
from dataclasses import replace
from datetime import date

from long_ember.cli.book import book_of, found_piece, measure_of, piece_file, told
from long_ember.cli.cut import planned_jobs
from long_ember.document import answer
from long_ember.errors import EmberError
from long_ember.fields import day_words
from long_ember.learning import calibrated
from long_ember.papers.ink import PAPER_SIZES, paper_here
from long_ember.papers.kinds import paper_of
from long_ember.papers.subject import Subject, named_state
from long_ember.papers.writing import write_paper
from long_ember.records import LogEntry, Shop
from long_ember.storage import book_path
from long_ember.units import Measure

__all__ = ["print_command"]

_SECONDS = 2.0  # that are spent on a cheaper cut list


def print_command(given: Namespace) -> int:
    """Write one paper; exit code 0."""
    paper = paper_of(given.what)
    choices = dict(pair.partition("=")[::2] for pair in given.choices)
    lying = given.landscape or (paper.landscape and not given.portrait)
    size = PAPER_SIZES[given.paper or paper_here()].turned(lying)
    subject = _subject(given)
    write_paper(given.output, paper, replace(subject, measure=replace(subject.measure, ascii=False)), size, choices)
    told(given, {"written": str(given.output)}, f"Written to {given.output}")
    return 0


def _subject(given: Namespace) -> Subject:
    """The piece of a file or of the book, jobs, or nothing but the shop."""
    day = day_words(date.today())
    if given.job:
        plan, shop, measure = planned_jobs(given, given.job, _SECONDS)
        return Subject(measure, shop, day, plan=plan)
    piece, shop, measure, log, piece_id, state = (
        piece_file(given.piece) if given.piece else None,
        Shop(),
        Measure("in" if given.inch else "mm"),
        [],
        "",
        "",
    )
    if (given.piece and piece is None) or (given.book or book_path()).exists():
        with book_of(given) as opened:
            book = opened.reader()
            shop, measure = book.shop or shop, measure_of(opened, given)
            log = list(book.records(LogEntry).values())
            if given.piece and piece is None:
                piece_id = found_piece(opened, given.piece).id
                piece = book.piece(piece_id)
                state = named_state(book, piece_id, piece)
    if piece is None:
        return Subject(measure, shop, day)
    if not piece.features:
        raise EmberError(f"{piece.name} is empty: there is nothing to print yet.")
    division = shop.division if measure.unit == shop.unit else 25.4 / measure.denominator
    found = answer(piece, ruler=division, forge=calibrated(shop.forge, log, shop.smith, piece_id))
    own = tuple(entry for entry in log if piece_id and entry.piece == piece_id)
    return Subject(measure, shop, day, found, state, own)
