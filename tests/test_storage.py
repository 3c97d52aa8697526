"""Files: nothing half read, nothing half written, every fault named."""

import json
import os
import random
import tempfile
import unittest
from pathlib import Path
from unittest import mock

import jsonschema
from hypothesis import given
from hypothesis import strategies as st

from long_ember.demo import demo_files
from long_ember.errors import PieceFileError, SaveError
from long_ember.records import Settings
from long_ember.storage import (
    book_schema,
    piece_from_text,
    piece_schema,
    piece_to_text,
    read_piece,
    read_settings,
    write_atomic,
    write_piece,
    write_settings,
)
from tests.support import pieces

ROOT = Path(__file__).resolve().parent.parent
SCHEMA = jsonschema.Draft202012Validator(piece_schema())


def demo() -> dict:
    return json.loads(demo_files()[0].read_text(encoding="utf-8"))


def problems(text: str) -> list[str]:
    try:
        piece_from_text(text)
    except PieceFileError as error:
        return [str(p) for p in error.problems]
    return []


class RoundTrip(unittest.TestCase):
    @given(pieces())
    def test_a_piece_comes_back_and_fits_the_schema(self, piece):
        text = piece_to_text(piece)
        self.assertEqual(piece_from_text(text), piece)
        SCHEMA.validate(json.loads(text))

    def test_demo_files_are_as_we_write_them(self):
        for path in demo_files():
            with self.subTest(path.name):
                self.assertEqual(piece_to_text(read_piece(path)), path.read_text(encoding="utf-8"))

    def test_the_schema_in_docs_is_the_models(self):
        for name, schema in (("piece", piece_schema), ("book", book_schema)):
            written = json.loads((ROOT / "docs" / f"{name}.schema.json").read_text(encoding="utf-8"))
            self.assertEqual(written, json.loads(json.dumps(schema())), "run ./ember schema")


class Faults(unittest.TestCase):
    def test_all_of_them_are_told_with_their_paths(self):
        data = demo()
        data["bar"]["thickness"] = 0
        data["material"] = "cheese"
        data["extra"] = 1
        del data["order"]["kerf"]
        data["features"][1]["length"] = -4
        data["features"][2]["turns"] = "two"
        data["features"][4]["kind"] = "corkscrew"
        data["features"][6]["section"] = 8
        found = problems(json.dumps(data))
        for path in ("$.bar.thickness", "$.material", "$.extra", "$.order.kerf", "$.features[1].length", "$.features[2].turns",
                     "$.features[4].kind", "$.features[6].section"):  # fmt: skip
            with self.subTest(path):
                self.assertEqual(sum(p.startswith(path + ":") for p in found), 1, found)
        self.assertEqual(len(found), 8)
        self.assertEqual(found, problems(json.dumps(data)))

    def test_what_is_not_a_piece_at_all(self):
        cases = {
            "": "is not JSON",
            "{": "is not JSON",
            "[]": "not a piece file",
            '{"format": "other"}': "not a piece file",
            '{"format": "long-ember piece"}': "$.version",
            '{"format": "long-ember piece", "version": 9}': "newer Long Ember",
            '{"format": "long-ember piece", "version": true}': "$.version",
            '{"a": 1, "a": 2}': "holds twice: a",
            '{"a": NaN}': "not a number",
            "[" * 100_000: "JSON",
        }
        for text, words in cases.items():
            with self.subTest(text[:40]):
                self.assertIn(words, "; ".join(problems(text)))

    def test_dimensions_without_an_answer_name_their_feature(self):
        data = demo()
        data["features"][2]["turns"] = 50
        self.assertTrue(problems(json.dumps(data))[0].startswith("$.features[2]: Twist 3"))
        data = demo()
        data["features"][1]["id"] = data["features"][0]["id"]
        self.assertIn("id", problems(json.dumps(data))[0])

    def test_reader_and_schema_agree_on_damaged_files(self):
        random.seed(4)
        junk = [None, True, -1, 0, 1e9, "", "x", [], {}, 2.5, "down", 10**400]
        refused = 0
        for _ in range(400):
            data = demo()
            spot = random.choice([data, data["bar"], data["order"], data["allowances"], *data["features"]])
            key = random.choice(sorted(spot))
            if random.random() < 0.2:
                del spot[key]
            else:
                spot[key] = random.choice(junk)
            found = problems(json.dumps(data))
            refused += bool(found)
            if not SCHEMA.is_valid(data):
                self.assertTrue(found, (key, spot.get(key)))
            else:  # the schema can't know which sizes go together
                self.assertTrue(all(p.startswith(("$.features", "$.bar")) for p in found), found)
        self.assertGreater(refused, 200)

    @given(st.integers(0, 10**6), st.binary(min_size=1, max_size=3))
    def test_flipped_bytes_open_or_explain(self, at, junk):
        content = demo_files()[0].read_bytes()
        at %= len(content)
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "p.json"
            path.write_bytes(content[:at] + junk + content[at + 1 :])
            try:
                read_piece(path).verify()
            except PieceFileError as error:
                self.assertTrue(error.problems)
                self.assertIn("nothing was changed", str(error))

    def test_missing_huge_and_binary_files(self):
        with tempfile.TemporaryDirectory() as folder:
            base = Path(folder)
            (base / "huge.json").write_bytes(b" " * 4_000_001)
            (base / "binary.json").write_bytes(b"\xff\xfe\x00")
            for name in ("missing.json", "huge.json", "binary.json", "."):
                with self.subTest(name), self.assertRaises(PieceFileError):
                    read_piece(base / name)


