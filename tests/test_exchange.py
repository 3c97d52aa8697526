"""What goes out and comes in: whole, matched, never overwriting unasked; hostile files refused quickly and named."""

import contextlib
import errno
import io
import json
import os
import sqlite3
import stat
import subprocess
import sys
import tempfile
import time
import unittest
import zipfile
from dataclasses import replace
from datetime import date
from pathlib import Path
from unittest import mock

from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from long_ember.cli import main
from long_ember.demo import demo_files, demo_parcel
from long_ember.errors import BookError, EmberError, NoAnswer, PieceFileError
from long_ember.fields import typed_change
from long_ember.records import RECORDS, Assembly, CutPiece, Fitting, Job, JobLine, JobRef, Price, RackItem, SavedBar, SavedCutList, Start
from long_ember.sections import flat, round_, square
from long_ember.storage import (
    Book,
    Change,
    Keeper,
    Parcel,
    PieceItem,
    back_up,
    bring_in,
    look_over,
    looked_at,
    open_book,
    pack,
    parcel_text,
    parcel_zip,
    read_parcel_file,
    read_photo,
    read_piece,
    read_table,
    record_parcel,
    table_csv,
    writer,
)  # fmt: skip
from long_ember.storage.database import looking, transaction
from long_ember.storage.parcel import PARCEL_FORMAT, PARCEL_VERSION, Past
from long_ember.storage.photos import photo_from_bytes
from long_ember.storage.trace_file import curves_of
from long_ember.units import Measure
from tests.test_book import SCHEMA, BookCase

MM, INCH = Measure("mm"), Measure("in", 32)


def picture(width: int = 60, height: int = 40, kind: str = "JPEG", **more: object) -> bytes:
    target = io.BytesIO()
    Image.new("RGB", (width, height), "#884422").save(target, kind, **more)
    return target.getvalue()


