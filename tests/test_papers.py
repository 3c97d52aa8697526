"""Papers: what is on them, that nothing is cut off, that their text is text and their lengths are lengths."""

import io
import math
import tempfile
import unittest
from dataclasses import replace
from itertools import pairwise
from pathlib import Path

import ezdxf
import numpy as np
import pdfplumber
from hypothesis import given, settings
from hypothesis import strategies as st

from long_ember.errors import NoAnswer, SaveError
from long_ember.export import drawing_dxf, drawing_svg
from long_ember.features import KINDS, Piece
from long_ember.fullsize import Drawing, DrawnHole, DrawnLine, Label, side_by_side
from long_ember.papers.flow import MARGIN, Flow, Masthead
from long_ember.papers.ink import PAPER_SIZES, Lettering, Page, Printed, Stroke, hatched, line
from long_ember.papers.kinds import PAPERS, paper_of, papers_for
from long_ember.papers.letters import fitted, width, wrapped
from long_ember.papers.pdf import pdf_bytes
from long_ember.papers.tiling import OVERLAP, on_one_sheet, tiled
from long_ember.papers.writing import write_paper
from long_ember.records import LogEntry, Reject
from long_ember.sections import square
from long_ember.storage import read_curves
from long_ember.units import Measure
from tests.paper_case import MM, demo_pieces, lines_of, printed_words, read_back, subject_of

HEAD = Masthead("Piece", "Test", "", "4 Dec 2026", Measure())
A4 = PAPER_SIZES["a4"]


