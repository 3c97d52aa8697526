"""Attacks on what must not be lost: short in the tests, long with `./ember attack`. Each tells how often it tried and what came of it."""

from __future__ import annotations

import contextlib
import ctypes
import gc
import os
import random
import resource
import shutil
import sqlite3
import subprocess
import sys
import time
from collections import Counter
from dataclasses import dataclass, field, replace
from pathlib import Path

from long_ember.demo import demo_files, demo_parcel
from long_ember.document import quick_answer, set_field
from long_ember.errors import EmberError, fault_places
from long_ember.features import KINDS, Piece
from long_ember.fields import Count, Limb, Number, Rows, Ticks, specs
from long_ember.records import LogEntry
from long_ember.sections import parse_section
from long_ember.shorthand import read_line
from long_ember.storage import (
    back_up,
    bring_in,
    look_over,
    new_id,
    open_book,
    parcel_text,
    parcel_zip,
    piece_from_text,
    read_parcel_file,
    read_table,
)
from long_ember.storage.database import integrity_problem, transaction
from long_ember.storage.photos import photo_from_bytes
from long_ember.storage.trace_file import curves_of
from long_ember.units import LEAST, MOST, Measure, parse_length
from tests import everyday, faulty_writer
from tests.support import BARS, CASES

__all__ = [
    "Outcome",
    "commands",
    "damage",
    "entries",
    "everyday_sizes",
    "extremes",
    "hostile_files",
    "injections",
    "kills",
    "soak",
    "window_kills",
]

HERE = Path(__file__).resolve().parent
_SLOW = 2.0  # s


@dataclass
class Outcome:
    """What came of an attack."""

    name: str
    tries: int = 0
    counts: Counter[str] = field(default_factory=Counter)
    faults: list[str] = field(default_factory=list)
    told: str = ""

    def __str__(self) -> str:
        counts = ", ".join(f"{n} {what}" for what, n in self.counts.most_common()) or self.told
        return f"{self.name:34} {self.tries:7}   {len(self.faults):4}   {counts}{f'; {self.told}' if self.told and self.counts else ''}"


def _run(script: str, *words: str, seconds: float) -> list[str]:
    done = subprocess.run(
        [sys.executable, str(HERE / script), *words], capture_output=True, text=True, timeout=seconds, cwd=HERE.parent, check=False
    )
    if done.returncode:
        raise AssertionError(f"{script}: {done.stdout[-1500:]}{done.stderr[-1500:]}")
    return done.stdout.split()


def kills(folder: Path, number: int) -> Outcome:
    """Kill a writer at random moments: no book is torn, and what was told to be on disk is there."""
    found = Outcome("writer killed", number)
    done, written, torn = (int(word) for word in _run("kill_writer.py", str(folder), str(number), seconds=number * 3 + 60)[-3:])
    found.faults = ["torn"] * torn + ["too few"] * (done != number)
    found.told = f"{written} edits written"
    return found


def window_kills(folder: Path, number: int, seed: int = 1) -> Outcome:
    """Kill the real window while somebody types: how long before it was killed was the oldest key that is missing?"""
    found = Outcome("window killed while typing", number)
    lost = sorted(float(word) for word in _run("kill_window.py", str(folder), str(number), str(seed), seconds=number * 20 + 60))
    if len(lost) != number:
        found.faults.append(f"{number - len(lost)} windows did not come up")
    if lost:
        found.told = f"typed text lost: median {lost[len(lost) // 2] * 1000:.0f} ms, most {lost[-1] * 1000:.0f} ms"
        found.faults += [f"{x:.2f} s of typing lost" for x in lost if x > 0.6]  # a busy machine may take twice as long as a quiet one
    return found


# --- damage


def injections(folder: Path) -> Outcome:
    """Inject an error into every function of the thread that writes: nothing is lost, doubled or told wrongly."""
    tried, faults = faulty_writer.every_spot(folder)
    return Outcome("errors in the writer's thread", tried, faults=faults)


