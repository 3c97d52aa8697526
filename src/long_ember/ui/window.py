"""The main window: rail, header, answer, screens, menus."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator
from functools import cached_property, partial
from pathlib import Path
from typing import TYPE_CHECKING, Any, TypeVar, cast

from PySide6.QtCore import QRectF, QSize, Qt, QTimer
from PySide6.QtGui import QCloseEvent, QShowEvent
from PySide6.QtWidgets import QDialog, QHBoxLayout, QMainWindow, QStackedWidget, QVBoxLayout, QWidget

from long_ember.desk.library import Library, reopened
from long_ember.desk.session import Session
from long_ember.desk.turns import Portions
from long_ember.desk.worker import Worker
from long_ember.document import Edit
from long_ember.errors import EmberError
from long_ember.features import Piece
from long_ember.learning import taught
from long_ember.records import LogEntry, Start
from long_ember.storage import Backup
from long_ember.ui.actions.bookwork import BookWork
from long_ember.ui.answer_bar import AnswerBar, SumSheet
from long_ember.ui.anvil import Anvil
from long_ember.ui.drawing.glyphs import keep_glyphs_back
from long_ember.ui.faults import Faults
from long_ember.ui.header import Header
from long_ember.ui.rail import FORGE, SCREENS, Rail
from long_ember.ui.shape.shape_view import ShapeView
from long_ember.ui.style.theme import stylesheet, theme_of
from long_ember.ui.unkept import UnkeptBar, kept_words
from long_ember.ui.widgets.asking import AskingDialog
from long_ember.ui.widgets.commands import Command, Commands
from long_ember.ui.widgets.menus import Layout, Menus
from long_ember.ui.widgets.message import MessageLine

if TYPE_CHECKING:
    from PySide6.QtGui import QImage

    from long_ember.ui.book.book_view import BookView
    from long_ember.ui.cut.cut_view import CutView
    from long_ember.ui.cut.job_view import JobView
    from long_ember.ui.heats.batch_panel import BatchPanel
    from long_ember.ui.heats.heats_view import HeatsView
    from long_ember.ui.mark.mark_view import MarkView
    from long_ember.ui.shape.begin import Begin
    from long_ember.ui.shape.catalogue import Catalogue
    from long_ember.ui.shape.photo_page import PhotoPage
    from long_ember.ui.stock.stock_view import StockView
    from long_ember.ui.tables.tables_view import TablesView
    from long_ember.ui.trouble import TroublePage

from long_ember.ui.files import Files
from long_ember.ui.questions import WindowQuestions
from long_ember.ui.widgets import dialogs

__all__ = ["MainWindow"]

_D = TypeVar("_D", bound=QDialog)
_SETTLED = 600  # ms after the first painting until the rest is loaded
_MANY_ENTRIES = 200  # of the log: fewer are reckoned with in a few milliseconds


def _screens() -> Iterator[object]:
    """Load what the first screen does not need, one after the other."""
    from long_ember.ui.stock import stock_view

    yield stock_view
    from long_ember.ui.heats import heats_view

    yield heats_view
    from long_ember.ui.cut import cut_view

    yield cut_view
    from long_ember.ui.book import book_view

    yield book_view
    from long_ember.ui.mark import mark_view

    yield mark_view


class MainWindow(QMainWindow):
    """One piece on the bench."""

    def __init__(self, session: Session, library: Library) -> None:
        super().__init__()
        self.session = session
        self.library = library
        self.message = MessageLine()
        self._restyle()  # before there is anything to dress anew
        self.work = BookWork(session, library, self, WindowQuestions())
        self.files = Files(self, self.work, self._jobs_in_sight, self._pieces_in_sight)
        self.work.opened.connect(partial(self.show_view, 0))
        self.work.cuts_asked.connect(self.show_cuts)
        session.shop_asked.connect(self.show_shop)
        self.header = Header(session)
        self.answer_bar = AnswerBar(session)
        self.shape = ShapeView(session)
        self.rail = Rail(session)
        self.rail.chosen.connect(self.show_view)
        self.rail.painted_first.connect(self._shown_first)
        self.stack = QStackedWidget()
        self.stack.addWidget(self.shape)
        self.unkept = UnkeptBar(library, lambda: self.files.ask_unwritten())
        self._lay_out()
        self.answer_bar.pressed.connect(self.toggle_sum)
        self.answer_bar.taught_asked.connect(self.show_taught)
        self.commands = Commands(())
        self.faults = Faults(self, session, library, self.show_book)
        self.menus = Menus(self, self.run)
        self.anvil = Anvil(self.work, self)
        self.anvil.log_asked.connect(self.ask_log)
        self._troubled = self._shown = False
        self._panels: dict[str, QDialog] = {}  # that are open beside the screens, by name
        self.idle = QTimer(self, singleShot=True, interval=1500)  # when the hands rest
        session.refreshed.connect(self.idle.start)
        self.pause = QTimer(self, singleShot=True, interval=300)  # between two edits
        self.pause.timeout.connect(session.look_for_contacts)
        self.pause.timeout.connect(self._learn)
        self._log_stale, self._log_deeds = True, -1
        self._considering: Worker | None = None
        self._reading: Iterator[tuple[LogEntry, ...] | None] = iter(())
        self._log_turn = QTimer(self, interval=0)
        self._log_turn.timeout.connect(self._read_on)
        self._ahead = Portions(session.loop, session.turns, "wall")
        session.refreshed.connect(self.pause.start)
        self.pause.start()
        self.shape.all_shapes.clicked.connect(self.show_catalogue)
        session.said.connect(self.message.say)
        session.wrote.connect(self.message.wrote)
        session.lesson.connect(self._offer_lesson)
        self.anvil.said.connect(self.message.say)
        library.kept.connect(self._kept)
        self.work.timeline.shown.connect(self.show_deed)
        library.copied.connect(self._copied)
        library.changed.connect(self.menus.follow)
        library.changed.connect(self._log_changed)
        session.refreshed.connect(self._title)
        following = Portions(session.loop, session.turns, "menus")
        session.refreshed.connect(lambda: following.follow(len(session.piece.features), self.menus.follow))
        session.troubled.connect(self._troubled_piece)
        session.selected.connect(self.menus.follow)
        session.restyled.connect(self._restyle)
        self._title()
        self.menus.follow()
        self.resize(1280, 800)
        self.shape.canvas.setFocus()

    def showEvent(self, event: QShowEvent) -> None:
        """The piece first; the small pictures of its shapes, and what is in the menus, once it is painted."""
        if not self._shown:
            self._shown = True
            keep_glyphs_back(True)
        super().showEvent(event)

    def _shown_first(self) -> None:
        keep_glyphs_back(False)
        self.shape.renew_glyphs()
        self.menus.fill()
        QTimer.singleShot(_SETTLED, self, self._load_screens)

    def _load_screens(self) -> None:
        """The other screens, in a thread: they are there when they are first asked for."""

        def work(worker: Worker) -> None:
            for _module in _screens():
                worker.step()

        Worker(self.session.loop, work).start()

    def sizeHint(self) -> QSize:
        """A small laptop's screen."""
        return QSize(1280, 800)

    @cached_property
    def sum_sheet(self) -> SumSheet:
        """The sum of the cut length, over the screens."""
        return SumSheet(self.session, self._centre)

    @cached_property
    def stock(self) -> StockView:
        """The choice of bar."""
        from long_ember.ui.stock.stock_view import StockView

        view: StockView = StockView(self.work)
        self.stack.addWidget(view)
        return view

    @cached_property
    def mark(self) -> MarkView:
        """The marking screen."""
        from long_ember.ui.mark.mark_view import MarkView

        view: MarkView = self._added(MarkView)
        view.print_asked.connect(self.files.ask_print)
        return view

    @cached_property
    def heats(self) -> HeatsView:
        """The sequence screen."""
        from long_ember.ui.heats.heats_view import HeatsView

        view: HeatsView = self._added(HeatsView)
        view.sheet_asked.connect(partial(self.files.ask_print, "heats"))
        view.table_asked.connect(self.files.ask_heats)
        view.rules_asked.connect(self.show_rules)
        view.own_asked.connect(self.show_own)
        view.batch_asked.connect(self.show_batch)
        view.log_asked.connect(lambda: self.ask_log())
        return view

    @cached_property
    def cut(self) -> CutView:
        """The sawing screen."""
        from long_ember.ui.cut.cut_view import CutView

        view: CutView = CutView(self.work)
        self.stack.addWidget(view)
        view.piece.export_asked.connect(self.files.ask_csv)
        view.turned.connect(self._dress)
        view.jobs.paper_asked.connect(self.files.ask_print)
        return view

    @cached_property
    def book(self) -> BookView:
        """Everything that is kept."""
        from long_ember.ui.book.book_view import BookView

        view: BookView = BookView(self.work)
        view.example_asked.connect(lambda: self.run("file.demo"))
        self.stack.addWidget(view)
        return view

    @cached_property
    def tables(self) -> TablesView:
        """Tables for the wall."""
        from long_ember.ui.tables.tables_view import TablesView

        view: TablesView = self._added(TablesView)
        view.closed.connect(partial(self.show_view, 0))
        view.print_asked.connect(self.files.ask_print)
        return view

    @cached_property
    def catalogue(self) -> Catalogue:
        """All shapes with pictures."""
        from long_ember.ui.shape.catalogue import Catalogue

        view: Catalogue = self._added(Catalogue)
        view.closed.connect(partial(self.show_view, 0))
        return view

    @cached_property
    def beginning(self) -> Begin:
        """Starts by their pictures, and the piece as a line."""
        from long_ember.ui.shape.begin import Begin

        view: Begin = self._added(lambda session: Begin(session, self.library))
        view.closed.connect(partial(self.show_view, 0))
        view.made.connect(self._begun)
        view.pictured.connect(self.show_picture)
        view.taken_out.connect(lambda identity: self.work.remove_record(identity, self.library.records(Start)[identity]))
        return view

    @cached_property
    def photo(self) -> PhotoPage:
        """A piece from a picture."""
        from long_ember.ui.shape.photo_page import PhotoPage

        view: PhotoPage = self._added(PhotoPage)
        view.closed.connect(partial(self.show_view, 0))
        view.made.connect(lambda piece: self._begun(piece, False))
        return view

    def show_photo(self) -> None:
        """Begin a piece from a photo or a drawing."""
        self.stack.setCurrentWidget(self.photo)

    def show_picture(self, path: Path) -> None:
        """A picture that was dropped, to be followed."""
        self.show_photo()
        self.photo.open_file(path)

    def show_image(self, image: QImage) -> None:
        """A picture that was pasted, to be followed."""
        self.show_photo()
        self.photo.open_image(image)

    def show_begin(self) -> None:
        """Begin another piece."""
        self.stack.setCurrentWidget(self.beginning)
        self.beginning.open_new()

    def show_line(self) -> None:
        """The piece on the bench as a line."""
        self.stack.setCurrentWidget(self.beginning)
        self.beginning.open_line()

    def ask_book_question(self, question: str) -> None:
        """Ask one of the short questions about the piece and the book."""
        from long_ember.ui.book import quick

        self.work.finishing.emit()
        self.library.flush()  # what is on the bench is among the pieces that are offered
        getattr(quick, question)(self.work, self).exec()

    def ask_start(self) -> None:
        """The piece on the bench as a start of the shop's own."""
        from long_ember.ui.shape.start_form import StartForm

        StartForm(self.work, self).exec()

    def _begun(self, piece: Piece | None, replaces: bool) -> None:
        if piece is None:
            self.work.new_piece()
        elif replaces:
            from long_ember.shorthand import carried

            before = self.session.piece
            made = carried(piece, before)
            self.session.apply(Edit("Write the piece", before, made, made.features[0].id))
        else:
            self.work.begin(piece)
        self.show_view(0)

    def show_cuts(self, job_id: str) -> None:
        """The cut list of a job."""
        self.show_view([verb for verb, _word in SCREENS].index("cut"))
        self.cut.show_jobs((job_id,))

    def show_shop(self, page: str) -> None:
        """One page of the shop's settings."""
        self.show_view(len(SCREENS) - 1)
        self.book.shop.show_page(page)

    def show_deed(self, where: str) -> None:
        """Show what was taken back or done again, where it is not in sight."""
        if where == "bench" and (self.on_book() or self.on_jobs()):
            self.show_view(0)
        elif where == "cut" and not self.on_jobs() and not self.on_book():
            self.show_view([verb for verb, _word in SCREENS].index("cut"))
        elif where == "book" and not self.on_book():
            self.show_book()

    def look_turned(self) -> None:
        """The piece as a solid: on Heats as it is at that moment, elsewhere finished."""
        if "heats" in self.__dict__ and self.stack.currentWidget() is self.heats:
            self.heats.stage.turned_button.click()
        else:
            self.shape.canvas.look_from("turn")

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
        for widget in (self.header, self.answer_bar, self.stack, self.unkept, self.message):
            right.addWidget(widget, 1 if widget is self.stack else 0)
        row = QHBoxLayout()
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        row.addWidget(self.rail)
        row.addLayout(right, 1)
        self._centre = QWidget()
        self._centre.setLayout(row)
        self.setCentralWidget(self._centre)

    def take_commands(self, commands: Iterable[Command], layout: Layout) -> None:
        """Put these into the menus, and their keys in force: once the piece is on the screen."""
        self.commands = Commands(commands)
        self.menus.take(self.commands, layout)

    def run(self, command_id: str) -> None:
        """One of the commands, by its id."""
        self.commands.run(command_id)

    def show_book(self) -> None:
        """The book, from wherever one is."""
        self.show_view(len(SCREENS) - 1)

    @cached_property
    def trouble_page(self) -> TroublePage:
        """In the place of every screen that would show the piece."""
        from long_ember.ui.trouble import TroublePage

        view: TroublePage = TroublePage(self.session, self.library, self.show_book, lambda: self.run("file.out"))
        self.stack.addWidget(view)
        return view

    def _troubled_piece(self) -> None:
        """The piece can't be reckoned, or can again."""
        if "sum_sheet" in self.__dict__:
            self.sum_sheet.hide()
        if not self.on_book():
            self.show_view(self.rail.current)
        if self.session.trouble is not None:
            self._title()

    def show_view(self, index: int) -> None:
        """Switch screens; piece, selection and zoom stay."""
        if index == FORGE:
            self.anvil.show()
            return
        if self.session.trouble is not None and index != len(SCREENS) - 1:
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
        in_trouble = self.session.trouble is not None and not self.on_book()
        title = (
            f"The book of {self.session.shop.name}"
            if self.on_book()
            else self.session.piece.name
            if in_trouble
            else self.cut.title
            if self.on_jobs()
            else ""
        )
        self.answer_bar.setVisible(not title)
        self.header.show_title(title)
        self.menus.follow()

    def on_book(self) -> bool:
        """The Book screen is in sight."""
        return "book" in self.__dict__ and self.stack.currentWidget() is self.book

    def on_jobs(self) -> bool:
        """Jobs are in sight on the Cut screen."""
        return "cut" in self.__dict__ and self.stack.currentWidget() is self.cut and self.cut.on_jobs

    def _jobs_in_sight(self) -> JobView | None:
        return self.cut.jobs if self.on_jobs() else None

    def _pieces_in_sight(self) -> tuple[str, ...]:
        return tuple(entry.id for entry in self.book.wall.entries)

    def ask_print(self) -> None:
        """Print what belongs to the screen in sight."""
        verb = SCREENS[self.rail.current][0]
        self.files.ask_print({"mark": "marks", "heats": "heats", "cut": "cut", "book": "tables"}.get(verb, "plan"))

    def ask_picture(self) -> None:
        """The drawing of the screen in sight, as a file."""
        from long_ember.ui.paper.picture import PictureForm

        drawn: QWidget = self.stack.currentWidget() or self.shape
        if drawn is self.shape:
            drawn = self.shape.canvas
        elif "mark" in self.__dict__ and drawn is self.mark:
            drawn = self.mark.board
        elif "heats" in self.__dict__ and drawn is self.heats:
            drawn = self.heats.stage
        elif self.on_jobs():
            drawn = self.cut.jobs.bars
        PictureForm(self.session, drawn, self.files.file_stem(), self).exec()

    def focus_bar(self) -> None:
        """The bar is typed next."""
        self.header.bar.setFocus(Qt.FocusReason.ShortcutFocusReason)

    def toggle_sum(self) -> None:
        """Open or close the sum of the cut length."""
        self.sum_sheet.toggle(QRectF(self.answer_bar.geometry()))

    def _restyle(self) -> None:
        theme = theme_of(self.session)
        self.setStyleSheet(stylesheet(theme))
        self.message.link = theme.accent

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
            self.session.said.emit(kept_words(self.library) if self.library.unwritten else "Everything is on disk again.", False)
        self._troubled = bool(trouble)

    def _copied(self, why: str, words: str) -> None:
        """Tell what came of a copy that was asked for, and of one made by itself only when it failed."""
        if words:
            self.session.said.emit(f"No copy of the book was made. {words}", True)
        elif why == "by-hand":
            self.session.said.emit("A copy of the book was made, and can be read.", False)

    # --- books

    def ask_book(self) -> None:
        """Ask for another book."""
        from long_ember.ui.books import BooksDialog

        BooksDialog(self, self.session, self.library, self.open_book).open()

    def open_book(self, path: Path) -> None:
        """Put this book away and take another; a missing one is made."""
        self.work.finishing.emit()
        if not self._may_leave():
            return
        opened = reopened(path)
        if opened.book is None and opened.read_only:
            dialogs.explain(self, "The book was not opened", opened.read_only)
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
        told = [*library.opened.notices, *([library.read_only] if library.read_only else [])]
        self._title()
        if told:
            self.session.said.emit(told[0], bool(library.opened.aside or library.read_only or library.trouble))
        if library.opened.aside is not None:
            dialogs.explain(self, "The book was damaged", "\n\n".join(told))
        if shop is None and not library.read_only:
            self.work.ask_first_day()

    def ask_backups(self) -> None:
        """Show the copies of the book."""
        self.work.ask_backups(self.restore)

    def restore(self, backup: Backup) -> None:
        """Put a backup in the place of the book; the present one is kept as a backup too."""
        if self.files.guarded("The backup was not put back", lambda: self.library.restore(backup)):
            self.greet()
            self.session.said.emit("The backup was put back. The book as it was is among the backups.", False)

    def _one_panel(self, name: str, make: Callable[[], _D]) -> _D:
        """Show a panel that stays open beside the screens: the one that is open already, or a new one, gone when it is closed."""
        open_one = self._panels.get(name)
        if open_one is None:
            open_one = self._panels[name] = make()
            open_one.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
            open_one.finished.connect(lambda _result: self._panels.pop(name, None))
        open_one.show()
        open_one.raise_()
        open_one.activateWindow()
        return cast(_D, open_one)

    def show_rules(self) -> None:
        """Which rule of order holds where; stays open beside the sequence."""
        from long_ember.ui.heats.rules_panel import RulesPanel

        self.rules = self._one_panel("rules", lambda: RulesPanel(self.session, self))

    def show_own(self) -> None:
        """Operations in the smith's own words."""
        from long_ember.ui.heats.own_panel import OwnPanel

        self.own = self._one_panel("own", lambda: OwnPanel(self.session, self))

    def show_batch(self) -> None:
        """Many of the piece: timetable, irons, fixtures."""
        from long_ember.ui.heats.batch_panel import BatchPanel

        def make() -> BatchPanel:
            panel = BatchPanel(self.session, self)
            panel.forge_asked.connect(self.anvil.show)
            return panel

        self.batch = self._one_panel("batch", make)

    def ask_log(self, counted: LogEntry | None = None, logged: Callable[[], None] | None = None) -> None:
        """Write down what a piece really took.

        Args:
            counted: what was counted at the anvil.
            logged: to do once it stands in the log.
        """
        from long_ember.ui.heats.log_panel import LogPanel

        if LogPanel(self.work, self, counted).exec() and logged is not None:
            logged()

    def _offer_lesson(self, words: str, entry_id: str) -> None:
        """What an entry of the log has changed, to be kept or left out."""
        keep = lambda: self.session.said.emit("Kept: the next plan reckons with it.", False)  # noqa: E731
        self.message.offer(words, {"keep": ("Keep", keep), "out": ("Leave it out", lambda: self.work.leave_out(entry_id))})

    def show_taught(self) -> None:
        """What the log has taught, figure by figure."""
        from long_ember.ui.heats.taught_panel import TaughtPanel

        self.taught = self._one_panel("taught", lambda: TaughtPanel(self.work, self))

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
        except EmberError:  # the book is being changed for another, or its disk refuses: in the next pause
            self._log_stale = True
            self._log_turn.stop()
            self.pause.start()
            return
        if entries is not None:
            self._log_turn.stop()
            self._consider(entries)

    def _consider(self, entries: tuple[LogEntry, ...]) -> None:
        """Reckon with the log; what many entries teach is found in a thread, so that nothing waits for it."""
        shop = self.session.shop
        if len(entries) < _MANY_ENTRIES:
            self._considered(entries)
            return

        def work(_worker: Worker) -> None:
            taught(entries, shop.smith, shop.fire)  # kept, and at hand when the session asks

        worker = Worker(self.session.loop, work)
        worker.ended.connect(partial(self._considered, entries))
        self._considering = worker  # a signal holds nobody alive
        worker.start()

    def _considered(self, entries: tuple[LogEntry, ...], _made: object = None, _error: Exception | None = None) -> None:
        if not self._log_stale:  # another entry came meanwhile: its own turn follows
            self.session.learn(entries)
            self._ahead.start(self.library.reading())  # never beside a thread: each row would wait for it

    def show_calculator(self) -> None:
        """Reckon one feature on its own."""
        from long_ember.ui.shape.calculator import Calculator

        self.calculator = self._one_panel("calculator", lambda: Calculator(self.session, self))

    def show_blanks(self) -> None:
        """Reckon blanks of sheet and plate."""
        from long_ember.ui.shape.blank_view import BlankDialog

        self.blanks = self._one_panel("blanks", lambda: BlankDialog(self.session, self, self.work))

    def ask(self, question: str) -> None:
        """Ask one of the questions about the piece."""
        from long_ember.ui.shape import forms

        getattr(forms, question)(self.session, self).exec()

    def show_help(self, section: str = "") -> None:
        """Open the guide, at a section."""
        from long_ember.ui.widgets.help import HelpDialog

        HelpDialog(self, section).exec()

    def show_tables(self, key: str = "") -> None:
        """Tables for the wall; one of them."""
        self.stack.setCurrentWidget(self.tables)
        self.tables.open(key)

    def _may_leave(self) -> bool:
        """Everything is on disk, or the person knows that it is not."""
        if self.library.flush() and not self.session.unkept:
            return True
        answer = dialogs.ask_unkept(self, self.library.read_only or self.library.trouble)
        if answer == "file":
            (self.files.ask_unwritten if self.library.unwritten else self.files.ask_out)()
        return bool(answer == "lose")

    def closeEvent(self, event: QCloseEvent) -> None:
        """Write what is left; ask before anything is lost."""
        self._log_turn.stop()
        self.work.finishing.emit()
        if all(dialog.may_go() for dialog in self.findChildren(AskingDialog) if dialog.isVisible()) and self._may_leave():
            self.session.rest()
            self.anvil.close()
            working = tuple(self.session.loop.working)
            for worker in working:
                worker.leave()
            self.library.close()
            for worker in working:
                worker.join(2.0)
            event.accept()
        else:
            event.ignore()
