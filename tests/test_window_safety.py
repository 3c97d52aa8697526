"""What the window does when something fails: it lives, says so, and has kept what was typed."""

import sqlite3
import sys
import threading
import time
from dataclasses import replace
from pathlib import Path
from unittest import mock

from PySide6.QtCore import QEventLoop, QTimer
from PySide6.QtTest import QTest

from long_ember.document import FieldAddress, add_feature, remove, set_piece
from long_ember.features import KINDS
from long_ember.storage import open_book, read_piece
from long_ember.storage.parcel import read_parcel_file
from long_ember.ui.app import make_window
from long_ember.ui.faults import Fault, report_text
from long_ember.ui.heats.log_panel import LogPanel
from long_ember.ui.shape.limb_field import LimbField
from long_ember.ui.stock.trial import TrialDialog
from long_ember.ui.widgets import dialogs
from long_ember.ui.widgets.entry import ChoiceField, EntryField
from long_ember.ui.widgets.waiting import wait_for
from tests.window_case import KEY, WindowCase, live


class Failing(WindowCase):
    """The sequence fails for one piece, as it once did for a twist on a bar welded on."""

    def setUp(self):
        super().setUp()
        self.library, self.work = self.window.library, self.window.work

    def tearDown(self):
        self.faults[:] = [fault for fault in self.faults if "a fault of the program" not in fault]
        super().tearDown()

    def broken(self):
        real = sys.modules["long_ember.document.answering"].sequenced

        def sequence(piece, **more):
            if piece.note == "cursed" and piece.features:
                raise AttributeError("a fault of the program")
            return real(piece, **more)

        patch = mock.patch("long_ember.document.answering.sequenced", sequence)
        self.addCleanup(patch.stop)
        return patch.start()

    def again(self):
        self.window.close()
        self.window.deleteLater()
        self.window = make_window(None, demo=True)
        self.window.show()
        self.session, self.library, self.work = self.window.session, self.window.library, self.window.work
        self.app.processEvents()

    def test_what_can_not_be_reckoned_is_kept_told_and_taken_back(self):
        self.broken()
        for view in range(6):  # every screen exists and follows the piece
            self.window.show_view(view)
        self.window.show_view(0)
        identity = self.session.piece_id
        self.session.apply(set_piece(self.session.piece, "note", "cursed"))
        self.app.processEvents()
        page = self.window.trouble_page
        self.assertTrue(page.isVisible())
        self.assertIn("Lantern bracket can't be reckoned", page.title.text())
        self.assertIn("nothing is lost", page.told.text())
        self.assertFalse(self.window.answer_bar.isVisible())
        self.library.flush()
        self.assertEqual(self.library.reader().piece(identity).note, "cursed")
        self.session.apply(set_piece(self.session.piece, "name", "Bracket two"))  # more is edited meanwhile, and kept
        self.again()  # the next day: the book opens, and the piece with it
        self.assertEqual((self.session.piece.name, self.session.piece.note), ("Bracket two", "cursed"))
        self.assertTrue(self.window.trouble_page.isVisible())
        self.window.trouble_page.book_button.click()
        self.assertIs(self.window.stack.currentWidget(), self.window.book)
        (entry,) = [e for e in self.window.book.wall.entries if e.trouble]
        self.window.book.wall.choose(entry.id)
        self.assertIn("Can't be reckoned", self.window.book.card.told.text())
        self.window.grab()
        with mock.patch.object(dialogs, "save_name", return_value=self.folder / "out.json"):
            self.window.commands.run("file.out")
        self.assertEqual(read_piece(self.folder / "out.json").note, "cursed")
        self.window.show_view(3)
        self.assertTrue(self.window.trouble_page.isVisible())
        self.window.trouble_page.back_button.click()
        self.window.trouble_page.back_button.click()
        self.assertIs(self.window.stack.currentWidget(), self.window.heats)
        self.assertEqual((self.session.piece.note[:14], self.session.trouble), ("Boathouse door", None))
        self.library.flush()
        self.assertEqual(self.library.reader().entry(identity).trouble, "")
        self.assertTrue(any("a fault of the program" in fault for fault in self.faults))  # told to the top, and not hidden

    def test_an_error_while_painting_is_told_once_with_a_way_on_and_a_report_without_anything_private(self):
        before = sys.excepthook
        self.window.faults.install()
        self.addCleanup(setattr, sys, "excepthook", before)
        self.addCleanup(setattr, threading, "excepthook", threading.excepthook)

        def fails(_canvas, _painter):  # a mock would keep the painter, and Qt falls over one that outlives its painting
            raise KeyError("secret name")

        with mock.patch("sys.__excepthook__", lambda *_: None), mock.patch.object(type(self.window.shape.canvas), "_paint_bar", fails):
            loop = QEventLoop()  # as the application's own: what fails there goes to the last resort
            for at in (20, 60, 100):
                QTimer.singleShot(at, self.window.shape.canvas.update)
            QTimer.singleShot(250, loop.quit)
            loop.exec()
        self.until(lambda: self.window.faults.dialog is not None)
        dialog = self.window.faults.dialog
        self.assertIn("KeyError in ui/shape/canvas.py", dialog.told.text())
        with mock.patch.object(dialogs, "save_name", return_value=self.folder / "report.txt"):
            dialog.report_button.click()
        report = (self.folder / "report.txt").read_text()
        self.assertIn("paintEvent", report)
        for private in ("secret", "Lantern", str(Path.home()), str(self.folder)):
            self.assertNotIn(private, report)
        dialog.on_button.click()
        self.type(self.window.header.name, "Still alive")
        self.library.flush()
        self.assertEqual(self.library.reader().piece(self.session.piece_id).name, "Still alive")

    def test_what_waits_is_counted_and_offered_as_a_file_until_it_is_written(self):
        self.library.flush()
        self.assertFalse(self.window.unkept.isVisible())
        self.faults.clear()
        with mock.patch("long_ember.storage.keeper.Keeper._written", side_effect=AttributeError("a fault of the program")):
            self.session.apply(set_piece(self.session.piece, "note", "waits"))
            self.until(lambda: self.window.unkept.isVisible())
            self.assertIn("1 change waits to be written: The piece 'Lantern bracket'", self.window.unkept.told.text())
            self.window.faults.raised.emit(Fault.of(AttributeError("a fault of the program")))
            self.until(lambda: self.window.faults.dialog is not None)
            self.assertIn("1 change waits", self.window.faults.dialog.told.text())
            self.assertNotIn("is kept", self.window.faults.dialog.told.text())
            path = self.folder / "waits.json"
            with mock.patch.object(dialogs, "save_name", return_value=path):
                self.window.unkept.file_button.click()
            (item,) = read_parcel_file(path).pieces
            self.assertEqual(item.piece, self.session.piece)
            began = time.monotonic()
            with mock.patch.object(dialogs, "ask_unkept", return_value="wait") as asked:
                self.window.close()
            self.assertLess(time.monotonic() - began, 9.0)  # closing does not stand still for its twenty seconds
            self.assertIn("AttributeError", asked.call_args.args[1])
        self.until(lambda: not self.window.unkept.isVisible())
        self.assertIn("Everything is on disk again", self.window.message.text())
        self.until(lambda: "is on disk" in self.window.faults.dialog.told.text())
        self.window.faults.dialog.accept()
        self.assertEqual(self.library.reader().piece(self.session.piece_id).note, "waits")

    def test_a_size_whose_shape_is_gone_says_nothing_and_takes_nothing(self):
        feature = next(f for f in self.session.piece.features if f.kind == "bend")
        self.session.select(feature.id)
        fields = [
            EntryField(self.session, FieldAddress(feature.id, "angle")),
            ChoiceField(self.session, FieldAddress(feature.id, "corner")),
        ]
        entry, choice = fields
        QTest.keyClicks(entry, "4")
        self.session.apply(remove(self.session.document.settled, feature.id))
        piece = self.session.piece
        said: list[str] = []
        self.session.said.connect(lambda words, _fault: said.append(words))
        QTest.keyClicks(entry, "45")
        QTest.keyClick(entry, KEY.Key_Up)
        choice.activated.emit(1)
        QTest.keyClick(entry, KEY.Key_Return)
        self.assertEqual((self.session.piece, "".join(said), self.faults), (piece, "", []))
        for field in fields:
            field.deleteLater()

    def test_the_first_undo_in_an_entry_restores_what_stood_there_and_nothing_else(self):
        self.session.apply(set_piece(self.session.piece, "note", "before"))
        bar, kept = self.window.header.bar, self.session.piece
        self.window.activateWindow()
        for typed in ("nonsense", "14 sq"):
            bar.setFocus()
            bar.selectAll()
            QTest.keyClicks(bar, typed)
            self.app.processEvents()
            self.assertEqual(self.window.commands["edit.undo"].words, "Undo what is typed")
            self.window.commands.run("edit.undo")
            self.assertEqual((self.session.piece, bar.text(), bool(bar.property("fault"))), (kept, "12 mm square", False))
        QTest.keyClicks(bar, "x")
        QTest.keyClick(bar, KEY.Key_Return)  # refused, and still in the entry
        self.window.commands.run("edit.undo")
        self.assertEqual((self.session.piece, bar.text()), (kept, "12 mm square"))
        self.window.show_view(5)  # from anywhere, what was done last
        self.window.commands.run("edit.undo")
        self.assertNotEqual(self.session.piece.note, "before")
        self.assertFalse(self.window.on_book())

    def test_a_worker_always_ends(self):
        for fault, words in ((ZeroDivisionError("x"), "ZeroDivisionError"), (RecursionError(), "RecursionError")):
            with mock.patch("long_ember.ui.widgets.waiting.explain") as explain, mock.patch("threading.excepthook") as told:
                wait_for(self.session.loop, self.window, "Reading", "Nothing was read", mock.Mock(side_effect=fault), self.fail)
                self.until(lambda explain=explain: explain.called)
            self.assertIn(words, explain.call_args.args[2])
            self.assertTrue(told.called)

    def test_notes_and_tags_are_kept_as_they_are_typed_and_are_one_step(self):
        self.window.show_view(5)
        book = self.window.book
        for identity in ("door-pull", self.session.piece_id):
            book.wall.choose(identity)
            for entry, read in (
                (book.card.note, lambda i=identity: self.library.reader().piece(i).note),
                (book.card.tags, lambda i=identity: ", ".join(self.library.reader().entry(i).tags)),
                (book.card.name, lambda i=identity: self.library.reader().piece(i).name),
            ):
                entry.setFocus()
                entry.selectAll()
                QTest.keyClicks(entry, "for ")
                live(120)
                QTest.keyClicks(entry, "the hall")
                self.until(lambda read=read: read() == "for the hall")
                self.assertTrue(entry.hasFocus())
                self.window.setFocus()
        self.library.flush()
        history = self.library.reader().history("door-pull")
        self.assertEqual([s.edit.title for s in history.steps], ["Change note", "Change name"])
        self.assertEqual([s.edit.title for s in self.session.document.history.steps], ["Change note", "Change name"])

    def test_closing_hands_over_the_last_letters(self):
        self.window.show_view(5)
        self.window.book.wall.choose("door-pull")
        self.window.book.card.note.setFocus()
        self.window.book.card.note.selectAll()
        QTest.keyClicks(self.window.book.card.note, "oil it")
        path = self.library.path
        self.window.close()
        opened = open_book(path)
        self.assertEqual(opened.reader().piece("door-pull").note, "oil it")
        opened.close()

    def test_a_dialog_that_holds_work_asks_before_it_throws_it_away(self):
        at = len(self.session.piece.features)
        self.session.apply(add_feature(self.session.piece, at, replace(KINDS["extension"](id="x"))))
        self.window.show_view(0)
        self.session.select(self.session.piece.features[at].id)
        self.app.processEvents()
        from long_ember.ui.shape.limb_field import LimbDialog
        from long_ember.ui.shape.shape_view import limb_view

        field = self.window.findChild(LimbField)
        limb = LimbDialog(self.session, field.address, limb_view, self.window)
        limb.bench.apply(add_feature(limb.bench.piece, 0, KINDS["point"](id="p").fitted(limb.bench.piece.bar)))
        log = LogPanel(self.work, self.window)
        log.minutes.entry.setText("55")
        log.minutes.entry.textEdited.emit("55")
        trial = TrialDialog(self.work, [self.session.piece.bar])
        next(iter(trial.lines.values())).setText("12")
        for dialog in (limb, log, trial):
            dialog.show()
            with mock.patch.object(dialogs, "agree", return_value=False) as agree:
                QTest.keyClick(dialog, KEY.Key_Escape)
                self.assertFalse(self.window.close())
            self.assertEqual((agree.call_count, dialog.isVisible(), self.window.isVisible()), (2, True, True))
            with mock.patch.object(dialogs, "agree", return_value=True):
                dialog.reject()
            self.assertFalse(dialog.isVisible())
            dialog.deleteLater()

    def test_it_is_in_the_book_is_said_when_it_is(self):
        from long_ember.demo import demo_parcel

        with mock.patch("long_ember.desk.book_actions.bring_in", side_effect=sqlite3.IntegrityError("no")):
            self.work.review(demo_parcel(), "Merrow Landing")
            self.work.accept(self.work.dialog.found, {a.key: "skip" for a in self.work.dialog.found})
            self.until(lambda: "not brought in" in self.window.message.text() or "could not be kept" in self.window.message.text())
        self.work.dialog.reject()
        with mock.patch.object(dialogs, "ask_unkept", return_value="lose"):
            self.assertTrue(self.window._may_leave())
        self.library._keeper._aside.clear()

    def test_a_restore_without_a_copy_of_the_present_is_refused(self):
        self.library.back_up("by-hand")
        self.until(lambda: self.library.backups())
        copy = self.library.backups()[0]
        with (
            mock.patch("long_ember.desk.library.back_up", side_effect=dialogs_error()),
            mock.patch.object(dialogs, "explain") as explain,
        ):
            self.window.restore(copy)
        self.assertIn("no room", explain.call_args.args[2])
        self.type(self.window.header.name, "Here still")
        self.library.flush()
        self.assertIn("Here still", [e.name for e in self.library.entries])

    def test_the_page_of_a_report_names_kinds_and_no_sizes(self):
        piece = replace(self.session.piece, name="For Mrs Hale", note="by Friday")
        text = report_text(Fault.of(ValueError("For Mrs Hale")), piece)
        self.assertIn("scroll", text)
        self.assertNotIn("Hale", text)
        self.assertNotIn("Friday", text)


def dialogs_error():
    from long_ember.errors import SaveError

    return SaveError("the copy", "no room")


class Refused(WindowCase):
    def test_a_first_start_on_a_disk_that_refuses_keeps_everything_in_memory_until_it_can(self):
        self.window.close()
        path = self.folder / "later" / "mine.ember"
        with (
            mock.patch("long_ember.storage.lock.os.open", side_effect=PermissionError(13, "Permission denied")),
            mock.patch("long_ember.storage.startup.migrate", side_effect=sqlite3.OperationalError("unable to open database file")),
        ):
            window = make_window(None, book=path)
            window.session.apply(set_piece(window.session.piece, "name", "In memory"))
            self.assertFalse(window.library.flush())
            self.assertIn("can't be written", window.library.opened.notices[0])
            self.assertEqual(window.library.read(window.session.piece_id)[0].name, "In memory")
            self.assertEqual(window.library.entries, ())
        end = time.monotonic() + 10
        while not window.library.entries and time.monotonic() < end:
            self.app.processEvents()
        self.assertEqual([e.name for e in window.library.entries], ["In memory"])
        self.assertTrue(window.close())
        window.deleteLater()
