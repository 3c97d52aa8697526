"""The Stock screen and the assemblies, driven as a smith would."""

from unittest import mock

from PySide6.QtCore import QPointF
from PySide6.QtGui import QImage
from PySide6.QtTest import QTest

from long_ember.errors import EmberError
from long_ember.features import Piece
from long_ember.learning import calibrated
from long_ember.papers.ink import PAPER_SIZES
from long_ember.papers.kinds import PAPERS
from long_ember.records import Assembly, Price
from long_ember.sections import flat, round_, square
from long_ember.stock import doubt_shares, reckon
from long_ember.ui.widgets import dialogs
from long_ember.units import Measure
from tests.paper_case import printed_words
from tests.window_case import KEY, LEFT, WindowCase, live

MM = Measure()


class Choosing(WindowCase):
    def setUp(self):
        super().setUp()
        self.work = self.window.work
        self.window.show_view(1)
        self.stock = self.window.stock

    def pintle(self) -> None:
        self.work.open_piece("gate-pintle")
        self.window.show_view(1)
        self.stock.refresh()

    def test_one_click_takes_a_bar_and_undo_brings_the_old_one_back(self):
        self.pintle()
        bars = self.stock.bars
        self.assertEqual(bars.candidates[0].source.section, flat(50, 8))
        self.assertIn("beats 40 × 12 mm flat", self.stock.told.text())
        self.assertRegex(bars.exact, r"cut 27\d mm, 6 heats, 1% waste")
        self.click(bars, bars.taking(0).center())
        self.assertEqual(self.session.piece.bar, flat(50, 8))
        self.assertEqual(self.window.commands["edit.undo"].words, "Undo take another bar")
        self.window.commands.run("edit.undo")
        self.assertEqual(self.session.piece.bar, flat(40, 10))
        self.stock.refresh()
        self.assertIn("Spread 8 is 71% sure", " ".join(next(c for c in bars.candidates if c.source.section == flat(40, 10)).why))

    def test_cards_in_sight_are_reckoned_for_their_bar_one_by_one(self):
        self.pintle()
        bars = self.stock.bars
        self.window.library.flush()
        live(400)  # that it was opened is kept, the log is read, and the bars are ranked once more
        window, stock = self.window, self.stock
        resting = (window.pause, window._log_turn, stock._rest)
        self.until(lambda: not any(t.isActive() for t in resting) and window._considering is None and stock._ranking._work is None)
        self.stock.refresh()
        bars.grab()
        wanted = set(bars._waiting)
        self.assertGreaterEqual(len(wanted), 3)
        for _ in range(2):
            bars._reckon_next()  # begun anew, as when another card comes into sight: none is left out
            next(bars._reckoning._work)
        self.until(lambda: not bars._waiting)
        self.assertEqual(set(bars._reckoned), wanted)
        for index, words in bars._reckoned.items():
            try:
                told = f"features {MM.length(reckon(bars.candidates[index].piece(self.session.piece)).bare)}"
            except EmberError:
                told = "it can't be made of this bar"
            self.assertTrue(words.startswith(told), words)

    def test_keys_choose_and_take(self):
        bars = self.stock.bars
        self.assertTrue(bars.hasFocus())
        QTest.keyClick(bars, KEY.Key_Right)
        QTest.keyClick(bars, KEY.Key_Return)
        self.assertEqual(self.session.piece.bar, bars.candidates[1].source.section)
        QTest.keyClick(bars, KEY.Key_Left)
        QTest.keyClick(bars, KEY.Key_Left)
        self.assertEqual(bars.current, 0)

    def test_the_rack_alone_and_a_margin(self):
        self.stock.only_rack.click()
        self.assertEqual({c.source.section for c in self.stock.bars.candidates}, {square(12), round_(12), flat(40, 8), round_(16)})
        self.stock.only_rack.click()
        doubt = self.stock.doubt
        before = doubt.picture.reckoning.safe
        self.type(doubt.fields["margin"], "10 mm")
        self.assertAlmostEqual(self.session.shop.margin, 10)
        self.stock.refresh()
        self.assertAlmostEqual(doubt.picture.reckoning.safe, before + 10)
        self.type(doubt.fields["confidence"], "30 %")
        self.assertIn("between 50 % and 99.9 %", self.window.message.text())
        self.assertEqual(self.session.shop.confidence, 0.95)
        self.assertIn(doubt_shares(doubt.picture.reckoning)[0][0].name.lower(), doubt.told.text())
        self.window.commands.run("view.units")
        self.stock.refresh()
        self.assertIn("″", doubt.told.text())
        self.stock.grab()

    def test_a_design_is_scaled_with_a_warning(self):
        before = self.session.piece
        self.stock.scale_button.click()
        dialog = self.work.dialog
        self.type(dialog.value, "1.1", end=False)
        self.assertIn("not sold", dialog.outcome.text())
        self.type(dialog.value, "1.5", end=False)
        self.assertNotIn("not sold", dialog.outcome.text())
        dialog.done_button.click()
        self.assertAlmostEqual(self.session.piece.bar.width, 18.0)
        self.window.commands.run("edit.undo")
        self.assertEqual(self.session.piece, before)

    def test_compared_with_a_known_piece_on_screen_and_on_paper(self):
        weigh = self.stock.weigh
        self.until(lambda: "balances 137.7 mm" in weigh.told.text())
        weigh.known.click()
        self.choose("pintle", "Gate pintle")
        self.assertIn("0.43 times the force", weigh.compared.text())
        self.assertIn("licensed engineer", weigh.caution.text())
        self.assertTrue(weigh.caution.isVisible())
        weigh.use.setCurrentIndex(2)
        weigh.use.activated.emit(2)
        self.type(weigh.driven, "0")
        self.assertIn("not driven", weigh.compared.text())
        self.type(weigh.driven, "400 mm")
        self.assertIn("driven 400 mm", weigh.compared.text())
        words = printed_words(PAPERS["plan"].printed(self.window.files.subject(), PAPER_SIZES["a4"], {}))
        self.assertIn("Compared with Gate pintle", words)
        self.assertIn("licensed engineer", words)
        self.window.library.flush()
        self.stock.refresh()
        self.assertEqual(weigh.known.text(), "against Gate pintle")  # the book remembers

    def test_the_centre_of_gravity_stands_on_the_drawing_until_the_piece_changes(self):
        self.until(lambda: self.session.balance is not None)
        self.window.show_view(0)
        with_mark = self.window.shape.canvas.grab().toImage()
        self.session.set_balance(None)
        self.assertNotEqual(self.window.shape.canvas.grab().toImage(), with_mark)

    def test_an_empty_piece_teaches(self):
        self.session.open(Piece(), None)
        self.stock.refresh()
        self.assertIn("Add a feature first", self.stock.told.text())
        with mock.patch.object(dialogs, "explain") as explained:
            self.stock.trial_button.click()
        self.assertIn("Nothing here is in doubt", explained.call_args.args[2])

    def test_a_test_piece_is_planned_measured_and_taken_over(self):
        self.pintle()
        self.stock.trial_button.click()
        dialog = self.work.dialog
        self.assertEqual([t.piece.bar for t in dialog.trials], [flat(40, 10), flat(50, 8)])
        self.assertFalse(dialog.done_button.isEnabled())
        dialog.grab()
        self.type(dialog.lines[0, 0, 0], "57", end=False)
        self.assertIn("still missing", dialog.outcome.text())
        self.type(dialog.lines[0, 1, 0], "6.6 mm", end=False)
        self.assertIn("goes sideways 82.5%", dialog.outcome.text())
        self.assertIn("over 99% (was 71%)", dialog.outcome.text())
        dialog.keep_button.click()
        self.window.library.flush()
        self.until(lambda: len([e for e in self.window.library.entries if e.name.startswith("Test piece for Gate pintle")]) == 2)
        dialog.done_button.click()
        spread = self.session.piece.features[7]
        self.assertAlmostEqual(spread.capture, 0.825, places=3)
        (entry,) = (e for e in self.window.library.log_of(self.session.piece_id).values() if e.trial)  # the shop has learned of it too
        self.assertEqual(entry.told[0].factor, "capture")
        taught = calibrated(self.session.shop.forge, [entry], self.session.shop.smith)
        self.assertAlmostEqual(taught.belief.of("capture"), 0.025, delta=0.01)
        self.stock.trial_button.click()
        self.assertIn("In force from a test piece", self.work.dialog.outcome.text())
        self.work.dialog.forget_button.click()
        self.assertEqual(self.session.piece.measured, ())
        self.window.commands.run("edit.undo")
        self.window.commands.run("edit.undo")
        self.assertAlmostEqual(self.session.piece.features[7].capture, 0.8)

    def test_the_catalogue_is_edited_and_the_choice_follows(self):
        self.window.show_view(5)
        board = self.window.book.board("price")
        index = board.shapes.findText("Only round")
        board.shapes.setCurrentIndex(index)
        board.shapes.activated.emit(index)
        self.assertEqual({r.section.shape for r in board.rows.records.values()}, {"round"})
        board.rows.choose("size-round-14-14")
        self.assertEqual(board.out_button.text(), "Not sold here")
        board.out_button.click()
        self.type(board.form.fields["price"], "9.5")
        kept = self.window.library.records(Price)["size-round-14-14"]
        self.assertEqual((kept.sold, kept.price), (False, 9.5))
        self.window.show_view(1)
        self.assertNotIn(round_(14), [c.source.section for c in self.stock.bars.candidates])
        self.window.show_view(5)
        board.out_button.click()
        self.assertNotIn("size-round-14-14", self.window.library.records(Price))
        board.add_button.click()
        own = next(r for i, r in self.window.library.records(Price).items() if i not in ("price-1", "price-2", "price-3"))
        self.assertIsInstance(own, Price)
        board.grab()


