"""Two states of a piece side by side: drawings laid over each other, and every figure that differs."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QDialog, QGridLayout, QHBoxLayout, QLabel, QPushButton, QScrollArea, QVBoxLayout, QWidget

from long_ember.document import Answer, answer, show_value
from long_ember.features import Piece, specs
from long_ember.geometry import silhouette
from long_ember.ui.fonts import font
from long_ember.ui.paint import View, polygon, write
from long_ember.ui.session import Session
from long_ember.units import Measure

__all__ = ["CompareDialog", "differences"]

Named = tuple[str, Piece]


def differences(one: Answer, other: Answer, m: Measure) -> list[tuple[str, str, str]]:
    """What differs between two states: a word for it, and how it is in either."""
    a, b = one.reckoning, other.reckoning
    rows: list[tuple[str, str, str]] = [
        ("Bar", one.piece.bar.label(m), other.piece.bar.label(m)),
        ("Material", one.piece.steel.title, other.piece.steel.title),
        ("Cut length", m.length(a.cut), m.length(b.cut)),
        ("Mass finished", m.mass(a.mass), m.mass(b.mass)),
        ("Heats", _heats(one), _heats(other)),
    ]
    ids = dict.fromkeys(f.id for piece in (one.piece, other.piece) for f in piece.features)
    for identity in ids:
        rows += _feature_rows(one.piece, other.piece, identity, m)
    return [row for row in rows if row[1] != row[2] or row[0] in ("Cut length", "Mass finished")]


def _heats(found: Answer) -> str:
    return f"{found.plan.count} ({found.plan.low}–{found.plan.high})"


def _feature_rows(one: Piece, other: Piece, identity: str, m: Measure) -> list[tuple[str, str, str]]:
    i, j = one.index(identity), other.index(identity)
    if i < 0 or j < 0 or one.features[i].kind != other.features[j].kind:
        named = [f"{p.features[k].title} {k + 1}" if k >= 0 else "not there" for p, k in ((one, i), (other, j))]
        return [("Feature", named[0], named[1])]
    before, after = one.features[i], other.features[j]
    rows = []
    for name, spec in specs(before).items():
        if getattr(before, name) != getattr(after, name):
            shown = ["changed" if spec.kind == "limb" else show_value(spec, getattr(f, name), m) or "as the bar" for f in (before, after)]
            rows.append(
                (f"{before.title} {j + 1}, {spec.label.lower()}", shown[0], shown[1] if shown[1] != shown[0] else f"{shown[1]} (finer)")
            )
    if i != j:
        rows.append((f"{before.title}, place", f"{i + 1} from A", f"{j + 1} from A"))
    return rows


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
        painter, theme = QPainter(self), self._session.theme
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
    """Older state on the left, newer on the right; the older one can be taken up again."""

    def __init__(self, session: Session, one: Named, other: Named, back: Callable[[], None], parent: QWidget) -> None:
        super().__init__(parent)
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.setWindowTitle(f"{one[0]} beside {other[0]}")
        self.resize(940, 700)
        column = QVBoxLayout(self)
        column.addWidget(_Overlay(session, one, other))
        found = [answer(piece, ruler=session.shop.division, bench=session.shop.bench) for _name, piece in (one, other)]
        self.rows = differences(found[0], found[1], session.measure)
        column.addWidget(self._table(one[0], other[0]), 1)
        row = QHBoxLayout()
        row.addStretch(1)
        close, again = QPushButton("Close"), QPushButton(f"Go back to {one[0]}")
        for button in (again, close):
            button.setFont(font(17, 500))
            row.addWidget(button)
        again.setEnabled(one[1] != other[1])
        again.clicked.connect(self.accept)
        self.accepted.connect(back)
        close.clicked.connect(self.reject)
        close.setDefault(True)
        self.back_button = again
        column.addLayout(row)

    def _table(self, one: str, other: str) -> QScrollArea:
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
