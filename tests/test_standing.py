"""Features on one another: what a form covers, what a work finds, and that the steel is kept; each by a second method."""

import itertools
import math
import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import quad
from scipy.optimize import brentq

from long_ember.assemblies import meeting_places
from long_ember.assemblies.joining import _anchor, part_model
from long_ember.document import (
    answer,
    cover,
    give_own_bar,
    in_order,
    insert,
    lay_down,
    lay_on,
    lays_on,
    make_mate,
    measure_from,
    remove,
    scaled,
    turn_round,
)
from long_ember.errors import NoAnswer, PieceFileError
from long_ember.features import KINDS, Allowances, Piece, Standing
from long_ember.features.limb import limb_shapes
from long_ember.features.shape import Corner, Straight
from long_ember.features.turning import bend_factor
from long_ember.geometry import DONE, UNDONE, Pose, piece_bodies
from long_ember.heats import moment, staged
from long_ember.sections import flat, round_, square
from long_ember.stock import reckon
from long_ember.storage import piece_from_text
from long_ember.storage.piece_file import piece_to_text
from long_ember.units import Measure

BARE = Allowances(scale=0.0, trim=0.0)


def make(kind: str, identity: str = "", **fields):
    return KINDS[kind](id=identity or kind, **fields)


def on(feature, at: float = 0.0, landmark: str = "A", edge: str = "B", toward: str = "B") -> Standing:
    return Standing(feature=feature, on=landmark, edge=edge, at=at, along=toward)


TAPER = make("taper", form="round", length=120.0, tip=3.0)
CURL = make("bend", "curl", angle=300.0, radius=3.0)
HOOK = make("hook", inside=30.0, sweep=200.0, lip=0.0)


def tapered(*standing: Standing, bar=None) -> Piece:
    return Piece(bar=bar or square(8), features=(TAPER, make("run", length=80.0)), standing=standing, allowances=BARE)


def volume(piece: Piece) -> float:
    """Of the solids that are drawn and exported, mm³, by tetrahedra from the origin."""
    total = 0.0
    for body in piece_bodies(piece):
        points, faces = body.mesh.points, body.mesh.faces
        for tri in (faces[:, [0, 1, 2]], faces[:, [0, 2, 3]]):
            a, b, c = (points[tri[:, i]] for i in range(3))
            total += float(np.einsum("ij,ij->i", a, np.cross(b, c)).sum()) / 6
    return total


class CheckValues(unittest.TestCase):
    def test_a_taper_is_as_long_in_the_bar_whatever_is_laid_on_it(self):
        plain = tapered()
        self.assertAlmostEqual(reckon(plain).zones[0].stock, 55.964, places=3)
        self.assertAlmostEqual(reckon(plain).zones[0].shape.volume, 3581.70, places=2)
        dressed = tapered(on(CURL), on(HOOK, 6.0, "curl"))
        self.assertEqual(reckon(dressed).likely, reckon(plain).likely)
        self.assertAlmostEqual(reckon(dressed).finished, reckon(plain).finished)
        self.assertAlmostEqual(math.fsum(s.volume for _id, s in dressed.shapes), math.fsum(s.volume for _id, s in plain.shapes), places=6)

    def test_a_curl_and_a_hook_on_a_taper(self):
        found = tapered(on(CURL), on(HOOK, 6.0, "curl")).composition
        curl, hook = found.stand("curl"), found.stand("hook")
        self.assertAlmostEqual(curl.covered, 23.057, places=3)
        self.assertAlmostEqual(curl.place.bar.blend.t, 3.480, places=3)
        self.assertAlmostEqual(bend_factor(curl.place.rule, 3.0, curl.place.bar.blend.t), 0.4033, places=4)
        shapes = dict(found.shapes)
        self.assertAlmostEqual(shapes["curl"].length, 24.819, places=3)
        self.assertAlmostEqual(hook.start, 29.057, places=3)
        self.assertAlmostEqual(hook.covered, 61.962, places=3)
        self.assertAlmostEqual(hook.place.bar.blend.t, 5.502, places=3)
        self.assertAlmostEqual(hook.end, 91.019, places=3)

    def test_the_same_by_solving_the_equation_at_once(self):
        def depth(s: float) -> float:
            return 3.0 + (8.0 - 3.0) * s / 120.0

        theta = math.radians(300)
        covered = brentq(lambda d: d - theta * (3 + (0.33 + 0.17 * min(3 / (2 * depth(d / 2)), 1)) * depth(d / 2)), 1, 60)
        self.assertAlmostEqual(tapered(on(CURL)).composition.stand("curl").covered, covered, places=8)

    def test_an_eye_on_a_stem_that_was_set_down(self):
        stem = make("section-change", "stem", section=round_(4), length=42.380, blend=0.0)
        eye = make("eye", inside=10.0, sweep=360.0, trim=0.0)
        piece = Piece(bar=flat(20, 5), features=(stem, make("run", length=60.0)), allowances=BARE)
        self.assertAlmostEqual(reckon(piece).zones[0].shape.volume, 532.56, places=2)
        self.assertAlmostEqual(reckon(piece).zones[0].stock, 5.326, places=3)
        dressed = replace(piece, standing=(on(eye),))
        dressed.verify()
        self.assertEqual(reckon(dressed).likely, reckon(piece).likely)

    def test_a_hole_in_a_leaf_is_measured_in_the_leaf(self):
        leaf = make("spread", "leaf", outline="lens", length=40.0, width=24.0, thickness=3.0)
        hole = make("hole", diameter=5.0)
        piece = Piece(
            bar=square(12), features=(leaf, make("run", length=80.0)), standing=(on(hole, 0.0, "leaf", "middle"),), allowances=BARE
        )
        stand = piece.composition.stand("hole")
        self.assertAlmostEqual((stand.place.bar.width - 5.0) / 2, 9.5, delta=0.05)
        self.assertEqual([c for c in stand.feature.checks(stand.place) if c.level == "warn"], [])
        plain = replace(piece, standing=())
        self.assertAlmostEqual(
            reckon(plain).finished - reckon(piece).finished, math.pi / 4 * 25 * 3.0, delta=0.3
        )  # the slices of the leaf are scaled by a hair to have its volume
        self.assertEqual(reckon(piece).likely, reckon(plain).likely)

    def test_a_hole_in_a_flattened_run(self):
        flat_run = make("section-change", "flat", section=flat(16, 9), length=60.0, blend=0.0)
        hole = make("hole", diameter=8.0)
        piece = Piece(bar=square(12), features=(make("run", length=50.0), flat_run, make("run", "b", length=50.0)),
                      standing=(on(hole, 0.0, "flat", "middle"),), allowances=BARE)  # fmt: skip
        self.assertAlmostEqual((piece.composition.stand("hole").place.bar.width - 8.0) / 2, 4.0)
        self.assertAlmostEqual(piece.composition.stand("hole").middle, 80.0)

    def test_a_bend_in_a_taper_finds_the_depth_where_it_lies(self):
        taper = make("taper", form="square", length=200.0, tip=4.0)
        bend = make("bend", angle=90.0, radius=20.0)
        piece = Piece(bar=square(12), features=(taper, make("run", length=80.0)), standing=(on(bend, 150.0),), allowances=BARE)
        stand = piece.composition.stand("bend")
        self.assertAlmostEqual(stand.start, 150.0)
        self.assertAlmostEqual(stand.place.bar.blend.t, 4.0 + 8.0 * stand.middle / 200.0)


