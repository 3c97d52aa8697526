"""Marks with all that is to be known of them, jigs and their spring-back, gauges; the tables of the wall."""

import math
import unittest
from itertools import pairwise

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from long_ember.desk.finding import Findable, guide_sections, matching
from long_ember.document import answer, make_mate
from long_ember.errors import EntryError
from long_ember.features import KINDS, Piece, shape_of
from long_ember.fields import SheetThickness
from long_ember.fullsize import carry_line, curved_of, jigs_of, marking_out, overbent, overhang_line, story_sticks, templates_of
from long_ember.fullsize.jig import STIFF
from long_ember.materials import MATERIALS
from long_ember.records import Shop
from long_ember.sections import Blend, flat, round_, square
from long_ember.tables import WALL_TABLES, table_of, tables_with
from long_ember.tables.drills import DRILLS, drill_near
from long_ember.tables.lists import Setting
from long_ember.units import GAUGES, Measure, gauge_words, read_gauge
from tests.paper_case import demo_pieces

MM = Measure()


def planned(piece):
    return answer(piece, forge=Shop().forge)


class Marks(unittest.TestCase):
    def test_both_ends_faces_and_the_mate(self):
        for name, piece in demo_pieces().items():
            made = planned(piece)
            for drawn in (False, True):
                whole = piece.composition.drawn.length if drawn else made.reckoning.cut
                for row in marking_out(made, drawn=drawn):
                    with self.subTest(name, at=row.mark.at):
                        self.assertAlmostEqual(row.mark.at + row.far, whole)
                        self.assertAlmostEqual(row.cubes * piece.bar.thickness, row.mark.at)
                        self.assertEqual(row.mirrored, row.face.replace("front", "back"))
                        if row.over:  # something is set over the edge there, hot: it overhangs no more than the bar is long
                            self.assertTrue(row.heat is not None and not row.heat.cold)
                            self.assertLessEqual(row.over, whole)
                            self.assertGreater(row.over_hot, row.over)
        mate = make_mate(demo_pieces()["Lantern bracket"]).after
        self.assertEqual(
            [m.mark.at for m in marking_out(planned(mate))], [m.mark.at for m in marking_out(planned(demo_pieces()["Lantern bracket"]))]
        )

    def test_a_mark_must_be_cold_only_where_both_ends_have_lost_their_length(self):
        # Both ends of a staple are tapered and bent in turn: what is bent second lies between bent and not yet bent bar.
        rows = marking_out(planned(demo_pieces()["Mooring staple"]))
        self.assertTrue(0 < sum(row.cold for row in rows) < len(rows) / 2)
        for row in rows:
            if row.cold:
                self.assertGreater(row.heat.number, 1)
        one = Piece(bar=square(12), features=(KINDS["taper"](id="a", toward="A"), KINDS["run"](id="b", length=80.0)))
        self.assertFalse(any(row.cold for row in marking_out(planned(one))))  # measured from the end that nobody touches

    def test_what_overhangs_by_the_shops_edge(self):
        row = next(r for r in marking_out(planned(demo_pieces()["Gate pintle"])) if r.over)
        self.assertIn("overhang", overhang_line(row, 100.0, "far").show(MM))
        self.assertIn("short of the far one", overhang_line(row, row.over_hot + 10, "near").show(MM))
        self.assertIn("past the far one", overhang_line(row, row.over_hot - 10, "near").show(MM))
        self.assertEqual(carry_line(row, 80.0, 150.0).show(MM), "dividers 80 mm")
        self.assertTrue(carry_line(row, 180.0, 150.0).show(MM).startswith("tape"))

    def test_a_pop_never_lies_on_the_outside_of_a_bend(self):
        for facing, face in ((0.0, "front face"), (180.0, "front face"), (90.0, "upper face"), (270.0, "upper face")):
            piece = Piece(bar=square(12), features=(KINDS["run"](id="a"), KINDS["bend"](id="b", facing=facing), KINDS["run"](id="c")))
            faces = {row.face for row in marking_out(planned(piece)) if "bend" in row.use}
            self.assertEqual(faces, {f"{face}, toward the inside"})

    def test_the_least_stick_has_no_more_than_it_must(self):
        made = planned(demo_pieces()["Oar cradle"])
        whole, least = (sum(line.layer == "MARK" for line in story_sticks(made, MM, least=flag)[0].lines) for flag in (False, True))
        cold = sum(row.cold or "" in (row.mark.before, row.mark.after) for row in marking_out(made))
        self.assertEqual((whole, least), (len(made.marks), cold))


