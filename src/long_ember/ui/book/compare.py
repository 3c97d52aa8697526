"""Two states of a piece side by side: drawings laid over each other, and every figure that differs."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QDialog, QGridLayout, QHBoxLayout, QLabel, QPushButton, QScrollArea, QVBoxLayout, QWidget

from long_ember.choosing import halves
from long_ember.desk.session import Session
from long_ember.document import Answer, quick_answer
from long_ember.features import Piece
from long_ember.fields import specs
from long_ember.geometry import silhouette
from long_ember.ui.drawing.paint import View, polygon, write
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import theme_of
from long_ember.ui.widgets.buttons import emptied
from long_ember.ui.widgets.entry import ChoiceBox
from long_ember.units import Measure

__all__ = ["CompareDialog", "state_differences"]

Named = tuple[str, Piece]


def state_differences(one: Answer, other: Answer, m: Measure) -> list[tuple[str, str, str]]:
    """What differs between two states: a word for it, and how it is in either."""
    a, b = one.reckoning, other.reckoning
    rows: list[tuple[str, str, str]] = [
        ("Bar", one.piece.bar.label(m), other.piece.bar.label(m)),
        ("Material", one.piece.steel.title, other.piece.steel.title),
        ("Cut length", m.length(a.cut), m.length(b.cut)),
        ("Mass finished", m.mass(a.mass), m.mass(b.mass)),
        ("Heats", _heats(one), _heats(other)),
        *_halves(one.plan.piece, other.plan.piece, m),
    ]
    for identity in dict.fromkeys(f.id for p in (one.piece, other.piece) for f in (*p.features, *(s.feature for s in p.standing))):
        rows += _feature_rows(one.piece, other.piece, identity, m)
    return [row for row in rows if row[1] != row[2] or row[0] in ("Cut length", "Mass finished")]


def _halves(one: Piece, other: Piece, m: Measure) -> list[tuple[str, str, str]]:
    """Where the mass went: a tool lighter at its head swings otherwise than one lighter at its tang."""
    rows = []
    for end, before, after in zip("AB", halves(one), halves(other), strict=True):
        change = after / before - 1 if before else 0.0
        told = f" ({abs(change):.0%} {'heavier' if change > 0 else 'lighter'})" if abs(change) >= 0.005 else ""
        rows.append((f"Mass, half toward end {end}", m.mass(before), f"{m.mass(after)}{told}"))
    return rows


def _heats(found: Answer) -> str:
    return f"{found.plan.count} ({found.plan.low}–{found.plan.high})"


def _feature_rows(one: Piece, other: Piece, identity: str, m: Measure) -> list[tuple[str, str, str]]:
    before, after = one.feature(identity), other.feature(identity)
    if before is None or after is None or before.kind != after.kind:
        return [("Feature", _called(one, identity), _called(other, identity))]
    rows = []
    for name, spec in specs(before).items():
        if getattr(before, name) != getattr(after, name):
            shown = spec.compared(getattr(before, name), getattr(after, name), m)
            rows.append((f"{_called(other, identity)}, {spec.label.lower()}", *shown))
    places = _place(one, identity, m), _place(other, identity, m)
    if places[0] != places[1]:
        rows.append((f"{before.title}, place", *places))
    return rows


def _called(piece: Piece, identity: str) -> str:
    feature, index = piece.feature(identity), piece.index(identity)
    if feature is None:
        return "not there"
    return f"{feature.title} {index + 1}" if index >= 0 else feature.title


def _place(piece: Piece, identity: str, m: Measure) -> str:
    stand = piece.composition.stand(identity)
    return f"{piece.index(identity) + 1} from A" if stand is None else f"its middle {m.length(stand.middle)} from A on the drawn bar"


class _Overlay(QWidget):
    """Both outlines at one scale, their left ends together: the older one dashed."""

    def __init__(self, session: Session, one: Named, other: Named) -> None:
        super().__init__()
        self._session, self._names = session, (one[0], other[0])
        self._outlines = tuple(silhouette(piece) for _name, piece in (one, other))
        self.setMinimumHeight(250)

    def sizeHint(self) -> QSize:
        """Wide."""
        return QSize(860, 280)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Newer filled, older dashed over it, and which is which."""
        painter, theme = QPainter(self), theme_of(self._session)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.colour("panel"))
        points = [p for outline in self._outlines for p in outline]
        if not points:
            return
        width, height = np.vstack(points).max(axis=0).tolist()
        view = View.fitting((0, 0, width, height), QRectF(self.rect()).adjusted(24, 40, -24, -20), most=4.0)
        for outline, old in zip(self._outlines[::-1], (False, True), strict=True):
            pen = QPen(
                theme.colour("accent" if old else "edge"), 2.2 if old else 1.0, Qt.PenStyle.DashLine if old else Qt.PenStyle.SolidLine
            )
            painter.setPen(pen)
            painter.setBrush(Qt.BrushStyle.NoBrush if old else theme.colour("steel"))
            for part in outline:
                painter.drawPolygon(polygon(view.points(part)))
        for i, (name, role) in enumerate(zip(self._names, ("accent", "edge"), strict=True)):
            x = 24 + 300 * i
            painter.setPen(QPen(theme.colour(role), 2.2, Qt.PenStyle.SolidLine if i else Qt.PenStyle.DashLine))
            painter.drawLine(QPointF(x, 20), QPointF(x + 40, 20))
            write(painter, name, x + 50, 9, font(16, 600), theme.colour("ink"))