class Assembling(WindowCase):
    def setUp(self):
        super().setUp()
        self.window.show_view(5)
        self.page = self.window.book.assemblies

    def record(self) -> Assembly:
        return self.window.library.records(Assembly)[self.page.current]

    def pick(self, box, words: str) -> None:
        index = box.findText(words)
        self.assertGreaterEqual(index, 0, words)
        box.setCurrentIndex(index)
        box.activated.emit(index)
        self.events()

    def test_built_from_pieces_of_the_book_and_taken_back(self):
        page = self.page
        page.add_button.click()
        self.assertIsNone(page.found)
        page.canvas.grab()
        for name in ("Gate pintle", "Back plate"):
            page.form.add_part.click()
            self.choose(name.lower(), name)
        page._put_together()
        self.assertIn("Not joined yet", page.told.text())
        self.pick(page.form.add_join, "rivet through stack")
        page._put_together()
        self.assertEqual((self.record().joins[0].first, self.record().joins[0].second), ("A.f4", "B.f2"))
        self.assertIn("cut the shank 28.7 mm long", page.told.text())
        self.assertIn("1.09 kg together", page.figures.text())
        while self.window.work.timeline.undo_title:
            self.window.commands.run("edit.undo")
        self.assertEqual(len(page.records), 3)

    def test_a_part_taken_out_leaves_the_joins_of_the_others(self):
        page = self.page
        page.choose("assembly-1")
        page.form.add_part.click()
        self.choose("door", "Door pull")
        self.pick(page.form.add_join, "rivet through stack")
        page.form._placed(1, "first", "C.f1")
        page.form._placed(1, "second", "B.f2")
        page.form.take_out("parts", 0)
        tenon, rivet = self.record().joins
        self.assertEqual((tenon.first, tenon.second, rivet.first, rivet.second), ("", "A.f4", "B.f1", "A.f2"))
        self.work_name("Door <b>pull")
        page._put_together()
        self.assertIn("Door &lt;b&gt;pull", page.told.text())
        self.assertRegex(page.told.text(), r"Mass:</b> A: Back plate [\d.]+ g \+ B: .* g = [\d.]+ g")

    def test_a_slow_disk_leaves_the_entries_under_the_fingers(self):
        page, form = self.page, self.page.form
        old = dict(page.records)
        with mock.patch.object(self.window.library, "records", lambda kind: old if kind == "assembly" else {}):
            form._side(0, "mate")  # the book still tells the old record
        self.assertIs(page.form, form)
        self.assertEqual(form.model.parts[0].side, "mate")

    def work_name(self, name: str) -> None:
        self.window.work.set_text("door-pull", "name", name)
        self.events()

    def test_two_versions_are_compared_and_a_picture_kept(self):
        page = self.page
        page.choose("assembly-3")
        page.copy_button.click()
        self.assertEqual(self.record().name, "Boat-hook on its shaft, another version")
        page.form._put("handle", "hickory")
        page._put_together()
        self.assertIn("<b>Against Boat-hook on its shaft</b> (2.30 kg): 14% heavier", page.told.text())
        self.assertIn("handle 21% heavier", page.told.text())
        page.form._put("handle", "steel")
        page._put_together()
        self.assertIn("8.2 times as heavy", page.told.text())
        path = self.folder / "assembly.png"
        with mock.patch.object(dialogs, "save_name", return_value=path):
            page._picture()
        self.assertEqual(QImage(str(path)).size(), page.canvas.size())
        with mock.patch.object(dialogs, "save_name", return_value=self.folder / "no" / "such.png"):
            page._picture()
        self.assertIn("could not be written", self.window.message.text())

    def test_taken_apart_turned_and_followed_when_its_piece_changes(self):
        page, canvas = self.page, self.page.canvas
        together = canvas.grab().toImage()
        page.apart.setValue(60)
        apart = canvas.grab().toImage()
        self.assertNotEqual(apart, together)
        QTest.mousePress(canvas, LEFT, pos=QPointF(200, 100).toPoint())
        QTest.mouseMove(canvas, QPointF(260, 120).toPoint())
        QTest.mouseRelease(canvas, LEFT, pos=QPointF(260, 120).toPoint())
        QTest.keyClick(canvas, KEY.Key_Up)
        self.assertNotEqual(canvas.grab().toImage(), apart)
        mass = page.figures.text()
        self.window.header.bar.setText("14 sq")
        self.window.header.bar.textEdited.emit("14 sq")
        page._put_together()
        self.assertNotEqual(page.figures.text(), mass)

    def test_mates_handles_and_files(self):
        page = self.page
        page.choose("assembly-3")
        self.assertEqual(self.record().handle, "ash")
        page.form._put("handle", "none")
        page._put_together()
        light = page.found.weight.mass
        page.form._put("handle", "steel")
        page._put_together()
        self.assertGreater(page.found.weight.mass, light + 10_000)
        page.choose("assembly-1")
        page.form._side(0, "mate")
        self.assertEqual(self.record().parts[0].side, "mate")
        path = self.folder / "bracket.json"
        with mock.patch.object(dialogs, "save_name", return_value=path):
            page.file_button.click()
        self.assertIn('"assemblies"', path.read_text())
        page.out_button.click()
        page.refresh()
        self.assertEqual(len(page.records), 2)
