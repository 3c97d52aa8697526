"""The one list of papers: a new kind is a row here."""

from __future__ import annotations

from long_ember.errors import NoAnswer
from long_ember.fullsize import EDGES
from long_ember.papers import full_papers as full
from long_ember.papers import job_papers as jobs
from long_ember.papers import piece_papers as piece
from long_ember.papers.subject import Option, Paper, Subject

__all__ = ["PAPERS", "papers_for"]

_SET = Option("set", "Marks", "all", (("all", "all of them"), ("least", "only what must be marked cold")))

PAPERS: dict[str, Paper] = {
    p.key: p
    for p in (
        Paper("plan", "Plan", "piece", "Everything about the piece, for the wall",
              (Option("drawing", "Drawing"), Option("marks", "Marks"), Option("heats", "Heats"), Option("sum", "Sum of the cut length"), Option("cuts", "Bars to saw")),
              False, piece.plan_sheet),
        Paper("heats", "Heat sheet", "piece", "A row a heat, with boxes to tick and room for what happened",
              (Option("pictures", "Pictures"), Option("facts", "Hold, fire, window, tools"), Option("checks", "What to check"), Option("room", "Room to write")), False, piece.heat_sheet),
        Paper("film", "Filmstrip", "piece", "Every heat as a picture", (), True, piece.film),
        Paper("marks", "Marks", "piece", "Every mark with its lengths, face and use",
              (_SET, Option("hand", "Hand", "own", (("own", "as planned"), ("mate", "its mate, mirrored"))), Option("far", "From the other end"),
               Option("hot", "Hot lengths"), Option("cubes", "In cubes", "no"), Option("carry", "How to carry them")), True, piece.mark_sheet),
        Paper("stick", "Story stick", "piece", "A strip as long as the bar, to cut out and lay against it", (_SET, full.SHEETS_OPTION), True, full.stick_sheet, full.stick_drawings),
        Paper("templates", "Full-size templates", "either", "Curves, the whole piece, gauges; blanks of a job",
              (Option("edge", "Curves by their", "all", EDGES), Option("whole", "The whole piece"), Option("curves", "Scrolls, hooks, rings, bends"),
               Option("gauges", "Gauges for tapers and holes"), full.SHEETS_OPTION), False, full.template_sheet, full.template_drawings),
        Paper("jig", "Jigs", "piece", "Pegs and stops for bends, and how far cold steel springs back", (full.SHEETS_OPTION,), False, full.jig_sheet, full.jig_drawings),
        Paper("blank", "Blank at full size", "blank", "The outline of a blank of sheet", (full.SHEETS_OPTION,), False, full.blank_sheet, full.blank_drawings),
        Paper("cut", "Cut list", "either", "Bar by bar, with a box for every cut", (Option("pictures", "Pictures of the bars"),), False, jobs.cut_sheet),
        Paper("labels", "Labels", "job", "One for every blank, to be cut apart", (), False, jobs.labels),
        Paper("shopping", "To buy", "job", "The shopping list", (), False, jobs.shopping),
        Paper("quote", "Quote", "job", "For the customer", (), False, jobs.quote_paper),
        Paper("card", "Customer's card", "either", "Use, care, finish, and what it is not for", (), False, piece.card),
        Paper("log", "Log", "piece", "What was written down", (), True, piece.log_sheet),
        Paper("cautions", "Cautions", "piece", "What to take care of, in large letters", (), False, piece.caution_sheet),
        Paper("tables", "Tables", "any", "Threads, drills, gauges, colours, masses, bends", full.TABLE_OPTIONS, False, full.table_sheet),
    )
}  # fmt: skip


def papers_for(subject: Subject) -> tuple[Paper, ...]:
    """Those that can be made of a subject."""
    here = {"any"}
    if subject.plan is not None:
        here |= {"job", "either"}
    elif subject.blank is not None:
        here |= {"blank"}
    elif subject.answer is not None:
        here |= {"piece", "either"}
    return tuple(p for p in PAPERS.values() if p.about in here)


def paper_of(key: str) -> Paper:
    """A paper by its key.

    Raises:
        NoAnswer: there is none.
    """
    if key not in PAPERS:
        raise NoAnswer(f"There is no paper called {key}.", f"There are {', '.join(PAPERS)}.")
    return PAPERS[key]
