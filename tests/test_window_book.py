"""The book through the window: kept by itself, found, changed, taken back, brought in, and never lost."""

import re
import sqlite3
import threading
import time
import unittest
from dataclasses import replace
from pathlib import Path
from unittest import mock

from PIL import Image
from PySide6.QtCore import QEvent, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QDialog, QLabel, QProgressDialog, QPushButton

from long_ember.demo import demo_files
from long_ember.document import set_piece
from long_ember.records import Job, RackItem
from long_ember.sections import square
from long_ember.shorthand import read_line
from long_ember.storage import Change, backups, piece_to_text, read_piece
from long_ember.ui.app import make_window
from long_ember.ui.book.book_view import found
from long_ember.ui.book.compare import state_differences
from long_ember.ui.shape.strip import CardStrip
from long_ember.ui.widgets import dialogs
from long_ember.ui.widgets.waiting import wait_for
from tests.window_case import KEY, WindowCase


class BookWindow(WindowCase):
    def setUp(self):
        patient = mock.patch("long_ember.desk.library._BLINK", 5.0)  # a busy machine's disk may take longer than a blink
        patient.start()
        self.addCleanup(patient.stop)
        super().setUp()
        self.work, self.library = self.window.work, self.window.library
        self.addCleanup(setattr, self, "work", None)
        self.addCleanup(setattr, self, "library", None)

    def settle(self) -> None:
        self.library.flush()
        self.app.processEvents()

    def again(self) -> None:
        """Close the window and open another on the same book, as on the next day."""
        self.window.close()
        self.window.deleteLater()
        self.app.sendPostedEvents(None, QEvent.Type.DeferredDelete)
        self.window = make_window(None, demo=True)
        self.window.show()
        self.session, self.work, self.library = self.window.session, self.window.work, self.window.library
        self.app.processEvents()

    def press(self, words: str) -> None:
        button = next(b for b in self.work.dialog.findChildren(QPushButton) if b.text().startswith(words))
        button.click()
        self.app.processEvents()

    def entries(self) -> dict[str, str]:
        return {e.name: e.state for e in self.library.entries}


