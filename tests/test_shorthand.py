"""A piece as a line, both ways: every kind, whole pieces, what smiths say, what can't be read; and the starts."""

import itertools
import os
import random
import time
import unittest
from dataclasses import replace

from hypothesis import given, settings
from hypothesis import strategies as st

from long_ember.demo import demo_files
from long_ember.document import add_half, answer, make_mate, put_in, quick_answer, scaled, turn_round
from long_ember.errors import EmberError, NoAnswer
from long_ember.features import KINDS, Feature, Piece, Pin, Standing, said_by
from long_ember.fields import Choice, Limb, specs
from long_ember.records import RECORDS, Shop, Start
from long_ember.sections import flat, round_, square
from long_ember.shorthand import (
    ShorthandError,
    askable,
    asked,
    carried,
    completions,
    filled,
    found_starts,
    names_start,
    own_start,
    proposed_bar,
    proposed_words,
    read_any_line,
    read_line,
    settled,
    start_words,
    started,
    write_features,
    write_line,
)
from long_ember.shorthand.vocabulary import kind_words, many_words, words_of
from long_ember.stock import reckon
from long_ember.storage import read_piece, starts
from long_ember.units import Measure
from tests import test_pieces
from tests.support import BARS, CASES, pieces

MM, IN = Measure(), Measure("in")
HOOK = '1/4 sq x 8": leaf 1 1/4 x 3/4 x 3/32 with hole 3/16, run 2", twist 1 turn over 1 1/4", taper 4" to 1/8 rd; hook 1 1/4" on the taper, curl 1/4"'
WHOLE = [v for v in vars(test_pieces).values() if isinstance(v, Piece)]


def plain(piece: Piece) -> tuple:
    """Bar, material and features, under ids in the order of the line; sizes that mean nothing as they are, as they are usually."""
    names: dict[str, str] = {"A": "A", "B": "B"}
    number = itertools.count(1)

    def called(identity: str) -> str:
        if identity not in names:
            names[identity] = f"f{next(number)}"
        return names[identity]

    def feature(f: Feature, standing: bool = False) -> Feature:
        usual, stood = type(f).__dataclass_fields__, f.standing() if standing else f
        quiet = {n for n in specs(f) if n in f.idle or getattr(stood, n) != getattr(f, n) or (standing and n == "toward")}
        values = {n: usual[n].default for n in quiet}
        values |= {n: limb(getattr(f, n)) for n, s in specs(f).items() if isinstance(s, Limb)}
        return replace(f, id=called(f.id), **values)

    def stands(parts) -> tuple:
        made = [replace(s, edge="A" if s.on in "AB" else s.edge, feature=feature(s.feature, True)) for s in parts]
        return tuple(replace(s, on=called(s.on)) for s in made)

    def limb(parts) -> tuple:
        row = tuple(feature(p) for p in parts if isinstance(p, Feature))
        return row + stands([p for p in parts if isinstance(p, Standing)])

    return piece.bar, piece.material, tuple(feature(f) for f in piece.features), stands(piece.standing)


