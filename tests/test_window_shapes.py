"""The screens for every shape, through the window: catalogue, calculator, views of the solid, tines, blanks, drawings in and out."""

from dataclasses import replace
from pathlib import Path
from unittest import mock

import numpy as np
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from long_ember.blanks import BLANKS
from long_ember.demo import demo_files
from long_ember.document import change_standing, remove_all
from long_ember.features import KINDS, Piece, Split, stock_of
from long_ember.features.traced import read_course
from long_ember.geometry import Seen
from long_ember.sections import round_, square
from long_ember.storage import read_piece
from long_ember.ui.drawing.solid import Solid
from long_ember.ui.shape.catalogue import found_by
from long_ember.ui.shape.curve_form import CurveForm
from long_ember.ui.shape.forms import FitBar, Repeat
from long_ember.ui.shape.limb_field import LimbDialog
from long_ember.ui.shape.shape_view import limb_view
from long_ember.ui.widgets import dialogs
from tests.window_case import CTRL, KEY, LEFT, SHIFT, WindowCase


class Finding(WindowCase):
    def test_shapes_are_found_by_any_of_their_names(self):
        for words, kind in (("joggle", "offset"), ("rivet head", "head"), ("spring", "coil"), ("leaf", "spread"), ("reins", "extension"),
                            ("fuller", "neck"), ("countersink", "hole")):  # fmt: skip
            self.assertIn(kind, found_by(words), words)
        self.assertEqual((found_by(""), found_by("nonsense")), (list(KINDS), []))
        self.assertEqual([found_by(w)[0] for w in ("ring", "tenon", "Point", "spring")], ["eye", "tenon", "point", "coil"])

    def test_search_enter_and_it_is_in_the_piece(self):
        self.select(1)
        self.window.commands.run("view.catalogue")
        catalogue = self.window.catalogue
        QTest.keyClicks(catalogue.search, "forked")
        self.assertEqual([h.key for h in catalogue.wall.hung], ["split"])
        catalogue.grab()
        QTest.keyClick(catalogue.search, KEY.Key_Return)
        # In the middle of the bar a split is added with a warning that its end is not free.
        self.assertEqual(self.session.piece.features[2].kind, "split")
        self.assertIs(self.window.stack.currentWidget(), self.window.shape)
        for words, form in (("snail", "flat"), ("spring", "helical")):  # what its name says besides is done too
            self.window.show_catalogue()
            QTest.keyClicks(catalogue.search, words)
            QTest.keyClick(catalogue.search, KEY.Key_Return)
            self.assertEqual(self.session.piece.feature(self.session.selection).form, form)
        self.window.show_catalogue()
        QTest.keyClicks(catalogue.search, "zzz")
        catalogue.grab()
        QTest.keyClick(catalogue, KEY.Key_Escape)
        self.assertIs(self.window.stack.currentWidget(), self.window.shape)

    def test_the_wall_by_keys_and_by_mouse(self):
        self.window.show_catalogue()
        wall = self.window.catalogue.wall
        QTest.keyClick(wall, KEY.Key_Right)
        QTest.keyClick(wall, KEY.Key_Down)
        self.assertEqual(wall.at, 1 + wall.columns)
        count = len(self.session.piece.features)
        self.click(wall, wall.box(0).center())
        self.assertEqual(len(self.session.piece.features), count + 1)
        self.assertEqual(self.session.piece.features[1].kind, "run")


