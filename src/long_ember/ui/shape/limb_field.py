"""A tine, or a bar welded on, opens as a small piece of its own."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PySide6.QtWidgets import QLabel, QPushButton, QVBoxLayout, QWidget

from long_ember.desk.session import Session
from long_ember.document import FieldAddress, change_standing, set_field
from long_ember.errors import EmberError
from long_ember.features import Extension, Feature, LaidOn, Limbs, Piece, Split, Standing
from long_ember.sections import Section
from long_ember.ui.style.fonts import font
from long_ember.ui.widgets.asking import AskingDialog
from long_ember.ui.widgets.message import MessageLine

__all__ = ["LimbDialog", "LimbField"]


class LimbField(QPushButton):
    """Says how many features there are; a press opens them.

    Args:
        session: whose piece it is.
        address: of the limb.
        make_view: the planning screen for it; it holds fields like this one, so it is handed down from above.
    """

    def __init__(self, session: Session, address: FieldAddress, make_view: Callable[[Session], QWidget]) -> None:
        super().__init__()
        self._session, self.address, self._make_view = session, address, make_view
        spec = address.spec(session.piece)
        self.setFont(font(15, 500))
        self.setAccessibleName(spec.label)
        self.setToolTip(spec.tip)
        self.clicked.connect(self.open)
        session.refreshed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Count them."""
        model = self.address.model(self._session.piece)
        if model is not None:
            count = len(getattr(model, self.address.name))
            self.setText("plain…" if not count else f"{count} shape{'s' if count > 1 else ''}…")

    def open(self) -> None:
        """Show it on a bench of its own."""
        LimbDialog(self._session, self.address, self._make_view, self.window()).exec()


def _bar(session: Session, address: FieldAddress) -> Section:
    """What a limb is forged from."""
    feature, place = session.piece.found(address.owner)
    if isinstance(feature, Split):
        return feature.tine_bar(place)
    if isinstance(feature, LaidOn):
        return feature.plate
    assert isinstance(feature, Extension)
    return feature.section


class LimbDialog(AskingDialog):
    """The planning screen for one limb; it goes back into the piece as one step that can be undone."""

    def __init__(
        self, session: Session, address: FieldAddress, make_view: Callable[[Session], QWidget], parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self._session, self._address = session, address
        label = address.spec(session.piece).label
        self.setWindowTitle(label)
        self.resize(1180, 700)
        parts: Limbs = getattr(address.model(session.piece), address.name)
        piece = Piece(
            name=label, bar=_bar(session, address), material=session.piece.material, school=session.piece.school,
            features=tuple(p for p in parts if isinstance(p, Feature)), standing=tuple(p for p in parts if isinstance(p, Standing)),
        )  # fmt: skip
        plain = replace(piece.allowances, scale=0.0, source="typed", trim=0.0)
        self.bench = Session(session.loop, replace(piece, allowances=plain), session.settings, session.shop)
        self.view = make_view(self.bench)
        head = QLabel(f"{label}: end A is its tip, end B joins the piece. From {piece.bar.label(session.measure)}.")
        head.setFont(font(18, 500))
        self.message = MessageLine()
        self.bench.said.connect(self.message.say)
        from PySide6.QtWidgets import QDialogButtonBox  # with the first limb that is opened

        buttons = QDialogButtonBox(QDialogButtonBox.StandardButton.Ok | QDialogButtonBox.StandardButton.Cancel)
        buttons.button(QDialogButtonBox.StandardButton.Ok).setText("Put it on the piece")
        buttons.button(QDialogButtonBox.StandardButton.Cancel).setText("Leave the piece as it was")
        buttons.accepted.connect(self.put)
        buttons.rejected.connect(self.reject)
        column = QVBoxLayout(self)
        for widget in (head, self.view, self.message, buttons):
            column.addWidget(widget, 1 if widget is self.view else 0)

    def held(self) -> str:
        """What was changed here and is not on the piece."""
        model = self._address.model(self._session.piece)
        before = getattr(model, self._address.name) if model is not None else ()
        return "What you changed here and have not put on the piece" if self._parts != before else ""

    @property
    def _parts(self) -> Limbs:
        """The row, then what is laid on it."""
        return (*self.bench.piece.features, *self.bench.piece.standing)

    def put(self) -> bool:
        """Take the features over; when the piece does not take them it says why, and this stays open."""
        session, address = self._session, self._address
        try:
            change = set_field if session.piece.index(address.owner) >= 0 else change_standing
            session.apply(change(session.piece, address.owner, address.name, self._parts))
        except EmberError as error:
            self.message.say(f"Not yet: {error}", True)
            return False
        self.accept()
        return True
