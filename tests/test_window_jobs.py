"""Jobs on the Cut screen, through the window: choose, drag, lock, tick, finish, price, print."""

import json
import time
from collections import Counter
from dataclasses import replace
from functools import partial
from unittest import mock

from PySide6.QtCore import QEventLoop, QPointF, Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel, QLineEdit, QPushButton

from long_ember.desk import job_desk
from long_ember.errors import EmberError
from long_ember.features.cut import PartOff
from long_ember.jobs.cut_layout import locked
from long_ember.jobs.plan import JobPlan
from long_ember.jobs.problems import Holdings
from long_ember.jobs.words import area_words, saw_words
from long_ember.papers.job_papers import customer_lines, label_rows
from long_ember.papers.kinds import papers_for
from long_ember.records import Job, JobLine, Price, RackItem, SavedCutList
from long_ember.units import Measure
from tests.window_case import CTRL, KEY, LEFT, WindowCase


class JobCase(WindowCase):
    def setUp(self):
        super().setUp()
        self.until(lambda: self.session.forge.belief.entries)  # what the log teaches changes every blank
        self.window.show_view(5)
        board = self.window.book.board("job")
        board.rows.choose("job-2")
        board.cuts_button.click()
        self.cut = self.window.cut
        self.bars, self.desk = self.cut.jobs.bars, self.cut.desk
        self.settle()

    def settle(self):
        end = time.monotonic() + 20
        while self.desk.looking and time.monotonic() < end:
            loop = QEventLoop()
            QTimer.singleShot(20, loop.quit)
            loop.exec()
        self.assertFalse(self.desk.looking)

    @property
    def sheet(self):
        return self.desk.plan.cut_list

    def said(self):
        return self.window.message.text()

    def key(self, key, modifiers=Qt.KeyboardModifier.NoModifier):
        QTest.keyClick(self.bars, key, modifiers)
        self.events()

    def drag(self, start, to):
        QTest.mousePress(self.bars, LEFT, Qt.KeyboardModifier.NoModifier, start.toPoint())
        for share in (0.3, 0.7, 1.0):
            QTest.mouseMove(self.bars, (start + (to - start) * share).toPoint())
            self.events()
        words = self.said()
        QTest.mouseRelease(self.bars, LEFT, Qt.KeyboardModifier.NoModifier, to.toPoint())
        self.events()
        return words


