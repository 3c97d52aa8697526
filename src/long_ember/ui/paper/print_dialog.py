"""One dialog for everything on paper: what, what goes on it, on which paper; a preview that is the paper; a printer or a file."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from importlib import import_module
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QEvent, QMarginsF, QObject, QRectF, QSizeF, Qt, QTimer, Signal
from PySide6.QtGui import QKeyEvent, QPageLayout, QPageSize, QPainter, QPaintEvent, QWheelEvent
from PySide6.QtWidgets import (
    QCheckBox,
    QDialog,
    QFormLayout,
    QHBoxLayout,
    QLabel,
    QListWidget,
    QListWidgetItem,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from long_ember.desk.session import Session
from long_ember.desk.worker import Worker
from long_ember.errors import EmberError
from long_ember.papers.ink import PAPER_SIZES, PaperSize, Printed, paper_here
from long_ember.papers.kinds import papers_for
from long_ember.papers.subject import Paper, Subject
from long_ember.papers.writing import FORMS, write_paper
from long_ember.ui.actions.bookwork import BookWork
from long_ember.ui.paper.ink_paint import paint_page
from long_ember.ui.style.fonts import font
from long_ember.ui.style.theme import theme_of
from long_ember.ui.widgets import dialogs
from long_ember.ui.widgets.buttons import worded
from long_ember.ui.widgets.entry import ChoiceBox
from long_ember.ui.widgets.message import MessageLine
from long_ember.units import many

if TYPE_CHECKING:
    from PySide6.QtPrintSupport import QPrinter

__all__ = ["PrintDialog", "print_pages", "set_up"]

_GAP, _SOON = 18, 60  # px between two pages; ms after a choice until the preview is made anew
_MANY = 300  # blanks from which on laying out takes longer than a blink
_LEAST, _MOST, _STEP = 0.6, 14.0, 1.25  # px a mm of the preview


class Preview(QWidget):
    """Pages under each other, as they will be printed."""

    zoomed = Signal(float)

    def __init__(self) -> None:
        super().__init__()
        self.printed: Printed | None = None
        self.scale, self.trouble, self.rim = 2.0, "", "#000000"
        self.setAccessibleName("Preview of the paper")

    def show_pages(self, printed: Printed | None, trouble: str = "") -> None:
        """Other pages, or why there are none."""
        self.printed, self.trouble = printed, trouble
        self._fit()

    def zoom(self, scale: float) -> None:
        """Larger or smaller, px a mm."""
        self.scale = min(max(scale, _LEAST), _MOST)
        self._fit()

    def _fit(self) -> None:
        if self.printed is not None:
            wide = max(p.width for p in self.printed.pages) * self.scale + 2 * _GAP
            high = sum(p.height * self.scale + _GAP for p in self.printed.pages) + _GAP
            self.setMinimumSize(round(wide), round(high))
            self.resize(max(round(wide), self.width()), round(high))
        else:
            self.setMinimumSize(0, 0)
        self.update()

    def tops(self) -> list[float]:
        """Where each page begins, px."""
        found, y = [], float(_GAP)
        for page in self.printed.pages if self.printed is not None else ():
            found.append(y)
            y += page.height * self.scale + _GAP
        return found

    def paintEvent(self, event: QPaintEvent) -> None:
        """The pages in sight."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.printed is None:
            painter.setFont(font(18))
            box = QRectF(30, 40, self.width() - 60, self.height() - 80)
            painter.drawText(box, int(Qt.TextFlag.TextWordWrap | Qt.AlignmentFlag.AlignHCenter), self.trouble)
            return
        for page, y in zip(self.printed.pages, self.tops(), strict=True):
            high = page.height * self.scale
            if y + high < event.rect().top() or y > event.rect().bottom():
                continue
            painter.save()
            painter.translate((self.width() - page.width * self.scale) / 2, y)
            paper = QRectF(0, 0, page.width * self.scale, high)
            painter.fillRect(paper, Qt.GlobalColor.white)
            painter.setClipRect(paper)
            paint_page(painter, page, self.scale)
            painter.setClipping(False)
            painter.setPen(self.rim)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(paper)
            painter.restore()

    def wheelEvent(self, event: QWheelEvent) -> None:
        """With Ctrl it zooms."""
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.zoomed.emit(_STEP if event.angleDelta().y() > 0 else 1 / _STEP)
            event.accept()
        else:
            event.ignore()