class Views(WindowCase):
    def test_side_plan_and_turned_show_three_things_and_the_keys_turn(self):
        canvas, pictures = self.window.shape.canvas, []
        for side in ("side", "plan", "turned"):
            self.window.commands.run(f"view.{side}")
            pictures.append(canvas.grab().toImage())
        self.assertEqual(len({bytes(p.constBits()) for p in pictures}), 3)
        before = canvas.look.copy()
        QTest.keyClick(canvas, KEY.Key_Right, SHIFT)
        self.assertFalse((canvas.look == before).all())
        self.window.commands.run("view.side")
        self.assertIsNone(canvas.look)

    def test_dragging_turns_the_solid_at_a_steady_scale(self):
        canvas = self.window.shape.canvas
        canvas.look_from("turn")
        canvas.grab()
        start = QPoint(canvas.width() // 2, canvas.height() - 40)
        scale, look = canvas.scene.view.scale, canvas.look.copy()
        QTest.mousePress(canvas, LEFT, Qt.KeyboardModifier.NoModifier, start)
        for i in range(1, 5):
            QTest.mouseMove(canvas, start + QPoint(12 * i, -6 * i))
            canvas.grab()
            if i > 1:
                self.assertAlmostEqual(canvas.scene.view.scale, scale, delta=0.02 * scale)
        QTest.mouseRelease(canvas, LEFT, Qt.KeyboardModifier.NoModifier, start + QPoint(48, -24))
        self.assertFalse((canvas.look == look).all())

    def test_a_bend_to_the_front_is_drawn_as_it_is_seen_and_can_be_picked(self):
        bent = Piece(features=(KINDS["run"](id="a", length=150.0), KINDS["bend"](id="b", facing=90.0), KINDS["run"](id="c", length=80.0)))
        self.session.open(bent, None)
        scene = self.window.shape.canvas.scene
        self.assertTrue(all(isinstance(p, Seen) for p in scene.parts))
        side = scene.part_boxes[2]
        self.assertLess(side.width(), side.height() * 1.5)  # it comes straight at the eye: only its end is seen
        self.window.commands.run("view.plan")
        scene = self.window.shape.canvas.scene
        self.assertGreater(scene.part_boxes[2].height(), scene.part_boxes[2].width())
        self.assertEqual(scene.hit(scene.part_boxes[2].center()), "c")

    def test_a_thousand_faces_are_sorted_and_only_those_toward_the_eye_drawn(self):
        canvas = self.window.shape.canvas
        self.session.open(read_piece(demo_files()[5]), None)
        canvas.look_from("turn")
        canvas.grab()
        _piece, solid = canvas._solid
        self.assertIsInstance(solid, Solid)
        points, faces, owner, shade = solid.seen(canvas.look)
        self.assertLess(len(faces), 0.7 * solid.count)
        self.assertEqual(len(faces), len(owner))
        self.assertTrue((shade >= 0).all() and len(points) > 500)

    def test_what_is_painted_in_portions_is_what_is_painted_at_once(self):
        kinds = ("taper", "run", "twist", "run")
        self.session.open(Piece(bar=square(12), features=tuple(KINDS[kinds[i % 4]](id=f"r{i}") for i in range(24))))
        for view, shown in (("view.shape", lambda: self.window.shape.canvas), ("view.mark", lambda: self.window.mark.board)):
            self.window.commands.run(view)
            widget = shown()
            widget.grab()
            late = widget._late
            self.type(self.window.header.bar, "12.2 sq" if view == "view.shape" else "12.3 sq")
            self.session.set_hover("r3")  # while it is under way
            self.until(lambda late=late: late._ready is not None)
            portions = widget.grab().toImage()
            late.now()
            self.assertIsNone(late._ready)
            self.assertEqual(portions, widget.grab().toImage(), view)
            self.session.set_hover("")

    def test_what_is_drawn_of_many_features_follows_the_answer(self):
        canvas, bar = self.window.shape.canvas, self.window.header.bar
        for count, late in ((4, False), (40, True)):
            self.session.open(Piece(bar=square(12), features=tuple(KINDS["taper" if i == 0 else "run"](id=f"r{i}") for i in range(count))))
            canvas.grab()
            before = canvas.scene.answer
            bar.setFocus()
            bar.setCursorPosition(2)
            QTest.keyClicks(bar, ".5")
            self.assertEqual(self.session.answer.piece.bar, square(12.5))
            self.assertIs(canvas.scene.answer, before if late else self.session.answer)
            self.until(lambda: canvas.scene.answer is self.session.answer)
            self.session.attempt(remove_all, ["r1"])  # another row: what is drawn could be pressed, and would not be there
            self.assertEqual(len(canvas.scene.parts), count - 1)


class Reckoning(WindowCase):
    def test_give_it_so_much_bar_and_a_size_follows(self):
        self.select(0)
        given = self.window.shape.inspector.given
        given.free.setCurrentIndex(given.free.findData("outer"))
        self.type(given.length, "120")
        scroll = self.session.piece.features[0]
        self.assertAlmostEqual(stock_of(scroll, self.session.piece.place(0)), 120, places=6)
        self.assertEqual(self.session.document.undo_title, "Fit scroll outer radius")
        self.type(given.length, "12 what")
        self.assertIn("Nothing changed", self.window.message.text())
        self.type(given.length, "1")
        self.assertIn("No outer radius", self.window.message.text())
        self.assertEqual(self.session.piece.features[0], scroll)

    def test_the_calculator_reckons_by_itself_and_puts_its_answer_into_the_piece(self):
        before = self.session.piece
        self.window.commands.run("view.calculator")
        calculator = self.window.calculator
        calculator.show_kind("eye")
        self.type(next(f for f in calculator.inspector.fields if f.address.name == "inside"), "60")
        calculator.bench.apply(replace_bar(calculator.bench.piece, round_(10)))
        self.assertIn("219.9 mm", calculator.figure.text())  # a ring of 60 inside from 10 round: 3.1416 × 70
        self.assertIs(self.session.piece, before)
        calculator.copy_sum()
        self.assertIn("Eye from 10 mm round", QApplication.clipboard().text())
        self.assertTrue(calculator.put_in())
        self.assertEqual(len(self.session.piece.features), len(before.features) + 1)
        self.assertIn("own bar", calculator.message.text())
        for kind in KINDS:
            calculator.show_kind(kind)
            calculator.grab()
        calculator.close()

    def test_a_fixed_bar_and_repeats_show_what_would_come_of_them(self):
        self.select(1)
        fit = FitBar(self.session)
        fit.length.setText("500")
        fit.renew()
        self.assertIn("Run 2: length goes from 55 mm to", fit.outcome.text())
        fit.length.setText("100")
        fit.renew()
        self.assertFalse(fit.done_button.isEnabled())
        self.assertIn("Not possible", fit.outcome.text())
        fit.length.setText("500")
        fit.renew()
        fit.done_button.click()
        self.assertEqual(self.session.answer.reckoning.cut, 500)
        self.select(1)
        again = Repeat(self.session)
        again.count.setText("2.5")
        again.renew()
        self.assertFalse(again.done_button.isEnabled())
        again.count.setText("3")
        again.pitch.setText("200 mm")
        again.renew()
        count = len(self.session.piece.features)
        again.done_button.click()
        self.assertEqual(len(self.session.piece.features), count + 4)
        for form in (fit, again):
            form.deleteLater()

    def test_it_says_when_the_piece_runs_into_itself(self):
        features = (
            KINDS["run"](id="stem", length=120.0), KINDS["bend"](id="bend", angle=180.0, radius=14.0), KINDS["run"](id="r", length=20.0),
            KINDS["scroll"](id="scroll", toward="B", outer=40.0),
        )  # fmt: skip
        self.session.open(Piece(features=features), None)
        self.session.look_for_contacts()
        self.until(lambda: bool(self.session.contacts))
        self.session.select("scroll")
        self.assertIn("runs into", self.window.message.text())
        self.assertIn("Runs into the run", self.window.shape.inspector.notes.text)
        self.session.undo()


class Limbs(WindowCase):
    def test_a_tine_is_planned_on_a_bench_of_its_own_and_put_back_as_one_step(self):
        self.session.open(Piece(bar=square(20), features=(Split(id="s", cut=100.0), KINDS["run"](id="r"))), None)
        self.session.select("s")
        field = self.field("upper")
        self.assertEqual(field.text(), "plain…")
        dialog = LimbDialog(self.session, field.address, limb_view)
        self.click(dialog.view.palette_buttons["taper"], QPointF(20, 20))
        self.assertEqual([f.kind for f in dialog.bench.piece.features], ["taper"])
        self.assertTrue(dialog.put())
        self.assertEqual([f.kind for f in self.session.piece.features[0].upper], ["taper"])
        self.assertEqual((field.text(), self.session.document.undo_title), ("1 shape…", "Change split upper tine"))
        long = LimbDialog(self.session, field.address, limb_view)
        self.click(long.view.palette_buttons["curl" if "curl" in long.view.palette_buttons else "hook"], QPointF(20, 20))
        self.assertEqual((len(long.bench.piece.features), len(long.bench.piece.standing)), (1, 1))  # a limb is a small piece
        self.assertTrue(long.put())
        self.assertEqual(
            [part.id for part in self.session.piece.features[0].upper],
            [part.id for part in (*long.bench.piece.features, *long.bench.piece.standing)],
        )
        self.assertEqual(field.text(), "2 shapes…")
        again = LimbDialog(self.session, field.address, limb_view)
        self.assertEqual((again.bench.piece.standing, again.held()), (long.bench.piece.standing, ""))
        for _ in range(3):
            again.bench.select(again.bench.piece.features[0].id)
            self.click(again.view.palette_buttons["run"], QPointF(20, 20))
        self.assertFalse(again.put())
        self.assertIn("too short", again.message.text())
        self.window.commands.run("edit.undo")
        self.window.commands.run("edit.undo")
        self.assertEqual(self.session.piece.features[0].upper, ())
        for d in (dialog, long, again):
            d.deleteLater()


class LaidOn(WindowCase):
    """A hook and a curl on what a taper has drawn, by the palette, the second row, the drawing and the menu."""

    def setUp(self):
        super().setUp()
        self.session.open(
            Piece(bar=square(8), features=(KINDS["run"](id="r", length=80.0), KINDS["taper"](id="t", length=120.0, toward="B")))
        )
        self.session.select("t")
        self.cut = self.session.answer.reckoning.cut

    def press(self, kind: str) -> str:
        self.click(self.window.shape.palette_buttons[kind], QPointF(20, 20))
        return self.session.selection

    def test_the_palette_lays_it_on_and_one_press_gives_it_its_own_bar(self):
        self.assertTrue(self.window.shape.standing.isHidden())
        hook = self.press("hook")
        self.assertEqual([f.kind for f in self.session.piece.features], ["run", "taper"])
        self.assertEqual(self.session.piece.stands(hook).on, "B")
        self.assertEqual(self.session.answer.reckoning.cut, self.cut)
        self.assertTrue(self.window.shape.standing.isVisible())
        self.type(self.field("at"), "20")
        self.assertEqual(self.session.piece.stands(hook).at, 20.0)
        switch = self.window.shape.inspector.switch
        self.assertEqual(switch.text(), "Give it its own bar")
        self.click(switch, QPointF(10, 10))
        self.assertEqual([f.kind for f in self.session.piece.features], ["run", "taper", "hook"])
        self.assertGreater(self.session.answer.reckoning.cut, self.cut)
        self.window.commands.run("edit.own")
        self.assertEqual([s.feature.kind for s in self.session.piece.standing], ["hook"])
        for _ in range(4):
            self.window.commands.run("edit.undo")
        self.assertEqual((self.session.piece.standing, len(self.session.piece.features)), ((), 2))

    def test_the_landmark_is_chosen_by_name_and_leaves_it_where_it_is(self):
        hook = self.press("hook")
        before = self.session.piece.composition.stand(hook).start
        field = self.field("on")
        words = [field.itemText(i) for i in range(field.count())]
        self.assertEqual(words[:3] + words[-1:], ["end A", "end B", "run 1: end A", "taper 2: end B"])
        field.activated.emit(words.index("taper 2: end B"))
        self.assertEqual(self.session.piece.stands(hook).on, "t")
        self.assertAlmostEqual(self.session.piece.composition.stand(hook).start, before, places=5)
        field.activated.emit(words.index("end A"))  # it goes on toward A: nothing lies there to begin from
        self.assertIn("begins before that place", self.window.message.text())
        self.assertEqual(field.currentText(), "taper 2: end B")

    def test_cards_of_the_second_row_are_dragged_walked_and_removed(self):
        hook = self.press("hook")
        bend = self.press("bend")
        self.assertNotEqual(bend, hook)
        row = self.window.shape.standing
        self.session.attempt(change_standing, bend, "at", 20.0)
        at = row.card_rect([s.standing.id for s in row.stands].index(bend)).center().toPoint()
        QTest.mousePress(row, LEFT, pos=at)
        for x in (10, 25, 40):
            QTest.mouseMove(row, at + QPoint(x, 0))
        QTest.mouseRelease(row, LEFT, pos=at + QPoint(40, 0))
        moved = self.session.piece.stands(bend).at
        self.assertGreater(moved, 20.0)
        self.window.commands.run("edit.undo")
        self.assertEqual(self.session.piece.stands(bend).at, 20.0)
        row.setFocus()
        QTest.keyClick(row, KEY.Key_Right, CTRL)
        self.assertEqual(self.session.piece.stands(bend).at, 21.0)
        QTest.keyClick(row, KEY.Key_Right)
        self.assertEqual(self.session.selection, hook)
        QTest.keyClick(row, KEY.Key_Delete)
        self.assertEqual([s.id for s in self.session.piece.standing], [bend])

    def test_a_hole_is_dragged_past_the_middle_it_is_measured_from(self):
        hole = self.press("hole")
        row = self.window.shape.standing
        middle = self.session.piece.composition.stand(hole).middle
        at = row.card_rect(0).center().toPoint()
        QTest.mousePress(row, LEFT, pos=at)
        for x in (-20, -30, -60):
            QTest.mouseMove(row, at + QPoint(x, 0))
        self.assertEqual(self.session.piece.stands(hole).along, "A")
        self.assertLess(self.session.piece.composition.stand(hole).middle, middle - 5)
        QTest.mouseMove(row, at + QPoint(30, 0))
        QTest.mouseRelease(row, LEFT, pos=at + QPoint(30, 0))
        self.assertEqual(self.session.piece.stands(hole).along, "B")
        self.assertGreater(self.session.piece.composition.stand(hole).middle, middle + 2)
        self.window.commands.run("edit.undo")  # one step, there and back
        self.assertEqual(self.session.piece.composition.stand(hole).middle, middle)

    def test_the_drawing_shows_the_drawn_bar_and_every_screen_the_piece(self):
        hook = self.press("hook")
        canvas = self.window.shape.canvas
        canvas.grab()
        boxes = {box.id: box.rect for box in canvas.scene.drawn}
        self.assertEqual(list(boxes), ["r", "t", hook])
        length = self.session.piece.composition.drawn.length
        self.assertAlmostEqual(boxes["t"].right() - boxes["r"].left(), length * canvas.scene.view.scale)
        self.session.select("r")
        self.click(canvas, boxes[hook].center())
        self.assertEqual(self.session.selection, hook)
        for n, side in enumerate(("side", "plan", "turned")):
            self.window.commands.run(f"view.{side}")
            self.assertFalse(canvas.grab().isNull(), n)
        for screen in range(1, 6):
            self.window.show_view(screen)
            self.events()
            self.assertFalse(self.window.grab().isNull())
        self.window.show_view(2)
        board = self.window.mark.board
        self.assertEqual([len(t.rows) for t in board._tables], [len(self.session.answer.marks), len(self.session.answer.drawn_marks)])
        self.until(lambda: board._tables[1].rows[0].heat is not None)  # it is planned in portions


class Sheets(WindowCase):
    def test_every_blank_is_drawn_and_a_bad_size_keeps_the_old_one(self):
        self.window.commands.run("view.blanks")
        dialog = self.window.blanks
        for cls in BLANKS.values():
            dialog.show_blank(cls())
            dialog.grab()
            self.assertIn("Area", dialog.notes.text)
        dialog.show_blank(BLANKS["petals"]())
        entry = dialog.entries["count"]
        entry.setText("60")
        entry.textEdited.emit("60")
        self.assertEqual(dialog.blank.count, 5)
        self.assertIn("petals fall off", dialog.message.text())
        entry.setText("6")
        entry.textEdited.emit("6")
        self.assertEqual(dialog.blank.count, 6)
        for name in ("a.svg", "a.dxf"):
            self.assertTrue(dialog.export(self.folder / name))
            self.assertGreater((self.folder / name).stat().st_size, 500)
        dialog.close()


class Exchange(WindowCase):
    def test_a_line_of_a_drawing_is_pressed_anywhere_along_it(self):
        form = CurveForm(self.session, "two.dxf", [np.array([(0.0, 0.0), (0.0, 60.0)]), np.array([(80.0, 0.0), (80.0, 60.0)])])
        form.show()
        (x, y), *_ = form.sheet._view().points(np.array([(80.0, 31.0)])).tolist()
        QTest.mouseClick(form.sheet, Qt.MouseButton.LeftButton, pos=QPoint(round(x), round(y)))
        self.assertEqual(form.sheet.at, 1)
        form.close()

    def test_a_curve_comes_in_and_a_bad_file_changes_nothing(self):
        drawing = self.folder / "curve.svg"
        drawing.write_text(
            '<svg xmlns="http://www.w3.org/2000/svg" width="90mm" height="90mm" viewBox="0 0 90 90"><path d="M5 50 H40 A20 20 0 0 0 60 30 V5"/></svg>'
        )
        with mock.patch.object(dialogs, "open_name", return_value=drawing):
            self.window.commands.run("file.curve")
        self.until(lambda: self.window.findChildren(CurveForm))
        form = self.window.findChildren(CurveForm)[0]
        self.assertIn("off the line", form.told.text())
        own = form.course
        form.scale.setCurrentIndex(form.scale.findData("length"))
        form.length.setText("200 mm")
        form.renew()
        self.assertAlmostEqual(sum(s.length for s in read_course(form.course)), 200.0, delta=0.1)
        self.assertNotEqual(form.course, own)
        form.length.setText("long")
        form.renew()
        self.assertFalse(form.done_button.isEnabled())
        form.scale.setCurrentIndex(0)
        form.renew()
        self.assertEqual(form.course, own)
        form.done_button.click()
        self.until(lambda: any(f.kind == "traced" for f in self.session.piece.features))
        added = next(f for f in self.session.piece.features if f.kind == "traced")
        self.assertAlmostEqual(
            stock_of(added, self.session.piece.place(1)), 35 + 25 + 30.08, delta=0.1
        )  # a middle radius of 20 is an inside of 14: k 0.429
        before = self.session.piece
        drawing.write_text("<svg")
        with mock.patch("long_ember.ui.widgets.waiting.explain") as explained:
            self.window.files.import_curve(drawing)
            self.until(lambda: explained.called)
        self.assertIn("can't be read", explained.call_args.args[2])
        self.assertIs(self.session.piece, before)

    def test_solids_go_out_by_their_ending(self):
        for name in ("a.stl", "a.obj"):
            with mock.patch.object(dialogs, "save_name", return_value=self.folder / name):
                self.window.commands.run("file.solid")
            self.assertGreater((self.folder / name).stat().st_size, 10_000)
            self.assertIn(name, self.window.message.text())
        with mock.patch.object(dialogs, "explain") as explained:
            self.assertFalse(self.window.files.export_solid(Path(self.folder / "a.step")))
        self.assertTrue(explained.called)

    def test_the_mate_and_the_other_way_round(self):
        for command, title in (("edit.mate", "Mirror it"), ("edit.round", "Exchange the ends")):
            before = self.session.piece
            self.window.commands.run(command)
            self.assertNotEqual(self.session.piece, before)
            self.assertEqual(self.session.document.undo_title, title)
            self.window.commands.run("edit.undo")
            self.assertEqual(self.session.piece, before)


def replace_bar(piece, bar):
    from long_ember.document import set_piece

    return set_piece(replace(piece), "bar", bar)


class Themes(WindowCase):
    def test_every_new_screen_in_the_dark_and_in_inches(self):
        self.session.configure(replace(self.session.settings, theme="dark"))
        self.session.set_shop(replace(self.session.shop, unit="in"))
        for path in demo_files()[3:6]:
            self.session.open(read_piece(path), None)
            for side in ("side", "plan", "turned"):
                self.window.commands.run(f"view.{side}")
                shot = self.window.grab().toImage()
                self.assertLess(shot.pixelColor(shot.width() - 6, shot.height() - 6).lightness(), 60)
            self.assertNotIn("mm", self.window.shape.inspector.notes.text)
        self.window.commands.run("view.blanks")
        self.assertNotIn(" mm", self.window.blanks.notes.text)
        self.window.blanks.close()
        self.window.show_catalogue()
        self.window.catalogue.grab()

    def test_while_sizes_are_typed_the_solid_is_drawn_plainly_and_smoothly_afterwards(self):
        canvas = self.window.shape.canvas
        self.window.commands.run("view.turned")
        self.select(1)
        pause = canvas._rest.interval()
        canvas._rest.setInterval(60_000)  # a busy machine is slower than the pause
        self.type(self.field("length"), "80")
        self.assertTrue(canvas._rest.isActive())
        rough = canvas.grab().toImage()
        canvas._rest.start(pause)
        self.until(lambda: not canvas._rest.isActive())
        canvas.grab()
        self.until(lambda: canvas._smooth.resting)
        self.assertNotEqual(rough, canvas.grab().toImage())
