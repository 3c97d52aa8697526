"""Papers at full size: story stick, templates, jigs, a blank of sheet; and the tables for the wall."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from long_ember.errors import NoAnswer
from long_ember.features import Feature
from long_ember.features.taper import Taper
from long_ember.fullsize import Drawing, DrawnLine, jigs_of, outline_drawing, side_by_side, story_sticks, taper_blends, templates_of
from long_ember.papers.flow import MARGIN, Flow, Masthead
from long_ember.papers.ink import Lettering, PaperSize, Printed, box
from long_ember.papers.subject import Choices, Option, Subject
from long_ember.papers.tiling import OVERLAP, on_one_sheet, tile_room, tiled
from long_ember.tables import WALL_TABLES
from long_ember.tables.lists import Setting

__all__ = ["SHEETS_OPTION", "TABLE_OPTIONS", "blank_drawings", "blank_sheet", "jig_drawings", "jig_sheet", "stick_drawings", "stick_sheet", "table_setting", "table_sheet",
           "template_drawings", "template_sheet"]  # fmt: skip

SHEETS_OPTION = Option("sheets", "On", "tiled", (("tiled", "sheets of this paper, tiled"), ("one", "one large sheet")))
_LONG, _ACROSS = 60, 3  # rows from which on a narrow table stands in so many columns
TABLE_OPTIONS = tuple(Option(t.key, t.title) for t in WALL_TABLES)


def _paper(drawings: Sequence[Drawing], name: str, size: PaperSize, head: Masthead, c: Choices, row: float) -> Printed:
    """Drawings one after the other on as few sheets as it takes, or all on one large one."""
    if not drawings:
        raise NoAnswer("Nothing here has a form to print at full size.", "Choose more of it, or add a bend, a taper or a hole.")
    if c["sheets"] == "one":
        return on_one_sheet(side_by_side(list(drawings), name, max(row, 900.0)), head)
    return tiled(side_by_side(list(drawings), name, row, page=(tile_room(size)[1], OVERLAP)), size, head)


def _row(size: PaperSize) -> float:
    return size.width - 2 * MARGIN


def stick_drawings(s: Subject, c: Choices) -> list[Drawing]:
    """The strips."""
    return list(story_sticks(s.made, s.measure, least=c["set"] == "least"))


def stick_sheet(s: Subject, size: PaperSize, c: Choices) -> Printed:
    """The story stick."""
    return _paper(stick_drawings(s, c), "Story stick", size, s.head("Story stick"), c, _row(size))


def template_drawings(s: Subject, c: Choices) -> list[Drawing]:
    """Curves, the whole piece, gauges; of jobs their blanks of sheet."""
    if s.plan is not None:
        found = []
        for job in s.planned.jobs.values():
            found += [_rectangle(b.name, b.length, b.width, f"{b.count} of them", s) for b in job.blanks]
        return found
    return templates_of(
        s.made.piece, s.measure, edge=c["edge"], whole=c["whole"] == "yes", curves=c["curves"] == "yes", gauges=c["gauges"] == "yes"
    )


def _rectangle(name: str, length: float, width: float, note: str, s: Subject) -> Drawing:
    edge = np.array([(0.0, 0.0), (length, 0.0), (length, width), (0.0, width)])
    return Drawing(name, f"{s.measure.length(length)} by {s.measure.length(width)}; {note}", (DrawnLine(edge, "CUT", True),))


def template_sheet(s: Subject, size: PaperSize, c: Choices) -> Printed:
    """The templates."""
    return _paper(template_drawings(s, c), "Templates", size, s.head("Templates"), c, _row(size))


def jig_drawings(s: Subject, _c: Choices) -> list[Drawing]:
    """A plate for every kind of round bend."""
    return [jig.drawing for jig in jigs_of(s.made.piece, s.measure, s.shop.peg)]


def jig_sheet(s: Subject, size: PaperSize, c: Choices) -> Printed:
    """How each jig is used with its pegs' places; then the plates at full size."""
    m, flow = s.measure, Flow(size, s.head("Jigs"))
    jigs = jigs_of(s.made.piece, m, s.shop.peg)
    if not jigs:
        raise NoAnswer(
            "Nothing in this piece is bent round in a plane.",
            "A jig is for round bends, hooks, rings and scrolls; a sharp corner is set at the anvil.",
        )
    flow.title(f"{s.made.piece.name}: jigs")
    flow.text("Places are measured from the middle of the forming peg, or from where a curve begins: along, then up. Clamp the plate; eyes covered; keep hands out of the "
              "bar's way, cold steel springs back.", 9)  # fmt: skip
    for jig in jigs:
        flow.heading(f"Jig for {', '.join(jig.names)}", 50)
        for words in jig.words:
            flow.text(words, 10)
        rows = [[str(i), m.length(x), m.length(y), m.length(d), what] for i, (x, y, d, what) in enumerate(jig.pegs, 1)]
        if not rows:
            continue
        flow.table((("Peg", 0.6, 1), ("along", 1.2, 1), ("up", 1.2, 1), ("diameter", 1.2, 1), ("what it does", 3, -1)), rows)
    told, plates = (
        flow.printed(),
        _paper([jig.drawing for jig in jigs], "Plates", size, s.head("Jigs, plates at full size"), c, _row(size)),
    )
    at = len(told.pages)
    return Printed(told.title, (*told.pages, *plates.pages), (*told.contents, *((title, page + at) for title, page in plates.contents)))


