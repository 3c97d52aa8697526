"""Shape: drawing, palette, cards, and the selected feature."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QObject, QSize, Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QScrollArea, QSizePolicy, QToolButton, QVBoxLayout, QWidget

from long_ember.desk.session import Session
from long_ember.features import KINDS
from long_ember.ui.shape.canvas import BarCanvas
from long_ember.ui.shape.inspector import Inspector
from long_ember.ui.shape.standing_row import StandingRow
from long_ember.ui.shape.strip import CardStrip, KindButton
from long_ember.ui.style.fonts import font

__all__ = ["ShapeView", "limb_view"]

_USUAL = ("run", "taper", "section-change", "upset", "bend", "hook", "scroll", "eye", "twist", "hole", "spread", "split")
_LOW = 470  # px of height under which the row of shapes gives way
_DRAWN, _ROW = 132, 84  # px: the drawing at least, and the sizes of a feature


class _Room(QScrollArea):
    """Sizes and sum of the chosen feature, as high as they are where there is room, else scrolled."""

    def __init__(self, inside: QWidget) -> None:
        super().__init__()
        self._inside = inside
        self.setWidget(inside)
        self.setWidgetResizable(True)
        self.setFrameShape(QScrollArea.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Maximum)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """What is inside, which the area watches by itself, became higher or lower."""
        if event.type() == QEvent.Type.LayoutRequest:
            self.updateGeometry()
        return bool(super().eventFilter(watched, event))

    def sizeHint(self) -> QSize:
        """As high as what is inside."""
        return QSize(600, max(self._inside.sizeHint().height(), self._inside.minimumSizeHint().height(), self._inside.minimumHeight()))

    def minimumSizeHint(self) -> QSize:
        """A row of entries."""
        return QSize(self._inside.minimumSizeHint().width(), min(_ROW, self.sizeHint().height()))


class ShapeView(QWidget):
    """The planning screen.

    Args:
        session: whose piece it shows.
        limb: it is a limb, in a dialog.
    """

    def __init__(self, session: Session, *, limb: bool = False) -> None:
        super().__init__()
        self.canvas = BarCanvas(session)
        self.strip = CardStrip(session)
        self.standing = StandingRow(session, self)
        self.inspector = Inspector(session, limb_view)
        self.strip.opened.connect(self.inspector.focus_first)
        session.added.connect(self._ask_sizes)
        palette = QHBoxLayout()
        palette.setContentsMargins(8, 0, 8, 0)
        palette.setSpacing(2)
        self.palette_buttons = {kind: KindButton(session, kind) for kind in _USUAL}
        for button in self.palette_buttons.values():
            palette.addWidget(button, 1)
        self.all_shapes = QToolButton()
        self.all_shapes.setText(f"All {len(KINDS)} shapes")
        self.all_shapes.setFont(font(15, 500))
        self.all_shapes.setFixedHeight(44)
        self.all_shapes.setToolTip("Every shape, with pictures, found by any of its names (Ctrl+K)")
        if limb:
            self.all_shapes.hide()  # they stand in a screen of their own, which only the window has
        palette.addWidget(self.all_shapes)
        self.canvas.setMinimumHeight(_DRAWN)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addWidget(self.canvas, 1)
        column.addLayout(palette)
        column.addWidget(self.strip)
        column.addWidget(self.standing)
        self._room = _Room(self.inspector)
        column.addWidget(self._room)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """On a low screen the drawing keeps its room: the row of shapes gives way, they stand behind their button."""
        low = self.height() < _LOW
        if low == next(iter(self.palette_buttons.values())).isHidden():
            return
        for button in self.palette_buttons.values():
            button.setHidden(low)

    def _ask_sizes(self) -> None:
        """What was added is typed into next."""
        if self.isVisible():
            self.inspector.focus_first()

    def renew_glyphs(self) -> None:
        """Draw the small pictures anew."""
        for button in self.palette_buttons.values():
            button.update()
        self.strip.cards.update()
        self.standing.update()


def limb_view(session: Session) -> ShapeView:
    """The planning screen for a limb."""
    return ShapeView(session, limb=True)