def print_pages(printer: QPrinter, printed: Printed) -> None:
    """Lay pages onto a printer that is set up, at their true size."""
    painter = QPainter(printer)
    for number, page in enumerate(printed.pages):
        if number:
            printer.newPage()
        paint_page(painter, page, printer.resolution() / 25.4)
    painter.end()


class PrintDialog(QDialog):
    """Choose, look, print.

    Signals:
        wrote: a sentence, and the file it is about.
        went: it is printed or written; calling what is emitted does the same again, for what the subject is by then.
    """

    wrote = Signal(str, object)
    went = Signal(object)

    def __init__(self, work: BookWork, subject: Callable[[], Subject], key: str = "", parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._work, self._session, self._subject = work, work.session, subject
        self.setWindowTitle("Print")
        self.resize(1180, 760)
        self.papers = papers_for(subject())
        self._kept = dict(self._session.settings.printing)
        self.kinds = QListWidget()
        self.kinds.setFont(font(17, 500))
        self.kinds.setAccessibleName("What to print")
        self.kinds.setProperty("place", "choose")
        for paper in self.papers:
            item = QListWidgetItem(paper.title)
            item.setToolTip(paper.tip)
            self.kinds.addItem(item)
        self.tip = QLabel()
        self.tip.setFont(font(15))
        self.tip.setWordWrap(True)
        self.tip.setProperty("role", "muted")
        self.size_box, self.lie = ChoiceBox(self._session), ChoiceBox(self._session)
        for paper_key, size in PAPER_SIZES.items():
            self.size_box.addItem(size.title, paper_key)
        for words, value in (("upright", "no"), ("lying", "yes")):
            self.lie.addItem(words, value)
        for box, name in ((self.size_box, "Paper"), (self.lie, "It stands")):
            box.setFont(font(16))
            box.setMinimumHeight(36)
            box.setAccessibleName(name)
        usual = self._kept.get("paper", "") or paper_here()
        self.size_box.setCurrentIndex(max(self.size_box.findData(usual), 0))
        self.preview, self.area = Preview(), QScrollArea()
        self.area.setWidget(self.preview)
        self.area.setWidgetResizable(True)
        self.area.setAccessibleName("Preview")
        self.area.setVerticalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOn)  # else a page that just fits would flicker
        self.area.viewport().installEventFilter(self)
        self.told = MessageLine()
        self._asked = 0
        self.options: dict[str, QCheckBox | ChoiceBox] = {}
        self._form = QFormLayout()
        self._form.setVerticalSpacing(6)
        self._soon = QTimer(self, singleShot=True, interval=_SOON)
        self._soon.timeout.connect(self.renew)
        self._lay_out()
        self.kinds.currentRowChanged.connect(lambda _row: self._chosen())
        for box in (self.size_box, self.lie):
            box.activated.connect(lambda _i: self._soon.start())
        self.preview.zoomed.connect(self.zoom)
        self._ready = Worker(
            self._session.loop, lambda _worker: import_module("fpdf")
        )  # half a second that nobody waits for: it is looked at first
        self._ready.start()
        self.kinds.setCurrentRow(next((i for i, p in enumerate(self.papers) if p.key == key), 0))

    def _lay_out(self) -> None:
        side = QWidget()
        side.setFixedWidth(330)
        column = QVBoxLayout(side)
        column.setContentsMargins(0, 0, 8, 0)
        column.addWidget(self.kinds, 1)
        column.addWidget(self.tip)
        column.addLayout(self._form)
        row = QFormLayout()
        for words, box in (("Paper", self.size_box), ("It stands", self.lie)):
            row.addRow(self._label(words), box)
        column.addLayout(row)
        self.print_button = worded("Print…", self.ask_printer, "On a printer of this machine", weight=600)
        self.save_button = worded("Save as PDF…", partial(self.ask_file, "pdf"))
        self.print_button.setDefault(True)
        self.svg_button = worded("SVG…", partial(self.ask_file, "svg"), "At full size, for a cutter or a burnt stick")
        self.dxf_button = worded("DXF…", partial(self.ask_file, "dxf"), "At full size, for machines")
        self.smaller, self.larger = worded("−", partial(self.zoom, 1 / _STEP), "Smaller"), worded("+", partial(self.zoom, _STEP), "Larger")
        for button in (self.smaller, self.larger):
            button.setFixedWidth(44)
        foot = QHBoxLayout()
        for button in (self.smaller, self.larger):
            foot.addWidget(button)
        foot.addWidget(self.told, 1)
        for button in (self.dxf_button, self.svg_button, self.save_button, self.print_button):
            foot.addWidget(button)
        body = QHBoxLayout()
        body.addWidget(side)
        body.addWidget(self.area, 1)
        whole = QVBoxLayout(self)
        whole.addLayout(body, 1)
        whole.addLayout(foot)

    def _label(self, words: str) -> QLabel:
        label = QLabel(words)
        label.setFont(font(16))
        label.setProperty("role", "muted")
        return label

    @property
    def paper(self) -> Paper:
        """What is to be printed."""
        return self.papers[max(self.kinds.currentRow(), 0)]

    @property
    def size_chosen(self) -> PaperSize:
        """The paper, turned as it is to lie."""
        return PAPER_SIZES[self.size_box.currentData()].turned(self.lie.currentData() == "yes")

    @property
    def choices(self) -> dict[str, str]:
        """What goes on."""
        return {
            key: (("yes" if box.isChecked() else "no") if isinstance(box, QCheckBox) else str(box.currentData()))
            for key, box in self.options.items()
        }

    def _chosen(self) -> None:
        """Another kind of paper: its own choices, as they were the last time."""
        paper = self.paper
        self.tip.setText(f"{paper.tip}.")
        while self._form.rowCount():
            self._form.removeRow(0)
        self.options = {}
        for option in paper.options:
            value = self._kept.get(f"{paper.key}.{option.key}", option.usual)
            if option.choices:
                box = self.options[option.key] = ChoiceBox(self._session)
                for key, words in option.choices:
                    box.addItem(words, key)
                box.setFont(font(16))
                box.setAccessibleName(option.label)
                box.setCurrentIndex(max(box.findData(value), 0))
                box.activated.connect(lambda _i: self._soon.start())
                self._form.addRow(self._label(option.label), box)
            else:
                tick = self.options[option.key] = QCheckBox(option.label)
                tick.setFont(font(16))
                tick.setMinimumHeight(28)
                tick.setChecked(value == "yes")
                tick.toggled.connect(lambda _on: self._soon.start())
                self._form.addRow(tick)
        usual = "yes" if paper.landscape else "no"
        self.lie.setCurrentIndex(self.lie.findData(self._kept.get(f"{paper.key}.landscape", usual)))
        for button in (self.svg_button, self.dxf_button):
            button.setVisible(paper.drawings is not None)
        self.told.say("", False)
        self.renew()

    def renew(self) -> None:
        """Make the preview anew; of jobs with many blanks in a thread, so that it can be left."""
        self._soon.stop()
        self.preview.rim = theme_of(self._session).rim
        paper, subject, size, choices = self.paper, self._subject(), self.size_chosen, self.choices
        self._asked += 1
        if subject.plan is not None and sum(len(lay.cuts) for lay in subject.plan.layouts) > _MANY:
            self._show(None, "Laying it out…")
            self._work.slow("Laying it out", f"{paper.title} can't be laid out", lambda _progress: paper.printed(subject, size, choices), partial(self._arrived, self._asked))  # fmt: skip
            return
        try:
            self._show(paper.printed(subject, size, choices))
        except EmberError as error:
            self._show(None, str(error))

    def _arrived(self, asked: int, printed: Printed) -> None:
        if asked == self._asked:  # otherwise something else has been chosen meanwhile
            self._show(printed)

    def _show(self, printed: Printed | None, why: str = "") -> None:
        """Pages, or why there are none."""
        if printed is not None:
            self.preview.zoom(self._fitting(printed))
        self.preview.show_pages(printed, why)
        for button in (self.print_button, self.save_button, self.svg_button, self.dxf_button):
            button.setEnabled(printed is not None)
        self.setWindowTitle(f"Print: {many(len(printed.pages), 'page')}" if printed is not None else "Print")

    def _fitting(self, printed: Printed) -> float:
        return (self.area.viewport().width() - 2 * _GAP - 4) / max(p.width for p in printed.pages)

    def zoom(self, factor: float) -> None:
        """Larger or smaller."""
        self.preview.zoom(self.preview.scale * factor)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Ctrl+P prints, Ctrl+S saves, plus and minus zoom."""
        command = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        key = Qt.Key(event.key())
        if command and key == Qt.Key.Key_P:
            self.ask_printer()
        elif command and key == Qt.Key.Key_S:
            self.ask_file("pdf")
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal, Qt.Key.Key_Minus):
            self.zoom(1 / _STEP if key == Qt.Key.Key_Minus else _STEP)
        else:
            super().keyPressEvent(event)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """As wide as there is room."""
        if event.type() == QEvent.Type.Resize and self.preview.printed is not None:
            self.preview.zoom(self._fitting(self.preview.printed))
        return super().eventFilter(watched, event)

    def _keep(self) -> None:
        """The next time it is as it is now."""
        key = self.paper.key
        self._kept |= {"paper": str(self.size_box.currentData()), f"{key}.landscape": str(self.lie.currentData())}
        self._kept |= {f"{key}.{name}": value for name, value in self.choices.items()}
        self._session.configure(replace(self._session.settings, printing=tuple(sorted(self._kept.items()))))

    # --- out

    def ask_file(self, kind: str) -> None:
        """Where to write it."""
        words = "".join(c if c.isalnum() else " " for c in self._subject().head(self.paper.title).name.lower()).split()
        start = Path.home() / f"{'-'.join(words) or 'paper'}-{self.paper.key}.{kind}"
        path = dialogs.save_name(self, f"{self.paper.title} as {FORMS[kind]}", start, f"{kind.upper()} (*.{kind})")
        if path is not None:
            self.save_to(path)

    def save_to(self, path: Path) -> None:
        """Write it, by the file's ending; with progress where that takes long."""
        save_paper(self._work, self._subject, self.paper, self.size_chosen, self.choices, path, self._written)

    def _written(self, path: Path) -> None:
        self._keep()
        self.went.emit(partial(save_paper, self._work, self._subject, self.paper, self.size_chosen, self.choices, path))
        self.told.wrote(f"{self.paper.title} is in {path.name}.", path)
        self.wrote.emit(f"{self.paper.title} is in {path.name}.", path)

    def ask_printer(self) -> None:
        """Which printer, how many; then print at true size."""
        from PySide6.QtPrintSupport import QPrintDialog, QPrinter, QPrinterInfo

        if self.preview.printed is None:
            return
        if not QPrinterInfo.availablePrinterNames():
            dialogs.explain(
                self,
                "There is no printer",
                "No printer is set up on this machine. Save it as PDF, and print that from one that has a printer: at 100 %, not fitted to the page.",
            )
            return
        printer = set_up(QPrinter(QPrinter.PrinterMode.HighResolution), self.preview.printed)
        if QPrintDialog(printer, self).exec():
            print_pages(printer, self.preview.printed)
            self._keep()
            self.went.emit(
                partial(print_paper, self._session, self._subject, self.paper, self.size_chosen, self.choices, printer.printerName())
            )
            self.told.say(f"Sent to {printer.printerName()}: hold a rule to the bar at its foot.", False)


