"""Plans against what practised smiths do: the table of practice, each rule with the order it must give, effort by what is displaced."""

import itertools
import math
import re
import unittest
from dataclasses import replace

from hypothesis import given, settings
from hypothesis import strategies as st

from long_ember.document import answer, overrule, pick_method, restore_rule, scaled
from long_ember.errors import EmberError
from long_ember.features import KINDS, Check, OwnWork, Picked, Piece, Pin, Place, Planning, operations_of
from long_ember.features.base import LEVELS
from long_ember.features.own_work import read_shares
from long_ember.features.standing import Standing
from long_ember.heats import (
    Door,
    ForgeSettings,
    batch,
    cautions,
    door_notes,
    gauges,
    grip_note,
    methods_for,
    staged,
    stations_of,
    ties,
)
from long_ember.heats.doorway import room
from long_ember.heats.operations import range_of_heat, stepping
from long_ember.heats.rules import BENT_IN, GOES_IN
from long_ember.physics import Hammer, at_anvil, cooling, lying, strain
from long_ember.portions import all_portions
from long_ember.records import Shop, holder_words
from long_ember.sections import flat, round_, square
from long_ember.shorthand import read_line, settled
from long_ember.stock import reckon
from long_ember.storage import piece_from_text, piece_to_text
from long_ember.units import Measure, say
from tests.support import pieces

MM = Measure("mm")
EXPERIENCED, BEGINNER = ForgeSettings(), ForgeSettings(hammer=Hammer(skill=0.45), kit=frozenset({"chisels", "grip", "hole"}))


def make(kind, identity, **sizes):
    return KINDS[kind](id=identity, **sizes)


def laid(kind, identity, on="A", at=0.0, edge="A", along="B", **sizes):
    return Standing(feature=make(kind, identity, **sizes), on=on, at=at, edge=edge, along=along)


HOOK = Piece(
    bar=square(6),
    features=(
        make("taper", "tip", length=35.0, tip=3.0),
        make("run", "plain", length=50.0),
        make("twist", "twist", length=25.0, turns=1.0),
        make("run", "grip", length=15.0),
        make("point", "spike", length=35.0, toward="B"),
    ),
    standing=(
        laid("curl", "curl", turns=0.75, inner=3.5, outer=6.0, tip=None),
        laid("hook", "hook", on="curl", edge="B", at=4.0, inside=25.0, sweep=180.0, lip=0.0, tip=None),
        laid("bend", "bend", on="spike", at=3.0, along="A", angle=90.0, radius=6.0),
    ),
    planning=Planning(bends="vice", methods=(Picked(step="hook/0", method="jig"),)),
)
PEG = Piece(
    bar=square(12),
    features=(
        make("point", "point", length=30.0),
        make("run", "r", length=260.0),
        make("hook", "crook", inside=30.0, lip=10.0, tip=None, toward="B"),
    ),
    planning=Planning(methods=(Picked(step="crook/0", method="fork"),)),
)
COILED = Piece(
    bar=round_(8),
    features=(
        make("point", "foot", length=30.0),
        make("bend", "up", facing=90.0, radius=8.0),
        make("coil", "coil", form="flat", inside=0.0, turns=4.0, toward="B"),
    ),
)
TAPER = Piece(bar=square(10), features=(make("run", "r", length=200.0), make("taper", "t", length=100.0, tip=3.66, toward="B")))
NAIL = Piece(
    bar=square(10),
    features=(
        make("head", "head", form="rose", diameter=18.0, height=6.0, hole=0.0, grip=0.0),
        make("run", "r", length=40.0),
        make("taper", "point", length=25.0, tip=2.0, form="flat", toward="B"),
    ),
    planning=Planning(heads="vice"),
)


class Practice(unittest.TestCase):
    """Computations, section 14: the likely figure within one heat of a practised smith's."""

    TABLE = (
        ("hook of 6 square", HOOK, EXPERIENCED, 3),
        ("the same, a beginner without horn, vice or jig", HOOK, BEGINNER, 9),
        ("ground peg of 12 square", PEG, EXPERIENCED, 2),
        ("50 of 10 square drawn to 100, unhurried", TAPER, ForgeSettings(hammer=Hammer(skill=0.65)), 5),
        ("nail of 10 square", NAIL, EXPERIENCED, 2.5),
    )

    def test_likely_within_one_heat_and_the_band_around_it(self):
        for name, piece, forge, wanted in self.TABLE:
            plan = answer(piece, forge=forge).plan
            with self.subTest(name):
                self.assertLessEqual(abs(plan.count - wanted), 1)
                self.assertTrue(plan.low <= wanted <= plan.high)

    def test_the_hook_as_it_is_made(self):
        """Tip drawn, curled and hooked in one heat; spike drawn and bent in one; the twist by itself."""
        plan = answer(HOOK).plan
        heats = [[step.feature.id for step, _a, _b in item.items] for item in plan.packed]
        self.assertEqual(sorted(map(tuple, heats)), [("spike", "bend"), ("tip", "curl", "hook"), ("twist",)])

    def test_skill_slows_bends_and_details_too(self):
        for kind, sizes in (("bend", {}), ("surface", {"work": "lines"}), ("twist", {}), ("ball", {"diameter": 12.0})):
            piece = Piece(features=(make("run", "r"), make(kind, "x", **sizes), make("run", "s")))
            quick, slow = (answer(piece, forge=f).plan.steps[0].need for f in (EXPERIENCED, ForgeSettings(hammer=Hammer(skill=0.45))))
            self.assertGreater(slow, 1.5 * quick, kind)