class BothWays(unittest.TestCase):
    def same(self, piece: Piece) -> None:
        for measure, other in ((MM, IN), (IN, MM)):
            line = write_line(piece, measure)
            found = read_line(line, other)  # whoever gets it may use the other unit
            self.assertEqual(plain(found.piece), plain(piece), line)
            self.assertEqual(found.proposed, (), line)

    def test_every_kind_on_every_bar(self):
        for bar, case in itertools.product(BARS, CASES):
            piece = Piece(bar=bar, features=(replace(case, id="f1"),))
            try:
                piece.verify()
            except NoAnswer:
                continue
            with self.subTest(bar=bar.shape, kind=case.kind):
                self.same(piece)

    def test_counted_works_fields_behind_with_and_shapes_behind_then_mean_the_same_as_written_out(self):
        for said, plain in (
            ("25 x 5 flat: run 200 with three holes 6 countersunk 11",
             "25 x 5 flat: run 200 with hole 6 countersunk 11 and hole 6 countersunk 11 and hole 6 countersunk 11"),
            ("12 sq: palm 50 x 40 x 4 with 2 holes of 5 and veins", "12 sq: palm 50 x 40 x 4 with hole 5 and hole 5 and veins"),
            ("10 sq: run 100, hook 30 with a lip of 12", "10 sq: run 100, hook 30 lip 12"),
            ("12 sq: taper 100 to 3 and tip width 3 then run 60 and bend 90 r 10", "12 sq: taper 100 to 3 tip width 3, run 60, bend 90 r 10"),
            ("12 sq: run 60, twist half a turn over 60, then run 60", "12 sq: run 60, twist 0.5 turns over 60, run 60"),
            ("30 x 6 flat: twist three quarter turn over 40, run 60", "30 x 6 flat: twist 0.75 turns over 40, run 60"),
            ("20 x 10 flat: edge-set 200 long to 12 thick, run 60", "20 x 10 flat: edge-set 200 x 12, run 60"),
            ("25 x 6 flat: run 200, holes 8 at 30, 100 and 170 from A", "25 x 6 flat: run 200, hole 8 at 30 from A, hole 8 at 100 from A, hole 8 at 170 from A"),
            ("25 x 6 flat: run 200 with two countersunk holes 5 at 30 and 170 and hole 9",
             "25 x 6 flat: run 200 with countersunk hole 5 at 30 and countersunk hole 5 at 170 and hole 9"),
            ("12 sq: run 200 with holes 6 at 20 and 80, 90 taper to 4", "12 sq: run 200 with hole 6 at 20 and hole 6 at 80, taper 90 to 4"),
            ("12 sq: 200 long run with holes 6 at 20 and 80", "12 sq: run 200 with hole 6 at 20 and hole 6 at 80"),
            ("12 sq: run 300; bends 45 r 20 at 60 and 180", "12 sq: run 300; bend 45 r 20 at 60, bend 45 r 20 at 180"),
            ("16 rd: run 100, thread M12 x 40", "16 rd: run 100, thread 12 pitch 1.75 over 40"),
            ("5/8 in rd: run 4, thread M12 x 1.25", "5/8 in rd: run 4, thread 12 mm pitch 1.25 mm"),
            ("30 x 6 flat: run 100, split 90 upper tine [taper 70; curl 8] lower tine [taper 70; curl 8]",
             "30 x 6 flat: run 100, split 90 upper tine [taper 70; curl 8 at 0 from end A] lower tine [taper 70; curl 8 at 0 from end A]"),
            ("8 sq: hook 40 with curl 12, run 100", "8 sq: curl 12, hook 40, run 100"),
            ("8 sq: run 100, hook 40 with a curl", "8 sq: run 100, hook 40, curl"),
            ("8 sq: hook 40 with curl 12 at both ends, run 100", "8 sq: curl 12, hook 40, run 100, hook 40, curl 12"),
            ("25 x 6 flat: run 200, drill 2 holes 6 at 25 from each end", "25 x 6 flat: run 200; hole 6 drilled at 25 from end A, hole 6 drilled at 25 from end B"),
            ("25 x 6 flat: run 200 with punch two holes 8", "25 x 6 flat: run 200 with hole 8 punched and hole 8 punched"),
            ("8 rd: eye 20 both ends, 150 between", "8 rd: eye 20, run 150, eye 20"),
            ("12 sq: scroll 30 at one end, run 200, taper 80 to 4 at the other", "12 sq: scroll 30, run 200, taper 80 to 4"),
            ("10 rd: hook with 30 opening, run 100", "10 rd: hook 30, run 100"),
            ("12 sq: upset the end 40 to 18, run 100", "12 sq: upset 40 to 18, run 100"),
            ("1/2 rd: run 8, thread 1/2-13 1 1/2 long", "1/2 in rd: run 8, thread 1/2 in 13 tpi over 1 1/2"),
            ("30 x 10 flat: run 60, neck to 12, run 60", "30 x 10 flat: run 60, neck to 12 sunk edges, run 60"),
            ("25 x 5 flat: run 200; hole 6 at 15 from end B, slot 20 x 6 in the middle",
             "25 x 5 flat: run 200; hole 6 at 15 from end B, slot 20 x 6 in the middle of the run"),
            ("12 sq: run 60, offset 12 down, run 60", "12 sq: run 60, offset 12 r 14 down, run 60"),
            ("20 rd: run 60, tenon 12 x 20", "20 rd: run 60, tenon 12 rd 20 to rivet 0"),
            ("8 rd: coil 30 with 5 turns, run 100", "8 rd: coil 30 5 turns, run 100"),
            ("30 x 8 flat: leaf 100 x 50 x 3 with vein and hole 5", "30 x 8 flat: leaf 100 x 50 x 3 with veins and hole 5"),
            ("10 sq: taper 60 to 3 both ends, run 100; curl 8 at each end",
             "10 sq: taper 60 to 3 both ends, run 100; curl 8 at 0 from end A, curl 8 at 0 from end B"),
            ("16 sq: run 100, tenon 8 rd 15 long", "16 sq: run 100, tenon 8 rd 15 to rivet 0"),
            ("12 sq: run 50, twist 2 turns in 60, run 50", "12 sq: run 50, twist 2 turns over 60, run 50"),
            ("12 sq: draw 100 down to 6 sq, run 50", "12 sq: set-down 6 sq over 100, run 50"),
            ("12 sq: taper over 100 to 4, right angle bend, run 60", "12 sq: taper 100 to 4, bend 90, run 60"),
            ("12 sq: run 60, taper 100 to 4; hook 30 on it", "12 sq: run 60, taper 100 to 4; hook 30 on the taper"),
        ):  # fmt: skip
            self.assertEqual(write_line(read_line(said).piece), write_line(read_line(plain).piece), said)
        for line, words in (
            ("25 x 5 flat: run 200 with three holes 6 at 30 and 60", "Three are said, and two places"),
            ("12 sq: two tapers 60", "at both ends"),
            ("12 sq: run 100, upset 40 to 18 in the middle", "takes bar of its own"),
            ("12 sq: bend 90 in the middle", "Say how long the bar is"),
        ):
            with self.assertRaises(ShorthandError) as caught:
                read_line(line)
            self.assertIn(words, str(caught.exception))
        with self.assertRaisesRegex(ShorthandError, "Several can't stand in one place"):
            read_line("25 x 5 flat: run 200 with two holes 6 at 30")
        for line in ("25 x 5 flat: run 200 with 2 hole 6", "12 sq: bend 90 20 corner sharp, run 60"):  # it would mean nothing there
            with self.assertRaisesRegex(ShorthandError, "says nothing of a (hole|bend) as it is here"):
                read_line(line)

    def test_what_is_bent_beside_drawn_steel_is_made_of_that_unless_the_line_says_otherwise(self):
        for line, kind, stands, section in (
            ("30 x 5 flat: run 90, taper 70 to 12 x 5 flat, eye 12", "eye", "A", (12.0, 5.0)),
            ("30 x 5 flat: run 90, taper 70 to 12 x 5 flat, eye 12 stands in bar", "eye", "bar", (30.0, 5.0)),
            ("12 sq: hook 40, taper 80 to 6 toward A, run 100", "hook", "B", (6.0, 6.0)),
            ("12 sq: taper 80 to 6, hook 40, run 100", "hook", "bar", (12.0, 12.0)),  # its thick end lies there
            ("16 sq: run 80, set-down 60 to 8 rd, twist 1 turn over 30, bend 90 r 10", "bend", "A", (8.25, 8.25)),  # as long as it was
            ("12 sq: upset 40 to 20, bend 90, run 60", "bend", "bar", (12.0, 12.0)),  # what is stouter was never drawn to that
        ):
            written = read_line(line)
            feature = next(f for f in written.piece.features if f.kind == kind)
            place = written.piece.found(feature.id)[1]
            self.assertEqual((feature.of, round(place.bar.width, 2), round(place.bar.thickness, 2)), (stands, *section), line)
            self.assertEqual((feature.id, "of") in written.proposed, stands != "bar", line)
            again = read_line(write_line(written.piece)).piece
            self.assertEqual([getattr(f, "of", "") for f in again.features], [getattr(f, "of", "") for f in written.piece.features], line)

    def test_whole_pieces_their_mates_turned_round_and_scaled(self):
        for piece in (*WHOLE, *(read_piece(p) for p in demo_files())):
            for made in (piece, make_mate(piece).after, turn_round(piece).after, scaled(piece, 1.37).after):
                self.same(made)
                self.assertEqual(read_line(write_line(made)).piece.name, made.name)

    def test_an_inch_beside_what_is_no_fraction_of_one(self):
        plate = KINDS["laid-on"](id="a", plate=flat(25.4, 25.4 / 3), length=101.6)
        self.same(Piece(bar=square(25.4), features=(plate,)))

    @given(pieces())
    @settings(max_examples=60)
    def test_any_piece(self, piece):
        self.same(piece)
        again = read_line(write_line(piece)).piece
        self.assertAlmostEqual(reckon(replace(again, allowances=piece.allowances)).likely, reckon(piece).likely, places=6)

    def test_words_of_your_own_in_names_and_notes(self):
        feature = KINDS["run"](id="f1", name='the "long" one; on 2', note="50, 60 [x]")
        self.same(Piece(bar=square(12), features=(feature,)))

    def test_features_alone_are_put_into_another_piece(self):
        oilskin = test_pieces.OILSKIN
        line = write_features(oilskin, ("leaf", "run"), MM)
        found = read_line(line, IN, Piece(bar=square(10))).piece
        self.assertEqual([f.kind for f in found.features], ["spread", "run"])
        self.assertEqual(found.features[0].length, 32.0)
        edit = put_in(oilskin, 1, found.features, found.standing)
        self.assertEqual(len(edit.after.features), 5)
        self.assertEqual(len({f.id for f in edit.after.features} | {s.id for s in edit.after.standing}), 5 + 4 + 2)
        self.assertTrue(any(s.on == edit.after.features[1].id for s in edit.after.standing))