def set_up(printer: QPrinter, printed: Printed) -> QPrinter:
    """A printer set to the paper of some pages, without margins of its own: nothing is scaled."""
    page = printed.pages[0]
    lying = page.width > page.height
    upright = QSizeF(min(page.width, page.height), max(page.width, page.height))
    printer.setFullPage(True)
    printer.setDocName(printed.title)
    printer.setPageLayout(QPageLayout(
        QPageSize(upright, QPageSize.Unit.Millimeter), QPageLayout.Orientation.Landscape if lying else QPageLayout.Orientation.Portrait, QMarginsF(),
    ))  # fmt: skip
    return printer


def save_paper(work: BookWork, subject: Callable[[], Subject], paper: Paper, size: PaperSize, choices: dict[str, str], path: Path,
               done: Callable[[Path], None] | None = None) -> None:  # fmt: skip
    """Write a paper to a file; with progress where that takes long, and a refusal explained."""
    about = subject()

    def write(progress: Callable[[int, int], None]) -> Path:
        write_paper(path, paper, about, size, choices, progress)
        return path

    def told(written: Path) -> None:
        work.session.wrote.emit(f"{paper.title} is in {written.name}.", written)

    work.slow(f"Writing {path.name}", f"{paper.title} was not written", write, done or told)


def print_paper(
    session: Session, subject: Callable[[], Subject], paper: Paper, size: PaperSize, choices: dict[str, str], name: str
) -> None:
    """Print a paper on a printer, by its name, without asking."""
    from PySide6.QtPrintSupport import QPrinter, QPrinterInfo

    try:
        printed = paper.printed(subject(), size, choices)
    except EmberError as error:
        session.said.emit(str(error), True)
        return
    print_pages(set_up(QPrinter(QPrinterInfo.printerInfo(name), QPrinter.PrinterMode.HighResolution), printed), printed)
    session.said.emit(f"Sent to {name} again.", False)
