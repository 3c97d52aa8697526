"""The calculator: one feature reckoned on its own, by the same code as the piece, and put into the piece when it suits."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication, QDialog, QHBoxLayout, QLabel, QPushButton, QVBoxLayout, QWidget

from long_ember.desk.session import Session
from long_ember.document import FieldAddress, add_feature
from long_ember.errors import NoAnswer
from long_ember.features import KINDS, Allowances, Feature, Piece, feature_sum
from long_ember.ui.shape.canvas import BarCanvas
from long_ember.ui.shape.inspector import Inspector
from long_ember.ui.shape.shape_view import limb_view
from long_ember.ui.style.fonts import font
from long_ember.ui.widgets.entry import ChoiceBox, ChoiceField, EntryField
from long_ember.ui.widgets.message import MessageLine

__all__ = ["Calculator"]


class Calculator(QDialog):
    """A bench of its own: bar, shape, its sizes, the drawing and the sum. What happens here changes no piece until it is put in."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setWindowTitle("Calculator")
        self.resize(1120, 640)
        self._session = session
        start = Piece(name="Calculator", bar=session.piece.bar, material=session.piece.material, school=session.piece.school, features=())
        self.bench = Session(
            session.loop, replace(start, allowances=Allowances(scale=0.0, trim=0.0, parting=0.0, bite=0.0)), session.settings, session.shop
        )
        self.kind = ChoiceBox(self.bench)
        self.kind.setFont(font(18, 500))
        self.kind.setAccessibleName("Shape to reckon")
        for kind, cls in KINDS.items():
            self.kind.addItem(cls.title, kind)
        self.kind.activated.connect(lambda _i: self.show_kind(str(self.kind.currentData())))
        self.figure = QLabel()
        self.figure.setFont(font(30, 600))
        self.figure.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        self.canvas = BarCanvas(self.bench)
        self.inspector = Inspector(self.bench, limb_view)
        self._lay_out()
        self.bench.refreshed.connect(self._show)
        chosen = session.piece.index(session.selection)
        if chosen >= 0:
            self.show_feature(session.piece.features[chosen])
        else:
            self.show_kind("eye")

    def _lay_out(self) -> None:
        head = QHBoxLayout()
        for words, field in (("Reckon a", self.kind), ("from", EntryField(self.bench, FieldAddress("", "bar"), size=18)),
                             ("of", ChoiceField(self.bench, FieldAddress("", "material")))):  # fmt: skip
            label = QLabel(words)
            label.setFont(font(16))
            head.addWidget(label)
            head.addWidget(field, 1)
        foot = QHBoxLayout()
        foot.addWidget(self.figure, 1)
        self.copy = QPushButton("Copy the sum")
        self.copy.clicked.connect(self.copy_sum)
        self.put = QPushButton("Put it into the piece")
        self.put.clicked.connect(self.put_in)
        done = QPushButton("Close")
        done.clicked.connect(self.close)
        for button in (self.copy, self.put, done):
            button.setFont(font(16, 500))
            button.setAutoDefault(False)
            foot.addWidget(button)
        self.message = MessageLine()
        self.bench.said.connect(self.message.say)
        column = QVBoxLayout(self)
        column.addLayout(head)
        column.addWidget(self.canvas, 1)
        column.addWidget(self.inspector)
        column.addWidget(self.message)
        column.addLayout(foot)

    def show_kind(self, kind: str) -> None:
        """Begin with a shape's usual sizes for this bar."""
        self.show_feature(KINDS[kind](id="x").fitted(self.bench.piece.bar))

    def show_feature(self, feature: Feature) -> None:
        """Begin with a feature as it is."""
        feature = replace(feature, id="x")
        piece = replace(self.bench.piece, features=(feature.turned() if getattr(feature, "toward", "A") == "B" else feature,))
        try:
            self.bench.open(piece)
        except NoAnswer as error:
            self.message.say(f"Nothing changed. {error}", True)
        else:
            self.bench.select("x")
        self._show()

    def _show(self) -> None:
        features = self.bench.piece.features
        if features:
            self.kind.setCurrentIndex(list(KINDS).index(features[0].kind))
            self.figure.setText(f"Takes {self.bench.measure.length(self.bench.answer.reckoning.bare)} of bar")

    def copy_sum(self) -> None:
        """The sum as text, for a message or a note."""
        feature, place = self.bench.piece.features[0], self.bench.piece.place(0)
        lines = [f"{feature.title} from {self.bench.piece.bar.label(self.bench.measure)}"]
        lines += [line.show(self.bench.measure) for line in feature_sum(feature, place)]
        QApplication.clipboard().setText("\n".join(lines))
        self.message.say("The sum is on the clipboard.", False)

    def put_in(self) -> bool:
        """Add the feature to the piece, behind the selected one. The piece keeps its own bar."""
        session = self._session
        at = session.piece.index(session.selection)
        index = len(session.piece.features) if at < 0 else at + 1
        done = session.attempt(add_feature, index, self.bench.piece.features[0])
        if done:
            same = session.piece.bar == self.bench.piece.bar
            self.message.say("It is in the piece." if same else "It is in the piece, reckoned there from the piece's own bar.", False)
        else:
            self.message.say("The piece does not take it; its own window says why.", True)
        return done
