"""The `long-ember` command: the book and a plan on the terminal, or the window."""

from __future__ import annotations

import argparse
import sys
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
    words = sys.argv[1:] if arguments is None else list(arguments)
    parser = _parser(words[0] if words and words[0] in _COMMANDS else "")
    given = parser.parse_args(words)
    if given.command == "plan" and bool(given.file) == bool(given.line):
        parser.error("plan: give either a piece, or --line with one")
    if given.command in (None, "open"):
        return window(given)
    if given.command == "simulate":
        from long_ember.instruments import run_stand_in

        return run_stand_in(given.instrument)
    from long_ember.cli.run import carry_out  # with all that plans need

    return carry_out(given)


def _parser(only: str) -> argparse.ArgumentParser:
    """What reads the command line: of all commands, or of the one that is given alone, which is there three times as fast."""
    parser = argparse.ArgumentParser(prog="long-ember", description="Plan a forged piece from the bar to the last heat.", epilog=_CODES)
    parser.add_argument("--version", action="version", version=f"Long Ember {__version__}")
    parser.set_defaults(book=None, json=False)
    commands = parser.add_subparsers(dest="command")
    for name in (only,) if only else _COMMANDS:
        words, shows, takes = _COMMANDS[name]
        made = commands.add_parser(name, help=words, description=words, epilog=_CODES)
        if shows != "nothing":
            made.add_argument("--book", type=Path, help="another book than the usual one")
        if shows == "data":
            made.add_argument("--json", action="store_true", help="for another program: JSON, lengths in mm")
            made.add_argument("--inch", action="store_true", help="show inches and fractions")
        takes(made)
    return parser


def _list(made: argparse.ArgumentParser) -> None:
    made.add_argument("words", nargs="*")
    made.add_argument("--state", choices=("kept", "archived", "trashed", "all"), default="kept")


def _show(made: argparse.ArgumentParser) -> None:
    made.add_argument("piece", help="id or name")


def _plan(made: argparse.ArgumentParser) -> None:
    made.add_argument("file", nargs="?", default="", help="a piece file, or id or name of a piece")
    made.add_argument("--line", default="", help="the piece itself as a line: '1/2 sq: taper 4\" to 1/8, run 6\"'")


def _line(made: argparse.ArgumentParser) -> None:
    made.add_argument("file", help="a piece file, or id or name of a piece")


def _cut(made: argparse.ArgumentParser) -> None:
    made.add_argument("job", nargs="+", help="id or name; several are cut together")
    made.add_argument("--what", choices=("cuts", "shopping", "quote"), default="cuts", help="what to print; JSON holds everything")
    made.add_argument("--seconds", type=float, default=5.0, help="how long to look for a cheaper plan, for each section")
    made.add_argument("--csv", action="store_true", help="as a table, lengths in mm")


def _print(made: argparse.ArgumentParser) -> None:
    made.add_argument("piece", nargs="?", default="", help="a piece file, or id or name of a piece; none for jobs and for tables")
    made.add_argument("--job", action="append", default=[], help="id or name of a job; given several times they are cut together")
    made.add_argument(
        "--what",
        required=True,
        help="plan, heats, film, marks, stick, templates, jig, cut, labels, shopping, quote, card, log, cautions, tables",
    )
    made.add_argument(
        "--paper", default="", choices=("", "a4", "a3", "letter", "tabloid"), help="by default what is sold where your locale is spoken"
    )
    made.add_argument("--landscape", action="store_true", help="lying; by default as suits the paper")
    made.add_argument("--portrait", action="store_true", help="upright")
    made.add_argument("--with", dest="choices", action="append", default=[], metavar="KEY=VALUE",
                      help="what goes on it, such as set=least, sheets=one, edge=inside, pictures=no; a wrong one tells which there are")  # fmt: skip
    made.add_argument("-o", "--output", type=Path, required=True, help="a .pdf; stick, templates and jig as .svg or .dxf too")


def _export(made: argparse.ArgumentParser) -> None:
    made.add_argument("pieces", nargs="*", help="ids or names, for a drawing or solid a piece file too; none for the whole book")
    made.add_argument(
        "--to",
        type=Path,
        required=True,
        help="a .json, a .zip (with photos), a .csv with --table; of one piece its solid, .stl or .obj, its drawing, .svg, or its heats for a phone, .html",
    )
    made.add_argument("--job", help="a job with its pieces: id or name")
    made.add_argument("--table", choices=("rack", "price", "log"), help="rack, prices or log as CSV")


def _import(made: argparse.ArgumentParser) -> None:
    made.add_argument("file", type=Path)
    made.add_argument("--differing", choices=("copy", "replace", "skip"), default="", help="what to do with what differs (pieces: copy)")
    made.add_argument("--dry-run", action="store_true", help="only show what would change")


def _simulate(made: argparse.ArgumentParser) -> None:
    made.add_argument("instrument", choices=("calliper", "scale", "pyrometer", "pedal", "oven"))


def _check(_made: argparse.ArgumentParser) -> None:
    """Nothing of its own."""


def _backup(made: argparse.ArgumentParser) -> None:
    made.add_argument("--list", action="store_true", help="only list the copies")


def _open(made: argparse.ArgumentParser) -> None:
    made.add_argument("file", type=Path, nargs="?", help="piece file to bring in and open")
    made.add_argument("--demo", action="store_true", help="with the demo book")


# What each is for, whether it shows data of a book, and what else it takes.
_COMMANDS: dict[str, tuple[str, str, Callable[[argparse.ArgumentParser], None]]] = {
    "list": ("list the pieces of the book, or those that hold all words", "data", _list),
    "show": ("show a piece of the book", "data", _show),
    "plan": ("print cut length, marks, heats and cut list", "data", _plan),
    "line": ("print a piece as one line of shorthand", "book", _line),
    "cut": ("jobs: their pieces on bars of the rack and bought ones, their shopping list, their quote", "data", _cut),
    "print": (
        "write a paper to a file: heat sheet, marks, story stick, templates, jigs, lists, tables; no display is needed",
        "data",
        _print,
    ),
    "export": ("write pieces, a job, a table or the whole book to a file", "data", _export),
    "import": ("bring in a piece, many, a whole book or a table; nothing is replaced unless you say so", "data", _import),
    "simulate": ("a stand-in for an instrument, over a pseudo-terminal; see docs/instruments.md", "nothing", _simulate),
    "check": ("look whether the book is sound; nothing is changed", "data", _check),
    "backup": ("make a copy of the book beside it", "data", _backup),
    "open": ("open the window (also without any command)", "book", _open),
}