def _filled(folder: Path) -> Path:
    """A book with the boathouse in it, copies, and last changes that lie beside it as after a kill."""
    path = folder / "book.ember"
    opened = open_book(path)
    book = opened.reader()
    with transaction(book.connection):
        bring_in(book, look_over(book, demo_parcel(), Measure()), {"shop": "replace"})
        serial = book.count_write()
    book.note_write(serial)
    back_up(book.connection, path, "rolling")
    with transaction(book.connection):
        book.put_piece("late", Piece(name="Made late"))
        serial = book.count_write()
    book.note_write(serial)
    kept = folder / "kept"
    kept.mkdir()
    for name in ("book.ember", "book.ember-wal", "book.ember.lock"):  # as the disk has it, before the book is closed in order
        shutil.copy2(folder / name, kept / name)
    shutil.copytree(folder / "backups", kept / "backups")
    opened.close()
    return kept


def _hurt(raw: bytes, rng: random.Random) -> bytes:
    at, how = rng.randrange(max(len(raw), 1)), rng.randrange(6)
    if how == 0:
        return raw[:at]
    if how == 1:
        return raw[:at] + bytes(min(4096, len(raw) - at)) + raw[at + 4096 :]
    if how == 2:
        return raw + rng.randbytes(rng.randrange(1, 9000))
    if how == 3:
        return rng.randbytes(len(raw))
    junk = rng.randbytes(1 if how == 4 else 64)
    return raw[:at] + junk + raw[at + len(junk) :]


def damage(folder: Path, number: int, seed: int = 1) -> Outcome:
    """Damage book, last changes, copies and lock: it opens with what it held, or says what is missing, and the damaged file stays as it was."""
    found, rng = Outcome("book, WAL, copies, lock damaged", number), random.Random(seed)
    kept = _filled(folder)
    targets = (
        ["book.ember"] * 4
        + ["book.ember-wal"] * 3
        + ["book.ember.lock", next((kept / "backups" / "book").iterdir()).relative_to(kept).as_posix()]
    )
    for i in range(number):
        here = folder / f"try{i}"
        shutil.copytree(kept, here)
        name = rng.choice(targets)
        raw = _hurt((here / name).read_bytes(), rng)
        (here / name).write_bytes(raw)
        try:
            found.counts[_opened(here / "book.ember", name, raw)] += 1
        except Exception as error:
            found.faults.append(f"{i} {name}: {type(error).__name__}: {error}"[:300])
        shutil.rmtree(here)
    return found


def _opened(path: Path, name: str, raw: bytes) -> str:
    opened = open_book(path)
    try:
        if opened.read_only:
            return "looked at only"
        book = opened.reader()
        assert not integrity_problem(book.connection) and not book.check(), "it opened, and is not sound"
        names = {e.name for e in book.entries()}
        if opened.aside is not None:
            assert opened.notices, "replaced, and nothing told"
            assert name != "book.ember" or opened.aside.read_bytes() == raw, "the damaged book was changed"
            return "set aside, a copy opened" if len(names) >= 9 else "set aside, a new one begun"
        if "Made late" in names and len(names) == 10:
            return "whole"
        assert opened.lost and opened.notices, f"{10 - len(names)} pieces are missing and nothing is told"
        return "what is missing is told"
    finally:
        opened.close()


# --- files


