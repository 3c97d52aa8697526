"""Count lines that are neither blank nor comment: code, tests, and their ratio; name the longest files."""

from __future__ import annotations

import statistics
import subprocess
import sys
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
LONGEST = 800


def tracked(pattern: str) -> list[Path]:
    """Python files that git knows, or would add."""
    command = ["git", "ls-files", "--cached", "--others", "--exclude-standard", pattern]
    names = subprocess.run(command, cwd=ROOT, capture_output=True, text=True, check=True).stdout.split()
    return [ROOT / name for name in names if (ROOT / name).exists()]


def lines(path: Path) -> int:
    """Lines with something on them other than a comment."""
    text = path.read_text(encoding="utf-8").splitlines()
    return sum(bool(line.strip()) and not line.strip().startswith("#") for line in text)


def main() -> int:
    """Print the counts; 1 when a file is too long or the tests are out of proportion."""
    code = {p: lines(p) for p in tracked("src/*.py")}
    tests = {p: lines(p) for p in tracked("tests/*.py")}
    share = 100 * sum(tests.values()) / max(1, sum(code.values()))
    print(f"code {sum(code.values())} lines in {len(code)} files, median {statistics.median(code.values()):.0f}")
    print(f"tests {sum(tests.values())} lines in {len(tests)} files, {share:.0f} % of the code (aim 25 to 33)")
    for path, count in sorted({**code, **tests}.items(), key=lambda item: -item[1])[:5]:
        print(f"  {count:5d} {path.relative_to(ROOT)}")
    too_long = max({**code, **tests}.values()) > LONGEST
    return int(too_long or not 25 <= share <= 33.5)


if __name__ == "__main__":
    sys.exit(main())