class WhatSmithsSay(unittest.TestCase):
    def test_a_hook_in_inches_whatever_the_shop_uses(self):
        for measure in (MM, IN):
            found = read_line(HOOK, measure)
            leaf, run, twist, taper = found.piece.features
            self.assertEqual((leaf.outline, leaf.length, leaf.width, leaf.thickness), ("lens", 31.75, 19.05, 2.38125))
            self.assertEqual((run.length, twist.turns, twist.length), (50.8, 1.0, 31.75))
            self.assertEqual((taper.length, taper.tip, taper.form, taper.toward), (101.6, 3.175, "round", "B"))
            hole, hook, curl = found.piece.standing
            self.assertEqual((hole.on, hole.edge, hole.feature.diameter), (leaf.id, "middle", 4.7625))
            self.assertEqual((hook.feature.inside, curl.feature.outer), (31.75, 6.35))
            self.assertEqual((curl.on, curl.at), ("B", 0.0))  # a curl is at the very tip, the hook behind it
            self.assertEqual(hook.on, curl.id)
            self.assertEqual(found.bar, 203.2)
            self.assertIn("curl: where it stands", proposed_words(found, MM))

    def test_many_ways_to_say_it(self):
        for line, kind, sizes in (
            ("12 sq: round taper of 120 to 3", "taper", {"form": "round", "length": 120.0, "tip": 3.0}),
            ("12 sq: taper 120 to 16 x 4 mm", "taper", {"form": "flat", "wide": 16.0, "tip": 4.0}),
            ("12 sq: a left twist, 2 turns over 4 in".replace(",", ""), "twist", {"hand": "left", "turns": 2.0, "length": 101.6}),
            ("12 sq: flat coil 3 1/2 turns inside 0", "coil", {"form": "flat", "turns": 3.5, "inside": 0.0}),
            ("25 half round: run 40, right-angle bend, run 90", "run", {"length": 40.0}),
            ("12 sq: jog 40, run 90", "offset", {"offset": 40.0}),
            ("20 rd: set down 50 to 8 rd, run 90", "section-change", {"length": 50.0, "section": round_(8)}),
            ("30x10 flat: taper 120 to 3 thick, run 90", "taper", {"length": 120.0, "tip": 3.0, "form": "chisel"}),
            ("30x10 flat: taper 120 to 10 wide 3 thick, run 90", "taper", {"tip": 3.0, "wide": 10.0, "form": "flat"}),
            ("3/4 rd: chisel point 3, run 10", "taper", {"form": "chisel", "length": 76.2}),
            ("12 sq: fish tail 50, run 90", "spread", {"outline": "fishtail", "length": 50.0}),
            ("12 sq: draw out 120 to 5, run 90", "section-change", {"length": 120.0, "section": square(5)}),
            ("20x10 flat: punch hole 8, run 90", "hole", {"method": "punched", "diameter": 8.0}),
            ("30x8 flat: bend 90 the easy way, run 90", "bend", {"facing": 0.0}),
            ("12 sq: run 90, hole 5 at 30 from A", "run", {"length": 90.0}),
            ("20x6 flat: flatten 60 to 4 thick", "spread", {"length": 60.0, "thickness": 4.0}),
            ("12 sq: flatten 60 to 20 x 5", "spread", {"length": 60.0, "width": 20.0, "thickness": 5.0}),
            ("12 sq: leaf 50 to 30, flatten 40 to 5", "spread", {"length": 50.0, "width": 30.0}),
            ("12 sq: palm 40 long 24 wide 4 thick", "spread", {"outline": "palm", "length": 40.0, "width": 24.0, "thickness": 4.0}),
            ("12 sq: 90° bend 10 down", "bend", {"angle": 90.0, "radius": 10.0, "facing": 180.0}),
            ("20 sq: punched hole 6 countersunk", "hole", {"method": "punched", "diameter": 6.0, "sink": 12.0}),
            ('1/2" sq: thread 1/2 16 tpi', "thread", {"diameter": 12.7, "pitch": 25.4 / 16}),
            ("12 sq: upset to 16 sq over 20", "upset", {"section": square(16), "length": 20.0}),
            ("1/2 rd: run 1' 3 1/2\"", "run", {"length": 393.7}),
            ("12 sq: corner", "bend", {"angle": 90.0, "corner": "sharp"}),
            ("12 sq: corner r 10", "bend", {"radius": 10.0, "corner": "round"}),
            ("16 rd: upset to 22 over 30", "upset", {"section": round_(22), "length": 30.0}),
            ("16 rd: thread M12 40", "thread", {"diameter": 12.0, "pitch": 1.75, "length": 40.0}),
            ("3/16 rd: thread", "thread", {"diameter": 3.175}),
            ("14 rd: thread M12 x 1.25 30", "thread", {"diameter": 12.0, "pitch": 1.25, "length": 30.0}),
            ("16 rd: thread M12x1.25 40 long", "thread", {"diameter": 12.0, "pitch": 1.25, "length": 40.0}),
            ("5/8 rd: thread M8", "thread", {"diameter": 8.0, "pitch": 1.25}),
            ('3/4" rd: thread 1/2', "thread", {"diameter": 12.7, "pitch": 25.4 / 13}),
            ("12 rd: palm 30 wide 20", "spread", {"length": 30.0, "width": 20.0}),
            ("12 rd: palm 20 wide 30", "spread", {"length": 30.0, "width": 20.0}),
            ("20x6: twist 90 deg over 40", "twist", {"turns": 0.25, "length": 40.0}),
            ("20x6: half twist 40", "twist", {"turns": 0.5, "length": 40.0}),
            ("12 sq: twist 80 turns 2", "twist", {"length": 80.0, "turns": 2.0}),
            ("12 sq: twist 2 turns 80", "twist", {"length": 80.0, "turns": 2.0}),
            ("12 sq: drawn end “rat tail” 90", "taper", {"name": "rat tail", "length": 90.0}),
            ("12 mm sq: run 1 1/2, run 2 in", "run", {"length": 38.1}),
            ("3/4 x 3/16 flat: run 2", "run", {"length": 50.8}),
            ("25 x 6 flat: slot 20 x 8", "drifted-eye", {"form": "slot", "slot": 20.0, "punch": 8.0}),
            ("25 x 6 flat: diamond eye 18", "drifted-eye", {"form": "diamond", "diameter": 18.0}),
            ("20 sq: square hole 8", "hole", {"form": "square", "method": "punched", "diameter": 8.0}),
            ("20 sq: countersink 5", "hole", {"diameter": 5.0, "sink": 10.0}),
            ("12 sq: countersunk head 20", "head", {"form": "countersunk", "diameter": 20.0}),
            ("12 sq: snail 3 turns", "coil", {"form": "flat", "turns": 3.0}),
            ("12 sq: wedge 60 to 3", "taper", {"form": "chisel", "length": 60.0, "tip": 3.0}),
            ("12 sq: sharp bend facing down", "bend", {"corner": "sharp", "facing": 180.0}),
            ("12 sq: bend 60 r 20", "bend", {"angle": 60.0, "radius": 20.0}),
            ("12 sq: chamfer 2 over 100", "chamfer", {"length": 100.0, "leg": 2.0}),
            ("12 sq: t 40", "split", {"angle": 90.0, "cut": 40.0}),
        ):
            with self.subTest(line):
                feature = read_line(line).piece.features[0]
                self.assertEqual(feature.kind, kind)
                for name, value in sizes.items():
                    got = getattr(feature, name)
                    (self.assertAlmostEqual if isinstance(value, float) else self.assertEqual)(got, value)

    def test_a_name_with_the_word_of_a_choice_in_it_says_that_choice(self):
        for kind, cls in KINDS.items():
            for name in cls.also:
                for field, spec in specs(cls).items():
                    for key, _words in spec.choices if isinstance(spec, Choice) else ():
                        if key in name.lower().split() and field != "toward" and key != getattr(cls, field):
                            with self.subTest(f"{kind}: {name}"):
                                made = cls(id="x", **said_by(cls, name.lower()))
                                self.assertEqual(getattr(made, field), key)

    def test_the_material_the_name_and_the_bar_of_the_piece_at_hand(self):
        found = read_line('"Peg" 1/2 sq wrought iron: run 4').piece
        self.assertEqual((found.name, found.material, found.features[0].length), ("Peg", "wrought-iron", 101.6))
        base = Piece(bar=square(20), name="Old", features=(KINDS["run"](id="q"),))
        self.assertEqual(read_line("taper 60 to 4", MM, base).piece.bar, square(20))

    def test_a_size_follows_from_the_bar(self):
        found = read_line("12 sq x 300: taper 90 to 3, run ?, hook 40", MM)
        self.assertEqual(found.floating, (found.piece.features[1].id, "length"))
        piece = settled(found)
        self.assertEqual(answer(piece).reckoning.cut, 300)
        short = read_line("12 sq x 60: taper 90 to 3, run ?, hook 40", MM)
        self.assertRaises(NoAnswer, settled, short)

    def test_what_cannot_be_read_is_said_at_the_word_with_what_would_work(self):
        for line, at, want in (
            ("12 sq: tapr 60", "tapr", "taper"), ("12 sq: run 50, twist 1 tun", "tun", "turns"), ("12 sq: run 60 hook 40", "hook", ", hook"),
            ("12 sq: run 50; hole 6 on the taper", "taper", "run"),
            ("12 sq: taper 60, run 50, taper 40 toward B; hook 20 on the taper", "taper", "taper 2"), ("12 sq: taper 60 to 20", "taper", ""), ("12 sq walnut: run 5", "walnut", ""),
            ("12 sq: hole 6 made by boring", "boring", "drilled"), ("12 sq: run 0", "0", "40 mm or 1 1/2 in"), ('12 sq: run "half', '"', '"'), ("12: run 60", "12", "12 mm sq"),
            ("12 sq: split 60 upper tine [point 20", "", "]"), ("12 sq: run 50 with taper 20", "taper", "hole"), ("12 sq: run 1/0", "1/0", ""),
            ("12 sq: twist over 60 over 80", "80", ""),
        ):  # fmt: skip
            with self.subTest(line):
                with self.assertRaises(ShorthandError) as caught:
                    read_line(line, MM)
                error = caught.exception
                self.assertTrue(line[error.position :].startswith(at), (line[error.position :], str(error)))
                self.assertTrue(want in error.wants if want else True, error.wants)
                self.assertTrue(str(error).strip())

    def test_several_works_of_one_shape_share_its_length_and_what_meets_is_a_stop(self):
        found = read_line("30 x 5 flat: run 200 with hole 8 and hole 8 and hole 8, run 40 with hole 5", MM)
        self.assertEqual([(s.edge, s.at) for s in found.piece.standing], [("A", 50.0), ("A", 100.0), ("A", 150.0), ("middle", 0.0)])
        self.assertEqual([name for _id, name in found.proposed], ["place"] * 3)
        self.assertFalse([c for _z, c in answer(found.piece).checks if c.level == "stop"])
        for apart, stops in ((0.0, 1), (7.9, 1), (8.0, 0)):
            line = f"30 x 5 flat: run 100; hole 8 on the run at 40, hole 8 on the run at {40 + apart}"
            self.assertEqual(sum(c.level == "stop" for _z, c in answer(read_line(line, MM).piece).checks), stops, apart)
        both = replace(found.piece, standing=tuple(replace(s, edge="middle", at=0.0) for s in found.piece.standing[:2]))
        again = read_line(write_line(both, MM), MM).piece
        self.assertEqual([(s.on, s.edge, s.at) for s in again.standing], [(s.on, s.edge, s.at) for s in both.standing])

    def test_words_are_proposed_that_can_stand_there(self):
        self.assertIn("taper", completions("12 sq: ta", MM))
        self.assertIn("countersunk", completions("12 sq: hole 6 co", MM))
        self.assertIn("drilled", completions("12 sq: hole 6 made by ", MM))
        self.assertIn("end A", completions("12 sq: run 60; hook 30 on the ", MM))
        for kind in KINDS:  # every kind by its name, and every word that is proposed for it is known
            self.assertTrue(words_of(KINDS[kind]).fields)
        for words, (kind, said) in kind_words().items():
            made = KINDS[kind](id="x")
            for name, value in said.items():
                self.assertEqual(specs(made)[name].problem(value), "", words)

    @given(st.text(alphabet="12x/ \",;:?()[]abtphorunset°%.'½-", max_size=60))
    @settings(max_examples=300)
    def test_no_line_is_a_crash(self, text):
        for line in (text, f"12 sq: {text}", f"{HOOK} {text}"):
            try:
                read_line(line, MM)
                completions(line, MM)
            except EmberError as error:
                self.assertTrue(str(error))

    def test_lines_put_together_at_random(self):
        """Words of the vocabulary in any order; `EMBER_LINES=1000000` for as many as one likes."""
        count, rng = int(os.environ.get("EMBER_LINES", "1500")), random.Random(18)
        words = [" ".join(w) for w in (*kind_words(), *many_words(), *start_words(starts()))]
        words += [" ".join(w) for kind in KINDS.values() for w in (*words_of(kind).fields, *words_of(kind).bare)]
        words += ["12", "1/4", "3 mm", '2"', "1 turn", "40°", "30 %", "8 rd", "16 x 4 flat", ",", ";", ":", "with", "and", "on the", "at", "from end A",
                  "toward B", "?", "[", "]", "(", ")", '"', "x", "to", "over", "12 sq:", "none", "called", "both ends", "in the middle", "long", "it"]  # fmt: skip
        longest = 0.0
        for _one in range(count):
            line = "12 sq: " * rng.randint(0, 1) + " ".join(rng.choice(words) for _w in range(rng.randint(1, 14)))
            begun_at = time.process_time()
            try:
                read_any_line(line, MM, Piece(), starts())
            except EmberError as error:
                self.assertTrue(str(error))
            except Exception as error:
                self.fail(f"{line!r}: {error!r}")
            longest = max(longest, time.process_time() - begun_at)
        self.assertLess(longest, 2.0, "a line that hangs")