class Effort(unittest.TestCase):
    def test_equivalent_strain_of_the_reference(self):
        for length, width, wanted in ((48, 24, 4790), (48, 48, 11064)):
            self.assertAlmostEqual(length * width * 3 * strain((12, 12), (width, 3)), wanted, delta=1.5)

    @given(st.floats(2, 40), st.floats(0.2, 0.95))
    def test_even_drawing_and_pure_widening(self, side, ratio):
        self.assertAlmostEqual(strain((side, side), (side * ratio, side * ratio)), 2 * math.log(1 / ratio))
        self.assertAlmostEqual(strain((side, side), (side / ratio, side * ratio)), 2 / math.sqrt(3) * math.log(1 / ratio))

    def test_nothing_that_shapes_steel_is_free(self):
        for kind, sizes in (
            ("spread", {"length": 48.0, "width": 48.0, "thickness": 3.0}), ("ball", {"diameter": 12.0}), ("edge-set", {}), ("nub", {}),
        ):  # fmt: skip
            piece = Piece(bar=flat(25, 6) if kind == "edge-set" else square(12), features=(make(kind, "x", **sizes), make("run", "r")))
            self.assertGreater(answer(piece).plan.steps[0].need, 0.3, kind)

    def test_a_bend_grows_with_the_section(self):
        needs = []
        for side in (6.0, 12.0, 38.0):
            piece = Piece(bar=square(side), features=(make("run", "r", length=200.0), make("bend", "b", radius=2 * side), make("run", "s")))
            step = answer(piece, forge=ForgeSettings(hot_length=1e4)).plan.steps[0]
            needs.append(step.need * step.window)
        self.assertTrue(needs[0] < needs[1] and needs[2] > 5 * needs[1], needs)

    def test_a_flat_on_its_wide_face_cools_sooner(self):
        self.assertEqual((lying(12, 12), lying(25, 6), lying(6, 25)), (0.25, 0.4, 0.4))
        square_, wide = (cooling(at_anvil(share)).seconds(1150, 850, 150, 62) for share in (0.25, lying(25, 6)))
        self.assertLess(wide, square_)

    def test_one_torque(self):
        plan = answer(Piece(features=(make("run", "a"), make("twist", "t"), make("run", "b")))).plan
        told = [c.line for c in plan.checks if "wrench" in c.line.text]
        self.assertEqual(len(told), 1)
        torque, force, long = (q.value for q in told[0].values)
        self.assertAlmostEqual(torque, force * long / 1000)

    def test_a_sawn_split_is_cold_and_takes_minutes(self):
        (saw, *_rest) = operations_of(make("split", "s", method="saw"), Place(flat(25, 6), True, False))
        self.assertTrue(saw.cold and saw.seconds > 20)


def order(*features, bar=None, standing=(), planning=None, forge=EXPERIENCED):
    """Feature and manner of all operations, in the order of the plan."""
    piece = Piece(bar=bar or square(12), features=features, standing=standing, planning=planning or Planning())
    plan = answer(piece, forge=forge).plan
    return [f"{plan.steps[n].feature.id}:{plan.steps[n].operation.manner}" for n in plan.order]


def tied(*features, bar=None, standing=()):
    """Rules at work between two features: rule and both ids."""
    piece = Piece(bar=bar or square(12), features=features, standing=standing)
    reckoning = reckon(piece)
    found = all_portions(stepping(piece, reckoning, EXPERIENCED))
    return {(t.rule.id, found[t.before].feature.id, found[t.after].feature.id) for t in ties(found, reckoning).pairs}


