"""Choosing the bar: doubt by two methods, ranking that keeps its promises, scale, balance and strength against closed forms."""

import math
import unittest
from dataclasses import replace

import numpy as np
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from scipy import integrate

from long_ember.beliefs import PRIOR
from long_ember.choosing import Source, candidate_bars, catalogue, common_bars, halves, mass_per_metre, preferred, rank, versus
from long_ember.demo import demo_files, demo_parcel
from long_ember.document import answer, fit_bar, scale_for, scaled, scaling_notes
from long_ember.errors import EmberError, NoAnswer
from long_ember.features import KINDS, Piece
from long_ember.geometry import Balance, balance, piece_bodies, section_outline, silhouette, together
from long_ember.heats import ForgeSettings
from long_ember.physics import Hammer
from long_ember.physics.strength import curved_beam, plastic_load, stake_load
from long_ember.records import Price, RackItem, record_kind
from long_ember.sections import Section, flat, hexagon, round_, square
from long_ember.shorthand import read_line
from long_ember.stock import Sawing, doubt_shares, first_order, questions, reckon, round_up
from long_ember.storage import read_piece
from long_ember.units import Measure
from tests.support import pieces

DEMOS = [read_piece(path) for path in demo_files()]
BARS = [Source("mild-steel", make(float(s))) for s in range(6, 40) for make in (square, round_)]


def records() -> dict[str, list]:
    found: dict[str, list] = {}
    for _i, record in demo_parcel().records:
        found.setdefault(record_kind(record), []).append(record)
    return found


class InDoubt(unittest.TestCase):
    def test_each_doubt_lies_round_what_is_reckoned_with(self):
        for piece in DEMOS:
            parted = replace(piece, allowances=replace(piece.allowances, parting=4.0))
            for d in reckon(parted, {f.id: 2.0 for f in parted.features}).doubts:
                with self.subTest(piece.name, doubt=d.name):
                    self.assertTrue(d.low <= d.likely <= d.high and d.low < d.high)

    def test_draws_and_covariances_agree_within_a_tenth_of_the_doubt(self):
        for piece in DEMOS:
            plain = replace(
                piece, allowances=replace(piece.allowances, scale=0.0, source="typed")
            )  # of much scale the first order is not the whole
            for confidence in (0.8, 0.95):
                reckoning = answer(plain, forge=ForgeSettings(sawing=Sawing("safe", confidence))).reckoning
                by_hand = first_order(reckoning, confidence)
                with self.subTest(piece.name, confidence=confidence):
                    self.assertAlmostEqual(by_hand, reckoning.safe, delta=0.1 * (reckoning.safe - reckoning.likely))

    @given(pieces(most=4), st.floats(0, 30), st.floats(0, 30), st.floats(0.5, 0.99))
    @settings(max_examples=15)
    def test_more_margin_or_confidence_never_shortens_the_cut(self, piece, margin, more, confidence):
        one, again, wider, surer = (
            reckon(piece, sawing=s)
            for s in (
                Sawing("safe", confidence, margin), Sawing("safe", confidence, margin), Sawing("safe", confidence, margin + more),
                Sawing("safe", min(confidence + 0.009, 0.999), margin),
            )
        )  # fmt: skip
        self.assertEqual(one.cut, again.cut)  # the same draws
        for other in (wider, surer):
            self.assertGreaterEqual(other.cut, one.cut)
        self.assertLessEqual(one.bare, one.likely + 1e-9)
        self.assertLessEqual(one.likely, one.safe + 1e-9)
        self.assertAlmostEqual(sum(share for _d, share in doubt_shares(one)), 1.0)

    def test_scale_by_its_closed_form(self):
        """All that matters is one log-normal: its 95th share is known without a draw."""
        piece = replace(DEMOS[4], allowances=replace(DEMOS[4].allowances, scale=0.03, source="typed"))
        r = answer(piece, forge=ForgeSettings(sawing=Sawing("safe"))).reckoning
        bar, taken = r.scaling
        self.assertAlmostEqual(bar * math.expm1(taken), r.scale / r.area, delta=0.02 * r.scale / r.area)
        sigma = math.hypot(0.25, r.growth * math.hypot(0.5, 0.1))
        alone = replace(r, doubts=tuple(d for d in r.doubts if d.name == "Scale and heats"), belief=replace(r.belief, length_scatter=1e-6))
        wanted = r.likely + bar * (math.expm1(taken * math.exp(1.6448536 * sigma)) - math.expm1(taken))
        self.assertAlmostEqual(alone.safe, wanted, delta=0.05 * (wanted - r.likely))

    def test_safe_is_as_safe_as_it_says_and_one_choice_rules_all(self):
        piece = DEMOS[0]
        safe, likely = (answer(piece, forge=ForgeSettings(sawing=Sawing(choice))).reckoning for choice in ("safe", "likely"))
        self.assertAlmostEqual(safe.short(safe.safe), 0.05, delta=0.002)
        self.assertAlmostEqual(likely.short(likely.likely), 0.5, delta=0.05)
        self.assertEqual((safe.likely, round_up(safe.likely, 1.0)), (likely.likely, likely.cut))
        own = replace(piece, allowances=replace(piece.allowances, saw="likely"))
        found = answer(own, forge=ForgeSettings(sawing=Sawing("safe")))
        self.assertEqual(found.reckoning.cut, likely.cut)
        self.assertEqual(found.cuts.piece, likely.cut)


