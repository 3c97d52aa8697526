"""The Heats screen in the real window: storyboard, chips that are dragged, rules, methods, batch, log, the search in small portions."""

import time
from dataclasses import replace
from datetime import date, timedelta

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QPixmap
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLineEdit, QPushButton

from long_ember.beliefs import FACTORS
from long_ember.demo import demo_files
from long_ember.document import answer, set_field, set_piece
from long_ember.features import KINDS, Piece
from long_ember.heats import Heat, door_notes, marks_left, moment, sequence
from long_ember.learning import calibrated, made_before
from long_ember.records import LogEntry, Reject
from long_ember.sections import square
from long_ember.storage import Change, new_id, read_piece
from long_ember.ui.answer_bar import choose_sawn
from long_ember.ui.heats.heat_film import FRAME_W
from long_ember.ui.heats.heat_stage import STEPS
from long_ember.ui.heats.log_panel import LogPanel
from tests.window_case import WindowCase, live

LEFT, NONE, CTRL = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ControlModifier


class HeatsScreen(WindowCase):
    def setUp(self):
        super().setUp()
        self.window.show_view(3)
        self.heats = self.window.heats

    def open(self, stem):
        self.session.open(read_piece(next(p for p in demo_files() if p.stem == stem)))
        live(120)


class OwnWorkPanel(HeatsScreen):
    def test_described_typed_kept_for_other_pieces_and_undone(self):
        self.session.open(Piece(bar=square(20), features=(KINDS["run"](id="head", length=50.0), KINDS["taper"](id="t", toward="B"))))
        self.session.select("head")
        before = self.session.answer.plan.minutes[1]
        self.window.commands.run("view.own")
        panel = self.window.own
        self.assertTrue(panel.told.isVisible())
        panel.add.click()
        for name, text in (
            ("name", "Cheeks"),
            ("words", "Push {both} cheeks in."),
            ("minutes", "0.5"),
            ("shares", "1/3, 2/3"),
            ("check", "Both alike."),
        ):
            line = panel.form.fields[name]
            line.selectAll()
            QTest.keyClicks(line, text)
        (own,) = self.session.piece.planning.own
        self.assertEqual((own.on, own.name, own.minutes, own.size), ("head", "Cheeks", 0.5, 20.0))
        QTest.keyClicks(panel.form.fields["shares"], ", x")
        self.assertIn("X is no share of a length", self.window.message.text())
        self.assertEqual(self.session.piece.planning.own[0].shares.rstrip(", "), "1/3, 2/3")
        number = next(s.number for s in self.session.answer.plan.steps if s.operation.own)

        def told():
            self.heats.order.choose(number)
            return "Push {both} cheeks in." in self.heats.words

        self.until(told)  # the heats follow when the answer stands still
        self.assertIn("Cheeks: Both alike.", self.heats.words)
        self.assertGreater(self.session.answer.plan.minutes[1], before)
        self.assertEqual(sum("cheeks" in mark.kind for mark in self.session.answer.marks), 2)
        panel.keep.click()
        self.assertEqual([w.name for w in self.session.shop.own], ["Cheeks"])
        panel.out.click()
        self.assertEqual(self.session.piece.planning.own, ())
        panel.offered().actions()[0].trigger()
        self.assertEqual(self.session.piece.planning.own[0].words, "Push {both} cheeks in.")
        self.session.undo()
        self.assertEqual(self.session.piece.planning.own, ())
        panel.close()


