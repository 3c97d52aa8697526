"""Assemblies: parts meet where their joins say, nothing is lost on the way, and what does not fit is named."""

import math
import unittest
from dataclasses import replace
from itertools import pairwise
from types import SimpleNamespace

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from long_ember.assemblies import assembled, fits, head_length, meeting_places
from long_ember.assemblies.fitting import _rivet_parts
from long_ember.assemblies.joining import Pose, _hole
from long_ember.demo import demo_files, demo_parcel
from long_ember.features import KINDS, Piece
from long_ember.geometry import joined
from long_ember.records import Assembly, AssemblyPart, Join, pieces_of, with_ids
from long_ember.sections import flat, round_, square
from long_ember.shorthand import read_line
from long_ember.storage import read_piece
from long_ember.units import Measure

DEMOS = {path.stem: read_piece(path) for path in demo_files()}
MM = Measure()


def plate(hole: float, thick: float = 8.0, form: str = "round") -> Piece:
    return Piece(name="Plate", bar=flat(40, thick), features=(KINDS["hole"](id="h", diameter=hole, length=40, form=form),))


def bar(feature: str, **sizes: object) -> Piece:
    return Piece(name="Bar", bar=square(20), features=(KINDS["run"](id="r", length=60), KINDS[feature](id="x", **sizes)))


def put(kind: str, first: Piece, second: Piece, **more: object) -> tuple[str, str]:
    """Verdict and words of one join between the last feature of one piece and the first of another."""
    join = Join(kind=kind, first=f"A.{first.features[-1].id}", second=f"B.{second.features[0].id}", **more)
    found = assembled(Assembly(parts=(AssemblyPart(piece="a"), AssemblyPart(piece="b")), joins=(join,)), {"a": first, "b": second})
    (fit,) = fits(found)
    return fit.verdict, " ".join(line.show(MM) for line in fit.lines)


class Judged(unittest.TestCase):
    def test_what_a_file_takes_off_is_no_reason_to_make_it_anew(self):
        for over, verdict in ((0.0025, "look"), (0.09, "look"), (0.4, "wrong")):
            told = put("rivet", plate(8.0), plate(8.4), diameter=8.0 + over)
            self.assertEqual(told[0], verdict, (over, told[1]))
            self.assertEqual("does not go in" in told[1], verdict == "wrong")
        self.assertIn("ream the hole", put("rivet", plate(8.0), plate(8.4), diameter=8.0025)[1])

    def test_a_tenon_a_hair_too_short_is_flush_by_the_shops_ruler(self):
        for short, wrong in ((0.05, False), (1.0, True)):
            pin = bar("tenon", section=round_(7.8), through=8.0 - short, upset=0.0, bite=0.0)
            words = put("tenon", pin, plate(8.2))[1]
            self.assertEqual("too short" in words, wrong, words)


