"""The command, with and without PySide6, and the rules that hold the packages apart."""

import ast
import contextlib
import io
import json
import os
import re
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path
from unittest import mock

import numpy as np

from long_ember import __version__
from long_ember.__main__ import command
from long_ember.demo import demo_files, demo_parcel
from long_ember.storage import book_path, open_book, parcel_text, piece_from_text, read_piece

ROOT = Path(__file__).resolve().parent.parent

_WITHOUT_QT = """
import sys
class Refuse:
    def find_spec(self, name, path=None, target=None):
        if name.split(".")[0] in ("PySide6", "shiboken6"):
            raise ModuleNotFoundError(name)
sys.meta_path.insert(0, Refuse())
import importlib.util
real = importlib.util.find_spec
importlib.util.find_spec = lambda name, package=None: None if name == "PySide6" else real(name, package)
from long_ember.__main__ import command
sys.exit(command(sys.argv[1:]))
"""


def run(*arguments: str) -> tuple[int, str, str]:
    out, err = io.StringIO(), io.StringIO()
    with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
        try:
            code = command(list(arguments))
        except SystemExit as stop:
            code = int(stop.code or 0)
    return code, out.getvalue(), err.getvalue()


class Command(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        patch = mock.patch.dict(os.environ, {"XDG_CONFIG_HOME": folder.name, "XDG_DATA_HOME": folder.name})
        patch.start()
        self.addCleanup(patch.stop)

    def test_version_and_wrong_words(self):
        self.assertEqual(run("--version")[:2], (0, f"Long Ember {__version__}\n"))
        self.assertEqual(run("plan")[0], 2)

    def test_plan_tells_everything_in_either_unit(self):
        code, text, _err = run("plan", str(demo_files()[0]))
        self.assertEqual(code, 0)
        for words in (
            "safe: 95 of 100 not short; likely 42",
            "features alone take 40",
            "Marks from end A",
            "centre pop",
            "Heats: ",
            "Cut list: 4 from 1",
            "Take care",
        ):
            self.assertIn(words, text)
        code, text, _err = run("plan", "--inch", str(demo_files()[1]))
        self.assertIn(" in", text)
        self.assertNotRegex(text, r"\d mm\b")

    def test_a_damaged_file_is_one_clear_message(self):
        path = self.folder / "bad.json"
        path.write_text('{"format": "long-ember piece", "version": 1}')
        code, out, err = run("plan", str(path))
        self.assertEqual((code, out), (1, ""))
        self.assertIn("$.features", err)
        self.assertNotIn("Traceback", err)

    def test_a_reader_that_has_seen_enough_is_no_fault(self):
        command = f"{sys.executable} -m long_ember plan {demo_files()[4]} | head -1"
        run_ = subprocess.run(["bash", "-c", f"set -o pipefail; {command}"], capture_output=True, text=True, check=False)
        self.assertEqual((run_.returncode, run_.stderr), (0, ""))
        self.assertIn("Oar cradle", run_.stdout)

    def test_it_works_where_pyside6_is_missing(self):
        command = [sys.executable, "-c", _WITHOUT_QT]
        plan = subprocess.run([*command, "plan", str(demo_files()[0])], capture_output=True, text=True, check=False)
        self.assertEqual((plan.returncode, plan.stderr), (0, ""))
        window = subprocess.run(command, capture_output=True, text=True, check=False)
        self.assertEqual(window.returncode, 1)
        self.assertIn("pip install", window.stderr)


class OnTheBook(Command):
    """The same book as the window's, without it."""

    def data(self, *arguments: str) -> object:
        code, out, err = run(*arguments, "--json")
        self.assertEqual((code, err), (0, ""))
        return json.loads(out)

    def setUp(self):
        super().setUp()
        self.whole = self.folder / "boathouse.json"
        self.whole.write_text(parcel_text(demo_parcel()), encoding="utf-8")
        self.assertIn("no book", run("list")[2])
        self.assertEqual(run("import", str(self.whole))[0], 0)

    def test_list_show_and_plan(self):
        self.assertEqual([e["name"] for e in self.data("list", "hardened")], ["Caulking iron"])
        self.assertEqual(len(self.data("list")), 9)
        self.assertEqual(self.data("list", "--state", "trashed"), [])
        shown = self.data("show", "door pull")
        self.assertEqual(piece_from_text(json.dumps(shown["piece"])), read_piece(demo_files()[2]))
        self.assertIn("Tags: boathouse, door", run("show", "door-pull")[1])
        plan = self.data("plan", "Lantern bracket")
        self.assertEqual((plan["bare"], len(plan["bars"])), (self.data("plan", str(demo_files()[0]))["bare"], 1))
        self.assertAlmostEqual(plan["zones"][-1]["end"], plan["likely"], delta=3)
        self.assertEqual((plan["sawn"], plan["cut"] >= plan["safe"] > plan["likely"]), ("safe", True))
        self.assertIn("centre pop", {m["kind"] for m in plan["marks"]})
        self.assertRegex(run("show", "--inch", "mooring-ring")[1], r"\d/\d+ in")

    def test_export_and_import_there_and_back(self):
        other, out = str(self.folder / "other.ember"), self.folder / "out.zip"
        self.assertEqual(run("export", "--to", str(out))[0], 0)
        self.assertEqual(run("import", "--book", other, str(out))[0], 0)
        self.assertEqual(sorted(e["id"] for e in self.data("list", "--book", other)), sorted(e["id"] for e in self.data("list")))
        piece = self.folder / "one.json"
        self.assertEqual(run("export", "gate-pintle", "--to", str(piece))[0], 0)
        piece.write_text(piece.read_text().replace('"Gate pintle"', '"Gate pintle, tall"'))
        told = self.data("import", str(piece), "--dry-run")
        self.assertEqual([(t["verdict"], t["done"]) for t in told], [("differs", "copy")])
        self.assertEqual(len(self.data("list")), 9)
        self.data("import", str(piece), "--differing", "replace")
        self.assertEqual(self.data("show", "gate-pintle")["name"], "Gate pintle, tall")
        table = self.folder / "prices.csv"
        self.assertEqual(run("export", "--table", "price", "--to", str(table))[0], 0)
        self.assertEqual({t["verdict"] for t in self.data("import", str(table))}, {"same"})
        self.assertEqual(run("export", "--job", "Slipway moorings", "--to", str(self.folder / "job.json"))[0], 0)

    def test_a_piece_goes_out_as_solid_and_as_drawing_from_the_book_and_from_a_file(self):
        import trimesh

        for kind, words in (("stl", "door-pull"), ("obj", str(demo_files()[2]))):
            path = self.folder / f"pull.{kind}"
            self.assertEqual(run("export", words, "--to", str(path))[0], 0)
            made, over_all = trimesh.load(path), self.data("plan", words)["over_all"]
            self.assertTrue(made.is_watertight)
            for one, other in zip(sorted(made.extents), sorted(over_all), strict=True):
                self.assertAlmostEqual(one, other, delta=0.03)
        path = self.folder / "pull.svg"
        self.assertEqual(run("export", "Door pull", "--to", str(path))[0], 0)
        points = np.array([[float(x) for x in p.split()] for d in re.findall(r'd="M ([^"]*) Z"', path.read_text()) for p in d.split(" L ")])
        for one, other in zip(np.ptp(points, axis=0), over_all[:2], strict=True):
            self.assertAlmostEqual(one, other, delta=0.5)
        self.assertIn("holds one piece", run("export", "--to", str(path))[2])
        self.assertIn("unicorn", run("export", "unicorn", "--to", str(path))[2])

    def test_check_and_backup_and_what_each_code_means(self):
        self.assertEqual(self.data("check")["sound"], True)
        self.assertEqual(len(self.data("backup")), 2)  # and one from before the import
        self.assertEqual(len(self.data("backup", "--list")), 2)
        self.assertEqual(run("show", "unicorn")[0], 1)
        self.assertEqual(run("frobnicate")[0], 2)
        opened = open_book(book_path())
        self.assertEqual(run("backup")[0], 4)
        opened.reader().connection.execute("UPDATE piece SET body = replace(body, '1', '2') WHERE id = 'door-pull'")
        opened.close()
        code, out, _err = run("check", "--json")
        self.assertEqual((code, json.loads(out)["sound"]), (3, False))
        self.assertIn("Door pull", out)
        self.assertEqual(run("show", "door-pull")[0], 1)
        self.assertIn("error", json.loads(run("show", "door-pull", "--json")[2]))

    def test_where_pyside6_is_missing(self):
        for words in (["list"], ["show", "door-pull"], ["plan", "door-pull"], ["check"], ["export", "--to", str(self.folder / "x.zip")]):
            found = subprocess.run([sys.executable, "-c", _WITHOUT_QT, *words], capture_output=True, text=True, check=False)
            with self.subTest(words):
                self.assertEqual((found.returncode, found.stderr), (0, ""))


class Contract(unittest.TestCase):
    def lint(self, folder: Path) -> subprocess.CompletedProcess[str]:
        linter = Path(sys.executable).with_name("lint-imports")
        environment = {**os.environ, "PYTHONPATH": str(folder / "src")}
        return subprocess.run([linter, "--no-cache"], cwd=folder, env=environment, capture_output=True, text=True, check=False)

    def test_a_deliberate_violation_fails(self):
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            subprocess.run(["cp", "-r", str(ROOT / "src"), str(ROOT / "pyproject.toml"), name], check=True)
            self.assertEqual(self.lint(folder).returncode, 0, self.lint(folder).stdout)
            for module, line in (("stock/marking.py", "import PySide6.QtCore"), ("units/parse.py", "import long_ember.features"),
                                 ("heats/rules.py", "from long_ember.ui.widgets import theme"),
                                 ("heats/step.py", "from long_ember.heats import rules")):  # fmt: skip
                path = folder / "src" / "long_ember" / module
                before = path.read_text(encoding="utf-8")
                path.write_text(before + f"\n{line}\n", encoding="utf-8")
                with self.subTest(line):
                    found = self.lint(folder)
                    self.assertNotEqual(found.returncode, 0)
                    self.assertIn("BROKEN", found.stdout)
                path.write_text(before, encoding="utf-8")

    def test_no_two_public_names_are_alike_and_no_module_hides_behind_one_of_its_own(self):
        homes: dict[str, list[str]] = {}
        for path in (ROOT / "src" / "long_ember").rglob("*.py"):
            tree = ast.parse(path.read_text(encoding="utf-8"))
            if path.name == "__init__.py":
                exported = {c.value for n in ast.walk(tree) if isinstance(n, ast.List) for c in n.elts if isinstance(c, ast.Constant)}
                self.assertEqual(exported & {p.stem for p in path.parent.iterdir()}, set(), path)
                continue
            names = [n.name for n in tree.body if isinstance(n, ast.ClassDef | ast.FunctionDef)]
            targets = [
                t
                for n in tree.body
                if isinstance(n, ast.Assign | ast.AnnAssign)
                for t in getattr(n, "targets", [getattr(n, "target", None)])
            ]
            for name in {*names, *(t.id for t in targets if isinstance(t, ast.Name))}:
                if not name.startswith("_"):
                    homes.setdefault(name, []).append(path.name)
        del homes["main"]  # of programs that run in a process of their own
        self.assertEqual({name: found for name, found in homes.items() if len(found) > 1}, {})

    def test_the_core_loads_no_qt_and_no_slow_package(self):
        code = "import sys, long_ember.cli; print([m for m in ('PySide6', 'scipy', 'numpy.typing', 'jsonschema') if m in sys.modules])"
        found = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
        self.assertEqual(found.stdout.strip(), "[]")


class Repository(unittest.TestCase):
    def test_pyside6_stays_below_the_release_that_loses_references(self):
        self.assertIn("PySide6-Essentials>=6.7,<6.12", (ROOT / "pyproject.toml").read_text())
        self.assertRegex((ROOT / "requirements.txt").read_text(), r"PySide6-Essentials==6\.(7|8|9|10|11)\.")

    def test_links_in_the_docs_lead_somewhere(self):
        for page in [ROOT / "README.md", ROOT / "CHANGELOG.md", *(ROOT / "docs").glob("*.md")]:
            for target in re.findall(r"\]\((?!https?:|#)([^)#]+)", page.read_text(encoding="utf-8")):
                with self.subTest(page=page.name, target=target):
                    self.assertTrue((page.parent / target).exists())

    def test_screenshots_are_few_and_all_shown(self):
        pictures = {p.name for p in (ROOT / "docs" / "screenshots").glob("*.png")}
        linked = set(re.findall(r"docs/screenshots/([\w-]+\.png)", (ROOT / "README.md").read_text(encoding="utf-8")))
        self.assertTrue(0 < len(pictures) < 20)
        self.assertEqual(linked, pictures)
