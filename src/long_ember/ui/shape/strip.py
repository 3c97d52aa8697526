"""The cards of the features in bar order, and the palette of shapes to add."""

from __future__ import annotations

from collections.abc import Generator
from functools import partial

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QScrollArea, QToolButton, QWidget

from long_ember.desk.session import Session
from long_ember.desk.turns import MANY, Portions
from long_ember.document import duplicate, insert, lay_on, lays_on, move
from long_ember.features import KINDS, Feature
from long_ember.ui.drawing.glyphs import paint_kind
from long_ember.ui.shape.cards import CARD_HEIGHT, Card, card_picture
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import fill_box, theme_of

__all__ = ["CardStrip", "KindButton", "add_kind"]

CARD, WIDEST, GAP = 136, 214, 8


def add_kind(session: Session, kind: str, *, before: bool = False, name: str = "") -> None:
    """Add a feature behind the selected one, or before it; what stands on drawn steel is laid on it when that is selected.

    Args:
        session: it is added to.
        kind: of the feature.
        before: the selected one.
        name: that it was asked for by.
    """
    if not before and lays_on(session.piece, session.selection, kind):
        made = session.attempt(partial(lay_on, unit=session.measure.unit, name=name), session.selection, kind)
    else:
        at = session.piece.index(session.selection)
        index = len(session.piece.features) if at < 0 else at + (0 if before else 1)
        made = session.attempt(partial(insert, unit=session.measure.unit, name=name), index, kind)
    if made:
        session.added.emit()


