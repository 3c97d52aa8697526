"""The book: what is kept, what survives a kill, damage, a full disk, another window, and time."""

import contextlib
import json
import os
import random
import sqlite3
import tempfile
import threading
import time
import unittest
from dataclasses import replace
from datetime import date
from pathlib import Path
from unittest import mock

import jsonschema
from hypothesis import given, settings
from hypothesis import strategies as st

from long_ember.demo import demo_files, demo_parcel
from long_ember.document import Document, set_piece
from long_ember.errors import BookError, EmberError, PieceFileError, SaveError
from long_ember.features import Piece
from long_ember.records import KIT, STARTING, Job, LogEntry, Price, RackItem, SavedCutList, Shop, Smith, missing_tools
from long_ember.sections import square
from long_ember.storage import (
    Book,
    Change,
    Keeper,
    Parcel,
    back_up,
    backups,
    book_path,
    book_schema,
    bring_in,
    look_over,
    open_book,
    parcel_text,
    put_back,
    read_parcel_file,
    read_piece,
    salvaged,
    writer,
)  # fmt: skip
from long_ember.storage.copies import Backup, thinned
from long_ember.storage.database import integrity_problem, looking, transaction
from long_ember.storage.migrations import BOOK_VERSION, migrate
from long_ember.units import Measure
from tests import attackers
from tests.support import pieces, upto

HERE = Path(__file__).resolve().parent


class BookCase(unittest.TestCase):
    """A data folder of its own."""

    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        patch = mock.patch.dict(os.environ, {"XDG_DATA_HOME": folder.name})
        patch.start()
        self.addCleanup(patch.stop)
        self.path = book_path()

    def filled(self) -> None:
        """A book with the boathouse in it, closed again."""
        opened = open_book(self.path)
        with transaction(opened.reader().connection):
            bring_in(opened.reader(), look_over(opened.reader(), demo_parcel(), Measure()), {"shop": "replace"})
        opened.close()

    def names(self) -> list[str]:
        opened = open_book(self.path)
        try:
            return sorted(e.name for e in opened.reader().entries())
        finally:
            opened.close()

    def flip(self, words: bytes) -> None:
        """Damage one byte behind the first place where the file says so."""
        raw = bytearray(self.path.read_bytes())
        raw[raw.index(words) + len(words)] ^= 0x11
        self.path.write_bytes(raw)