class Whole(unittest.TestCase):
    def test_every_paper_of_every_demo_piece_stays_on_its_page(self):
        for name, piece in demo_pieces().items():
            for unit, size in (("mm", "a4"), ("in", "letter")):
                subject = subject_of(piece, unit)
                for paper in papers_for(subject):
                    with self.subTest(name, paper=paper.key, unit=unit):
                        try:
                            printed = paper.printed(subject, PAPER_SIZES[size].turned(paper.landscape), {})
                        except NoAnswer as error:
                            self.assertEqual(paper.key, "jig", error)  # nothing in it is bent
                            continue
                        self.on_the_page(printed)
                        self.assertIn("lengths in " + ("mm" if unit == "mm" else "inches"), printed_words(printed))

    def on_the_page(self, printed):
        for page in printed.pages:
            for one in page.ink:
                if isinstance(one, Lettering):
                    long = width(one.text, one.size, one.weight)
                    begin = one.x - (one.anchor + 1) / 2 * long
                    if not one.turn:
                        self.assertTrue(begin > 2 and begin + long < page.width - 2, one)
                    self.assertTrue(2 < one.y < page.height - 2, one)
                else:
                    low, high = one.points.min(axis=0), one.points.max(axis=0)
                    self.assertTrue(low.min() > 2 and high[0] < page.width - 2 and high[1] < page.height - 2, one)

    def test_text_is_text_and_the_document_says_what_it_is(self):
        subject = replace(subject_of(demo_pieces()["Lantern bracket"], "in"), state="as hung")
        pdf = pdf_bytes(PAPERS["heats"].printed(subject, A4, {}))
        texts, reader = read_back(pdf)
        whole = " ".join(texts)
        for words in ("Lantern bracket", "as hung", "4 Dec 2026", "1\u20442\u2033", "Twist 1 turn", "Fire:", "Check:"):
            self.assertIn(words, whole)
        self.assertRegex(whole, r"\d+ \d+\u2044\d+\u2033")
        self.assertEqual((reader.metadata.title, reader.root_object["/Lang"]), ("Lantern bracket: heat sheet", "en-GB"))
        self.assertIn("Heat 1", [mark.title for mark in reader.outline])
        self.assertEqual(reader.root_object["/ViewerPreferences"]["/PrintScaling"], "/None")
        ligatures = Printed("x", (Page(210, 297, (Lettering(20, 40, "office fluff 0123456789 2 3\u20444\u2033 214.5 mm ×", 12),)),))
        self.assertIn("office fluff 0123456789 2 3\u20444\u2033 214.5 mm ×", read_back(pdf_bytes(ligatures))[0][0])

    def test_words_in_the_file_are_as_wide_as_they_were_measured(self):
        told = ("1 3\u204416 − × 3\u20448\u2033 + flat", "17 heats, 111.1 mm", "office fluffy", "Hold: end B, 6 11\u204416\u2033 −")
        ink = tuple(
            Lettering(20, 20 + 10 * i, text, 11, weight) for i, (text, weight) in enumerate(zip(told, (400, 500, 600, 700), strict=True))
        )
        with pdfplumber.open(io.BytesIO(pdf_bytes(Printed("x", (Page(210, 297, ink),))))) as opened:
            letters = opened.pages[0].chars
        for one in ink:
            row = [c for c in letters if abs(c["bottom"] / MM - one.y) < 4]
            self.assertAlmostEqual((row[-1]["x1"] - row[0]["x0"]) / MM, width(one.text, one.size, one.weight), delta=0.03)
            self.assertEqual("".join(c["text"] for c in row), one.text)

    def test_the_check_bar_is_exact(self):
        for unit, long in (("mm", 50.0), ("in", 50.8)):
            pdf = pdf_bytes(PAPERS["cautions"].printed(subject_of(demo_pieces()["Door pull"], unit), A4, {}))
            bars = [x1 - x0 for x0, y0, x1, y1 in lines_of(pdf) if abs(y0 - y1) < 0.01 and y0 > 270]
            self.assertTrue(any(abs(bar - long) < 0.01 for bar in bars), bars)

    def test_heats_share_a_row_only_where_they_are_held_and_heated_alike(self):
        long = Piece(bar=square(20), features=(KINDS["taper"](id="t", length=500.0, tip=6.0), KINDS["run"](id="r", length=100.0)))
        for piece in (long, *demo_pieces().values()):
            subject = subject_of(piece)
            words = printed_words(PAPERS["heats"].printed(subject, A4, {}))
            self.assertNotIn("..", words)
            alone = {(h.work[0].step.key, h.fire, h.held) for h in subject.answer.plan.heats if len(h.work) == 1 and not h.cold}
            if len({key for key, _fire, _held in alone}) < len(alone):  # one operation, held by either end: no row tells one grip for both
                self.assertRegex(words, r"Parts? \d+ (to \d+ )?of \d+")

    def test_what_is_chosen_is_what_goes_on(self):
        subject = subject_of(demo_pieces()["Lantern bracket"])
        whole = printed_words(PAPERS["heats"].printed(subject, A4, {}))
        bare = printed_words(PAPERS["heats"].printed(subject, A4, {"facts": "no", "checks": "no", "room": "no"}))
        for words in ("Fire:", "Check:", "came out"):
            self.assertGreater(whole.count(words), bare.count(words))
        self.assertIn("Take care", bare)  # never left off
        for heat in subject.answer.plan.heats:
            for work in heat.work:
                told = work.step.operation.line.show(subject.measure)
                self.assertIn(" ".join(told.split()[:3]), bare)
        with self.assertRaisesRegex(NoAnswer, "set=all|least"):
            PAPERS["marks"].printed(subject, A4, {"set": "some"})
        with self.assertRaisesRegex(NoAnswer, "heats"):
            paper_of("heat")
        with self.assertRaises(NoAnswer):
            PAPERS["plan"].printed(replace(subject, answer=None), A4, {})
        least = PAPERS["marks"].printed(subject, A4, {"set": "least"})
        self.assertLess(len(printed_words(least)), len(printed_words(PAPERS["marks"].printed(subject, A4, {}))))
        log = (LogEntry(piece="x", good=1, heats=7, planned_heats=8, rejects=(Reject(cause="burnt", count=2),), note="slow fire"),)
        self.assertIn("2 burnt", printed_words(PAPERS["log"].printed(replace(subject, log=log), A4, {})))

    def test_the_card_says_what_it_is_not_for_and_how_its_finish_is_kept(self):
        piece = demo_pieces()["Lantern bracket"]
        for finish, words in (("wax", "Waxed"), ("zinc", "the fume poisons"), ("food", "No dishwasher")):
            told = replace(piece, planning=replace(piece.planning, finish=finish))
            card = printed_words(PAPERS["card"].printed(subject_of(told), A4, {}))
            self.assertIn(words, card)
            self.assertIn("hang over people", card)
            self.assertEqual("Not finished for food" in card, finish != "food")

    def test_files_that_can_not_be_written_and_kinds_that_there_are_not(self):
        subject = subject_of(demo_pieces()["Door pull"])
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        for name, error in (("none/x.pdf", SaveError), ("x.dxf", NoAnswer), ("x.png", NoAnswer)):
            with self.subTest(name), self.assertRaises(error):
                write_paper(folder / name, PAPERS["heats"], subject, A4, {})
        for kind in ("pdf", "svg", "dxf"):
            write_paper(folder / f"x.{kind}", PAPERS["templates"], subject, A4, {})
        self.assertEqual(len(list(folder.iterdir())), 3)


