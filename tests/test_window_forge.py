"""The screen at the anvil, in the real window with a clock of its own."""

from dataclasses import replace
from unittest import mock

from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QPushButton

from long_ember.document import set_field
from long_ember.forging import fire_seconds
from long_ember.heats import Heat
from long_ember.instruments import Heard, StandIn
from long_ember.records import Forging, LogEntry
from long_ember.ui.forge import forge_view
from long_ember.ui.forge.forge_paint import SUN, main_words, picture_rect
from long_ember.ui.forge.panels import Choosing, Measuring
from long_ember.ui.heats.log_panel import LogPanel
from long_ember.ui.instruments_dialog import InstrumentsDialog
from long_ember.ui.style.theme import DARK, contrast
from tests.window_case import KEY, WindowCase


class AtTheAnvil(WindowCase):
    def setUp(self):
        super().setUp()
        self.clock = 1_000_000.0
        self.tones = mock.patch.object(forge_view, "sound").start()
        self.addCleanup(mock.patch.stopall)
        self.window.work.open_piece("mooring-staple")
        self.begin()

    def begin(self):
        self.window.commands.run("view.forge")
        self.forge = self.window.anvil.view
        self.forge.now = lambda: self.clock
        self.forge.resize(1280, 800)
        self.events()

    def again(self):
        """From the first step, by the clock of the test."""
        self.forge._begin(self.forge.run.text)

    def press(self, key, after=30.0):
        self.clock += after
        QTest.keyClick(self.forge, key)

    def panel(self, kind):
        return next(p for p in self.forge.findChildren(kind) if p.isVisible())

    def to_the_anvil(self):
        while self.forge.iron.phase != "anvil":
            self.press(KEY.Key_Space)

    def test_one_action_forward_one_back_whatever_does_it(self):
        self.again()
        forge, seen = self.forge, []

        def wheel(by):
            at = QPointF(600, 400)
            forge.wheelEvent(QWheelEvent(at, at, QPoint(), QPoint(0, by), Qt.MouseButton.NoButton, Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False))  # fmt: skip

        forwards = (
            lambda: QTest.keyClick(forge, KEY.Key_Space), lambda: QTest.keyClick(forge, KEY.Key_Right), lambda: wheel(-120),
            lambda: QTest.mouseClick(forge, Qt.MouseButton.LeftButton, pos=QPoint(1000, 300)), forge.buttons["forward"].click,
        )  # fmt: skip
        for forward in forwards:
            seen.append((forge.frame, forge.iron.phase))
            self.clock += 20
            forward()
        finger = QTest.createTouchDevice()
        seen.append((forge.frame, forge.iron.phase))
        self.clock += 20
        QTest.touchEvent(forge, finger).press(1, QPoint(1000, 300)).commit()
        QTest.touchEvent(forge, finger).release(1, QPoint(1000, 300)).commit()
        self.events()
        self.assertNotIn((forge.frame, forge.iron.phase), seen)
        self.assertEqual(len(set(seen)), len(seen))
        backs = (lambda: QTest.keyClick(forge, KEY.Key_Left), lambda: wheel(120), lambda: QTest.mouseClick(forge, Qt.MouseButton.LeftButton, pos=QPoint(90, 300)))  # fmt: skip
        for back, (frame, _phase) in zip(backs, reversed(seen), strict=False):
            back()
            self.assertEqual(forge.frame, frame)

    def test_done_it_is_in_the_log_as_it_was_counted(self):
        self.again()
        plan, asked = self.session.answer.plan, []
        with mock.patch.object(self.window, "ask_log", lambda *told: asked.append(told)):
            while self.forge.run is not None:
                self.press(KEY.Key_Space, 40.0)
            self.until(lambda: asked)
            # Nothing counted is let go before it is logged: not logged, it is asked for.
            self.begin()
            self.assertEqual(len(self.panel(Choosing)._ways), 2)
            QTest.keyClick(self.panel(Choosing), KEY.Key_1)
            self.until(lambda: len(asked) == 2)
        (entry, logged), again = asked
        self.assertEqual(again[0], entry)
        self.assertEqual((entry.heats, entry.good), (plan.count, 1))
        self.assertAlmostEqual(entry.minutes, 40 * (len(plan.frames) + plan.count) / 60, delta=0.06)
        self.assertIsNone(self.window.anvil.view)
        # The real one takes what was counted as though it had been typed.
        panel = LogPanel(self.window.work, self.window, entry)
        self.assertEqual((panel.entry().heats, panel.entry().minutes), (entry.heats, entry.minutes))
        self.assertTrue(panel.held())
        panel._log()
        self.assertIn(entry.heats, [e.heats for e in self.window.library.records(LogEntry).values()])
        logged()
        self.assertNotIn("mooring-staple", [r.piece for r in self.window.library.records(Forging).values()])

    def test_it_goes_on_tomorrow_where_it_stood_and_asks_when_the_plan_has_changed(self):
        self.again()
        self.to_the_anvil()
        self.press(KEY.Key_Space)
        frame = self.forge.frame
        QTest.keyClick(self.forge, KEY.Key_Escape)
        self.events()
        self.assertIsNone(self.window.anvil.view)
        self.assertTrue(self.window.library.flush())
        self.assertEqual(
            next(r for r in self.window.library.reader().records(Forging).values() if r.piece == "mooring-staple").open[0].frame, frame
        )
        self.clock += 80_000
        self.begin()
        self.assertEqual((self.forge.frame, self.forge.run.paused), (frame, False))
        QTest.keyClick(self.forge, KEY.Key_Escape)
        self.events()
        run = next(f for f in self.session.piece.features if f.kind == "run")
        self.session.apply(set_field(self.session.piece, run.id, "length", run.length + 7))
        for key, wanted in ((KEY.Key_1, run.length), (KEY.Key_2, run.length + 7)):
            self.begin()
            self.assertEqual(len(self.panel(Choosing)._ways), 3)
            QTest.keyClick(self.panel(Choosing), key)
            self.assertEqual(self.forge.plan.piece.feature(run.id).length, wanted)
            self.assertEqual(self.forge.frame, frame)
            QTest.keyClick(self.forge, KEY.Key_Escape)
            self.events()
        self.begin()
        with mock.patch.object(forge_view, "answer", lambda *_a, **_k: mock.Mock(plan=mock.Mock(frames=()))):
            self.forge._renew(replace(self.session.piece, name="plain"))
        self.assertEqual((self.forge.frame, self.forge.note[:21]), (frame, "The new plan has no h"))
        first = self.window.anvil.view
        self.window.anvil.show()  # a second one is the first
        self.assertIs(self.window.anvil.view, first)

    def test_a_batch_from_its_timetable_with_its_pace(self):
        QTest.keyClick(self.forge, KEY.Key_Escape)
        self.events()
        self.window.show_batch()
        panel = self.window.batch
        panel.pieces.setCurrentIndex(1)
        wanted, irons = panel.pieces.currentData(), panel.irons.currentData()
        panel._forge()
        self.forge = self.window.anvil.view
        self.assertEqual(len(self.panel(Choosing)._ways), 2)  # one is at the anvil already
        QTest.keyClick(self.panel(Choosing), KEY.Key_2)
        self.forge.now = lambda: self.clock
        self.assertEqual((self.forge.run.wanted, self.forge.run.irons), (wanted, min(irons, wanted)))
        self.forge._put(replace(self.forge.run, open=tuple(replace(i, since=self.clock) for i in self.forge.run.open), last=self.clock))
        while not self.forge.run.good:
            self.press(KEY.Key_Space, 20)
        self.assertIn(f"1 of {wanted} good", self.forge._count())
        self.assertIn("min each, planned", self.forge._count())
        self.assertFalse(self.forge.grab().toImage().isNull())

    def test_the_demo_has_a_half_forged_piece_ready(self):
        QTest.keyClick(self.forge, KEY.Key_Escape)
        self.events()
        self.window.work.open_piece("gate-pintle")
        self.begin()
        self.assertEqual(self.forge.frame, 3)
        self.assertIsNone(self.forge.asked)  # it is forged as it is planned

    def test_bad_states_are_said_and_nothing_breaks(self):
        self.again()
        self.to_the_anvil()
        self.window.work.set_state("mooring-staple", "trashed")  # the piece goes while it is forged
        frame = self.forge.frame
        self.press(KEY.Key_Space)
        self.assertEqual(self.forge.frame, frame + 1)
        self.press(KEY.Key_W)
        QTest.mouseClick(self.forge, Qt.MouseButton.LeftButton, pos=QPoint(1200, 60))  # beside what is asked: nothing goes on
        self.forge.read(Heard("pedal", 1.0))  # nor by the pedal, and no other question opens
        self.forge.read(Heard("calliper", 12.0))
        self.assertIsInstance(self.forge.asked, Choosing)
        self.assertEqual((self.forge.frame, self.panel(Choosing).isVisible()), (frame + 1, True))
        QTest.keyClick(self.panel(Choosing), KEY.Key_Escape)
        self.press(KEY.Key_D)
        self.assertTrue(self.forge.text.isVisible() and self.forge.buttons["speak"].isVisible())
        with mock.patch.object(forge_view, "say_aloud", lambda _words: False):
            self.press(KEY.Key_S)
        self.assertIn("speech-dispatcher", self.forge.note)
        self.press(KEY.Key_Space)
        self.assertFalse(self.forge.text.isVisible() or self.forge.buttons["speak"].isVisible())
        QTest.keyClick(self.forge, KEY.Key_Escape)
        self.events()
        self.window.work.new_piece()
        self.begin()
        self.assertIn("No heats yet", self.forge.note)
        self.press(KEY.Key_Space)
        self.assertFalse(self.forge.grab().toImage().isNull())

    def test_clocks_tones_and_the_edge(self):
        self.again()
        while self.forge.iron.phase != "fire":
            self.press(KEY.Key_Space)
        self.clock += fire_seconds(self.session.answer.plan, self.forge.frame) + 1
        for _ in range(3):
            self.forge._tick()
        self.assertEqual(self.tones.call_count, 1)  # once, not at every tick
        self.assertGreater(self.forge._edge, self.clock)
        self.press(KEY.Key_T, 0)
        self.press(KEY.Key_Space, 5)
        frame = self.session.answer.plan.frames[self.forge.frame]
        self.clock += frame.seconds + 10
        self.forge._tick()
        self.assertEqual(self.tones.call_count, 1)  # off
        hot = self.forge._glow
        self.forge.grab()
        self.assertLess(self.forge._glow, 1100)
        self.press(KEY.Key_P, 1)
        self.clock += 500
        spent = self.forge.run.spent
        self.press(KEY.Key_P, 0)
        self.assertEqual(self.forge.run.spent, spent)
        self.assertIsNotNone(hot)

    def test_went_wrong_and_another_heat(self):
        self.again()
        self.to_the_anvil()
        frame = self.forge.frame
        self.press(KEY.Key_A, 10)
        self.assertEqual((self.forge.frame, self.forge.iron.phase), (frame, "fire"))
        self.press(KEY.Key_W, 10)
        self.assertGreater(len(self.panel(Choosing).findChildren(QPushButton)), 6)
        QTest.keyClick(self.panel(Choosing), KEY.Key_2)
        self.assertEqual((self.forge.run.rejects[0].count, self.forge.frame, self.forge.run.wanted), (1, 0, 2))
        self.forge.reject("burnt")
        self.assertEqual(sum(r.count for r in self.forge.run.rejects), 2)

    def test_a_size_is_held_against_the_plan_and_a_calliper_reads_it(self):
        self.again()
        self.to_the_anvil()
        self.press(KEY.Key_M, 5)
        panel = self.panel(Measuring)
        QTest.keyClicks(panel.entry, "nothing")
        QTest.keyClick(panel.entry, KEY.Key_Return)
        self.assertTrue(panel.isVisible() and panel.entry.property("fault"))
        panel.hot_button.setChecked(False)
        size = panel._sizes[panel.chosen]
        panel.entry.setText(self.session.measure.edit_text(size.planned))
        QTest.keyClick(panel.entry, KEY.Key_Return)
        self.assertIn("On.", self.forge.note)
        self.assertEqual(self.forge.run.sizes[0].value, size.planned)
        there = StandIn("calliper")
        try:
            self.session.configure(replace(self.session.settings, instruments=(("calliper", there.path),)))
            self.window.anvil.readings.follow()
            self.until(lambda: "calliper" in self.window.anvil.readings.drivers)
            there.say(size.planned - 20)
            self.until(lambda: any(p.isVisible() for p in self.forge.findChildren(Measuring)))
            panel = self.panel(Measuring)
            self.until(lambda: panel.entry.text() != "")
            panel.hot_button.setChecked(False)
            panel.take()
            self.assertIn("short", self.forge.note)
            there.send(b"calliper 12.3 mm #00\n")
            self.until(lambda: "does not count" in self.forge.note)
            self.assertEqual(len(self.forge.run.sizes), 1)
        finally:
            self.window.anvil.readings.close()
            there.close()
            self.session.configure(replace(self.session.settings, instruments=()))

    def test_words_are_large_enough_and_every_look_is_legible(self):
        self.again()
        for theme in (DARK, SUN):
            self.forge.look_as(theme)
            self.assertGreaterEqual(contrast(theme.ink, theme.paper), 7.0)
            for _ in range(len(self.session.answer.plan.frames)):
                self.assertFalse(self.forge.grab().toImage().isNull())
                self.press(KEY.Key_Space)
                if not self.forge.isVisible():
                    break
            if not self.forge.isVisible():
                break
        for frame in self.session.answer.plan.frames:
            words = main_words(frame, self.session.measure)
            self.assertTrue(words and all(0 < len(w) < 120 for w in words), words)
            if isinstance(frame, Heat):
                self.assertEqual(len(words), len(frame.work))
        self.assertLess(picture_rect(1280, 800).bottom(), 800 * 0.7)

    def test_instruments_are_named_and_tried(self):
        QTest.keyClick(self.forge, KEY.Key_Escape)
        self.events()
        dialog = InstrumentsDialog(self.session, self.window.anvil.readings, self.window)
        dialog.show()
        dialog.stand_in("calliper")
        self.until(lambda: "calliper" in self.window.anvil.readings.drivers)
        self.window.show_view(0)
        run = next(f for f in self.session.piece.features if f.kind == "run")
        self.session.select(run.id)
        field = next(f for f in self.window.shape.inspector.fields if f.address.name == "length")
        dialog.stand_ins["calliper"].say(33.5)
        with mock.patch("long_ember.ui.actions.readings.QApplication.focusWidget", lambda: field):
            self.until(lambda: self.session.piece.feature(run.id).length == 33.5)
        dialog.accept()
        self.assertEqual(self.session.settings.instruments, ())
        self.session.document.withdraw()
        self.assertNotEqual(self.session.piece.feature(run.id).length, 33.5)