class Kept(unittest.TestCase):
    @given(st.floats(0.5, 60), st.floats(20, 330), st.floats(1, 30), st.sampled_from(["up", "front", "down"]))
    @settings(max_examples=60)
    def test_moving_a_form_changes_no_volume_and_no_cut_length(self, at, angle, radius, side):
        bend = make("bend", angle=angle, radius=radius, facing={"up": 0.0, "front": 90.0, "down": 180.0}[side])
        plain, piece = tapered(), tapered(on(bend, at))
        try:
            piece.verify()
        except NoAnswer as error:
            self.assertIn("past the end", error.reason)
            self.assertTrue(error.remedy)
            return
        self.assertEqual(reckon(piece).likely, reckon(plain).likely)
        self.assertAlmostEqual(math.fsum(s.volume for _i, s in piece.shapes), math.fsum(s.volume for _i, s in plain.shapes), places=6)
        for _identity, shape in piece.shapes:
            self.assertAlmostEqual(math.fsum(x.length for x in shape.path), shape.length, places=6)

    def test_the_solid_has_the_volume_of_the_sum(self):
        piece = tapered(on(CURL), on(HOOK, 6.0, "curl"), on(make("twist", length=40.0, turns=1.0), 10.0, "run", "B", "A"))
        self.assertAlmostEqual(volume(piece) / reckon(piece).finished, 1.0, delta=2e-3)

    def test_a_punched_hole_swells_what_it_stands_in(self):
        run = make("run", length=120.0)
        for slug in (0.3, 1.0):
            hole = make("hole", diameter=6.0, method="punched", slug=slug)
            piece = Piece(bar=flat(30, 8), features=(run,), standing=(on(hole, 60.0),), allowances=BARE)
            steel = math.fsum(s.volume for _i, s in piece.shapes)
            self.assertAlmostEqual(steel, 30 * 8 * 120 - math.pi * 9 * 8 * slug, places=6)
            self.assertAlmostEqual(reckon(piece).finished, steel, places=6)
            self.assertAlmostEqual(reckon(piece).likely, 120.0)

    def test_a_twist_shortens_what_it_covers(self):
        run, twist = make("run", length=200.0), make("twist", length=100.0, turns=2.0)
        piece = Piece(bar=square(12), features=(run,), standing=(on(twist, 40.0),), allowances=BARE)
        stand = piece.composition.stand("twist")
        self.assertGreater(stand.covered, 100.0)
        shapes = dict(piece.shapes)
        self.assertAlmostEqual(shapes["twist"].length, 100.0)
        self.assertAlmostEqual(sum(s.turns for s in shapes["twist"].spans), 2.0)
        self.assertAlmostEqual(math.fsum(s.length for _i, s in piece.shapes), 200.0 - (stand.covered - 100.0))

    def test_section_areas_under_a_bend_by_quadrature(self):
        piece = tapered(on(HOOK, 20.0))
        stand = piece.composition.stand("hook")
        spans = dict(piece.shapes)["hook"].spans

        def area(s: float) -> float:  # of the drawn taper, square turning round
            u = s / 120.0
            side, k = 3.0 + 5.0 * u, math.pi / 4 + (1 - math.pi / 4) * u
            return k * side * side

        self.assertAlmostEqual(math.fsum(s.volume for s in spans), quad(area, stand.start, stand.end)[0], places=6)


