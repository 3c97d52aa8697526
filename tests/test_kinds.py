"""The whole catalogue: check values of the reference, warnings where they belong, sizes without an answer, materials, marks, order."""

import itertools
import math
import unittest
from dataclasses import replace
from importlib import resources

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import quad

from long_ember.document import answer
from long_ember.document.worked import BEGIN, END, worked_chapter
from long_ember.errors import EntryError, NoAnswer
from long_ember.features import KINDS, VERBS, Outer, Piece, Place, Standing, checks_of, shape_of, stock_of
from long_ember.features.head import cap_volume, clearance
from long_ember.features.shape import hole_volume
from long_ember.features.slot import rim
from long_ember.features.spread import OUTLINES
from long_ember.fields import FACINGS, facing_words, specs
from long_ember.heats import sequence
from long_ember.heats.rules import RULES
from long_ember.materials import MATERIALS, MILD
from long_ember.physics import window
from long_ember.records.kit import KIT, PLAIN_TOOLS
from long_ember.sections import SHAPES, Section, flat, half_round, hexagon, octagon, parse_section, round_, square, tube
from long_ember.shorthand import read_line
from long_ember.stock import drawn_marks, marks, reckon
from long_ember.units import Measure
from tests.support import CASES


def make(kind, **fields):
    return KINDS[kind](**{"id": kind, **fields})


def stock(kind, bar, **fields):
    return stock_of(make(kind, **fields), Place(bar, True, False))