class Exchange(BookCase):
    def setUp(self):
        super().setUp()
        self.filled()
        opened = open_book(self.path)
        opened.reader().put_photo(photo_from_bytes(picture(), "ring.jpg", "mooring-ring"))
        opened.reader().put_revision("r", "door-pull", "as ordered", read_piece(demo_files()[2]))
        opened.close()
        self.opened = open_book(self.path)
        self.addCleanup(self.opened.close)
        self.book = self.opened.reader()

    def whole(self, **more: bool) -> Parcel:
        return pack(self.book, None, RECORDS, shop=True, **more)

    def sent(self, content: str | bytes, name: str) -> Parcel:
        path = self.folder / name
        path.write_bytes(content if isinstance(content, bytes) else content.encode())
        return read_parcel_file(path)

    def verdicts(self, parcel: Parcel) -> dict[str, int]:
        found = [a.verdict for a in look_over(self.book, parcel, MM)]
        return {v: found.count(v) for v in set(found)}

    def test_the_whole_book_comes_back_with_its_pictures(self):
        parcel = self.whole(photos=True)
        back = self.sent(parcel_zip(parcel), "whole.zip")
        self.assertEqual(back, replace(parcel, pieces=back.pieces))
        plain = [replace(i, photos=()) for i in parcel.pieces]
        self.assertEqual([replace(i, photos=()) for i in back.pieces], plain)
        (photo,) = [p for i in back.pieces for p in i.photos]
        self.assertEqual(photo.data, next(p.data for i in parcel.pieces for p in i.photos))
        self.assertEqual([replace(i, photos=()) for i in self.sent(parcel_text(parcel), "whole.json").pieces], plain)
        self.assertEqual(self.verdicts(back), {"same": len(look_over(self.book, back, MM))})
        SCHEMA.validate(json.loads(parcel_text(parcel)))

    def test_a_job_takes_its_pieces_along_and_keeps_them_apart_from_others(self):
        parcel = self.sent(parcel_text(record_parcel(self.book, "job", "job-2")), "job.json")
        self.assertEqual([i.id for i in parcel.pieces], ["mooring-ring", "mooring-staple"])
        changed = replace(parcel, pieces=tuple(replace(i, piece=replace(i.piece, note="other")) for i in parcel.pieces))
        found = look_over(self.book, changed, MM)
        self.assertEqual([(a.what, a.verdict, a.choices[0]) for a in found], [("piece", "differs", "copy")] * 2 + [("job", "same", "skip")])
        made = bring_in(self.book, found, {"job/job-2": "copy"})
        self.assertEqual(self.book.piece("mooring-ring").note, read_piece(demo_files()[3]).note)  # nothing overwritten
        job = list(self.book.records(Job).values())[-1]
        self.assertEqual({line.piece for line in job.lines}, set(made))

    def test_an_assembly_takes_its_parts_along_under_whatever_ids_they_get(self):
        parcel = self.sent(parcel_text(record_parcel(self.book, "assembly", "assembly-1")), "assembly.json")
        self.assertEqual([i.id for i in parcel.pieces], ["lantern-bracket", "back-plate"])
        ((identity, record),) = parcel.records
        changed = replace(parcel, records=((identity, replace(record, handle="ash")),))
        found = look_over(self.book, changed, MM)
        self.assertEqual([(a.what, a.verdict) for a in found], [("piece", "same")] * 2 + [("assembly", "differs")])
        self.assertIn("handle", found[-1].said[0])
        made = bring_in(self.book, found, {"piece/back-plate": "copy", "assembly/assembly-1": "copy"})
        copy = list(self.book.records(Assembly).values())[-1]
        self.assertEqual([p.piece for p in copy.parts], ["lantern-bracket", *made])
        self.assertEqual(self.book.records(Assembly)["assembly-1"].handle, "none")  # the other one stays as it was
        self.assertEqual(copy.joins, record.joins)

    def test_what_older_versions_wrote_is_whole(self):
        text = json.loads(parcel_text(self.whole()))
        del text["assemblies"]
        for row in text["prices"]:
            row.pop("sold", None)
        back = self.sent(json.dumps(text), "older.json")
        self.assertEqual([r for _i, r in back.records if isinstance(r, Price)], list(self.book.records(Price).values()))
        self.assertNotIn("assemblies", json.loads(parcel_text(Parcel())))
        SCHEMA.validate(text)

    def test_replacing_is_a_step_that_can_be_taken_back(self):
        before = self.book.piece("door-pull")
        item = PieceItem("door-pull", replace(before, name="Pull, longer"), past=(Past("sent", 1.7e9, before),))
        found = look_over(self.book, Parcel((item,)), MM)
        self.assertIn("cut", found[0].said[-1])
        bring_in(self.book, found, {"piece/door-pull": "replace"})
        self.assertEqual(self.book.piece("door-pull").name, "Pull, longer")
        self.assertEqual(self.book.history("door-pull").steps[-1].edit.before, before)
        self.assertEqual([r.name for r in self.book.revisions("door-pull")], ["as ordered", "sent"])

    def test_the_same_piece_under_another_id_is_known_again(self):
        alone = self.sent(demo_files()[1].read_text(encoding="utf-8"), "alone.json")
        self.assertEqual(self.verdicts(alone), {"same": 1})
        other = Parcel((PieceItem("new", replace(alone.pieces[0].piece, note="wider")),))
        (found,) = look_over(self.book, other, MM)
        self.assertEqual((found.verdict, len(found.said)), ("new", 1))

    def test_tables_come_back_in_either_unit(self):
        rows = tuple(self.book.records(RackItem).values())
        for measure in (MM, INCH):
            path = self.folder / "rack.csv"
            path.write_text(table_csv(rows, "rack", measure), encoding="utf-8", newline="")
            back = [r for _i, r in read_table(path, MM).records]
            self.assertEqual([replace(r, length=round(r.length, 3)) for r in back], list(rows))
        self.assertEqual({a.verdict for a in look_over(self.book, read_table(path, MM), MM)}, {"same"})
        path.write_text("section;length;count;where\n12 sq;3000;9;long arm\n", encoding="utf-8")
        (found,) = look_over(self.book, read_table(path, MM), MM)
        self.assertEqual((found.verdict, found.choices[0], found.said), ("differs", "skip", ("3 × 3000 mm here, 9 × 3000 mm there.",)))
        bring_in(self.book, [found], {found.key: "replace"})
        self.assertEqual(self.book.records(RackItem)["rack-1"].count, 9)

    def test_copies_speak_of_the_copies(self):
        sheet = SavedCutList(
            jobs=(JobRef(job="job-1"),),
            bars=(SavedBar(rack="rack-1", cuts=(CutPiece(piece="oar-cradle", job="job-1", name="Oar cradle", length=420.0),)),),
        )
        parcel = replace(demo_parcel(), records=(*demo_parcel().records, ("sheet", sheet)), shop=None)
        found = look_over(self.book, parcel, MM)
        bring_in(self.book, found, {})
        before = {kind: self.book.records(RECORDS[kind]) for kind in ("job", "assembly", "cuts", "rack")}
        again = look_over(self.book, parcel, MM)
        self.assertEqual({a.verdict for a in again}, {"same"})
        bring_in(self.book, again, {"job/job-1": "copy", "assembly/assembly-1": "copy", "cuts/sheet": "copy", "rack/rack-1": "copy"})
        fresh = {kind: {i: r for i, r in self.book.records(RECORDS[kind]).items() if i not in before[kind]} for kind in before}
        self.assertEqual({kind: len(rows) for kind, rows in fresh.items()}, {"job": 1, "assembly": 1, "cuts": 1, "rack": 1})
        ((job_id, job),), ((assembly_id, _a),), ((_s, made),), ((rack_id, _r),) = (
            fresh[k].items() for k in ("job", "assembly", "cuts", "rack")
        )
        self.assertEqual(job.sets[0].assembly, assembly_id)
        self.assertEqual(
            (made.jobs[0].job, made.bars[0].rack, made.bars[0].cuts[0].job, made.bars[0].cuts[0].piece),
            (job_id, rack_id, job_id, "oar-cradle"),
        )

    @given(st.data())
    def test_the_one_typed_entry_in_which_two_jobs_differ_is_found(self, data):
        job = Job(
            lines=tuple(JobLine(piece=f"p{i}", quantity=i + 1) for i in range(data.draw(st.integers(1, 3)))),
            fittings=(Fitting(name="Screw"),),
        )
        self.assertEqual(typed_change(job, job), "")
        at = data.draw(st.integers(0, len(job.lines) - 1))
        lines = list(job.lines)
        lines[at] = replace(lines[at], quantity=77)
        for changed, path in (
            (replace(job, lines=tuple(lines)), f"lines[{at}].quantity"), (replace(job, due=date(2027, 5, 1)), "due"), (replace(job, state="done"), ""),
            (replace(job, lines=job.lines[:-1]), ""), (replace(job, lines=tuple(lines), due=date(2027, 5, 1)), ""),
            (replace(job, lines=tuple(replace(line, quantity=99) for line in job.lines)), "" if len(job.lines) > 1 else "lines[0].quantity"),
        ):  # fmt: skip
            self.assertEqual(typed_change(job, changed), path)

    def test_a_job_goes_out_with_its_assemblies_and_all_their_pieces(self):
        parcel = record_parcel(self.book, "job", "job-1")
        self.assertEqual({i for i, _r in parcel.records}, {"job-1", "assembly-1"})
        self.assertEqual({item.id for item in parcel.pieces}, {"oar-cradle", "lantern-bracket", "back-plate"})


