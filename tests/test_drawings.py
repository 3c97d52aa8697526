"""Drawings in and out: traced curves, outlines at true scale, solids."""

import io
import itertools
import math
import random
import re
import tempfile
import time
import unittest
from dataclasses import replace
from pathlib import Path

import ezdxf
import numpy as np
import trimesh
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import quad

from long_ember.blanks import BLANKS, Outline
from long_ember.demo import demo_files
from long_ember.errors import NoAnswer, PieceFileError
from long_ember.export import drawing_dxf, drawing_svg, solid_bytes
from long_ember.features import KINDS, Arc, Corner, Piece, Place, Straight, shape_of
from long_ember.features.traced import course_text, read_course
from long_ember.fullsize import outline_drawing
from long_ember.geometry import contacts, figure, follow, frames
from long_ember.sections import square
from long_ember.storage import read_curves, read_piece
from long_ember.storage.trace_file import curves_of


def points_of(course: str, step: float = 0.4):
    shape = shape_of(KINDS["traced"](id="t", course=course), Place(square(10)))
    return frames(shape, np.arange(0, shape.length, step), math.radians(1)).points[:, :2], shape.length


class Courses(unittest.TestCase):
    def test_what_is_typed_comes_back(self):
        text = "40.00; r25.00 90.0000; c-30.00; 60.00"
        self.assertEqual(course_text(read_course(text)), text)
        for bad in ("", "40; x", "c30; 40", "40; c30", "40; r0 90; 3", "40; r20; 3", "40; c170; 40", "4e9x"):
            with self.subTest(bad), self.assertRaises(NoAnswer) as caught:
                read_course(bad)
            self.assertTrue(caught.exception.remedy)

    def test_straights_and_arcs_are_found_again(self):
        for course in ("40; r30 60; 30; r20 -60; 40", "50; r15 90; 50", "r40 180", "30; c60; 30; c-60; 30", "100"):
            points, length = points_of(course)
            found = follow(points)
            with self.subTest(course, found=course_text(found)):
                self.assertAlmostEqual(sum(s.length for s in found if not isinstance(s, Corner)), length, delta=0.003 * length)
                big = [s for s in found if isinstance(s, Arc) and abs(s.angle) > math.radians(3)]
                wanted = [s for s in read_course(course) if isinstance(s, Arc)]
                self.assertEqual(len(big), len(wanted))
                for one, other in zip(big, wanted, strict=True):
                    self.assertAlmostEqual(one.angle, other.angle, delta=math.radians(2))
                    self.assertAlmostEqual(abs(one.length / one.angle), abs(other.length / other.angle), delta=1.0)
                self.assertEqual(sum(isinstance(s, Corner) for s in found), sum(isinstance(s, Corner) for s in read_course(course)))

    @settings(max_examples=25)
    @given(
        st.lists(st.tuples(st.floats(8, 60), st.floats(12, 60), st.floats(-150, 150).filter(lambda a: abs(a) > 8)), min_size=1, max_size=4)
    )
    def test_the_course_stays_beside_the_drawing(self, parts):
        course = "; ".join(f"{a:.2f}; r{r:.2f} {angle:.2f}" for a, r, angle in parts) + "; 20"
        points, length = points_of(course)
        found = follow(points)
        redrawn, total = points_of(course_text(found)) if isinstance(found[0], (Arc, Straight)) else (points, length)
        self.assertAlmostEqual(total, length, delta=0.004 * length)
        turned = sum(s.angle for s in found if not isinstance(s, Straight))
        self.assertAlmostEqual(turned, sum(math.radians(a) for _s, _r, a in parts), delta=math.radians(3))
        self.assertLess(np.hypot(*(redrawn[len(redrawn) // 2] - redrawn[0])), length)


class Files(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def write(self, name: str, content: bytes) -> Path:
        path = self.folder / name
        path.write_bytes(content)
        return path

    SVG = (
        b'<svg xmlns="http://www.w3.org/2000/svg" width="200mm" height="100mm" viewBox="0 0 200 100">'
        b'<path d="M10 50 L50 50 A 30 30 0 0 1 80 80 L 80 95 L 120 95"/><path d="M0 0 L 3 0"/></svg>'
    )

    def test_an_svg_in_millimetres_is_read_in_millimetres(self):
        found = follow(read_curves(self.write("a.svg", self.SVG))[0])
        self.assertEqual([type(s) for s in found], [Straight, Arc, Straight, Corner, Straight])
        self.assertAlmostEqual(found[0].length, 40, delta=0.6)
        self.assertAlmostEqual(sum(s.length for s in found if not isinstance(s, Corner)), 40 + 15 * math.pi + 15 + 40, delta=0.05)

    def test_a_dxf_is_chained_and_scaled(self):
        for unit, factor in ((4, 1.0), (1, 25.4)):
            drawing = ezdxf.new()
            drawing.units = unit
            space = drawing.modelspace()
            space.add_arc((40, 30), 30, 270, 330)
            space.add_line((40, 0), (0, 0))  # the wrong way round, and out of order
            drawing.saveas(self.folder / "a.dxf")
            points = read_curves(self.folder / "a.dxf")[0]
            length = np.hypot(*np.diff(points, axis=0).T).sum()
            self.assertAlmostEqual(length / factor, 40 + 10 * math.pi, delta=0.01)

    def test_bad_files_are_one_clear_error(self):
        rng = random.Random(3)
        drawing = io.StringIO()
        made = ezdxf.new()
        made.modelspace().add_line((0, 0), (50, 0))
        made.write(drawing)
        good = {"svg": self.SVG, "dxf": drawing.getvalue().encode()}
        for kind, content in good.items():
            for case in range(25):
                damaged = bytearray(content)
                for _ in range(1 + case % 5):
                    damaged[rng.randrange(len(damaged))] = rng.randrange(256)
                if case % 3 == 0:
                    del damaged[rng.randrange(len(damaged)) :]
                try:
                    points = curves_of(bytes(damaged), f".{kind}")[0]
                except ValueError as error:
                    self.assertTrue(str(error))
                else:
                    self.assertTrue(np.isfinite(points).all())
        for content, words in (
            (b"hello", "line 1: not an SVG"),
            (b"<html>\n</html>", "line 1: not an SVG, it begins with <html>"),
            (b"<svg>\n<path d='M0 0 L9 9'\n", "line 2"),
            (b"<svg>\n\n<path d='M0 0 Q 1'/></svg>", "line 3: Q in a path takes 4 numbers, 1 stand there"),
            (b"<svg><path d='M0 0 L9 9'/>\n<path d='0 0 L9 9'/></svg>", "line 2: a path begins with"),
        ):
            with self.subTest(content), self.assertRaisesRegex(ValueError, re.escape(words)):
                curves_of(content, ".svg")
        arcs = b"<svg xmlns='http://www.w3.org/2000/svg'><path d='M10,50L50-50a30 30 0 0130 30V9e1h-.5.5z'/></svg>"
        self.assertTrue(curves_of(arcs, ".svg"))  # as terse as programs write it
        for name, content in (("x.png", b""), ("x.svg", b"<!DOCTYPE a [<!ENTITY b 'c'>]><svg/>"), ("x.svg", b"<svg/>"), ("x.dxf", b"")):
            with self.subTest(name), self.assertRaises(PieceFileError):
                read_curves(self.write(name, content))
        with self.assertRaises(PieceFileError):
            read_curves(self.folder / "nothing.svg")

    def test_what_would_go_on_for_ever_is_refused_in_two_seconds_and_many_lines_are_chained_at_once(self):
        rng = random.Random(5)
        steps = [b"<path d='M%d %d L%d %d'/>" % (x, x % 7, x + 1, (x + 1) % 7) for x in range(4000)]
        rng.shuffle(steps)
        head = b"<svg xmlns='http://www.w3.org/2000/svg' width='5000mm' height='10mm' viewBox='0 0 5000 10'>"
        began = time.process_time()
        points = curves_of(head + b"".join(steps) + b"</svg>", ".svg")[0]
        self.assertEqual(len(points), 4001)
        self.assertAlmostEqual(np.ptp(points[:, 0]), 4000.0, places=1)
        self.assertLess(time.process_time() - began, 5.0)
        nested = b"".join(b"<g id='g%d'><use href='#g%d'/><use href='#g%d'/></g>" % (i, i - 1, i - 1) for i in range(1, 26))
        endless = head + b"<defs><path id='g0' d='M0 0 L9 9'/>" + nested + b"</defs><use href='#g25'/></svg>"
        with self.assertRaises(PieceFileError) as caught:
            read_curves(self.write("endless.svg", endless))
        self.assertIn("too large or too involved", str(caught.exception))
        with self.assertRaises(PieceFileError) as caught:
            read_curves(self.write("far.svg", b"<svg xmlns='http://www.w3.org/2000/svg'><path d='M0 0 L9e12 0'/></svg>"))
        self.assertIn("100 m", str(caught.exception))


class Outlines(unittest.TestCase):
    def test_blanks_by_a_second_method(self):
        cup = BLANKS["cup"](inside=22.0, slack=0.0, thickness=2.0, lap=0.0)
        self.assertAlmostEqual(cup.wrapped(), math.pi * 24)
        petals = BLANKS["petals"](diameter=80.0, hole=6.0, slit=0.0)
        self.assertAlmostEqual(petals.outline().area, math.pi / 4 * (80**2 - 6**2), places=6)
        self.assertAlmostEqual(petals.web(), 24 * math.sin(math.pi / 5))
        strip = BLANKS["bent-strip"](legs="40; 60", radius=6.0, thickness=3.0)
        # Outside legs less two set-backs, plus the arc at k = 0.5 (radius of two thicknesses).
        self.assertAlmostEqual(strip.outline().size[0], 40 + 60 - 2 * 9 + math.pi / 2 * 7.5)
        nut = BLANKS["washer"](hole=8.0, thread=1.25)
        self.assertAlmostEqual(nut.bore(), 6.75)
        plate = BLANKS["base-plate"](form="square", size=100.0, hole=0.0, carried=0.0)
        angle, _push = plate.tipping(7.85e-3)
        self.assertAlmostEqual(angle, math.degrees(math.atan2(50, 3)))

    def test_bevels_on_any_set_of_a_plates_sides_by_slices(self):
        """By a second method: what stays over a fine grid of the plate."""
        sides, size, t, b, rim = ("front", "right", "back", "left"), 60.0, 8.0, 12.0, 2.0
        x = (np.arange(1200) + 0.5) / 1200 * size
        near = {"left": x[None, :], "right": size - x[None, :], "front": x[:, None], "back": size - x[:, None]}
        for count in range(5):
            for chosen in itertools.combinations(sides, count):
                plate = BLANKS["base-plate"](form="square", size=size, thickness=t, hole=0.0, bevelled=chosen, bevel=b, rim=rim)
                deep = np.zeros((1200, 1200))
                for side in chosen:
                    deep = np.maximum(deep, np.broadcast_to(np.clip(1 - near[side] / b, 0, 1) * (t - rim), deep.shape))
                self.assertAlmostEqual(plate.cut_away(), float(deep.mean()) * size**2, delta=1.0)
                self.assertEqual(len(plate.outline().marks), count)
        round_plate = BLANKS["base-plate"](size=size, thickness=t, hole=0.0, bevelled=("front",), bevel=b, rim=rim)
        wanted = quad(lambda s: 2 * math.pi * (size / 2 - s) * (1 - s / b) * (t - rim), 0, b)[0]
        self.assertAlmostEqual(round_plate.cut_away(), wanted)
        self.assertIn("Bevels take", " ".join(line.text for line in round_plate.sum_lines(7.85e-3)))
        with self.assertRaises(NoAnswer):
            replace(round_plate, rim=9.0).outline()

    def test_every_blank_has_words_checks_and_an_outline_that_fits_its_rectangle(self):
        for cls in BLANKS.values():
            blank = cls()
            outline = blank.outline()
            self.assertLessEqual(outline.area, outline.size[0] * outline.size[1] * (1 + 1e-4))
            self.assertTrue(blank.sum_lines(7.85e-3) and blank.steps())
        for bad in (
            BLANKS["petals"](hub=90.0), BLANKS["petals"](count=60), BLANKS["bent-strip"](legs="5; 60"), BLANKS["bent-strip"](legs="a"),
            BLANKS["washer"](hole=30.0), BLANKS["base-plate"](hole=500.0),
        ):  # fmt: skip
            with self.subTest(bad), self.assertRaises(NoAnswer):
                bad.outline()
        self.assertEqual([c.level for c in BLANKS["base-plate"](off=200.0).checks()], ["warn", "note"])

    def test_files_are_at_true_scale(self):
        outline = BLANKS["bent-strip"]().outline()
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        (folder / "o.svg").write_text(drawing_svg(outline_drawing(Outline(outline.edge), "strip")), encoding="utf-8")
        points = read_curves(folder / "o.svg")[0]  # the longest line is the outline
        size = points.max(axis=0) - points.min(axis=0)
        self.assertAlmostEqual(size[0], outline.size[0], places=2)
        drawing = ezdxf.read(io.StringIO(drawing_dxf(outline_drawing(outline, "strip"))))
        layers = sorted(e.dxf.layer for e in drawing.modelspace())
        self.assertEqual(layers, ["BEND", "BEND", "CUT"])


class Solids(unittest.TestCase):
    def test_every_demo_piece_is_one_closed_solid(self):
        for path in demo_files():
            piece = read_piece(path)
            for kind in ("stl", "obj"):
                made = trimesh.load(io.BytesIO(solid_bytes(piece, kind)), file_type=kind, force="mesh")
                with self.subTest(path.stem, kind=kind):
                    self.assertTrue(made.is_watertight)
                    self.assertEqual(made.body_count, 1)
                    self.assertAlmostEqual(made.volume / sum(shape.volume for _id, shape in piece.shapes), 1, delta=5e-4)
        with self.assertRaises(ValueError):
            solid_bytes(piece, "step")


class Contacts(unittest.TestCase):
    def test_a_scroll_into_its_own_stem_is_found_and_the_demo_is_clear(self):
        for path in demo_files():
            self.assertEqual(contacts(read_piece(path)), (), path.stem)
        make = KINDS
        features = (
            make["run"](id="stem", length=120.0), make["bend"](id="bend", angle=180.0, radius=14.0), make["run"](id="r", length=20.0),
            make["scroll"](id="scroll", toward="B", outer=40.0),
        )  # fmt: skip
        found = contacts(Piece(features=features))
        self.assertIn(("stem", "scroll"), [(c.first, c.second) for c in found])
        opened = replace(features[3], facing=90.0)
        self.assertEqual(contacts(Piece(features=(features[0], replace(features[1], radius=60.0), features[2], opened))), ())
        self.assertEqual(contacts(Piece()), ())
        self.assertEqual(len(figure([]).parts), 0)