class Rules(unittest.TestCase):
    def before(self, found, *wanted):
        places = [found.index(w) for w in wanted]
        self.assertEqual(places, sorted(places), found)

    def test_the_spike_inside_a_coil_is_bent_before_it_is_wound_however_far_off(self):
        for between in (5.0, 300.0):
            found = order(
                make("point", "spike"), make("run", "foot", length=30.0), make("bend", "up"), make("run", "r", length=between),
                make("coil", "coil", form="flat", inside=20.0, turns=2.0), make("run", "s", length=100.0),
            )  # fmt: skip
            self.before(found, "spike:point", "up:bend", "coil:coil")

    def test_what_lies_behind_a_coil_is_free(self):
        rules = tied(make("coil", "coil"), make("run", "r", length=200.0), make("bend", "behind"), make("run", "s", length=300.0))
        self.assertFalse([r for r in rules if set(r[1:]) == {"coil", "behind"} and r[0] in ("inside-coil", "tip-side")])

    def test_a_twist_keeps_its_grips_near_an_eye_and_is_free_far_off(self):
        for gap, bound in ((20.0, True), (200.0, False)):
            rules = tied(make("eye", "eye"), make("run", "r", length=gap), make("twist", "twist"), make("run", "s", length=200.0))
            self.assertEqual(("grips", "twist", "eye") in rules, bound)

    def test_drifting_is_not_bending(self):
        rules = tied(make("run", "a"), make("drifted-eye", "eye"), make("run", "r", length=10.0), make("twist", "twist"), make("run", "b"))
        self.assertFalse([r for r in rules if r[0] in ("grips", "draw-first")])

    def test_only_hot_punching_must_come_before_the_ends(self):
        for method, bound in (("punched", True), ("drilled", False)):
            row = (make("scroll", "s"), make("run", "r"), make("hole", "h", method=method), make("run", "t"))
            self.assertEqual(("middle-first", "h", "s") in tied(*row), bound)
        self.assertEqual(order(*row)[-1], "h:drill")

    def test_cold_work_together_and_last(self):
        found = order(
            make("hole", "h", method="drilled"), make("run", "r", length=100.0), make("bend", "b"), make("run", "s", length=100.0),
            make("thread", "t", toward="B"),
        )  # fmt: skip
        self.assertEqual(set(found[-2:]), {"h:drill", "t:thread"})

    def test_a_neck_in_two_passes(self):
        found = order(make("spread", "leaf"), make("neck", "neck", passes="two"), make("taper", "stem", toward="B"))
        self.before(found, "neck:isolate", "leaf:spread", "neck:thin")

    def test_set_down_before_the_ball_that_it_isolates(self):
        found = order(make("ball", "ball", diameter=12.0), make("section-change", "down", section=square(8), length=30.0), make("run", "r"))
        self.before(found, "down:set-down", "ball:round-ball")
        found = order(make("ball", "ball", diameter=24.0), make("section-change", "down", section=square(8), length=30.0), make("run", "r"))
        self.before(found, "ball:ball", "down:set-down")  # upset, it wants the full bar behind it

    def test_edges_are_rounded_when_the_drawing_is_done(self):
        found = order(make("taper", "t"), make("chamfer", "c", method="hammered"), make("run", "r"))
        self.before(found, "t:taper", "c:edges")

    def test_parted_off_before_what_hangs_on_it_and_after_what_needs_the_handle(self):
        found = order(
            make("taper", "t"), make("run", "r", length=80.0), make("eye", "eye", toward="B"), make("part-off", "cut", toward="B")
        )
        self.before(found, "t:taper", "cut:cut", "eye:eye")
        found = order(
            make("scroll", "s"), make("run", "r", length=80.0), make("twist", "w"), make("run", "q"), make("part-off", "cut", toward="B")
        )
        self.assertEqual(found[-1], "cut:cut")

    def test_on_the_long_bar_the_tip_is_the_free_end(self):
        piece = Piece(
            bar=square(8),
            features=(make("taper", "tip", length=60.0, tip=3.0), make("run", "r", length=30.0), make("part-off", "cut", toward="B")),
            standing=(
                laid("curl", "curl", inner=3.0, outer=8.0, turns=1.0, tip=None),
                laid("bend", "bend", at=70.0, angle=90.0, radius=8.0),
            ),
        )
        plan = answer(piece).plan
        names = [plan.steps[n].feature.id for n in plan.order]
        self.assertLess(names.index("curl"), names.index("bend"))

    def test_width_before_thickness(self):
        found = order(
            make("edge-set", "narrow"), make("section-change", "thin", section=flat(18, 3), length=40.0), make("run", "r"), bar=flat(25, 6)
        )
        self.before(found, "narrow:edge-set", "thin:set-down")

    def test_veins_before_they_are_rolled_over(self):
        found = order(
            make("taper", "t", length=120.0, form="flat", wide=20.0), make("run", "r"),
            standing=(laid("surface", "v", at=30.0, work="veins", length=40.0), laid("scroll", "s", inner=8.0, outer=18.0, turns=1.0, tip=None)),
        )  # fmt: skip
        self.before(found, "t:taper", "v:veined", "s:scroll")

    def test_punched_and_drifted_before_it_is_stamped_beside(self):
        row = (make("run", "a"), make("drifted-eye", "eye"), make("run", "b", length=60.0))
        found = order(*row, standing=(laid("surface", "dots", on="b", at=10.0, work="dots", length=10.0),))
        self.before(found, "eye:punch", "eye:drift", "dots:stamp")

    def test_a_long_leg_is_bent_up_when_the_rest_is_drawn(self):
        def row(angle, leg):
            down, palm = section(leg), make("spread", "palm", toward="B", length=60.0, width=50.0, thickness=6.0)
            return (down, make("run", "r"), make("bend", "bend", angle=angle, radius=20.0), make("run", "s", length=250.0), palm)

        def section(length):
            return make("section-change", "down", section=square(14), length=length)

        for angle, leg, bound in ((90.0, 120.0, True), (20.0, 120.0, False), (90.0, 40.0, False)):
            self.assertEqual(("straight-first", "palm", "bend") in tied(*row(angle, leg), bar=square(20)), bound, (angle, leg))
        self.assertEqual(order(*row(90.0, 120.0), bar=square(20))[-1], "bend:bend")
        offset = (make("run", "r", length=150.0), make("offset", "jog"), make("run", "s", length=150.0), make("taper", "t", toward="B"))
        self.assertFalse([r for r in tied(*offset) if r[0] == "straight-first"])  # it goes on the same way

    def test_each_end_in_turn_or_stage_by_stage(self):
        row = (make("taper", "a"), make("bend", "ba"), make("run", "r", length=200.0), make("bend", "bb"), make("taper", "b", toward="B"))
        turn, stage = (order(*row, planning=Planning(ends=school)) for school in ("turn", "stage"))
        self.assertEqual({stage.index("a:taper"), stage.index("b:taper")}, {0, 1})
        self.assertEqual([x.split(":")[1] for x in turn], ["taper", "bend", "taper", "bend"])

    def test_a_long_stem_counts_by_its_drawn_length(self):
        """12.6 mm of 20 × 5 become 100 mm of 4 round: what lies at its other end is not close."""
        stem = make("section-change", "stem", section=square(4), length=100.0)
        rules = tied(make("spread", "leaf"), stem, make("bend", "b", radius=10.0), make("run", "r"), bar=flat(20, 5))
        self.assertNotIn(("draw-first", "leaf", "b"), rules)
        self.assertIn(("draw-first", "stem", "b"), rules)

    def test_a_piece_twice_as_long_is_not_tied_more(self):
        row = (make("curl", "c"), make("run", "r", length=30.0), make("hook", "h", toward="B"))
        far = (row[0], replace(row[1], length=400.0), row[2])
        self.assertLess(len(tied(*far)), len(tied(*row)))


HEAD = Piece(
    bar=square(20),
    features=(make("run", "head", length=50.0), make("run", "r", length=150.0)),
    planning=Planning(
        own=(
            OwnWork(id="o1", name="Cheeks", on="head", tools="spring fuller", minutes=0.65, size=20.0, stop=850.0, shares="1/3, 2/3"),
            OwnWork(id="o2", name="Features", on="head", way="sink", minutes=1.4, size=20.0, check="Both eyes alike."),
        )
    ),
)