class Recut(unittest.TestCase):
    """What makes the stretch it covers anew: splits, drifted eyes, necks, chamfers, bevels; and work on the surface."""

    MADE = (
        make("split", cut=40.0, kerf=1.0, across="width", angle=60.0, radius=2.0), make("drifted-eye", diameter=12.0), make("chamfer", length=25.0, method="filed"),
        make("bevel", length=25.0), make("neck", size=4.0, fuller=8.0), make("neck", size=14.0, fuller=8.0, sides="edges"),
    )  # fmt: skip

    @given(st.sampled_from(MADE), st.floats(30.0, 120.0), st.booleans())
    @settings(max_examples=60, deadline=None)
    def test_the_steel_is_kept_on_any_steel_and_the_bar_stays_as_long(self, made, at, tapered):
        row = (make("taper", "host", form="flat", wide=16.0, tip=6.0, length=200.0),) if tapered else (make("run", "host", length=200.0),)
        piece = Piece(bar=flat(20, 8), features=(*row, make("run", "rest", length=20.0)), standing=(on(made, 0.0 if made.kind == "split" else at),),
                      allowances=BARE)  # fmt: skip
        piece.verify()
        self.assertEqual(reckon(piece).likely, reckon(replace(piece, standing=())).likely)
        self.assertAlmostEqual(math.fsum(s.volume for _i, s in piece.shapes), reckon(piece).finished, places=6)
        for _identity, shape in piece.shapes:
            self.assertAlmostEqual(math.fsum(x.length for x in shape.path), shape.length, places=6)

    def test_on_plain_bar_it_is_what_it_would_be_with_its_own(self):
        for made in self.MADE[1:]:
            own = Piece(bar=flat(20, 8), features=(make("run", length=60.0), made, make("run", "b", length=60.0)), allowances=BARE)
            stock = reckon(own).zones[1].stock
            centre = 60.0 + (stock / 2 if made.stands == "work" else 0.0)
            laid = Piece(bar=flat(20, 8), features=(make("run", length=120.0 + stock),), standing=(on(made, centre),), allowances=BARE)
            with self.subTest(made.kind):
                self.assertAlmostEqual(reckon(laid).finished, reckon(own).finished, places=6)
                one, other = (dict(piece.shapes)[made.kind] for piece in (own, laid))
                self.assertEqual([(round(a.start.w, 6), round(a.start.t, 6), round(a.length, 6)) for a in one.spans],
                                 [(round(a.start.w, 6), round(a.start.t, 6), round(a.length, 6)) for a in other.spans])  # fmt: skip

    def test_a_flattened_end_is_sawn_and_opened(self):
        """10 round flattened to 15.7 x 5 over 75, sawn 1: each tine 36.75, as much as 6.84 round."""
        flattened = make("section-change", "flat", section=flat(15.7, 5), length=75.0)
        split = make("split", cut=60.0, kerf=1.0, across="width", angle=90.0, radius=2.0, method="saw")
        piece = Piece(bar=round_(10), features=(flattened, make("run", length=200.0)), standing=(on(split),), allowances=BARE)
        stand = piece.composition.stand("split")
        area = stand.feature.tine(stand.place).area
        self.assertAlmostEqual(area, 36.75)
        self.assertAlmostEqual(2 * math.sqrt(area / math.pi), 6.84, places=2)
        self.assertAlmostEqual(stand.covered, 60.0, delta=0.02)
        self.assertAlmostEqual(reckon(piece).removed, 60 * 5, places=6)
        work = [(w.step.feature.id, w.step.operation.cold) for h in answer(piece).plan.heats for w in h.work]
        self.assertIn(("split", True), work)
        self.assertLess(work.index(("flat", False)), work.index(("split", True)))
        # No stage shows it open before it is opened.
        found = answer(piece)
        steel, seen = found.reckoning.bare * piece.bar.area, set()
        for frame in found.plan.frames:
            parts = staged(found.reckoning, frame.after)
            done = frame.after["split"] == DONE
            self.assertEqual(any(part.shape.branches for part in parts), done)
            self.assertAlmostEqual(sum(part.shape.volume for part in parts), steel - (300 if done else 0), delta=1e-6 * steel)
            seen.add(done)
        self.assertEqual(seen, {False, True})

    def test_done_later_than_what_lies_on_the_same_stretch_only(self):
        works = [
            on(make("surface", f"w{i}", work="dots", length=10.0), at=at, landmark="run", edge="A")
            for i, at in enumerate((20.0, 60.0, 22.0))
        ]
        piece = Piece(bar=square(12), features=(make("run", length=100.0),), standing=tuple(works), allowances=BARE)
        done = [s.id for s in in_order(piece, "w0", 1).after.standing]
        self.assertEqual(done, ["w2", "w1", "w0"])
        with self.assertRaisesRegex(NoAnswer, "is the last on its stretch"):
            in_order(piece, "w1", 1)
        end = replace(piece, standing=(works[0], replace(works[1], at=30.0)))  # they only touch
        with self.assertRaisesRegex(NoAnswer, "is the last on its stretch"):
            in_order(end, "w0", 1)

    def test_three_works_on_one_leaf_in_the_order_they_are_laid(self):
        leaf = make("spread", "leaf", outline="lens", length=60.0, width=24.0, thickness=3.0)
        works = [make("surface", name, work=name, length=50.0) for name in ("scallops", "veins", "fold")]
        for order in itertools.permutations(works):
            piece = Piece(
                bar=flat(20, 5), features=(leaf, make("run", length=80.0)), standing=tuple(on(w, 0.0, "leaf", "middle") for w in order)
            )
            plan = answer(piece).plan
            steps = [plan.steps[number].feature.id for number in plan.order]
            self.assertEqual([i for i in steps if i in ("scallops", "veins", "fold")], [w.id for w in order])
            self.assertAlmostEqual(math.fsum(s.volume for _i, s in piece.shapes), reckon(piece).finished, places=6)
            forms = {s.start.form for _i, shape in piece.shapes for s in shape.spans}
            self.assertIn("fold", forms)

    def test_a_hole_in_a_chamfered_stretch_and_marks_on_a_bend(self):
        chamfer, hole, mark = make("chamfer", length=60.0), make("hole", diameter=4.0), make("surface", length=30.0)
        row = (make("run", length=200.0),)
        piece = Piece(bar=flat(20, 8), features=row, standing=(on(chamfer, 50.0), on(hole, 80.0)), allowances=BARE)
        self.assertAlmostEqual(math.fsum(s.volume for _i, s in piece.shapes), reckon(piece).finished, places=6)
        bent = replace(piece, standing=(on(make("bend"), 50.0), on(mark, 70.0)))
        bent.verify()
        self.assertEqual(len(bent.shapes), 3)

    def test_a_scroll_on_a_taper_with_one_level_face(self):
        taper = make("taper", form="one-sided", length=200.0, tip=3.0)
        piece = Piece(bar=flat(20, 8), features=(taper, make("run", length=50.0)), standing=(on(make("scroll", outer=25.0, turns=1.0)),))
        piece.verify()
        self.assertTrue(any(isinstance(s, Corner) for _i, shape in piece.shapes for s in shape.path))  # what is left of it still leans