class Jigs(unittest.TestCase):
    @given(st.floats(4, 80), st.floats(20, 170), st.floats(3, 16), st.sampled_from(tuple(STIFF)))
    def test_cold_steel_springs_back_by_the_closed_form(self, radius, angle, thick, material):
        found = overbent(radius, angle, Blend(20.0, thick, 1.0), material)
        stress, modulus = STIFF[material]
        bent, wanted = found.radius + thick / 2, radius + thick / 2
        a = bent * stress / (modulus * thick)
        self.assertAlmostEqual(bent / wanted, 4 * a**3 - 3 * a + 1, delta=2e-4)
        self.assertGreaterEqual(found.angle, angle)
        self.assertAlmostEqual(math.radians(found.angle) * bent, math.radians(angle) * wanted, places=6)  # the middle keeps its length

    def test_every_material_and_round_bar_spring_too(self):
        self.assertEqual(set(STIFF), set(MATERIALS))
        self.assertGreater(overbent(30, 90, round_(10).blend, "mild-steel").gives, overbent(30, 90, Blend(10, 10, 1), "mild-steel").gives)

    def test_pegs_stand_beside_the_steel_and_bends_alike_share_a_jig(self):
        for name, piece in demo_pieces().items():
            jigs = jigs_of(piece, MM, 12.0)
            self.assertEqual(sum(len(jig.names) for jig in jigs), len(curved_of(piece)), name)
            for jig in jigs:
                outlines = [line.points for line in jig.drawing.lines if line.closed]
                for x, y, d, what in jig.pegs:
                    near = min(float(np.hypot(*(points - (x, y)).T).min()) for points in outlines)
                    with self.subTest(name, jig=jig.names, peg=what):
                        self.assertGreaterEqual(near, d / 2 - 0.25)
                for (x, y, d, _w), (u, v, e, _v) in pairwise(jig.pegs):
                    self.assertGreaterEqual(math.hypot(x - u, y - v), (d + e) / 2 - 0.01)
        self.assertEqual(max(len(jig.names) for jig in jigs_of(demo_pieces()["Door pull"], MM, 12.0)), 4)

    @given(st.just(0.0) | st.floats(1, 60), st.floats(10, 175), st.floats(1, 300), st.floats(4, 25), st.floats(5, 20))
    def test_pegs_of_any_bend_leave_walls_between_them_and_stand_beside_the_bar(self, radius, angle, before, thick, peg):
        piece = Piece(bar=square(thick), features=(KINDS["run"](id="a", length=before), KINDS["bend"](id="b", radius=radius, angle=angle)))
        (jig,) = jigs_of(piece, MM, peg)
        bar = jig.drawing.lines[0].points
        for i, (x, y, d, _what) in enumerate(jig.pegs):
            for u, v, e, _w in jig.pegs[:i]:
                self.assertGreaterEqual(math.hypot(x - u, y - v), (d + e) / 2 + 0.99)
            self.assertGreaterEqual(float(np.hypot(*(bar - (x, y)).T).min()), d / 2 - 0.25)
        if jig.spring is not None:
            self.assertLessEqual(jig.spring.radius, radius + 1e-9)

    def test_a_ring_by_its_inside_line_is_as_long_as_its_circle(self):
        piece = Piece(bar=square(10), features=(KINDS["bend"](id="a", angle=180.0, radius=40.0),))
        drawings = {edge: templates_of(piece, MM, edge=edge, whole=False)[0] for edge in ("inside", "middle", "outside")}
        for edge, radius in (("inside", 40.0), ("outside", 50.0)):
            line = next(one.points for one in drawings[edge].lines if one.layer == "CUT")
            self.assertAlmostEqual(float(np.hypot(*np.diff(line, axis=0).T).sum()), math.pi * radius, delta=0.1)
        across = [Piece(bar=flat(25, 6), features=(KINDS["bend"](id="a", radius=30.0, facing=facing),)) for facing in (0.0, 90.0)]
        deep = [float(np.hypot(*(curved_of(p)[0].left[0] - curved_of(p)[0].right[0]))) for p in across]
        self.assertAlmostEqual(deep[0], 6.0, places=3)
        self.assertAlmostEqual(deep[1], 25.0, places=3)  # bent on edge: its width lies in the plane

    def test_notches_are_as_wide_as_the_taper_is_there(self):
        piece = Piece(bar=square(12), features=(KINDS["taper"](id="a", length=90.0, tip=3.0), KINDS["run"](id="b")))
        notches = next(d for d in templates_of(piece, MM, whole=False, curves=False) if d.name.startswith("Notches"))
        edge = notches.lines[0].points
        tops = [(a, b) for a, b in pairwise(edge) if a[1] == b[1] > 0 and a[1] < edge[:, 1].max()]
        widths = [float(b[0] - a[0]) for a, b in tops]
        spans = shape_of(piece.features[0], piece.place(0)).spans
        self.assertAlmostEqual(widths[0], 3.0)
        self.assertAlmostEqual(widths[-1], spans[-1].end.t)
        np.testing.assert_allclose(np.diff(widths), (12 - 3) / 5, atol=1e-9)


