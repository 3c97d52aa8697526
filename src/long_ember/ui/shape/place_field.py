"""From where on the drawn bar something is measured, chosen by name; and the switch between own bar and laid on."""

from __future__ import annotations

from PySide6.QtWidgets import QPushButton, QWidget

from long_ember.desk.session import Session
from long_ember.document import FieldAddress, give_own_bar, lay_down, measure_from
from long_ember.features import Piece
from long_ember.ui.style.fonts import font
from long_ember.ui.widgets.entry import ChoiceBox

__all__ = ["LandmarkField", "OwnBarSwitch"]

_EDGES = (("A", "end A"), ("middle", "middle"), ("B", "end B"))


class LandmarkField(ChoiceBox):
    """Ends of the bar, and both ends and the middle of everything on it; choosing one leaves what stands where it is."""

    def __init__(self, session: Session, address: FieldAddress, parent: QWidget | None = None) -> None:
        super().__init__(session, parent)
        self.address = address
        self.setFont(font(16))
        self.setSizeAdjustPolicy(ChoiceBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        spec = address.spec(session.piece)
        self.setAccessibleName(spec.label)
        self.setToolTip(spec.tip)
        self._offered: list[tuple[str, tuple[str, str]]] = []
        self.activated.connect(self._chosen)
        session.refreshed.connect(self.refresh)
        self.refresh()

    def refresh(self) -> None:
        """What can be measured from now, and what is."""
        piece = self._session.piece
        standing = piece.stands(self.address.owner)
        if standing is None:
            return
        offered = _landmarks(piece, standing.id)
        if offered != self._offered:
            self._offered = offered
            self.clear()
            for words, at in offered:
                self.addItem(words, at)
            self.view().setMinimumWidth(self.view().sizeHintForColumn(0) + 28)
        now = (standing.on, "A" if standing.on in ("A", "B") else standing.edge)
        self.setCurrentIndex(next((i for i, (_words, at) in enumerate(offered) if at == now), -1))

    def _chosen(self, index: int) -> None:
        if not self._session.attempt(measure_from, self.address.owner, *self._offered[index][1]):
            self.refresh()


class OwnBarSwitch(QPushButton):
    """One press: what is laid on takes bar of its own, or the other way round."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        self._session = session
        self.setFont(font(15, 500))
        self.setMinimumHeight(36)
        self.setAutoDefault(False)
        self.clicked.connect(self.switch)
        self.follow()

    def follow(self) -> None:
        """Say what it would do to the feature that is selected now; out of sight where that can't be chosen."""
        piece, chosen = self._session.piece, self._session.selection
        feature = piece.feature(chosen)
        laid = piece.stands(chosen) is not None
        self.setText("Give it its own bar" if laid else "Lay it on its neighbour")
        self.setToolTip("It stands on steel that another feature has drawn." if laid else "It takes its own stretch of the bar.")
        self.setVisible(laid or (feature is not None and bool(feature.stands) and len(piece.features) > 1))

    def switch(self) -> bool:
        """Carry it out; where it can't be, the message line says why."""
        chosen = self._session.selection
        return self._session.attempt(give_own_bar if self._session.piece.stands(chosen) is not None else lay_down, chosen)


def _landmarks(piece: Piece, mine: str) -> list[tuple[str, tuple[str, str]]]:
    """Words for each place that a standing feature can be measured from, and the place."""
    found = [("end A", ("A", "A")), ("end B", ("B", "A"))]
    row = [(f.id, f"{f.title.lower()} {i + 1}") for i, f in enumerate(piece.features)]
    forms = [(s.id, s.feature.title.lower()) for s in piece.standing if s.feature.stands == "form" and s.id != mine]
    for identity, words in (*row, *forms):
        found.extend((f"{words}: {edge}", (identity, key)) for key, edge in _EDGES)
    return found
