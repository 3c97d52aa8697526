"""Whole pieces built through the window, each press and each entry counted."""

import os
import unittest
from dataclasses import replace

from PySide6.QtWidgets import QDialog

from long_ember.document import answer
from long_ember.features import KINDS, Feature, Piece
from long_ember.fields import Limb, specs
from long_ember.ui.shape.limb_field import LimbDialog
from long_ember.ui.shape.strip import add_kind
from long_ember.ui.widgets.entry import EntryField
from tests.test_pieces import PIECES
from tests.window_case import KEY, QTest, WindowCase


class Builder:
    """A smith who builds one piece on a planning screen; what is not as it came is one entry, each shape one press, each choice of where one."""

    def __init__(self, view, session, case: WindowCase) -> None:
        self.view, self.session, self.case = view, session, case
        self.presses = self.entries = 0
        self.ids: dict[str, str] = {}

    def row(self, features: tuple[Feature, ...]) -> None:
        last = ""
        for wanted in features:
            self.session.select(last)
            if last and wanted.stands and not self._plain(last):
                self.session.select("")  # Escape: behind everything, with bar of its own
                self.presses += 1
            self.add(wanted)
            last = self.session.selection
            self.fill(wanted)

    def _plain(self, identity: str) -> bool:
        feature = self.session.piece.feature(identity)
        return feature is not None and (feature.kind == "run" or bool(feature.stands))

    def add(self, wanted: Feature) -> None:
        before = self.session.piece
        add_kind(self.session, wanted.kind)
        self.case.assertIsNot(self.session.piece, before, f"{wanted.kind} was not added")
        self.presses += 1
        self.ids[wanted.id] = self.session.selection

    def fill(self, wanted: Feature, place: dict[str, object] | None = None) -> None:
        """Set what is not as it came; what does not fit yet is set once the rest is."""
        inspector = self.view.inspector
        inspector.refresh()
        waiting = [n for n in specs(wanted) if n not in wanted.idle] + list(place or ())
        if place is not None:
            waiting = [n for n in waiting if n not in wanted.of_bar]
        for _ in range(4):
            left = []
            for name in waiting:
                value = place[name] if place is not None and name in place else getattr(wanted, name)
                if self._now(name) == value:
                    continue
                if not self._enter(name, value):
                    left.append(name)
            waiting = left
        self.case.assertEqual(waiting, [], f"{wanted.kind} {self.session.message if hasattr(self.session, 'message') else ''}")

    def _now(self, name: str) -> object:
        piece, identity = self.session.piece, self.session.selection
        standing = piece.stands(identity)
        feature = piece.feature(identity)
        return getattr(feature, name) if name in specs(feature) else getattr(standing, name)

    def _enter(self, name: str, value: object) -> bool:
        inspector = self.view.inspector
        inspector.refresh()
        spec = specs(KINDS[self.session.piece.feature(self.session.selection).kind]).get(name)
        box = next((f for f in inspector.fields if f.address.name == name), None)
        if box is None:
            return False
        if isinstance(spec, Limb):
            self._limb(box, value)
        elif isinstance(box, EntryField):
            measure = self.session.measure
            box.setFocus()
            box.selectAll()
            QTest.keyClicks(box, box.address.spec(self.session.piece).show(value, measure))
            if box.property("fault"):
                QTest.keyClick(box, KEY.Key_Escape)
            else:
                QTest.keyClick(box, KEY.Key_Return)
        else:
            at = next((i for i in range(box.count()) if box.itemData(i) == value), -1)
            if at < 0:
                return False
            box.setCurrentIndex(at)
            box.activated.emit(at)
        self.case.events()
        now = self._now(name)
        done = now == value or (isinstance(value, float) and abs(now - value) < 1e-3) or (isinstance(spec, Limb) and len(now) == len(value))
        self.entries += done
        return done

    def _limb(self, button, features: tuple[Feature, ...]) -> None:
        dialog = LimbDialog(self.session, button.address, button._make_view, self.case.window)
        dialog.show()
        bench = Builder(dialog.view, dialog.bench, self.case)
        try:
            bench.row(features)
            if not dialog.put():
                return
        finally:
            QDialog.done(dialog, 0)  # whatever it still holds is not asked about
            dialog.deleteLater()
        self.presses += bench.presses + 2  # opened, and put on
        self.entries += bench.entries

    def stand(self, piece: Piece) -> None:
        for wanted in piece.standing:
            on = self.ids.get(wanted.on, wanted.on)
            host = on if on not in ("A", "B") else self.ids[piece.features[0 if wanted.on == "A" else -1].id]
            self.session.select(host)
            self.presses += 1
            before = self.session.piece
            if not (self.session.piece.stands(host) or not self._plain(host)):
                add_kind(self.session, wanted.feature.kind)
                if self.session.piece.stands(self.session.selection) is None:
                    self.view.inspector.switch.follow()
                    self.view.inspector.switch.switch()
                    self.presses += 1
            else:
                add_kind(self.session, wanted.feature.kind)
            self.case.assertIsNot(self.session.piece, before)
            self.presses += 1
            self.ids[wanted.id] = self.session.selection
            landmark = (on, "A" if on in ("A", "B") else wanted.edge)
            self._size(wanted)
            self._where(landmark, wanted)

    def _size(self, wanted) -> None:
        names = [n for n in specs(wanted.feature) if n not in wanted.feature.of_bar and n not in wanted.feature.idle]
        for _ in range(4):
            for name in names:
                value = getattr(wanted.feature, name)
                now = self._now(name)
                if now != value and not (isinstance(value, tuple) and [f.kind for f in now] == [f.kind for f in value]):
                    self._enter(name, value)

    def _where(self, landmark: tuple[str, str], wanted) -> None:
        standing = self.session.piece.stands(self.session.selection)
        for _ in range(3):
            standing = self.session.piece.stands(self.session.selection)
            now = (standing.on, "A" if standing.on in ("A", "B") else standing.edge)
            if now != landmark:
                self.view.inspector.refresh()
                box = next(f for f in self.view.inspector.fields if f.address.name == "on")
                at = next(i for i in range(box.count()) if box.itemData(i) == landmark)
                box.setCurrentIndex(at)
                box.activated.emit(at)
                self.entries += 1
            if self.session.piece.stands(self.session.selection).along != wanted.along:
                self._enter("along", wanted.along)
            if abs(self.session.piece.stands(self.session.selection).at - wanted.at) > 1e-6:
                self._enter("at", wanted.at)


