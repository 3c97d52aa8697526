"""Nothing is lost, whatever goes wrong: each of these once lost work, or told something untrue."""

import contextlib
import io
import math
import os
import random
import shutil
import signal
import sqlite3
import stat
import subprocess
import sys
import tempfile
import threading
import time
import unittest
from dataclasses import replace
from pathlib import Path
from unittest import mock

from PIL import Image

from long_ember.cutting.whole import Helper
from long_ember.document import quick_answer
from long_ember.errors import BookError, EmberError, NoAnswer, PieceFileError, SaveError
from long_ember.export.solid_out import solid_bytes
from long_ember.features import KINDS, Piece
from long_ember.features.run import Run
from long_ember.geometry import contacts
from long_ember.heats import hand_force
from long_ember.plain import cell, clean
from long_ember.records import RackItem, Settings
from long_ember.sections import square
from long_ember.shorthand import read_line
from long_ember.storage import (
    Book,
    Change,
    Keeper,
    Parcel,
    back_up,
    backups,
    looked_at,
    open_book,
    parcel_zip,
    piece_from_text,
    piece_to_text,
    put_back,
    read_settings,
    read_table,
    table_csv,
    write_atomic,
    write_settings,
    writer,
)  # fmt: skip
from long_ember.storage.copies import Backup, thinned
from long_ember.storage.database import book_error, journal_of, looking, transaction, wal_of
from long_ember.storage.lock import Lock
from long_ember.storage.migrations import BOOK_VERSION, migrate
from long_ember.storage.parcel import PieceItem
from long_ember.storage.photos import LARGEST_KEPT, photo_from_bytes
from long_ember.units import Measure, parse_length
from tests import attackers, everyday, faulty_writer
from tests.support import threads_left
from tests.test_book import BookCase

HOOK = Piece(name="Hook", features=(Run(id="a", length=100.0),))


def put(name: str, piece: Piece = HOOK) -> Change:
    return Change(f"piece/{name}", lambda book: book.put_piece(name, replace(piece, name=name)), title=f"The piece {name!r}")


class Reckoning(unittest.TestCase):
    def test_a_twist_on_a_bar_welded_on_asks_a_wrench_of_its_own_section(self):
        twist = KINDS["twist"](id="t", turns=1.0)
        whole = Piece(bar=square(10), features=(replace(twist, id="x"),))
        welded = Piece(bar=square(20), features=(replace(KINDS["extension"](id="x"), section=square(10), beyond=(twist,)),))
        plans = [quick_answer(piece).plan for piece in (whole, welded)]
        one, other = (
            [force for f in plan.frames for w in getattr(f, "work", ()) if (force := hand_force(w.step, plan.piece))] for plan in plans
        )
        self.assertGreater(len(one) * len(other), 0)
        self.assertAlmostEqual(one[0], other[0])

    def test_everyday_sizes_come_out_of_every_outlet_or_are_refused_in_words(self):
        for line in ("12 sq: scroll 200", "12 sq: eye 3000", "12 sq: taper 1500 to 4", "6 rd: coil 1000",
                     "12 sq: scroll 160, run 500, scroll 160"):  # fmt: skip
            with self.subTest(line):
                self.assertEqual(everyday.worst_of(read_line(line).piece, math.inf)[1], [])
        self.assertEqual(attackers.everyday_sizes(15, seed=5, seconds=math.inf).faults, [])

    def test_every_kind_in_every_limb_has_a_plan(self):
        for host, limb in (("extension", "beyond"), ("split", "upper"), ("laid-on", "own")):
            for kind in attackers.CASES:
                with contextlib.suppress(NoAnswer):
                    piece = Piece(bar=square(30), features=(replace(KINDS[host](id="h"), **{limb: (replace(kind, id="y"),)}),))
                    piece.verify()
                    self.assertIsNotNone(quick_answer(piece).plan)

    def test_an_outline_that_can_not_be_drawn_costs_the_picture_and_not_the_piece(self):
        book = Book(sqlite3.connect(":memory:", isolation_level=None), Path("memory"))
        migrate(book.connection, 0)
        with mock.patch("long_ember.storage.book.silhouette", side_effect=ZeroDivisionError):
            book.put_piece("p", HOOK)
        (entry,) = book.entries()
        self.assertEqual((book.piece("p"), entry.polygons()), (HOOK, ()))
        self.assertIn("can't be drawn", entry.trouble)