class Filmstrip(HeatsScreen):
    def test_every_frame_in_sight_is_painted_anew_one_at_a_time_and_none_of_another_piece(self):
        self.open("mooring-staple")
        film = self.heats.film
        shown = min(len(film.frames), film.visibleRegion().boundingRect().width() // FRAME_W)
        self.until(lambda: len(film._pictures) >= shown - 1 and not film._making.busy)
        self.session.open(read_piece(next(p for p in demo_files() if p.stem == "door-pull")))
        self.assertFalse(film._stale)
        live(120)
        seen = min(len(film.frames), film.visibleRegion().boundingRect().width() // FRAME_W)
        self.until(lambda: sum(not here for _i, here in film._pictures) >= seen - 1)
        run = next(f for f in self.session.piece.features if f.kind == "run")
        self.session.apply(set_field(self.session.piece, run.id, "length", run.length + 1))
        self.assertTrue(film._stale)  # the old ones stand until the new are made
        self.until(lambda: not film._making.busy and sum(not here for _i, here in film._pictures) >= seen - 1)


class Storyboard(HeatsScreen):
    def test_scrubbing_goes_through_every_frame_and_the_steel_cools(self):
        self.open("lantern-bracket")
        slider, plan = self.heats.stage.slider, self.session.answer.plan
        self.assertEqual(slider.maximum(), len(plan.frames) * STEPS)
        seen = set()
        for value in range(0, slider.maximum() + 1, STEPS // 2):
            slider.setValue(value)
            seen.add(self.heats.film.current)
            self.assertFalse(self.heats.stage.canvas.grab().toImage().isNull())
        self.assertEqual(seen, set(range(len(plan.frames))))
        hot = next(i for i, f in enumerate(plan.frames) if isinstance(f, Heat))
        warm = [moment(plan, hot + share).celsius for share in (0.0, 0.5, 0.99)]
        self.assertEqual(warm, sorted(warm, reverse=True))
        self.window.commands.run("view.turned")
        canvas = self.heats.stage.canvas
        slider.setValue(round((hot + 0.5) * STEPS))
        coarse = canvas.grab().toImage()
        end = time.monotonic() + 20
        while (canvas._rest.isActive() or not canvas._smooth.resting) and time.monotonic() < end:
            live(20)
            canvas.grab()
        self.assertNotEqual(canvas.grab().toImage(), coarse)  # smooth, once it rests
        self.window.commands.run("view.turned")
        slider.setValue(0)
        for _ in range(3):
            QTest.keyClick(slider, Qt.Key.Key_PageUp)
        self.assertEqual(self.heats.film.current, 3)
        QTest.keyClick(self.heats.film, Qt.Key.Key_End)
        self.assertIn("Finish", self.heats.words)

    def test_marks_are_used_up(self):
        self.open("mooring-staple")
        plan = self.session.answer.plan
        left = [len(marks_left(plan, f.before)) for f in plan.frames]
        self.assertEqual(left, sorted(left, reverse=True))
        self.assertGreater(left[0], 0)
        self.assertEqual(marks_left(plan, plan.frames[-1].after), ())

    def test_words_say_grip_window_checks_remedy_and_time(self):
        self.open("lantern-bracket")
        self.heats.film.show_current(1)
        words = self.heats.words
        for wanted in (
            "<b>Hold</b>&nbsp; end ",
            "Before it leaves the fire",
            "Check when it is done",
            "along its middle",
            "If it goes wrong",
            "Take care",
        ):
            self.assertIn(wanted, words)
        self.assertRegex(
            self.heats.summary.text(), r"\d+ heats, \d+ min at fire and anvil; 9 of 10 pieces take \d+ to \d+ heats, \d+ to \d+ min"
        )

    def test_a_mouth_too_small_for_what_is_bent_by_then(self):
        self.open("mooring-ring")
        self.session.set_shop(replace(self.session.shop, opening=40.0))
        plan = self.session.answer.plan
        told = [h for h in plan.heats if door_notes(plan, h)]
        self.assertTrue(told)
        self.assertFalse(door_notes(plan, plan.heats[0]))
        self.heats.film.show_current(plan.frames.index(told[0]))
        self.assertIn("the mouth of your forge lets 40 mm through", self.heats.words)


class Order(HeatsScreen):
    def drag(self, strip, start, stop):
        order = self.session.answer.plan.order
        a, b = (strip.chip_rect(p).center().toPoint() for p in (start, stop))
        QTest.mousePress(strip, LEFT, NONE, a)
        for i in range(1, 9):
            QTest.mouseMove(strip, a + (b - a) * i / 8)
            strip.mouseMoveEvent(_Moved(QPointF(a + (b - a) * i / 8)))
        QTest.mouseRelease(strip, LEFT, NONE, b)
        live(120)
        return order

    def test_a_dragged_chip_is_pinned_costs_are_said_and_undo_brings_it_back(self):
        self.open("lantern-bracket")
        self.until(lambda: not self.session.searching)
        strip, before = self.heats.order, self.session.answer.plan
        self.drag(strip, 0, len(before.order) - 1)  # the twist after the bend, which is far off: the scroll can wait for both
        self.assertIn("the rest planned round it", self.window.message.text())
        self.assertNotIn("breaks a must", self.window.message.text())
        self.assertFalse([r for r, _n, why in self.session.answer.plan.flags if why == "broken"])
        self.session.undo()
        self.assertEqual(self.session.answer.plan.order, before.order)  # the best order of before, at once
        order = self.drag(strip, 0, 2)  # the twist right after the scroll beside it
        self.assertTrue(self.session.piece.planning.pins)
        self.assertIn("breaks a must", self.window.message.text())
        plan = self.session.answer.plan
        self.assertLess(plan.order.index(order[2]), plan.order.index(order[0]))
        self.assertTrue(any(why == "broken" for _r, _n, why in plan.flags))
        self.session.undo()
        self.assertEqual(self.session.answer.plan.order, before.order)
        self.drag(strip, 1, len(before.order) - 1)  # the scroll's tip after the scroll: refused
        self.assertFalse(self.session.piece.planning.pins)
        self.assertIn("can't be turned round", self.window.message.text())

    def test_keys_choose_move_and_hold(self):
        self.open("mooring-staple")
        strip, plan = self.heats.order, self.session.answer.plan
        strip.choose(plan.order[1])
        QTest.keyClick(strip, Qt.Key.Key_Right)
        self.assertEqual(strip.current, plan.order[2])
        self.assertIn(strip.current, {w.step.number for w in self.heats.frame.work})
        QTest.keyClick(strip, Qt.Key.Key_Left, CTRL)
        self.assertEqual(self.session.answer.plan.order[:2], (plan.order[0], plan.order[2]))
        QTest.keyClick(strip, Qt.Key.Key_P)
        QTest.keyClick(strip, Qt.Key.Key_P)
        self.assertTrue(self.session.piece.planning.pins)
        self.window.commands.run("edit.unpin")
        self.assertEqual(self.session.answer.plan.order, plan.order)

    def test_another_method_and_back(self):
        self.open("mooring-staple")
        bend = next(n for n in self.session.answer.plan.order if self.session.answer.plan.steps[n].operation.verb == "bend")
        self.heats.order.choose(bend)
        words = [self.heats.method.itemText(i) for i in range(self.heats.method.count())]
        self.assertTrue(any("over the horn" in w for w in words) and any("vice" in w for w in words), words)
        need = self.session.answer.plan.steps[bend].need
        at = next(i for i, w in enumerate(words) if "vice" in w)
        self.heats.method.activated.emit(at)
        step = self.session.answer.plan.steps[bend]
        self.assertEqual(step.method.key, "vice")
        self.assertNotEqual(step.need, need)  # 5 s to set it there, 8 on the horn
        self.assertIn("vice", self.heats.words)

    def test_rules_are_set_aside_with_a_note_and_hold_again(self):
        self.open("lantern-bracket")
        self.window.show_rules()
        panel = self.window.rules
        aside = [b for b in panel.findChildren(QPushButton) if b.text() == "Set aside"]
        rules = len(aside)
        aside[0].click()
        self.assertEqual(len(self.session.piece.planning.overrules), 1)
        note = next(n for n in panel.findChildren(QLineEdit) if n.placeholderText().startswith("why"))
        QTest.keyClicks(note, "A dry run first")
        self.until(lambda: bool(self.session.piece.planning.overrules[0].note))  # kept while it is typed
        QTest.keyClick(note, Qt.Key.Key_Return)
        self.assertEqual(self.session.document.undo_title, "Overrule a rule")
        self.assertEqual(self.session.piece.planning.overrules[0].note, "A dry run first")

        def seen(words):
            return [b for b in panel.findChildren(QPushButton) if b.text() == words and b.isVisible()]

        self.until(lambda: seen("Let it hold"))
        seen("Let it hold")[0].click()
        self.assertFalse(self.session.piece.planning.overrules)
        self.until(lambda: len(seen("Set aside")) == rules)
        box = panel.schools["bends"]
        box.activated.emit(box.findData("vice"))
        self.assertEqual(self.session.piece.planning.bends, "vice")
        panel.pin.click()
        self.assertEqual(len(self.session.piece.planning.pins), len(self.session.answer.plan.steps))
        panel.free.click()
        self.assertFalse(self.session.piece.planning.pins)
        panel.close()


class Many(HeatsScreen):
    def test_the_batch_follows_its_entries(self):
        self.open("mooring-staple")
        self.window.show_batch()
        panel = self.window.batch
        panel.pieces.setCurrentIndex(panel.pieces.findData(8))
        totals = []
        for irons in (1, 2, 3):
            panel.irons.setCurrentIndex(panel.irons.findData(irons))
            panel.irons.activated.emit(panel.irons.currentIndex())
            totals.append(panel.table.batch.total)
        self.assertEqual(totals, sorted(totals, reverse=True))
        self.assertEqual(len(panel.table.batch.finished), 8)
        self.assertIn("of which you wait", panel.summary.text())
        panel.compared.linkActivated.emit("stage 4")
        self.assertEqual((panel.table.batch.rhythm, panel.table.batch.irons), ("stage", 4))
        self.assertIn("\u2713", panel.compared.text())
        self.assertIn("min to set up", panel.fixtures.text())
        self.assertGreater(len({panel.table.grab().toImage().pixel(x, 40) for x in range(100, 600)}), 2)
        panel.close()

    def test_what_is_logged_teaches_the_next_plan_and_is_undone(self):
        self.until(lambda: self.session.log)
        before, first = self.session.forge, len(self.session.log)
        for _ in range(3):
            panel = LogPanel(self.window.work, self.window)
            panel.more_heats.entry.setText(str(round(self.session.answer.plan.count * 1.25)))
            panel.more_heats.entry.textEdited.emit(panel.more_heats.entry.text())
            panel.came.buttons["short"].click()
            panel._preview()
            self.assertFalse(panel.done_button.isEnabled())  # short by how much?
            panel.off.entry.setText("3")
            panel.off.entry.textEdited.emit("3")
            panel._preview()
            self.assertIn("what length was sawn", panel.changes.text())  # the plan may have changed since: it is asked
            self.assertFalse(panel.done_button.isEnabled())
            next(iter(panel.sawn_choices.buttons.values())).click()
            panel._preview()
            told = panel.changes.text()
            self.assertTrue("because" in told or "Nothing that is planned changes" in told, told)
            panel.done_button.click()
            count = len(self.session.log)
            self.window.pause.start()
            self.until(lambda count=count: len(self.session.log) > count)
        self.assertGreater(self.session.forge.belief.times("work"), before.belief.times("work"))
        mine = [e for e in self.session.log if e.piece == self.session.piece_id]
        self.assertEqual([(e.heats > 0, e.minutes, e.came, e.off) for e in mine[-3:]], [(True, 0.0, "short", 3.0)] * 3)
        self.assertEqual(
            self.session.forge, calibrated(self.session.shop.forge, self.session.log, self.session.shop.smith, self.session.piece_id)
        )
        self.assertIn("Cut length", self.window.message.text())
        panel = LogPanel(self.window.work, self.window)
        self.assertEqual(panel.list.count(), len(mine))
        panel.out_button.click()
        self.assertEqual(panel.list.count(), len(mine) - 1)
        panel.edit_chosen()
        panel.good._step(1)
        panel.done_button.click()
        self.until(lambda: any(e.good == 2 for e in self.session.log))
        for _ in range(5):
            self.window.work.timeline.undo()
        self.until(lambda: len(self.session.log) == first)
        self.assertEqual(self.session.forge, before)

    def test_an_entry_without_a_length_changes_none_and_can_be_left_out_where_it_is_told(self):
        self.until(lambda: self.session.log)
        before, cut = self.session.forge, self.session.answer.reckoning.cut
        panel = LogPanel(self.window.work, self.window)
        panel.more_heats.entry.setText(str(self.session.answer.plan.count * 2))
        panel.more_heats.entry.textEdited.emit(panel.more_heats.entry.text())
        panel.done_button.click()
        count = len(self.session.log)
        self.window.pause.start()
        self.until(lambda: len(self.session.log) > count)
        self.assertGreater(self.session.forge.belief.times("work"), before.belief.times("work"))
        self.assertEqual(self.session.answer.reckoning.cut, cut)
        self.assertRegex(self.window.message.text(), "^Heats .*Keep.*Leave it out")
        self.window.message.linkActivated.emit("out")
        self.window.pause.start()
        self.until(lambda: self.session.log[-1].set_aside)
        self.assertEqual(self.session.forge.belief, before.belief)

    def test_an_entry_from_elsewhere_keeps_what_is_not_changed(self):
        self.until(lambda: self.session.log)
        day = date.today() - timedelta(days=40)
        rejects = (Reject(cause="burnt", count=1), Reject(cause="cracked", count=2, salvaged="wedges"))
        number = made_before(self.session.log, self.session.piece_id) + 1
        told = LogEntry(piece=self.session.piece_id, name="Of before", number=number, smith="Gone", job="gone", day=day, rejects=rejects)
        self.window.work.put_record(new_id(), told, None)
        panel = LogPanel(self.window.work, self.window)
        panel.edit_chosen()
        self.assertEqual((panel.entry(), panel.held()), (told, ""))
        self.assertEqual(panel.calendar.date().toPython(), day)
        panel.day.buttons[date.today()].click()
        panel.rejects.buttons["burnt"].click()
        panel.rejects.buttons["slipped"].click()
        panel.rejects.less.click()
        panel.done_button.click()
        changed = next(e for e in self.window.library.log_of(self.session.piece_id).values() if e.number == number)
        self.assertEqual((changed.smith, changed.job, changed.day, changed.spoilt), ("Gone", "gone", date.today(), 4))
        self.assertEqual(changed.rejects, (Reject(cause="burnt", count=2), Reject(cause="cracked", count=2, salvaged="wedges")))

    def test_a_photo_goes_with_the_entry(self):
        picture = self.folder / "hook.png"
        QPixmap(90, 60).save(str(picture))
        panel = LogPanel(self.window.work, self.window)
        self.window.library._keeper.put(Change("slow disk", lambda _book: time.sleep(0.5)))  # longer than anybody waits for a deed
        self.window.work.add_photos(self.session.piece_id, [picture], panel._pictured)
        self.until(lambda: panel.entry().photos)
        panel.done_button.click()
        kept = next(e for e in self.window.library.log_of(self.session.piece_id).values() if e.photos)
        self.assertEqual([p.name for p in kept.photos], ["hook.png"])
        again = LogPanel(self.window.work, self.window)
        again.edit_chosen()
        self.assertEqual((again._photo_row.count(), again.held()), (1, ""))

    def test_what_was_logged_is_taken_back_from_any_screen_and_the_piece_stays(self):
        self.until(lambda: self.session.log)
        run = next(f for f in self.session.piece.features if f.kind == "run")
        self.session.apply(set_field(self.session.piece, run.id, "length", run.length + 1))
        piece, count = self.session.piece, len(self.window.library.log_of(self.session.piece_id))
        panel = LogPanel(self.window.work, self.window)
        panel.came.buttons["right"].click()
        next(iter(panel.sawn_choices.buttons.values())).click()
        panel.done_button.click()
        self.assertEqual(len(self.window.library.log_of(self.session.piece_id)), count + 1)
        self.assertEqual(self.window.commands["edit.undo"].words, "Undo change the log")
        self.window.commands.run("edit.undo")
        self.assertEqual((len(self.window.library.log_of(self.session.piece_id)), self.session.piece), (count, piece))
        self.window.commands.run("edit.redo")
        self.assertEqual(len(self.window.library.log_of(self.session.piece_id)), count + 1)
        self.window.commands.run("edit.undo")
        self.window.commands.run("edit.undo")  # and then the piece's own steps
        self.assertEqual(self.session.piece.feature(run.id).length, run.length)

    def test_what_is_entered_counts_and_nothing_else_and_a_refusal_stands_beside_its_field(self):
        panel = LogPanel(self.window.work, self.window)
        entry = panel.entry()
        self.assertEqual((entry.heats, entry.minutes, entry.came, entry.over_all, entry.blank), (0, 0.0, "unsaid", 0.0, 0.0))
        self.assertEqual(panel.held(), "")
        panel.minutes.entry.setText("a while")
        panel.minutes.entry.textEdited.emit("a while")
        panel._preview()
        self.assertIn("number", panel.minutes.said.text())
        self.assertFalse(panel.done_button.isEnabled())
        panel.minutes.entry.setText("")
        panel.minutes.entry.textEdited.emit("")
        panel.rejects.buttons["burnt"].click()
        panel.heats.buttons[next(iter(panel.heats.buttons))].click()
        panel._preview()
        self.assertTrue(panel.done_button.isEnabled())
        made = panel.entry()
        self.assertEqual((made.good, made.spoilt, made.rejects[0].cause, made.heats), (1, 1, "burnt", next(iter(panel.heats.buttons))))
        twist = next((f for f in self.session.piece.features if f.kind == "twist"), None)
        if twist is not None:
            panel.picker.choose(twist.id)
            line = panel.size_lines[twist.id, "length"]
            line.entry.setText(str(twist.length + 2))
            line.entry.textEdited.emit(line.entry.text())
            self.assertEqual(panel.entry().told[0].factor, "twist")
        panel._proposed = panel.entry()
        panel.reject()

    def test_what_the_log_has_taught_is_shown_and_an_entry_set_aside(self):
        self.until(lambda: self.session.log)
        self.window.show_taught()
        panel = self.window.taught
        entries = self.session.forge.belief.entries
        self.assertEqual(panel.list.count(), len(FACTORS))
        for tab in range(4):
            panel.tabs.setCurrentIndex(tab)
            self.until(lambda: not panel._narrowing.busy)
            page = (panel.picture, panel.band, panel.pieces, panel.over_time)[tab].grab().toImage()
            self.assertGreater(len({page.pixel(x, y) for x in range(0, page.width(), 3) for y in range(0, page.height(), 5)}), 3, tab)
        panel.tabs.setCurrentIndex(0)
        panel.list.setCurrentRow(0)
        self.until(lambda: panel.movers.count() > 1)
        self.window.show_taught()  # the one that is open
        self.assertIs(self.window.taught, panel)
        panel.aside.click()
        self.until(lambda: self.session.forge.belief.entries == entries - 1)
        self.window.work.timeline.undo()
        self.until(lambda: self.session.forge.belief.entries == entries)
        panel.close()

    def test_one_press_saws_the_other_length_for_the_piece_or_the_shop(self):
        safe = self.session.answer.reckoning
        self.window.answer_bar.saw.click()
        likely = self.session.answer.reckoning
        self.assertEqual((likely.sawing.choice, self.session.piece.allowances.saw), ("likely", "likely"))
        self.assertLess(likely.cut, safe.cut)
        self.assertEqual(self.session.answer.cuts.piece, likely.cut)
        self.assertIn("come out short", self.window.answer_bar.accessibleName())
        choose_sawn(self.session)
        self.assertEqual((self.session.answer.reckoning.cut, self.session.piece.allowances.saw), (safe.cut, "shop"))
        choose_sawn(self.session, whole_shop=True)
        self.assertEqual((self.session.shop.saw, self.session.answer.reckoning.cut), ("likely", likely.cut))

    def test_a_large_piece_is_planned_while_the_window_goes_on(self):
        kinds = [k for k in KINDS if k != "traced"]
        piece = Piece(name="Large", features=tuple(KINDS[kinds[i % len(kinds)]](id=f"f{i}") for i in range(16)))
        self.session.open(piece)
        self.assertTrue(self.session.searching)
        self.session.apply(set_piece(self.session.piece, "name", "Typed meanwhile"))  # cancels and begins anew
        self.assertTrue(self.session.searching)
        self.until(lambda: not self.session.searching)
        self.assertEqual(
            self.session.answer.plan.order,
            sequence(self.session.piece, ruler=self.session.shop.division, forge=self.session.forge)[1].order,
        )
        self.assertEqual(
            self.session.answer.reckoning.cut,
            answer(self.session.piece, ruler=self.session.shop.division, forge=self.session.forge).reckoning.cut,
        )
        self.session.apply(set_piece(self.session.piece, "name", "Again"))
        self.assertFalse(self.session.searching)  # nothing that the order depends on: it is known
        self.session.apply(set_piece(self.session.piece, "bar", square(13)))
        QTest.keyClick(self.heats, Qt.Key.Key_Escape)
        live(300)
        self.assertTrue(self.session.searching)  # given up: the order that is there stands

    def test_the_shops_page_holds_fire_blows_schools_and_own_rules(self):
        self.window.show_view(5)
        shop = self.window.book.shop
        self.type(shop.field("ram"), "25")
        self.assertEqual(self.session.forge.ram, 25.0)
        box = shop.field("bends")
        box.setCurrentIndex(box.findData("fork"))
        box.activated.emit(box.currentIndex())
        self.assertEqual(dict(self.session.forge.schools)["bends"], "fork")
        shop.show_page("rules")
        more = next(b for b in shop.forms["rules"].findChildren(QPushButton) if b.text().startswith("Add to"))
        more.click()
        self.assertEqual([r.id for r in self.session.forge.own], ["own: Our rule"])


class _Moved:
    """A move with the button held; the offscreen platform sends none."""

    def __init__(self, at):
        self._at = at

    def position(self):
        """Where."""
        return self._at
