"""Renew docs/screenshots from the demo pieces, without a screen."""

from __future__ import annotations

import os
import shutil
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
# The person's own settings must neither show in the pictures nor be changed by them.
_config = tempfile.TemporaryDirectory()
os.environ["XDG_CONFIG_HOME"] = os.environ["XDG_DATA_HOME"] = _config.name
sys.path.insert(0, str(Path(__file__).resolve().parent.parent))  # the synthetic photo is the tests'

from PySide6.QtCore import Qt  # noqa: E402
from PySide6.QtWidgets import QApplication, QLineEdit, QWidget  # noqa: E402
from tests.test_photos import photo, pressed  # noqa: E402
from tests.window_case import live  # noqa: E402

from long_ember.demo import demo_files  # noqa: E402
from long_ember.document import set_field  # noqa: E402
from long_ember.heats import Heat  # noqa: E402
from long_ember.photos import grey_of  # noqa: E402
from long_ember.sections import square  # noqa: E402
from long_ember.shorthand import read_line  # noqa: E402
from long_ember.ui.app import make_application, make_window  # noqa: E402
from long_ember.ui.heats.heat_stage import STEPS  # noqa: E402
from long_ember.ui.heats.log_panel import LogPanel  # noqa: E402
from long_ember.ui.paper.print_dialog import PrintDialog  # noqa: E402
from long_ember.ui.shape.strip import add_kind  # noqa: E402
from long_ember.ui.window import MainWindow  # noqa: E402

TARGET = Path(__file__).resolve().parent.parent / "docs" / "screenshots"


def _shape(window: MainWindow) -> None:
    window.session.select(window.session.piece.features[2].id)


def _inch(window: MainWindow) -> None:
    window.session.set_shop(replace(window.session.shop, unit="in", denominator="32"))


def _dark(window: MainWindow) -> None:
    window.session.configure(replace(window.session.settings, theme="dark"))


def _heats(window: MainWindow) -> None:
    window.show_view(3)
    plan = window.session.answer.plan
    scroll = next(i for i, f in enumerate(plan.frames) if isinstance(f, Heat) and any(w.step.operation.verb == "scroll" for w in f.work))
    window.heats.stage.slider.setValue(round((scroll + 0.5) * STEPS))


def _stock(window: MainWindow) -> None:
    window.show_view(1)
    window.stock.weigh.choose("piece/oar-cradle")
    live(600)


def _assembly(window: MainWindow) -> None:
    window.show_view(5)
    window.book.assemblies.apart.setValue(45)
    live(300)  # the fine picture comes when the hand rests


def _laid(window: MainWindow) -> None:
    """An oilskin hook: leaf, plain bar and taper in a row; hole, twist, curl and hook laid on them."""
    session = window.session
    session.open(replace(session.shop.new_piece(), name="Oilskin hook", bar=square(8)))
    for kind in ("spread", "run", "taper"):
        add_kind(session, kind)
    leaf, run, taper = (f.id for f in session.piece.features)
    for identity, name, value in ((run, "length", 80.0), (taper, "toward", "B"), (taper, "length", 120.0), (taper, "form", "round")):
        session.apply(set_field(session.piece, identity, name, value))
    for host, kind in ((leaf, "hole"), (taper, "curl"), (taper, "hook")):
        session.select(host)
        add_kind(session, kind)


def _settled(window: MainWindow) -> None:
    """Until nobody looks for a cheaper plan any more."""
    while window.cut.desk.looking:
        live(20)


def _cut(window: MainWindow) -> None:
    _rested(window)  # the log is read first: what it teaches changes lengths
    window.show_cuts("job-1")
    window.cut.show_jobs(("job-1", "job-2"))
    _settled(window)
    window.cut.jobs.bars.tick(0, 0)
    window.cut.jobs.bars.tick(0, 1)


def _price(window: MainWindow) -> None:
    _rested(window)
    window.show_cuts("job-1")
    _settled(window)
    window.cut.jobs.show_page(2)


def _photo(window: MainWindow) -> None:
    """A synthetic photo of a bracket, with the sheet that it lies on pressed and its middle followed."""
    piece = read_line("12 sq: scroll 1.5 turns 45 inner radius 14 tip section none, run 120, bend 90 15, run 60").piece
    content, pixels, sheet, size = photo(piece, tilt=0.3)  # type: ignore[no-untyped-call]
    window.show_photo()
    page = window.photo
    page.show_grey(grey_of(content))
    page.way.setCurrentIndex(1)
    page._rescale()
    for entry, value in zip((page.width_, page.height_), size, strict=True):
        entry.setText(f"{value:.0f} mm")
    page.canvas.marks = [tuple(p) for p in sheet.tolist()]
    page._step("way")
    page.canvas.way = [tuple(p) for p in pressed(piece, pixels).tolist()]  # type: ignore[no-untyped-call]
    page.reckon()
    end = time.monotonic() + 20
    while page.result is None and time.monotonic() < end:
        QApplication.processEvents()
        time.sleep(0.01)


def _print(window: MainWindow) -> None:
    """Templates at full size, before they are printed."""
    dialog = PrintDialog(window.work, window.files.subject, "templates", window)
    dialog.resize(1280, 800)
    dialog.show()
    _shown.append(dialog)