def blank_drawings(s: Subject, _c: Choices) -> list[Drawing]:
    """The blank on the bench."""
    if s.blank is None:
        raise NoAnswer("There is no blank of sheet here.", "Open Sheet and plate, and print it from there.")
    note = ". ".join(line.show(s.measure) for line in s.blank.words())
    return [outline_drawing(s.blank.outline(), s.blank.title, note[:120])]


def blank_sheet(s: Subject, size: PaperSize, c: Choices) -> Printed:
    """The blank at full size."""
    return _paper(blank_drawings(s, c), "Blank", size, s.head("Blank"), c, _row(size))


def table_setting(s: Subject, feature: Feature | None = None) -> Setting:
    """What tables are made for: the piece on the bench, and its first taper or the one that is chosen."""
    if s.answer is None:
        return Setting(s.measure)
    piece = s.answer.piece
    tapers = [f for f in piece.features if isinstance(f, Taper)]
    found = feature if isinstance(feature, Taper) else tapers[0] if tapers else None
    setting = Setting(s.measure, piece.material, piece.rule)
    if found is None or piece.index(found.id) < 0:
        return setting
    thin, thick = taper_blends(piece, found)
    return Setting(s.measure, piece.material, piece.rule, (thin, thick, found.length))


def table_sheet(s: Subject, size: PaperSize, c: Choices) -> Printed:
    """The tables that are chosen."""
    flow, setting = Flow(size, Masthead(s.shop.name, "Tables", "", s.day, s.measure)), table_setting(s)
    chosen = [t for t in WALL_TABLES if c[t.key] == "yes"]
    if not chosen:
        raise NoAnswer("No table is chosen.", "Tick at least one.")
    for table in chosen:
        rows = table.rows(setting)
        flow.need(60)
        flow.title(table.title)
        flow.text(table.note, 9)
        if table.colours:
            swatch = flow.block()
            wide = flow.room / len(table.colours)
            for i, (colour, cells) in enumerate(zip(table.colours, rows, strict=True)):
                swatch.ink += [box(i * wide, 1, wide - 1, 8, 0.2, colour), Lettering(i * wide, 12.6, cells[0], 7.5)]
            swatch.height = 14
            flow.put(swatch)
        across = _ACROSS if len(rows) > _LONG and len(table.columns) <= _ACROSS else 1
        deep = -(-len(rows) // across)
        beside = [
            [cell for k in range(across) for cell in (rows[i + k * deep] if i + k * deep < len(rows) else [""] * len(table.columns))]
            for i in range(deep)
        ]
        flow.table(table.columns * across, beside, 9)
    return flow.printed()
