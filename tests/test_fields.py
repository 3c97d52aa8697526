"""Every kind of field, crossed with every way a value goes through it; and what earlier versions wrote."""

import json
import unittest
from datetime import date, timedelta

import jsonschema
from hypothesis import given
from hypothesis import strategies as st

from long_ember import fields
from long_ember.errors import EntryError
from long_ember.features import KINDS
from long_ember.fields import Limb, Rows, day_words, parse_day, specs
from long_ember.records import (
    RECORDS,
    Assembly,
    AssemblyPart,
    CutPiece,
    Job,
    JobLine,
    JobRef,
    JobSet,
    LogEntry,
    SavedBar,
    SavedCutList,
    Shop,
    pieces_of,
    with_ids,
)
from long_ember.storage.models import Reader
from long_ember.storage.upgrades import upgraded
from long_ember.units import Measure

TODAY = date(2026, 11, 27)
# One of each kind, with values that it holds, and some that it does not.
KINDS_OF_FIELDS = {
    "length": (fields.length("L", 5.0), [0.05, 12.0, 33.333, 99999.5], [0.0, -1.0, "3", True, None, float("nan"), 1e6]),
    "pitch": (fields.pitch("P", 1.25), [0.05, 1.25, 25.4 / 16], [0.0, -1.0, "16 tpi", None]),
    "lengths": (fields.lengths("L", (1.0,)), [(8.0, 18.5), (0.0, 3.0, 25.4)], [(), (1.0, "2"), [1.0], (True,), (-1.0,)]),
    "angle": (fields.angle("A", 0.0, low=-90, high=90), [-90.0, 12.5], [91.0, "x"]),
    "facing": (fields.facing(), [0.0, 90.0, 33.0], [361.0, None]),
    "number": (fields.number("N", 1.0, low=0, high=9, unit="kg"), [0.0, 1.75], [-0.1, 9.1, False]),
    "count": (fields.count("C", 1), [1, 77], [0, 1.5, True]),
    "percent": (fields.percent("P", 0.5), [0.0, 0.35, 1.0], [1.1, "35 %"]),
    "choice": (fields.choice("C", "a", ("a", "first"), ("b", "second")), ["a", "b"], ["c", 1, None]),
    "flag": (fields.flag("F", False, "nobody", "a striker"), [True, False], ["yes", 1, 0, None]),
    "day": (fields.day("D"), [None, date(2026, 12, 4), date(1999, 2, 28)], ["4 Dec", 0, ""]),
    "record": (fields.record("R", "piece"), ["", "a1b2"], [None, 3]),
    "text": (fields.text("T"), ["", "Oil, then wax"], [None, "\ud800"]),
    "mass": (fields.mass("M", 1.0, high=9, unit="kg"), [0.0, 1.3, 0.45359237], [-0.1, 9.1, "3 lb"]),
    "course": (fields.course("C", "40"), ["40; r30 60; 30", "12.5; c-30; 7"], [None, 3]),
    "ticks": (fields.ticks("T", (), ("a", "A"), ("b", "B")), [(), ("b", "a")], [("c",), ("a", "a"), ["a"], (3,)]),
}
TYPED = [name for name in KINDS_OF_FIELDS if name not in ("ticks",)]


def spec_of(name: str) -> fields.Field:
    return KINDS_OF_FIELDS[name][0].metadata["spec"]


class Kinds(unittest.TestCase):
    def test_proposals_are_whole_millimetres_halves_or_tenths_as_they_are_large(self):
        wanted = (
            (33.333, 33.0),
            (20.004, 20.0),
            (19.998, 20.0),
            (16.667, 16.5),
            (5.004, 5.0),
            (4.875, 4.9),
            (3.333, 3.3),
            (9.525, 9.525),
            (3.75, 3.75),
        )
        for value, even in wanted:
            self.assertEqual(spec_of("length").evened(value), even)

    def test_a_hammer_of_a_shop_of_inches_weighs_half_pounds(self):
        for kilograms, pounds in ((1.3, 3.0), (1.0, 2.0), (0.9, 2.0), (1.6, 3.5)):
            self.assertAlmostEqual(spec_of("mass").inched(kilograms), pounds * 0.45359237)

    def test_what_a_field_holds_comes_back_from_text_and_file_and_fits_the_schema(self):
        for name, (_declared, good, bad) in KINDS_OF_FIELDS.items():
            spec, reader = spec_of(name), Reader()
            for value in good:
                with self.subTest(name, value=value):
                    self.assertEqual(spec.problem(value), "")
                    data = json.loads(json.dumps(spec.dump(value)))
                    jsonschema.validate(data, spec.schema())
                    back = spec.load(data, "$", reader)
                    self.assertEqual((back, type(back)), (value, type(value)))
                    for measure in (Measure("mm"), Measure("in", 64)) if name in TYPED else ():
                        typed = spec.read(spec.show(value, measure), measure, 12.0)
                        self.assertEqual(str(typed)[:1], str(value)[:1])
                        for one, other in zip(*((v if isinstance(v, tuple) else (v,)) for v in (typed, value)), strict=True):
                            self.assertAlmostEqual(one, other, delta=1e-3) if isinstance(other, float) else self.assertEqual(one, other)
            self.assertEqual(reader.problems, [])
            for value in bad:
                with self.subTest(name, refused=value):
                    self.assertNotEqual(spec.problem(value), "")

    def test_threads_an_inch_are_read_and_shown(self):
        spec = spec_of("pitch")
        for text in ("16 tpi", "16tpi", "16 threads per inch", "16 / in"):
            self.assertAlmostEqual(spec.read(text, Measure("mm"), 12.0), 1.5875)
        self.assertEqual((spec.show(1.5875, Measure("in")), spec.show(1.25, Measure("mm"))), ("16 tpi", "1.25 mm"))

    def test_the_table_has_every_kind_that_a_model_declares(self):
        known = {type(spec_of(name)) for name in KINDS_OF_FIELDS} | {Limb, Rows}
        used = {type(s) for model in (*KINDS.values(), *RECORDS.values(), Shop) for s in specs(model).values()}
        self.assertLessEqual({cls for cls in used if cls.__name__ != "SectionField"}, known)

    def test_lengths_follow_piece_unit_and_mirror(self):
        widths = spec_of("lengths")
        self.assertEqual(widths.scaled((8.0, 10.0), 2.5), (20.0, 25.0))
        self.assertEqual(widths.read("1/2; 1", Measure("in")), (12.7, 25.4))
        self.assertEqual(widths.read("1/2 in; 10", Measure("mm")), (12.7, 10.0))
        self.assertEqual(spec_of("facing").mirrored(90.0), 270.0)

    def test_yes_and_no_are_read_as_they_are_written_in_tables(self):
        flag = spec_of("flag")
        self.assertEqual([flag.read(t, Measure()) for t in ("Yes", "x", "a striker", "no", "0", "nobody")], [True] * 3 + [False] * 3)
        with self.assertRaises(EntryError):
            flag.read("perhaps", Measure())


