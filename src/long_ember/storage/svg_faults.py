"""Where an SVG is broken, by line: a drawing program's reader passes over what it does not understand."""

from __future__ import annotations

import re
from xml.parsers import expat

__all__ = ["svg_fault"]

_NUMBERS = {"m": 2, "l": 2, "h": 1, "v": 1, "c": 6, "s": 4, "q": 4, "t": 2, "a": 7, "z": 0}
_COMMAND = re.compile(r"([A-Za-z])([^A-DF-Za-df-z]*)")  # an e belongs to a number
_NUMBER = re.compile(r"[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?")


def svg_fault(content: bytes) -> str:
    """What is wrong and in which line; "" where the text is whole.

    Args:
        content: of the file.
    """
    parser, found = expat.ParserCreate(), list[str]()

    def opened(name: str, attributes: dict[str, str]) -> None:
        bare, line = name.rsplit(":", 1)[-1], parser.CurrentLineNumber
        if not depth and bare != "svg":
            found.append(f"line {line}: not an SVG, it begins with <{name[:40]}>")
        elif bare == "path" and (words := _path_fault(attributes.get("d", ""))):
            found.append(f"line {line}: {words}")
        depth.append(name)

    depth: list[str] = []
    parser.StartElementHandler = opened
    try:
        parser.Parse(content, True)
    except expat.ExpatError as error:
        if not depth:
            return f"line {error.lineno}: not an SVG"
        return f"line {error.lineno}, column {error.offset + 1}: {expat.ErrorString(error.code)}"
    return found[0] if found else ""


def _path_fault(data: str) -> str:
    """What is wrong with the data of a path."""
    text = data.strip()
    if text and text[0] not in "mM":
        return f"a path begins with “{text[:12]}”, not with M"
    for letter, rest in _COMMAND.findall(text):
        wants = _NUMBERS.get(letter.lower())
        if wants is None:
            return f"“{letter}{rest.strip()[:12]}” is no command of a path"
        left = _NUMBER.sub("", rest).replace(",", "").strip()
        if left:
            return f"“{left[:12]}” in a path is no number"
        if letter in "aA":
            continue  # its two flags may be written without a space
        count = len(_NUMBER.findall(rest))
        if (count % wants if wants else count) or (wants and not count):
            return f"{letter} in a path takes {wants} numbers, {count} stand there"
    return ""