class Bars(JobCase):
    def test_a_proven_plan_stands_and_jobs_are_cut_together(self):
        self.assertTrue(self.desk.plan.proven)
        self.assertEqual(self.window.stack.currentWidget(), self.cut)
        self.assertEqual(sum(len(b.cuts) for b in self.sheet.bars), 13)
        ring = next(c.length for b in self.sheet.bars for c in b.cuts if c.name == "Mooring ring")
        words = {self.bars.blank_words(0, 0), self.bars.blank_words(1, 0)}
        self.assertTrue(any(f"Mooring ring, {ring:g} mm, from 0 mm to {ring:g} mm. Slipway moorings." in w for w in words), words)
        self.cut.tabs["job-1"].click()
        self.settle()
        self.assertEqual(self.desk.chosen, ("job-1", "job-2"))
        self.assertEqual({c.job for b in self.sheet.bars for c in b.cuts}, {"job-1", "job-2"})
        self.assertIn("North wall", self.cut.title)
        picture = self.bars.grab().toImage()
        self.assertGreater(len({picture.pixel(x, 90) for x in range(130, 700)}), 2)
        self.cut.tabs[""].click()
        self.assertFalse(self.cut.on_jobs)
        self.assertTrue(self.window.answer_bar.isVisible())

    def test_a_blank_is_dragged_with_its_cost_told_and_taken_back(self):
        before = [Counter(c.name for c in b.cuts) for b in self.sheet.bars]
        start, to = self.bars.blank_box(0, 0).center(), self.bars.blank_box(1, 0).center()
        told = self.drag(start, to)
        self.assertIn("Here:", told)
        self.assertIn("Moved:", self.said())
        self.assertEqual([sum(c.values()) for c in before], [9, 4])
        self.assertEqual([len(b.cuts) for b in self.sheet.bars], [8, 5])
        self.window.commands.run("edit.undo")
        self.events()
        self.settle()
        self.assertEqual([Counter(c.name for c in b.cuts) for b in self.sheet.bars], before)
        self.drag(self.bars.blank_box(1, 0).center(), self.bars.blank_box(0, 0).center())  # 201 mm left there, 251 wanted
        self.assertIn("no room", self.said())
        self.drag(self.bars.blank_box(1, 0).center(), QPointF(300, self.bars.height() - 4))  # below all bars: one of its own
        self.assertEqual([len(b.cuts) for b in self.sheet.bars], [9, 3, 1])

    def test_by_keys_locked_ticked_moved_and_planned_anew(self):
        self.bars.setFocus()
        self.key(KEY.Key_Down)
        self.key(KEY.Key_L)
        self.assertEqual([b.locked for b in self.sheet.bars], [False, True])
        self.key(KEY.Key_Up)
        self.key(KEY.Key_Down, CTRL)
        self.assertIn("locked", self.said())
        self.key(KEY.Key_Right)
        self.key(KEY.Key_Space)
        self.assertEqual([c.sawn for c in self.sheet.bars[0].cuts][:3], [False, True, False])
        self.click(self.bars, self.bars.tick_box(0).center())
        self.assertEqual([c.sawn for c in self.sheet.bars[0].cuts][:3], [True, True, False])
        self.assertIn("2 of 13 sawn", self.cut.jobs.told.text())
        kept = self.sheet.bars
        job = self.desk.jobs["job-2"]
        more = replace(job, lines=(*job.lines, JobLine(piece="gate-pintle", quantity=2)))
        self.window.work.put_record("job-2", more, job)
        self.assertIn("Gate pintle: 2 missing", self.cut.jobs.told.text())
        self.window.work.put_record("job-2", replace(more, name="Slip moorings"), more)
        self.assertIn("Slip moorings", self.window.header.title.text())
        self.assertFalse(self.desk.finish())
        self.assertIn("Plan it anew", self.said())
        self.cut.jobs.anew.click()
        end = time.monotonic() + 20
        while self.desk.plan.stale and time.monotonic() < end:
            self.events()
        self.assertEqual(self.sheet.bars[:2], kept)
        self.assertEqual(sum(c.name == "Gate pintle" for b in self.sheet.bars for c in b.cuts), 2)
        self.key(KEY.Key_N)

    def test_all_sawn_the_rack_follows_and_one_undo_brings_it_back(self):
        rack = self.window.library.records(RackItem)
        self.cut.jobs.done.click()
        self.events()
        after = self.window.library.records(RackItem)
        self.assertEqual((rack["rack-2"].count, after["rack-2"].count), (2, 0))
        back = [r for i, r in after.items() if i not in rack]
        self.assertEqual(sorted(r.length for r in back), sorted(lay.left for lay in self.desk.plan.layouts if lay.keep))
        self.assertEqual(self.sheet.state, "sawn")
        self.assertFalse(self.cut.jobs.done.isEnabled())
        self.bars.setFocus()
        self.key(KEY.Key_Space)
        self.assertIn("is sawn", self.said())
        self.window.commands.run("edit.undo")
        self.events()
        self.assertEqual(self.window.library.records(RackItem), rack)

    def test_more_asked_for_after_the_saw_is_planned_alone_and_the_price_stays(self):
        before = self.desk.plan.quote("job-2")
        self.cut.jobs.done.click()
        self.events()
        self.assertIn("off the rack", self.cut.jobs.told.text())
        self.assertAlmostEqual(self.desk.plan.quote("job-2").price, before.price)
        self.assertEqual([p.group for p in self.desk.plan.purchases if p.group == "steel"], [])
        job = self.desk.jobs["job-2"]
        more = replace(job, lines=(replace(job.lines[0], quantity=8), *job.lines[1:]))
        self.window.work.put_record("job-2", more, job)
        self.settle()
        self.assertEqual([c.name for b in self.sheet.bars for c in b.cuts], ["Mooring ring"] * 2)
        self.assertGreater(self.desk.plan.quote("job-2").price, before.price)
        self.assertTrue(self.desk.finish())
        self.assertEqual(len(self.window.library.records(SavedCutList)), 2)
        self.assertEqual((self.sheet.state, self.desk.plan.holdings.done.total()), ("sawn", 15))

    def test_bars_of_one_cut_list_are_not_promised_to_another_which_may_take_its_place(self):
        self.click(self.bars, self.bars.lock_box(0).center())  # job-2 has a list of its own now, with both round bars
        other = Job(name="Rings alone", lines=(JobLine(piece="mooring-ring", quantity=2),))
        self.window.work.put_record("job-9", other, None)
        self.window.show_view(5)
        self.assertEqual(self.window.book.board("rack").rows.promised["rack-2"], 2)
        self.window.show_view(4)
        self.cut.show_jobs(("job-9",))
        self.settle()
        self.assertEqual({b.rack for b in self.sheet.bars}, {""})
        self.cut.show_jobs(("job-2", "job-9"))
        self.settle()
        self.assertIn("rack-2", {b.rack for b in self.sheet.bars})
        self.assertEqual(sum(len(b.cuts) for b in self.sheet.bars), 15)
        self.bars.tick(0, 0)  # cut together: the list of job-2 alone goes
        (kept,) = self.window.library.records(SavedCutList).values()
        self.assertEqual({r.job for r in kept.jobs}, {"job-2", "job-9"})
        self.cut.show_jobs(("job-2",))
        self.settle()
        self.bars.move_to(-1)
        self.assertIn("finish that one first", self.said())
        self.assertEqual(list(self.window.library.records(SavedCutList).values()), [kept])

    def test_what_the_bars_draw_on_may_change_meanwhile(self):
        item = RackItem(section=replace(self.sheet.bars[0].section), length=3000.0, count=1)
        self.click(self.bars, self.bars.lock_box(0).center())
        self.window.work.put_record("rack-2", item, self.window.library.records(RackItem)["rack-2"])
        self.assertIn("2 taken, 1 there", self.cut.jobs.told.text())
        gone = self.desk.jobs["job-2"]
        self.assertEqual(len(self.window.library.records(SavedCutList)), 1)
        self.window.work.remove_record("job-2", gone)
        self.assertEqual(self.window.library.records(SavedCutList), {})  # its cut list goes with it
        self.assertIsNone(self.desk.plan)
        self.assertNotIn("job-2", self.cut.tabs)
        self.cut.show_jobs(("job-1",))
        bad = replace(self.desk.jobs["job-1"], lines=(JobLine(piece="gone"),))
        self.window.work.put_record("job-1", bad, self.desk.jobs["job-1"])
        self.assertIn("not in the book", self.desk.instead)
        self.bars.grab()
        self.window.work.put_record("job-1", Job(name="Nothing"), bad)
        self.assertEqual(self.sheet.bars, ())
        self.bars.grab()

    def test_what_is_forged_on_the_bar_is_parted_off_before_the_saw(self):
        piece = self.window.library.read("mooring-staple")[0]
        piece = replace(piece, name="Off the bar", features=(*piece.features, PartOff(id="off", loss=5.0)))
        (made,) = self.window.work.add_pieces("Hang it up", [piece], "")
        self.window.library.flush()
        self.window.work.put_record("hb", Job(name="Both", lines=(JobLine(piece=made, quantity=2), JobLine(piece="mooring-staple"))), None)
        self.cut.show_jobs(("hb",))
        self.settle()
        (lay,) = self.desk.plan.layouts
        a, b, c = (round(at.stop) for at in lay.cuts)
        self.assertEqual((lay.cuts[1].start - lay.cuts[0].stop, lay.cuts[2].start - lay.cuts[1].stop), (5.0, 5.0))
        self.assertIn(f"Forge on the bar, part off at {a}, {b}; then saw at {c} mm", saw_words(lay, Measure()))
        self.assertGreaterEqual(lay.bar.length - lay.cuts[1].stop - 5.0, self.session.shop.hold)


