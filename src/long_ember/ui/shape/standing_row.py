"""The second row: what stands on the drawn bar, under the cards of the row; dragged along it moves."""

from __future__ import annotations

import itertools

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from long_ember.desk.session import Session
from long_ember.desk.turns import Portions
from long_ember.document import move_along, remove
from long_ember.features import Stand, Standing
from long_ember.ui.drawing.paint import text_box
from long_ember.ui.shape.cards import CARD_HEIGHT, FLAT_HEIGHT, Card, card_picture, last_line
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import theme_of

__all__ = ["StandingRow"]

_CARD, _GAP, _LABEL = 300, 6, 84
_FLAT = 4  # cards that stand side by side in two lines
_START = 8  # px before a press is a drag
_numbers = itertools.count()


class StandingRow(QWidget):
    """Cards of forms and works in the order of the bar; gone where there are none."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        self._session = session
        self._press: QPointF | None = None
        self._from: Standing | None = None
        self._gesture, self._count = "", 0
        self.setFixedHeight(FLAT_HEIGHT)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("What stands on the drawn bar, from end A to end B")
        self.setToolTip("Drag along to move it on the drawn bar. Delete removes it.")
        self._later = Portions(session.loop, session.turns, "standing")
        session.refreshed.connect(self._renew)
        for signal in (session.selected, session.hovered, session.restyled, session.touched):
            signal.connect(self.update)
        self._renew()

    def _renew(self) -> None:
        count = len(self._session.piece.standing)
        self.setVisible(count > 0)
        wanted = FLAT_HEIGHT if count <= _FLAT else CARD_HEIGHT  # narrow cards have their sizes on a line of their own
        if self.height() != wanted:
            self.setFixedHeight(wanted)
        # No key waits for the cards of a large piece.
        self._later.follow(count + len(self._session.piece.features) if self._count == count else 0, self.update)
        self._count = count

    @property
    def stands(self) -> tuple[Stand, ...]:
        """In the order of the bar; works on one stretch in the order they are done."""
        piece = self._session.piece
        if not piece.standing:
            return ()
        listed = {s.id: i for i, s in enumerate(piece.standing)}
        return tuple(sorted(piece.composition.stands, key=lambda s: (round(s.middle, 1), listed[s.standing.id])))

    def card_rect(self, index: int) -> QRectF:
        """Where a card stands, px."""
        wide = min(_CARD, (self.width() - _LABEL - _GAP) / max(len(self._session.piece.standing), 1) - _GAP)
        return QRectF(_LABEL + index * (wide + _GAP), 2, wide, self.height() - 4)

    def paintEvent(self, event: QPaintEvent) -> None:
        """What each is, its size, and where it stands."""
        painter, theme, session = QPainter(self), theme_of(self._session), self._session
        painter.fillRect(event.rect(), theme.colour("paper"))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        text_box(painter, "On the", QPointF(_LABEL / 2, 19), font(15, 500), theme, role="muted", back=False)
        text_box(painter, "drawn bar", QPointF(_LABEL / 2, 38), font(15, 500), theme, role="muted", back=False)
        warned = {z.feature.id for z, c in session.answer.checks if z is not None and c.level != "note"}
        warned.update(i for c in session.contacts for i in (c.first, c.second))
        m, stands = session.measure, self.stands
        flat, muted, face = len(stands) <= _FLAT, theme.colour("muted"), font(14, 500)
        for i, stand in enumerate(stands):
            feature, rect = stand.feature, self.card_rect(i)
            at = stand.middle if feature.stands == "work" else stand.start
            to = "" if feature.stands == "work" else f" to {m.length(stand.end)}"
            words = (feature.title, feature.summary().show(m), "")  # where it stands changes with every key: it is written over the picture
            chosen = feature.id == session.selection
            state = Card(
                feature.kind,
                words,
                feature.id in warned,
                chosen,
                feature.id == session.hover,
                chosen and self.hasFocus(),
                flat=flat,
            )
            painter.drawPixmap(rect.topLeft(), card_picture(state, theme, rect.width(), self.devicePixelRatioF()))
            painter.setFont(face)
            painter.setPen(muted)
            box = last_line(rect.width(), flat=flat).translated(rect.topLeft())
            painter.drawText(
                box, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, f"at {m.length(at, bare=bool(to))}{to} from A"
            )

    def _at(self, at: QPointF) -> int:
        return next((i for i in range(len(self.stands)) if self.card_rect(i).contains(at)), -1)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Select, and perhaps drag."""
        index = self._at(event.position())
        if index >= 0:
            stand = self.stands[index]
            self._session.select(stand.standing.id)
            self._press, self._from, self._gesture = event.position(), stand.standing, f"along {next(_numbers)}"

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """The whole row is as long as the drawn bar."""
        start = self._from
        if self._press is None or start is None or abs(event.position().x() - self._press.x()) < _START:
            return
        mm = self._session.piece.composition.drawn.length / max(self.width() - _LABEL, 1)
        by = (event.position().x() - self._press.x()) * mm
        self._move(start, round(by * 2) / 2)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """It stays where it was let go."""
        if self._press is not None:
            self._press = None
            self._session.end_gesture()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Left and right select, with Ctrl they move it by a millimetre; Delete removes."""
        ids = [s.standing.id for s in self.stands]
        session, step = self._session, {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()), 0)
        standing = session.piece.stands(session.selection)
        if step and standing is not None and event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self._gesture = ""
            self._move(standing, step)
        elif step and ids:
            at = ids.index(session.selection) + step if session.selection in ids else 0
            session.select(ids[max(0, min(at, len(ids) - 1))])
        elif event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and standing is not None:
            session.attempt(remove, standing.id)
        else:
            super().keyPressEvent(event)

    def _move(self, start: Standing, by: float) -> None:
        """So many mm toward B from where it stood when that began; it may have passed its landmark since."""
        now = self._session.piece.stands(start.id)
        if now is not None:
            at = start.at * (1 if start.along == now.along else -1) + by * (1 if now.along == "B" else -1)
            self._session.attempt(lambda piece: move_along(piece, start.id, at, gesture=self._gesture))
