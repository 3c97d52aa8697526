"""A tine, or a bar welded on, opens as a small piece of its own."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtWidgets import QDialogButtonBox, QLabel, QPushButton, QVBoxLayout, QWidget

from long_ember.desk.session import Session
from long_ember.document import Slot, set_field
from long_ember.errors import EmberError
from long_ember.features import Extension, Feature, LaidOn, Piece, Split
from long_ember.sections import Section
from long_ember.ui.style.fonts import font
from long_ember.ui.widgets.asking import AskingDialog
from long_ember.ui.widgets.message import MessageLine

__all__ = ["LimbDialog", "LimbField"]


class LimbField(QPushButton):
    """Says how many features there are; a press opens them."""

    def __init__(self, session: Session, slot: Slot, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self.slot = session, slot
        spec = slot.spec(session.piece)
        self.setFont(font(15, 500))
        self.setAccessibleName(spec.label)
        self.setToolTip(spec.tip)
        self.clicked.connect(self.open)
        session.refreshed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """Count them."""
        model = self.slot.model(self._session.piece)
        if model is not None:
            count = len(getattr(model, self.slot.name))
            self.setText("plain…" if not count else f"{count} shape{'s' if count > 1 else ''}…")

    def open(self) -> None:
        """Show it on a bench of its own."""
        LimbDialog(self._session, self.slot, self.window()).exec()


def _bar(session: Session, slot: Slot) -> Section:
    """What a limb is forged from."""
    index = session.piece.index(slot.owner)
    feature = session.piece.features[index]
    if isinstance(feature, Split):
        return feature.tine_bar(session.piece.place(index))
    if isinstance(feature, LaidOn):
        return feature.plate
    assert isinstance(feature, Extension)
    return feature.section


class LimbDialog(AskingDialog):
    """The planning screen for one limb; it goes back into the piece as one step that can be undone."""

    def __init__(self, session: Session, slot: Slot, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        from long_ember.ui.shape.shape_view import ShapeView  # the screen holds fields like the one that opens this

        self._session, self._slot = session, slot
        label = slot.spec(session.piece).label
        self.setWindowTitle(label)
        self.resize(1180, 700)
        features: tuple[Feature, ...] = getattr(slot.model(session.piece), slot.name)
        piece = Piece(name=label, bar=_bar(session, slot), material=session.piece.material, school=session.piece.school, features=features)
        plain = replace(piece.allowances, scale=0.0, trim=0.0)
        self.bench = Session(session.loop, replace(piece, allowances=plain), session.settings, session.shop)
        self.view = ShapeView(self.bench)
        self.view.all_shapes.hide()
        head = QLabel(f"{label}: end A is its tip, end B joins the piece. From {piece.bar.label(session.measure)}.")
        head.setFont(font(18, 500))
        self.message = MessageLine()
        self.bench.said.connect(self.message.say)
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
        model = self._slot.model(self._session.piece)
        before = getattr(model, self._slot.name) if model is not None else ()
        return "What you changed here and have not put on the piece" if self.bench.piece.features != before else ""

    def put(self) -> bool:
        """Take the features over; when the piece does not take them it says why, and this stays open."""
        session, slot = self._session, self._slot
        try:
            session.apply(set_field(session.piece, slot.owner, slot.name, self.bench.piece.features))
        except EmberError as error:
            self.message.say(f"Not yet: {error}", True)
            return False
        self.accept()
        return True