class KeeperLives(BookCase):
    def test_it_survives_every_exception_and_the_rest_is_written(self):
        reported: list[str] = []
        faults = (TypeError("x"), UnicodeEncodeError("utf-8", "\ud800", 0, 1, "surrogates"), KeyError("k"), RecursionError(), MemoryError())
        with mock.patch("threading.excepthook", lambda found: reported.append(found.exc_type.__name__)):
            keeper = Keeper(writer(self.path), mock.Mock(side_effect=RuntimeError("the listener is gone")))
            for i, fault in enumerate(faults):
                keeper.put(Change(f"bad/{i}", mock.Mock(side_effect=fault), title=f"Number {i}"))
                keeper.put(put(f"good {i}"))
                keeper.flush(2)
            self.assertTrue(keeper._thread.is_alive())
            told_of = " ".join(keeper.aside)
            self.assertFalse(keeper.close())
        self.assertEqual(len(self.names()), len(faults))
        self.assertIn("Number 0 could not be kept", told_of)
        self.assertTrue({"TypeError", "KeyError", "RuntimeError"} <= set(reported))  # survived, and not hidden

    def test_an_error_in_any_function_of_its_thread_costs_nothing(self):
        tried, faults = faulty_writer.every_spot(Path(self.folder), step=9)
        self.assertGreater(tried, 90)
        self.assertEqual(faults, [])

    def test_an_error_that_lasts_is_told_until_it_ends_and_then_all_is_written(self):
        names = ("_live", "_work", "_recover", "_wait", "_due", "_again", "_write", "_written", "_together", "_committed", "_resolve",
                 "_conclude", "_sort_out", "_call", "_tell", "_stumbled", "_settle", "_let_go")  # fmt: skip
        with mock.patch("threading.excepthook"), mock.patch("long_ember.storage.keeper._AGAIN", 0.02):
            for name in names:
                with self.subTest(name):
                    keeper = Keeper(writer(self.path))
                    with mock.patch.object(Keeper, name, side_effect=ZeroDivisionError):
                        for i in range(3):
                            with contextlib.suppress(ZeroDivisionError):  # some are called by whoever asks, too
                                keeper.put(put(f"{name} {i}"))
                                keeper.flush(0.3)
                        kept = {n for n in self.names() if n.startswith(f"{name} ")}
                        waiting = {c.key.partition("/")[2] for c in keeper.unwritten}
                        self.assertEqual(kept | waiting, {f"{name} {i}" for i in range(3)})
                        if waiting:
                            self.assertTrue(keeper.trouble + "".join(keeper.aside))
                    self.assertTrue(keeper.flush(3.0) or keeper.flush(3.0))
                    self.assertEqual({n for n in self.names() if n.startswith(f"{name} ")}, {f"{name} {i}" for i in range(3)})
                    self.assertEqual((keeper.trouble, keeper.unwritten), ("", ()))
                    self.assertTrue(keeper.close())

    def test_a_picture_of_a_damaged_piece_is_not_missed(self):
        self.filled()
        with contextlib.closing(sqlite3.connect(self.path)) as connection:
            connection.execute("UPDATE piece SET body = 'x' WHERE id = 'door-pull'")
            connection.commit()
        keeper = Keeper(writer(self.path))
        keeper.put(Change("description/door-pull", lambda book: book.describe("door-pull"), idle=True))
        keeper.put(put("good"))
        self.assertTrue(keeper.close())

    def test_a_write_too_large_for_the_disk_does_not_starve_a_small_one(self):
        def tight() -> Book:
            book = writer(self.path)()
            pages = book.connection.execute("PRAGMA page_count").fetchone()[0]
            book.connection.execute(f"PRAGMA max_page_count = {pages + 12}")
            return book

        keeper = Keeper(tight)
        keeper.put(put("huge", replace(HOOK, note="x" * 90_000)))
        keeper.put(put("small"))
        keeper.flush(3)
        self.assertIn("huge", keeper.aside[0])
        self.assertIn("disk is full", keeper.aside[0])
        self.assertIsNotNone(keeper)
        self.assertFalse(keeper.close())
        self.assertEqual(self.names(), ["small"])

    def test_a_copy_that_can_not_be_made_stops_nothing(self):
        keeper = Keeper(writer(self.path))
        self.assertTrue(keeper.flush())
        keeper.put(put("before"))
        (self.path.parent / "backups").parent.mkdir(exist_ok=True)
        (self.path.parent / "backups").write_text("in the way")
        keeper.put(Change("copy", lambda book: back_up(book.connection, self.path, "rolling"), title="The copy", alone=True))
        keeper.put(put("after"))
        keeper.flush(2)
        self.assertIn("The copy could not be kept", keeper.aside[0])
        keeper.close()
        self.assertEqual(self.names(), ["after", "before"])

    def test_a_book_that_is_moved_away_is_told_and_not_begun_anew_in_its_place(self):
        with mock.patch("long_ember.storage.keeper._AGAIN", 0.05):
            keeper = Keeper(writer(self.path, lock := Lock(self.path)))
            keeper.put(put("first"))
            self.assertTrue(keeper.flush())
            away = self.path.with_name("away.ember")
            os.rename(self.path, away)
            keeper.put(put("second"))
            self.assertFalse(keeper.flush(2))
            self.assertIn("moved", keeper.trouble)
            self.assertFalse(self.path.exists())
            os.rename(away, self.path)
            self.assertTrue(keeper.close())
        lock.release()
        self.assertEqual(self.names(), ["first", "second"])

    def test_text_that_no_file_can_hold_is_cleaned_at_every_door(self):
        broken = "iron \ud800\udfff\x00 \x1b[31m\r\nhook"
        self.assertEqual(clean(broken), "iron \ufffd\ufffd\ufffd \ufffd[31m\nhook")
        piece = piece_from_text(piece_to_text(HOOK).replace('"note": ""', '"note": "a\\ud800b"'))
        self.assertEqual(piece.note, "a\ufffdb")
        with self.assertRaisesRegex(NoAnswer, "half a character"):
            replace(HOOK, name="a\ud800")
        opened = open_book(self.path)
        book = opened.reader()
        book.put_piece("p", HOOK)
        book.put_tags("p", ["\udc80ta\x07g"])
        book.put_fact("open", "\ud800")
        book.put_revision("r", "p", "\udfff", HOOK)
        self.assertEqual(book.check(), ())
        opened.close()


