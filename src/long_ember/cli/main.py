"""The `long-ember` command: a plan on the terminal, or the window."""

from __future__ import annotations

import argparse
import importlib
import importlib.util
import os
import sys
from collections.abc import Sequence
from pathlib import Path

from long_ember import __version__
from long_ember.document import Answer, answer
from long_ember.errors import EmberError
from long_ember.heats import Heat, cautions
from long_ember.physics import band
from long_ember.storage import read_piece, read_settings
from long_ember.units import Measure

__all__ = ["main", "plan_text"]


def main(arguments: Sequence[str] | None = None) -> int:
    """Run the command.

    Returns:
        0 when done, 1 when a file or the machine stands in the way, 2 for wrong arguments (from argparse).
    """
    parser = argparse.ArgumentParser(prog="long-ember", description="Plan a forged piece from the bar to the last heat.")
    parser.add_argument("--version", action="version", version=f"Long Ember {__version__}")
    commands = parser.add_subparsers(dest="command")
    plan = commands.add_parser("plan", help="print cut length, marks, heats and cut list of a piece file")
    plan.add_argument("file", type=Path)
    plan.add_argument("--inch", action="store_true", help="show inches and fractions")
    show = commands.add_parser("show", help="open the window (also without any command)")
    show.add_argument("file", type=Path, nargs="?", help="piece to open")
    show.add_argument("--demo", action="store_true", help="with the pieces of the demo")
    given = parser.parse_args(arguments)
    if given.command == "plan":
        try:
            return _plan(given.file, inch=given.inch)
        except BrokenPipeError:  # whoever reads has seen enough, as with `| head`
            os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
            return 0
    return _window(getattr(given, "file", None), demo=getattr(given, "demo", False))


def _plan(path: Path, *, inch: bool) -> int:
    settings = read_settings()
    unit = "in" if inch else settings.unit
    try:
        piece = read_piece(path)
        print(plan_text(answer(piece, ruler=settings.ruler if unit == settings.unit else 25.4 / settings.denominator),
                        Measure(unit, settings.denominator, ascii=True)))  # fmt: skip
    except EmberError as error:
        print(error, file=sys.stderr)
        return 1
    return 0


def plan_text(found: Answer, measure: Measure) -> str:
    """The whole plan as plain text."""
    return "\n\n".join("\n".join(block) for block in (_head(found, measure), _marks(found, measure), _heats(found, measure),
                                                      _cuts(found, measure), _cautions(found, measure)))  # fmt: skip


def _head(found: Answer, m: Measure) -> list[str]:
    r, piece = found.reckoning, found.piece
    low, high = r.band
    lines = [
        f"{piece.name}: {piece.bar.label(m)}, {piece.steel.title.lower()}",
        f"Cut {m.length(r.cut)} (between {m.length(low)} and {m.length(high)}; bare {m.length(r.bare)})",
        f"Mass {m.mass(r.mass)} finished, {m.mass(r.stock_mass)} cut",
    ]
    for zone in r.zones:
        lines.extend(f"  {zone.feature.title}: {line.show(m)}" for line in zone.feature.sum_lines(zone.place))
    lines.extend(f"  {line.show(m)}" for line in r.sum_lines())
    return lines + [f"! {check.line.show(m)}" for _zone, check in found.checks if not check.caution]


def _marks(found: Answer, m: Measure) -> list[str]:
    rows = [f"  {m.length(k.at):>14}   {k.kind}: {k.before or 'waste'} | {k.after or 'waste'}" for k in found.marks]
    return [f"Marks from end {found.piece.datum}, cold", *rows]


def _heats(found: Answer, m: Measure) -> list[str]:
    lines = [f"Heats: {found.plan.count}, rough: {found.plan.low} to {found.plan.high}"]
    for heat in found.plan.heats:
        lines.append(_heat_title(heat, m))
        lines.extend(f"     {work.step.operation.line.show(m)}" for work in heat.work)
    return lines


def _heat_title(heat: Heat, m: Measure) -> str:
    if heat.cold:
        return "  Cold:"
    where = "the middle" if heat.fire == "middle" else f"end {heat.fire}"
    hot = m.length(heat.zone[1] - heat.zone[0])
    return f"  {heat.number}. {where} in the fire, {hot} hot, {band(heat.hot).word}, stop at {m.temperature(heat.stop)}"


def _cuts(found: Answer, m: Measure) -> list[str]:
    cuts = found.cuts
    if cuts is None:
        return [f"Cut list: {found.cut_problem}"]
    rows = [f"  bar {b.number}: {len(b.lengths)} x {m.length(cuts.piece)}, {m.length(b.remnant)} left" for b in cuts.bars]
    return [f"Cut list: {cuts.quantity} from {len(cuts.bars)} x {m.length(cuts.bar_length)}", *rows]


def _cautions(found: Answer, m: Measure) -> list[str]:
    return ["Take care", *(f"  {line.show(m)}" for line in cautions(found.piece, found.reckoning, found.plan))]


def _window(path: Path | None, *, demo: bool) -> int:
    if importlib.util.find_spec("PySide6") is None:
        print("The window needs PySide6 (pip install 'PySide6-Essentials<6.12'). `long-ember plan FILE` works without it.", file=sys.stderr)
        return 1
    # Loaded by name: the command itself must work, and be checked, where PySide6 is missing.
    run = importlib.import_module("long_ember.ui.app").run
    return int(run(path, demo=demo))