class Carried(unittest.TestCase):
    def test_what_was_settled_about_a_piece_stays_with_the_features_that_are_still_there(self):
        for before in WHOLE:
            again = carried(read_line(write_line(before), MM, before).piece, before)
            self.assertEqual([f.id for f in again.features], [f.id for f in before.features])
            self.assertEqual([(s.id, s.on) for s in again.standing], [(s.id, s.on) for s in before.standing])
            self.assertEqual((again.planning, again.measured), (before.planning, before.measured))
            again.verify()
        pin = replace(WHOLE[0], planning=replace(WHOLE[0].planning, pins=(Pin(step="leaf/0"), Pin(step="taper/0"))))
        line = write_line(pin).replace("run 80", "neck to 5, run 80")
        changed = carried(read_line(line, MM, pin).piece, pin)
        self.assertEqual([f.id for f in changed.features if f.kind != "neck"], [f.id for f in pin.features])
        self.assertEqual(
            len({f.id for f in changed.features} | {s.id for s in changed.standing}), len(pin.features) + len(pin.standing) + 1
        )
        self.assertEqual(changed.planning.pins, pin.planning.pins)
        short = carried(read_line("8 sq: leaf 32 x 19 x 2.4, run 80", MM, pin).piece, pin)
        self.assertEqual((short.planning.pins, [f.id for f in short.features]), ((), ["leaf", "run"]))