class Sound(BookCase):
    def test_a_locked_book_is_not_damaged_and_the_one_who_has_it_is_named(self):
        self.filled()
        raw = self.path.read_bytes()
        script = (
            "import sqlite3, sys\nc = sqlite3.connect(sys.argv[1], isolation_level=None)\nc.execute('PRAGMA locking_mode = EXCLUSIVE')\n"
        )
        script += "c.execute('BEGIN EXCLUSIVE')\nc.execute('CREATE TABLE x (y)')\nprint('held', flush=True)\nsys.stdin.read()"
        other = subprocess.Popen([sys.executable, "-c", script, str(self.path)], stdin=subprocess.PIPE, stdout=subprocess.PIPE)
        self.assertEqual(other.stdout.readline(), b"held\n")
        with mock.patch("long_ember.storage.database._BUSY", 100), self.assertRaises(BookError) as caught:
            open_book(self.path)
        other.kill()
        other.communicate()
        self.assertEqual(caught.exception.kind, "busy")
        self.assertIn(f"process {other.pid}", str(caught.exception))
        self.assertEqual([p.name for p in self.path.parent.glob("*damaged*")], [])
        self.assertEqual(self.path.read_bytes()[:100], raw[:100])
        self.assertEqual(len(self.names()), 9)

    def test_a_disk_fault_says_nothing_about_what_is_on_it(self):
        self.filled()
        fault = sqlite3.OperationalError("disk I/O error")
        with mock.patch("long_ember.storage.salvage.integrity_problem", side_effect=fault), self.assertRaises(BookError) as caught:
            open_book(self.path)
        self.assertEqual(caught.exception.kind, "refused")
        self.assertEqual(len(self.names()), 9)

    def test_errors_are_told_by_their_number_and_not_by_words_in_a_path(self):
        for number, words in ((13, "can't be written"), (28, "disk is full"), (5, "fault"), (2, "can't be opened")):
            error = OSError(number, os.strerror(number), "/home/full/locked/malformed.ember")
            self.assertIn(words, book_error(Path("x"), error).reason)

    @unittest.skipUnless(os.geteuid() == 0 and shutil.which("setpriv"), "rights are refused to others only, and this asks for another's")
    def test_without_rights_last_changes_are_shown_or_it_says_that_they_can_not_be(self):
        folder = Path(tempfile.mkdtemp(dir="/tmp"))
        self.addCleanup(shutil.rmtree, folder, True)
        opened = open_book(folder / "b.ember")
        opened.reader().put_piece("p", HOOK)  # lies in the file beside the book
        for name in ("b.ember", "b.ember-wal"):
            shutil.copyfile(folder / name, folder / f"ro-{name}")
        opened.close()
        closed = folder / "closed"
        closed.mkdir()
        for name in ("b.ember", "b.ember-wal"):
            os.rename(folder / f"ro-{name}", closed / name)
            os.chmod(closed / name, 0o444)
        os.chmod(folder, 0o755)
        os.chmod(closed, 0o555)
        script = "from pathlib import Path\nfrom long_ember.storage import looked_at, open_book\nimport sys\np = Path(sys.argv[1])\n"
        script += "try:\n  o = open_book(p)\n  print([e.name for e in o.reader().entries()], o.read_only)\nexcept Exception as e:\n  print(type(e).__name__, e)"

        def other() -> str:
            run = subprocess.run(
                ["setpriv", "--reuid=65534", "--clear-groups", sys.executable, "-c", script, str(closed / "b.ember")],
                capture_output=True,
                text=True,
            )
            return run.stdout + run.stderr

        said = other()
        if "ModuleNotFoundError" in said or "Permission denied" in said:
            self.skipTest("another user can't run this Python")
        self.assertIn("['Hook']", said)
        self.assertIn("can't be had", said)
        os.chmod(closed / "b.ember-wal", 0o000)
        self.assertIn("BookError", other())
        self.assertEqual(sorted(p.name for p in closed.iterdir()), ["b.ember", "b.ember-wal"])

    def test_one_writer_by_what_the_file_is(self):
        self.filled()
        first = open_book(self.path)
        first.reader().put_piece("new", HOOK)
        soft, hard = self.folder / "soft.ember", self.folder / "hard.ember"
        soft.symlink_to(self.path)
        os.link(self.path, hard)
        for other in (soft, hard):
            second = open_book(other)
            self.assertIn("another", second.read_only)
            self.assertIsNone(second.lock)
            second.close()
        away = self.folder / "away.ember"
        os.rename(self.path, away)
        third = Lock(away)
        self.assertEqual((third.take(), "another name" in third.holder), (False, True))
        os.rename(away, self.path)
        first.close()

    def test_last_changes_under_the_other_name_of_a_hard_link_are_found(self):
        self.filled()
        script = (
            "import os, sys\nfrom pathlib import Path\nfrom long_ember.features import Piece\nfrom long_ember.storage import open_book\n"
        )
        script += "o = open_book(Path(sys.argv[1]))\no.reader().put_piece('late', Piece(name='Late'))\nos.kill(os.getpid(), 9)"
        subprocess.run([sys.executable, "-c", script, str(self.path)], check=False)
        self.assertTrue(wal_of(self.path).stat().st_size)
        os.link(self.path, self.folder / "hard.ember")
        opened = open_book(self.folder / "hard.ember")
        self.assertIn("Late", [e.name for e in opened.reader().entries()])
        self.assertEqual(opened.path, self.path.resolve())
        opened.close()

    def test_a_lock_that_can_not_be_taken_means_looking_only(self):
        self.filled()
        with mock.patch("long_ember.storage.lock.os.open", side_effect=PermissionError(13, "Permission denied")):
            opened = open_book(self.path)
        self.assertIn("can't be had", opened.read_only)
        with self.assertRaises(sqlite3.OperationalError):
            opened.reader().put_piece("x", HOOK)
        opened.close()

    def test_a_hostile_book_is_refused_by_name_and_a_newer_one_is_looked_at(self):
        self.filled()
        with contextlib.closing(sqlite3.connect(self.path)) as connection:
            connection.executescript("ALTER TABLE piece ADD COLUMN mood TEXT DEFAULT ''; ALTER TABLE record RENAME COLUMN body TO bodx;")
        with self.assertRaisesRegex(BookError, "piece, record"):
            looked_at(self.path)
        with contextlib.closing(sqlite3.connect(self.path)) as connection:
            connection.executescript(f"ALTER TABLE record RENAME COLUMN bodx TO body; PRAGMA user_version = {BOOK_VERSION + 1};")
        newer = open_book(self.path)
        self.assertEqual((newer.reader().count(), "newer" in newer.read_only), (9, True))
        newer.close()


