"""A book of 5,000 pieces, 50,000 log entries and a job of 5,000 blanks: how long everything takes that is done in it."""

from __future__ import annotations

import random
import time
from collections.abc import Callable
from dataclasses import replace
from datetime import date
from functools import partial
from pathlib import Path

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication

from long_ember.demo import demo_files, demo_parcel
from long_ember.document import set_piece
from long_ember.records import Job, JobLine, LogEntry
from long_ember.storage import open_book, read_piece
from long_ember.storage.database import transaction
from long_ember.ui.app import make_window
from long_ember.ui.rail import SCREENS
from long_ember.ui.window import MainWindow

__all__ = ["large"]

PIECES, ENTRIES, BLANKS = 5000, 50_000, 5000
_JOB = "many"


def _filled(path: Path) -> None:
    rng, samples = random.Random(4), [read_piece(p) for p in demo_files()]
    opened = open_book(path)
    book = opened.reader()
    with transaction(book.connection):
        for i in range(PIECES):
            book.put_piece(
                f"p{i}", replace(samples[i % len(samples)], name=f"Piece {i} of many", note=f"for hall {i % 37}"), when=1.7e9 + i
            )
        for i in range(ENTRIES):
            entry = LogEntry(piece=f"p{i % PIECES}", name="x", number=1 + i // PIECES, day=date(2026, 1, 1), heats=rng.randrange(3, 9), minutes=30.0 + i % 20,
                             planned_heats=6, planned_minutes=38.0)  # fmt: skip
            book.put_record(f"log{i}", entry, owner=entry.piece)
        for identity, record in demo_parcel().records:
            book.put_record(identity, record)
        lines = tuple(JobLine(piece=f"p{i}", quantity=BLANKS // 10) for i in range(10))
        book.put_record(_JOB, Job(name="Very many", lines=lines))
        book.put_record("second", Job(name="Some", lines=tuple(JobLine(piece=f"p{i}", quantity=150) for i in range(10))))
        book.put_fact("open", "p0")
    opened.close()


class _Gaps:
    """The longest time that the event loop was held up."""

    def __init__(self) -> None:
        self._timer = QTimer(interval=0)
        self._timer.timeout.connect(self._beat)
        self._last, self.longest = 0.0, 0.0

    def _beat(self) -> None:
        now = time.perf_counter()
        if self._last:
            self.longest = max(self.longest, now - self._last)
        self._last = now

    def over(self, application: QApplication, seconds: float) -> float:
        """Let the window live so long; s of the longest gap."""
        self._last, self.longest = time.perf_counter(), 0.0
        self._timer.start()
        end = time.perf_counter() + seconds
        while time.perf_counter() < end:
            application.processEvents()
            time.sleep(0.0005)  # other threads have their turn, as in the application's own loop
        self._timer.stop()
        return self.longest


def large(application: QApplication, folder: Path, report: Callable[..., None]) -> None:
    """Print every deed and every screen of a large book."""
    path = folder / "large.ember"
    began = time.perf_counter()
    _filled(path)
    print(
        f"{PIECES:,} pieces, {ENTRIES:,} entries of a log, {BLANKS:,} blanks: {path.stat().st_size / 1e6:.0f} MB, made in {time.perf_counter() - began:.0f} s"
    )
    began = time.perf_counter()
    window = make_window(None, book=path)
    window.resize(1280, 800)
    window.show()
    application.processEvents()
    report("large: opened to a painted window", [time.perf_counter() - began])
    gaps = _Gaps()
    report("large: longest freeze of the first five seconds", [gaps.over(application, 5.0)], "goal < 50 ms")
    for index, (_verb, word) in enumerate(SCREENS):
        _deed(window, application, report, f"large: {word}, shown", partial(window.show_view, index))
    _deeds(window, application, report, gaps)
    window.close()
    window.deleteLater()
    application.processEvents()


def _deed(
    window: MainWindow, application: QApplication, report: Callable[..., None], name: str, run: Callable[[], object], times: int = 5
) -> None:
    """A deed several times over, to its repaint."""
    found = []
    for _ in range(times):
        if "shown" in name:
            window.show_view(2)
            application.processEvents()
        began = time.perf_counter()
        run()
        application.processEvents()
        found.append(time.perf_counter() - began)
    report(name, found, "goal < 100 ms")


def _deeds(window: MainWindow, application: QApplication, report: Callable[..., None], gaps: _Gaps) -> None:
    work, session = window.work, window.session
    numbers = iter(range(1_000_000))

    def deed(name: str, run: Callable[[], object], times: int = 5) -> None:
        _deed(window, application, report, f"large: {name}", run, times)
        report(f"large: longest freeze after {name}", [gaps.over(application, 1.2)], "goal < 50 ms")

    window.show_view(0)
    deed("a size typed", lambda: session.apply(set_piece(session.piece, "note", str(next(numbers)))))
    deed("a piece opened", lambda: work.open_piece(f"p{next(numbers) * 7 % PIECES}"))
    deed("an entry logged", lambda: work.put_record(f"new{next(numbers)}", LogEntry(piece="p0", name="x", heats=5, planned_heats=5), None))
    window.show_view(5)
    deed("a search typed", lambda: window.book.search.setText(("hall 12", "scroll", "p", "nothing such")[next(numbers) % 4]))
    window.book.search.clear()
    deed("a piece archived", lambda: work.set_state(f"p{next(numbers)}", "archived"))
    deed("a tag set", lambda: work.set_tags(f"p{next(numbers)}", ("gate", "yard")))
    deed("that undone", window.work.timeline.undo)
    deed("a note typed on the wall", lambda: work.type_text("p77", "note", f"oil it {next(numbers)}"))
    window.show_view(4)
    for job, words in (("second", "1,500 blanks"), (_JOB, "5,000 blanks")):
        window.cut.show_jobs(())
        began = time.perf_counter()
        _chosen(window, job)
        application.processEvents()
        report(f"large: a job of {words} chosen, its pieces not reckoned yet", [time.perf_counter() - began], "goal < 100 ms")
        while window.cut.desk.plan is None:
            application.processEvents()
        report("large: until its plan stands", [time.perf_counter() - began])
        deed(f"a job of {words} chosen", partial(_chosen, window, job), 2)
        window.cut.desk.rest()
        deed(f"a blank of {words} ticked", lambda: window.cut.jobs.bars.tick(next(numbers) % 20, 0))


def _chosen(window: MainWindow, job: str) -> None:
    """A job pressed, everything reckoned anew."""
    window.cut.show_jobs(())
    window.cut.show_jobs((job,))
