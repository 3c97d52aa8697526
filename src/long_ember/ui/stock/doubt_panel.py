"""The cut length in doubt: bare, likely and safe on one line, and which doubt costs most."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QBrush, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QVBoxLayout, QWidget

from long_ember.desk.session import Session
from long_ember.errors import EmberError
from long_ember.fields import specs
from long_ember.records import Shop
from long_ember.stock import Reckoning, doubt_shares, odds, round_up
from long_ember.ui.drawing.paint import text_width, write
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import theme_of

__all__ = ["DoubtPanel"]

_FIELDS = ("confidence", "margin")


class _Picture(QWidget):
    """Lengths on a line that begins shortly before the bare one, then the shares of the doubt."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.reckoning: Reckoning | None = None
        self.setMinimumHeight(166)
        session.restyled.connect(self.update)

    def sizeHint(self) -> QSize:
        """Wide."""
        return QSize(640, 200)

    def paintEvent(self, event: QPaintEvent) -> None:
        """The line, then one bar for each doubt."""
        painter, theme = QPainter(self), theme_of(self._session)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), theme.colour("paper"))
        if self.reckoning is None:
            return
        self._paint_line(painter, self.reckoning)
        self._paint_shares(painter, self.reckoning)

    def _paint_line(self, painter: QPainter, r: Reckoning) -> None:
        theme, m = theme_of(self._session), self._session.measure
        safe = round_up(r.safe, r.ruler)
        low = r.bare - max(0.35 * (safe - r.bare), 2.0)
        scale = (self.width() - 40.0) / max(safe - low, 1e-6)

        def x(mm: float) -> float:
            return 10 + (mm - low) * scale

        top = 44.0
        for start, end, role, style in (
            (low, r.bare, "steel", Qt.BrushStyle.SolidPattern),
            (r.bare, r.likely, "steel_alt", Qt.BrushStyle.SolidPattern),
            (r.likely, safe, "accent", Qt.BrushStyle.BDiagPattern),
        ):
            painter.setPen(QPen(theme.colour("edge"), 1.0))
            painter.setBrush(QBrush(theme.colour(role), style))
            painter.drawRect(QRectF(x(start), top, max((end - start) * scale, 1.0), 26))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        parts = (("scale", r.scale / r.area), ("trim", 2 * r.trim), ("parting", r.parting))
        added = "".join(f" + {name} {m.decimal(mm)}" for name, mm in parts if mm > 1e-6).replace(" +", " = features +", 1)
        at = -1e9
        for words, mm, above in (
            ("features", r.bare, True),
            ("likely", r.likely, False),
            (f"safe, {odds(r.sawing.confidence)}", safe, True),
        ):
            text = f"{words} {m.length(mm)}{added if words == 'likely' else ''}"
            face = font(16, 600 if words.split(",")[0] == r.sawing.choice else 500)
            wide = text_width(text, face)
            left = min(max(x(mm) - wide / 2, 6.0), self.width() - wide - 12)
            y = top - 28 if above else top + 32
            if above and left < at:
                left = at
            at = left + wide + 14 if above else at
            painter.setPen(QPen(theme.colour("ink"), 1.4))
            painter.drawLine(QPointF(x(mm), top - 6), QPointF(x(mm), top + 32))
            write(painter, text, left, y, face, theme.colour("ink"))

    def _paint_shares(self, painter: QPainter, reckoning: Reckoning) -> None:
        theme, m = theme_of(self._session), self._session.measure
        y = 104.0
        for doubt, share in doubt_shares(reckoning)[:3]:
            write(painter, doubt.name, 10, y - 2, font(15), theme.colour("ink"))
            room = self.width() - 470
            painter.fillRect(QRectF(230, y + 3, max(room * share, 1.0), 12), theme.colour("accent"))
            low, high = (m.decimal(abs(d - doubt.likely)) for d in (doubt.low, doubt.high))
            write(painter, f"{share:.0%}, −{low} to +{high} {m.unit}", 240 + room * share, y - 2, font(15, 500), theme.colour("ink"))
            y += 22


class DoubtPanel(QWidget):
    """Figures of the safe cut length, the shop's confidence and margin beside them."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.title = QLabel("Cut length in doubt")
        self.title.setFont(font(18, 600))
        self.told = QLabel()
        self.told.setFont(font(16))
        self.told.setWordWrap(True)
        self.told.setMinimumHeight(40)
        self.picture = _Picture(session)
        row = QHBoxLayout()
        self.fields: dict[str, QLineEdit] = {}
        for name in _FIELDS:
            spec = specs(Shop)[name]
            label, field = QLabel(spec.label), QLineEdit()
            label.setFont(font(15))
            label.setProperty("role", "muted")
            label.setBuddy(field)
            field.setFont(font(16, 500))
            field.setToolTip(spec.tip)
            field.setAccessibleName(spec.label)
            field.setMaximumWidth(110)
            field.textEdited.connect(lambda text, name=name: self._typed(name, text))
            field.editingFinished.connect(self.refresh)
            self.fields[name] = field
            row.addWidget(label)
            row.addWidget(field)
        row.addStretch(1)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        for widget in (self.title, self.told, self.picture):
            column.addWidget(widget)
        column.addLayout(row)
        column.addStretch(1)

    def refresh(self) -> None:
        """Show what the piece as it is leaves in doubt."""
        session, m = self._session, self._session.measure
        r = session.answer.reckoning
        for name, field in self.fields.items():
            if not field.hasFocus():
                field.setText(specs(Shop)[name].show(getattr(session.shop, name), m))
        self.picture.reckoning = r if session.piece.features else None
        self.picture.update()
        if not session.piece.features:
            self.told.setText("")
            return
        safe, likely = (round_up(x, r.ruler) for x in (r.safe, r.likely))
        words = f"Sawn at {m.length(safe)}, {odds(1 - r.short(safe))} are long enough; at {m.length(likely)}, {odds(r.short(likely))} come out short."
        shares = doubt_shares(r)
        if shares:
            words += f" Most doubt comes from one thing: {shares[0][0].name.lower()} ({shares[0][1]:.0%})."
        self.told.setText(words)

    def _typed(self, name: str, text: str) -> None:
        session = self._session
        try:
            value = specs(Shop)[name].read(text, session.measure, session.piece.bar.thickness)
            if name == "confidence" and not 0.5 <= value <= 0.999:
                raise EmberError("Long enough in must be between 50 % and 99.9 %")
            session.set_shop(replace(session.shop, **{name: value}))
            session.said.emit("", False)
        except EmberError as error:
            session.said.emit(f"{error}. The old value stays.", True)