class Days(unittest.TestCase):
    @given(st.dates(date(1990, 1, 1), date(2090, 1, 1)))
    def test_a_day_as_shown_is_read_back(self, day):
        for text in (
            day_words(day),
            day.isoformat(),
            f"{day.day}.{day.month}.{day.year}",
            day_words(day).upper(),
            f"{day:%B} {day.day}, {day.year}",
        ):
            self.assertEqual(parse_day(text, today=TODAY), day)

    @given(st.dates(date(2026, 6, 15), date(2027, 5, 1)))
    def test_without_a_year_the_nearest_is_meant(self, day):
        self.assertEqual(parse_day(day_words(day).rsplit(" ", 1)[0], today=TODAY), day)

    def test_said_in_other_ways(self):
        for text, days in (("today", 0), ("Yesterday", -1), ("tomorrow", 1), ("in 2 weeks", 14), ("in 1 day", 1)):
            self.assertEqual(parse_day(text, today=TODAY), TODAY + timedelta(days))

    def test_what_could_be_two_days_or_none_is_refused(self):
        for text in (
            "4/12/2026",
            "4/12",
            "before the spring tides",
            "31 Feb 2027",
            "Tuesday",
            "12",
            "2026",
            "Dec",
            "4 D",
            "0 Dec 2026",
            "4 Dec 26",
        ):
            with self.subTest(text), self.assertRaises(EntryError):
                parse_day(text, today=TODAY)


class References(unittest.TestCase):
    def test_every_reference_is_found_and_renamed_and_nothing_else(self):
        cut = CutPiece(piece="p1", job="j1", name="p1")
        cases = (
            (
                Job(name="p1", lines=(JobLine(piece="p1"), JobLine(piece="p2"), JobLine(piece="p1")), sets=(JobSet(assembly="a1"),)),
                ("p1", "p2"),
            ),
            (Assembly(parts=(AssemblyPart(piece="p2"),)), ("p2",)),
            (SavedCutList(jobs=(JobRef(job="j1"),), bars=(SavedBar(rack="r1", cuts=(cut, cut)),)), ("p1",)),
            (LogEntry(piece="p1", note="p1"), ("p1",)),
            (LogEntry(), ()),
        )
        new = {name: f"new-{name}" for name in ("p1", "p2", "a1", "j1", "r1")}
        for record, pieces in cases:
            with self.subTest(record=type(record).__name__):
                self.assertEqual(pieces_of(record), pieces)
                made = with_ids(record, new)
                self.assertEqual(pieces_of(made), tuple(f"new-{p}" for p in pieces))
                self.assertEqual(with_ids(made, {value: key for key, value in new.items()}), record)
        self.assertEqual(with_ids(cases[2][0], new).bars[0].cuts[0], CutPiece(piece="new-p1", job="new-j1", name="p1"))


class Upgrades(unittest.TestCase):
    @given(st.recursive(st.none() | st.booleans() | st.text(max_size=5) | st.integers(), lambda c: st.lists(c, max_size=3) | st.dictionaries(
        st.sampled_from(["bars", "cuts", "held", "sawn", "locked", "due", "day", "note", "striker", "rules", "apart"]), c, max_size=4), max_leaves=12))  # fmt: skip
    def test_whatever_an_old_record_holds_it_is_upgraded_once_and_stays_readable(self, data):
        for kind in ("cuts", "job", "log", "price", "shop"):
            once = upgraded(kind, json.dumps(data))
            self.assertEqual(upgraded(kind, once), once)

    def test_what_was_no_day_is_not_lost(self):
        found = json.loads(upgraded("job", json.dumps({"due": "before the spring tides", "note": "North wall"})))
        self.assertEqual((found["due"], found["note"]), (None, "Due before the spring tides. North wall"))


if __name__ == "__main__":
    unittest.main()
