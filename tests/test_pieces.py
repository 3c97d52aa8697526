"""Whole pieces for the boathouse, through the core: each from bar to solid, its steel counted a second way, read aloud."""

import io
import math
import random
import unittest
from dataclasses import replace

import trimesh

from long_ember.cli.plan import plan_text
from long_ember.document import (
    answer,
    change_standing,
    fit_bar,
    give_own_bar,
    lay_down,
    lay_on,
    make_mate,
    remove,
    scaled,
    set_field,
    turn_round,
)  # fmt: skip
from long_ember.errors import EmberError
from long_ember.export import solid_bytes
from long_ember.features import KINDS, Allowances, Piece, Standing
from long_ember.features.solve import free_names, size_of, with_size
from long_ember.fields import Choice, specs
from long_ember.geometry import DONE, contacts
from long_ember.heats import staged
from long_ember.sections import flat, round_, square
from long_ember.stock import reckon
from long_ember.storage import piece_from_text
from long_ember.storage.piece_file import piece_to_text
from long_ember.units import Measure

BARE = Allowances(scale=0.0, trim=0.0)


def make(kind: str, identity: str = "", **fields):
    return KINDS[kind](id=identity or kind, **fields)


def on(feature, at: float = 0.0, landmark: str = "A", edge: str = "A", toward: str = "B") -> Standing:
    return Standing(feature=feature, on=landmark, edge=edge, at=at, along=toward)


OILSKIN = Piece(
    name="Oilskin hook", bar=square(8),
    features=(
        make("spread", "leaf", outline="lens", length=32.0, width=19.0, thickness=2.4),
        make("run", length=80.0),
        make("taper", form="round", length=120.0, tip=3.0, toward="B"),
    ),
    standing=(
        on(make("hole", diameter=4.8, sink=7.0), 0.0, "leaf", "middle"),
        on(make("twist", length=20.0, turns=1.0), 24.0, "run"),
        on(make("curl", inner=3.0, outer=7.0, turns=0.75), 0.0, "B", "A", "A"),
        on(make("hook", inside=32.0, sweep=180.0, lip=0.0), 6.0, "curl", "A", "A"),
    ),
)  # fmt: skip

# Half of a pair of tongs: jaw with rounded edges and two bends in it, boss with its rivet hole, rein drawn down.
TONG = Piece(
    name="Tong half", bar=flat(16, 10),
    features=(
        make("taper", "jaw", form="flat", wide=10.0, tip=6.0, length=60.0, rounding=2.5),
        make("section-change", "boss", section=flat(21, 7), length=22.0),
        make("taper", "rein", form="round", tip=7.0, length=260.0, root=round_(10), toward="B"),
    ),
    standing=(
        on(make("bend", "bend-1", angle=35.0, radius=12.0), 12.0),
        on(make("bend", "bend-2", angle=35.0, radius=12.0, facing=180.0), 38.0),
        on(make("hole", "rivet", diameter=8.0, method="punched"), 0.0, "boss", "middle"),
    ),
)  # fmt: skip

EEL = Piece(
    name="Eel fork", bar=round_(10),
    features=(
        make("section-change", "flattened", section=flat(15.7, 5), length=75.0),
        make("run", "shank", length=120.0),
        make("section-change", "middle", section=flat(16, 4.5), length=35.0),
        make("run", "tail", length=110.0),
    ),
    standing=(
        on(make("split", cut=60.0, kerf=1.0, across="width", angle=90.0, radius=2.0, method="saw",
                upper=(make("point", "p1", length=18.0), make("bend", "b1", angle=60.0, radius=15.0)),
                lower=(make("point", "p2", length=18.0), make("bend", "b2", angle=60.0, radius=15.0)))),
        on(make("twist", length=30.0, turns=1.0), 0.5, "middle"),
        on(make("eye", inside=20.0, sweep=315.0, toward="B"), 0.0, "B", "A", "A"),
        on(make("bend", "back", angle=45.0, radius=12.0, facing=180.0), 0.0, "eye", "A", "A"),
    ),
)  # fmt: skip