def hostile_files(folder: Path, number: int, seed: int = 1) -> Outcome:
    """Every reader with changed bytes: read, or explained, and in time."""
    found, rng = Outcome("files with changed bytes", number), random.Random(seed)
    svg = b'<svg xmlns="http://www.w3.org/2000/svg" width="90mm" height="90mm" viewBox="0 0 90 90"><path d="M5 5 L60 5 A20 20 0 0 1 60 45"/></svg>'
    dxf = b"0\nSECTION\n2\nENTITIES\n0\nLINE\n8\n0\n10\n0.0\n20\n0.0\n11\n50.0\n21\n10.0\n0\nENDSEC\n0\nEOF\n"
    few = replace(demo_parcel(), pieces=demo_parcel().pieces[:2])
    readers = [
        ("a.json", demo_files()[0].read_bytes(), lambda p: piece_from_text(p.read_bytes().decode("utf-8", "surrogateescape"))),
        ("b.json", parcel_text(few).encode(), read_parcel_file),
        ("b.zip", parcel_zip(few), read_parcel_file),
        ("r.csv", b"section;length (mm);count\n12 sq;3000,5;2\n", lambda p: read_table(p, Measure())),
        ("c.svg", svg, lambda p: curves_of(p.read_bytes(), ".svg")),
        ("c.dxf", dxf, lambda p: curves_of(p.read_bytes(), ".dxf")),
        ("p.jpg", _picture(), lambda p: photo_from_bytes(p.read_bytes(), p.name, "x")),
    ]
    for i in range(number):
        name, raw, read = readers[i % len(readers)]
        content = bytearray(raw)
        for _ in range(rng.randrange(1, 5)):
            at = rng.randrange(len(content))
            content[at : at + rng.randrange(1, 4)] = rng.choice(
                (rng.randbytes(2), b"\\ud800", b"1e999", b"9" * 400, b"\x00", b"\r", b"null", b"[" * 50)
            )
        path = folder / name
        path.write_bytes(content)
        began = time.process_time()
        try:
            read(path)
            found.counts["read"] += 1
        except Exception as error:
            if isinstance(error, EmberError) or (isinstance(error, ValueError) and name.startswith("c.")):
                found.counts["explained"] += 1
                continue
            found.faults.append(f"{i} {name}: {type(error).__name__}: {error}"[:300])
        if time.process_time() - began > _SLOW:
            found.faults.append(f"{i} {name}: {time.process_time() - began:.1f} s")
    return found


def _picture() -> bytes:
    import io

    from PIL import Image

    target = io.BytesIO()
    Image.effect_noise((120, 90), 80).convert("RGB").save(target, "JPEG", exif=Image.Exif(), comment=b"where it was taken")
    return target.getvalue()


# --- numbers


def extremes(number: int, seed: int = 1) -> Outcome:
    """Pieces of the least and greatest sizes: reckoned, or refused by name; every answer is a number."""
    found, rng = Outcome("pieces of extreme sizes", number), random.Random(seed)
    sizes = (LEAST, 0.02, 0.1, 1.0, 12.0, 400.0, 9000.0, MOST / 2, MOST)
    for i in range(number):
        bar = rng.choice(BARS)
        with contextlib.suppress(EmberError):
            bar = replace(bar, **{n: rng.choice(sizes) for n in ("width", "thickness")}) if rng.random() < 0.3 else bar
        made = []
        for j in range(rng.randrange(1, 4)):
            feature = rng.choice(CASES)
            names = [n for n, spec in specs(feature).items() if isinstance(spec, Number)]
            try:
                for name in rng.sample(names, min(2, len(names))):
                    spec = specs(feature)[name]
                    value = rng.choice((spec.low, spec.high, *sizes))
                    feature = replace(feature, **{name: int(value) if isinstance(spec, Count) else value})
                made.append(replace(feature, id=f"f{j}"))
            except EmberError:
                found.counts["refused"] += 1
        try:
            piece = Piece(bar=bar, features=tuple(made))
            piece.verify()
            answer = quick_answer(piece)
            assert answer.reckoning.cut < float("inf"), "no number"
            assert all(x < float("inf") for x in answer.plan.minutes) or answer.plan.checks, "no number and nothing told"
            found.counts["reckoned"] += 1
        except EmberError:
            found.counts["refused"] += 1
        except Exception as error:
            kinds = ", ".join(f.kind for f in made)
            found.faults.append(f"{i} {kinds} on {bar.shape}: {type(error).__name__}: {error}"[:300])
    found.tries = number
    return found