class Kept(BookWindow):
    def test_what_is_being_typed_is_in_the_book_and_escape_takes_it_out(self):
        name, before = self.window.header.name, self.session.piece.name
        self.type(name, "Half a na", end=False)
        self.assertTrue(self.session.document.trying)
        kept = lambda: self.session.library.read(self.session.piece_id)  # noqa: E731
        self.until(lambda: kept()[0].name == "Half a na")
        history = kept()[1]
        self.assertEqual((history.at, history.steps[-1].edit.before.name), (len(history.steps), before))
        QTest.keyClick(name, Qt.Key.Key_Escape)
        self.until(lambda: kept()[0].name == before)
        self.assertEqual(kept()[1].at, history.at - 1)

    def test_what_was_only_typed_into_a_new_piece_leaves_nothing_in_the_book(self):
        self.work.new_piece()
        name, identity = self.window.header.name, self.session.piece_id
        for end in (Qt.Key.Key_Escape, Qt.Key.Key_Return):
            self.assertIsNone(self.session.library.entry(identity))
            self.type(name, "Half a na", end=False)
            self.until(lambda: self.session.library.entry(identity) is not None)
            QTest.keyClick(name, end)
            if end == Qt.Key.Key_Escape:
                self.until(lambda: self.session.library.entry(identity) is None)
        self.work.new_piece()  # with a photo, a tag or a named state it is a piece, however empty
        begun = self.session.piece_id
        self.type(name, "Half a na", end=False)
        self.until(lambda: self.session.library.entry(begun) is not None)
        self.work.name_state(begun, "bare bar")  # while it is only a draft
        self.until(lambda: self.session.library.read(begun)[0].name == "Half a na")
        QTest.keyClick(name, Qt.Key.Key_Escape)
        self.until(lambda: self.session.library.read(begun)[0].name != "Half a na")
        self.assertTrue(self.session.library.revisions(begun))
        self.work.open_piece(identity)
        self.session.undo()  # what was done once stays, to be done again
        self.until(lambda: self.session.library.read(identity)[0].name != "Half a na")
        self.assertEqual(len(self.session.library.read(identity)[1].steps), 1)

    def test_what_is_typed_is_there_the_next_day_with_its_undo(self):
        self.type(self.window.header.bar, "10 sq")
        self.type(self.window.header.name, "Bracket for the shed")
        self.again()
        self.assertEqual((self.session.piece.name, self.session.piece.bar), ("Bracket for the shed", square(10)))
        self.window.commands.run("edit.undo")
        self.window.commands.run("edit.undo")
        self.assertEqual(self.session.piece, read_piece(demo_files()[0]))
        self.again()
        self.assertEqual(self.session.piece, read_piece(demo_files()[0]))
        self.assertIn("bar", self.session.document.redo_title)
        self.window.commands.run("edit.redo")
        self.assertEqual(self.session.piece.bar, square(10))

    def test_a_new_piece_is_in_the_book_from_its_first_change_on_with_the_shops_allowances(self):
        self.session.set_shop(replace(self.session.shop, kerf=3.5, school="centreline", hot_length=90.0))
        before = self.session.answer.plan.count
        self.window.work.new_piece()
        self.assertEqual((self.session.piece.order.kerf, self.session.piece.school), (3.5, "centreline"))
        self.settle()
        self.assertEqual(len(self.entries()), 9)
        self.type(self.window.header.name, "Gate latch")
        self.settle()
        self.assertIn("Gate latch", self.entries())
        self.again()
        self.assertEqual((self.session.piece.name, self.session.shop.kerf), ("Gate latch", 3.5))
        self.assertGreater(before, 0)

    def test_a_second_window_says_why_it_only_looks(self):
        second = make_window(None, demo=True)
        self.assertIn("looking only", second.windowTitle())
        self.assertEqual(second.session.piece, self.session.piece)
        self.assertFalse(second.work.set_state("door-pull", "trashed"))
        self.assertIn("another window", second.message.text())
        second.session.apply(set_piece(second.session.piece, "name", "Only here"))
        with (
            mock.patch.object(dialogs, "ask_unkept", side_effect=["wait", "file", "lose"]) as ask,
            mock.patch.object(dialogs, "save_name", return_value=self.folder / "saved.json"),
        ):
            self.assertFalse(second.close())  # what was changed there would be lost
            self.assertFalse(second.close())
            self.assertTrue(second.close())
        self.assertIn("another window", ask.call_args.args[1])
        self.assertEqual(read_piece(self.folder / "saved.json").name, "Only here")
        second.deleteLater()
        self.settle()
        self.assertEqual(set(self.entries().values()), {"kept"})

    def test_a_disk_that_refuses_is_told_and_closing_asks(self):
        with mock.patch("long_ember.storage.book.Book.put_body", side_effect=sqlite3.OperationalError("database or disk is full")):
            self.type(self.window.header.name, "Unlucky")
            self.library.flush()
            self.until(lambda: "disk is full" in self.window.message.text())
            for said, closed in (("wait", False), ("lose", True)):
                with mock.patch.object(dialogs, "ask_unkept", return_value=said):
                    self.assertEqual(self.window._may_leave(), closed)
            self.assertEqual(self.session.piece.name, "Unlucky")
        self.until(lambda: self.library.flush() and "on disk again" in self.window.message.text())
        self.assertIn("Unlucky", self.entries())

    def test_damage_is_told_when_the_window_opens(self):
        self.library.back_up("rolling")
        self.settle()
        self.window.close()
        path = self.library.path
        raw = bytearray(path.read_bytes())
        raw[raw.index(b'"name": "Door pull"') + 12] ^= 1
        path.write_bytes(raw)
        self.again()
        with mock.patch.object(dialogs, "explain") as explain:
            self.window.greet(again=False)
        self.assertIn("set aside, untouched", explain.call_args.args[2])
        self.assertEqual(len(self.entries()), 9)
        with mock.patch.object(dialogs, "open_name", return_value=self.library.opened.aside):
            self.window.commands.run("file.in")
        self.until(lambda: self.work.dialog is not None)
        self.assertEqual([a.name for a in self.work.dialog.found if a.verdict != "same"], ["Doos pull"])
        self.work.dialog.reject()


