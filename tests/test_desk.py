"""The desk without a window: a loop turned by hand, and everything that screens share."""

import contextlib
import gc
import os
import queue
import random
import sys
import tempfile
import time
import unittest
from dataclasses import replace
from pathlib import Path
from unittest import mock

from hypothesis import given
from hypothesis import strategies as st

from long_ember.demo import demo_parcel
from long_ember.desk.book_actions import BookActions
from long_ember.desk.job_desk import JobDesk
from long_ember.desk.library import Library, reopened
from long_ember.desk.session import Session
from long_ember.desk.turns import Portions
from long_ember.desk.worker import Worker
from long_ember.document import Steps, add_feature, set_field, set_piece
from long_ember.errors import EmberError, NoAnswer
from long_ember.features import KINDS, Piece
from long_ember.fields import specs
from long_ember.records import Assembly, Job, LogEntry, RackItem, Settings, Shop
from long_ember.sections import square
from long_ember.signals import Signal, ask_who_is_left
from long_ember.storage import Change, bring_in, look_over, new_id
from long_ember.storage.database import transaction
from long_ember.units import Measure


class HandTimer:
    def __init__(self, run, once):
        self.run, self.once, self.running = run, once, False

    def start(self):
        self.running = True

    def stop(self):
        self.running = False


class HandLoop:
    """Nothing happens but what a test asks for."""

    def __init__(self):
        self.working, self.timers, self.posted = set(), [], queue.Queue()

    def timer(self, run, milliseconds, *, once=False):
        self.timers.append(HandTimer(run, once))
        return self.timers[-1]

    def post(self, run, *arguments):
        self.posted.put((run, arguments))

    def turn(self, seconds=0.0):
        """Run what threads have posted; wait so long for the first."""
        with contextlib.suppress(queue.Empty):
            run, arguments = self.posted.get(timeout=seconds) if seconds else self.posted.get_nowait()
            run(*arguments)
            while True:
                run, arguments = self.posted.get_nowait()
                run(*arguments)

    def strike(self):
        """The time of every running timer has come, once."""
        for timer in [t for t in self.timers if t.running]:
            timer.running = not timer.once
            timer.run()


class Actions(BookActions):
    """Explains into a list, waits for nothing."""

    def __init__(self, session, library):
        super().__init__(session, library)
        self.explained = []

    def explain(self, what, words):
        self.explained.append((what, words))

    def slow(self, title, failed, read, done):
        try:
            done(read(lambda _at, _of: None))
        except EmberError as error:
            self.explain(failed, str(error))