def everyday_sizes(number: int, seed: int = 1, seconds: float = everyday.SECONDS) -> Outcome:
    """Every kind on everyday bars, sizes from a tenth of a millimetre to ten metres, through all that shows, prints or exports a piece."""
    found = Outcome("everyday bars, every outlet", number)
    for piece in everyday.everyday_pieces(number, seed):
        what, faults = everyday.worst_of(piece, seconds)
        found.counts[what] += 1
        found.faults += [f"{everyday.told(piece)}: {fault}" for fault in faults]
    return found


_SIGNS = ("0", "1", "2", "5", "9", "12", "3/8", "1/0", ".", ",", " ", "-", "'", '"', "mm", "in", "ft", "cubes", "½", "x", "sq", "rd", "flat", "tube",
          "1e9", "\ud800", "\x00", "\u202e", "٣", "²", "9" * 30, "/", "°", "%", "turns", "up", "corners")  # fmt: skip


def entries(number: int, seed: int = 1) -> Outcome:
    """Whatever is typed is read or refused; what is read can be shown and read again."""
    found, rng = Outcome("entries typed", number), random.Random(seed)
    known = [(cls, spec) for cls in KINDS.values() for spec in specs(cls).values() if not isinstance(spec, (Limb, Rows, Ticks))]
    m = Measure()
    for i in range(number):
        text = "".join(rng.choice(_SIGNS) for _ in range(rng.randrange(1, 7)))
        if rng.random() < 0.02:
            text = "9" * rng.choice((309, 4301, 10_000))
        _cls, spec = rng.choice(known)
        try:
            if i % 3 == 0:
                value = parse_length(text, unit="mm", thickness=12.0)
                assert 0 <= value < float("inf")
            elif i % 3 == 1:
                parse_section(text)
            else:
                spec.read(text, m, 12.0)
            found.counts["read"] += 1
        except EmberError:
            found.counts["refused"] += 1
        except Exception as error:
            found.faults.append(f"{text!r:.80}: {type(error).__name__}: {error}"[:300])
    found.tries = number
    return found