class Copies(BookCase):
    def test_no_clock_makes_all_copies_look_old(self):
        for wrong in (0.0, 4e9):  # 1970, and 2096
            found = [Backup(Path(f"/{i}"), wrong + i * 30.0, "rolling", 1, i) for i in range(40, 0, -1)]
            self.assertGreaterEqual(len(found) - len(thinned(found)), 6)

    def test_what_is_newest_is_told_by_number_and_odd_dates_are_told(self):
        self.filled()
        opened = open_book(self.path)
        for when in (time.time(), time.time() + 400 * 86400, time.time()):
            back_up(opened.reader().connection, self.path, "rolling", when=when)
        opened.close()
        found = backups(self.path)
        self.assertEqual([b.number for b in found], [3, 2, 1])
        self.assertEqual([b.odd for b in found], [False, True, False])

    def test_the_copy_that_holds_most_outlives_a_book_that_was_emptied(self):
        self.filled()
        opened = open_book(self.path)
        back_up(opened.reader().connection, self.path, "rolling", when=1.7e9)
        for entry in opened.reader().entries():
            opened.reader().remove_piece(entry.id)
        for i in range(12):
            back_up(opened.reader().connection, self.path, "rolling", when=1.7e9 + i)
        opened.close()
        self.assertIn(9, [len(looked_at(b.path).reader().entries()) for b in backups(self.path)])

    def test_a_copy_is_proven_readable_and_leaves_nothing_half_done(self):
        self.filled()
        opened = open_book(self.path)
        folder = self.path.parent / "backups" / self.path.stem
        folder.mkdir(parents=True)
        (folder / "20260101-000000-n0001-rolling.part").write_bytes(b"cut short")
        opened.reader().connection.execute("UPDATE piece SET tags = 'changed behind its back' WHERE id = 'door-pull'")
        with self.assertRaisesRegex(SaveError, "Door pull"):
            back_up(opened.reader().connection, self.path, "rolling")
        self.assertEqual(list(folder.iterdir()), [])
        opened.close()

    def test_what_is_missing_is_told_and_going_back_on_purpose_is_not_missing(self):
        self.filled()
        keeper = Keeper(writer(self.path))
        keeper.put(put("late"))
        keeper.flush()
        older = self.path.read_bytes()  # before the last changes are brought into it
        keeper.put(put("later"))
        keeper.close()
        self.path.write_bytes(older)
        opened = open_book(self.path)
        self.assertTrue(opened.lost)
        self.assertIn("missing", " ".join(opened.notices))
        back_up(opened.reader().connection, self.path, "rolling")
        copy = back_up(opened.reader().connection, self.path, "by-hand")
        with transaction(opened.reader().connection):
            opened.reader().count_write()
        opened.close()
        put_back(copy, self.path)
        again = open_book(self.path)
        self.assertEqual((again.lost, again.notices), (False, []))
        again.close()

    def test_little_ever_lives_only_beside_the_book(self):
        with mock.patch("long_ember.storage.keeper._IDLE", 0.05):
            keeper = Keeper(writer(self.path))
            keeper.put(put("p"))
            keeper.flush()
            end = time.monotonic() + 20
            while wal_of(self.path).stat().st_size and time.monotonic() < end:
                time.sleep(0.02)
            self.assertEqual(wal_of(self.path).stat().st_size, 0)
            keeper.close()

    def test_every_fact_and_tag_has_a_sum(self):
        self.filled()
        with contextlib.closing(sqlite3.connect(self.path)) as connection:
            connection.execute("UPDATE fact SET value = replace(value, 'mm', 'in') WHERE key = 'shop'")
            connection.execute("UPDATE piece SET state = 'trashed' WHERE id = 'door-pull'")
            connection.commit()
        found = " ".join(looked_at(self.path).reader().check())
        self.assertIn("shop of the book: damaged", found)
        self.assertIn("'Door pull'", found)

    def test_book_copies_and_settings_are_for_their_owner_only(self):
        with mock.patch.dict(os.environ, {"XDG_CONFIG_HOME": str(self.folder / "config")}):
            raw = os.fsdecode(b"/caf\xe9.ember")
            write_settings(Settings("dark", (raw, "/plain.ember")))
            self.assertEqual(read_settings().books, (raw, "/plain.ember"))
            kept = self.folder / "config" / "long-ember" / "settings.json"
            kept.write_text(kept.read_text().replace("plain", "plane"))
            self.assertEqual(read_settings(), Settings())
        opened = open_book(self.path)
        opened.reader().put_piece("p", HOOK)
        copy = back_up(opened.reader().connection, self.path, "rolling")
        for path in (
            self.path,
            wal_of(self.path),
            copy,
            copy.parent,
            self.path.parent,
            self.folder / "config" / "long-ember" / "settings.json",
        ):
            self.assertEqual(stat.S_IMODE(path.stat().st_mode) & 0o077, 0, path)
        opened.close()

    def _cut_off(self) -> None:
        """As a power cut leaves a book while it is made or brought up to date: the pages before the change lie beside it."""
        with contextlib.closing(sqlite3.connect(self.path)) as connection:
            connection.execute("PRAGMA journal_mode = DELETE")
        if (child := os.fork()) == 0:
            connection = sqlite3.connect(self.path, isolation_level=None)
            connection.execute("PRAGMA cache_size = 1")
            connection.execute("BEGIN IMMEDIATE")
            connection.execute("DELETE FROM piece")
            connection.executemany("INSERT INTO fact(key, value) VALUES (?, ?)", [(f"k{i}", "x" * 400) for i in range(2000)])
            os.kill(os.getpid(), signal.SIGKILL)
        os.waitpid(child, 0)
        self.assertTrue(journal_of(self.path).stat().st_size)

    def test_what_was_cut_off_while_a_book_was_made_is_taken_back_and_the_book_opens(self):
        self.filled()
        names = self.names()
        with contextlib.closing(looking(self.path)) as connection:
            copy = back_up(connection, self.path, "by-hand")
        self._cut_off()
        with contextlib.closing(looking(self.path)) as connection:  # only looked at, it is read as it was
            self.assertGreater(connection.execute("SELECT count(*) FROM piece").fetchone()[0], 0)
            self.assertTrue(journal_of(self.path).stat().st_size)
        opened = open_book(self.path)
        self.assertEqual((opened.notices, opened.reader().fact("k1"), list(opened.reader().check())), ([], "", []))
        opened.close()
        self.assertEqual(self.names(), names)
        self._cut_off()
        put_back(copy, self.path)  # pages of another book are not laid over it
        self.assertEqual(self.names(), names)

    def test_killed_while_a_book_is_made(self):
        rng = random.Random(5)
        for number in range(60):
            path = self.folder / f"born-{number}.ember"
            if (child := os.fork()) == 0:
                with contextlib.suppress(BaseException):
                    open_book(path).reader()
                os._exit(0)
            time.sleep(rng.uniform(0.0, 0.05))
            os.kill(child, signal.SIGKILL)
            os.waitpid(child, 0)
            with contextlib.closing(open_book(path)) as opened:
                self.assertEqual((opened.notices, list(opened.reader().check())), ([], []))

    def test_a_book_is_made_in_one_step(self):
        twice = ("CREATE TABLE fact (key TEXT);", "CREATE TABLE fact (key TEXT);")
        with (
            mock.patch("long_ember.storage.migrations.MIGRATIONS", twice),
            contextlib.closing(sqlite3.connect(":memory:", isolation_level=None)) as connection,
        ):
            with self.assertRaises(sqlite3.OperationalError):
                migrate(connection, 0)
            connection.execute("ROLLBACK")
            self.assertEqual(connection.execute("SELECT count(*) FROM sqlite_schema").fetchone(), (0,))