def _begin(window: MainWindow) -> None:
    window.show_begin()
    window.beginning.line.setText("hook")


def _forge(look: str) -> Callable[[MainWindow], None]:
    """A heat at the anvil, some seconds out of the fire."""

    def run(window: MainWindow) -> None:
        live(1200)  # the log has been read
        window.anvil.show()
        forge = window.anvil.view
        assert forge is not None
        late = 0.0
        forge.now = lambda: time.time() + late
        forge.setWindowState(Qt.WindowState.WindowNoState)
        forge.resize(1280, 800)
        while forge.theme.name != look:
            forge.look()
        while forge.frame < 3 or forge.iron.phase != "anvil":
            forge.forward()
        late = 9.0

    return run


def _book(part: str, row: str = "") -> Callable[[MainWindow], None]:
    def run(window: MainWindow) -> None:
        window.show_view(5)
        window.book.show_part(part)
        if row:
            window.book.board(part).rows.choose(row)
        live(300)  # a form of many entries is laid out in more than one go

    return run


def _shop(window: MainWindow) -> None:
    """A shorter fire, and what that does to the piece."""
    live(1200)  # the log has been read
    window.show_view(5)
    line = window.book.shop.field("hot_length")
    assert isinstance(line, QLineEdit)
    line.setText("120 mm")
    line.textEdited.emit(line.text())


def _wall(window: MainWindow) -> None:
    window.show_view(5)
    window.work.set_tags("oar-cradle", ("boathouse", "wall", "pair"))
    window.book.wall.choose("oar-cradle")
    QApplication.processEvents()
    window.message.say("", False)


_shown: list[QWidget] = []


def _log(window: MainWindow) -> None:
    """Nine heats instead of eight, 3 mm short, a twist that came out a little long."""
    live(1200)  # until the log has been read
    panel = LogPanel(window.work, window)
    panel.show()
    _shown.append(panel)
    panel.heats.buttons[9].click()
    panel.came.buttons["short"].click()
    next(iter(panel.sawn_choices.buttons.values())).click()
    twist = next(f.id for f in window.session.piece.features if f.kind == "twist")
    panel.more_button.click()
    panel.picker.choose(twist)
    for line, text in ((panel.off, "3"), (panel.minutes, "17"), (panel.size_lines[twist, "length"], "90.5")):
        line.entry.setText(text)
        line.entry.textEdited.emit(text)
    live(400)


def _taught(window: MainWindow) -> None:
    live(1200)
    window.show_taught()


def _both(*actions: Callable[[MainWindow], None]) -> Callable[[MainWindow], None]:
    def run(window: MainWindow) -> None:
        for action in actions:
            action(window)

    return run


SHOTS: dict[str, tuple[int, Callable[[MainWindow], None]]] = {
    "shape-lantern-bracket": (0, _shape),
    "shape-oilskin-hook-dark": (2, _both(_laid, _dark)),
    "stock": (6, _stock),
    "mark": (1, _both(_inch, lambda w: w.show_view(2))),
    "heats": (0, _heats),
    "cut": (1, _cut),
    "cut-price-dark": (1, _both(_dark, _price)),
    "shape-oar-cradle-turned": (4, lambda w: w.shape.canvas.look_from("turn")),
    "all-shapes": (0, lambda w: w.show_catalogue()),
    "photo": (0, _photo),
    "forge": (0, _forge("light")),
    "book": (0, _wall),
    "begin": (0, _begin),
    "print": (0, _print),
    "tables": (0, lambda w: w.show_tables("temper-colours")),
    "assemblies-dark": (0, _both(_dark, _assembly)),
    "book-shop": (0, _shop),
    "log": (0, _log),
    "taught-dark": (0, _both(_dark, _taught)),
}


def _rested(window: MainWindow) -> None:
    """What waits for the keys to rest, the log that is read and what follows from it, until nobody has anything left to do."""
    end, quiet = time.monotonic() + 30, 0
    live(1500)
    while quiet < 3 and time.monotonic() < end:
        live(150)
        waits = window.pause.isActive() or window._log_turn.isActive() or window._considering is not None or window.session.searching
        quiet = 0 if waits or any(p.busy for p in window.session.turns._portions) else quiet + 1


def main() -> int:
    """Write every picture."""
    application = make_application(sys.argv[:1])
    TARGET.mkdir(parents=True, exist_ok=True)
    for name, (piece, prepare) in SHOTS.items():
        shutil.rmtree(Path(_config.name) / "long-ember", ignore_errors=True)
        window = make_window(None, demo=True)
        window.work.open_piece(demo_files()[piece].stem)
        window.resize(1280, 800)
        window.show()
        application.processEvents()
        prepare(window)
        _rested(window)
        shown: QWidget = window
        if name.startswith("forge") and window.anvil.view is not None:
            shown = window.anvil.view
        elif name in ("log", "print"):
            shown = _shown[-1]
        elif name == "taught-dark":
            shown = window.taught
        shown.grab().save(str(TARGET / f"{name}.png"))
        if isinstance(shown, LogPanel):
            shown.done(0)  # what was written there is not asked about
            shown.deleteLater()
            application.processEvents()
        if window.anvil.view is not None:
            window.anvil.view.close()
        window.close()
        print(f"docs/screenshots/{name}.png")
    return 0


if __name__ == "__main__":
    sys.exit(main())
