"""The main window: rail, header, answer, screens, menus."""

from __future__ import annotations

import importlib
from collections.abc import Callable, Iterator
from functools import cached_property, partial
from pathlib import Path
from types import ModuleType
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QRectF, QSize, Qt, QTimer
from PySide6.QtGui import QAction, QCloseEvent, QKeySequence
from PySide6.QtWidgets import QHBoxLayout, QMainWindow, QStackedWidget, QVBoxLayout, QWidget

from long_ember.demo import demo_parcel
from long_ember.document import Document, add_feature, make_mate, move, pin_order, remove, turn_round
from long_ember.errors import EmberError
from long_ember.features import KINDS
from long_ember.features.traced import Traced, course_text
from long_ember.geometry import follow
from long_ember.records import LogEntry
from long_ember.storage import Backup, write_atomic, write_piece
from long_ember.ui.answer_bar import AnswerBar, SumSheet
from long_ember.ui.desk.bookwork import BookWork
from long_ember.ui.desk.library import Library, reopened
from long_ember.ui.desk.session import Session
from long_ember.ui.desk.worker import Worker
from long_ember.ui.faults import Faults
from long_ember.ui.header import Header
from long_ember.ui.rail import Rail
from long_ember.ui.shape.shape_view import ShapeView
from long_ember.ui.shape.strip import add_kind
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import stylesheet
from long_ember.ui.widgets.asking import AskingDialog
from long_ember.ui.widgets.commands import Command, Commands
from long_ember.ui.widgets.message import MessageLine

if TYPE_CHECKING:
    from long_ember.ui.book.book_view import BookView
    from long_ember.ui.cut.cut_view import CutView
    from long_ember.ui.heats.heats_view import HeatsView
    from long_ember.ui.mark.mark_view import MarkView
    from long_ember.ui.shape.catalogue import Catalogue
    from long_ember.ui.stock.stock_view import StockView
    from long_ember.ui.trouble import TroublePage

__all__ = ["VERBS", "MainWindow"]

VERBS = (("shape", "Shape"), ("stock", "Stock"), ("mark", "Mark"), ("heats", "Heats"), ("cut", "Cut"), ("book", "Book"))
_MENUS = {"file": "&File", "edit": "&Edit", "add": "&Add", "view": "&View", "help": "&Help"}


_WHOLE = "With pictures (*.zip);;Without them (*.json)"


def _dialogs() -> ModuleType:
    """Dialogs, the printed sheet and the guide are loaded when they are first asked for."""
    return importlib.import_module("long_ember.ui.widgets.dialogs")