class Standing(unittest.TestCase):
    @given(st.floats(-180, 180), st.sampled_from(("up", "down")), st.sampled_from(("made", "mate")), st.booleans())
    @settings(max_examples=20)
    def test_a_tenon_stands_in_its_hole_whichever_part_lies_still(self, turn, face, side, swapped):
        parts = (AssemblyPart(piece="lantern-bracket", side=side), AssemblyPart(piece="back-plate"))
        letters = "BA" if swapped else "AB"
        join = Join(kind="tenon", first=f"{letters[0]}.f7", second=f"{letters[1]}.f4", turn=turn, face=face)
        found = assembled(Assembly(parts=parts[::-1] if swapped else parts, joins=(join,)), DEMOS)
        solid = {b.id: b.mesh for b in found.solids()}
        tenon, hole = solid[f"{letters[0]}.f7"], solid[f"{letters[1]}.f4"]
        # The hole's own feature is symmetric about its axis' middle; the tenon's middle lies on that axis, half its length below the face.
        apart = float(np.linalg.norm(_middle(tenon) - _middle(hole)))
        self.assertAlmostEqual(apart, 14 / 2 - 6 / 2, places=6)
        volume = sum(m.volume for m in solid.values())
        rest = sum(m.volume for m in (b.mesh for b in assembled(Assembly(parts=parts), DEMOS).solids()))
        self.assertAlmostEqual(volume, rest, delta=1e-6 * rest)
        self.assertEqual((found.loose, found.faults, dict(found.apart)), ((), {}, {}))

    def test_all_of_the_demo_assemblies_stand_and_fit(self):
        records = [r for _i, r in demo_parcel().records if isinstance(r, Assembly)]
        self.assertEqual(len(records), 3)
        for record in records:
            found = assembled(record, DEMOS)
            with self.subTest(record.name):
                self.assertEqual([f.verdict for f in fits(found)], ["fits"] * len(record.joins))
                self.assertEqual(found.loose, ())

    def test_mass_and_balance_of_the_whole_by_hand(self):
        block = Piece(bar=square(20), features=(KINDS["run"](id="r", length=100),))
        one = Assembly(parts=(AssemblyPart(piece="a"),), handle="ash", handle_length=500, handle_across=30, handle_on="A.B", handle_over=40)
        weight = assembled(one, {"a": block}).weight
        steel, wood = 40_000 * 7.85e-3, math.pi * 900 / 4 * 500 * 0.68e-3
        self.assertAlmostEqual(weight.mass, steel + wood, places=9)
        self.assertAlmostEqual(weight.centre[0], (steel * 50 + wood * (60 + 250)) / (steel + wood), delta=0.01)
        other = assembled(replace(one, handle_on="A.A"), {"a": block}).weight
        self.assertAlmostEqual(other.centre[0], 100 - weight.centre[0], delta=0.01)

    def test_a_mate_is_the_mirror_image(self):
        one, other = (assembled(Assembly(parts=(AssemblyPart(piece="door-pull", side=side),)), DEMOS).weight for side in ("made", "mate"))
        self.assertAlmostEqual(one.mass, other.mass, places=9)
        for mine, mate in zip(one.centre, (other.centre[0], other.centre[1], -other.centre[2]), strict=True):
            self.assertAlmostEqual(mine, mate, delta=0.1)  # the twist is cut into slices from its A end

    def test_taken_apart_parts_go_the_way_they_came(self):
        link = next(r for _i, r in demo_parcel().records if isinstance(r, Assembly) and "ring" in r.name.lower())
        found = assembled(link, DEMOS)
        before, after = (joined([b.mesh for b in found.solids(gap) if b.id.startswith("B.")]) for gap in (0.0, 50.0))
        moved = after.points - before.points
        self.assertTrue(np.allclose(moved, moved[0]))
        self.assertAlmostEqual(float(np.linalg.norm(moved[0])), 50.0)
        still = [b.mesh.points for gap in (0.0, 50.0) for b in found.solids(gap) if b.id.startswith("A.")]
        self.assertTrue(np.array_equal(np.vstack(still[: len(still) // 2]), np.vstack(still[len(still) // 2 :])))

    @given(st.floats(3, 20), st.floats(3, 20), st.floats(3, 20), st.floats(-180, 180), st.sampled_from(("up", "down")))
    @settings(max_examples=15)
    def test_a_stack_of_three_lies_face_on_face_about_one_axis(self, a, b, c, turn, face):
        plates = {name: plate(8.4, thick) for name, thick in zip("abc", (a, b, c), strict=True)}
        join = Join(kind="rivet", first="A.h", second="B.h", third="C.h", diameter=8.0, turn=turn, face=face)
        found = assembled(Assembly(parts=tuple(AssemblyPart(piece=n) for n in "abc"), joins=(join,)), plates)
        solid = {b.id: b.mesh for b in found.solids()}
        low, high = ({k: float(f(solid[f"{k}.h"].points[:, 1])) for k in "ABC"} for f in (np.min, np.max))
        order = "ABC" if face == "up" else "CBA"
        for upper, lower in pairwise(order):
            self.assertAlmostEqual(low[upper], high[lower], places=4)  # holes are cut in single precision
        for k in "BC":
            self.assertAlmostEqual(float(np.linalg.norm((_middle(solid[f"{k}.h"]) - _middle(solid["A.h"]))[[0, 2]])), 0.0, places=4)
        rivet = solid["rivet"]
        self.assertAlmostEqual(float(np.ptp(rivet.points[:, 1])), a + b + c + 2 * 0.7 * 8.0, places=4)
        self.assertIn(f"Grip {MM.length(a + b + c)}", " ".join(line.show(MM) for line in fits(found)[0].lines))

    @given(st.floats(40, 120), st.floats(-80, 80))
    @settings(max_examples=15)
    def test_a_ring_hangs_in_its_staple_touching_the_crown_from_inside(self, inside, turn):
        ring = Piece(bar=round_(10), features=(KINDS["eye"](id="e", inside=inside),))
        join = Join(kind="link", first="B.e", second="A.f4", turn=turn)
        found = assembled(
            Assembly(parts=(AssemblyPart(piece="s"), AssemblyPart(piece="r")), joins=(join,)), {"s": DEMOS["mooring-staple"], "r": ring}
        )
        solid = {b.id: b.mesh for b in found.solids()}
        crown, circle = _middle(solid["A.f4"]), solid["B.e"].points
        middle = (circle.min(axis=0) + circle.max(axis=0)) / 2
        # The crown's middle lies inside the ring, half its own bar and half the ring's from the ring's middle line.
        self.assertAlmostEqual(float(np.linalg.norm(crown[1:] - middle[1:])), (inside + 10) / 2 - 11, delta=1.0)
        self.assertAlmostEqual(float(crown[0] - middle[0]), 0.0, delta=1.0)

    def test_a_ring_of_joins_that_does_not_close_says_how_far_it_gapes(self):
        ends = Piece(bar=flat(30, 6), features=(KINDS["hole"](id="a", diameter=8, length=30), KINDS["run"](id="r", length=100),
                                                 KINDS["hole"](id="b", diameter=8, length=30)))  # fmt: skip
        longer = replace(ends, features=(ends.features[0], KINDS["run"](id="r", length=130), ends.features[2]))
        joins = tuple(Join(kind="rivet", first=f"A.{i}", second=f"B.{i}", diameter=7.6) for i in "ab")
        found = assembled(Assembly(parts=(AssemblyPart(piece="a"), AssemblyPart(piece="b")), joins=joins), {"a": ends, "b": longer})
        self.assertAlmostEqual(found.apart[1], 30.0)
        self.assertEqual([f.verdict for f in fits(found)], ["fits", "wrong"])

    def test_what_is_gone_or_joined_to_nothing_is_named(self):
        parts = (AssemblyPart(piece="door-pull"), AssemblyPart(piece="nowhere"), AssemblyPart(piece="back-plate"))
        joins = (
            Join(kind="rivet", first="A.f1", second="B.f2"),
            Join(kind="rivet", first="A.f1", second="A.f11"),
            Join(kind="pin", first="A.f6"),
        )
        found = assembled(Assembly(parts=parts, joins=joins, handle="ash", handle_on="D.A"), DEMOS)
        self.assertEqual(len(found.faults), 3)
        self.assertEqual([f.verdict for f in fits(found)], ["wrong"] * 3)
        self.assertEqual(found.loose, ("C: Back plate", "B: a piece that is gone or empty"))
        self.assertEqual(assembled(Assembly(), {}).weight.mass, 0.0)


class Fitting(unittest.TestCase):
    def test_a_flush_head_fills_a_cone_of_ninety_degrees(self):
        holes = [SimpleNamespace(area=math.pi * 8.0**2 / 4, depth=6.0, sink=0.0)] * 2
        grip, filling, head = _rivet_parts(Join(kind="rivet", diameter=8.0, head="flush"), holes)
        cone = math.pi * 16.0**2 / 4 * 8.0 / 3 - math.pi * 8.0**2 / 4 * 4.0 / 3  # 16 wide at its mouth, cut off where it is 8 wide
        self.assertAlmostEqual((grip, filling), (12.0, 0.0))
        self.assertAlmostEqual(head, cone / (math.pi * 8.0**2 / 4) - 4.0)

    def test_the_rivet_of_the_reference(self):
        self.assertAlmostEqual(head_length(8.0), 10.40, places=2)
        verdict, words = put("rivet", plate(8.4), plate(8.4), diameter=8.0)
        self.assertEqual(verdict, "fits")
        self.assertIn("Grip 16 mm, filling 1.6 mm, heads 10.4 mm: cut the shank 28 mm long", words)
        self.assertIn("cut the shank 38.4 mm long", put("rivet", plate(8.4), plate(8.4), diameter=8.0, head="both")[1])
        self.assertIn("countersunk yet: 16 mm across", put("rivet", plate(8.4), plate(8.4), diameter=8.0, head="flush")[1])

    @given(st.floats(3, 20), st.floats(0.1, 0.9), st.floats(3, 30))
    def test_the_shank_holds_the_volume_of_head_and_hole(self, d, loose, grip):
        _verdict, words = put("rivet", plate(d + loose, grip), plate(d + loose, grip), diameter=d)
        cut = float(words.split("cut the shank ")[1].split(" mm")[0])
        steel = 2 * grip * math.pi * (d + loose) ** 2 / 4 + math.pi * 0.7 * d * (3 * (0.875 * d) ** 2 + (0.7 * d) ** 2) / 6
        self.assertAlmostEqual(cut * math.pi * d * d / 4, steel, delta=0.06 * math.pi * d * d / 4 + 1e-6)

    def test_a_hole_is_as_large_for_what_fills_it_as_for_the_bar_that_it_is_cut_out_of(self):
        for line in ("hole 8", "square hole 8", "diamond hole 7", "slot 20 x 8", "slot 30 x 5"):
            piece = read_line(f"30x8 flat: run 60, {line}, run 60" if "slot" in line else f"30x8 flat: run 120 with {line}").piece
            identity, shape = next((i, s) for i, s in piece.shapes if s.voids)
            anchor = _hole(piece.feature(identity), shape, Pose(np.zeros(3), np.eye(3)))
            self.assertAlmostEqual(anchor.area * 8, shape.voids[0].volume, msg=line)

    def test_clearances_are_judged(self):
        tenon = lambda size, through=8.0, upset=8.0: bar("tenon", toward="B", section=round_(size), through=through, upset=upset)  # noqa: E731
        for first, second, verdict, words in (
            (tenon(8.0), plate(8.4), "fits", "Clearance 0.40 mm"),
            (tenon(8.0), plate(7.5), "wrong", "0.50 mm too large"),
            (tenon(8.0), plate(8.05), "look", "tight"),
            (tenon(8.0), plate(10.0), "look", "loose"),
            (tenon(8.0), plate(9.15), "look", "More than 1.10 mm"),
            (tenon(8.0, 4.0, 0.0), plate(8.4), "wrong", "4 mm too short"),
            (tenon(8.0, 8.0, 2.0), plate(8.4), "look", "Too short for a sound head"),
            (tenon(8.0, 8.0, 30.0), plate(8.4), "look", "Too long for a sound head"),
            (bar("tenon", toward="B", section=square(8), through=8, upset=0), plate(8.4), "wrong", "2.91 mm too large"),
            (bar("tenon", toward="B", section=square(8), through=8, upset=0), plate(8.4, form="square"), "fits", "0.40 mm"),
        ):
            with self.subTest(words):
                found = put("tenon", first, second)
                self.assertEqual(found[0], verdict, found[1])
                self.assertIn(words, found[1])

    def test_pins_and_rings(self):
        pin = bar("tenon", toward="B", section=round_(16), through=45, upset=0)
        eye = lambda inside, wide: Piece(bar=flat(wide, 8), features=(KINDS["eye"](id="e", inside=inside), KINDS["run"](id="r")))  # noqa: E731
        self.assertEqual(put("pin", pin, eye(17, 40))[0], "fits")
        self.assertIn("does not reach through", put("pin", pin, eye(17, 60))[1])
        self.assertEqual(put("pin", pin, eye(15, 40))[0], "wrong")
        ring = Piece(bar=round_(12), features=(KINDS["eye"](id="e", inside=80),))
        self.assertIn("swings round 12 mm with 68 mm to spare", _linked(ring))
        self.assertIn("does not swing", _linked(Piece(bar=round_(12), features=(KINDS["eye"](id="e", inside=12),))))

    def test_roles_belong_to_features_that_can_play_them(self):
        self.assertEqual(meeting_places(DEMOS["back-plate"], "hole"), ("f2", "f4", "f6"))
        self.assertIn("f7", meeting_places(DEMOS["lantern-bracket"], "pin"))
        self.assertEqual(meeting_places(DEMOS["mooring-ring"], "ring"), ("f2",))

    def test_pieces_are_found_and_renamed(self):
        record = Assembly(parts=(AssemblyPart(piece="a"), AssemblyPart(piece="b"), AssemblyPart(piece="a", side="mate")))
        self.assertEqual(pieces_of(record), ("a", "b"))
        self.assertEqual(pieces_of(with_ids(record, {"a": "z"})), ("z", "b"))


def _middle(solid):
    return (solid.points.min(axis=0) + solid.points.max(axis=0)) / 2


def _linked(ring: Piece) -> str:
    join = Join(kind="link", first="B.e", second="A.f4")
    found = assembled(
        Assembly(parts=(AssemblyPart(piece="s"), AssemblyPart(piece="r")), joins=(join,)), {"s": DEMOS["mooring-staple"], "r": ring}
    )
    return " ".join(line.show(MM) for line in fits(found)[0].lines)