class Tables(unittest.TestCase):
    def read(self, content: str | bytes, measure: Measure = MM) -> list[RackItem | Price]:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "t.csv"
            path.write_bytes(content if isinstance(content, bytes) else content.encode("utf-8"))
            return [r for _i, r in read_table(path, measure).records]

    def faults(self, content: str) -> list[str]:
        with self.assertRaises(PieceFileError) as caught:
            self.read(content)
        return [str(p) for p in caught.exception.problems]

    def test_what_spreadsheets_make_of_it(self):
        bar = RackItem(section=square(12), length=3000, count=2)
        cases = {
            "plain": "section,length (mm),count\n12 sq,3000,2\n",
            "a BOM, other order, semicolons": "\ufeffQty;Length [m];Bar\r\n2;3;12 sq\r\n",
            "decimal commas": "Section;Length mm;Count\n12 sq;3000,0;2\n",
            "tabs": "section\tlength\tqty\n12 mm square\t3000 mm\t2\n",
            "quoted, padded, empty lines": '\n"section" , "length" , "count"\n\n" 12 sq ","3000","2"\n,,\n',
            "thousands with a decimal comma": "section;length;count\n12 sq;3.000,0;2\n",
            "a column nobody knows": "supplier ref,section,length,count\nA1,12 sq,3000,2\n",
            "cm in the head": "section,length_cm,count\n12 sq,300,2\n",
        }
        for name, text in cases.items():
            with self.subTest(name):
                self.assertEqual(self.read(text), [bar])
        self.assertEqual(self.read("section,length,count\n12 sq,3000,2\n".encode("utf-16")), [bar])
        inch = self.read('section,length (in),price,dealer\n"1/2 rd",240,9.5,Quay\n', INCH)
        self.assertEqual(inch, [Price(section=round_(12.7), length=6096.0, price=9.5, seller="Quay")])
        self.assertEqual(self.read("bar;length;cost\n25x6 flat;6000;1.234,50\n"), [Price(section=flat(25, 6), length=6000, price=1234.5)])
        self.assertEqual(self.read("section;length;place\n12 sq;3000;Türe\n".encode("cp1252"))[0].place, "Türe")

    def test_refused_by_line_and_column(self):
        for text, words in {
            "": "is empty",
            "a,b\n1,2\n": "no column is called 'section' or 'length'. Seen, and not understood: a, b",
            "section,section,length\n": "second column for the section",
            "section,length\n12 sq,\n": "line 2, column 'length': is empty",
            "section,length\n12 sq,3000\n12 blue,10\n": "line 3, column 'section'",
            "section,length\n12 sq,0\n": "more than 0 mm",
            "section;length;price\n12 sq;3000;1,5\n12 sq;3.000;2\n": "line 3, column 'length': '3.000': a point could be",
            'section,length,price\n12 sq,3000,"1,500"\n12 sq,3000,2\n': "column 'price'",
            "section,length,count\n12 sq,3000,2.5\n": "whole number",
            "section,length,material\n12 sq,3000,cheese\n": "is none of Mild steel",
        }.items():
            with self.subTest(text):
                self.assertIn(words, "; ".join(self.faults(text)))
        self.assertLessEqual(len(self.faults("section,length\n" + "x,y\n" * 5000)), 33)

    @given(
        st.text(max_size=200)
        | st.lists(st.sampled_from(["section", "length", "12 sq", "3000", ",", ";", "\n", '"', "1,5", "\0", "price"])).map("".join)
    )
    @settings(max_examples=150)
    def test_anything_else_is_read_or_explained(self, text):
        with contextlib.suppress(PieceFileError):
            self.read(text.encode("utf-8", "surrogatepass"))