class Doors(unittest.TestCase):
    """A closed forge lets in what its mouth and depth allow."""

    LONG = Piece(
        features=(
            make("run", "a", length=200.0), make("bend", "b"), make("run", "q", length=60.0), make("upset", "u"), make("run", "c", length=600.0),
        ),
    )  # fmt: skip

    def test_room_of_a_straight_bar_and_of_an_angle(self):
        plan = answer(self.LONG).plan
        straight = staged(plan.reckoning, plan.heats[0].before)
        found = room(Door(80.0, 120.0, 500.0), straight, (290.0, 320.0), "A")
        self.assertAlmostEqual(found.width, 12.0, delta=0.01)
        self.assertAlmostEqual(found.depth, 320.0, delta=3.0)  # what is trimmed and scales off is not drawn
        bent = staged(plan.reckoning, plan.heats[-1].after)
        leg = 200.0 + 24.0 + 12.0  # to the outside of the other leg
        found = room(Door(300.0), bent, (0.0, 200.0), "A")
        self.assertAlmostEqual(found.width, 12.0, delta=0.5)
        whole = room(Door(300.0), bent, (0.0, plan.reckoning.cut), "all")
        self.assertTrue(0.85 * leg < whole.width < leg + 0.5)  # a little aslant it is narrower

    def test_a_stem_is_bent_first_where_only_then_it_goes_in(self):
        order = [
            plan.steps[n].key for plan in (answer(self.LONG, forge=ForgeSettings(door=Door(80.0, 260.0, 200.0))).plan,) for n in plan.order
        ]
        self.assertLess(order.index("b/0"), order.index("u/0"))
        free = answer(self.LONG).plan
        self.assertLess(*(free.order.index(next(s.number for s in free.steps if s.key == key)) for key in ("u/0", "b/0")))

    @settings(max_examples=25)
    @given(pieces(most=6), st.sampled_from((60.0, 120.0, 200.0)), st.sampled_from((0.0, 250.0)))
    def test_what_would_no_longer_go_in_is_heated_before(self, piece, width, depth):
        door = Door(60.0, width, depth)
        plan = answer(piece, forge=ForgeSettings(door=door)).plan
        place = {n: i for i, n in enumerate(plan.order)}
        for tie in plan.ties.pairs:
            if tie.rule in (GOES_IN, BENT_IN):
                self.assertLess(place[tie.before], place[tie.after])
        for heat in plan.heats:
            for line in door_notes(plan, heat):
                self.assertTrue(all(math.isfinite(q.value) and q.value > 0 for q in line.values))


class ColdBends(unittest.TestCase):
    """Bent without heat, where the smith says so."""

    def test_a_cold_bend_takes_minutes_and_no_heat_and_says_what_the_steel_does(self):
        piece = Piece(bar=square(6), features=(make("run", "a"), make("bend", "b", radius=100.0), make("run", "c")))
        plan = answer(pick_method(piece, "b/0", "cold").after).plan
        self.assertEqual((plan.count, answer(piece).plan.count), (0, 1))
        self.assertGreater(plan.minutes[1], 0.2)
        told = [c.line for c in plan.checks]
        # By integrating the section: a plastic moment of 300 MPa over 6 × 6, taken off elastically.
        moment, stiff = 300 * 6**3 / 4, 210e3 * 6**4 / 12
        self.assertAlmostEqual(told[0].values[0].value, 90 * moment / stiff * 103.0, delta=0.01)
        tight = replace(piece, bar=square(20), features=(make("run", "a"), make("bend", "b", radius=5.0), make("run", "c")))
        words = " ".join(c.line.show(MM) for c in answer(pick_method(tight, "b/0", "cold").after).plan.checks if c.level == "warn")
        self.assertIn("more than one smith has", words)
        self.assertIn("the outside cracks", words)
        spring = answer(pick_method(replace(piece, material="spring-steel"), "b/0", "cold").after).plan
        self.assertTrue(any("is not mild steel" in c.line.show(MM) for c in spring.checks))

    def test_never_taken_by_itself(self):
        able = methods_for("bend", frozenset({"forks"}), "", 36.0)
        self.assertEqual(able[-1].key, "cold")
        self.assertEqual(methods_for("bend", frozenset({"forks"}), "cold", 36.0)[0].key, "cold")


