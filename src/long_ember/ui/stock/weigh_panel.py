"""Weight and balance of the piece, and how it stands against one that has proved itself; a comparison, never a rating."""

from __future__ import annotations

from collections.abc import Generator
from functools import partial

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QVBoxLayout, QWidget

from long_ember.choosing import CAUTION, USES, versus
from long_ember.desk.finding import Findable
from long_ember.desk.turns import Portions
from long_ember.errors import EmberError
from long_ember.features import Piece
from long_ember.geometry import Balance, balance, mesh, piece_bodies
from long_ember.stock import believed
from long_ember.ui.actions.bookwork import BookWork
from long_ember.ui.style.fonts import font
from long_ember.ui.widgets.buttons import worded
from long_ember.ui.widgets.entry import ChoiceBox
from long_ember.units import Line, parse_length

__all__ = ["WeighPanel"]

_NOTHING = "Compare with a known piece…"


class WeighPanel(QWidget):
    """How heavy, where it balances, how it compares."""

    def __init__(self, work: BookWork) -> None:
        super().__init__()
        self._work, self._session = work, work.session
        self.balance: Balance | None = None
        self._known = ""  # "piece/…" or "state/…"; "" for none
        self._start = 0.0
        self._rest = QTimer(self, singleShot=True, interval=150)
        self._rest.timeout.connect(self._weigh)
        self._weighing = Portions(work.session.loop, work.session.turns, "weight")
        self.title = QLabel("Weight, balance, strength")
        self.title.setFont(font(18, 600))
        self.told = self._label(16)
        self.known = worded(_NOTHING, self._ask, "A piece, or a state of this one, that has proved itself")
        self.known.setMinimumWidth(120)
        self.use = ChoiceBox(self._session)
        self.use.setFont(font(15))
        self.use.setAccessibleName("Compared as")
        self.use.setMinimumWidth(100)
        for key, words in USES:
            self.use.addItem(words, key)
        self.use.activated.connect(self._compare)
        self.driven, self.above = QLineEdit(), QLineEdit()
        self._stake = self._stake_row()
        self.compared, self.caution = self._label(15), self._label(13)
        self.caution.setText(CAUTION)
        self.caution.setProperty("role", "muted")
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        choices = QHBoxLayout()
        choices.addWidget(self.known, 1)
        choices.addWidget(self.use, 1)
        column.addWidget(self.title)
        column.addWidget(self.told)
        column.addLayout(choices)
        for widget in (self._stake, self.compared, self.caution):
            column.addWidget(widget)
        column.addStretch(1)

    def _stake_row(self) -> QWidget:
        group = QWidget()
        row = QHBoxLayout(group)
        row.setContentsMargins(0, 0, 0, 0)
        for field, words, start in ((self.driven, "Driven", 300.0), (self.above, "Pulled above ground", 100.0)):
            label = QLabel(words)
            label.setFont(font(15))
            label.setProperty("role", "muted")
            label.setBuddy(field)
            field.setText(self._session.measure.edit_text(start))
            field.setFont(font(15, 500))
            field.setAccessibleName(words)
            field.textEdited.connect(self._compare)
            row.addWidget(label)
            row.addWidget(field)
        return group

    def _label(self, size: int) -> QLabel:
        label = QLabel()
        label.setFont(font(size))
        label.setWordWrap(True)
        return label

    def refresh(self) -> None:
        """Weigh the piece anew, a moment later: solids take longer than a keystroke."""
        self._know(self._work.library.fact(f"known/{self._session.piece_id}"))
        self.leave()
        self._rest.start()

    def leave(self) -> None:
        """What was being weighed is no longer the piece, or nobody looks."""
        self._rest.stop()
        self._weighing.leave()

    def _weigh(self) -> None:
        self._weighing.start(self._in_parts())

    def _in_parts(self) -> Generator[None, None, None]:
        session, m, piece, mass = self._session, self._session.measure, self._session.piece, self._session.answer.reckoning.mass
        for _id, shape in piece.shapes:
            mesh(shape)  # kept with the shape
            yield
        bodies = piece_bodies(piece)
        yield
        self.balance = own = balance(bodies, piece.steel.density, mass) if bodies else None
        self._start = min((float(b.mesh.points[:, 0].min()) for b in bodies), default=0.0)
        session.set_balance(own)
        if own is None:
            self.told.setText("Nothing to weigh yet.")
        else:
            self.told.setText(
                f"{m.mass(own.mass)} finished; balances {m.length(own.centre[0] - self._start)} from its left end (⊕ in Shape)."
            )
        yield
        self._compare()

    def _know(self, key: str) -> None:
        """Whom it is compared with, if that is still there."""
        name = self._name_of(key)
        self._known = key if name else ""
        self.known.setText(f"against {name}" if name else _NOTHING)
        self.known.setAccessibleName(f"Known piece to compare with: {name or 'none'}")

    def _name_of(self, key: str) -> str:
        library = self._work.library
        kind, _slash, identity = key.partition("/")
        if kind == "piece" and identity != self._session.piece_id:
            entry = library.entry(identity)
            return entry.name if entry is not None and entry.state == "kept" else ""
        states = {r.id: r.name for r in library.revisions(self._session.piece_id)} if kind == "state" else {}
        return f"this piece, {states[identity]}" if identity in states else ""

    def _ask(self) -> None:
        library, piece = self._work.library, self._session.piece_id
        things = [Findable("", "Compare with nothing", "", partial(self.choose, ""))] if self._known else []
        things += [Findable("this piece", r.name, "", partial(self.choose, f"state/{r.id}")) for r in library.revisions(piece)]
        self._work.pick_piece("A known piece", lambda known: self.choose(f"piece/{known}"), without=piece, before=things)

    def choose(self, key: str) -> None:
        """Compare with it, and remember that.

        Args:
            key: "piece/" with the id of a piece, "state/" with that of a state of this one; "" for nothing.
        """
        self._work.library.put_fact(f"known/{self._session.piece_id}", key)
        self._know(key)
        self._compare()

    def _read(self) -> Piece | None:
        kind, _slash, identity = self._known.partition("/")
        if not identity:
            return None
        return self._work.library.read(identity)[0] if kind == "piece" else self._work.library.reader().revision(identity)

    def _compare(self, _changed: object = None) -> None:
        """The figures beside the caution; on the printed sheet they stand together too."""
        session, m, fault = self._session, self._session.measure, ""
        said: tuple[Line, ...] = ()
        chosen = bool(self._known)
        try:
            known = self._read()
            if known is not None and session.piece.features:
                driven, above = (
                    parse_length(f.text(), unit=m.unit, thickness=session.piece.bar.thickness) for f in (self.driven, self.above)
                )
                belief = session.forge.lengths
                said = versus(believed(session.piece, belief), believed(known, belief), str(self.use.currentData()), driven, above)
        except EmberError as error:
            fault = str(error)
        for widget in (self.use, self.compared, self.caution):
            widget.setVisible(chosen)
        self._stake.setVisible(chosen and self.use.currentData() == "stake")
        self.compared.setText(fault or " ".join(line.show(m) for line in said))
        session.set_comparison(self.known.text().removeprefix("against "), said)
