"""Commands on the terminal carried out, and every way in which they can end."""

from __future__ import annotations

import json
import os
import sys
from argparse import Namespace

from long_ember.cli.book import BUSY, COMMANDS, BusyError, book_of, found_piece, measure_of, piece_file
from long_ember.cli.cut import cut_command
from long_ember.cli.plan import plan_data, plan_text
from long_ember.cli.print import print_command
from long_ember.cli.speak import complain, print_lines
from long_ember.document import answer
from long_ember.errors import EmberError, fault_words
from long_ember.features import Piece
from long_ember.heats import ForgeSettings
from long_ember.learning import calibrated
from long_ember.records import LogEntry, Shop
from long_ember.shorthand import ShorthandError, proposed_words, read_any_line, settled, write_line
from long_ember.storage import book_path, starts
from long_ember.units import Measure

__all__ = ["carry_out"]


def carry_out(given: Namespace) -> int:
    """Carry a command out.

    Returns:
        0 done, 1 not done, 3 the book is not sound, 4 it is in use elsewhere.
    """
    command = {**COMMANDS, "plan": _plan, "line": _line, "cut": cut_command, "print": print_command}[given.command]
    try:
        return command(given)
    except KeyboardInterrupt:
        return 130
    except BrokenPipeError:  # whoever reads has seen enough, as with `| head`
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 0
    except EmberError as error:
        complain(json.dumps({"error": str(error)}, ensure_ascii=False) if given.json else error)
        return BUSY if isinstance(error, BusyError) or getattr(error, "kind", "") == "busy" else 1
    except Exception as error:  # nobody at a terminal is helped by a traceback; what a report needs is in one line
        words = f"Something went wrong inside Long Ember: {fault_words(error)}. The book is as it was after the last step that was reported done."
        complain(json.dumps({"error": words}, ensure_ascii=False) if given.json else words)
        return 1


def _plan(given: Namespace) -> int:
    book, piece = given.book or book_path(), piece_file(given.file) if given.file else None
    shop, measure, log = Shop(), Measure("in" if given.inch else "mm", ascii=True), list[LogEntry]()
    piece_id = ""
    if (piece is None and not given.line) or book.exists():
        with book_of(given) as opened:
            shop, measure = opened.reader().shop or shop, measure_of(opened, given)
            log = list(opened.reader().records(LogEntry).values())
            if piece is None and not given.line:
                piece_id = found_piece(opened, given.file).id
                piece = opened.reader().piece(piece_id)
    forge = calibrated(shop.forge, log, shop.smith, piece_id)
    division = shop.division if measure.unit == shop.unit else 25.4 / measure.denominator
    piece = piece or _written(given.line, shop, measure, division, forge)
    if not piece.features:
        raise EmberError(f"{piece.name} is empty: there is nothing to plan yet.")
    found = answer(piece, ruler=division, forge=forge)
    print_lines(json.dumps(plan_data(found), ensure_ascii=False, indent=1) if given.json else plan_text(found, measure))
    return 0


def _written(line: str, shop: Shop, measure: Measure, ruler: float, forge: ForgeSettings) -> Piece:
    """A piece from its line; what the line leaves open is said on the error stream."""
    try:
        found = read_any_line(line, measure, shop.new_piece(), starts())
    except ShorthandError as error:
        under = " " * error.position + "^" * max(error.span, 1)
        raise EmberError(f"{error}\n  {error.text}\n  {under}") from None
    open_ = proposed_words(found, measure)
    if open_:
        complain(f"Proposed, because the line does not say: {'; '.join(open_)}.")
    return settled(found, ruler=ruler, forge=forge)


def _line(given: Namespace) -> int:
    piece, measure = piece_file(given.file), Measure()
    if piece is None:
        with book_of(given) as opened:
            shop = opened.reader().shop
            measure = shop.measure if shop is not None else measure
            piece = opened.reader().piece(found_piece(opened, given.file).id)
    print_lines(write_line(piece, measure))
    return 0