class OwnOperations(unittest.TestCase):
    def test_a_carved_head_and_one_twice_the_size(self):
        """Practice: 10 to 15 min in all on 20 square, about 2 h on 40."""
        small, large = (answer(p).plan.minutes[1] for p in (HEAD, scaled(HEAD, 2).after))
        self.assertTrue(10 <= small <= 15, small)
        self.assertTrue(80 <= large <= 150, large)
        seconds = [sum(s.operation.seconds for s in answer(p).plan.steps) for p in (HEAD, scaled(HEAD, 2).after)]
        self.assertTrue(7 <= seconds[1] / seconds[0] <= 12)

    def test_it_comes_where_the_smith_says(self):
        row = (make("run", "a"), make("taper", "t", toward="B"))
        said = (
            OwnWork(id="x", name="X", on="a", before="t"),
            OwnWork(id="y", name="Y", on="t"),
            OwnWork(id="z", name="Z", on="t", after="x", before="t"),
            OwnWork(id="w", name="W", after="y", heat="cold"),
        )
        piece = Piece(features=row, planning=Planning(own=said))
        plan = answer(piece).plan
        at = {plan.steps[n].key: i for i, n in enumerate(plan.order)}
        self.assertTrue(at["own/x"] < at["own/z"] < at["t/0"] < at["own/y"] < at["own/w"], at)
        self.assertTrue(plan.steps[plan.order[-1]].operation.cold)
        pinned = replace(piece, planning=replace(piece.planning, pins=(Pin(step="own/y"), Pin(step="own/w"))))
        self.assertEqual(answer(pinned).plan.count, plan.count)

    def test_a_black_pass_ends_the_heat_before_it(self):
        black = OwnWork(id="b", name="Dress", on="head", heat="black", blows=20, minutes=0.0, size=20.0)
        plan = answer(replace(HEAD, planning=Planning(own=(*HEAD.planning.own, black)))).plan
        self.assertEqual(plan.count, answer(HEAD).plan.count)
        self.assertEqual((plan.heats[-1].hot, plan.heats[-1].stop), (HEAD.steel.start, 420.0))
        alone = answer(replace(HEAD, planning=Planning(own=(black,)))).plan
        self.assertEqual((alone.heats[0].hot, alone.heats[0].stop), (560.0, 420.0))  # no hotter than it must be

    def test_files_marks_and_a_feature_that_is_gone(self):
        self.assertEqual(piece_from_text(piece_to_text(HEAD)), HEAD)
        self.assertIn('"version": 7', piece_to_text(HEAD))
        found = answer(HEAD)
        zone = found.reckoning.zones[0]
        pencilled = [m.at for m in found.marks if m.kind == "pencil: cheeks"]
        for at, share in zip(pencilled, (1 / 3, 2 / 3), strict=True):
            self.assertAlmostEqual(at, zone.start + share * zone.length)
        gone = replace(HEAD, features=HEAD.features[1:])
        self.assertEqual({(h.zone[0], h.zone[1]) for h in answer(gone).plan.heats}, {(0.0, answer(gone).reckoning.cut)})

    @given(st.lists(st.fractions(0, 1), max_size=6))
    def test_shares_as_they_are_typed(self, shares):
        text = "; ".join(str(x) for x in shares)
        self.assertEqual([round(x, 9) for x in read_shares(text)], [round(float(x), 9) for x in shares])
        for wrong in ("x", "1/0", "3/2", "-10%"):
            with self.assertRaises(EmberError):
                read_shares(wrong)


class Batches(unittest.TestCase):
    def test_a_hundred_pegs_come_out_at_believable_hours(self):
        """Sawn to a stop, oiled together: between five and twelve hours, not a hundred times the single."""
        plan = answer(PEG).plan
        one, hundred = (batch(plan, n, irons=2, rhythm="stage") for n in (1, 100))
        self.assertTrue(5 * 3600 < hundred.whole < 12 * 3600, hundred.whole / 3600)
        self.assertLess(hundred.around, 30 * one.around)
        self.assertAlmostEqual(hundred.each, hundred.whole / 100)

    def test_stations_share_out_all_of_the_smiths_time(self):
        plan = answer(PEG).plan
        for rhythm in ("piece", "stage"):
            found = batch(plan, 12, irons=2, rhythm=rhythm)
            rows = stations_of(plan, found)
            self.assertEqual([r.heat for r in rows], [h.number for h in plan.heats])
            self.assertAlmostEqual(sum(r.work for r in rows), found.total - found.idle, delta=1e-6)
        by_stage = stations_of(plan, batch(plan, 12, irons=2, rhythm="stage"))
        self.assertTrue(all(a.last <= b.first for a, b in itertools.pairwise(by_stage)))

    def test_drills_and_stops_are_set_once_a_stage(self):
        piece = Piece(bar=flat(30, 6), features=(make("run", "r"), make("hole", "h", method="drilled"), make("run", "s")))
        plan = answer(piece).plan
        single, many = (batch(plan, n, irons=1, rhythm="stage") for n in (1, 10))
        self.assertAlmostEqual(many.total - single.total, sum((t.end - t.start) for t in many.turns[1:]))
        seconds = [t.end - t.start for t in many.turns]
        self.assertTrue(all(s < seconds[0] - 30 for s in seconds[1:]))