class Built(WindowCase):
    def test_each_piece_comes_out_as_planned_by_hand(self):
        counts = {}
        for piece in PIECES:
            with self.subTest(piece.name):
                blank = replace(self.session.shop.new_piece(), bar=piece.bar, name=piece.name)
                self.session.open(blank)
                smith = Builder(self.window.shape, self.session, self)
                smith.entries = 2  # its name and its bar
                smith.row(piece.features)
                smith.stand(piece)
                made = self.session.piece
                self.assertEqual([f.kind for f in made.features], [f.kind for f in piece.features])
                back = {new: old for old, new in smith.ids.items()}
                for found, wanted in zip(made.composition.stands, piece.composition.stands, strict=True):
                    self.assertEqual(back[found.standing.id], wanted.standing.id)
                    self.assertAlmostEqual(found.start, wanted.start, places=2)
                    self.assertAlmostEqual(found.end, wanted.end, places=2)
                taught = answer(piece, forge=self.session.forge)  # the log may have been read by now
                self.assertAlmostEqual(self.session.answer.reckoning.bare, taught.reckoning.bare, places=2)
                counts[piece.name] = (smith.presses, smith.entries)
        if os.environ.get("EMBER_COUNT"):
            print(counts)
        for name, (presses, entries) in counts.items():
            self.assertLess(presses + entries, 75, name)


if __name__ == "__main__":
    unittest.main()