class Photos(unittest.TestCase):
    def test_made_small_turned_and_stripped(self):
        exif = Image.Exif()
        exif[0x0112], exif[0x8825] = 6, {1: "N"}  # lies on its side, and tells where it was taken
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "big.jpg"
            path.write_bytes(picture(3000, 2000, exif=exif))
            photo = read_photo(path, "p")
        with Image.open(io.BytesIO(photo.data)) as kept, Image.open(io.BytesIO(photo.thumb)) as small:
            self.assertEqual((kept.size, (photo.width, photo.height)), ((1067, 1600), (1067, 1600)))
            self.assertEqual((max(small.size), dict(kept.getexif())), (240, {}))
        self.assertEqual(photo_from_bytes(photo.data, "x", "p").data, photo.data)  # not pressed again on the way through a ZIP

    def test_what_is_no_picture_is_refused(self):
        with self.assertRaises(PieceFileError):
            photo_from_bytes(b"GIF89a" + b"\0" * 40, "x.gif", "p")
        bomb = io.BytesIO()
        Image.new("1", (30_000, 30_000)).save(bomb, "PNG")
        with self.assertRaises(PieceFileError) as caught:
            photo_from_bytes(bomb.getvalue(), "x.png", "p")
        self.assertIn("pixels", str(caught.exception))


