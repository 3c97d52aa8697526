"""Tables: threads, drills, gauges, colours, masses, bends, and the stations of a taper, large enough to read from the bench."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QPushButton, QScrollArea, QTextBrowser, QVBoxLayout, QWidget

from long_ember.desk.session import Session
from long_ember.errors import EmberError
from long_ember.features.taper import Taper
from long_ember.fullsize import taper_blends
from long_ember.plain import marked_up
from long_ember.sections import Blend
from long_ember.tables import WALL_TABLES, Table, table_of, tables_with
from long_ember.tables.lists import Setting
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import theme_of
from long_ember.ui.widgets.buttons import worded
from long_ember.units import parse_length, parse_number

__all__ = ["TablesView"]


class TablesView(QWidget):
    """A list of tables, and the one that is looked at.

    Signals:
        closed: back to the piece.
        print_asked: papers are wanted, by their key.
    """

    closed = Signal()
    print_asked = Signal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session, self.key = session, WALL_TABLES[0].key
        self.line = QLineEdit()
        self.line.setPlaceholderText("Find a table: drill, M8, straw, gauge…")
        self.line.setFont(font(17))
        self.line.setAccessibleName("Find a table")
        self.line.textChanged.connect(self._filter)
        self.buttons: dict[str, QPushButton] = {}
        side = QVBoxLayout()
        side.addWidget(self.line)
        for table in WALL_TABLES:
            button = self.buttons[table.key] = QPushButton(table.title)
            button.setFont(font(16, 500))
            button.setProperty("place", "page")
            button.setCheckable(True)
            button.setMinimumHeight(40)
            button.setAutoDefault(False)
            button.clicked.connect(partial(self.show_table, table.key))
            side.addWidget(button)
        side.addStretch(1)
        foot = QHBoxLayout()
        foot.addWidget(worded("Print…", lambda: self.print_asked.emit("tables"), "These tables on paper"))
        foot.addWidget(worded("Back", self.closed.emit, "Escape"))
        side.addLayout(foot)
        self.taper_row = QWidget()
        row = QHBoxLayout(self.taper_row)
        row.setContentsMargins(0, 0, 0, 0)
        self.entries: dict[str, QLineEdit] = {}
        for key, words in (("thin", "From"), ("thick", "to"), ("length", "over"), ("stations", "stations between")):
            label = QLabel(words)
            label.setFont(font(16))
            entry = self.entries[key] = QLineEdit()
            entry.setFont(font(17))
            entry.setFixedWidth(70 if key == "stations" else 110)
            entry.setAccessibleName(
                {"thin": "Thin end", "thick": "Thick end", "length": "Length of the taper", "stations": "Stations between its ends"}[key]
            )
            entry.textEdited.connect(self.renew)
            row.addWidget(label)
            row.addWidget(entry)
        row.addStretch(1)
        self.text = QTextBrowser()
        self.text.setFont(font(18))
        self.text.document().setDocumentMargin(16)
        self.text.setAccessibleName("Table")
        self.text.setOpenLinks(False)
        body = QVBoxLayout()
        body.addWidget(self.taper_row)
        body.addWidget(self.text, 1)
        area, holder = QScrollArea(), QWidget()
        holder.setLayout(side)
        area.setWidget(holder)
        area.setWidgetResizable(True)
        area.setFixedWidth(330)
        whole = QHBoxLayout(self)
        whole.setContentsMargins(16, 8, 16, 8)
        whole.addWidget(area)
        whole.addLayout(body, 1)
        for signal in (session.refreshed, session.selected, session.restyled):
            signal.connect(self._moved)
        self._fill_taper()
        self.show_table(self.key)

    def open(self, key: str = "") -> None:
        """Look at one of them, or at the one before."""
        self._fill_taper()
        self.show_table(key or self.key)
        self.line.setFocus()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Escape goes back to the piece."""
        if event.key() == Qt.Key.Key_Escape:
            self.closed.emit()
        else:
            super().keyPressEvent(event)

    def show_table(self, key: str, _checked: bool = False) -> None:
        """One of them."""
        self.key = key
        for other, button in self.buttons.items():
            button.setChecked(other == key)
        self.renew()
        self.text.verticalScrollBar().setValue(0)

    def _moved(self) -> None:
        """Another piece, unit or theme."""
        if self.isVisible():
            self._fill_taper()
            self.renew()

    def _filter(self, words: str) -> None:
        found = tables_with(words) or WALL_TABLES
        for key, button in self.buttons.items():
            button.setVisible(any(t.key == key for t in found))
        if self.key not in {t.key for t in found}:
            self.show_table(found[0].key)

    def _fill_taper(self) -> None:
        """The taper that is chosen, or the piece's first; a plain one of the bar where it has none."""
        session = self._session
        chosen = [f for f in session.piece.features if isinstance(f, Taper)]
        found = next((f for f in chosen if f.id == session.selection), chosen[0] if chosen else None)
        m, bar = session.measure, session.piece.bar
        thin, thick, length = (
            (Blend(bar.thickness / 4, bar.thickness / 4, 1.0), bar.blend, 90.0)
            if found is None
            else (*taper_blends(session.piece, found), found.length)
        )
        self._blends = (thin, thick)
        for key, text in (
            ("thin", m.edit_text(thin.t)),
            ("thick", m.edit_text(thick.t)),
            ("length", m.edit_text(length)),
            ("stations", "4"),
        ):
            if not self.entries[key].hasFocus():
                self.entries[key].setText(text)

    @property
    def setting(self) -> Setting:
        """What the tables are made for.

        Raises:
            EmberError: an entry can't be read.
        """
        session, m = self._session, self._session.measure
        values = {key: parse_length(self.entries[key].text(), unit=m.unit) for key in ("thin", "thick", "length")}
        thin, thick = (_scaled(blend, values[key]) for blend, key in zip(self._blends, ("thin", "thick"), strict=True))
        stations = min(max(round(parse_number(self.entries["stations"].text())), 0), 40)
        return Setting(m, session.piece.material, session.piece.rule, (thin, thick, values["length"]), stations)

    def renew(self) -> None:
        """The table anew."""
        table = table_of(self.key)
        self.taper_row.setVisible(table.key == "taper")
        try:
            rows = table.rows(self.setting)
        except EmberError as error:
            self.text.setHtml(f"<p>{marked_up(str(error))}</p>")
            return
        self.text.setHtml(self._html(table, rows))

    def _html(self, table: Table, rows: list[list[str]]) -> str:
        theme = theme_of(self._session)
        aligned = {-1: "left", 1: "right"}
        head = "".join(
            f"<th align='{aligned[a]}' style='color:{theme.muted};font-weight:500'>{marked_up(h)}</th>" for h, _s, a in table.columns
        )
        body = []
        for i, row in enumerate(rows):
            cells = "".join(
                f"<td align='{aligned[a]}'>{marked_up(cell)}</td>" for cell, (_h, _s, a) in zip(row, table.columns, strict=True)
            )
            swatch = f"<td bgcolor='{table.colours[i]}' width='90'>&nbsp;</td>" if table.colours else ""
            shade = f" bgcolor='{theme.panel}'" if i % 2 else ""
            body.append(f"<tr{shade}>{swatch}{cells}</tr>")
        first = "<th></th>" if table.colours else ""
        return (
            f"<p style='font-size:24px;font-weight:600;margin:0'>{marked_up(table.title)}</p><p style='color:{theme.muted};font-size:16px'>{marked_up(table.note)}</p>"
            f"<table cellpadding='7' cellspacing='0' width='97%'><tr>{first}{head}</tr>{''.join(body)}</table>"
        )


def _scaled(blend: Blend, thickness: float) -> Blend:
    """Another size of a section that keeps its proportions."""
    share = thickness / blend.t if blend.t else 1.0
    return Blend(blend.w * share, blend.t * share, blend.k, blend.form, blend.bore * share)