class Searching(JobCase):
    def unproven(self):
        """A search that never ends by itself: whoever stops asking has left it."""

        def plans(plan):
            while True:
                time.sleep(0.005)
                yield plan

        return mock.patch.object(job_desk, "better_plans", plans), mock.patch.object(JobPlan, "proven", False)

    def test_it_is_left_by_a_button_taken_up_when_the_screen_is_seen_again_and_ends_with_a_drag(self):
        forever, open_ = self.unproven()
        with forever, open_:
            self.desk.choose(("job-1",))
            self.assertTrue(self.desk.looking and self.cut.jobs.leave.isVisible())
            self.assertIn("looking", self.cut.jobs.told.text())
            self.window.show_view(0)
            self.assertFalse(self.desk.looking)
            self.window.show_view(4)
            self.assertTrue(self.desk.looking)
            self.cut.jobs.leave.click()
            self.assertFalse(self.desk.looking)
            self.window.show_view(0)
            self.window.show_view(4)
            self.assertFalse(self.desk.looking)  # it was good enough
            self.desk.choose(("job-2",))
            self.drag(self.bars.blank_box(0, 0).center(), self.bars.blank_box(0, 0).center() + QPointF(0, 9))
            self.assertFalse(self.desk.looking)

    def test_a_faulty_search_is_told_and_nobody_waits_for_it(self):
        def plans(plan):
            yield plan
            raise EmberError("The linear programme ended with: Unknown")

        with mock.patch.object(job_desk, "better_plans", plans), mock.patch.object(JobPlan, "proven", False):
            self.desk.choose(("job-1",))
            self.settle()
            self.assertIn("linear programme", self.said())
            self.assertTrue(self.sheet.bars)


