"""Lengths are read strictly and shown honestly."""

import unittest
from doctest import DocTestSuite

from hypothesis import example, given
from hypothesis import strategies as st

from long_ember.errors import EntryError
from long_ember.units import Measure, measure, parse, parse_length, parse_number, say

READS = {
    "12": 12.0,
    "12 mm": 12.0,
    "12mm": 12.0,
    " 1.2cm ": 12.0,
    ".5": 0.5,
    "1,5 mm": 1.5,
    "0.5 m": 500.0,
    "3/8": 9.525,
    "3/8 mm": 0.375,
    "½": 12.7,
    "1½": 38.1,
    "1 1/2": 38.1,
    '1 1/2"': 38.1,
    "1-1/2 in": 38.1,
    "1½ inches": 38.1,
    "2 in": 50.8,
    "2'": 609.6,
    "2' 3 1/2\"": 698.5,
    "2'-3 1/2\"": 698.5,
    "2 ft 3 in": 685.8,
    "2' 3": 685.8,
    "3⁄8″": 9.525,
    "2 cubes": 24.0,
    "1 cube": 12.0,
    "2 1/2 cubes": 30.0,
    "0": 0.0,
}
# entry: index of the character that does not fit
REFUSED = {
    "": 0,
    "   ": 0,
    "abc": 0,
    "12 furlongs": 3,
    "12 mm mm": 6,
    "12 13": 3,
    "1 1/2 3": 6,
    "1.5 1/2": 0,
    "3/0": 2,
    "3/": 2,
    "/8": 0,
    "1/3": 0,
    "1.5/2": 0,
    "1 5/4": 2,
    "-3": 0,
    "12-": 2,
    "1,500": 0,
    "1,234.5": 0,
    "1e3": 1,
    "2' 13\"": 5,
    "2' 3 mm": 5,
    "12 mm²": 5,
    "٣": 0,
    "inf": 0,
    "0x10": 1,
    "12;": 2,
}


class Reading(unittest.TestCase):
    def test_what_smiths_type(self):
        for text, mm in READS.items():
            with self.subTest(text):
                self.assertAlmostEqual(parse_length(text, thickness=12.0), mm, places=9)

    def test_a_bare_number_is_in_the_shops_unit_and_a_bare_fraction_in_inches(self):
        self.assertEqual(parse_length("2", unit="in"), 50.8)
        self.assertEqual(parse_length("3/8", unit="in"), parse_length("3/8", unit="mm"))

    def test_anything_else_is_refused_with_its_position_and_an_example(self):
        for text, position in REFUSED.items():
            with self.subTest(text), self.assertRaises(EntryError) as caught:
                parse_length(text, thickness=12.0)
            with self.subTest(text):
                self.assertLessEqual(abs(caught.exception.position - position), 1, str(caught.exception))
                parse_length(caught.exception.example.split(",")[0])

    def test_cubes_need_a_bar(self):
        with self.assertRaises(EntryError):
            parse_length("2 cubes")

    def test_numbers(self):
        self.assertEqual([parse_number(t) for t in ("1 3/4", "90°", "35 %", "2 turns", "0.25")], [1.75, 90, 35, 2, 0.25])
        for text in ("", "two", "1 2", "5 mm", "%"):
            with self.subTest(text), self.assertRaises(EntryError):
                parse_number(text)

    @given(st.text(max_size=14))
    @example("2' 3'")
    @example("1/2/3")
    def test_no_text_does_anything_but_read_or_refuse(self, text):
        try:
            self.assertGreaterEqual(parse_length(text, thickness=12.0), 0)
        except EntryError as error:
            self.assertTrue(0 <= error.position <= len(text))


class Showing(unittest.TestCase):
    def test_inches_say_whether_the_truth_is_more_or_less(self):
        cases = {84.0: "3 5/16 in -", 84.1375: "3 5/16 in", 84.3: "3 5/16 in +", 0.0: "0 in", 25.4: "1 in", 0.2: "0 in +"}
        for mm, text in cases.items():
            with self.subTest(mm):
                self.assertEqual(Measure("in", 16, ascii=True).length(mm), text)
        self.assertEqual(Measure("in", 64, ascii=True).length(84.0), "3 5/16 in -")
        self.assertEqual(Measure("in", 16).length(84.0), "3 5\u204416″ −")

    def test_one_sentence_reads_in_either_unit(self):
        line = say("Cut {} of bar", 50.8)
        self.assertEqual(line.show(Measure("mm")), "Cut 50.8 mm of bar")
        self.assertEqual(line.show(Measure("in", ascii=True)), "Cut 2 in of bar")

    @given(st.floats(0, 1e5), st.sampled_from([16, 32, 64]))
    def test_a_shown_fraction_is_the_nearest_one_and_can_be_read_back(self, mm, denominator):
        shown = Measure("in", denominator, ascii=True).length(mm)
        back = parse_length(shown.rstrip("+- "))
        self.assertLessEqual(abs(back - mm), 25.4 / denominator / 2 + 1e-9)
        self.assertEqual(shown.endswith("+"), mm - back > 0.0005 * 25.4)
        self.assertEqual(shown.endswith("-"), back - mm > 0.0005 * 25.4)

    @given(st.floats(0, 1e5), st.sampled_from(["mm", "in"]))
    def test_what_an_entry_shows_reads_back_to_a_thousandth(self, mm, unit):
        self.assertAlmostEqual(parse_length(Measure(unit).edit_text(mm), unit=unit), mm, delta=6e-4)


def load_tests(loader, tests, pattern):
    """The examples in the docstrings are tests too."""
    for module in (parse, measure):
        tests.addTests(DocTestSuite(module))
    return tests
