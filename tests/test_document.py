"""Edits, history and the changes that views hear of."""

import gc
import unittest

from hypothesis import given
from hypothesis import strategies as st

from long_ember.document import (
    Document,
    FieldAddress,
    PieceChange,
    add_feature,
    answer,
    duplicate,
    insert,
    move,
    remove,
    set_field,
    set_piece,
)
from long_ember.errors import EmberError, EntryError, NoAnswer
from long_ember.features import KINDS, Allowances, Piece
from long_ember.fields import Limb, specs
from long_ember.sections import square
from long_ember.units import Measure


class Listener:
    def __init__(self) -> None:
        self.heard: list[PieceChange] = []

    def hear(self, change: PieceChange) -> None:
        self.heard.append(change)


def start() -> Piece:
    return Piece(features=(KINDS["hook"](id="f1"), KINDS["run"](id="f2"), KINDS["taper"](id="f3", toward="B")))


commands = st.lists(
    st.tuples(st.sampled_from(["insert", "remove", "move", "length", "bar", "copy", "undo", "redo"]), st.integers(0, 9), st.integers(0, 9))
)


def carry_out(document: Document, name: str, a: int, b: int) -> None:
    piece = document.piece
    chosen = piece.features[a % len(piece.features)].id if piece.features else ""
    kinds = sorted(KINDS)
    if name in ("undo", "redo"):
        getattr(document, name)()
    elif name == "insert":
        document.apply(insert(piece, a % (len(piece.features) + 1), kinds[b % len(kinds)]))
    elif name == "bar":
        document.apply(set_piece(piece, "bar", square(8.0 + b)))
    elif chosen and name == "remove":
        document.apply(remove(piece, chosen))
    elif chosen and name == "copy":
        document.apply(duplicate(piece, chosen))
    elif chosen and name == "move":
        document.apply(move(piece, chosen, b))
    elif chosen and name == "length" and hasattr(piece.features[piece.index(chosen)], "length"):
        document.apply(set_field(piece, chosen, "length", 20.0 + 10 * b))


class History(unittest.TestCase):
    @given(commands)
    def test_undo_all_and_redo_all(self, wanted):
        document = Document(start())
        for name, a, b in wanted:
            try:
                carry_out(document, name, a, b)
            except EmberError:
                continue
        end = document.piece
        end.verify()
        answer(end)
        steps = 0
        while document.undo_title:
            document.undo()
            steps += 1
        self.assertEqual(document.piece, start())
        for _ in range(steps):
            document.redo()
        while document.redo_title:
            document.redo()
        self.assertEqual(len({f.id for f in document.piece.features}), len(document.piece.features))
        if not any(name == "undo" for name, _a, _b in wanted):
            self.assertEqual(document.piece, end)

    def test_a_gesture_is_one_step(self):
        document = Document(start())
        for value in (61.0, 62.0, 63.0):
            document.apply(set_field(document.piece, "f2", "length", value, gesture="typing"))
        self.assertEqual(document.undo_title, "Change run length")
        document.undo()
        self.assertEqual(document.piece, start())
        document.redo()
        self.assertEqual(document.piece.features[1].length, 63.0)

    def test_what_is_tried_is_no_step_until_it_is_settled(self):
        document, told = Document(start()), list[bool]()
        document.changed.connect(lambda change: told.append(change.tried))
        for value in (7.0, 70.0):
            document.attempt(set_field(document.settled, "f2", "length", value))
        self.assertEqual((document.piece.features[1].length, document.settled, document.history.steps), (70.0, start(), ()))
        document.withdraw()
        self.assertEqual((document.piece, document.undo_title, told), (start(), "", [True] * 3))
        document.attempt(set_field(document.settled, "f2", "length", 71.0))
        document.settle()
        self.assertEqual((document.settled.features[1].length, document.undo_title, told[-1]), (71.0, "Change run length", False))
        document.attempt(set_field(document.settled, "f2", "length", 72.0))
        document.apply(set_field(document.piece, "f2", "name", "stem"))  # another edit settles what is tried
        document.undo()
        self.assertEqual(document.piece.features[1].length, 72.0)
        document.attempt(set_field(document.settled, "f2", "length", 73.0))
        document.undo()  # and so does taking back: it can be done again
        self.assertEqual((document.piece.features[1].length, document.redo_title), (72.0, "Change run length"))

    def test_typing_back_to_where_it_was_leaves_no_step(self):
        document = Document(start())
        for value in (61.0, 60.0):
            document.apply(set_field(document.piece, "f2", "length", value, gesture="g"))
        self.assertEqual((document.undo_title, document.piece), ("", start()))

    def test_an_edit_that_can_not_be_forged_changes_nothing(self):
        document = Document(start())
        with self.assertRaises(NoAnswer):
            document.apply(set_field(document.piece, "f3", "tip", 40.0))
        with self.assertRaises(NoAnswer):
            document.apply(set_piece(document.piece, "bar", square(2.5)))
        self.assertEqual((document.piece, document.undo_title), (start(), ""))


