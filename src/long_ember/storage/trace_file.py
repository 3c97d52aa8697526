"""Read a drawn centreline from an SVG or DXF file, in mm."""

from __future__ import annotations

import io
import logging
import math
import resource
import signal
import subprocess
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

from long_ember.arrays import Array
from long_ember.errors import FileProblem, PieceFileError
from long_ember.storage.svg_faults import svg_fault
from long_ember.units import MOST

__all__ = ["curves_of", "joined_lines", "read_curves"]

_LARGEST = 8_000_000  # bytes
_MOST = 200_000  # points
_LINES = 24  # that are offered, the longest ones
_FINE = 0.002  # mm, chord error of flattened curves: their heading is what counts
_TOUCH = 0.05  # mm between ends that belong together
_SECONDS = 1.5  # s of the processor's time, however busy the machine is with other things
_LONGEST = 60.0  # s with all that is loaded for it
_MEMORY = 1_500_000_000  # bytes
_REFUSED = 3  # exit code of the process that reads
_ENDLESS = "is far too large or too involved for a drawing of one curve: leave only the centreline in it"
_EMPTY = {".svg": b"<svg xmlns='http://www.w3.org/2000/svg'/>", ".dxf": b"  0\nEOF\n"}


def read_curves(path: Path) -> list[Array]:
    """The connected lines of a drawing, read by a process of its own: what goes on for ever, or wants all memory, is stopped.

    Args:
        path: .svg or .dxf.

    Returns:
        The longest ones, longest first, each as points, (n, 2) mm, y upwards.

    Raises:
        PieceFileError: saying what is wrong and where.
    """
    if path.suffix.lower() not in _READERS:
        raise _fault(path, "is neither .svg nor .dxf")
    try:
        with path.open("rb") as file:
            content = file.read(_LARGEST + 1)
    except OSError as error:
        raise _fault(path, error.strerror or str(error)) from error
    if len(content) > _LARGEST:
        raise _fault(path, "is far larger than a drawing of one curve")
    try:
        done = subprocess.run(
            [sys.executable, "-P", "-W", "ignore", "-m", __name__, path.suffix.lower()],
            input=content,
            capture_output=True,
            timeout=_LONGEST,
            check=False,
        )
    except subprocess.TimeoutExpired:
        raise _fault(path, _ENDLESS) from None
    if done.returncode:
        words = done.stderr.decode("utf-8", "replace").strip().splitlines()
        raise _fault(path, words[-1] if words and done.returncode == _REFUSED else _ENDLESS)
    points = np.frombuffer(done.stdout, dtype=float).reshape(-1, 2)
    breaks = np.flatnonzero(np.isnan(points[:, 0]))  # between two lines stands none
    return [line[~np.isnan(line[:, 0])].copy() for line in np.split(points, breaks)]


def curves_of(content: bytes, kind: str) -> list[Array]:
    """The connected lines of a drawing's content, longest first.

    Args:
        content: of the file.
        kind: `.svg` or `.dxf`.

    Returns:
        Points of each, (n, 2) mm, y upwards.

    Raises:
        ValueError: in words, when there is no such line, or the content can't be read.
    """
    try:
        lines = _READERS[kind](content)
    except Exception as error:  # whatever a library throws at a damaged file becomes one clear sentence
        words = str(error).splitlines()[0][:200] if str(error) else type(error).__name__
        raise ValueError(f"can't be read: {words}") from error
    if not all(np.isfinite(line).all() for line in lines):
        raise ValueError("holds a line with points that are no numbers")
    chains = sorted(joined_lines([line for line in lines if len(line) > 1]), key=_long, reverse=True)[:_LINES]
    if not chains:
        raise ValueError("holds no line to follow: draw the centreline as a path, polyline, arc or spline")
    if len(chains[0]) > _MOST:
        raise ValueError("holds a line with far too many points")
    if _long(chains[0]) < 1.0:
        raise ValueError("holds a line of less than 1 mm: check the drawing's unit")
    if _long(chains[0]) > MOST:
        raise ValueError(f"holds a line of more than {MOST / 1000:g} m: check the drawing's unit")
    return [chain for chain in chains if _long(chain) >= 1.0 and len(chain) <= _MOST]


def _fault(path: Path, message: str) -> PieceFileError:
    return PieceFileError(str(path), (FileProblem("$", message),))


def _svg(content: bytes) -> list[Array]:
    import svgelements  # loaded when a drawing is opened

    if b"<!ENTITY" in content:
        raise ValueError("it defines entities, which a drawing has no need of")
    if fault := svg_fault(content):
        raise ValueError(fault)
    drawing = svgelements.SVG.parse(io.StringIO(content.decode("utf-8-sig")), reify=True, ppi=96.0)
    scale = 25.4 / 96.0
    found: list[Array] = []
    for element in drawing.elements():
        if not isinstance(element, svgelements.Shape):
            continue
        for sub in svgelements.Path(element).as_subpaths():
            found.append(_flattened(svgelements.Path(sub), scale))
    return found