class Letters(unittest.TestCase):
    @given(st.text("abc fi123 ⁄″-\n", max_size=80), st.floats(8, 90), st.sampled_from((7.0, 10.0, 20.0)))
    def test_paragraphs_break_within_their_room_and_lose_nothing(self, text, room, size):
        lines = wrapped(text, room, size)
        self.assertEqual("".join(lines).replace(" ", ""), text.replace(" ", "").replace("\n", ""))
        for words in lines:
            self.assertTrue(width(words, size) <= room + 1e-9 or len(words) == 1)
        short = fitted(text, room, size)
        self.assertLessEqual(width(short, size), max(room, 0) + 1e-9)

    @settings(max_examples=40)
    @given(st.lists(st.floats(1, 330), min_size=1, max_size=25))
    def test_blocks_are_never_broken_and_keep_their_order(self, heights):
        flow = Flow(A4, HEAD)
        for n, height in enumerate(heights):
            block = flow.block()
            block.draw([line(0, 0, 0, height)], height=height)
            block.ink.append(Lettering(0, 0, f"block {n}", 8))
            flow.put(block)
        seen = []
        for page in flow.printed().pages:
            marks = [
                one
                for one in page.ink
                if isinstance(one, Stroke) and len(one.points) == 2 and one.points[0][0] == one.points[1][0] == MARGIN
            ]
            marks = [one for one in marks if one.points[1][1] < A4.height - MARGIN - 5]
            seen += [one.text for one in page.ink if isinstance(one, Lettering) and one.text.startswith("block")]
            spans = sorted(one.points[:, 1].tolist() for one in marks)
            for (_a, end), (start, _b) in pairwise(spans):
                self.assertLess(end, start)
        self.assertEqual(seen, [f"block {n}" for n in range(len(heights))])

    @given(st.integers(3, 9), st.floats(2, 60))
    def test_hatching_stays_inside(self, corners, radius):
        turn = np.arange(corners) * 2 * np.pi / corners
        outline = np.column_stack((50 + radius * np.cos(turn), 50 + radius * np.sin(turn)))
        for stroke in hatched(outline):
            self.assertLessEqual(np.hypot(*(stroke.points - 50).T).max(), radius + 1e-6)