class Out(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def test_photos_lose_everything_but_the_picture_and_stay_small_enough_to_travel(self):
        picture = Image.effect_noise((400, 300), 90).convert("RGB")
        plain = io.BytesIO()
        picture.save(plain, "JPEG", quality=92, comment=b"at the harbour", icc_profile=b"profile" * 40, progressive=True)
        raw = plain.getvalue()
        at = raw.index(b"\xff\xdb")
        xmp = b"http://ns.adobe.com/xap/1.0/\0<gps>52.1</gps>"
        raw = raw[:at] + b"\xff\xe1" + (len(xmp) + 2).to_bytes(2, "big") + xmp + raw[at:] + b"PK\x03\x04 hidden behind the end"
        photo = photo_from_bytes(raw, "a\x1b.jpg", "p")
        for secret in (b"harbour", b"profile", b"gps", b"hidden"):
            self.assertNotIn(secret, photo.data)
        with Image.open(io.BytesIO(photo.data)) as kept, Image.open(io.BytesIO(raw)) as given:
            self.assertEqual(kept.convert("RGB").tobytes(), given.convert("RGB").tobytes())  # not one dot has changed
        large = io.BytesIO()
        Image.effect_noise((1600, 1600), 120).convert("RGB").save(large, "JPEG", quality=100, subsampling=0)
        photo = photo_from_bytes(large.getvalue(), "l.jpg", "p")
        self.assertLessEqual(len(photo.data), LARGEST_KEPT)
        path = self.folder / "out.zip"
        path.write_bytes(parcel_zip(Parcel((PieceItem("p", HOOK, photos=(photo,)),))))
        (item,) = attackers.read_parcel_file(path).pieces
        self.assertEqual(item.photos[0].data, photo.data)

    def test_no_cell_is_a_formula_or_breaks_its_line(self):
        for text in ("=1+1", "+1", "-1", "\u22121", "@x", "\t=1", "\r=1", "a\r=1", "'=1"):
            self.assertNotIn(cell(text)[0], "=+-\u2212@\t\r")
            self.assertNotRegex(cell(text), "[\r\n\t]")
            table = self.folder / "rack.csv"
            table.write_text(table_csv([RackItem(place=text)], "rack", Measure()), encoding="utf-8")
            ((_id, item),) = read_table(table, Measure()).records
            self.assertEqual(item.place, cell(text).removeprefix("'"))

    def test_nothing_is_written_over_a_book(self):
        book = self.folder / "b.ember"
        open_book(book).close()
        with self.assertRaisesRegex(SaveError, "a book is there"):
            write_atomic(book, "{}")
        (self.folder / "loop").symlink_to(self.folder / "loop")
        with self.assertRaises(SaveError):
            write_atomic(self.folder / "loop", "x")

    def test_an_empty_piece_gives_no_solid(self):
        with self.assertRaisesRegex(NoAnswer, "empty"):
            solid_bytes(Piece(), "stl")

    def test_helpers_do_not_take_their_modules_from_the_current_folder(self):
        (self.folder / "json.py").write_text("raise SystemExit('taken over')")
        before = os.getcwd()
        self.addCleanup(os.chdir, before)
        os.chdir(self.folder)
        helper = Helper()
        helper.start()
        self.addCleanup(helper.stop)
        with self.assertRaises(subprocess.TimeoutExpired):  # it lives, and waits for its question
            helper._process.wait(1.0)

    def test_numbers_at_the_edge_are_refused_by_name(self):
        for text in ("9" * 309, "9" * 4301, "1." + "0" * 5000, "1/" + "9" * 4301):
            with self.assertRaises(EmberError):
                parse_length(text)
        with self.assertRaisesRegex(PieceFileError, "version: must be 1 to 8"):
            piece_from_text(piece_to_text(HOOK).replace('"version": 1', '"version": 1.0'))
        for wrong in ("0.009", "1e-300", "100001", "1" + "0" * 400):
            with self.assertRaisesRegex(PieceFileError, r"features\[0\]\.length"):
                piece_from_text(piece_to_text(HOOK).replace('"length": 100', f'"length": {wrong}'))

    def test_parts_of_a_hundred_metres_are_looked_through_at_once(self):
        bend = KINDS["bend"](id="b", radius=40.0, angle=180.0)
        piece = Piece(bar=square(2), features=(Run(id="a", length=1e5), bend, Run(id="c", length=1e5)))
        began = time.process_time()
        self.assertEqual(contacts(piece), ())
        self.assertLess(time.process_time() - began, 2.0)


class Attacked(BookCase):
    """The attackers of `./ember attack`, for seconds instead of minutes."""

    def clean(self, found: attackers.Outcome) -> attackers.Outcome:
        self.assertEqual(found.faults, [], str(found))
        return found

    def test_killed_while_somebody_types(self):
        self.clean(attackers.window_kills(self.folder, 2, seed=2))  # after a second and a half of typing without a pause

    def test_damaged(self):
        found = self.clean(attackers.damage(self.folder, 60))
        self.assertGreaterEqual(len(found.counts), 3)

    def test_fed_nonsense(self):
        self.clean(attackers.hostile_files(self.folder, 350))
        self.assertGreater(self.clean(attackers.extremes(600)).counts["reckoned"], 100)
        self.assertGreater(self.clean(attackers.entries(4000)).counts["read"], 50)

    def test_commands(self):
        self.clean(attackers.commands(self.folder, 7))

    def test_used_at_random(self):
        before = threading.active_count()
        with mock.patch.dict(os.environ, {"XDG_CONFIG_HOME": str(self.folder)}):
            self.clean(attackers.soak(self.folder, 75))
        self.assertEqual(threads_left(before), before)