class Planning(JobCase):
    def test_the_window_goes_on_while_pieces_are_reckoned_and_the_old_plan_stands_until_the_new_one(self):
        with mock.patch.object(job_desk, "_AT_ONCE", 1):
            said = []
            self.desk.changed.connect(lambda: said.append((self.desk.plan is not None, self.desk.instead)))
            self.desk.choose(("job-1", "job-2"))
            self.assertIsNone(self.desk.plan)
            self.key(KEY.Key_Right)
            self.bars.grab()
            self.until(lambda: self.desk.plan is not None)
            self.assertEqual(said[-1], (True, ""))
            self.assertIn((False, "Reckoning piece 2 of 5…"), said)
            both = self.desk.plan
            self.desk.choose(("job-1",))
            self.window.show_view(0)  # nobody looks: nothing is planned
            self.assertIsNone(self.desk.plan)
            self.window.show_view(4)
            self.until(lambda: self.desk.plan is not None)
            self.assertEqual(list(self.desk.plan.jobs), ["job-1"])
            self.desk.choose(("job-1", "job-2"))
            self.until(lambda: self.desk.plan is not None)
            self.settle()
            self.assertEqual(self.sheet, both.cut_list)
            before = self.desk.plan
            self.session.set_shop(replace(self.session.shop, kerf=self.session.shop.kerf + 2.0))
            self.assertIs(self.desk.plan, before)
            self.until(lambda: self.desk.plan is not before)
            self.assertEqual(self.desk.plan.rules.kerf, before.rules.kerf + 2.0)

    def test_a_change_made_while_the_one_before_it_is_planned_loses_neither(self):
        self.desk.choose(("job-1", "job-2"))
        self.settle()
        with mock.patch.object(job_desk, "_AT_ONCE", 1):
            self.assertTrue(self.bars.tick(0, 0))
            self.assertEqual(sum(c.sawn for b in self.sheet.bars for c in b.cuts), 0)  # not planned yet
            self.assertTrue(self.bars.tick(0, 1))
            self.assertTrue(self.desk.attempt("Lock a bar", partial(locked, index=1)))
            self.until(lambda: not self.desk._planning.busy)
        self.assertEqual(([c.sawn for c in self.sheet.bars[0].cuts[:2]], self.sheet.bars[1].locked), ([True, True], True))
        for left in (2, 1, 0):  # each a step of its own
            self.window.commands.run("edit.undo")
            sawn = sum(c.sawn for b in self.sheet.bars for c in b.cuts) if self.desk.plan else 0
            self.assertEqual(sawn, min(left, 2))

    def test_what_can_not_be_reckoned_is_told_where_the_plan_would_stand(self):
        with mock.patch.object(Holdings, "answering", side_effect=ZeroDivisionError), self.assertRaises(ZeroDivisionError):
            self.desk.choose(("job-1",))
        self.assertIsNone(self.desk.plan)
        self.assertIn("ZeroDivisionError", self.desk.instead)
        self.desk.choose(("job-1",))
        self.assertEqual((self.desk.instead, list(self.desk.plan.jobs)), ("", ["job-1"]))