class Solved(unittest.TestCase):
    @given(st.floats(25.0, 100.0), st.sampled_from(["inside", "sweep"]))
    @settings(max_examples=20, deadline=None)
    def test_a_hook_is_made_to_cover_just_so_much(self, wanted, name):
        piece = tapered(on(make("hook", inside=20.0, lip=0.0), 5.0))
        try:
            made = cover(piece, "hook", name, wanted).after
        except NoAnswer as error:
            self.assertIn("covers just that much", error.reason)
            return
        self.assertAlmostEqual(made.composition.stand("hook").covered, wanted, places=6)
        self.assertEqual(reckon(made).likely, reckon(piece).likely)


class Refused(unittest.TestCase):
    def said(self, *standing: Standing, features=None) -> NoAnswer:
        piece = replace(tapered(*standing), features=features) if features else tapered(*standing)
        with self.assertRaises(NoAnswer) as caught:
            piece.verify()
        self.assertTrue(caught.exception.remedy)
        self.assertTrue(caught.exception.feature_id)
        return caught.exception

    def test_each_by_name_with_what_is_missing(self):
        self.assertIn("3.1 mm (0.12 in) are missing", self.said(on(CURL), on(HOOK, 20.0)).reason)
        self.assertIn("past the end", self.said(on(HOOK, 190.0)).reason)
        self.assertIn("begin 20.0 mm (0.79 in) past", self.said(on(HOOK, 220.0)).reason)
        point = (make("point", length=60.0), make("run", length=60.0))
        for wanted in (on(HOOK, 0.0, "A", "A", "A"), on(make("neck"), 0.0), on(make("hole", diameter=1.0), 0.0)):
            self.assertRegex(self.said(wanted, features=point).reason, "tip|past the end")
        chamfer = make("chamfer", length=20.0)
        twisted = (make("twist", length=100.0), make("run", length=60.0))
        self.assertIn("which is twisted", self.said(on(chamfer, 20.0), features=twisted).reason)
        pierced = (make("hole", length=40.0), make("run", length=60.0))
        self.assertIn("would take the hole", self.said(on(chamfer, 10.0), features=pierced).reason)
        self.assertIn("is not there", self.said(on(HOOK, 5.0, "nobody")).reason)
        self.assertIn("circle", self.said(on(CURL, 1.0, "hook"), on(HOOK, 1.0, "curl")).reason)
        self.assertIn("takes bar of its own", self.said(on(make("upset"), 5.0)).reason)
        self.assertIn(
            "bent already", self.said(on(HOOK, 100.0), features=(TAPER, make("bend", radius=20.0), make("run", length=40.0))).reason
        )
        self.assertIn("no tool lies flat", self.said(on(HOOK, 10.0), on(make("hole", diameter=2.0), 30.0)).reason)

    @given(st.randoms(use_true_random=False))
    @settings(max_examples=300)
    def test_what_is_let_through_can_be_drawn_with_all_its_steel(self, draw):
        """Places on joints and at the ends of forms among them: the finished piece is made later than the verdict."""
        row = tuple(
            make(draw.choice(("run", "run", "taper", "bend", "twist", "spread", "eye")), f"r{i}").fitted(flat(25, 6)) for i in range(3)
        )
        laid = [
            on(
                make(draw.choice(("bend", "hook", "hole", "hole", "twist", "drifted-eye")), f"s{i}").fitted(flat(25, 6)),
                draw.choice((0.0, draw.uniform(0.1, 40))),
                draw.choice(("A", "B", "r0", "r1", "r2")),
                draw.choice(("A", "middle", "B")),
                draw.choice("AB"),
            )
            for i in range(draw.randint(1, 3))
        ]
        piece = Piece(bar=flat(25, 6), features=row, standing=tuple(laid))
        try:
            piece.verify()
        except NoAnswer:
            return
        removed = sum(s.feature.removed(s.place) for s in piece.composition.stands)
        bare = sum(shape.volume for _id, shape in replace(piece, standing=()).shapes)
        self.assertAlmostEqual(sum(shape.volume for _id, shape in piece.shapes), bare - removed, delta=1e-6 * bare)

    def test_one_id_is_one_feature(self):
        with self.assertRaises(NoAnswer):
            tapered(on(replace(CURL, id="run")))