def _flattened(path: Any, scale: float) -> Array:
    """A path's points: ends of lines, and curves in steps fine enough for `_FINE`."""
    points: list[tuple[float, float]] = []
    for segment in path:
        if segment.start is None or segment.end is None or type(segment).__name__ == "Move":
            continue
        name = type(segment).__name__
        steps = 1 if name in ("Line", "Close") else min(max(8, math.ceil(math.sqrt(segment.length(error=1e-3) * scale / _FINE))), 2000)
        for i in range(0 if not points else 1, steps + 1):
            p = segment.point(i / steps)
            points.append((float(p.x) * scale, -float(p.y) * scale))
    return np.array(points).reshape(-1, 2)


def _dxf(content: bytes) -> list[Array]:
    from ezdxf import path as paths  # a second to load: only when a drawing is opened
    from ezdxf import recover, units
    from ezdxf.enums import InsertUnits

    logging.getLogger("ezdxf").setLevel(logging.ERROR)  # what it could repair is no news
    document, auditor = recover.read(io.BytesIO(content))
    if auditor.has_errors:
        raise ValueError(f"{len(auditor.errors)} faults in the file, the first: {auditor.errors[0].message}")
    scale = units.conversion_factor(InsertUnits(document.units), InsertUnits.Millimeters) if document.units else 1.0
    found: list[Array] = []
    for entity in document.modelspace():
        if entity.dxftype() in ("LINE", "ARC", "CIRCLE", "ELLIPSE", "SPLINE", "LWPOLYLINE", "POLYLINE"):
            made = paths.make_path(entity)
            found.append(np.array([(p.x * scale, p.y * scale) for p in made.flattening(_FINE / scale)]).reshape(-1, 2))
    return found


def joined_lines(lines: list[Array]) -> list[Array]:
    """Lines whose ends touch, joined; each is used once.

    Ends are looked up by the square of paper that they lie in, so that thousands of lines take no longer than they are many.
    """
    ends: dict[tuple[int, int], set[int]] = {}
    for number, line in enumerate(lines):
        for point in (line[0], line[-1]):
            ends.setdefault(_square(point), set()).add(number)
    free, found = set(range(len(lines))), []
    for number in range(len(lines)):
        if number in free:
            free.discard(number)
            after = _walked(lines[number][-1], lines, ends, free)
            before = _walked(lines[number][0], lines, ends, free)
            found.append(np.vstack([*(line[::-1][:-1] for line in reversed(before)), lines[number], *(line[1:] for line in after)]))
    return found


def _square(point: Array) -> tuple[int, int]:
    return math.floor(point[0] / _TOUCH), math.floor(point[1] / _TOUCH)


def _walked(at: Array, lines: list[Array], ends: dict[tuple[int, int], set[int]], free: set[int]) -> list[Array]:
    """Lines from a point on, each begun where the last one ends."""
    found: list[Array] = []
    while True:
        x, y = _square(at)
        near = sorted(n for i in (-1, 0, 1) for j in (-1, 0, 1) for n in ends.get((x + i, y + j), ()) if n in free)
        step = next(((n, line) for n in near for line in (lines[n], lines[n][::-1]) if np.hypot(*(line[0] - at)) <= _TOUCH), None)
        if step is None:
            return found
        free.discard(step[0])
        found.append(step[1])
        at = step[1][-1]


def _long(chain: Array) -> float:
    return float(np.hypot(*np.diff(chain, axis=0).T).sum())


_READERS: dict[str, Callable[[bytes], list[Array]]] = {".svg": _svg, ".dxf": _dxf}


def main(kind: str) -> int:
    """Read a drawing from standard input and write its curve to standard output, within bounds of time and memory that the system keeps."""
    content = sys.stdin.buffer.read()
    _READERS[kind](_EMPTY[kind])  # loads the library, which takes longer than most drawings and is no fault of theirs
    resource.setrlimit(resource.RLIMIT_AS, (_MEMORY, _MEMORY))
    signal.signal(signal.SIGPROF, _too_long)
    signal.setitimer(signal.ITIMER_PROF, _SECONDS)
    try:
        lines = curves_of(content, kind)
        none = np.full((1, 2), np.nan)
        sys.stdout.buffer.write(np.vstack([lines[0], *(part for line in lines[1:] for part in (none, line))]).tobytes())
    except (MemoryError, _TooLongError):
        print(_ENDLESS, file=sys.stderr)
        return _REFUSED
    except ValueError as error:
        print(error, file=sys.stderr)
        return _REFUSED
    return 0


class _TooLongError(BaseException):
    """Time is up; no library catches it for an error of its own."""


def _too_long(_number: int, _frame: object) -> None:
    raise _TooLongError


if __name__ == "__main__":
    sys.exit(main(sys.argv[1]))