class Library(BookWindow):
    def setUp(self):
        super().setUp()
        self.window.show_view(5)
        self.app.processEvents()
        self.book = self.window.book
        self.addCleanup(setattr, self, "book", None)

    def shown(self) -> list[str]:
        return [e.name for e in self.book.wall.entries]

    def test_search_as_you_type_over_names_synonyms_tags_and_notes(self):
        for words, wanted in {
            "pull": "Door pull",
            "HARDENED": "Caulking iron",
            "back plate": "Back plate",
            "staple": "Mooring staple",
        }.items():
            self.type(self.book.search, words, end=False)
            self.assertEqual(self.shown()[0], wanted, words)
        self.type(self.book.search, "volute", end=False)  # another word for a scroll
        self.assertEqual(self.shown(), ["Lantern bracket"])
        self.type(self.book.search, "no such thing", end=False)
        self.assertEqual((self.shown(), self.book.card.entry), ([], None))
        self.book.search.clear()
        self.book.wall.setFocus()
        QTest.keyClicks(self.book.wall, "ring")
        self.assertIn("Mooring ring", self.shown())

    def test_the_wall_is_to_one_scale_and_walked_with_the_keys(self):
        self.book.search.clear()
        wall = self.book.wall
        self.assertEqual(len(self.shown()), 9)
        seen = {wall.current}
        for key in (KEY.Key_Right, KEY.Key_Down, KEY.Key_Up, KEY.Key_Left, *[KEY.Key_Right] * 8):
            QTest.keyClick(wall, key)
            seen.add(wall.current)
        self.assertGreater(len(seen), 4)
        scale = wall.scale
        QTest.keyClick(wall, KEY.Key_Plus)
        self.assertGreater(wall.scale, scale)
        wall.choose("gate-pintle")
        QTest.keyClick(wall, KEY.Key_Return)
        self.assertEqual((self.session.piece.name, self.window.stack.currentWidget()), ("Gate pintle", self.window.shape))

    def test_archive_trash_restore_and_undo(self):
        self.book.wall.choose("door-pull")
        self.book.card.archive_button.click()
        self.assertEqual(self.entries()["Door pull"], "archived")
        self.window.commands.run("edit.undo")
        self.assertEqual(self.entries()["Door pull"], "kept")
        self.window.commands.run("edit.redo")
        self.book.show_state("archived")
        self.assertEqual(self.shown(), ["Door pull"])
        self.book.card.trash_button.click()
        self.book.show_state("trashed")
        self.assertEqual(self.shown(), ["Door pull"])
        with mock.patch.object(dialogs, "agree", return_value=False):
            self.book.card.gone_button.click()
        self.assertEqual(self.shown(), ["Door pull"])
        self.book.card.archive_button.click()
        self.assertEqual(self.entries()["Door pull"], "kept")
        self.book.show_state("kept")
        self.book.wall.choose("door-pull")
        QTest.keyClick(self.book.wall, KEY.Key_Delete)
        self.book.show_state("trashed")
        with mock.patch.object(dialogs, "agree", return_value=True):
            self.book.card.gone_button.click()
        self.assertNotIn("Door pull", self.entries())

    def test_duplicate_and_a_variant_for_another_bar(self):
        self.book.wall.choose("mooring-ring")
        self.book.card.copy_button.click()
        self.assertIn("Mooring ring 2", self.entries())
        self.book.wall.choose("mooring-staple")
        self.book.card.variant_button.click()
        self.work.dialog.bar.setText("10 rd")
        self.work.dialog.done_button.click()
        self.app.processEvents()
        (variant,) = [e for e in self.library.entries if e.parent == "mooring-staple"]
        self.book.wall.choose(variant.id)
        self.assertIn("Variant of Mooring staple", self.book.card.told.text())
        self.assertEqual(self.library.read(variant.id)[0].bar.width, 10)
        self.book.wall.choose("oar-cradle")
        self.book.card.variant_button.click()
        self.work.dialog.bar.setText("2 rd")
        self.work.dialog.done_button.click()
        self.assertIn("Not of this bar", self.work.dialog.told.text())
        self.work.dialog.reject()
        self.assertEqual(len(self.entries()), 11)

    def test_tags_name_and_note_are_kept_and_taken_back(self):
        card = self.book.card
        self.book.wall.choose("gate-pintle")
        self.type(card.tags, "gate, north , gate")
        self.assertEqual(self.library.entry("gate-pintle").tags, ("gate", "north"))
        self.type(card.name, "Pintle, north gate")
        card.note.setPlainText("Oil it every spring")
        self.book.wall.choose("door-pull")
        self.settle()
        piece = self.library.read("gate-pintle")[0]
        self.assertEqual((piece.name, piece.note), ("Pintle, north gate", "Oil it every spring"))
        self.assertEqual([e.name for e in found(self.library.entries, "every spring", "kept")], ["Pintle, north gate"])
        for _ in range(3):
            self.window.commands.run("edit.undo")
        self.assertEqual(self.library.entry("gate-pintle").tags, ("gate",))
        self.work.open_piece("gate-pintle")
        self.assertEqual(self.session.piece, read_piece(demo_files()[6]))

    def test_photos_are_copied_in_and_bad_ones_named(self):
        good, bad = self.folder / "shop.png", self.folder / "bad.jpg"
        Image.new("RGB", (2000, 900), "#774411").save(good)
        bad.write_bytes(b"not a picture")
        self.book.wall.choose("door-pull")
        with mock.patch.object(dialogs, "open_names", return_value=[good]):
            self.book.card.photo_button.click()
        self.until(lambda: len(self.library.photos("door-pull")) == 1)
        self.assertEqual(self.library.photos("door-pull")[0].width, 1600)
        with mock.patch("long_ember.ui.widgets.waiting.explain") as explain:
            self.work.add_photos("door-pull", [bad])
            self.until(lambda: explain.called)
        self.assertIn("bad.jpg", explain.call_args.args[2])
        self.work.show_photo(self.library.photos("door-pull")[0].id)
        self.press("Take it out")
        self.assertEqual(self.library.photos("door-pull"), ())
        self.window.commands.run("edit.undo")
        self.assertEqual(len(self.library.photos("door-pull")), 1)

    def test_named_states_are_compared_and_gone_back_to(self):
        self.work.open_piece("lantern-bracket")
        before = self.session.piece
        self.window.commands.run("file.state")
        self.work.dialog.name.setText("as ordered")
        self.press("Name it")
        self.type(self.window.header.bar, "10 sq")
        self.select(2)
        (state,) = self.library.revisions("lantern-bracket")
        self.work.compare("lantern-bracket", state.id)
        rows = {row[0]: row[1:] for row in self.work.dialog.rows}
        self.assertEqual(rows["Bar"], ("12 mm square", "10 mm square"))
        self.assertIn("Cut length", rows)
        self.work.dialog.grab()
        self.work.dialog.reject()
        self.work.name_state("lantern-bracket", "thinner")
        self.type(self.window.header.bar, "14 sq")
        self.work.compare("lantern-bracket", state.id)
        self.work.dialog.sides[1].setCurrentIndex(1)
        self.work.dialog.sides[1].activated.emit(1)
        rows = {row[0]: row[1:] for row in self.work.dialog.rows}
        self.assertEqual(rows["Bar"], ("12 mm square", "10 mm square"))
        self.work.dialog.back_button.click()
        self.app.processEvents()
        self.assertEqual(self.session.piece, before)
        self.window.commands.run("edit.undo")
        self.assertEqual(self.session.piece.bar, square(14))
        self.window.show_view(5)
        self.window.commands.run("edit.undo")  # in the order that it was done: the bar first, and it is shown
        self.assertEqual((self.session.piece.bar, self.window.on_book()), (square(10), False))
        self.window.commands.run("edit.undo")
        self.assertEqual([r.name for r in self.library.revisions("lantern-bracket")], ["as ordered"])

    def test_rack_prices_and_jobs_are_edited_and_taken_back(self):
        rack = self.book.board("rack")
        rack.rows.choose("rack-1")
        self.type(rack.form.fields["count"], "5")
        self.type(rack.form.fields["section"], "1/2 sq")
        record = self.library.records(RackItem)["rack-1"]
        self.assertEqual((record.count, record.section.width), (5, 12.7))
        self.type(rack.form.fields["count"], "many")
        self.assertEqual(self.library.records(RackItem)["rack-1"].count, 5)
        rack.add_button.click()
        self.assertEqual(len(self.library.records(RackItem)), 7)
        rack.out_button.click()
        self.assertEqual(len(self.library.records(RackItem)), 6)
        while self.work.timeline.undo_title:
            self.window.commands.run("edit.undo")
        self.assertEqual(self.library.records(RackItem)["rack-1"].count, 3)
        jobs = self.book.board("job")
        jobs.rows.choose("job-2")
        jobs.form.pieces.click()
        dialog = self.work.dialog
        QTest.keyClicks(dialog.line, "door pull")
        for signal in (dialog.list.itemClicked, dialog.list.itemActivated):
            signal.emit(dialog.list.item(0))
        self.events()
        self.assertEqual(len(self.library.records(Job)["job-2"].lines), 3)
        self.assertIn("Mooring ring", self.work.job_words(self.library.records(Job)["job-2"]))
        self.book.board("price").grab()
        jobs.grab()

    def test_the_letters_of_one_entry_are_one_step_and_two_entries_are_two(self):
        rack = self.book.board("rack")
        rack.rows.choose("rack-1")
        clock = [100.0]
        with mock.patch("long_ember.desk.library.time.monotonic", lambda: clock[0]):
            self.type(rack.form.fields["count"], "145")
            self.type(rack.form.fields["place"], "loft")
            clock[0] += 10.0  # later, in the same entry: another step
            self.type(rack.form.fields["place"], "loft, left")
            seen = []
            while self.work.timeline.undo_title:
                record = self.library.records(RackItem)["rack-1"]
                seen.append((record.count, record.place))
                self.window.commands.run("edit.undo")
            self.assertEqual(seen, [(145, "loft, left"), (145, "loft"), (145, "long arm")])
            for _ in seen:
                self.window.commands.run("edit.redo")
            record = self.library.records(RackItem)["rack-1"]
            self.assertEqual((record.count, record.place), (145, "loft, left"))

    def test_what_a_slow_disk_has_not_taken_yet_is_shown_and_taken_back_all_the_same(self):
        gate = threading.Event()
        self.addCleanup(gate.set)
        before = self.library.records(RackItem)
        with mock.patch("long_ember.desk.library._BLINK", 0.01):
            self.library._put(Change("slow", lambda _book: gate.wait(20)))
            rack = self.book.board("rack")
            rack.rows.choose("rack-1")
            self.type(rack.form.fields["count"], "9")
            rack.rows.choose("rack-2")
            rack.out_button.click()
            self.assertEqual(self.library.reader().records(RackItem), before)  # nothing is on disk
            self.assertEqual(self.library.records(RackItem)["rack-1"].count, 9)
            self.assertNotIn("rack-2", self.library.records(RackItem))
            rack.rows.choose("rack-1")
            self.type(rack.form.fields["place"], "loft")  # on top of what was typed before, not of what is on disk
            self.window.commands.run("edit.undo")
            self.window.commands.run("edit.undo")
            self.assertEqual(self.library.records(RackItem), {**before, "rack-1": replace(before["rack-1"], count=9)})
        gate.set()
        self.assertTrue(self.library.flush())
        self.app.processEvents()
        self.assertEqual(self.library._unwritten, {})
        self.assertEqual(self.library.reader().records(RackItem)["rack-1"].count, 9)
        self.assertEqual(self.library.records(RackItem), self.library.reader().records(RackItem))

    def test_the_shop_is_changed_where_it_stands(self):
        shop, heats = self.book.shop, self.session.answer.plan.count
        self.type(shop.field("hot_length"), "60 mm")
        self.assertGreater(self.session.answer.plan.count, heats)
        self.assertIn(f"{heats} → {self.session.answer.plan.count} heats", shop.effect.text())
        self.type(shop.field("hot_length"), "6 gold")
        self.assertIn("Still 60 mm", shop.field("hot_length").accessibleDescription())
        note = next(w for w in self.window.findChildren(QLabel) if w.property("role") == "beside" and w.isVisible())
        self.assertIn("Still 60 mm", note.text())
        self.type(shop.field("hot_length"), "60 mm")
        self.assertFalse(note.isVisible())
        self.window.commands.run("view.units")
        self.assertEqual(shop.field("hot_length").text(), "60 mm (2 3/8 −)")
        shop.back_button.click()
        self.assertEqual((self.session.answer.plan.count, self.session.shop.unit), (heats, "in"))
        self.type(shop.field("trim"), "20 mm")  # a piece keeps its own, until it is given the shop's
        cut = self.session.answer.reckoning.cut
        shop.give_button.click()
        self.assertAlmostEqual(self.session.answer.reckoning.likely, cut + 18, delta=25)
        self.assertEqual(self.session.piece.allowances.trim, 20.0)
        self.window.commands.run("edit.undo")
        shop.tabs["pieces"].setFocus()
        QTest.keyClick(shop.tabs["pieces"], Qt.Key.Key_Down)
        self.assertEqual((shop.key, shop.tabs["bars"].hasFocus()), ("bars", True))
        self.type(shop.field("hot_length"), "60 mm")
        self.settle()
        self.assertEqual((self.library.shop.unit, self.library.shop.hot_length), ("in", 60.0))


