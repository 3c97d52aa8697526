"""The answer: cut length, large, with its band; what else follows beside it; the sum on demand."""

from __future__ import annotations

from collections.abc import Callable, Generator
from dataclasses import replace

from PySide6.QtCore import QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QApplication, QFrame, QLabel, QPushButton, QVBoxLayout, QWidget

from long_ember.desk.session import Session
from long_ember.desk.turns import Portions
from long_ember.document import FieldAddress, set_part
from long_ember.features import Piece
from long_ember.fields import specs
from long_ember.geometry import sizing
from long_ember.heats import ForgingPlan
from long_ember.ui.drawing.paint import line_height, text_width, write
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import fill_box, theme_of
from long_ember.ui.widgets.field_grid import FieldGrid
from long_ember.units import say

__all__ = ["AnswerBar", "SumSheet", "choose_sawn"]

_REST = 150  # ms without a key before the finished piece is measured


class AnswerBar(QWidget):
    """Painted figures; a press, Space or Enter opens the sum."""

    pressed = Signal()
    taught_asked = Signal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.saw = self._button(lambda: choose_sawn(session, whole_shop=_shift()))
        self.taught = self._button(self.taught_asked.emit)
        self.setFixedHeight(62)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setToolTip("Press to see the sum and the allowances")
        self._rest = QTimer(self, singleShot=True, interval=_REST)
        self._rest.timeout.connect(self._measure)
        self._sizing = Portions(session.loop, session.turns, "size")
        self._sized: tuple[Piece, tuple[float, float, float]] | None = None
        self._dressed: object = None
        self._timed: tuple[ForgingPlan, tuple[float, float, float]] | None = None
        session.refreshed.connect(self._refresh)
        session.restyled.connect(self.update)
        self._refresh()

    def sizeHint(self) -> QSize:
        """As wide as there is room."""
        return QSize(900, 62)

    def _button(self, run: Callable[[], object]) -> QPushButton:
        button = QPushButton(self)
        button.setFont(font(14, 500))
        button.setProperty("small", True)
        button.setFixedHeight(27)
        button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        button.setCursor(Qt.CursorShape.PointingHandCursor)
        button.clicked.connect(lambda _checked=False: run())
        return button

    def _dress_buttons(self) -> None:
        """What they do now; they stand aside where the figures need the room."""
        session = self._session
        safe = session.answer.reckoning.sawing.choice == "safe"
        state = (safe, session.forge.belief.entries, bool(session.piece.features), round(self._wide), self.width())
        if state == self._dressed:
            return
        self._dressed = state
        self.saw.setText("Saw the likely" if safe else "Saw the safe")
        self.saw.setToolTip("For this piece; with Shift for the shop. Marks, sheets, cut list and prices follow")
        entries = session.forge.belief.entries
        self.taught.setText(f"\u25c6 taught by {entries}" if entries else "\u25c7 nothing logged")
        self.taught.setAccessibleName(f"What the log has taught: {self._by_log()}")
        self.taught.setToolTip("What the log has taught: every figure in doubt, the usual and yours")
        wide = max(self.saw.sizeHint().width(), self.taught.sizeHint().width(), 118)
        fits = bool(session.piece.features) and self._wide + wide + 24 <= self.width()
        for i, button in enumerate((self.saw, self.taught)):
            button.setVisible(fits)
            button.setGeometry(self.width() - wide - 14, 2 + i * 30, wide, 27)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """The buttons keep to the right."""
        self._dress_buttons()

    def figures(self) -> list[tuple[str, str, str]]:
        """Heading, figure and what to know about it, left to right."""
        s = self._session
        m, r, plan, cuts = s.measure, s.answer.reckoning, s.answer.plan, s.answer.cuts
        if not s.piece.features:
            return [("Saw", "nothing yet", "Add a feature first; its length stands here.")]
        rows = [
            ("As typed, saw" if s.document.trying else "Saw", m.length(r.cut), r.choice_line().show(m)),
            ("Finished", m.mass(r.mass), f"from {m.mass(r.stock_mass)} of bar; {self._over_all()} over all"),
            ("Heats", str(plan.count), f"9 of 10 pieces: {plan.low} to {plan.high}; {self._minutes()}"),
        ]
        if cuts is None:
            return [*rows, ("Bars", "none", s.answer.cut_problem)]
        pieces = f"{cuts.quantity} piece" + ("s" if cuts.quantity != 1 else "")
        return [*rows, ("Bars", str(len(cuts.bars)), f"of {m.length(cuts.bar_length)}; for {pieces}")]

    def _minutes(self) -> str:
        """Minutes with their band; they wait for a pause like the size over all."""
        if self._timed is None or self._timed[0] is not self._session.answer.plan:
            return "… min"
        low, likely, high = (max(1, round(x)) for x in self._timed[1])
        return f"{likely} min, {low} to {high}"

    def _by_log(self) -> str:
        """How much stands behind the numbers."""
        entries = self._session.forge.belief.entries
        return f"taught by {entries} {'piece' if entries == 1 else 'pieces'}" if entries else "nothing logged yet"

    def _over_all(self) -> str:
        """Size of the finished piece as drawn, largest first; three dots while it waits for a pause in the typing."""
        session = self._session
        if not session.piece.features:
            return "nothing"
        if self._sized is None or self._sized[0] is not session.piece:
            return "…"
        sizes = sorted(self._sized[1], reverse=True)
        return " × ".join([*(session.measure.length(x, bare=True) for x in sizes[:2]), session.measure.length(sizes[2])])

    def _measure(self) -> None:
        """How large it is and how long it takes: when the keys rest, a portion at a time."""
        if self.isVisible() and self._session.piece.features:
            self._sizing.start(self._in_parts())
        else:
            self._sizing.leave()

    def _in_parts(self) -> Generator[None, None, None]:
        plan, piece = self._session.answer.plan, self._session.piece
        size = yield from sizing(piece)
        yield
        _ = plan.times
        yield
        self._timed, self._sized = (plan, plan.minutes), (piece, size)
        yield
        self._refresh()

    def _refresh(self) -> None:
        plan = self._session.answer.plan
        if self._sized is None or self._sized[0] is not self._session.piece or self._timed is None or self._timed[0] is not plan:
            self._sizing.leave()
            self._rest.start(_REST)
        self._figures = self.figures()
        self._wide = self._span()
        self._dress_buttons()
        self.setAccessibleName("; ".join(" ".join(f) for f in self._figures))
        self.update()

    def _span(self) -> float:
        """px that all figures take."""
        wide = 16.0
        for i, (heading, figure, note) in enumerate(self._figures):
            wide += self._column_width(heading, figure, note, 44 if i == 0 else 28) + 34
        return wide

    def showEvent(self, event: object) -> None:
        """Measure what changed out of sight."""
        self._refresh()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Open or close the sum."""
        self.pressed.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Open or close the sum."""
        if event.key() in (Qt.Key.Key_Space, Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.pressed.emit()
        else:
            super().keyPressEvent(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        """The cut length largest, the rest in falling weight."""
        painter, theme = QPainter(self), theme_of(self._session)
        fill_box(painter, self.rect(), theme.colour("paper"))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        x = 16.0
        for i, (heading, figure, note) in enumerate(self._figures):
            wide = self._column_width(heading, figure, note, 44 if i == 0 else 28)
            if i and x + wide > self.width():  # on a narrow screen the last ones stand on their own screens only
                break
            self._column(painter, x, heading, figure, note, 44 if i == 0 else 28)
            x += wide + 34
        if self.hasFocus():
            painter.setPen(QPen(theme.colour("accent"), 2))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(2, 2, -2, -2), 6, 6)

    @staticmethod
    def _column_width(heading: str, figure: str, note: str, size: int) -> float:
        """px of one figure with what stands beside it."""
        small = font(14, 500)
        return text_width(figure, font(size, 600)) + 12 + max(text_width(t, small) for t in (heading, *_wrapped(note)))

    def _column(self, painter: QPainter, x: float, heading: str, figure: str, note: str, size: int) -> None:
        theme, big, small = theme_of(self._session), font(size, 600), font(14, 500)
        wide = text_width(figure, big)
        write(painter, figure, x, 31 - line_height(big) / 2, big, theme.colour("ink"))
        side = x + wide + 12
        lines = [heading, *_wrapped(note)]
        top = 31 - len(lines) * 19 / 2
        for i, line in enumerate(lines):
            write(painter, line, side, top + i * 19 + (19 - line_height(small)) / 2, small, theme.colour("muted" if i else "ink"))


def choose_sawn(session: Session, *, whole_shop: bool = False) -> None:
    """Saw the other length from now on: of this piece, or of the whole shop.

    Args:
        session: with the piece.
        whole_shop: for every piece that has no choice of its own.
    """
    other = "likely" if session.answer.reckoning.sawing.choice == "safe" else "safe"
    if whole_shop:
        session.set_shop(replace(session.shop, saw=other))
    else:
        session.attempt(set_part, "allowances", "saw", "shop" if other == session.shop.saw else other)


def _shift() -> bool:
    return bool(QApplication.keyboardModifiers() & Qt.KeyboardModifier.ShiftModifier)


def _wrapped(note: str) -> list[str]:
    """Break a note at its natural joint."""
    return note.split("; ") if "; " in note else [note]


class SumSheet(QFrame):
    """The sum of the cut length with the allowances that can be changed in it."""

    def __init__(self, session: Session, parent: QWidget) -> None:
        super().__init__(parent)
        self._session = session
        self.setObjectName("sum")
        self._lines = QLabel()
        self._lines.setFont(font(16))
        self._lines.setTextInteractionFlags(Qt.TextInteractionFlag.TextSelectableByMouse)
        names = [FieldAddress("allowances", n, part=True) for n in specs(session.piece.allowances)]
        self.grid = FieldGrid(session, [*names, FieldAddress("", "school")], columns=4)
        column = QVBoxLayout(self)
        column.setContentsMargins(18, 14, 18, 14)
        column.setSpacing(12)
        column.addWidget(self._lines)
        column.addWidget(self.grid)
        session.refreshed.connect(self.refresh)
        session.restyled.connect(self._style)
        self._style()
        self.hide()

    def toggle(self, at: QRectF) -> None:
        """Open below the answer, or close."""
        if self.isVisible():
            self.hide()
            return
        self.show()
        self.refresh()
        self.adjustSize()
        self.move(int(at.left()) + 12, int(at.bottom()))
        self.raise_()
        self.grid.fields[0].setFocus()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Escape closes."""
        if event.key() == Qt.Key.Key_Escape:
            self.hide()
        else:
            super().keyPressEvent(event)

    def refresh(self) -> None:
        """The sum with its numbers; nothing to do while closed."""
        if self.isVisible():
            answer = self._session.answer
            lines = [
                *answer.reckoning.sum_lines(),
                say("Finished, over all, as drawn from the side: {} along, {} up, {} across", *answer.over_all),
            ]
            self._lines.setText("\n".join(line.show(self._session.measure) for line in lines))
            self.adjustSize()

    def _style(self) -> None:
        t = theme_of(self._session)
        box = f"#sum {{ background: {t.panel}; border: 1px solid {t.accent}; border-radius: 8px; }}"
        self.setStyleSheet(f"QWidget {{ background: {t.panel}; }} {box}")