class MainWindow(QMainWindow):
    """One piece on the bench."""

    def __init__(self, session: Session, library: Library) -> None:
        super().__init__()
        self.session = session
        self.library = library
        library.setParent(self)
        self.work = BookWork(session, library, self)
        self.work.opened.connect(partial(self.show_view, 0))
        self.work.cuts_asked.connect(self.show_cuts)
        self.work.costs_asked.connect(self.show_costs)
        self.header = Header(session)
        self.answer_bar = AnswerBar(session)
        self.shape = ShapeView(session)
        self.rail = Rail(session, VERBS)
        self.rail.chosen.connect(self.show_view)
        self.stack = QStackedWidget()
        self.stack.addWidget(self.shape)
        self.message = MessageLine()
        self._lay_out()
        self.sum_sheet = SumSheet(session, self._centre)
        self.answer_bar.pressed.connect(self._toggle_sum)
        self.commands = Commands(self._commands())
        self.faults = Faults(self)
        self._changing = [c for c in self.commands if c.changes]
        self._actions: dict[str, QAction] = {}
        self._troubled = False
        self._build_menus()
        self.idle = QTimer(self, singleShot=True, interval=1500)  # when the hands rest
        session.refreshed.connect(self.idle.start)
        self.pause = QTimer(self, singleShot=True, interval=300)  # between two edits
        self.pause.timeout.connect(session.look_for_contacts)
        self.pause.timeout.connect(self._learn)
        self._log_stale, self._log_deeds = True, -1
        self._reading: Iterator[tuple[LogEntry, ...] | None] = iter(())
        self._log_turn = QTimer(self, interval=0)
        self._log_turn.timeout.connect(self._read_on)
        session.refreshed.connect(self.pause.start)
        self.pause.start()
        self.shape.all_shapes.clicked.connect(self.show_catalogue)
        session.said.connect(self.message.say)
        library.kept.connect(self._kept)
        library.copied.connect(self._copied)
        library.changed.connect(self._update_actions)
        library.changed.connect(self._log_changed)
        session.refreshed.connect(self._title)
        session.refreshed.connect(self._update_actions)
        session.troubled.connect(self._troubled_piece)
        session.selected.connect(self._update_actions)
        session.restyled.connect(self._restyle)
        self._restyle()
        self._title()
        self._update_actions()
        self.resize(1280, 800)
        self.shape.canvas.setFocus()

    def sizeHint(self) -> QSize:
        """A small laptop's screen."""
        return QSize(1280, 800)

    @cached_property
    def stock(self) -> StockView:
        """The choice of bar."""
        view: StockView = importlib.import_module("long_ember.ui.stock.stock_view").StockView(self.work)
        self.stack.addWidget(view)
        return view

    @cached_property
    def mark(self) -> MarkView:
        """The marking screen."""
        view: MarkView = self._added(importlib.import_module("long_ember.ui.mark.mark_view").MarkView)
        return view

    @cached_property
    def heats(self) -> HeatsView:
        """The sequence screen."""
        view: HeatsView = self._added(importlib.import_module("long_ember.ui.heats.heats_view").HeatsView)
        view.sheet_asked.connect(self._ask_heat_sheet)
        view.table_asked.connect(self._ask_heats)
        view.rules_asked.connect(self.show_rules)
        view.batch_asked.connect(self.show_batch)
        view.log_asked.connect(self.ask_log)
        return view

    @cached_property
    def cut(self) -> CutView:
        """The sawing screen."""
        view: CutView = importlib.import_module("long_ember.ui.cut.cut_view").CutView(self.work)
        self.stack.addWidget(view)
        view.piece.export_asked.connect(self._ask_csv)
        view.turned.connect(self._dress)
        return view

    @cached_property
    def book(self) -> BookView:
        """Everything that is kept."""
        view: BookView = importlib.import_module("long_ember.ui.book.book_view").BookView(self.work)
        view.example_asked.connect(partial(self.commands.run, "file.demo"))
        self.stack.addWidget(view)
        return view

    @cached_property
    def catalogue(self) -> Catalogue:
        """All shapes with pictures."""
        view: Catalogue = self._added(importlib.import_module("long_ember.ui.shape.catalogue").Catalogue)
        view.closed.connect(partial(self.show_view, 0))
        return view

    def show_cuts(self, job_id: str) -> None:
        """The cut list of a job."""
        self.show_view([verb for verb, _word in VERBS].index("cut"))
        self.cut.show_jobs((job_id,))

    def show_costs(self) -> None:
        """What the shop's hours cost."""
        self.show_view(len(VERBS) - 1)
        self.book.show_group("Costs")

    def show_catalogue(self) -> None:
        """Pick a shape by its picture or any of its names."""
        self.stack.setCurrentWidget(self.catalogue)
        self.catalogue.open()

    def _added(self, make: Callable[[Session], Any]) -> Any:
        """A screen made when it is first wanted: the window opens sooner with one screen than with four."""
        view = make(self.session)
        self.stack.addWidget(view)
        return view

    # --- layout

    def _lay_out(self) -> None:
        right = QVBoxLayout()
        right.setContentsMargins(0, 0, 0, 0)
        right.setSpacing(0)
        for widget in (self.header, self.answer_bar, self.stack, self.message):
            right.addWidget(widget, 1 if widget is self.stack else 0)
        row = QHBoxLayout()
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self.rail)
        row.addLayout(right, 1)
        self._centre = QWidget()
        self._centre.setLayout(row)
        self.setCentralWidget(self._centre)

    def _build_menus(self) -> None:
        menus = {key: self.menuBar().addMenu(title) for key, title in _MENUS.items()}
        self.menuBar().setFont(font(15))
        for command in self.commands:
            action = QAction(command.words, self)
            if command.keys:
                action.setShortcut(QKeySequence(command.keys))
            action.setToolTip(command.tip)
            action.triggered.connect(partial(self._run, command.id))
            menu = menus[command.id.split(".")[0]]
            menu.setFont(font(15))
            menu.addAction(action)
            self._actions[command.id] = action

    def _run(self, command_id: str, _checked: bool = False) -> None:
        self.commands.run(command_id)

    def _commands(self) -> list[Command]:
        session, document = self.session, self.session.document

        def steps() -> Library | Document:
            """On the Book screen, and over a job's cut list, undo takes back what was done to the book, elsewhere to the piece."""
            return self.library if self._on_book() or self._on_jobs() else document

        def act() -> Library | Session:
            return self.library if self._on_book() or self._on_jobs() else session

        def chosen() -> bool:
            return session.piece.index(session.selection) >= 0

        def shift(by: int) -> None:
            session.attempt(move, session.selection, session.piece.index(session.selection) + by)

        def titled(word: str, what: str) -> str:
            return f"{word} {what[:1].lower()}{what[1:]}" if what else word

        return [
            Command("file.new", "New piece", self.work.new_piece, "Ctrl+N"),
            Command("file.open", "From the book…", partial(self.show_view, len(VERBS) - 1), "Ctrl+O"),
            Command(
                "file.state",
                "Name this state…",
                lambda: self.work.ask_state(session.piece_id),
                "Ctrl+S",
                tip="Everything is kept by itself",
            ),
            Command(
                "file.in", "Bring in…", self.work.ask_in, "Ctrl+Shift+I", tip="Pieces, jobs, rack or prices from JSON, CSV, ZIP or a book"
            ),
            Command("file.demo", "Bring in the demo pieces", lambda: self.work.review(demo_parcel(), "Merrow Landing")),
            Command("file.out", "Write the piece to a file…", self._ask_out, "Ctrl+Shift+S"),
            Command(
                "file.shown", "Write the pieces in sight to a file…", self._ask_shown, "", self._on_book, "Those on the wall, as found"
            ),
            Command("file.whole", "Write the whole book to a file…", self._ask_whole),
            Command("file.backups", "Backups…", self._ask_backups),
            Command("file.other", "Another book…", self._ask_book, "Ctrl+Shift+O"),
            Command("file.csv", "Cut list as CSV…", self._ask_csv, "Ctrl+E", lambda: session.answer.cuts is not None or self._on_jobs()),
            Command(
                "file.sheet",
                "Sheet as PDF…",
                self._ask_sheet,
                "Ctrl+P",
                lambda: bool(session.piece.features) or self._on_jobs(),
                "Drawing, sum, marks, heats, cautions; of jobs the cut list",
            ),
            Command(
                "file.heatsheet",
                "Heat sheet as PDF…",
                self._ask_heat_sheet,
                "Ctrl+Shift+P",
                lambda: bool(session.answer.plan.packed),
                "The sequence for the wall, with boxes to tick",
            ),
            Command("view.rules", "Rules of order…", self.show_rules, "Ctrl+Shift+U", lambda: bool(session.answer.plan.packed)),
            Command("view.batch", "Batch…", self.show_batch, "Ctrl+Shift+B", lambda: bool(session.answer.plan.packed)),
            Command("edit.log", "Log what happened…", self.ask_log, "Ctrl+Shift+L", lambda: bool(session.answer.plan.packed)),
            Command(
                "edit.unpin",
                "Let all pins go",
                lambda: session.attempt(pin_order, (), "Let all pins go"),
                "",
                lambda: bool(session.piece.planning.pins),
            ),
            Command("file.heats", "Heats as CSV or JSON…", self._ask_heats, "Ctrl+Shift+E", lambda: bool(session.answer.plan.packed)),
            Command(
                "file.curve", "Curve from a drawing…", self._ask_curve, "Ctrl+I", tip="A centreline from an SVG or DXF file, as a bend"
            ),
            Command("file.solid", "Solid as STL or OBJ…", self._ask_solid, "", lambda: bool(session.piece.features)),
            Command("file.quit", "Quit", self.close, "Ctrl+Q"),
            Command(
                "edit.undo", lambda: titled("Undo", steps().undo_title), lambda: act().undo(), "Ctrl+Z", lambda: bool(steps().undo_title)
            ),
            Command(
                "edit.redo",
                lambda: titled("Redo", steps().redo_title),
                lambda: act().redo(),
                "Ctrl+Shift+Z",
                lambda: bool(steps().redo_title),
            ),
            Command("edit.duplicate", "Duplicate feature", self.shape.strip.duplicate_selected, "Ctrl+D", chosen),
            Command("edit.remove", "Remove feature", lambda: session.attempt(remove, session.selection), "Ctrl+Del", chosen),
            Command("edit.left", "Move feature toward A", lambda: shift(-1), "Ctrl+Shift+Left", chosen),
            Command("edit.right", "Move feature toward B", lambda: shift(1), "Ctrl+Shift+Right", chosen),
            Command("edit.fit", "Use a bar exactly…", partial(self._ask, "FitBar"), "Ctrl+G", chosen),
            Command("edit.repeat", "Repeat feature…", partial(self._ask, "Repeat"), "", chosen),
            Command("edit.scale", "Scale the design…", self.work.ask_scale, "", lambda: bool(session.piece.features)),
            Command("edit.mate", "Make the mate", partial(session.attempt, make_mate), "", chosen, "The other of a pair: its mirror image"),
            Command("edit.round", "Exchange the ends", partial(session.attempt, turn_round), "", chosen),
            *(Command(f"add.{kind}", cls.title, partial(add_kind, session, kind)) for kind, cls in KINDS.items()),
            *(Command(f"view.{verb}", word, partial(self.show_view, i), f"Ctrl+{i + 1}") for i, (verb, word) in enumerate(VERBS)),
            Command("view.catalogue", "All shapes", self.show_catalogue, "Ctrl+K"),
            Command("view.calculator", "Calculator", self.show_calculator, "Ctrl+R"),
            Command("view.blanks", "Sheet and plate", self.show_blanks, "Ctrl+Shift+R"),
            Command("view.side", "From the side", partial(self.shape.canvas.look_from, "side"), "Alt+1"),
            Command("view.plan", "From above", partial(self.shape.canvas.look_from, "plan"), "Alt+2"),
            Command("view.turned", "Turned, as a solid", partial(self.shape.canvas.look_from, "turn"), "Alt+3"),
            Command("view.sum", "Sum of the cut length", self._toggle_sum, "Ctrl+L"),
            Command("view.bar", "Type the bar", self._focus_bar, "Ctrl+B"),
            Command("view.units", "Switch mm and inch", self.header.toggle_units, "Ctrl+U"),
            Command("view.theme", "Switch light and dark", self.header.toggle_theme, "Ctrl+T"),
            Command("view.in", "Zoom in", lambda: self.shape.canvas.zoom(1.25), "Ctrl++"),
            Command("view.out", "Zoom out", lambda: self.shape.canvas.zoom(0.8), "Ctrl+-"),
            Command("view.fit", "Fit", lambda: self.shape.canvas.fit(), "Ctrl+0"),
            Command("help.keys", "Keys and ways to type lengths", self._show_help, "F1"),
        ]

    def show_book(self) -> None:
        """The book, from wherever one is."""
        self.show_view(len(VERBS) - 1)

    @cached_property
    def trouble_page(self) -> TroublePage:
        """In the place of every screen that would show the piece."""
        view: TroublePage = importlib.import_module("long_ember.ui.trouble").TroublePage(self)
        self.stack.addWidget(view)
        return view

    def _troubled_piece(self) -> None:
        """The piece can't be reckoned, or can again."""
        self.sum_sheet.hide()
        if not self._on_book():
            self.show_view(self.rail.current)
        if self.session.trouble is not None:
            self._title()

    def show_view(self, index: int) -> None:
        """Switch screens; piece, selection and zoom stay."""
        if self.session.trouble is not None and index != len(VERBS) - 1:
            self.trouble_page.renew()
            self.stack.setCurrentWidget(self.trouble_page)
            self.rail.show_current(index)
            self._dress()
            return
        views = (lambda: self.shape, lambda: self.stock, lambda: self.mark, lambda: self.heats, lambda: self.cut, lambda: self.book)
        self.stack.setCurrentWidget(views[index]())
        self.rail.show_current(index)
        self._dress()

    def _dress(self) -> None:
        """Above the book and above jobs stands their name, elsewhere the piece with its answer."""
        in_trouble = self.session.trouble is not None and not self._on_book()
        title = (
            f"The book of {self.session.shop.name}"
            if self._on_book()
            else self.session.piece.name
            if in_trouble
            else self.cut.title
            if self._on_jobs()
            else ""
        )
        self.answer_bar.setVisible(not title)
        self.header.show_title(title)
        self._update_actions()

    def _on_book(self) -> bool:
        return "book" in self.__dict__ and self.stack.currentWidget() is self.book

    def _on_jobs(self) -> bool:
        return "cut" in self.__dict__ and self.stack.currentWidget() is self.cut and self.cut.on_jobs

    def _focus_bar(self) -> None:
        self.header.bar.setFocus(Qt.FocusReason.ShortcutFocusReason)

    def _toggle_sum(self) -> None:
        self.sum_sheet.toggle(QRectF(self.answer_bar.geometry()))

    def _restyle(self) -> None:
        self.setStyleSheet(stylesheet(self.session.theme))

    def _title(self) -> None:
        state = " (looking only)" if self.library.read_only else ""
        title = f"{self.session.piece.name}{state} · {self.library.path.stem} · Long Ember"
        if title != self.windowTitle():
            self.setWindowTitle(title)

    def _kept(self, trouble: str) -> None:
        """Tell when the disk refuses, and when it no longer does."""
        if trouble:
            self.session.said.emit(f"Not kept yet. {trouble}", True)
        elif self._troubled:
            self.session.said.emit("Everything is on disk again.", False)
        self._troubled = bool(trouble)

    def _copied(self, why: str, words: str) -> None:
        """Tell what came of a copy that was asked for, and of one made by itself only when it failed."""
        if words:
            self.session.said.emit(f"No copy of the book was made. {words}", True)
        elif why == "by-hand":
            self.session.said.emit("A copy of the book was made, and can be read.", False)

    def _update_actions(self) -> None:
        for command in self._changing:
            action, words, enabled = self._actions[command.id], command.words, command.enabled()
            if action.text() != words:
                action.setText(words)
            if action.isEnabled() != enabled:
                action.setEnabled(enabled)

    # --- files

    def _ask_out(self) -> None:
        start = Path.home() / f"{self._file_stem()}.json"
        path = _dialogs().save_name(self, "Write the piece to a file", start, "Piece (*.json);;With photos, tags and named states (*.zip)")
        if path is not None:
            self.save_to(path)

    def save_to(self, path: Path) -> bool:
        """Write the piece as a file of its own; a .zip takes along what belongs to it."""
        if path.suffix.lower() == ".zip":
            return self.work.export(path, (self.session.piece_id,))
        return self._written("The piece", path, lambda: write_piece(path, self.session.piece))

    def _ask_whole(self) -> None:
        start = Path.home() / f"{self.library.path.stem}.zip"
        path = _dialogs().save_name(self, "Write the whole book to a file", start, _WHOLE)
        if path is not None:
            self.work.export(path)

    def _ask_shown(self) -> None:
        path = _dialogs().save_name(self, "Write the pieces in sight to a file", Path.home() / "pieces.zip", _WHOLE)
        if path is not None:
            self.work.export(path, tuple(entry.id for entry in self.book.wall.entries))

    # --- books

    def _ask_book(self) -> None:
        importlib.import_module("long_ember.ui.books").BooksDialog(self).open()

    def open_book(self, path: Path) -> None:
        """Put this book away and take another; a missing one is made."""
        self.work.finishing.emit()
        if not self._may_leave():
            return
        opened = reopened(path)
        if opened.book is None and opened.read_only:
            _dialogs().explain(self, "The book was not opened", opened.read_only)
            opened.close()
            return
        self.library.change(opened)
        self.greet()

    def greet(self, *, again: bool = True) -> None:
        """Tell what was found when the book was opened, and ask about the shop on the first day.

        Args:
            again: another book than before: take its shop, and the piece that was open in it last.
        """
        session, library = self.session, self.library
        shop = library.shop
        if again:
            session.adopt(shop or session.shop)
            last = library.fact("open") or next((e.id for e in library.entries if e.state == "kept"), "")
            if not (library.entry(last) is not None and self.work.open_piece(last)):
                self.work.new_piece()
        session.configure(session.settings.opened(str(library.path)))
        told = [*library.opened.told, *([library.read_only] if library.read_only else [])]
        self._title()
        if told:
            self.session.said.emit(told[0], bool(library.opened.aside or library.read_only or library.trouble))
        if library.opened.aside is not None:
            _dialogs().explain(self, "The book was damaged", "\n\n".join(told))
        if shop is None and not library.read_only:
            self.work.ask_first_day()

    def _ask_backups(self) -> None:
        self.work.ask_backups(self.restore)

    def restore(self, backup: Backup) -> None:
        """Put a backup in the place of the book; the present one is kept as a backup too."""
        if self._guarded("The backup was not put back", lambda: self.library.restore(backup)):
            self.greet()
            self.session.said.emit("The backup was put back. The book as it was is among the backups.", False)

    def _ask_csv(self) -> None:
        if self._on_jobs():
            self.cut.jobs.ask_table("cuts")
            return
        path = _dialogs().save_name(self, "Cut list as CSV", Path.home() / f"{self._file_stem()}-cut-list.csv", "CSV (*.csv)")
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

    def _ask_sheet(self) -> None:
        if self._on_jobs():
            self.cut.jobs.ask_paper("cuts")
            return
        path = _dialogs().save_name(self, "Sheet as PDF", Path.home() / f"{self._file_stem()}-sheet.pdf", "PDF (*.pdf)")
        if path is not None:
            self.export_sheet(path)

    def export_sheet(self, path: Path) -> bool:
        """Write the sheet for the wall."""
        write_sheet = importlib.import_module("long_ember.ui.paper.printing").write_sheet
        return self._written("The sheet", path, lambda: write_sheet(path, self.session))

    def _ask_heat_sheet(self) -> None:
        path = _dialogs().save_name(self, "Heat sheet as PDF", Path.home() / f"{self._file_stem()}-heats.pdf", "PDF (*.pdf)")
        if path is not None:
            self.export_heat_sheet(path)

    def export_heat_sheet(self, path: Path) -> bool:
        """Write the sequence for the wall, with boxes to tick."""
        write = importlib.import_module("long_ember.ui.paper.heat_sheet").write_heat_sheet
        return self._written("The heat sheet", path, lambda: write(path, self.session))

    def _ask_heats(self) -> None:
        kinds = "Table (*.csv);;JSON (*.json)"
        path = _dialogs().save_name(self, "Heats as CSV or JSON", Path.home() / f"{self._file_stem()}-heats.csv", kinds)
        if path is not None:
            self.export_heats(path)

    def export_heats(self, path: Path) -> bool:
        """Write the sequence for other programs: JSON by the file's ending, otherwise CSV."""
        from long_ember.export import heats_csv, heats_json

        make = heats_json if path.suffix.lower() == ".json" else heats_csv
        return self._written("The heats", path, lambda: write_atomic(path, make(self.session.answer, self.session.measure)))

    def show_rules(self) -> None:
        """Which rule of order holds where; stays open beside the sequence."""
        self.rules = importlib.import_module("long_ember.ui.heats.rules_panel").RulesPanel(self.session, self)
        self.rules.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.rules.show()

    def show_batch(self) -> None:
        """Many of the piece: timetable, irons, fixtures."""
        self.batch = importlib.import_module("long_ember.ui.heats.batch_panel").BatchPanel(self.session, self)
        self.batch.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.batch.show()

    def ask_log(self) -> None:
        """Write down what a piece really took."""
        importlib.import_module("long_ember.ui.heats.log_panel").LogPanel(self.work, self).exec()

    def _log_changed(self) -> None:
        if self.library.deeds != self._log_deeds:  # a piece that is kept changes no entry of the log
            self._log_stale = True
            self.pause.start()

    def _learn(self) -> None:
        """Reckon with what has been logged; read when the hands rest."""
        if self._log_stale:
            self._log_stale, self._log_deeds = False, self.library.deeds
            self._reading = self.library.log()
            self._log_turn.start()

    def _read_on(self) -> None:
        """Another portion of the log; the window goes on between them."""
        try:
            entries = next(self._reading)
        except EmberError:  # the book is being changed for another, or its disk refuses: next time
            self._log_stale = True
            self._log_turn.stop()
            return
        if entries is not None:
            self._log_turn.stop()
            self.session.learn(entries)

    def show_calculator(self) -> None:
        """Reckon one feature on its own."""
        self.calculator = importlib.import_module("long_ember.ui.shape.calculator").Calculator(self.session, self)
        self.calculator.show()

    def show_blanks(self) -> None:
        """Reckon blanks of sheet and plate."""
        self.blanks = importlib.import_module("long_ember.ui.shape.blank_view").BlankDialog(self.session, self, self.work)
        self.blanks.show()

    def _ask(self, question: str) -> None:
        getattr(importlib.import_module("long_ember.ui.shape.forms"), question)(self.session, self).exec()

    def _ask_curve(self) -> None:
        path = _dialogs().open_name(self, "Curve from a drawing", Path.home(), "Drawing (*.svg *.dxf)")
        if path is not None:
            self.import_curve(path)

    def import_curve(self, path: Path) -> None:
        """Add the longest line of a drawing as a traced curve; a file that can't be read is explained and nothing changes."""

        def read(_progress: Callable[[int, int], None]) -> str:
            return course_text(follow(importlib.import_module("long_ember.storage.trace_file").read_curve(path)))

        def add(course: str) -> None:
            session, at = self.session, self.session.piece.index(self.session.selection)
            session.attempt(add_feature, len(session.piece.features) if at < 0 else at + 1, Traced(id="x", course=course))

        self.work.slow(f"Reading {path.name}", "The drawing was not taken over", read, add)

    def _ask_solid(self) -> None:
        path = _dialogs().save_name(self, "Solid", Path.home() / f"{self._file_stem()}.stl", "Solid (*.stl *.obj)")
        if path is not None:
            self.export_solid(path)

    def export_solid(self, path: Path) -> bool:
        """Write the finished piece as a solid, by the file's ending."""
        from long_ember.export.solid_out import SOLID_KINDS, solid_bytes  # loaded with the first solid

        kind = path.suffix.lower().lstrip(".")
        if kind not in SOLID_KINDS:
            _dialogs().explain(self, "The solid was not written", f"{path.name} ends neither in .stl nor in .obj.")
            return False
        return self._written("The solid", path, lambda: write_atomic(path, solid_bytes(self.session.piece, kind)))

    def _written(self, what: str, path: Path, write: Callable[[], object]) -> bool:
        done = self._guarded(f"{what} was not written", write)
        if done:
            self.session.said.emit(f"{what} is in {path.name}.", False)
        return done

    def _guarded(self, title: str, work: Callable[[], object]) -> bool:
        """Do something that files may refuse; a refusal is explained."""
        try:
            work()
        except EmberError as error:
            _dialogs().explain(self, title, str(error))
            return False
        return True

    def _file_stem(self) -> str:
        """The piece's name as a file name."""
        words = "".join(c if c.isalnum() else " " for c in self.session.piece.name.lower()).split()
        return "-".join(words) or "piece"

    def _show_help(self) -> None:
        importlib.import_module("long_ember.ui.widgets.help").HelpDialog(self).exec()

    def _may_leave(self) -> bool:
        """Everything is on disk, or the person knows that it is not."""
        if self.library.flush() and not self.session.unkept:
            return True
        answer = _dialogs().ask_unkept(self, self.library.read_only or self.library.trouble)
        if answer == "file":
            self._ask_out()
        return bool(answer == "lose")

    def closeEvent(self, event: QCloseEvent) -> None:
        """Write what is left; ask before anything is lost."""
        self._log_turn.stop()
        self.work.finishing.emit()
        if all(dialog.may_go() for dialog in self.findChildren(AskingDialog) if dialog.isVisible()) and self._may_leave():
            self.session.cancel_search()
            for worker in self.findChildren(Worker):
                worker.leave()
            self.library.close()
            for worker in self.findChildren(Worker):
                worker.join(2.0)
            event.accept()
        else:
            event.ignore()