class Ranking(unittest.TestCase):
    def test_the_present_bar_is_reckoned_exactly(self):
        for piece in DEMOS:
            found = rank(piece, candidate_bars(records(), piece, "both"))
            own = next(c for c in found if c.source.section == piece.bar)
            with self.subTest(piece.name):
                self.assertAlmostEqual(own.cut, reckon(piece).bare, places=6)
                self.assertAlmostEqual(own.effort, 1.0)

    def test_and_others_nearly_so(self):
        for piece in DEMOS[:4]:
            bar = piece.bar.scaled(1.05)
            (found,) = rank(piece, [Source(piece.material, bar)])
            with self.subTest(piece.name):
                self.assertAlmostEqual(found.cut, reckon(found.piece(piece)).bare, delta=0.01 * found.cut)

    @given(st.floats(14, 40), st.floats(8, 12), st.floats(0.7, 0.99))
    def test_a_smaller_bar_never_lightens_the_effort_of_an_upset(self, wide, bar, less):
        piece = Piece(bar=square(bar), features=(KINDS["run"](id="a"), KINDS["upset"](id="b", section=square(wide)), KINDS["run"](id="c")))
        assume(wide > bar * 1.1)
        found = rank(piece, [Source("mild-steel", square(bar)), Source("mild-steel", square(bar * less))])
        smaller, larger = sorted(found, key=lambda c: c.source.section.area)
        self.assertGreaterEqual(smaller.effort, larger.effort - 1e-9)
        self.assertEqual(smaller.upset, ("Upset 2",))

    def test_right_by_volume_and_still_too_narrow(self):
        pintle = DEMOS[6]
        found = rank(pintle, candidate_bars(records(), pintle, "mm"))
        own = next(c for c in found if c.source.section == pintle.bar)
        self.assertEqual(found[0].source.section, flat(50, 8))
        self.assertLess(own.chance, found[0].chance)
        self.assertIn("Spread 8", own.why[0])
        said = preferred(found, pintle.bar, Measure())
        self.assertTrue(said.startswith("50 × 8 mm flat beats 40 × 12 mm flat because it is less to forge"), said)
        self.assertIn("beats the present bar because its critical section comes out surer.", said)
        self.assertTrue(
            said.endswith("is too close to call, 71%: forge a test piece of it first.")
            and "Whether 40 × 10 mm flat gives Spread 8" in said,
            said,
        )
        self.assertIn("too close", preferred((found[0], found[0], own), pintle.bar, Measure()))

    def test_a_chance_over_all_that_is_possible_is_whole(self):
        """However wide the doubt: where any capture gives it, it is sure, and where none does, it is not to be had."""
        leaf = KINDS["spread"](id="s", width=30.0, thickness=3.0, length=90.0)
        piece = Piece(bar=flat(25, 6), features=(leaf, KINDS["run"](id="r")))
        vague = replace(PRIOR, covariance=tuple(tuple(x * 100 for x in row) for row in PRIOR.covariance))
        for width, sure in ((25.0001, 1.0), (49.9, 0.0)):
            wide = replace(piece, features=(replace(leaf, width=width), piece.features[1]))
            (own,) = rank(wide, [Source("mild-steel", flat(25, 6))], belief=vague)
            self.assertAlmostEqual(own.chance, sure, delta=0.005)

    def test_a_widening_in_the_middle_is_tested_too(self):
        wide = KINDS["section-change"](id="w", section=flat(20, 5), length=40.0)
        piece = Piece(bar=square(12), features=(KINDS["run"](id="a"), wide, KINDS["run"](id="b")))
        self.assertIn("capture", {q.name for q in questions(piece)})
        narrow = replace(piece, features=(piece.features[0], replace(wide, section=flat(10, 5)), piece.features[2]))
        self.assertNotIn("capture", {q.name for q in questions(narrow)})

    def test_a_twist_is_not_put_where_it_does_not_show(self):
        said = {c.source.section: c for c in rank(DEMOS[0], candidate_bars({}, DEMOS[0], "mm"))}
        self.assertIn("its twist would not show", said[round_(12)].why)
        self.assertNotIn("its twist would not show", said[square(12)].why)
        flattened = replace(
            DEMOS[0], features=tuple(replace(f, flattened=flat(14, 7)) if f.kind == "twist" else f for f in DEMOS[0].features)
        )
        self.assertNotIn("its twist would not show", rank(flattened, [Source("mild-steel", round_(12))])[0].why)

    def test_the_rack_and_prices_tell(self):
        bracket = DEMOS[0]
        found = rank(bracket, candidate_bars(records(), bracket, "mm"), on_rack=True)
        self.assertEqual({c.source.section for c in found}, {square(12), round_(12), flat(40, 8), round_(16)})
        own = found[0]
        self.assertEqual((own.on_rack, round(own.cost or 0, 4)), ("bin by the door", round(16.4 / 6000 * (own.cut + 2), 4)))
        for length, there in ((own.cut + 2.01, "a"), (own.cut + 1.99, "")):  # trim counts: long enough bare is not long enough
            (found_,) = rank(bracket, [Source("mild-steel", square(12), ((length, 1, "a"),))])
            self.assertEqual(found_.on_rack, there)
        short = [RackItem(section=square(12), length=100.0)]
        self.assertEqual(rank(bracket, candidate_bars({"rack": short}, bracket, "own"), on_rack=True), ())
        self.assertEqual(rank(bracket, ()), ())

    def test_sizes_are_sorted_and_each_once(self):
        for offer in ("mm", "in", "both", "own"):
            bars = common_bars(offer)
            self.assertEqual(len(set(bars)), len(bars))
            self.assertEqual(sorted(b.area for b in bars), [b.area for b in bars])
        self.assertAlmostEqual(mass_per_metre(round_(20), 7.85e-3), 2.466, places=3)

    @given(pieces(most=5))
    @settings(max_examples=20)
    def test_any_piece_finds_its_order_with_reasons(self, piece):
        for candidate in rank(piece, BARS):
            self.assertTrue(math.isfinite(candidate.score) and candidate.why and 0 <= candidate.chance <= 1 and 0 <= candidate.waste <= 1)