class Tables(unittest.TestCase):
    def test_every_row_fills_its_columns_in_both_units(self):
        for table in WALL_TABLES:
            for measure in (MM, Measure("in")):
                rows = table.rows(Setting(measure))
                self.assertTrue(rows)
                self.assertEqual({len(row) for row in rows}, {len(table.columns)}, table.key)
                self.assertIn(len(table.colours), (0, len(rows)))
        self.assertEqual([t.key for t in tables_with("m8 tap")], ["metric"])
        self.assertEqual(tables_with("straw")[0].key, "temper-colours")

    def test_check_values(self):
        rows = {row[0]: row for row in table_of("metric").rows(Setting(MM))}
        self.assertEqual(rows["M8"][2:5], ["6.75 mm", "6.8 mm", "74 %"])
        inch = {row[0]: row for row in table_of("inch").rows(Setting(Measure("in")))}
        self.assertEqual(inch["1\u20444\u2033 coarse"][3], "no. 7")
        self.assertEqual([row[1] for row in table_of("mass").rows(Setting(MM)) if row[0] == "12 mm"], ["1.13 kg/m"])
        for thick, inside, used, off in (row for row in table_of("bends").rows(Setting(MM))):
            t, r, arc, deduct = (float(cell.removesuffix(" mm")) for cell in (thick, inside, used, off))
            self.assertAlmostEqual(2 * (r + t) - arc, deduct, delta=0.11)
        # Volume by Simpson's rule over the stations is the pyramid frustum's.
        stations = table_of("taper").rows(Setting(MM, taper=(Blend(3, 3, 1), Blend(12, 12, 1), 90.0), stations=3))
        areas = [float(row[3].removesuffix(" mm²")) for row in stations]
        simpson = 90 / 4 / 3 * (areas[0] + 4 * areas[1] + 2 * areas[2] + 4 * areas[3] + areas[4])
        self.assertAlmostEqual(simpson, 90 / 3 * (144 + 36 + 9), delta=12)

    def test_drills_lie_in_order_and_none_is_named_that_is_far_off(self):
        self.assertEqual([mm for _n, mm in DRILLS], sorted(mm for _n, mm in DRILLS))
        self.assertTrue(all(0.95 < mm < 41 for _n, mm in DRILLS))
        self.assertIsNone(drill_near(55.0, "mm"))
        self.assertEqual(drill_near(10.2, "mm")[0], "10.2 mm")

    def test_gauge_numbers_are_read_with_their_system(self):
        for name, inches in (("14 ga", 0.0747), ("10 gauge", 0.1345), ("14 awg", 0.0641), ("16 swg", 0.064), ("12 bwg", 0.109)):
            self.assertAlmostEqual(read_gauge(name) / 25.4, inches, places=4)
        field = SheetThickness("Sheet")
        for key, (_title, rows) in GAUGES.items():
            for number, mm in rows.items():
                for measure in (MM, Measure("in", ascii=True)):
                    kept = field.read(f"{number} {key}", measure)
                    self.assertAlmostEqual(kept, mm, places=3)
                    self.assertAlmostEqual(field.read(field.show(kept, measure), measure), kept, places=3)
        self.assertIn("14 ga, US standard", field.show(field.read("14 ga", MM), MM))
        self.assertEqual(gauge_words(2.0), "")
        self.assertEqual(field.read("14", MM), 14.0)  # a bare number is a length
        with self.assertRaises(EntryError):
            read_gauge("2 ga")


class Finding(unittest.TestCase):
    def test_titles_before_words_and_every_word_counts(self):
        things = [
            Findable(kind, title, words, lambda: None)
            for kind, title, words in (
                ("guide", "Marks", "hook the tape"),
                ("shape", "Hook", ""),
                ("piece", "Oilskin hook", "boathouse"),
                ("do", "Quit", ""),
            )
        ]
        self.assertEqual([f.title for f in matching("hook", things)], ["Hook", "Oilskin hook", "Marks"])
        self.assertEqual([f.title for f in matching("boathouse hook", things)], ["Oilskin hook"])
        self.assertEqual(matching("  ", things), [])
        self.assertEqual(guide_sections("# T\n\n## One\ntext\n### Two\nmore"), [("One", "\ntext\n"), ("Two", "\nmore")])