REED = Piece(
    name="Reed-leaf key tag", bar=flat(20, 5),
    features=(
        make("spread", "leaf", outline="lens", length=60.0, width=24.0, thickness=3.0),
        make("neck", size=8.0, sides="edges", passes="two"),
        make("section-change", "stem", section=round_(4), length=60.0),
    ),
    standing=(
        on(make("surface", "scallops", work="scallops", length=52.0, face="edges"), 0.0, "leaf", "middle"),
        on(make("surface", "veins", work="veins", length=46.0), 0.0, "leaf", "middle"),
        on(make("surface", "fold", work="fold", length=56.0), 0.0, "leaf", "middle"),
        on(make("surface", "open", work="planish", length=50.0, name="open the leaf"), 0.0, "leaf", "middle"),
        on(make("eye", "loop", inside=10.0, toward="B"), 0.0, "B", "A", "A"),
    ),
)  # fmt: skip

LAMP = Piece(
    name="Lamp foot", bar=round_(6),
    features=(
        make("point", "spike", length=30.0, form="round"),
        make("bend", "up", angle=90.0, radius=3.0, facing=90.0),
        make("coil", form="flat", inside=0.0, turns=4.0, gap=0.0, toward="A"),
        make("run", "arm", length=140.0),
        make("run", "grip", length=90.0),
    ),
    standing=(on(make("hook", "handle", inside=40.0, sweep=220.0, lip=10.0, toward="B"), 0.0, "B", "A", "A"),),
)  # fmt: skip

SHACKLE = Piece(
    name="Shackle key", bar=flat(25, 6),
    features=(
        make("run", "head", length=60.0),
        make("run", "body", length=90.0),
        make("part-off", toward="B"),
    ),
    standing=(
        on(make("drifted-eye", "slot", diameter=17.0, punch=6.0), 21.0),
        *(on(make("surface", f"dots-{i}", work="dots", length=10.0, count=5, name=name), at) for i, (name, at) in
          enumerate((("left lobe", 8.0), ("right lobe", 34.0)))),
        on(make("surface", "lines", work="lines", length=40.0, face="both"), 0.0, "body", "middle"),
        on(make("surface", "mark", work="touch-mark", length=8.0), 10.0, "body", "A"),
    ),
)  # fmt: skip

CLEAT = Piece(
    name="Pivoting cleat", bar=flat(25, 6),
    features=(
        make("taper", "arm-a", form="edge-sided", tip=8.0, thick=8.0, length=110.0, facing=90.0),
        make("edge-set", length=40.0, thickness=7.0),
        make("taper", "arm-b", form="edge-sided", tip=10.0, thick=7.0, length=80.0, facing=90.0, toward="B"),
    ),
    standing=(
        on(make("drifted-eye", "pivot", form="diamond", diameter=13.0, punch=3.0), 0.0, "edge-set", "middle"),
        on(make("scroll", "scroll-a", inner=6.0, outer=20.0, turns=1.0), 0.0),
        on(make("scroll", "scroll-b", inner=6.0, outer=16.0, turns=0.75, toward="B"), 0.0, "B", "A", "A"),
        on(make("bevel", length=20.0, width=5.0, edge=3.0, edges="both"), 90.0),
    ),
)  # fmt: skip

PIECES = (OILSKIN, TONG, EEL, REED, LAMP, SHACKLE, CLEAT)


def done_in_order(piece: Piece) -> list[str]:
    plan = answer(piece).plan
    return [plan.steps[number].feature.id for number in plan.order]