class Saving(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.path = Path(folder.name) / "piece.json"

    def test_written_whole_and_nothing_else_left_behind(self):
        write_piece(self.path, read_piece(demo_files()[0]))
        self.assertEqual(read_piece(self.path), read_piece(demo_files()[0]))
        self.assertEqual([p.name for p in self.path.parent.iterdir()], ["piece.json"])

    def test_a_failure_at_any_step_leaves_the_old_file(self):
        self.path.write_text("old")
        for step in ("os.fsync", "os.replace", "os.chmod", "tempfile.mkstemp"):
            with (
                self.subTest(step),
                mock.patch(step, side_effect=OSError(28, "No space left on device")),
                self.assertRaises(SaveError) as caught,
            ):
                write_atomic(self.path, "new")
            with self.subTest(step):
                self.assertIn("No space left", str(caught.exception))
                self.assertEqual(self.path.read_text(), "old")
                self.assertEqual([p.name for p in self.path.parent.iterdir()], ["piece.json"])

    def test_the_order_is_write_flush_rename(self):
        calls = []
        replace, fsync = os.replace, os.fsync
        with (
            mock.patch("os.fsync", side_effect=lambda fd: (calls.append("fsync"), fsync(fd))),
            mock.patch("os.replace", side_effect=lambda a, b: (calls.append("rename"), replace(a, b))),
        ):
            write_atomic(self.path, "new")
        self.assertEqual(calls, ["fsync", "rename", "fsync"])

    def test_a_link_stays_a_link_and_rights_stay(self):
        self.path.write_text("old")
        self.path.chmod(0o640)
        link = self.path.with_name("link.json")
        link.symlink_to(self.path)
        write_atomic(link, "new")
        self.assertTrue(link.is_symlink())
        self.assertEqual((self.path.read_text(), self.path.stat().st_mode & 0o777), ("new", 0o640))


class SettingsFile(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        patch = mock.patch.dict(os.environ, {"XDG_CONFIG_HOME": folder.name})
        patch.start()
        self.addCleanup(patch.stop)
        self.file = Path(folder.name) / "long-ember" / "settings.json"

    def test_kept_where_xdg_says(self):
        self.assertEqual(read_settings(), Settings())
        write_settings(Settings("dark", ("/a.ember",)))
        self.assertTrue(self.file.exists())
        self.assertEqual(read_settings(), Settings("dark", ("/a.ember",)))

    def test_damage_falls_back_field_by_field(self):
        self.file.parent.mkdir()
        for text, wanted in (("{", Settings()), ("[]", Settings()), ('{"theme": "pink", "books": [1, "x"]}', Settings("light", ("x",)))):
            self.file.write_text(text)
            with self.subTest(text):
                self.assertEqual(read_settings(), wanted)
