"""Attack what must not be lost, for long, and print what came of it: `./ember attack [many]` (default 1; 10 takes ten times as long)."""

from __future__ import annotations

import os
import sys
import tempfile
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path

sys.path.insert(0, str(Path(__file__).resolve().parent.parent))

from tests import attackers  # found by the line above


def main(many: int) -> int:
    """Run every attack; returns how many faults were found."""
    attacks: list[tuple[Callable[..., attackers.Outcome], bool, int]] = [
        (attackers.kills, True, 200), (attackers.injections, True, 0), (attackers.window_kills, True, 40), (attackers.damage, True, 400), (attackers.hostile_files, True, 6000),
        (attackers.extremes, False, 20_000), (attackers.everyday_sizes, False, 600), (attackers.entries, False, 200_000), (attackers.commands, True, 0), (attackers.soak, True, 3000),
    ]  # fmt: skip
    print(f"{'attack':34} {'tries':>7}   {'bad':>4}   what came of it")
    faults: list[str] = []
    for attack, on_disk, number in attacks:
        began = time.monotonic()
        with tempfile.TemporaryDirectory() as folder:
            os.environ["XDG_CONFIG_HOME"] = os.environ["XDG_DATA_HOME"] = folder
            run = partial(attack, Path(folder)) if on_disk else attack
            found = run(number * many) if number else run()
        print(f"{found}  ({time.monotonic() - began:.0f} s)", flush=True)
        faults += [f"{found.name}: {fault}" for fault in found.faults]
    print("\n".join(faults[:60]))
    return len(faults)


if __name__ == "__main__":
    sys.exit(min(main(int(sys.argv[1]) if len(sys.argv) > 1 else 1), 100))