if __name__ == "__main__":
    unittest.main()


# A lens leaf with a countersunk hole, a twist in the plain middle, a taper with a curl and a hook laid on it.
OILSKIN = Piece(
    name="Oilskin hook", bar=square(8),
    features=(
        make("spread", "leaf", outline="lens", length=32.0, width=19.0, thickness=2.4, toward="A"),
        make("run", length=80.0),
        make("taper", form="round", length=120.0, tip=3.0, toward="B"),
    ),
    standing=(
        on(make("hole", diameter=4.8, sink=7.0), 0.0, "leaf", "middle"),
        on(make("twist", length=20.0, turns=1.0), 24.0, "run", "A"),
        on(make("curl", inner=3.0, outer=7.0, turns=0.75), 0.0, "B", "A", "A"),
        on(make("hook", inside=32.0, sweep=180.0, lip=0.0), 6.0, "curl", "A", "A"),
    ),
)  # fmt: skip


class Whole(unittest.TestCase):
    """One piece with steel, forms and works, through files, edits, the order of work and every stage."""

    def test_files_keep_it_and_older_ones_say_what_is_new(self):
        text = piece_to_text(OILSKIN)
        self.assertEqual(piece_from_text(text), OILSKIN)
        self.assertIn('"version": 5', text)
        for old, new, words in (
            ('"version": 5', '"version": 4', "standing"),
            ('"on": "curl"', '"on": "nobody"', "is not there"),
            ('"along": "A"', '"along": "up"', "must be one of"),
            ('"kind": "hook"', '"kind": "taper"', "standing"),
        ):
            with self.subTest(new), self.assertRaisesRegex(PieceFileError, words):
                piece_from_text(text.replace(old, new, 1))

    def test_it_is_laid_on_whichever_neighbour_has_room_and_what_was_measured_from_it_is_kept(self):
        row = (make("run", "short", length=12.0), make("bend", radius=20.0), make("run", "long", length=90.0))
        piece = Piece(features=row, standing=(on(make("hole", diameter=3.0), 10.0, "bend", "B"),))
        laid = lay_down(piece, "bend").after
        self.assertEqual(laid.composition.stand("bend").host, 1)
        self.assertEqual([f.id for f in laid.features], ["short", "long"])
        self.assertAlmostEqual(laid.composition.stand("hole").middle, laid.composition.stand("bend").end + 10.0)

    def test_a_file_is_as_old_as_what_it_holds(self):
        row = (make("run", "r", length=90.0), make("taper", "t"))
        for wanted, piece in (
            (1, Piece(features=row)), (5, Piece(features=row, standing=(on(make("bend"), 20.0),))),
            (6, Piece(features=row, standing=(on(make("chamfer", length=20.0), 20.0),))), (6, Piece(features=(*row, make("edge-set", thickness=15.0)))),
            (6, Piece(features=(replace(row[0], name="grip"), row[1]))), (1, Piece(features=(row[0], make("hole", tap=6.0, diameter=5.0)))),
        ):  # fmt: skip
            text = piece_to_text(piece)
            self.assertIn(f'"version": {wanted},', text)
            self.assertEqual(piece_from_text(text), piece)

    def test_steel_comes_before_what_stands_on_it_and_every_step_is_done_once(self):
        plan = answer(OILSKIN).plan
        order = [plan.steps[number].feature.id for number in plan.order]
        for later, sooner in (("hole", "leaf"), ("curl", "taper"), ("hook", "curl"), ("twist", "taper")):
            self.assertLess(order.index(sooner), order.index(later), later)
        done = [(w.step.feature.id, w.stop) for h in plan.heats for w in h.work]
        self.assertEqual({i for i, stop in done if stop == 1}, {"leaf", "taper", "hole", "twist", "curl", "hook"})
        self.assertFalse(plan.flags)

    def test_every_stage_keeps_the_steel_and_shows_nothing_before_it_is_done(self):
        found = answer(OILSKIN)
        whole = reckon(OILSKIN).bare * OILSKIN.bar.area
        for index in range(len(found.plan.frames)):
            for share in (0.0, 0.37, 1.0):
                progress = moment(found.plan, index + share).progress
                parts = staged(found.reckoning, progress)
                holes = sum(len(p.shape.voids) for p in parts)
                self.assertEqual(holes, int(progress["hole"] == DONE), (index, share))
                self.assertAlmostEqual(math.fsum(x.volume for p in parts for x in p.shape.spans), whole, delta=1e-3 * whole)
                bent = sum(not isinstance(x, Straight) for p in parts if p.id == "hook" for x in p.shape.path)
                self.assertEqual(bool(bent), progress["hook"] != UNDONE, (index, share))
            self.assertEqual([p.start for p in parts[1:]], [p.end for p in parts[:-1]])

    def test_marks_on_the_drawn_bar_from_either_end(self):
        length = OILSKIN.composition.drawn.length
        self.assertAlmostEqual(length, 232.0, places=6)
        from_a, from_b = answer(OILSKIN).drawn_marks, answer(replace(OILSKIN, datum="B")).drawn_marks
        self.assertEqual([m.of for m in from_a], ["hole", "twist", "twist", "hook", "hook", "curl"])
        for one, other in zip(from_a, reversed(from_b), strict=True):
            self.assertAlmostEqual(one.at + other.at, length)
        self.assertAlmostEqual(math.fsum(m.chain for m in from_a), from_a[-1].at)

    def test_a_landmark_that_goes_is_taken_over_by_the_nearest_end(self):
        edit = remove(OILSKIN, "curl")
        hook = next(s for s in edit.after.standing if s.id == "hook")
        self.assertEqual((hook.on, hook.along), ("B", "A"))
        self.assertIn("hook is measured from end B", edit.title)
        before, after = OILSKIN.composition.stand("hook"), edit.after.composition.stand("hook")
        self.assertAlmostEqual(before.start, after.start, places=4)
        edit = remove(OILSKIN, "leaf")
        self.assertEqual({s.on for s in edit.after.standing}, {"A", "run", "B", "curl"})

    def test_the_sum_ends_in_what_is_covered_and_speaks_of_no_bar(self):
        m = Measure()
        lip = tapered(on(make("hook", inside=30.0, sweep=120.0, lip=10.0)))
        twist = tapered(on(make("twist", length=20.0, turns=0.5), 10.0, "run", "A"))
        for piece, words in ((lip, "With the lip: "), (twist, "Expected 35 % of it: ")):
            (stand,) = piece.composition.stands
            lines = [line.show(m) for line in stand.lines]
            self.assertIn(m.length(stand.covered), lines[-1] if piece is lip else lines[1])
            self.assertTrue(lines[-1].startswith(words), lines)
            self.assertFalse([line for line in lines if " of bar" in line or line.startswith(("Stock", "Steel"))])

    def test_measured_from_elsewhere_it_stays_where_it_is(self):
        before = OILSKIN.composition.stand("hole").middle
        for landmark, edge in (("A", "A"), ("B", "A"), ("run", "middle"), ("taper", "B"), ("hook", "A")):
            piece = measure_from(OILSKIN, "hole", landmark, edge).after
            self.assertAlmostEqual(piece.composition.stand("hole").middle, before, places=5)
        with self.assertRaisesRegex(NoAnswer, "begins before that place"):
            measure_from(OILSKIN, "hook", "A", "A")

    def test_laid_on_by_default_where_steel_is_drawn_and_beside_it_on_plain_bar(self):
        self.assertTrue(lays_on(OILSKIN, "taper", "hook") and lays_on(OILSKIN, "hook", "twist") and lays_on(OILSKIN, "leaf", "hole"))
        self.assertFalse(lays_on(OILSKIN, "run", "hook") or lays_on(OILSKIN, "taper", "upset"))
        plain = replace(OILSKIN, standing=())
        laid = lay_on(plain, "taper", "hook").after
        (hook,) = laid.standing
        self.assertEqual((hook.on, hook.along), ("B", "A"))
        self.assertEqual(reckon(laid).cut, reckon(plain).cut)
        own = give_own_bar(laid, hook.id).after
        self.assertEqual((own.standing, own.features[-1].id), ((), hook.id))
        self.assertGreater(reckon(own).cut, reckon(laid).cut + 30)
        self.assertEqual(lay_down(own, hook.id).after.standing[0].feature.kind, "hook")

    @settings(max_examples=25, deadline=None)
    @given(st.sampled_from(("mate", "round", "scaled")), st.floats(0.6, 1.8))
    def test_the_mate_the_other_way_round_and_a_larger_one(self, way, factor):
        edit = {"mate": make_mate, "round": turn_round, "scaled": lambda p: scaled(p, factor)}[way](OILSKIN)
        found, was = edit.after.composition, OILSKIN.composition
        self.assertEqual({s.standing.id for s in found.stands}, {s.standing.id for s in was.stands})
        for stand in was.stands:
            now = found.stand(stand.standing.id)
            if way == "mate":
                self.assertAlmostEqual(now.start, stand.start, places=6)
            elif way == "round":
                self.assertAlmostEqual(now.start, was.drawn.length - stand.end, places=6)
        if way != "scaled":
            self.assertAlmostEqual(reckon(edit.after).cut, reckon(OILSKIN).cut)
        if way == "round":
            self.assertEqual(turn_round(edit.after).after.standing, OILSKIN.standing)

    def test_what_did_not_change_is_the_same_object_and_what_did_is_as_if_made_anew(self):
        piece = piece_from_text(piece_to_text(OILSKIN))
        before = dict(piece.shapes)
        longer = replace(piece, features=(replace(piece.features[0], length=34.0), *piece.features[1:]))
        for identity in ("twist", "hook", "curl"):
            self.assertIs(dict(longer.shapes)[identity], before[identity])
        for name, change in (("diameter", 4.0), ("sink", 8.0)):
            standing = tuple(replace(s, feature=replace(s.feature, **{name: change})) if s.id == "hole" else s for s in piece.standing)
            drilled = replace(piece, standing=standing)
            anew = piece_from_text(piece_to_text(drilled))
            self.assertEqual([s for _id, s in drilled.shapes], [s for _id, s in anew.shapes])
            self.assertNotEqual(dict(drilled.shapes)["leaf"], before["leaf"])

    def test_a_laid_on_hole_is_a_place_to_join_and_its_pin_stands_in_it(self):
        taper = on(
            make("bend", "early", angle=90.0, radius=10.0), 5.0, "run", "A"
        )  # the run comes in two parts: places are not counted by the row
        bare = Piece(bar=square(12), features=(make("run", length=60.0), make("section-change", "boss", section=flat(20, 8), length=40.0)))
        for standing in ((), (taper,)):
            piece = replace(bare, standing=(*standing, on(make("hole", diameter=8.0), 5.0, "boss", "middle")))
            self.assertEqual(meeting_places(piece, "hole"), ("boss",))
            model = part_model(piece, "")
            pose = _anchor(model, "boss", "hole").pose
            index = next(i for i, (identity, _s) in enumerate(model.shapes) if identity == "boss")
            want = model.poses[index].then(Pose(np.array([25.0, 0.0, 0.0]), np.eye(3))).at
            self.assertTrue(np.allclose(pose.at, want), standing)
        self.assertIn("early", meeting_places(piece, "ring"))