class KindButton(QToolButton):
    """One shape of the palette, drawn by the application's own geometry."""

    def __init__(self, session: Session, kind: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session, self.kind = session, kind
        cls = KINDS[kind]
        self.setFixedHeight(52)
        self.setMinimumWidth(56)
        self.setAccessibleName(f"Add {cls.title.lower()}")
        where = (
            "Lays it on what is drawn there, or adds it after the selected feature;"
            if cls.stands
            else "Adds it after the selected feature;"
        )
        self.setToolTip(f"{cls.title}: {', '.join(cls.also)}.\n{where} with Shift before it, with bar of its own.")
        session.restyled.connect(self.update)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Shift adds before the selected feature."""
        inside = self.rect().contains(event.position().toPoint())
        super().mouseReleaseEvent(event)
        if inside and event.button() == Qt.MouseButton.LeftButton:
            add_kind(self._session, self.kind, before=bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Space or Enter adds."""
        if event.key() in (Qt.Key.Key_Space, Qt.Key.Key_Return, Qt.Key.Key_Enter):
            add_kind(self._session, self.kind, before=bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        """The glyph over its name."""
        painter, theme = QPainter(self), theme_of(self._session)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.underMouse() or self.hasFocus():
            painter.setPen(QPen(theme.colour("accent"), 2 if self.hasFocus() else 1))
            painter.setBrush(theme.colour("panel"))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 6, 6)
        paint_kind(painter, self.kind, QRectF(8, 1, self.width() - 16, 30), theme)
        painter.setFont(font(14, 500))
        painter.setPen(theme.colour("ink"))
        painter.drawText(QRectF(0, 31, self.width(), 20), Qt.AlignmentFlag.AlignCenter, KINDS[self.kind].title)


class _Cards(QWidget):
    """All cards, painted; arrows select, Ctrl with arrows or dragging reorders, Delete removes."""

    opened = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._press: QPointF | None = None
        self._drag: int | None = None
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Features from end A to end B")
        self.setToolTip("Drag, or Ctrl with the arrow keys, to reorder. Shift selects several. Delete removes, Enter edits.")
        self._shown: list[tuple[Feature, float, bool]] = []
        self._measure = session.measure
        self._later = Portions(session.loop, session.turns, "cards")
        session.refreshed.connect(self._answered)
        session.touched.connect(self._renew)
        for signal in (session.selected, session.hovered, session.restyled):
            signal.connect(self.update)
        self._renew()

    def _answered(self) -> None:
        """No key waits for many cards."""
        same = len(self._session.answer.reckoning.zones) == len(self._shown)
        if same and len(self._shown) > MANY:
            self._later.start(self._checking(), lambda _none: self._renew())
        else:
            self._later.leave()
            self._renew()

    def _checking(self) -> Generator[None, None, None]:
        yield
        yield from self._session.answer.reckoning.checking()

    def _renew(self) -> None:
        """Repaint the cards that show something else than before: typing changes one of them."""
        session, before = self._session, self._shown
        warned = {z.feature.id for z, c in session.answer.checks if z is not None and c.level != "note"}
        warned.update(i for c in session.contacts for i in (c.first, c.second))
        self._shown = [(z.feature, z.length, z.feature.id in warned) for z in session.answer.reckoning.zones]
        if len(before) != len(self._shown) or session.measure != self._measure:
            self._measure = session.measure
            self._resize()
            return
        if not self.isVisible():  # all of it is painted when it comes into sight
            return
        for i, (old, new) in enumerate(zip(before, self._shown, strict=True)):
            if old != new:
                self.update(self.card_rect(i).toAlignedRect())

    def _resize(self) -> None:
        width = max(1, len(self._session.piece.features)) * (CARD + GAP) + GAP
        if width != self.minimumWidth():
            self.setMinimumSize(width, CARD_HEIGHT)
            self.resize(max(width, self.width()), CARD_HEIGHT)
        self.update()

    @property
    def pitch(self) -> float:
        """From one card to the next, px; cards widen where few share the row."""
        count = max(1, len(self._session.piece.features))
        return min(max((self.width() - GAP) / count, CARD + GAP), WIDEST + GAP)

    def card_rect(self, index: int) -> QRectF:
        """Where a card stands, px."""
        return QRectF(GAP + index * self.pitch, 2, self.pitch - GAP, CARD_HEIGHT - 4)

    def _index_at(self, x: float) -> int:
        return int(min(max((x - GAP / 2) // self.pitch, 0), len(self._session.piece.features) - 1))

    def _on_card(self, at: QPointF) -> str:
        features = self._session.piece.features
        if not features:
            return ""
        index = self._index_at(at.x())
        return features[index].id if self.card_rect(index).contains(at) else ""

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Select, and perhaps begin a drag."""
        found = self._on_card(event.position())
        if found:
            if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
                self._session.select_to(found)
                return
            self._press = event.position()
            self._session.select(found)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Hover, or show where a dragged card would land."""
        if self._press is None:
            self._session.set_hover(self._on_card(event.position()))
        elif (event.position() - self._press).manhattanLength() > 10 or self._drag is not None:
            self._drag = self._index_at(event.position().x())
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Land a dragged card."""
        target, self._drag, self._press = self._drag, None, None
        if target is not None and target != self._session.piece.index(self._session.selection):
            self._session.attempt(move, self._session.selection, target)
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """Edit."""
        self.opened.emit()

    def leaveEvent(self, event: object) -> None:
        """Nothing is pointed at any more."""
        self._session.set_hover("")

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Select, reorder, remove, edit."""
        session, key = self._session, event.key()
        at = session.piece.index(session.selection)
        if at < 0:
            super().keyPressEvent(event)
        elif key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            to = at + (1 if key == Qt.Key.Key_Right else -1)
            if 0 <= to < len(session.piece.features):
                if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
                    session.attempt(move, session.selection, to)
                elif event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
                    self._stretch(1 if key == Qt.Key.Key_Right else -1)
                else:
                    session.select(session.piece.features[to].id)
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            session.take_out()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.opened.emit()
        elif key == Qt.Key.Key_Escape and self._drag is not None:
            self._drag = self._press = None
            self.update()
        else:
            super().keyPressEvent(event)

    def _stretch(self, by: int) -> None:
        """Select one more, or one less, on a side."""
        session = self._session
        here = session.piece.index(session.selection)
        chosen = [session.piece.index(i) for i in session.chosen]
        edge = max(chosen) if min(chosen) == here else min(chosen)
        to = min(max(edge + by, 0), len(session.piece.features) - 1)
        session.select_to(session.piece.features[to].id)

    def paintEvent(self, event: QPaintEvent) -> None:
        """Only the cards in sight."""
        painter = QPainter(self)
        fill_box(painter, event.rect(), theme_of(self._session).colour("paper"))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        pitch = self.pitch
        first, last = int((event.rect().left() - GAP) // pitch), int(event.rect().right() // pitch) + 1
        for i in range(max(0, first), min(last, len(self._shown))):
            self._paint_card(painter, self.card_rect(i), *self._shown[i])
        if self._drag is not None:
            here = self._session.piece.index(self._session.selection)
            rect = self.card_rect(self._drag)
            x = rect.right() + GAP / 2 if self._drag > here else rect.left() - GAP / 2
            painter.setPen(QPen(theme_of(self._session).colour("accent"), 4))
            painter.drawLine(QPointF(x, 2), QPointF(x, CARD_HEIGHT - 2))

    def _paint_card(self, painter: QPainter, rect: QRectF, feature: Feature, stock: float, warned: bool) -> None:
        session = self._session
        chosen = feature.id in session.chosen
        words = (feature.title, feature.summary().show(session.measure), session.measure.length(stock) + " of bar")
        state = Card(feature.kind, words, warned, chosen, feature.id == session.hover, feature.id == session.selection and self.hasFocus())
        painter.drawPixmap(rect.topLeft(), card_picture(state, theme_of(session), rect.width(), self.devicePixelRatioF()))


class CardStrip(QScrollArea):
    """The cards in a row that scrolls sideways and follows the selection."""

    def __init__(self, session: Session, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._session = session
        self.cards = _Cards(session)
        self.opened = self.cards.opened
        self.setWidget(self.cards)
        self.setWidgetResizable(True)
        self.setFixedHeight(CARD_HEIGHT + 10)
        self.setFocusProxy(self.cards)
        self.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        session.selected.connect(self._follow)

    def sizeHint(self) -> QSize:
        """One row."""
        return QSize(900, CARD_HEIGHT + 12)

    def _follow(self) -> None:
        at = self._session.piece.index(self._session.selection)
        if at >= 0:
            middle = self.cards.card_rect(at).center().toPoint()
            self.ensureVisible(middle.x(), middle.y(), CARD, 0)

    def duplicate_selected(self) -> None:
        """Put a copy behind the selected feature."""
        if self._session.selection:
            self._session.attempt(duplicate, self._session.selection)
