"""What the views share: the document, its answer, the selection, the settings."""

from __future__ import annotations

import sys
import time
from collections.abc import Callable, Generator
from dataclasses import replace

from long_ember.desk.library import Library
from long_ember.desk.loop import Loop
from long_ember.desk.turns import PORTION, Portions, Turns
from long_ember.document import Answer, Document, Edit, History, PieceChange, alike, quick_answer, remove, remove_all
from long_ember.errors import EmberError, SaveError, fault_words
from long_ember.features import Check, Piece
from long_ember.geometry import Balance, Contact, looked_for
from long_ember.heats import ForgeSettings, planning_of
from long_ember.learning import calibrated, changed
from long_ember.records import LogEntry, Settings, Shop
from long_ember.signals import Signal
from long_ember.storage import write_settings
from long_ember.units import Line, Measure, say

__all__ = ["Session"]

_REST = 150  # ms


class Session:
    """The one path from an edit to a repaint: edit, document, answer, `refreshed`, views.

    Attributes:
        added: a shape was added: its sizes are asked next.
        refreshed: the piece, its answer or the way numbers are shown changed.
        selected: another feature, or none, is selected.
        hovered: the pointer is over another feature.
        restyled: the theme changed.
        said: emits a sentence for the message line, and True when it is a fault.
        wrote: emits a sentence about a file that was written, and its path.
        planning: emits whether the best order of work is being looked for.
        touched: the piece was found to run into itself somewhere else than before, or no longer.
        shop_asked: a page of the shop's settings is to be looked at, by its key.
        troubled: the piece on the bench can't be reckoned, see `trouble`; nothing else is told of it until it can.
    """

    def __init__(self, loop: Loop, piece: Piece, settings: Settings, shop: Shop, library: Library | None = None, piece_id: str = "",
                 history: History | None = None) -> None:  # fmt: skip
        self.loop = loop
        self.refreshed, self.selected, self.hovered, self.restyled, self.touched, self.troubled = (Signal() for _ in range(6))
        self.said, self.wrote, self.planning, self.added, self.shop_asked, self.shop_changed, self.lesson = (Signal() for _ in range(7))
        self.document = Document(piece, history)
        self.document.changed.connect(self._changed)
        self.settings, self.shop = settings, shop
        self.library, self.piece_id = library, piece_id
        self.selection = piece.features[0].id if piece.features else ""
        self._besides: tuple[str, ...] = ()  # what else is selected
        self.hover = ""
        self.contacts: tuple[Contact, ...] = ()
        self.balance: tuple[Piece, Balance] | None = None
        self.comparison: tuple[Piece, str, tuple[Line, ...]] | None = None
        self._opening = False
        self._unheard: bool | None = None  # the book had no such piece when it was first changed; None: it was not
        self.unkept = False  # something was changed in a book that is only looked at
        self.teaching = ""  # id of the entry of the log that was just made
        self._log: tuple[LogEntry, ...] = ()
        self.forge: ForgeSettings = shop.forge
        self.turns = Turns()
        self._rest = loop.timer(self._begin_search, _REST, once=True)
        self._turn = loop.timer(self._search_on, 0)
        self._touching = Portions(loop, self.turns, "contacts")
        self._search: Generator[None, None, tuple[int, ...]] | None = None
        self.trouble: Exception | None = None
        self.answer: Answer = self._answered()

    def _answered(self) -> Answer:
        """All that follows from the piece: at once with the best order for a small one, else with the order it had."""
        self.cancel_search()
        before = getattr(self, "answer", None)
        order = before.plan.order if before is not None else ()
        found = quick_answer(self.piece, ruler=self.shop.division, forge=self.forge, order=order)
        if not found.plan.thorough:
            self._rest.start()
        return found

    def _reckon(self, find: Callable[[], Answer] | None = None) -> bool:
        """Reckon the piece anew; where that fails the reason is kept, the answer is that of an empty bar, and the views are left alone.

        Any error at all: what was edited is kept already, and a screen that can't show it must not take the window along.
        """
        try:
            self.answer = (find or self._answered)()
        except Exception as error:
            self.cancel_search()
            self.answer = quick_answer(replace(self.piece, features=(), measured=()), ruler=self.shop.division, forge=self.forge)
            self.trouble = error
            if not isinstance(error, EmberError):
                sys.excepthook(type(error), error, error.__traceback__)
            if self.library is not None and self.piece_id:
                self.library.mark(self.piece_id, str(error) if isinstance(error, EmberError) else fault_words(error))
            self.troubled.emit()
            return False
        if self.library is not None and self.piece_id:
            self.library.mark(self.piece_id, "")
        if self.trouble is not None:
            self.trouble = None
            self.troubled.emit()
        return True

    @property
    def searching(self) -> bool:
        """The best order of work is not known yet."""
        return not self.answer.plan.thorough

    def cancel_search(self) -> None:
        """Stop looking for a better order; the one that is there stands."""
        self._rest.stop()
        self._turn.stop()
        self.turns.left("order")
        if self._search is not None:
            self._search = None
            self.planning.emit(False)

    def rest(self) -> None:
        """Leave everything that was put off: nobody looks any more."""
        self.cancel_search()
        self.turns.rest()

    def _begin_search(self) -> None:
        self._search = planning_of(self.answer.plan)
        self._search_on()
        if self._search is not None:  # it takes longer than anybody sees
            self.planning.emit(True)
            self._turn.start()

    def _search_on(self) -> None:
        """A few milliseconds of the search; the window goes on between them."""
        if not self.turns.take("order"):
            return
        end = time.perf_counter() + PORTION
        while self._search is not None and time.perf_counter() < end:
            try:
                next(self._search)
            except StopIteration as over:
                self._found(over.value)
            except Exception:
                self.cancel_search()  # the order that is there stands
                raise
        self.turns.done()

    def _found(self, order: tuple[int, ...]) -> None:
        self.cancel_search()
        before = self.answer
        if not self._reckon(lambda: before.ordered(order)):
            return
        if before.plan.order != self.answer.plan.order or before.reckoning.cut != self.answer.reckoning.cut:
            self.refreshed.emit()

    @property
    def log(self) -> tuple[LogEntry, ...]:
        """What the shop's log says, as last looked at."""
        return self._log

    def learn(self, entries: tuple[LogEntry, ...]) -> None:
        """Reckon with what the log teaches."""
        if entries == self._log:
            return
        first = not self._log and not self.forge.belief.entries  # nothing was read yet: that is no news
        self._log = entries
        forge = calibrated(self.shop.forge, entries, self.shop.smith, self.piece_id)
        if forge != self.forge:
            self.forge = forge
            before = self.answer.plan
            if self._reckon():
                self.refreshed.emit()
                line = changed(before, self.answer.plan, self.measure)
                if line is not None and not first and before.piece.name == self.piece.name:
                    words, entry = line.show(self.measure), self.teaching
                    self.said.emit(words, False)
                    if entry:
                        self.lesson.emit(words, entry)
        self.teaching = ""

    @property
    def piece(self) -> Piece:
        """The piece as it is now."""
        return self.document.piece

    @property
    def measure(self) -> Measure:
        """How numbers are shown."""
        return self.shop.measure

    def look_for_contacts(self) -> None:
        """Find where the piece runs into itself; too slow for every keystroke, so it waits for a pause, and goes on between keys."""
        if self.trouble is None:
            self._touching.start(looked_for(self.piece), self._touch)

    def _touch(self, found: tuple[Contact, ...]) -> None:
        if found != self.contacts:
            self.contacts = found
            self.touched.emit()
            if found:
                first, second = (self._title_of(i) for i in (found[0].first, found[0].second))
                self.said.emit(f"The {second} runs into the {first}: turn one of them, or leave more room.", True)

    def _title_of(self, identity: str) -> str:
        feature = self.piece.feature(identity)
        return feature.title.lower() if feature is not None else "bar"

    def set_comparison(self, name: str, lines: tuple[Line, ...]) -> None:
        """How the piece as it is stands against a known one; printed until it changes."""
        self.comparison = (self.piece, name, lines) if lines else None

    def set_balance(self, found: Balance | None) -> None:
        """Where the piece as it is balances; drawn until it changes."""
        self.balance = None if found is None else (self.piece, found)
        self.touched.emit()

    def contact_checks(self, feature_id: str) -> tuple[Check, ...]:
        """What the selected feature runs into."""
        found = []
        for contact in self.contacts:
            if feature_id in (contact.first, contact.second):
                other = contact.second if feature_id == contact.first else contact.first
                if self.piece.feature(other) is not None:
                    text = f"Runs into the {self._title_of(other)} by {{}}: turn one of them, or leave more room."
                    found.append(Check("warn", say(text, contact.depth)))
        return tuple(found)

    def apply(self, edit: Edit) -> None:
        """Carry out an edit; what it changes of the selected feature is changed of all of its kind that are selected with it."""
        self.document.apply(alike(edit, self._besides) if len(self._besides) > 1 and edit.focus in self._besides else edit)

    def attempt_typed(self, edit: Edit) -> None:
        """Show what would come of an edit while it is typed; it is kept as a draft, and a finished step with `settle`."""
        self.document.attempt(alike(edit, self._besides) if len(self._besides) > 1 and edit.focus in self._besides else edit)

    def settle(self) -> None:
        """What was typed is a finished step, and is kept now."""
        self.document.settle()
        self.end_gesture()

    def take_out(self) -> bool:
        """Remove what is selected; an impossible removal is explained in the message line."""
        chosen = self.chosen
        return self.attempt(remove_all, chosen) if len(chosen) > 1 else self.attempt(remove, self.selection)

    def attempt(self, make: object, *arguments: object) -> bool:
        """Carry out the edit that `make(piece, *arguments)` gives; an impossible one is explained in the message line."""
        try:
            self.apply(make(self.piece, *arguments))  # type: ignore[operator]
        except EmberError as error:
            self.said.emit(f"Nothing changed. {error}", True)
            return False
        self.said.emit("", False)
        return True

    @property
    def undo_title(self) -> str:
        """What Undo would take back, "" for nothing."""
        return self.document.undo_title

    @property
    def redo_title(self) -> str:
        """What Redo would do again, "" for nothing."""
        return self.document.redo_title

    def undo(self) -> None:
        """Take the last step back, and what was said about it."""
        self._stepped(self.document.undo)

    def redo(self) -> None:
        """Do the next step again."""
        self._stepped(self.document.redo)

    def _stepped(self, step: Callable[[], None]) -> None:
        try:
            step()
            self.said.emit("", False)
        except EmberError as error:  # a step of an earlier session that can't be read
            self.said.emit(f"Nothing changed. {error}", True)

    def end_gesture(self) -> None:
        """What was typed is one finished step, and is kept now."""
        self.document.end_gesture()
        if self.library is not None:
            self.library.hurry()

    def select(self, feature_id: str) -> None:
        """Select a feature everywhere."""
        if feature_id != self.selection or self._besides:
            self.end_gesture()
            self.selection, self._besides = feature_id, ()
            if self.trouble is None:
                self.selected.emit()

    def select_to(self, feature_id: str) -> None:
        """Select everything of the row from the selected feature to another."""
        here, there = self.piece.index(self.selection), self.piece.index(feature_id)
        if here >= 0 and there >= 0:
            self._besides = tuple(f.id for f in self.piece.features[min(here, there) : max(here, there) + 1])
            self.selected.emit()

    @property
    def chosen(self) -> tuple[str, ...]:
        """Ids of all that is selected, in the order of the piece; those that are gone left out."""
        found = tuple(i for i in self._besides if self.piece.index(i) >= 0)
        return found if self.selection in found else (self.selection,) if self.piece.feature(self.selection) is not None else ()

    def set_hover(self, feature_id: str) -> None:
        """Point at a feature everywhere."""
        if feature_id != self.hover:
            self.hover = feature_id
            self.hovered.emit()

    def configure(self, settings: Settings) -> None:
        """Change the theme or the books opened last."""
        old, self.settings = self.settings, settings
        try:
            write_settings(settings)
        except SaveError as error:
            self.said.emit(f"The setting holds until you quit. {error}", True)
        if old.theme != settings.theme:
            self.restyled.emit()

    def set_shop(self, shop: Shop) -> None:
        """Change units, kit, allowances, fire or smiths; stored sizes stay as they are."""
        if shop != self.shop:
            before = self.shop
            self.adopt(shop)
            self.shop_changed.emit(before, shop, time.monotonic())
            if self.library is not None:
                self.library.put_shop(shop)

    def adopt(self, shop: Shop) -> None:
        """Show things as another book's shop has them."""
        self.shop = shop
        self.forge = calibrated(shop.forge, self._log, shop.smith, self.piece_id)
        if self._reckon():
            self.refreshed.emit()

    def open(self, piece: Piece, piece_id: str = "", history: History | None = None) -> None:
        """Show another piece; nothing is written until it is changed."""
        self.end_gesture()
        self.piece_id, self._opening, self.unkept, self._unheard = piece_id, True, False, None
        self.forge = calibrated(self.shop.forge, self._log, self.shop.smith, piece_id)
        try:
            self.document.replace(piece, history)
        finally:
            self._opening = False
        self.unkept = False  # something was changed in a book that is only looked at
        self.said.emit("", False)

    @property
    def opening(self) -> bool:
        """Another piece is being taken to the bench: what changes is no step of it."""
        return self._opening

    def _changed(self, change: PieceChange) -> None:
        self._touching.leave()  # of the piece as it was
        if self.library is not None and self.piece_id and not self._opening:  # first of all: whatever fails below, this is kept
            if self._unheard is None:
                self._unheard = self.library.entry(self.piece_id) is None
            if self._unheard and not self.document.trying and not self.document.drafted.steps:  # typed and taken back: as if never begun
                self.library.forget(self.piece_id, self.piece)
                self._unheard = None
            else:
                self.library.keep(self.piece_id, self.piece, self.document.drafted)
            if not change.tried:
                self.unkept = bool(self.library.read_only)
        wanted = change.focus or self.selection
        features = self.piece.features
        if self.piece.feature(wanted) is None:  # it is gone: look at what stands where the change was
            wanted = features[min(change.first, len(features) - 1)].id if features else ""
        moved = wanted != self.selection
        self.selection = wanted
        if not self._reckon():
            return
        self.refreshed.emit()
        if moved:
            self.selected.emit()
        self.turns.answered()