class Every(unittest.TestCase):
    def test_comes_out_whole_and_is_kept(self):
        for piece in PIECES:
            with self.subTest(piece.name):
                piece.verify()
                self.assertEqual(piece_from_text(piece_to_text(piece)), piece)
                found = answer(piece)
                steel = math.fsum(shape.volume for _id, shape in piece.shapes)
                reckoning = found.reckoning
                self.assertAlmostEqual(steel, reckoning.finished, places=5)
                # What is sawn is what is there, what was taken away, scale, trim and parting: nothing else.
                self.assertAlmostEqual(
                    reckoning.likely * reckoning.area,
                    steel + reckoning.removed + reckoning.scale + (2 * reckoning.trim + reckoning.parting) * reckoning.area, places=4,
                )  # fmt: skip
                self.assertEqual([c.line.text for _z, c in found.checks if c.level == "stop"], [])

    def test_a_name_may_hold_any_sign(self):
        def told(piece: Piece, name: str) -> str:
            renamed = replace(
                piece,
                features=tuple(replace(f, name=name) for f in piece.features),
                standing=tuple(replace(s, feature=replace(s.feature, name=name)) for s in piece.standing),
            )
            return plan_text(answer(renamed), Measure())

        for piece in PIECES:
            with self.subTest(piece.name):
                self.assertEqual(told(piece, "{0} {odd} {").replace("{0} {odd} {", "plainly"), told(piece, "plainly"))

    def test_each_solid_is_closed_and_holds_its_sum(self):
        for piece in PIECES:
            made = trimesh.load(io.BytesIO(solid_bytes(piece, "stl")), file_type="stl")
            with self.subTest(piece.name):
                self.assertTrue(made.is_watertight)
                self.assertAlmostEqual(made.volume / math.fsum(shape.volume for _id, shape in piece.shapes), 1, delta=1e-3)

    def test_every_stage_keeps_the_steel_and_every_step_is_done_once(self):
        for piece in PIECES:
            found = answer(piece)
            whole = found.reckoning.bare * piece.bar.area
            with self.subTest(piece.name):
                self.assertEqual([f for f in found.plan.flags if f[0].strength == "must"], [])
                done = [(w.step.feature.id, w.step.order) for h in found.plan.heats for w in h.work if w.stop == 1]
                self.assertEqual(len(done), len(set(done)))
                self.assertEqual({i for i, _o in done}, {s.feature.id for s in found.plan.steps})
                for frame in found.plan.frames:
                    parts = staged(found.reckoning, frame.after)
                    volume = math.fsum(p.shape.volume for p in parts)
                    self.assertLessEqual(volume, whole * (1 + 1e-6))
                    if all(p == DONE for p in frame.after.values()):
                        self.assertAlmostEqual(volume, found.reckoning.finished, delta=1e-4 * whole)

    def test_steel_comes_first_and_one_thing_after_another(self):
        for piece, orders in (
            (OILSKIN, ("leaf hole", "taper curl", "curl hook", "taper hook")),
            (TONG, ("jaw bend-1", "boss rivet", "jaw bend-2")),
            (EEL, ("flattened split", "middle twist", "twist eye")),
            (REED, ("leaf scallops", "scallops veins", "veins fold", "fold open", "stem loop")),
            (LAMP, ("spike up", "spike coil")),
            (SHACKLE, ("slot part-off", "lines part-off")),
            (CLEAT, ("arm-a scroll-a", "edge-set pivot", "pivot scroll-b", "arm-b scroll-b", "arm-a bevel")),
        ):
            order = done_in_order(piece)
            for pair in orders:
                sooner, later = pair.split()
                with self.subTest(piece.name, pair=pair):
                    self.assertLess(max(i for i, x in enumerate(order) if x == sooner), min(i for i, x in enumerate(order) if x == later))

    def test_the_last_stage_is_the_piece_hole_by_hole(self):
        for piece in (OILSKIN, TONG, SHACKLE, CLEAT):
            found = answer(piece)
            last = [(p.id, p.shape) for p in staged(found.reckoning, found.plan.frames[-1].after)]
            for (one, now), (other, shape) in zip(last, piece.shapes, strict=True):
                self.assertEqual(one, other)
                self.assertAlmostEqual(now.length, shape.length, delta=1e-3)
                for void, wanted in zip(now.voids, shape.voids, strict=True):
                    self.assertAlmostEqual(void.centre, wanted.centre, delta=1e-3)

    def test_the_tags_neck_is_set_off_first_and_thinned_last(self):
        order = done_in_order(REED)
        self.assertEqual(order[0], "neck")
        self.assertGreater(len(order) - 1 - order[::-1].index("neck"), order.index("open"))

    def test_only_what_lies_in_itself_runs_into_itself(self):
        for piece in (OILSKIN, TONG, EEL, REED, LAMP, SHACKLE, CLEAT):
            self.assertEqual(contacts(piece), (), piece.name)

    def test_the_other_way_round_the_mate_and_a_larger_one(self):
        for piece in PIECES:
            bare = reckon(piece).bare
            for factor, change in ((1.0, turn_round), (1.0, make_mate), (1.5, lambda p: scaled(p, 1.5))):
                made = change(piece).after
                with self.subTest(piece.name, factor=factor):
                    self.assertAlmostEqual(reckon(made).bare, factor * bare, places=6)
                    self.assertAlmostEqual(math.fsum(s.volume for _i, s in made.shapes), reckon(made).finished, places=4)
            self.assertEqual(turn_round(turn_round(piece).after).after, piece)

    def test_whatever_is_done_to_them_the_steel_is_kept_or_it_is_refused_by_name(self):
        """Sizes, choices, works and forms laid on, given their own bar, removed, at random: nothing but a refusal in words may come of it."""
        rng, kinds, reached = random.Random(11), [k for k, cls in KINDS.items() if cls.stands], 0
        for _ in range(120):
            piece = rng.choice(PIECES)
            for _ in range(rng.randint(1, 4)):
                identity = rng.choice([*(f.id for f in piece.features), *(s.id for s in piece.standing)])
                try:
                    piece = self.done_to(piece, identity, kinds, rng)
                except EmberError as error:
                    self.assertTrue(str(error))
                if not piece.features:
                    break
            if piece.features:
                reached += 1
                self.assertAlmostEqual(
                    math.fsum(s.volume for _i, s in piece.shapes), reckon(piece).finished, delta=1e-6 * reckon(piece).finished
                )
        self.assertGreater(reached, 95)

    def done_to(self, piece: Piece, identity: str, kinds: list[str], rng: random.Random) -> Piece:
        feature, laid = piece.feature(identity), piece.stands(identity) is not None
        change, way = (change_standing if laid else set_field), rng.random()
        names = free_names(feature)
        if way < 0.5 and names:
            name = rng.choice(names)
            made = with_size(feature, name, max(size_of(feature, name), 0.5) * rng.choice((0.1, 0.3, 0.6, 0.9, 1.3, 2, 4)))
            return change(piece, identity, name, getattr(made, name)).after
        if way < 0.6:
            choices = [(n, spec) for n, spec in specs(feature).items() if isinstance(spec, Choice) and n != "toward"]
            if not choices:
                return piece
            name, spec = rng.choice(choices)
            return change(piece, identity, name, rng.choice(spec.choices)[0]).after
        if way < 0.8:
            return lay_on(piece, identity, rng.choice(kinds)).after
        if way < 0.9:
            return give_own_bar(piece, identity).after if laid else lay_down(piece, identity).after if feature.stands else piece
        return remove(piece, identity).after