class Halves(unittest.TestCase):
    def test_the_other_half_makes_a_piece_alike_at_both_ends(self):
        half = read_line("10 rd: point 40, run 20, bend 90 12, run 40", MM).piece
        whole = add_half(half).after
        self.assertEqual([f.kind for f in whole.features], ["point", "run", "bend", "run", "bend", "run", "point"])
        self.assertAlmostEqual(reckon(whole).bare, reckon(turn_round(whole).after).bare)
        self.assertAlmostEqual(reckon(whole).bare, 2 * reckon(half).bare - 40.0)
        laid = add_half(read_line("10 sq: taper 100 to 3, run 60; hook 30 lip 0 at 5 from end A", MM).piece).after
        self.assertEqual([(s.on, s.along) for s in laid.standing], [("A", "B"), ("B", "A")])
        stands = laid.composition.stands
        self.assertAlmostEqual(stands[0].start, laid.composition.drawn.length - stands[1].end)


class BothEnds(unittest.TestCase):
    def test_what_is_said_of_both_ends_is_there_twice_and_faces_outwards(self):
        for line, row, stands in (
            ("12 sq: taper 80 both ends, run 200", [("taper", "A"), ("run", ""), ("taper", "B")], []),
            ("12 sq: run 200, taper 80 at each end", [("taper", "A"), ("run", ""), ("taper", "B")], []),
            ("12 sq: scroll at both ends, run 200", [("scroll", "A"), ("run", ""), ("scroll", "B")], []),
            ("12 sq: upset both ends, run 100", [("upset", ""), ("run", ""), ("upset", "")], []),
            ("12 sq: palm 40 with hole 6 at both ends, run 100", [("spread", "A"), ("run", ""), ("spread", "B")], ["f1", "f4"]),
            ("40x8: run 200, hole 6 at 20 from each end", [("run", "")], ["A", "B"]),
            ("40x8: hole 6 at 20 from end A, run 200, hole 6 at 20 from end B", [("run", "")], ["A", "B"]),
            ("40x8: run 200 with hole 6 at 20 from each end", [("run", "")], ["f1", "f1"]),
        ):
            with self.subTest(line):
                piece = read_line(line).piece
                self.assertEqual([(f.kind, getattr(f, "toward", "")) for f in piece.features], row)
                self.assertEqual([s.on for s in piece.standing], stands)
                low, *_, high = sorted((s.start + s.end) / 2 for s in piece.composition.stands) if stands else (0.0, 0.0)
                self.assertAlmostEqual(low + high, piece.composition.drawn.length if stands else 0.0)
        for line, words in (
            ("12 sq: run 100, taper 60 at both ends, run 30", "first or last"),
            ("12 sq: hole 6 at both ends, run 100", "how far"),
        ):
            with self.assertRaises(ShorthandError) as caught:
                read_line(line)
            self.assertIn(words, caught.exception.reason)

    def test_what_is_left_of_a_bar_of_a_length_lies_between_its_ends(self):
        for line, kinds in (
            ("12 sq x 300: taper 80 to 4 both ends", ["taper", "run", "taper"]),
            ("12 sq: 300 long, leaf 50 x 25, taper 60 to 3", ["spread", "run", "taper"]),
            ("12 sq x 300: point 40", ["point", "run"]),
            ("12 sq x 300: twist 2 turns over 100 in the middle", ["run"]),
        ):
            written = read_line(line)
            piece = settled(written)
            self.assertEqual([f.kind for f in piece.features], kinds)
            self.assertAlmostEqual(quick_answer(piece).reckoning.cut, 300.0, delta=0.5)
            for stand in piece.composition.stands:
                self.assertAlmostEqual((stand.start + stand.end) / 2, piece.composition.drawn.length / 2, delta=0.06)

    def test_the_middle_and_the_hard_way(self):
        for line in ("12 sq: run 100, hole 5 in the middle of the run", "12 sq: run 100 with hole 5 centred"):
            (stand,) = read_line(line).piece.composition.stands
            self.assertAlmostEqual((stand.start + stand.end) / 2, 50.0)
        for said in ("; {} in the middle", "; {} in the middle of the run", " with {}", ", {} in the middle of the run", "; {} centred"):
            for form in ("twist 80", "bend 90", "hole 6", "slot 30 x 8", "offset 20"):
                for beside, middle in (("", 150.0), ("taper 60, ", 210.0)):
                    line = f"14 sq: {beside}run 300{said.format(form)}"
                    piece = read_line(line).piece
                    (stand,) = piece.composition.stands
                    with self.subTest(line):
                        self.assertAlmostEqual((stand.start + stand.end) / 2, middle, delta=0.06)
                        self.assertEqual(read_line(write_line(piece)).piece, piece)
        longer = read_line("12 sq: taper 100, run 20, taper 100; bend 90 in the middle").piece.composition.stands[0]
        self.assertAlmostEqual((longer.start + longer.end) / 2, 110.0, delta=0.06)  # it begins before what it lies in
        with self.assertRaisesRegex(ShorthandError, "say where it begins"):
            read_line("16 sq: run 100, split 80 upper tine [taper 60, run 40; twist 20 in the middle]")
        middlemost = read_line("12 sq: taper 60, run 300, run 40, taper 40; twist 80 in the middle").piece
        self.assertEqual(middlemost.standing[0].on, "f2")
        for line, host in (("25x5 flat: run 100, eye 20; hole 6", "f1"), ("12 sq: taper 90, run 60, run 200, scroll 60; twist 60", "f3"),
                           ("30x8 flat: taper 200, eye 40; slot 20 x 8", "f1")):  # fmt: skip
            piece = read_line(line).piece  # said without a place: on the longest plain bar
            self.assertEqual(piece.standing[0].on, host, line)
        self.assertIn("with slot 20 x 8", write_line(piece))
        self.assertEqual(read_line("25x5: run 60, bend 90 r 60 on edge, run 60").piece.features[1].facing, 90.0)
        self.assertEqual(read_line("12mm round bar, 600 long: eye 25, run ?, point 60").bar, 600.0)
        self.assertEqual(read_line("12 sq: taper to a point 90").piece.features[0].tip, 1.0)