class Keeping(BookCase):
    @given(pieces(), st.lists(st.sampled_from(["a", "b", "c"]), max_size=5))
    @settings(max_examples=15)
    def test_a_piece_with_its_history_comes_back(self, piece, names):
        document = Document(piece)
        for name in names:
            document.apply(set_piece(document.piece, "name", name))
        if names:
            document.undo()
        book = Book(sqlite3.connect(":memory:", isolation_level=None), Path("memory"))
        migrate(book.connection, 0)
        for _again in range(2):
            book.put_piece("p", document.piece, document.history)
        self.assertEqual(book.piece("p"), document.piece)
        other = Document(book.piece("p"), book.history("p"))
        self.assertEqual((other.undo_title, other.redo_title), (document.undo_title, document.redo_title))
        for walk in ("redo", "undo", "undo", "undo", "undo", "undo", "undo"):
            getattr(document, walk)()
            getattr(other, walk)()
            self.assertEqual(other.piece, document.piece)
        book.close()

    @given(st.lists(st.tuples(st.sampled_from(("read on", "begin", "ask", "put", "remove")), st.integers(0, 4)), max_size=14))
    @settings(max_examples=60)
    def test_read_in_portions_while_it_changes_the_wall_is_what_is_in_the_book(self, deeds):
        book, sample, here = Book(sqlite3.connect(":memory:", isolation_level=None), Path("memory")), Piece(), {}
        migrate(book.connection, 0)
        with mock.patch("long_ember.storage.book._FEW", 1):
            reading = book.reading_entries()
            for number, (what, which) in enumerate(deeds):
                if what == "put":
                    here[f"p{which}"] = f"name {number}"
                    book.put_piece(f"p{which}", replace(sample, name=here[f"p{which}"]), when=float(number))
                elif what == "remove" and f"p{which}" in here:
                    del here[f"p{which}"]
                    book.remove_piece(f"p{which}")
                elif what == "begin":
                    reading = book.reading_entries()
                elif what == "ask":
                    self.assertEqual({e.id: e.name for e in book.entries()}, here)
                else:
                    next(reading, None)
            self.assertEqual({e.id: e.name for e in book.entries()}, here)
            times = [e.changed for e in book.entries()]
            self.assertEqual(times, sorted(times, reverse=True))
        book.close()

    def test_the_last_two_hundred_steps_are_kept_and_no_more_than_are_needed(self):
        document = Document(read_piece(demo_files()[0]))
        for i in range(320):
            document.apply(set_piece(document.piece, "name", f"name {i}"))
        book = writer(self.path)()
        book.put_piece("p", document.piece, document.history)
        again = Document(book.piece("p"), book.history("p"))
        for i in range(318, 118, -1):
            again.undo()
            self.assertEqual(again.piece.name, f"name {i}")
        book.put_piece("p", again.piece, again.history)
        self.assertEqual(book.history("p").at, again.history.at)
        self.assertLess(len(book.history("p").steps), 260)
        book.close()

    def test_an_edit_comes_to_the_disk_by_itself_and_off_the_callers_thread(self):
        keeper, piece, gate = Keeper(writer(self.path)), read_piece(demo_files()[0]), threading.Event()
        waited = list[bool]()
        keeper.put(Change("slow disk", lambda _book: waited.append(gate.wait(30.0))))
        for i in range(40):  # as fast as anyone types
            changed = replace(piece, name=str(i))
            keeper.put(Change("piece/p", lambda book, p=changed: book.put_piece("p", p), changed, typed=True))
            self.assertEqual(keeper.waiting("piece/p").name, str(i))
        gate.set()  # nobody has waited for the one before
        end = time.monotonic() + 20
        while keeper.waiting("piece/p") is not None and time.monotonic() < end:
            time.sleep(0.01)
        self.assertEqual(self.names(), ["39"])
        self.assertEqual(waited, [True])
        self.assertTrue(keeper.close())

    def test_kill_the_writer_again_and_again(self):
        self.assertEqual(attackers.kills(self.folder, 60).faults, [])

    def test_a_full_disk_is_told_and_everything_is_written_when_there_is_room(self):
        heard, room = [], [False]

        def full() -> Book:
            book = writer(self.path)()
            if not room[0]:
                pages = book.connection.execute("PRAGMA page_count").fetchone()[0]
                book.connection.execute(f"PRAGMA max_page_count = {pages}")
            return book

        with mock.patch("long_ember.storage.keeper._AGAIN", 0.05):
            keeper = Keeper(full, heard.append)
            for name in ("first", "second", "third"):
                piece = replace(read_piece(demo_files()[0]), name=name, note="x" * 20_000)
                keeper.put(Change(f"piece/{name}", lambda book, n=name, p=piece: book.put_piece(n, p), piece))
                keeper.flush(2)
            end = time.monotonic() + 20
            while "the disk is full" not in keeper.trouble + " ".join(keeper.aside) and time.monotonic() < end:
                time.sleep(0.01)
            self.assertIn("the disk is full", keeper.trouble + " ".join(keeper.aside))
            self.assertEqual(keeper.waiting("piece/third").name, "third")  # nothing is lost meanwhile
            room[0] = True
            keeper.flush(0.01)
            while not keeper.idle:
                time.sleep(0.02)
            self.assertTrue(keeper.close())
        self.assertEqual(self.names(), ["first", "second", "third"])
        self.assertTrue(heard[0] and not heard[-1])

    def test_what_can_not_be_written_does_not_hold_up_the_rest(self):
        heard, settled = [], []
        keeper = Keeper(writer(self.path), heard.append)
        orphan = lambda book: book.put_revision("r", "no such piece", "x", Piece())  # noqa: E731
        keeper.put(Change("orphan", orphan, title="The state 'x'", settled=settled.append))
        keeper.put(Change("piece/p", lambda book: book.put_piece("p", Piece(name="Here"))))
        self.assertFalse(keeper.close())
        self.assertIn("The state 'x' could not be kept", heard[-1])
        self.assertEqual(len(settled), 1)
        self.assertEqual(self.names(), ["Here"])