def soak(folder: Path, number: int, seed: int = 1) -> Outcome:
    """Do things at random in the real window, its event loop running: nothing raises, book and bench say the same whenever they are compared,
    keys cost at the end what they did at the beginning, and memory stays flat.
    """
    from PySide6.QtCore import QCoreApplication, QEvent, Qt
    from PySide6.QtTest import QTest

    from long_ember.ui.app import make_application, make_window, settle_memory
    from tests.window_case import live

    found, rng = Outcome("deeds in the window", number), random.Random(seed)
    make_application(["soak"])
    window = make_window(None, demo=True, book=folder / "soak.ember")
    hook, sys.excepthook = sys.excepthook, lambda _kind, error, _trace: found.faults.append(_placed_words(error))
    session, work, library = window.session, window.work, window.library
    window.show()
    settle_memory(window)
    ids = [c.id for c in window.commands if c.id.startswith(("add.", "view."))]
    steps = (
        ["edit.undo"] * 4
        + ["edit.redo"] * 2
        + ["edit.duplicate", "edit.remove", "edit.remove", "edit.left", "edit.right", "edit.mate", "edit.round"]
    )

    def type_somewhere() -> None:
        window.show_view(0)
        fields = [f for f in window.shape.inspector.fields if hasattr(f, "selectAll") and f.isVisible()]
        if fields:
            field = rng.choice(fields)
            field.setFocus()
            field.selectAll()
            QTest.keyClicks(field, rng.choice(("12", "40 mm", "1 1/2", "8 rd", "90", "0", "99999", "x", "2 cubes", "25x6 flat")))
            QTest.keyClick(field, rng.choice((Qt.Key.Key_Return, Qt.Key.Key_Escape)))

    def select() -> None:
        if session.piece.features:
            session.select(rng.choice(session.piece.features).id)

    def book() -> None:
        piece = rng.choice([e.id for e in library.entries])
        rng.choice((
            lambda: work.open_piece(piece), lambda: work.set_state(piece, rng.choice(("kept", "archived", "trashed"))), lambda: work.duplicate(piece),
            lambda: work.set_tags(piece, tuple(rng.sample(("a", "b", "c"), 2))), lambda: work.set_text(piece, "note", rng.choice("xyz") * 20),
            work.timeline.undo, work.timeline.redo, lambda: work.name_state(piece, "now"), lambda: library.back_up("rolling"),
        ))()  # fmt: skip

    def log() -> None:
        name, piece = session.piece.name, session.piece_id
        entry = LogEntry(piece=piece, name=name, number=i + 1, heats=rng.randrange(1, 9), minutes=rng.uniform(5.0, 60.0))
        work.put_records("Log it", {new_id(): (None, entry)})

    def probe() -> float:
        """Return what a hundred keys cost on a piece that is always the same, against so many sums: machines change their speed."""
        for panel in tuple(window._panels.values()):
            panel.close()
        window.show_view(0)
        work.new_piece()
        work.begin(read_line("12 sq: taper 90 to 3, run 60, twist 1 turn over 80, run 60, bend 90 24, run 40").piece)
        run, best = session.piece.features[1].id, float("inf")
        for turn in range(3):  # the least of three: what the machine takes away is none of ours
            before = time.process_time()
            for k in range(100):
                session.apply(set_field(session.piece, run, "length", 40.0 + k + turn / 4))
                session.end_gesture()
                live(1)
            best = min(best, (time.process_time() - before) / _sums())
        return best

    took: list[float] = []
    memory: list[float] = []
    deeds = [log] + [type_somewhere] * 4 + [select] * 2 + [book] * 2 + [lambda: window.commands.run(rng.choice(ids))] * 2
    deeds += [lambda: window.commands.run(rng.choice(steps))] * 3
    for i in range(number):
        if len(session.piece.features) > 25:
            work.new_piece()
        if i == min(100, number // 3):
            took.append(probe())
        deed = rng.choice(deeds)
        try:
            deed()
        except Exception as error:
            found.faults.append(f"{i}: {type(error).__name__}: {error}"[:300])
        if rng.random() < 0.1:
            for panel in tuple(window._panels.values()):
                panel.close()
        live(rng.choice((0, 0, 1, 5)))
        QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)  # as a running loop does by itself
        if i % 25 == 24:
            if not library.flush():
                found.faults.append(f"{i}: not kept: {library.trouble}")
            kept = library.reader().entry(session.piece_id)
            if kept is not None and library.reader().piece(session.piece_id) != session.piece:
                found.faults.append(f"{i}: the book has another piece than the bench")
            found.counts["looks at the book"] += 1
        if i % 100 == 99:
            memory.append(_memory())
    found.faults += list(library.reader().check())
    took.append(probe())
    found.told = _costs(took, memory, found.faults, number)
    window.close()
    window.deleteLater()
    live(20)
    sys.excepthook = hook
    return found


def _placed_words(error: BaseException) -> str:
    """Return an error with the last places that it came through."""
    return f"{type(error).__name__}: {error}; {' < '.join(fault_places(error)[-9:][::-1])}"[:900]


def _sums() -> float:
    """Return what three million additions take, s of the processor."""
    before, total = time.process_time(), 0
    for k in range(3_000_000):
        total += k
    return time.process_time() - before


def _memory() -> float:
    """Return what this process holds of memory, MB, without what it has let go of."""
    gc.collect()
    with contextlib.suppress(AttributeError, OSError):
        ctypes.CDLL(None).malloc_trim(0)
    pages = int(Path("/proc/self/statm").read_text(encoding="ascii").split()[1])
    return pages * resource.getpagesize() / 1e6