class CheckValues(unittest.TestCase):
    """Forge reference, sections 2 to 7."""

    def test_points_and_balls(self):
        self.assertAlmostEqual(stock("point", square(12), length=90.0), 30, places=9)
        self.assertAlmostEqual(stock("point", round_(12), length=90.0, form="round"), 30, places=9)
        self.assertAlmostEqual(stock("ball", square(12), diameter=20.0), 29.089, places=3)
        one_cube = (6 / math.pi) ** (1 / 3)
        self.assertAlmostEqual(one_cube, 1.2407, places=4)
        self.assertAlmostEqual(stock("ball", square(12), diameter=12 * one_cube), 12, places=9)

    def test_rivets(self):
        self.assertAlmostEqual(cap_volume(14, 5.6), 522.98, places=2)
        self.assertAlmostEqual(clearance(8.4, 8, 16), 1.64, places=2)
        shank = round_(8)
        self.assertAlmostEqual(stock("head", shank, diameter=14.0, height=5.6), 10.40, places=2)
        self.assertAlmostEqual(stock("head", shank, diameter=14.0, height=5.6, hole=8.4, grip=16.0), 10.40 + 1.64, places=2)
        by_discs = quad(lambda x: math.pi * (7.175**2 - (7.175 - x) ** 2), 0, 5.6)[0]  # of a sphere of radius (7² + 5.6²)/(2·5.6)
        self.assertAlmostEqual(cap_volume(14, 5.6), by_discs, places=6)

    def test_tenons_and_threads(self):
        self.assertAlmostEqual(stock("tenon", square(20), section=round_(10), through=22.0, upset=8.0), 5.890, places=3)
        thread = make("thread", diameter=8.0, pitch=1.25)
        self.assertAlmostEqual(thread.sum_lines(Place(square(12), True))[1].values[2].value, 6.75)
        self.assertAlmostEqual(thread.sum_lines(Place(square(12), True))[1].values[3].value, 0.77, places=2)
        self.assertAlmostEqual(stock("thread", round_(8), diameter=8.0), 16.0)  # the bar is the blank
        self.assertEqual([o.verb for o in thread.operations(Place(round_(8), True))], ["thread"])

    def test_slots_drift_without_stretch(self):
        self.assertAlmostEqual(math.pi * 20, 62.83, places=2)
        eye = make("drifted-eye", diameter=20.0, punch=5.0)
        self.assertAlmostEqual(rim(eye.opened(), 5.0), 62.83, places=2)
        self.assertAlmostEqual(eye.stretch(), 1.0, places=12)
        self.assertAlmostEqual(eye.walls(Place(flat(30, 12)))[0], 12.5)
        tight = replace(eye, slot=20.0)
        before, after = tight.walls(Place(flat(30, 12)))
        self.assertAlmostEqual(before * rim(20, 5), after * math.pi * 20)  # the wall keeps its steel while it stretches

    def test_split_halves(self):
        split, place = make("split", cut=60.0, kerf=2.0, root=10.0), Place(square(20), True, False)
        self.assertAlmostEqual(split.tine(place).area, (20 * 20 - 2 * 20) / 2)
        self.assertAlmostEqual(split.removed(place), 2 * 20 * 60)
        self.assertAlmostEqual(stock_of(split, place), 70)

    def test_necks_by_quadrature(self):
        for size, fuller, sides in ((7.0, 12.0, "two"), (7.0, 12.0, "all"), (2.0, 6.0, "all"), (2.0, 6.0, "two"), (9.0, 12.0, "edges")):
            neck, bar = make("neck", size=size, fuller=fuller, sides=sides), flat(20, 12)
            r, deep, half = fuller / 2, ((20 if sides == "edges" else 12) - size) / 2, neck.width(Place(bar)) / 2

            def section(x, r=r, deep=deep, sides=sides):
                d = deep - r + math.sqrt(max(r * r - x * x, 0.0))
                return (20 - (0 if sides == "two" else 2 * d)) * (12 - (0 if sides == "edges" else 2 * d))

            self.assertAlmostEqual(neck.volume(Place(bar)), quad(section, -half, half, limit=200)[0], places=4)
            left = min((s.start for s in shape_of(neck, Place(bar)).spans), key=lambda b: b.w * b.t)  # what is gauged in its middle
            wide, thick = (size if sides == "edges" else 20 - (12 - size if sides == "all" else 0)), (12 if sides == "edges" else size)
            self.assertAlmostEqual(left.w, wide, delta=0.4)
            self.assertAlmostEqual(left.t, thick, delta=0.4)

    def test_a_bevel_and_a_fold_have_their_own_outlines(self):
        from long_ember.geometry.meshing import mesh, ring

        place = Place(flat(40, 8), True, False)
        blade = shape_of(make("bevel", width=12.0, edge=2.0, length=50.0), place)
        corners = ring(blade.spans[0].start, 6)
        self.assertAlmostEqual(np.ptp(corners[:, 0]), 8)
        thin = corners[corners[:, 1] == corners[:, 1].max()]
        self.assertAlmostEqual(np.ptp(thin[:, 0]), 2)
        self.assertAlmostEqual(mesh(blade).volume, blade.volume, delta=1e-6 * blade.volume)
        leaf = shape_of(make("spread", work="folded", outline="lens", width=30.0, length=60.0, thickness=2.0), Place(square(12), True))
        middle = leaf.spans[len(leaf.spans) // 2].start
        self.assertAlmostEqual(middle.w, 30 * math.cos(math.radians(30)), delta=0.4)
        self.assertAlmostEqual(mesh(leaf).volume, leaf.volume, delta=0.01 * leaf.volume)

    def test_helix_and_flat_coil(self):
        helix = make("coil", inside=30.0, turns=4.0, gap=3.0)
        length = shape_of(helix, Place(round_(10), True)).length
        turn = quad(lambda a: math.sqrt((20 * math.sin(a)) ** 2 + (20 * math.cos(a)) ** 2 + (13 / (2 * math.pi)) ** 2), 0, 2 * math.pi)[0]
        self.assertAlmostEqual(length, 4 * turn, places=6)
        coil = make("coil", form="flat", inside=20.0, turns=3.0, gap=0.0)
        path = coil.path(Place(round_(10), True))
        self.assertAlmostEqual(path.r1 - path.r0, 30)  # touching turns: a thickness each

    def test_outlines_by_quadrature(self):
        for name, outline in OUTLINES.items():
            for ratio in (1.2, 2.0, 4.0):
                area = quad(lambda u, o=outline, q=ratio: o.width(u, q), 0, 1, limit=200, points=(0.5, 0.65))[0]
                with self.subTest(name, ratio=ratio):
                    self.assertAlmostEqual(area, outline.area(ratio), delta=2e-4)

    def test_an_offset_moves_the_bar_by_what_it_says(self):
        for angle in (30.0, 45.0, 90.0):
            shape = shape_of(make("offset", offset=60.0, angle=angle, radius=12.0), Place(square(12)))
            from long_ember.geometry import end_pose

            pose = end_pose(shape)
            self.assertAlmostEqual(pose.at[1], 60, places=9)
            self.assertAlmostEqual(pose.axes[0] @ [1, 0, 0], 1, places=9)

    @given(st.floats(1.0, 11.0), st.sampled_from(["thickness", "width"]), st.sampled_from([hexagon(20.0), octagon(20.0), round_(20.0)]))
    def test_holes_in_any_bar_by_slices(self, d, axis, bar):
        sides = {"hexagon": 6, "octagon": 8}.get(bar.shape, 0)
        turn = math.pi / 2 if axis == "width" else 0.0

        # Across the hole z = d/2·sin(a): the ends are smooth then, and the midpoint rule is enough.
        a = (np.arange(40_000) + 0.5) / 40_000 * math.pi - math.pi / 2
        z = d / 2 * np.sin(a)
        if sides:
            rays = [(math.cos(b), math.sin(b)) for b in (2 * math.pi * i / sides + math.pi / 2 + turn for i in range(sides))]
            depth = 2 * np.min([(10 - c * z) / s for c, s in rays if s > 1e-9], axis=0)
        else:
            depth = 2 * np.sqrt(100 - z * z)
        wanted = float((depth * 2 * (d / 2 * np.cos(a)) ** 2).mean() * math.pi)
        self.assertAlmostEqual(hole_volume(d, bar, axis), wanted, delta=1e-6 * wanted)

    def test_a_hole_through_a_tube_takes_its_two_walls(self):
        bar, d = tube(20, 3), 5.0
        walls = quad(lambda z: 2 * math.sqrt(d * d / 4 - z * z) * 2 * (math.sqrt(100 - z * z) - math.sqrt(49 - z * z)), -d / 2, d / 2)[0]
        self.assertAlmostEqual(hole_volume(d, bar, "thickness"), walls, places=6)


class Sections(unittest.TestCase):
    def test_moduli_by_summing_strips(self):
        y = np.linspace(-1, 1, 400_001)
        for bar, width in (
            (round_(20), lambda v: 2 * np.sqrt(np.maximum(100 - v * v, 0))),
            (tube(20, 3), lambda v: 2 * (np.sqrt(np.maximum(100 - v * v, 0)) - np.sqrt(np.maximum(49 - v * v, 0)))),
            (flat(30, 8), lambda v: np.full_like(v, 30.0)),
            (hexagon(12), lambda v: 24 / math.sqrt(3) - 2 * np.abs(v) / math.sqrt(3)),
        ):
            v = y * bar.thickness / 2
            with self.subTest(bar.shape):
                self.assertAlmostEqual(bar.plastic_bending, np.trapezoid(width(v) * np.abs(v), v), delta=1e-4 * bar.plastic_bending)
                self.assertAlmostEqual(bar.area, np.trapezoid(width(v), v), delta=1e-4 * bar.area)
        self.assertAlmostEqual(square(12).plastic_torsion, 12**3 / 3)
        self.assertAlmostEqual(round_(12).plastic_torsion, math.pi * 12**3 / 12)
        self.assertLess(half_round(20).plastic_torsion, round_(20).plastic_torsion / 2)

    def test_tubes_and_broken_corners(self):
        self.assertAlmostEqual(tube(21, 2).area, math.pi * (21 - 2) * 2)
        self.assertAlmostEqual(Section("square", 12, 12, 1.5, True).area, 144 - 2 * 1.5**2)
        self.assertAlmostEqual(half_round(20).area, math.pi * 400 / 8)
        for bad in (("tube", 20, 20, 0.0, False, 0.0), ("square", 20, 20, 0.0, False, 2.0), ("half-round", 20, 20), ("round", 20, 20, 2.0)):
            with self.assertRaises(NoAnswer):
                Section(*bad)

    def test_every_blend_in_a_mesh_has_its_own_area(self):
        from long_ember.geometry.meshing import ring

        for bar in (square(12), round_(9), hexagon(14), octagon(20), half_round(16), Section("flat", 30, 8, 2.0)):
            for count in (48, 8 if bar.corner else 48):
                points = ring(bar.blend, count)
                x, y = points[:, 0], points[:, 1]
                self.assertAlmostEqual(float(x @ np.roll(y, -1) - y @ np.roll(x, -1)) / 2, bar.area, delta=1e-9 * bar.area)
        self.assertEqual(set(SHAPES), {"square", "round", "flat", "hexagon", "octagon", "half-round", "tube"})


class Warnings(unittest.TestCase):
    TABLE = (
        ("tenon", {"upset": 30.0, "bite": 0.0}, {"upset": 8.0, "bite": 0.0}, "rivet"),
        ("thread", {"length": 8.0}, {"length": 16.0}, "full nut"),
        ("thread", {"bare": 12.0, "length": 20.0}, {"bare": 2.0, "length": 20.0}, "bare shank"),
        ("neck", {"size": 3.0}, {"size": 8.0}, "thin"),
        ("offset", {"radius": 3.0, "offset": 60.0}, {"radius": 20.0, "offset": 60.0}, "wrinkles"),
        ("coil", {"inside": 10.0}, {"inside": 40.0}, "mandrel"),
        ("twist", {"flattened": round_(10)}, {}, "does not show"),
        ("drifted-eye", {"diameter": 30.0, "slot": 16.0}, {"diameter": 14.0}, "wall"),
        ("split", {"cut": 150.0, "tip": square(2)}, {"cut": 60.0}, "sag"),
        ("spread", {"width": 60.0, "length": 70.0}, {"width": 24.0}, "the width is not"),
        ("scroll", {"bevel": 0.5, "outer": 32.0}, {"bevel": 0.0}, "Bevelling"),
        ("bend", {"facing": 90.0, "radius": 20.0}, {"facing": 0.0, "radius": 24.0}, "edge"),
        ("extension", {"section": square(4)}, {"section": square(10)}, "unlike"),
        ("traced", {"course": "30; r8 90; 30"}, {"course": "30; r40 90; 30"}, "tightest"),
    )

    def test_each_warning_comes_where_it_should_and_not_elsewhere(self):
        for kind, bad, good, words in self.TABLE:
            bar = flat(30, 10) if kind == "bend" else square(12)
            place = Place(bar, True, False)
            told = [[c.line.text for c in checks_of(make(kind, **fields), place) if c.level == "warn"] for fields in (bad, good)]
            with self.subTest(kind=kind, bad=bad):
                self.assertTrue(any(words in text for text in told[0]), told[0])
                self.assertFalse(any(words in text for text in told[1]), told[1])

    def warned(self, *features, bar=None):
        piece = Piece(name="x", bar=bar or square(12), features=features)
        return [(zone.feature.id, check.line.text) for zone, check in reckon(piece).checks() if check.level == "warn"]

    def test_an_end_that_was_drawn_on_or_bent_is_free(self):
        run, taper = make("run"), make("taper", tip=6.0)
        thin = make("section-change", section=square(6), length=40.0)
        self.assertEqual(self.warned(thin, taper, run), [])
        self.assertEqual(self.warned(make("curl", tip=square(4)), taper, run), [])
        self.assertEqual(self.warned(make("thread", diameter=8.0), make("tenon", section=round_(8)), run), [])
        self.assertEqual([i for i, words in self.warned(run, taper, make("run", id="b")) if "not free" in words], ["taper"])
        thick = replace(thin, section=square(9))
        self.assertEqual([i for i, words in self.warned(thick, taper, run) if "not free" in words], ["taper"])
        self.assertIn("not free", str(self.warned(make("curl", tip=square(4)), make("point"), run)))  # nothing goes on from a true point

    def test_facing_down_is_facing_up_whatever_the_size(self):
        for t in (6.35, 9.525, 12.7):
            told = [checks_of(make("bend", radius=t, facing=facing), Place(flat(25.4, t))) for facing in (0.0, 180.0)]
            self.assertEqual(*told)
            self.assertEqual(told[0], ())
        shape_of(make("taper", tip=6.35, form="chisel"), Place(square(6.35 * (1 - 1e-12)), True, False))

    def test_tines_rims_flats_and_edges_are_judged_by_what_they_are(self):
        place = Place(square(12), True, False)
        slender = make("split", cut=150.0, angle=10.0)  # about 27 thicknesses
        self.assertFalse(any("sag" in c.line.text for c in checks_of(slender, place)))
        self.assertTrue(any("sag" in c.line.text for c in checks_of(replace(slender, carries="load"), place)))
        stretched = make("drifted-eye", diameter=14.0, slot=17.0)
        told = {c.level: c.line.text for c in checks_of(stretched, place) if "stretches" in c.line.text}
        self.assertEqual(list(told), ["note"])
        self.assertIn("cool a wall", told["note"])
        # A flat's corner lies half its diagonal off the middle: 25 x 6 over 60 leans 53 degrees in a turn.
        words = [c.line for c in checks_of(make("twist", turns=1.0, length=60.0), Place(flat(25, 6))) if "lean" in c.line.text]
        self.assertAlmostEqual(words[0].values[0].value, math.degrees(math.atan(2 * math.pi * math.hypot(25, 6) / 2 / 60)), places=6)
        # The edge that is thinned lies across the plane of the scroll; how deep the bar is in that plane decides how it closes.
        scroll = make("scroll", bevel=0.3, tip=None)
        strain = 0.5 * math.log(1 / 0.7)
        self.assertAlmostEqual(scroll.closing(Place(flat(25, 6))), 30 - 30 / (1 + 30 * strain / 6), places=9)

    def test_nothing_trimmed_has_no_waste_to_mark(self):
        piece = Piece(name="x", features=(make("run", length=50.3), make("taper", toward="B")))
        for trim, lines in ((0.0, 0), (4.0, 2)):
            now = replace(piece, allowances=replace(piece.allowances, trim=trim))
            self.assertEqual(sum("trim line" in m.kind for m in marks(reckon(now))), lines)

    def test_two_runs_side_by_side_are_told_apart_and_work_on_the_surface_is_marked(self):
        lines = Standing(feature=make("surface", work="lines", length=30.0), on="A", edge="A", at=50.0)
        piece = Piece(name="x", features=(make("run", id="a"), make("run", id="b")), standing=(lines,))
        self.assertIn(("Run 1", "Run 2"), [(m.before, m.after) for m in marks(reckon(piece))])
        self.assertEqual([(m.at, m.kind) for m in drawn_marks(piece)], [(35.0, "pencil, where it begins"), (65.0, "pencil, where it ends")])
        line = "16 sq: taper 60, run 200; hole 6 at 110 from A, slot 30 x 8 at 190 from A"
        for datum, wanted in (("A", [110.0, 175.0, 205.0]), ("B", [55.0, 85.0, 150.0])):  # a slot is marked at both its ends
            self.assertEqual([round(m.at, 6) for m in drawn_marks(replace(read_line(line).piece, datum=datum))], wanted)

    def test_a_section_runs_straight_into_another(self):
        first, second = (
            make("section-change", id="a", section=square(9), blend=5.0),
            make("section-change", id="b", section=round_(6), blend=5.0),
        )
        piece = Piece(name="x", features=(make("run"), first, second, make("run", id="r")))
        (_r, a, b, _e) = (shape for _id, shape in piece.shapes)
        self.assertEqual([(s.start.w, s.end.w) for s in (*a.spans, *b.spans)], [(12, 9), (9, 9), (9, 6), (6, 6), (6, 12)])
        alone = Piece(name="x", features=(make("run"), first, make("run", id="r")))
        self.assertEqual([(s.start.w, s.end.w) for s in alone.shapes[1][1].spans], [(12, 9), (9, 9), (9, 12)])

    def test_a_feature_is_called_as_the_smith_calls_it(self):
        piece = Piece(name="x", features=(make("run"), make("hole", name="left lobe", note="mind the rim")))
        self.assertEqual(reckon(piece).zones[1].feature.title, "left lobe")
        self.assertIn("left lobe", str(marks(reckon(piece))))
        self.assertEqual(replace(piece.features[1], name="").title, "Hole")

    def test_what_the_smallest_bite_makes_too_long_is_planned_and_cut_off(self):
        """The bite stands in the cut length, in the marks and in the work, and what is over in what is removed; a second way: by volume."""
        for kind, length in (("tenon", 20.0), ("thread", 16.0)):
            end = make(kind, toward="B", **({"section": round_(8)} if kind == "tenon" else {}))
            piece = Piece(name="x", bar=square(20), features=(make("run", length=100.0), end))
            for bite in (0.0, 6.0, 9.0):
                now = reckon(replace(piece, allowances=replace(piece.allowances, bite=bite, trim=0.0)))
                zone, blank = now.zones[1], math.pi * 16
                made = max(length, bite * 400 / blank)
                with self.subTest(kind, bite=bite):
                    self.assertAlmostEqual(zone.stock, max(bite, length * blank / 400), places=9)
                    self.assertAlmostEqual(now.removed, (made - length) * blank, places=6)
                    self.assertAlmostEqual(marks(now)[-1].at, 100.0, places=6)  # the shoulder
                    told = " ".join(o.line.show(Measure()) for o in end.operations(zone.place))
                    self.assertEqual(f"Cut {Measure().length(made - length)} off" in told, bite > 0)
                    self.assertIn(Measure().length(made), told)
        own = make("tenon", section=round_(8), bite=12.0)
        self.assertAlmostEqual(stock_of(own, Place(square(20), True, False, bite=6.0)), 12.0)

    def test_what_would_take_less_than_no_bar_is_refused(self):
        eye = make("drifted-eye", diameter=100_000.0, slot=0.0, punch=3.0, slug=0.3, form="diamond")
        with self.assertRaises(NoAnswer) as caught:
            Piece(bar=Section("flat", 25, 10, 1.5, True), features=(eye,)).verify()
        self.assertIn("less than no bar", caught.exception.reason)

    def test_sizes_without_an_answer_say_what_would_work(self):
        place = Place(square(12), True, False)
        for feature in (
            make("tenon", section=square(14)), make("head", diameter=10.0), make("head", hole=8.0, grip=3.0), make("neck", size=13.0),
            make("thread", diameter=16.0), make("thread", pitch=5.0), make("offset", offset=2.0), make("drifted-eye", punch=13.0),
            make("drifted-eye", diameter=3.0), make("drifted-eye", diameter=200.0, slot=6.0), make("split", kerf=12.0), make("split", cut=5.0), make("spread", thickness=30.0),
            make("spread", outline="lens", length=10.0), make("spread", outline="measured", widths=(3.0,)), make("chamfer", leg=7.0),
            make("bevel", width=13.0), make("bevel", edge=12.0), make("scarf", lip=12.0), make("laid-on", plate=flat(40, 3)),
            make("hole", form="diamond", diameter=9.0), make("hole", sink=30.0), make("hole", diameter=8.0, sink=5.0, ball=2.0), make("taper", root=square(20)), make("traced", course="x"),
            make("twist", flattened=flat(40, 12)), make("twist", length=10.0, turns=9.0),
        ):  # fmt: skip
            with self.subTest(feature=feature), self.assertRaises(NoAnswer) as caught:
                shape_of(feature, place)
            with self.subTest(feature=feature):
                self.assertTrue(caught.exception.reason and caught.exception.remedy)
                self.assertNotIn(" mm", caught.exception.reason)

    def test_an_end_that_is_not_free_is_flagged_for_every_outer_shape(self):
        for feature in CASES:
            if isinstance(feature, Outer) and feature.kind != "section-change":
                place = Place(square(26), False, False)
                try:
                    told = " ".join(c.line.text for c in checks_of(feature, place))
                except NoAnswer:
                    continue
                with self.subTest(kind=feature.kind):
                    self.assertIn("its end is not free", told)


class Words(unittest.TestCase):
    def test_only_what_is_round_is_drawn_with_a_diameter(self):
        for kind, sizes, turned in (
            ("spread", {}, False), ("head", {"form": "cap"}, True), ("head", {"form": "square"}, False), ("hole", {}, True),
            ("hole", {"form": "square", "method": "punched"}, False), ("ball", {}, True), ("drifted-eye", {"form": "slot"}, False),
        ):  # fmt: skip
            feature = KINDS[kind](id="x", **sizes)
            marks = {feature.marked(s.mark) for s in specs(feature).values()}
            self.assertEqual(("diameter" in marks, "width" in marks), (turned, not turned), (kind, sizes))

    def test_the_guide_shows_what_the_arithmetic_says(self):
        text = (resources.files("long_ember") / "assets" / "guide.md").read_text(encoding="utf-8")
        written = BEGIN + text.split(BEGIN)[1].split(END)[0] + END
        self.assertEqual(written, worked_chapter(), "run ./ember guide")
        for cls in KINDS.values():
            self.assertIn(f"**{cls.title}** (", written)

    def test_what_a_hole_says_comes_out_is_what_it_takes_out(self):
        place = Place(flat(40, 10), False, False)
        for method in ("drilled", "punched"):
            for sink in (0.0, 13.0):
                hole = KINDS["hole"](id="x", diameter=7.0, sink=sink, method=method, length=24.0)
                told = [line.values[-1].value for line in hole.sum_lines(place) if "comes out" in line.text]
                with self.subTest(method=method, sink=sink):
                    self.assertEqual(len(told), 2 if sink else 1)
                    self.assertAlmostEqual(sum(told), hole.removed(place))
                    asked = sum("ountersink" in work.line.text for work in hole.operations(place))
                    self.assertEqual(asked, 1 if sink else 0)  # what the sum counts, somebody is told to do

    def test_facings_have_words(self):
        self.assertEqual([facing_words(v) for v in FACINGS.values()], list(FACINGS))
        self.assertEqual(facing_words(30), "30° from up to the front")
        self.assertEqual(facing_words(360), "up")

    def test_every_kind_goes_by_several_names_and_none_twice_within_a_kind(self):
        for cls in KINDS.values():
            self.assertGreaterEqual(len(cls.also), 3, cls.kind)
            self.assertEqual(len(set(cls.also)), len(cls.also))
            self.assertNotIn(cls.title.lower(), cls.also)


class Steel(unittest.TestCase):
    def test_every_material_says_where_its_figures_come_from(self):
        for material in MATERIALS.values():
            with self.subTest(material.key):
                self.assertTrue(material.source)
                self.assertLess(material.low, material.start)
                self.assertTrue(2e-3 < material.density < 1e-2)
                for asked in (600, 700, 850, 900, 1100):
                    self.assertTrue(0 < material.stop(asked) < material.start, asked)
                if material.weld:
                    self.assertGreater(material.stop(1200, weld=True), material.stop(850))
                self.assertEqual(material.stop(20), 20)  # cold work is cold in every metal

    def test_mass_follows_the_material_and_heats_stay_countable(self):
        piece = Piece(features=(make("scroll"), make("run"), make("tenon", toward="B")))
        base = answer(piece)
        for key, material in MATERIALS.items():
            other = answer(replace(piece, material=key))
            self.assertAlmostEqual(other.reckoning.mass / base.reckoning.mass, material.density / MILD.density, delta=1e-9)
            self.assertTrue(1 <= other.plan.count < 60, key)
            told = " ".join(c.line.text for _z, c in other.checks)
            self.assertEqual("guess by likeness" in told, not material.modelled)
            self.assertIn(material.note.split(":")[0][:12] if material.note else "", told)

    def test_what_is_not_forge_welded_is_said(self):
        piece = Piece(features=(make("scarf"), make("run")), material="stainless")
        self.assertIn("not forge welded", " ".join(c.line.text for _z, c in answer(piece).checks))
        self.assertNotIn("not forge welded", " ".join(c.line.text for _z, c in answer(replace(piece, material="mild-steel")).checks))
        self.assertGreater(window(MILD.weld, MILD.stop(1200, weld=True), 144, 48, 150, 12, MILD.carbon), 0.5)


class Marks(unittest.TestCase):
    def test_holes_slots_and_cuts_are_marked_where_they_come(self):
        piece = Piece(
            features=(
                make("split", cut=60.0, root=10.0),
                make("run"),
                make("hole"),
                make("drifted-eye", diameter=10.0),
                make("run", id="r"),
            )
        )
        r = reckon(piece)
        found = {(m.kind, round(m.at, 3)) for m in marks(r) if m.before == m.after}
        split, _run, hole, eye, _r = r.zones
        self.assertIn(("centre pop, deep, for the hole", round((hole.start + hole.end) / 2, 3)), found)
        self.assertIn(("centre pop, cut ends", round(split.start + split.length * 60 / 70, 3)), found)
        slot = sorted(at for kind, at in found if "slot end" in kind)
        self.assertAlmostEqual(slot[1] - slot[0], min(make("drifted-eye", diameter=10.0).opened(), eye.length), delta=0.01)
        running = [m.at for m in marks(r)]
        self.assertEqual(running, sorted(running))
        from_b = [m.at for m in marks(r, "B")]
        np.testing.assert_allclose(sorted(r.cut - at for at in from_b), running, atol=1e-9)

    def test_a_traced_curve_marks_its_bends_and_a_reversed_twist_its_middle(self):
        piece = Piece(features=(make("traced"), make("twist", hand="reversed", turns=1.0)))
        kinds = [m.kind for m in marks(reckon(piece))]
        self.assertEqual(sum("bend begins" in k for k in kinds), 2)
        self.assertEqual(sum("turns round" in k for k in kinds), 1)
        shown = make("traced").schedule(Place(square(12)))[0].show(Measure())
        self.assertEqual(shown, "At 40 mm bend 60° round a middle radius of 30 mm, ending at 71.4 mm")


class Order(unittest.TestCase):
    def order(self, *features, **more):
        plan = sequence(Piece(features=features, **more))[1]
        return [w.step.operation.verb for h in plan.heats for w in h.work]

    def test_rings_are_bent_before_they_are_closed_and_welds_come_before_other_bends(self):
        ring = self.order(make("scarf"), make("bend", angle=350.0, radius=40.0), make("scarf", id="s2", toward="B"))
        self.assertLess(ring.index("bend"), ring.index("close"))
        tool = self.order(make("extension"), make("run"), make("bend"), make("run", id="r"))
        self.assertLess(tool.index("weld"), tool.index("bend"))

    def test_threads_and_files_come_last_and_cuts_before_the_bends_beside_them(self):
        verbs = self.order(make("thread"), make("run"), make("bend"), make("chamfer", method="filed"), make("taper", toward="B"))
        self.assertEqual(set(verbs[-2:]), {"thread", "file"})
        forked = self.order(make("split", cut=80.0), make("bend"), make("run"), bar=square(16))
        self.assertLess(forked.index("split"), max(i for i, v in enumerate(forked) if v == "bend"))

    def test_no_kind_goes_by_the_name_of_another(self):
        taken: dict[str, str] = {}
        for kind, cls in KINDS.items():
            for name in {kind, cls.title.lower(), *map(str.lower, cls.also)}:
                self.assertEqual(taken.setdefault(name, kind), kind, f"{name!r} leads to two kinds")

    def test_every_tool_word_is_one_that_the_kit_answers_or_that_every_smithy_has(self):
        answered = {word for _title, words in KIT.values() for word in words}
        answered |= {part for tool in PLAIN_TOOLS for part in tool.split(" or ")}
        for feature in CASES:
            for operation in _operations(feature):
                for tool in operation.tools:
                    with self.subTest(kind=feature.kind, tool=tool):
                        self.assertTrue(answered & set(tool.split(" or ")))

    def test_rules_name_only_verbs_that_features_use(self):
        done = [o for f in CASES for o in _operations(f)]
        used, ways = {o.verb for o in done}, {o.way for o in done}
        self.assertLessEqual(used, set(VERBS))
        for rule in RULES:
            self.assertLessEqual(rule.before | rule.after, set(VERBS) | ways | {"own"}, rule.id)
        self.assertEqual(set(VERBS) - used, {"own"})  # that is the smith's

    def test_every_pair_of_kinds_can_stand_in_one_piece(self):
        for a, b in itertools.permutations(KINDS, 2):
            first, second = make(a, id="a").fitted(square(16)), make(b, id="b").fitted(square(16))
            if isinstance(second, Outer):
                second = second.turned()
            plan = sequence(Piece(bar=square(16), features=(first, make("run", id="m"), second)), quick=True)[1]
            self.assertEqual(
                sorted({w.step.number for h in plan.heats for w in h.work}),
                list(range(len(_operations(first, 16)) + len(_operations(second, 16)))),
            )


def _operations(feature, side: float = 26):
    at_b = isinstance(feature, Outer) and feature.toward == "B"
    try:
        return feature.operations(Place(square(side), not at_b, at_b))
    except NoAnswer:
        return ()


class SectionEntries(unittest.TestCase):
    @given(
        st.sampled_from(sorted(SHAPES)),
        st.floats(4, 80).map(lambda v: round(v, 2)),
        st.floats(0.05, 0.45),
        st.booleans(),
        st.sampled_from(["mm", "in"]),
    )
    def test_what_is_shown_reads_back(self, shape, size, share, broken, unit):
        spec = SHAPES[shape]
        if spec.hollow:
            bar = Section(shape, size, size, wall=round(size * share, 2))
        else:
            corner = round(size * share / 2, 2) if shape in ("square", "flat") else 0.0
            bar = Section(shape, size, size * (0.5 if spec.two_sizes else spec.ratio), corner, broken and corner > 0)
        back = parse_section(bar.edit_text(Measure(unit)), unit=unit)
        for name in ("width", "thickness", "corner", "wall"):
            self.assertAlmostEqual(getattr(back, name), getattr(bar, name), delta=2e-3)
        self.assertEqual((back.shape, back.broken), (bar.shape, bar.broken))
        self.assertAlmostEqual(back.area, bar.area, delta=0.02 * size)

    def test_a_fraction_beside_a_whole_number_makes_both_inches(self):
        for text in ("1 x 1/4 flat", "1/4 x 1", "1 x ¼"):
            self.assertEqual(parse_section(text), flat(25.4, 6.35), text)
        self.assertEqual(parse_section("25 mm x 1/4"), flat(25, 6.35))

    def test_corners_and_walls_that_can_not_be_are_refused_with_an_example(self):
        for text in ("12 sq corners 9", "12 rd corners 1", "12 sq broken x", "12 tube", "20x11 tube", "20 half x 3", "12 sq corners"):
            with self.subTest(text), self.assertRaises(EntryError) as caught:
                parse_section(text)
            self.assertTrue(caught.exception.example)