class Pages(JobCase):
    def words(self, page):
        return [w.text() for w in page.findChildren(QLabel) if w.isVisible()]

    def test_what_to_buy_and_what_an_hour_earns(self):
        self.cut.show_jobs(("job-1",))
        self.settle()
        self.cut.jobs.tabs["buy"].click()
        self.events()
        self.assertTrue(any("Glass pane" in w for w in self.words(self.cut.jobs.buy)))
        self.cut.jobs.tabs["price"].click()
        page = self.cut.jobs.price
        hour = page.earned.text()
        self.type(page.form.fields["asked"], "600")
        self.assertRegex(page.earned.text(), r"^600\.00 asked: an hour earns about [\d.]+, between [\d.]+ and [\d.]+$")
        self.assertRegex(page.even.text(), r"Break-even is about [\d.]+, between [\d.]+ and [\d.]+")
        self.assertNotEqual(page.earned.text(), hour)
        self.assertEqual(self.desk.jobs["job-1"].asked, 600.0)
        before = page.bar.quote.price
        self.type(page.dearer, "50 %")
        self.assertGreater(page.bar.quote.price, before)
        self.type(page.dearer, "0")
        self.assertEqual(page.bar.quote.price, before)
        price = self.window.library.records(Price)["price-6"]
        self.window.work.put_record("price-6", replace(price, price=2 * price.price), price)  # in the catalogue: it counts at once
        self.settle()
        self.assertGreater(page.bar.quote.price, before)
        self.type(page.dearer, "much")
        self.assertIn("Try", self.said())
        self.assertGreater(len({page.bar.grab().toImage().pixel(x, 60) for x in range(30, 900)}), 3)
        self.cut.show_jobs(("job-1", "job-2"))
        self.settle()
        one = page.bar.quote.price
        page.which.setCurrentIndex(1)
        page.which.activated.emit(1)
        self.assertNotEqual(page.bar.quote.price, one)
        self.session.shop_asked.emit("costs")
        self.events()
        self.assertEqual(self.window.stack.currentWidget(), self.window.book)
        self.assertEqual(self.window.book.shop.key, "costs")
        self.type(self.window.book.shop.field("hour"), "48")
        self.window.show_view(4)
        self.assertIn("48.00 an hour", page.even.text())

    def test_what_the_customer_is_shown_adds_up_to_the_price(self):
        self.cut.show_jobs(("job-1", "job-2"))
        self.settle()
        shop = self.session.shop
        for hour in (24.0, 0.0):
            self.session.set_shop(replace(shop, hour=hour, overhead=hour, fuel=0.0))
            plan = self.desk.plan
            for job_id in ("job-1", "job-2"):
                rows, q = customer_lines(plan, job_id), plan.quote(job_id)
                self.assertAlmostEqual(sum(share for _name, _number, share in rows), q.asked or q.price, places=2)
                self.assertTrue(all(share >= 0 for _name, _number, share in rows))
                self.assertEqual([n for _name, n, _share in rows], [p.number for p in plan.prices(job_id)])
        self.session.set_shop(replace(shop, unit="in"))
        self.assertEqual([area_words(92903.04, self.session.measure), area_words(1e6, Measure())], ["1.00 ft²", "1.000 m²"])

    def test_every_blank_has_a_label_of_its_own(self):
        self.cut.show_jobs(("job-1", "job-2"))
        self.settle()
        rows = label_rows(self.desk.plan, self.session.measure)
        self.assertEqual(len(rows), 28 + 10)  # of bar and of sheet
        self.assertEqual(len({row[0] for row in rows}), len(rows))
        code, size, name, of, job = rows[0]
        self.assertEqual(
            (code, size, name, job),
            ("A1", f"{self.desk.plan.holdings.answer('oar-cradle').reckoning.cut:g} mm", "Oar cradle", "North wall, boathouse"),
        )
        self.assertIn("bar 1", of)
        self.assertIn(("140 mm by 140 mm", "Lamp tray"), {(row[1], row[2]) for row in rows})

    def test_on_paper_and_as_files(self):
        self.assertEqual(
            [p.key for p in papers_for(self.window.files.subject())], ["templates", "cut", "labels", "shopping", "quote", "card", "tables"]
        )
        for key in ("cuts", "shopping", "quote", "json"):
            self.assertTrue(self.cut.jobs.write_table(key, self.folder / f"{key}.txt"))
        self.assertEqual(len((self.folder / "cuts.txt").read_text().splitlines()), 1 + 13)
        self.assertEqual(json.loads((self.folder / "json.txt").read_text())["format"], "long-ember-cut-list")
        with mock.patch("long_ember.ui.cut.job_view.explain") as explain:
            self.assertFalse(self.cut.jobs.write_table("cuts", self.folder / "none" / "cuts.csv"))
        self.assertEqual(explain.call_count, 1)
        with mock.patch("long_ember.ui.cut.job_view.save_name", return_value=self.folder / "keys.csv"):
            self.window.commands.run("file.csv")
        self.assertGreater((self.folder / "keys.csv").stat().st_size, 100)
        self.cut.jobs._menu()
        self.events()
        self.assertEqual(len([a for a in self.cut.jobs.menu.actions() if a.text()]), 10)
        self.cut.jobs.menu.close()


