"""Shape: drawing, palette, cards, and the selected feature."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QToolButton, QVBoxLayout, QWidget

from long_ember.desk.session import Session
from long_ember.features import KINDS
from long_ember.ui.shape.canvas import BarCanvas
from long_ember.ui.shape.inspector import Inspector
from long_ember.ui.shape.standing_row import StandingRow
from long_ember.ui.shape.strip import CardStrip, KindButton
from long_ember.ui.style.fonts import font

__all__ = ["ShapeView", "limb_view"]

_USUAL = ("run", "taper", "section-change", "upset", "bend", "hook", "scroll", "eye", "twist", "hole", "spread", "split")


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
        self.standing = StandingRow(session)
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
        self.all_shapes.setHidden(limb)  # they stand in a screen of their own, which only the window has
        palette.addWidget(self.all_shapes)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addWidget(self.canvas, 1)
        column.addLayout(palette)
        column.addWidget(self.strip)
        column.addWidget(self.standing)
        column.addWidget(self.inspector)

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
