"""Pieces of the boathouse at Merrow Landing, all invented, shipped as piece files."""

from __future__ import annotations

from importlib import resources
from pathlib import Path

__all__ = ["demo_files"]

_NAMES = (
    "lantern-bracket", "mooring-staple", "door-pull", "mooring-ring", "oar-cradle", "boat-hook-head", "gate-pintle", "caulking-iron",
)  # fmt: skip


def demo_files() -> tuple[Path, ...]:
    """Paths of the demo pieces, the lantern bracket first."""
    folder = Path(str(resources.files("long_ember") / "demo"))
    return tuple(folder / f"{name}.json" for name in _NAMES)
