"""Examples in the docstrings, run as they stand."""

import doctest
import importlib
import unittest
from pathlib import Path

import long_ember
from long_ember.document.worked import counted

ROOT = Path(long_ember.__file__).parent


class Examples(unittest.TestCase):
    def test_every_example_is_true(self):
        tried = 0
        for path in sorted(ROOT.rglob("*.py")):
            if ">>>" in path.read_text(encoding="utf-8") and path.relative_to(ROOT).parts[0] != "ui":
                name = ".".join(("long_ember", *path.relative_to(ROOT).with_suffix("").parts)).removesuffix(".__init__")
                found = doctest.testmod(importlib.import_module(name))
                with self.subTest(name):
                    self.assertEqual(found.failed, 0)
                tried += found.attempted
        self.assertGreater(tried, 12)

    def test_the_counts_in_the_readme_are_those_of_the_program(self):
        text = (Path(__file__).resolve().parent.parent / "README.md").read_text(encoding="utf-8")
        self.assertIn("<!--shapes-->", text)
        self.assertEqual(text, counted(text), "run ./ember guide")