class InAndOut(BookWindow):
    def arrived(self, path: Path) -> dict[str, int]:
        """What a file would bring, by verdict."""
        self.work.dialog = None
        self.work.bring_in_file(path)
        self.until(lambda: self.work.dialog is not None)
        found = [a.verdict for a in self.work.dialog.found]
        self.work.dialog.reject()
        return {v: found.count(v) for v in set(found)}

    def test_one_many_a_job_and_tables_go_out_from_where_they_stand(self):
        self.window.show_view(5)
        book = self.window.book
        book.search.setText("mooring")
        asked = {
            "pieces.zip": lambda: self.window.commands.run("file.shown"),
            "pull.zip": lambda: self.window.commands.run("file.out"),
            "job.json": lambda: book.board("job").file_button.click(),
            "rack.csv": lambda: book.board("rack").file_button.click(),
            "rack.json": lambda: book.board("rack").file_button.click(),
            "prices.csv": lambda: book.board("price").file_button.click(),
        }
        self.work.open_piece("door-pull")
        self.window.show_view(5)
        wanted = {"pieces.zip": 2, "pull.zip": 1, "job.json": 5, "rack.csv": 6, "rack.json": 6, "prices.csv": 7}
        for name, ask in asked.items():
            with mock.patch.object(dialogs, "save_name", return_value=self.folder / name), self.subTest(name):
                ask()
                self.assertEqual(self.arrived(self.folder / name), {"same": wanted[name]})

    def test_a_spreadsheet_of_bars_arrives_row_by_row_or_not_at_all(self):
        path = self.folder / "bars.csv"
        path.write_text("Size;Length (m);Qty;Where\n12 sq;3,0;7;long arm\n20 rd;2,5;1;floor\n", encoding="utf-8-sig")
        self.assertEqual(self.arrived(path), {"differs": 1, "new": 1})
        path.write_text("Size;Length (m);Qty\n12 sq;3,0;7\n20 rd;long;1\n", encoding="utf-8-sig")
        with mock.patch("long_ember.ui.widgets.waiting.explain") as explain:
            self.work.bring_in_file(path)
            self.until(lambda: explain.called)
        self.assertIn("line 3, column 'Length (m)'", explain.call_args.args[2])
        self.assertEqual(len(self.library.records(RackItem)), 6)

    def test_slow_reading_can_be_left(self):
        reading, left = threading.Event(), threading.Event()

        def read(progress):
            for i in range(10_000):
                reading.set()
                time.sleep(0.002)
                try:
                    progress(i, 10_000)
                except Exception:
                    left.set()
                    raise

        taken: list[object] = []
        wait_for(self.session.loop, self.window, "Reading", "Failed", read, taken.append)
        self.until(reading.is_set)
        (progress,) = self.window.findChildren(QProgressDialog)
        progress.canceled.emit()
        self.until(left.is_set)
        self.until(lambda: not self.window.findChildren(QProgressDialog) or not progress.isVisible())
        self.assertEqual(taken, [])

    def test_an_empty_wall_offers_the_demo(self):
        self.window.open_book(self.folder / "empty.ember")
        self.work.dialog.reject()
        self.window.show_view(5)
        self.app.processEvents()
        self.assertTrue(self.window.book.wall.example.isVisible())
        self.window.book.wall.example.click()
        self.press("Bring in")
        self.settle()
        self.assertEqual(len(self.entries()), 9)
        self.app.processEvents()
        self.assertFalse(self.window.book.wall.example.isVisible())

    def test_a_file_on_the_command_line_is_kept_once(self):
        path = self.folder / "given.json"
        path.write_text(piece_to_text(replace(read_piece(demo_files()[1]), name="Given")))
        for _again in range(2):
            self.window.close()
            self.window.deleteLater()
            self.app.sendPostedEvents(None, QEvent.Type.DeferredDelete)
            self.window = make_window(path, demo=True)
            self.session, self.work, self.library = self.window.session, self.window.work, self.window.library
            self.settle()
            self.assertEqual((self.session.piece.name, len(self.library.entries)), ("Given", 10))

    def test_bring_in_shows_first_and_never_replaces_unasked(self):
        piece = replace(read_piece(demo_files()[2]), note="Wider grip")
        path = self.folder / "pull.json"
        path.write_text(piece_to_text(piece))
        with mock.patch.object(dialogs, "open_name", return_value=path):
            self.window.commands.run("file.in")
        self.until(lambda: self.work.dialog is not None)
        self.assertEqual([(a.verdict, a.choices[0]) for a in self.work.dialog.found], [("new", "add")])
        self.assertEqual(len(self.entries()), 9)
        self.press("Bring in 1")
        self.settle()
        self.assertEqual(sum(e.name == "Door pull" for e in self.library.entries), 2)
        self.assertEqual(self.library.read("door-pull")[0].note, read_piece(demo_files()[2]).note)
        self.assertEqual(backups(self.library.path)[0].why, "before-bringing-in")
        bad = self.folder / "bad.json"
        bad.write_text(path.read_text().replace('"kind": "bend"', '"kind": "bent"'))
        with mock.patch("long_ember.ui.widgets.waiting.explain") as explain:
            self.work.bring_in_file(bad)
            self.until(lambda: explain.called)
        self.assertIn(".kind", explain.call_args.args[2])

    def test_the_whole_book_goes_out_and_into_a_new_one(self):
        out = self.folder / "all.zip"
        self.assertTrue(self.work.export(out))
        self.assertTrue(self.work.export_records(self.folder / "rack.csv", "rack"))
        self.window.open_book(self.folder / "other.ember")
        self.work.dialog.reject()  # the first day, skipped
        self.settle()
        self.assertEqual((self.entries(), self.window.windowTitle()[:9]), ({}, "New piece"))
        self.work.bring_in_file(out)
        self.until(lambda: hasattr(self.work.dialog, "found"))
        self.work.dialog.choices["shop"].setCurrentIndex(1)
        self.work.dialog._renew()
        self.press(f"Bring in {30 + 9}")  # nine entries of the log among them
        self.settle()
        self.assertEqual((len(self.entries()), self.session.shop.name), (9, "Merrow Landing"))
        self.assertIn(str(self.folder / "other.ember"), self.session.settings.books)
        self.window.ask_book()
        self.app.processEvents()
        for dialog in QApplication.topLevelWidgets():
            if dialog.objectName() == "books":
                dialog.reject()

    def test_a_backup_is_looked_at_and_put_back(self):
        self.library.back_up()
        self.until(lambda: "can be read" in self.window.message.text())
        self.work.set_state("door-pull", "trashed")
        self.library.write(lambda book: book.remove_piece("door-pull"))
        self.settle()
        self.window.commands.run("file.backups")
        dialog = self.work.dialog
        dialog.list.setCurrentRow(0)
        self.assertIn("Come back: Door pull", dialog.told.text())
        self.press("Put this one back")
        self.assertIn("Door pull", self.entries())
        self.assertEqual(backups(self.library.path)[0].why, "before-restore")
        self.type(self.window.header.name, "Still written")
        self.settle()
        self.assertIn("Still written", self.entries())

    def test_the_first_day_offers_shops_and_can_be_skipped(self):
        self.window.open_book(self.folder / "mine.ember")
        dialog = self.work.dialog
        dialog.unit.setCurrentIndex(1)
        dialog.cards["yard"].click()
        self.settle()
        self.assertEqual((self.library.shop.fire, self.library.shop.unit, self.session.shop.unit), ("charcoal", "in", "in"))
        self.type(self.window.header.name, "First hook")
        self.window.open_book(self.folder / "mine.ember")
        self.assertEqual(self.session.piece.name, "First hook")  # nothing is asked twice
        self.assertEqual([w for w in QApplication.topLevelWidgets() if isinstance(w, QDialog) and w.isVisible()], [])