class Starts(unittest.TestCase):
    def test_a_start_is_begun_by_its_name_and_its_sizes(self):
        def read(line):
            return read_any_line(line, MM, Shop().new_piece(), starts())

        for line, bar, sizes, left in (
            ("S hook 60", round_(8), (60.0, 40.0, 60.0), "straight between 40"),
            ('1/2 rd: s-hook straight between 3" and 2"', round_(12.7), (50.8, 76.2, 50.8), ""),
            ('"Larder" 10 mm rd: pot hook', None, None, "lip"),  # a name of a shape goes before that of a start
        ):
            found = read(line)
            if sizes is not None:
                hook, run, other = found.piece.features
                self.assertEqual((hook.inside, run.length, other.inside), sizes)
                self.assertEqual((found.piece.bar, found.piece.name), (bar, "S hook"))
            self.assertIn(left, " ".join(proposed_words(found, MM)))
        self.assertEqual(read("12 sq: taper 90 to 3, run 60"), read_line("12 sq: taper 90 to 3, run 60", MM, Shop().new_piece()))
        for line, words in (
            ("S hook 60 80 90", "said already"),
            ("S hook 60, run 40", "nothing else"),
            ("oilskin hook 32 2", "don't go together"),
        ):
            with self.assertRaises(ShorthandError) as caught:
                read(line)
            self.assertIn(words, str(caught.exception))
        named = (*starts(), replace(starts()[0], name="Bracket 3", words=""))
        told = [names_start(t, named) for t in ("S hook 60", "hook 40", "S hook", "bracket 3", "twist the bar 5")]
        self.assertEqual(told, [True, True, False, False, True])  # a start with a figure in its name is still found by it
        for start in starts():  # every one by its own name, with the sizes that it asks in their order
            if tuple(start.name.lower().split()) not in kind_words():
                found = read(f"{start.name} {' '.join(f'{asked(s, MM):g}' for s in start.sizes)}")
                self.assertEqual(
                    (found.piece, found.besides), (started(start, Shop().new_piece(), start.bar, {}, MM).piece, ()), start.name
                )

    def test_each_makes_a_piece_in_either_unit_of_smaller_and_larger_bars(self):
        known = starts()
        self.assertGreaterEqual(len(known), 30)
        self.assertGreaterEqual(len({s.family for s in known}), 14)
        for start in known:
            with self.subTest(start.name):
                self.assertTrue(1 <= len(start.sizes) <= 4)
                for mm, inch in ((start.bar.width, start.inch_bar.width), (start.bar.thickness, start.inch_bar.thickness)):
                    self.assertTrue(0.7 < inch / mm < 1.4, (start.bar, start.inch_bar))
                for measure, factor in itertools.product((MM, IN), (0.75, 1.0, 1.4)):
                    bar = proposed_bar(start, measure).scaled(factor)
                    values = {s.key: asked(s, measure) * (factor if s.sort == "length" else 1) for s in start.sizes}
                    piece = started(start, Piece(), bar, values, measure).piece
                    self.assertEqual((piece.bar, piece.name), (bar, start.name))
                for measure in (MM, IN):
                    found = answer(started(start, Piece(), proposed_bar(start, measure), {}, measure).piece)
                    loud = [c.line.show(measure) for _z, c in found.checks if c.level != "note" and not c.caution]
                    self.assertEqual(loud, [])

    def test_a_size_that_is_asked_is_the_size_of_the_piece(self):
        hook = found_starts("coat hook", starts())[0]
        piece = started(hook, Piece(), hook.bar, {"reach": 55.0, "stem": 91.0}, MM).piece
        self.assertEqual([s.feature.inside for s in piece.standing if s.feature.kind == "hook"], [55.0])
        self.assertIn(91.0, [f.length for f in piece.features if f.kind == "run"])
        larger = started(hook, Piece(), square(12), {}, MM).piece
        self.assertGreater(larger.features[0].width, piece.features[0].width)  # the leaf goes with the bar

    def test_found_by_any_smiths_word(self):
        for words, name in (("staple", "Mooring staple"), ("coat hook", "Oilskin hook"), ("tongs", "Tong half"), ("s hook", "S hook"), ("pricket", "Candle pricket"),
                            ("fid", "Marlinspike"), ("chain", "Chain link")):  # fmt: skip
            self.assertEqual(found_starts(words, starts())[0].name, name)
        self.assertEqual(found_starts("trombone", starts()), ())

    def test_a_piece_of_your_own_keeps_its_proportions_and_asks_what_you_chose(self):
        for piece in (*WHOLE, *(read_piece(p) for p in demo_files())):
            offered = askable(piece, MM)
            lengths = [(i, f, t) for i, f, t, shown in offered if shown.endswith("mm")]
            wanted = {(i, f): title for i, f, title in lengths[:2]}
            start = own_start(piece, "Mine", "", wanted)
            again = started(start, Piece(), piece.bar, {}, MM).piece
            self.assertAlmostEqual(reckon(replace(again, allowances=piece.allowances)).bare, reckon(piece).bare, delta=1e-3)
            twice = started(start, Piece(), piece.bar.scaled(2.0), {s.key: 2 * s.value for s in start.sizes}, MM).piece
            self.assertAlmostEqual(reckon(twice).finished, 8 * reckon(again).finished, delta=1e-4 * reckon(twice).finished)

    def test_a_start_from_elsewhere_can_do_no_harm(self):
        self.assertIs(RECORDS["start"], Start)
        for formula in ("__import__('os')", "9**9**9", "t.__class__", "'a'*10**9", "1/0", "(" * 300, "nothing", "[1]*10**8", "max()"):
            with self.assertRaises(EmberError):
                filled(Start(name="Odd", line=f"run {{{formula}}}"), square(12), {}, MM)


if __name__ == "__main__":
    unittest.main()