def archive(files: dict[str, bytes], **more: object) -> bytes:
    target = io.BytesIO()
    with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED, **{"compresslevel": 1, **more}) as made:
        for name, content in files.items():
            made.writestr(name, content)
    return target.getvalue()


def drawn(path: Path, kind: str) -> None:
    """A drawing as the process that reads it does."""
    with contextlib.suppress(ValueError):
        curves_of(path.read_bytes(), kind)


class Hostile(BookCase):
    """Every reader, with bytes flipped and with what was made to hurt."""

    @classmethod
    def setUpClass(cls) -> None:
        cls.readers = cls.made()

    @staticmethod
    def made() -> dict[str, tuple[bytes, object]]:
        whole = parcel_zip(replace(demo_parcel(), pieces=demo_parcel().pieces[:2]))
        svg = b'<svg xmlns="http://www.w3.org/2000/svg" width="90mm" height="90mm" viewBox="0 0 90 90"><path d="M5 5 L60 5 A20 20 0 0 1 60 45"/></svg>'
        dxf = b"0\nSECTION\n2\nENTITIES\n0\nLINE\n8\n0\n10\n0.0\n20\n0.0\n11\n50.0\n21\n10.0\n0\nENDSEC\n0\nEOF\n"
        return {
            "piece.json": (demo_files()[0].read_bytes(), read_piece),
            "parcel.json": (parcel_text(replace(demo_parcel(), pieces=demo_parcel().pieces[:1])).encode(), read_parcel_file),
            "parcel.zip": (whole, read_parcel_file),
            "rack.csv": (b"section;length (mm);count\n12 sq;3000,5;2\n", lambda p: read_table(p, MM)),
            "photo.jpg": (picture(), lambda p: read_photo(p, "x")),
            "curve.svg": (svg, lambda p: drawn(p, ".svg")),
            "curve.dxf": (dxf, lambda p: drawn(p, ".dxf")),
        }

    def test_too_many_parts_are_refused_before_they_are_read(self):
        piece = json.loads(demo_files()[0].read_bytes())
        head = f'{{"format": "{PARCEL_FORMAT}", "version": {PARCEL_VERSION}, "pieces": ['
        many = {
            "lists.json": head + ",".join(["[]"] * 11_000_000) + "]}",
            "deep.json": "[" * 30_000_000,
            "alike.json": json.dumps({**piece, "features": [piece["features"][0]] * 20_000}),
            "other.json": json.dumps({**piece, "features": [{**piece["features"][0], "id": f"x{i}"} for i in range(20_000)]}),
        }
        path = self.folder / "many.json"
        for name, text in many.items():
            path.write_text(text, encoding="utf-8")
            began = time.process_time()
            with self.subTest(name), self.assertRaisesRegex(PieceFileError, r"\d,\d\d\d lists and objects|are 20,000, and at most 2,000"):
                read_parcel_file(path)
            self.assertLess(time.process_time() - began, 2.0, name)

    def test_what_is_large_and_right_tells_how_far_it_is_and_can_be_left(self):
        data = json.loads(parcel_text(demo_parcel()))
        data["pieces"] = [{**data["pieces"][0], "id": f"p{i}", "photos": []} for i in range(200)]
        path, told = self.folder / "large.json", []
        path.write_text(json.dumps(data), encoding="utf-8")
        self.assertEqual(len(read_parcel_file(path, lambda at, of: told.append((at, of))).pieces), 200)
        self.assertGreater(len(told), 8)
        self.assertTrue(all(at < of for at, of in told))
        with self.assertRaises(InterruptedError):
            read_parcel_file(path, mock.Mock(side_effect=InterruptedError))

    def test_formulas_of_starts_know_numbers_and_the_listed_operators_only(self):
        for good in ("2*t", "min(4*t, 0.6*leg)", "-t + (w/2)**2", "sqrt(t) + 1.5"):
            self.assertEqual(Start(line=f"run {{{good}}}").line, f"run {{{good}}}")
        for bad in ("'a'", "t % 2", "1 if t else 2", "1; 2", "t == 2", "[1]", "t.real", "open(t)", "lambda: 1", "True", "1" * 300):
            with self.subTest(bad), self.assertRaises(NoAnswer):
                Start(line=f"run {{{bad}}}")

    def test_a_book_with_a_column_of_somebody_elses_is_left_alone(self):
        self.filled()
        with contextlib.closing(sqlite3.connect(self.path)) as connection:
            connection.execute("ALTER TABLE piece ADD COLUMN extra TEXT DEFAULT 'x'")
            connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        before = self.path.read_bytes()
        for words in (["list"], ["check"], ["backup"], ["import", str(demo_files()[0])], ["export", "--to", str(self.folder / "o.json")]):
            with contextlib.redirect_stderr(io.StringIO()), contextlib.redirect_stdout(io.StringIO()):
                self.assertNotEqual(main([words[0], "--book", str(self.path), *words[1:]], window=mock.Mock()), 0, words)
        with self.assertRaises(BookError):
            open_book(self.path)
        self.assertEqual(self.path.read_bytes(), before)
        self.assertEqual(list(self.path.parent.glob("*damaged*")), [])

    def test_the_folder_of_the_copies_is_for_its_owner_only(self):
        old = os.umask(0o022)
        self.addCleanup(os.umask, old)
        self.filled()
        with contextlib.closing(looking(self.path)) as connection:
            back_up(connection, self.path, "by-hand")
        for folder in (self.path.parent / "backups", self.path.parent / "backups" / self.path.stem):
            self.assertEqual(stat.S_IMODE(folder.stat().st_mode), 0o700, folder)

    def test_a_full_disk_during_an_import_is_told_and_the_book_is_as_it_was(self):
        self.filled()
        keeper = Keeper(writer(self.path))
        before = self.names()
        full = OSError(errno.ENOSPC, "No space left on device")
        with mock.patch.object(Book, "put_body", side_effect=full):
            found = look_over(looked_at(self.path).reader(), demo_parcel(), MM)

            def bring(book: Book) -> None:
                with transaction(book.connection):
                    bring_in(book, found, {a.key: "copy" for a in found if "copy" in a.choices})

            keeper.put(Change("in", bring, title="What was to be brought in", alone=True))
            self.assertFalse(keeper.flush(2.0))
            self.assertRegex(
                keeper.trouble + " ".join(keeper.aside), "What was to be brought in could not be kept: the disk is full|the disk is full"
            )
        self.assertEqual(self.names(), before)
        self.assertTrue(keeper.flush(3.0))  # as soon as there is room
        self.assertTrue(keeper.close())
        self.assertGreater(len(self.names()), len(before))

    def tried(self, name: str, content: bytes, read: object) -> None:
        path = self.folder / "in" / name
        path.parent.mkdir(exist_ok=True)
        path.write_bytes(content)
        began = time.process_time()
        with contextlib.suppress(EmberError):
            read(path)  # type: ignore[operator]
        self.assertLess(time.process_time() - began, 2.0, name)

    @given(st.sampled_from(["piece.json", "parcel.json", "parcel.zip", "rack.csv", "photo.jpg", "curve.svg", "curve.dxf"]),
           st.lists(st.tuples(st.floats(0, 1), st.binary(min_size=1, max_size=4)), min_size=1, max_size=4))  # fmt: skip
    @settings(max_examples=120)
    def test_flipped_bytes_are_read_or_explained(self, name, flips):
        content, read = self.readers[name]
        raw = bytearray(content)
        for at, junk in flips:
            start = int(at * len(raw))
            raw[start : start + len(junk)] = junk
        self.tried(name, bytes(raw), read)

    @given(st.floats(0, 1), st.binary(min_size=1, max_size=64))
    @settings(max_examples=30)
    def test_a_book_with_flipped_bytes_opens_or_is_set_aside(self, at, junk):
        if not hasattr(self, "whole"):
            self.filled()
            type(self).whole = self.path.read_bytes()
        for old in self.path.parent.glob("*ember*"):
            old.unlink()
        self.path.parent.mkdir(exist_ok=True)
        raw = bytearray(self.whole)
        start = int(at * len(raw))
        raw[start : start + len(junk)] = junk
        self.path.write_bytes(raw)
        opened = open_book(self.path)
        if opened.book is not None and not opened.read_only:
            for entry in opened.book.entries():
                with contextlib.suppress(EmberError):
                    opened.book.piece(entry.id)
                entry.polygons()
            opened.book.records(Job)
        opened.close()

    def test_bombs_and_tricks_are_refused_by_name(self):
        good = parcel_text(Parcel()).encode()
        deep = b'{"format":"long-ember book","version":1,"pieces":' + b"[" * 200_000
        cases = {
            "points outside": archive({"book.json": good, "../../evil.txt": b"x"}),
            "points outside ": archive({"book.json": good, "/etc/evil": b"x"}),
            "points outside  ": archive({"book.json": good, "..\\evil": b"x"}),
            "no book.json": archive({"other.json": good}),
            "larger than 40 MB": archive({"book.json": b" " * 41_000_000}),
            "more than 400 MB": archive({"book.json": good, "photos/a.jpg": b"\0" * 410_000_000}),
            "more than 20000 files": archive({"book.json": good, **{f"f{i}": b"" for i in range(20001)}}),
            "can't be read as a ZIP": b"PK\3\4" + b"\0" * 100,
            "JSON": archive({"book.json": deep}),
        }
        before = sorted(self.folder.rglob("*"))
        for words, content in cases.items():
            path = Path(tempfile.mkdtemp(dir=self.folder)) / "x.zip"
            path.write_bytes(content)
            began = time.process_time()
            with self.subTest(words.strip()), self.assertRaises(PieceFileError) as caught:
                read_parcel_file(path)
            self.assertIn(words.strip(), str(caught.exception))
            self.assertLess(time.process_time() - began, 2.0)
            path.unlink()
            path.parent.rmdir()
        self.assertEqual(sorted(self.folder.rglob("*")), before)

    def test_a_directory_that_lies_about_sizes_is_not_believed(self):
        raw = archive({"book.json": b" " * 41_000_000})
        lie = raw.replace((41_000_000).to_bytes(4, "little"), (1000).to_bytes(4, "little"))
        (self.folder / "lie.zip").write_bytes(lie)
        with self.assertRaises(PieceFileError):
            read_parcel_file(self.folder / "lie.zip")

    def test_memory_stays_under_three_hundred_megabytes(self):
        (self.folder / "bomb.zip").write_bytes(archive({"book.json": b'{"a":' + b"[[]," * 4_000_000}))
        (self.folder / "wide.json").write_bytes(b'{"format":"long-ember book","version":1,"pieces":[' + b"0," * 3_000_000 + b"0]}")
        Image.new("L", (5400, 5400)).save(self.folder / "big.png")
        script = (
            "import sys\nfrom pathlib import Path\nfrom long_ember.errors import EmberError\n"
            "from long_ember.storage import read_parcel_file, read_photo\n"
            "for name in ('bomb.zip', 'wide.json', 'big.png'):\n"
            "    try:\n        (read_photo(Path(sys.argv[1]) / name, 'x') if name.endswith('png') else read_parcel_file(Path(sys.argv[1]) / name))\n"
            "    except EmberError as error:\n        assert len(str(error)) < 1e5\n"
            "print(next(line.split()[1] for line in open('/proc/self/status') if line.startswith('VmHWM')))"
        )
        run = subprocess.run([sys.executable, "-c", script, str(self.folder)], capture_output=True, text=True, timeout=60)
        self.assertEqual(run.returncode, 0, run.stderr)
        self.assertLess(int(run.stdout) / 1024, 300)
