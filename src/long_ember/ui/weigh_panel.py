"""Weight, balance and strength beside a known piece; a comparison, never a rating."""

from __future__ import annotations

import math
from dataclasses import dataclass

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QVBoxLayout, QWidget

from long_ember.errors import EmberError
from long_ember.features import Piece
from long_ember.geometry import Balance, balance, piece_bodies, section_outline, together
from long_ember.physics.strength import curved_beam, plastic_load
from long_ember.stock import reckon
from long_ember.ui.bookwork import BookWork
from long_ember.ui.entry import Choice
from long_ember.ui.fonts import font
from long_ember.units import parse_length

__all__ = ["HANDLES", "Handle", "WeighPanel", "strength_words", "with_handle"]

HANDLES = {"none": 0.0, "ash": 0.68e-3, "beech": 0.72e-3, "hickory": 0.82e-3, "steel": 7.85e-3}  # g/mm³, seasoned wood
_CAUTION = (
    "Only a comparison: flaws, welds, notches, temper, shocks and wear are left out. For anything that carries, lifts, holds people or hangs "
    "overhead follow local codes and ask a licensed engineer."
)


@dataclass(frozen=True)
class Handle:
    """A straight round handle that goes on from end B.

    Args:
        wood: key of `HANDLES`.
        length: mm beyond end B.
        diameter: mm.
    """

    wood: str = "none"
    length: float = 700.0
    diameter: float = 32.0

    @property
    def mass(self) -> float:
        """g."""
        return HANDLES[self.wood] * math.pi * self.diameter**2 / 4 * self.length


def with_handle(own: Balance, end: float, handle: Handle) -> Balance:
    """The assembled tool.

    Args:
        own: of the piece.
        end: where end B is, mm along the piece.
        handle: that goes on from there.
    """
    return together((own, Balance(handle.mass, (end + handle.length / 2, own.centre[1], own.centre[2]))))


def strength_words(piece: Piece, known: Piece) -> list[str]:
    """How a piece stands against a known one, in sentences: the shank, then the tightest bow of either."""
    said = []
    one, other = (plastic_load(p.bar.plastic_bending, 100.0) for p in (piece, known))
    said.append(f"Its plain shank bends for good at {one / other:.2f} times the force, at the same distance and of the same steel.")
    bows = [_bow(p) for p in (piece, known)]
    if bows[0] and bows[1]:
        said.append(f"At the inside of its tightest bow the same pull makes {bows[0] / bows[1]:.2f} times the stress.")
    elif bows[0]:
        said.append("The other has no bow to compare with.")
    return said


def _bow(piece: Piece) -> float:
    """Stress at the inside of the tightest bow, N/mm² per N; 0 where there is none."""
    radii = [getattr(f, "radius", 0.0) or getattr(f, "inner", 0.0) for f in piece.features if f.kind in ("hook", "bend", "eye", "scroll")]
    radii = [r for r in radii if r > 0]
    return curved_beam(section_outline(piece.bar, 96)[0], min(radii)).inside if radii else 0.0


class WeighPanel(QWidget):
    """How heavy, where it balances, how it compares."""

    def __init__(self, work: BookWork) -> None:
        super().__init__()
        self._work, self._session = work, work.session
        self.balance: Balance | None = None
        self._rest = QTimer(self, singleShot=True, interval=150)
        self._rest.timeout.connect(self._weigh)
        self.title = QLabel("Weight, balance, strength")
        self.title.setFont(font(18, 600))
        self.told = self._label("")
        self.handle = Choice(self._session)
        self.handle.setFont(font(15))
        self.handle.setAccessibleName("Handle")
        for wood in HANDLES:
            self.handle.addItem("no handle" if wood == "none" else f"handle of {wood}", wood)
        self.length, self.across = QLineEdit("700 mm"), QLineEdit("32 mm")
        for field, words in ((self.length, "Handle length"), (self.across, "Handle across")):
            field.setFont(font(15, 500))
            field.setAccessibleName(words)
            field.setToolTip(words)
            field.textEdited.connect(self._show)
        self.handle.activated.connect(self._show)
        self.known = Choice(self._session)
        self.known.setFont(font(15))
        self.known.setAccessibleName("Known piece to compare with")
        self.known.activated.connect(self._show)
        self.compared = self._label("")
        row = QHBoxLayout()
        for widget in (self.handle, self.length, self.across):
            row.addWidget(widget)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(5)
        column.addWidget(self.title)
        column.addWidget(self.told)
        column.addLayout(row)
        column.addWidget(self.known)
        column.addWidget(self.compared)
        column.addStretch(1)

    def _label(self, text: str) -> QLabel:
        label = QLabel(text)
        label.setFont(font(16))
        label.setWordWrap(True)
        return label

    def refresh(self) -> None:
        """Weigh the piece anew, a moment later: solids take longer than a keystroke."""
        now = self.known.currentData() or ""
        self.known.clear()
        self.known.addItem("Compare with a known piece…", "")
        for entry in self._work.library.entries:
            if entry.state == "kept" and entry.id != self._session.piece_id:
                self.known.addItem(f"against {entry.name}", entry.id)
        self.known.setCurrentIndex(max(self.known.findData(now), 0))
        self._rest.start()

    def _weigh(self) -> None:
        session = self._session
        bodies = piece_bodies(session.piece)
        self.balance = balance(bodies, session.piece.steel.density, session.answer.reckoning.mass) if bodies else None
        self._end = max((float(b.mesh.points[:, 0].max()) for b in bodies), default=0.0)
        self._start = min((float(b.mesh.points[:, 0].min()) for b in bodies), default=0.0)
        session.set_balance(self.balance)
        self._show()

    def given_handle(self) -> Handle:
        """The handle as it is typed.

        Raises:
            EmberError: a size can't be read.
        """
        m = self._session.measure
        length, across = (parse_length(f.text(), unit=m.unit, thickness=1.0) for f in (self.length, self.across))
        return Handle(str(self.handle.currentData()), length, across)

    def _show(self, _changed: object = None) -> None:
        m, own = self._session.measure, self.balance
        for field in (self.length, self.across):
            field.setEnabled(self.handle.currentData() != "none")
        if own is None:
            self.told.setText("Nothing to weigh yet.")
            return
        words = f"{m.mass(own.mass)} finished; balances {m.length(own.centre[0] - self._start)} from its left end (⊕ on the drawing)."
        try:
            handle = self.given_handle()
            if handle.wood != "none":
                whole = with_handle(own, self._end, handle)
                words += f" With the handle {m.mass(whole.mass)}, balancing {m.length(whole.centre[0] - self._start)} from there."
        except EmberError as error:
            words += f" The handle can't be read: {error}"
        self.told.setText(words)
        self._compare()

    def _compare(self) -> None:
        identity = str(self.known.currentData() or "")
        if not identity:
            self.compared.setText("")
            return
        try:
            known, piece = self._work.library.read(identity)[0], self._session.piece
            ratio = self._session.answer.reckoning.mass / max(reckon(known).mass, 1e-9)
            weight = f"It weighs {abs(ratio - 1):.0%} {'more' if ratio > 1 else 'less'}."
            self.compared.setText(" ".join([weight, *strength_words(piece, known), _CAUTION]))
        except EmberError as error:
            self.compared.setText(str(error))
