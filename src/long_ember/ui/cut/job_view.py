"""Jobs on the Cut screen: bars, what to buy, the price; on paper and for other programs."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtWidgets import QHBoxLayout, QLabel, QMenu, QScrollArea, QStackedWidget, QToolButton, QVBoxLayout, QWidget

from long_ember.desk.job_desk import JobDesk
from long_ember.errors import EmberError
from long_ember.export import cuts_csv, job_json, quote_csv, shopping_csv
from long_ember.storage import write_atomic
from long_ember.ui.cut.job_bars import JobBars
from long_ember.ui.cut.job_pages import BuyPage, PricePage
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import styled_as
from long_ember.ui.widgets.buttons import worded
from long_ember.ui.widgets.dialogs import explain, save_name
from long_ember.units import many

__all__ = ["JobView"]

_PAPERS = (("cut", "Print the cut list"), ("labels", "Print labels"), ("shopping", "Print what to buy"), ("quote", "Print the quote"),
           ("card", "Print customers' cards"), ("templates", "Print blanks at full size"))  # fmt: skip
_PAGES = (("bars", "Bars"), ("buy", "To buy"), ("price", "Price"))
# key: what it is, its file's name, what makes it.
_TABLES = {
    "cuts": ("Cut list as CSV", "cut-list.csv", cuts_csv),
    "shopping": ("Shopping list as CSV", "to-buy.csv", shopping_csv),
    "quote": ("Costs and prices as CSV", "quote.csv", quote_csv),
    "json": ("Everything as JSON", "job.json", job_json),
}


class JobView(QWidget):
    """Pages of the jobs that are looked at.

    Signals:
        paper_asked: a kind of paper is to be printed, by its key.
    """

    paper_asked = Signal(str)

    def __init__(self, desk: JobDesk) -> None:
        super().__init__()
        self.desk = desk
        self.bars = JobBars(desk)
        self.buy = BuyPage(desk)
        self.price = PricePage(desk)
        self.stack = QStackedWidget()
        area = QScrollArea()
        area.setWidget(self.bars)
        area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        area.setWidgetResizable(True)
        self.bars.looked.connect(lambda at: area.ensureVisible(round(at.x()), round(at.y()), 80, 90))
        for page in (area, self.buy, self.price):
            self.stack.addWidget(page)
        self.tabs: dict[str, QToolButton] = {}
        self.told = QLabel()
        self.told.setFont(font(18, 500))
        self.told.setWordWrap(True)
        head = QHBoxLayout()
        head.setContentsMargins(16, 6, 16, 0)
        for index, (key, words) in enumerate(_PAGES):
            tab = self.tabs[key] = QToolButton()
            tab.setText(words)
            tab.setCheckable(True)
            tab.setFont(font(16, 500))
            tab.setMinimumHeight(36)
            tab.clicked.connect(partial(self.show_page, index))
            head.addWidget(tab)
        head.addSpacing(16)
        head.addWidget(self.told, 1)
        self.leave = worded("Enough", desk.rest, "The best plan so far stands")
        self.anew = worded("Plan anew", desk.anew, "Bars that are locked or begun stay as they are")
        self.done = worded("Everything is sawn", desk.finish, "Bars off the rack, remnants onto it")
        self.out = worded("Print and files…", self._menu, "Cut list, labels, shopping, quote: on paper or as a file")
        self.menu = QMenu(self)
        self.menu.setFont(font(16))
        for button in (self.leave, self.anew, self.done, self.out):
            head.addWidget(button)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        column.addLayout(head)
        column.addWidget(self.stack, 1)
        desk.changed.connect(self.renew)
        desk.searching.connect(lambda _on: self._say())
        self.show_page(0)
        self.renew()

    def show_page(self, index: int, _checked: bool = False) -> None:
        """Bars, what to buy, or the price."""
        self.stack.setCurrentIndex(index)
        for n, tab in enumerate(self.tabs.values()):
            tab.setChecked(n == index)
        self.renew()
        (self.bars, *list(self.tabs.values())[1:])[index].setFocus()

    def renew(self) -> None:
        """Another plan: the page in sight is made anew, the others when they are looked at."""
        self.bars.renew()
        try:
            page = (None, self.buy, self.price)[self.stack.currentIndex()]
            if page is not None:
                page.renew()
        except EmberError as error:  # an assembly that does not close, a blank larger than its sheet
            self.desk.work.session.said.emit(str(error), True)
        self._say()

    def _say(self) -> None:
        plan = self.desk.plan
        self.leave.setVisible(self.desk.looking)
        sawn = plan is not None and plan.cut_list.state == "sawn"
        self.anew.setEnabled(plan is not None and plan.own and not sawn)
        self.done.setEnabled(plan is not None and bool(plan.cut_list.bars or plan.sheet_cuts) and not sawn)
        self.out.setEnabled(plan is not None)
        if plan is None:
            self.told.setText("")
            return
        bars = plan.cut_list.bars
        bought = [b for b in bars if not b.rack]
        words = [f"{many(len(bars) - len(bought), 'bar')} off the rack, {len(bought) or 'none'} bought" if bars else "No bars"]
        if any(b.price for b in bought):
            words.append(f"for {sum(b.price for b in bought):,.2f}")
        text = " ".join(words)
        if sawn:
            text = f"Sawn, and off the rack. {text}."
        elif plan.stale:
            text = f"Changed since: {'; '.join(plan.stale[:2])}. Plan anew."
        elif self.desk.looking:
            text += "; looking for a cheaper plan…"
        elif plan.own:
            done = sum(c.sawn for b in bars for c in b.cuts)
            text += f"; {done} of {sum(len(b.cuts) for b in bars)} sawn."
        if not plan.stale and plan.sawing_words:
            text += f" {plan.sawing_words}" if text.endswith((".", "…")) else f". {plan.sawing_words}"
        self.told.setText(text)
        styled_as(self.told, "role", "fault" if plan.stale else "")

    # --- paper and files

    def _menu(self) -> None:
        self.menu.clear()
        menu = self.menu
        for key, words in _PAPERS:
            menu.addAction(f"{words}…", partial(self.paper_asked.emit, key))
        menu.addSeparator()
        for table, (words, _name, _make) in _TABLES.items():
            menu.addAction(f"{words}…", partial(self.ask_table, table))
        menu.popup(self.out.mapToGlobal(QPoint(0, self.out.height())))

    def ask_table(self, key: str) -> None:
        """Ask where to write one of the tables."""
        words, name, _make = _TABLES[key]
        kind = "JSON (*.json)" if key == "json" else "CSV (*.csv)"
        path = save_name(self, words, Path.home() / name, kind)
        if path is not None:
            self.write_table(key, path)

    def write_table(self, key: str, path: Path) -> bool:
        """Write one of the tables; a refusal is explained."""
        plan = self.desk.plan
        return plan is not None and self._written(path, lambda: write_atomic(path, _TABLES[key][2](plan)))

    def _written(self, path: Path, write: Callable[[], object]) -> bool:
        try:
            write()
        except EmberError as error:
            explain(self, f"{path.name} was not written", str(error))
            return False
        self.desk.work.session.wrote.emit(f"It is in {path.name}.", path)
        return True