class Scaled(unittest.TestCase):
    def test_lengths_by_s_areas_by_s_squared_mass_by_s_cubed(self):
        for piece in DEMOS:
            one, other = (reckon(p) for p in (piece, scaled(piece, 1.5).after))
            with self.subTest(piece.name):
                self.assertAlmostEqual(other.bare, 1.5 * one.bare, delta=2e-3 * one.bare)
                self.assertAlmostEqual(other.mass, 1.5**3 * one.mass, delta=5e-3 * one.mass)

    def test_to_a_target_or_a_reason(self):
        for target, wanted in (("cut", 500.0), ("mass", 900.0), ("bar", 10.0), ("size", 240.0)):
            after = scaled(DEMOS[1], scale_for(DEMOS[1], target, wanted)).after
            points = np.vstack(silhouette(after))
            found = {
                "cut": answer(after).reckoning.likely,
                "mass": reckon(after).mass,
                "bar": after.bar.thickness,
                "size": np.ptp(points, axis=0).max(),
            }
            found = found[target]
            self.assertAlmostEqual(found, wanted, delta=2e-3 * wanted)
        for factor in (0.0, 99.0):
            with self.assertRaises(NoAnswer):
                scaled(DEMOS[0], factor)
        with self.assertRaises(EmberError):
            scale_for(Piece(), "cut", 100.0)

    def test_the_target_is_met_at_the_shops_own_fire_and_hammer(self):
        weak = ForgeSettings(200.0, hammer=Hammer(mass=0.6))
        for make in (lambda: scaled(DEMOS[0], scale_for(DEMOS[0], "cut", 500.0, forge=weak)).after,
                     lambda: fit_bar(DEMOS[0], "f2", "length", 500.0, forge=weak).after):  # fmt: skip
            self.assertAlmostEqual(answer(make(), forge=weak).reckoning.likely, 500.0, delta=1.0)
            self.assertGreater(abs(answer(make()).reckoning.likely - 500.0), 1.0)  # other heats, other scale

    def test_what_no_longer_makes_sense_is_named(self):
        piece = Piece(bar=flat(30, 6), features=(KINDS["run"](id="a"), KINDS["hole"](id="b", diameter=6.6)))
        noted = scaling_notes(piece, scaled(piece, 1.17).after, common_bars("mm"))
        self.assertTrue(all(" mm" not in n.show(Measure("in")) for n in noted))
        notes = " ".join(n.show(Measure()) for n in noted)
        for words in ("not sold", "right for M6", "fits no screw"):
            self.assertIn(words, notes)
        self.assertEqual(scaling_notes(piece, scaled(piece, 1.0).after, common_bars("mm")), ())