class Cards(WindowCase):
    def test_cards_renewed_one_by_one_show_what_a_fresh_strip_shows(self):
        cards = self.window.shape.strip.cards
        for name, text in (("length", "77"), ("length", "200"), ("length", "12")):
            self.select(1)
            self.type(self.field(name), text)
            self.type(self.window.header.bar, "11 sq" if text == "200" else "12 sq")
            self.app.processEvents()
            anew = CardStrip(self.session)
            self.assertEqual(cards._shown, anew.cards._shown, text)
            anew.deleteLater()
        self.session.set_shop(replace(self.session.shop, unit="in"))
        self.app.processEvents()
        self.assertIn("″", cards._shown[1][0].summary().show(self.session.measure))

    def test_a_tool_that_is_missing_is_named_in_the_heat(self):
        self.session.set_shop(replace(self.session.shop, kit=()))
        self.window.show_view(3)
        said = set()
        for i in range(len(self.session.answer.plan.frames)):
            self.window.heats.film.show_current(i)
            said.update(re.findall(r"Not in your kit: ([^;]+);", self.window.heats.words))
        self.assertTrue(any("monkey tool" in words for words in said), said)


class Compared(unittest.TestCase):
    def test_every_difference_is_a_row(self):
        from long_ember.document import answer, insert, set_field
        from long_ember.units import Measure

        one = read_piece(demo_files()[0])
        other = set_field(one, one.features[1].id, "length", 77.0).after
        other = insert(replace(other, bar=square(14)), 0, "run").after
        rows = [r[0] for r in state_differences(answer(one), answer(other), Measure())]
        for words in ("Bar", "Cut length", "Mass finished", f"{one.features[1].title} 3, length", "Feature"):
            self.assertIn(words, rows)
        self.assertEqual(len(state_differences(answer(one), answer(one), Measure())), 2)
        # What stands on the drawn bar differs too, and moves.
        one, other = (
            read_line(f"12 sq: taper 80, run 200, hole {d} at {at} from A, {more}").piece
            for d, at, more in ((5, 120, ""), (6, 150, "bend 90"))
        )
        rows = {r[0]: r[1:] for r in state_differences(answer(one), answer(other), Measure())}
        self.assertEqual(rows["Hole, diameter"], ("5 mm", "6 mm"))
        self.assertEqual(rows["Hole, place"], tuple(f"its middle {at} mm from A on the drawn bar" for at in (120, 150)))
        self.assertEqual(rows["Feature"], ("not there", "Bend 3"))
