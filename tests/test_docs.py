"""Examples in the docstrings, run as they stand."""

import ast
import doctest
import importlib
import re
import unittest
from pathlib import Path

import long_ember
from long_ember.document.worked import counted
from long_ember.storage.migrations import BOOK_VERSION
from long_ember.storage.piece_file import VERSION

ROOT = Path(long_ember.__file__).parent
DOCS = ROOT.parent.parent / "docs"


class Versions(unittest.TestCase):
    def test_the_documents_tell_the_versions_of_the_code(self):
        for name, version in (("book-format.md", BOOK_VERSION), ("piece-format.md", VERSION)):
            told = (DOCS / name).read_text(encoding="utf-8")
            self.assertRegex(told, rf"now {version}\b|`{version}` where", name)
            self.assertNotRegex(told, rf"`{version + 1}` where|now {version - 1}\b", name)


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

    def test_every_source_that_is_named_stands_in_the_computations(self):
        pages = set(
            re.findall(
                r"^## (\d+) ", (Path(__file__).resolve().parent.parent / "docs" / "computations.md").read_text(encoding="utf-8"), re.M
            )
        )
        named = 0
        for path in sorted(ROOT.rglob("*.py")):
            for found in re.findall(r"[Cc]omputations, sections? ((?:\d+(?:, | and )?)+)", path.read_text(encoding="utf-8")):
                named += 1
                with self.subTest(path=path.name, found=found):
                    self.assertLessEqual(set(re.findall(r"\d+", found)), pages)
        self.assertGreater(named, 50)

    def test_every_public_figure_says_its_unit(self):
        unit = re.compile(r"\b(mm|mm[²³⁴]|g|kg|s|°C|K|N|J|W|degrees?|rad|seconds?|minutes?|hours?|money|shares?|fractions?|turns|cubes|multiples?|times|units?"
                          r"|factor|ratio|heats|how many|bytes|chance|k in)\b|°C|[²³]|g/cm|×|÷|\b[01]\b", re.I)  # fmt: skip
        figures = re.compile(r"float|Array|float \| None|tuple\[float(, float)*(, \.\.\.)?\]|list\[float\]")
        seen = 0
        for path in sorted(ROOT.rglob("*.py")):
            if path.relative_to(ROOT).parts[0] in ("ui", "cli"):
                continue
            tree = ast.parse(path.read_text(encoding="utf-8"))
            for node in (*tree.body, *(m for c in tree.body if isinstance(c, ast.ClassDef) for m in c.body)):
                if (
                    isinstance(node, ast.FunctionDef)
                    and not node.name.startswith("_")
                    and node.returns
                    and figures.fullmatch(ast.unparse(node.returns))
                ):
                    seen += 1
                    with self.subTest(path=path.name, name=node.name):
                        self.assertRegex(ast.get_docstring(node) or "", unit)
        self.assertGreater(seen, 200)

    def test_the_counts_in_the_readme_are_those_of_the_program(self):
        text = (Path(__file__).resolve().parent.parent / "README.md").read_text(encoding="utf-8")
        self.assertIn("<!--shapes-->", text)
        self.assertEqual(text, counted(text), "run ./ember guide")
