"""What the program says about the boathouse, word by word and figure by figure: a change of it is meant, or is a fault."""

import difflib
import unittest

from tests.words import FOLDER, said


class Words(unittest.TestCase):
    def test_it_says_what_it_said(self):
        now, then = said(), {path.stem: path.read_text(encoding="utf-8") for path in FOLDER.glob("*.txt")}
        self.assertEqual(set(now), set(then), "renew with ./ember words, and read the difference")
        for name, text in now.items():
            with self.subTest(name):
                lines = difflib.unified_diff(
                    then[name].rstrip("\n").splitlines(), text.splitlines(), "as it was", "as it is", lineterm="", n=1
                )
                self.assertEqual("\n".join(list(lines)[:60]), "", "meant? ./ember words renews it")