class Figures(unittest.TestCase):
    def test_an_oilskin_hook_from_a_bar_of_exactly_200(self):
        piece = fit_bar(OILSKIN, "run", "length", 200.0).after
        self.assertAlmostEqual(answer(piece).reckoning.likely, 200.0, places=3)
        self.assertGreater(piece.features[1].length, 100.0)
        self.assertEqual(piece.standing, OILSKIN.standing)

    def test_a_tong_half_has_true_walls_its_bends_where_they_were_asked_for_and_a_mate(self):
        rivet = TONG.composition.stand("rivet")
        self.assertAlmostEqual((rivet.place.bar.width - 8.0) / 2, 6.5)  # in the boss, not in the bar
        self.assertAlmostEqual(TONG.composition.stand("bend-1").start, 12.0)
        self.assertLess(TONG.composition.stand("bend-1").place.bar.blend.t, TONG.composition.stand("bend-2").place.bar.blend.t)
        mate = make_mate(TONG).after
        self.assertEqual(answer(mate).reckoning.cut, answer(TONG).reckoning.cut)
        # Or the rein is a bar welded on by arc: nothing of this bar, no flux, no scarf, no heat.
        welded = replace(
            TONG, features=(*TONG.features[:2], make("extension", "rein", section=round_(10), length=260.0, weld="arc", toward="B")),
            allowances=BARE,
        )  # fmt: skip
        found = answer(welded)
        self.assertEqual(found.reckoning.zones[-1].stock, 0.0)
        self.assertAlmostEqual(found.reckoning.added, 260 * math.pi * 25)
        told = " ".join(w.step.operation.line.show(Measure()) for h in found.plan.heats for w in h.work if w.step.feature.id == "rein")
        self.assertNotIn("lux", told)
        self.assertTrue(all(h.cold for h in found.plan.heats for w in h.work if w.step.feature.id == "rein"))

    def test_each_tine_of_the_eel_fork_by_hand(self):
        stand = EEL.composition.stand("split")
        self.assertAlmostEqual(stand.feature.tine(stand.place).area, 36.75)
        tine = stand.feature.shape(stand.place).branches[0].shape
        self.assertAlmostEqual(tine.volume, 36.75 * 60, places=6)

    def test_turns_of_a_lamp_foot_from_a_bar_of_1200(self):
        piece = fit_bar(LAMP, "coil", "turns", 1200.0).after
        self.assertAlmostEqual(answer(piece).reckoning.likely, 1200.0, places=3)
        coil, place = piece.features[2], piece.place(2)
        # Touching turns fill a disc: π/4·(D² − ...) of bar 6 wide; the length is the disc's area ÷ 6, to a few per cent.
        self.assertAlmostEqual(math.pi / 4 * coil.outside(place) ** 2 / 6, coil.tip_first(place).length, delta=0.06 * 1200)
        self.assertIn("Outside diameter", " ".join(line.show(Measure()) for line in coil.sum_lines(place)))

    def test_a_shackle_keys_slot_has_equal_margins(self):
        stand = SHACKLE.composition.stand("slot")
        eye = stand.feature
        side = (25.0 - eye.punch) / 2
        self.assertAlmostEqual(stand.middle - eye.opened() / 2, side, delta=0.6)
        told = " ".join(line.show(Measure()) for line in stand.lines)
        self.assertIn("9.4 mm from the slot to the end", told)
        self.assertEqual(SHACKLE.feature("dots-0").title, "left lobe")

    def test_a_cleats_edge_set_by_volume_and_its_diamond_by_its_rim(self):
        width = KINDS["edge-set"].width(CLEAT.features[1], CLEAT.place(1))
        self.assertAlmostEqual(width * 7.0 * 40.0, 25 * 6 * 40 / 1.1)
        pivot = CLEAT.composition.stand("pivot")
        eye = pivot.feature
        along, lean = eye.diamond()
        side = math.hypot(along / 2, eye.diameter / 2)
        self.assertAlmostEqual(4 * side, 2 * (eye.opened() - eye.punch) + math.pi * eye.punch, places=9)
        self.assertAlmostEqual(math.tan(lean), eye.diameter / along, places=9)
        void = dict(CLEAT.shapes)["pivot"].voids[0]
        self.assertAlmostEqual(void.volume, along * eye.diameter / 2 * pivot.place.bar.blend.t)


if __name__ == "__main__":
    unittest.main()
