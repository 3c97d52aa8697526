"""Renew docs/screenshots from the demo pieces, without a screen."""

from __future__ import annotations

import os
import sys
import tempfile
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
# The person's own settings must neither show in the pictures nor be changed by them.
_config = tempfile.TemporaryDirectory()
os.environ["XDG_CONFIG_HOME"] = _config.name

from PySide6.QtCore import QRectF  # noqa: E402

from long_ember.blanks import BLANKS  # noqa: E402
from long_ember.demo import demo_files  # noqa: E402
from long_ember.ui.app import make_application, make_window  # noqa: E402
from long_ember.ui.window import MainWindow  # noqa: E402

TARGET = Path(__file__).resolve().parent.parent / "docs" / "screenshots"


def _shape(window: MainWindow) -> None:
    window.session.select(window.session.piece.features[2].id)


def _sum(window: MainWindow) -> None:
    window.sum_sheet.toggle(QRectF(window.answer_bar.geometry()))


def _inch(window: MainWindow) -> None:
    window.session.set_shop(replace(window.session.shop, unit="in", denominator="32"))


def _dark(window: MainWindow) -> None:
    window.session.configure(replace(window.session.settings, theme="dark"))


def _heats(window: MainWindow) -> None:
    window.show_view(2)
    window.heats.film.show_current(len(window.session.answer.plan.heats) - 1)


def _plan(window: MainWindow) -> None:
    window.session.select("f8")
    window.shape.canvas.look_from("plan")


def _calculator(window: MainWindow) -> None:
    window.show_calculator()
    window.calculator.show_kind("head")


def _sheet(window: MainWindow) -> None:
    window.show_blanks()
    window.blanks.show_blank(BLANKS["petals"]())


def _both(*actions: Callable[[MainWindow], None]) -> Callable[[MainWindow], None]:
    def run(window: MainWindow) -> None:
        for action in actions:
            action(window)

    return run


SHOTS: dict[str, tuple[int, Callable[[MainWindow], None]]] = {
    "shape-lantern-bracket": (0, _shape),
    "shape-sum": (0, _sum),
    "shape-mooring-staple-inch": (1, _inch),
    "shape-door-pull-dark": (2, _both(_shape, _dark)),
    "mark": (0, lambda w: w.show_view(1)),
    "heats": (0, _heats),
    "heats-dark": (1, _both(_dark, _heats)),
    "cut": (1, lambda w: w.show_view(3)),
    "shape-oar-cradle-turned": (4, lambda w: w.shape.canvas.look_from("turn")),
    "shape-gate-pintle-plan": (6, _plan),
    "all-shapes": (0, lambda w: w.show_catalogue()),
    "calculator": (3, _calculator),
    "sheet-and-plate": (0, _sheet),
}


def main() -> int:
    """Write every picture."""
    application = make_application(sys.argv[:1])
    TARGET.mkdir(parents=True, exist_ok=True)
    for name, (piece, prepare) in SHOTS.items():
        (Path(_config.name) / "long-ember" / "settings.json").unlink(missing_ok=True)
        window = make_window(demo_files()[piece])
        window.resize(1280, 800)
        window.show()
        application.processEvents()
        prepare(window)
        application.processEvents()
        shown = {"calculator": "calculator", "sheet-and-plate": "blanks"}.get(name)
        (getattr(window, shown) if shown else window).grab().save(str(TARGET / f"{name}.png"))
        window.close()
        print(f"docs/screenshots/{name}.png")
    return 0


if __name__ == "__main__":
    sys.exit(main())
