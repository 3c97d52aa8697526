"""The `long-ember` command: the book and a plan on the terminal, or the window."""

from __future__ import annotations

import argparse
from argparse import Namespace
from collections.abc import Callable, Sequence
from pathlib import Path

from long_ember import __version__

__all__ = ["main"]

_CODES = "exit codes: 0 done, 1 not done (the reason is on the error stream), 2 wrong arguments, 3 the book is not sound, 4 it is in use elsewhere"


def main(arguments: Sequence[str] | None = None, *, window: Callable[[Namespace], int]) -> int:
    """Run the command.

    Args:
        arguments: of the command line; the process's own when None.
        window: shows the window; every other command works without one.

    Returns:
        0 done, 1 not done, 2 wrong arguments (from argparse), 3 the book is not sound, 4 it is in use elsewhere.
    """
    parser = _parser()
    given = parser.parse_args(arguments)
    if given.command == "plan" and bool(given.file) == bool(given.line):
        parser.error("plan: give either a piece, or --line with one")
    if given.command in (None, "open"):
        return window(given)
    if given.command == "simulate":
        from long_ember.instruments import run_stand_in

        return run_stand_in(given.instrument)
    from long_ember.cli.run import carry_out  # with all that plans need

    return carry_out(given)


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(prog="long-ember", description="Plan a forged piece from the bar to the last heat.", epilog=_CODES)
    parser.add_argument("--version", action="version", version=f"Long Ember {__version__}")
    parser.set_defaults(book=None, json=False)
    commands = parser.add_subparsers(dest="command")

    def command(name: str, words: str, *, data: bool = True) -> argparse.ArgumentParser:
        made = commands.add_parser(name, help=words, description=words, epilog=_CODES)
        made.add_argument("--book", type=Path, help="another book than the usual one")
        if data:
            made.add_argument("--json", action="store_true", help="for another program: JSON, lengths in mm")
            made.add_argument("--inch", action="store_true", help="show inches and fractions")
        return made

    listed = command("list", "list the pieces of the book, or those that hold all words")
    listed.add_argument("words", nargs="*")
    listed.add_argument("--state", choices=("kept", "archived", "trashed", "all"), default="kept")
    command("show", "show a piece of the book").add_argument("piece", help="id or name")
    plan = command("plan", "print cut length, marks, heats and cut list")
    plan.add_argument("file", nargs="?", default="", help="a piece file, or id or name of a piece")
    plan.add_argument("--line", default="", help="the piece itself as a line: '1/2 sq: taper 4\" to 1/8, run 6\"'")
    command("line", "print a piece as one line of shorthand", data=False).add_argument(
        "file", help="a piece file, or id or name of a piece"
    )
    cut = command("cut", "jobs: their pieces on bars of the rack and bought ones, their shopping list, their quote")
    cut.add_argument("job", nargs="+", help="id or name; several are cut together")
    cut.add_argument("--what", choices=("cuts", "shopping", "quote"), default="cuts", help="what to print; JSON holds everything")
    cut.add_argument("--seconds", type=float, default=5.0, help="how long to look for a cheaper plan, for each section")
    cut.add_argument("--csv", action="store_true", help="as a table, lengths in mm")
    paper = command(
        "print", "write a paper to a file: heat sheet, marks, story stick, templates, jigs, lists, tables; no display is needed"
    )
    paper.add_argument("piece", nargs="?", default="", help="a piece file, or id or name of a piece; none for jobs and for tables")
    paper.add_argument("--job", action="append", default=[], help="id or name of a job; given several times they are cut together")
    paper.add_argument(
        "--what",
        required=True,
        help="plan, heats, film, marks, stick, templates, jig, cut, labels, shopping, quote, card, log, cautions, tables",
    )
    paper.add_argument(
        "--paper", default="", choices=("", "a4", "a3", "letter", "tabloid"), help="by default what is sold where your locale is spoken"
    )
    paper.add_argument("--landscape", action="store_true", help="lying; by default as suits the paper")
    paper.add_argument("--portrait", action="store_true", help="upright")
    paper.add_argument("--with", dest="choices", action="append", default=[], metavar="KEY=VALUE",
                       help="what goes on it, such as set=least, sheets=one, edge=inside, pictures=no; a wrong one tells which there are")  # fmt: skip
    paper.add_argument("-o", "--output", type=Path, required=True, help="a .pdf; stick, templates and jig as .svg or .dxf too")
    out = command("export", "write pieces, a job, a table or the whole book to a file")
    out.add_argument("pieces", nargs="*", help="ids or names, for a drawing or solid a piece file too; none for the whole book")
    out.add_argument(
        "--to",
        type=Path,
        required=True,
        help="a .json, a .zip (with photos), a .csv with --table; of one piece its solid, .stl or .obj, its drawing, .svg, or its heats for a phone, .html",
    )
    out.add_argument("--job", help="a job with its pieces: id or name")
    out.add_argument("--table", choices=("rack", "price", "log"), help="rack, prices or log as CSV")
    into = command("import", "bring in a piece, many, a whole book or a table; nothing is replaced unless you say so")
    into.add_argument("file", type=Path)
    into.add_argument("--differing", choices=("copy", "replace", "skip"), default="", help="what to do with what differs (pieces: copy)")
    into.add_argument("--dry-run", action="store_true", help="only show what would change")
    stand_in = commands.add_parser("simulate", help="a stand-in for an instrument, over a pseudo-terminal; see docs/instruments.md")
    stand_in.add_argument("instrument", choices=("calliper", "scale", "pyrometer", "pedal", "oven"))
    command("check", "look whether the book is sound; nothing is changed")
    command("backup", "make a copy of the book beside it").add_argument("--list", action="store_true", help="only list the copies")
    opened = command("open", "open the window (also without any command)", data=False)
    opened.add_argument("file", type=Path, nargs="?", help="piece file to bring in and open")
    opened.add_argument("--demo", action="store_true", help="with the demo book")
    return parser