class FullSize(unittest.TestCase):
    def square_drawing(self, long, high):
        edge = np.array([(0.0, 0.0), (long, 0.0), (long, high), (0.0, high)])
        return Drawing("Plate", "", (DrawnLine(edge, "CUT", True),), (DrawnHole(long / 2, high / 2, 10.0),), (Label(5, 5, "here"),))

    @settings(max_examples=25, deadline=None)
    @given(st.floats(20, 700), st.floats(20, 700), st.sampled_from(("a4", "letter", "a3")), st.booleans())
    def test_tiles_hold_all_of_a_drawing_and_register(self, long, high, paper, lying):
        drawing = self.square_drawing(long, high)
        size = PAPER_SIZES[paper].turned(lying)
        printed = tiled(drawing, size, HEAD)
        crosses: dict[str, list[tuple[float, float]]] = {}
        strokes = 0.0
        for page in printed.pages:
            names = [one for one in page.ink if isinstance(one, Lettering) and one.size == 6]
            for one in names:
                crosses.setdefault(one.text, []).append((one.x, one.y))
            strokes += sum(float(np.hypot(*np.diff(one.points, axis=0).T).sum()) for one in page.ink
                           if isinstance(one, Stroke) and one.wide == 0.35)  # fmt: skip
        # Every line is somewhere, what lies in an overlap twice and no more than four times.
        whole = 2 * (long + high) + math.pi * 10
        self.assertGreaterEqual(strokes, whole - 0.1)
        wide, deep = size.width - 2 * MARGIN, size.height - 2 * MARGIN - 18
        for places in crosses.values():
            for (x, y), (u, v) in pairwise(places):
                # The same place of the drawing on the next sheet: nearer by what one sheet is longer than the overlap.
                self.assertTrue(min(abs(abs(x - u) - (wide - OVERLAP)), abs(x - u)) < 1e-6)
                self.assertTrue(min(abs(abs(y - v) - (deep - OVERLAP)), abs(y - v)) < 1e-6)
        if len(printed.pages) > 1:
            self.assertTrue(any(len(p) > 1 for p in crosses.values()))

    def test_read_back_a_length_is_that_length(self):
        piece = Piece(bar=square(12), features=(KINDS["run"](id="a", length=150.0),), name="Bar")
        for unit in ("mm", "in"):
            pdf = pdf_bytes(PAPERS["templates"].printed(subject_of(piece, unit), A4, {"gauges": "no"}))
            level = [x1 - x0 for x0, y0, x1, y1 in lines_of(pdf) if abs(y0 - y1) < 0.01]
            upright = [abs(y1 - y0) for x0, y0, x1, y1 in lines_of(pdf) if abs(x0 - x1) < 0.01]
            self.assertLess(min(abs(abs(x) - 150.0) for x in level), 0.1)
            self.assertLess(min(abs(x - 12.0) for x in upright), 0.1)

    def test_a_story_stick_has_every_mark_where_it_is(self):
        for name in ("Lantern bracket", "Gate pintle"):
            subject = subject_of(demo_pieces()[name])
            drawing = PAPERS["stick"].drawings(subject, {"set": "all", "sheets": "tiled"})[0]
            ticks = sorted(one.points[0][0] for one in drawing.lines if one.layer == "MARK")
            np.testing.assert_allclose(ticks, [mark.at for mark in subject.answer.marks], atol=1e-9)
            pdf = pdf_bytes(PAPERS["stick"].printed(subject, A4.turned(True), {"sheets": "one"}))
            found = sorted(
                {round(x0 - MARGIN, 2) for x0, y0, x1, y1 in lines_of(pdf) if abs(x0 - x1) < 0.01 and abs(abs(y1 - y0) - 9.0) < 0.05}
            )
            for at in ticks:
                self.assertLess(min(abs(at - x) for x in found), 0.1)

    def test_svg_and_dxf_hold_the_same_at_full_size(self):
        drawing = side_by_side([self.square_drawing(120, 40), self.square_drawing(30, 30)], "Both", 400)
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        (folder / "x.svg").write_text(drawing_svg(drawing), encoding="utf-8")
        longest = read_curves(folder / "x.svg")[0]
        np.testing.assert_allclose(np.ptp(longest, axis=0), (120, 40), atol=0.01)
        opened = ezdxf.read(io.StringIO(drawing_dxf(drawing)))
        kinds = [e.dxftype() for e in opened.modelspace()]
        self.assertEqual((kinds.count("CIRCLE"), kinds.count("LWPOLYLINE")), (2, 2))
        self.assertEqual({e.dxf.radius for e in opened.modelspace() if e.dxftype() == "CIRCLE"}, {5.0})
        self.assertEqual(opened.units, 4)
        self.assertIn("here", [e.dxf.text for e in opened.modelspace() if e.dxftype() == "TEXT"])

    def test_paper_that_is_too_small_and_sheets_that_are_too_long(self):
        with self.assertRaisesRegex(NoAnswer, "too small"):
            tiled(self.square_drawing(50, 50), replace(A4, width=70.0, height=90.0), HEAD)
        with self.assertRaisesRegex(NoAnswer, "tiled"):
            on_one_sheet(self.square_drawing(6000, 50), HEAD)
        self.assertAlmostEqual(on_one_sheet(self.square_drawing(900, 50), HEAD).pages[0].width, 900 + 2 * MARGIN)
