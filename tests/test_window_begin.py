"""Beginning a piece through the window: keys and clicks counted, focus where the act is, lines drawn and refused, several features at once."""

import time
from functools import partial
from unittest import mock

import numpy as np
from PySide6.QtCore import QEvent, QPointF, Qt, QTimer
from PySide6.QtGui import QGuiApplication, QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLineEdit

from long_ember.document import answer
from long_ember.records import Assembly, Job, Start
from long_ember.sections import round_, square
from long_ember.shorthand import read_line, write_line
from tests.paper_case import read_back
from tests.test_photos import photo, pressed
from tests.window_case import CTRL, KEY, SHIFT, WindowCase, live

# Keys and clicks that each job may take, after what the same took in 0.1 as far as it was counted.
MOST = {
    "oilskin hook": 35,
    "mooring staple": 15,
    "tong half": 45,
    "lamp stand of four parts": 60,
    "change bar and reprint": 6,
    "job of twelve": 12,
}


def mouse(at: QPointF, held: Qt.MouseButton) -> QMouseEvent:
    return QMouseEvent(QEvent.Type.MouseMove, at, at, held, held, Qt.KeyboardModifier.NoModifier)


class Begin(WindowCase):
    def setUp(self):
        super().setUp()
        self.pressed = 0
        self.window.activateWindow()
        self.app.processEvents()

    def press(self, key, modifiers=Qt.KeyboardModifier.NoModifier) -> None:
        """One key, to whatever has the focus."""
        self.pressed += 1
        QTest.keyClick(QApplication.focusWidget() or self.window, key, modifiers)
        self.app.processEvents()

    def write(self, text: str) -> None:
        """Every character is a key."""
        for character in text:
            self.pressed += 1
            QTest.keyClick(QApplication.focusWidget() or self.window, character)
        self.app.processEvents()

    def enter(self, times: int = 1) -> None:
        for _ in range(times):
            self.press(KEY.Key_Return)

    def asked(self, keys) -> None:
        """What is pressed in a dialog that waits for it."""

        def once_it_is_there() -> None:
            dialog, focus = QApplication.activeModalWidget(), QApplication.focusWidget()
            if dialog is not None and focus is not None and focus.window() is dialog:
                keys()
            else:
                QTimer.singleShot(20, once_it_is_there)

        QTimer.singleShot(0, once_it_is_there)

    def begin(self, word: str, sizes: tuple[str, ...]) -> None:
        """New piece, a word, Enter; for each size that is asked what is typed, and Enter."""
        self.press(KEY.Key_N, CTRL)
        self.write(word)
        self.enter()
        for text in sizes:
            self.write(text)
            self.enter()

    def held(self, job: str) -> None:
        print(f"{job}: {self.pressed} keys and clicks, at most {MOST[job]}")
        self.assertLessEqual(self.pressed, MOST[job])

    def test_an_oilskin_hook_for_a_bar_of_200(self):
        self.begin("oil", ("", "", "", ""))
        piece = self.session.piece
        self.assertEqual((piece.name, piece.bar, [f.kind for f in piece.features]), ("Oilskin hook", square(8), ["spread", "run", "taper"]))
        self.assertEqual(sorted(s.feature.kind for s in piece.standing), ["curl", "hole", "hook", "twist"])
        self.session.select(piece.features[1].id)
        self.pressed += 1  # a click on its card

        def fit():
            self.write("200")
            self.enter()

        self.asked(fit)
        self.press(KEY.Key_G, CTRL)
        self.assertIn(self.session.answer.reckoning.cut, (199.0, 200.0))  # a heat more takes a little more scale
        self.held("oilskin hook")

    def test_a_mooring_staple(self):
        self.begin("stap", ("", "", ""))
        self.assertEqual(self.session.piece.name, "Mooring staple")
        self.assertEqual([f.kind for f in self.session.piece.features], ["point", "run", "bend", "run", "bend", "run", "point"])
        self.held("mooring staple")

    def test_half_a_pair_of_tongs_with_other_sizes(self):
        self.begin("tong", ("16x10 flat", "55", "240"))
        self.assertEqual(self.window.beginning.fault.text(), "")
        jaw, boss, rein = self.session.piece.features
        self.assertEqual((jaw.length, rein.length), (55.0, 240.0))
        self.assertGreater(boss.section.width, 16)
        self.held("tong half")

    def test_a_lamp_stand_of_four_parts(self):
        for word, sizes in (("lamp f", ("", "", "")), ("pricket", ("", "", "")), ("back", ("", "", "")), ("rivet", ("", ""))):
            self.begin(word, sizes)
            self.window.library.flush()

        def tick():
            for _ in range(4):
                self.press(KEY.Key_Space)
                self.press(KEY.Key_Down)
            self.enter()

        self.asked(tick)
        self.press(KEY.Key_A, CTRL | SHIFT)
        made = next(a for a in self.window.library.records(Assembly).values() if len(a.parts) == 4 and a.name.startswith("New"))
        names = {self.window.library.entry(p.piece).name for p in made.parts}
        self.assertEqual(names, {"Lamp foot", "Candle pricket", "Back plate", "Rivet"})
        self.held("lamp stand of four parts")

    def test_another_bar_and_the_sheet_again(self):
        path = self.folder / "again.pdf"

        def written():
            end = time.monotonic() + 30
            while not path.exists() and time.monotonic() < end:
                time.sleep(0.01)  # its thread needs the interpreter too
                self.app.processEvents()
            live(200)

        def save():
            dialog = QApplication.activeModalWidget()  # in it, whatever has the focus: nobody else would close it
            try:
                QTest.keyClick(dialog, KEY.Key_S, CTRL)
                written()
            finally:
                dialog.reject()

        with mock.patch("long_ember.ui.widgets.dialogs.save_name", return_value=path):
            self.asked(save)
            self.press(KEY.Key_P, CTRL)
        path.unlink()
        self.window.activateWindow()
        live(100)
        self.pressed = 0
        self.press(KEY.Key_B, CTRL)
        self.write("10")
        self.enter()
        self.assertEqual(self.session.piece.bar, square(10))
        self.press(KEY.Key_P, CTRL | Qt.KeyboardModifier.AltModifier)
        written()
        self.assertIn("10 mm square", " ".join(read_back(path.read_bytes())[0]))
        self.held("change bar and reprint")

    def test_a_job_of_twelve_of_the_piece(self):
        def twelve():
            self.write("12")
            self.enter()

        self.asked(twelve)
        self.press(KEY.Key_J, CTRL | SHIFT)
        lines = [line for job in self.window.library.records(Job).values() for line in job.lines]
        self.assertIn((self.session.piece_id, 12), [(line.piece, line.quantity) for line in lines])
        self.held("job of twelve")

    def test_an_empty_line_begins_an_empty_bar_and_escape_goes_back(self):
        before = self.session.piece
        self.press(KEY.Key_N, CTRL)
        self.assertIs(QApplication.focusWidget(), self.window.beginning.line)
        self.press(KEY.Key_Escape)
        self.assertIs(self.session.piece, before)
        self.press(KEY.Key_N, CTRL)
        self.enter()
        self.assertEqual(self.session.piece.features, ())

    def test_a_piece_is_drawn_while_its_line_is_typed_and_refused_at_the_word(self):
        self.press(KEY.Key_N, CTRL)
        page, before = self.window.beginning, self.session.piece
        self.write("12 sq: taper 90 to 3, run 60, hoo")
        self.assertIn("Try hook", page.fault.text())
        self.assertIn("underline", page.whole.text())
        self.assertEqual(len(page.picture.piece.features), 2)  # what is said before the word
        self.assertFalse(page.make_button.isEnabled())
        self.enter()
        self.assertIs(self.session.piece, before)
        self.write("k 40")
        self.assertEqual((page.fault.text(), len(page.picture.piece.features)), ("", 3))
        self.enter()
        self.assertEqual([f.kind for f in self.session.piece.features], ["taper", "run", "hook"])
        self.session.undo()
        self.assertEqual(self.session.piece.features, ())

    def test_a_start_is_made_by_its_name_and_its_sizes(self):
        self.press(KEY.Key_N, CTRL)
        page = self.window.beginning
        self.write("S hook 60")
        self.assertIn("hook 60 200°", page.whole.text())  # what it stands for
        self.assertIn("straight between 40 mm", page.told.text())
        self.enter()
        self.assertEqual([getattr(f, "inside", f.id and 0.0) for f in self.session.piece.features], [60.0, 0.0, 60.0])
        self.assertEqual(self.session.piece.name, "S hook")

    def test_tab_finishes_a_half_typed_word_and_goes_on_where_none_is(self):
        self.press(KEY.Key_N, CTRL)
        page = self.window.beginning
        QTest.keyClicks(page.line, "12 sq: ta")
        QTest.keyClick(page.line, KEY.Key_Tab)
        self.assertEqual(page.line.text(), "12 sq: taper ")
        self.assertTrue(page.line.hasFocus())
        QTest.keyClick(page.line, KEY.Key_Tab)
        self.assertEqual(page.line.text(), "12 sq: taper ")
        self.assertFalse(page.line.hasFocus())

    def test_the_line_of_a_piece_is_changed_and_it_follows(self):
        self.press(KEY.Key_J, CTRL)
        line = self.window.beginning.line
        self.assertEqual(line.text(), write_line(self.session.piece, self.session.measure))
        line.setText(line.text().replace("run 55", "run 77"))
        self.enter()
        self.assertIn(77.0, [f.length for f in self.session.piece.features if f.kind == "run"])
        self.assertEqual(self.session.undo_title, "Write the piece")

    def test_what_can_be_made_of_a_bar_that_is_there(self):
        self.press(KEY.Key_N, CTRL)
        page = self.window.beginning
        self.write("12 sq x 400")
        self.until(lambda: page._search is None)
        self.until(lambda: "Cut " in page.told.text())
        self.assertIn("of the bar are left", page.told.text())  # what is told of the fit stays when the cut length comes
        self.assertGreaterEqual(len(page._fits), 5)
        for fit in page._fits.values():
            self.assertEqual(fit.piece.bar, square(12))
            self.assertTrue(0 <= fit.left < 5, fit)
        self.assertTrue(any(key.startswith("piece/") for key in page._fits))  # pieces of the book too
        self.enter(3)  # the first, its bar, its size
        self.assertIn(self.session.piece.name, {f.piece.name for f in page._fits.values()} | {page._start.name})
        self.assertLessEqual(self.session.answer.reckoning.cut, 400)
        self.assertGreater(self.session.answer.reckoning.cut, 390)

    def test_sizes_that_do_not_go_together_are_said_and_nothing_is_made(self):
        before = self.session.piece
        self.begin("leaf plate", ("30x5 flat", "120"))
        self.write("1000")  # a leaf wider than any bar
        page = self.window.beginning
        size = page.sizes["leaf"]
        size.setText("nonsense")
        size.textEdited.emit("nonsense")
        self.assertTrue(page.fault.text().startswith("! Each leaf"))
        self.enter()
        self.assertIs(self.session.piece, before)

    def test_a_start_of_your_own_is_offered_and_asks_what_you_chose(self):
        from long_ember.ui.shape.start_form import StartForm

        form = StartForm(self.window.work, self.window)
        self.assertFalse(form.done_button.isEnabled())
        tick, asked, of = next(t for t in form.ticks if "Run: length" in t[0].text())
        tick.setChecked(True)
        asked.setText("Arm")
        form.name.setText("Our bracket")
        form.done_button.click()
        self.assertEqual([s.name for s in self.window.library.records(Start).values()], ["Our bracket"])
        self.begin("our br", ("", "99"))
        self.assertEqual(self.session.piece.name, "Our bracket")
        self.assertIn(99.0, [f.length for f in self.session.piece.features if f.kind == "run"])
        self.assertTrue(of[0])
        self.press(KEY.Key_N, CTRL)
        self.write("stap")
        self.assertTrue(self.window.beginning.out_button.isHidden())  # the program's own stay
        self.window.beginning.line.clear()
        self.write("our br")
        self.assertFalse(self.window.beginning.out_button.isHidden())
        self.window.beginning.out_button.click()
        self.assertEqual(self.window.library.records(Start), {})
        self.assertEqual(self.window.beginning.wall.hung, ())
        self.window.work.timeline.undo()
        self.assertEqual([s.name for s in self.window.library.records(Start).values()], ["Our bracket"])

    def test_features_are_copied_as_words_and_pasted_into_another_piece(self):
        first, second = self.session.piece.features[:2]
        self.session.select(first.id)
        self.session.select_to(second.id)
        self.window.commands.run("edit.copy")
        text = QGuiApplication.clipboard().text()
        self.assertTrue(text.startswith("scroll"), text)
        self.assertIn("mm", text)
        self.window.work.new_piece()
        self.window.commands.run("edit.paste")
        self.assertEqual([f.kind for f in self.session.piece.features], [first.kind, second.kind])
        QGuiApplication.clipboard().setText('Please make me this:\n"Ring" 3/8 rd: eye 1 1/2"')
        self.window.commands.run("edit.paste")
        self.assertIn("Nothing was pasted", self.window.message.text())
        self.window.work.new_piece()
        QGuiApplication.clipboard().setText('"Ring" 3/8" rd:\n  eye 1 1/2"')
        self.window.commands.run("edit.paste")
        self.assertEqual((self.session.piece.name, self.session.piece.bar), ("Ring", round_(9.525)))

    def test_several_features_are_changed_and_removed_at_once(self):
        runs = [f for f in self.session.piece.features if f.kind == "run"]
        self.session.select(self.session.piece.features[0].id)
        self.session.select_to(self.session.piece.features[-1].id)
        self.session.select_to(self.session.piece.features[-1].id)
        count = len(self.session.piece.features)
        self.assertEqual(len(self.session.chosen), count)
        strip = self.window.shape.strip.cards
        self.session.select(runs[0].id)
        at, last = (self.session.piece.index(r.id) for r in (runs[0], runs[-1]))
        for _ in range(last - at):
            QTest.keyClick(strip, KEY.Key_Right, SHIFT)
        self.assertEqual(self.session.chosen, tuple(f.id for f in self.session.piece.features[at : last + 1]))
        field = self.field("length")
        self.type(field, "44")
        self.assertEqual({f.length for f in self.session.piece.features if f.kind == "run"}, {44.0})
        self.window.commands.run("edit.undo")
        self.assertEqual([f.length for f in self.session.piece.features if f.kind == "run"], [r.length for r in runs])
        QTest.keyClick(strip, KEY.Key_Delete)
        self.assertEqual(len(self.session.piece.features), count - (last - at + 1))

    def test_a_piece_is_followed_on_a_photo_and_held_against_the_plan(self):
        drawn = read_line("12 sq: run 80, bend 90 20, run 100").piece
        content, pixels, sheet, size = photo(drawn, tilt=0.25)
        path = self.folder / "bracket.png"
        path.write_bytes(content)
        self.press(KEY.Key_N, CTRL | SHIFT)
        page = self.window.photo
        page.open_file(path)
        page.way.setCurrentIndex(1)
        page._rescale()
        for entry, value in zip((page.width_, page.height_), size, strict=True):
            entry.setText(f"{value:.3f} mm")
        for x, y in sheet:
            page.canvas.pressed.emit(float(x), float(y))
        self.assertEqual(page.canvas.moving, "way")  # the scale is set: the line comes next
        for x, y in pressed(drawn, pixels):
            page.canvas.pressed.emit(float(x), float(y))
        self.until(lambda: page.result is not None)
        self.assertIn("strays at most", page.told.text())
        self.assertTrue(page.canvas.outlines)
        page.make()
        self.assertEqual([f.kind for f in self.session.piece.features], ["run", "bend", "run"])
        self.assertAlmostEqual(self.session.answer.reckoning.bare, answer(drawn).reckoning.bare, delta=4.0)
        self.window.show_photo()
        page.against.setChecked(True)
        self.until(lambda: "as planned" in page.told.text())
        self.assertFalse(page.make_button.isEnabled())
        page._back()
        page.against.setChecked(False)
        content, pixels, _sheet, _size = photo(drawn)  # straight on, scaled by the bar alone, and pressed with keys
        path.write_bytes(content)
        page.open_file(path)
        page.way.setCurrentIndex(2)
        page._rescale()
        page.canvas.setFocus()
        way = pressed(drawn, pixels, apart=55.0)
        run = way[-1] - way[-2]
        across = np.array([-run[1], run[0]]) / np.hypot(*run) * 24.0  # half the bar, 4 px a mm
        for x, y in (*((way[-1] + way[-2]) / 2 + side * across for side in (1, -1)), way[0]):
            self.steer(page.canvas, x, y)
            QTest.keyClick(page.canvas, KEY.Key_Space)
        for x, y in way[1:]:
            page.canvas.pressed.emit(float(x), float(y))
        page.reckon()
        self.until(lambda: page.result is not None)
        self.assertAlmostEqual(answer(page.result.piece).reckoning.bare / answer(drawn).reckoning.bare, 1.0, delta=0.03)
        (self.folder / "no.png").write_bytes(b"nothing")
        page.open_file(self.folder / "no.png")
        self.assertIn("no picture", page.told.text())
        self.until(lambda: not self.session.loop.working)

    def steer(self, canvas, x, y):
        """The cross of the picture, by arrows alone."""
        QTest.keyClick(canvas, KEY.Key_Right)
        for held, step in ((Qt.KeyboardModifier.NoModifier, 12.0), (SHIFT, 1.0)):
            for axis, keys in ((0, (KEY.Key_Left, KEY.Key_Right)), (1, (KEY.Key_Up, KEY.Key_Down))):
                off = ((x, y)[axis] - canvas._cross[axis]) * canvas._scale / step
                for _ in range(round(abs(off))):
                    QTest.keyClick(canvas, keys[int(off > 0)], held)

    def test_a_length_is_dragged_and_stepped_to_the_ruler(self):
        canvas = self.window.shape.canvas
        run = next(f for f in self.session.piece.features if f.kind == "run")
        dimension = next(d for d in canvas.scene.dimensions if d.address.owner == run.id)
        at = dimension.box.center()
        canvas.mousePressEvent(mouse(at, Qt.MouseButton.LeftButton))
        for far in (10, 31.3):
            canvas.mouseMoveEvent(mouse(at + QPointF(far, 0), Qt.MouseButton.LeftButton))
        dragged = self.session.piece.feature(run.id).length
        self.assertEqual(dragged, round(run.length + 31.3 / canvas.scene.figure_view.scale))
        self.assertTrue(self.session.document.trying)
        canvas.mouseReleaseEvent(mouse(at + QPointF(31.3, 0), Qt.MouseButton.LeftButton))
        self.assertEqual((self.session.document.settled.feature(run.id).length, self.session.undo_title), (dragged, "Change run length"))
        self.session.select(run.id)
        field = self.field("length")
        field.setFocus()
        QTest.keyClick(field, KEY.Key_Up)
        QTest.keyClick(field, KEY.Key_Up)
        QTest.keyClick(field, KEY.Key_Down, SHIFT)
        self.assertEqual(
            (self.session.piece.feature(run.id).length, self.session.document.settled.feature(run.id).length),
            ((dragged + 2) // 10 * 10, dragged),
        )
        QTest.keyClick(field, KEY.Key_Escape)
        self.assertEqual(self.session.piece.feature(run.id).length, dragged)
        box = self.field("pin")
        box.setFocus()
        QTest.keyClick(box, KEY.Key_Down)  # opens the list: nothing is chosen yet
        self.assertEqual(self.session.piece.feature(run.id).pin, "none")
        box.hidePopup()

    def test_the_window_fits_a_small_screen(self):
        self.window.resize(1024, 700)
        for show in (
            *(partial(self.window.show_view, i) for i in range(6)),
            self.window.show_begin,
            self.window.show_photo,
            self.window.show_catalogue,
        ):
            show()
            self.app.processEvents()
        size = self.window.minimumSizeHint()
        self.assertTrue(size.width() <= 1024 and size.height() <= 700, size)
        self.assertEqual((self.window.width(), self.window.height()), (1024, 700))

    def test_at_twice_the_size_on_a_usual_screen_the_drawing_is_no_sliver(self):
        self.window.resize(960, 526)
        self.app.processEvents()
        self.assertLessEqual(self.window.height(), 526)
        self.assertGreaterEqual(self.window.shape.canvas.height(), 130)
        self.assertFalse(self.window.shape.all_shapes.isHidden())

    def test_every_entry_has_a_name(self):
        self.press(KEY.Key_N, CTRL)
        for entry in self.window.beginning.findChildren(QLineEdit):
            self.assertTrue(entry.accessibleName())