class Weighed(unittest.TestCase):
    def test_centre_of_gravity_against_closed_forms(self):
        bar = Piece(features=(KINDS["run"](id="a", length=80.0),))
        x, y, z = balance(piece_bodies(bar), 7.85e-3).centre
        self.assertAlmostEqual(x, 40)
        self.assertAlmostEqual(abs(y) + abs(z), 0, places=6)
        taper = Piece(features=(KINDS["taper"](id="a", length=90.0, tip=3.0), KINDS["run"](id="b", length=50.0)))
        found = balance(piece_bodies(taper), 7.85e-3)
        volume, moment = (integrate.quad(lambda s, n=n: (3 + 9 * s / 90) ** 2 * s**n, 0, 90)[0] for n in (0, 1))
        wanted = (moment + 144 * 50 * 115) / (volume + 144 * 50)
        self.assertAlmostEqual(abs(found.centre[0] - min(b.mesh.points[:, 0].min() for b in piece_bodies(taper))), wanted, places=4)
        self.assertAlmostEqual(found.mass, (volume + 144 * 50) * 7.85e-3, places=4)

    def test_things_together_balance_between_them(self):
        both = together((Balance(300.0, (0.0, 0.0, 0.0)), Balance(100.0, (80.0, 4.0, 0.0))))
        self.assertEqual((both.mass, both.centre), (400.0, (20.0, 1.0, 0.0)))
        self.assertEqual(together(()).mass, 0.0)


class Compared(unittest.TestCase):
    def test_curved_beam_against_closed_forms_and_quadrature(self):
        found = curved_beam(section_outline(flat(20, 10))[0], 15.0)
        self.assertAlmostEqual(found.neutral, 10 / math.log(25 / 15), places=3)
        c, middle = 6.0, 21.0
        ring = curved_beam(section_outline(round_(12), 96)[0], 15.0)
        self.assertAlmostEqual(ring.neutral, (middle + math.sqrt(middle**2 - c**2)) / 2, delta=0.01)
        for section in (square(12), hexagon(14), Section("square", 12, 12, 2)):
            beam = curved_beam(section_outline(section)[0], 10.0)
            self.assertGreater(beam.inside, 0)
            self.assertLess(beam.outside, 0)
        wide = curved_beam(section_outline(square(10))[0], 5000.0)  # nearly straight: Navier's formula
        self.assertAlmostEqual(wide.inside, 0.01 + 5005 * 5 / (10**4 / 12), delta=0.02 * wide.inside)
        with self.assertRaises(NoAnswer):
            curved_beam(section_outline(square(10))[0], 0.0)

    def test_plastic_load(self):
        self.assertAlmostEqual(plastic_load(square(12).plastic_bending, 100.0) / plastic_load(square(10).plastic_bending, 100.0), 1.2**3)
        half = integrate.quad(lambda y: 2 * math.sqrt(36 - y * y) * y, 0, 6)[0] * 2
        self.assertAlmostEqual(round_(12).plastic_bending, half, places=4)
        self.assertEqual(np.sign(plastic_load(1.0, 5.0)), 1)
        with self.assertRaises(NoAnswer):
            plastic_load(1.0, 0.0)


