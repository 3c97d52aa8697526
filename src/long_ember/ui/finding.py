"""Find anything: shapes, pieces, jobs, tables, the guide, and everything that can be done."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from long_ember.desk.finding import Findable, findable_pieces, guide_sections
from long_ember.features import KINDS
from long_ember.records import Job
from long_ember.ui.widgets.picking import PickDialog

if TYPE_CHECKING:
    from long_ember.ui.window import MainWindow

__all__ = ["ask_find", "findable"]

_TOLD = "Shapes, pieces, jobs, tables, the guide, and everything that can be done: type a word of it."


def ask_find(window: MainWindow) -> None:
    """Find anything, and go there."""
    PickDialog("Find anything", _TOLD, findable(window), window, listed=False).open()


def findable(window: MainWindow) -> list[Findable]:
    """Everything that can be found by a word: what the smith made first."""
    from long_ember.tables import WALL_TABLES
    from long_ember.ui.widgets.help import guide_text

    library, run = window.library, window.run
    found = findable_pieces(library.entries, window.work.open_piece, "piece")
    found += [Findable("job", job.name, job.note, partial(window.show_cuts, i)) for i, job in library.records(Job).items()]
    found += [Findable("table", t.title, t.words, partial(window.show_tables, t.key)) for t in WALL_TABLES]
    for command in window.commands:
        if command.enabled():
            cls = KINDS.get(command.id.partition(".")[2]) if command.id.startswith("add.") else None
            words = " ".join((command.tip, *(cls.also if cls is not None else ())))
            found.append(Findable("shape" if cls is not None else "do", command.words, words, partial(run, command.id), command.keys))
    found += [Findable("guide", heading, text, partial(window.show_help, heading)) for heading, text in guide_sections(guide_text())]
    return found