def _costs(took: list[float], memory: list[float], faults: list[str], number: int) -> str:
    """Return what keys cost at the beginning and at the end, and what memory did; what grew is a fault."""
    ratio = took[-1] / took[0]
    grown = memory[-1] - memory[2 * len(memory) // 3] if len(memory) > 5 else 0.0
    if number >= 2000:  # fewer tell nothing
        faults += [f"a hundred keys cost {ratio:.2f} times what they did at the beginning"] * (ratio > 1.2)
        faults += [f"memory grew by {grown:.0f} MB"] * (grown > 10.0)
    return (
        f"a hundred keys {ratio:.2f} times as long as at first, memory {memory[-1] if memory else 0:.0f} MB, {grown:+.0f} in the last third"
    )


def _children_took() -> float:
    """s of the processor's time of all processes that were started and have ended."""
    used = resource.getrusage(resource.RUSAGE_CHILDREN)
    return used.ru_utime + used.ru_stime


def commands(folder: Path, most: int = 100) -> Outcome:
    """The command with paths and words that break careless code: an answer each time, never a traceback."""
    found = Outcome("command lines")
    book = folder / "b.ember"
    opened = open_book(book)
    with transaction(opened.reader().connection):
        opened.reader().put_piece(
            "p", replace(piece_from_text(demo_files()[0].read_text(encoding="utf-8")), name="bell\x07 and \x1b[31mred")
        )
    opened.close()
    raw = os.fsdecode(os.fsencode(folder) + b"/caf\xe9.ember")
    shutil.copy(book, raw)
    shutil.copy(book, folder / "view.ember")
    with contextlib.closing(sqlite3.connect(folder / "view.ember")) as hostile:
        hostile.executescript(
            "DROP TABLE piece; CREATE VIEW piece AS WITH RECURSIVE n(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM n) "
            "SELECT x AS id, '' AS name, '' AS body, 0 AS sum, '' AS words, '' AS outline, '' AS tags, '' AS state, '' AS parent, 0 AS at, "
            "0.0 AS made, 0.0 AS changed, 0 AS seal, 0 AS drawn, '' AS trouble FROM n;"
        )
    (folder / "loop").symlink_to(folder / "loop")
    cases = (
        ("list", "--book", str(book)), ("list", "--book", f"/{book}"), ("list", "--book", raw), ("show", "bell", "--book", str(book)),
        ("show", "p", "--book", str(book)), ("plan", "p", "--book", str(book)), ("plan", "\udc80", "--book", str(book)),
        ("export", "--to", str(book), "--book", str(book)), ("export", "--to", f"{folder}/out.json", "--book", raw),
        ("list", "--book", str(folder / "view.ember")), ("check", "--book", str(folder / "view.ember")), ("list", "--book", str(folder / "loop")),
        ("import", raw, "--book", str(book)), ("backup", "--book", raw), ("export", "p", "--to", "/proc/no/such.json", "--book", str(book)),
        ("import", f"{folder}/out.json", "--book", str(folder / "new.ember")), ("cut", "\x1b[2J", "--book", str(book)),
    )  # fmt: skip
    for words in cases[:: max(1, -(-len(cases) // most))]:
        found.tries += 1
        began = _children_took()
        done = subprocess.run(
            [sys.executable, "-m", "long_ember", *words], capture_output=True, timeout=60, check=False,
            env={**os.environ, "PYTHONIOENCODING": "ascii", "XDG_DATA_HOME": str(folder)},
        )  # fmt: skip
        said = done.stdout + done.stderr
        if (
            b"Traceback" in said
            or b"went wrong inside" in said
            or any(c in said for c in (b"\x07", b"\x1b"))
            or _children_took() - began > 25
        ):
            found.faults.append(f"{words}: {said[-300:]!r}")
        found.counts[f"answered with {done.returncode}"] += 1
    return found