class Opening(BookCase):
    def test_a_damaged_book_is_set_aside_and_the_newest_good_backup_opened(self):
        self.filled()
        opened = open_book(self.path)
        back_up(opened.reader().connection, self.path, "rolling", when=time.time() - 7200)
        opened.reader().put_piece("later", Piece(name="Made after the backup"))
        back_up(opened.reader().connection, self.path, "rolling")
        opened.close()
        newest = backups(self.path)[0].path
        newest.write_bytes(newest.read_bytes()[:9000])  # the newest copy is of no use
        self.flip(b'"name": "Door pull"')
        before = self.path.read_bytes()
        opened = open_book(self.path)
        told = " ".join(opened.notices)
        self.assertEqual(len(opened.reader().entries()), 9)
        self.assertIn("Door pull", told)
        self.assertIn("set aside, untouched", told)
        self.assertIn("9 pieces can still be read", told)
        self.assertEqual(opened.aside.read_bytes(), before)
        self.assertIn("later", salvaged(opened.aside))
        opened.close()
        self.assertEqual(open_book(self.path).notices, [])

    def test_every_kind_of_damage_ends_with_a_book_that_works(self):
        self.filled()
        whole = self.path.read_bytes()
        for at in (0, 20, 60, 70, 100, 4096, 5000, len(whole) // 2, len(whole) - 100):
            for raw in (whole[:at] + b"\xa5" * 64 + whole[at + 64 :], whole[:at]):
                for old in self.path.parent.glob("*.ember*"):
                    old.unlink()
                self.path.write_bytes(raw)
                with self.subTest(at=at, cut=len(raw) < len(whole)):
                    opened = open_book(self.path)
                    self.assertEqual(integrity_problem(opened.reader().connection), "")
                    if opened.aside is not None:
                        self.assertEqual(opened.aside.read_bytes(), raw)
                        self.assertTrue(opened.notices)
                    elif not opened.fresh and not opened.read_only:
                        self.assertEqual(opened.reader().count(), 9)
                    opened.close()

    def test_a_file_that_is_no_book_is_left_alone(self):
        other = self.folder / "letters.ember"
        other.write_text("Dear customer,\n" * 100)
        with self.assertRaises(BookError):
            open_book(other)
        self.assertTrue(other.read_text().startswith("Dear customer"))
        with contextlib.closing(sqlite3.connect(self.folder / "x.ember")) as stranger:
            stranger.execute("CREATE TABLE t (a)")
        raw = (self.folder / "x.ember").read_bytes()
        with contextlib.suppress(EmberError):
            opened = open_book(self.folder / "x.ember")
            self.assertIsNotNone(opened.aside)
            raw_now = opened.aside.read_bytes()
            opened.close()
            self.assertEqual(raw_now, raw)

    def test_a_second_window_looks_and_says_why(self):
        self.filled()
        first = open_book(self.path)
        second = open_book(self.path)
        self.assertEqual((first.read_only, second.reader().count()), ("", 9))
        self.assertIn(f"process {os.getpid()}", second.read_only)
        with self.assertRaises(sqlite3.OperationalError):
            second.reader().put_piece("x", Piece())
        first.reader().put_piece("new", Piece(name="New"))
        self.assertEqual(second.reader().count(), 10)  # it sees what the first one does
        first.close()
        second.close()
        third = open_book(self.path)
        self.assertEqual(third.read_only, "")
        third.close()

    def test_a_newer_book_is_looked_at_and_not_touched(self):
        self.filled()
        with contextlib.closing(sqlite3.connect(self.path)) as connection:
            connection.execute(f"PRAGMA user_version = {BOOK_VERSION + 1}")
        opened = open_book(self.path)
        self.assertIn("newer Long Ember", opened.read_only)
        self.assertEqual(opened.reader().count(), 9)
        opened.close()
        self.assertEqual(backups(self.path), ())

    def test_books_of_every_past_version_are_brought_up_to_date_with_a_copy_from_before(self):
        for version in range(1, BOOK_VERSION):
            with self.subTest(version):
                path = self.folder / f"old-{version}.ember"
                with contextlib.closing(sqlite3.connect(path)) as connection:
                    connection.executescript((HERE / "fixtures" / f"book-{version}.sql").read_text(encoding="utf-8"))
                opened = open_book(path)
                self.assertIn(f"from version {version} to {BOOK_VERSION}", opened.notices[0])
                self.assertEqual(opened.reader().check(), ())
                entry = next(e for e in opened.reader().entries() if e.name == "Coat hook")
                document = Document(opened.reader().piece(entry.id), opened.reader().history(entry.id))
                self.assertEqual((entry.name, entry.tags, document.piece.bar), ("Coat hook", ("hall", "iron"), square(10)))
                document.undo()
                self.assertEqual(document.piece.bar, square(12))
                self.assertEqual([r.name for r in opened.reader().revisions(entry.id)], ["first try"])
                opened.close()
                (copy,) = backups(path)
                self.assertEqual(copy.why, f"before-version-{BOOK_VERSION}")
                with contextlib.closing(looking(copy.path)) as connection:
                    self.assertEqual(connection.execute("PRAGMA user_version").fetchone()[0], version)

    def test_a_kit_of_version_4_holds_what_had_no_tick_of_its_own(self):
        path = self.folder / "four.ember"
        with contextlib.closing(sqlite3.connect(path)) as connection:
            connection.executescript((HERE / "fixtures" / "book-4.sql").read_text(encoding="utf-8"))
        opened = open_book(path)
        self.assertEqual(set(opened.reader().shop.kit), {"horn", "vice", "welder", "headers", "grip", "hole", "monkey", "grinder"})
        opened.close()

    def test_words_of_version_3_that_meant_yes_or_a_day_are_kept_as_such(self):
        path = self.folder / "three.ember"
        with contextlib.closing(sqlite3.connect(path)) as connection:
            connection.executescript((HERE / "fixtures" / "book-3.sql").read_text(encoding="utf-8"))
            connection.execute("UPDATE record SET body = replace(body, 'Door', 'Doom') WHERE id = 'j2'")
            connection.commit()  # damaged: its sum no longer fits
        opened = open_book(path)
        book = opened.reader()
        gate, (bar,) = book.records(Job)["j1"], book.records(SavedCutList)["c1"].bars
        self.assertEqual((gate.due, gate.note), (None, "Due before the spring tides. For the north wall"))
        self.assertEqual((bar.locked, [(c.held, c.sawn) for c in bar.cuts]), (True, [(False, True), (True, False)]))
        self.assertEqual([p.sold for p in book.records(Price).values()], [False, True])
        self.assertEqual(
            [(e.day, e.note) for e in book.records(LogEntry).values()], [(date(2026, 11, 2), ""), (None, "Forged Tuesday. short")]
        )
        self.assertEqual((book.shop.striker, [r.apart for r in book.shop.rules]), (True, [True, False]))
        self.assertEqual(book.piece("1eaf").features[0].widths, (8.0, 18.5, 24.0, 16.0))
        self.assertIn("j2", " ".join(book.check()))
        opened.close()

    @unittest.skipIf(os.geteuid() == 0 and not Path("/proc/self").exists(), "needs rights to be refused")
    def test_a_folder_that_refuses_is_told_and_work_goes_on(self):
        def refuse(*_arguments: object, **_more: object) -> int:
            raise PermissionError(13, "Permission denied")

        with mock.patch("long_ember.storage.lock.os.open", refuse):
            opened = open_book(self.path)
        self.assertEqual((opened.book, opened.read_only), (None, ""))
        self.assertIn("kept as soon as it can be", opened.notices[0])
        opened.close()


class Backups(BookCase):
    @given(st.lists(st.integers(0, 60 * 24 * 60), min_size=1, max_size=120, unique=True))
    def test_thinning_keeps_the_newest_and_one_of_each_recent_hour_day_and_week(self, minutes):
        now = 1.8e9
        found = [Backup(Path(f"/{m}"), now - m * 60, "rolling", 1) for m in minutes]
        gone = set(thinned(sorted(found, key=lambda b: -b.made)))
        kept = [b for b in found if b not in gone]
        self.assertIn(max(found, key=lambda b: b.made), kept)
        self.assertLessEqual(len(kept), 12 + 14 + 8 + 6)
        for span, number in ((3600, 11), (86400, 13), (604800, 7)):
            slots = {b.made // span for b in found if now - b.made < span * number}
            self.assertLessEqual(slots, {b.made // span for b in kept})

    def test_a_copy_is_whole_and_can_be_put_back(self):
        self.filled()
        opened = open_book(self.path)
        copy = back_up(opened.reader().connection, self.path, "by-hand")
        opened.reader().remove_piece("door-pull")
        opened.close()
        put_back(copy, self.path)
        self.assertEqual(len(self.names()), 9)
        with self.assertRaises(SaveError):
            put_back(self.folder / "missing.ember", self.path)
        self.assertEqual(len(self.names()), 9)


def words(most):
    """Text as it is kept: what no file can hold is cleaned on the way in."""
    return st.text(st.characters(exclude_categories=("Cc", "Cs", "Zl", "Zp")), max_size=most)


SCHEMA = jsonschema.Draft202012Validator(book_schema())
KITS = st.lists(st.sampled_from(sorted(KIT)), unique=True).map(tuple)
SMITHS = st.builds(Smith, name=words(9), hammer=st.floats(0.2, 200), tempo=st.floats(10, 400))
SHOPS = st.builds(
    Shop, name=words(20), unit=st.sampled_from(["mm", "in"]), ruler=upto(50), scale=st.floats(0, 0.2),
    hot_length=st.floats(20.1, 900), kit=KITS, smiths=st.lists(SMITHS, max_size=3).map(tuple),
)  # fmt: skip


class ShopOfTheBook(BookCase):
    @given(SHOPS)
    def test_any_shop_comes_back_and_fits_the_schema(self, shop):
        text = parcel_text(Parcel(shop=shop))
        (self.folder / "shop.json").write_text(text, encoding="utf-8")
        self.assertEqual(read_parcel_file(self.folder / "shop.json").shop, shop)
        SCHEMA.validate(json.loads(text))
        self.assertGreater(shop.division, 0)

    @given(
        SHOPS,
        st.sampled_from(["name", "unit", "scale", "kit", "smiths", "hot_length"]),
        st.sampled_from([None, [], {}, -1, "x", [1], True]),
    )
    def test_a_damaged_shop_is_refused_by_its_path_and_by_the_schema(self, shop, key, junk):
        data = json.loads(parcel_text(Parcel(shop=shop)))
        data["shop"][key] = junk
        (self.folder / "shop.json").write_text(json.dumps(data), encoding="utf-8")
        try:
            SCHEMA.validate(data)
        except jsonschema.ValidationError:
            with self.assertRaises(PieceFileError) as caught:
                read_parcel_file(self.folder / "shop.json")
            self.assertIn(f"$.shop.{key}", str(caught.exception))
        else:
            self.assertEqual(
                getattr(read_parcel_file(self.folder / "shop.json").shop, key), tuple(junk) if isinstance(junk, list) else junk
            )

    def test_it_is_kept_and_decides_the_heats(self):
        book = writer(self.path)()
        self.assertIsNone(book.shop)
        for key, (_title, _words, shop) in STARTING.items():
            book.put_shop(shop)
            with self.subTest(key):
                self.assertEqual(book.shop, shop)
        book.put_fact("shop", '{"name": "Half", "unit": "in"}')  # of a version with fewer settings
        self.assertEqual((book.shop.name, book.shop.unit, book.shop.kit), ("Half", "in", tuple(KIT)))
        book.close()
        from long_ember.document import answer

        piece = read_piece(demo_files()[0])
        yard, coal = (answer(piece, forge=STARTING[k][2].forge).plan for k in ("yard", "coal"))
        self.assertGreater(yard.count, coal.count)
        self.assertEqual(Shop(unit="in", denominator="32").division, 25.4 / 32)
        self.assertEqual(missing_tools(("hammer", "header or vice", "drill"), ("headers",)), ("drill",))

    def test_records_keep_their_order_and_damage_is_named(self):
        book = writer(self.path)()
        items = {f"r{i}": RackItem(count=i) for i in (3, 1, 2)}
        for identity, item in items.items():
            book.put_record(identity, item)
            time.sleep(0.002)
        book.put_record("r3", replace(items["r3"], place="floor"))
        self.assertEqual(list(book.records(RackItem)), ["r3", "r1", "r2"])
        book.connection.execute("UPDATE record SET body = replace(body, '\"count\": 1', '\"count\": 7')")
        book = Book(book.connection, self.path)  # the one before has read it while it was whole
        self.assertEqual((list(book.records(RackItem)), len(book.check())), (["r3", "r2"], 1))
        book.close()


if __name__ == "__main__":
    random.seed(0)
    unittest.main()