class InItsNeighboursSection(unittest.TestCase):
    """Own bar, but standing in what its neighbour ends in: the third way a form can have its place."""

    EYE = make("eye", inside=10.0, sweep=360.0, tip=None, of="B")
    STEM = make("section-change", "stem", section=round_(4), length=60.0)

    def piece(self, *features, bar=None):
        return Piece(bar=bar or flat(20, 5), features=features, allowances=BARE)

    def test_the_eye_on_a_stem_of_the_reference(self):
        zone = reckon(self.piece(self.EYE, self.STEM, make("run", length=40.0))).zones[0]
        k = bend_factor(zone.place.rule, 5.0, 4.0)
        self.assertAlmostEqual(k, 0.4363, delta=1e-3)
        self.assertAlmostEqual(2 * math.pi * (5 + k * 4), 42.380, delta=5e-3)
        self.assertAlmostEqual(zone.shape.volume, 532.56, delta=0.01)
        self.assertAlmostEqual(zone.stock, 5.326, delta=1e-3)

    @given(st.floats(3, 12), st.floats(6, 20), st.floats(90, 360), st.sampled_from(("eye", "hook", "bend")))
    def test_as_much_bar_as_a_longer_stem_with_the_same_laid_on(self, d, inside, sweep, kind):
        """The second method: the stem is made longer by what the form covers, and the form is laid on it."""
        sizes = {"eye": {"inside": inside, "sweep": sweep, "tip": None}, "hook": {"inside": inside, "sweep": sweep, "tip": None, "lip": 0.0},
                 "bend": {"angle": min(sweep, 300.0), "radius": inside / 2}}[kind]  # fmt: skip
        bar, run = square(16), make("run", length=50.0)
        stem = make("section-change", "stem", section=round_(d), length=200.0)
        form = make(kind, "form", of="B", **sizes)
        own = self.piece(form, stem, run, bar=bar)
        zone = reckon(own).zones[0]
        covered = zone.stock * bar.area / (math.pi / 4 * d * d)
        laid = replace(
            self.piece(replace(stem, length=200.0 + covered), run, bar=bar),
            standing=(Standing(feature=replace(form, of="bar"), on="A", edge="A", at=0.0, along="B"),),
        )
        self.assertAlmostEqual(reckon(own).likely, reckon(laid).likely, delta=1e-6 * reckon(laid).likely)
        self.assertAlmostEqual(volume(own), volume(laid), delta=2e-3 * volume(laid))

    def test_either_side_a_row_of_them_and_the_other_way_round(self):
        row = (make("run", length=40.0), self.STEM, make("bend", "b1", of="A"), make("bend", "b2", of="A", facing=180.0))
        piece = self.piece(*row)
        found = reckon(piece).zones
        self.assertEqual([z.place.bar.thickness for z in found], [5, 5, 4, 4])
        back = reckon(turn_round(piece).after).zones
        for one, other in zip(found, back[::-1], strict=True):
            self.assertAlmostEqual(one.stock, other.stock)
        large = scaled(piece, 2).after
        self.assertAlmostEqual(reckon(large).zones[2].stock, 2 * found[2].stock, delta=1e-6)

    def test_it_is_drawn_before_it_is_turned_and_the_steel_is_kept(self):
        piece = self.piece(self.EYE, self.STEM, make("run", length=40.0))
        found = answer(piece)
        manners = [s.operation.manner for s in found.plan.steps if s.feature.id == "eye"]
        self.assertEqual(manners, ["draw", "eye"])
        self.assertGreater(found.plan.steps[0].need, 0.5)
        whole = sum(p.shape.volume for p in staged(found.reckoning, found.plan.frames[0].before))
        for frame in found.plan.frames:
            self.assertAlmostEqual(sum(p.shape.volume for p in staged(found.reckoning, frame.after)), whole, delta=1e-6 * whole)

    def test_bar_again_where_the_neighbour_is_not_drawn(self):
        for neighbour in (make("run", "n"), make("upset", "n")):
            piece = self.piece(replace(self.EYE, inside=30.0), neighbour, bar=square(12))
            self.assertIsNone(reckon(piece).zones[0].place.stock)

    def test_files_and_a_new_one_beside_drawn_steel(self):
        piece = self.piece(self.EYE, self.STEM, make("run", length=40.0))
        self.assertEqual(piece_from_text(piece_to_text(piece)), piece)
        self.assertIn('"version": 7', piece_to_text(piece))
        bare = self.piece(self.STEM, make("run", length=40.0))
        new = insert(bare, 0, "hook").after.features[0]
        self.assertEqual((new.of, new.tip, new.inside), ("B", None, make("hook").fitted(round_(4)).inside))
        self.assertEqual(insert(bare, 2, "hook").after.features[2].of, "bar")