class AgainstAKnownPiece(unittest.TestCase):
    def test_the_halves_are_the_whole_and_cut_by_quadrature(self):
        for piece in DEMOS:
            self.assertAlmostEqual(sum(halves(piece)), reckon(piece).mass, delta=1e-6 * reckon(piece).mass)
        taper = Piece(features=(KINDS["taper"](id="a", length=90.0, tip=3.0),))
        # What stands on the drawn bar: a hole is missing from its half, a bow is compared with the section that it bends.
        line = "14 sq: taper 120 to 6, run 200, flatten 60 to 5 thick, hole 6 at {} from A, twist 40 at 160 from A, bend 90 at {} from A"
        one, other = (read_line(line.format(hole, bend)).piece for hole, bend in ((135, 250), (235, 250)))
        for piece in (one, other):
            self.assertAlmostEqual(sum(halves(piece)), reckon(piece).mass, delta=1e-6 * reckon(piece).mass)
        self.assertGreater(halves(other)[0] - halves(one)[0], 1.0)
        self.assertIn("Bend, {}", versus(one, other, "hook")[1].text)
        line = "14 sq: taper 160 to 4 square, run 200; bend 90 12 at {} from A"
        thin, thick = (read_line(line.format(at)).piece for at in (40, 250))
        stress = []
        for bow in (dict(p.shapes)[p.standing[0].id] for p in (thin, thick)):
            size = (bow.spans[0].start.t + bow.spans[-1].end.t) / 2  # in its middle
            stress.append(curved_beam(section_outline(square(size))[0], bow.length / (math.pi / 2) - size / 2).inside)
        self.assertAlmostEqual(_ratio(versus(thin, thick, "hook")[1]), stress[0] / stress[1], delta=0.051 * stress[0] / stress[1])
        first = integrate.quad(lambda s: (3 + 9 * s / 90) ** 2, 0, 45)[0] * taper.steel.density
        self.assertAlmostEqual(halves(taper)[0], first)

    def test_a_bow_bent_the_hard_way_is_as_deep_as_the_bar_is_wide(self):
        easy, hard = (read_line(f"30x8 flat: run 100, bend 90 20{how}, run 100").piece for how in ("", " edgewise"))
        stress = []
        for piece, deep in ((easy, "t"), (hard, "w")):
            shape = dict(piece.shapes)["f2"]
            high, wide = (getattr(shape.spans[0].start, name) for name in (deep, "w" if deep == "t" else "t"))
            outline = np.array([(-wide / 2, -high / 2), (wide / 2, -high / 2), (wide / 2, high / 2), (-wide / 2, high / 2)])
            stress.append(curved_beam(outline, shape.length / (math.pi / 2) - high / 2).inside)
        self.assertAlmostEqual(_ratio(versus(easy, hard, "hook")[1]), stress[0] / stress[1], delta=0.051 * stress[0] / stress[1])

    @given(st.floats(6, 30), st.floats(6, 30), st.floats(50, 800), st.floats(0, 400))
    def test_a_piece_stands_against_another_as_the_other_against_it(self, one, other, driven, above):
        pieces_ = [
            Piece(bar=square(a), features=(KINDS["bend"](id="h", angle=180, radius=2 * a), KINDS["run"](id="r"))) for a in (one, other)
        ]
        for use, power in (("shank", 3.0), ("hook", -2.0), ("stake", 1.0)):
            ahead, behind = (_ratio(versus(*pair, use, driven, above)[1]) for pair in (pieces_, pieces_[::-1]))
            self.assertAlmostEqual(ahead * behind, 1.0, delta=0.1)
            self.assertAlmostEqual(ahead, (one / other) ** power, delta=0.051 * ahead)  # like shapes, so by powers of their size

    def test_broms_deeper_and_wider_hold_more(self):
        self.assertAlmostEqual(stake_load(20, 300, 0) / stake_load(10, 300, 0), 2.0)
        self.assertAlmostEqual(stake_load(20, 600, 0) / stake_load(20, 300, 0), 4.0)
        self.assertLess(stake_load(20, 300, 200), stake_load(20, 300, 0))
        with self.assertRaises(NoAnswer):
            stake_load(20, 0, 100)

    def test_where_there_is_nothing_to_compare_it_says_so(self):
        plain, hook = Piece(features=(KINDS["run"](id="r"),)), DEMOS[0]
        self.assertIn("has no bow", versus(plain, hook, "hook")[1].text)
        self.assertIn("the same", versus(hook, hook, "shank")[0].text)

    def test_the_catalogue_keeps_what_the_shop_says_and_the_rest(self):
        own = {
            "p": Price(section=square(12), length=6000.0, price=16.4),
            "q": Price(section=round_(14), sold=False),
            "z": Price(section=square(13)),
        }
        rows = catalogue("mm", own, 3000.0)
        self.assertEqual(len(rows), len(common_bars("mm")) + 1)
        self.assertIs(rows["p"], own["p"])
        self.assertEqual(rows["size-flat-40-8"].length, 3000.0)
        sections = [s.section for s in candidate_bars({"price": list(own.values())}, DEMOS[0], "mm")]
        self.assertTrue(square(13) in sections and round_(14) not in sections)
        bronze = {"b": Price(material="bronze", section=round_(16), sold=False)}  # says nothing of steel
        self.assertIn("size-round-16-16", catalogue("mm", bronze, 3000.0))
        self.assertIn(round_(16), [s.section for s in candidate_bars({"price": list(bronze.values())}, DEMOS[0], "mm")])


def _ratio(line) -> float:
    return next(q.value for q in line.values if q.dimension == "number")