class DeskCase(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        patch = mock.patch.dict(os.environ, {"XDG_CONFIG_HOME": folder.name, "XDG_DATA_HOME": folder.name})
        patch.start()
        self.addCleanup(patch.stop)
        self.path = Path(folder.name) / "desk.ember"
        self.loop = HandLoop()
        opened = reopened(self.path)
        with transaction(opened.book.connection):
            bring_in(opened.book, look_over(opened.book, demo_parcel(), Measure()), {"shop": "replace"})
        self.library = Library(self.loop, opened)
        self.addCleanup(self.library.close)
        self.session = Session(self.loop, *self.start(), self.library, "door-pull")
        self.work = Actions(self.session, self.library)

    def start(self) -> tuple[Piece, Settings, Shop]:
        return self.library.piece("door-pull"), Settings(), self.library.shop


class Desk(DeskCase):
    def test_an_edit_is_kept_before_it_is_reckoned_and_everybody_is_told_once(self):
        order = []
        self.session.refreshed.connect(lambda: order.append("refreshed"))
        run = next(f for f in self.session.piece.features if f.kind == "run")
        with mock.patch.object(self.library, "keep", side_effect=lambda *_a: order.append("kept")):
            self.session.apply(set_field(self.session.piece, run.id, "length", run.length + 7))
        self.assertEqual(order, ["kept", "refreshed"])

    def test_what_can_not_be_reckoned_is_kept_and_marked_and_the_desk_lives(self):
        run = next(f for f in self.session.piece.features if f.kind == "run")
        with mock.patch("long_ember.desk.session.quick_answer", side_effect=[NoAnswer("No way.", ""), self.session.answer]):
            self.session.apply(set_field(self.session.piece, run.id, "length", run.length + 7))
        self.assertIsInstance(self.session.trouble, NoAnswer)
        self.assertTrue(self.library.flush())
        self.assertEqual(self.library.reader().entry("door-pull").trouble, "No way.")
        self.session.undo()
        self.assertIsNone(self.session.trouble)

    def test_a_large_piece_is_ordered_in_slices_of_the_loop(self):
        piece = self.session.piece
        for kind in ("taper", "bend", "hook", "eye", "scroll", "twist", "hole") * 4:  # more than one slice can order
            piece = add_feature(piece, 0, KINDS[kind](id="x")).after
        heard = []
        self.session.planning.connect(heard.append)
        self.session.open(piece, "large")
        self.assertTrue(self.session.searching)
        end = time.monotonic() + 20
        while self.session.searching and time.monotonic() < end:  # the gate counts time, not passes
            self.loop.strike()
        self.assertEqual((self.session.searching, heard[0], heard[-1]), (False, True, False))

    def test_what_is_put_off_is_not_begun_any_more_when_the_window_is_closed(self):
        def work():
            done.append("begun")
            yield

        done: list[str] = []
        late = Portions(self.loop, self.session.turns, "late")
        for closed in (False, True):
            if closed:
                self.session.rest()
            late.start(work(), lambda _none: done.append("over"))
            end = time.monotonic() + 0.1
            while time.monotonic() < end:
                self.loop.strike()
            self.assertEqual((done, late.busy), (["begun", "over"], False))

    def test_piece_and_book_are_taken_back_by_one_protocol(self):
        before = self.library.records(RackItem)["rack-1"]
        for count in (5, 6):
            self.work.put_record("rack-1", replace(before, count=count), self.library.records(RackItem)["rack-1"])
        self.assertEqual(self.work.timeline.undo_title, "Change the rack")
        self.work.timeline.undo()  # both were typed into one entry within a moment
        self.assertEqual((self.library.records(RackItem)["rack-1"], self.work.timeline.undo_title), (before, ""))
        self.work.timeline.redo()
        self.assertEqual(self.library.records(RackItem)["rack-1"].count, 6)
        self.session.select(self.session.piece.features[0].id)
        self.assertEqual((self.session.undo_title, self.session.redo_title), ("", ""))

    def test_a_piece_is_duplicated_renamed_and_opened(self):
        self.library._keeper.put(Change("slow disk", lambda _book: time.sleep(0.5)))  # longer than anybody waits for a deed
        identity = self.work.duplicate("door-pull")
        self.work.set_text(identity, "name", "Pull for the loft")
        self.assertTrue(self.work.open_piece(identity))
        self.assertEqual((self.session.piece.name, self.session.piece_id), ("Pull for the loft", identity))
        self.assertFalse(self.work.open_piece("nowhere"))
        self.assertEqual(self.work.explained[0][0], "The piece was not opened")

    def test_jobs_are_planned_made_cheaper_in_a_thread_and_sawn(self):
        desk = JobDesk(self.work)
        desk.choose(("job-2",))
        while desk.looking:
            self.loop.turn(20.0)
        self.assertIsInstance(desk.jobs["job-2"], Job)
        before = self.library.records(RackItem)
        self.assertTrue(desk.finish())
        self.assertEqual(desk.plan.cut_list.state, "planned")  # not looked at again yet
        desk.renew()
        self.assertEqual(desk.plan.cut_list.state, "sawn")
        self.assertNotEqual(self.library.records(RackItem), before)
        self.work.timeline.undo()
        self.assertEqual(self.library.records(RackItem), before)
        self.assertEqual(self.loop.working, set())


class Threads(unittest.TestCase):
    def test_a_worker_tells_in_the_loops_thread_and_ends_once(self):
        loop, heard = HandLoop(), []

        def work(worker):
            worker.step(1, 3)
            worker.tell("found")
            return "made"

        worker = Worker(loop, work)
        worker.stepped.connect(lambda *at: heard.append(at))
        worker.found.connect(heard.append)
        worker.ended.connect(lambda made, error: heard.append((made, error)))
        worker.start()
        self.assertEqual(loop.working, {worker})
        worker.join()
        self.assertEqual(heard, [])
        loop.turn()
        self.assertEqual((heard, loop.working), ([(1, 3), "found", ("made", None)], set()))

    def test_left_it_stops_at_its_next_step_and_hands_nothing_on(self):
        loop, heard = HandLoop(), []

        def work(worker):
            worker.leave()
            worker.step()
            return "made"

        worker = Worker(loop, work)
        worker.ended.connect(lambda made, error: heard.append((made, error)))
        worker.start()
        worker.join()
        loop.turn()
        self.assertEqual(heard, [(None, None)])


class Signals(unittest.TestCase):
    class View:
        def __init__(self, heard):
            self.heard = heard

        def hear(self, *what):
            self.heard.append(what)

    def test_views_are_held_weakly_and_functions_are_not(self):
        signal, heard = Signal(), []
        view = self.View(heard)
        signal.connect(view.hear)
        signal.connect(lambda *what: heard.append(("function", *what)))
        signal.emit(1)
        del view
        gc.collect()
        signal.emit(2)
        self.assertEqual(heard, [(1,), ("function", 1), ("function", 2)])

    def test_one_that_fails_keeps_no_other_from_being_told(self):
        signal, heard, faults = Signal(), [], []
        signal.connect(lambda: 1 / 0)
        signal.connect(lambda: heard.append("told"))
        with mock.patch.object(sys, "excepthook", lambda kind, *_more: faults.append(kind)):
            signal.emit()
        self.assertEqual((heard, faults), (["told"], [ZeroDivisionError]))

    def test_who_was_deleted_by_its_toolkit_is_not_called(self):
        signal, heard = Signal(), []
        view = self.View(heard)
        signal.connect(view.hear)
        try:
            ask_who_is_left(lambda owner: owner is not view)
            signal.emit(1)
        finally:
            ask_who_is_left(lambda _owner: True)
        self.assertEqual(heard, [])


class Stroke:
    """A step that adds up with others of its gesture, and cancels itself out at nought."""

    title = "Add"

    def __init__(self, by, gesture=""):
        self.by, self.gesture = by, gesture

    def joined(self, earlier):
        return Stroke(self.by + earlier.by, self.gesture) if self.by + earlier.by else None


class TakenBack(unittest.TestCase):
    @given(st.lists(st.tuples(st.sampled_from(["add", "back", "forth", "close"]), st.integers(-2, 2), st.sampled_from(["", "g", "h"]))))
    def test_steps_always_add_up_to_where_one_stands(self, script):
        steps, now = Steps(1000), 0
        for what, by, gesture in script:
            if what == "add":
                steps.add(Stroke(by, gesture))
                now += by
            elif what == "close":
                steps.close()
            elif what == "back" and steps.last is not None:
                now -= steps.last.by
                steps.back()
            elif what == "forth" and steps.next is not None:
                now += steps.next.by
                steps.forth()
            self.assertEqual(sum(s.by for s in steps.all[: steps.at]), now)
            self.assertEqual(bool(steps.undo_title), steps.at > 0)
            self.assertEqual(bool(steps.redo_title), steps.at < len(steps.all))


if __name__ == "__main__":
    unittest.main()


class EverythingIsTakenBack(DeskCase):
    """Deeds of all kinds, in one order, over a restart too."""

    def setUp(self):
        super().setUp()
        self.note = self.session.piece.note

    def standing(self):
        library, bench = self.library, self.session.piece_id
        library.flush()
        pieces = {e.id: (library.piece(e.id), e.state, e.tags) for e in library.entries}
        pieces[bench] = (self.session.piece, *pieces.get(bench, (None, "kept", ()))[1:])
        return pieces, {cls: dict(library.records(cls)) for cls in (RackItem, Job, Assembly, LogEntry)}, self.session.shop

    def restart(self):
        self.session.end_gesture()
        self.assertTrue(self.library.close())
        self.library = Library(self.loop, reopened(self.path))
        identity = self.library.fact("open") or "door-pull"
        piece, history = self.library.read(identity)
        self.session = Session(self.loop, piece, Settings(), self.library.shop, self.library, identity, history)
        self.work = Actions(self.session, self.library)

    def deed(self, rng):
        session, library, work = self.session, self.library, self.work
        ids = [e.id for e in library.entries]
        kind = rng.randrange(11)
        if kind < 3:
            feature = rng.choice(session.piece.features)
            if "length" in specs(feature):
                session.attempt(set_field, feature.id, "length", rng.choice((31.0, 47.5, 80.0)))
        elif kind == 3:
            session.attempt(set_piece, "bar", square(rng.choice((10, 11, 14))))
        elif kind == 4:
            session.set_shop(replace(session.shop, saw=rng.choice(("safe", "likely")), unit=rng.choice(("mm", "in"))))
        elif kind == 5:
            before = library.records(RackItem)["rack-1"]
            work.put_record("rack-1", replace(before, count=rng.randrange(1, 30)), before)
        elif kind == 6:
            work.put_records("Log the piece", {new_id(): (None, LogEntry(piece="door-pull", heats=rng.randrange(1, 9)))})
        elif kind in (9, 10):  # a job, and parts that are joined
            cls = Job if kind == 9 else Assembly
            identity, record = rng.choice(list(library.records(cls).items()))
            work.put_record(identity, replace(record, name=f"{record.name} {rng.randrange(99)}"), record)
        elif kind == 7:
            rng.choice((
                lambda: work.set_state(rng.choice(ids), rng.choice(("kept", "archived"))),
                lambda: work.set_tags(rng.choice(ids), (rng.choice("abc"),)),
                lambda: work.set_text(rng.choice(ids), "note", rng.choice("xyz")),
            ))()  # fmt: skip
        else:
            work.open_piece(rng.choice(ids))
        session.end_gesture()
        library._last = None  # the next one is typed much later

    def test_random_deeds_undone_to_the_start_equal_the_start_and_redone_equal_the_end(self):
        for seed in range(8):
            with self.subTest(seed=seed):
                rng = random.Random(seed)
                self.restart()
                self.work.timeline._done.clear()
                self.work.timeline._undone.clear()
                start = self.standing()
                for i in range(25):
                    self.deed(rng)
                    if i == 12:
                        self.restart()
                end = self.standing()
                self.assertNotEqual(start, end)
                steps = 0
                for title, step, wanted in (("undo_title", "undo", start), ("redo_title", "redo", end), ("undo_title", "undo", start)):
                    while getattr(self.work.timeline, title) and (
                        self.work.timeline._done if step == "undo" else self.work.timeline._undone
                    ):
                        getattr(self.work.timeline, step)()
                        steps += 1
                        self.assertLess(steps, 100)
                        if steps % 7 == 0:
                            self.restart()
                    now = self.standing()
                    for one, other in zip(now, wanted, strict=True):
                        self.assertEqual(one, other)
                self.assertGreater(steps, 20)

    def test_what_is_taken_back_is_said_and_opened_where_it_was_done(self):
        said, shown = [], []
        self.session.said.connect(lambda words, _fault: said.append(words))
        self.work.timeline.shown.connect(shown.append)
        self.session.attempt(set_piece, "note", "x")
        self.work.open_piece("lantern-bracket")
        self.assertIn("in Door pull", self.work.timeline.undo_title)
        self.work.timeline.undo()
        self.assertEqual((self.session.piece_id, self.session.piece.note, shown), ("door-pull", self.note, ["bench"]))
        self.assertIn("of Door pull", said[-1])

    def test_a_piece_that_is_gone_is_passed_over(self):
        self.session.attempt(set_piece, "note", "x")
        before = self.library.records(RackItem)["rack-1"]
        self.work.open_piece("lantern-bracket")
        self.session.attempt(set_piece, "note", "y")
        self.work.remove("lantern-bracket")
        self.work.timeline.undo()
        self.assertEqual((self.session.piece_id, self.session.piece.note), ("door-pull", self.note))
        self.assertEqual(self.library.records(RackItem)["rack-1"], before)