class OnLimbs(unittest.TestCase):
    """A limb is a small piece: what is laid on a tine or a bar welded on works alike."""

    ROW = (make("taper", "t", length=60.0, tip=3.0, form="round"), make("run", "r", length=15.0))
    HOOKED = (*ROW, on(make("hook", "h", inside=14.0, sweep=180.0, lip=0.0, tip=None), at=4.0, edge="A"))

    def forked(self, upper=(), lower=(), **more):
        split = make("split", cut=80.0, across="width", angle=30.0, upper=upper, lower=lower)
        return Piece(bar=flat(25, 10), features=(split, make("run", "stem", length=100.0)), allowances=BARE, **more)

    def test_it_takes_no_bar_and_keeps_the_steel(self):
        plain, laid = self.forked(upper=self.ROW), self.forked(upper=self.HOOKED)
        self.assertAlmostEqual(reckon(plain).likely, reckon(laid).likely)
        self.assertAlmostEqual(reckon(plain).finished, reckon(laid).finished, delta=1e-6 * reckon(plain).finished)
        self.assertAlmostEqual(volume(laid), reckon(laid).finished, delta=2e-3 * volume(laid))

    def test_the_same_forms_as_on_a_piece_of_that_bar(self):
        split = self.forked(upper=self.HOOKED).features[0]
        place = reckon(self.forked(upper=self.HOOKED)).zones[0].place
        row, standing = self.HOOKED[:2], self.HOOKED[2:]
        alone = Piece(bar=split.tine_bar(place), features=row, standing=standing, allowances=BARE)
        found = limb_shapes(self.HOOKED, split.tine_bar(place), place.rule)
        for one, (_identity, other) in zip(found, alone.composition.shapes, strict=True):
            self.assertAlmostEqual(one.volume, other.volume, delta=1e-9 * other.volume)
            self.assertAlmostEqual(one.length, other.length)

    def test_a_bar_welded_on_and_its_order(self):
        rein = make("extension", section=square(8), length=150.0, beyond=self.HOOKED, weld="arc")
        piece = Piece(bar=square(12), features=(make("run", length=80.0), replace(rein, toward="B")), allowances=BARE)
        lines = [w.line.text for h in answer(piece).plan.heats for w in h.work]
        self.assertLess(next(i for i, x in enumerate(lines) if "taper" in x), next(i for i, x in enumerate(lines) if "turn the hook" in x))

    def test_other_size_other_of_a_pair_other_way_round_and_files(self):
        piece = self.forked(upper=self.HOOKED, lower=self.ROW)
        text = piece_to_text(piece)
        self.assertEqual(piece_from_text(text), piece)
        self.assertIn('"version": 7', text)
        self.assertIn('"version": 1', piece_to_text(self.forked(upper=self.ROW)))
        large = scaled(piece, 2).after
        self.assertEqual(large.features[0].upper[2].at, 8.0)
        mate = make_mate(piece).after.features[0]
        self.assertEqual([p.id for p in mate.lower], [p.id for p in piece.features[0].upper])  # they open to the sides
        self.assertAlmostEqual(reckon(turn_round(piece).after).likely, reckon(piece).likely)
        for old, new, words in (('"at": 4', '"at": 400', "past the end"), ('"on": "A"', '"on": "nobody"', "is not there")):
            with self.assertRaisesRegex(PieceFileError, words):
                piece_from_text(text.replace(old, new))

    def test_nothing_to_stand_on(self):
        with self.assertRaisesRegex(NoAnswer, "Nothing is drawn there yet"):
            reckon(self.forked(upper=self.HOOKED[2:]))