class CompareDialog(QDialog):
    """Any two states: the one on the left dashed over the one on the right; the left one can be taken up again."""

    def __init__(self, session: Session, states: list[Named], at: int, back: Callable[[str, Piece], None], parent: QWidget) -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle("Two states of a piece")
        self.resize(940, 720)
        self._session, self._states, self._back = session, states, back
        self.rows: list[tuple[str, str, str]] = []
        self.sides = (self._choice(at, "The older state"), self._choice(0, "The newer state"))
        head = QHBoxLayout()
        for i, (side, words) in enumerate(zip(self.sides, ("dashed:", "filled:"), strict=True)):
            label = QLabel(words)
            label.setFont(font(16))
            label.setProperty("role", "muted")
            head.addWidget(label)
            head.addWidget(side, 1)
            head.addSpacing(24 * (1 - i))
        self._picture, self._table = QVBoxLayout(), QVBoxLayout()
        row = QHBoxLayout()
        row.addStretch(1)
        close, self.back_button = QPushButton("Close"), QPushButton()
        for button in (self.back_button, close):
            button.setFont(font(17, 500))
            row.addWidget(button)
        self.back_button.clicked.connect(self.accept)
        self.accepted.connect(self._go_back)
        close.clicked.connect(self.reject)
        close.setDefault(True)
        column = QVBoxLayout(self)
        column.addLayout(head)
        column.addLayout(self._picture)
        column.addLayout(self._table, 1)
        column.addLayout(row)
        self._renew()

    def _choice(self, at: int, words: str) -> ChoiceBox:
        box = ChoiceBox(self._session)
        box.setFont(font(17, 500))
        box.setAccessibleName(words)
        for name, _piece in self._states:
            box.addItem(name)
        box.setCurrentIndex(at)
        box.activated.connect(self._renew)
        return box

    def _renew(self) -> None:
        """Show the two that are chosen."""
        one, other = (self._states[side.currentIndex()] for side in self.sides)
        shop = self._session.shop
        found = [quick_answer(piece, ruler=shop.division, forge=self._session.forge) for _name, piece in (one, other)]
        self.rows = state_differences(found[0], found[1], self._session.measure)
        for layout, made in ((self._picture, _Overlay(self._session, one, other)), (self._table, self._listed(one[0], other[0]))):
            emptied(layout)
            layout.addWidget(made)
        self.back_button.setText(f"Go back to {one[0]}")
        self.back_button.setEnabled(one[1] != self._states[0][1])

    def _go_back(self) -> None:
        self._back(*self._states[self.sides[0].currentIndex()])

    def _listed(self, one: str, other: str) -> QScrollArea:
        inner = QWidget()
        grid = QGridLayout(inner)
        grid.setHorizontalSpacing(30)
        grid.setColumnStretch(0, 1)
        for i, row in enumerate([("", one, other), *self.rows]):
            for k, text in enumerate(row):
                label = QLabel(text)
                label.setFont(font(17, 600 if i == 0 else 500 if k else 400))
                label.setProperty("role", "muted" if k == 0 or i == 0 else "")
                label.setAlignment(Qt.AlignmentFlag.AlignRight if k else Qt.AlignmentFlag.AlignLeft)
                grid.addWidget(label, i, k)
        if len(self.rows) == 2:
            grid.addWidget(QLabel("Nothing else differs."), len(self.rows) + 1, 0)
        grid.setRowStretch(len(self.rows) + 2, 1)
        area = QScrollArea()
        area.setWidget(inner)
        area.setWidgetResizable(True)
        return area