class JobForms(JobCase):
    def test_assemblies_blanks_and_fittings_are_entered_and_a_template_begins_a_job(self):
        self.window.show_view(5)
        board = self.window.book.board("job")
        board.rows.choose("job-3")
        self.assertFalse(board.cuts_button.isEnabled())
        board.again_button.click()
        self.events()
        made = board.rows.records[board.rows.current]
        self.assertEqual((made.name, made.state, made.lines), ("Door pulls, a pair", "planned", board.rows.records["job-3"].lines))
        form = board.form
        form.assemblies.setCurrentIndex(1)
        form.assemblies.activated.emit(1)
        next(b for b in form.findChildren(QPushButton) if b.text() == "Add to blanks of sheet").click()
        self.events()
        kept = self.window.library.records(Job)[board.rows.current]
        self.assertEqual((len(kept.sets), len(kept.blanks)), (1, 1))
        self.window.show_blanks()
        panel = self.window.blanks
        panel.jobs.setCurrentIndex(panel.jobs.findText("North wall, boathouse"))
        panel.jobs.activated.emit(panel.jobs.currentIndex())
        self.assertEqual(len(self.window.library.records(Job)["job-1"].blanks), 3)
        panel.close()
        field = next(f for f in board.form.findChildren(QLineEdit) if f.accessibleName() == "Rejects")
        self.type(field, "10 %")
        self.assertEqual(self.window.library.records(Job)[board.rows.current].rejects, 0.1)
        self.window.commands.run("edit.undo")
        self.assertEqual(self.window.library.records(Job)[board.rows.current].rejects, 0.0)
