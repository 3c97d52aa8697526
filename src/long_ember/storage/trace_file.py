"""Read a drawn centreline from an SVG or DXF file, in mm."""

from __future__ import annotations

import io
import logging
import math
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

from long_ember.arrays import Array
from long_ember.errors import FileProblem, PieceFileError

__all__ = ["read_curve"]

_LARGEST = 8_000_000  # bytes
_MOST = 200_000  # points
_FINE = 0.002  # mm, chord error of flattened curves: their heading is what counts
_TOUCH = 0.05  # mm between ends that belong together


def read_curve(path: Path) -> Array:
    """The longest connected line of a drawing.

    Args:
        path: .svg or .dxf.

    Returns:
        Points, (n, 2) mm, y upwards.

    Raises:
        PieceFileError: saying what is wrong and where.
    """
    reader = {".svg": _svg, ".dxf": _dxf}.get(path.suffix.lower())
    if reader is None:
        raise _fault(path, "is neither .svg nor .dxf")
    try:
        with path.open("rb") as file:
            content = file.read(_LARGEST + 1)
    except OSError as error:
        raise _fault(path, error.strerror or str(error)) from error
    if len(content) > _LARGEST:
        raise _fault(path, "is far larger than a drawing of one curve")
    lines = _guarded(path, reader, content)
    chain = _longest(_chained([line for line in lines if len(line) > 1]))
    if chain is None:
        raise _fault(path, "holds no line to follow: draw the centreline as a path, polyline, arc or spline")
    if len(chain) > _MOST or not np.isfinite(chain).all():
        raise _fault(path, "holds a line with far too many points, or points that are no numbers")
    if np.hypot(*np.diff(chain, axis=0).T).sum() < 1.0:
        raise _fault(path, "holds a line of less than 1 mm: check the drawing's unit")
    return chain


def _fault(path: Path, message: str) -> PieceFileError:
    return PieceFileError(str(path), (FileProblem("$", message),))


def _guarded(path: Path, reader: Callable[[bytes], list[Array]], content: bytes) -> list[Array]:
    """Whatever a library throws at a damaged file becomes one clear error."""
    try:
        return reader(content)
    except PieceFileError:
        raise
    except Exception as error:
        raise _fault(path, f"can't be read: {str(error).splitlines()[0][:200] if str(error) else type(error).__name__}") from error


def _svg(content: bytes) -> list[Array]:
    import svgelements  # loaded when a drawing is opened

    if b"<!ENTITY" in content:
        raise ValueError("it defines entities, which a drawing has no need of")
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


def _chained(lines: list[Array]) -> list[Array]:
    """Lines whose ends touch, joined; each is used once."""
    rest, chains = list(lines), []
    while rest:
        chain = rest.pop(0)
        joined = True
        while joined and len(rest) < 5000:
            joined = False
            for i, line in enumerate(rest):
                grown = _joined(chain, line)
                if grown is not None:
                    chain, joined = grown, True
                    rest.pop(i)
                    break
        chains.append(chain)
    return chains


def _joined(a: Array, b: Array) -> Array | None:
    for first, second in ((a, b), (a, b[::-1]), (b, a), (b[::-1], a)):
        if np.hypot(*(first[-1] - second[0])) <= _TOUCH:
            return np.vstack((first, second[1:]))
    return None


def _longest(chains: list[Array]) -> Array | None:
    return max(chains, key=lambda c: float(np.hypot(*np.diff(c, axis=0).T).sum()), default=None)