class Changes(unittest.TestCase):
    def test_one_change_an_edit_with_row_ranges(self):
        document, listener = Document(start()), Listener()
        document.changed.connect(listener.hear)
        document.apply(set_field(document.piece, "f2", "length", 60.0))
        self.assertEqual(listener.heard, [])
        document.apply(set_field(document.piece, "f2", "length", 61.0))
        document.apply(insert(document.piece, 1, "twist"))
        document.apply(remove(document.piece, "f3"))
        document.apply(set_piece(document.piece, "name", "Other"))
        self.assertEqual([(c.first, c.removed, c.added) for c in listener.heard], [(1, 1, 1), (1, 0, 1), (3, 1, 0), (3, 0, 0)])

    def test_a_closed_view_is_forgotten(self):
        document, listener = Document(start()), Listener()
        document.changed.connect(listener.hear)
        heard = listener.heard
        del listener
        gc.collect()
        document.apply(remove(document.piece, "f1"))
        self.assertEqual(heard, [])


class Edits(unittest.TestCase):
    def test_an_outer_end_turns_outwards_when_it_comes_to_an_end(self):
        piece = start()
        self.assertEqual(move(piece, "f1", 2).after.features[2].toward, "B")
        self.assertEqual(move(piece, "f3", 0).after.features[0].toward, "A")
        self.assertEqual(insert(piece, 3, "eye").after.features[3].toward, "B")
        self.assertEqual(insert(piece, 0, "curl").after.features[0].toward, "A")

    def test_a_copy_stands_behind_what_it_was_made_of_and_ends_face_outwards(self):
        piece = Piece(features=(KINDS["taper"](id="a"), KINDS["run"](id="b"), KINDS["taper"](id="c", toward="B")))
        copied = duplicate(piece, "b")
        self.assertEqual([f.kind for f in copied.after.features], ["taper", "run", "run", "taper"])
        self.assertEqual([f.id for f in copied.after.features][:2], ["a", "b"])
        self.assertEqual(copied.focus, copied.after.features[2].id)
        last = duplicate(piece, "c").after.features
        self.assertEqual([f.id for f in last[:3]], ["a", "b", "c"])
        self.assertEqual((last[2].toward, last[3].toward), ("B", "B"))
        self.assertEqual(add_feature(piece, 0, KINDS["taper"](id="x", toward="B")).after.features[0].toward, "A")

    def test_titles_say_what_was_done(self):
        piece = start()
        titles = [e.title for e in (insert(piece, 0, "eye"), remove(piece, "f1"), move(piece, "f1", 2), duplicate(piece, "f2"))]
        self.assertEqual(titles, ["Add eye", "Remove hook", "Move hook", "Duplicate run"])


class Entries(unittest.TestCase):
    def test_every_field_of_every_kind_shows_and_reads_back(self):
        for kind in KINDS:
            piece = insert(Piece(bar=square(13)), 0, kind).after
            for address in [FieldAddress("f1", name) for name, spec in specs(piece.features[0]).items() if not isinstance(spec, Limb)]:
                for measure in (Measure(), Measure("in", 64)):
                    with self.subTest(kind=kind, name=address.name):
                        self.assertEqual(address.edit(piece, address.text(piece, measure), measure).after, piece)

    def test_shares_are_shown_as_hundredths(self):
        spec = specs(Allowances)["scale"]
        self.assertEqual((spec.show(0.035, Measure()), spec.read("3.5 %", Measure(), 12.0)), ("3.5 %", 0.035))

    def test_limits_are_told_in_the_readers_unit_with_what_would_work(self):
        piece = start()
        address = FieldAddress("f1", "sweep")
        with self.assertRaises(EntryError) as caught:
            address.edit(piece, "400", Measure())
        self.assertIn("at most 330°", str(caught.exception))
        with self.assertRaises(EntryError) as caught:
            FieldAddress("f2", "length").edit(piece, "0", Measure("in"))
        self.assertIn("more than 0 in", str(caught.exception))
        with self.assertRaises(EntryError):
            FieldAddress("order", "quantity", part=True).edit(piece, "2.5", Measure())

    def test_cubes_and_optional_sections(self):
        piece = start()
        self.assertEqual(FieldAddress("f2", "length").edit(piece, "3 cubes", Measure()).after.features[1].length, 36.0)
        tapered = FieldAddress("f1", "tip").edit(piece, "5 sq", Measure()).after
        self.assertEqual(tapered.features[0].tip, square(5))
        self.assertIsNone(FieldAddress("f1", "tip").edit(tapered, " ", Measure()).after.features[0].tip)
        shares = FieldAddress("allowances", "scale", part=True).edit(piece, "2.5 %", Measure()).after
        self.assertAlmostEqual(shares.allowances.scale, 0.025)
