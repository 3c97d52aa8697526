"""What goes out to files and comes in from them: each asked for, then written or read, and a refusal explained."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING

from long_ember.arrays import Array
from long_ember.document import add_feature
from long_ember.errors import EmberError
from long_ember.features.traced import Traced
from long_ember.fields import day_words
from long_ember.storage import write_atomic, write_piece
from long_ember.ui.actions.bookwork import BookWork
from long_ember.ui.widgets import dialogs

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget

    from long_ember.papers.subject import Subject
    from long_ember.ui.cut.job_view import JobView
    from long_ember.units import Line

__all__ = ["Files"]

_WHOLE = "With pictures (*.zip);;Without them (*.json)"


class Files:
    """Files of the piece, of its heats and cuts, and of the book.

    Args:
        window: asks the questions.
        work: actions on the open book.
        jobs: the jobs in sight, None where the piece on the bench is looked at.
        shown: ids of the pieces in sight on the wall.
    """

    def __init__(self, window: QWidget, work: BookWork, jobs: Callable[[], JobView | None], shown: Callable[[], tuple[str, ...]]) -> None:
        self.window, self.work, self.session = window, work, work.session
        self._jobs, self._shown = jobs, shown
        self._again: tuple[str, Callable[[], None]] | None = None

    def ask_out(self) -> None:
        """Ask where to write the piece."""
        start = Path.home() / f"{self.file_stem()}.json"
        path = dialogs.save_name(
            self.window, "Write the piece to a file", start, "Piece (*.json);;With photos, tags and named states (*.zip)"
        )
        if path is not None:
            self.save_to(path)

    def save_to(self, path: Path) -> bool:
        """Write the piece as a file of its own; a .zip takes along what belongs to it."""
        if path.suffix.lower() == ".zip":
            return self.work.export(path, (self.session.piece_id,))
        return self._written("The piece", path, lambda: write_piece(path, self.session.piece))

    def ask_unwritten(self) -> None:
        """Ask where to write what is not in the book yet."""
        path = dialogs.save_name(self.window, "Write what waits to a file", Path.home() / "not-in-the-book-yet.json", "JSON (*.json)")
        if path is not None:
            self.work.export_unwritten(path)

    def ask_whole(self) -> None:
        """Ask where to write the whole book."""
        start = Path.home() / f"{self.work.library.path.stem}.zip"
        path = dialogs.save_name(self.window, "Write the whole book to a file", start, _WHOLE)
        if path is not None:
            self.work.export(path)

    def ask_shown(self) -> None:
        """Ask where to write the pieces in sight."""
        path = dialogs.save_name(self.window, "Write the pieces in sight to a file", Path.home() / "pieces.zip", _WHOLE)
        if path is not None:
            self.work.export(path, self._shown())

    def ask_csv(self) -> None:
        """Ask where to write the cut list."""
        jobs = self._jobs()
        if jobs is not None:
            jobs.ask_table("cuts")
            return
        path = dialogs.save_name(self.window, "Cut list as CSV", Path.home() / f"{self.file_stem()}-cut-list.csv", "CSV (*.csv)")
        if path is not None:
            self.export_csv(path)

    def export_csv(self, path: Path) -> bool:
        """Write the cut list."""
        cuts = self.session.answer.cuts
        if cuts is None:
            return False
        from long_ember.export import cut_list_csv

        table = cut_list_csv(self.session.piece, cuts, self.session.measure)
        return self._written("The cut list", path, lambda: write_atomic(path, table))

    def subject(self) -> Subject:
        """What papers are about: the jobs in sight, or the piece on the bench with its state and log."""
        from long_ember.papers.subject import Subject

        session, jobs = self.session, self._jobs()
        base = Subject(session.measure, session.shop, day_words(date.today()))
        if jobs is not None and jobs.desk.plan is not None:
            return replace(base, plan=jobs.desk.plan)
        if not session.piece.features:
            return base
        compared: tuple[str, tuple[Line, ...]] = ("", ())
        if session.comparison is not None and session.comparison[0] is session.piece:
            compared = session.comparison[1:]
        log = tuple(self.work.library.log_of(session.piece_id).values()) if session.piece_id else ()
        return replace(base, answer=session.answer, state=self._state(), log=log, compared=compared)

    def _state(self) -> str:
        """The name of the piece's state, where the newest named one is what is on the bench."""
        from long_ember.papers.subject import named_state

        try:
            return named_state(self.work.library.reader(), self.session.piece_id, self.session.piece) if self.session.piece_id else ""
        except EmberError:
            return ""

    def ask_print(self, key: str = "") -> None:
        """The print dialog, on a kind of paper."""
        from long_ember.ui.paper.print_dialog import PrintDialog  # loaded with the first paper

        dialog = PrintDialog(self.work, self.subject, key, self.window)
        dialog.wrote.connect(self.session.wrote.emit)
        dialog.went.connect(self._printed)
        dialog.exec()
        dialog.deleteLater()

    def _printed(self, again: Callable[[], None]) -> None:
        self._again = (self.subject().head("").name, again)

    def print_again(self) -> None:
        """The last paper once more, to where it went, without a question; asked for the first time, and of another piece: its file would be lost."""
        if self._again is None or self._again[0] != self.subject().head("").name:
            self.ask_print()
        else:
            self._again[1]()

    def ask_heats(self) -> None:
        """Ask where to write the heats: for other programs, or for a phone beside the anvil."""
        kinds = "Table (*.csv);;JSON (*.json);;Page for a phone or tablet (*.html)"
        path = dialogs.save_name(self.window, "Heats as a table, JSON or a page", Path.home() / f"{self.file_stem()}-heats.csv", kinds)
        if path is not None:
            self.export_heats(path)

    def export_heats(self, path: Path) -> bool:
        """Write the sequence: JSON or a page by the file's ending, otherwise CSV."""
        from long_ember.export import heats_csv, heats_html, heats_json

        def content() -> str:
            answer, m = self.session.answer, self.session.measure
            kind = path.suffix.lower()
            if kind in (".html", ".htm"):
                return heats_html(answer, m, self.session.shop.kit)
            return (heats_json if kind == ".json" else heats_csv)(answer, m)

        return self._written("The heats", path, lambda: write_atomic(path, content()))

    def ask_curve(self) -> None:
        """Ask for a drawing."""
        path = dialogs.open_name(self.window, "Curve from a drawing", Path.home(), "Drawing (*.svg *.dxf)")
        if path is not None:
            self.import_curve(path)

    def import_curve(self, path: Path) -> None:
        """Ask which line of a drawing, and add it as a traced curve; a file that can't be read is explained and nothing changes."""
        from long_ember.storage import read_curves  # loaded with the first drawing

        def read(_progress: Callable[[int, int], None]) -> list[Array]:
            return read_curves(path)

        self.work.slow(f"Reading {path.name}", "The drawing was not taken over", read, lambda curves: self.choose_curve(path.name, curves))

    def choose_curve(self, name: str, curves: list[Array]) -> None:
        """Which line, how large."""
        from long_ember.ui.shape.curve_form import CurveForm

        form = CurveForm(self.session, name, curves, self.window)

        def add() -> None:
            session, at = self.session, self.session.piece.index(self.session.selection)
            session.attempt(add_feature, len(session.piece.features) if at < 0 else at + 1, Traced(id="x", course=form.course))

        form.accepted.connect(add)
        form.finished.connect(form.deleteLater)
        form.open()

    def ask_solid(self) -> None:
        """Ask where to write the solid."""
        path = dialogs.save_name(self.window, "Solid", Path.home() / f"{self.file_stem()}.stl", "Solid (*.stl *.obj)")
        if path is not None:
            self.export_solid(path)

    def export_solid(self, path: Path) -> bool:
        """Write the finished piece as a solid, by the file's ending."""
        from long_ember.export.solid_out import SOLID_KINDS, solid_bytes  # loaded with the first solid

        kind = path.suffix.lower().lstrip(".")
        if kind not in SOLID_KINDS:
            dialogs.explain(self.window, "The solid was not written", f"{path.name} ends neither in .stl nor in .obj.")
            return False
        return self._written("The solid", path, lambda: write_atomic(path, solid_bytes(self.session.piece, kind)))

    def _written(self, what: str, path: Path, write: Callable[[], object]) -> bool:
        done = self.guarded(f"{what} was not written", write)
        if done:
            self.session.wrote.emit(f"{what} is in {path.name}.", path)
        return done

    def guarded(self, title: str, work: Callable[[], object]) -> bool:
        """Do something that files may refuse; a refusal is explained."""
        try:
            work()
        except EmberError as error:
            dialogs.explain(self.window, title, str(error))
            return False
        return True

    def file_stem(self) -> str:
        """The piece's name as a file name."""
        words = "".join(c if c.isalnum() else " " for c in self.session.piece.name.lower()).split()
        return "-".join(words) or "piece"