class Words(unittest.TestCase):
    def test_what_is_measured_is_where_it_is_worked(self):
        cases = (
            (make("spread", "s", outline="lens", length=60.0, width=24.0, thickness=3.0), flat(20, 5), "where it is widest", (24.0, 3.0)),
            (make("neck", "n", size=6.0), square(12), "in its middle", (12.0, 6.0)),
            (make("point", "p", length=60.0), square(12), "half way", (6.0,)),
            (make("taper", "t", length=60.0, tip=4.0), square(12), "toward A", (4.0,)),
            (make("ball", "b", diameter=20.0), square(12), "where it is widest", (20.0,)),
        )
        for feature, bar, where, sizes in cases:
            found = answer(Piece(bar=bar, features=(feature, make("run", "r"))))
            heat = next(h for h in found.plan.heats if h.work[-1].part == h.work[-1].parts)
            told = [g for g in gauges(heat, found.reckoning) if where in g.line.text]
            with self.subTest(feature.kind):
                self.assertEqual(len(told), 1)
                for value, wanted in zip(told[0].cold, sizes, strict=True):
                    self.assertAlmostEqual(value, wanted, delta=0.3)

    def test_what_would_buckle_is_upset_a_stretch_at_a_time(self):
        """No heat has more than three thicknesses hot, each stretch is finished where it is measured, and warning and sequence agree."""
        thick, middle = 12.0, make("upset", "u", section=square(16), length=30.0, blend=10.0)
        for features in (
            (make("run", "a", length=150.0), middle, make("run", "b", length=150.0)),
            (middle, make("run", "b", length=300.0)),
        ):
            for piece in (Piece(bar=square(thick), features=features), Piece(bar=square(thick), features=features[::-1])):
                told = answer(piece)
                heats = [h for h in told.plan.heats if any(w.step.operation.verb == "upset" for w in h.work)]
                self.assertGreaterEqual(
                    len(heats), next(z.stock for z in told.reckoning.zones if z.feature.id == "u") / (2.5 * thick) - 1e-9
                )
                for number, heat in enumerate(heats, 1):
                    self.assertLessEqual(heat.zone[1] - heat.zone[0], 3 * thick + 1)
                    self.assertIn(f"Step {number} of {len(heats)}", heat.work[0].line.show(MM))
                    self.assertIn("16 mm thick", " ".join(g.line.show(MM) for g in gauges(heat, told.reckoning)))
                near = heats[0].zone[0] < told.reckoning.cut - heats[0].zone[1]
                self.assertIn(f"toward end {'A' if near else 'B'} is hot", heats[0].work[0].line.show(MM))
                self.assertEqual([c.level for _zone, c in told.checks if "buckle" in c.line.show(MM)], ["note"])
        for kind, small, large in (
            ("ball", {"diameter": 18.0}, {"diameter": 26.0}),
            ("head", {"diameter": 21.0, "height": 6.0}, {"diameter": 34.0, "height": 14.0}),
        ):
            few, many = (
                answer(Piece(bar=square(thick), features=(make("run", "r", length=200.0), make(kind, "end", **sizes))))
                for sizes in (small, large)
            )
            self.assertTrue(
                any("3 bend over" in c.line.show(MM) for _z, c in many.checks)
                and not any("3 bend over" in c.line.show(MM) for _z, c in few.checks)
            )
            self.assertGreaterEqual(many.plan.count, 2)
            self.assertIn("only the end is hot", many.plan.heats[0].work[0].line.show(MM))

    def test_tines_are_measured_as_they_are_drawn(self):
        told = answer(Piece(bar=flat(30, 10), features=(make("split", "s", cut=110.0, tip=round_(7)), make("run", "r", length=200.0))))
        drawn = [h for h in told.plan.heats if any(w.step.operation.verb == "draw" for w in h.work)]
        tips = [g.cold[0] for h in drawn for g in gauges(h, told.reckoning) if "each so far, at its tip" in g.line.show(MM)]
        self.assertEqual(len(tips), len(drawn) - 1)  # the last one has its finished size
        self.assertEqual(tips, sorted(tips, reverse=True))
        self.assertTrue(7.0 < tips[-1] < tips[0] < 30.0)

    def test_the_tip_of_a_palm_is_not_measured(self):
        found = answer(
            Piece(
                bar=round_(10),
                features=(
                    make("run", "r", length=100.0),
                    make("spread", "p", toward="B", outline="palm", length=40.0, width=20.0, thickness=4.0),
                ),
            )
        )
        heats = [h for h in found.plan.heats if any(w.step.feature.id == "p" for w in h.work)]
        words = [g.line.show(MM) for h in heats for g in gauges(h, found.reckoning) if "along" not in g.line.show(MM)]
        self.assertGreater(len(heats), 1)
        self.assertTrue(all("half way" in w for w in words if "thick" in w), words)

    def test_what_overhangs_is_as_long_as_it_is_by_then(self):
        """25 of bar drawn to 60: the bend behind it is set by the 60."""
        piece = Piece(features=(make("taper", "t", length=60.0, tip=4.0), make("bend", "b"), make("run", "r", length=300.0)))
        heat = next(h for h in answer(piece).plan.heats if h.work[-1].step.feature.id == "b")
        self.assertEqual(heat.held, "B")
        bar = answer(piece).reckoning.zones[1]
        self.assertAlmostEqual(heat.beyond(heat.work[-1]), 60 + bar.length + 1, delta=0.5)  # with the scale still on it, and the trim

    def test_blows_seconds_and_minutes(self):
        found = [w.line.text for h in answer(HOOK).plan.heats for w in h.work]
        self.assertTrue(all(re.search(r"About \d+ (blows|s|min)\.$", text) for text in found), found)
        heat = answer(TAPER, forge=ForgeSettings(hammer=Hammer(skill=0.65))).plan.heats
        self.assertEqual([w.line.text.split("Part ")[1][:6] for h in heat for w in h.work][:2], ["1 of 4", "2 of 4"])

    def test_a_piece_hangs_on_its_bar_until_it_is_parted(self):
        piece = Piece(
            features=(
                make("taper", "t"),
                make("run", "r", length=80.0),
                make("eye", "eye", toward="B"),
                make("part-off", "cut", toward="B"),
            )
        )
        heats = answer(piece).plan.heats
        parted = next(i for i, h in enumerate(heats) if any(w.step.operation.verb == "cut" for w in h.work))
        self.assertEqual({h.held for h in heats[: parted + 1]}, {"B"})
        self.assertTrue(all(math.isinf(h.free) for h in heats[: parted + 1]) and not math.isinf(heats[-1].free))

    def test_the_eye_is_turned_before_the_bend_behind_it_in_one_heat(self):
        line = "10 rd: eye 14, run 60, twist 1 turn over 40, run 45, taper 90 to 4; bend 90 on run 1 at 30, hook 30 on the taper, curl 8"
        plan = answer(settled(read_line(line, Measure(), Shop().new_piece()), ruler=1.0, forge=Shop().forge)).plan
        together = [[w.step.operation.verb for w in h.work] for h in plan.heats]
        self.assertIn(["eye", "bend"], together)
        self.assertEqual(plan.flags, ())

    def test_the_steps_of_a_long_upset_are_alike(self):
        piece = Piece(bar=round_(16), features=(make("run", "a", length=160.0), make("upset", "u", section=round_(22), length=26.7, blend=13.3),
                                                make("run", "b", length=80.0)))  # fmt: skip
        shares = [w.stop - w.start for h in answer(piece).plan.heats for w in h.work if w.step.operation.verb == "upset"]
        self.assertGreater(len(shares), 2)
        self.assertLess(max(shares) - min(shares), 1e-9)

    def test_a_hole_is_drilled_last_and_a_palm_is_measured_half_way(self):
        line = "30x6 flat: spread 44 wide 60, run 120, hole 8, run 40, eye 12"
        found = answer(settled(read_line(line, Measure(), Shop().new_piece()), ruler=1.0, forge=Shop().forge))
        plan = found.plan
        self.assertEqual([w.step.operation.verb for w in plan.heats[-1].work], ["drill"])
        self.assertEqual((plan.flags, plan.cost.colds), ((), 0))  # it cools anyway
        told = [g.line.show(MM) for heat in plan.heats for g in gauges(heat, found.reckoning)]
        self.assertTrue(any(t.startswith("Spread, half way") for t in told))
        self.assertFalse(any(t.startswith("Spread, toward") for t in told), told)
        self.assertNotIn("while it is warm", plan.errands[-1].line.show(MM))  # it was drilled and measured cold

    def test_a_bend_in_a_long_bar_heats_its_own_stretch(self):
        latch = Piece(
            bar=round_(16),
            features=(make("ball", "knob", diameter=24.0), make("run", "arm", length=200.0), make("spread", "pad", toward="B", length=50.0, width=30.0)),
            standing=(laid("bend", "one", at=60.0, angle=45.0, radius=20.0), laid("bend", "two", at=110.0, angle=45.0, radius=20.0)),
        )  # fmt: skip
        found = answer(latch)
        self.assertTrue(any(len(h.work) == 2 and h.fire == "middle" for h in found.plan.heats))
        # Struck end on, hot bar behind what should swell would bend: the ball has its heats to itself.
        self.assertTrue(all(len(h.work) == 1 for h in found.plan.heats if any(w.step.operation.verb == "upset" for w in h.work)))
        for heat in found.plan.heats:
            zones = [next(z for z in found.reckoning.all_zones if z.feature.id == w.step.feature.id) for w in heat.work]
            self.assertAlmostEqual(heat.zone[0], max(min(z.start for z in zones) - 16.0, 0.0), delta=0.5)
            self.assertAlmostEqual(heat.zone[1], min(max(z.end for z in zones) + 16.0, found.reckoning.cut), delta=0.5)
        arm = dict(found.plan.exposure)["arm"]
        self.assertLess(arm, 1.0)  # one heat for both bends, and not all of it in the fire

    def test_what_lies_near_an_end_is_heated_with_that_end(self):
        heats = [h for h in answer(HOOK, forge=BEGINNER).plan.heats if not h.cold]
        self.assertTrue(any(w.step.feature.id == "hook" for h in heats for w in h.work))
        for heat in heats:
            low, high = heat.zone[0], heat.reckoning.cut - heat.zone[1]
            self.assertEqual(heat.fire, "middle" if min(low, high) > 40.0 else "A" if low < high else "B")

    def test_a_long_bar_is_held_by_hand_not_by_tongs(self):
        for heat in (h for h in answer(PEG).plan.heats if h.own_handle):
            self.assertIsNone(grip_note(answer(PEG).plan, heat))

    def test_held_by_the_better_end(self):
        """Work in the middle: by the palm rather than by the hook, by plain bar rather than by either; never by what is wound as if it were bar."""
        line = "16 sq: palm 60 x 40 x 5, run 100, twist 1 turn over 80, run 40, taper 120 to 6; hook 20 on the taper"
        told = {}
        for piece in (settled(read_line(line, MM, Shop().new_piece()), ruler=1.0, forge=Shop().forge), COILED):
            plan = answer(piece).plan
            for heat in plan.heats:
                told[heat.work[-1].step.operation.verb, heat.work[-1].part] = heat, grip_note(plan, heat)
        eye = Piece(bar=square(16), features=(make("point", "p", length=50.0), make("run", "r", length=150.0), make("bend", "b"),
                                              make("run", "s", length=150.0), make("eye", "e", toward="B")))  # fmt: skip
        last = answer(eye).plan.heats[-1]
        self.assertEqual((last.work[0].step.feature.id, last.held, last.grip.how), ("b", "B", "bent"))  # full bar behind it, not a point
        self.assertEqual(told["twist", 1][0].held, "A")
        self.assertIn("Tongs that hold 40 mm × 5 mm", told["twist", 1][1].show(MM))
        heat, note = told["scroll", 3]
        self.assertFalse(heat.own_handle)
        self.assertIn("Hold it behind the coil at end B", note.show(MM))
        heat, note = told["scroll", 2]  # what is wound lies at the other end
        self.assertIn("Hold it behind the bend at end A", note.show(MM))

    def test_what_is_wound_lies_in_the_fire_from_its_tip_on(self):
        for form in ("flat", "helical"):
            for toward, ends in (("A", "BBA"), ("B", "AAB")):
                coil = make(
                    "coil", "coil", form=form, inside=0.0 if form == "flat" else 20.0, turns=4.0 if form == "flat" else 6.0, toward=toward
                )
                plan = answer(replace(COILED, features=(*COILED.features[:2], coil))).plan
                heats = [h for h in plan.heats if h.work[0].step.operation.verb == "scroll"]
                self.assertEqual(len(heats), 3)
                edges = [h.zone[0] if toward == "A" else -h.zone[1] for h in heats]
                self.assertEqual(edges, sorted(edges))  # on from there, heat by heat
                self.assertEqual("".join(h.held for h in heats[1:]), ends[1:])
                wound = staged(plan.reckoning, heats[1].before)[-1].shape.path
                self.assertEqual([type(s).__name__ for s in wound][0 if toward == "B" else -1], "Straight")

    def test_held_with_what_there_is(self):
        self.assertEqual([holder_words(k).split(":")[0] for k in (("grip", "pliers"), ("pliers",), ())],
                         ["with tongs", "with locking pliers", "you have no tongs"])  # fmt: skip

    def test_tines_are_told_apart(self):
        tine = (make("point", "p", length=20.0),)
        piece = Piece(
            bar=flat(25, 6), features=(make("split", "s", across="width", upper=tine, lower=tine), make("run", "r", length=200.0))
        )
        lines = [w.line.text for h in answer(piece).plan.heats for w in h.work]
        self.assertEqual([sum(text.startswith(f"{name} tine: draw") for text in lines) for name in ("Front", "Back")], [1, 1])

    def test_the_touch_mark_that_smiths_forget(self):
        piece = Piece(features=(make("taper", "t"), make("run", "r", length=60.0), make("spread", "palm", toward="B")))
        shop = ForgeSettings(touch=True)
        plan = answer(piece, forge=shop).plan
        marks = [s for s in plan.steps if s.operation.way == "touch-mark"]
        self.assertEqual([(s.feature.id, s.name) for s in marks], [("palm", "Touch mark")])  # where there is room for it
        self.assertEqual(plan.count, answer(piece).plan.count)  # and no heat of its own
        waived = replace(piece, planning=Planning(touch="none"))
        own = replace(piece, standing=(laid("surface", "m", on="palm", at=5.0, work="touch-mark", length=8.0),))
        for other in (waived, own):
            self.assertFalse([s for s in answer(other, forge=shop).plan.steps if s.operation.own])

    def test_notes_cautions_and_stops_are_told_apart_and_set_aside(self):
        signs = {Check(level, say("x")).sign for level in LEVELS}
        self.assertEqual(len(signs), 3)
        piece = Piece(material="stainless", features=(make("scarf", "s"), make("run", "r")))
        found = answer(piece)
        stops = [c for _z, c in found.checks if c.level == "stop"]
        self.assertTrue(stops and all(plan_step.operation.verb == "close" for c in stops for plan_step in (found.plan.steps[c.step],)))
        warned = Piece(features=(make("run", "r"), make("twist", "t", turns=1.0, length=40.0), make("run", "q")))
        zone, check = next((z, c) for z, c in answer(warned).checks if c.level == "warn" and z is not None)
        aside = answer(overrule(warned, check.key, zone.feature.id, "It is meant so.").after)
        self.assertNotIn(check, [c for _z, c in aside.checks])
        self.assertIn(check, [c for _z, c in aside.told])
        self.assertIn(check, [c for _z, c in answer(restore_rule(aside.piece, check.key).after).checks])

    def test_cautions_of_a_saw_cut_are_not_those_of_a_hot_one(self):
        for method, told in (("hot", True), ("saw", False)):
            piece = Piece(features=(make("run", "r"), make("part-off", "cut", toward="B", method=method)))
            found = answer(piece)
            words = " ".join(line.text for line in cautions(piece, found.reckoning, found.plan))
            self.assertEqual("cut off flies" in words, told)


class Contradictions(unittest.TestCase):
    """What a plan says against what it does, on pieces that it was not written for."""

    @settings(max_examples=200)
    @given(pieces(), st.sampled_from((EXPERIENCED, BEGINNER)), st.sampled_from((MM, Measure("in"))))
    def test_the_text_never_contradicts_the_state(self, piece, forge, measure):
        plan = answer(piece, forge=forge).plan
        done: list[int] = []
        shares: dict[int, float] = {}
        for heat in plan.heats:
            words = [w.line.show(measure) for w in heat.work]
            note = grip_note(plan, heat)
            words += [note.show(measure)] if note is not None else []
            for text in words:
                self.assertNotRegex(text, r"\b0 (mm|in) (by|×) 0 (mm|in)")
                self.assertNotIn("{", text)
            if not heat.cold:
                ranges = [range_of_heat(w.step.operation, piece.steel) for w in heat.work]
                self.assertEqual((heat.hot, heat.stop), (max(a for a, _b in ranges), min(b for _a, b in ranges)))
                self.assertEqual([b for _a, b in ranges], sorted((b for _a, b in ranges), reverse=True))  # in falling temperature
                held = heat.zone[0] if heat.held == "A" else plan.reckoning.cut - heat.zone[1]
                self.assertTrue(heat.fire == "all" or heat.held != heat.fire, (heat.fire, heat.held))
                self.assertTrue(math.isinf(heat.free) or held >= 0)
            for work in heat.work:
                titles = {plan.steps[n].feature.title.lower() for n in done}
                self.assertLessEqual(set(work.dips), titles)  # what is dipped has been made
                self.assertAlmostEqual(shares.get(work.step.number, 0.0), work.start)
                self.assertEqual(work.part == work.parts, work.stop == 1.0)
                shares[work.step.number] = work.stop
                if work.stop == 1.0:
                    done.append(work.step.number)
                self.assertLessEqual(
                    set(work.step.method.needs), plan.forge.able if plan.forge.able is not None else set(work.step.method.needs)
                )
        self.assertEqual(tuple(done), plan.order)
        place = {n: i for i, n in enumerate(plan.order)}
        for rule, n, why in plan.flags:
            if why == "given up":  # and only where it really is
                mask = next(mask for mask, _w, r in plan.ties.soft[n] if r is rule)
                late = [m for m in range(len(plan.order)) if mask >> m & 1 and place[m] > place[n]]
                self.assertTrue(late)
                told = plan.instead(rule, n)
                self.assertTrue(
                    told.startswith(f"Here {plan.steps[n].name} comes before ") and all(plan.steps[m].name in told for m in late), told
                )

    @given(pieces())
    def test_hot_work_comes_between_cold_only_where_it_must(self, piece):
        plan = answer(piece).plan
        cold = [plan.steps[n].operation.cold for n in plan.order]
        if not any(cold):
            return
        first, last = cold.index(True), len(cold) - 1 - cold[::-1].index(True)
        for i in range(first, last):
            if not cold[i]:
                sooner = [n for n in plan.order[:i] if plan.steps[n].operation.cold]
                after, grown = set(sooner), True
                while grown:
                    found = {m for m in range(len(plan.order)) for n in after if plan.ties.hard[m] >> n & 1} | after
                    grown, after = found != after, found
                self.assertTrue(any(not plan.steps[n].operation.cold for n in after), [plan.steps[n].name for n in plan.order])
